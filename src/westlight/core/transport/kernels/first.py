"""First surfaces: of every pixel, for pictures under a moving hand, and along a single ray."""

import numpy as np
from numba import njit, uint32, uint64

from .. import layout as L
from ..embree import MASK_CAMERA, MASK_PANE, MASK_SOLID, intersect1
from .camera import camera_ray
from .hit import lifted
from .layers import side_taken, turned_over, weave_taken
from .look import surface_at, through_at
from .numbers import ENTRY, INFINITE, ONE, ZERO, dot
from .points import pixel_seed, point2
from .rays import MAX_PANES, NO_HIT, face_of_hit, instance_of, offset, set_ray, triangle_of
from .surface import pane_reflectance

_CAMERA = np.uint32(MASK_SOLID | MASK_PANE | MASK_CAMERA)


@njit(**ENTRY)
def keep_first(S, camera, seed, width, row0, row1, kept, ray):
    """Fill ``kept`` (rows, columns, FIRST_COLUMNS) with the first surface of pass 0 of each pixel.

    Panes are passed straight, what they mirror is left out: this serves pictures under a moving
    hand.
    """
    words = ray.view(np.uint32)
    address = uint64(ray.ctypes.data)
    depth = np.int64(0)
    for row in range(row0, row1):
        for column in range(width):
            pixel = pixel_seed(seed, row, column)
            ox, oy, oz, dx, dy, dz = camera_ray(camera, pixel, uint32(0), row, column)
            out = kept[row, column]
            out[L.F_THERE] = ZERO
            tr = tg = tb = ONE
            for n in range(MAX_PANES):
                set_ray(ray, words, ox, oy, oz, dx, dy, dz, INFINITE, _CAMERA)
                intersect1(S.scene, address, uint64(0))
                if words[18] == NO_HIT or words[19] == NO_HIT:
                    break
                inst = instance_of(S, words)
                t = triangle_of(S, words)
                material, gx, gy, gz, cosine = face_of_hit(S, words, ray)
                f = S.material_floats[material]
                kind = S.material_ints[material, L.M_KIND]
                x, y, z = ox + dx * ray[8], oy + dy * ray[8], oz + dz * ray[8]
                if cosine > ZERO:
                    gx, gy, gz = -gx, -gy, -gz
                if kind == L.KIND_WOVEN:
                    u, _ = point2(pixel, uint32(0), 0x40000000 + n)
                    between, k = weave_taken(f, u)
                    tr, tg, tb = tr * k, tg * k, tb * k
                    if between:
                        ox, oy, oz = offset(x, y, z, gx, gy, gz, dx, dy, dz)
                        continue
                elif kind != L.KIND_SURFACE:
                    mirror = pane_reflectance(abs(cosine), f[L.M_IOR], kind == L.KIND_SHEET)
                    keep = f[L.M_TRANSMISSION] * (ONE - mirror)
                    tr, tg, tb = tr * keep * f[0], tg * keep * f[1], tb * keep * f[2]
                    ox, oy, oz = offset(x, y, z, gx, gy, gz, dx, dy, dz)
                    continue
                nx, ny, nz, r, g, b, roughness, metallic = surface_at(
                    S, t, inst, material, ray[15], ray[16], depth, gx, gy, gz, -dx, -dy, -dz
                )
                vx, vy, vz = -dx, -dy, -dz
                beyond = False
                if f[L.M_TRANSLUCENT] > ZERO:
                    qr, qg, qb = through_at(S, t, material, ray[15], ray[16], depth)
                    beyond, k = side_taken(
                        S, f, pixel, uint32(0), depth, r, g, b, qr, qg, qb, roughness, metallic,
                        max(dot(vx, vy, vz, nx, ny, nz), ZERO),
                    )  # fmt: skip
                    tr, tg, tb = tr * k, tg * k, tb * k
                if beyond:
                    r, g, b, roughness, metallic = qr, qg, qb, ONE, ZERO
                    vx, vy, vz = turned_over(vx, vy, vz, gx, gy, gz)
                    gx, gy, gz, nx, ny, nz = -gx, -gy, -gz, -nx, -ny, -nz
                    out[0], out[1], out[2] = x, y, z
                else:
                    out[0], out[1], out[2] = lifted(
                        S, t, inst, ray[15], ray[16], x, y, z, gx, gy, gz
                    )
                out[3], out[4], out[5], out[6], out[7], out[8] = gx, gy, gz, nx, ny, nz
                out[9], out[10], out[11] = vx, vy, vz
                out[12], out[13], out[14], out[15], out[16] = r, g, b, roughness, metallic
                out[17], out[18], out[19], out[L.F_THERE] = tr, tg, tb, ONE
                break


@njit(**ENTRY)
def first_surface(S, ox, oy, oz, dx, dy, dz, ray, hit):
    """Closest solid surface along a ray: position, face normal towards the viewer, distance.

    ``hit`` (9,) gets x, y, z, nx, ny, nz, distance, instance, triangle; returns whether one is met.
    """
    words = ray.view(np.uint32)
    address = uint64(ray.ctypes.data)
    set_ray(ray, words, ox, oy, oz, dx, dy, dz, INFINITE, np.uint32(MASK_SOLID))
    intersect1(S.scene, address, uint64(0))
    if words[18] == NO_HIT or words[19] == NO_HIT:
        return False
    _, nx, ny, nz, cosine = face_of_hit(S, words, ray)
    if cosine > ZERO:
        nx, ny, nz = -nx, -ny, -nz
    t = ray[8]
    hit[0], hit[1], hit[2] = ox + dx * t, oy + dy * t, oz + dz * t
    hit[3], hit[4], hit[5], hit[6] = nx, ny, nz, t
    hit[7] = np.float32(instance_of(S, words))
    hit[8] = np.float32(triangle_of(S, words))
    return True


@njit(**ENTRY)
def many_surfaces(S, origins, directions, row0, row1, ray, hits):
    """`first_surface` of rows of rays (n, 3); ``hits`` (n, 9) gets an infinite distance where nothing is met."""
    for i in range(row0, row1):
        hits[i, 6] = INFINITE
        first_surface(S, origins[i, 0], origins[i, 1], origins[i, 2], directions[i, 0], directions[i, 1],
                      directions[i, 2], ray, hits[i])  # fmt: skip
