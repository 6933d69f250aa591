"""Texture lookups: bilinear, going on beyond their edges, decoded to linear light."""

import math

import numpy as np
from numba import njit

from .. import layout as L
from .numbers import HALF, ONE, OUTLINE, PIECE, TWO, ZERO, Rgb

# sRGB primaries to the working space (Bradford from D65), rows.
_R = tuple(np.float32(v) for v in (0.6130974, 0.3395231, 0.0473795))
_G = tuple(np.float32(v) for v in (0.0701937, 0.9163540, 0.0134524))
_B = tuple(np.float32(v) for v in (0.0206156, 0.1095698, 0.8698147))


@njit(**PIECE)
def led_in(t, wrap):
    """A coordinate led into 0…1, as the texture goes on beyond its edge."""
    if wrap == L.WRAP_CLAMP:
        return min(max(t, ZERO), ONE)
    if wrap == L.WRAP_MIRROR:
        t -= TWO * np.float32(math.floor(t * HALF))
        return min(t, TWO - t)
    return t - np.float32(math.floor(t))


@njit(**PIECE)
def beside(i, count, wrap):
    """Row or column of a pixel that may lie one beyond the edge."""
    if wrap == L.WRAP_REPEAT:
        return i % count
    return min(max(i, 0), count - 1)


@njit(**OUTLINE)
def look_up(texels, ints, decode, texture, small, u, v):
    """RGB in 0…1 of a texture at (u, v), v downwards; colour textures in sRGB primaries.

    ``small`` takes the reduced copy, which stays in the processor's cache.
    """
    at = L.T_SMALL if small else L.T_FIRST
    first, width, height = ints[texture, at], ints[texture, at + 1], ints[texture, at + 2]
    table = decode[ints[texture, L.T_SRGB]]
    across, down = ints[texture, L.T_ACROSS], ints[texture, L.T_DOWN]
    x = led_in(u, across) * np.float32(width) - HALF
    y = led_in(v, down) * np.float32(height) - HALF
    if small:
        # Light that has bounced is too blurred to show the steps of the nearest pixel.
        x0 = min(int(x + HALF), width - 1)
        y0 = min(int(y + HALF), height - 1)
        p00 = first + y0 * width + x0
        return Rgb(table[texels[p00, 0]], table[texels[p00, 1]], table[texels[p00, 2]])
    fx, fy = np.float32(math.floor(x)), np.float32(math.floor(y))
    a, b = x - fx, y - fy
    x0, y0 = beside(int(fx), width, across), beside(int(fy), height, down)
    x1, y1 = beside(int(fx) + 1, width, across), beside(int(fy) + 1, height, down)
    p00, p01 = first + y0 * width + x0, first + y0 * width + x1
    p10, p11 = first + y1 * width + x0, first + y1 * width + x1
    w00, w01, w10, w11 = (ONE - a) * (ONE - b), a * (ONE - b), (ONE - a) * b, a * b
    r = g = bl = ZERO
    r = table[texels[p00, 0]] * w00 + table[texels[p01, 0]] * w01
    r += table[texels[p10, 0]] * w10 + table[texels[p11, 0]] * w11
    g = table[texels[p00, 1]] * w00 + table[texels[p01, 1]] * w01
    g += table[texels[p10, 1]] * w10 + table[texels[p11, 1]] * w11
    bl = table[texels[p00, 2]] * w00 + table[texels[p01, 2]] * w01
    bl += table[texels[p10, 2]] * w10 + table[texels[p11, 2]] * w11
    return Rgb(r, g, bl)


@njit(**PIECE)
def to_working(c):
    """Linear sRGB reflectance to the working space."""
    return Rgb(
        _R[0] * c.r + _R[1] * c.g + _R[2] * c.b,
        _G[0] * c.r + _G[1] * c.g + _G[2] * c.b,
        _B[0] * c.r + _B[1] * c.g + _B[2] * c.b,
    )
