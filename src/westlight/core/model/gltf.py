"""Reading glTF 2.0 and GLB: nested nodes, copies, metallic–roughness materials, cameras.

Follows the Khronos glTF 2.0 specification and its extensions for transmission, diffuse transmission, index
of refraction, volume and emissive strength. y up is turned to z up: (x, y, z) → (x, −z, y).
"""

from __future__ import annotations

import base64
import json
import math
import struct
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import Any
from urllib.parse import unquote

import numpy as np
import numpy.typing as npt

from ..colour import SRGB_TO_AP1
from ..errors import ModelError
from . import meshopt
from .lights import light_of
from .material import Material, Texture, Wrap
from .packed import MAX_TEXTURE_PX, PackedTexture, unpacked
from .parts import Mesh, Missing, Model, ModelCamera, ModelLight, Part

_Y_TO_Z = np.array([[1.0, 0, 0, 0], [0, 0, -1, 0], [0, 1, 0, 0], [0, 0, 0, 1]])
_DTYPES = {5120: np.int8, 5121: np.uint8, 5122: np.int16, 5123: np.uint16, 5125: np.uint32,
           5126: np.float32}  # fmt: skip
_WIDTHS = {"SCALAR": 1, "VEC2": 2, "VEC3": 3, "VEC4": 4, "MAT2": 4, "MAT3": 9, "MAT4": 16}
#: Ways on beyond the edges of a texture, by the numbers that samplers use.
_WRAPS: dict[int | None, Wrap] = {10497: "repeat", 33071: "clamp", 33648: "mirror"}
#: Buffers that are packed.
_PACKED_VIEWS = ("EXT_meshopt_compression", "KHR_meshopt_compression")
#: Extensions that change nothing essential when ignored or that are understood.
_KNOWN = {"KHR_materials_transmission", "KHR_materials_diffuse_transmission", "KHR_materials_clearcoat", "KHR_materials_ior", "KHR_materials_volume",
          "KHR_materials_emissive_strength", "KHR_texture_transform", "KHR_lights_punctual",
          "KHR_materials_specular", "KHR_materials_unlit", "KHR_mesh_quantization",
          "EXT_mesh_gpu_instancing", "EXT_texture_webp", "EXT_texture_avif",
          "KHR_draco_mesh_compression", "KHR_texture_basisu", *_PACKED_VIEWS}  # fmt: skip
#: Meshes packed by a codec of their own.
_PACKED_MESH = "KHR_draco_mesh_compression"
#: Values of an accessor that has no buffer and is all zero.
MOST_ZEROS = 50_000_000


def _normalised(values: npt.NDArray[Any]) -> npt.NDArray[Any]:
    """Whole numbers as parts of the largest one of their kind; others as they are."""
    if values.dtype.kind not in "iu":
        return values
    return np.maximum(values.astype(np.float32) / float(np.iinfo(values.dtype.str).max), -1.0)


class _Entry(dict[str, Any]):
    """A JSON object whose members are attributes; absent ones are None, as in the specification."""

    def __getattr__(self, name: str) -> Any:
        return self.get(name)


def _open(file: Path) -> tuple[_Entry, bytes | None]:
    """JSON and binary chunk of a glTF or GLB file; raises ``ValueError`` if it is neither."""
    raw = file.read_bytes()
    if not raw.startswith(b"glTF"):
        return json.loads(raw.decode("utf-8-sig"), object_hook=_Entry), None
    position = 12
    chunks: dict[int, bytes] = {}
    while position + 8 <= len(raw):
        length, kind = struct.unpack_from("<II", raw, position)
        chunks.setdefault(kind, raw[position + 8 : position + 8 + length])
        position += 8 + length
    return json.loads(chunks.get(0x4E4F534A, b"").decode(), object_hook=_Entry), chunks.get(
        0x004E4942
    )


def is_packed(file: Path) -> bool:
    """Whether meshes of a sound GLB file are packed by a codec."""
    return not {_PACKED_MESH, *_PACKED_VIEWS}.isdisjoint(
        _described(file).get("extensionsUsed") or []
    )


