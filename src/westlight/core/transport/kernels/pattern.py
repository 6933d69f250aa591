"""Where the sun falls: first surfaces of a picture tested against many directions."""

import numpy as np
from numba import njit, uint64

from .. import layout as L
from .numbers import ENTRY, INFINITE, NO, ZERO, dot
from .portals import admitted, still_outside
from .rays import offset, visibility


@njit(**ENTRY)
def sun_on_surfaces(S, first, eye, directions, lit, d0, d1, ray, counts):
    """Fill ``lit`` (directions, pixels) for directions d0…d1: cosine times what panes and openings let through.

    ``first`` (pixels, FIRST_COLUMNS) as kept by the tracer from ``eye`` (3); unlit, averted and empty pixels get 0, and
    where light comes only through openings those that it reaches by no opening.
    """
    gated = (
        S.portal_floats.shape[0] > 0
        and (S.portal_state[L.G_CLOSED] | S.portal_state[L.G_GAINED]) != 0
    )
    words = ray.view(np.uint32)
    address = uint64(ray.ctypes.data)
    for d in range(d0, d1):
        dx, dy, dz = directions[d, 0], directions[d, 1], directions[d, 2]
        for p in range(first.shape[0]):
            f = first[p]
            lit[d, p] = ZERO
            if f[L.F_THERE] == ZERO:
                continue
            cosine = dot(f[6], f[7], f[8], dx, dy, dz)
            if cosine <= ZERO or dot(f[3], f[4], f[5], dx, dy, dz) <= ZERO:
                continue
            x, y, z = offset(f[0], f[1], f[2], f[3], f[4], f[5], dx, dy, dz)
            r, g, b = visibility(S, ray, words, address, x, y, z, dx, dy, dz, INFINITE, counts)
            k = cosine * (r + g + b) / np.float32(3.0)
            if gated and k > ZERO:
                outside = still_outside(S, eye[0], eye[1], eye[2], f[0], f[1], f[2], NO)
                k *= admitted(S, x, y, z, dx, dy, dz, outside)
            lit[d, p] = k
