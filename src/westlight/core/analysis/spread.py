"""Lamps spread evenly over a room: how many for a wanted illuminance, and where they go.

The lumen method (CIBSE, IES Lighting Handbook): n = E·A / (Φ·UF), with E the average illuminance in
lux on the working plane, A its area in m², Φ the lumen of one lamp and UF the utilisation factor,
the share of that light that reaches the plane.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from ..errors import WestlightError
from ..transport.embree import EmbreeScene

Array = npt.NDArray[np.float64]
#: Height of the working plane over the floor, and utilisation before it is known, in metres.
PLANE_M, USUAL_UTILISATION = 0.75, 0.5
#: A side of a room that no ray meets a wall within, in metres, is none.
LARGEST_M = 60.0


@dataclass(frozen=True)
class Room:
    """The clear rectangle around a place, along x and y, and its floor, in metres."""

    low: tuple[float, float]
    high: tuple[float, float]
    floor: float

    @property
    def size(self) -> tuple[float, float]:
        """Width along x and depth along y in metres."""
        return self.high[0] - self.low[0], self.high[1] - self.low[1]

    @property
    def area_m2(self) -> float:
        """Area of the floor in m²."""
        return self.size[0] * self.size[1]

    def grid(self, columns: int, rows: int, height: float) -> list[tuple[float, float, float]]:
        """Places in columns along x and rows along y at a height, half a spacing from the walls.

        >>> Room((0, 0), (4, 2), 0.0).grid(2, 1, 3.0)
        [(1.0, 1.0, 3.0), (3.0, 1.0, 3.0)]
        """
        (x, y), (w, d) = self.low, self.size
        return [
            (x + w * (i + 0.5) / columns, y + d * (j + 0.5) / rows, height)
            for j in range(rows) for i in range(columns)
        ]  # fmt: skip


def room_around(top: EmbreeScene, at: Sequence[float]) -> Room:
    """The room of a lamp at a place: walls by rays at several heights, the farthest on each side.

    What stands in the room stops some of the rays, hardly all. Raises `WestlightError` outdoors.
    """
    p = np.asarray(at, float)
    drop = float(top.distances(p[None], np.array([[0.0, 0.0, -1.0]]))[0])
    ways = np.array([[1.0, 0, 0], [-1.0, 0, 0], [0, 1.0, 0], [0, -1.0, 0]])
    heights = p[2] - np.array([0.05, 0.15, 0.3, 0.45, 0.6]) * (drop if np.isfinite(drop) else 0)
    reach = np.array([
        top.distances(np.tile([p[0], p[1], z], (4, 1)), ways) for z in heights
    ]).max(axis=0)  # fmt: skip
    if not np.isfinite(drop) or not (reach < LARGEST_M).all():
        raise WestlightError(
            "No room is found around this lamp: a floor below it and walls on four sides."
        )
    return Room((float(p[0] - reach[1]), float(p[1] - reach[3])),
                (float(p[0] + reach[0]), float(p[1] + reach[2])), float(p[2] - drop))  # fmt: skip


def count_for(lux: float, area_m2: float, lumen: float, utilisation: float) -> int:
    """Lamps for an average illuminance by the lumen method, rounded up.

    Raises `WestlightError` unless all are above zero.

    >>> count_for(300.0, 48.0, 3600.0, 0.5)
    8
    """
    if min(lux, area_m2, lumen, utilisation) <= 0:
        raise WestlightError("Lux, area, lumen and utilisation must be above zero.")
    return int(np.ceil(lux * area_m2 / (lumen * utilisation) - 1e-9))


def columns_and_rows(width: float, depth: float, count: int) -> tuple[int, int]:
    """Columns and rows that hold at least ``count`` lamps with spacings as equal as can be.

    Raises `WestlightError` for a room without size or no lamp.

    >>> columns_and_rows(8, 6, 12)
    (4, 3)
    """
    if min(width, depth) <= 0 or count < 1:
        raise WestlightError("The room must have a size, and there must be at least one fixture.")
    columns = max(1, round((count * width / depth) ** 0.5))
    return columns, -(-count // columns)
