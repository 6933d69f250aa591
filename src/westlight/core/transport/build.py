"""From a scene's parts and sources to the flat arrays the kernels read.

Two steps, because they change at different rates: `GeometryBuild` (parts, materials, textures;
rebuilt when the model changes) and `assemble` (sources; a few milliseconds).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np
import numpy.typing as npt

from ..colour import AP1_LUMINANCE, srgb_decode
from ..model import Material, Mesh, Part, Texture
from ..model.parts import place
from ..sources import Disc, Emitter, Glow, Group, Rectangle, SkySource, Source, Sphere, Sun
from . import layout as L
from .embree import MASK_EMITTER, MASK_PANE, MASK_SOLID, EmbreeScene
from .energy import energy_tables

#: Side of the texture copies that bounced light looks up.
SMALL_TEXTURE_PX = 128

F4 = npt.NDArray[np.float32]
I4 = npt.NDArray[np.int32]


@dataclass
class _Chunk:
    """Triangles that share one Embree scene: all solid or all panes, world or object space."""

    positions: list[F4] = field(default_factory=list)
    normals: list[F4] = field(default_factory=list)
    uvs: list[F4] = field(default_factory=list)
    triangles: list[I4] = field(default_factory=list)
    materials: list[I4] = field(default_factory=list)
    vertex_count: int = 0

    def add(
        self,
        mesh: Mesh,
        matrix: npt.NDArray[np.float64] | None,
        faces: npt.NDArray[np.bool_],
        rows: I4,
    ) -> None:
        """Append the chosen faces of a mesh, carried to world space if a matrix is given."""
        if not faces.any():
            return
        chosen = mesh.faces[faces]
        used, index = np.unique(chosen, return_inverse=True)
        points = mesh.vertices[used]
        normals = np.zeros_like(points) if mesh.normals is None else mesh.normals[used]
        uvs = np.zeros((len(used), 2), np.float32) if mesh.uvs is None else mesh.uvs[used]
        if matrix is not None:
            points = place(matrix, points).astype(np.float32)
            normals = (normals @ np.linalg.inv(matrix[:3, :3])).astype(np.float32)
        self.positions.append(np.asarray(points, np.float32))
        self.normals.append(np.asarray(normals, np.float32))
        self.uvs.append(np.asarray(uvs, np.float32))
        self.triangles.append((index.reshape(-1, 3) + self.vertex_count).astype(np.int32))
        self.materials.append(rows[mesh.face_material[faces]])
        self.vertex_count += len(used)


@dataclass
class _Placed:
    chunk: int
    matrix: npt.NDArray[np.float64]
    mask: int


class GeometryBuild:
    """Parts, materials and textures as arrays and committed Embree scenes."""

    def __init__(self, parts: Sequence[Part]) -> None:
        self.materials: list[Material] = list({m: None for p in parts for m in p.mesh.materials})
        row_of = {m: i for i, m in enumerate(self.materials)}
        panes = np.array([m.is_pane for m in self.materials] or [False])
        glowing = {m for m in self.materials if m.emits}
        uses: dict[int, list[Part]] = {}
        for part in parts:
            uses.setdefault(id(part.mesh), []).append(part)
        world = [_Chunk(), _Chunk()]
        chunks: list[_Chunk] = list(world)
        placed = [_Placed(0, np.eye(4), MASK_SOLID), _Placed(1, np.eye(4), MASK_PANE)]
        for group in uses.values():
            mesh = group[0].mesh
            if not len(mesh.faces):
                continue
            rows = np.array([row_of[m] for m in mesh.materials], np.int32)
            is_pane = panes[rows][mesh.face_material]
            halves = ((~is_pane, 0, MASK_SOLID), (is_pane, 1, MASK_PANE))
            # Copies share one hierarchy; a mesh used once, or one that glows, joins the world's.
            if len(group) == 1 or glowing.intersection(mesh.materials):
                for part in group:
                    for faces, which, _ in halves:
                        world[which].add(mesh, part.matrix, faces, rows)
                continue
            for faces, _, mask in halves:
                if faces.any():
                    chunk = _Chunk()
                    chunk.add(mesh, None, faces, rows)
                    placed += [_Placed(len(chunks), p.matrix, mask) for p in group]
                    chunks.append(chunk)
        self._join(chunks, placed)
        self.material_floats, self.material_ints, textures = _material_arrays(self.materials)
        self.texels, self.texture_ints = _texture_arrays(textures)
        self.pane_scene = self._panes_alone()

    def _join(self, chunks: list[_Chunk], placed: list[_Placed]) -> None:
        empty3, empty2 = np.zeros((0, 3), np.float32), np.zeros((0, 2), np.float32)
        self.scenes: list[EmbreeScene | None] = []
        firsts, vertex_base, first = [], 0, 0
        positions, normals, uvs, triangles, materials = [empty3], [empty3], [empty2], [], []
        for chunk in chunks:
            firsts.append(first)
            if not chunk.triangles:
                self.scenes.append(None)
                continue
            points, index = np.concatenate(chunk.positions), np.concatenate(chunk.triangles)
            scene = EmbreeScene()
            scene.add_triangles(points, index)
            self.scenes.append(scene.commit())
            positions.append(points)
            normals += chunk.normals
            uvs += chunk.uvs
            triangles.append(index + vertex_base)
            materials += chunk.materials
            vertex_base += len(points)
            first += len(index)
        self.positions = np.concatenate(positions)
        self.triangles = (
            np.concatenate(triangles).astype(np.int32) if triangles else np.zeros((0, 3), np.int32)
        )
        self.triangle_material = np.concatenate(materials) if materials else np.zeros(0, np.int32)
        self.corners = self._corners(np.concatenate(normals), np.concatenate(uvs))
        self.placed = [p for p in placed if self.scenes[p.chunk] is not None]
        matrices = [p.matrix for p in self.placed] or [np.eye(4)]
        self.instance_first = np.array([firsts[p.chunk] for p in self.placed], np.int64)
        self.instance_matrix = np.array([m[:3, :3] for m in matrices], np.float32)
        self.instance_normal = np.array([np.linalg.inv(m[:3, :3]).T for m in matrices], np.float32)

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

    def _panes_alone(self) -> EmbreeScene | None:
        """The panes in a scene of their own: shadow rays look for them in next to no time."""
        scene = EmbreeScene()
        found = False
        for i, p in enumerate(self.placed):
            inner = self.scenes[p.chunk]
            if p.mask == MASK_PANE and inner is not None:
                scene.add_instance(inner, p.matrix, i, p.mask)
                found = True
        return scene.commit() if found else None

    def glow_triangles(self, material: Material) -> npt.NDArray[np.int64]:
        """Rows of the triangles of an emissive material (they are all in world space)."""
        return np.nonzero(self.triangle_material == self.materials.index(material))[0]


def _material_arrays(materials: Sequence[Material]) -> tuple[F4, I4, list[Texture]]:
    floats = np.zeros((max(len(materials), 1), L.MATERIAL_FLOATS), np.float32)
    ints = np.full((max(len(materials), 1), L.MATERIAL_INTS), -1, np.int32)
    ints[:, L.M_KIND] = L.KIND_SURFACE
    textures: dict[Texture, int] = {}

    def row(texture: Texture | None) -> int:
        return -1 if texture is None else textures.setdefault(texture, len(textures))

    for i, m in enumerate(materials):
        floats[i, :7] = (*m.rgb, m.roughness, m.metallic, m.ior, m.transmission)
        floats[i, L.M_NORMAL_SCALE] = m.normal_scale
        ints[i, L.M_TEX_BASE] = row(m.base_texture)
        ints[i, L.M_TEX_ROUGH] = row(m.rough_texture)
        ints[i, L.M_TEX_NORMAL] = row(m.normal_texture)
        ints[i, L.M_GLOWS] = int(m.emits)
        if m.is_pane:
            ints[i, L.M_KIND] = L.KIND_SHEET if m.sheet else L.KIND_INTERFACE
    return floats, ints, list(textures)


def _reduced(pixels: npt.NDArray[np.uint8]) -> npt.NDArray[np.uint8]:
    """A copy of at most `SMALL_TEXTURE_PX` pixels a side, averaged in encoded values."""
    h, w = pixels.shape[:2]
    scale = max(1, -(-max(h, w) // SMALL_TEXTURE_PX))
    if scale == 1 or h < scale or w < scale:
        return pixels
    cut = pixels[: h // scale * scale, : w // scale * scale].astype(np.float32)
    blocks = cut.reshape(h // scale, scale, w // scale, scale, 4)
    return np.asarray(np.round(blocks.mean(axis=(1, 3))), np.uint8)


def _texture_arrays(textures: Sequence[Texture]) -> tuple[npt.NDArray[np.uint8], L.I8]:
    texels = [np.zeros((1, 4), np.uint8)]
    ints, first = np.zeros((max(len(textures), 1), L.TEXTURE_INTS), np.int64), 1
    for i, t in enumerate(textures):
        ints[i, L.T_SRGB] = int(t.srgb)
        for column, pixels in ((L.T_FIRST, t.pixels), (L.T_SMALL, _reduced(t.pixels))):
            h, w = pixels.shape[:2]
            ints[i, column : column + 3] = first, w, h
            ints[i, L.T_SRGB] = int(t.srgb)
            texels.append(np.ascontiguousarray(pixels).reshape(-1, 4))
            first += w * h
    return np.concatenate(texels), ints


def clay_materials(build: GeometryBuild, reflectance: float) -> tuple[F4, I4]:
    """Material arrays with every surface matte at one reflectance; panes keep their own."""
    floats, ints = build.material_floats.copy(), build.material_ints.copy()
    surface = ints[:, L.M_KIND] == L.KIND_SURFACE
    floats[surface, 0:3], floats[surface, L.M_ROUGHNESS] = reflectance, 1.0
    floats[surface, L.M_METALLIC] = 0.0
    ints[surface, L.M_TEX_BASE : L.M_TEX_EMIT + 1] = -1
    return floats, ints


def _emitter_row(e: Emitter, radiance: npt.NDArray[np.float64]) -> npt.NDArray[np.float64]:
    row = np.zeros(L.EMITTER_FLOATS)
    row[0:3] = e.position
    row[L.E_AREA] = e.area_m2
    row[L.E_RED : L.E_BLUE + 1] = radiance
    row[L.E_WEIGHT] = max(float(radiance @ AP1_LUMINANCE), 1e-12) * e.area_m2
    if isinstance(e, Sphere):
        row[L.E_RADIUS] = e.radius
        return row
    u, v, n = e.axes
    if isinstance(e, Rectangle):
        row[3:6], row[6:9] = u * e.width, v * e.height
    else:
        row[3:6], row[6:9], row[L.E_RADIUS] = u, v, e.radius
    row[9:12] = n
    return row


_SHAPES = {Rectangle: L.SHAPE_RECTANGLE, Disc: L.SHAPE_DISC, Sphere: L.SHAPE_SPHERE}


def _triangle_rows(build: GeometryBuild, rows: npt.NDArray[np.int64]) -> npt.NDArray[np.float64]:
    corners = build.positions[build.triangles[rows]].astype(np.float64)
    u, v = corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]
    normal = np.cross(u, v)
    doubled = np.linalg.norm(normal, axis=1)
    out = np.zeros((len(rows), L.EMITTER_FLOATS))
    out[:, 0:3], out[:, 3:6], out[:, 6:9] = corners[:, 0], u, v
    out[:, 9:12] = normal / doubled[:, None]
    out[:, L.E_AREA] = doubled / 2
    out[:, L.E_RED : L.E_BLUE + 1] = 1.0
    out[:, L.E_WEIGHT] = doubled / 2
    return out


def sky_table(rgb: npt.NDArray[np.float32]) -> F4:
    """Rows of `layout.K_*` of a sky picture (h, w, 3): colour, density and alias table."""
    height, width = rgb.shape[:2]
    edges = np.cos(np.linspace(0, np.pi, height + 1))
    omega = np.repeat((edges[:-1] - edges[1:]) * 2 * np.pi / width, width)
    flat = rgb.reshape(-1, 3)
    lum = flat.astype(np.float64) @ AP1_LUMINANCE
    weight = np.maximum(lum, 0.0) * omega
    total = weight.sum()
    p = weight / total if total > 0 else omega / omega.sum()
    table = np.zeros((len(flat), L.SKY_COLUMNS), np.float32)
    table[:, L.K_RED : L.K_BLUE + 1] = flat
    table[:, L.K_DENSITY] = p / omega
    table[:, L.K_ACCEPT], table[:, L.K_ALIAS] = alias_table(p)
    return table


def alias_table(p: npt.NDArray[np.float64]) -> tuple[F4, I4]:
    """Walker's alias table (share kept, other entry) of probabilities (n,)."""
    from .kernels.alias import build_alias

    n = len(p)
    accept, alias = np.ones(n, np.float32), np.arange(n, dtype=np.int32)
    build_alias(p * n, accept, alias)
    return accept, alias


