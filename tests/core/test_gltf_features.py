"""What exporters put into glTF beside plain meshes: sparse values, instances, quantised points, other pictures, second coordinates."""

from __future__ import annotations

import base64
import io
import json
import struct
from pathlib import Path
from typing import Any

import DracoPy
import numpy as np
import pytest
from PIL import Image

from westlight import core
from westlight.core.errors import ModelError
from westlight.core.model.gltf import is_packed
from westlight.core.model.write import write_glb
from westlight.engine.readers import READERS


class Document:
    """A glTF written by hand, all of it in one file."""

    def __init__(self) -> None:
        self.blob = b""
        self.json: dict[str, Any] = {
            "asset": {"version": "2.0"}, "scene": 0, "scenes": [{"nodes": [0]}], "nodes": [{"mesh": 0}],
            "bufferViews": [], "accessors": [], "materials": [],
        }  # fmt: skip

    def view(self, values: np.ndarray) -> int:
        self.blob += b"\0" * (-len(self.blob) % 4)
        self.json["bufferViews"].append(
            {"buffer": 0, "byteOffset": len(self.blob), "byteLength": values.nbytes}
        )
        self.blob += values.tobytes()
        return len(self.json["bufferViews"]) - 1

    def accessor(self, values: np.ndarray, **more: Any) -> int:
        component = {"float32": 5126, "uint16": 5123, "uint8": 5121, "int16": 5122}[
            values.dtype.name
        ]
        kind = {1: "SCALAR", 2: "VEC2", 3: "VEC3", 4: "VEC4"}[values.shape[1]]
        self.json["accessors"].append({"bufferView": self.view(values), "componentType": component,
                                       "count": len(values), "type": kind, **more})  # fmt: skip
        return len(self.json["accessors"]) - 1

    def mesh(self, **attributes: int) -> None:
        self.json["meshes"] = [{"primitives": [{"attributes": attributes, "material": 0}]}]
        self.json["materials"] = self.json["materials"] or [{"name": "paint"}]

    def picture(self, colour: tuple[int, int, int], kind: str) -> int:
        file = io.BytesIO()
        Image.new("RGB", (4, 4), colour).save(file, kind)
        images = self.json.setdefault("images", [])
        images.append({"uri": "data:;base64," + base64.b64encode(file.getvalue()).decode()})
        return len(images) - 1

    def read(self, folder: Path) -> core.model.Model:
        data = "data:;base64," + base64.b64encode(self.blob).decode()
        self.json["buffers"] = [{"uri": data, "byteLength": len(self.blob)}]
        file = folder / "made.gltf"
        file.write_text(json.dumps(self.json))
        return core.read_model(file)

    def glb(self, file: Path, *more: dict[str, Any]) -> Path:
        """The same as one binary file, with other buffers beside its own."""
        self.json["buffers"] = [{"byteLength": len(self.blob)}, *more]
        text = json.dumps(self.json).encode()
        text += b" " * (-len(text) % 4)
        raw = self.blob + b"\0" * (-len(self.blob) % 4)
        head = struct.pack("<4sII", b"glTF", 2, 28 + len(text) + len(raw))
        chunks = ((text, 0x4E4F534A), (raw, 0x004E4942))
        binary = b"".join(struct.pack("<II", len(c), kind) + c for c, kind in chunks)
        file.write_bytes(head + binary)
        return file


TRIANGLE = np.array([[0, 0, 0], [1, 0, 0], [0, 1, 0]], np.float32)


def test_sparse_values_stand_where_they_are_put(tmp_path: Path) -> None:
    """One point of three is another; and points of an accessor without a buffer are zero but for the sparse ones."""
    made = Document()
    at = made.view(np.array([1], np.uint16))
    values = made.view(np.array([[5, 0, 0]], np.float32))
    sparse = {"count": 1, "indices": {"bufferView": at, "componentType": 5123},
              "values": {"bufferView": values}}  # fmt: skip
    made.mesh(POSITION=made.accessor(TRIANGLE, sparse=sparse))
    (part,) = made.read(tmp_path).parts
    assert part.mesh.vertices[1].tolist() == [5, 0, 0]
    assert part.mesh.vertices[2].tolist() == [0, 1, 0]


