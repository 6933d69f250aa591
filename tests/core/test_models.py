"""Building models in: glTF, GLB, OBJ, their copies and materials, and files that are broken."""

from __future__ import annotations

import base64
import io
import json
import struct
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from PIL import Image

from westlight import core
from westlight.core.analysis import find_openings
from westlight.core.analysis.plan import Plan, section_frame, shown_at_first, usual_cut
from westlight.core.errors import ModelError
from westlight.core.model import Mesh, Model, Part, Texture
from westlight.core.model.write import write_glb

from .shapes import box

POINTS = np.array([[0, 0, 0], [1, 0, 0], [0, 1, 0]], "<f4")
INDEX = np.array([0, 1, 2], "<u2")


def _document(**changes: Any) -> tuple[dict[str, Any], bytes]:
    blob = POINTS.tobytes() + INDEX.tobytes() + b"\0\0"
    document: dict[str, Any] = {
        "asset": {"version": "2.0"},
        "scene": 0,
        "scenes": [{"nodes": [0]}],
        "nodes": [
            {"name": "house", "children": [1, 2], "translation": [10, 0, 0]},
            {"name": "left", "mesh": 0, "translation": [0, 2, 0]},
            {"name": "right", "mesh": 0, "rotation": [0, 0.70710678, 0, 0.70710678], "scale": [2, 2, 2],
             "children": [3]},
            {"name": "eye", "camera": 0},
        ],
        "cameras": [{"type": "perspective", "perspective": {"yfov": 0.8, "znear": 0.1}}],
        "meshes": [{"name": "leaf", "primitives": [{"attributes": {"POSITION": 0}, "indices": 1,
                                                    "material": 0}]}],
        "materials": [{"name": "lamp", "pbrMetallicRoughness": {
            "baseColorFactor": [0.5, 0.5, 0.5, 1], "roughnessFactor": 0.3, "metallicFactor": 0},
            "emissiveFactor": [1, 1, 1],
            "extensions": {"KHR_materials_emissive_strength": {"emissiveStrength": 200}}}],
        "accessors": [
            {"bufferView": 0, "componentType": 5126, "count": 3, "type": "VEC3"},
            {"bufferView": 1, "componentType": 5123, "count": 3, "type": "SCALAR"},
        ],
        "bufferViews": [{"buffer": 0, "byteOffset": 0, "byteLength": 36},
                        {"buffer": 0, "byteOffset": 36, "byteLength": 6}],
        "buffers": [{"byteLength": len(blob)}],
        **changes,
    }  # fmt: skip
    return document, blob


def glb(path: Path, **changes: Any) -> Path:
    """A small GLB with a nested node, a copy, a camera and a glowing material."""
    document, blob = _document(**changes)
    text = json.dumps(document).encode()
    text += b" " * (-len(text) % 4)
    blob += b"\0" * (-len(blob) % 4)
    total = 12 + 8 + len(text) + 8 + len(blob)
    path.write_bytes(
        struct.pack("<4sII", b"glTF", 2, total)
        + struct.pack("<II", len(text), 0x4E4F534A) + text
        + struct.pack("<II", len(blob), 0x004E4942) + blob
    )  # fmt: skip
    return path


def test_nested_nodes_copies_and_cameras(tmp_path: Path) -> None:
    """Places compose down the tree, copies share a mesh, y up becomes z up."""
    model = core.read_model(glb(tmp_path / "a.glb"))
    left, right = model.parts
    assert left.mesh is right.mesh
    assert left.path == ("house", "left")
    assert left.matrix[:3, 3] == pytest.approx([10, 0, 2])
    # (1, 0, 0) in the file: scaled to 2, turned a quarter about y to −z, so to +y here.
    corner = right.matrix @ [1, 0, 0, 1]
    assert corner[:3] == pytest.approx([10, 2, 0], abs=1e-5)
    assert model.cameras[0].name == "eye"
    material = model.materials[0]
    assert material.emits
    assert core.colour.luminance(material.emission_rgb) == pytest.approx(200, rel=1e-3)
    assert material.roughness == pytest.approx(0.3)


