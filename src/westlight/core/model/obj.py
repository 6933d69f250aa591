"""Reading Wavefront OBJ files: every object and group a part, materials by `mtl.Library`."""

from __future__ import annotations

from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import numpy as np
import numpy.typing as npt

from ..colour import srgb_to_working
from ..errors import ModelError
from .material import Material
from .mtl import Library, text_of
from .parts import Mesh, Model, Part

Array = npt.NDArray[np.float64]
#: Coordinates beyond this are kept apart from the shape, in units of the file.
_FAR = 1000.0


@dataclass
class _Group:
    """Faces of one object or group: corners as (point, uv, normal) from 0, −1 for none, and a material each."""

    name: str
    path: tuple[str, ...]
    corners: list[tuple[int, int, int]] = field(default_factory=list)
    sizes: list[int] = field(default_factory=list)
    materials: list[str] = field(default_factory=list)


class _Reader:
    """What has been read of a file so far."""

    def __init__(self, file: Path) -> None:
        self.file = file
        self.remarks: list[str] = []
        self.library = Library(file.parent, self.remarks)
        self._v: list[list[str]] = []
        self._vt: list[list[str]] = []
        self._vn: list[list[str]] = []
        self._groups: list[_Group] = []
        self._object = self._material = ""
        self._left: set[str] = set()

    def read(self) -> list[_Group]:
        """All groups with faces; raises ``ValueError`` or ``IndexError`` for a damaged file."""
        text = text_of(self.file.read_bytes())
        # A backslash at the end of a line joins the next one to it.
        if "\\\n" in text or "\\\r\n" in text:
            text = text.replace("\\\r\n", " ").replace("\\\n", " ")
        self._begin("", "")
        for line in text.splitlines():
            words = line.split()
            if not words or words[0].startswith("#"):
                continue
            key = words[0]
            if key == "v":
                self._v.append(words[1:])
            elif key == "vt":
                self._vt.append(words[1:])
            elif key == "vn":
                self._vn.append(words[1:])
            elif key == "f":
                self._face(words[1:])
            else:
                self._other(key, line.strip()[len(key) :].strip())
        return [g for g in self._groups if g.sizes]

    def _other(self, key: str, rest: str) -> None:
        if key == "o":
            self._object = rest
            self._begin(rest, "")
        elif key == "g":
            self._begin(self._object, rest)
        elif key == "usemtl":
            self._material = rest
        elif key == "mtllib":
            self.library.read(rest)
        elif key in ("l", "p", "curv", "surf"):
            self._left.add("lines, points or curves")

    def _begin(self, name: str, group: str) -> None:
        path = tuple(n for n in (name, group) if n)
        self._groups.append(_Group(path[-1] if path else "part", path or ("part",)))

    def _face(self, words: list[str]) -> None:
        group = self._groups[-1]
        counts = len(self._v), len(self._vt), len(self._vn)
        if len(words) < 3:
            return
        for word in words:
            indices = word.split("/")
            corner = [-1, -1, -1]
            for i, text in enumerate(indices[:3]):
                if text:
                    n = int(text)
                    # Negative ones count back from the last point so far.
                    corner[i] = n - 1 if n > 0 else counts[i] + n
            group.corners.append((corner[0], corner[1], corner[2]))
        group.sizes.append(len(words))
        group.materials.append(self._material)

    def numbers(self) -> tuple[Array, Array | None, Array | None, Array | None]:
        """Points (n, 3), coordinates, normals, and colours of points where the file has them."""
        if not self._v:
            raise ValueError("no points")
        points = _table(self._v, 3)
        coloured = min(len(w) for w in self._v) >= 6
        colours = _table([w[3:6] for w in self._v], 3) if coloured else None
        uvs = _table(self._vt, 2) if self._vt else None
        normals = _table(self._vn, 3) if self._vn else None
        return points, uvs, normals, colours

    @property
    def left_out(self) -> list[str]:
        """What was met that is no surface."""
        return sorted(self._left)


def _table(rows: list[list[str]], width: int) -> Array:
    """The first numbers of some lines; coordinates may lack their last."""
    try:
        return np.array([r[:width] for r in rows], float).reshape(-1, width)
    except ValueError:
        return np.array([(r[:width] + ["0"] * width)[:width] for r in rows], float)


def read_obj(file: Path, up: str = "y") -> Model:
    """Read an OBJ file with the MTL and pictures beside it; raises `ModelError`."""
    reader = _Reader(file)
    try:
        groups = reader.read()
        points, uvs, normals, colours = reader.numbers()
        if up == "y":
            points = points[:, [0, 2, 1]] * [1, -1, 1]
            normals = None if normals is None else normals[:, [0, 2, 1]] * [1, -1, 1]
        parts = [_part(g, reader.library, points, uvs, normals, colours) for g in groups]
    except (ValueError, IndexError, OverflowError) as error:
        raise ModelError(
            f"“{file.name}” is damaged or not an OBJ file; export it again."
        ) from error
    if reader.left_out:
        reader.remarks.append(f"It holds {', '.join(reader.left_out)} too; these were left out.")
    return Model(parts, [], reader.remarks)