def test_instances_are_copies_of_one_mesh(tmp_path: Path) -> None:
    """Three copies, moved, turned and made larger; the mesh is there once."""
    made = Document()
    made.mesh(POSITION=made.accessor(TRIANGLE))
    half = np.sqrt(0.5)
    attributes = {
        "TRANSLATION": made.accessor(np.array([[0, 0, 0], [3, 0, 0], [0, 0, 7]], np.float32)),
        "ROTATION": made.accessor(np.array([[0, 0, 0, 1], [0, 0, half, half], [0, 0, 0, 1]], np.float32)),
        "SCALE": made.accessor(np.array([[1, 1, 1], [1, 1, 1], [2, 2, 2]], np.float32)),
    }  # fmt: skip
    made.json["nodes"][0] |= {"name": "post", "extensions": {"EXT_mesh_gpu_instancing": {"attributes": attributes}}}  # fmt: skip
    made.json["extensionsUsed"] = made.json["extensionsRequired"] = ["EXT_mesh_gpu_instancing"]
    parts = made.read(tmp_path).parts
    assert [p.name for p in parts] == ["post 1", "post 2", "post 3"]
    assert len({id(p.mesh) for p in parts}) == 1
    ends = [core.model.parts.place(p.matrix, p.mesh.vertices[1:2])[0] for p in parts]
    # x stays, y up becomes z, z becomes −y.
    assert ends[0] == pytest.approx([1, 0, 0], abs=1e-6)
    assert ends[1] == pytest.approx([3, 0, 1], abs=1e-6)
    assert ends[2] == pytest.approx([2, -7, 0], abs=1e-6)


def test_quantised_points_are_scaled_by_their_node(tmp_path: Path) -> None:
    made = Document()
    points = np.array([[0, 0, 0, 0], [65535, 0, 0, 0], [0, 65535, 0, 0]], np.uint16)
    view = made.view(points)
    made.json["bufferViews"][view]["byteStride"] = 8
    made.json["accessors"].append({"bufferView": view, "componentType": 5123, "count": 3, "type": "VEC3",
                                   "normalized": True})  # fmt: skip
    made.mesh(POSITION=0)
    made.json["nodes"][0]["scale"] = [4, 4, 4]
    made.json["extensionsRequired"] = made.json["extensionsUsed"] = ["KHR_mesh_quantization"]
    low, high = made.read(tmp_path).bounds()
    assert high - low == pytest.approx([4, 0, 4], abs=1e-4)


@pytest.mark.parametrize("kind", ["webp", "avif"])
def test_pictures_of_other_kinds(tmp_path: Path, kind: str) -> None:
    """The picture of the extension is taken, not the one beside it for others."""
    made = Document()
    made.mesh(POSITION=made.accessor(TRIANGLE),
              TEXCOORD_0=made.accessor(np.zeros((3, 2), np.float32)))  # fmt: skip
    plain, other = made.picture((255, 0, 0), "png"), made.picture((0, 0, 255), kind)
    made.json["textures"] = [{"source": plain, "extensions": {f"EXT_texture_{kind}": {"source": other}}}]  # fmt: skip
    made.json["materials"] = [{"pbrMetallicRoughness": {"baseColorTexture": {"index": 0}}}]
    model = made.read(tmp_path)
    texture = model.parts[0].mesh.materials[0].base_texture
    assert texture is not None
    assert texture.pixels[0, 0, 2] > 200 > 60 > texture.pixels[0, 0, 0]
    assert model.remarks == []


def test_textures_may_lie_by_the_second_coordinates(tmp_path: Path) -> None:
    made = Document()
    first, second = (np.full((3, 2), v, np.float32) for v in (0.1, 0.7))
    made.mesh(POSITION=made.accessor(TRIANGLE), TEXCOORD_0=made.accessor(first),
              TEXCOORD_1=made.accessor(second))  # fmt: skip
    made.json["textures"] = [{"source": made.picture((9, 9, 9), "png")}]
    made.json["materials"] = [
        {"pbrMetallicRoughness": {"baseColorTexture": {"index": 0, "texCoord": 1}}}
    ]
    uvs = made.read(tmp_path).parts[0].mesh.uvs
    assert uvs == pytest.approx(second)


