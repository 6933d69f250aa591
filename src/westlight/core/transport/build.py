"""From a scene's parts to the flat arrays and hierarchies the kernels read.

Rebuilt when the model changes; what surrounds it, sources and portals, is put together in
`assemble` in a few milliseconds.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from copy import copy
from dataclasses import dataclass, field, replace
from functools import cached_property
from itertools import product
from typing import Any

import numpy as np
import numpy.typing as npt

from ..model import Material, Mesh, Part, Texture
from ..model.material import Wrap
from ..model.parts import box_corners, place
from ..remembered import key_of
from . import layout as L
from .cutout import cut_table, filter_address
from .embree import MASK_BLOCKER, MASK_PANE, MASK_SOLID, EmbreeScene
from .glints import alphas_of, smooth_planes
from .materials import material_arrays, texture_arrays

#: Copies that share a geometry of the top scene at most: moving one of 10,000 then takes about a
#: millisecond (lots of 128 to 512 do best).
LOT = 256

F4 = npt.NDArray[np.float32]
I4 = npt.NDArray[np.int32]


@dataclass
class _Chunk:
    """Triangles that share one Embree scene: all solid or all panes, world or object space."""

    positions: list[F4] = field(default_factory=list)
    normals: list[F4] = field(default_factory=list)
    uvs: list[F4] = field(default_factory=list)
    colours: list[F4] = field(default_factory=list)
    triangles: list[I4] = field(default_factory=list)
    materials: list[I4] = field(default_factory=list)
    parts: list[I4] = field(default_factory=list)
    vertex_count: int = 0

    def add(
        self,
        mesh: Mesh,
        matrix: npt.NDArray[np.float64] | None,
        faces: npt.NDArray[np.bool_],
        rows: I4,
        part: int,
    ) -> None:
        """Append the chosen faces of a mesh, carried to world space if a matrix is given."""
        if not faces.any():
            return
        chosen = mesh.faces[faces]
        used, index = np.unique(chosen, return_inverse=True)
        points = mesh.vertices[used]
        normals = np.zeros_like(points) if mesh.normals is None else mesh.normals[used]
        uvs = np.zeros((len(used), 2), np.float32) if mesh.uvs is None else mesh.uvs[used]
        colours = np.ones((len(used), 3), np.float32)
        if mesh.colours is not None:
            colours = mesh.colours[used]
        if matrix is not None:
            points = place(matrix, points).astype(np.float32)
            normals = (normals @ np.linalg.inv(matrix[:3, :3])).astype(np.float32)
        uvs = _moved_uvs(mesh, faces, used, np.asarray(uvs, np.float32))
        self.positions.append(np.asarray(points, np.float32))
        self.normals.append(np.asarray(normals, np.float32))
        self.uvs.append(np.asarray(uvs, np.float32))
        self.colours.append(np.asarray(colours, np.float32))
        self.triangles.append((index.reshape(-1, 3) + self.vertex_count).astype(np.int32))
        self.materials.append(rows[mesh.face_material[faces]])
        self.parts.append(np.full(int(faces.sum()), part, np.int32))
        self.vertex_count += len(used)


def _moved_uvs(
    mesh: Mesh, faces: npt.NDArray[np.bool_], used: npt.NDArray[np.integer], uvs: F4
) -> F4:
    """Texture coordinates after the transform of the material that uses each vertex."""
    for row, material in enumerate(mesh.materials):
        if material.uv_transform is None or mesh.uvs is None:
            continue
        dx, dy, turn, sx, sy = material.uv_transform
        mine = np.isin(used, mesh.faces[faces & (mesh.face_material == row)])
        u, v = uvs[mine, 0] * sx, uvs[mine, 1] * sy
        c, s = np.cos(turn), np.sin(turn)
        uvs = uvs.copy()
        uvs[mine] = np.stack([c * u + s * v + dx, -s * u + c * v + dy], axis=1)
    return uvs


#: Points and triangles of a hierarchy, and how many of the triangles have no holes.
_Shape = tuple[F4, I4, int]


@dataclass
class _Placed:
    chunk: int
    matrix: npt.NDArray[np.float64]
    mask: int
    #: Number of the part a copy stands for; −1 where triangles of many parts share a hierarchy.
    part: int = -1


class GeometryBuild:
    """Parts, materials and textures as arrays and committed Embree scenes.

    ``before`` lends the hierarchies of what stands in both; with ``same_room`` both are one building,
    and what the portals of one know of it holds for the other.
    """

    #: The same object for builds of one building.
    room: object
    placed: list[_Placed]
    instance_matrix: F4
    instance_normal: F4

    def __init__(
        self,
        parts: Sequence[Part],
        before: GeometryBuild | None = None,
        same_room: bool = False,
    ) -> None:
        self.room = before.room if before is not None and same_room else object()
        self._parts = list(parts)
        self.materials: list[Material] = list({m: None for p in parts for m in p.mesh.materials})
        self._textures: dict[Texture, int] = {}
        self.material_floats, self.material_ints = material_arrays(self.materials, self._textures)
        self.texels, self.texture_ints = texture_arrays(list(self._textures))
        self._cut_table = cut_table(self.materials, self.material_ints, self.texture_ints)
        self._cut_data: list[npt.NDArray[np.int64]] = []
        chunks, placed = self._chunks(parts)
        self._join(chunks, placed, before)
        self.pane_scene = self._panes_alone()

    def adapted(self, parts: Sequence[Part]) -> GeometryBuild | None:
        """The build of the same parts with other paint, and copies or movable parts at other places,
        sharing all geometry; None if that differs.

        What light can pass, where holes are and what shines must stay: geometry is sorted by it.
        """
        paint: dict[Material, Material] = {}
        if len(parts) != len(self._parts):
            return None
        moved: dict[int, npt.NDArray[np.float64]] = {}
        untouched: dict[int, Mesh] = {}
        for i, (old, new) in enumerate(zip(self._parts, parts, strict=True)):
            if old is new:
                untouched[id(old.mesh)] = old.mesh
                continue
            if not _same_shape(old, new) or old.scattered is not new.scattered:
                return None
            if not np.array_equal(old.matrix, new.matrix):
                fixed = i not in self._rows_of_part or old.scattered is not None
                if fixed or abs(np.linalg.det(new.matrix[:3, :3])) < 1e-12:
                    return None
                moved[i] = new.matrix
            for m, n in zip(old.mesh.materials, new.mesh.materials, strict=True):
                if paint.setdefault(m, n) is not n:
                    return None
        for mesh in untouched.values():
            if any(paint.setdefault(m, m) is not m for m in mesh.materials):
                return None
        pairs = paint.items()
        if any(getattr(m, k) != getattr(n, k) for m, n in pairs for k in _SORTED_BY):
            return None
        used = {t for n in paint.values() for t in (n.rough_texture, n.normal_texture)}
        if len(set(paint.values())) < len(paint) or used - {None, *self._textures}:
            return None
        made = copy(self)
        made._parts, made.materials = list(parts), [paint[m] for m in self.materials]
        made.__dict__.pop("digest", None)
        made.material_floats, made.material_ints = material_arrays(made.materials, self._textures)
        if not np.array_equal(alphas_of(made), alphas_of(self), equal_nan=True):
            made.__dict__.pop("smooth_planes", None)
        if moved:
            made._move(moved)
        return made

    def _move(self, moved: dict[int, npt.NDArray[np.float64]]) -> None:
        """Set other matrices of some parts that have rows of their own."""
        for name in ("bounds", "digest"):
            self.__dict__.pop(name, None)
        self.placed = list(self.placed)
        self.instance_matrix, self.instance_normal = (
            self.instance_matrix.copy(), self.instance_normal.copy(),
        )  # fmt: skip
        masks = set()
        for part, m in moved.items():
            for i in self._rows_of_part[part]:
                self.placed[i] = replace(self.placed[i], matrix=m)
                self.instance_matrix[i] = m[:3, :4]
                self.instance_normal[i] = np.linalg.inv(m[:3, :3]).T
                masks.add(self.placed[i].mask)
        if MASK_PANE in masks:
            self.pane_scene = self._panes_alone()

    @cached_property
    def _rows_of_part(self) -> dict[int, list[int]]:
        """Rows of the copies and movable parts, by the number of the part."""
        rows: dict[int, list[int]] = {}
        for i, part in enumerate(self.instance_part.tolist()):
            if part >= 0:
                rows.setdefault(part, []).append(i)
        return rows

    @cached_property
    def digest(self) -> str:
        """Key of everything that stops rays or lets them through: shapes, places, panes and holes."""
        holed = (m for m in self.materials if m.cutout is not None)
        holes = [(m.cutout, m.alpha, t.wrap, key_of(t.pixels[..., 3]))
                 for m in holed if (t := m.base_texture) is not None]  # fmt: skip
        return key_of(
            self.positions, self.triangles, self.triangle_material, self.geometry_first,
            self.instance_first, self.instance_matrix, self.instance_cut, self.material_ints, holes,
        )  # fmt: skip

    @cached_property
    def smooth_planes(self) -> npt.NDArray[np.float64]:
        """See `glints.smooth_planes`; what has moved since it was found does not matter."""
        return smooth_planes(self)

    @cached_property
    def bounds(self) -> tuple[npt.NDArray[np.float64], npt.NDArray[np.float64]]:
        """Lowest and highest corner of what casts or shows light, in metres; zeros without parts."""
        low, high = np.full(3, np.inf), np.full(3, -np.inf)
        boxes: dict[int, npt.NDArray[np.float64]] = {}
        for part in self._parts:
            if len(part.mesh.faces):
                p = part.mesh.vertices
                box = boxes.setdefault(id(part.mesh), box_corners(p.min(axis=0), p.max(axis=0)))
                m = part.places()
                corners = (np.einsum("nij,kj->nki", m[:, :3, :3], box) + m[:, None, :3, 3]).reshape(
                    -1, 3
                )
                if len(corners):
                    low, high = (
                        np.minimum(low, corners.min(axis=0)),
                        np.maximum(high, corners.max(axis=0)),
                    )
        return (low, high) if np.isfinite(low).all() else (np.zeros(3), np.zeros(3))

    def _chunks(self, parts: Sequence[Part]) -> tuple[list[_Chunk], list[_Placed]]:
        """Triangles sorted by what meets them, and where each lot stands."""
        row_of = {m: i for i, m in enumerate(self.materials)}
        panes = np.array(
            [(m.is_pane and m.clear_path) or m.is_woven for m in self.materials] or [False]
        )
        glowing = {m for m in self.materials if m.emits}
        uses: dict[int, list[Part]] = {}
        number = {id(part): i for i, part in enumerate(parts)}
        for part in parts:
            uses.setdefault(id(part.mesh), []).append(part)
        world = [_Chunk(), _Chunk(), _Chunk()]
        chunks: list[_Chunk] = list(world)
        masks = (MASK_SOLID, MASK_PANE, MASK_BLOCKER)
        placed = [_Placed(i, np.eye(4), mask) for i, mask in enumerate(masks)]
        for group in uses.values():
            mesh = group[0].mesh
            if not len(mesh.faces):
                continue
            rows = np.array([row_of[m] for m in mesh.materials], np.int32)
            is_pane = panes[rows][mesh.face_material]
            blockers = [p for p in group if p.blocker]
            group = [p for p in group if not p.blocker]
            for part in blockers:
                if part.movable:
                    placed.append(_Placed(len(chunks), part.matrix, MASK_BLOCKER, number[id(part)]))
                    chunks.append(_Chunk())
                    chunks[-1].add(mesh, None, np.ones_like(is_pane), rows, -1)
                else:
                    world[2].add(mesh, part.matrix, np.ones_like(is_pane), rows, number[id(part)])
            halves = ((~is_pane, 0, MASK_SOLID), (is_pane, 1, MASK_PANE))
            # Copies share one hierarchy; a mesh used once, or one that glows, joins the world's.
            alone = len(group) == 1 and not group[0].movable and group[0].scattered is None
            if not group or alone or glowing.intersection(mesh.materials):
                for part in group:
                    for matrix, (faces, which, _) in product(part.places(), halves):
                        world[which].add(mesh, matrix, faces, rows, number[id(part)])
                continue
            copies = _side_by_side([(m, number[id(p)]) for p in group for m in p.places()])
            for faces, _, mask in halves:
                if faces.any():
                    chunk = _Chunk()
                    chunk.add(mesh, None, faces, rows, -1)
                    placed += [_Placed(len(chunks), m, mask, of) for m, of in copies]
                    chunks.append(chunk)
        return chunks, placed

    def _join(
        self, chunks: list[_Chunk], placed: list[_Placed], before: GeometryBuild | None
    ) -> None:
        empty3, empty2 = np.zeros((0, 3), np.float32), np.zeros((0, 2), np.float32)
        holed = np.array([m.cutout is not None and m.base_texture is not None
                          for m in self.materials] or [False])  # fmt: skip
        firsts, cuts, vertex_base, first = [], [], 0, 0
        positions, normals, uvs, colours = [empty3], [empty3], [empty2], [empty3]
        triangles, materials = [np.zeros((0, 3), np.int32)], [np.zeros(0, np.int32)]
        owners = [np.zeros(0, np.int32)]
        shapes: list[_Shape] = []
        for chunk in chunks:
            firsts.append(first)
            if not chunk.triangles:
                shapes.append((empty3, triangles[0], 0))
                cuts.append(0)
                continue
            points, index = np.concatenate(chunk.positions), np.concatenate(chunk.triangles)
            rows = np.concatenate(chunk.materials)
            # Solid triangles first, those with holes after them: they are a geometry of their own.
            order = np.argsort(holed[rows], kind="stable")
            index, rows = index[order], rows[order]
            cuts.append(int((~holed[rows]).sum()))
            shapes.append((points, index, cuts[-1]))
            positions.append(points)
            normals += chunk.normals
            uvs += chunk.uvs
            colours += chunk.colours
            triangles.append(index + vertex_base)
            materials.append(rows)
            owners.append(np.concatenate(chunk.parts)[order])
            vertex_base += len(points)
            first += len(index)
        self.positions = np.concatenate(positions)
        self.triangles = np.concatenate(triangles).astype(np.int32)
        self.triangle_material = np.concatenate(materials)
        self.triangle_part = np.concatenate(owners)
        self.corners = self._corners(np.concatenate(normals), np.concatenate(uvs))
        self.paint = np.zeros((1, 9), np.float32)
        if any(m.vertex_colours for m in self.materials) and len(self.triangles):
            self.paint = np.concatenate(colours)[self.triangles].reshape(-1, 9)
        self._shapes = shapes
        lent = {} if before is None else before._lent()
        self.scenes = [
            _like(lent, shape) or self._scene(first, *shape)
            for first, shape in zip(firsts, shapes, strict=True)
        ]
        self.placed = [p for p in placed if self.scenes[p.chunk] is not None]
        chunk_of = np.array([p.chunk for p in self.placed] or [0])
        # Copies of a mesh stand one behind another; only the lot of one that moves is built anew.
        lots = [
            np.arange(first, first + count, LOT)
            for first, count in zip(
                *np.unique(chunk_of, return_index=True, return_counts=True)[1:], strict=True
            )
        ]
        self.geometry_first = np.concatenate(lots).astype(np.int64)
        matrices = [p.matrix for p in self.placed] or [np.eye(4)]
        self.instance_first = np.array([firsts[p.chunk] for p in self.placed], np.int64)
        self.instance_part = np.array([p.part for p in self.placed], np.int32)
        self.instance_cut = np.array([cuts[p.chunk] for p in self.placed], np.int64)
        stacked = np.array(matrices)
        self.instance_matrix = stacked[:, :3, :4].astype(np.float32)
        turns = np.linalg.inv(stacked[:, :3, :3])
        # In rows as its type says: laid out otherwise, the tracer is compiled anew for it.
        self.instance_normal = np.ascontiguousarray(turns.transpose(0, 2, 1), np.float32)

    def _lent(self) -> dict[tuple[int, int], list[tuple[_Shape, EmbreeScene]]]:
        """Hierarchies another build may share, by numbers of points and triangles; those with holes
        read arrays of their build."""
        out: dict[tuple[int, int], list[tuple[_Shape, EmbreeScene]]] = {}
        for shape, scene in zip(self._shapes, self.scenes, strict=True):
            points, index, cut = shape
            if scene is not None and cut == len(index):
                out.setdefault((len(points), cut), []).append((shape, scene))
        return out

    def _scene(self, first: int, points: F4, index: I4, cut: int) -> EmbreeScene | None:
        if not len(index):
            return None
        scene = EmbreeScene()
        if cut:
            scene.add_triangles(points, index[:cut])
        if cut < len(index):
            data = np.array([self.corners[first + cut :].ctypes.data, self.texels.ctypes.data,
                             self._cut_table.ctypes.data], np.int64)  # fmt: skip
            self._cut_data.append(data)
            scene.add_triangles(points, index[cut:], 1, holes=(filter_address(), data.ctypes.data))
        return scene.commit()

    def _corners(self, normals: F4, uvs: F4) -> F4:
        """Rows of `layout.N_*`, each on a cache line of its own."""
        count = len(self.triangles)
        raw = np.zeros(max(count, 1) * L.CORNER_COLUMNS + 16, np.float32)
        skip = (-raw.ctypes.data % 64) // 4
        rows = raw[skip : skip + max(count, 1) * L.CORNER_COLUMNS].reshape(-1, L.CORNER_COLUMNS)
        if count:
            both = np.concatenate([normals, uvs], axis=1)[self.triangles]
            rows[:, : L.N_MATERIAL] = both.reshape(count, L.N_MATERIAL)
            rows.view(np.int32)[:, L.N_MATERIAL] = self.triangle_material
        return rows

    def geometries(self) -> Iterator[tuple[EmbreeScene, npt.NDArray[np.float64], int]]:
        """Scene, 4×4 matrices (n, 4, 4) and mask of each geometry of the top scene, see `geometry_first`."""
        ends = np.append(self.geometry_first[1:], len(self.placed)).tolist()
        for first, end in zip(self.geometry_first.tolist(), ends, strict=True):
            copies = self.placed[first:end]
            if copies:
                scene = self.scenes[copies[0].chunk]
                assert scene is not None
                yield scene, np.array([p.matrix for p in copies]), copies[0].mask

    def _panes_alone(self) -> EmbreeScene | None:
        """The panes in a scene of their own: shadow rays look for them in next to no time."""
        scene = EmbreeScene()
        found = False
        for i, (inner, matrices, mask) in enumerate(self.geometries()):
            if mask == MASK_PANE:
                scene.add_copies(inner, matrices, i, mask)
                found = True
        return scene.commit() if found else None

    def glow_triangles(self, material: Material) -> npt.NDArray[np.int64]:
        """Rows of the triangles of an emissive material (they are all in world space)."""
        return np.nonzero(self.triangle_material == self.materials.index(material))[0]

    def glow_brightness(
        self, material: Material, rows: npt.NDArray[np.int64]
    ) -> npt.NDArray[np.float64]:
        """Mean of a material's emission picture over each of its triangles, for choosing them."""
        if material.emission_texture is None:
            return np.ones(len(rows))
        pixels = material.emission_texture.pixels
        h, w = pixels.shape[:2]
        uv = np.stack(
            [self.corners[rows, 3:5], self.corners[rows, 8:10], self.corners[rows, 13:15]]
        )
        steps = [(a, b) for a in np.linspace(0.1, 0.8, 5) for b in np.linspace(0.1, 0.8, 5)]
        total = np.zeros(len(rows))
        inside = [(a, b) for a, b in steps if a + b < 1]
        for a, b in inside:
            at = uv[0] * (1 - a - b) + uv[1] * a + uv[2] * b
            across, down = material.emission_texture.wrap
            x = np.minimum(_led_in(at[:, 0], across) * w, w - 1).astype(int)
            y = np.minimum(_led_in(at[:, 1], down) * h, h - 1).astype(int)
            total += (pixels[y, x, :3].astype(float) / 255.0).mean(axis=1) ** 2.2
        return total / len(inside) + 0.02


