"""FBX, Collada, 3DS, DXF, STL and PLY, written by hand or by an independent writer: one wall, where it stands in metres.

The wall is a triangle from (1, 2, 0) to (2, 2, 0) to (1, 2, 3), z up. Files in centimetres, or with another axis up, say so.
"""

from __future__ import annotations

import struct
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
import trimesh
from PIL import Image

from westlight import core
from westlight.core.colour import srgb_to_working
from westlight.core.errors import ModelError

WALL = np.array([[1.0, 2, 0], [2, 2, 0], [1, 2, 3]])
CLAY = (0.5, 0.25, 0.1)

DAE = """<?xml version="1.0"?>
<COLLADA xmlns="http://www.collada.org/2005/11/COLLADASchema" version="1.4.1">
<asset><unit name="centimetre" meter="0.01"/><up_axis>Z_UP</up_axis></asset>
<library_images><image id="i"><init_from>clay.png</init_from></image></library_images>
<library_effects><effect id="e"><profile_COMMON>PARAMS<technique sid="t"><lambert><diffuse>DIFFUSE</diffuse>
<transparency><float>OPACITY</float></transparency></lambert></technique></profile_COMMON></effect></library_effects>
<library_materials><material id="m" name="Clay"><instance_effect url="#e"/></material></library_materials>
<library_geometries><geometry id="g" name="tri"><mesh>
<source id="p"><float_array id="pa" count="9">0 0 0 100 0 0 0 0 300</float_array><technique_common>
<accessor source="#pa" count="3" stride="3"><param name="X" type="float"/><param name="Y" type="float"/><param name="Z" type="float"/></accessor></technique_common></source>
<source id="u"><float_array id="ua" count="6">0 0 1 0 0 1</float_array><technique_common>
<accessor source="#ua" count="3" stride="2"><param name="S" type="float"/><param name="T" type="float"/></accessor></technique_common></source>
<vertices id="v"><input semantic="POSITION" source="#p"/></vertices>
<triangles count="1" material="mm"><input semantic="VERTEX" source="#v" offset="0"/><input semantic="TEXCOORD" source="#u" offset="1" set="0"/><p>0 0 1 1 2 2</p></triangles>
</mesh></geometry></library_geometries>
<library_visual_scenes><visual_scene id="s"><node id="n" name="Wall"><translate>100 200 0</translate>
<instance_geometry url="#g"><bind_material><technique_common><instance_material symbol="mm" target="#m"><bind_vertex_input semantic="UV" input_semantic="TEXCOORD" input_set="0"/></instance_material></technique_common></bind_material></instance_geometry>
</node></visual_scene></library_visual_scenes><scene><instance_visual_scene url="#s"/></scene></COLLADA>"""

FBX = """; FBX 7.4.0 project file
FBXHeaderExtension:  {
	FBXHeaderVersion: 1003
	FBXVersion: 7400
}
GlobalSettings:  {
	Version: 1000
	Properties70:  {
		P: "UpAxis", "int", "Integer", "",2
		P: "UpAxisSign", "int", "Integer", "",1
		P: "FrontAxis", "int", "Integer", "",1
		P: "FrontAxisSign", "int", "Integer", "",-1
		P: "CoordAxis", "int", "Integer", "",0
		P: "CoordAxisSign", "int", "Integer", "",1
		P: "UnitScaleFactor", "double", "Number", "",1
	}
}
Objects:  {
	Geometry: 1001, "Geometry::tri", "Mesh" {
		Vertices: *9 {
			a: 0,0,0,100,0,0,0,0,300
		}
		PolygonVertexIndex: *3 {
			a: 0,1,-3
		}
		GeometryVersion: 124
		LayerElementMaterial: 0 {
			Version: 101
			Name: ""
			MappingInformationType: "AllSame"
			ReferenceInformationType: "IndexToDirect"
			Materials: *1 {
				a: 0
			}
		}
		Layer: 0 {
			Version: 100
			LayerElement:  {
				Type: "LayerElementMaterial"
				TypedIndex: 0
			}
		}
	}
	Model: 1002, "Model::Wall", "Mesh" {
		Version: 232
		Properties70:  {
			P: "Lcl Translation", "Lcl Translation", "", "A",100,200,0
		}
	}
	Material: 1003, "Material::Clay", "" {
		Version: 102
		ShadingModel: "lambert"
		Properties70:  {
			P: "DiffuseColor", "Color", "", "A",0.5,0.25,0.1
		}
	}
}
Connections:  {
	C: "OO",1002,0
	C: "OO",1001,1002
	C: "OO",1003,1002
}
"""

