"""Reading Wavefront OBJ with its material library, through trimesh."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np

from ..colour import srgb_to_working
from ..errors import ModelError
from .material import Material, Texture
from .parts import Mesh, Model, Part

#: Coordinates beyond this are kept apart from the shape, in units of the file.
_FAR = 1000.0


def _material(entry: Any, known: dict[int, Material]) -> Material:
    if id(entry) in known:
        return known[id(entry)]
    main = getattr(entry, "main_color", None)
    rgb = np.full(3, 0.5) if main is None else np.asarray(main, float)[:3] / 255.0
    working = np.clip(srgb_to_working(rgb), 0.0, 0.95)
    texture = None
    image = getattr(entry, "image", None)
    if image is not None:
        working = np.ones(3)
        name = str(getattr(entry, "name", "") or "picture")
        texture = Texture(name, np.asarray(image.convert("RGBA")), srgb=True)
    shininess = float(getattr(entry, "glossiness", 0.0) or 0.0)
    # Blinn's exponent n matches a microfacet width α² = 2/(n+2); exporters write 0 for matte.
    roughness = 1.0 if shininess <= 1 else float(np.clip((2 / (shininess + 2)) ** 0.25, 0.05, 1))
    dissolve = float((getattr(entry, "kwargs", None) or {}).get("d", [1.0])[0] or 1.0)
    known[id(entry)] = Material(
        reflectance=(float(working[0]), float(working[1]), float(working[2])),
        roughness=roughness,
        transmission=1.0 - dissolve if dissolve < 0.6 else 0.0,
        name=str(getattr(entry, "name", "") or "plain"),
        base_texture=texture,
    )
    return known[id(entry)]


def read_obj(file: Path, up: str = "y") -> Model:
    """Read an OBJ file with the MTL and pictures beside it; raises `ModelError`."""
    import trimesh  # slow to import, and most models are glTF

    remarks: list[str] = []
    for line in file.read_text(errors="replace").splitlines():
        if line.startswith("mtllib") and not (file.parent / line[6:].strip()).is_file():
            remarks.append(
                f"The material library “{line[6:].strip()}” is missing; all surfaces are plain. "
                "Put it beside the OBJ and import both as a zip."
            )
    try:
        loaded = trimesh.load_scene(
            str(file), process=False, split_object=True, group_material=True
        )
    except Exception as error:
        raise ModelError(
            f"“{file.name}” is damaged or not an OBJ file; export it again."
        ) from error
    known: dict[int, Material] = {}
    plain = Material(0.5, name="plain")
    parts = []
    for name, mesh in loaded.geometry.items():
        if not isinstance(mesh, trimesh.Trimesh):
            remarks.append(f"“{name}” holds lines or points only and was left out.")
            continue
        visual = mesh.visual
        entry = getattr(visual, "material", None)
        material = plain if entry is None else _material(entry, known)
        uv = getattr(visual, "uv", None)
        # OBJ counts v upwards, glTF and the tracer downwards.
        uvs = None if uv is None else np.stack([uv[:, 0], 1.0 - uv[:, 1]], axis=1)
        points = np.asarray(mesh.vertices, float)
        if points.ndim != 2 or points.shape[1] != 3:
            raise ModelError(
                f"“{file.name}” is damaged: points without three numbers; export it again."
            )
        normals = np.asarray(mesh.vertex_normals, float) if "vn " in _head(file) else None
        if up == "y":
            points = points[:, [0, 2, 1]] * [1, -1, 1]
            normals = None if normals is None else normals[:, [0, 2, 1]] * [1, -1, 1]
        # At map coordinates single precision has no millimetres: points are kept about a corner of their own.
        corner = np.floor(points.min(axis=0)) if len(points) else np.zeros(3)
        corner[np.abs(corner) < _FAR] = 0.0
        made = Mesh.single(
            str(name), points - corner, np.asarray(mesh.faces), material, normals, uvs
        )
        at = np.eye(4)
        at[:3, 3] = corner
        parts.append(Part(str(name), made, at, path=(str(name),)))
    return Model(parts, [], remarks)


def _head(file: Path) -> str:
    with file.open(errors="replace") as opened:
        return opened.read(4_000_000)
