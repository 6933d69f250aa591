"""Plants of the shelf, and where they stand: painted, in rows, one by one."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from westlight.core.analysis.planting import MOST_PLANTS, Bed, Planted, Stroke, planted
from westlight.core.model import Material, Mesh, Part
from westlight.core.model.additions import box
from westlight.core.model.plants import DETAILS, PLANTS, VARIANTS, plant
from westlight.core.transport.assemble import assemble
from westlight.core.transport.build import GeometryBuild
from westlight.core.transport.surfaces import surface_under, surfaces_along

SOIL, PATH, WALL = 0, 1, 2


def yard(slope: float = 0.0) -> GeometryBuild:
    """Ground 20 × 20 m with a wall 0.3 m thick along x = 0 and a path beside it from y = 3 to 5, a little higher."""
    paint = Material(0.4)
    rise = slope * 10
    soil = Mesh.single("soil", [[-10, -10, -rise], [10, -10, -rise], [10, 10, rise], [-10, 10, rise]],
                       [[0, 1, 2], [0, 2, 3]], paint)  # fmt: skip
    path = Mesh.single("path", [[-10, 3, 0.02], [10, 3, 0.02], [10, 5, 0.02], [-10, 5, 0.02]],
                       [[0, 1, 2], [0, 2, 3]], paint)  # fmt: skip
    wall = box("wall", 0.3, 20.0, 2.5, paint)
    parts = [Part("soil", soil)] if slope else [Part("soil", soil), Part("path", path), Part("wall", wall)]  # fmt: skip
    return GeometryBuild(parts)


def grown(build: GeometryBuild, strokes: list[Stroke], bed: Bed) -> Planted:
    ground = assemble(build, [])
    return planted(ground, lambda hits: build.triangle_part[hits[:, 8].astype(int)].astype(np.int64), strokes, bed, VARIANTS)  # fmt: skip


def feet(p: Planted) -> np.ndarray:
    return p.matrices[:, :3, 3]


BED = Bed(seed=3, per_m2=6.0, size_spread=0.3)
AT = Stroke("brush", ((4.0, -3.0, 0.0), (7.0, -3.0, 0.0)), 2.0, SOIL)


def test_a_brush_grows_as_many_as_its_area_holds() -> None:
    """Area of the stroke times the density, all within its reach, on the ground."""
    at = feet(grown(yard(), [AT], BED))
    area = np.pi * 4 + 3 * 4
    assert abs(len(at) / (area * 6.0) - 1) < 0.06
    along = np.clip(at[:, 0], 4, 7)
    assert np.hypot(at[:, 0] - along, at[:, 1] + 3).max() <= 2.0 + 1e-6
    assert np.abs(at[:, 2]).max() < 1e-4


def test_the_same_strokes_give_the_same_garden_and_others_leave_it_alone() -> None:
    """A second stroke elsewhere moves nothing; over it, it adds only where nothing stood; another seed is another garden."""
    build = yard()
    one = feet(grown(build, [AT], BED))
    assert np.array_equal(one, feet(grown(build, [AT], BED)))
    far = Stroke("brush", ((-6.0, -6.0, 0.0),), 1.5, SOIL)
    both = feet(grown(build, [AT, far], BED))
    assert {tuple(p) for p in one} < {tuple(p) for p in both}
    over = feet(grown(build, [AT, replace(AT, points=AT.points[:1])], BED))
    assert {tuple(p) for p in over} == {tuple(p) for p in one}
    other = feet(grown(build, [AT], replace(BED, seed=4)))
    assert not {tuple(p) for p in other} & {tuple(p) for p in one}


def test_what_is_erased_is_gone_until_it_is_painted_again() -> None:
    build = yard()
    rub = Stroke("erase", ((5.5, -3.0, 0.0),), 1.0)
    whole, less = (feet(grown(build, s, BED)) for s in ([AT], [AT, rub]))
    assert np.hypot(less[:, 0] - 5.5, less[:, 1] + 3).min() > 1.0
    gone = {tuple(p) for p in whole} - {tuple(p) for p in less}
    assert all(np.hypot(x - 5.5, y + 3) <= 1.0 for x, y, _ in gone)
    assert gone
    again = feet(grown(build, [AT, rub, AT], BED))
    assert {tuple(p) for p in again} == {tuple(p) for p in whole}


@pytest.mark.parametrize("off", [0.0, 0.5])
def test_it_keeps_off_walls_and_paths(off: float) -> None:
    """Painted right across both: nothing in the wall, nothing on the path, and the distance kept to each."""
    across = Stroke("brush", ((-6.0, 1.0, 0.0), (6.0, 1.0, 0.0)), 4.0, SOIL)
    at = feet(grown(yard(), [across], replace(BED, per_m2=20.0, keep_off_m=off)))
    assert len(at) > 300
    assert np.abs(at[:, 0]).min() > 0.15 + off * 0.99
    # Eight ways are tried round a plant: between them an edge may come a little nearer.
    kept = off * np.cos(np.pi / 8)
    assert not ((at[:, 1] > 3 - kept) & (at[:, 1] < 5 + kept)).any()
    assert (at[:, 0] < 0).any()
    assert (at[:, 0] > 0).any()


def test_a_row_has_its_distance_and_looks_along_it() -> None:
    row = Stroke("row", ((2.0, -8.0, 0.0), (8.0, -8.0, 0.0)))
    found = grown(yard(), [row], Bed(apart_m=1.5, turn_spread=0.0, size_spread=0.0, size=2.0))
    assert np.allclose(feet(found), [[2 + 1.5 * i, -8, 0] for i in range(5)], atol=1e-5)
    assert np.allclose(found.matrices[:, :3, :3], np.eye(3) * 2)


def test_one_by_one_they_stand_where_they_were_put_whatever_is_near() -> None:
    one = Stroke("one", ((0.2, 4.0, 0.0), (5.0, 0.0, 0.0)))
    at = feet(grown(yard(), [one], Bed(keep_off_m=3.0)))
    assert np.allclose(sorted(at.tolist()), [[0.2, 4.0, 0.02], [5.0, 0.0, 0.0]], atol=1e-5)


@pytest.mark.parametrize("lean", [0.0, 1.0])
def test_on_a_slope_they_stand_on_the_ground_upright_or_along_it(lean: float) -> None:
    stroke = Stroke("brush", ((0.0, 0.0, 0.0), (0.0, 4.0, 2.0)), 1.5, 0)
    found = grown(yard(slope=0.5), [stroke], replace(BED, slope=lean))
    at = feet(found)
    assert np.allclose(at[:, 2], at[:, 1] * 0.5, atol=1e-4)
    up = found.matrices[:, :3, 2] / np.linalg.norm(found.matrices[:, :3, 2], axis=1, keepdims=True)
    normal = np.array([0, -0.5, 1]) / np.hypot(0.5, 1)
    assert np.allclose(up, normal if lean else [0, 0, 1], atol=1e-5)


def test_a_climber_hangs_on_the_side_of_the_wall_it_was_painted_on() -> None:
    stroke = Stroke("brush", ((0.15, -2.0, 1.0), (0.15, 1.0, 1.4)), 0.7, WALL, (1.0, 0.0, 0.0))
    found = grown(yard(), [stroke], Bed(per_m2=9.0, on_walls=True, turn_spread=0.2))
    at = feet(found)
    assert len(at) > 30
    assert np.allclose(at[:, 0], 0.15, atol=1e-4)
    assert np.ptp(at[:, 2]) > 1.0
    ahead = found.matrices[:, :3, 1] / np.linalg.norm(found.matrices[:, :3, 1], axis=1, keepdims=True)  # fmt: skip
    assert np.allclose(ahead, [1, 0, 0], atol=1e-5)


def test_sizes_and_turns_differ_as_far_as_they_are_told_to() -> None:
    found = grown(yard(), [AT], replace(BED, per_m2=40.0, size=1.2, size_spread=0.25))
    size = np.linalg.norm(found.matrices[:, :3, 0], axis=1)
    assert 0.9 <= size.min() < 0.93
    assert 1.47 < size.max() <= 1.5
    turn = np.arctan2(found.matrices[:, 1, 0], found.matrices[:, 0, 0])
    assert np.histogram(turn, 8, (-np.pi, np.pi))[0].min() > len(turn) / 8 * 0.7
    assert np.bincount(found.variants, minlength=VARIANTS).min() > len(turn) / VARIANTS * 0.8


def test_more_than_there_may_be_are_thinned_evenly() -> None:
    stroke = Stroke("brush", ((5.0, -5.0, 0.0),), 4.5, SOIL)
    at = feet(grown(yard(), [stroke], Bed(per_m2=6000.0)))
    assert len(at) <= MOST_PLANTS
    assert len(at) > MOST_PLANTS * 0.95
    east = (at[:, 0] > 5.0).mean()
    assert 0.48 < east < 0.52


@pytest.mark.parametrize("kind", list(PLANTS))
def test_a_plant_stands_on_its_foot_and_is_the_same_again(kind: str) -> None:
    """Each detail covers about what the finer one does, with fewer triangles; variants differ."""
    sizes = []
    for detail in DETAILS:
        mesh = plant(kind, detail, 1)
        assert np.isfinite(mesh.vertices).all()
        assert mesh.faces.max() < len(mesh.vertices)
        low, high = mesh.vertices.min(axis=0), mesh.vertices.max(axis=0)
        if PLANTS[kind].on_walls:
            assert low[1] > 0
        else:
            assert abs(low[2]) < 0.2 * high[2]
        sizes.append((len(mesh.faces), float(high[2] - low[2])))
    assert sizes[0][0] > sizes[1][0] > sizes[2][0]
    assert max(s for _, s in sizes) < 1.5 * min(s for _, s in sizes)
    plant.cache_clear()
    assert np.array_equal(plant(kind, "usual", 1).vertices, plant(kind, "usual", 1).vertices)
    assert not np.array_equal(plant(kind, "usual", 0).vertices[-40:], plant(kind, "usual", 1).vertices[-40:])  # fmt: skip


def test_many_rays_meet_what_single_ones_do() -> None:
    scene = assemble(yard(), [])
    rng = np.random.default_rng(2)
    origins = rng.uniform(-6, 6, (300, 3)) + np.array([0.0, 0.0, 8.0])
    ways = rng.normal(size=(300, 3))
    ways /= np.linalg.norm(ways, axis=1, keepdims=True)
    many = surfaces_along(scene, origins, ways)
    for o, d, hit in zip(origins, ways, many, strict=True):
        one = surface_under(scene, o, d)
        if one is None:
            assert hit[6] > 1e29
        else:
            assert np.array_equal(one, hit)


def test_scattered_plants_are_met_where_each_stands_and_share_one_hierarchy() -> None:
    """A thousand tufts cost the memory of one; rays meet them at their places."""
    tuft = box("tuft", 0.1, 0.1, 0.2, Material(0.3))
    places = np.tile(np.eye(4), (1000, 1, 1))
    places[:, 0, 3], places[:, 1, 3] = np.arange(1000) % 40, np.arange(1000) // 40
    part = Part("tufts", tuft, scattered=places)
    build = GeometryBuild([Part("floor", box("floor", 200, 200, 0.01, Material(0.5))), part])
    assert len(build.triangles) == 24
    assert build.bounds[1][0] == 100.0
    scene = assemble(build, [])
    down = np.tile([0.0, 0.0, -1.0], (1000, 1))
    hits = surfaces_along(scene, places[:, :3, 3] + [0, 0, 5], down)
    assert np.allclose(hits[:, 2], 0.2, atol=1e-5)
    beside = surfaces_along(scene, places[:, :3, 3] + [0.5, 0.5, 5], down)
    assert np.allclose(beside[:, 2], 0.01, atol=1e-5)
