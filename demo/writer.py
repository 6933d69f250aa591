"""Writing the building as one GLB: shared meshes, copies as nodes, textures inside."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import numpy as np
import numpy.typing as npt
import pygltflib as gl

from .shapes import Solid
from .surfaces import SURFACES, Surface, texture_files


@dataclass
class Piece:
    """A named part: pieces of solid by material name, placed once or many times."""

    name: str
    solids: list[tuple[Solid, str]]
    group: str
    places: list[npt.NDArray[np.float64]] = field(default_factory=lambda: [np.eye(4)])


def placed(
    x: float, y: float, z: float, turn_deg: float = 0.0, scale: float = 1.0
) -> npt.NDArray[np.float64]:
    """Matrix of a copy: turned about the vertical, scaled, moved."""
    a = np.radians(turn_deg)
    m = np.eye(4)
    m[:2, :2] = [[np.cos(a), -np.sin(a)], [np.sin(a), np.cos(a)]]
    m[:3, :3] *= scale
    m[:3, 3] = x, y, z
    return m


#: Building (z up) to glTF (y up).
_TURN = np.array([[1.0, 0, 0, 0], [0, 0, 1, 0], [0, -1, 0, 0], [0, 0, 0, 1]])


def _unit(vectors: npt.NDArray[np.float32]) -> npt.NDArray[np.float32]:
    return np.asarray(vectors / np.maximum(np.linalg.norm(vectors, axis=1, keepdims=True), 1e-6))


def _tangents(
    points: npt.NDArray[np.float64], normals: npt.NDArray[np.float64], uvs: npt.NDArray[np.float64]
) -> npt.NDArray[np.float64]:
    """Direction of growing u at every corner, and the side on which the picture's top lies (±1)."""
    p, t = points.reshape(-1, 3, 3), uvs.reshape(-1, 3, 2)
    e1, e2 = p[:, 1] - p[:, 0], p[:, 2] - p[:, 0]
    d1, d2 = t[:, 1] - t[:, 0], t[:, 2] - t[:, 0]
    turn = np.where(d1[:, :1] * d2[:, 1:] - d2[:, :1] * d1[:, 1:] < 0, -1.0, 1.0)
    u = np.repeat((d2[:, 1:] * e1 - d1[:, 1:] * e2) * turn, 3, axis=0)
    up = np.repeat(-(d1[:, :1] * e2 - d2[:, :1] * e1) * turn, 3, axis=0)
    # A corner without a usable texture takes any direction along its surface.
    any_way = np.where(np.abs(normals[:, :1]) < 0.9, [[1.0, 0, 0]], [[0.0, 1, 0]])
    u = np.where(np.linalg.norm(u, axis=1, keepdims=True) > 1e-12, u, any_way)
    u -= normals * (u * normals).sum(axis=1, keepdims=True)
    u = np.where(np.linalg.norm(u, axis=1, keepdims=True) > 1e-9, u, np.cross(normals, any_way))
    u /= np.maximum(np.linalg.norm(u, axis=1, keepdims=True), 1e-12)
    side = np.where((np.cross(normals, u) * up).sum(axis=1, keepdims=True) < 0, -1.0, 1.0)
    return np.asarray(np.concatenate([u, side], axis=1))


