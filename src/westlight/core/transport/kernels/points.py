"""Owen-scrambled Sobol' points, two at a time, padded over dimensions (Burley 2020).

Pixels share the scrambled sequence and each shifts it by a point of its own: pixels along a Z curve
(Ahmed & Wonka 2020) take the points of another such sequence one after another. So the passes of a
pixel are spread evenly, and so is one pass over any square block of pixels: what noise is left is fine
grained, and its mean over a block is calm.
"""

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
    x = uint32(x + seed)
    x = uint32(x ^ (x * uint32(0x6C50B47C)))
    x = uint32(x ^ (x * uint32(0xB82F1E52)))
    x = uint32(x ^ (x * uint32(0xC7AFE638)))
    return uint32(x ^ (x * uint32(0x8D22F6E6)))


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
def _spread(x):
    """The lower 16 bits with a gap after each."""
    x = uint32((x | (x << uint32(8))) & uint32(0x00FF00FF))
    x = uint32((x | (x << uint32(4))) & uint32(0x0F0F0F0F))
    x = uint32((x | (x << uint32(2))) & uint32(0x33333333))
    return uint32((x | (x << uint32(1))) & uint32(0x55555555))


@njit(**PIECE)
def pixel_seed(seed, row, column):
    """Seed of a pixel's sequence: the picture's in the lower half, its place along the Z curve, with its
    bits reversed, in the upper."""
    place = uint32(_spread(uint32(column)) | (_spread(uint32(row)) << uint32(1)))
    return uint64((uint64(_reverse(place)) << uint64(32)) | uint64(mix(uint32(seed))))


@njit(**PIECE)
def bits2(seed, index, dimension):
    """Point ``index`` of a sequence in a pair of dimensions, as 32-bit integers.

    ``seed`` is a plain 32-bit one or a `pixel_seed`.
    """
    s = mix(uint32(uint32(seed) + uint32(dimension) * uint32(0x9E3779B9)))
    # Scrambling works on reversed bits, and so does each dimension; what cancels is left out.
    i = _reverse(_laine_karras(_reverse(uint32(index)), s))
    j = _reverse(_laine_karras(uint32(uint64(seed) >> uint64(32)), uint32(s * uint32(0x9D7F3B2B))))
    x = _laine_karras(i, uint32(s * uint32(0xA511E9B3)))
    y = _laine_karras(_second_dimension_reversed(i), uint32(s * uint32(0x63D83595)))
    # Shifting one sequence by a point of another (both scrambled) keeps the strata of either.
    x = uint32(x ^ _laine_karras(j, uint32(s * uint32(0x3C6EF372))))
    y = uint32(y ^ _laine_karras(_second_dimension_reversed(j), uint32(s * uint32(0xDAA66D2B))))
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
