"""Choosing one of many emitters by a light tree (Conty Estevez & Kulla 2018).

Each node knows the mean place, spread, directions and power of the emitters below it. A walk from the
root takes the child that can matter more, so the cost grows with the logarithm of their number. Means
foretell what a node sends far better than bounds of it do, and need no angles; only where every emitter
of a node lies below the horizon of a surface is it left out.
"""

import math

import numpy as np
from numba import njit

from .. import layout as L
from .numbers import ONE, OUTLINE, PIECE, ZERO, dot, minus, vec

#: How much of the spread of a node counts as height above the horizon, and as turning to the point.
_LIFT = np.float32(0.3)
_NEAR = np.float32(1e-9)


@njit(**PIECE)
def importance(f, at, normal):
    """Weight of a node at a point with a normal: power × both mean cosines over mean distance²."""
    way = minus(vec(f, L.B_PLACE), at)
    d2 = dot(way, way)
    reach = d2 + f[L.B_SPREAD] + _NEAR
    lift = _LIFT * math.sqrt(f[L.B_SPREAD])
    turned = max(-dot(way, vec(f, L.B_AXIS)), ZERO) + lift + f[L.B_EVERY] * math.sqrt(d2)
    # A point in the air has no normal: light from anywhere counts.
    height = math.sqrt(reach)
    if normal.x != ZERO or normal.y != ZERO or normal.z != ZERO:
        height = dot(way, normal)
        if height + f[L.B_RADIUS] <= ZERO:
            return ZERO
        height = max(height, ZERO) + lift
    return f[L.B_POWER] * height * turned / (reach * reach)


@njit(**OUTLINE)
def choose(floats, ints, root, at, normal, u):
    """Row of one emitter below a root, the chance it was taken with (0: none shines here)."""
    node = np.int64(root)
    chance = ONE
    while ints[node, L.B_LEFT] >= 0:
        left, right = np.int64(ints[node, L.B_LEFT]), np.int64(ints[node, L.B_RIGHT])
        a = importance(floats[left], at, normal)
        b = importance(floats[right], at, normal)
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
def chance_of(floats, ints, leaf, at, normal):
    """Chance that `choose` ends at a leaf at a point."""
    node = np.int64(leaf)
    chance = ONE
    above = np.int64(ints[node, L.B_PARENT])
    while above >= 0:
        left, right = np.int64(ints[above, L.B_LEFT]), np.int64(ints[above, L.B_RIGHT])
        a = importance(floats[left], at, normal)
        b = importance(floats[right], at, normal)
        if not a + b > ZERO:
            return ZERO
        chance *= (a if node == left else b) / (a + b)
        node, above = above, np.int64(ints[above, L.B_PARENT])
    return chance
