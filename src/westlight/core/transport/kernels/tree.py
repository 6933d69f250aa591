"""Choosing one of many emitters by a light tree (Conty Estevez & Kulla 2018).

Each node bounds the places, directions and power of the emitters below it. A walk from the root
takes the child that can matter more, so the cost grows with the logarithm of their number.
"""

import math

import numpy as np
from numba import njit

from .. import layout as L
from .numbers import HALF, ONE, OUTLINE, PIECE, ZERO, dot


@njit(**PIECE)
def importance(f, x, y, z, nx, ny, nz):
    """Bound-like weight of a node at a point with a normal: power × both cosines over distance²."""
    hx, hy, hz = (f[3] - f[0]) * HALF, (f[4] - f[1]) * HALF, (f[5] - f[2]) * HALF
    dx, dy, dz = x - (f[0] + hx), y - (f[1] + hy), z - (f[2] + hz)
    radius2 = hx * hx + hy * hy + hz * hz
    d2 = dx * dx + dy * dy + dz * dz
    reach = max(d2, radius2 * np.float32(0.25) + np.float32(1e-9))
    if d2 <= radius2:
        return f[L.B_POWER] / reach
    k = ONE / math.sqrt(d2)
    # Half-angle the node fills: by so much either cosine may be better than that to its middle.
    fill = math.asin(math.sqrt(min(radius2 / d2, ONE)))
    cosine = ONE
    # A point in the air has no normal: light from anywhere counts.
    if nx != ZERO or ny != ZERO or nz != ZERO:
        c = -dot(dx, dy, dz, nx, ny, nz) * k
        angle = math.acos(min(max(c, -ONE), ONE)) - fill
        if angle >= np.float32(1.5707963):
            return ZERO
        cosine = math.cos(max(angle, ZERO))
    if f[L.B_COS] > -ONE:
        c = dot(dx, dy, dz, f[6], f[7], f[8]) * k
        angle = math.acos(min(max(c, -ONE), ONE)) - fill
        angle -= math.acos(min(max(f[L.B_COS], -ONE), ONE))
        if angle >= np.float32(1.5707963):
            return ZERO
        cosine *= math.cos(max(angle, ZERO))
    return f[L.B_POWER] * cosine / reach


@njit(**OUTLINE)
def choose(floats, ints, root, x, y, z, nx, ny, nz, u):
    """Row of one emitter below a root, the chance it was taken with (0: none shines here)."""
    node = np.int64(root)
    chance = ONE
    while ints[node, L.B_LEFT] >= 0:
        left, right = np.int64(ints[node, L.B_LEFT]), np.int64(ints[node, L.B_RIGHT])
        a = importance(floats[left], x, y, z, nx, ny, nz)
        b = importance(floats[right], x, y, z, nx, ny, nz)
        if not a + b > ZERO:
            return np.int64(0), ZERO
        share = a / (a + b)
        if u < share:
            node, chance = left, chance * share
            u = min(u / share, np.float32(0.9999999))
        else:
            node, chance = right, chance * (ONE - share)
            u = min((u - share) / (ONE - share), np.float32(0.9999999))
    return np.int64(ints[node, L.B_RIGHT]), chance


@njit(**OUTLINE)
def chance_of(floats, ints, leaf, x, y, z, nx, ny, nz):
    """Chance that `choose` ends at a leaf at a point."""
    node = np.int64(leaf)
    chance = ONE
    above = np.int64(ints[node, L.B_PARENT])
    while above >= 0:
        left, right = np.int64(ints[above, L.B_LEFT]), np.int64(ints[above, L.B_RIGHT])
        a = importance(floats[left], x, y, z, nx, ny, nz)
        b = importance(floats[right], x, y, z, nx, ny, nz)
        if not a + b > ZERO:
            return ZERO
        chance *= (a if node == left else b) / (a + b)
        node, above = above, np.int64(ints[above, L.B_PARENT])
    return chance
