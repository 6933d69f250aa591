"""Layers a path meets before the surface itself: smooth and frosted faces of solid glass, clear coats."""

import math

import numpy as np
from numba import njit

from .. import layout as L
from .numbers import ONE, PIECE, TWO, ZERO, dot, frame, normalise
from .points import point2
from .surface import coat_share, fresnel_dielectric, visible_normal

#: Least chance with which a path goes on by a clear coat: it mirrors little, but bright things.
COAT_CHANCE = np.float32(0.2)


@njit(**PIECE)
def through_glass(f, cosine, front, gx, gy, gz, dx, dy, dz, u):
    """Direction after a smooth face of solid glass, and whether it was mirrored."""
    eta = ONE / f[L.M_IOR] if front else f[L.M_IOR]
    c = abs(cosine)
    s2 = eta * eta * (ONE - c * c)
    mirror = ONE
    if s2 < ONE:
        # Fresnel's formula is the same from both sides when given the angle in the thinner medium.
        outer = c if front else math.sqrt(max(ONE - s2, ZERO))
        mirror = fresnel_dielectric(outer, f[L.M_IOR])
    if u < mirror:
        k = TWO * c
        return dx + gx * k, dy + gy * k, dz + gz * k, True
    k = eta * c - math.sqrt(max(ONE - s2, ZERO))
    dx, dy, dz = normalise(eta * dx + k * gx, eta * dy + k * gy, eta * dz + k * gz)
    return dx, dy, dz, False


@njit(**PIECE)
def facet(frost, gx, gy, gz, dx, dy, dz, u, v):
    """Normal of the facet of a frosted face that a ray meets."""
    if frost <= ZERO:
        return gx, gy, gz
    tx, ty, tz, bx, by, bz = frame(gx, gy, gz)
    hx, hy, hz = visible_normal(
        frost, -dot(dx, dy, dz, tx, ty, tz), -dot(dx, dy, dz, bx, by, bz),
        max(-dot(dx, dy, dz, gx, gy, gz), np.float32(1e-4)), u, v,
    )  # fmt: skip
    return tx * hx + bx * hy + gx * hz, ty * hx + by * hy + gy * hz, tz * hx + bz * hy + gz * hz


@njit(**PIECE)
def layer_taken(S, f, seed, index, depth, vx, vy, vz, nx, ny, nz, sx, sy, sz):
    """Whether a path goes on by the coat of a material row or by what lies below: normal there (the coat
    is smooth, with normal (sx, sy, sz)), the choice, and the weight of the path."""
    share = coat_share(f, max(dot(vx, vy, vz, sx, sy, sz), np.float32(1e-3)), S.energy)
    chance = max(share, COAT_CHANCE)
    u, _ = point2(seed, index, 4004 + depth * 4096)
    if u >= chance:
        return nx, ny, nz, False, (ONE - share) / (ONE - chance)
    return sx, sy, sz, True, share / chance
