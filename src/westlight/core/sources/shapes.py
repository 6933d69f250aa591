"""Shapes a fixture can have: one entry each, which drives settings, new fixtures, documents, exchange and the page's fields.

A shape needs besides its entry here its emitter (`lamps.py`), made from settings in `engine/translate.py`, and its way of being
sampled (`transport/kernels/emitters.py`, packed in `transport/assemble.py`).
"""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any


@dataclass(frozen=True)
class Quantity:
    """A number of a fixture: the field it is kept in, its name, range, step, unit ("m", "°" or "share") and usual value."""

    key: str
    label: str
    low: float
    high: float
    step: float
    normal: float
    unit: str
    #: Equal ways on a slider are equal ratios.
    logarithmic: bool = False
    #: What 0 is called, where it is not a number like others.
    none: str = ""


@dataclass(frozen=True)
class Shape:
    """What all that deals with fixtures must know of a shape.

    ``gap_m`` is how far from a surface a new one is put; ``usual`` holds settings that fit it better than the defaults.
    """

    label: str
    gap_m: float
    quantities: tuple[Quantity, ...]
    usual: dict[str, Any] = field(default_factory=dict)
    #: Shines to one side only; alike to all sides around its middle or axis; is flat; is aimed at something.
    one_sided: bool = False
    even: bool = False
    flat: bool = False
    aimed: bool = False
    #: Its light is spread as a photometric file says: it is chosen by its file, not by its shape.
    from_file: bool = False

    @property
    def sizes(self) -> tuple[str, ...]:
        """Fields of its size in metres, as open formats order them."""
        return tuple(q.key for q in self.quantities if q.unit == "m")


def _size(key: str, label: str, high: float = 6.0, normal: float = 0.6) -> Quantity:
    return Quantity(key, label, 0.01, high, 0.01, normal, "m", logarithmic=True)


def _angle(key: str, label: str, normal: float) -> Quantity:
    return Quantity(key, label, 4.0, 160.0, 1.0, normal, "°")


_RADIUS = _size("radius", "Radius", 2.0, 0.1)
_NARROWING = Quantity("narrowing", "Narrowing", 0.0, 0.95, 0.01, 0.0, "share", none="even")

SHAPES: dict[str, Shape] = {
    "rectangle": Shape(
        "Rectangle", 0.03, (_size("width", "Width"), _size("height", "Depth"), _NARROWING),
        one_sided=True, flat=True,
    ),
    "disc": Shape("Disc", 0.03, (_RADIUS, _NARROWING), one_sided=True, flat=True),
    "sphere": Shape("Sphere", 0.13, (_RADIUS,), even=True),
    "tube": Shape(
        "Tube", 0.05, (_size("length", "Length"), _RADIUS),
        {"radius": 0.013, "lumen": 1800.0, "kelvin": 4000.0}, even=True,
    ),
    "spot": Shape(
        "Spot", 0.08,
        (_size("radius", "Lens", 2.0, 0.1), _angle("beam_deg", "Beam", 24.0),
         _angle("field_deg", "Field", 48.0)),
        {"radius": 0.03, "lumen": 900.0}, one_sided=True, aimed=True,
    ),
    "photometric": Shape(
        "Luminaire", 0.08, (_RADIUS,), {"radius": 0.03}, aimed=True, from_file=True
    ),
}  # fmt: skip
