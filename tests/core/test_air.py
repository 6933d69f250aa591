"""Haze against the laws it follows: attenuation, single scattering by hand, and no light lost."""

from __future__ import annotations

import numpy as np
import pytest

from westlight import core
from westlight.core import Air, Material, Scene, View, render, sources
from westlight.core.colour import AP1_LUMINANCE
from westlight.core.errors import SourceError
from westlight.core.transport.kernels.passes import trace_rows

from .shapes import uniform_sky

WALL = [[-50, 10, -50], [50, 10, -50], [50, 10, 50], [-50, 10, 50]]
QUAD = [[0, 1, 2], [0, 2, 3]]
#: A narrow look along +y.
AHEAD = View((0, 0, 0), (0, 10, 0), focal_length_mm=2000, width_px=8, height_px=8)
BOX = {"low": (-40.0, -1.0, -40.0), "high": (40.0, 60.0, 40.0)}


def luminance(film: core.Film) -> float:
    return float((film.beauty.astype(np.float64) @ AP1_LUMINANCE).mean())


def henyey_greenstein(g: float, cosine: np.ndarray) -> np.ndarray:
    return (1 - g * g) / (4 * np.pi * (1 + g * g - 2 * g * cosine) ** 1.5)


def test_absorbing_air_dims_by_the_law_of_beer_and_lambert() -> None:
    scene = Scene()
    scene.add_mesh(WALL, QUAD, Material(0.0, emission_cd_m2=100.0))
    scene.add_air(Air(visibility_m=20.0, scattering=0.0, **BOX))
    got = luminance(render(scene, AHEAD, samples=1024, bounces=0))
    assert got == pytest.approx(100.0 * np.exp(-3.912 / 20.0 * 10.0), rel=0.03)


def test_haze_that_thins_with_height() -> None:
    scene = Scene()
    scene.add_mesh(np.array(WALL)[:, [0, 2, 1]], QUAD, Material(0.0, emission_cd_m2=100.0))
    scene.add_air(Air(10.0, 0.0, low=(-9, -9, 0), high=(9, 9, 10), thins_over_m=2.5))
    up = View((0, 0, 0), (0.0, 0, 10), focal_length_mm=2000, width_px=8, height_px=8)
    z = (np.arange(4000) + 0.5) / 400
    depth = float(np.exp(-z / 2.5).mean() * 10 * 0.3912)
    got = luminance(render(scene, up, samples=1024, bounces=0))
    assert got == pytest.approx(100 * np.exp(-depth), rel=0.03)


@pytest.mark.parametrize("forward", [0.0, 0.6])
def test_haze_in_even_light_cannot_be_seen(forward: float) -> None:
    scene = Scene()
    scene.add_source(uniform_sky())
    scene.add_air(Air(4.0, 1.0, low=(-2, 2, -2), high=(2, 6, 2), forward=forward))
    scene.add_air(Air(8.0, 1.0, low=(-1, 3, -1), high=(3, 9, 3), forward=-0.3))
    film = render(scene, AHEAD, samples=512, bounces=40)
    assert luminance(film) == pytest.approx(1.0, rel=0.02)


def test_single_scattering_of_a_lamp_by_hand() -> None:
    extinction, g, at = 0.08, 0.4, np.array([3.0, 6.0, 1.0])
    scene = Scene()
    scene.add_source(sources.Sphere("ball", tuple(at), 0.02, luminous_flux_lm=1000))
    scene.add_air(Air(3.912 / extinction, 0.8, forward=g, **BOX))
    t = (np.arange(60000) + 0.5) / 1000
    point = np.stack([0 * t, t, 0 * t], axis=1)
    away = at - point
    d = np.linalg.norm(away, axis=1)
    cosine = away[:, 1] / d
    inside = extinction * 0.8 * henyey_greenstein(g, cosine) * 1000 / (4 * np.pi) / d**2
    wanted = float((inside * np.exp(-extinction * (t + d))).sum() / 1000)
    got = luminance(render(scene, AHEAD, samples=512, bounces=0))
    assert got == pytest.approx(wanted, rel=0.02)


def test_single_scattering_of_the_sun_by_hand() -> None:
    extinction, height = 0.05, 40.0
    scene = Scene()
    scene.add_source(sources.Sun("sun", 90, 35, normal_illuminance_lx=10_000))
    scene.add_air(Air(3.912 / extinction, 1.0, forward=0.3, thins_over_m=12.0, **BOX))
    t = (np.arange(60000) + 0.5) / 1000
    towards = np.array([np.cos(np.radians(35)), 0, np.sin(np.radians(35))])

    def column(z: float) -> float:
        """Metres of bottom density from the lowest point of the box, per unit of height."""
        return 12.0 * (1 - np.exp(-(z + 40.0) / 12.0))

    density = extinction * np.exp(-40.0 / 12.0)
    sunwards = extinction * (column(min(height, 40 / towards[0] * towards[2])) - column(0.0))
    scattered = density * henyey_greenstein(0.3, np.array(0.0)) * 10_000
    wanted = scattered * np.exp(-density * t - sunwards / towards[2]).sum() / 1000
    got = luminance(render(scene, AHEAD, samples=512, bounces=0))
    assert got == pytest.approx(float(wanted), rel=0.02)