def is_declared(file: Path) -> bool:
    """Whether a GLB file tells what others need to know beforehand: its extensions, and the bounds of its points."""
    told = _described(file)
    used: set[str] = set()
    stack: list[Any] = [told]
    while stack:
        one = stack.pop()
        if isinstance(one, dict):
            used.update((one.get("extensions") or {}).keys())
            stack += one.values()
        elif isinstance(one, list):
            stack += one
    accessors = told.get("accessors") or []
    points = {
        p["attributes"]["POSITION"]
        for m in told.get("meshes") or [] for p in m["primitives"] if "POSITION" in p["attributes"]
    }  # fmt: skip
    bounded = all("min" in accessors[i] and "max" in accessors[i] for i in points)
    return bounded and used <= set(told.get("extensionsUsed") or [])


def _described(file: Path) -> Any:
    """The description in a sound GLB file; its binary part, which may be gigabytes, is not read."""
    with file.open("rb") as opened:
        length, _ = struct.unpack_from("<II", opened.read(20), 12)
        return json.loads(opened.read(length))


class _Reader:
    """One open file: decoded buffers, and what has been made of them so far."""

    def __init__(self, file: Path, up: str, lazily: bool) -> None:
        self.file, self.lazily = file, lazily
        self.turn = _Y_TO_Z if up == "y" else np.eye(4)
        self.remarks: list[str] = []
        try:
            loaded, self._binary = _open(file)
        except (ValueError, struct.error) as error:
            raise ModelError(
                f"“{file.name}” is damaged or not glTF 2.0; export it again."
            ) from error
        if not isinstance(loaded, _Entry) or loaded.asset is None:
            raise ModelError(f"“{file.name}” is damaged or not glTF 2.0; export it again.")
        self.gltf = loaded
        if not str(self.gltf.asset.version).startswith("2"):
            raise ModelError(f"“{file.name}” is glTF {self.gltf.asset.version}; version 2 is read.")
        unknown = set(self.gltf.extensionsRequired or []) - _KNOWN
        if unknown:
            raise ModelError(
                f"“{file.name}” needs {', '.join(sorted(unknown))}, which is not read; "
                "turn that off in its export."
            )
        self._buffers: dict[int, bytes] = {}
        self._views: dict[int, bytes] = {}
        self._textures: dict[tuple[int, bool], Texture | None] = {}
        self._meshes: dict[int, Mesh] = {}
        self._materials: dict[int | None, Material] = {}
        self._painted_materials: dict[tuple[str, int | None], Material] = {}

    def buffer(self, index: int) -> bytes:
        if index not in self._buffers:
            entry = self.gltf.buffers[index]
            if entry.uri is None:
                if self._binary is None:
                    raise ModelError(f"“{self.file.name}” has lost its binary part; export again.")
                content = self._binary
            else:
                content = self.uri(entry.uri)
            if len(content) < entry.byteLength:
                raise ModelError(f"“{self.file.name}” is cut short; export or copy it again.")
            self._buffers[index] = content
        return self._buffers[index]

    def uri(self, uri: str) -> bytes:
        if uri.startswith("data:"):
            return base64.b64decode(uri.split(",", 1)[1])
        name = unquote(uri)
        path = (self.file.parent / name).resolve()
        if self.file.parent.resolve() not in path.parents or not path.is_file():
            raise ModelError(f"The file “{name}” that belongs to “{self.file.name}” is missing.")
        return path.read_bytes()

    def view_bytes(self, index: int) -> tuple[bytes, int, int | None]:
        """Bytes that hold a view, where it starts in them, and the step between its elements."""
        view = self.gltf.bufferViews[index]
        for extension in _PACKED_VIEWS:
            packed = (view.extensions or {}).get(extension)
            if packed is not None:
                return self._unpacked(index, packed), 0, view.byteStride
        content = self.buffer(view.buffer)
        start = view.byteOffset or 0
        if start + view.byteLength > len(content):
            raise ModelError(f"“{self.file.name}” is cut short; export or copy it again.")
        return content, start, view.byteStride

    def _unpacked(self, index: int, packed: Any) -> bytes:
        if index not in self._views:
            content, start = self.buffer(packed.buffer), packed.byteOffset or 0
            if start < 0 or start + packed.byteLength > len(content):
                raise ModelError(f"“{self.file.name}” is cut short; export or copy it again.")
            try:
                made = meshopt.unpacked(content[start : start + packed.byteLength], packed)
            except meshopt.DamagedError as error:
                raise ModelError(f"“{self.file.name}” is damaged; export it again.") from error
            self._views[index] = made
        return self._views[index]

    def accessor(self, index: int) -> npt.NDArray[Any]:
        try:
            entry = self.gltf.accessors[index]
            dtype, width = np.dtype(_DTYPES[entry.componentType]), _WIDTHS[entry.type]
        except (IndexError, KeyError) as error:
            raise ModelError(f"“{self.file.name}” is damaged; export it again.") from error
        if entry.bufferView is None:
            if entry.count > MOST_ZEROS:
                raise ModelError(f"“{self.file.name}” is damaged; export it again.")
            values = np.zeros((entry.count, width), dtype)
        else:
            values = self._values(entry.bufferView, entry.byteOffset, entry.count, width, dtype)
        if entry.sparse is not None:
            # Values that differ from the rest, by where they stand.
            count, of = entry.sparse.count, entry.sparse
            kind = np.dtype(_DTYPES[of.indices.componentType])
            at = self._values(of.indices.bufferView, of.indices.byteOffset, count, 1, kind)
            if count and int(at.max()) >= len(values):
                raise ModelError(f"“{self.file.name}” is damaged; export it again.")
            others = self._values(
                of["values"].bufferView, of["values"].byteOffset, count, width, dtype
            )
            values[at.reshape(-1).astype(np.int64)] = others
        return _normalised(values) if entry.normalized else values

    def _values(
        self, view: int, offset: int | None, count: int, width: int, dtype: np.dtype[Any]
    ) -> npt.NDArray[Any]:
        content, start, stride = self.view_bytes(view)
        start += offset or 0
        step = stride or dtype.itemsize * width
        need = start + step * (count - 1) + dtype.itemsize * width if count else start
        if need > len(content) or count < 0:
            raise ModelError(f"“{self.file.name}” is cut short; export or copy it again.")
        return np.ndarray((count, width), dtype, content, start, (step, dtype.itemsize)).copy()

    def texture(self, reference: Any, srgb: bool) -> Texture | None:
        if reference is None:
            return None
        key = (reference.index, srgb)
        if key not in self._textures:
            self._textures[key] = self._read_texture(reference.index, srgb)
        return self._textures[key]

    def _read_texture(self, index: int, srgb: bool) -> Texture | None:
        name: Any = f"picture {index}"
        try:
            entry = self.gltf.textures[index]
            source = entry.source
            known = entry.extensions or {}
            for extension in ("EXT_texture_webp", "EXT_texture_avif"):
                other = known.get(extension)
                # The plain picture beside it is for programs that know nothing else.
                source = other.source if other is not None else source
            packed = known.get("KHR_texture_basisu") if source is None else None
            image = self.gltf.images[source if packed is None else packed.source]
            name = image.name or image.uri or name
            if packed is not None:
                raise ModelError("it is packed as KTX2; export it as PNG, JPEG or WebP.")
            if image.bufferView is not None:
                content, start, _ = self.view_bytes(image.bufferView)
                raw = content[start : start + self.gltf.bufferViews[image.bufferView].byteLength]
            else:
                raw = self.uri(image.uri)
            wrap = self._wrap(entry.sampler)
            if self.lazily:
                return PackedTexture(str(name), raw, srgb, wrap)
            picture = unpacked(raw)
        except (ModelError, OSError, ValueError) as error:
            said = f"The texture “{name}” is missing or unreadable: {error}"
            self.remarks.append(Missing(said))
            return None
        except (IndexError, TypeError, KeyError):
            self.remarks.append(f"The texture “{name}” is named, but not in the file.")
            return None
        if picture.whole_px > MAX_TEXTURE_PX:
            self.remarks.append(f"The texture “{name}” was reduced to {MAX_TEXTURE_PX} pixels.")
        return Texture(str(name), picture.pixels, srgb, wrap)

    def _wrap(self, index: int | None) -> tuple[Wrap, Wrap]:
        """How a texture goes on beyond its edges, by its sampler; it repeats where none tells."""
        samplers = self.gltf.samplers or []
        told = samplers[index] if index is not None and 0 <= index < len(samplers) else _Entry()
        return _WRAPS.get(told.wrapS, "repeat"), _WRAPS.get(told.wrapT, "repeat")

    def material(self, index: int | None) -> Material:
        if index not in self._materials:
            made = Material(0.5, name="plain") if index is None else self._read_material(index)
            self._materials[index] = made
        return self._materials[index]

    def _read_material(self, index: int) -> Material:
        entry = self.gltf.materials[index]
        pbr = entry.pbrMetallicRoughness or _Entry()
        extensions = entry.extensions or {}
        factor = (pbr.baseColorFactor or [1.0, 1.0, 1.0, 1.0])[:3]
        rgb = np.clip(SRGB_TO_AP1 @ np.asarray(factor, float), 0.0, 1.0)
        transmission = extensions.get("KHR_materials_transmission", {}).get("transmissionFactor", 0)
        coverage = float((pbr.baseColorFactor or [1, 1, 1, 1])[3])
        if entry.alphaMode == "BLEND" and pbr.baseColorTexture is None and coverage < 0.95:
            transmission = max(float(transmission), 1.0 - coverage)
        strength = extensions.get("KHR_materials_emissive_strength", {}).get("emissiveStrength", 1)
        emission = SRGB_TO_AP1 @ np.asarray(entry.emissiveFactor or [0, 0, 0], float) * strength
        roughness = 1.0 if pbr.roughnessFactor is None else pbr.roughnessFactor
        metallic = 1.0 if pbr.metallicFactor is None else pbr.metallicFactor
        return Material(
            reflectance=(float(rgb[0]), float(rgb[1]), float(rgb[2])),
            roughness=float(np.clip(roughness, 0, 1)),
            metallic=float(np.clip(metallic, 0, 1)),
            transmission=float(np.clip(transmission, 0, 1)),
            ior=max(float(extensions.get("KHR_materials_ior", {}).get("ior", 1.5)), 1.0),
            emission_cd_m2=tuple(float(max(c, 0.0)) for c in emission),  # type: ignore[arg-type]
            name=entry.name or f"material {index}",
            sheet="KHR_materials_volume" not in extensions,
            base_texture=self.texture(pbr.baseColorTexture, srgb=True),
            rough_texture=self.texture(pbr.metallicRoughnessTexture, srgb=False),
            normal_texture=self.texture(entry.normalTexture, srgb=False),
            normal_scale=_scale(entry.normalTexture),
            emission_texture=self.texture(entry.emissiveTexture, srgb=True),
            **self._see_through(entry, pbr, extensions),
        )

    def _see_through(self, entry: Any, pbr: Any, extensions: Any) -> dict[str, Any]:
        """Cut-outs, coverage and the colour of solid glass, and where textures are moved to."""
        out: dict[str, Any] = {}
        alpha = float((pbr.baseColorFactor or [1, 1, 1, 1])[3])
        if entry.alphaMode in ("MASK", "BLEND") and pbr.baseColorTexture is not None:
            cutoff = 0.5 if entry.alphaCutoff is None else float(entry.alphaCutoff)
            out = {"cutout": cutoff, "alpha": alpha}
        coat = extensions.get("KHR_materials_clearcoat")
        if coat is not None:
            out["coat"] = float(np.clip(coat.get("clearcoatFactor", 0), 0, 1))
            out["coat_roughness"] = float(np.clip(coat.get("clearcoatRoughnessFactor", 0), 0, 1))
        out |= self._scattered(extensions.get("KHR_materials_diffuse_transmission"))
        volume = extensions.get("KHR_materials_volume")
        if volume is not None:
            rough = 1.0 if pbr.roughnessFactor is None else pbr.roughnessFactor
            out["frost"] = float(np.clip(rough, 0, 1))
        if volume is not None and volume.attenuationDistance:
            colour = np.clip(SRGB_TO_AP1 @ np.asarray(volume.attenuationColor or [1, 1, 1]), 0, 1)
            out["attenuation"] = tuple(float(c) for c in colour)
            out["attenuation_m"] = float(volume.attenuationDistance)
        for reference in (pbr.baseColorTexture, entry.normalTexture, entry.emissiveTexture):
            move = ((reference or _Entry()).extensions or {}).get("KHR_texture_transform")
            if move is not None:
                dx, dy = move.offset or (0.0, 0.0)
                sx, sy = move.scale or (1.0, 1.0)
                out["uv_transform"] = (float(dx), float(dy), float(move.rotation or 0), float(sx),
                                       float(sy))  # fmt: skip
                break
        return out

    def _scattered(self, sheet: Any) -> dict[str, Any]:
        """Light scattered through a sheet (KHR_materials_diffuse_transmission), and holes in its weave."""
        if sheet is None:
            return {}
        factor = sheet.diffuseTransmissionFactor
        share = float(np.clip(0.0 if factor is None else factor, 0, 1))
        colour = np.clip(
            SRGB_TO_AP1 @ np.asarray(sheet.diffuseTransmissionColorFactor or [1, 1, 1]), 0, 1
        )
        if sheet.diffuseTransmissionTexture is not None:
            self.remarks.append(
                "A texture of translucency is left out: the whole sheet has one share."
            )
        own = (sheet.extras or {}).get("openness", 0) if isinstance(sheet.extras, dict) else 0
        openness = float(np.clip(own, 0, 1)) if isinstance(own, int | float) else 0.0
        return {
            "translucency": share,
            "through": tuple(float(c) for c in colour),
            "openness": openness,
        }

    def mesh(self, index: int) -> Mesh:
        if index not in self._meshes:
            self._meshes[index] = self._read_mesh(index)
        return self._meshes[index]

    def _read_mesh(self, index: int) -> Mesh:
        entry = self.gltf.meshes[index]
        name = entry.name or f"mesh {index}"
        pieces = [p for p in map(self._primitive, entry.primitives) if p is not None]
        if not pieces:
            self.remarks.append(f"“{name}” holds lines or points only and was left out.")
            empty = np.zeros((0, 3))
            return Mesh.single(name, empty, empty.astype(np.int32), self.material(None))
        materials = list({m: None for *_, m in pieces})
        base, faces, rows = 0, [], []
        for vertices, _, _, _, triangles, material in pieces:
            faces.append(triangles + base)
            rows.append(np.full(len(triangles), materials.index(material), np.int32))
            base += len(vertices)
        has_normals = any(p[1] is not None for p in pieces)
        has_uvs = any(p[2] is not None for p in pieces)
        has_colours = any(p[3] is not None for p in pieces)
        colours = [np.ones((len(p[0]), 3), np.float32) if p[3] is None else p[3] for p in pieces]
        normals = [np.zeros_like(p[0]) if p[1] is None else p[1] for p in pieces]
        uvs = [np.zeros((len(p[0]), 2), np.float32) if p[2] is None else p[2] for p in pieces]
        return Mesh(
            name,
            np.concatenate([p[0] for p in pieces]),
            np.concatenate(faces).astype(np.int32),
            materials,
            np.concatenate(rows),
            np.concatenate(normals) if has_normals else None,
            np.concatenate(uvs) if has_uvs else None,
            np.concatenate(colours) if has_colours else None,
        )

    def _primitive(self, primitive: Any) -> Any:
        # What was packed comes out as single triangles.
        packed = _PACKED_MESH in (primitive.extensions or {})
        mode = 4 if primitive.mode is None or packed else primitive.mode
        if mode not in (4, 5, 6) or primitive.attributes.POSITION is None:
            return None
        array, index = self._arrays(primitive)
        vertices = array("POSITION").astype(np.float32)
        if index is None:
            index = np.arange(len(vertices), dtype=np.int64)
        if index.size and index.max() >= len(vertices):
            raise ModelError(f"“{self.file.name}” is damaged; export it again.")
        if mode == 4:
            triangles = index[: len(index) // 3 * 3].reshape(-1, 3)
        elif mode == 5:
            triangles = np.stack([index[:-2], index[1:-1], index[2:]], axis=1)
            triangles[1::2] = triangles[1::2, [1, 0, 2]]
        else:
            n = len(index) - 2
            triangles = np.stack([np.repeat(index[0], n), index[1:-1], index[2:]], axis=1)
        attributes = primitive.attributes
        normals = uvs = None
        if attributes.NORMAL is not None:
            normals = array("NORMAL").astype(np.float32)
        chosen = f"TEXCOORD_{self._uv_set(primitive.material)}"
        chosen = chosen if attributes.get(chosen) is not None else "TEXCOORD_0"
        if attributes.get(chosen) is not None:
            uvs = array(chosen).astype(np.float32)
        colours = None
        if attributes.COLOR_0 is not None:
            linear = array("COLOR_0").astype(np.float32)[:, :3]
            colours = np.clip(linear @ SRGB_TO_AP1.T.astype(np.float32), 0.0, 1.0)
        material = self.material(primitive.material)
        if colours is not None and not material.vertex_colours:
            material = self._painted(primitive.material)
        return vertices, normals, uvs, colours, triangles, material

    def _arrays(
        self, primitive: Any
    ) -> tuple[Callable[[str], npt.NDArray[Any]], npt.NDArray[np.int64] | None]:
        """How a primitive's attributes are read, by their names, and its indices (n,) if it has some."""
        plain = primitive.attributes
        packed = (primitive.extensions or {}).get(_PACKED_MESH)
        if packed is None:
            index = primitive.indices
            found = None if index is None else self.accessor(index).reshape(-1).astype(np.int64)
            return lambda name: self.accessor(plain[name]), found
        import DracoPy

        content, start, _ = self.view_bytes(packed.bufferView)
        length = self.gltf.bufferViews[packed.bufferView].byteLength
        try:
            mesh = DracoPy.decode(content[start : start + length])
            data = {a["unique_id"]: np.asarray(a["data"]) for a in mesh.attributes}
            faces = np.asarray(mesh.faces, np.int64).reshape(-1)
        except Exception as error:  # The library has errors of many kinds, some of them plain.
            raise ModelError(f"“{self.file.name}” is damaged; export it again.") from error

        def unpacked(name: str) -> npt.NDArray[Any]:
            at = (packed.attributes or {}).get(name)
            if at is None:
                return self.accessor(plain[name])
            entry, values = self.gltf.accessors[plain[name]], data.get(at)
            if values is None or values.shape != (len(values), _WIDTHS.get(entry.type)):
                raise ModelError(f"“{self.file.name}” is damaged; export it again.")
            return _normalised(values) if entry.normalized else values

        return unpacked, faces

    def _uv_set(self, index: int | None) -> int:
        """Which coordinates the textures of a material are laid by: those of its paint count before others."""
        if index is None:
            return 0
        entry = self.gltf.materials[index]
        pbr = entry.pbrMetallicRoughness or _Entry()
        for reference in (pbr.baseColorTexture, entry.emissiveTexture, entry.normalTexture,
                          pbr.metallicRoughnessTexture):  # fmt: skip
            if reference is not None:
                moved = (reference.extensions or {}).get("KHR_texture_transform") or _Entry()
                told = moved.texCoord if moved.texCoord is not None else reference.texCoord
                return int(told or 0)
        return 0

    def _painted(self, index: int | None) -> Material:
        """The material again for meshes that bring colours of their own."""
        key = ("painted", index)
        if key not in self._painted_materials:
            plain = replace(self.material(index), vertex_colours=True)
            self._painted_materials[key] = plain
        return self._painted_materials[key]

    def walk(self) -> Model:
        scene_index = self.gltf.scene or 0
        if self.gltf.scenes and scene_index < len(self.gltf.scenes):
            roots = self.gltf.scenes[scene_index].nodes or []
        else:
            roots = list(range(len(self.gltf.nodes or [])))
        parts: list[Part] = []
        cameras: list[ModelCamera] = []
        lights: list[ModelLight] = []
        known = (self.gltf.extensions or {}).get("KHR_lights_punctual", {}).get("lights", [])
        stack: list[tuple[Any, npt.NDArray[np.float64], tuple[str, ...]]] = [
            (n, self.turn, ()) for n in reversed(roots)
        ]
        seen = 0
        while stack:
            index, above, path = stack.pop()
            seen += 1
            # Nodes form trees: none is reached twice.
            if seen > len(self.gltf.nodes):
                raise ModelError(f"The parts of “{self.file.name}” refer to each other in a ring.")
            node = self.gltf.nodes[index]
            matrix = above @ _node_matrix(node)
            if not np.isfinite(matrix).all():
                raise ModelError(f"The place of “{node.name or index}” is not a number.")
            name = node.name or f"part {index}"
            here = (*path, name)
            if node.mesh is not None:
                copies = self._copies(node)
                for n, copy in enumerate(copies):
                    one = name if len(copies) == 1 else f"{name} {n + 1}"
                    parts.append(Part(one, self.mesh(node.mesh), matrix @ copy, (*path, one)))
            if node.camera is not None:
                self._camera(cameras, name, node.camera, matrix)
            mark = (node.extensions or {}).get("KHR_lights_punctual")
            if isinstance(mark, dict) and 0 <= mark.get("light", -1) < len(known):
                light = light_of(known[mark["light"]], name, matrix)
                if light is not None:
                    lights.append(light)
            stack += [(child, matrix, here) for child in reversed(node.children or [])]
        return Model(parts, cameras, self.remarks, lights)

    def _copies(self, node: Any) -> list[npt.NDArray[np.float64]]:
        """Where the copies of a node's mesh stand in it: one, or those of its instancing."""
        told = (node.extensions or {}).get("EXT_mesh_gpu_instancing")
        if told is None or not told.attributes:
            return [np.eye(4)]
        known = {
            key: self.accessor(told.attributes[key]).astype(np.float64)
            for key in ("TRANSLATION", "ROTATION", "SCALE") if told.attributes.get(key) is not None
        }  # fmt: skip
        count = min((len(v) for v in known.values()), default=0)
        if not count:
            return [np.eye(4)]
        none = [None] * count
        return [
            _node_matrix(_Entry(translation=t, rotation=r, scale=s))
            for t, r, s in zip(*(known.get(k, none) for k in ("TRANSLATION", "ROTATION", "SCALE")),
                               strict=False)
        ][:count]  # fmt: skip

    def _camera(
        self, cameras: list[ModelCamera], name: str, index: int, matrix: npt.NDArray[np.float64]
    ) -> None:
        entry = self.gltf.cameras[index]
        if entry.type != "perspective":
            self.remarks.append(f"The camera “{name}” has no perspective and was left out.")
            return
        position = matrix[:3, 3]
        ahead = -matrix[:3, 2] / max(float(np.linalg.norm(matrix[:3, 2])), 1e-9)
        target = position + 5.0 * ahead
        cameras.append(
            ModelCamera(
                name,
                (float(position[0]), float(position[1]), float(position[2])),
                (float(target[0]), float(target[1]), float(target[2])),
                math.degrees(entry.perspective.yfov),
                float(entry.perspective.aspectRatio or 0.0),
            )
        )


def _scale(reference: Any) -> float:
    """Strength of a normal map; none is a strength, too."""
    told = None if reference is None else reference.scale
    return 1.0 if told is None else float(told)


def _node_matrix(node: Any) -> npt.NDArray[np.float64]:
    if node.matrix is not None:
        return np.asarray(node.matrix, float).reshape(4, 4).T
    out = np.eye(4)
    if node.rotation is not None:
        x, y, z, w = np.asarray(node.rotation, float) / (np.linalg.norm(node.rotation) or 1.0)
        out[:3, :3] = [
            [1 - 2 * (y * y + z * z), 2 * (x * y - z * w), 2 * (x * z + y * w)],
            [2 * (x * y + z * w), 1 - 2 * (x * x + z * z), 2 * (y * z - x * w)],
            [2 * (x * z - y * w), 2 * (y * z + x * w), 1 - 2 * (x * x + y * y)],
        ]
    if node.scale is not None:
        out[:3, :3] = out[:3, :3] * np.asarray(node.scale, float)
    if node.translation is not None:
        out[:3, 3] = node.translation
    return out


def read_gltf(file: Path, up: str = "y", lazily: bool = False) -> Model:
    """Read a glTF 2.0 or GLB file; raises `ModelError`. Lengths in metres, result z up.

    ``lazily``: pictures are unpacked when they are asked for; for files that were read before.
    """
    try:
        return _Reader(file, up, lazily).walk()
    except ModelError:
        raise
    except Exception as error:
        # What a damaged description makes of any line of the reader cannot be told beforehand.
        raise ModelError(f"“{file.name}” is damaged; export it again.") from error
