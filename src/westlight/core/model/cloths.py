"""Usual sheets that light comes through: cloth, paper, opal plastic, leaves.

Shares are of the light that falls on a white sheet: openness of the weave, then what is scattered through and sent
back. They are typical values chosen here, not measured ones: where a maker tells the shares of a cloth, those go in. A dyed one keeps
its colour: what it does not swallow is parted in the same ratio.
"""

from __future__ import annotations

from typing import NamedTuple

from .material import Material


class Cloth(NamedTuple):
    """A usual sheet: ``openness`` of its weave, and of what falls on its threads the shares ``scattered``
    through and sent ``back`` (0…1); whether it ``hangs`` before windows."""

    label: str
    openness: float
    scattered: float
    back: float
    hangs: bool = False

    @property
    def translucency(self) -> float:
        """Share scattered through, of all that is not lost."""
        return 0.0 if self.scattered == 0 else self.scattered / (self.scattered + self.back)

    @property
    def reflectance(self) -> float:
        """Share that is not lost: what a material keeps, to be parted by its translucency."""
        return self.scattered + self.back


#: What is nearer than this is the same: fields show whole per cents.
_LIKE = 0.005
CLOTHS: dict[str, Cloth] = {
    "sheer": Cloth("Sheer curtain", 0.30, 0.42, 0.40, hangs=True),
    "curtain": Cloth("Curtain, unlined", 0.02, 0.22, 0.55, hangs=True),
    "lined": Cloth("Curtain, lined", 0.0, 0.05, 0.60, hangs=True),
    "screen": Cloth("Blind, screen cloth", 0.05, 0.12, 0.55, hangs=True),
    "blind": Cloth("Blind, light cloth", 0.0, 0.25, 0.60, hangs=True),
    "blackout": Cloth("Blind, blackout", 0.0, 0.0, 0.70, hangs=True),
    "shade": Cloth("Lamp shade, cloth", 0.0, 0.38, 0.48),
    "paper": Cloth("Lamp shade, paper", 0.0, 0.45, 0.45),
    "diffuser": Cloth("Diffuser, opal", 0.0, 0.55, 0.35),
    "leaf": Cloth("Leaf", 0.0, 0.09, 0.10),
}


def kind_of(material: Material) -> str | None:
    """Which usual sheet a material is, by its translucency and openness; None for none, and for what lets no light through.

    >>> kind_of(Material(0.5, translucency=0.5)), kind_of(Material(0.5))
    ('paper', None)
    """
    if material.translucency == material.openness == 0:
        return None
    for name, c in CLOTHS.items():
        if (
            abs(c.translucency - material.translucency) < _LIKE
            and abs(c.openness - material.openness) < _LIKE
        ):
            return name
    return None


def sent_back(material: Material, reflectance: float) -> float:
    """Share of the light falling on a sheet that it sends back, 0…1, of its mean ``reflectance``.

    >>> round(sent_back(Material(0.8, translucency=0.25, openness=0.5), 0.8), 3)
    0.3
    """
    return (1 - material.openness) * (1 - material.translucency) * reflectance
