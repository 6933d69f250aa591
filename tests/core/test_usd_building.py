"""Buildings in OpenUSD, written by its own package: where meshes stand, their paint, copies, and what is refused."""

from __future__ import annotations

import zipfile
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from PIL import Image
from pxr import Gf, Sdf, Usd, UsdGeom, UsdLux, UsdShade, Vt

from westlight import core
from westlight.core.colour import srgb_encode, srgb_to_working
from westlight.core.errors import ModelError

SQUARE = [(0, 0, 0), (1, 0, 0), (1, 1, 0), (0, 1, 0)]


def stage(file: Path, up: str = "z", metres: float = 1.0) -> Any:
    made = Usd.Stage.CreateNew(str(file))
    UsdGeom.SetStageUpAxis(made, up.upper())
    UsdGeom.SetStageMetersPerUnit(made, metres)
    return made


def square(made: Any, path: str, at: tuple[float, float, float] = (0, 0, 0)) -> Any:
    mesh = UsdGeom.Mesh.Define(made, path)
    mesh.CreatePointsAttr([Gf.Vec3f(*p) for p in SQUARE])
    mesh.CreateFaceVertexCountsAttr([4])
    mesh.CreateFaceVertexIndicesAttr([0, 1, 2, 3])
    mesh.CreateSubdivisionSchemeAttr("none")
    UsdGeom.XformCommonAPI(mesh).SetTranslate(Gf.Vec3d(*at))
    return mesh


def material(made: Any, path: str, **inputs: Any) -> Any:
    out = UsdShade.Material.Define(made, path)
    shader = UsdShade.Shader.Define(made, f"{path}/surface")
    shader.CreateIdAttr("UsdPreviewSurface")
    for name, value in inputs.items():
        kind = Sdf.ValueTypeNames.Color3f if isinstance(value, tuple) else Sdf.ValueTypeNames.Float
        shader.CreateInput(name, kind).Set(value)
    out.CreateSurfaceOutput().ConnectToSource(shader.ConnectableAPI(), "surface")
    return out


def bind(mesh: Any, to: Any) -> None:
    UsdShade.MaterialBindingAPI.Apply(mesh.GetPrim()).Bind(to)


def placed(part: core.model.Part) -> np.ndarray:
    return np.asarray(part.mesh.vertices @ part.matrix[:3, :3].T + part.matrix[:3, 3])


@pytest.mark.parametrize("suffix", ["usda", "usdc"])
def test_a_mesh_stands_where_it_was_put(tmp_path: Path, suffix: str) -> None:
    """In centimetres, y up: its square lies upright, 2 m along, 3 m high."""
    file = tmp_path / f"a.{suffix}"
    made = stage(file, "y", 0.01)
    house = UsdGeom.Xform.Define(made, "/House")
    UsdGeom.XformCommonAPI(house).SetTranslate(Gf.Vec3d(200, 0, 0))
    UsdGeom.XformCommonAPI(house).SetScale(Gf.Vec3f(100, 100, 100))
    square(made, "/House/Wall", (0, 3, 0))
    made.Save()
    (part,) = core.read_model(file).parts
    assert part.name == "Wall"
    assert part.path == ("House",)
    points = placed(part)
    assert points.min(axis=0) == pytest.approx((2, 0, 3), abs=1e-5)
    assert points.max(axis=0) == pytest.approx((3, 0, 4), abs=1e-5)


def test_paint_glass_and_glow(tmp_path: Path) -> None:
    file = tmp_path / "a.usda"
    made = stage(file)
    red, pane, lamp = (square(made, f"/{n}") for n in ("Red", "Pane", "Lamp"))
    bind(
        red, material(made, "/M/Paint", diffuseColor=(0.5, 0.1, 0.02), roughness=0.4, metallic=0.0)
    )
    bind(pane, material(made, "/M/Glass", diffuseColor=(1.0, 1.0, 1.0), opacity=0.1, ior=1.5))
    bind(lamp, material(made, "/M/Glow", emissiveColor=(1.0, 1.0, 1.0)))
    made.Save()
    found = {p.name: p.mesh.materials[0] for p in core.read_model(file).parts}
    # The stage's numbers are linear.
    assert found["Red"].rgb == pytest.approx(
        srgb_to_working(srgb_encode(np.array((0.5, 0.1, 0.02)))), abs=1e-4
    )
    assert found["Red"].roughness == pytest.approx(0.4)
    assert found["Pane"].transmission == pytest.approx(0.9)
    assert found["Lamp"].emits
    assert not found["Red"].emits


