"""Illuminance over a plane of a room: a grid of places, what sums it up, and lines of equal light."""

from __future__ import annotations

import math
from dataclasses import dataclass

import contourpy
import numpy as np
import numpy.typing as npt

from .spread import Room

Array = npt.NDArray[np.float64]
#: Distance of the places in metres as far as there are few enough, and how many there are on a side.
SPACING_M, LEAST, MOST = 0.5, 4, 24
#: Values that lines are drawn at, in lux and in per cent of the light outside.
LUX = (
    10.0,
    20.0,
    50.0,
    100.0,
    200.0,
    300.0,
    500.0,
    750.0,
    1000.0,
    2000.0,
    5000.0,
    10_000.0,
    20_000.0,
)
PER_CENT = (0.2, 0.5, 1.0, 2.0, 3.0, 5.0, 10.0, 20.0)


@dataclass(frozen=True)
class LightPlan:
    """Values (rows, columns) over a room, the first row southernmost; not a number where no light can come.

    ``average``, ``least`` and ``most`` are of the rest; ``uniformity`` is the least over the average (EN 12464-1, U0), 0 for a
    dark room. ``lines`` are a value and the points of a line of it, in metres.
    """

    values: Array
    average: float
    least: float
    most: float
    uniformity: float
    lines: tuple[tuple[float, Array], ...]


def grid_of(room: Room) -> tuple[int, int]:
    """Columns and rows of places over a room.

    >>> grid_of(Room((0, 0), (6, 3), 0.0))
    (12, 6)
    """
    columns, rows = (int(np.clip(round(side / SPACING_M), LEAST, MOST)) for side in room.size)
    return columns, rows


def light_plan(room: Room, values: npt.ArrayLike, levels: tuple[float, ...] = LUX) -> LightPlan:
    """Sum up what was found at the places of `grid_of`, in the order of `Room.grid`.

    A place without any light among others that have some lies inside something: it does not count. Raises ``ValueError``
    if there are not as many values as places.
    """
    columns, rows = grid_of(room)
    found = np.asarray(values, float)
    if found.size != columns * rows:
        raise ValueError("Every place of the grid needs a value.")
    found = found.reshape(rows, columns).copy()
    top = float(found.max(initial=0.0))
    if top > 0:
        found[found <= 1e-6 * top] = math.nan
    seen = found[np.isfinite(found)]
    average = float(seen.mean()) if len(seen) else 0.0
    least, most = (float(seen.min()), float(seen.max())) if len(seen) else (0.0, 0.0)
    return LightPlan(
        found, average, least, most, least / average if average > 0 else 0.0,
        tuple(_lines(room, found, [v for v in levels if least < v < most])),
    )  # fmt: skip


def _lines(room: Room, values: Array, levels: list[float]) -> list[tuple[float, Array]]:
    if not levels:
        return []
    rows, columns = values.shape
    places = np.array(room.grid(columns, rows, 0.0)).reshape(rows, columns, 3)
    drawn = contourpy.contour_generator(
        places[..., 0], places[..., 1], np.ma.masked_invalid(values), name="serial",
        line_type=contourpy.LineType.Separate,
    )  # fmt: skip
    return [(level, np.asarray(line)) for level in levels for line in drawn.lines(level)]
