"""First surfaces: of every pixel, for pictures under a moving hand, and along a single ray."""

import numpy as np
from numba import njit, uint32, uint64

from .. import layout as L
from ..embree import MASK_CAMERA, MASK_PANE, MASK_SOLID
from .address import by_address
from .camera import camera_ray
from .hit import lifted
from .layers import side_taken, weave_taken
from .look import Look, surface_at, through_at
from .numbers import (
    ENTRY,
    INFINITE,
    ONE,
    PIECE,
    WHITE,
    YES,
    ZERO,
    along,
    dimmed,
    mirror,
    opposite,
    put,
    times,
    vec,
)
from .points import Draw, drawn, pixel_seed
from .rays import MAX_PANES, Rays, hit_of, kept_by_pane, met_no_surface, offset, send

_CAMERA = np.uint32(MASK_SOLID | MASK_PANE | MASK_CAMERA)
_SOLID = np.uint32(MASK_SOLID)


@njit(**PIECE)
def _keep(S, hit, at, way, weight, draw, out):
    """Write a surface that was met into a row of first surfaces."""
    f = S.material_floats[hit.material]
    depth = np.int64(0)
    viewer, face = opposite(way), hit.face
    look = surface_at(S, hit, YES, viewer)
    beyond = False
    if f[L.M_TRANSLUCENT] > ZERO:
        through = through_at(S, hit, YES)
        beyond, k = side_taken(S, draw, depth, look, through, viewer)
        weight = dimmed(weight, k)
        if beyond:
            look = Look(opposite(look.normal), through, ONE, ZERO)
            viewer, face = mirror(viewer, face), opposite(face)
    put(out, L.F_POSITION, at if beyond else lifted(S, hit, at))
    put(out, L.F_FACE, face)
    put(out, L.F_NORMAL, look.normal)
    put(out, L.F_VIEWER, viewer)
    put(out, L.F_RED, look.colour)
    out[L.F_ROUGHNESS], out[L.F_METALLIC] = look.roughness, look.metallic
    put(out, L.F_KEPT, weight)
    out[L.F_THERE] = ONE


@njit(**ENTRY)
def keep_first(S, camera, seed, width, row0, row1, kept, ray, counts):
    """Fill ``kept`` (rows, columns, FIRST_COLUMNS) with the first surface of pass 0 of each pixel.

    Panes are passed straight, what they mirror is left out: this serves pictures under a moving
    hand.
    """
    scene = by_address(S)
    rays = by_address(Rays(scene, ray, ray.view(np.uint32), uint64(ray.ctypes.data), counts))
    for row in range(row0, row1):
        for column in range(width):
            draw = Draw(pixel_seed(seed, row, column), uint32(0))
            start, way = camera_ray(camera, draw.seed, draw.index, row, column)
            out = kept[row, column]
            out[L.F_THERE] = ZERO
            weight = WHITE
            for n in range(MAX_PANES):
                send(rays, start, way, INFINITE, _CAMERA)
                if met_no_surface(rays.words):
                    break
                hit = hit_of(rays)
                f = scene.material_floats[hit.material]
                kind = scene.material_ints[hit.material, L.M_KIND]
                at = along(start, way, ray[L.X_FAR])
                passed = kind != L.KIND_SURFACE
                if kind == L.KIND_WOVEN:
                    u, _ = drawn(draw, 0x40000000 + n)
                    passed, k = weave_taken(f, u)
                    weight = dimmed(weight, k)
                elif passed:
                    weight = times(weight, kept_by_pane(f, kind, hit.cosine))
                if passed:
                    start = offset(at, hit.face, way)
                    continue
                _keep(scene, hit, at, way, weight, draw, out)
                break


@njit(**PIECE)
def _first_surface(rays, start, way, hit):
    """Write the closest solid surface along a ray into ``hit`` (9,); returns whether one is met."""
    send(rays, start, way, INFINITE, _SOLID)
    if met_no_surface(rays.words):
        return False
    far = rays.record[L.X_FAR]
    met = hit_of(rays)
    put(hit, 0, along(start, way, far))
    put(hit, 3, met.face)
    hit[6], hit[7], hit[8] = far, np.float32(met.copy), np.float32(met.triangle)
    return True


@njit(**ENTRY)
def first_surface(S, origin, direction, ray, hit, counts):
    """Closest solid surface along a ray (3,), (3,): position, face normal towards the viewer, distance.

    ``hit`` (9,) gets x, y, z, nx, ny, nz, distance, instance, triangle; returns whether one is met.
    """
    scene = by_address(S)
    rays = by_address(Rays(scene, ray, ray.view(np.uint32), uint64(ray.ctypes.data), counts))
    return _first_surface(rays, vec(origin, 0), vec(direction, 0), hit)


@njit(**ENTRY)
def many_surfaces(S, origins, directions, row0, row1, ray, hits, counts):
    """`first_surface` of rows of rays (n, 3); ``hits`` (n, 9) gets an infinite distance where nothing is met."""
    scene = by_address(S)
    rays = by_address(Rays(scene, ray, ray.view(np.uint32), uint64(ray.ctypes.data), counts))
    for i in range(row0, row1):
        hits[i, 6] = INFINITE
        _first_surface(rays, vec(origins[i], 0), vec(directions[i], 0), hits[i])
