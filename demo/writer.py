"""Writing the building as one GLB: shared meshes, copies as nodes, textures inside."""

from __future__ import annotations

from dataclasses import dataclass, field
from pathlib import Path

import numpy as np
import numpy.typing as npt
import pygltflib as gl

from .shapes import Solid
from .surfaces import SURFACES, texture_files


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


class GlbWriter:
    """Collects pieces and writes them."""

    def __init__(self) -> None:
        self.gltf = gl.GLTF2(asset=gl.Asset(version="2.0", generator="Westlight demo"))
        self.gltf.samplers.append(
            gl.Sampler(wrapS=10497, wrapT=10497, magFilter=9729, minFilter=9987)
        )
        self.blob = bytearray()
        self.materials: dict[str, int] = {}
        self.textures: dict[str, tuple[int, int]] = {}
        self.groups: dict[str, int] = {}
        self.root = self._node(gl.Node(name="Saltmarsh Pottery", children=[]))
        self.gltf.scenes.append(gl.Scene(nodes=[self.root], name="Saltmarsh Pottery"))
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
        self.gltf.images.append(gl.Image(bufferView=view, mimeType="image/jpeg", name=name))
        self.gltf.textures.append(gl.Texture(source=len(self.gltf.images) - 1, sampler=0))
        return len(self.gltf.textures) - 1

    def material(self, name: str) -> int:
        """Index of a material, written at first use."""
        if name in self.materials:
            return self.materials[name]
        s = SURFACES[name]
        pbr = gl.PbrMetallicRoughness(
            baseColorFactor=[*s.colour, 1.0], roughnessFactor=s.roughness, metallicFactor=s.metallic
        )
        entry = gl.Material(name=name, pbrMetallicRoughness=pbr, doubleSided=s.transmission > 0)
        if s.texture:
            if s.texture not in self.textures:
                colour, normal = texture_files(s.texture)
                self.textures[s.texture] = (
                    self._texture(colour, s.texture), self._texture(normal, f"{s.texture} relief")
                )  # fmt: skip
            base, relief = self.textures[s.texture]
            pbr.baseColorTexture = gl.TextureInfo(index=base)
            entry.normalTexture = gl.NormalMaterialTexture(index=relief, scale=1.0)
        extensions: dict[str, dict[str, float]] = {}
        if s.transmission:
            extensions["KHR_materials_transmission"] = {"transmissionFactor": s.transmission}
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
        packed = np.concatenate(
            [solid.points @ _TURN[:3, :3].T, solid.normals @ _TURN[:3, :3].T,
             solid.uvs / SURFACES[material].tile_m], axis=1
        ).astype(np.float32)  # fmt: skip
        unique, index = np.unique(packed.round(5), axis=0, return_inverse=True)
        index = index.reshape(-1).astype(np.uint32)
        lengths = np.linalg.norm(unique[:, 3:6], axis=1, keepdims=True)
        attributes = gl.Attributes(
            POSITION=self._accessor(unique[:, 0:3], "VEC3", bounds=True),
            NORMAL=self._accessor(unique[:, 3:6] / np.maximum(lengths, 1e-6), "VEC3"),
            TEXCOORD_0=self._accessor(unique[:, 6:8], "VEC2"),
        )
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
