"""What a ray finds on a surface: normals, relief, colours, and a point that smooth shading can use."""

import numpy as np
from numba import njit

from .. import layout as L
from .numbers import ONE, OUTLINE, PIECE, TWO, ZERO, dot, normalise
from .textures import look_up


@njit(**PIECE)
def shading_normal(S, t, inst, u, v, gx, gy, gz):
    """Interpolated normal in world space, on the side of the face normal."""
    c = S.corners
    w = ONE - u - v
    n0 = c[t, 0] * w + c[t, 5] * u + c[t, 10] * v
    n1 = c[t, 1] * w + c[t, 6] * u + c[t, 11] * v
    n2 = c[t, 2] * w + c[t, 7] * u + c[t, 12] * v
    m = S.instance_normal[inst]
    nx = m[0, 0] * n0 + m[0, 1] * n1 + m[0, 2] * n2
    ny = m[1, 0] * n0 + m[1, 1] * n1 + m[1, 2] * n2
    nz = m[2, 0] * n0 + m[2, 1] * n1 + m[2, 2] * n2
    length = nx * nx + ny * ny + nz * nz
    if not length > np.float32(1e-12):
        return gx, gy, gz
    nx, ny, nz = normalise(nx, ny, nz)
    if dot(nx, ny, nz, gx, gy, gz) < ZERO:
        nx, ny, nz = -nx, -ny, -nz
    return nx, ny, nz


@njit(**OUTLINE)
def bend_normal(
    positions, triangles, c, m, texels, texture_ints, decode, t, texture, scale, tu, tv, nx, ny, nz
):
    """Normal map applied in the tangent frame of the triangle's texture coordinates.

    ``c`` are the corner rows, ``m`` the matrix of the copy that was hit.
    """
    i0, i1, i2 = triangles[t, 0], triangles[t, 1], triangles[t, 2]
    du1, dv1 = c[t, 8] - c[t, 3], c[t, 9] - c[t, 4]
    du2, dv2 = c[t, 13] - c[t, 3], c[t, 14] - c[t, 4]
    det = du1 * dv2 - du2 * dv1
    if abs(det) < np.float32(1e-12):
        return nx, ny, nz
    k = ONE if det > ZERO else -ONE
    ax = (positions[i1, 0] - positions[i0, 0]) * dv2
    ax = (ax - (positions[i2, 0] - positions[i0, 0]) * dv1) * k
    ay = (positions[i1, 1] - positions[i0, 1]) * dv2
    ay = (ay - (positions[i2, 1] - positions[i0, 1]) * dv1) * k
    az = (positions[i1, 2] - positions[i0, 2]) * dv2
    az = (az - (positions[i2, 2] - positions[i0, 2]) * dv1) * k
    tx = m[0, 0] * ax + m[0, 1] * ay + m[0, 2] * az
    ty = m[1, 0] * ax + m[1, 1] * ay + m[1, 2] * az
    tz = m[2, 0] * ax + m[2, 1] * ay + m[2, 2] * az
    d = dot(tx, ty, tz, nx, ny, nz)
    tx, ty, tz = normalise(tx - nx * d, ty - ny * d, tz - nz * d)
    # v runs downwards in a texture, the bitangent upwards.
    bx, by, bz = -(ny * tz - nz * ty) * k, -(nz * tx - nx * tz) * k, -(nx * ty - ny * tx) * k
    r, g, b = look_up(texels, texture_ints, decode, texture, False, tu, tv)
    sx, sy = (r * TWO - ONE) * scale, -(g * TWO - ONE) * scale
    sz = max(b * TWO - ONE, np.float32(0.05))
    return normalise(
        tx * sx + bx * sy + nx * sz, ty * sx + by * sy + ny * sz, tz * sx + bz * sy + nz * sz
    )


@njit(**PIECE)
def painted(S, t, u, v):
    """Interpolated vertex colour."""
    p = S.paint[t]
    w = ONE - u - v
    return (
        p[0] * w + p[3] * u + p[6] * v,
        p[1] * w + p[4] * u + p[7] * v,
        p[2] * w + p[5] * u + p[8] * v,
    )


@njit(**OUTLINE)
def _rise(m, q, row, position, corner, x, y, z, gx, gy, gz):
    """How far a corner's tangent plane stands above a point, as a vector."""
    c = corner * L.N_CORNER
    n0, n1, n2 = row[c], row[c + 1], row[c + 2]
    nx = q[0, 0] * n0 + q[0, 1] * n1 + q[0, 2] * n2
    ny = q[1, 0] * n0 + q[1, 1] * n1 + q[1, 2] * n2
    nz = q[2, 0] * n0 + q[2, 1] * n1 + q[2, 2] * n2
    nx, ny, nz = normalise(nx, ny, nz)
    if dot(nx, ny, nz, gx, gy, gz) < ZERO:
        nx, ny, nz = -nx, -ny, -nz
    a, b, d = position[0], position[1], position[2]
    px = m[0, 0] * a + m[0, 1] * b + m[0, 2] * d + m[0, 3]
    py = m[1, 0] * a + m[1, 1] * b + m[1, 2] * d + m[1, 3]
    pz = m[2, 0] * a + m[2, 1] * b + m[2, 2] * d + m[2, 3]
    k = min(dot(x - px, y - py, z - pz, nx, ny, nz), ZERO)
    return -nx * k, -ny * k, -nz * k


@njit(**PIECE)
def lifted(S, t, inst, u, v, x, y, z, gx, gy, gz):
    """Point moved onto the smooth surface its normals describe (Hanika 2021): without this, light
    at a grazing angle shows the flat faces of a coarse mesh as dark bands."""
    m, q, row = S.instance_matrix[inst], S.instance_normal[inst], S.corners[t]
    i0, i1, i2 = S.triangles[t, 0], S.triangles[t, 1], S.triangles[t, 2]
    ax, ay, az = _rise(m, q, row, S.positions[i0], 0, x, y, z, gx, gy, gz)
    bx, by, bz = _rise(m, q, row, S.positions[i1], 1, x, y, z, gx, gy, gz)
    cx, cy, cz = _rise(m, q, row, S.positions[i2], 2, x, y, z, gx, gy, gz)
    w = ONE - u - v
    return (
        x + ax * w + bx * u + cx * v, y + ay * w + by * u + cy * v, z + az * w + bz * u + cz * v
    )  # fmt: skip