@dataclass
class Assembled:
    """Arrays for the kernels, with the Embree scene and sources they belong to kept alive."""

    arrays: L.SceneArrays
    sources: list[Source]
    top: EmbreeScene
    build: GeometryBuild

    def stands_like(self, emitter_floats: F4, emitter_ints: I4) -> bool:
        """Whether these emitters have the shapes, places and visibility of ours."""
        ours = self.arrays
        return (
            ours.emitter_floats.shape == emitter_floats.shape
            and np.array_equal(ours.emitter_floats[:, : L.E_AREA], emitter_floats[:, : L.E_AREA])
            and np.array_equal(ours.emitter_ints, emitter_ints)
        )


def assemble(
    build: GeometryBuild,
    sources: Sequence[Source],
    clay_reflectance: float | None = None,
    before: Assembled | None = None,
) -> Assembled:
    """Put sources around a geometry build; the order of ``sources`` is the order of slots.

    ``before`` lends its Embree scene if the emitters in it have not moved.
    """
    emitters: list[npt.NDArray[np.float64]] = []
    kinds: list[tuple[int, int, int, int]] = []
    source_ints = np.zeros((max(len(sources), 1), L.SOURCE_INTS), np.int64)
    source_floats = np.zeros((max(len(sources), 1), L.SOURCE_FLOATS), np.float32)
    triangle_emitter = np.full(len(build.triangles), -1, np.int32)
    skies: list[F4] = [np.zeros((1, L.SKY_COLUMNS), np.float32)]
    first_pixel = 1
    shapes: dict[int, list[int]] = {0: [], 1: [], 2: []}
    for s, source in enumerate(sources):
        if isinstance(source, Sun):
            omega = 2 * np.pi * source.one_minus_cos
            source_ints[s, L.S_KIND] = L.SOURCE_SUN
            source_floats[s, 0:3] = source.direction
            source_floats[s, L.S_ONE_MINUS_COS] = source.one_minus_cos
            source_floats[s, 4:7], source_floats[s, L.S_SOLID_ANGLE] = 1.0 / omega, omega
        elif isinstance(source, SkySource):
            pixels = source.pixels()
            source_ints[s] = L.SOURCE_SKY, first_pixel, 0, pixels.shape[1], pixels.shape[0]
            if source.table is None:
                source.table = sky_table(pixels)
            skies.append(source.table)
            first_pixel += pixels.shape[0] * pixels.shape[1]
        elif isinstance(source, Group):
            source_ints[s, :3] = L.SOURCE_EMITTERS, len(kinds), len(source.emitters)
            for e, radiance in zip(source.emitters, source.unit_radiances, strict=True):
                shape = _SHAPES[type(e)]
                if e.visible:
                    shapes[shape].append(len(kinds))
                emitters.append(_emitter_row(e, radiance))
                kinds.append((shape, s, 1, int(e.visible)))
        else:
            assert isinstance(source.material, Material)
            glow = build.glow_triangles(source.material)
            source_ints[s, :3] = L.SOURCE_EMITTERS, len(kinds), len(glow)
            triangle_emitter[glow] = np.arange(len(kinds), len(kinds) + len(glow))
            emitters += list(_triangle_rows(build, glow))
            kinds += [(L.SHAPE_TRIANGLE, s, 2, 1)] * len(
                glow
            )  # a glowing face shines to both sides
    rows = np.array(emitters or [np.zeros(L.EMITTER_FLOATS)], np.float32)
    numbers = np.array(kinds or [(0, 0, 0, 0)], np.int32)
    if before is not None and before.build is build and before.stands_like(rows, numbers):
        top = before.top
    else:
        top = _top_scene(build, shapes, emitters)
    floats, ints = build.material_floats, build.material_ints
    if clay_reflectance is not None:
        floats, ints = clay_materials(build, clay_reflectance)
    energy, energy_mean = energy_tables()
    counts = [len(shapes[k]) for k in range(3)]
    bytes_linear = np.arange(256) / 255.0
    arrays = L.SceneArrays(
        scene=np.uint64(top.handle),
        panes=np.uint64(build.pane_scene.handle if build.pane_scene is not None else 0),
        positions=build.positions,
        triangles=build.triangles,
        corners=build.corners,
        corner_words=build.corners.view(np.int32),
        triangle_emitter=triangle_emitter,
        instance_first=build.instance_first,
        instance_matrix=build.instance_matrix,
        instance_normal=build.instance_normal,
        material_floats=floats,
        material_ints=ints,
        texels=build.texels,
        texture_ints=build.texture_ints,
        decode=np.stack([bytes_linear, srgb_decode(bytes_linear)]).astype(np.float32),
        energy=energy,
        energy_mean=energy_mean,
        emitter_first=np.array([0, counts[0], counts[0] + counts[1]], np.int64),
        emitter_of_primitive=np.array(shapes[0] + shapes[1] + shapes[2] or [0], np.int32),
        emitter_floats=rows,
        emitter_ints=numbers,
        source_ints=source_ints,
        source_floats=source_floats,
        sky=np.concatenate(skies),
    )
    return Assembled(arrays, list(sources), top, build)


