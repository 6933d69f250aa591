"""Directions from one point to emitters, as light is sampled: for whoever looks for lamps in a picture."""

from numba import njit, uint32, uint64

from .. import layout as L
from .emitters import sample_shape
from .numbers import ENTRY, put, vec
from .points import mix, point2

#: Columns of what is aimed: the direction, the distance, the density per steradian (0 for a dark side).
AIM_FAR, AIM_DENSITY, AIM_COLUMNS = 3, 4, 5


@njit(**ENTRY)
def aim_at_emitters(floats, ints, rows, numbers, eye, aims):
    """Fill ``aims`` (n, AIM_COLUMNS) with directions from ``eye`` (3,) to emitters of ``rows`` (n,), each at place
    ``numbers`` (n,) of the sequence of its emitter."""
    at = vec(eye, 0)
    for i in range(rows.shape[0]):
        row = rows[i]
        u, v = point2(uint64(mix(uint32(row))), uint32(numbers[i]), 0)
        aim = sample_shape(floats[row], ints[row, L.E_KIND], ints[row, L.E_SIDES], at, u, v)
        put(aims[i], 0, aim.way)
        aims[i, AIM_FAR], aims[i, AIM_DENSITY] = aim.far, aim.density
