"""How much air lies on a straight way, and what light it leaves."""

import math

import numpy as np
from numba import njit

from .. import layout as L
from .numbers import INFINITE, ONE, OUTLINE, PIECE, ZERO


@njit(**PIECE)
def slab(low, high, origin, step, near, far):
    if abs(step) < np.float32(1e-9):
        if origin < low or origin > high:
            return ZERO, -ONE
        return near, far
    k = ONE / step
    a, b = (low - origin) * k, (high - origin) * k
    return max(near, min(a, b)), min(far, max(a, b))


@njit(**PIECE)
def span(f, ox, oy, oz, dx, dy, dz, far):
    """Part of a ray inside a box of air, as distances; empty if the second is not larger."""
    near, far = slab(f[0], f[3], ox, dx, ZERO, far)
    near, far = slab(f[1], f[4], oy, dy, near, far)
    return slab(f[2], f[5], oz, dz, near, far)


@njit(**PIECE)
def rho(f, z):
    """Density at a height against the bottom of the box."""
    return math.exp(-f[L.A_FALL] * max(z - f[2], ZERO))


@njit(**PIECE)
def haze_between(f, oz, dz, near, far):
    """Metres of bottom density along a part of a ray inside the box."""
    way = far - near
    c = f[L.A_FALL] * dz
    if abs(c * way) < np.float32(1e-3):
        return way * rho(f, oz + dz * (near + far) * np.float32(0.5))
    return rho(f, oz + dz * near) * (-math.expm1(-c * way)) / c


@njit(**PIECE)
def distance_after(f, oz, dz, near, amount):
    """Distance at which so many metres of bottom density have been passed since ``near``."""
    start = max(rho(f, oz + dz * near), np.float32(1e-20))
    c = f[L.A_FALL] * dz
    x = c * amount / start
    if abs(x) < np.float32(1e-3):
        return near + amount / start * (ONE + x * np.float32(0.5))
    if x >= np.float32(0.999999):
        return INFINITE
    return near - math.log1p(-x) / c


@njit(**OUTLINE)
def thinning(air, ox, oy, oz, dx, dy, dz, far):
    """Light that a straight way through the air keeps, RGB."""
    r = g = b = ZERO
    for i in range(air.shape[0]):
        f = air[i]
        near, end = span(f, ox, oy, oz, dx, dy, dz, far)
        if end > near:
            k = haze_between(f, oz, dz, near, end)
            r, g, b = r + f[9] * k, g + f[10] * k, b + f[11] * k
    return math.exp(-r), math.exp(-g), math.exp(-b)
