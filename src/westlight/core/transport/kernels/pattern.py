"""Where the sun falls: first surfaces of a picture tested against many directions."""

import numpy as np
from numba import njit, uint64

from .. import layout as L
from .address import by_address
from .numbers import ENTRY, INFINITE, NO, ZERO, dot, total, vec
from .portals import admitted, gated, still_outside
from .rays import Rays, offset, visibility


@njit(**ENTRY)
def sun_on_surfaces(S, first, eye, directions, lit, d0, d1, ray, counts):
    """Fill ``lit`` (directions, pixels) for directions d0…d1: cosine times what panes and openings let through.

    ``first`` (pixels, FIRST_COLUMNS) as kept by the tracer from ``eye`` (3); unlit, averted and empty pixels get 0, and
    where light comes only through openings those that it reaches by no opening.
    """
    scene = by_address(S)
    rays = by_address(Rays(scene, ray, ray.view(np.uint32), uint64(ray.ctypes.data), counts))
    by_openings, seen_from = gated(S), vec(eye, 0)
    for d in range(d0, d1):
        way = vec(directions[d], 0)
        for p in range(first.shape[0]):
            f = first[p]
            lit[d, p] = ZERO
            if f[L.F_THERE] == ZERO:
                continue
            at, face = vec(f, L.F_POSITION), vec(f, L.F_FACE)
            cosine = dot(vec(f, L.F_NORMAL), way)
            if cosine <= ZERO or dot(face, way) <= ZERO:
                continue
            start = offset(at, face, way)
            k = cosine * total(visibility(rays, start, way, INFINITE)) / np.float32(3.0)
            if by_openings and k > ZERO:
                outside = still_outside(scene, seen_from, at, NO)
                k *= admitted(scene, start, way, outside)
            lit[d, p] = k
