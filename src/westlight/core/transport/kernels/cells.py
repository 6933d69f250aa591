"""The light cache in kernels: cells of surface in a hash table, and what they know of each source.

Irradiance is averaged over small cells of space that face one way (path space filtering, after
Binder et al. 2018). Cells come in levels, each twice as wide; the finest one used grows with the
distance from the eye. A place looks for the finest cell that has seen enough light.
"""

import math

import numpy as np
from numba import njit, uint64

from .. import layout as L
from .numbers import (
    ENTRY,
    FOUR,
    HALF,
    ONE,
    OUTLINE,
    PIECE,
    ZERO,
    along,
    dot,
    frame,
    minus,
    vec,
)
from .points import drawn

_PROBES = 16
#: How many times thinner than wide a cell is along an axis that its surface faces.
_THIN = np.float32(4.0)
#: Readings a cell needs before it is believed, from its finest level to its widest.
_ENOUGH_FINE, _ENOUGH, _ENOUGH_WIDE = np.float32(12.0), np.float32(6.0), np.float32(3.0)


@njit(**PIECE)
def level_at(eye, at):
    """Finest level of cells at a point: 0 close to the eye, one more each time the way doubles."""
    way = minus(at, vec(eye, L.Q_PLACE))
    d = math.sqrt(dot(way, way)) * eye[L.Q_PER_DISTANCE]
    level = 0
    while d > ONE and level < L.CACHE_LEVELS - 1:
        d *= HALF
        level += 1
    return level


@njit(**PIECE)
def _step(n):
    """−1, 0 or 1 for a component of a normal."""
    return np.int64(math.floor(n * np.float32(1.499) + HALF))


@njit(**PIECE)
def _key(at, normal, level, width):
    """Key of the cell around a point: place, level and which of 26 ways it faces. Never 0."""
    k = ONE / (width * np.float32(1 << level))
    a, b, c = _step(normal.x), _step(normal.y), _step(normal.z)
    # Thin along an axis that it faces: boards and the ceiling above them are not one surface.
    x = at.x * (_THIN if b == 0 and c == 0 else ONE)
    y = at.y * (_THIN if a == 0 and c == 0 else ONE)
    z = at.z * (_THIN if a == 0 and b == 0 else ONE)
    i = np.int64(math.floor(x * k)) & 0xFFFFF
    j = np.int64(math.floor(y * k)) & 0xFFFFF
    h = np.int64(math.floor(z * k)) & 0xFFFF
    way = (a + 1) * 9 + (b + 1) * 3 + c + 2
    return uint64((i << 44) | (j << 24) | (h << 8) | (way << 3) | level)


@njit(**PIECE)
def _hash(key):
    x = uint64(key * uint64(0x9E3779B97F4A7C15))
    x = uint64(x ^ (x >> uint64(29)))
    x = uint64(x * uint64(0xBF58476D1CE4E5B9))
    return uint64(x ^ (x >> uint64(32)))


@njit(**PIECE)
def _find(keys, rows, key):
    """Row of a cell, −1 if it is not known."""
    mask = uint64(keys.shape[0] - 1)
    at = _hash(key) & mask
    for _ in range(_PROBES):
        if keys[at] == key:
            return np.int64(rows[at])
        if keys[at] == uint64(0):
            return np.int64(-1)
        at = (at + uint64(1)) & mask
    return np.int64(-1)


@njit(**PIECE)
def _known(light, columns, row, enough):
    """Whether a cell has readings enough of every source that is being traced."""
    known = True
    for s in range(columns.shape[0]):
        known = known and light[columns[s], row, 3] >= enough
    return known


@njit(**OUTLINE)
def cached_row(Q, draw, dimension, at, normal, walked):
    """Row of the cell to read at a point, −1 where the path must go on by itself.

    The point is moved about within a cell's width along the surface, so that cells show no edges.
    A path that has ``walked`` less than two cells is too close to see only an average.
    """
    level = level_at(Q.eye, at)
    width = Q.eye[L.Q_WIDTH]
    u, v = drawn(draw, dimension)
    axes = frame(normal)
    for extra in range(3):
        wider = level + extra
        if wider >= L.CACHE_LEVELS:
            break
        w = width * np.float32(1 << wider)
        if walked < FOUR * w:
            return np.int64(-1)
        place = along(along(at, axes.t, (u - HALF) * w), axes.b, (v - HALF) * w)
        row = _find(Q.keys, Q.rows, _key(place, normal, wider, width))
        enough = _ENOUGH_FINE if extra == 0 else (_ENOUGH if extra == 1 else _ENOUGH_WIDE)
        if row >= 0 and _known(Q.light, Q.columns, row, enough):
            return row
    return np.int64(-1)


@njit(**ENTRY)
def take_readings(keys, rows, used, light, columns, eye, points, out, most):
    """Add readings of irradiance to the cells of their points, new cells where there are none.

    ``points`` (1, P, FIRST_COLUMNS) are places, ``out`` (1, P, slots, OUT_CHANNELS) what was traced
    there; ``used`` (1,) counts the rows in use. ``most`` readings weigh alike, later ones replace
    old ones slowly, so that what a young cache got wrong is forgotten. Returns the new cells.
    """
    mask = uint64(keys.shape[0] - 1)
    capacity = light.shape[1]
    begun = used[0]
    for p in range(points.shape[1]):
        f = points[0, p]
        if f[L.F_THERE] == ZERO:
            continue
        place, face = vec(f, L.F_POSITION), vec(f, L.F_FACE)
        level = level_at(eye, place)
        for at_level in range(level, min(level + 3, L.CACHE_LEVELS)):
            key = _key(place, face, at_level, eye[L.Q_WIDTH])
            at = _hash(key) & mask
            row = np.int64(-1)
            for _ in range(_PROBES):
                if keys[at] == key:
                    row = np.int64(rows[at])
                    break
                if keys[at] == uint64(0):
                    if used[0] < capacity:
                        keys[at], rows[at] = key, used[0]
                        row = np.int64(used[0])
                        used[0] += 1
                    break
                at = (at + uint64(1)) & mask
            if row < 0:
                continue
            for s in range(columns.shape[0]):
                r, g, b = out[0, p, s, 0], out[0, p, s, 1], out[0, p, s, 2]
                total = r + g + b
                if not total < np.float32(1e30):
                    continue
                c = light[columns[s], row]
                if c[3] >= most:
                    k = (most - ONE) / c[3]
                    c[0], c[1], c[2], c[3] = c[0] * k, c[1] * k, c[2] * k, most - ONE
                c[0] += r
                c[1] += g
                c[2] += b
                c[3] += ONE
    return used[0] - begun
