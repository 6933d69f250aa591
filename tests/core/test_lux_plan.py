"""Illuminance over a room: what sums it up, and lines of equal light."""

from __future__ import annotations

import math

import numpy as np
import pytest

from westlight.core.analysis.lux_plan import LUX, MOST, grid_of, light_plan
from westlight.core.analysis.spread import Room

ROOM = Room((1.0, 2.0), (5.0, 5.0), 0.0)


def test_a_slope_has_straight_lines_where_its_values_are() -> None:
    """Light that grows by 100 lx a metre from the west: each line runs north at its own metre."""
    columns, rows = grid_of(ROOM)
    places = np.array(ROOM.grid(columns, rows, 0.0))
    plan = light_plan(ROOM, 100.0 * places[:, 0])
    assert (columns, rows) == (8, 6)
    assert plan.average == pytest.approx(300.0)
    assert (plan.least, plan.most) == pytest.approx((125.0, 475.0))
    assert plan.uniformity == pytest.approx(125 / 300)
    assert [value for value, _ in plan.lines] == [200.0, 300.0]
    for value, line in plan.lines:
        assert line[:, 0] == pytest.approx(value / 100)
        assert np.ptp(line[:, 1]) == pytest.approx(2.5)


def test_rings_close_around_a_lamp() -> None:
    """The line around a lamp in the middle lies where the inverse square has its value."""
    columns, rows = grid_of(ROOM)
    x, y, _ = np.array(ROOM.grid(columns, rows, 0.0)).T
    away = (x - 3.0) ** 2 + (y - 3.5) ** 2 + 1.0
    plan = light_plan(ROOM, 1000.0 / away, (500.0,))
    ((_, line),) = plan.lines
    assert np.hypot(line[:, 0] - 3, line[:, 1] - 3.5) == pytest.approx(1.0, abs=0.09)
    assert line[0] == pytest.approx(line[-1])


def test_what_is_inside_something_does_not_count() -> None:
    """A dark cell among lit ones is left out of all sums; a room without light is dark, not undefined."""
    columns, rows = grid_of(ROOM)
    values = np.full(columns * rows, 200.0)
    values[10] = 0.0
    plan = light_plan(ROOM, values)
    assert math.isnan(plan.values.ravel()[10])
    assert plan.uniformity == 1.0
    dark = light_plan(ROOM, np.zeros(columns * rows))
    assert (dark.average, dark.uniformity, dark.lines) == (0.0, 0.0, ())
    with pytest.raises(ValueError, match="place"):
        light_plan(ROOM, [1.0, 2.0])


def test_large_rooms_have_no_more_places_than_are_traced_soon() -> None:
    assert grid_of(Room((0, 0), (80, 1), 0.0)) == (MOST, 4)
    assert list(LUX) == sorted(LUX)
