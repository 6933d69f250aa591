"""Pattern maps and aiming the sun, on scenes whose answer can be drawn on paper."""

from __future__ import annotations

from zoneinfo import ZoneInfo

import numpy as np
import pytest

from westlight import core
from westlight.core.analysis import (
    Brushed,
    Screen,
    aim,
    nearest,
    opening_under,
    pattern_map,
    spells,
    sun_grid,
    sun_on,
)
from westlight.core.analysis.as_shown import brushed, shown_with
from westlight.core.sun import direction, sun_position
from westlight.core.transport.assemble import Assembled
from westlight.core.transport.portals import Portal
from westlight.core.transport.render import first_surfaces


def box(scene: core.Scene, low: tuple[float, ...], high: tuple[float, ...]) -> None:
    """A solid box."""
    x, y, z = ((a, b) for a, b in zip(low, high, strict=True))
    corners = [[i, j, k] for k in z for j in y for i in x]
    faces = [[0, 2, 3], [0, 3, 1], [4, 5, 7], [4, 7, 6], [0, 1, 5], [0, 5, 4], [2, 6, 7], [2, 7, 3],
             [0, 4, 6], [0, 6, 2], [1, 3, 7], [1, 7, 5]]  # fmt: skip
    scene.add_mesh(corners, faces, core.Material(0.5))


WINDOW = Portal((0.0, 0.0, 1.5), (0.0, 1.0, 0.0), 1.0, 1.0, name="South window")


def room(without_west: bool = False, closed: bool = False) -> Assembled:
    """A room 4 × 4 × 3 m; its south wall (y = 0) has a window x −0.5…0.5, z 1…2."""
    scene = core.Scene()
    if closed:
        scene.portals, scene.closed = [WINDOW], True
    box(scene, (-2, 0, -0.1), (2, 4, 0))
    box(scene, (-2, 0, 3), (2, 4, 3.1))
    if not without_west:
        box(scene, (-2.1, 0, 0), (-2, 4, 3))
    box(scene, (2, 0, 0), (2.1, 4, 3))
    box(scene, (-2, 4, 0), (2, 4.1, 3))
    for low, high in (((-2, 0), (-0.5, 3)), ((0.5, 0), (2, 3)), ((-0.5, 0), (0.5, 1)),
                      ((-0.5, 2), (0.5, 3))):  # fmt: skip
        box(scene, (low[0], -0.02, low[1]), (high[0], 0, high[1]))
    return scene.assembled()


def test_grid_covers_the_sky_evenly() -> None:
    """Each position stands for about the same solid angle; none is at or below the horizon."""
    grid = sun_grid(5.0)
    assert grid[:, 1].min() > 0
    up = np.sin(np.radians(grid[:, 1]))
    # Of directions spread evenly over a half sphere the mean height is one half.
    assert up.mean() == pytest.approx(0.5, abs=0.02)


def test_open_ground_is_all_in_sun() -> None:
    scene = core.Scene()
    scene.add_mesh([[-99, -99, 0], [99, -99, 0], [99, 99, 0], [-99, 99, 0]], [[0, 1, 2], [0, 2, 3]],
                   core.Material(0.5))  # fmt: skip
    view = core.View((0, 0, 10), (0, 0.01, 0), 28, 64, 64)
    m = pattern_map(scene.assembled(), view, np.array([[90.0, 10.0], [200.0, 45.0]]))
    assert m.share.tolist() == [1.0, 1.0]
    assert m.pattern.max() == 0
    assert m.contrast.max() < 1e-6
    assert m.shadows[1] == pytest.approx(1.0)


def test_sun_behind_a_wall_and_the_north_of_the_model() -> None:
    """South sun enters by the south window, north sun does not; a turned model turns the map."""
    view = core.View((0, 3.5, 1.6), (0, 0.5, 0.0), 18, 96, 64)
    positions = np.array([[180.0, 35.0], [0.0, 35.0], [180.0, 80.0]])
    m = pattern_map(room(), view, positions)
    assert m.share[0] > 0.02
    assert m.share[1] == 0
    assert m.share[2] < m.share[0]
    assert m.pattern[0] > 0
    turned = pattern_map(room(), view, positions + np.array([[90.0, 0.0]]), north_deg=90.0)
    assert np.allclose(turned.share, m.share)


def test_picked_faces_are_told_apart() -> None:
    """Two faces of a block: the sun along their corner's bisector lights both the same."""
    scene = core.Scene()
    box(scene, (-1, -1, 0), (1, 1, 2))
    view = core.View((6, -6, 1), (0, 0, 1), 50, 96, 96)
    at = [(0.35, 0.5), (0.65, 0.5)]
    positions = np.array([[135.0, 20.0], [175.0, 20.0], [95.0, 20.0]])
    m = pattern_map(scene.assembled(), view, positions, picked=at)
    assert m.faces[0] < 0.02
    assert m.faces[1] > 0.6
    assert m.faces[2] > 0.6
    assert m.spot[1] > m.spot[2]


