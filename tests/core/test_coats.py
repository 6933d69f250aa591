"""Clear coats over surfaces, and frosted faces of solid glass."""

from __future__ import annotations

import numpy as np
import pytest
import trimesh

from westlight import core
from westlight.core.transport.energy import energy_tables

from .shapes import box, lux, quad, uniform_sky


def ball(material: core.Material, samples: int = 192) -> float:
    """Mean luminance of a picture of a ball under an even sky of 1 cd/m²."""
    scene = core.Scene()
    shape = trimesh.creation.icosphere(subdivisions=4)
    scene.add_mesh(shape.vertices, shape.faces, material, normals=shape.vertex_normals)
    scene.add_source(uniform_sky())
    view = core.View((0, -4, 0), (0, 0, 0), focal_length_mm=80, width_px=48, height_px=32)
    return float(lux(core.render(scene, view, samples=samples, bounces=40).beauty).mean())


@pytest.mark.parametrize("coat_roughness", [0.05, 0.4])
@pytest.mark.parametrize(("roughness", "metallic"), [(1.0, 0.0), (0.5, 0.0), (0.3, 1.0)])
def test_a_coat_over_white_loses_and_makes_no_light(
    coat_roughness: float, roughness: float, metallic: float
) -> None:
    material = core.Material(1.0, roughness=roughness, metallic=metallic, coat=1.0,
                             coat_roughness=coat_roughness)  # fmt: skip
    assert ball(material) == pytest.approx(1.0, abs=0.008)


def from_above(material: core.Material, degrees: float) -> float:
    """Luminance of a floor under an even sky of 1 cd/m², seen so far from upright."""
    scene = core.Scene()
    quad(scene, 50.0, material)
    scene.add_source(uniform_sky())
    a = np.radians(degrees)
    view = core.View((0, -5 * np.sin(a), 5 * np.cos(a)), (0, 0, 0), 400, 16, 12)
    return float(lux(core.render(scene, view, samples=256, bounces=2).beauty).mean())


@pytest.mark.parametrize("degrees", [10.0, 60.0, 80.0])
def test_black_under_a_coat_shows_what_the_coat_mirrors(degrees: float) -> None:
    """The albedo of a dielectric lobe at that angle, and half of it for half a coat."""
    table = energy_tables()[0][1]
    column = np.cos(np.radians(degrees)) * (table.shape[1] - 1)
    wanted = np.interp(column, np.arange(table.shape[1]), table[0])
    full = from_above(core.Material(0.0, coat=1.0), degrees)
    half = from_above(core.Material(0.0, coat=0.5), degrees)
    assert full == pytest.approx(wanted, rel=0.06)
    assert half == pytest.approx(full / 2, rel=0.05)


def test_what_lies_below_a_coat_gets_less_light() -> None:
    """A matte grey keeps what the coat lets through, and the mirrored sky comes on top."""
    grey, coated = (from_above(core.Material(0.5, coat=c), 60.0) for c in (0.0, 1.0))
    mirrored = from_above(core.Material(0.0, coat=1.0), 60.0)
    assert coated == pytest.approx(grey * (1 - mirrored) + mirrored, rel=0.01)


def test_clay_has_no_coat() -> None:
    scene = core.Scene()
    quad(scene, 50.0, core.Material(0.2, coat=1.0))
    scene.add_source(uniform_sky())
    view = core.View((0, -5, 1), (0, 0, 0), 400, 16, 12)
    film = core.render(scene, view, samples=64, bounces=1, clay_reflectance=0.5)
    assert float(lux(film.beauty).mean()) == pytest.approx(0.5, rel=0.01)


def glass(frost: float) -> core.Material:
    return core.Material(1.0, transmission=1.0, ior=1.5, sheet=False, clear_path=False, frost=frost)


@pytest.mark.parametrize("frost", [0.0, 0.3, 0.8])
def test_frosted_glass_keeps_all_light(frost: float) -> None:
    """A solid ball of glass that absorbs nothing cannot be seen against an even sky."""
    assert ball(glass(frost)) == pytest.approx(1.0, abs=0.01)


def through_slab(frost: float) -> float:
    """What a slab shows of a narrow bright disc of sky straight behind it."""
    picture = np.zeros((64, 128, 3))
    picture[-1:] = 100.0
    scene = core.Scene()
    box(scene, (-9, -9, 0), (9, 9, 0.2), glass(frost))
    scene.add_source(core.sources.HdriSource("sky", picture))
    view = core.View((0, 0, 3), (0, 0.001, 0), focal_length_mm=500, width_px=8, height_px=6)
    return float(lux(core.render(scene, view, samples=512).beauty).mean())


def test_frost_blurs_what_is_behind_glass() -> None:
    clear, slight, strong = (through_slab(f) for f in (0.0, 0.4, 0.8))
    assert clear > 1.5 * slight > 3.0 * strong > 0


@pytest.mark.parametrize("bad", [{"coat": 1.2}, {"coat_roughness": -0.1}, {"frost": 2.0}])
def test_impossible_coats_are_refused(bad: dict[str, float]) -> None:
    with pytest.raises(ValueError, match="between 0 and 1"):
        core.Material(0.5, **bad)
