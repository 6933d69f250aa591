"""Readings at a spot of a picture: how bright, and which source makes it so."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from ..colour import AP1_LUMINANCE, nearest_kelvin
from ..finish.meter import stops_from_middle_grey

F4 = npt.NDArray[np.float32]
Array = npt.NDArray[np.float64]
#: Side of the metered spot as a share of the picture's width.
SPOT = 1 / 80


@dataclass(frozen=True)
class Reading:
    """Luminance in cd/m² of a spot, its log2 (readings differ by stops), stops from middle grey at
    an exposure, working-space RGB, and the share of each source (they add up to 1)."""

    luminance: float
    log2_luminance: float
    stops: float
    rgb: tuple[float, float, float]
    shares: dict[str, float]
    #: Nearest black-body or daylight colour of the spot's light; None where there is none.
    kelvin: float | None = None


def read_spot(
    contributions: Mapping[str, tuple[F4, Array]], x: float, y: float, ev100: float
) -> Reading:
    """Reading at (x, y), 0…1 from top left, of pictures (h, w, 3) with their RGB gains.

    >>> white = np.full((40, 80, 3), 2.0, np.float32)
    >>> r = read_spot({"a": (white, np.ones(3)), "b": (white, np.full(3, 3.0))}, 0.5, 0.5, 0.0)
    >>> round(r.luminance, 3), round(r.shares["b"], 3)
    (8.0, 0.75)
    """
    parts: dict[str, Array] = {}
    for name, (picture, gain) in contributions.items():
        h, w = picture.shape[:2]
        r = max(1, round(w * SPOT / 2))
        row, column = min(int(y * h), h - 1), min(int(x * w), w - 1)
        spot = picture[max(row - r, 0) : row + r + 1, max(column - r, 0) : column + r + 1]
        parts[name] = spot.mean(axis=(0, 1)).astype(np.float64) * gain
    total = sum(parts.values(), np.zeros(3))
    luminance = float(total @ AP1_LUMINANCE)
    whole = max(luminance, 1e-12)
    return Reading(
        luminance, math.log2(whole), stops_from_middle_grey(luminance, ev100),
        (float(total[0]), float(total[1]), float(total[2])),
        {name: float(p @ AP1_LUMINANCE) / whole for name, p in parts.items()},
        round(nearest_kelvin(total)) if luminance > 1e-9 else None,
    )  # fmt: skip
