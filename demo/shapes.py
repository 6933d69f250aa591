"""Solids for the demo building: metres, z up, flat normals, texture coordinates in metres."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import product

import numpy as np
import numpy.typing as npt
import trimesh
from shapely.geometry import Polygon

Array = npt.NDArray[np.float64]


@dataclass
class Solid:
    """Triangles with their own corners: points, normals and uvs (3m rows), uv in metres."""

    points: Array
    normals: Array
    uvs: Array

    @property
    def triangle_count(self) -> int:
        return len(self.points) // 3


def from_triangles(vertices: npt.ArrayLike, faces: npt.ArrayLike) -> Solid:
    """Flat-shaded solid with texture coordinates projected along each face's main axis."""
    corners = np.asarray(vertices, float)[np.asarray(faces, int)]
    normal = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    length = np.linalg.norm(normal, axis=1, keepdims=True)
    keep = length[:, 0] > 1e-10
    corners, normal = corners[keep], normal[keep] / length[keep]
    return Solid(corners.reshape(-1, 3), np.repeat(normal, 3, axis=0), _projected(corners, normal))


def _projected(corners: Array, normals: Array) -> Array:
    """Texture coordinates (3m, 2) of triangles (m, 3, 3), projected along the main axis of their normals (m, 3)."""
    axis = np.abs(normals).argmax(axis=1)
    u = np.where(axis[:, None] == 0, corners[..., 1], corners[..., 0])
    v = np.where(axis[:, None] == 2, corners[..., 1], corners[..., 2])
    return np.stack([u, -v], axis=-1).reshape(-1, 2)


def sawn(solid: Solid) -> Solid:
    """The same solid cut from a block: its texture runs straight through it and not around it."""
    facing = solid.normals.reshape(-1, 3, 3).mean(axis=1)
    return Solid(solid.points, solid.normals, _projected(solid.points.reshape(-1, 3, 3), facing))


def lengthwise(solid: Solid) -> Solid:
    """A turned or drawn solid whose grain runs along it and not around it."""
    return Solid(solid.points, solid.normals, solid.uvs[:, ::-1])


def join(*solids: Solid) -> Solid:
    """Several solids as one."""
    return Solid(
        np.concatenate([s.points for s in solids]),
        np.concatenate([s.normals for s in solids]),
        np.concatenate([s.uvs for s in solids]),
    )


def box(low: npt.ArrayLike, high: npt.ArrayLike) -> Solid:
    """Axis-parallel box between two corners."""
    low, high = np.asarray(low, float), np.asarray(high, float)
    mesh = trimesh.creation.box(extents=high - low)
    return from_triangles(mesh.vertices + (low + high) / 2, mesh.faces)


def worn_box(low: npt.ArrayLike, high: npt.ArrayLike, bevel: float = 0.003) -> Solid:
    """Axis-parallel box whose edges are taken off: a bevel catches light where a razor edge catches none."""
    low, high = np.asarray(low, float), np.asarray(high, float)
    b = min(bevel, float((high - low).min()) / 4)
    sides = np.array(list(product((0.0, 1.0), repeat=3)))
    corners = low + sides * (high - low)
    inwards = b * np.sign(0.5 - sides)
    # Every corner becomes three points, each on one of its faces.
    points = np.concatenate([corners + inwards * (np.arange(3) != axis) for axis in range(3)])
    mesh = trimesh.convex.convex_hull(points)
    return from_triangles(mesh.vertices, mesh.faces)


def timber(low: npt.ArrayLike, high: npt.ArrayLike, bevel: float = 0.003) -> Solid:
    """A board or post between two corners: grain along its longest side, from a place of its own in the wood."""
    low, high = np.asarray(low, float), np.asarray(high, float)
    along = int((high - low).argmax())
    order = [along, (along + 1) % 3, (along + 2) % 3]
    made = worn_box(low[order], high[order], bevel)
    back = np.argsort(order)
    # Different boards are different pieces of wood; the same board is always the same.
    own = np.modf(
        np.sin(low @ [12.9, 78.2, 37.7] + high @ [3.1, 9.7, 23.3]) * np.array([437.5, 91.3])
    )[0]
    return Solid(made.points[:, back], made.normals[:, back], made.uvs + 5 * own)


