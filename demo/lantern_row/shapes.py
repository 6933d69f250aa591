"""Shapes of a lived-in flat beside those of the first building: bevelled boxes, cushions, curtains, shades."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt
import trimesh

from ..shapes import Solid, from_triangles, join, surface

Point = tuple[float, float, float]


def bevelled(low: npt.ArrayLike, high: npt.ArrayLike, bevel: float = 0.004) -> Solid:
    """A box whose edges are broken by a flat of ``bevel`` metres: they catch the light."""
    a, b = np.asarray(low, float), np.asarray(high, float)
    k = np.minimum(bevel, (b - a) * 0.45)
    corners = []
    for n in range(8):
        side = np.array([n >> 2 & 1, n >> 1 & 1, n & 1])
        corner = np.where(side, b, a)
        into = np.where(side, -1, 1) * k
        for axis in range(3):
            # A point on each of the three faces that meet here, set in along the other two.
            shift = into.copy()
            shift[axis] = 0.0
            corners.append(corner + shift)
    hull = trimesh.convex.convex_hull(np.array(corners))
    return from_triangles(hull.vertices, hull.faces)


def shifted(solid: Solid, u: float, v: float) -> Solid:
    """The same solid with another piece of its texture, moved in metres."""
    return Solid(solid.points, solid.normals, solid.uvs + np.array([u, v]))


def cushion(middle: Point, size: Point, soft: float = 0.45, steps: int = 25) -> Solid:
    """A stuffed box sewn from six pieces of cloth: a superellipsoid, the softer the rounder (1 is an ellipsoid)."""
    half, at, power = np.asarray(size) / 2, np.asarray(middle), 2 / soft
    # Close together towards the seams, where it is round.
    a, b = np.meshgrid(*[np.sin(np.linspace(-np.pi / 2, np.pi / 2, steps))] * 2, indexing="ij")
    pieces = []
    for axis in range(3):
        for side in (-1.0, 1.0):
            ways = np.empty((steps, steps, 3))
            ways[..., axis] = side
            ways[..., (axis + 1) % 3], ways[..., (axis + 2) % 3] = a * side, b
            ways /= (np.abs(ways) ** power).sum(axis=-1, keepdims=True) ** (1 / power)
            piece = surface(ways * half)
            on = piece.points / half
            normals = np.sign(on) * np.abs(on) ** (power - 1) / half
            normals /= np.linalg.norm(normals, axis=1, keepdims=True)
            # Cloth lies flat on each piece, upright on its sides.
            others = [k for k in range(3) if k != axis]
            pieces.append(Solid(piece.points + at, normals, piece.points[:, others] * [1, -1]))
    return join(*pieces)


def pillow(width: float, thick: float, height: float, steps: int = 41) -> Solid:
    """A loose cushion, upright in x and z: full in the middle, thin at its edges, its sides drawn in a little."""
    s, t = np.meshgrid(*[np.sin(np.linspace(-np.pi / 2, np.pi / 2, steps))] * 2, indexing="ij")
    x = s * width / 2 * (1 - 0.09 * (1 - t * t))
    z = t * height / 2 * (1 - 0.09 * (1 - s * s))
    full = (np.maximum(1 - s * s, 0) * np.maximum(1 - t * t, 0)) ** 0.42
    # Drawn in at the corners, and one dent where a hand set it down.
    full = full * (1 + 0.05 * np.sin(3 * s + 1.1) * np.cos(2 * t)) - 0.16 * np.exp(-9 * (s * s + (t - 0.75) ** 2))  # fmt: skip
    y = np.maximum(full, 0.0) * thick / 2
    front, back = np.stack([x, -y, z], axis=-1), np.stack([x, y, z], axis=-1)
    return join(surface(front), surface(back[::-1]))


def curtain(start: Point, end: Point, height: float, folds: float = 0.11, depth: float = 0.045,
            seed: int = 1) -> Solid:  # fmt: skip
    """Cloth that hangs in folds from a rail between two points down by ``height``: no two folds alike."""
    a, b = np.asarray(start, float), np.asarray(end, float)
    along = b - a
    length = float(np.linalg.norm(along))
    along /= length
    off = np.array([-along[1], along[0], 0.0])
    rng = np.random.default_rng(seed)
    n = max(int(length / folds), 2)
    knots = np.concatenate([[0], np.cumsum(rng.uniform(0.75, 1.25, n))])
    columns = 14 * n
    s = np.linspace(0, 1, columns)
    phase = np.interp(np.linspace(0, n, columns), np.arange(n + 1), knots / knots[-1] * n) * 2 * np.pi  # fmt: skip
    rows = 56
    down = np.linspace(0, 1, rows)[:, None]
    sway = 0.25 * np.sin(phase * 0.5 + 1.3)[None, :] * down
    out = depth * (np.sin(phase)[None, :] * (0.75 + 0.35 * down) + sway)
    points = a + along * (s[None, :, None] * length) + off * out[..., None] - np.array([0, 0, 1.0]) * (down * height)[..., None]  # fmt: skip
    return surface(points)


def shade(middle: Point, lower: float, upper: float, height: float, segments: int = 64) -> Solid:
    """A lamp shade: an open cone of cloth; its middle is that of its lower rim."""
    angle = np.linspace(0, 2 * np.pi, segments + 1)
    ring = np.stack([np.cos(angle), np.sin(angle), 0 * angle], axis=-1)
    up = np.array([0.0, 0.0, 1.0])
    rows = [ring * (lower + (upper - lower) * t) + up * (height * t) for t in np.linspace(0, 1, 8)]
    return surface(np.stack(rows)[:, ::-1] + np.asarray(middle), closed=True)


def shade_rims(
    middle: Point, lower: float, upper: float, height: float
) -> list[tuple[Point, float]]:
    """Where the wires of a shade run: middle and radius of each."""
    x, y, z = middle
    return [((x, y, z), lower), ((x, y, z + height), upper)]


def ring(middle: Point, radius: float, thick: float, segments: int = 48) -> Solid:
    """A round wire in a level plane."""
    a = np.linspace(0, 2 * np.pi, segments + 1)[:, None]
    b = np.linspace(0, 2 * np.pi, 9)[None, :]
    r = radius + thick * np.cos(b)
    points = np.stack([r * np.cos(a), r * np.sin(a), thick * np.sin(b) + 0 * a], axis=-1)
    return surface(points[:, ::-1] + np.asarray(middle), closed=True)
