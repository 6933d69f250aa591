"""Meshes and places as files of the open format must have them: normals of length one, coordinates for textures,
numbers that are numbers, places that are a move, a turn and a scale. What they look like stays."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import numpy.typing as npt

from .parts import F4, Mesh, Model, place

Array = npt.NDArray[np.float64]
#: A normal whose length is further from one is none; nearer, it is made one.
_LEAST, _OFF = 1e-4, 5e-4
#: Cosine between two axes of a place up to which they are at right angles.
_SQUARE = 1e-5


def is_sound(model: Model) -> bool:
    """Whether nothing of a model needs mending before it is written."""
    meshes = {id(p.mesh): p.mesh for p in model.parts}.values()
    return all(not _needs_mending(m) for m in meshes) and all(
        _decomposes(p.matrix) for p in model.parts
    )


def sound(model: Model) -> Model:
    """A model whose parts can be written; meshes without faces are left out. What needs no mending is shared."""
    mended: dict[int, Mesh] = {}
    baked: dict[tuple[int, bytes], Mesh] = {}
    parts = []
    for part in model.parts:
        if not len(part.mesh.faces):
            continue
        mesh = mended.setdefault(id(part.mesh), _mended(part.mesh))
        if _decomposes(part.matrix):
            parts.append(part if mesh is part.mesh else replace(part, mesh=mesh))
            continue
        key = id(part.mesh), part.matrix.tobytes()
        if key not in baked:
            baked[key] = _mended(_placed(mesh, part.matrix))
        parts.append(replace(part, mesh=baked[key], matrix=np.eye(4)))
    return replace(model, parts=parts)


def _decomposes(matrix: Array) -> bool:
    """Whether a place is a move, a turn and a scale along the axes of the part."""
    axes = matrix[:3, :3]
    lengths = np.linalg.norm(axes, axis=0)
    if not (lengths > 1e-9).all():
        return False
    cosines = (axes / lengths).T @ (axes / lengths)
    return bool(np.abs(cosines - np.eye(3)).max() < _SQUARE)


def _placed(mesh: Mesh, matrix: Array) -> Mesh:
    """A mesh with its points, and its normals, where its part puts them."""
    normals = mesh.normals
    linear = matrix[:3, :3]
    if normals is not None:
        # The cofactors turn normals for any place, also one that flattens.
        across = np.cross(linear[[1, 2, 0]], linear[[2, 0, 1]])
        turned = normals @ across.T * (np.sign(np.linalg.det(linear)) or 1.0)
        length = np.linalg.norm(turned, axis=1, keepdims=True)
        normals = np.where(length > 0, turned / np.where(length > 0, length, 1), 0).astype(
            np.float32
        )
    faces = mesh.faces if np.linalg.det(linear) >= 0 else mesh.faces[:, ::-1]
    return replace(
        mesh, vertices=place(matrix, mesh.vertices).astype(np.float32), faces=faces, normals=normals
    )


def _needs_mending(mesh: Mesh) -> bool:
    if not len(mesh.faces):
        return False
    textured = any(_textures(m) for m in mesh.materials)
    if mesh.uvs is None and textured:
        return True
    if mesh.uvs is not None and not np.isfinite(mesh.uvs).all():
        return True
    if mesh.normals is None:
        return False
    return bool(~(np.abs(np.linalg.norm(mesh.normals, axis=1) - 1.0) < _OFF).all())


def _textures(material: object) -> bool:
    names = ("base_texture", "rough_texture", "normal_texture", "emission_texture")
    return any(getattr(material, n) is not None for n in names)


def _mended(mesh: Mesh) -> Mesh:
    if not _needs_mending(mesh):
        return mesh
    uvs: F4 | None = mesh.uvs
    if uvs is None and any(_textures(m) for m in mesh.materials):
        # All of such a surface shows the first corner of its picture.
        uvs = np.zeros((len(mesh.vertices), 2), np.float32)
    if uvs is not None:
        uvs = np.nan_to_num(uvs, nan=0.0, posinf=0.0, neginf=0.0)
    made = replace(mesh, uvs=uvs)
    if mesh.normals is None:
        return made
    normals = np.nan_to_num(mesh.normals.astype(np.float64), nan=0.0, posinf=0.0, neginf=0.0)
    length = np.linalg.norm(normals, axis=1, keepdims=True)
    bad = length[:, 0] < _LEAST
    normals = np.where(bad[:, None], (0.0, 0.0, 1.0), normals / np.where(bad[:, None], 1.0, length))
    used = np.unique(mesh.faces)
    if not bad[used].any():
        return replace(made, normals=normals.astype(np.float32))
    if bad[used].all():
        # Without any, faces are flat, as these were.
        return replace(made, normals=None)
    return _split(made, normals, bad)


def _split(mesh: Mesh, normals: Array, bad: npt.NDArray[np.bool_]) -> Mesh:
    """Corners without a normal become points of their own with that of their face."""
    which = bad[mesh.faces]
    rows, columns = np.nonzero(which)
    corners = mesh.vertices[mesh.faces].astype(np.float64)
    across = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    size = np.linalg.norm(across, axis=1, keepdims=True)
    flat = np.where(size > 0, across / np.where(size > 0, size, 1.0), (0.0, 0.0, 1.0))
    old = mesh.faces[rows, columns]
    faces = mesh.faces.copy()
    faces[rows, columns] = len(mesh.vertices) + np.arange(len(old), dtype=np.int32)

    def more(values: F4 | None) -> F4 | None:
        return None if values is None else np.concatenate([values, values[old]])

    vertices = more(mesh.vertices)
    assert vertices is not None
    return replace(
        mesh, vertices=vertices, faces=faces, uvs=more(mesh.uvs), colours=more(mesh.colours),
        normals=np.concatenate([normals, flat[rows]]).astype(np.float32),
    )  # fmt: skip
