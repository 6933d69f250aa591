"""How much air lies on a straight way, and what light it leaves."""

import math

import numpy as np
from numba import njit

from .. import layout as L
from .numbers import BLACK, INFINITE, ONE, OUTLINE, PIECE, ZERO, Rgb, added, dimmed, rgb


@njit(**PIECE)
def slab(low, high, origin, step, near, far):
    """Part of a way between two planes across an axis, as distances; empty if the second is not larger."""
    if abs(step) < np.float32(1e-9):
        if origin < low or origin > high:
            return ZERO, -ONE
        return near, far
    k = ONE / step
    a, b = (low - origin) * k, (high - origin) * k
    return max(near, min(a, b)), min(far, max(a, b))


@njit(**PIECE)
def span(f, start, way, far):
    """Part of a ray inside a box of air, as distances; empty if the second is not larger."""
    near, far = slab(f[L.A_LOW], f[L.A_HIGH], start.x, way.x, ZERO, far)
    near, far = slab(f[L.A_LOW + 1], f[L.A_HIGH + 1], start.y, way.y, near, far)
    return slab(f[L.A_LOW + 2], f[L.A_HIGH + 2], start.z, way.z, near, far)


@njit(**PIECE)
def rho(f, z):
    """Density at a height against the bottom of the box."""
    return math.exp(-f[L.A_FALL] * max(z - f[L.A_LOW + 2], ZERO))


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
def thinning(air, start, way, far):
    """Light that a straight way through the air keeps, RGB (Beer–Lambert)."""
    depth = BLACK
    for i in range(air.shape[0]):
        near, end = span(air[i], start, way, far)
        if end > near:
            k = haze_between(air[i], start.z, way.z, near, end)
            depth = added(depth, dimmed(rgb(air[i], L.A_EXTINCTION), k))
    return Rgb(math.exp(-depth.r), math.exp(-depth.g), math.exp(-depth.b))
