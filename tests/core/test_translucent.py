"""Light through cloth, paper and leaves: scattered through, and straight between threads."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
import trimesh

from westlight import core
from westlight.core.model import Texture, read_model
from westlight.core.model.cloths import CLOTHS, kind_of, sent_back
from westlight.core.model.edit import MaterialChange, changed
from westlight.core.model.write import write_glb

from .shapes import lux, quad, uniform_sky
from .test_patches import NORMALS, POINTS
from .test_patches import sunny as sunny_room

SUN_LUX = 1000.0


def shell(material: core.Material, samples: int = 128) -> float:
    """Mean luminance of a thin hollow ball under an even sky of 1 cd/m², with all light inside it."""
    scene = core.Scene()
    shape = trimesh.creation.icosphere(subdivisions=4)
    scene.add_mesh(shape.vertices, shape.faces, material, normals=shape.vertex_normals)
    scene.add_source(uniform_sky())
    view = core.View((0, -4, 0), (0, 0, 0), focal_length_mm=80, width_px=48, height_px=32)
    return float(lux(core.render(scene, view, samples=samples, bounces=60).beauty).mean())


@pytest.mark.parametrize("openness", [0.0, 0.4])
@pytest.mark.parametrize("translucency", [0.2, 0.7, 1.0])
def test_white_cloth_loses_and_makes_no_light(translucency: float, openness: float) -> None:
    """In an even world white is as bright as the world, wherever its light went."""
    cloth = core.Material(1.0, translucency=translucency, openness=openness)
    assert shell(cloth) == pytest.approx(1.0, abs=0.01)


def test_gloss_over_a_translucent_sheet_makes_no_light() -> None:
    """What the gloss mirrors does not get in as well."""
    assert 0.95 < shell(core.Material(1.0, roughness=0.4, translucency=0.5)) < 1.005


def sunny(material: core.Material, below: bool, floor: float | None = None) -> core.Film:
    """A picture of a level sheet under a high sun of `SUN_LUX`, from below or above it, or of a floor close below it."""
    scene = core.Scene()
    quad(scene, 40.0, material)
    if floor is not None:
        scene.add_mesh(
            [(-40, -40, -0.5), (40, -40, -0.5), (40, 40, -0.5), (-40, 40, -0.5)],
            [(0, 1, 2), (0, 2, 3)], core.Material(floor),
        )  # fmt: skip
    scene.add_source(core.sources.Sun("sun", 180, 90, normal_illuminance_lx=SUN_LUX))
    z = -0.25 if floor is not None else (-3.0 if below else 3.0)
    target = -0.5 if floor is not None else 0.0
    view = core.View((0, -0.05 if floor is not None else -0.5, z), (0, 0, target), 100, 16, 12)
    return core.render(scene, view, samples=256, bounces=1 if floor is None else 3)


@pytest.mark.parametrize("openness", [0.0, 0.25])
def test_each_side_gets_its_share_of_the_sun(openness: float) -> None:
    """Luminance is illuminance × share ÷ π on either side, of what does not fall between the threads."""
    cloth = core.Material(0.8, translucency=0.25, through=(0.6, 0.6, 0.6), openness=openness)
    on_threads = (1 - openness) * SUN_LUX / np.pi
    above = float(lux(sunny(cloth, below=False).beauty).mean())
    below = float(lux(sunny(cloth, below=True).beauty).mean())
    assert above == pytest.approx(on_threads * 0.8 * 0.75, rel=0.03)
    assert below == pytest.approx(on_threads * 0.6 * 0.25, rel=0.03)


def test_sun_between_the_threads_falls_straight() -> None:
    """A floor below black net has the openness of the net of its light."""
    net = core.Material(0.0, openness=0.3)
    floor = float(lux(sunny(net, below=True, floor=0.5).beauty).mean())
    assert floor == pytest.approx(0.3 * SUN_LUX * 0.5 / np.pi, rel=0.03)


def test_a_sheet_colours_what_comes_through_and_its_picture_shows() -> None:
    """The colour through is the sheet's own; the base texture is seen against the light."""
    red, white = (core.Material(0.8, translucency=0.5, through=c) for c in ((0.7, 0.1, 0.1), 1.0))
    seen, whole = (sunny(m, below=True).beauty.mean(axis=(0, 1)) for m in (red, white))
    assert seen / whole == pytest.approx(np.array([0.7, 0.1, 0.1]), rel=0.02)
    seen, whole = (sunny(m, below=False).beauty.mean(axis=(0, 1)) for m in (red, white))
    assert seen / whole == pytest.approx(np.ones(3), rel=0.02)
    grey = np.full((2, 2, 4), 188, np.uint8)
    printed = core.Material(1.0, translucency=0.5, base_texture=Texture("grey", grey, srgb=True))
    plain = core.Material(1.0, translucency=0.5)
    ratio = lux(sunny(printed, True).beauty).mean() / lux(sunny(plain, True).beauty).mean()
    assert float(ratio) == pytest.approx(0.503, abs=0.02)