def test_a_picture_packed_as_ktx2_costs_a_remark(tmp_path: Path) -> None:
    """A building that needs it comes in without the picture; a plain one beside it is taken."""
    made = Document()
    plain = made.picture((200, 40, 20), "PNG")
    made.json["images"].append({"uri": "data:;base64,q0tUWCAyMLsNChoK", "name": "oak"})
    both = {"KHR_texture_basisu": {"source": 1}}
    made.json["textures"] = [{"extensions": both}, {"source": plain, "extensions": both}]
    made.json["materials"] = [
        {"name": f"{n}", "pbrMetallicRoughness": {"baseColorTexture": {"index": n}}} for n in (0, 1)
    ]
    made.json["extensionsRequired"] = made.json["extensionsUsed"] = ["KHR_texture_basisu"]
    places = {"POSITION": made.accessor(TRIANGLE)}
    made.json["meshes"] = [{"primitives": [{"attributes": places, "material": n} for n in (0, 1)]}]
    model = made.read(tmp_path)
    first, second = model.parts[0].mesh.materials
    assert first.base_texture is None
    assert second.base_texture is not None
    assert [r for r in model.remarks if "“oak”" in r and "KTX2" in r]


def test_samplers_tell_how_pictures_go_on(tmp_path: Path) -> None:
    """Two textures of one picture by their samplers, one without; written and read again they are the same."""
    made = Document()
    picture = made.picture((200, 40, 20), "PNG")
    made.json["samplers"] = [{"wrapS": 33071, "wrapT": 33648}, {"wrapS": 10497}, {"wrapT": 4711}]
    made.json["textures"] = [
        {"source": picture, **({} if n is None else {"sampler": n})} for n in (0, 1, 2, None, 9)
    ]
    made.json["materials"] = [
        {"name": f"paint {n}", "pbrMetallicRoughness": {"baseColorTexture": {"index": n}}}
        for n in range(5)
    ]
    uvs = np.array([[0, 0], [2, 0], [0, 2]], np.float32)
    places = {"POSITION": made.accessor(TRIANGLE), "TEXCOORD_0": made.accessor(uvs)}
    made.json["meshes"] = [
        {"primitives": [{"attributes": places, "material": n} for n in range(5)]}
    ]
    model = made.read(tmp_path)
    write_glb(model, tmp_path / "again.glb")
    for read in (model, core.read_model(tmp_path / "again.glb")):
        textures = [m.base_texture for m in read.parts[0].mesh.materials]
        assert [t and t.wrap for t in textures] == [
            ("clamp", "mirror"),
            *[("repeat", "repeat")] * 4,
        ]


def test_a_normal_map_of_no_strength_and_a_texture_that_is_not_there(tmp_path: Path) -> None:
    """Strength 0 is 0; a picture that is named only costs a remark."""
    made = Document()
    made.mesh(POSITION=made.accessor(TRIANGLE))
    made.json["textures"] = [{"source": made.picture((128, 128, 255), "png")}, {"source": 9}]
    made.json["materials"] = [{"normalTexture": {"index": 0, "scale": 0},
                               "pbrMetallicRoughness": {"baseColorTexture": {"index": 1}}}]  # fmt: skip
    model = made.read(tmp_path)
    material = model.parts[0].mesh.materials[0]
    assert material.normal_scale == 0
    assert material.base_texture is None
    assert len(model.remarks) == 1


def test_bad_faces_cost_one_remark_and_only_themselves(tmp_path: Path) -> None:
    """A point that is no number takes its faces with it; all that is left out is said in one sentence."""
    made = Document()
    points = np.concatenate([TRIANGLE, [[np.nan, 0, 0], [1, 0, 0], [2, 0, 0]], np.zeros((3, 3)),
                             TRIANGLE + 5]).astype(np.float32)  # fmt: skip
    made.mesh(POSITION=made.accessor(points))
    model = made.read(tmp_path)
    assert model.triangle_count == 2
    (remark,) = model.remarks
    assert remark.startswith("2 faces without area or place")


