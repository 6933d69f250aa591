"""Patches of sun joined to the places they light: the same light, found far sooner."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import pytest

from westlight import core
from westlight.core.finish import block_mean
from westlight.core.transport.render import irradiance_at

from .shapes import box, lux

Array = np.ndarray
POINTS = np.array([[1, 4.99, 1.5], [3.99, 2.5, 1.2], [2, 2.5, 2.99], [0.5, 0.5, 0.01]], float)
NORMALS = np.array([[0, -1, 0], [-1, 0, 0], [0, 0, -1], [0, 0, 1]], float)


def sunny(
    portals: int, roughness: float = 1.0, pane: core.Material | None = None, **kw: float
) -> core.Scene:
    """A room 4 × 5 × 3 m with two windows towards y = 0; the sun falls through both onto the floor."""
    scene = core.Scene()
    m = core.Material(0.5, roughness=roughness)
    for low, high in (
        ((0, 0, -0.2), (4, 5, 0)), ((0, 0, 3), (4, 5, 3.2)),
        ((-0.2, 0, 0), (0, 5, 3)), ((4, 0, 0), (4.2, 5, 3)), ((0, 5, 0), (4, 5.2, 3)),
        ((-0.2, -0.2, -0.2), (0.8, 0, 3.2)), ((1.6, -0.2, -0.2), (2.4, 0, 3.2)),
        ((3.2, -0.2, -0.2), (4.2, 0, 3.2)), ((0.8, -0.2, -0.2), (1.6, 0, 1.0)),
        ((0.8, -0.2, 2.0), (1.6, 0, 3.2)), ((2.4, -0.2, -0.2), (3.2, 0, 1.0)),
        ((2.4, -0.2, 2.0), (3.2, 0, 3.2)),
    ):  # fmt: skip
        box(scene, low, high, m)
    if pane is not None:
        for x in (0.8, 2.4):
            corners = [[x, -0.1, 1], [x + 0.8, -0.1, 1], [x + 0.8, -0.1, 2], [x, -0.1, 2]]
            scene.add_mesh(corners, [[0, 1, 2], [0, 2, 3]], pane)
    scene.add_source(core.sources.Sun("sun", 170, 35, normal_illuminance_lx=80_000))
    for x in (1.2, 2.8)[:portals]:
        scene.add_portal((x, -0.1, 1.5), (0, 1, 0), 0.8, 1.0, **kw)
    return scene


def light(scene: core.Scene, bounces: int, samples: int) -> Array:
    return lux(core.irradiance(scene, POINTS, NORMALS, samples=samples, bounces=bounces))


@pytest.mark.parametrize("bounces", [1, 3])
@pytest.mark.parametrize("portals", [1, 2])
def test_patches_do_not_change_the_mean(bounces: int, portals: int) -> None:
    """Whether one, both or none of two like windows is known, the same light."""
    by_chance = light(sunny(0), bounces, 160_000)
    assert light(sunny(portals), bounces, 40_000) == pytest.approx(by_chance, rel=0.05)


@pytest.mark.parametrize("roughness", [0.4, 0.6])
def test_glossy_floors_send_the_same_sun_on(roughness: float) -> None:
    by_chance = light(sunny(0, roughness), 1, 160_000)
    assert light(sunny(2, roughness), 1, 60_000) == pytest.approx(by_chance, rel=0.03, abs=0.1)


def test_sun_by_a_tinted_pane_is_tinted_on_its_way_to_the_patch() -> None:
    """What it lights has the colour of the pane."""
    pane = core.Material((0.8, 0.5, 0.3), transmission=1.0, ior=1.52, roughness=0.0)
    scenes = [sunny(n, pane=pane) for n in (0, 2)]
    chance, joined = (
        core.irradiance(s, POINTS, NORMALS, samples=n, bounces=1)
        for s, n in zip(scenes, (160_000, 20_000), strict=True)
    )
    assert joined == pytest.approx(chance, rel=0.06)
    assert (joined[:3, 0] > 1.3 * joined[:3, 2]).all()


def test_gain_multiplies_what_a_patch_sends_on() -> None:
    plain, more = (light(sunny(2, gain=g), 2, 30_000) for g in (1.0, 3.0))
    assert more == pytest.approx(3 * plain, rel=0.04)


def test_closed_rooms_get_no_sun_but_by_their_openings() -> None:
    """Of two windows one is closed by closure alone: about half of what both give."""
    both, one = sunny(2), sunny(1)
    one.closed = True
    ratio = light(one, 2, 30_000).sum() / light(both, 2, 30_000).sum()
    assert 0.35 < ratio < 0.65


def spread(scene: core.Scene, bounces: int) -> Array:
    """Variance of single samples at each place, relative to the mean squared.

    So many of them that sun met by chance, once in some hundred paths, has a variance that can be told.
    """
    n = 12_000
    found = irradiance_at(
        scene.assembled(), np.repeat(POINTS, n, 0), np.repeat(NORMALS, n, 0), samples=1, seed=5,
        bounces=bounces,
    )[:, 0, 1].reshape(len(POINTS), n)  # fmt: skip
    return found.var(axis=1) / np.maximum(found.mean(axis=1), 1e-20) ** 2


def test_sun_bounced_once_is_nearly_free_of_noise() -> None:
    """On walls 20 times less variance; not on the floor, which no patch of it can light."""
    chance, joined = spread(sunny(0), 1)[:2], spread(sunny(2), 1)[:2]
    assert (joined < chance / 20).all()


def test_with_all_bounces_the_sun_is_calmer_everywhere() -> None:
    assert (spread(sunny(2), 5) < spread(sunny(0), 5)).all()


@pytest.mark.parametrize("make", [lambda: sunny(2), lambda: sunny(2, roughness=0.3)])
def test_the_parts_of_a_picture_still_add_up(make: Callable[[], core.Scene]) -> None:
    """Light of patches is bounced light, and what the first surface mirrors of it is its reflection."""
    view = core.View((2, 4.5, 1.6), (2, 0.5, 1.0), 20, 48, 32)
    film = core.render(make(), view, samples=128, bounces=2, passes=("reflection",))
    direct = core.render(make(), view, samples=128, bounces=0)
    found = block_mean(film.output_pass("direct"), 16)[..., 1]
    wanted = block_mean(direct.beauty, 16)[..., 1]
    assert found == pytest.approx(wanted, rel=0.05, abs=0.02 * float(wanted.max()))
    assert (film.output_pass("reflection") <= film.beauty * 1.001 + 1e-3).all()