class GlbWriter:
    """Collects pieces and writes them."""

    def __init__(
        self, name: str = "Saltmarsh Pottery", surfaces: Mapping[str, Surface] = SURFACES,
        files: Callable[[str], tuple[bytes, bytes]] = texture_files,
    ) -> None:  # fmt: skip
        self._surfaces, self._files = surfaces, files
        self.gltf = gl.GLTF2(asset=gl.Asset(version="2.0", generator="Westlight demo"))
        self.gltf.samplers.append(
            gl.Sampler(wrapS=10497, wrapT=10497, magFilter=9729, minFilter=9987)
        )
        self.blob = bytearray()
        self.materials: dict[str, int] = {}
        self.textures: dict[str, tuple[int, int]] = {}
        self.groups: dict[str, int] = {}
        self.root = self._node(gl.Node(name=name, children=[]))
        self.gltf.scenes.append(gl.Scene(nodes=[self.root], name=name))
        self.gltf.scene = 0

    def _node(self, node: gl.Node) -> int:
        self.gltf.nodes.append(node)
        return len(self.gltf.nodes) - 1

    def _view(self, content: bytes, target: int | None = None) -> int:
        while len(self.blob) % 4:
            self.blob.append(0)
        self.gltf.bufferViews.append(
            gl.BufferView(
                buffer=0, byteOffset=len(self.blob), byteLength=len(content), target=target
            )
        )
        self.blob += content
        return len(self.gltf.bufferViews) - 1

    def _accessor(self, values: npt.NDArray[np.float32], kind: str, bounds: bool = False) -> int:
        entry = gl.Accessor(
            bufferView=self._view(values.astype(np.float32).tobytes(), gl.ARRAY_BUFFER),
            componentType=gl.FLOAT, count=len(values), type=kind,
        )  # fmt: skip
        if bounds:
            entry.min = [float(v) for v in values.min(axis=0)]
            entry.max = [float(v) for v in values.max(axis=0)]
        self.gltf.accessors.append(entry)
        return len(self.gltf.accessors) - 1

    def _texture(self, content: bytes, name: str) -> int:
        view = self._view(content)
        kind = "image/png" if content[:4] == b"\x89PNG" else "image/jpeg"
        self.gltf.images.append(gl.Image(bufferView=view, mimeType=kind, name=name))
        self.gltf.textures.append(gl.Texture(source=len(self.gltf.images) - 1, sampler=0))
        return len(self.gltf.textures) - 1

    def material(self, name: str) -> int:
        """Index of a material, written at first use."""
        if name in self.materials:
            return self.materials[name]
        s = self._surfaces[name]
        pbr = gl.PbrMetallicRoughness(
            baseColorFactor=[*s.colour, 1.0], roughnessFactor=s.roughness, metallicFactor=s.metallic
        )
        entry = gl.Material(name=name, pbrMetallicRoughness=pbr,
                            doubleSided=s.transmission > 0 or s.two_sided)  # fmt: skip
        if s.cutout:
            entry.alphaMode, entry.alphaCutoff = "MASK", 0.5
        if s.texture:
            if s.texture not in self.textures:
                colour, normal = self._files(s.texture)
                self.textures[s.texture] = (
                    self._texture(colour, s.texture), self._texture(normal, f"{s.texture} relief")
                )  # fmt: skip
            base, relief = self.textures[s.texture]
            pbr.baseColorTexture = gl.TextureInfo(index=base)
            entry.normalTexture = gl.NormalMaterialTexture(index=relief, scale=1.0)
        extensions: dict[str, dict[str, Any]] = {}
        if s.transmission:
            extensions["KHR_materials_transmission"] = {"transmissionFactor": s.transmission}
        if s.translucency:
            extensions["KHR_materials_diffuse_transmission"] = {
                "diffuseTransmissionFactor": s.translucency,
                "diffuseTransmissionColorFactor": list(s.through),
                **({"extras": {"openness": s.openness}} if s.openness else {}),
            }
        if max(s.emission) > 0:
            entry.emissiveFactor = list(s.emission)
            extensions["KHR_materials_emissive_strength"] = {"emissiveStrength": s.strength}
        entry.extensions = extensions
        for used in extensions:
            if used not in self.gltf.extensionsUsed:
                self.gltf.extensionsUsed.append(used)
        self.gltf.materials.append(entry)
        self.materials[name] = len(self.gltf.materials) - 1
        return self.materials[name]

    def _primitive(self, solid: Solid, material: str) -> gl.Primitive:
        surface = self._surfaces[material]
        uvs = solid.uvs / surface.tile_m
        columns = [solid.points @ _TURN[:3, :3].T, solid.normals @ _TURN[:3, :3].T, uvs]
        if surface.texture:
            columns.append(_tangents(*columns))
        unique, index = np.unique(
            np.concatenate(columns, axis=1).astype(np.float32).round(5), axis=0, return_inverse=True
        )
        corners = unique[index.reshape(-1, 3), 0:3].astype(np.float64)
        area = np.abs(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])).max(1)
        # What has no area once it is rounded is no face.
        index = index.reshape(-1, 3)[area > 1e-13].reshape(-1).astype(np.uint32)
        attributes = gl.Attributes(
            POSITION=self._accessor(unique[:, 0:3], "VEC3", bounds=True),
            NORMAL=self._accessor(_unit(unique[:, 3:6]), "VEC3"),
            TEXCOORD_0=self._accessor(unique[:, 6:8], "VEC2"),
        )
        if surface.texture:
            tangents = np.concatenate([_unit(unique[:, 8:11]), unique[:, 11:12]], axis=1)
            attributes.TANGENT = self._accessor(tangents, "VEC4")
        view = self._view(index.tobytes(), gl.ELEMENT_ARRAY_BUFFER)
        self.gltf.accessors.append(
            gl.Accessor(
                bufferView=view, componentType=gl.UNSIGNED_INT, count=len(index), type="SCALAR"
            )
        )
        return gl.Primitive(
            attributes=attributes, indices=len(self.gltf.accessors) - 1,
            material=self.material(material),
        )  # fmt: skip

    def add(self, piece: Piece) -> None:
        """Write a piece under its group's node; several places share one mesh."""
        mesh = gl.Mesh(name=piece.name, primitives=[self._primitive(s, m) for s, m in piece.solids])
        self.gltf.meshes.append(mesh)
        index = len(self.gltf.meshes) - 1
        if piece.group not in self.groups:
            self.groups[piece.group] = self._node(gl.Node(name=piece.group, children=[]))
            self.gltf.nodes[self.root].children.append(self.groups[piece.group])
        for n, place in enumerate(piece.places):
            name = piece.name if len(piece.places) == 1 else f"{piece.name} {n + 1}"
            node = gl.Node(name=name, mesh=index)
            matrix = _TURN @ place @ _TURN.T
            if not np.allclose(matrix, np.eye(4)):
                node.matrix = [float(v) for v in matrix.T.reshape(-1)]
            self.gltf.nodes[self.groups[piece.group]].children.append(self._node(node))

    def save(self, path: Path) -> None:
        """Write the file; replaces it whole."""
        self.gltf.buffers = [gl.Buffer(byteLength=len(self.blob))]
        self.gltf.set_binary_blob(bytes(self.blob))
        temporary = path.with_suffix(".part.glb")
        self.gltf.save(str(temporary))
        temporary.replace(path)


