"""First surfaces of a picture: where they are, what they are, and how open the air above them is."""

import math

import numpy as np
from numba import njit, uint32, uint64

from .. import layout as L
from ..embree import MASK_CAMERA, MASK_PANE, MASK_SOLID, intersect1, occluded1
from .camera import camera_ray
from .hit import shading_normal
from .numbers import ENTRY, INFINITE, ONE, PIECE, TWO_PI, ZERO, frame
from .points import pixel_seed, point2
from .rays import MAX_PANES, NO_HIT, face_of_hit, instance_of, offset, set_ray, triangle_of

_SEEN = np.uint32(MASK_SOLID | MASK_PANE | MASK_CAMERA)
_SOLID = np.uint32(MASK_SOLID)


@njit(**PIECE)
def _rank(row, identity):
    """Count one sample for an identity in a row (ranks, 2) of identity and weight."""
    ranks = row.shape[0]
    for k in range(ranks):
        if row[k, 1] == ZERO:
            row[k, 0] = identity
            row[k, 1] = ONE
            return
        if row[k, 0] == identity:
            row[k, 1] += ONE
            return


@njit(**ENTRY)
def survey_rows(
    S, camera, seed, samples, radius, part_of, part_of_copy, width, row0, row1, position, occlusion, objects,
    materials, ray,
):  # fmt: skip
    """Sums over samples for rows row0…row1 of whole pictures.

    ``position`` (h, w, 4) metres and hits; ``occlusion`` (h, w) cosine-weighted openness within
    ``radius`` (0: not wanted); ``objects`` and ``materials`` (h, w, ranks, 2) identity and weight.
    """
    words = ray.view(np.uint32)
    address = uint64(ray.ctypes.data)
    for row in range(row0, row1):
        for column in range(width):
            pixel = pixel_seed(seed, row, column)
            for k in range(samples):
                index = uint32(k)
                ox, oy, oz, dx, dy, dz = camera_ray(camera, pixel, index, row, column)
                found = False
                for _ in range(MAX_PANES):
                    set_ray(ray, words, ox, oy, oz, dx, dy, dz, INFINITE, _SEEN)
                    intersect1(S.scene, address, uint64(0))
                    if words[18] == NO_HIT or words[19] == NO_HIT:
                        break
                    t = triangle_of(S, words)
                    material, gx, gy, gz, cosine = face_of_hit(S, words, ray)
                    dist = ray[8]
                    x, y, z = ox + dx * dist, oy + dy * dist, oz + dz * dist
                    if cosine > ZERO:
                        gx, gy, gz = -gx, -gy, -gz
                    kind = S.material_ints[material, L.M_KIND]
                    if kind != L.KIND_SURFACE and kind != L.KIND_WOVEN:
                        ox, oy, oz = offset(x, y, z, gx, gy, gz, dx, dy, dz)
                        continue
                    found = True
                    break
                if not found:
                    occlusion[row, column] += ONE
                    continue
                inst = instance_of(S, words)
                part = part_of_copy[inst]
                if part < 0:
                    part = part_of[t]
                _rank(objects[row, column], np.float32(part + 1))
                _rank(materials[row, column], np.float32(material + 1))
                position[row, column, 0] += x
                position[row, column, 1] += y
                position[row, column, 2] += z
                position[row, column, 3] += ONE
                if radius > ZERO:
                    nx, ny, nz = shading_normal(S, t, inst, ray[15], ray[16], gx, gy, gz)
                    tx, ty, tz, bx, by, bz = frame(nx, ny, nz)
                    u, v = point2(pixel, index, 2)
                    r, phi = math.sqrt(u), TWO_PI * v
                    a, b, c = r * math.cos(phi), r * math.sin(phi), math.sqrt(max(ONE - u, ZERO))
                    ex, ey, ez = tx * a + bx * b + nx * c, ty * a + by * b + ny * c, ZERO
                    ez = tz * a + bz * b + nz * c
                    qx, qy, qz = offset(x, y, z, gx, gy, gz, ex, ey, ez)
                    set_ray(ray, words, qx, qy, qz, ex, ey, ez, radius, _SOLID)
                    occluded1(S.scene, address, uint64(0))
                    if ray[8] >= ZERO:
                        occlusion[row, column] += ONE
