"""Lamps drawn to good places, fitted into bodies, and bodies that are copies of one another."""

from __future__ import annotations

import numpy as np
import pytest

from westlight import core
from westlight.core.analysis import Room, fitted, snapped
from westlight.core.model import Mesh, Part, alike

from .shapes import box

ROOM = Room((0, 0), (8, 6), 0.0)
DOWN = (0.0, 0.0, -1.0)
ROW = [(2.0, 3.0, 3.0), (4.0, 3.0, 3.0)]


@pytest.mark.parametrize(
    ("at", "to", "what"),
    [
        ((4.1, 2.9), (4, 3), "the middle of the room"),
        ((1.1, 3.12), (1.1, 3), "an axis of the room"),
        ((7.0, 5.0), (7, 5), ""),
    ],
)
def test_the_room_draws_a_lamp(at: tuple[float, float], to: tuple[float, float], what: str) -> None:
    found = snapped((*at, 3.0), DOWN, ROOM, [], 0.2)
    assert found.position == pytest.approx([*to, 3.0])
    assert found.to == what


def test_a_row_goes_on_and_halves_and_lines_up() -> None:
    next_one = snapped((6.1, 3.05, 3), DOWN, None, ROW, 0.2)
    assert (next_one.to, next_one.position.tolist()) == ("the spacing of the row", [6, 3, 3])
    between = snapped((3.1, 2.95, 3), DOWN, None, ROW, 0.2)
    assert between.position.tolist() == [3, 3, 3]
    lined = snapped((2.1, 5.0, 3), DOWN, None, ROW, 0.2)
    assert lined.to == "a line with other lamps"
    assert lined.position == pytest.approx([2, 5, 3])


def test_lamps_on_another_level_draw_nothing() -> None:
    assert snapped((2.1, 3.1, 0.0), (0, 0, 1), None, ROW, 0.3).to == ""


def test_on_a_wall_the_middle_and_the_height_of_others_count() -> None:
    """A wall along x at y = 6, seen from the room."""
    found = snapped((4.1, 6, 1.93), (0, -1, 0), ROOM, [(1.0, 6.0, 2.0)], 0.2)
    assert found.position == pytest.approx([4, 6, 2])
    assert found.to == "an axis of the room and a line with other lamps"


def _box(
    size: tuple[float, float, float], at: tuple[float, float, float], turn: float = 0.0
) -> Part:
    scene = core.Scene()
    half = np.asarray(size) / 2
    box(scene, tuple(-half), tuple(half), core.Material(0.5))
    made = scene.parts.pop()
    matrix = np.eye(4)
    a = np.radians(turn)
    matrix[:2, :2] = [[np.cos(a), -np.sin(a)], [np.sin(a), np.cos(a)]]
    matrix[:3, 3] = at
    return Part("Pendant", made.mesh, matrix)


def test_an_emitter_fits_its_body_whichever_way_it_lies() -> None:
    fit = fitted(_box((1.2, 0.2, 0.1), (3, 2, 2.5), turn=30), "tube")
    assert fit.position == pytest.approx([3, 2, 2.5], abs=1e-6)
    assert fit.length == pytest.approx(0.8 * 1.2, rel=0.02)
    assert fit.roll_deg == pytest.approx(-30)
    assert fit.radius <= 0.02
    panel = fitted(_box((0.6, 0.3, 0.1), (0, 0, 3)), "rectangle")
    assert (panel.width, panel.height) == pytest.approx((0.48, 0.24))
    assert 2.95 < panel.position[2] < 3.0
    globe = fitted(_box((0.3, 0.3, 0.3), (0, 0, 2)), "sphere")
    assert globe.radius == pytest.approx(0.12)


def test_a_cable_does_not_count_as_body() -> None:
    body, cable = _box((0.3, 0.3, 0.2), (0, 0, 0)), _box((0.004, 0.004, 1.5), (0, 0, 0.85))
    shifted = cable.mesh.vertices + np.array([0, 0, 0.85])
    faces = np.concatenate([body.mesh.faces, cable.mesh.faces + len(body.mesh.vertices)])
    points = np.concatenate([body.mesh.vertices, shifted])
    both = Mesh.single("pendant", points, faces, core.Material(0.5))
    fit = fitted(Part("Pendant", both, np.eye(4)), "sphere")
    assert abs(fit.position[2]) < 0.08


def test_copies_are_found_with_and_without_a_shared_mesh() -> None:
    one = _box((0.3, 0.2, 0.1), (0, 0, 2))
    shared = Part("Pendant 2", one.mesh, _box((1, 1, 1), (5, 1, 2), turn=90).matrix)
    written = _box((0.3, 0.2, 0.1), (2, 4, 2), turn=40)
    larger = _box((0.4, 0.2, 0.1), (7, 0, 2))
    mirrored = Part("Pendant 5", one.mesh, np.diag([-1.0, 1, 1, 1]))
    found = alike([one, shared, written, larger, mirrored], one)
    assert [p for p, _ in found] == [one, shared, written]
    for part, motion in found:
        assert motion[:3, 3] == pytest.approx(part.matrix[:3, 3] - motion[:3, :3] @ [0, 0, 2])
    assert found[2][1][:2, 0] == pytest.approx([np.cos(np.radians(40)), np.sin(np.radians(40))])


def test_a_body_without_area_still_has_ends() -> None:
    flat = Mesh.single("line", [[0, 0, 0], [1, 0, 0], [1, 0, 0]], [[0, 1, 2]], core.Material(0.5))
    fit = fitted(Part("Pendant", flat, np.eye(4)), "sphere")
    assert np.isfinite(fit.position).all()
