"""Rays of the camera: pixel filter, aperture, lens."""

import math

import numpy as np
from numba import njit

from .. import layout as L
from .numbers import HALF, ONE, PIECE, TWO, ZERO, normalise
from .points import point2


@njit(**PIECE)
def _tent(u):
    """Tent of radius one pixel: a calm, sharp pixel filter drawn exactly."""
    if u < HALF:
        return math.sqrt(TWO * u) - ONE
    return ONE - math.sqrt(max(TWO * (ONE - u), ZERO))


@njit(**PIECE)
def _lens_point(camera, u, v):
    """Place on the aperture in units of its radius: a disc, or a polygon of equal blades."""
    blades = camera[L.C_BLADES]
    if blades < np.float32(3.0):
        r, phi = math.sqrt(u), np.float32(6.2831853) * v
        return r * math.cos(phi), r * math.sin(phi)
    k = v * blades
    i = np.float32(math.floor(k))
    root = math.sqrt(u)
    b = root * (k - i)
    a = root - b
    step = np.float32(6.2831853) / blades
    p = camera[L.C_TURN] + step * i
    q = p + step
    return a * math.cos(p) + b * math.cos(q), a * math.sin(p) + b * math.sin(q)


@njit(**PIECE)
def camera_ray(camera, pixel, index, row, column):
    """Origin and unit direction of one sample of a pixel."""
    u, v = point2(pixel, index, 0)
    c = np.float32(column) + HALF + _tent(u)
    r = np.float32(row) + HALF + _tent(v)
    dx = camera[3] + camera[6] * c + camera[9] * r
    dy = camera[4] + camera[7] * c + camera[10] * r
    dz = camera[5] + camera[8] * c + camera[11] * r
    ox, oy, oz = camera[0], camera[1], camera[2]
    # The direction reaches this far along the axis before it is made a unit.
    reach = ONE
    if camera[L.C_LENS_RADIUS] > ZERO:
        u, v = point2(pixel, index, 1)
        a, b = _lens_point(camera, u, v)
        a, b = a * camera[L.C_LENS_RADIUS], b * camera[L.C_LENS_RADIUS]
        mx = camera[12] * a + camera[15] * b
        my = camera[13] * a + camera[16] * b
        mz = camera[14] * a + camera[17] * b
        focus = camera[L.C_FOCUS]
        dx, dy, dz = dx * focus - mx, dy * focus - my, dz * focus - mz
        ox, oy, oz = ox + mx, oy + my, oz + mz
        reach = focus
    near = camera[L.C_NEAR] / reach
    ox, oy, oz = ox + dx * near, oy + dy * near, oz + dz * near
    dx, dy, dz = normalise(dx, dy, dz)
    return ox, oy, oz, dx, dy, dz