def curtained(portals: int, cloth: core.Material) -> core.Scene:
    """A sunny room with cloth hung before its two windows, inside."""
    scene = sunny_room(portals)
    for x in (0.6, 2.2):
        corners = [[x, 0.12, 0.8], [x + 1.2, 0.12, 0.8], [x + 1.2, 0.12, 2.3], [x, 0.12, 2.3]]
        scene.add_mesh(corners, [[0, 1, 2], [0, 2, 3]], cloth)
    scene.add_source(uniform_sky(2000.0))
    return scene


@pytest.mark.parametrize("openness", [0.0, 0.3])
@pytest.mark.parametrize("bounces", [1, 4])
def test_known_openings_do_not_change_the_light_behind_curtains(
    openness: float, bounces: int
) -> None:
    """Portals, patches of sun and glints find what chance finds, on whichever side of the cloth."""
    cloth = core.Material(0.8, translucency=0.5, through=(0.8, 0.7, 0.5), openness=openness)
    by_chance, joined = (
        core.irradiance(curtained(n, cloth), POINTS, NORMALS, samples=count, bounces=bounces)
        for n, count in ((0, 200_000), (2, 60_000))
    )
    assert joined == pytest.approx(by_chance, rel=0.05, abs=1.0)


def test_kept_light_behind_a_curtain_is_traced_light() -> None:
    """Each side of the cloth keeps its own."""
    cloth = core.Material(0.8, translucency=0.5, through=(0.8, 0.8, 0.8), openness=0.1)
    view = core.View((2.0, 4.7, 1.6), (2.0, 0.0, 1.4), 20, 48, 32)
    traced = core.render(curtained(2, cloth), view, samples=600, bounces=8)
    kept = core.render(curtained(2, cloth), view, samples=200, bounces=8, cache_rounds=60)
    a, b = (float(lux(p.beauty).mean()) for p in (kept, traced))
    assert a == pytest.approx(b, rel=0.02)


def test_it_goes_out_and_comes_in_as_gltf(tmp_path: Path) -> None:
    """By the extension for diffuse transmission; openness in its extras."""
    made = core.Material(
        (0.5, 0.4, 0.3), translucency=0.4, through=(0.6, 0.5, 0.2), openness=0.15, name="cloth"
    )
    mesh = core.model.Mesh.single("sheet", [[0, 0, 0], [1, 0, 0], [0, 1, 0]], [[0, 1, 2]], made)
    write_glb(core.model.Model([core.model.Part("sheet", mesh)]), tmp_path / "a.glb")
    read = read_model(tmp_path / "a.glb").materials[0]
    assert (read.translucency, read.openness) == pytest.approx((0.4, 0.15))
    assert read.through_rgb == pytest.approx(made.through_rgb, abs=1e-4)
    assert b"KHR_materials_diffuse_transmission" in (tmp_path / "a.glb").read_bytes()


def test_a_dyed_cloth_made_translucent_lets_its_own_colour_through() -> None:
    """Unless a colour is told."""
    green = core.Material((0.1, 0.5, 0.1))
    assert changed(green, MaterialChange(translucency=0.3)).through_rgb == (0.1, 0.5, 0.1)
    told = changed(green, MaterialChange(translucency=0.3, through=(1.0, 1.0, 1.0)))
    assert told.through_rgb == (1.0, 1.0, 1.0)


@pytest.mark.parametrize("name", list(CLOTHS))
def test_usual_cloths_keep_their_shares(name: str) -> None:
    """What a material made of one sends back and through, of what falls on its threads, is the table's; all add up to 1 at most."""
    cloth = CLOTHS[name]
    assert cloth.reflectance * cloth.translucency == pytest.approx(cloth.scattered)
    assert cloth.reflectance * (1 - cloth.translucency) == pytest.approx(cloth.back)
    assert cloth.openness + (1 - cloth.openness) * cloth.reflectance <= 1
    made = core.Material(0.3, translucency=cloth.translucency, openness=cloth.openness)
    assert kind_of(made) == (None if name == "blackout" else name)
    threads = (1 - cloth.openness) * 0.3
    assert sent_back(made, 0.3) + threads * cloth.translucency == pytest.approx(threads)


@pytest.mark.parametrize("field", ["translucency", "openness", "through"])
def test_no_sheet_sends_on_more_than_it_gets(field: str) -> None:
    with pytest.raises(ValueError, match="between 0 and 1"):
        core.Material(0.5, **{field: 1.2})