def _led_in(t: npt.NDArray[Any], wrap: Wrap) -> npt.NDArray[Any]:
    """Coordinates led into 0…1, as a texture goes on beyond its edge."""
    if wrap == "clamp":
        return np.clip(t, 0.0, 1.0)
    if wrap == "mirror":
        return np.asarray(1.0 - np.abs(1.0 - t % 2.0))
    return np.asarray(t % 1.0)


def _like(
    lent: dict[tuple[int, int], list[tuple[_Shape, EmbreeScene]]], shape: _Shape
) -> EmbreeScene | None:
    """A hierarchy that is lent for exactly this shape."""
    points, index, cut = shape
    if cut < len(index):
        return None
    for (p, i, _), scene in lent.get((len(points), cut), []):
        if np.array_equal(points, p) and np.array_equal(index, i):
            return scene
    return None


_Copy = tuple[npt.NDArray[np.float64], int]


def _side_by_side(copies: list[_Copy]) -> list[_Copy]:
    """Copies in the order of a Z curve through where they stand, so that lots of them are compact."""
    if len(copies) <= LOT:
        return copies
    at = np.array([m[:3, 3] for m, _ in copies])
    size = float(np.ptp(at, axis=0).max()) or 1.0
    steps = ((at - at.min(axis=0)) / size * 1023).astype(np.int64)
    bits = np.arange(10)
    spread = (steps[:, :, None] >> bits & 1) << (3 * bits + np.arange(3)[:, None])
    return [copies[i] for i in np.argsort(spread.sum(axis=(1, 2)), kind="stable")]


#: What of a material decides where its triangles are kept.
_SORTED_BY = ("is_pane", "is_woven", "clear_path", "emits", "cutout", "alpha", "base_texture",
              "emission_texture", "uv_transform", "vertex_colours")  # fmt: skip


def _same_shape(old: Part, new: Part) -> bool:
    """Whether two parts differ in names, paint and place at most."""
    a, b = old.mesh, new.mesh
    if old.blocker != new.blocker or len(a.materials) != len(b.materials):
        return False
    arrays: list[tuple[Any, Any]] = [(a.vertices, b.vertices), (a.faces, b.faces), (a.face_material, b.face_material), (a.normals, b.normals), (a.uvs, b.uvs),
              (a.colours, b.colours)]  # fmt: skip
    return all(
        x is y or (x is not None and y is not None and np.array_equal(x, y)) for x, y in arrays
    )