def _top_scene(
    build: GeometryBuild, shapes: dict[int, list[int]], emitters: list[npt.NDArray[np.float64]]
) -> EmbreeScene:
    top = EmbreeScene()
    for i, p in enumerate(build.placed):
        scene = build.scenes[p.chunk]
        assert scene is not None
        top.add_instance(scene, p.matrix, i, p.mask)
    base = len(build.placed)
    if shapes[L.SHAPE_RECTANGLE]:
        rows = np.array([emitters[i] for i in shapes[L.SHAPE_RECTANGLE]])
        centre, u, v = rows[:, 0:3], rows[:, 3:6] / 2, rows[:, 6:9] / 2
        corners = np.stack([centre - u - v, centre + u - v, centre + u + v, centre - u + v], 1)
        quad = np.array([[0, 1, 2], [0, 2, 3]])
        index = (quad[None] + 4 * np.arange(len(rows))[:, None, None]).reshape(-1, 3)
        points = corners.reshape(-1, 3).astype(np.float32)
        top.add_triangles(points, index.astype(np.int32), base, MASK_EMITTER)
    if shapes[L.SHAPE_DISC]:
        rows = np.array([emitters[i] for i in shapes[L.SHAPE_DISC]], np.float32)
        top.add_discs(rows[:, [0, 1, 2, L.E_RADIUS]], rows[:, 9:12], base + 1)
    if shapes[L.SHAPE_SPHERE]:
        rows = np.array([emitters[i] for i in shapes[L.SHAPE_SPHERE]], np.float32)
        top.add_spheres(rows[:, [0, 1, 2, L.E_RADIUS]], base + 2)
    return top.commit()


def glow_sources(materials: Sequence[Material]) -> list[Glow]:
    """One source for each emissive material."""
    return [Glow(m.name or "Glow", m, m.emission_rgb) for m in materials if m.emits]