def test_z_up_files(tmp_path: Path) -> None:
    """A file said to be z up is taken as it is."""
    model = core.read_model(glb(tmp_path / "a.glb"), up="z")
    assert model.parts[0].matrix[:3, 3] == pytest.approx([10, 2, 0])


def test_gltf_with_files_beside_it(tmp_path: Path) -> None:
    """Buffers in a file, or inside as data."""
    document, blob = _document()
    (tmp_path / "b.bin").write_bytes(blob)
    document["buffers"][0]["uri"] = "b.bin"
    file = tmp_path / "b.gltf"
    file.write_text(json.dumps(document))
    assert core.read_model(file).triangle_count == 2
    document["buffers"][0]["uri"] = (
        "data:application/octet-stream;base64," + base64.b64encode(blob).decode()
    )
    file.write_text(json.dumps(document))
    assert core.read_model(file).triangle_count == 2


@pytest.mark.parametrize(
    ("damage", "words"),
    [
        (lambda p: p.write_bytes(b"not a model"), "damaged"),
        (lambda p: p.write_bytes(glb(p).read_bytes()[:400]), "damaged|cut short"),
        (lambda p: glb(p, asset={"version": "1.0"}), "version 2"),
        (
            lambda p: glb(p, extensionsRequired=["EXT_of_tomorrow"]),
            "turn that off",
        ),
        (lambda p: glb(p, buffers=[{"byteLength": 44, "uri": "gone.bin"}]), "gone.bin.*missing"),
        (lambda p: glb(p, buffers=[{"byteLength": 44, "uri": "../../etc/passwd"}]), "missing"),
        (lambda p: glb(p, bufferViews=[{"buffer": 0, "byteLength": 9999}] * 2), "cut short"),
        (lambda p: glb(p, meshes=[]), "damaged|no triangles"),
        (lambda p: glb(p, nodes=[{"children": [0]}]), "ring"),
    ],
)
def test_broken_files_are_refused_in_words(tmp_path: Path, damage: Any, words: str) -> None:
    """Every kind of damage gets a sentence that says what to do, never a traceback."""
    file = tmp_path / "broken.glb"
    damage(file)
    with pytest.raises(ModelError, match=words):
        core.read_model(file)


def test_other_files_and_missing_files(tmp_path: Path) -> None:
    """Wrong kinds and wrong names."""
    with pytest.raises(ModelError, match="no file"):
        core.read_model(tmp_path / "nothing.glb")
    other = tmp_path / "plan.dwg"
    other.write_text("x")
    with pytest.raises(ModelError, match="export it as GLB, glTF, OBJ, IFC"):
        core.read_model(other)


def test_missing_textures_are_a_remark(tmp_path: Path) -> None:
    """A building without one of its pictures still opens."""
    file = glb(
        tmp_path / "t.glb",
        materials=[{"name": "wall", "pbrMetallicRoughness": {"baseColorTexture": {"index": 0}}}],
        textures=[{"source": 0}], images=[{"uri": "brick.png"}],
    )  # fmt: skip
    model = core.read_model(file)
    assert any("brick.png" in r for r in model.remarks)
    assert model.materials[0].base_texture is None


OBJ = """mtllib m.mtl
v 0 0 0
v 2 0 0
v 2 3 0
v 0 3 0
vt 0 0
vt 1 0
vt 1 1
vt 0 1
usemtl red
f 1/1 2/2 3/3 4/4
"""


def test_obj_with_materials(tmp_path: Path) -> None:
    """An OBJ wall with a coloured material, y up."""
    (tmp_path / "w.obj").write_text(OBJ)
    (tmp_path / "m.mtl").write_text("newmtl red\nKd 0.8 0.1 0.1\nNs 0\n")
    model = core.read_model(tmp_path / "w.obj")
    low, high = model.bounds()
    assert high - low == pytest.approx([2, 0, 3], abs=1e-6)
    r, g, _ = model.materials[0].rgb
    assert r > 2 * g > 0
    assert model.triangle_count == 2


def test_obj_without_its_library(tmp_path: Path) -> None:
    """The missing library is named, the shape is there."""
    (tmp_path / "w.obj").write_text(OBJ)
    model = core.read_model(tmp_path / "w.obj")
    assert any("m.mtl" in r for r in model.remarks)
    assert model.triangle_count == 2


