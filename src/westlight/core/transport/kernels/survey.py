"""First surfaces of a picture: where they are, what they are, and how open the air above them is."""

import numpy as np
from numba import njit, uint32, uint64

from .. import layout as L
from ..embree import MASK_CAMERA, MASK_PANE, MASK_SOLID, occluded1
from .address import by_address
from .camera import camera_ray
from .hit import shading_normal
from .numbers import ENTRY, INFINITE, NO, ONE, PIECE, YES, ZERO, along, frame, from_frame
from .points import Draw, drawn, pixel_seed
from .rays import MAX_PANES, NO_SURFACE, Rays, hit_of, met_no_surface, offset, send, set_ray
from .surface import even_direction

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


@njit(**PIECE)
def _first(rays, camera, draw, row, column):
    """The first surface behind clear panes that a sample of a pixel meets: whether there is one, the hit, the place."""
    start, way = camera_ray(camera, draw.seed, draw.index, row, column)
    hit, at = NO_SURFACE, start
    for _ in range(MAX_PANES):
        send(rays, start, way, INFINITE, _SEEN)
        if met_no_surface(rays.words):
            break
        hit = hit_of(rays)
        at = along(start, way, rays.record[L.X_FAR])
        kind = rays.S.material_ints[hit.material, L.M_KIND]
        if kind == L.KIND_SURFACE or kind == L.KIND_WOVEN:
            return YES, hit, at
        start = offset(at, hit.face, way)
    return NO, hit, at


@njit(**PIECE)
def _open(rays, hit, at, radius, draw):
    """Whether a direction drawn by its cosine meets nothing within a radius."""
    u, v = drawn(draw, 2)
    normal = shading_normal(rays.S, hit)
    way = from_frame(frame(normal), even_direction(u, v))
    set_ray(rays.record, rays.words, offset(at, hit.face, way), way, radius, _SOLID)
    occluded1(rays.S.scene, rays.address, uint64(0))
    return rays.record[L.X_FAR] >= ZERO


@njit(**ENTRY)
def survey_rows(S, camera, survey, block, into, ray, counts):
    """Add what a survey looks for in a block of pixels to the sums of the whole picture."""
    scene = by_address(S)
    rays = by_address(Rays(scene, ray, ray.view(np.uint32), uint64(ray.ctypes.data), counts))
    for row in range(block.row0, block.row1):
        for column in range(block.column0, block.column1):
            pixel = pixel_seed(survey.seed, row, column)
            for k in range(survey.samples):
                draw = Draw(pixel, uint32(k))
                found, hit, at = _first(rays, camera, draw, row, column)
                if not found:
                    into.occlusion[row, column] += ONE
                    continue
                part = survey.part_of_copy[hit.copy]
                if part < 0:
                    part = survey.part_of[hit.triangle]
                _rank(into.objects[row, column], np.float32(part + 1))
                _rank(into.materials[row, column], np.float32(hit.material + 1))
                place = into.position[row, column]
                place[0] += at.x
                place[1] += at.y
                place[2] += at.z
                place[3] += ONE
                if survey.radius > ZERO and _open(rays, hit, at, survey.radius, draw):
                    into.occlusion[row, column] += ONE
