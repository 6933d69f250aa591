"""Glances: further looks through a pixel, which calm its edges and change no mean."""

from __future__ import annotations

import numpy as np
import pytest

from westlight import core
from westlight.core.sources import Sphere, Sun

from .shapes import box, lux, quad, uniform_sky

#: Three times the spread between seeds of what is no light; 1.5 % for light.
MARGIN = {"alpha": 0.003, "albedo": 0.003, "normal": 0.003, "diffuse": 0.01}
PASSES = ("direct", "bounced", "reflection", "transmission", *MARGIN)


def _busy(haze: bool = False) -> core.Scene:
    """What a camera path can meet first: a lamp, a pane, solid glass, varnish, the sky, haze."""
    scene = core.Scene()
    quad(scene, 3, core.Material(0.6, roughness=0.5, coat=0.8, coat_roughness=0.1))
    box(scene, (-1.2, 0.2, 0), (-0.6, 0.6, 0.5), core.Material(0.3, roughness=0.3, metallic=1.0))
    box(
        scene,
        (0.5, -0.5, 0.02),
        (0.9, -0.1, 0.6),
        core.Material(transmission=1.0, sheet=False, clear_path=False),
    )
    pane = core.Material(transmission=0.9)
    scene.add_mesh(
        [[-0.5, -1, 0], [0.3, -1, 0], [0.3, -1, 1.5], [-0.5, -1, 1.5]], [[0, 1, 2], [0, 2, 3]], pane
    )
    scene.add_source(Sun("sun", 200, 35, size=20))  # a broad one: glass gathers it without sparks
    scene.add_source(uniform_sky(3000.0))
    scene.add_source(Sphere("lamp", (0.1, 0.5, 0.9), 0.15, luminance_cd_m2=20_000, reflectance=0.6))
    if haze:
        scene.add_air(core.Air(visibility_m=12.0))
    return scene


VIEW = core.View((0, -3, 0.8), (0, 0, 0.5), 35, 48, 32)


@pytest.mark.parametrize("haze", [False, True])
def test_the_mean_of_every_pass_stays(haze: bool) -> None:
    """Shared between a path and its glances or kept by the path, every light counts once."""
    films = [
        core.render(_busy(haze), VIEW, samples=512, bounces=3, seed=3 + n, glances=(n,),
                    passes=["reflection", "transmission"])
        for n in (0, 3)
    ]  # fmt: skip
    for name in ("sun", "sky", "lamp"):
        a, b = (float(lux(f.contribution(name)).mean()) for f in films)
        assert b == pytest.approx(a, rel=0.015), name
    for name in PASSES:
        a, b = (np.abs(f.output_pass(name)).mean() for f in films)
        assert b == pytest.approx(a, rel=MARGIN.get(name, 0.015)), name


def test_edges_come_to_rest_sooner() -> None:
    """Of a lamp in the dark only its edge is noisy, and the sun's penumbra: both by far less."""
    scene = core.Scene()
    quad(scene, 3, core.Material(0.6))
    box(scene, (-0.8, -0.2, 0), (-0.4, 0.2, 0.6), core.Material(0.5))
    scene.add_source(Sun("sun", 250, 40))
    scene.add_source(Sphere("lamp", (0.5, 0.5, 0.9), 0.2, luminance_cd_m2=20_000))
    spread = {}
    for glances in (0, 7):
        many = [core.render(scene, VIEW, samples=1, bounces=0, seed=s, glances=(glances,))
                for s in range(24)]  # fmt: skip
        spread[glances] = {
            name: np.var([lux(f.contribution(name)) for f in many], axis=0).mean()
            for name in ("sun", "lamp")
        }
    assert spread[0]["sun"] > 8 * spread[7]["sun"]
    # Light of the lamp on the floor is not shared; its edge is.
    assert spread[0]["lamp"] > 4 * spread[7]["lamp"]


def test_glances_are_the_same_whoever_traces() -> None:
    """Films of two halves of the passes hold the same bits as one film of all of them."""
    scene = _busy()
    whole = core.render(scene, VIEW, samples=4, bounces=1, glances=(3, 2, 1), threads=2)
    parts = [
        core.render(scene, VIEW, samples=2, bounces=1, glances=(3, 2, 1), first_sample=n, threads=1)
        for n in (0, 2)
    ]
    for name in ("sun", "sky", "lamp"):
        merged = parts[0].accumulators[name]
        merged.add(parts[1].accumulators[name])
        assert merged.mean() == pytest.approx(whole.accumulators[name].mean(), rel=1e-6)
