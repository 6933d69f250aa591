"""Layers a path meets before the surface itself: smooth and frosted faces of solid glass, clear coats."""

import math

import numpy as np
from numba import njit

from .. import layout as L
from .numbers import ONE, PIECE, TWO, ZERO, dot, frame, luminance, normalise
from .points import point2
from .surface import coat_share, fresnel_dielectric, gloss_taken, visible_normal

#: Least chance with which a path goes on by a clear coat: it mirrors little, but bright things.
COAT_CHANCE = np.float32(0.2)
#: Chance of either side of a translucent sheet, and of threads and what is between them, at least: behind
#: a weave with hardly any holes may be the sky.
SIDE_CHANCE, WEAVE_CHANCE = np.float32(0.1), np.float32(0.3)


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


@njit(**PIECE)
def turned_over(vx, vy, vz, gx, gy, gz):
    """A direction mirrored at a face: from the side it points to, to the other."""
    k = TWO * dot(vx, vy, vz, gx, gy, gz)
    return vx - gx * k, vy - gy * k, vz - gz * k


@njit(**PIECE)
def weave_taken(f, u):
    """Whether a path goes straight between the threads of a woven material row, and the weight of the path."""
    share = f[L.M_OPEN]
    chance = min(max(share, WEAVE_CHANCE), ONE - WEAVE_CHANCE)
    if u < chance:
        return True, share / chance
    return False, (ONE - share) / (ONE - chance)


@njit(**PIECE)
def side_taken(S, f, seed, index, depth, r, g, b, qr, qg, qb, roughness, metallic, cosine):
    """Whether a path goes on from the far side of a translucent sheet, which scatters (qr, qg, qb) through
    and (r, g, b) back: the choice, and the weight of the path.

    A Lambertian sheet seen from one side and lit from the other is, to the path, a matte surface of
    that other side: nothing of what follows needs to know of it.
    """
    # What the gloss of this side mirrors does not get in.
    k = (ONE - metallic) * (ONE - gloss_taken(roughness, cosine, S.energy))
    through, back = luminance(qr, qg, qb) * k, luminance(r, g, b)
    if through <= ZERO:
        return False, ONE
    chance = min(max(through / (through + back), SIDE_CHANCE), ONE - SIDE_CHANCE)
    u, _ = point2(seed, index, 4005 + depth * 4096)
    if u >= chance:
        return False, ONE / (ONE - chance)
    return True, k / chance
