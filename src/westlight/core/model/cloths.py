"""Usual sheets that light comes through: cloth, paper, opal plastic, leaves.

Shares are of the light that falls on a white sheet, rounded from the range that makers of blinds and shades
publish for their classes: openness of the weave, then what is scattered through and sent back. A dyed one keeps its
colour: what it does not swallow is parted in the same ratio.
"""

from __future__ import annotations

from typing import NamedTuple


class Cloth(NamedTuple):
    """A usual sheet: ``openness`` of its weave, and of what falls on its threads the shares ``scattered``
    through and sent ``back`` (0…1)."""

    label: str
    openness: float
    scattered: float
    back: float

    @property
    def translucency(self) -> float:
        """Share scattered through, of all that is not lost."""
        return 0.0 if self.scattered == 0 else self.scattered / (self.scattered + self.back)

    @property
    def reflectance(self) -> float:
        """Share that is not lost: what a material keeps, to be parted by its translucency."""
        return self.scattered + self.back


CLOTHS: dict[str, Cloth] = {
    "sheer": Cloth("Sheer curtain", 0.30, 0.42, 0.40),
    "curtain": Cloth("Curtain, unlined", 0.02, 0.22, 0.55),
    "lined": Cloth("Curtain, lined", 0.0, 0.05, 0.60),
    "screen": Cloth("Blind, screen cloth", 0.05, 0.12, 0.55),
    "blind": Cloth("Blind, light cloth", 0.0, 0.25, 0.60),
    "blackout": Cloth("Blind, blackout", 0.0, 0.0, 0.70),
    "shade": Cloth("Lamp shade, cloth", 0.0, 0.38, 0.48),
    "paper": Cloth("Lamp shade, paper", 0.0, 0.45, 0.45),
    "diffuser": Cloth("Diffuser, opal", 0.0, 0.55, 0.35),
    "leaf": Cloth("Leaf", 0.0, 0.09, 0.10),
}
