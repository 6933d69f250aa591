"""Meshes, the parts that place them, and the model they make up."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from typing import Literal

import numpy as np
import numpy.typing as npt

from ..errors import ModelError
from .material import Material

F4 = npt.NDArray[np.float32]
I4 = npt.NDArray[np.int32]


@dataclass(eq=False)
class Mesh:
    """Triangles in metres: vertices (n, 3), faces (m, 3), a material row per face (m,).

    Optional by vertex: ``normals`` (n, 3), ``uvs`` (n, 2), ``colours`` (n, 3) linear in 0…1.
    """

    name: str
    vertices: F4
    faces: I4
    materials: list[Material]
    face_material: I4
    normals: F4 | None = None
    uvs: F4 | None = None
    colours: F4 | None = None

    @staticmethod
    def single(
        name: str,
        vertices: npt.ArrayLike,
        faces: npt.ArrayLike,
        material: Material,
        normals: npt.ArrayLike | None = None,
        uvs: npt.ArrayLike | None = None,
    ) -> Mesh:
        """A mesh of one material; raises ``ModelError`` for indices without a vertex."""
        v = np.asarray(vertices, np.float32).reshape(-1, 3)
        f = np.asarray(faces, np.int32).reshape(-1, 3)
        if f.size and (f.min() < 0 or f.max() >= len(v)):
            raise ModelError(f"The mesh “{name}” refers to points it does not have.")
        n = None if normals is None else np.asarray(normals, np.float32).reshape(-1, 3)
        t = None if uvs is None else np.asarray(uvs, np.float32).reshape(-1, 2)
        return Mesh(name, v, f, [material], np.zeros(len(f), np.int32), n, t)


@dataclass(eq=False)
class Part:
    """One placed mesh: a name, its path in the model's tree, and a 4×4 object-to-world matrix.

    A ``blocker`` stops and tints light but is not seen by the camera nor in reflections. What is
    ``movable`` is kept apart from the rest, so that it can be moved without building anything again.
    A part that is ``scattered`` stands as many times as it has 4×4 matrices (n, 4, 4), each before its own.
    """

    name: str
    mesh: Mesh
    matrix: npt.NDArray[np.float64] = field(default_factory=lambda: np.eye(4))
    path: tuple[str, ...] = ()
    blocker: bool = False
    movable: bool = False
    scattered: npt.NDArray[np.float64] | None = None

    def places(self) -> npt.NDArray[np.float64]:
        """Object-to-world matrices (n, 4, 4) of all that the part stands for."""
        if self.scattered is None:
            return self.matrix[None]
        return np.asarray(self.matrix @ self.scattered)


@dataclass(frozen=True)
class ModelCamera:
    """A camera stored in a model: position and target in metres, vertical field of view.

    ``aspect`` is width over height, 0 where the file does not tell. ``shift`` is where the middle of the picture lies, right
    and up, at 1 m before a camera that looks at the target.
    """

    name: str
    position: tuple[float, float, float]
    target: tuple[float, float, float]
    vertical_fov_deg: float
    aspect: float = 0.0
    shift: tuple[float, float] = (0.0, 0.0)


@dataclass(frozen=True)
class ModelLight:
    """A light of a model file: metres, z up; ``intensity`` in cd, lux if directional, cd/m² of a dome.

    ``rgb`` is linear sRGB of any brightness up to 1; cones are full angles in degrees. ``sizes`` in metres: radius of a
    sphere or disc, width and height of a rectangle, length and radius of a tube, whose direction is across it; none for a
    light without a face. ``along`` is the way of a rectangle's width or of a tube.
    """

    name: str
    kind: Literal["directional", "point", "spot", "dome"]
    position: tuple[float, float, float]
    direction: tuple[float, float, float]
    intensity: float
    rgb: tuple[float, float, float] = (1.0, 1.0, 1.0)
    inner_deg: float = 0.0
    outer_deg: float = 90.0
    shape: Literal["", "sphere", "disc", "rectangle", "tube"] = ""
    sizes: tuple[float, ...] = ()
    along: tuple[float, float, float] = (1.0, 0.0, 0.0)
    #: File name of the picture a dome is.
    picture: str = ""


class Missing(str):
    """A remark on a file that a model names and that was not there."""


@dataclass(eq=False)
class Model:
    """A building as read: placed parts, cameras, and remarks on what was doubtful."""

    parts: list[Part]
    cameras: list[ModelCamera] = field(default_factory=list)
    remarks: list[str] = field(default_factory=list)
    lights: list[ModelLight] = field(default_factory=list)

    @property
    def triangle_count(self) -> int:
        """Number of triangles with every copy counted."""
        return sum(len(p.mesh.faces) for p in self.parts)

    @property
    def materials(self) -> list[Material]:
        """Materials in use, each once, in order of appearance."""
        return list({m: None for p in self.parts for m in p.mesh.materials})

    def bounds(self) -> tuple[npt.NDArray[np.float64], npt.NDArray[np.float64]]:
        """Lowest and highest corner in metres; raises ``ModelError`` for an empty model."""
        boxes = [part_bounds(p) for p in self.parts if len(p.mesh.vertices)]
        if not boxes:
            raise ModelError("The model holds no triangles.")
        low = np.min([b[0] for b in boxes], axis=0)
        return low, np.max([b[1] for b in boxes], axis=0)


#: Axes of a file that can point up, and how each turns its x, y, z to ours.
UPRIGHT: dict[str, npt.NDArray[np.float64]] = {
    "y": np.array([[1.0, 0, 0], [0, 0, -1], [0, 1, 0]]),
    "z": np.eye(3),
    "x": np.array([[0.0, 0, -1], [0, 1, 0], [1, 0, 0]]),
    "-x": np.array([[0.0, 0, 1], [0, 1, 0], [-1, 0, 0]]),
    "-y": np.array([[1.0, 0, 0], [0, 0, 1], [0, -1, 0]]),
    "-z": np.array([[1.0, 0, 0], [0, -1, 0], [0, 0, -1]]),
}


def up_towards(up: str, direction: npt.ArrayLike) -> str:
    """Axis of the file that must point up so that what shows in a direction now stands up then.

    >>> up_towards("y", (1, 0, 0)), up_towards("z", (0, 0, -1))
    ('x', '-z')
    """
    in_file = UPRIGHT[up].T @ np.asarray(direction, float)
    axis = int(np.argmax(np.abs(in_file)))
    return ("" if in_file[axis] > 0 else "-") + "xyz"[axis]


def turned(model: Model, turn: npt.NDArray[np.float64]) -> Model:
    """The model carried by a 3×3 matrix: turned, or made larger."""
    k = np.eye(4)
    k[:3, :3] = turn

    def carried(point: tuple[float, float, float]) -> tuple[float, float, float]:
        x, y, z = turn @ np.asarray(point)
        return float(x), float(y), float(z)

    def pointed(direction: tuple[float, float, float]) -> tuple[float, float, float]:
        x, y, z = (d := turn @ np.asarray(direction)) / max(float(np.linalg.norm(d)), 1e-12)
        return float(x), float(y), float(z)

    cameras = [
        replace(c, position=carried(c.position), target=carried(c.target)) for c in model.cameras
    ]
    lights = [replace(light, position=carried(light.position), direction=pointed(light.direction))
              for light in model.lights]  # fmt: skip
    parts = [replace(p, matrix=k @ p.matrix) for p in model.parts]
    return replace(model, parts=parts, cameras=cameras, lights=lights)


#: A building that lies so many metres from the origin, and so many times its size, is one at map coordinates: floats
#: have no millimetres there. It is moved by a multiple of the step, so that a later state of it comes to lie as it did.
_FAR_M, _FAR_SIZES, _STEP_M = 2000.0, 5.0, 100.0


def near_origin(model: Model) -> tuple[Model, tuple[float, float, float]]:
    """The model with its middle near the origin if it lay far away, and where that was: whole metres.

    What is at map coordinates (y = 5,400,000 m) would smear in the single precision of rays; heights are left where they are
    unless they are as far. Its remarks tell of it.
    """
    low, high = model.bounds()
    middle = (low + high) / 2
    far = max(_FAR_M, _FAR_SIZES * float((high - low).max()))
    offset = np.where(np.abs(middle) > far, np.round(middle / _STEP_M) * _STEP_M, 0.0)
    if not offset.any():
        return model, (0.0, 0.0, 0.0)

    def moved(point: Sequence[float]) -> tuple[float, float, float]:
        x, y, z = (float(v) for v in np.asarray(point, float) - offset)
        return x, y, z

    k = np.eye(4)
    k[:3, 3] = -offset
    x, y, z = (float(v) for v in offset)
    said = (f"It lies at map coordinates: it was moved by {-x:.0f}, {-y:.0f}, {-z:.0f} m to the origin; "
            "lamps and cameras go out where it lay.")  # fmt: skip
    return Model(
        [replace(p, matrix=k @ p.matrix) for p in model.parts],
        [replace(c, position=moved(c.position), target=moved(c.target)) for c in model.cameras],
        [*model.remarks, said],
        [light if light.kind == "directional" else replace(light, position=moved(light.position))
         for light in model.lights],
    ), (x, y, z)  # fmt: skip


def scaled(model: Model, factor: float) -> Model:
    """The model with every length multiplied, for files whose unit is not the metre."""
    return model if factor == 1.0 else turned(model, np.eye(3) * factor)


def place(matrix: npt.NDArray[np.float64], points: npt.ArrayLike) -> npt.NDArray[np.float64]:
    """Points (n, 3) carried by a 4×4 matrix."""
    p = np.asarray(points, np.float64)
    return p @ matrix[:3, :3].T + matrix[:3, 3]


def box_corners(
    low: npt.NDArray[np.floating], high: npt.NDArray[np.floating]
) -> npt.NDArray[np.float64]:
    """The eight corners (8, 3) of a box."""
    ends = np.stack([low, high]).astype(np.float64)
    which = np.array([[i >> 2 & 1, i >> 1 & 1, i & 1] for i in range(8)])
    return ends[which, np.arange(3)]


def part_bounds(part: Part) -> tuple[npt.NDArray[np.float64], npt.NDArray[np.float64]]:
    """Lowest and highest corner of a placed part in metres."""
    points = place(part.matrix, part.mesh.vertices)
    return points.min(axis=0), points.max(axis=0)


def clean(meshes: Sequence[Mesh]) -> list[str]:
    """Drop faces with bad or coincident points in place; returns one remark on all of them, if any."""
    lost: dict[str, int] = {}
    for mesh in meshes:
        if not len(mesh.faces):
            continue
        corners = mesh.vertices[mesh.faces].astype(np.float64)
        doubled = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
        good = np.isfinite(corners).all(axis=(1, 2)) & (np.abs(doubled).max(axis=1) > 1e-14)
        if not good.all():
            lost[mesh.name] = lost.get(mesh.name, 0) + int((~good).sum())
            mesh.faces, mesh.face_material = mesh.faces[good], mesh.face_material[good]
        mesh.vertices = np.nan_to_num(mesh.vertices, posinf=0.0, neginf=0.0)
    if not lost:
        return []
    most = max(lost, key=lambda name: lost[name])
    where = f"in “{most}”" if len(lost) == 1 else f"in {len(lost)} meshes, most in “{most}”"
    return [f"{sum(lost.values())} faces without area or place were left out, {where}."]
