"""Curtains and blinds cover what they say, and glass is changed where it is glass."""

from __future__ import annotations

import numpy as np
import pytest

from westlight.core.model import Material, Mesh, Part
from westlight.core.model.dressing import (
    DEEP_M,
    GATHERED,
    OVER_M,
    Frame,
    frosted,
    hung,
    panes_of,
    tinted,
    with_glass,
)
from westlight.core.model.edit import changed, mean_reflectance
from westlight.core.model.parts import place

#: A window in the wall at x = 0 of a room that lies towards +x: 2 m wide along y, 1.5 m high, its middle 1.6 m up.
WINDOW = Frame((0.0, 5.0, 1.6), np.array([[0.0, -1, 0], [1, 0, 0], [0, 0, 1]]), 2.0, 1.5)
CLOTH = Material(0.8, translucency=0.5)


def spans(parts: list[Part]) -> tuple[np.ndarray, np.ndarray]:
    points = np.concatenate([place(p.matrix, p.mesh.vertices) for p in parts])
    return points.min(axis=0), points.max(axis=0)


def test_a_drawn_curtain_covers_its_opening_and_hangs_before_it() -> None:
    """Over its sides and its top, down to below its edge, in the room by as much as it was hung; its folds stay in between."""
    low, high = spans(hung("c", "curtain", WINDOW, CLOTH, 1.0, 0.2, 0.3))
    assert low == pytest.approx([0.2 - DEEP_M, 5 - 1 - OVER_M, 1.6 - 0.75 - 0.3], abs=0.003)
    assert high == pytest.approx([0.2 + DEEP_M, 5 + 1 + OVER_M, 1.6 + 0.75 + OVER_M], abs=0.003)


@pytest.mark.parametrize("drawn", [0.0, 0.4])
def test_a_curtain_is_drawn_from_both_sides(drawn: float) -> None:
    """What is open lies in the middle; its mesh stays the same one, squeezed."""
    left, right = hung("c", "curtain", WINDOW, CLOTH, drawn, 0.2, 0.0)
    whole = hung("c", "curtain", WINDOW, CLOTH, 1.0, 0.2, 0.0)
    assert left.mesh is right.mesh
    assert len(left.mesh.vertices) == len(whole[0].mesh.vertices)
    assert left.movable
    edges = sorted(
        [
            *spans([left])[0][1:2],
            *spans([left])[1][1:2],
            *spans([right])[0][1:2],
            *spans([right])[1][1:2],
        ]
    )
    share = GATHERED + (1 - GATHERED) * drawn
    assert edges[2] - edges[1] == pytest.approx(2 * (1 + OVER_M) * (1 - share), abs=1e-3)


@pytest.mark.parametrize("kind", ["roller", "slats"])
def test_a_blind_comes_down_from_above(kind: str) -> None:
    top = 1.6 + 0.75
    half = hung("b", kind, WINDOW, CLOTH, 0.5, 0.1, 0.0, 0.0)
    low, high = spans(half)
    assert high[2] == pytest.approx(top, abs=0.05)
    assert low[2] == pytest.approx(top - 0.515 * 1.5, abs=0.06)
    assert spans(hung("b", kind, WINDOW, CLOTH, 0.0, 0.1, 0.0))[0][2] > top - 0.12


def window(name: str, y: float, glass: bool = True) -> Part:
    """A pane at x = 0 with a frame below it."""
    points = [[0, y, 1], [0, y + 0.5, 1], [0, y + 0.5, 2], [0, y, 2]]
    pane = Material(
        (0.95, 0.95, 0.95), transmission=0.9 if glass else 0.0, clear_path=True, name="glass"
    )
    mesh = Mesh(name, np.array(points * 2, np.float32), np.array([[0, 1, 2], [0, 2, 3], [4, 5, 6]], np.int32),
                [pane, Material(0.3, name="oak")], np.array([0, 0, 1], np.int32))  # fmt: skip
    return Part(name, mesh)


def test_the_glass_of_an_opening_is_found() -> None:
    """By where it lies, not by where its part does; what is no glass, or of the next window, is none of it."""
    parts = [window("in it", 4.8), window("beside it", 7.0), window("shutter", 4.8, glass=False)]
    far = Part(
        "far",
        window("far", 4.8).mesh,
        np.array([[1, 0, 0, 3.0], [0, 1, 0, 0], [0, 0, 1, 0], [0, 0, 0, 1]]),
    )
    assert panes_of([*parts, far], WINDOW) == ["in it"]


def test_only_its_glass_is_changed() -> None:
    part = window("w", 4.8)
    dark = with_glass(part, tinted((0.2, 0.5, 0.3), 0.4))
    pane, oak = dark.mesh.materials
    assert oak is part.mesh.materials[1]
    assert pane.is_pane
    assert pane.clear_path
    assert mean_reflectance(pane) == pytest.approx(0.4, abs=1e-6)
    assert pane.rgb[1] > pane.rgb[0]
    assert pane.name == "glass (w)"


def test_frosted_glass_scatters_what_it_lets_through() -> None:
    """As much as was said goes through, the rest but a little comes back: nothing is made."""
    for through in (0.2, 0.6, 0.95):
        made = changed(Material((0.95, 0.95, 0.95), transmission=0.9), frosted((1, 1, 1), through))
        assert not made.is_pane
        kept = mean_reflectance(made)
        assert kept * made.translucency == pytest.approx(through, abs=0.01)
        assert kept <= 0.98 + 1e-9