def beam(start: npt.ArrayLike, end: npt.ArrayLike, width: float, height: float) -> Solid:
    """Rectangular timber or bar from one point to another, texture running along it."""
    a, b = np.asarray(start, float), np.asarray(end, float)
    along = b - a
    length = float(np.linalg.norm(along))
    x = along / length
    up = np.array([0.0, 0, 1]) if abs(x[2]) < 0.95 else np.array([0.0, 1, 0])
    y = np.cross(up, x)
    y /= np.linalg.norm(y)
    frame = np.stack([x, y, np.cross(x, y)])
    worn = min(width, height) / 12
    made = worn_box([0, -width / 2, -height / 2], [length, width / 2, height / 2], worn)
    return Solid(made.points @ frame + a, made.normals @ frame, made.uvs + np.modf(a[:2] * 7.3)[0])


def plate(outline: npt.ArrayLike, holes: Sequence[npt.ArrayLike], thickness: float) -> Solid:
    """A flat outline with holes, in x and z, given thickness along +y from y = 0."""
    polygon = Polygon(np.asarray(outline, float), [np.asarray(h, float) for h in holes])
    mesh = trimesh.creation.extrude_polygon(polygon, thickness)
    points = np.asarray(mesh.vertices)[:, [0, 2, 1]]
    return from_triangles(points, np.asarray(mesh.faces)[:, ::-1])


def rectangle(x0: float, z0: float, x1: float, z1: float) -> list[tuple[float, float]]:
    """Outline of an opening."""
    return [(x0, z0), (x1, z0), (x1, z1), (x0, z1)]


def moved(solid: Solid, offset: npt.ArrayLike, turn_deg: float = 0.0) -> Solid:
    """A solid turned about the vertical through the origin and then moved."""
    a = np.radians(turn_deg)
    m = np.array([[np.cos(a), -np.sin(a), 0], [np.sin(a), np.cos(a), 0], [0, 0, 1.0]])
    return Solid(solid.points @ m.T + np.asarray(offset, float), solid.normals @ m.T, solid.uvs)


def sheet(corners: npt.ArrayLike) -> Solid:
    """One flat four-cornered face, counter-clockwise seen from its front."""
    return from_triangles(corners, [[0, 1, 2], [0, 2, 3]])


def turned(profile: npt.ArrayLike, segments: int = 40) -> Solid:
    """A thrown pot: profile of (radius, height) turned about z, smooth normals."""
    p = np.asarray(profile, float)
    angle = np.linspace(0, 2 * np.pi, segments + 1)
    ring = np.stack([np.cos(angle), np.sin(angle)], axis=-1)
    points = np.concatenate(
        [p[:, None, :1] * ring[None], np.repeat(p[:, None, 1:], segments + 1, axis=1)], axis=-1
    )
    slope = np.gradient(p, axis=0)
    out = np.stack([slope[:, 1], -slope[:, 0]], axis=-1)
    out /= np.maximum(np.linalg.norm(out, axis=1, keepdims=True), 1e-9)
    normals = np.concatenate(
        [out[:, None, :1] * ring[None], np.repeat(out[:, None, 1:], segments + 1, axis=1)], axis=-1
    )
    # Down the texture along the profile, so that flat rings are not stretched.
    along = np.linalg.norm(np.diff(p, axis=0, prepend=p[:1]), axis=1).cumsum()
    uv = np.stack(np.broadcast_arrays(angle[None] * 0.1, along[:, None]), axis=-1)
    index = np.arange(len(p) * (segments + 1)).reshape(len(p), -1)
    a, b, c, d = index[:-1, :-1], index[:-1, 1:], index[1:, 1:], index[1:, :-1]
    faces = np.concatenate([np.stack([a, b, c], -1).reshape(-1, 3),
                            np.stack([a, c, d], -1).reshape(-1, 3)]).reshape(-1)  # fmt: skip
    corners = points.reshape(-1, 3)[faces].reshape(-1, 3, 3)
    area = np.linalg.norm(
        np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1
    )
    faces = faces.reshape(-1, 3)[area > 1e-12].reshape(-1)  # rings on the axis shrink to points
    return Solid(
        points.reshape(-1, 3)[faces], normals.reshape(-1, 3)[faces], uv.reshape(-1, 2)[faces]
    )


