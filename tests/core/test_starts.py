"""Suns to begin with, in a room that can be drawn on paper: one window to the south, seen from the north and the south."""

from __future__ import annotations

import numpy as np
import pytest

from westlight import core
from westlight.core.analysis import PatternMap, pattern_map, starting_suns, sun_grid
from westlight.core.analysis.starts import APART_DEG, LOWEST_DEG

from .test_pattern import room


def seen(position: tuple[float, float, float], target: tuple[float, float, float]) -> PatternMap:
    """The map of a view of the room."""
    view = core.View(position, target, 18, 96, 54)
    return pattern_map(room(), view, sun_grid(6.0))


def everywhere(found: PatternMap) -> np.ndarray:
    """Every position may be chosen."""
    return np.ones(len(found.share), bool)


def test_new_scores_are_those_of_the_drawing() -> None:
    """Looking south, the sun through the south window stands ahead; looking north, in the back."""
    south, north = (seen((0, y, 1.6), (0, 4 - y, 1.2)) for y in (3.8, 0.2))
    through = np.flatnonzero((np.abs(south.azimuth_deg - 180) < 20) & (south.share > 0))
    assert len(through)
    assert (south.ahead[through] > 0.9).all()
    assert (north.ahead[through] < -0.9).all()
    # Nothing comes in from the north: no wall there has a window.
    away = np.abs(south.azimuth_deg - 180) > 95
    assert south.share[away].max() == 0
    assert south.middle[away].max() == 0
    assert south.raking[away].max() == 0
    assert ((south.raking >= 0) & (south.raking <= 1)).all()


def test_high_sun_meets_the_floor_squarely_and_low_sun_flatly() -> None:
    scene = core.Scene()
    scene.add_mesh([[-99, -99, 0], [99, -99, 0], [99, 99, 0], [-99, 99, 0]], [[0, 1, 2], [0, 2, 3]],
                   core.Material(0.5))  # fmt: skip
    view = core.View((0, 0, 10), (0, 0.01, 0), 28, 64, 64)
    m = pattern_map(scene.assembled(), view, np.array([[90.0, 10.0], [90.0, 80.0]]))
    assert m.raking == pytest.approx(1 - np.sin(np.radians([10.0, 80.0])), abs=1e-3)
    assert m.middle.tolist() == [1.0, 1.0]


def test_each_character_is_the_best_of_its_kind_and_apart_from_the_others() -> None:
    found = seen((0, 3.8, 2.6), (0, 1.0, 0.4))
    chosen = starting_suns(found, everywhere(found))
    assert set(chosen) == {"patch", "raking", "backlight"}
    assert found.ahead[chosen["backlight"]] > 0.5
    assert found.middle[chosen["patch"]] > 0
    a, e = np.radians(found.azimuth_deg), np.radians(found.elevation_deg)
    towards = np.stack([np.sin(a) * np.cos(e), np.cos(a) * np.cos(e), np.sin(e)], axis=1)
    rows = towards[list(chosen.values())]
    between = np.degrees(np.arccos(np.clip(rows @ rows.T, -1, 1)))[~np.eye(3, dtype=bool)]
    assert between.min() >= APART_DEG - 1e-6
    for i in chosen.values():
        assert found.share[i] > 0
        assert found.elevation_deg[i] >= LOWEST_DEG


def test_only_what_is_possible_is_chosen_and_nothing_where_no_sun_comes_in() -> None:
    found = seen((0, 0.2, 1.6), (0, 3.8, 1.2))
    # With the window in its back no sun stands before the camera.
    assert "backlight" not in starting_suns(found, everywhere(found))
    west = found.azimuth_deg > 180
    assert all(west[i] for i in starting_suns(found, west).values())
    assert starting_suns(found, np.abs(found.azimuth_deg - 180) > 95) == {}
    assert starting_suns(found, ~everywhere(found)) == {}
