"""Writing a model as GLB, so that a building of several files becomes one."""

from __future__ import annotations

import io
import json
import struct
from pathlib import Path
from typing import Any

import numpy as np
from PIL import Image
from scipy.spatial.transform import Rotation

from ..colour import AP1_TO_SRGB
from .material import Material, Texture, Wrap
from .parts import Mesh, Model, Part
from .sound import sound

_Z_TO_Y = np.array([[1.0, 0, 0, 0], [0, 0, 1, 0], [0, -1, 0, 0], [0, 0, 0, 1]])
_FLOAT, _UINT = 5126, 5125
_WRAPS: dict[Wrap, int] = {"repeat": 10497, "clamp": 33071, "mirror": 33648}


class _Writer:
    def __init__(self) -> None:
        self.blob = bytearray()
        self.json: dict[str, list[Any]] = {
            k: [] for k in ("bufferViews", "accessors", "meshes", "nodes", "materials", "textures",
                            "images", "samplers")
        }  # fmt: skip
        self._textures: dict[Texture, int] = {}
        self._samplers: dict[tuple[Wrap, Wrap], int] = {}
        self._materials: dict[Material, int] = {}
        self._meshes: dict[int, int] = {}
        self._groups: dict[tuple[str, ...], int] = {}
        self.extensions: set[str] = set()
        self.roots: list[int] = []

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
            entry = {"source": source}
            if texture.wrap != ("repeat", "repeat"):
                entry["sampler"] = self._sampler(texture.wrap)
            self._textures[texture] = self.append("textures", entry)
        return {"index": self._textures[texture]}

    def _sampler(self, wrap: tuple[Wrap, Wrap]) -> int:
        if wrap not in self._samplers:
            across, down = (_WRAPS[w] for w in wrap)
            self._samplers[wrap] = self.append("samplers", {"wrapS": across, "wrapT": down})
        return self._samplers[wrap]

    def material(self, m: Material) -> int:
        if m not in self._materials:
            pbr: dict[str, Any] = {
                "baseColorFactor": [*_srgb(m.rgb), m.alpha if m.cutout is not None else 1.0],
                "roughnessFactor": m.frost if m.is_pane and not m.sheet else m.roughness,
                "metallicFactor": m.metallic,
            }
            entry: dict[str, Any] = {"name": m.name, "pbrMetallicRoughness": pbr}
            if m.base_texture is not None:
                pbr["baseColorTexture"] = self._placed(m.base_texture, m)
            if m.rough_texture is not None:
                pbr["metallicRoughnessTexture"] = self._placed(m.rough_texture, m)
            if m.normal_texture is not None:
                relief = {"scale": m.normal_scale}
                entry["normalTexture"] = {**self._placed(m.normal_texture, m), **relief}
            if m.cutout is not None:
                entry |= {"alphaMode": "MASK", "alphaCutoff": m.cutout}
            extensions = _glass_and_coat(m)
            if m.emits:
                emission = np.maximum(AP1_TO_SRGB @ np.asarray(m.emission_rgb), 0)
                strength = float(emission.max())
                entry["emissiveFactor"] = [float(v) for v in emission / strength]
                extensions["KHR_materials_emissive_strength"] = {"emissiveStrength": strength}
                if m.emission_texture is not None:
                    entry["emissiveTexture"] = self._placed(m.emission_texture, m)
            if extensions:
                entry["extensions"] = extensions
            self.extensions |= extensions.keys()
            self._materials[m] = self.append("materials", entry)
        return self._materials[m]

    def _placed(self, texture: Texture, m: Material) -> dict[str, Any]:
        """A texture as the material places it."""
        found: dict[str, Any] = dict(self.texture(texture))
        if m.uv_transform is not None:
            dx, dy, turn, sx, sy = m.uv_transform
            moved = {"offset": [dx, dy], "rotation": turn, "scale": [sx, sy]}
            found["extensions"] = {"KHR_texture_transform": moved}
            self.extensions.add("KHR_texture_transform")
        return found

    def mesh(self, mesh: Mesh) -> int:
        if id(mesh) in self._meshes:
            return self._meshes[id(mesh)]
        attributes = {"POSITION": self.accessor(mesh.vertices.astype("<f4"), "VEC3", _FLOAT)}
        if mesh.normals is not None:
            attributes["NORMAL"] = self.accessor(mesh.normals.astype("<f4"), "VEC3", _FLOAT)
        if mesh.uvs is not None:
            attributes["TEXCOORD_0"] = self.accessor(mesh.uvs.astype("<f4"), "VEC2", _FLOAT)
        primitives, painted = [], None
        for row, material in enumerate(mesh.materials):
            faces = mesh.faces[mesh.face_material == row]
            if len(faces):
                index = self.accessor(faces.reshape(-1).astype("<u4"), "SCALAR", _UINT)
                its = attributes
                if material.vertex_colours and mesh.colours is not None:
                    if painted is None:
                        painted = self.accessor(_srgb(mesh.colours).astype("<f4"), "VEC3", _FLOAT)
                    its = attributes | {"COLOR_0": painted}
                primitives.append({"attributes": its, "indices": index,
                                   "material": self.material(material)})  # fmt: skip
        entry = {"name": mesh.name, "primitives": primitives}
        self._meshes[id(mesh)] = self.append("meshes", entry)
        return self._meshes[id(mesh)]

    def part(self, part: Part) -> None:
        """A part below the groups of its path; these have no place of their own."""
        node = self.append("nodes", {"name": part.name, "mesh": self.mesh(part.mesh),
                                     **_moved_turned_scaled(_Z_TO_Y @ part.matrix)})  # fmt: skip
        self._below(part.path[:-1]).append(node)

    def _below(self, path: tuple[str, ...]) -> list[int]:
        """Numbers of what stands in a group, which is made when it is first asked for."""
        if not path:
            return self.roots
        if path not in self._groups:
            above = self._below(path[:-1])
            self._groups[path] = self.append("nodes", {"name": path[-1], "children": []})
            above.append(self._groups[path])
        children: list[int] = self.json["nodes"][self._groups[path]]["children"]
        return children


