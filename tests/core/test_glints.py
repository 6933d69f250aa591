"""The sun mirrored by floors and water: its known strength, the same mean, and far less noise."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from westlight import core
from westlight.core.model import Mesh, Part
from westlight.core.transport.assemble import Assembled
from westlight.core.transport.render import irradiance_at

from .shapes import box, lux, quad

Array = np.ndarray


def without(assembled: Assembled) -> Assembled:
    """The same scene with every glint left to rays that go by chance."""
    none = np.array([-1, -1], np.int64)
    return replace(assembled, arrays=assembled.arrays._replace(glint_sources=none))


def at_wall(assembled: Assembled, samples: int, bounces: int = 1, seed: int = 0) -> float:
    """Lux for a unit of the sun's illuminance at a wall that faces it, 1.5 m over the floor."""
    rgb = irradiance_at(
        assembled, [[0, 0, 1.5]], [[0, -1, 0]], samples=samples, seed=seed, bounces=bounces
    )
    return float(lux(rgb[0, 0]))


@pytest.mark.parametrize(("elevation", "tilt"), [(20.0, 0.0), (35.0, 0.0), (35.0, 8.0)])
def test_a_metal_floor_doubles_the_sun_on_a_wall(elevation: float, tilt: float) -> None:
    """A level mirror sends E·cos on to a wall as the sun itself does, from below the horizon; one that
    rises to the wall turns it by twice its slope."""
    scene = core.Scene()
    steel = core.Material(1.0, roughness=0.08, metallic=1.0)
    k = np.tan(np.radians(tilt))
    points = [[-80, -80, -80 * k], [80, -80, -80 * k], [80, 0, 0], [-80, 0, 0]]
    scene.add_mesh(points, [[0, 1, 2], [0, 2, 3]], steel)
    scene.add_source(core.sources.Sun("sun", 180, elevation, normal_illuminance_lx=1.0))
    made = scene.assembled()
    direct = np.cos(np.radians(elevation))
    mirrored = np.cos(np.radians(elevation + 2 * tilt))
    assert at_wall(made, 512, 0) == pytest.approx(direct, rel=1e-3)
    # A glint's light comes by few of the draws: 0.4 % of spread between seeds at so many samples.
    assert at_wall(made, 65536) - direct == pytest.approx(mirrored, rel=0.015)


def test_water_mirrors_what_fresnel_says() -> None:
    """A smooth dark dielectric adds its reflectance at this angle (Schlick's, as the lobe has it)."""
    scene = core.Scene()
    quad(scene, 80, core.Material(0.0, roughness=0.1))
    scene.add_source(core.sources.Sun("sun", 180, 15, normal_illuminance_lx=1.0))
    made = scene.assembled()
    cosine = np.sin(np.radians(15))
    wanted = (0.04 + 0.96 * (1 - cosine) ** 5) * np.cos(np.radians(15))
    assert at_wall(made, 4096) - at_wall(made, 64, 0) == pytest.approx(wanted, rel=0.02)


def room(
    floor: core.Material, pane: core.Material | None = None, closed: bool = False, sky: bool = False
) -> Assembled:
    """A room of 4 × 5 × 3 m with a window towards the sun, and water in front of it."""
    scene = core.Scene()
    m = core.Material(0.6)
    for low, high in (
        ((0, 0, 3), (4, 5, 3.2)), ((-0.2, 0, 0), (0, 5, 3)), ((4, 0, 0), (4.2, 5, 3)),
        ((0, 5, 0), (4, 5.2, 3)), ((-0.2, -0.2, -0.2), (1, 0, 3.2)), ((3, -0.2, -0.2), (4.2, 0, 3.2)),
        ((1, -0.2, -0.2), (3, 0, 0.5)), ((1, -0.2, 2.2), (3, 0, 3.2)),
    ):  # fmt: skip
        box(scene, low, high, m)
    scene.add_mesh([[0, 0, 0], [4, 0, 0], [4, 5, 0], [0, 5, 0]], [[0, 1, 2], [0, 2, 3]], floor)
    water = core.Material(0.02, roughness=0.28)
    scene.add_mesh([[-9, -20, -1], [9, -20, -1], [9, -0.3, -1], [-9, -0.3, -1]],
                   [[0, 1, 2], [0, 2, 3]], water)  # fmt: skip
    if pane is not None:
        corners = [[1, -0.1, 0.5], [3, -0.1, 0.5], [3, -0.1, 2.2], [1, -0.1, 2.2]]
        scene.add_mesh(corners, [[0, 1, 2], [0, 2, 3]], pane)
    if closed:
        scene.add_portal((2, -0.1, 1.35), (0, 1, 0), 2.0, 1.7)
        scene.closed = True
    if sky:
        scene.add_source(core.sources.SkySource("sky", core.sky.clear_sky(12.0, 175.0)))
        scene.add_portal((2, -0.1, 1.35), (0, 1, 0), 2.0, 1.7)
    else:
        scene.add_source(core.sources.Sun("sun", 175, 30, normal_illuminance_lx=1.0))
    return scene.assembled()


