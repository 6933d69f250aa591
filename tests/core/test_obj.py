"""Wavefront OBJ as exporters really write it, every file by hand, held against what was meant and against another reader."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
import trimesh
from PIL import Image

from westlight import core
from westlight.core.errors import ModelError
from westlight.core.model.mtl import map_name

QUAD = "v 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nvt 0 0\nvt 1 0\nvt 1 1\nvt 0 1\n"


def wall(
    folder: Path, library: str, head: str = "mtllib m.mtl\n", name: str = "paint"
) -> core.model.Model:
    """A square with one material of a library."""
    (folder / "m.mtl").write_text(library)
    file = folder / "w.obj"
    file.write_text(f"{head}{QUAD}usemtl {name}\nf 1/1 2/2 3/3 4/4\n")
    return core.read_model(file)


def material(folder: Path, lines: str) -> core.Material:
    return wall(folder, f"newmtl paint\n{lines}\n").parts[0].mesh.materials[0]


def picture(file: Path, colour: tuple[int, ...]) -> None:
    file.parent.mkdir(parents=True, exist_ok=True)
    Image.new("RGB" if len(colour) == 3 else "RGBA", (4, 4), colour).save(file)


@pytest.mark.parametrize(
    "words",
    [
        "wood.png", "Textures\\Wood.PNG", "C:\\Users\\me\\maps\\WOOD.png", "./textures/wood.png",
        "-s 2 2 2 -o 0.1 0 textures/wood.png", "-bm 0.4 -clamp on wood.png", '"wood.png"',
    ],
)  # fmt: skip
def test_a_map_is_found_however_it_is_named(tmp_path: Path, words: str) -> None:
    """Windows paths, absolute ones, other letters, quotes and options."""
    picture(tmp_path / "textures" / "wood.png", (200, 30, 10))
    made = material(tmp_path, f"map_Kd {words}")
    assert made.base_texture is not None
    assert made.base_texture.pixels[0, 0, 0] == 200


def test_a_map_may_end_at_its_edge(tmp_path: Path) -> None:
    """With its option the edge is drawn out, whatever the map is for; without, the picture repeats."""
    picture(tmp_path / "label.png", (128, 128, 255))
    words = "{} -clamp on label.png"
    assert material(tmp_path, "map_Kd label.png").base_texture.wrap == ("repeat", "repeat")  # type: ignore[union-attr]
    for key, made in (("map_Kd", "base_texture"), ("norm", "normal_texture"), ("map_Pr", "rough_texture"),
                      ("map_Ke", "emission_texture"), ("map_d", "base_texture")):  # fmt: skip
        texture = getattr(material(tmp_path, words.format(key)), made)
        assert texture.wrap == ("clamp", "clamp"), key


def test_blanks_in_names_stay(tmp_path: Path) -> None:
    assert map_name("-bm 1 Oak  floor 2.jpg") == "Oak  floor 2.jpg"
    picture(tmp_path / "Oak floor 2.png", (1, 2, 3))
    assert material(tmp_path, "map_Kd Oak floor 2.png").base_texture is not None


def test_what_is_missing_is_one_remark(tmp_path: Path) -> None:
    model = wall(tmp_path, "newmtl paint\nmap_Kd gone.jpg\n")
    assert model.triangle_count == 2
    (remark,) = model.remarks
    assert "gone.jpg" in remark


@pytest.mark.parametrize(
    ("lines", "through"),
    [
        ("d 0.2", 0.8), ("Tr 0.8", 0.8), ("d -halo 0.2", 0.8), ("d 0.9", 0.0), ("d 0.9\nillum 4", 0.1),
        ("illum 7", 0.0), ("Tr 0", 0.0),
    ],
)  # fmt: skip
def test_what_is_clear_is_glass(tmp_path: Path, lines: str, through: float) -> None:
    assert material(tmp_path, f"Kd 1 1 1\n{lines}").transmission == pytest.approx(through)


def test_later_words_of_materials(tmp_path: Path) -> None:
    """Roughness and metal, emission, a picture of directions, coverage."""
    made = material(tmp_path, "Kd 0.5 0.5 0.5\nPr 0.3\nPm 0.9\nKe 0 1 0")
    assert (made.roughness, made.metallic) == (0.3, 0.9)
    glow = np.array(made.emission_rgb)
    assert glow[1] > 400 > 3 * glow[2]
    picture(tmp_path / "n.png", (128, 128, 255))
    assert material(tmp_path, "norm n.png").normal_texture is not None
    assert material(tmp_path, "map_Bump -bm 0.2 n.png").normal_texture is not None
    picture(tmp_path / "grey.png", (90, 90, 90))
    assert material(tmp_path, "map_Bump grey.png").normal_texture is None
    picture(tmp_path / "leaf.png", (0, 0, 0))
    covered = material(tmp_path, "Kd 0 1 0\nmap_d leaf.png")
    assert covered.cutout == 0.5
    assert covered.base_texture is not None
    assert covered.base_texture.pixels[0, 0].tolist() == [0, 255, 0, 0]
    picture(tmp_path / "r.png", (51, 51, 51))
    rough = material(tmp_path, "map_Pr r.png").rough_texture
    assert rough is not None
    assert rough.pixels[0, 0, 1] == 51


def test_every_object_and_group_is_a_part(tmp_path: Path) -> None:
    file = tmp_path / "g.obj"
    file.write_text(
        QUAD + "o House\ng Wall north\nf 1 2 3\ng Roof\nf 2 3 4\no Shed\nf 1 3 4\nl 1 2\n"
    )
    model = core.read_model(file)
    assert [(p.name, p.path) for p in model.parts] == [
        ("Wall north", ("House", "Wall north")), ("Roof", ("House", "Roof")), ("Shed", ("Shed",)),
    ]  # fmt: skip
    assert any("lines" in r for r in model.remarks)


@pytest.mark.parametrize("code", ["utf-8", "utf-8-sig", "cp1252", "utf-16"])
def test_names_in_any_code(tmp_path: Path, code: str) -> None:
    file = tmp_path / "c.obj"
    file.write_bytes((QUAD + "o Tür Süd\nusemtl Größe\nf 1 2 3\n").encode(code))
    model = core.read_model(file)
    assert model.parts[0].name == "Tür Süd"
    assert model.materials[0].name == "Größe"


def test_corners_by_any_index(tmp_path: Path) -> None:
    """Counted back, without coordinates, with normals only, over several lines."""
    file = tmp_path / "i.obj"
    file.write_text(QUAD + "vn 0 0 1\nf -4//1 -3//1 -2//1\nf 1/1/1 3/3/1 \\\n 4/4/1\n")
    mesh = core.read_model(file).parts[0].mesh
    assert len(mesh.faces) == 2
    assert mesh.normals is not None
    # z of the file becomes −y.
    assert mesh.normals == pytest.approx(np.tile([0, -1, 0], (len(mesh.vertices), 1)))
    assert mesh.uvs is not None


def test_normals_far_into_a_file_count(tmp_path: Path) -> None:
    file = tmp_path / "n.obj"
    file.write_text("# " + "x" * 5_000_000 + "\n" + QUAD + "vn 0 0 1\nf 1//1 2//1 3//1\n")
    assert core.read_model(file).parts[0].mesh.normals is not None


def test_faces_with_dents(tmp_path: Path) -> None:
    """An arrow of four corners and an L of six keep their area; nothing is folded over."""
    file = tmp_path / "d.obj"
    arrow = "v 0 0 0\nv 2 0 0\nv 0.5 0.5 0\nv 0 2 0\n"
    ell = "v 5 0 0\nv 8 0 0\nv 8 1 0\nv 6 1 0\nv 6 3 0\nv 5 3 0\n"
    file.write_text(arrow + ell + "o arrow\nf 1 2 3 4\no ell\nf 5 6 7 8 9 10\n")
    parts = core.read_model(file).parts
    for part, area in zip(parts, (1.0, 5.0), strict=True):
        corners = part.mesh.vertices[part.mesh.faces].astype(float)
        doubled = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
        assert np.linalg.norm(doubled, axis=1).sum() / 2 == pytest.approx(area)
        assert np.abs(doubled.sum(axis=0)).max() / 2 == pytest.approx(area)


def test_colours_of_points(tmp_path: Path) -> None:
    file = tmp_path / "p.obj"
    file.write_text("v 0 0 0 1 0 0\nv 1 0 0 1 0 0\nv 0 1 0 1 0 0\nf 1 2 3\n")
    mesh = core.read_model(file).parts[0].mesh
    assert mesh.colours is not None
    assert mesh.materials[0].vertex_colours
    assert mesh.colours[0, 0] > 3 * mesh.colours[0, 1]


@pytest.mark.parametrize(
    "text", ["f 1 2 3", QUAD + "f 1 2 9", QUAD + "f 1 2 x", "v 1 2\nv a b c\nf 1 2 1"]
)
def test_damaged_files_are_refused_in_words(tmp_path: Path, text: str) -> None:
    file = tmp_path / "bad.obj"
    file.write_text(text)
    with pytest.raises(ModelError, match=r"bad\.obj"):
        core.read_model(file)


def test_another_reader_finds_the_same(tmp_path: Path) -> None:
    """A shape of a library's own writing: same bounds, same area, as many triangles."""
    shape = trimesh.creation.torus(2.0, 0.5)
    shape.export(tmp_path / "t.obj")
    model = core.read_model(tmp_path / "t.obj", "z")
    low, high = model.bounds()
    assert np.stack([low, high]) == pytest.approx(shape.bounds, abs=1e-5)
    assert model.triangle_count == len(shape.faces)
    mesh = model.parts[0].mesh
    corners = mesh.vertices[mesh.faces].astype(float)
    doubled = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    assert np.linalg.norm(doubled, axis=1).sum() / 2 == pytest.approx(shape.area, rel=1e-5)
