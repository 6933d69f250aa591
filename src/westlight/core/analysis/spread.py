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
#: Depth of a wall that rays agree on, in metres, and how many must.
WALL_M, LEAST_RAYS = 0.08, 12
#: Share of the rays of the strongest plane from which another one counts.
AGREED = 0.4
#: The same for the floor, most of which a table may hide from the lamp above it.
UNDER_TABLES = 0.1


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
    def middle(self) -> tuple[float, float]:
        """Middle along x and y in metres."""
        return (self.low[0] + self.high[0]) / 2, (self.low[1] + self.high[1]) / 2

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


def room_around(top: EmbreeScene, at: Sequence[float] | Array) -> Room:
    """The room of a lamp at a place: floor and walls are where many rays of a fan agree to end.

    What stands in the room and doors that are open stop or pass some of the rays; of several
    planes that many agree on it is the farthest. Raises `WestlightError` outdoors.
    """
    p = np.asarray(at, float)

    def plane(turns: Array, rises: Array, axis: Array, agreed: float = AGREED) -> float:
        turn, rise = (v.ravel() for v in np.meshgrid(np.radians(turns), np.radians(rises)))
        ways = np.stack(
            [np.cos(turn) * np.cos(rise), np.sin(turn) * np.cos(rise), np.sin(rise)], axis=1
        )
        along = top.distances(np.broadcast_to(eye, ways.shape), ways) * (ways @ axis)
        along = along[along < LARGEST_M]
        counts = np.bincount(np.round(along / WALL_M).astype(int), minlength=1)
        if not len(along) or counts.max() < LEAST_RAYS:
            raise WestlightError(
                "No room is found around this lamp: a floor below it and walls on four sides."
            )
        far = int(np.nonzero(counts >= max(agreed * counts.max(), LEAST_RAYS))[0][-1])
        return float(np.median(along[np.abs(along - far * WALL_M) <= WALL_M]))

    eye, down = p, np.array([0.0, 0.0, -1.0])
    drop = plane(np.linspace(0, 350, 24), np.linspace(-80, -25, 12), down, UNDER_TABLES)
    eye = p + down * 0.4 * drop
    turns, rises = np.linspace(-50, 50, 21), np.linspace(-25, 45, 11)
    east, north, west, south = (
        plane(turns + a, rises, np.array([np.cos(np.radians(a)), np.sin(np.radians(a)), 0.0]))
        for a in (0, 90, 180, 270)
    )
    x, y = float(p[0]), float(p[1])
    return Room((x - west, y - south), (x + east, y + north), float(p[2] - drop))


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