def test_bad_points_are_left_out(tmp_path: Path) -> None:
    """Faces with points that are no numbers go, with a remark; the rest stays."""
    blob = np.array([[0, 0, 0], [1, 0, 0], [np.nan, 1, 0]], "<f4").tobytes() + INDEX.tobytes()
    uri = "data:;base64," + base64.b64encode(blob + b"\0\0").decode()
    file = glb(tmp_path / "n.glb", buffers=[{"byteLength": 44, "uri": uri}])
    model = core.read_model(file)
    assert model.triangle_count == 0
    assert model.remarks


def test_a_model_survives_writing(demo_model: Path, tmp_path: Path) -> None:
    """The demo read, written and read again is the same building."""
    first = core.read_model(demo_model)
    write_glb(first, tmp_path / "again.glb")
    second = core.read_model(tmp_path / "again.glb")
    assert second.triangle_count == first.triangle_count
    assert np.array(second.bounds()) == pytest.approx(np.array(first.bounds()), abs=1e-4)
    for a, b in zip(first.materials, second.materials, strict=True):
        assert b.rgb == pytest.approx(a.rgb, abs=1e-3)
        assert (b.is_pane, b.emits) == (a.is_pane, a.emits)


def test_writing_keeps_all_that_light_sees_of_a_material(tmp_path: Path) -> None:
    """Cut-outs, moved pictures, glowing pictures, glass with frost and colour, varnish, paint on the mesh, the tree."""
    rng = np.random.default_rng(1)
    picture = Texture("leaf", rng.integers(0, 255, (4, 6, 4), np.uint8), srgb=True)
    rough = Texture("rough", rng.integers(0, 255, (3, 5, 4), np.uint8), srgb=False)
    made = [
        core.Material(0.6, base_texture=picture, rough_texture=rough, cutout=0.3, alpha=0.7,
                      uv_transform=(0.5, 0.25, 0.1, 2.0, 4.0), name="leaf"),
        core.Material((0.4, 0.8, 0.5), transmission=0.9, ior=1.45, sheet=False, frost=0.35, roughness=0.35,
                      attenuation=(0.4, 0.7, 0.5), attenuation_m=0.4, name="bottle"),
        core.Material(0.3, roughness=0.5, coat=0.8, coat_roughness=0.1, name="varnish"),
        core.Material(0.0, emission_cd_m2=(300.0, 200.0, 100.0), emission_texture=picture, name="screen"),
        core.Material(0.5, vertex_colours=True, name="painted"),
    ]  # fmt: skip
    points = np.array([[0, 0, 0], [1, 0, 0], [0, 2, 3]], np.float32)
    colours = np.array([[0.1, 0.2, 0.3], [0.4, 0.5, 0.3], [0.6, 0.3, 0.2]], np.float32)
    parts = [
        Part(m.name, Mesh(m.name, points, np.array([[0, 1, 2]], np.int32), [m], np.zeros(1, np.int32),
                          uvs=points[:, :2].copy(), colours=colours if m.vertex_colours else None),
             path=("house", "kitchen" if i < 2 else "hall", m.name))
        for i, m in enumerate(made)
    ]  # fmt: skip
    write_glb(Model(parts), tmp_path / "a.glb")
    back = core.read_model(tmp_path / "a.glb")
    assert back.remarks == []
    assert [p.path for p in back.parts] == [p.path for p in parts]
    numbers = ("rgb", "roughness", "transmission", "frost", "attenuation", "attenuation_m", "coat",
               "coat_roughness", "emission_rgb", "cutout", "alpha", "uv_transform")  # fmt: skip
    for old, part in zip(made, back.parts, strict=True):
        (new,) = part.mesh.materials
        for name in numbers:
            assert getattr(new, name) == pytest.approx(getattr(old, name), abs=1e-5), (
                old.name,
                name,
            )
        assert (new.sheet, new.vertex_colours) == (old.sheet, old.vertex_colours)
        assert not old.is_pane or new.ior == old.ior
        for name in ("base_texture", "rough_texture", "emission_texture"):
            a, b = getattr(old, name), getattr(new, name)
            assert (a is None) == (b is None)
            assert a is None or (np.array_equal(a.pixels, b.pixels) and a.srgb == b.srgb)
        assert part.mesh.vertices == pytest.approx(points, abs=1e-6)
    assert back.parts[-1].mesh.colours == pytest.approx(colours, abs=1e-5)
    assert back.parts[0].mesh.colours is None