def write_obj(pieces: list[Piece], path: Path) -> None:
    """Pieces as OBJ with its MTL beside it: every copy written out, y up as the format's users expect."""
    lines, offset = [f"mtllib {path.stem}.mtl"], 1
    used: set[str] = set()
    for piece in pieces:
        for n, place in enumerate(piece.places):
            lines.append(f"o {piece.name} {n + 1}" if len(piece.places) > 1 else f"o {piece.name}")
            for solid, material in piece.solids:
                used.add(material)
                points = (solid.points @ place[:3, :3].T + place[:3, 3]) @ _TURN[:3, :3].T
                lines.append(f"usemtl {material.replace(' ', '_')}")
                lines += [f"v {x:.4f} {y:.4f} {z:.4f}" for x, y, z in points]
                lines += [f"vt {u:.4f} {-v:.4f}" for u, v in solid.uvs / SURFACES[material].tile_m]
                lines += ["f " + " ".join(f"{k}/{k}" for k in range(i, i + 3))
                          for i in range(offset, offset + len(points), 3)]  # fmt: skip
                offset += len(points)
    path.write_text("\n".join(lines) + "\n")
    paints = []
    for name in sorted(used):
        r, g, b = (0.3 if SURFACES[name].texture else c for c in SURFACES[name].colour)
        paints.append(f"newmtl {name.replace(' ', '_')}\nKd {r:.3f} {g:.3f} {b:.3f}\n")
    path.with_suffix(".mtl").write_text("\n".join(paints))
