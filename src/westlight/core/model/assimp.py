"""FBX, Collada, 3DS and DXF, read through the asset import library, which turns them to y up, and to metres what tells
its unit."""

from __future__ import annotations

import re
from collections.abc import Iterator
from html import unescape
from pathlib import Path
from typing import Any

import numpy as np
import numpy.typing as npt

from ..errors import ModelError
from .material import Material
from .mtl import Library
from .parts import UPRIGHT, Mesh, Model, Part

KINDS = (".fbx", ".dae", ".3ds", ".dxf")
#: Depth of a tree of nodes beyond which a file is damaged.
_DEEPEST = 200
#: Maps by the library's number of their kind, as the words of a material library name them.
_MAPS = {1: "map_kd", 12: "map_kd", 4: "map_ke", 5: "map_bump", 6: "norm", 8: "map_d"}
_NODE, _SAID = re.compile(r"<node\b([^>]*)>"), re.compile(r'\b(id|name)="([^"]*)"')
#: Name the library gives to what has no material.
_NO_NAME = "DefaultMaterial"


def read_assimp(file: Path) -> Model:
    """Read a model with the pictures beside it; raises `ModelError`."""
    import assimp_py as library

    # Faces only: lines and points are sorted apart, and have other counts of corners.
    flags = library.Process_Triangulate | library.Process_SortByPType
    try:
        scene = library.import_file(str(file), flags | library.Process_GlobalScale)
    except (RuntimeError, ValueError) as error:
        kind = file.suffix[1:].upper()
        raise ModelError(
            f"“{file.name}” is damaged or not a {kind} file; export it again."
        ) from error
    remarks: list[str] = []
    materials = _materials(scene, file, remarks)
    meshes: list[Mesh | None] = [_mesh(m, n, materials) for n, m in enumerate(scene.meshes)]
    if any(m is None for m in meshes):
        remarks.append("It holds lines or points too; these were left out.")
    called = _names(file) if file.suffix.lower() == ".dae" else {}
    upright = np.eye(4)
    upright[:3, :3] = UPRIGHT["y"]
    parts = []
    for names, matrix, indices in _nodes(scene.root_node):
        for i in indices:
            mesh = meshes[i] if 0 <= i < len(meshes) else None
            if mesh is not None:
                own = [called.get(n, n) for n in names]
                name = own[-1] if own and own[-1] else mesh.name
                parts.append(Part(name, mesh, upright @ matrix, tuple(own[:-1])))
    return Model(parts, [], remarks)


def _names(file: Path) -> dict[str, str]:
    """Names of the nodes of a Collada file by their ids, which are all that the library tells."""
    out = {}
    for found in _NODE.finditer(file.read_text("utf-8", "replace")):
        told = dict(_SAID.findall(found.group(1)))
        if "id" in told and told.get("name"):
            out[told["id"]] = unescape(told["name"])
    return out


def _nodes(
    root: Any,
) -> Iterator[tuple[tuple[str, ...], npt.NDArray[np.float64], tuple[int, ...]]]:
    """Names from the top, matrix and meshes of each node of the tree."""
    waiting: list[tuple[Any, tuple[str, ...], npt.NDArray[np.float64]]] = [(root, (), np.eye(4))]
    while waiting:
        node, above, matrix = waiting.pop()
        own = np.array(node.transformation, np.float64).reshape(4, 4)
        if not np.isfinite(own).all() or len(above) > _DEEPEST:
            raise ModelError("The model is damaged: a part of it lies nowhere. Export it again.")
        # The root is the file itself.
        names = above if node is root else (*above, node.name)
        yield names, matrix @ own, tuple(node.mesh_indices)
        waiting += [(child, names, matrix @ own) for child in node.children]


def _mesh(found: Any, number: int, materials: list[Material]) -> Mesh | None:
    """Triangles of a mesh; None for lines and points."""
    # The library's arrays are gone with its scene: all that is kept is copied.
    if found.indices is None or found.vertices is None:
        return None
    corners = np.array(found.indices, np.int64).reshape(-1)
    if not found.num_faces or len(corners) != 3 * found.num_faces:
        return None
    points = np.array(found.vertices, np.float32).reshape(-1, 3)
    if corners.max() >= len(points):
        raise ModelError("The model is damaged: a face names a point that is not there.")
    material = materials[found.material_index] if materials else Material(0.5, name="plain")
    normals = None if found.normals is None else np.array(found.normals, np.float32)
    made = Mesh.single(
        found.name or f"part {number + 1}", points, corners, material,
        None if normals is None or normals.size != points.size else normals,
    )  # fmt: skip
    layers = found.texcoords or []
    if len(layers):
        laid = np.array(layers[0], np.float32).reshape(len(points), -1)[:, :2].copy()
        # The library counts v upwards, glTF and the tracer downwards.
        laid[:, 1] = 1.0 - laid[:, 1]
        made.uvs = laid if np.isfinite(laid).all() else None
    return made


def _materials(scene: Any, file: Path, remarks: list[str]) -> list[Material]:
    """Materials of a scene, told in the words of a material library: their rules are the same."""
    library = Library(file.parent, remarks)
    names: list[str] = []
    for n, found in enumerate(scene.materials):
        own = str(found.get("NAME") or "").strip()
        name = own if own and own != _NO_NAME else "plain"
        if name in names:
            name = f"{name} {n + 1}"
        names.append(name)
        # What stands for no material is white, or black.
        if name != "plain" or own not in ("", _NO_NAME):
            library.tell(name, _entry(found, remarks))
    return [library.material(name) for name in names]


def _entry(found: dict[str, Any], remarks: list[str]) -> dict[str, str]:
    """A material of the library as lines of an MTL file, by their first words."""
    out: dict[str, str] = {}
    for key, word in (("COLOR_DIFFUSE", "kd"), ("COLOR_EMISSIVE", "ke")):
        if key in found:
            out[word] = " ".join(f"{float(v):.6g}" for v in list(found[key])[:3])
    for key, word in (("OPACITY", "d"), ("SHININESS", "ns"), ("REFRACTI", "ni")):
        if isinstance(found.get(key), (int, float)):
            out[word] = f"{float(found[key]):.6g}"
    for kind, files in (found.get("TEXTURES") or {}).items():
        slot = _MAPS.get(int(kind), "")
        if not slot or not files or slot in out:
            continue
        if str(files[0]).startswith("*"):
            remarks.append(
                f"A texture of “{found.get('NAME')}” lies inside the file and was left out; "
                "export it with its textures beside it."
            )
            continue
        out[slot] = str(files[0])
    return out