#: One face of a layer, and a line, which is no part of a building.
DXF = "\n".join(
    ["0", "SECTION", "2", "ENTITIES", "0", "3DFACE", "8", "Wall", "10", "1", "20", "2", "30", "0", "11", "2", "21", "2", "31", "0", "12", "1", "22", "2", "32", "3", "13", "1", "23", "2", "33", "3", "0", "ENDSEC", "0", "EOF"]
)  # fmt: skip


def _collada(file: Path, picture: bool = False, opacity: float = 1.0) -> None:
    params = diffuse = ""
    if picture:
        params = """<newparam sid="f"><surface type="2D"><init_from>i</init_from></surface></newparam>
        <newparam sid="s"><sampler2D><source>f</source></sampler2D></newparam>"""
        diffuse = '<texture texture="s" texcoord="UV"/>'
    else:
        diffuse = f"<color>{' '.join(map(str, CLAY))} 1</color>"
    file.write_text(
        DAE.replace("PARAMS", params).replace("DIFFUSE", diffuse).replace("OPACITY", str(opacity))
    )


def _3ds(file: Path) -> None:
    def chunk(number: int, inside: bytes) -> bytes:
        return struct.pack("<HI", number, len(inside) + 6) + inside

    points = struct.pack("<H9f", 3, *WALL.ravel())
    faces = struct.pack("<H4H", 1, 0, 1, 2, 7) + chunk(0x4130, b"Clay\0" + struct.pack("<HH", 1, 0))
    mesh = chunk(0x4000, b"Wall\0" + chunk(0x4100, chunk(0x4110, points) + chunk(0x4120, faces)))
    paint = chunk(0xA020, chunk(0x0011, bytes(round(255 * c) for c in CLAY)))
    material = chunk(0xAFFF, chunk(0xA000, b"Clay\0") + paint)
    file.write_bytes(chunk(0x4D4D, chunk(0x3D3D, material + mesh)))


def _by_trimesh(file: Path) -> None:
    trimesh.Trimesh(WALL, [[0, 1, 2]], process=False).export(file)


WRITERS: dict[str, Callable[[Path], object]] = {
    "wall.dae": _collada, "wall.fbx": lambda f: f.write_text(FBX), "wall.dxf": lambda f: f.write_text(DXF),
    "wall.3ds": _3ds, "wall.stl": _by_trimesh, "wall.ply": _by_trimesh,
}  # fmt: skip


def _placed(model: core.Model) -> np.ndarray:
    (part,) = model.parts
    corners = part.mesh.vertices[part.mesh.faces.ravel()]
    return np.asarray(corners @ part.matrix[:3, :3].T + part.matrix[:3, 3])


@pytest.mark.parametrize("name", WRITERS)
def test_the_wall_stands_where_it_was_drawn(tmp_path: Path, name: str) -> None:
    WRITERS[name](tmp_path / name)
    made = core.read_model(tmp_path / name, "z" if name.endswith(("stl", "ply")) else "y")
    found = _placed(made)
    # From whichever corner the triangle is told, its turn is that of the drawing.
    turns = [np.roll(WALL, k, axis=0) for k in range(3)]
    assert min(float(np.abs(found - t).max()) for t in turns) < 1e-5


@pytest.mark.parametrize("name", ["wall.dae", "wall.fbx", "wall.3ds"])
def test_its_paint_is_that_of_the_file(tmp_path: Path, name: str) -> None:
    WRITERS[name](tmp_path / name)
    (material,) = core.read_model(tmp_path / name).materials
    assert material.name == "Clay"
    assert material.rgb == pytest.approx(srgb_to_working(CLAY), abs=0.005)
    assert material.transmission == 0