def test_aim_through_a_window() -> None:
    """From a patch on the floor the window subtends directions that follow from the drawing."""
    found = aim(room(), (0.0, 2.0, 0.0), (0, 0, 1), WINDOW)
    elevation = found.open[:, 1]
    assert elevation.min() == pytest.approx(np.degrees(np.arctan2(1.0, np.hypot(2, 0.5))), abs=1.5)
    assert elevation.max() == pytest.approx(45.0, abs=1.5)
    off = (found.open[:, 0] - 180 + 180) % 360 - 180
    assert np.abs(off).max() == pytest.approx(np.degrees(np.arctan2(0.5, 2.0)), abs=1.0)
    assert len(found.blocked) == 0
    anyhow = aim(room(), (0.0, 2.0, 0.0), (0, 0, 1))
    assert len(anyhow.blocked) > 10 * len(anyhow.open) > 0
    for a, e in anyhow.open:
        assert 20 < e < 50
        assert abs(a - 180) < 20
    behind = aim(room(), (0.0, 2.0, 3.0), (0, 0, -1), WINDOW)
    assert len(behind.open) == 0


def test_spells_are_when_the_sun_is_there() -> None:
    """Each best moment really has the sun in the region; a northern window never has the sun."""
    zone = ZoneInfo("Europe/Madrid")
    found = aim(room(), (0.0, 2.0, 0.0), (0, 0, 1), WINDOW)
    times = spells(found, 43.6, -9.1, 2026, zone)
    assert len(times) > 100
    # Low enough only in the darker half of the year.
    assert all(s.day.month in (1, 2, 3, 9, 10, 11, 12) for s in times)
    for s in times[::20]:
        p = sun_position(s.best, 43.6, -9.1)
        d = direction(p.azimuth_deg, p.apparent_elevation_deg)
        apart = min(np.degrees(np.arccos(min(1.0, d @ direction(a, e)))) for a, e in found.open)
        assert apart < 2.0
        assert s.begins <= s.best <= s.ends
        assert s.best.utcoffset() == zone.utcoffset(s.best.replace(tzinfo=None))
    assert nearest(found, 43.6, -9.1, 2026, zone)[1] < 1.0
    # In the tropics of the other half of the world the sun stands too high in the north.
    assert spells(found, -43.6, -9.1, 2026, zone) == []
    when, apart_deg = nearest(found, -43.6, -9.1, 2026, zone)
    assert apart_deg > 20
    assert when.tzinfo is zone


def test_openings_are_found_under_a_ray() -> None:
    origin, towards = np.array([0.0, 3.0, 1.5]), np.array([0.0, -1.0, 0.0])
    assert opening_under([WINDOW], origin, towards, 10.0) is WINDOW
    assert opening_under([WINDOW], origin, towards, 2.0) is None
    assert opening_under([WINDOW], origin, -towards, 10.0) is None
    assert opening_under([WINDOW], origin + np.array([0.8, 0, 0]), towards, 10.0) is None


def test_a_missing_wall_lets_no_sun_in_where_light_comes_only_through_openings() -> None:
    """The map and what is aimed at follow what the picture does: by the window as before, by the gap not at all."""
    view = core.View((0, 3.8, 1.6), (0, 0.2, 0.4), 18, 96, 54)
    suns = np.array([[270.0, 20.0], [180.0, 30.0]])
    whole, gap, shut = (
        pattern_map(room(gone, closed), view, suns)
        for gone, closed in ((False, False), (True, False), (True, True))
    )
    assert gap.share[0] > 0.05
    assert shut.share[0] == whole.share[0] == 0
    assert shut.share[1] == pytest.approx(gap.share[1], rel=0.02)
    assert whole.share[1] > 0
    floor, up = (0.0, 1.5, 0.0), (0.0, 0.0, 1.0)
    west = [len(a.open[(a.open[:, 0] > 240) & (a.open[:, 0] < 300)])
            for a in (aim(room(True, c), floor, up) for c in (False, True))]  # fmt: skip
    assert west[0] > 0
    assert west[1] == 0


def plain_screen(rest: float, lux: list[float], white: float, key: float | None = None) -> Screen:
    """A screen that shows luminance evenly up to a white in cd/m²."""
    return Screen(np.full((64, 64), rest), np.array(lux), lambda y: np.clip(y / white, 0, 1), key)


