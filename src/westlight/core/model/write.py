"""Writing a model as GLB, so that a building of several files becomes one."""

from __future__ import annotations

import io
import json
import struct
from pathlib import Path
from typing import Any

import numpy as np
from PIL import Image

from ..colour import AP1_TO_SRGB
from .material import Material, Texture
from .parts import Mesh, Model

_Z_TO_Y = np.array([[1.0, 0, 0, 0], [0, 0, 1, 0], [0, -1, 0, 0], [0, 0, 0, 1]])
_FLOAT, _UINT = 5126, 5125


class _Writer:
    def __init__(self) -> None:
        self.blob = bytearray()
        self.json: dict[str, list[Any]] = {
            k: [] for k in ("bufferViews", "accessors", "meshes", "nodes", "materials", "textures",
                            "images")
        }  # fmt: skip
        self._textures: dict[Texture, int] = {}
        self._materials: dict[Material, int] = {}
        self._meshes: dict[int, int] = {}

    def append(self, name: str, entry: dict[str, Any]) -> int:
        self.json[name].append(entry)
        return len(self.json[name]) - 1

    def bytes(self, content: bytes) -> int:
        self.blob += b"\0" * (-len(self.blob) % 4)
        view = {"buffer": 0, "byteOffset": len(self.blob), "byteLength": len(content)}
        self.blob += content
        return self.append("bufferViews", view)

    def accessor(self, values: Any, kind: str, component: int) -> int:
        entry = {"bufferView": self.bytes(values.tobytes()), "componentType": component,
                 "count": len(values), "type": kind}  # fmt: skip
        if kind == "VEC3" and len(values):
            entry["min"] = [float(v) for v in values.min(axis=0)]
            entry["max"] = [float(v) for v in values.max(axis=0)]
        return self.append("accessors", entry)

    def texture(self, texture: Texture) -> dict[str, int]:
        if texture not in self._textures:
            out = io.BytesIO()
            Image.fromarray(texture.pixels).save(out, "PNG")
            image = {"bufferView": self.bytes(out.getvalue()), "mimeType": "image/png",
                     "name": texture.name}  # fmt: skip
            source = self.append("images", image)
            self._textures[texture] = self.append("textures", {"source": source})
        return {"index": self._textures[texture]}

    def material(self, m: Material) -> int:
        if m not in self._materials:
            rgb = np.clip(AP1_TO_SRGB @ np.asarray(m.rgb), 0, 1)
            pbr: dict[str, Any] = {"baseColorFactor": [*map(float, rgb), 1.0],
                                   "roughnessFactor": m.roughness, "metallicFactor": m.metallic}  # fmt: skip
            entry: dict[str, Any] = {"name": m.name, "pbrMetallicRoughness": pbr}
            if m.base_texture is not None:
                pbr["baseColorTexture"] = self.texture(m.base_texture)
            if m.rough_texture is not None:
                pbr["metallicRoughnessTexture"] = self.texture(m.rough_texture)
            if m.normal_texture is not None:
                relief = {"scale": m.normal_scale}
                entry["normalTexture"] = {**self.texture(m.normal_texture), **relief}
            extensions: dict[str, Any] = {}
            if m.is_pane:
                extensions["KHR_materials_transmission"] = {"transmissionFactor": m.transmission}
                extensions["KHR_materials_ior"] = {"ior": m.ior}
                if not m.sheet:
                    extensions["KHR_materials_volume"] = {}
            if m.emits:
                emission = np.maximum(AP1_TO_SRGB @ np.asarray(m.emission_rgb), 0)
                strength = float(emission.max())
                entry["emissiveFactor"] = [float(v) for v in emission / strength]
                extensions["KHR_materials_emissive_strength"] = {"emissiveStrength": strength}
            if extensions:
                entry["extensions"] = extensions
            self._materials[m] = self.append("materials", entry)
        return self._materials[m]

    def mesh(self, mesh: Mesh) -> int:
        if id(mesh) in self._meshes:
            return self._meshes[id(mesh)]
        attributes = {"POSITION": self.accessor(mesh.vertices.astype("<f4"), "VEC3", _FLOAT)}
        if mesh.normals is not None:
            attributes["NORMAL"] = self.accessor(mesh.normals.astype("<f4"), "VEC3", _FLOAT)
        if mesh.uvs is not None:
            attributes["TEXCOORD_0"] = self.accessor(mesh.uvs.astype("<f4"), "VEC2", _FLOAT)
        primitives = []
        for row, material in enumerate(mesh.materials):
            faces = mesh.faces[mesh.face_material == row]
            if len(faces):
                index = self.accessor(faces.reshape(-1).astype("<u4"), "SCALAR", _UINT)
                primitives.append({"attributes": attributes, "indices": index,
                                   "material": self.material(material)})  # fmt: skip
        entry = {"name": mesh.name, "primitives": primitives}
        self._meshes[id(mesh)] = self.append("meshes", entry)
        return self._meshes[id(mesh)]


def write_glb(model: Model, path: Path) -> None:
    """Write a model as GLB, y up, metres; copies share their mesh."""
    writer = _Writer()
    for part in model.parts:
        if not len(part.mesh.faces):
            continue
        matrix = (_Z_TO_Y @ part.matrix).T.reshape(-1)
        writer.append("nodes", {"name": part.name, "mesh": writer.mesh(part.mesh),
                                "matrix": [float(v) for v in matrix]})  # fmt: skip
    nodes = list(range(len(writer.json["nodes"])))
    extensions = sorted({e for m in writer.json["materials"] for e in m.get("extensions", {})})
    document = {
        "asset": {"version": "2.0", "generator": "Westlight"}, "scene": 0,
        "scenes": [{"nodes": nodes}], "buffers": [{"byteLength": len(writer.blob)}],
        **{k: v for k, v in writer.json.items() if v},
    }  # fmt: skip
    if extensions:
        document["extensionsUsed"] = extensions
    text = json.dumps(document).encode()
    text += b" " * (-len(text) % 4)
    blob = bytes(writer.blob) + b"\0" * (-len(writer.blob) % 4)
    total = 12 + 8 + len(text) + 8 + len(blob)
    with path.open("wb") as out:
        out.write(struct.pack("<4sII", b"glTF", 2, total))
        out.write(struct.pack("<II", len(text), 0x4E4F534A) + text)
        out.write(struct.pack("<II", len(blob), 0x004E4942) + blob)
