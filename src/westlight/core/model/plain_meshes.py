"""STL and PLY: one mesh, without a unit and without an axis that is up; PLY may bring colours of points."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from ..colour import srgb_to_working
from ..errors import ModelError
from .material import Material
from .parts import UPRIGHT, Mesh, Model, Part

KINDS = (".stl", ".ply")


def read_plain_mesh(file: Path, up: str = "y") -> Model:
    """Read an STL or PLY file; raises `ModelError`."""
    import trimesh

    kind = file.suffix[1:].lower()
    try:
        with file.open("rb") as opened:
            made = trimesh.load_mesh(opened, file_type=kind, process=False)
        points = np.array(made.vertices, np.float64).reshape(-1, 3)
        faces = np.array(made.faces, np.int64).reshape(-1, 3)
    except MemoryError:
        raise
    except Exception as error:
        # For damaged files the library raises what it comes upon, names that it never set among them.
        raise ModelError(
            f"“{file.name}” is damaged or not a {kind.upper()} file; export it again."
        ) from error
    if len(faces) and (faces.min() < 0 or faces.max() >= len(points)):
        raise ModelError(f"“{file.name}” is damaged: a face names a point that is not there.")
    colours = _colours(made, len(points))
    paint = Material(0.5, name="plain") if colours is None else Material(
        1.0, name="painted", vertex_colours=True)  # fmt: skip
    # At map coordinates single precision has no millimetres: points are kept about a corner of their own.
    corner = np.floor(points.min(axis=0)) if len(points) else np.zeros(3)
    mesh = Mesh.single(file.stem, points - corner, faces, paint)
    mesh.colours = colours
    matrix, inside = np.eye(4), np.eye(4)
    matrix[:3, :3] = UPRIGHT[up]
    inside[:3, 3] = corner
    return Model([Part(file.stem, mesh, matrix @ inside)])


def _colours(made: object, count: int) -> np.ndarray | None:
    """Linear colours of points, if the file has any."""
    visual = getattr(made, "visual", None)
    if visual is None or getattr(visual, "kind", None) != "vertex":
        return None
    rgb = np.asarray(visual.vertex_colors, np.float64)
    if rgb.shape[:1] != (count,) or rgb.shape[1] < 3:
        return None
    return np.clip(srgb_to_working(rgb[:, :3] / 255), 0, 1).astype(np.float32)
