"""Lamps thinner than a pixel: how much of each they cover is known, and they come out whole."""

from __future__ import annotations

import math

import numpy as np
import pytest

from westlight import core
from westlight.core.sources import Disc, Emission, MeshEmitter, Rectangle, Sphere, Sun, Tube
from westlight.core.transport.thin_lamps import thin_lamps

from .shapes import box, lux, quad

VIEW = core.View((0, -4, 1), (0, 0, 1), 35, 96, 64)
#: Angle of a pixel in the middle of the picture, in steradians.
PIXEL = (36 / 35 / 96) ** 2
LAMPS = {
    "a strip": (Rectangle("lamp", (0, 0, 1), (0, -1, 0), 2, 0.004, luminance_cd_m2=9000), 2 * 0.004),
    "a strip askew": (
        Rectangle("lamp", (0, 0, 1), (0, -1, 1), 1.5, 0.005, luminance_cd_m2=9000),
        1.5 * 0.005 * math.sqrt(0.5),
    ),
    "a disc": (Disc("lamp", (0.3, 0, 1), (0, -1, 0), 0.012, luminance_cd_m2=9000), math.pi * 0.012**2),
    "a ball": (Sphere("lamp", (0, 0, 1.2), 0.012, luminance_cd_m2=9000), math.pi * 0.012**2),
    "a tube": (Tube("lamp", (0, 0, 1), (1, 0, 0), 1.6, 0.003, luminance_cd_m2=9000), 1.6 * 0.006),
    "a tube away": (
        Tube("lamp", (0, 0, 1), (1, 1, 0), 0.5, 0.003, luminance_cd_m2=9000),
        0.5 * 0.006 * math.sqrt(0.5),
    ),
}  # fmt: skip


def _lit(lamp: Emission | MeshEmitter) -> core.Scene:
    scene = core.Scene()
    quad(scene, 6, core.Material(0.5))
    scene.add_source(lamp)
    return scene


@pytest.mark.parametrize("name", LAMPS)
def test_as_much_is_covered_as_the_lamp_is_large(name: str) -> None:
    """Sum of the cover times the angle of a pixel is the lamp's area across the line of sight over the distance squared."""
    lamp, area = LAMPS[name]
    cover, mean, square = thin_lamps(_lit(lamp).assembled(), VIEW)
    # A round lamp is aimed at by chance all around: some thirty rays tell its size to a tenth.
    assert cover.sum() * PIXEL == pytest.approx(area / 16, rel=0.1)
    assert mean == pytest.approx(cover * 9000, rel=1e-4)
    assert square == pytest.approx(cover * 9000.0**2, rel=1e-4)


def test_a_glowing_mesh_counts_by_its_triangles() -> None:
    points = [[-1, 0, 1], [1, 0, 1], [1, 0, 1.004], [-1, 0, 1.004]]
    scene = _lit(MeshEmitter("lamp", points, [[0, 1, 2], [0, 2, 3]], luminance_cd_m2=9000))
    cover, mean, _ = thin_lamps(scene.assembled(), VIEW)
    assert cover.sum() * PIXEL == pytest.approx(2 * 0.004 / 16, rel=0.06)
    assert mean.sum() == pytest.approx(cover.sum() * 9000, rel=1e-3)


def test_what_hides_a_lamp_hides_its_cover_and_a_pane_does_not() -> None:
    lamp, _ = LAMPS["a strip"]
    open_, hidden, behind_glass = _lit(lamp), _lit(lamp), _lit(lamp)
    box(hidden, (-1.2, -1.0, 0), (0.0, -0.9, 2), core.Material(0.5))
    behind_glass.add_mesh(
        [[-3, -1, 0], [3, -1, 0], [3, -1, 3], [-3, -1, 3]], [[0, 1, 2], [0, 2, 3]],
        core.Material(transmission=0.9),
    )  # fmt: skip
    whole = thin_lamps(open_.assembled(), VIEW)[0].sum()
    assert thin_lamps(hidden.assembled(), VIEW)[0].sum() == pytest.approx(whole / 2, rel=0.05)
    assert thin_lamps(behind_glass.assembled(), VIEW)[0].sum() == pytest.approx(whole)
    turned = core.View((0, -4, 1), (0, -8, 1), 35, 96, 64)
    assert not thin_lamps(open_.assembled(), turned).any()


def test_a_lamp_that_any_look_meets_is_left_to_looks() -> None:
    lamp = Rectangle("lamp", (0, 0, 1), (0, -1, 0), 1.5, 1.0, luminance_cd_m2=9000)
    cover = thin_lamps(_lit(lamp).assembled(), VIEW)[0]
    # Within it there is nothing; at its border there may be.
    assert not cover[24:40, 36:60].any()


def test_very_many_lamps_are_drawn_from_and_still_cover_as_much() -> None:
    places = [(x, 0.0, z) for x in np.linspace(-1.5, 1.5, 200) for z in np.linspace(0.3, 1.7, 100)]
    spheres = [Sphere("dot", p, 0.0005, luminance_cd_m2=9000) for p in places]
    scene = core.Scene()
    scene.add_source(core.sources.Group("stars", spheres))
    cover = thin_lamps(scene.assembled(), VIEW)[0]
    # A pixel away from the middle is smaller by the third power of the cosine: area / distance² · (distance / 4)³.
    wanted = sum(
        math.pi * 0.0005**2 * math.sqrt(16 + x * x + (z - 1) ** 2) / 64 for x, _, z in places
    )
    assert cover.sum() * PIXEL == pytest.approx(wanted, rel=0.06)


def test_a_thin_strip_is_no_dashed_line() -> None:
    """In four passes every pixel along a strip shows about as much of it as its neighbours, none of them nothing."""
    lamp = Rectangle("lamp", (0, 0, 1.3), (0, -1, 0), 2, 0.003, luminance_cd_m2=50_000)
    scene = _lit(lamp)
    for seed in range(4):
        film = core.render(scene, VIEW, samples=4, bounces=0, seed=seed)
        along = lux(film.contribution("lamp"))[:32].sum(axis=0)[28:68]
        assert along.min() > 0.5 * along.mean()
        assert along.std() < 0.2 * along.mean()


def test_without_lamps_there_is_nothing_to_find() -> None:
    empty, sunny = core.Scene(), core.Scene()
    for scene in (empty, sunny):
        quad(scene, 6, core.Material(0.5))
    sunny.add_source(Sun("sun", 180, 40))
    for scene in (empty, sunny):
        assert not thin_lamps(scene.assembled(), VIEW).any()
