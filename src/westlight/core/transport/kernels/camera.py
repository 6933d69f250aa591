"""Rays of the camera: pixel filter, aperture, lens."""

import math

import numpy as np
from numba import njit

from .. import layout as L
from .numbers import HALF, ONE, PIECE, TWO, ZERO, along, minus, normalise, scaled, vec
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
    way = along(along(vec(camera, L.C_CORNER), vec(camera, L.C_RIGHT), c), vec(camera, L.C_DOWN), r)
    start = vec(camera, L.C_POSITION)
    # The direction reaches this far along the axis before it is made a unit.
    reach = ONE
    if camera[L.C_LENS_RADIUS] > ZERO:
        u, v = point2(pixel, index, 1)
        a, b = _lens_point(camera, u, v)
        a, b = a * camera[L.C_LENS_RADIUS], b * camera[L.C_LENS_RADIUS]
        off = along(scaled(vec(camera, L.C_LENS_U), a), vec(camera, L.C_LENS_V), b)
        reach = camera[L.C_FOCUS]
        way = minus(scaled(way, reach), off)
        start = along(start, off, ONE)
    return along(start, way, camera[L.C_NEAR] / reach), normalise(way)