def half_in_shade() -> tuple[core.Scene, core.View]:
    """Ground seen from above; a wall shades its north side (the upper half of the picture) from a sun in the south."""
    scene = core.Scene()
    scene.add_mesh([[-99, -99, 0], [99, -99, 0], [99, 99, 0], [-99, 99, 0]], [[0, 1, 2], [0, 2, 3]],
                   core.Material(0.5))  # fmt: skip
    scene.add_mesh([[-99, 0, 0], [99, 0, 0], [99, 0, 40], [-99, 0, 40]], [[0, 1, 2], [0, 2, 3]],
                   core.Material(0.5))  # fmt: skip
    return scene, core.View((0, -0.005, 60), (0, 0, 0), 50, 64, 64)


def test_what_is_shown_is_the_sun_on_paint_and_all_other_light() -> None:
    scene = core.Scene()
    scene.add_mesh([[-99, -99, 0], [99, -99, 0], [99, 99, 0], [-99, 99, 0]], [[0, 1, 2], [0, 2, 3]],
                   core.Material(0.5))  # fmt: skip
    view = core.View((0, 0, 10), (0, 0.01, 0), 28, 64, 64)
    positions = np.array([[90.0, 30.0], [90.0, 60.0]])
    first = first_surfaces(scene.assembled(), view)
    towards = [direction(a, e) for a, e in positions]
    shown = shown_with(first, sun_on(scene.assembled(), first, towards, view.position),
                       plain_screen(300.0, [40_000.0, 80_000.0], 20_000.0))  # fmt: skip
    wanted = [(300 + 40_000 * 0.5 * 0.5 / np.pi) / 20_000, (300 + 80_000 * np.sin(np.pi / 3) * 0.5 / np.pi) / 20_000]  # fmt: skip
    assert np.allclose(shown.mean(axis=(1, 2)), wanted, rtol=1e-3)
    # An automatic exposure brings both to one brightness.
    metered = shown_with(first, sun_on(scene.assembled(), first, towards, view.position),
                         plain_screen(300.0, [40_000.0, 80_000.0], 20_000.0, key=3600.0))  # fmt: skip
    assert np.allclose(metered, 0.18, rtol=1e-3)


def test_contrast_is_worth_what_is_seen_of_it() -> None:
    """Half in the sun: most if it stays below white; nothing much if all burns out, or lies in the dark."""
    scene, view = half_in_shade()
    at = np.array([[180.0, 50.0]])
    sunny = 50_000 * np.sin(np.radians(50)) * 0.5 / np.pi
    seen = [
        pattern_map(scene.assembled(), view, at, screen=plain_screen(200.0, [50_000.0], white)).seen[0]
        for white in (sunny * 1.1, 190.0, sunny * 50)
    ]  # fmt: skip
    assert seen[0] > 0.3
    assert seen[1] < 0.01
    assert seen[2] < 0.02
    assert pattern_map(scene.assembled(), view, at).seen[0] == 0


def test_light_is_found_where_it_was_painted_to_be() -> None:
    """Wanted below and not above is the sun in the south; painted the other way round it is that in the north."""
    scene, view = half_in_shade()
    at = np.array([[180.0, 50.0], [0.0, 50.0]])
    screen = plain_screen(0.0, [50_000.0, 50_000.0], 10_000.0)
    above = Brushed(((0.2, 0.2), (0.8, 0.2)), 0.1, wanted=False)
    below = Brushed(((0.2, 0.8), (0.8, 0.8)), 0.1, wanted=True)
    found = pattern_map(scene.assembled(), view, at, screen=screen, strokes=[above, below]).wanted
    assert found[0] > 0.4
    assert found[1] == 0
    turned = [Brushed(s.points, s.radius, not s.wanted) for s in (above, below)]
    found = pattern_map(scene.assembled(), view, at, screen=screen, strokes=turned).wanted
    assert found[1] > 0.4
    assert found[0] == 0
    # A later stroke takes over; nothing painted is worth nothing.
    over = [above, Brushed(above.points, 0.1, wanted=True)]
    assert (
        pattern_map(scene.assembled(), view, at, screen=screen, strokes=over).wanted.argmax() == 1
    )
    assert not pattern_map(scene.assembled(), view, at, screen=screen).wanted.any()


def test_a_stroke_covers_what_its_brush_reaches() -> None:
    """A line and its two ends, in a picture wider than high."""
    wanted, unwanted = brushed([Brushed(((0.25, 0.5), (0.75, 0.5)), 0.1, True)], 180, 320)
    area = (2 * 0.5 * 0.1 + np.pi * 0.1**2) * 320**2
    assert abs(wanted.sum() / area - 1) < 0.02
    assert not unwanted.any()
