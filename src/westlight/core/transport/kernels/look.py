"""What a surface is like where a ray meets it: shading normal, reflectance, roughness, metal."""

import numpy as np
from numba import njit

from .. import layout as L
from .hit import bend_normal, painted, shading_normal
from .numbers import ONE, PIECE, ZERO, dot, normalise
from .textures import look_up, to_working


@njit(**PIECE)
def towards_viewer(nx, ny, nz, vx, vy, vz):
    """A shading normal, bent where it is turned away from the viewer: that would show as a black edge."""
    facing = dot(nx, ny, nz, vx, vy, vz)
    if facing < np.float32(0.02):
        k = np.float32(0.02) - facing
        nx, ny, nz = normalise(nx + vx * k, ny + vy * k, nz + vz * k)
    return nx, ny, nz


@njit(**PIECE)
def surface_at(S, t, inst, row, u, v, depth, gx, gy, gz, vx, vy, vz):
    """Shading normal, reflectance, roughness and metal at a place (u, v) of triangle ``t``."""
    f, textures = S.material_floats[row], S.material_ints[row]
    nx, ny, nz = shading_normal(S, t, inst, u, v, gx, gy, gz)
    r, g, b = f[0], f[1], f[2]
    roughness, metallic = f[L.M_ROUGHNESS], f[L.M_METALLIC]
    tu = tv = ZERO
    if textures[0] >= 0 or textures[1] >= 0 or textures[2] >= 0:
        c = S.corners
        w = ONE - u - v
        tu = c[t, 3] * w + c[t, 8] * u + c[t, 13] * v
        tv = c[t, 4] * w + c[t, 9] * u + c[t, 14] * v
    if textures[L.M_TEX_BASE] >= 0:
        cr, cg, cb = look_up(
            S.texels, S.texture_ints, S.decode, textures[L.M_TEX_BASE], depth > 0, tu, tv
        )
        cr, cg, cb = to_working(cr, cg, cb)
        r, g, b = r * cr, g * cg, b * cb
    if textures[L.M_PAINTED] == 1:
        cr, cg, cb = painted(S, t, u, v)
        r, g, b = r * cr, g * cg, b * cb
    if textures[L.M_TEX_ROUGH] >= 0:
        _, cg, cb = look_up(
            S.texels, S.texture_ints, S.decode, textures[L.M_TEX_ROUGH], depth > 0, tu, tv
        )
        roughness, metallic = roughness * cg, metallic * cb
    # Bounced light is too blurred to show relief, and the look-ups are dear.
    if textures[L.M_TEX_NORMAL] >= 0 and depth == 0:
        nx, ny, nz = bend_normal(
            S.positions, S.triangles, S.corners, S.instance_matrix[inst], S.texels,
            S.texture_ints, S.decode, t, textures[L.M_TEX_NORMAL], f[L.M_NORMAL_SCALE],
            tu, tv, nx, ny, nz,
        )  # fmt: skip
    nx, ny, nz = towards_viewer(nx, ny, nz, vx, vy, vz)
    # What is scattered through is not sent back.
    k = ONE - f[L.M_TRANSLUCENT]
    return nx, ny, nz, r * k, g * k, b * k, roughness, metallic


@njit(**PIECE)
def through_at(S, t, row, u, v, depth):
    """Light of a place scattered through a translucent sheet, per light that falls on it: RGB, 0…1."""
    f, textures = S.material_floats[row], S.material_ints[row]
    k = f[L.M_TRANSLUCENT]
    r, g, b = f[L.M_THROUGH_RED] * k, f[L.M_THROUGH_GREEN] * k, f[L.M_THROUGH_BLUE] * k
    if textures[L.M_TEX_BASE] >= 0:
        c = S.corners
        w = ONE - u - v
        cr, cg, cb = look_up(
            S.texels, S.texture_ints, S.decode, textures[L.M_TEX_BASE], depth > 0,
            c[t, 3] * w + c[t, 8] * u + c[t, 13] * v, c[t, 4] * w + c[t, 9] * u + c[t, 14] * v,
        )  # fmt: skip
        cr, cg, cb = to_working(cr, cg, cb)
        r, g, b = r * cr, g * cg, b * cb
    if textures[L.M_PAINTED] == 1:
        cr, cg, cb = painted(S, t, u, v)
        r, g, b = r * cr, g * cg, b * cb
    return r, g, b
