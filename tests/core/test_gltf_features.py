"""What exporters put into glTF beside plain meshes: sparse values, instances, quantised points, other pictures, second coordinates."""

from __future__ import annotations

import base64
import io
import json
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from PIL import Image

from westlight import core


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
