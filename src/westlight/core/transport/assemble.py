"""Sources and portals put around a geometry build: everything a kernel needs, in milliseconds."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass, field
from typing import Any, NamedTuple

import numpy as np
import numpy.typing as npt

from ..colour import AP1_LUMINANCE
from ..luminaires import IntensityDistribution
from ..model import Material
from ..remembered import key_of
from ..sources import (
    Disc,
    Emitter,
    Glow,
    Group,
    Photometric,
    Rectangle,
    SkySource,
    Source,
    Sphere,
    Spot,
    Sun,
    Tube,
    parts_of_light,
)
from . import layout as L
from .air import Air, air_array
from .build import GeometryBuild
from .embree import (
    MASK_CAMERA,
    MASK_CAMERA_GLASS,
    MASK_MIRROR,
    MASK_MIRROR_GLASS,
    MASK_SHADOW,
    EmbreeScene,
)
from .energy import energy_tables
from .glints import glint_rows
from .kernels.light import HIDDEN, MET, SIZELESS
from .lighttree import build_tree
from .materials import clay_materials, decoding
from .portals import Portal, PortalArrays, axes_key, portal_arrays
from .skytables import SkyTables, sky_tables, summed_area

F4 = npt.NDArray[np.float32]
I4 = npt.NDArray[np.int32]
Array = npt.NDArray[np.float64]

_SHAPES: dict[type, int] = {
    Rectangle: L.SHAPE_RECTANGLE, Disc: L.SHAPE_DISC, Sphere: L.SHAPE_SPHERE, Tube: L.SHAPE_TUBE,
}  # fmt: skip
_NAMED_SHAPES = {
    "point": L.SHAPE_POINT, "disc": L.SHAPE_DISC, "rectangle": L.SHAPE_RECTANGLE,
    "tube": L.SHAPE_TUBE, "sphere": L.SHAPE_SPHERE,
}  # fmt: skip


def shape_of(e: Emitter) -> int:
    """Shape an emitter is traced as."""
    if isinstance(e, Spot):
        return L.SHAPE_DISC if e.radius > 0 else L.SHAPE_POINT
    if isinstance(e, Photometric):
        return _NAMED_SHAPES[e.shape]
    return _SHAPES[type(e)]


def mask_of(e: Emitter) -> int:
    """Embree mask of an emitter; 0 if no ray can meet it."""
    if not e.visible or shape_of(e) == L.SHAPE_POINT:
        return 0
    mask = MASK_CAMERA | (MASK_SHADOW if e.casts_shadow else 0)
    if e.through_glass:
        mask |= MASK_CAMERA_GLASS
    if e.in_reflections:
        mask |= MASK_MIRROR | (MASK_MIRROR_GLASS if e.through_glass else 0)
    return mask


@dataclass
class _Emitters:
    """Rows gathered source by source."""

    floats: list[Array] = field(default_factory=list)
    ints: list[npt.NDArray[np.int32]] = field(default_factory=list)
    profiles: list[F4] = field(default_factory=list)
    profile_rows: dict[int, int] = field(default_factory=dict)
    profile_ints: list[tuple[int, int, int]] = field(default_factory=list)
    tree_floats: list[Array] = field(default_factory=list)
    tree_ints: list[I4] = field(default_factory=list)
    #: Rows by shape and mask, for the hierarchy.
    bodies: dict[tuple[int, int], list[int]] = field(default_factory=dict)
    count: int = 0
    nodes: int = 0

    def profile(self, d: IntensityDistribution | None) -> int:
        """Row of a profile, stored once."""
        if d is None:
            return -1
        if id(d) not in self.profile_rows:
            self.profile_rows[id(d)] = len(self.profile_ints)
            table = d.table()
            first = sum(p.size for p in self.profiles)
            self.profiles.append(table.reshape(-1))
            self.profile_ints.append((first, table.shape[0], table.shape[1]))
        return self.profile_rows[id(d)]

    def add(self, floats: Array, ints: I4, even: npt.NDArray[np.bool_]) -> tuple[int, int, int]:
        """Rows of one source; returns first row, count and the root of its tree."""
        first, root = self.count, -1
        if len(floats) > 1:
            root = self.nodes
            nodes, links, leaf = build_tree(floats, ints, first, root, even)
            self.tree_floats.append(nodes)
            self.tree_ints.append(links)
            self.nodes += len(nodes)
            ints[:, L.E_LEAF] = leaf
        self.floats.append(floats)
        self.ints.append(ints)
        self.count += len(floats)
        return first, len(floats), root


def _group_rows(made: _Emitters, group: Group, s: int) -> tuple[int, int, int]:
    floats = np.zeros((len(group.emitters), L.EMITTER_FLOATS))
    ints = np.full((len(group.emitters), L.EMITTER_INTS), -1, np.int32)
    even = np.zeros(len(group.emitters), bool)
    for i, (e, amount) in enumerate(zip(group.emitters, group.unit_amounts, strict=True)):
        shape, mask = shape_of(e), mask_of(e)
        u, v, n = e.axes
        row = floats[i]
        row[0:3], row[3:6], row[6:9], row[9:12] = e.position, u, v, n
        row[L.E_AREA] = e.area_m2
        row[L.E_RADIUS] = getattr(e, "radius", 0.0)
        if isinstance(e, Rectangle) or (isinstance(e, Photometric) and e.shape == "rectangle"):
            row[3:6], row[6:9], row[L.E_RADIUS] = u * e.width, v * e.height, 0.0
        elif isinstance(e, Tube):
            row[L.E_LENGTH] = e.length
            row[3:6], row[9:12] = n, u
        elif isinstance(e, Photometric) and shape == L.SHAPE_TUBE:
            row[L.E_LENGTH] = e.width  # along C = 0
        row[L.E_RED : L.E_BLUE + 1] = amount
        power = max(float(amount @ AP1_LUMINANCE), 1e-12)
        profile = e.profile
        row[L.E_WEIGHT] = power * (e.area_m2 if profile is None else profile.flux_lm / np.pi)
        row[L.E_RANGE] = e.range_m or 0.0
        row[L.E_BODY] = e.reflectance
        flat = shape in (L.SHAPE_RECTANGLE, L.SHAPE_DISC)
        two = profile is not None and flat and _shines_back(profile)
        even[i] = profile is not None or shape in (L.SHAPE_SPHERE, L.SHAPE_TUBE, L.SHAPE_POINT)
        if shape == L.SHAPE_POINT:
            visible = SIZELESS
        elif not e.visible or not e.in_reflections:
            visible = HIDDEN
        else:
            visible = MET if e.through_glass else HIDDEN
        ints[i, L.E_KIND], ints[i, L.E_SOURCE] = shape, s
        ints[i, L.E_SIDES], ints[i, L.E_VISIBLE] = (2 if two else 1), visible
        ints[i, L.E_PROFILE] = made.profile(profile)
        if mask:
            made.bodies.setdefault((shape, mask), []).append(made.count + i)
    return made.add(floats, ints, even)


def _shines_back(profile: IntensityDistribution) -> bool:
    behind = profile.candela(np.linspace(92, 180, 23)[:, None], np.arange(0, 360, 45)[None, :])
    return bool(behind.max() > 1e-3 * profile.maximum_cd)


def _glow_rows(
    made: _Emitters, build: GeometryBuild, glow: Glow, s: int, triangle_emitter: I4
) -> tuple[int, int, int]:
    assert isinstance(glow.material, Material)
    rows = build.glow_triangles(glow.material)
    corners = build.positions[build.triangles[rows]].astype(np.float64)
    u, v = corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]
    normal = np.cross(u, v)
    doubled = np.linalg.norm(normal, axis=1)
    floats = np.zeros((len(rows), L.EMITTER_FLOATS))
    floats[:, 0:3], floats[:, 3:6], floats[:, 6:9] = corners[:, 0], u, v
    floats[:, 9:12] = normal / np.maximum(doubled, 1e-30)[:, None]
    floats[:, L.E_AREA] = doubled / 2
    floats[:, L.E_RED : L.E_BLUE + 1] = 1.0
    brightness = build.glow_brightness(glow.material, rows)
    floats[:, L.E_WEIGHT] = doubled / 2 * brightness
    ints = np.full((len(rows), L.EMITTER_INTS), -1, np.int32)
    ints[:, L.E_KIND], ints[:, L.E_SOURCE] = L.SHAPE_TRIANGLE, s
    ints[:, L.E_SIDES], ints[:, L.E_VISIBLE] = 2, MET  # a glowing face shines to both sides
    ints[:, L.E_TRIANGLE] = rows
    ints[:, L.E_TEXTURE] = build.material_ints[build.materials.index(glow.material), L.M_TEX_EMIT]
    triangle_emitter[rows] = np.arange(made.count, made.count + len(rows))
    return made.add(floats, ints, np.ones(len(rows), bool))


@dataclass(frozen=True)
class _Lamps:
    """Rows of everything that shines and is neither sun nor sky, and whose they are: sources with their slots."""

    of: tuple[tuple[int, Source], ...]
    #: First row, count and root of the tree of each, by slot.
    rows: dict[int, tuple[int, int, int]]
    floats: F4
    ints: I4
    profiles: F4
    profile_ints: I4
    tree_floats: F4
    tree_ints: I4
    triangle_emitter: I4
    bodies: dict[tuple[int, int], list[int]]

    @staticmethod
    def of_sources(build: GeometryBuild, sources: Sequence[Source]) -> _Lamps:
        """The lamps and glowing materials among sources."""
        made = _Emitters()
        triangle_emitter = np.full(max(len(build.triangles), 1), -1, np.int32)
        of = _shining(sources)
        rows = {}
        for s, source in of:
            if isinstance(source, Group):
                rows[s] = _group_rows(made, source, s)
            else:
                assert isinstance(source, Glow)
                rows[s] = _glow_rows(made, build, source, s, triangle_emitter)
        return _Lamps(
            of, rows,
            _stacked(made.floats, np.zeros((1, L.EMITTER_FLOATS))).astype(np.float32),
            _stacked(made.ints, np.zeros((1, L.EMITTER_INTS), np.int32)),
            _stacked(made.profiles, np.zeros(1, np.float32)),
            np.array(made.profile_ints or [(0, 2, 1)], np.int32),
            _stacked(made.tree_floats, np.zeros((1, L.TREE_FLOATS))).astype(np.float32),
            _stacked(made.tree_ints, np.zeros((1, L.TREE_INTS), np.int32)),
            triangle_emitter, made.bodies,
        )  # fmt: skip

    def are(self, sources: Sequence[Source]) -> bool:
        """Whether they are those among sources, in the same slots: a moved sun leaves every lamp as it is."""
        others = _shining(sources)
        return len(others) == len(self.of) and all(
            s == t and a is b for (s, a), (t, b) in zip(self.of, others, strict=True)
        )


def _shining(sources: Sequence[Source]) -> tuple[tuple[int, Source], ...]:
    """Sources that are neither sun nor sky, with their slots."""
    return tuple((s, x) for s, x in enumerate(sources) if not isinstance(x, (Sun, SkySource)))


@dataclass
class Assembled:
    """Arrays for the kernels, with the Embree scene and sources they belong to kept alive."""

    arrays: L.SceneArrays
    sources: list[Source]
    top: EmbreeScene
    build: GeometryBuild
    portals: PortalArrays
    portal_key: str = ""
    sky_key: tuple[object, ...] = ()
    #: Boxes of haze (n, AIR_COLUMNS); none in clear air.
    air: F4 = field(default_factory=lambda: np.zeros((0, L.AIR_COLUMNS), np.float32))
    lamps: _Lamps | None = None

    @property
    def skies(self) -> int:
        """Number of skies among the sources."""
        return max(sum(isinstance(s, SkySource) for s in self.sources), 1)

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
    portals: Sequence[Portal] = (),
    closed: bool = False,
    not_clay: Collection[str] = (),
    air: Sequence[Air] = (),
) -> Assembled:
    """Put sources around a geometry build; the order of ``sources`` is the order of slots.

    ``before`` lends its Embree scene if the emitters in it have not moved, and its portals if they
    are the same and it is the same building; if copies have moved since they are moved in that scene, and ``before`` must not be used
    any more. What the grid of portals knows then stays as it was: it decides about noise, not about light.
    Materials named in ``not_clay`` keep
    themselves. With ``closed`` outside light enters only through the portals. ``air`` are the
    boxes of haze.
    """
    lamps = before.lamps if before is not None and before.build is build else None
    if lamps is None or not lamps.are(sources):
        lamps = _Lamps.of_sources(build, sources)
    rows, skies = _source_rows(sources, lamps)
    bodies = _bodies(build, lamps, before)
    known = before if before is not None and before.build.room is build.room else None
    key = f"{list(portals)}{closed}"
    if known is not None and known.portal_key == key:
        openings = known.portals
    else:
        stand = key_of(build.digest, lamps.floats[:, : L.E_AREA], lamps.ints) if portals else ""
        placed = build.geometry_first, build.instance_normal
        openings = portal_arrays(portals, closed, bodies.top, placed, stand)
    sky_key = (tuple((id(s.tables), id(s.other)) for _, s, _ in skies), id(openings))
    if known is not None and known.sky_key == sky_key:
        pictures = _same_skies(known, skies, rows)
    else:
        pictures = _sky_arrays(skies, openings, rows)
    arrays = L.SceneArrays(
        **_building_arrays(build), **_paint_arrays(build, sources, clay_reflectance, not_clay),
        **_lamp_arrays(lamps, bodies), **_sky_and_portal_arrays(rows, skies, pictures, openings),
    )  # fmt: skip
    return Assembled(
        arrays,
        list(sources),
        bodies.top,
        build,
        openings,
        key,
        sky_key,
        air_array(air, build),
        lamps,
    )


class _Rows(NamedTuple):
    """Rows of the sources, columns S_*."""

    ints: L.I8
    floats: F4


class _Bodies(NamedTuple):
    """The top hierarchy, and which emitters its last geometries hold."""

    top: EmbreeScene
    first: L.I8
    per_body: L.I8
    of_primitive: I4


class _Skies(NamedTuple):
    """Of all skies one after another: pictures, sampling tables, portal maps, what is expected through panes."""

    pictures: F4
    tables: F4
    maps: L.F8
    totals: F4
    chances: F4


_Sky = tuple[int, SkySource, SkyTables]


def _source_rows(sources: Sequence[Source], lamps: _Lamps) -> tuple[_Rows, list[_Sky]]:
    """Rows of the sources but for what skies need, and the skies with their slots."""
    ints = np.zeros((max(len(sources), 1), L.SOURCE_INTS), np.int64)
    floats = np.zeros((max(len(sources), 1), L.SOURCE_FLOATS), np.float32)
    floats[:, L.S_EVEN : L.S_MIRRORED + 1] = 1.0
    skies: list[_Sky] = []
    for s, source in enumerate(sources):
        if isinstance(source, Sun):
            omega = 2 * np.pi * source.one_minus_cos
            ints[s, L.S_KIND] = L.SOURCE_SUN
            floats[s, L.S_DIRECTION : L.S_DIRECTION + 3] = source.direction
            floats[s, L.S_ONE_MINUS_COS] = source.one_minus_cos
            floats[s, L.S_RED : L.S_BLUE + 1], floats[s, L.S_SOLID_ANGLE] = 1.0 / omega, omega
        elif isinstance(source, SkySource):
            if not isinstance(source.tables, SkyTables):
                source.tables = sky_tables(source.pixels())
            skies.append((s, source, source.tables))
        else:
            ints[s, : L.S_TREE + 1] = L.SOURCE_EMITTERS, *lamps.rows[s]
        floats[s, L.S_EVEN : L.S_MIRRORED + 1] = parts_of_light(source)
    return _Rows(ints, floats), skies


def _bodies(build: GeometryBuild, lamps: _Lamps, before: Assembled | None) -> _Bodies:
    """The top hierarchy: that of ``before`` where its emitters stand like these. A building in other paint has the same one."""
    same = before is not None and before.build.scenes is build.scenes
    if same and before is not None and before.stands_like(lamps.floats, lamps.ints):
        old = before.arrays
        _move_copies(before.top, before.build, build)
        return _Bodies(
            before.top, old.emitter_first, old.emitter_triangles, old.emitter_of_primitive
        )
    return _top_scene(build, lamps.bodies, lamps.floats)


def _same_skies(before: Assembled, skies: Sequence[_Sky], rows: _Rows) -> _Skies:
    """What is known of the same skies behind the same openings; their places go into the sources."""
    old = before.arrays
    for (s, source, made), row in zip(skies, _sky_rows(before), strict=True):
        rows.ints[s] = row
        rows.floats[s, L.S_TOTAL], rows.floats[s, L.S_SEEN] = made.total, source.seen
    return _Skies(old.sky, old.sky_table, old.portal_maps, old.pane_totals, old.pane_chances)


def _building_arrays(build: GeometryBuild) -> dict[str, Any]:
    return {
        "panes": np.uint64(build.pane_scene.handle if build.pane_scene is not None else 0),
        "positions": build.positions,
        "triangles": build.triangles,
        "corners": build.corners,
        "corner_words": build.corners.view(np.int32),
        "paint": build.paint,
        "geometry_first": build.geometry_first,
        "instance_first": build.instance_first,
        "instance_cut": build.instance_cut,
        "instance_matrix": build.instance_matrix,
        "instance_normal": build.instance_normal,
        "texels": build.texels,
        "texture_ints": build.texture_ints,
    }


def _paint_arrays(
    build: GeometryBuild, sources: Sequence[Source], clay: float | None, not_clay: Collection[str]
) -> dict[str, Any]:
    floats, ints = build.material_floats, build.material_ints
    # Clay has no smooth surfaces but those it leaves out, which are few.
    planes = build.smooth_planes
    if clay is not None:
        floats, ints = clay_materials(build, clay, not_clay)
        planes = np.zeros((0, 5))
    glint_sources, glints = glint_rows(planes, sources)
    energy, energy_mean = energy_tables()
    return {
        "material_floats": floats, "material_ints": ints, "decode": decoding(), "energy": energy,
        "energy_mean": energy_mean, "glint_sources": glint_sources, "glints": glints,
    }  # fmt: skip


def _lamp_arrays(lamps: _Lamps, bodies: _Bodies) -> dict[str, Any]:
    return {
        "scene": np.uint64(bodies.top.handle),
        "triangle_emitter": lamps.triangle_emitter,
        "emitter_first": bodies.first,
        "emitter_triangles": bodies.per_body,
        "emitter_of_primitive": bodies.of_primitive,
        "emitter_floats": lamps.floats,
        "emitter_ints": lamps.ints,
        "profiles": lamps.profiles,
        "profile_ints": lamps.profile_ints,
        "tree_floats": lamps.tree_floats,
        "tree_ints": lamps.tree_ints,
    }


def _sky_and_portal_arrays(
    rows: _Rows, skies: list[_Sky], pictures: _Skies, openings: PortalArrays
) -> dict[str, Any]:
    return {
        "source_ints": rows.ints,
        "source_floats": rows.floats,
        "sky": pictures.pictures,
        "sky_table": pictures.tables,
        "portal_floats": openings.floats,
        "portal_ints": openings.ints,
        "pane_portal": openings.panes[:, 0].astype(np.int32),
        "portal_maps": pictures.maps,
        "portal_state": np.append(openings.state, int(_told_apart(rows.floats, skies))),
        "cell_box": openings.box,
        "cell_rows": openings.rows,
        "cells": openings.cells,
        "pane_totals": pictures.totals,
        "pane_chances": pictures.chances,
    }


def _move_copies(top: EmbreeScene, before: GeometryBuild, build: GeometryBuild) -> None:
    """Place the copies of a build where they stand in another build of the same geometry."""
    if before.placed is build.placed:
        return
    moved = np.flatnonzero((before.instance_matrix != build.instance_matrix).any(axis=(1, 2)))
    geometry = np.searchsorted(build.geometry_first, moved, "right") - 1
    for row, number in zip(moved.tolist(), geometry.tolist(), strict=True):
        top.move_copy(number, row - int(build.geometry_first[number]), build.placed[row].matrix)
    if len(moved):
        top.commit(quickly=True)


def _sky_rows(assembled: Assembled) -> list[L.I8]:
    """Rows of `source_ints` of the skies of an assembled scene, in order."""
    rows = assembled.arrays.source_ints
    return [rows[i] for i, s in enumerate(assembled.sources) if isinstance(s, SkySource)]


def _told_apart(source_floats: F4, skies: list[_Sky]) -> bool:
    """Whether any source lights surfaces that scatter and surfaces that mirror differently."""
    factors = source_floats[:, L.S_EVEN : L.S_MIRRORED + 1]
    return bool((factors != 1.0).any()) or any(s.other is not None for _, s, _ in skies)


def _stacked(
    rows: Sequence[npt.NDArray[np.generic]], empty: npt.NDArray[np.generic]
) -> npt.NDArray:  # type: ignore[type-arg]
    return np.ascontiguousarray(np.concatenate(rows)) if rows else empty


def _sky_arrays(skies: list[_Sky], portals: PortalArrays, rows: _Rows) -> _Skies:
    """What kernels need to know of all skies; their places go into the sources."""
    pictures = [np.zeros((1, 3), np.float32)]
    tables = [np.zeros((1, L.TABLE_COLUMNS), np.float32)]
    maps: list[Array] = []
    expected: list[tuple[F4, F4]] = []
    pixel, row = 1, 1
    for number, (s, source, made) in enumerate(skies):
        height, width = source.pixels().shape[:2]
        first_map = len(maps)
        made.add_maps(source.pixels(), {axes_key(*axes): axes for axes in portals.axes})
        for axes, open_ in zip(portals.axes, portals.outside, strict=True):
            maps.append(summed_area(made.maps[axes_key(*axes)] * open_))
        expected.append(portals.weighed(made.blurred))
        rows.ints[s] = (
            L.SOURCE_SKY, pixel, 0, 0, width, height, row, made.width, made.height, first_map,
            number, pixel, width, height,
        )  # fmt: skip
        rows.floats[s, L.S_TOTAL], rows.floats[s, L.S_SEEN] = made.total, source.seen
        pictures.append(np.asarray(source.pixels(), np.float32).reshape(-1, 3))
        tables.append(made.rows)
        pixel += height * width
        if source.other is not None:
            height, width = source.other.shape[:2]
            rows.ints[s, L.S_OTHER : L.S_OTHER_HEIGHT + 1] = pixel, width, height
            pictures.append(np.asarray(source.other, np.float32).reshape(-1, 3))
            pixel += height * width
        row += len(made.rows)
    flat = np.concatenate(maps) if maps else np.zeros(1)
    if not expected:
        expected.append(portals.weighed(np.zeros((1, 1))))
    # Of a single sky nothing is copied: in a large building that is a tenth of what a moved sun takes.
    totals, chances = (
        expected[0]
        if len(expected) == 1
        else (np.concatenate([e[k] for e in expected]) for k in (0, 1))
    )
    return _Skies(np.concatenate(pictures), np.concatenate(tables), flat, totals, chances)


def _top_scene(
    build: GeometryBuild, bodies: dict[tuple[int, int], list[int]], floats: F4
) -> _Bodies:
    """The top hierarchy: placed parts, then one geometry for each shape and mask of emitters."""
    top = EmbreeScene()
    for i, (scene, matrices, mask) in enumerate(build.geometries()):
        top.add_copies(scene, matrices, i, mask)
    first: list[int] = []
    per_body: list[int] = []
    of_primitive: list[int] = []
    for k, ((shape, mask), rows) in enumerate(bodies.items()):
        number = len(build.geometry_first) + k
        e = floats[rows]
        if shape == L.SHAPE_RECTANGLE:
            centre, u, v = e[:, 0:3], e[:, 3:6] / 2, e[:, 6:9] / 2
            corners = np.stack([centre - u - v, centre + u - v, centre + u + v, centre - u + v], 1)
            quad = np.array([[0, 1, 2], [0, 2, 3]])
            index = (quad[None] + 4 * np.arange(len(rows))[:, None, None]).reshape(-1, 3)
            points = corners.reshape(-1, 3).astype(np.float32)
            top.add_triangles(points, index.astype(np.int32), number, mask)
        elif shape == L.SHAPE_DISC:
            top.add_discs(e[:, [0, 1, 2, L.E_RADIUS]], e[:, 9:12], number, mask)
        elif shape == L.SHAPE_TUBE:
            half = e[:, 3:6] * e[:, L.E_LENGTH, None] / 2
            ends = np.stack([e[:, 0:3] - half, e[:, 0:3] + half], axis=1)
            radius = np.repeat(e[:, None, L.E_RADIUS, None], 2, axis=1)
            top.add_tubes(np.concatenate([ends, radius], axis=2), number, mask)
        else:
            top.add_spheres(e[:, [0, 1, 2, L.E_RADIUS]], number, mask)
        first.append(len(of_primitive))
        per_body.append(2 if shape == L.SHAPE_RECTANGLE else 1)
        of_primitive += rows
    return _Bodies(
        top.commit(),
        np.array(first or [0], np.int64),
        np.array(per_body or [1], np.int64),
        np.array(of_primitive or [0], np.int32),
    )


def glow_sources(materials: Sequence[Material]) -> list[Glow]:
    """One source for each emissive material."""
    return [Glow(m.name or "Glow", m, m.emission_rgb) for m in materials if m.emits]