def packed(made: Document) -> tuple[np.ndarray, np.ndarray]:
    """A dome of triangles with normals and coordinates, packed as other programs do; its points and faces."""
    rng = np.random.default_rng(3)
    points = np.concatenate([rng.random((40, 2)) * 4, np.zeros((40, 1))], axis=1).astype(np.float32)
    points[:, 2] = np.sin(points[:, 0])
    faces = np.array([[n, n + 1, n + 2] for n in range(38)], np.uint32)
    uvs = points[:, :2].astype(np.float64) / 4
    content = DracoPy.encode(points, faces, quantization_bits=16, preserve_order=True, tex_coord=uvs,
                             normals=np.tile([0.0, 0.0, 1.0], (40, 1)))  # fmt: skip
    ids = {a["attribute_type"]: a["unique_id"] for a in DracoPy.decode(content).attributes}
    names = {"POSITION": ids[0], "NORMAL": ids[1], "TEXCOORD_0": ids[3]}
    of = {"POSITION": "VEC3", "NORMAL": "VEC3", "TEXCOORD_0": "VEC2"}
    for name, kind in of.items():
        # Accessors only say what comes out: they have no bytes of their own.
        made.json["accessors"].append({"componentType": 5126, "count": 40, "type": kind})
        of[name] = len(made.json["accessors"]) - 1
    made.json["accessors"].append({"componentType": 5125, "count": 114, "type": "SCALAR"})
    view = made.view(np.frombuffer(content, np.uint8))
    made.mesh(**of)
    made.json["meshes"][0]["primitives"][0] |= {
        "indices": len(made.json["accessors"]) - 1,
        "extensions": {"KHR_draco_mesh_compression": {"bufferView": view, "attributes": names}},
    }
    made.json["extensionsUsed"] = made.json["extensionsRequired"] = ["KHR_draco_mesh_compression"]
    return points, faces


def test_packed_meshes_come_out_as_they_went_in(tmp_path: Path) -> None:
    """Points to the packer's sixteen bits, faces and coordinates at their points."""
    made = Document()
    points, faces = packed(made)
    (part,) = made.read(tmp_path).parts
    mesh = part.mesh
    assert (mesh.faces == faces).all()
    assert mesh.vertices == pytest.approx(points, abs=4 / 2**15)
    assert mesh.uvs is not None
    assert mesh.uvs == pytest.approx(points[:, :2] / 4, abs=2e-3)
    assert mesh.normals is not None
    assert mesh.normals == pytest.approx(np.tile([0, 0, 1], (40, 1)), abs=0.02)


@pytest.mark.parametrize("harm", ["cut", "garbled", "another attribute"])
def test_damaged_packed_meshes_are_refused(tmp_path: Path, harm: str) -> None:
    made = Document()
    packed(made)
    extension = made.json["meshes"][0]["primitives"][0]["extensions"]["KHR_draco_mesh_compression"]
    view = made.json["bufferViews"][extension["bufferView"]]
    if harm == "cut":
        view["byteLength"] //= 3
    elif harm == "garbled":
        made.blob = made.blob[: view["byteOffset"]] + b"\xff" * view["byteLength"]
    else:
        extension["attributes"]["NORMAL"] = 77
    with pytest.raises(ModelError, match="damaged"):
        made.read(tmp_path)


def packed_glb(file: Path) -> Path:
    """A building of one packed mesh as GLB."""
    made = Document()
    packed(made)
    return made.glb(file)


def test_a_packed_building_is_kept_unpacked(tmp_path: Path) -> None:
    """What comes out of the reader of strangers' files needs no codec any more."""
    glb = packed_glb(tmp_path / "made.glb")
    assert is_packed(glb)
    out = tmp_path / "out"
    out.mkdir()
    before = core.read_model(glb).parts[0].mesh
    report = READERS["model"].read(glb, "made.glb", out)
    assert not is_packed(out / report["file"])
    after = core.read_model(out / report["file"]).parts[0].mesh
    assert after.vertices == pytest.approx(before.vertices, abs=1e-6)
    assert (after.faces == before.faces).all()
