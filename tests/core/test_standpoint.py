"""Where a building is looked at from first: in a room, free of walls, windows in the picture, suns that come in."""

from __future__ import annotations

import numpy as np
import pytest

from westlight.core.analysis import standpoints
from westlight.core.model import Material, Mesh, Part
from westlight.core.sun import direction

from .shapes import BOX_FACES

#: Inner size of the room, thickness of its walls, and its one window in the wall to the north (x from, to, z from, to).
SIZE, THICK, WINDOW = (6.0, 5.0, 2.8), 0.2, (2.0, 4.0, 0.9, 2.2)


def block(name: str, low: tuple[float, ...], high: tuple[float, ...], material: Material) -> Part:
    corners = [
        [x, y, z] for x in (low[0], high[0]) for y in (low[1], high[1]) for z in (low[2], high[2])
    ]
    return Part(name, Mesh.single(name, corners, BOX_FACES, material))


def room(window: bool = True, move: float = 0.0) -> list[Part]:
    (w, d, h), t, (x0, x1, z0, z1) = SIZE, THICK, WINDOW
    wall, glass = Material(0.8), Material(0.95, transmission=1.0)
    blocks = [
        ((-t, -t, -t), (w + t, d + t, 0)), ((-t, -t, h), (w + t, d + t, h + t)),
        ((-t, -t, 0), (0, d + t, h)), ((w, -t, 0), (w + t, d + t, h)), ((0, -t, 0), (w, 0, h)),
    ]  # fmt: skip
    if window:
        blocks += [((0, d, 0), (x0, d + t, h)), ((x1, d, 0), (w, d + t, h)),
                   ((x0, d, 0), (x1, d + t, z0)), ((x0, d, z1), (x1, d + t, h))]  # fmt: skip
    else:
        blocks.append(((0, d, 0), (w, d + t, h)))
    made = [block(f"wall {i}", low, high, wall) for i, (low, high) in enumerate(blocks)]
    if window:
        made.append(block("pane", (x0, d + 0.1, z0), (x1, d + 0.11, z1), glass))
    shift = np.eye(4)
    shift[:3, 3] = move, -move, 0.0
    return [Part(p.name, p.mesh, shift) for p in made]


@pytest.mark.parametrize("move", [0.0, 40.0])
def test_one_stands_in_the_room_and_sees_its_window(move: float) -> None:
    found = standpoints(room(move=move))[0]
    eye = np.array(found.position) - (move, -move, 0.0)
    assert (eye > 0.3).all()
    assert (eye < np.array(SIZE) - 0.3).all()
    assert eye[2] == pytest.approx(1.5, abs=0.2)
    look = np.array(found.target) - found.position
    x0, x1, z0, z1 = WINDOW
    to = np.array([(x0 + x1) / 2, SIZE[1], (z0 + z1) / 2]) - eye
    # Its middle lies well within the 73° that the lens shows across.
    across = np.degrees(np.arctan2(look[0], look[1]) - np.arctan2(to[0], to[1]))
    assert abs((across + 180) % 360 - 180) < 34


def test_only_suns_before_the_window_are_told() -> None:
    found = standpoints(room())[0]
    assert found.suns
    for azimuth, elevation, area in found.suns:
        s = direction(azimuth, elevation)
        # The window looks north, and a sun behind its wall shines on the wall.
        assert s[1] > 0.05
        assert 0 < area <= (WINDOW[1] - WINDOW[0]) * (WINDOW[3] - WINDOW[2])


def test_without_a_window_there_is_no_sun_and_without_a_room_no_place() -> None:
    closed = standpoints(room(window=False))
    assert closed
    assert not any(s.suns for s in closed)
    ground = [block("ground", (0, 0, -0.1), (5, 5, 0), Material(0.5))]
    assert standpoints(ground) == []
    assert standpoints([]) == []


@pytest.mark.parametrize("side", ["east", "west"])
def test_what_stands_in_the_room_is_in_the_picture(side: str) -> None:
    """Shelves on one side wall, full of pots: the view has most of them in it, on whichever side they are."""
    pot = Material(0.5)
    x0 = 5.6 if side == "east" else 0.0
    things = [
        block(f"pot {n} {m}", (x0, 0.6 + n * 0.6, 0.1 + m * 0.6), (x0 + 0.4, 0.85 + n * 0.6, 0.5 + m * 0.6), pot)
        for n in range(5) for m in range(4)
    ]  # fmt: skip
    found = standpoints([*room(), *things])[0]
    eye, look = np.array(found.position), np.array(found.target) - found.position
    to = np.array([t.mesh.vertices.mean(axis=0) for t in things]) - eye
    across = np.degrees(np.arctan2(look[0], look[1]) - np.arctan2(to[:, 0], to[:, 1]))
    assert (np.abs((across + 180) % 360 - 180) < 36).mean() > 0.6
