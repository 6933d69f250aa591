"""Places where light bounces: surfaces met by paths from the camera that scatter evenly."""

import numpy as np
from numba import njit, uint32, uint64

from .. import layout as L
from ..embree import MASK_CAMERA, MASK_PANE, MASK_SOLID
from .address import by_address
from .camera import camera_ray
from .numbers import (
    ENTRY,
    HALF,
    INFINITE,
    ONE,
    PIECE,
    WHITE,
    ZERO,
    along,
    dot,
    frame,
    from_frame,
    opposite,
    put,
)
from .points import Draw, drawn, mix
from .rays import MAX_PANES, Rays, hit_of, met_no_surface, offset, send
from .surface import even_direction

_CAMERA = np.uint32(MASK_SOLID | MASK_PANE | MASK_CAMERA)
_BOUNCED = np.uint32(MASK_SOLID | MASK_PANE)


@njit(**PIECE)
def _keep(out, at, face):
    """Write a white matte surface into a row of first surfaces."""
    put(out, L.F_POSITION, at)
    put(out, L.F_FACE, face)
    put(out, L.F_NORMAL, face)
    put(out, L.F_VIEWER, face)
    put(out, L.F_RED, WHITE)
    put(out, L.F_KEPT, WHITE)
    out[L.F_ROUGHNESS], out[L.F_METALLIC], out[L.F_THERE] = ONE, ZERO, ONE


@njit(**ENTRY)
def find_places(S, camera, seed, width, height, first, vertices, places, ray, counts):
    """Fill ``places`` (paths, ``vertices``, FIRST_COLUMNS) with white matte surfaces to read light at.

    Path ``first`` + k starts at a place in the picture that the Sobol' sequence of ``seed`` says.
    Panes are passed straight. Places that were not met have 0 in F_THERE.
    """
    scene = by_address(S)
    rays = by_address(Rays(scene, ray, ray.view(np.uint32), uint64(ray.ctypes.data), counts))
    pixel = mix(uint32(seed))
    for k in range(places.shape[0]):
        draw = Draw(pixel, uint32(first + k))
        a, b = drawn(draw, 7)
        row, column = min(int(b * height), height - 1), min(int(a * width), width - 1)
        start, way = camera_ray(camera, pixel, draw.index, row, column)
        mask = _CAMERA
        for n in range(vertices):
            places[k, n, L.F_THERE] = ZERO
        vertex = panes = 0
        while vertex < vertices and panes < MAX_PANES:
            send(rays, start, way, INFINITE, mask)
            if met_no_surface(rays.words):
                break
            hit = hit_of(rays)
            face = hit.face
            at = along(start, way, ray[L.X_FAR])
            kind = scene.material_ints[hit.material, L.M_KIND]
            u, v = drawn(draw, 40 + panes + vertex)
            passed = kind != L.KIND_SURFACE
            if kind == L.KIND_WOVEN:
                passed = u < scene.material_floats[hit.material, L.M_OPEN]
            if passed:
                panes += 1
                start = offset(at, face, way)
                continue
            # Paths that a translucent sheet scatters through go on from its far side.
            if scene.material_floats[hit.material, L.M_TRANSLUCENT] > ZERO and v < HALF:
                face = opposite(face)
            _keep(places[k, vertex], at, face)
            u, v = drawn(draw, 8 + vertex)
            way = from_frame(frame(face), even_direction(u, v))
            if dot(way, face) <= ZERO:
                break
            start = offset(at, face, way)
            mask = _BOUNCED
            vertex += 1
