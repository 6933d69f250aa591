"""Owen-scrambled Sobol' points, two at a time, padded over dimensions (Burley 2020).

Each pixel scrambles and shuffles a sequence of its own: its passes are spread evenly, and its error says nothing
of its neighbour's. The denoiser expects just that. Error that is spread evenly over neighbours looks calmer in a
noisy picture, but comes out of the denoiser as crackle on plain walls.
"""

from typing import Any, NamedTuple

import numpy as np
from numba import njit, uint32, uint64

from .numbers import PIECE

_SCALE = np.float32(1.0 / 16777216.0)


@njit(**PIECE)
def _reverse(x):
    x = uint32(((x & uint32(0x55555555)) << uint32(1)) | ((x >> uint32(1)) & uint32(0x55555555)))
    x = uint32(((x & uint32(0x33333333)) << uint32(2)) | ((x >> uint32(2)) & uint32(0x33333333)))
    x = uint32(((x & uint32(0x0F0F0F0F)) << uint32(4)) | ((x >> uint32(4)) & uint32(0x0F0F0F0F)))
    x = uint32(((x & uint32(0x00FF00FF)) << uint32(8)) | ((x >> uint32(8)) & uint32(0x00FF00FF)))
    return uint32((x << uint32(16)) | (x >> uint32(16)))


@njit(**PIECE)
def _laine_karras(x, seed):
    """Owen scrambling of reversed bits (Laine & Karras 2011), with the constants and the second use of the seed of
    Vegdahl 2021: with the seed only added, pairs of dimensions of some pixels went together and their means were off
    by some per cent for ever."""
    x = uint32(x ^ (x * uint32(0x3D20ADEA)))
    x = uint32(x + seed)
    x = uint32(x * uint32((seed >> uint32(16)) | uint32(1)))
    x = uint32(x ^ (x * uint32(0x05526C56)))
    return uint32(x ^ (x * uint32(0x53A22864)))


@njit(**PIECE)
def mix(x):
    """A well-mixed 32-bit hash."""
    x = uint32(x ^ (x >> uint32(16)))
    x = uint32(x * uint32(0x7FEB352D))
    x = uint32(x ^ (x >> uint32(15)))
    x = uint32(x * uint32(0x846CA68B))
    return uint32(x ^ (x >> uint32(16)))


@njit(**PIECE)
def _second_dimension_reversed(x):
    """Bit-reversed second Sobol' dimension of an index: Pascal's triangle modulo two."""
    x = uint32(x ^ ((x & uint32(0xAAAAAAAA)) >> uint32(1)))
    x = uint32(x ^ ((x & uint32(0xCCCCCCCC)) >> uint32(2)))
    x = uint32(x ^ ((x & uint32(0xF0F0F0F0)) >> uint32(4)))
    x = uint32(x ^ ((x & uint32(0xFF00FF00)) >> uint32(8)))
    return uint32(x ^ (x >> uint32(16)))


@njit(**PIECE)
def pixel_seed(seed, row, column):
    """Seed of a pixel's own sequence in the picture of ``seed``."""
    return uint64(mix(uint32(mix(uint32(mix(uint32(seed)) + uint32(row))) + uint32(column))))


@njit(**PIECE)
def bits2(seed, index, dimension):
    """Point ``index`` of the sequence of a 32-bit ``seed`` in a pair of dimensions, as 32-bit integers."""
    s = mix(uint32(uint32(seed) + uint32(dimension) * uint32(0x9E3779B9)))
    # Scrambling works on reversed bits, and so does each dimension; what cancels is left out.
    i = _reverse(_laine_karras(_reverse(uint32(index)), s))
    x = _laine_karras(i, uint32(s * uint32(0xA511E9B3)))
    y = _laine_karras(_second_dimension_reversed(i), uint32(s * uint32(0x63D83595)))
    return _reverse(x), _reverse(y)


@njit(**PIECE)
def to_unit(bits):
    """A 32-bit integer as a float32 in [0, 1)."""
    return np.float32(bits >> uint32(8)) * _SCALE


@njit(**PIECE)
def point2(seed, index, dimension):
    """Point ``index`` of the pixel sequence ``seed`` in a pair of dimensions, in [0, 1)²."""
    x, y = bits2(seed, index, dimension)
    return to_unit(x), to_unit(y)


class Draw(NamedTuple):
    """Where a path takes its random numbers: the sequence of its pixel, and its place in that."""

    seed: Any
    index: Any


@njit(**PIECE)
def drawn(draw, dimension):
    """Two numbers of a path in a pair of dimensions, in [0, 1)²."""
    return point2(draw.seed, draw.index, dimension)