PLACES = [[2, 4.99, 1.2], [2, 2.5, 2.99], [0.01, 2.0, 1.0]]
FACING = [[0, -1, 0], [0, 0, -1], [1, 0, 0]]


@pytest.mark.parametrize("case", ["varnished", "satin", "behind a pane", "closed"])
def test_glints_do_not_change_the_mean(case: str) -> None:
    """Floors as smooth as chance still finds, at wall and ceiling, with one and more bounces."""
    floor = core.Material(0.4, roughness=0.25)
    if case == "varnished":
        floor = core.Material(0.4, roughness=0.8, coat=1.0, coat_roughness=0.29)
    pane = core.Material((0.9, 0.8, 0.7), transmission=1.0) if case == "behind a pane" else None
    made = room(floor, pane, case == "closed")
    assert made.arrays.glint_sources[0] == 0
    for bounces in (1, 3):
        found, chance = (
            lux(irradiance_at(m, PLACES, FACING, samples=n, seed=7, bounces=bounces)[:, 0])
            for m, n in ((made, 60_000), (without(made), 240_000))
        )
        assert found == pytest.approx(chance, rel=0.05)


def test_a_polished_floor_no_longer_speckles() -> None:
    """At equal samples the wall behind a polished floor has a small part of the variance."""
    made = room(core.Material(0.3, roughness=0.1))
    found, chance = (
        np.var([at_back(m, seed) for seed in range(24)]) for m in (made, without(made))
    )
    assert chance > 20 * found


def test_bright_sky_in_water_keeps_its_mean_and_calms() -> None:
    """The glow around a low sun, mirrored by the water onto the back wall."""
    made = room(core.Material(0.4), sky=True)
    assert list(made.arrays.glint_sources) == [-1, 0]
    found, chance = (
        [
            lux(irradiance_at(m, PLACES, FACING, samples=4096, seed=s, bounces=1)[:, 0])
            for s in range(16)
        ]
        for m in (made, without(made))
    )
    assert np.mean(found, axis=0) == pytest.approx(np.mean(chance, axis=0), rel=0.02)
    assert np.var(chance, axis=0)[0] > 1.5 * np.var(found, axis=0)[0]


def at_back(assembled: Assembled, seed: int) -> float:
    """Lux at the back wall where the floor throws the sun, from 256 samples."""
    rgb = irradiance_at(
        assembled, [[2, 4.99, 0.9]], [[0, -1, 0]], samples=256, seed=seed, bounces=1
    )
    return float(lux(rgb[0, 0]))


def test_only_flat_smooth_surfaces_are_looked_at() -> None:
    """Matte boxes have none, a polished one three ways whatever its turn, clay none."""
    scene = core.Scene()
    box(scene, (0, 0, 0), (1, 2, 3), core.Material(0.5))
    assert not len(scene.geometry().smooth_planes)
    box(scene, (3, 0, 0), (4, 2, 3), core.Material(0.5, roughness=0.1))
    planes = scene.geometry().smooth_planes
    assert sorted(planes[:, 4].round(3)) == [4.0, 6.0, 12.0]
    assert np.abs(planes[:, :3]).max(axis=0) == pytest.approx([1, 1, 1])
    scene.add_source(core.sources.Sun("sun", 180, 30))
    assert scene.assembled().arrays.glint_sources[0] == 0
    assert scene.assembled(clay_reflectance=0.5).arrays.glint_sources[0] == -1


def test_copies_count_each_and_turn_with_their_places() -> None:
    """Three level trays of which one is twice as large, and one that stands on its edge."""
    corners = [[0, 0, 0], [1, 0, 0], [1, 1, 0], [0, 1, 0]]
    tray = Mesh.single("tray", np.array(corners, float), np.array([[0, 1, 2], [0, 2, 3]]),
                       core.Material(0.5, roughness=0.1))  # fmt: skip
    places = [np.eye(4) for _ in range(4)]
    places[1][:3, 3] = 3, 0, 1
    places[2][:3, :3] *= 2
    places[3][:3, :3] = [[1, 0, 0], [0, 0, -1], [0, 1, 0]]
    scene = core.Scene()
    for i, matrix in enumerate(places):
        scene.add_part(Part(f"tray {i}", tray, matrix))
    planes = scene.geometry().smooth_planes
    assert planes[:, 4] == pytest.approx([6.0, 1.0])
    assert planes[:, :3] == pytest.approx(np.array([[0, 0, 1], [0, 1, 0]]), abs=1e-6)
