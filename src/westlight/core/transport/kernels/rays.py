"""Rays: filling Embree's record, leaving surfaces, and what a straight way lets through."""

import numpy as np
from numba import njit, uint32, uint64

from .. import layout as L
from ..embree import (
    BLOCKING,
    MASK_BLOCKER,
    MASK_CAMERA,
    MASK_CAMERA_GLASS,
    MASK_MIRROR,
    MASK_MIRROR_GLASS,
    MASK_PANE,
    MASK_SOLID,
    intersect1,
    occluded1,
)
from .numbers import ONE, PIECE, ZERO, dot, normalise
from .surface import pane_reflectance

NO_HIT = uint32(0xFFFFFFFF)
MAX_PANES = 24
_BLOCKING = np.uint32(BLOCKING)
_PANES = np.uint32(MASK_PANE)
_CAMERA = np.uint32(MASK_SOLID | MASK_PANE | MASK_CAMERA)
_CAMERA_GLASS = np.uint32(MASK_SOLID | MASK_PANE | MASK_CAMERA_GLASS)
_MIRROR = np.uint32(MASK_SOLID | MASK_PANE | MASK_MIRROR)
_MIRROR_GLASS = np.uint32(MASK_SOLID | MASK_PANE | MASK_MIRROR_GLASS)
_MATTE = np.uint32(MASK_BLOCKER)


@njit(**PIECE)
def ray_mask(depth, behind_glass, matte):
    """What a ray of a path meets, by the bounces before it, the glass it passed and what sent it."""
    if depth == 0:
        return _CAMERA_GLASS if behind_glass else _CAMERA
    mask = _MIRROR_GLASS if behind_glass else _MIRROR
    return uint32(mask | _MATTE) if matte else mask


@njit(**PIECE)
def set_ray(ray, words, ox, oy, oz, dx, dy, dz, far, mask):
    ray[0], ray[1], ray[2], ray[3] = ox, oy, oz, ZERO
    ray[4], ray[5], ray[6], ray[7] = dx, dy, dz, ZERO
    ray[8] = far
    words[9] = mask
    words[10] = uint32(0)
    words[11] = uint32(0)
    words[17] = NO_HIT
    words[18] = NO_HIT
    words[19] = NO_HIT


@njit(**PIECE)
def offset(x, y, z, nx, ny, nz, dx, dy, dz):
    """Point moved off a surface along its face normal, to the side a direction leaves by."""
    size = max(abs(x), max(abs(y), abs(z)))
    e = np.float32(2e-5) + size * np.float32(4e-6)
    if nx * dx + ny * dy + nz * dz < ZERO:
        e = -e
    return x + nx * e, y + ny * e, z + nz * e


@njit(**PIECE)
def instance_of(S, words):
    """Row of the placed mesh in the hit record: many copies of a mesh share a geometry."""
    return S.geometry_first[words[19]] + np.int64(words[20])


@njit(**PIECE)
def triangle_of(S, words):
    """Row of the triangle in the hit record; cut-outs are a second geometry after the solid one."""
    inst = instance_of(S, words)
    t = S.instance_first[inst] + np.int64(words[17])
    if words[18] != uint32(0):
        t += S.instance_cut[inst]
    return t


@njit(**PIECE)
def face_of_hit(S, words, ray):
    """Material row, unit face normal in world space and its cosine to the ray, of the hit record."""
    row = np.int64(S.corner_words[triangle_of(S, words), L.N_MATERIAL])
    m = S.instance_normal[instance_of(S, words)]
    ng0, ng1, ng2 = ray[12], ray[13], ray[14]
    nx = m[0, 0] * ng0 + m[0, 1] * ng1 + m[0, 2] * ng2
    ny = m[1, 0] * ng0 + m[1, 1] * ng1 + m[1, 2] * ng2
    nz = m[2, 0] * ng0 + m[2, 1] * ng1 + m[2, 2] * ng2
    nx, ny, nz = normalise(nx, ny, nz)
    return row, nx, ny, nz, dot(nx, ny, nz, ray[4], ray[5], ray[6])


@njit(**PIECE)
def visibility(S, ray, words, address, x, y, z, dx, dy, dz, far, counts):
    """What light keeps on a straight way of length ``far``: RGB in 0…1."""
    set_ray(ray, words, x, y, z, dx, dy, dz, far, _BLOCKING)
    counts[0] += 1
    occluded1(S.scene, address, uint64(0))
    if ray[8] < ZERO:
        return ZERO, ZERO, ZERO
    r = g = b = ONE
    if S.panes != uint64(0):
        left = far
        for _ in range(MAX_PANES):
            set_ray(ray, words, x, y, z, dx, dy, dz, left, _PANES)
            counts[0] += 1
            intersect1(S.panes, address, uint64(0))
            if words[18] == NO_HIT:
                break
            row, nx, ny, nz, cosine = face_of_hit(S, words, ray)
            f = S.material_floats[row]
            kind = S.material_ints[row, L.M_KIND]
            if kind == L.KIND_WOVEN:
                t = f[L.M_OPEN]
                r, g, b = r * t, g * t, b * t
            else:
                sheet = kind == L.KIND_SHEET
                t = (ONE - pane_reflectance(abs(cosine), f[L.M_IOR], sheet)) * f[L.M_TRANSMISSION]
                r, g, b = r * t * f[0], g * t * f[1], b * t * f[2]
            hit = ray[8]
            x, y, z = offset(x + dx * hit, y + dy * hit, z + dz * hit, nx, ny, nz, dx, dy, dz)
            left -= hit
            if left <= ZERO or max(r, max(g, b)) <= ZERO:
                break
    return r, g, b