@pytest.mark.parametrize("name", ["wall.dae", "wall.fbx", "wall.dxf"])
def test_parts_have_the_names_of_the_drawing(tmp_path: Path, name: str) -> None:
    WRITERS[name](tmp_path / name)
    assert core.read_model(tmp_path / name).parts[0].name == "Wall"


def test_what_has_no_material_is_plain(tmp_path: Path) -> None:
    for name in ("wall.stl", "wall.ply", "wall.dxf"):
        WRITERS[name](tmp_path / name)
        (material,) = core.read_model(tmp_path / name).materials
        assert material.rgb == pytest.approx((0.5, 0.5, 0.5)), name


def test_a_picture_beside_it_is_laid_as_drawn(tmp_path: Path) -> None:
    """The corner with the coordinates (0, 1) is at the top of the picture."""
    pixels = np.zeros((4, 4, 3), np.uint8)
    pixels[0, 0] = (250, 0, 0)
    Image.fromarray(pixels).save(tmp_path / "CLAY.PNG")
    _collada(tmp_path / "wall.dae", picture=True)
    made = core.read_model(tmp_path / "wall.dae")
    texture, mesh = made.materials[0].base_texture, made.parts[0].mesh
    assert texture is not None
    assert mesh.uvs is not None
    top = int(_placed(made)[:, 2].argmax())
    u, v = mesh.uvs[mesh.faces.ravel()[top]]
    assert (u, v) == pytest.approx((0, 0), abs=1e-6)
    assert texture.pixels[0, 0, 0] == 250


def test_a_missing_picture_is_told(tmp_path: Path) -> None:
    _collada(tmp_path / "wall.dae", picture=True)
    assert any("clay.png" in r for r in core.read_model(tmp_path / "wall.dae").remarks)


def test_glass_lets_light_through(tmp_path: Path) -> None:
    _collada(tmp_path / "pane.dae", opacity=0.2)
    assert core.read_model(tmp_path / "pane.dae").materials[0].transmission == pytest.approx(0.8)


@pytest.mark.parametrize("name", WRITERS)
def test_a_file_that_is_cut_short_is_refused_in_words(tmp_path: Path, name: str) -> None:
    file = tmp_path / name
    WRITERS[name](file)
    raw = file.read_bytes()
    file.write_bytes(raw[: len(raw) // 3])
    with pytest.raises(ModelError, match="wall"):
        core.read_model(file)


def test_colours_of_points_are_kept(tmp_path: Path) -> None:
    colours = np.array([[255, 0, 0, 255], [0, 255, 0, 255], [128, 128, 128, 255]], np.uint8)
    made = trimesh.Trimesh(WALL, [[0, 1, 2]], vertex_colors=colours, process=False)
    made.export(tmp_path / "painted.ply")
    mesh = core.read_model(tmp_path / "painted.ply", "z").parts[0].mesh
    assert mesh.materials[0].vertex_colours
    assert mesh.colours is not None
    assert mesh.colours == pytest.approx(srgb_to_working(colours[:, :3] / 255), abs=1e-5)


def test_points_on_map_coordinates_keep_their_millimetres(tmp_path: Path) -> None:
    far = WALL + np.array((400_000.123, 5_400_000.456, 0))
    rows = "\n".join(f"{x:.3f} {y:.3f} {z:.3f}" for x, y, z in far)
    (tmp_path / "far.ply").write_text(
        "ply\nformat ascii 1.0\nelement vertex 3\nproperty double x\nproperty double y\nproperty double z\n"
        f"element face 1\nproperty list uchar int vertex_indices\nend_header\n{rows}\n3 0 1 2\n"
    )
    made = core.read_model(tmp_path / "far.ply", "z")
    assert np.abs(_placed(made) - far).max() < 2e-3


def test_a_ply_whose_element_has_no_properties_is_refused(tmp_path: Path) -> None:
    """The library comes upon a name it never set."""
    file = tmp_path / "bare.ply"
    file.write_bytes(b"ply\nformat binary_little_endian 1.0\nelement vertex 3\nend_header\n")
    with pytest.raises(ModelError, match="damaged"):
        core.read_model(file)