def test_faces_may_have_materials_of_their_own(tmp_path: Path) -> None:
    file = tmp_path / "a.usda"
    made = stage(file)
    mesh = UsdGeom.Mesh.Define(made, "/Wall")
    mesh.CreatePointsAttr([Gf.Vec3f(*p) for p in [*SQUARE, (2, 0, 0), (2, 1, 0)]])
    mesh.CreateFaceVertexCountsAttr([4, 4])
    mesh.CreateFaceVertexIndicesAttr([0, 1, 2, 3, 1, 4, 5, 2])
    bind(mesh, material(made, "/M/Plain", diffuseColor=(0.5, 0.5, 0.5)))
    subset = UsdShade.MaterialBindingAPI(mesh).CreateMaterialBindSubset("tiled", Vt.IntArray([1]))
    bind(subset, material(made, "/M/Tiles", diffuseColor=(0.1, 0.2, 0.5)))
    made.Save()
    (part,) = core.read_model(file).parts
    right = part.mesh.vertices[part.mesh.faces].mean(axis=1)[:, 0] > 1
    names = np.array([part.mesh.materials[m].name for m in part.mesh.face_material])
    assert set(names[right]) == {"Tiles"}
    assert set(names[~right]) == {"Plain"}


@pytest.mark.parametrize("told", ["repeat", "clamp", "black", None])
def test_pictures_inside_a_package(tmp_path: Path, told: str | None) -> None:
    pixels = np.zeros((4, 4, 3), np.uint8)
    pixels[0, 0] = (250, 0, 0)
    Image.fromarray(pixels).save(tmp_path / "wood.png")
    file = tmp_path / "a.usdc"
    made = stage(file)
    mesh = square(made, "/Floor")
    paint = material(made, "/M/Wood", roughness=0.5)
    reader = UsdShade.Shader.Define(made, "/M/Wood/picture")
    reader.CreateIdAttr("UsdUVTexture")
    reader.CreateInput("file", Sdf.ValueTypeNames.Asset).Set("textures/wood.png")
    for way in "ST" if told else "":
        reader.CreateInput(f"wrap{way}", Sdf.ValueTypeNames.Token).Set(told)
    surface = UsdShade.Shader(made.GetPrimAtPath("/M/Wood/surface"))
    surface.CreateInput("diffuseColor", Sdf.ValueTypeNames.Color3f).ConnectToSource(
        reader.ConnectableAPI(), "rgb"
    )
    bind(mesh, paint)
    st = UsdGeom.PrimvarsAPI(mesh).CreatePrimvar(
        "st", Sdf.ValueTypeNames.TexCoord2fArray, "faceVarying"
    )
    st.Set([Gf.Vec2f(0, 0), Gf.Vec2f(1, 0), Gf.Vec2f(1, 1), Gf.Vec2f(0, 1)])
    made.Save()
    with zipfile.ZipFile(tmp_path / "a.usdz", "w") as packed:
        packed.write(file, "a.usdc")
        packed.write(tmp_path / "wood.png", "textures/wood.png")
    part = core.read_model(tmp_path / "a.usdz").parts[0]
    texture, uvs = part.mesh.materials[0].base_texture, part.mesh.uvs
    assert texture is not None
    assert uvs is not None
    # The corner told as (0, 1) is at the top left of the picture.
    corner = int(np.abs(part.mesh.vertices - (0, 1, 0)).sum(axis=1).argmin())
    assert uvs[corner] == pytest.approx((0, 0))
    assert texture.pixels[0, 0, 0] == 250
    held = told in ("clamp", "black")
    assert texture.wrap == (("clamp", "clamp") if held else ("repeat", "repeat"))


