"""Light that is scattered evenly and light that is mirrored, told apart at each source."""

from __future__ import annotations

import numpy as np
import pytest

from westlight import core
from westlight.core.sources import Group, Rectangle, SkySource

from .shapes import box, quad, uniform_sky

GLOSSY = core.Material((0.5, 0.3, 0.2), roughness=0.25)
MIRROR = core.Material(0.9, roughness=0.02, metallic=1.0)
MATTE = core.Material(0.6)


def _rendered(
    source: object, floor: core.Material, samples: int = 16, air: bool = False
) -> np.ndarray:
    scene = core.Scene()
    quad(scene, 3, floor)
    box(scene, (-0.4, 0.4, 0), (0.4, 1.2, 0.8), GLOSSY)
    scene.add_source(source)  # type: ignore[arg-type]
    view = core.View((0, -3, 1.4), (0, 0.5, 0.3), 28, 32, 20)
    return np.asarray(core.render(scene, view, samples=samples, bounces=3, seed=2).beauty)


def _lamp(**parts: bool) -> Group:
    lamp = Rectangle("lamp", (0.5, 1.5, 2.5), (0, 0, -1), 1.0, 0.6, luminance_cd_m2=900)
    return Group("lamp", [lamp], **parts)


@pytest.mark.parametrize("floor", [GLOSSY, MATTE, MIRROR])
def test_even_and_mirrored_light_add_up(floor: core.Material) -> None:
    both = _rendered(_lamp(), floor)
    even, shine = _rendered(_lamp(glossy=False), floor), _rendered(_lamp(diffuse=False), floor)
    assert np.allclose(even + shine, both, rtol=2e-4, atol=1e-3)
    assert shine.max() > 0
    assert even.max() > 0


def test_a_matte_floor_has_no_shine_and_a_mirror_nothing_else() -> None:
    scene = core.Scene()
    quad(scene, 3, MATTE)
    scene.add_source(_lamp(diffuse=False))
    view = core.View((0, -2, 2), (0, 0.5, 0), 35, 16, 10)
    assert core.render(scene, view, samples=8, bounces=0).beauty.max() == 0.0
    mirror = core.Scene()
    quad(mirror, 3, MIRROR)
    mirror.add_source(_lamp(glossy=False))
    assert core.render(mirror, view, samples=8, bounces=0).beauty.max() == 0.0


def test_a_sky_lights_mirrors_and_shows_apart() -> None:
    """A sky of 1 cd/m²: lit ×1, mirrored ×3 from a picture of 2 cd/m²."""
    sky = uniform_sky(1.0)
    sky.mirrored, sky.other = 3.0, np.full((4, 8, 3), 2.0, np.float32)
    scene = core.Scene()
    quad(scene, 3, MIRROR)
    scene.add_source(sky)
    down = core.View((0, 0, 2), (0, 0.01, 0), 50, 8, 8)
    seen = core.render(scene, down, samples=32, bounces=2).beauty
    assert float(np.median(seen)) == pytest.approx(0.9 * 6.0, rel=0.02)
    matte = core.Scene()
    quad(matte, 3, MATTE)
    matte.add_source(sky)
    lit = core.render(matte, down, samples=64, bounces=2).beauty
    assert float(np.median(lit)) == pytest.approx(0.6, rel=0.03)
    up = core.View((0, 0, 2), (0, 0.01, 4), 50, 8, 8)
    assert float(np.median(core.render(matte, up, samples=4).beauty)) == pytest.approx(
        1.0, rel=1e-3
    )


def wall(scene: core.Scene, y: float, material: core.Material) -> None:
    """An upright square of 18 m facing the camera."""
    points = [[-9, y, -9], [9, y, -9], [9, y, 9], [-9, y, 9]]
    scene.add_mesh(points, [[0, 1, 2], [0, 2, 3]], material, "wall")


def test_a_pane_mirrors_the_other_picture() -> None:
    """Looking obliquely at a pane before a black wall: only what it mirrors is left."""

    def pane(mirrored: float) -> float:
        sky: SkySource = uniform_sky(1.0)
        sky.mirrored = mirrored
        scene = core.Scene()
        glass = core.Material(1.0, roughness=0.0, transmission=1.0, ior=1.52)
        wall(scene, 0, glass)
        wall(scene, 1, core.Material(0.0))
        scene.add_source(sky)
        view = core.View((0, -2, 0), (0.01, 0, 0), 80, 8, 8)
        return float(core.render(scene, view, samples=64, bounces=2).beauty.mean())

    assert pane(0.0) == pytest.approx(0.0, abs=1e-3)
    assert pane(2.0) == pytest.approx(2 * pane(1.0), rel=0.02)