def test_demo_is_physically_sensible(demo_model: Path) -> None:
    """Right scale, no impossible paint, panes that let light through, a fire that glows."""
    model = core.read_model(demo_model)
    named = {p.name: p for p in model.parts}
    low, high = (np.asarray(v) for v in core.model.parts.part_bounds(named["Floor"]))
    assert 8 < high[0] - low[0] < 20
    assert 500_000 < model.triangle_count < 1_500_000
    assert (
        max(max(m.rgb) for m in model.materials if m.base_texture is None and not m.is_pane) < 0.86
    )
    assert {m.name for m in model.materials if m.is_pane} == {"window glass"}
    assert {m.name for m in model.materials if m.emits} == {"kiln fire", "screen", "lit house pane"}
    assert sum("pot" in p.name or "bowl" in p.name or "jar" in p.name for p in model.parts) > 20


def test_plan_of_a_box(tmp_path: Path) -> None:
    """A box cut through is one filled square; a low box is drawn from above."""
    from westlight.core.analysis import cut_plan
    from westlight.core.model import Material, Mesh, Model, Part

    from .shapes import BOX_FACES

    def solid(name: str, low: tuple[float, ...], high: tuple[float, ...]) -> Part:
        points = [[x, y, z] for x in (low[0], high[0]) for y in (low[1], high[1])
                  for z in (low[2], high[2])]  # fmt: skip
        return Part(name, Mesh.single(name, points, BOX_FACES, Material()))

    model = Model([solid("wall", (0, 0, 0), (4, 0.3, 3)), solid("bench", (1, 1, 0), (2, 2, 0.5))])
    plan = cut_plan(model, 1.2)
    assert len(plan.filled) == 1
    outline = plan.filled[0]
    assert outline.min(axis=0) == pytest.approx([0, 0])
    assert outline.max(axis=0) == pytest.approx([4, 0.3])
    x, y = outline[:-1].T
    area = 0.5 * abs(float((x * np.roll(y, -1) - y * np.roll(x, -1)).sum()))
    assert area == pytest.approx(1.2, rel=1e-3)
    assert len(plan.below) == 1
    assert cut_plan(model, 9.0).filled == []


def test_plan_of_the_demo_shows_its_walls(demo_model: Path) -> None:
    """The cut at 1.2 m: walls as thick as built, the door open, panes in the windows."""
    from westlight.core.analysis import cut_plan

    plan = cut_plan(core.read_model(demo_model), 1.2)
    assert plan.low[0] == pytest.approx(-6.4, abs=2.5)
    assert plan.high[1] == pytest.approx(4.15, abs=2.5)
    assert len(plan.open) >= 3
    inside_door = [p for p in plan.filled if ((p > [-6.4, -1.2]) & (p < [-6.0, 1.2])).all(1).any()]
    assert not inside_door


def test_pictures_keep_their_layers(tmp_path: Path) -> None:
    """An EXR gives back beauty and every source; half floats do not overflow."""
    from westlight.core.files import read_layers, write_exr

    rng = np.random.default_rng(0)
    sun, sky = (rng.uniform(0, 1000, (20, 30, 3)).astype(np.float32) for _ in range(2))
    sun[0, 0] = 1e9
    write_exr(tmp_path / "a.exr", sun + sky, {"Sun": sun, "Clear sky": sky}, recipe="{}")
    layers = read_layers(tmp_path / "a.exr")
    assert set(layers) == {"", "Sun", "Clear sky"}
    assert layers["Clear sky"] == pytest.approx(sky, rel=1e-3)
    assert np.isfinite(layers[""]).all()
    assert layers["Sun"][1:] + layers["Clear sky"][1:] == pytest.approx(layers[""][1:], rel=2e-3)