def test_copies_stand_at_their_places(tmp_path: Path) -> None:
    """Instances of a reference inside the stage, and scattered ones, which are not also drawn where they lie."""
    file = tmp_path / "a.usda"
    made = stage(file)
    UsdGeom.Xform.Define(made, "/Kinds/Chair")
    square(made, "/Kinds/Chair/Seat", (0, 0, 0.5))
    made.GetPrimAtPath("/Kinds").SetSpecifier(Sdf.SpecifierClass)
    for n, x in enumerate((10.0, 20.0)):
        copy = UsdGeom.Xform.Define(made, f"/Copy{n}")
        copy.GetPrim().GetReferences().AddInternalReference("/Kinds/Chair")
        copy.GetPrim().SetInstanceable(True)
        UsdGeom.XformCommonAPI(copy).SetTranslate(Gf.Vec3d(x, 0, 0))
    trees = UsdGeom.PointInstancer.Define(made, "/Trees")
    square(made, "/Trees/Kinds/Tree", (0, 0, 0))
    trees.CreatePrototypesRel().AddTarget("/Trees/Kinds/Tree")
    trees.CreateProtoIndicesAttr([0, 0, 0])
    trees.CreatePositionsAttr([Gf.Vec3f(x, 50, 0) for x in (1, 2, 3)])
    made.Save()
    parts = core.read_model(file).parts
    corners = sorted(tuple(np.round(placed(p).min(axis=0), 3)) for p in parts)
    assert corners == [(1, 50, 0), (2, 50, 0), (3, 50, 0), (10, 0, 0.5), (20, 0, 0.5)]
    # Copies of one thing are one mesh.
    assert len({id(p.mesh) for p in parts}) == 2


def test_hidden_things_guides_and_stand_ins_are_left_out(tmp_path: Path) -> None:
    file = tmp_path / "a.usda"
    made = stage(file)
    square(made, "/Seen")
    UsdGeom.Imageable(square(made, "/Hidden")).MakeInvisible()
    square(made, "/Guide").CreatePurposeAttr("guide")
    square(made, "/StandIn").CreatePurposeAttr("proxy")
    made.Save()
    assert [p.name for p in core.read_model(file).parts] == ["Seen"]


def test_lamps_and_cameras_come_along(tmp_path: Path) -> None:
    file = tmp_path / "a.usda"
    made = stage(file)
    square(made, "/Floor")
    UsdLux.SphereLight.Define(made, "/Lamp").CreateIntensityAttr(100.0)
    UsdGeom.Camera.Define(made, "/Eye")
    made.Save()
    model = core.read_model(file)
    assert [light.name for light in model.lights] == ["Lamp"]
    assert [camera.name for camera in model.cameras] == ["Eye"]


def test_a_left_handed_face_looks_the_other_way(tmp_path: Path) -> None:
    normals = []
    for hand in ("rightHanded", "leftHanded"):
        file = tmp_path / f"{hand}.usda"
        made = stage(file)
        square(made, "/Wall").CreateOrientationAttr(hand)
        made.Save()
        mesh = core.read_model(file).parts[0].mesh
        a, b, c = mesh.vertices[mesh.faces[0]]
        normals.append(np.cross(b - a, c - a)[2])
    assert normals[0] > 0 > normals[1]


def test_colours_to_display_paint_what_has_no_material(tmp_path: Path) -> None:
    file = tmp_path / "a.usda"
    made = stage(file)
    square(made, "/Even").CreateDisplayColorAttr([Gf.Vec3f(0.5, 0.1, 0.02)])
    made.Save()
    (paint,) = core.read_model(file).materials
    assert paint.rgb == pytest.approx(
        srgb_to_working(srgb_encode(np.array((0.5, 0.1, 0.02)))), abs=1e-4
    )


def test_a_stage_that_pulls_in_files_is_refused(tmp_path: Path) -> None:
    made = stage(tmp_path / "secret.usda")
    square(made, "/Secret")
    made.Save()
    (tmp_path / "a.usda").write_text(
        f"#usda 1.0\n(\n    subLayers = [@{tmp_path}/secret.usda@]\n)\n"
    )
    with pytest.raises(ModelError, match="flatten"):
        core.read_model(tmp_path / "a.usda")
    with zipfile.ZipFile(tmp_path / "a.usdz", "w") as packed:
        packed.writestr("read-me.txt", "nothing")
    with pytest.raises(ModelError, match="no stage"):
        core.read_model(tmp_path / "a.usdz")