def test_colours_of_haze_and_many_lamps_in_it() -> None:
    scene = Scene()
    lamps = [sources.Sphere(f"s{i}", (2.0 + i % 3, 4.0 + i, 1.0), 0.05, luminous_flux_lm=100)
             for i in range(9)]  # fmt: skip
    scene.add_source(sources.Group("many", lamps))
    scene.add_air(Air(30.0, (0.2, 0.5, 1.0), **BOX))
    film = render(scene, AHEAD, samples=256, bounces=0)
    r, _, b = film.beauty.mean(axis=(0, 1))
    assert b == pytest.approx(5 * r, rel=0.05)  # all channels are dimmed alike, scattered by share
    apart = 0.0
    for lamp in lamps:
        alone = Scene()
        alone.add_source(lamp)
        alone.air = scene.air
        apart += luminance(render(alone, AHEAD, samples=256, bounces=0))
    assert luminance(film) == pytest.approx(apart, rel=0.03)


def test_haze_keeps_the_guide_of_what_stands_in_it() -> None:
    scene = Scene()
    scene.add_mesh(WALL, QUAD, Material((0.8, 0.2, 0.2)))
    scene.add_air(Air(2.0, 1.0, **BOX))
    film = render(scene, AHEAD, samples=16, bounces=0)
    assert film.output_pass("albedo")[4, 4] == pytest.approx([0.8, 0.2, 0.2], abs=1e-3)
    assert film.output_pass("depth")[4, 4] == pytest.approx(10.0, abs=1e-2)


def test_a_shaft_of_sun_stands_in_the_haze_of_a_dark_room() -> None:
    scene = Scene()
    box = np.array([[x, y, z] for x in (0, 8) for y in (0, 6) for z in (0, 4)], float)
    faces = [[0, 1, 3], [0, 3, 2], [4, 6, 7], [4, 7, 5], [0, 4, 5], [0, 5, 1], [2, 3, 7], [2, 7, 6],
             [0, 2, 6], [0, 6, 4]]  # fmt: skip
    scene.add_mesh(box, faces, Material(0.0))
    # A ceiling with a slit across the room, 1 m wide.
    for x0, x1 in ((0, 3.5), (4.5, 8)):
        lid = [[x0, 0, 4], [x1, 0, 4], [x1, 6, 4], [x0, 6, 4]]
        scene.add_mesh(lid, QUAD, Material(0.0))
    scene.add_source(sources.Sun("sun", 0, 90, normal_illuminance_lx=50_000))
    scene.add_air(Air(200.0, 1.0, low=(0, 0, 0), high=(8, 6, 4)))
    view = View((1.5, 0.5, 2), (1.5, 6, 2), focal_length_mm=24, width_px=48, height_px=8)
    picture = render(scene, view, samples=64, bounces=0).beauty @ AP1_LUMINANCE
    shaft, dark = float(picture[:, 42:].mean()), float(picture[:, :20].mean())
    assert shaft > 50
    assert dark < 1e-3 * shaft


def test_haze_needs_no_machine_code_of_its_own() -> None:
    """The first haze of a process is traced by what traced clear air: nobody waits for a compiler."""
    scene = Scene()
    scene.add_mesh(WALL, QUAD, Material(0.5, emission_cd_m2=100.0))
    clear = luminance(render(scene, AHEAD, samples=1, bounces=0))
    known = len(trace_rows.signatures)
    scene.add_air(Air(visibility_m=5.0, scattering=0.0, **BOX))
    assert luminance(render(scene, AHEAD, samples=1, bounces=0)) < 0.1 * clear
    assert len(trace_rows.signatures) == known


def test_air_that_could_not_exist_is_refused() -> None:
    for wrong in ({"visibility_m": 0.0}, {"scattering": 1.5}, {"forward": 1.0},
                  {"thins_over_m": -1.0}, {"low": (0, 0, 0), "high": (1, 0, 1)}):  # fmt: skip
        with pytest.raises(SourceError):
            Air(**wrong)  # type: ignore[arg-type]


def test_mirrored_light_and_light_through_glass_are_told_apart() -> None:
    def passes(material: Material, pane: bool = False) -> core.Film:
        scene = Scene()
        scene.add_mesh(np.array(WALL)[:, [0, 2, 1]] * [1, 1, 0] + [0, 0, -1], QUAD, material)
        scene.add_source(uniform_sky())
        if pane:
            scene.add_mesh([[-9, 1, -9], [9, 1, -9], [9, 1, 9], [-9, 1, 9]], QUAD,
                           Material(1.0, transmission=1.0, ior=1.5))  # fmt: skip
        view = View((0, 0, 0), (0, 3, -1), focal_length_mm=85, width_px=8, height_px=8)
        return render(scene, view, samples=64, bounces=1, passes=["reflection", "transmission"])

    mirror = passes(Material(0.9, roughness=0.0, metallic=1.0))
    assert mirror.output_pass("reflection") == pytest.approx(mirror.beauty, rel=1e-3)
    matte = passes(Material(0.5))
    assert matte.output_pass("reflection").max() == 0.0
    varnish = passes(Material(0.2, roughness=0.1))
    share = varnish.output_pass("reflection") / varnish.beauty
    assert 0.05 < share.mean() < 0.6
    seen = passes(Material(0.5), pane=True)
    through, back = seen.output_pass("transmission"), seen.output_pass("reflection")
    assert (through + back) == pytest.approx(seen.beauty, rel=1e-3)
    assert 0.02 < (back / seen.beauty).mean() < 0.35
    scene = Scene()
    scene.add_source(sources.Sun("sun", 0, 90))
    plain = render(scene, AHEAD, samples=1)
    with pytest.raises(ValueError, match="not asked for"):
        plain.output_pass("reflection")