def test_verticals_stay_vertical() -> None:
    """An upright camera keeps a vertical line upright and still centres its target."""
    view = core.View((0, -6, 1.6), (0, 0, 3.0), upright=True, width_px=200, height_px=100)
    origin, middle = view.ray(0.5, 0.5)
    assert middle / middle[1] * 6 + origin == pytest.approx([0, 0, 3.0], abs=1e-5)
    _, left_up = view.ray(0.2, 0.1)
    _, left_down = view.ray(0.2, 0.9)
    assert left_up[0] / left_up[1] == pytest.approx(left_down[0] / left_down[1], abs=1e-6)
    with pytest.raises(ValueError, match="same place"):
        core.View((0, 0, 0), (0, 0, 0))


def _texture_document(material: dict[str, Any]) -> dict[str, Any]:
    """A document whose material names texture 0, a picture that is not there."""
    return {
        "materials": [material], "textures": [{"source": 0}], "images": [{"uri": DOT}],
    }  # fmt: skip


def _dot() -> str:
    raw = io.BytesIO()
    Image.new("RGBA", (2, 2), (255, 255, 255, 100)).save(raw, "PNG")
    return "data:image/png;base64," + base64.b64encode(raw.getvalue()).decode()


DOT = _dot()


def test_cutouts_coverage_and_moved_textures(tmp_path: Path) -> None:
    """Alpha masks become holes, plain coverage a pane, and a texture transform is kept."""
    pbr = {"baseColorTexture": {"index": 0, "extensions": {"KHR_texture_transform": {
        "offset": [0.5, 0.25], "scale": [2, 4], "rotation": 0.1}}}}  # fmt: skip
    mask = {"alphaMode": "MASK", "alphaCutoff": 0.3, "pbrMetallicRoughness": pbr}
    read = core.read_model(glb(tmp_path / "a.glb", **_texture_document(mask))).materials[0]
    assert read.cutout == 0.3
    assert read.uv_transform == pytest.approx((0.5, 0.25, 0.1, 2.0, 4.0))
    assert not read.is_pane
    thin = {"alphaMode": "BLEND", "pbrMetallicRoughness": {"baseColorFactor": [1, 1, 1, 0.2]}}
    pane = core.read_model(glb(tmp_path / "b.glb", materials=[thin])).materials[0]
    assert pane.transmission == pytest.approx(0.8)
    assert pane.cutout is None


def test_glass_with_a_colour_inside(tmp_path: Path) -> None:
    """Volume makes glass solid; its attenuation is the colour left after a distance."""
    glass = {"extensions": {
        "KHR_materials_transmission": {"transmissionFactor": 1}, "KHR_materials_ior": {"ior": 1.45},
        "KHR_materials_volume": {"attenuationColor": [0.2, 0.8, 0.2], "attenuationDistance": 0.1},
    }}  # fmt: skip
    read = core.read_model(glb(tmp_path / "a.glb", materials=[glass])).materials[0]
    assert not read.sheet
    assert read.ior == 1.45
    assert read.attenuation_m == 0.1
    assert read.attenuation[1] > read.attenuation[0]


def test_clear_coats_and_frost_are_read(tmp_path: Path) -> None:
    """A clear coat with its roughness; solid glass is frosted by the roughness of its faces."""
    varnish = {"extensions": {"KHR_materials_clearcoat": {
        "clearcoatFactor": 0.8, "clearcoatRoughnessFactor": 0.1}}}  # fmt: skip
    frosted = {"pbrMetallicRoughness": {"roughnessFactor": 0.4}, "extensions": {
        "KHR_materials_transmission": {"transmissionFactor": 1}, "KHR_materials_volume": {}}}  # fmt: skip
    coated = core.read_model(glb(tmp_path / "a.glb", materials=[varnish])).materials[0]
    assert (coated.coat, coated.coat_roughness, coated.frost) == (0.8, 0.1, 0.0)
    read = core.read_model(glb(tmp_path / "b.glb", materials=[frosted])).materials[0]
    assert (read.coat, read.frost) == (0.0, 0.4)


