"""Places where light bounces: surfaces met by paths from the camera that scatter evenly."""

import math

import numpy as np
from numba import njit, uint32, uint64

from .. import layout as L
from ..embree import MASK_CAMERA, MASK_PANE, MASK_SOLID, intersect1
from .camera import camera_ray
from .numbers import ENTRY, HALF, INFINITE, ONE, TWO_PI, ZERO, dot, frame
from .points import mix, point2
from .rays import MAX_PANES, NO_HIT, face_of_hit, offset, set_ray

_CAMERA = np.uint32(MASK_SOLID | MASK_PANE | MASK_CAMERA)
_BOUNCED = np.uint32(MASK_SOLID | MASK_PANE)


@njit(**ENTRY)
def find_places(S, camera, seed, width, height, first, vertices, places, ray):
    """Fill ``places`` (paths, ``vertices``, FIRST_COLUMNS) with white matte surfaces to read light at.

    Path ``first`` + k starts at a place in the picture that the Sobol' sequence of ``seed`` says.
    Panes are passed straight. Places that were not met have 0 in F_THERE.
    """
    words = ray.view(np.uint32)
    address = uint64(ray.ctypes.data)
    pixel = mix(uint32(seed))
    for k in range(places.shape[0]):
        index = uint32(first + k)
        a, b = point2(pixel, index, 7)
        ox, oy, oz, dx, dy, dz = camera_ray(
            camera, pixel, index, min(int(b * height), height - 1), min(int(a * width), width - 1)
        )
        mask = _CAMERA
        for n in range(vertices):
            places[k, n, L.F_THERE] = ZERO
        vertex = panes = 0
        while vertex < vertices and panes < MAX_PANES:
            set_ray(ray, words, ox, oy, oz, dx, dy, dz, INFINITE, mask)
            intersect1(S.scene, address, uint64(0))
            if words[18] == NO_HIT or words[19] == NO_HIT:
                break
            material, gx, gy, gz, cosine = face_of_hit(S, words, ray)
            x, y, z = ox + dx * ray[8], oy + dy * ray[8], oz + dz * ray[8]
            if cosine > ZERO:
                gx, gy, gz = -gx, -gy, -gz
            kind = S.material_ints[material, L.M_KIND]
            u, v = point2(pixel, index, 40 + panes + vertex)
            passed = kind != L.KIND_SURFACE
            if kind == L.KIND_WOVEN:
                passed = u < S.material_floats[material, L.M_OPEN]
            if passed:
                panes += 1
                ox, oy, oz = offset(x, y, z, gx, gy, gz, dx, dy, dz)
                continue
            # Paths that a translucent sheet scatters through go on from its far side.
            if S.material_floats[material, L.M_TRANSLUCENT] > ZERO and v < HALF:
                gx, gy, gz = -gx, -gy, -gz
            out = places[k, vertex]
            out[0], out[1], out[2] = x, y, z
            for i in (3, 6, 9):
                out[i], out[i + 1], out[i + 2] = gx, gy, gz
            out[12] = out[13] = out[14] = out[15] = ONE
            out[16] = ZERO
            out[17] = out[18] = out[19] = out[L.F_THERE] = ONE
            u, v = point2(pixel, index, 8 + vertex)
            radius, phi = math.sqrt(u), TWO_PI * v
            ax, ay = radius * math.cos(phi), radius * math.sin(phi)
            az = math.sqrt(max(ONE - u, np.float32(1e-6)))
            tx, ty, tz, bx, by, bz = frame(gx, gy, gz)
            dx = tx * ax + bx * ay + gx * az
            dy = ty * ax + by * ay + gy * az
            dz = tz * ax + bz * ay + gz * az
            if dot(dx, dy, dz, gx, gy, gz) <= ZERO:
                break
            ox, oy, oz = offset(x, y, z, gx, gy, gz, dx, dy, dz)
            mask = _BOUNCED
            vertex += 1