def _moved_turned_scaled(matrix: Any) -> dict[str, list[float]]:
    """A place as a node tells it; its axes are at right angles (`sound`)."""
    axes = matrix[:3, :3]
    scale = np.linalg.norm(axes, axis=0)
    if np.linalg.det(axes) < 0:
        scale[0] = -scale[0]
    turn = Rotation.from_matrix(axes / scale).as_quat()
    told = {"translation": matrix[:3, 3], "rotation": turn, "scale": scale}
    return {name: [float(v) for v in values] for name, values in told.items()}


def _srgb(colours: Any) -> Any:
    """Linear sRGB of working-space colours (3,) or (n, 3), held to 0…1."""
    found = np.clip(np.asarray(colours) @ AP1_TO_SRGB.T, 0, 1)
    return found.tolist() if found.ndim == 1 else found


def _glass_and_coat(m: Material) -> dict[str, Any]:
    """Extensions of a material that say what glass or cloth it is, and what varnish lies on it."""
    out: dict[str, Any] = {}
    if m.is_pane:
        out["KHR_materials_transmission"] = {"transmissionFactor": m.transmission}
        out["KHR_materials_ior"] = {"ior": m.ior}
        if not m.sheet:
            inside = {
                "attenuationColor": _srgb(m.attenuation), "attenuationDistance": m.attenuation_m,
            }  # fmt: skip
            out["KHR_materials_volume"] = inside if m.attenuation_m > 0 else {}
    if m.translucency > 0 or m.openness > 0:
        sheet: dict[str, Any] = {
            "diffuseTransmissionFactor": m.translucency,
            "diffuseTransmissionColorFactor": _srgb(m.through_rgb),
        }  # fmt: skip
        if m.openness > 0:
            # No extension tells of holes between threads; readers must leave extras alone.
            sheet["extras"] = {"openness": m.openness}
        out["KHR_materials_diffuse_transmission"] = sheet
    if m.coat > 0:
        out["KHR_materials_clearcoat"] = {
            "clearcoatFactor": m.coat, "clearcoatRoughnessFactor": m.coat_roughness,
        }  # fmt: skip
    return out


def write_glb(model: Model, path: Path) -> None:
    """Write a model as GLB, y up, metres; copies share their mesh. Cameras and lights are left out.

    What the format would not hold is mended on the way (`sound`).
    """
    writer = _Writer()
    # It knows meshes by their identity: those that were mended live as long as it.
    made = sound(model)
    for part in made.parts:
        writer.part(part)
    document = {
        "asset": {"version": "2.0", "generator": "Westlight"}, "scene": 0,
        "scenes": [{"nodes": writer.roots}], "buffers": [{"byteLength": len(writer.blob)}],
        **{k: v for k, v in writer.json.items() if v},
    }  # fmt: skip
    if writer.extensions:
        document["extensionsUsed"] = sorted(writer.extensions)
    text = json.dumps(document).encode()
    text += b" " * (-len(text) % 4)
    blob = bytes(writer.blob) + b"\0" * (-len(writer.blob) % 4)
    total = 12 + 8 + len(text) + 8 + len(blob)
    with path.open("wb") as out:
        out.write(struct.pack("<4sII", b"glTF", 2, total))
        out.write(struct.pack("<II", len(text), 0x4E4F534A) + text)
        out.write(struct.pack("<II", len(blob), 0x004E4942) + blob)
