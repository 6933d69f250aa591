"""Suns and skies: drawing directions, densities, and the colour that is met."""

import math

import numpy as np
from numba import njit, uint32, uint64

from .. import layout as L
from .numbers import (
    HALF,
    ONE,
    PI,
    PIECE,
    TWO,
    TWO_PI,
    ZERO,
    Rgb,
    Vec,
    added,
    dimmed,
    dot,
    frame,
    from_frame,
    minus,
    rgb,
    vec,
)
from .points import to_unit

_INV_TWO_PI = np.float32(0.5 / math.pi)
_INV_PI = np.float32(1.0 / math.pi)


@njit(**PIECE)
def sample_sun(s, u, v):
    """Direction inside the sun's disc for a source row ``s`` of floats."""
    w = s[L.S_ONE_MINUS_COS] * u
    c, sn = ONE - w, math.sqrt(max(w * (TWO - w), ZERO))
    phi = TWO_PI * v
    axes = frame(vec(s, L.S_DIRECTION))
    return from_frame(axes, Vec(sn * math.cos(phi), sn * math.sin(phi), c))


@njit(**PIECE)
def in_sun(s, way):
    """Whether a unit direction lies inside the sun's disc (by chord: exact for small discs)."""
    chord = minus(way, vec(s, L.S_DIRECTION))
    return dot(chord, chord) < TWO * s[L.S_ONE_MINUS_COS]


@njit(**PIECE)
def sample_sky(table, first, width, height, a, b):
    """Direction drawn by luminance from one sky's table, with two 32-bit random integers, and its density.

    An integer times the row count holds the row above and the remainder below the binary point,
    so one number serves for the row, for keeping it, and for the place inside it.
    """
    product = uint64(a) * uint64(width * height)
    pixel = np.int64(product >> uint64(32))
    w = to_unit(uint32(product & uint64(0xFFFFFFFF)))
    keep = table[first + pixel, L.K_ACCEPT]
    if w < keep:
        q = w / keep
    else:
        q = (w - keep) / max(ONE - keep, np.float32(1e-9))
        pixel = np.int64(table[first + pixel, L.K_ALIAS])
    q = min(q, np.float32(0.9999999))
    row, column = pixel // width, pixel % width
    z = ONE - TWO * (np.float32(row) + to_unit(b)) / np.float32(height)
    phi = TWO_PI * (np.float32(column) + q) / np.float32(width)
    s = math.sqrt(max(ONE - z * z, ZERO))
    way = Vec(s * math.sin(phi), s * math.cos(phi), z)
    return way, table[first + pixel, L.K_DENSITY]


@njit(**PIECE)
def azimuth(way):
    """Clockwise from north, 0…2π."""
    phi = math.atan2(way.x, way.y)
    return phi + TWO_PI if phi < ZERO else phi


@njit(**PIECE)
def _column(width, way):
    phi = azimuth(way)
    return min(int(phi * _INV_TWO_PI * np.float32(width)), width - 1)


@njit(**PIECE)
def sky_cell(first, width, height, way):
    """Pixel of a latitude–longitude picture that a unit direction meets."""
    row = int(math.acos(min(max(way.z, -ONE), ONE)) * _INV_PI * np.float32(height))
    return first + min(row, height - 1) * width + _column(width, way)


@njit(**PIECE)
def table_of(i, memory):
    """First row of the table in use of a sky (``i``: its source ints)."""
    first = i[L.S_TABLE]
    if memory[L.R_COMPENSATED] == ONE:
        first += i[L.S_TABLE_WIDTH] * i[L.S_TABLE_HEIGHT]
    return first


@njit(**PIECE)
def sky_row(i, compensated, way):
    """Row of the sampling table of a sky (``i``: its source ints) that a unit direction meets."""
    width, height = i[L.S_TABLE_WIDTH], i[L.S_TABLE_HEIGHT]
    first = i[L.S_TABLE] + (width * height if compensated else 0)
    row = min(max(int((ONE - way.z) * HALF * np.float32(height)), 0), height - 1)
    return first + row * width + _column(width, way)


@njit(**PIECE)
def sky_density(S, s, memory, way):
    """Density per steradian with which `sample_sky` draws a direction from source ``s``."""
    i = S.source_ints[s]
    return S.sky_table[sky_row(i, memory[L.R_COMPENSATED] == ONE, way), L.K_DENSITY]


@njit(**PIECE)
def sky_colour(S, s, way):
    """Colour of the pixel of sky source ``s`` that a direction meets."""
    i = S.source_ints[s]
    return rgb(S.sky[sky_cell(i[L.S_FIRST], i[L.S_WIDTH], i[L.S_HEIGHT], way)], 0)


@njit(**PIECE)
def parted(f, mirrored):
    """Factor on a source's light (``f``: its floats) by the share ``mirrored`` of it that a surface mirrors.

    A share below zero is a straight look, which has factors of its own.
    """
    if mirrored < ZERO:
        return ONE
    return f[L.S_EVEN] + (f[L.S_MIRRORED] - f[L.S_EVEN]) * mirrored


@njit(**PIECE)
def sky_parted(S, s, way, mirrored):
    """Colour of sky ``s`` in a direction where a share of its light is mirrored, from its other picture."""
    even = sky_colour(S, s, way)
    f, i = S.source_floats[s], S.source_ints[s]
    if i[L.S_OTHER] == i[L.S_FIRST]:
        return dimmed(even, parted(f, mirrored))
    other = rgb(S.sky[sky_cell(i[L.S_OTHER], i[L.S_OTHER_WIDTH], i[L.S_OTHER_HEIGHT], way)], 0)
    even = dimmed(even, f[L.S_EVEN] * (ONE - mirrored))
    return added(even, dimmed(other, f[L.S_MIRRORED] * mirrored))


@njit(**PIECE)
def sky_smooth(sky, first, width, height, way):
    """Bilinear sky colour, for the sky as the camera sees it."""
    c = azimuth(way) / TWO_PI * np.float32(width) - np.float32(0.5)
    r = math.acos(min(max(way.z, -ONE), ONE)) / PI * np.float32(height) - np.float32(0.5)
    r = min(max(r, ZERO), np.float32(height) - np.float32(1.001))
    ic, ir = int(math.floor(c)), int(r)
    a, b = c - np.float32(ic), r - np.float32(ir)
    c0, c1 = ic % width, (ic + 1) % width
    # No blending over the horizon: the ground below would bleed into the sky.
    if 2 * (ir + 1) == height:
        b = ZERO if way.z >= ZERO else ONE
    low = min(ir + 1, height - 1)
    p00, p01 = first + ir * width + c0, first + ir * width + c1
    p10, p11 = first + low * width + c0, first + low * width + c1
    w00, w01, w10, w11 = (ONE - a) * (ONE - b), a * (ONE - b), (ONE - a) * b, a * b
    return Rgb(
        sky[p00, 0] * w00 + sky[p01, 0] * w01 + sky[p10, 0] * w10 + sky[p11, 0] * w11,
        sky[p00, 1] * w00 + sky[p01, 1] * w01 + sky[p10, 1] * w10 + sky[p11, 1] * w11,
        sky[p00, 2] * w00 + sky[p01, 2] * w01 + sky[p10, 2] * w10 + sky[p11, 2] * w11,
    )
