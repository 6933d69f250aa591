"""Texture lookups: bilinear, repeating, decoded to linear light."""

import math

import numpy as np
from numba import njit

from .. import layout as L
from .numbers import ONE, OUTLINE, PIECE, ZERO

# sRGB primaries to the working space (Bradford from D65), rows.
_R = tuple(np.float32(v) for v in (0.6130974, 0.3395231, 0.0473795))
_G = tuple(np.float32(v) for v in (0.0701937, 0.9163540, 0.0134524))
_B = tuple(np.float32(v) for v in (0.0206156, 0.1095698, 0.8698147))


@njit(**OUTLINE)
def look_up(texels, ints, decode, texture, small, u, v):
    """RGB in 0…1 of a texture at (u, v), v downwards; colour textures in sRGB primaries.

    ``small`` takes the reduced copy, which stays in the processor's cache.
    """
    at = L.T_SMALL if small else L.T_FIRST
    first, width, height = ints[texture, at], ints[texture, at + 1], ints[texture, at + 2]
    table = decode[ints[texture, L.T_SRGB]]
    x = (u - np.float32(math.floor(u))) * np.float32(width) - np.float32(0.5)
    y = (v - np.float32(math.floor(v))) * np.float32(height) - np.float32(0.5)
    if small:
        # Light that has bounced is too blurred to show the steps of the nearest pixel.
        x0 = min(int(x + np.float32(0.5)), width - 1)
        y0 = min(int(y + np.float32(0.5)), height - 1)
        p00 = first + y0 * width + x0
        return table[texels[p00, 0]], table[texels[p00, 1]], table[texels[p00, 2]]
    fx, fy = np.float32(math.floor(x)), np.float32(math.floor(y))
    a, b = x - fx, y - fy
    x0, y0 = int(fx) % width, int(fy) % height
    x1, y1 = (x0 + 1) % width, (y0 + 1) % height
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
    return r, g, bl


@njit(**PIECE)
def to_working(r, g, b):
    """Linear sRGB reflectance to the working space."""
    return (
        _R[0] * r + _R[1] * g + _R[2] * b,
        _G[0] * r + _G[1] * g + _G[2] * b,
        _B[0] * r + _B[1] * g + _B[2] * b,
    )
