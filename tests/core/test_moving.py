"""Copies and additions that are moved without building the scene again."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from westlight import core
from westlight.core.model import Mesh, Part, additions
from westlight.core.transport import build as building
from westlight.core.transport.assemble import Assembled, assemble
from westlight.core.transport.render import irradiance_at

from .shapes import BOX_FACES, quad, uniform_sky


def at(x: float, y: float, z: float, turn: float = 0.0) -> np.ndarray:
    matrix = np.eye(4)
    c, s = np.cos(turn), np.sin(turn)
    matrix[:2, :2] = [[c, -s], [s, c]]
    matrix[:3, 3] = x, y, z
    return matrix


def boxes(places: list[np.ndarray]) -> core.Scene:
    """Half a metre of a box over an even sky's floor, at each place; all of them copies."""
    scene = core.Scene()
    quad(scene, 20.0, core.Material(0.5))
    corners = [[x, y, z] for x in (-0.25, 0.25) for y in (-0.25, 0.25) for z in (0.1, 0.6)]
    mesh = Mesh.single("box", np.array(corners), np.array(BOX_FACES), core.Material(0.3))
    for i, matrix in enumerate(places):
        scene.add_part(Part(f"box {i}", mesh, matrix))
    scene.add_source(uniform_sky())
    return scene


POINTS = np.array([[0, 0, 0.001], [2, 0, 0.001], [4, 1, 0.001]], float)
UPS = np.tile([[0.0, 0.0, 1.0]], (3, 1))


def moved(made: Assembled, scene: core.Scene, part: int, matrix: np.ndarray) -> Assembled:
    """The same scene with a part at another place, adapted; nothing is built."""
    parts = list(scene.parts)
    parts[part] = replace(parts[part], matrix=matrix)
    build = made.build.adapted(parts)
    assert build is not None
    assert build.scenes is made.build.scenes
    after = assemble(build, made.sources, before=made)
    assert after.top is made.top
    return after


def light(made: Assembled) -> np.ndarray:
    return irradiance_at(made, POINTS, UPS, samples=512, seed=1, bounces=2)


def test_a_moved_copy_gives_the_light_of_one_built_there() -> None:
    """The same bits as a scene that was built with the copy at its new place."""
    start, end = at(0, 0, 0), at(4, 1, 0, 0.4)
    scene = boxes([start, at(9, 9, 0)])
    made = scene.assembled()
    before = light(made)
    after = light(moved(made, scene, 1, end))
    np.testing.assert_array_equal(after, light(boxes([end, at(9, 9, 0)]).assembled()))
    assert after[0, 0, 1] > 3 * before[0, 0, 1]
    assert after[2, 0, 1] < before[2, 0, 1] / 3


def test_a_copy_moved_back_leaves_no_trace() -> None:
    scene = boxes([at(0, 0, 0), at(9, 9, 0)])
    made = scene.assembled()
    before = light(made)
    made = moved(moved(made, scene, 1, at(2, 0, 0)), scene, 1, at(0, 0, 0))
    np.testing.assert_array_equal(light(made), before)


@pytest.mark.parametrize("lot", [16, 1000])
def test_one_of_many_copies_is_moved_and_the_others_stay(
    lot: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Two meshes with many copies each, in one lot or in many: again and again the same bits as built there."""
    monkeypatch.setattr(building, "LOT", lot)

    def scene(places: list[np.ndarray]) -> core.Scene:
        made = boxes(places)
        slab = additions.box("slab", 0.4, 0.4, 0.2, core.Material(0.8))
        for i in range(40):
            made.add_part(Part(f"slab {i}", slab, at(i % 8 - 4.0, i // 8 - 8.0, 1.0)))
        return made

    places = [at(i % 10 - 5.0, i // 10 + 3.0, 0) for i in range(60)]
    made, parts = (first := scene(places)).assembled(), list(first.parts)
    for k, to in ((37, at(0, 0, 0)), (37, at(2, 0, 0.3)), (5, at(0, 0.1, 0, 0.3))):
        places[k] = to
        parts[k + 1] = replace(parts[k + 1], matrix=to)
        build = made.build.adapted(parts)
        assert build is not None
        made = assemble(build, made.sources, before=made)
        np.testing.assert_array_equal(light(made), light(scene(places).assembled()))


def test_another_sun_keeps_the_hierarchy_of_a_scene_without_lamps() -> None:
    made = boxes([at(0, 0, 0), at(9, 9, 0)]).assembled()
    sun = core.sources.Sun("sun", 120, 30, normal_illuminance_lx=1e5)
    assert assemble(made.build, [sun, *made.sources], before=made).top is made.top


@pytest.mark.parametrize("blocker", [False, True])
def test_an_addition_is_moved_though_there_is_but_one_of_it(blocker: bool) -> None:
    """A card that stands alone, seen or only stopping light, gives the shade of one built there."""

    def scene(matrix: np.ndarray) -> core.Scene:
        made = core.Scene()
        quad(made, 20.0, core.Material(0.5))
        mesh = additions.box("slab", 1.0, 1.0, 0.1, core.Material(0.1))
        made.add_part(replace(additions.placed("slab", mesh, (0, 0, 0), 0, blocker), matrix=matrix))
        made.add_source(uniform_sky())
        return made

    start, end = at(0, 0, 0.5), at(4, 1, 0.5)
    first = scene(start)
    after = light(moved(first.assembled(), first, 1, end))
    np.testing.assert_array_equal(after, light(scene(end).assembled()))


@pytest.mark.parametrize(("part", "matrix"), [(0, at(1, 0, 0)), (1, np.zeros((4, 4)))])
def test_what_stands_by_itself_or_would_vanish_is_built_anew(part: int, matrix: np.ndarray) -> None:
    """The floor is part of one large hierarchy, and a matrix without volume is no place."""
    scene = boxes([at(0, 0, 0), at(9, 9, 0)])
    parts = list(scene.parts)
    parts[part] = replace(parts[part], matrix=matrix)
    assert scene.geometry().adapted(parts) is None


def test_bounds_follow_what_was_moved() -> None:
    scene = boxes([at(0, 0, 0), at(9, 9, 0)])
    build = scene.geometry()
    assert build.bounds[1][2] == pytest.approx(0.6)
    parts = list(scene.parts)
    parts[1] = replace(parts[1], matrix=at(0, 0, 5))
    build = build.adapted(parts)
    assert build is not None
    assert build.bounds[1][2] == pytest.approx(5.6)


def test_ten_thousand_copies_take_the_memory_of_one() -> None:
    """Vertices and triangles are there once; of each copy only its place."""
    few, many = (
        boxes([at(i % 100 * 1.0, i // 100 * 1.0, 0) for i in range(n)]).geometry()
        for n in (2, 10_000)
    )
    assert len(many.triangles) == len(few.triangles)
    assert many.corners.nbytes == few.corners.nbytes
    assert len(many.instance_matrix) == len(few.instance_matrix) + 9_998