def tube(start: npt.ArrayLike, end: npt.ArrayLike, radius: float, segments: int = 12) -> Solid:
    """A round bar between two points, smooth, its ends closed."""
    length = float(np.linalg.norm(np.asarray(end, float) - np.asarray(start, float)))
    bar = turned([(1e-4, 0), (radius, 0), (radius, 1e-3), (radius, length - 1e-3),
                  (radius, length), (1e-4, length)], segments)  # fmt: skip
    return _between(bar, start, end)


def tapered(
    start: npt.ArrayLike, end: npt.ArrayLike, radius: float, end_radius: float, segments: int = 8
) -> Solid:
    """A round limb between two points, thinner at its end, open at both."""
    length = float(np.linalg.norm(np.asarray(end, float) - np.asarray(start, float)))
    return _between(turned([(radius, 0), (end_radius, length)], segments), start, end)


def _between(bar: Solid, start: npt.ArrayLike, end: npt.ArrayLike) -> Solid:
    """A solid that stands on the origin along z, laid from one point towards another."""
    a, b = np.asarray(start, float), np.asarray(end, float)
    z = (b - a) / np.linalg.norm(b - a)
    x = np.cross(z, [0.0, 0, 1]) if abs(z[2]) < 0.99 else np.array([1.0, 0, 0])
    x /= np.linalg.norm(x)
    frame = np.stack([x, np.cross(z, x), z])
    return Solid(bar.points @ frame + a, bar.normals @ frame, bar.uvs)


def surface(points: npt.ArrayLike, closed: bool = False) -> Solid:
    """A smooth skin over a grid of points (rows, columns, 3), seen from where rows × columns faces."""
    p = np.asarray(points, float)
    rows, columns = p.shape[:2]
    along = np.gradient(p, axis=0)
    across = np.gradient(p, axis=1)
    if closed:
        across[:, 0] = across[:, -1] = p[:, 1] - p[:, -2]
    normals = np.cross(along, across)
    normals /= np.maximum(np.linalg.norm(normals, axis=-1, keepdims=True), 1e-12)
    steps = np.linalg.norm(np.diff(p, axis=0, prepend=p[:1]), axis=-1).cumsum(axis=0)
    widths = np.linalg.norm(np.diff(p, axis=1, prepend=p[:, :1]), axis=-1).cumsum(axis=1)
    uv = np.stack([widths, steps], axis=-1)
    index = np.arange(rows * columns).reshape(rows, columns)
    a, b, c, d = index[:-1, :-1], index[1:, :-1], index[1:, 1:], index[:-1, 1:]
    faces = np.concatenate([np.stack([a, b, c], -1).reshape(-1, 3),
                            np.stack([a, c, d], -1).reshape(-1, 3)])  # fmt: skip
    corners = p.reshape(-1, 3)[faces]
    size = np.linalg.norm(
        np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1
    )
    flat = faces[size > 1e-12].reshape(-1)
    return Solid(p.reshape(-1, 3)[flat], normals.reshape(-1, 3)[flat], uv.reshape(-1, 2)[flat])


def swept(path: npt.ArrayLike, radius: float, segments: int = 14) -> Solid:
    """A round rod along a path of points (n, 3), open at its ends; its grain runs along it."""
    p = np.asarray(path, float)
    along = np.gradient(p, axis=0)
    along /= np.linalg.norm(along, axis=1, keepdims=True)
    x = np.cross(along[0], [0.0, 0, 1] if abs(along[0][2]) < 0.9 else [1.0, 0, 0])
    angle = np.linspace(0, -2 * np.pi, segments + 1)[:, None]
    rings = []
    for point, way in zip(p, along, strict=True):
        # The ring before, turned as little as the path asks for: a rod does not twist.
        x = x - way * (x @ way)
        x /= np.linalg.norm(x)
        rings.append(point + radius * (np.cos(angle) * x + np.sin(angle) * np.cross(way, x)))
    return lengthwise(surface(np.stack(rings), closed=True))
