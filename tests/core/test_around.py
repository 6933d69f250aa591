"""What stands around a building and behind it: additions, cuts, doubts, backdrops, graded parts."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from westlight import core
from westlight.core import Material, Scene, View
from westlight.core.analysis import (
    Cutter,
    close_surface,
    find_doorways,
    find_leaks,
    portal_between,
    portal_gain,
    room_around,
    same_hole,
    way_out,
)
from westlight.core.errors import WestlightError
from westlight.core.finish import Backdrop, Finish, PartGrade, backdrop_of, coverage_of, developed
from westlight.core.model import Model, additions, scaled
from westlight.core.photometry import saturation_luminance
from westlight.core.transport.portals import Portal

from .shapes import box, lux, uniform_sky


def bounds(mesh: core.model.Mesh) -> list[list[float]]:
    return [
        mesh.vertices.min(axis=0).round(3).tolist(),
        mesh.vertices.max(axis=0).round(3).tolist(),
    ]


def test_additions_have_their_size_and_stand_on_their_foot() -> None:
    paint = Material(0.5)
    assert bounds(additions.box("b", 2, 4, 6, paint)) == [[-1, -2, 0], [1, 2, 6]]
    assert bounds(additions.ground("g", 10, 4, paint)) == [[-5, -2, 0], [5, 2, 0]]
    low, high = bounds(additions.blind("v", 1.5, 0.05, 1.6, 0.0, paint))
    assert low[0] == -0.75
    assert high[0] == 0.75
    assert high[2] <= 1.6
    assert low[2] < 0.08
    tree = additions.tree("t", 4, 6, paint, Material(0.1))
    low, high = bounds(tree)
    assert -2.4 < low[0] < -1.6
    assert 5.5 < high[2] < 6.4
    again = additions.tree("t", 4, 6, paint, Material(0.1))
    assert np.array_equal(tree.vertices, again.vertices)


def test_a_turned_addition_turns_anticlockwise() -> None:
    part = additions.placed("b", additions.box("b", 4, 1, 1, Material(0.5)), (10, 20, 0), 90)
    corner = part.matrix @ [2, 0, 0, 1]
    assert corner[:3] == pytest.approx([10, 22, 0])


def test_a_blind_takes_the_share_of_light_its_slats_cover() -> None:
    """Level slats 85 % of their depth apart let a level sun through, and stop a high one."""

    def behind(elevation: float, tilt: float) -> float:
        scene = Scene()
        mesh = additions.blind("v", 40, 0.2, 20, tilt, Material(0.0))
        scene.add_part(additions.placed("v", mesh, (0, 0, -10)))
        scene.add_source(core.sources.Sun("sun", 0, elevation, normal_illuminance_lx=1000))
        points = [[0, -0.5, z] for z in np.linspace(-1, 1, 200)]
        return float(lux(core.irradiance(scene, points, [[0, 1, 0]] * 200, 16, bounces=0)).mean())

    assert behind(0.0, 0.0) == pytest.approx(1000 * (1 - 0.002 / 0.17), rel=0.03)
    assert behind(60.0, 0.0) == 0.0
    # Between two slats light may rise by 0.17 m over their depth of 0.2 m.
    assert behind(30.0, 0.0) == pytest.approx(
        1000 * np.cos(np.radians(30)) * (1 - 0.2 * np.tan(np.radians(30)) / 0.17), rel=0.06
    )
    assert behind(30.0, 30.0) > 1.5 * behind(30.0, 0.0)
    assert behind(30.0, -30.0) == 0.0


def room(scene: Scene) -> None:
    """A room of 4 × 4 × 3 m with a window 1 m wide and a hole half a metre square."""
    box(scene, (0, 0, 0), (4, 4, 3), Material(0.5))
    part = scene.parts.pop()
    keep = [f for f in part.mesh.faces.tolist() if f not in ([4, 6, 7], [4, 7, 5])]
    scene.add_mesh(part.mesh.vertices, keep, Material(0.5), "walls")
    for y0, y1, z0, z1 in ((0, 4, 0, 1), (0, 4, 2, 3), (0, 1, 1, 2), (2, 3, 1, 2), (3.5, 4, 1, 2),
                           (3, 3.5, 1, 1.5)):  # fmt: skip
        wall = [[4, y0, z0], [4, y1, z0], [4, y1, z1], [4, y0, z1]]
        scene.add_mesh(wall, [[0, 1, 2], [0, 2, 3]], Material(0.5), f"wall {y0}{z0}")


WINDOW = Portal((4, 1.5, 1.5), (-1, 0, 0), 1.0, 1.0, name="window")


def test_holes_are_found_where_no_opening_is() -> None:
    scene = Scene()
    room(scene)
    top = scene.assembled().top
    made = find_leaks(top, [(1.5, 2, 1.5)], [WINDOW])
    assert made.inside
    assert len(made.leaks) == 1
    assert made.leaks[0].position == pytest.approx([4, 3.25, 1.75], abs=0.6)
    both = find_leaks(top, [(1.5, 2, 1.5)], [])
    assert sum(x.share for x in both.leaks) > 3 * made.leaks[0].share
    assert not find_leaks(top, [(20, 2, 1.5)], []).inside


def test_a_hole_seen_from_two_places_is_one_and_each_room_is_looked_at() -> None:
    scene = Scene()
    room(scene)
    box(scene, (10, 0, 0), (14, 4, 3), Material(0.5))
    part = scene.parts.pop()
    middle, roof = [12, 2, 3], [v for v in part.mesh.vertices.tolist() if v[2] == 3]
    walls = [f for f in part.mesh.faces.tolist() if not all(part.mesh.vertices[f, 2] == 3)]
    scene.add_mesh(part.mesh.vertices, walls, Material(0.5), "walls beside")
    # The roof of the second room lacks one of the four triangles around its middle.
    for a, b in ((0, 1), (1, 3), (3, 2)):
        corners = sorted(roof)
        scene.add_mesh([corners[a], corners[b], middle], [[0, 1, 2]], Material(0.5), f"roof {a}")
    top = scene.assembled().top
    here = find_leaks(top, [(1.5, 2, 1.5), (2.5, 1, 1.5)], [WINDOW])
    assert len(here.leaks) == 1
    both = find_leaks(top, [(1.5, 2, 1.5), (12, 2, 1.0), (11, 2, 1.5)], [WINDOW])
    assert len(both.leaks) == 2
    assert both.leaks[0].position[0] > 10
    assert both.leaks[0].position[2] == pytest.approx(3, abs=0.5)


def test_a_hole_without_a_pane_is_an_opening() -> None:
    """Its size to a step of the measure; the window that is known is left alone; a box has none."""
    scene = Scene()
    room(scene)
    top = scene.assembled().top
    (found,) = find_doorways(scene.parts, top, [WINDOW])
    assert found.position == pytest.approx([4, 3.25, 1.75], abs=0.08)
    assert found.inward == pytest.approx([-1, 0, 0], abs=1e-6)
    assert (found.width, found.height) == pytest.approx((0.5, 0.5), abs=0.11)
    assert same_hole(found, Portal((4, 3.2, 1.7), (1, 0, 0), 0.4, 0.6))
    assert not same_hole(found, WINDOW)
    shut = Scene()
    box(shut, (0, 0, 0), (4, 4, 3), Material(0.5))
    assert find_doorways(shut.parts, shut.assembled().top, [WINDOW]) == []


def test_the_gain_of_a_portal_is_measured() -> None:
    """A window of 1 m² into a room: daylight drawn through it is far calmer in equal time."""
    bare, guided = Scene(), Scene()
    for scene in (bare, guided):
        room(scene)
        scene.add_source(core.sources.SkySource("sky", core.sky.cie_sky(1, 40)))
    for hole in (WINDOW, Portal((4, 3.25, 1.75), (-1, 0, 0), 0.5, 0.5)):
        guided.add_portal(hole.position, hole.inward, hole.width, hole.height)
    view = core.View((0.5, 0.5, 1.5), (3.9, 2, 1.2), 24, 64, 36)
    made = portal_gain(bare.assembled(), guided.assembled(), 0, view)
    assert made.direct > 2
    assert made.whole > 1.1
    assert made.direct > made.whole


def test_an_opening_between_two_corners_faces_the_room() -> None:
    scene = Scene()
    room(scene)
    top = scene.assembled().top
    made = portal_between((4, 1, 1), (4, 2, 2), top)
    assert made is not None
    assert made.position == pytest.approx((4, 1.5, 1.5))
    assert made.inward == pytest.approx((-1, 0, 0))
    assert (made.width, made.height) == pytest.approx((1, 1))
    assert portal_between((4, 1, 1), (4, 1.05, 1.5), top) is None  # too narrow
    assert portal_between((1, 1, 1), (1, 2, 2), top) is None  # inside on both sides


def test_a_lamp_inside_a_body_finds_its_way_out() -> None:
    """In a closed shade 4 mm thick: down and out, past both faces; a lamp in the open is free."""
    scene = Scene()
    room(scene)
    for size in (0.200, 0.196):
        low, high = (2 - size / 2, 2 - size / 2, 2.2), (2 + size / 2, 2 + size / 2, 2.2 + size)
        box(scene, low, high, Material(0.5))
    top = scene.assembled().top
    out = way_out(top, (2, 2, 2.3), None)
    assert out is not None
    assert out[:2] == pytest.approx([0, 0])
    assert 2.3 + out[2] < 2.2
    assert way_out(top, tuple(np.array([2, 2, 2.3]) + out), None) is None
    assert way_out(top, (1, 1, 1.5), (0, 0, -1)) is None
    sideways = way_out(top, (2, 2, 2.3), (1, 0, 0))
    assert sideways is not None
    assert sideways[0] > 0.1


def test_the_room_of_a_lamp_is_found_past_what_stands_in_it() -> None:
    """A wide table below, a cupboard beside, a window and a hole in a wall: still 4 × 4 m."""
    scene = Scene()
    room(scene)
    box(scene, (1, 1, 0.7), (3, 3, 0.75), Material(0.5))
    box(scene, (0.2, 1, 0), (0.6, 2, 2), Material(0.5))
    found = room_around(scene.assembled().top, (2.2, 1.8, 2.6))
    assert found.low == pytest.approx((0, 0), abs=0.01)
    assert found.high == pytest.approx((4, 4), abs=0.01)
    assert found.floor == pytest.approx(0, abs=0.01)
    with pytest.raises(WestlightError, match="room"):
        room_around(scene.assembled().top, (20, 2, 2))


def test_a_lamp_near_a_surface_is_told_its_gap() -> None:
    scene = Scene()
    box(scene, (0, 0, 0), (4, 4, 3), Material(0.5))
    top = scene.assembled().top
    near = close_surface(top, (2, 2, 2.95), None, 0.1)
    assert near is not None
    assert near.distance_m == pytest.approx(0.05, abs=0.002)
    assert near.away == pytest.approx([0, 0, -1], abs=0.12)
    # One that shines down is not troubled by the ceiling it hangs on.
    assert close_surface(top, (2, 2, 2.95), (0, 0, -1), 0.1) is None
    assert close_surface(top, (2, 2, 1.5), None, 0.1) is None


def test_a_section_shows_width_and_height() -> None:
    scene = Scene()
    scene.add_mesh(*_slab((0, 0, 0), (6, 4, 0.2)), Material(0.5), "floor")
    scene.add_mesh(*_slab((5.8, 0, 0), (6, 4, 3)), Material(0.5), "east wall")
    cutter = Cutter(Model(scene.parts))
    north = cutter.section((0, 2), 90)  # looking north: east is to the right
    points = np.concatenate(north.filled)
    assert points.min(axis=0) == pytest.approx([0, 0])
    assert points.max(axis=0) == pytest.approx([6, 3])
    south = np.concatenate(cutter.section((0, 2), -90).filled)
    assert south[:, 0].min() == pytest.approx(-6)
    level = np.concatenate(cutter.plan(1.0).filled)
    assert level[:, 0].min() == pytest.approx(5.8)
    assert cutter.section((0, 9), 90).filled == []


def _slab(
    low: tuple[float, ...], high: tuple[float, ...]
) -> tuple[list[list[float]], list[list[int]]]:
    made = Scene()
    box(made, low, high, Material(0.5))
    mesh = made.parts[0].mesh
    return mesh.vertices.tolist(), mesh.faces.tolist()


def test_a_model_in_millimetres_shrinks_to_metres() -> None:
    scene = Scene()
    scene.add_mesh(*_slab((0, 0, 0), (6000, 4000, 3000)), Material(0.5), "house")
    small = scaled(Model(scene.parts), 0.001)
    assert small.bounds()[1] == pytest.approx([6, 4, 3])


def test_the_horizon_of_a_view() -> None:
    level = View((0, 0, 1.6), (10, 0, 1.6), width_px=160, height_px=90)
    assert level.horizon() == pytest.approx(0.5)
    tilted = View((0, 0, 1.6), (10, 0, 3.6), width_px=160, height_px=90)
    assert tilted.horizon() > 0.6
    y = tilted.horizon()
    assert tilted.ray(0.5, y)[1][2] == pytest.approx(0, abs=1e-6)


def test_a_backdrop_hangs_behind_coverage_with_its_horizon_on_the_views(tmp_path: Path) -> None:
    pixels = np.zeros((100, 200, 3), np.uint8)
    pixels[:50] = 255  # white above its horizon, black below
    Image.fromarray(pixels).save(tmp_path / "half.png")
    kept = backdrop_of(tmp_path / "half.png")
    assert kept[10, 10] == pytest.approx([1, 1, 1], abs=1e-3)
    from westlight.core.files import write_exr

    write_exr(tmp_path / "half.exr", kept, {}, half=False)
    outside = np.zeros((60, 120), np.float32)
    outside[:, 60:] = 0.25
    light = np.full((60, 120, 3), 2.0, np.float32)
    hung = Backdrop(str(tmp_path / "half.exr"), stops=1.0, horizon=0.5, at=0.3)
    out = developed(light, 3.0, Finish(backdrop=hung), {"outside": outside})
    assert np.array_equal(out[:, :60], light[:, :60])
    white = saturation_luminance(3.0) * 2
    assert out[5, 90] == pytest.approx(2 + 0.25 * white, rel=1e-3)
    assert out[16, 90] == pytest.approx(2 + 0.25 * white, rel=1e-2)
    assert out[22, 90] == pytest.approx(2.0, abs=0.02 * white)
    plain = developed(light, 3.0, Finish(), {"outside": outside})
    assert np.array_equal(plain, light)


def test_a_sky_behind_a_backdrop_is_not_seen_but_still_mirrored() -> None:
    scene = Scene()
    mirror = Material(0.9, roughness=0.0, metallic=1.0)
    scene.add_mesh([[-9, 2, -9], [9, 2, -9], [9, 2, 0], [-9, 2, 0]], [[0, 1, 2], [0, 2, 3]], mirror)
    sky = uniform_sky(5.0)
    sky.seen = 0.0
    scene.add_source(sky)
    film = core.render(scene, View((0, 0, 0), (0, 2, 0), width_px=16, height_px=16), samples=8)
    picture, outside = film.beauty, film.output_pass("outside")
    assert picture[3].max() == 0.0
    assert outside[3] == pytest.approx(np.ones(16))
    assert lux(picture[12]).mean() == pytest.approx(4.5, rel=0.02)
    assert outside[12].max() == 0.0


def test_one_thing_is_graded_where_its_matte_covers_it() -> None:
    light = np.full((8, 8, 3), 4.0, np.float32)
    matte = np.zeros((8, 8, 2, 2), np.float32)
    matte[:4, :, 0] = [7, 1.0]
    matte[4, :, 0], matte[4, :, 1] = [3, 0.5], [7, 0.5]
    cover = coverage_of(matte, {7})
    finish = Finish(parts=(PartGrade("part: pot", stops=1.0),))
    out = developed(light, 0.0, finish, {"part: pot": cover})
    assert out[:4] == pytest.approx(np.full((4, 8, 3), 8.0))
    assert out[4] == pytest.approx(np.full((8, 3), 6.0))
    assert np.array_equal(out[5:], light[5:])
    grey = developed(light * [2, 1, 1], 0.0, Finish(parts=(PartGrade("m", saturation=0.0),)),
                     {"m": np.ones((8, 8), np.float32)})  # fmt: skip
    assert np.ptp(grey, axis=2).max() < 1e-5
    assert lux(grey)[0, 0] == pytest.approx(lux(light * [2, 1, 1])[0, 0], rel=1e-5)


def test_the_bend_of_a_lens_is_taken_out_of_a_backdrop() -> None:
    """A line that a lens bent lies straight again: the formula is its own inverse through its own picture."""
    from westlight.core.finish.backdrop import distorted

    row, column = np.meshgrid(np.arange(100.0), np.arange(200.0), indexing="ij")
    for k in (-0.2, 0.15):
        y, x = distorted(row, column, 100, 200, k)
        # In the middle nothing moves, at the side a point moves by k times half the width.
        assert y[50, 100] == pytest.approx(50, abs=0.02)
        assert x[49, 199] - 99.5 == pytest.approx(99.5 * (1 + k * 0.99), rel=0.01)
        assert np.all(np.diff(x[50]) > 0)
    y, x = distorted(row, column, 100, 200, 0.0)
    np.testing.assert_allclose(x, column)
