"""What a ray finds on a surface: normals, relief, colours, and a point that smooth shading can use."""

import numpy as np
from numba import njit

from .. import layout as L
from .numbers import (
    ONE,
    OUTLINE,
    PIECE,
    TWO,
    ZERO,
    Rgb,
    Vec,
    along,
    cross,
    dot,
    minus,
    normalise,
    opposite,
    scaled,
    turned_by,
    vec,
)
from .textures import look_up

#: First columns of the corners of a triangle, and of the place in the texture of each.
_A, _B, _C = 0, L.N_CORNER, 2 * L.N_CORNER
_PLACE = 3


@njit(**PIECE)
def blend(a, b, c, u, v):
    """A vector that a triangle's corners have, at a place (u, v) on it."""
    w = ONE - u - v
    return Vec(
        a.x * w + b.x * u + c.x * v, a.y * w + b.y * u + c.y * v, a.z * w + b.z * u + c.z * v
    )


@njit(**PIECE)
def texture_place(corners, u, v):
    """Coordinates in the texture at a place (u, v) of a triangle (``corners``: its row)."""
    w = ONE - u - v
    a, b, c = _A + _PLACE, _B + _PLACE, _C + _PLACE
    return (
        corners[a] * w + corners[b] * u + corners[c] * v,
        corners[a + 1] * w + corners[b + 1] * u + corners[c + 1] * v,
    )


@njit(**PIECE)
def on_side_of(normal, face):
    """A normal, turned to the side a face looks to."""
    return opposite(normal) if dot(normal, face) < ZERO else normal


@njit(**PIECE)
def shading_normal(S, hit):
    """Interpolated normal in world space, on the side of the face normal."""
    c = S.corners[hit.triangle]
    own = blend(vec(c, _A), vec(c, _B), vec(c, _C), hit.u, hit.v)
    placed = turned_by(S.instance_normal[hit.copy], own)
    if not dot(placed, placed) > np.float32(1e-12):
        return hit.face
    return on_side_of(normalise(placed), hit.face)


@njit(**OUTLINE)
def bend_normal(corners, a, b, c, matrix, rgb, scale, normal):
    """Normal map colour ``rgb`` applied in the tangent frame of a triangle's texture coordinates.

    ``corners`` is the row of the triangle, (a, b, c) its corner points, ``matrix`` that of the copy that was hit.
    """
    du1 = corners[_B + _PLACE] - corners[_A + _PLACE]
    dv1 = corners[_B + _PLACE + 1] - corners[_A + _PLACE + 1]
    du2 = corners[_C + _PLACE] - corners[_A + _PLACE]
    dv2 = corners[_C + _PLACE + 1] - corners[_A + _PLACE + 1]
    det = du1 * dv2 - du2 * dv1
    if abs(det) < np.float32(1e-12):
        return normal
    k = ONE if det > ZERO else -ONE
    across = scaled(minus(scaled(minus(b, a), dv2), scaled(minus(c, a), dv1)), k)
    t = turned_by(matrix, across)
    t = normalise(along(t, normal, -dot(t, normal)))
    # v runs downwards in a texture, the bitangent upwards.
    up = scaled(cross(normal, t), -k)
    x, y = (rgb.r * TWO - ONE) * scale, -(rgb.g * TWO - ONE) * scale
    z = max(rgb.b * TWO - ONE, np.float32(0.05))
    return normalise(along(along(scaled(t, x), up, y), normal, z))


@njit(**PIECE)
def relief(S, hit, texture, scale, tu, tv, normal):
    """A normal bent by a normal map at (tu, tv) of it."""
    found = look_up(S.texels, S.texture_ints, S.decode, texture, False, tu, tv)
    i = S.triangles[hit.triangle]
    a, b, c = vec(S.positions[i[0]], 0), vec(S.positions[i[1]], 0), vec(S.positions[i[2]], 0)
    matrix = S.instance_matrix[hit.copy]
    return bend_normal(S.corners[hit.triangle], a, b, c, matrix, found, scale, normal)


@njit(**PIECE)
def painted(S, hit):
    """Interpolated vertex colour."""
    p = S.paint[hit.triangle]
    c = blend(vec(p, 0), vec(p, 3), vec(p, 6), hit.u, hit.v)
    return Rgb(c.x, c.y, c.z)


@njit(**OUTLINE)
def _rise(matrix, normals, corner, position, at, face):
    """How far a corner's tangent plane stands above a point, as a vector."""
    n = on_side_of(normalise(turned_by(normals, corner)), face)
    p = turned_by(matrix, position)
    p = Vec(p.x + matrix[0, 3], p.y + matrix[1, 3], p.z + matrix[2, 3])
    return scaled(n, -min(dot(minus(at, p), n), ZERO))


@njit(**PIECE)
def lifted(S, hit, at):
    """Point moved onto the smooth surface its normals describe (Hanika 2021): without this, light
    at a grazing angle shows the flat faces of a coarse mesh as dark bands."""
    m, q, c = S.instance_matrix[hit.copy], S.instance_normal[hit.copy], S.corners[hit.triangle]
    i = S.triangles[hit.triangle]
    up = blend(
        _rise(m, q, vec(c, _A), vec(S.positions[i[0]], 0), at, hit.face),
        _rise(m, q, vec(c, _B), vec(S.positions[i[1]], 0), at, hit.face),
        _rise(m, q, vec(c, _C), vec(S.positions[i[2]], 0), at, hit.face),
        hit.u, hit.v,
    )  # fmt: skip
    return along(at, up, ONE)
