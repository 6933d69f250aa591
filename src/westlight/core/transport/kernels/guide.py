"""What the camera looks at, for the guide that pictures are denoised by."""

import numpy as np
from numba import njit

from .. import layout as L
from .look import surface_at
from .numbers import NO, ONE, OUTLINE, PIECE, ZERO
from .rays import NO_HIT, face_of_hit, instance_of, triangle_of


@njit(**PIECE)
def note(guide, part, r, g, b, nx, ny, nz, dist):
    """Add a part of a look to a pixel of the guide: albedo, normal, distance in metres."""
    guide[0] += r * part
    guide[1] += g * part
    guide[2] += b * part
    guide[3] += nx * part
    guide[4] += ny * part
    guide[5] += nz * part
    guide[6] += dist * part
    guide[7] += part


@njit(**PIECE)
def pay(guide, r, g, b, owed):
    """Add the albedo of what a mirror shows to a pixel of the guide, in the mirror's colour ``owed`` RGB.

    Without it denoising would take what is mirrored for one flat colour and blur it.
    """
    guide[0] += r * owed[0]
    guide[1] += g * owed[1]
    guide[2] += b * owed[2]
    return NO


@njit(**OUTLINE)
def note_behind(S, guide, part, ray, words, ox, oy, oz, dx, dy, dz, dist):
    """What a ray met behind haze that stopped it, for the guide: edges must not drown in it."""
    if words[18] == NO_HIT:
        return
    r = g = b = ONE
    nx, ny, nz = -dx, -dy, -dz
    if words[19] != NO_HIT:
        row, gx, gy, gz, cosine = face_of_hit(S, words, ray)
        kind = S.material_ints[row, L.M_KIND]
        if kind == L.KIND_SURFACE or kind == L.KIND_WOVEN:
            if cosine > ZERO:
                gx, gy, gz = -gx, -gy, -gz
            nx, ny, nz, r, g, b, _, _ = surface_at(
                S, triangle_of(S, words), instance_of(S, words), row, ray[15], ray[16], np.int64(0),
                gx, gy, gz, nx, ny, nz,
            )  # fmt: skip
    note(guide, part, r, g, b, nx, ny, nz, dist)
