"""Editing a model: parts left out, materials changed by name, clay with exceptions."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np
import pytest

from westlight import core
from westlight.core.model import (
    Material,
    MaterialChange,
    Mesh,
    Model,
    Part,
    Texture,
    doubts,
    edited,
    mean_reflectance,
)
from westlight.core.model.edit import changed
from westlight.core.transport.build import GeometryBuild
from westlight.core.transport.layout import M_COAT
from westlight.core.transport.materials import clay_materials

SQUARE = [[0, 0, 0], [1, 0, 0], [1, 1, 0], [0, 1, 0]], [[0, 1, 2], [0, 2, 3]]


def model() -> Model:
    """Two copies of a wall and a floor that share paint."""
    paint, oak = Material(0.6, name="Paint"), Material((0.4, 0.3, 0.2), name="Oak")
    wall = Mesh.single("wall", *SQUARE, paint)
    floor = Mesh.single("floor", *SQUARE, oak)
    shift = np.eye(4)
    shift[0, 3] = 3
    return Model([Part("Wall 1", wall), Part("Wall 2", wall, shift), Part("Floor", floor)])


def test_hidden_parts_are_gone_and_the_model_stays() -> None:
    whole = model()
    assert [p.name for p in edited(whole, ["Wall 2"])] == ["Wall 1", "Floor"]
    assert len(whole.parts) == 3
    assert edited(whole) == whole.parts


def test_a_change_reaches_all_copies_and_nothing_else() -> None:
    whole = model()
    parts = edited(whole, (), {"Paint": MaterialChange(reflectance=0.3, roughness=0.2)})
    first, second, floor = (p.mesh for p in parts)
    assert first is second
    assert mean_reflectance(first.materials[0]) == pytest.approx(0.3)
    assert first.materials[0].roughness == 0.2
    assert floor is whole.parts[2].mesh
    assert mean_reflectance(whole.parts[0].mesh.materials[0]) == pytest.approx(0.6)


def test_reflectance_keeps_hue_and_knows_textures() -> None:
    oak = Material((0.4, 0.3, 0.2), name="Oak")
    darker = changed(oak, MaterialChange(reflectance=mean_reflectance(oak) / 2))
    assert np.allclose(np.array(darker.rgb) * 2, oak.rgb)
    grey = Texture("t", np.full((4, 4, 4), 188, np.uint8), True)
    plaster = Material(1.0, name="Plaster", base_texture=grey)
    # 188 of 255 in sRGB is about half of the light.
    assert mean_reflectance(plaster) == pytest.approx(0.503, abs=0.005)
    assert mean_reflectance(changed(plaster, MaterialChange(reflectance=0.25))) == pytest.approx(
        0.25, abs=1e-3
    )
    # Brighter than the texture allows: as bright as it gets, and still a real surface.
    assert max(changed(plaster, MaterialChange(reflectance=0.9)).rgb) == 1.0


def test_glass_and_own_light() -> None:
    pane = changed(Material(0.9, name="Pane"), MaterialChange(glass=True, clear_path=False))
    assert pane.is_pane
    assert any("clear path" in d.text for d in doubts(pane))
    assert not changed(pane, MaterialChange(glass=False)).is_pane
    lit = changed(Material(0.5), MaterialChange(emission_cd_m2=300.0))
    assert lit.emits
    assert np.array(lit.emission_rgb) @ core.colour.AP1_LUMINANCE == pytest.approx(300.0)


def test_varnish_and_frost_are_changes_that_need_no_new_geometry() -> None:
    """A coat with its roughness and frost are laid over a material; what is not named stays."""
    oak = Material(0.3, roughness=0.6, coat_roughness=0.4)
    varnished = changed(oak, MaterialChange(coat=0.7))
    assert (varnished.coat, varnished.coat_roughness, varnished.roughness) == (0.7, 0.4, 0.6)
    assert changed(varnished, MaterialChange(coat_roughness=0.0, frost=0.3)).frost == 0.3
    parts = [Part("board", Mesh.single("board", *SQUARE, oak))]
    mesh = replace(parts[0].mesh, materials=[varnished])
    build = GeometryBuild(parts)
    painted = build.adapted([replace(parts[0], mesh=mesh)])
    assert painted is not None
    assert painted.material_floats[0, M_COAT] == pytest.approx(0.7)
    assert build.material_floats[0, M_COAT] == 0.0


def test_doubts_are_said_with_a_remedy() -> None:
    assert doubts(Material(0.8)) == []
    assert "80 %" in doubts(Material(0.97))[0].text
    assert "nearly black" in doubts(Material(0.05, transmission=0.9))[0].text


def test_a_picture_in_its_light_fits_a_part_without_places_for_one() -> None:
    """A wall that was not unwrapped shows the picture once, upright; its light follows it."""
    half = np.zeros((32, 2, 4), np.uint8)
    half[:16] = 255
    picture = Texture("screen", half, srgb=True)
    wall = Mesh.single("wall", [[0, 5, 0], [4, 5, 0], [4, 5, 2], [0, 5, 2]], SQUARE[1],
                       Material(0.1, name="Screen"))  # fmt: skip
    change = MaterialChange(emission_cd_m2=400.0, picture=picture)
    (part,) = edited(Model([Part("Wall", wall)]), (), {"Screen": change})
    assert part.mesh.uvs is not None
    assert part.mesh.uvs.tolist() == [[0, 1], [1, 1], [1, 0], [0, 0]]
    assert wall.uvs is None
    scene = core.Scene()
    material = part.mesh.materials[0]
    scene.add_part(part)
    scene.add_source(core.sources.Glow("screen", material, material.emission_rgb))
    film = core.render(scene, core.View((2, 0, 1), (2, 5, 1), 50, 40, 20), samples=16)
    luminance = film.beauty @ core.colour.AP1_LUMINANCE
    assert luminance[7, 20] == pytest.approx(400, rel=0.02)
    assert luminance[12, 20] == pytest.approx(0, abs=1)


def test_a_picture_without_light_is_doubtful() -> None:
    dark = Material(
        0.1, name="Screen", emission_texture=Texture("t", np.zeros((1, 1, 4), np.uint8), True)
    )
    (doubt,) = doubts(dark)
    assert doubt.change == {"emission_cd_m2": 200.0}
    assert doubts(changed(dark, MaterialChange(emission_cd_m2=200.0))) == []


def test_other_paint_shares_the_geometry() -> None:
    """Repainted, a build is the same to the last number as one made from scratch, hierarchies shared."""
    whole = model()
    build = GeometryBuild(whole.parts)
    paint = {"Paint": MaterialChange(reflectance=0.2, roughness=0.1)}
    quick, fresh = (
        build.adapted(edited(whole, (), paint)),
        GeometryBuild(edited(whole, (), paint)),
    )
    assert quick is not None
    assert quick.scenes is build.scenes
    assert np.array_equal(quick.material_floats, fresh.material_floats)
    assert np.array_equal(quick.material_ints, fresh.material_ints)
    assert np.array_equal(quick.triangle_material, fresh.triangle_material)
    assert build.material_floats[0, 0] == pytest.approx(0.6)


@pytest.mark.parametrize(
    "edit",
    [
        {"hidden": ["Floor"]},
        {"changes": {"Paint": MaterialChange(emission_cd_m2=5.0)}},
        {"changes": {"Paint": MaterialChange(glass=True)}},
        {"own": {"Wall 2": MaterialChange(reflectance=0.1)}},
    ],
)
def test_what_is_more_than_paint_is_built_anew(edit: dict[str, Any]) -> None:
    """Parts gone, light, glass, or one copy told from the others."""
    whole = model()
    assert GeometryBuild(whole.parts).adapted(edited(whole, **edit)) is None


def test_clay_with_exceptions() -> None:
    build = GeometryBuild(model().parts)
    floats, _ = clay_materials(build, 0.5, ["Oak"])
    rows = {m.name: floats[i, :3] for i, m in enumerate(build.materials)}
    assert np.allclose(rows["Paint"], 0.5)
    assert np.allclose(rows["Oak"], (0.4, 0.3, 0.2))


def test_one_part_alone_gets_a_copy_of_its_material() -> None:
    """The other wall keeps the shared paint; the copy says whose it is."""
    whole = model()
    parts = edited(whole, own={"Wall 2": MaterialChange(reflectance=0.2)})
    first, second, floor = (p.mesh for p in parts)
    assert first is whole.parts[0].mesh
    assert floor is whole.parts[2].mesh
    assert second.materials[0].name == "Paint (Wall 2)"
    assert mean_reflectance(second.materials[0]) == pytest.approx(0.2)
    # A change of the shared paint reaches the copy, unless its own says otherwise.
    both = edited(whole, (), {"Paint": MaterialChange(roughness=0.3)},
                  {"Wall 2": MaterialChange(reflectance=0.2)})  # fmt: skip
    assert both[1].mesh.materials[0].roughness == 0.3


def test_solid_glass_is_a_change_like_any_other() -> None:
    pane = Material(0.9, transmission=0.95)
    assert changed(pane, MaterialChange(solid=True)).sheet is False
    assert changed(pane, MaterialChange(solid=False)).sheet is True


def test_a_colour_changes_the_hue_and_not_the_brightness() -> None:
    """Of paint as of glass; with a reflectance told as well the paint has that of the colour's hue."""
    grey, green = Material(0.4), (0.1, 0.5, 0.2)
    made = changed(grey, MaterialChange(colour=green))
    assert mean_reflectance(made) == pytest.approx(0.4)
    assert np.asarray(made.rgb) / made.rgb[1] == pytest.approx(np.array(green) / green[1], abs=1e-6)
    both = changed(grey, MaterialChange(colour=green, reflectance=0.2))
    assert np.asarray(both.rgb) == pytest.approx(np.asarray(made.rgb) / 2, abs=1e-6)
    pane = changed(
        Material((0.9, 0.9, 0.9), transmission=0.95), MaterialChange(colour=green, reflectance=0.3)
    )
    assert pane.is_pane
    assert mean_reflectance(pane) == pytest.approx(0.3)
    assert pane.rgb[1] > 2 * pane.rgb[0]