def _part(
    group: _Group, library: Library, points: Array, uvs: Array | None, normals: Array | None,
    colours: Array | None,
) -> Part:  # fmt: skip
    corners = np.array(group.corners, np.int64)
    for column, table in enumerate((points, uvs, normals)):
        count = 0 if table is None else len(table)
        if (column == 0 and corners[:, 0].min() < 0) or corners[:, column].max() >= max(count, 1):
            raise IndexError("a face names a point that is not there")
    if uvs is None:
        corners[:, 1] = -1
    if normals is None:
        corners[:, 2] = -1
    used, where = np.unique(corners, axis=0, return_inverse=True)
    faces, of_face = triangles(np.array(group.sizes), where.reshape(-1), points[used[:, 0]])
    names = list(dict.fromkeys(group.materials))
    made_of = library.material if colours is None else library.painted
    materials: list[Material] = [made_of(n) for n in names]
    place = {n: i for i, n in enumerate(names)}
    rows = np.array([place[m] for m in group.materials], np.int32)[of_face]
    at = points[used[:, 0]]
    # At map coordinates single precision has no millimetres: points are kept about a corner of their own.
    corner = np.floor(at.min(axis=0))
    corner[np.abs(corner) < _FAR] = 0.0
    made = Mesh(
        group.name, np.asarray(at - corner, np.float32), faces.astype(np.int32), materials, rows,
        _picked(normals, used[:, 2]), None, None if colours is None else
        np.clip(srgb_to_working(np.clip(colours[used[:, 0]], 0, 1)), 0, 1).astype(np.float32),
    )  # fmt: skip
    laid = _picked(uvs, used[:, 1])
    if laid is not None:
        # OBJ counts v upwards, glTF and the tracer downwards.
        laid[:, 1] = 1.0 - laid[:, 1]
        made.uvs = laid
    matrix = np.eye(4)
    matrix[:3, 3] = corner
    return Part(group.name, made, matrix, group.path)


def _picked(table: Array | None, rows: npt.NDArray[np.int64]) -> npt.NDArray[np.float32] | None:
    """Values of corners; zeros where a corner has none, None where no corner has one."""
    if table is None or (rows < 0).all():
        return None
    out = table[np.maximum(rows, 0)].astype(np.float32)
    out[rows < 0] = 0.0
    return out


def triangles(
    sizes: npt.NDArray[np.int64], corners: npt.NDArray[np.int64], points: Array
) -> tuple[npt.NDArray[np.int64], npt.NDArray[np.int64]]:
    """Triangles (m, 3) of faces with some corners each, and the face each comes from."""
    starts = np.concatenate([[0], np.cumsum(sizes)[:-1]])
    out: list[Any] = []
    of: list[Any] = []
    three, four = np.flatnonzero(sizes == 3), np.flatnonzero(sizes == 4)
    if len(three):
        out.append(corners[starts[three][:, None] + np.arange(3)])
        of.append(three)
    if len(four):
        quads = corners[starts[four][:, None] + np.arange(4)]
        p = points[quads]
        # The diagonal whose two triangles face the same way; a dented quad has only one.
        a = np.cross(p[:, 1] - p[:, 0], p[:, 2] - p[:, 0])
        b = np.cross(p[:, 2] - p[:, 0], p[:, 3] - p[:, 0])
        dented = (a * b).sum(axis=1) < 0
        quads[dented] = np.roll(quads[dented], -1, axis=1)
        out += [quads[:, [0, 1, 2]], quads[:, [0, 2, 3]]]
        of += [four, four]
    for face in np.flatnonzero(sizes > 4):
        ring = corners[starts[face] : starts[face] + sizes[face]]
        cut = ring[_cut(points[ring])]
        out.append(cut)
        of.append(np.full(len(cut), face))
    if not out:
        return np.zeros((0, 3), np.int64), np.zeros(0, np.int64)
    return np.concatenate(out), np.concatenate(of)


def _cut(ring: Array) -> npt.NDArray[np.int64]:
    """Triangles of one face of many corners, dents and all, seen along its normal (Newell 1972)."""
    import mapbox_earcut

    after = np.roll(ring, -1, axis=0)
    normal = np.cross(ring, after).sum(axis=0)
    away = int(np.argmax(np.abs(normal)))
    flat = np.delete(ring, away, axis=1)
    try:
        found = mapbox_earcut.triangulate_float64(flat, np.array([len(ring)], np.uint32))
    except ValueError:
        found = np.zeros(0, np.uint32)
    triangles = np.asarray(found, np.int64).reshape(-1, 3)
    if not len(triangles):
        n = np.arange(1, len(ring) - 1)
        return np.stack([np.zeros_like(n), n, n + 1], axis=1)
    made = np.cross(ring[triangles[:, 1]] - ring[triangles[:, 0]],
                    ring[triangles[:, 2]] - ring[triangles[:, 0]])  # fmt: skip
    turned = made @ normal < 0
    triangles[turned] = triangles[turned][:, ::-1]
    return triangles