def test_vertex_colours_make_a_painted_copy_of_the_material(tmp_path: Path) -> None:
    """The mesh that brings colours is painted; a mesh without them keeps the plain material."""
    document, _ = _document()
    plain = document["meshes"][0]["primitives"][0]
    painted = {**plain, "attributes": {"POSITION": 0, "COLOR_0": 0}}
    model = core.read_model(glb(
        tmp_path / "a.glb", meshes=[{"primitives": [plain]}, {"primitives": [painted]}],
        nodes=[{"mesh": 0}, {"mesh": 1}], scenes=[{"nodes": [0, 1]}],
    ))  # fmt: skip
    one, two = model.parts
    assert one.mesh.colours is None
    assert not one.mesh.materials[0].vertex_colours
    assert two.mesh.materials[0].vertex_colours
    assert two.mesh.colours is not None
    assert two.mesh.colours.shape == (3, 3)


def _glazed_house() -> core.Scene:
    """A house of 4 × 4 × 3 m with one window of two lights in its south wall and a glazed screen
    that stands free on the lawn."""
    scene = core.Scene()
    m, glass = core.Material(0.5), core.Material(1.0, transmission=1.0)
    for low, high in (
        ((0, 0, -0.1), (4, 4, 0)), ((0, 0, 3), (4, 4, 3.1)), ((-0.2, 0, 0), (0, 4, 3)),
        ((4, 0, 0), (4.2, 4, 3)), ((0, 4, 0), (4, 4.2, 3)), ((0, -0.2, 0), (1, 0, 3)),
        ((3, -0.2, 0), (4, 0, 3)), ((1, -0.2, 0), (3, 0, 1)), ((1, -0.2, 2.4), (3, 0, 3)),
    ):  # fmt: skip
        box(scene, low, high, m)
    for x0, x1 in ((1.0, 1.95), (2.05, 3.0)):
        light = [[x0, -0.1, 1], [x1, -0.1, 1], [x1, -0.1, 2.4], [x0, -0.1, 2.4]]
        scene.add_mesh(light, [[0, 1, 2], [0, 2, 3]], glass, "light")
    screen = [[0, -9, 0], [3, -9, 0], [3, -9, 2], [0, -9, 2]]
    scene.add_mesh(screen, [[0, 1, 2], [0, 2, 3]], glass, "screen")
    return scene


def test_openings_of_a_house() -> None:
    """Two lights are one opening that faces in; glass with sky on both sides is none."""
    scene = _glazed_house()
    (found,) = find_openings(scene.parts, scene.assembled().top)
    assert found.inward == pytest.approx((0, 1, 0), abs=1e-6)
    assert found.position == pytest.approx((2.0, -0.1, 1.7), abs=1e-6)
    assert (found.width, found.height) == pytest.approx((2.0, 1.4), abs=1e-6)
    assert find_openings([], core.Scene().assembled().top) == []


def _square(x: float, y: float, size: float) -> np.ndarray:
    return np.array([[x, y], [x + size, y], [x + size, y + size], [x, y + size]])


def _drawn(loops: list[np.ndarray], low: float, high: float) -> Plan:
    return Plan(1.2, loops, [], [], (low, low), (high, high))


def test_a_drawing_shows_the_building_and_of_a_town_the_house_one_stands_in() -> None:
    whole = shown_at_first(_drawn([_square(0, 0, 12)], 0, 12), (-40, 3))
    assert (whole.x, whole.y, whole.span) == pytest.approx((6, 6, 12 * 1.16))
    # Ground that is wider than any house does not count as one.
    town = [_square(0, 0, 10), _square(100, 100, 10), _square(-150, -150, 300)]
    near = shown_at_first(_drawn(town, -150, 150), (4, 5))
    assert (near.x, near.y, near.span) == pytest.approx((5, 5, 11.6))
    assert shown_at_first(_drawn([_square(0, 0, 10)], -100, 100), (80, 80)).span == pytest.approx(
        232
    )


def test_the_usual_cut_is_at_the_sills_or_below_the_eyes() -> None:
    assert [usual_cut(z) for z in (1.55, 11.02, -2.0)] == pytest.approx([1.2, 10.6, 1.2])


def test_an_upright_cut_has_its_own_right_and_up() -> None:
    """Looking north through a point, east of it is to the right; what lies ahead is beyond."""
    frame = section_frame((2.0, 1.0), 90.0)
    assert frame @ [5.0, 1.0, 3.0, 1.0] == pytest.approx([3.0, 3.0, 0.0, 1.0])
    assert (frame @ [2.0, 9.0, 0.0, 1.0])[2] == pytest.approx(-8.0)
