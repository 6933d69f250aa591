"""Passes over blocks of pixels: each sample is a path, its light added to its pixel by source."""

import numpy as np
from numba import njit, uint32, uint64

from .. import layout as L
from .address import by_address
from .camera import camera_ray
from .numbers import ENTRY, ORIGIN, PIECE, UP, ZERO, brightness, dimmed, rgb
from .points import Draw, pixel_seed
from .rays import Rays
from .records import Path
from .tracer import trace_path

_GLANCES = np.uint64(0x2545F491)


@njit(**PIECE)
def _deposit(out, acc, clamp):
    """Add one sample's light to its pixel, bounced light limited to ``clamp`` by source."""
    for s in range(acc.shape[0]):
        bounced = rgb(acc[s], L.O_BOUNCED)
        y = brightness(bounced)
        if y > clamp[s]:
            out[s, L.O_REMOVED] += y - clamp[s]
            bounced = dimmed(bounced, clamp[s] / y)
        before = after = ZERO
        for c in range(3):
            direct = acc[s, L.O_LIGHT + c] + acc[s, L.O_SEEN + c]
            out[s, L.O_LIGHT + c] += direct + bounced[c]
            out[s, L.O_BOUNCED + c] += bounced[c]
            out[s, L.O_SEEN + c] += acc[s, L.O_SEEN + c]
            before += direct + acc[s, L.O_BOUNCED + c]
            after += direct + bounced[c]
        # What the clamp took, it took from mirrored light and light through glass alike.
        k = after / before if before > ZERO else ZERO
        for c in range(L.O_MIRRORED, L.O_SEEN):
            out[s, c] += acc[s, c] * k
        for c in range(L.SAMPLE_CHANNELS):
            acc[s, c] = ZERO


@njit(**PIECE)
def _glances_of(glances, n, row, column):
    """Glances of pass ``n`` in a pixel, and how many the passes before it had there."""
    row, column = min(row, glances.shape[1] - 1), min(column, glances.shape[2] - 1)
    last = glances.shape[0] - 1
    before = 0
    for k in range(min(n, last)):
        before += glances[k, row, column]
    before += glances[last, row, column] * max(n - last, 0)
    return np.int64(glances[min(n, last), row, column]), before


@njit(**ENTRY)
def trace_rows(S, Q, air, camera, kept, sources, passes, block, into, tools):
    """Add passes over a block of pixels to what ``into`` names.

    First surfaces go to the guide. With such surfaces ``kept`` (rows, columns, FIRST_COLUMNS) paths start from those. Any block of
    any picture may be traced by itself, in any order, and gives the same bits. Each path shares what it
    sees, and the sun there, with glances, see `trace_path`: at edges against the sky, of lamps and of patches of sun a
    pixel would else take many passes to come to rest.
    """
    # An address is good for as long as the function runs that asks for it, and this one runs longest.
    scene, cache, ray = by_address(S), by_address(Q), tools.ray
    rays = by_address(Rays(scene, ray, ray.view(np.uint32), uint64(ray.ctypes.data), tools.counts))
    start = kept.shape[0] > 0
    for row in range(block.row0, block.row1):
        for column in range(block.column0, block.column1):
            pixel = pixel_seed(passes.seed, row, column)
            guide = into.guide[row - block.row0, column - block.column0]
            for k in range(passes.first, passes.first + passes.count):
                index = uint32(k)
                first = kept[row if start else 0, column if start else 0]
                if start and first[L.F_THERE] == ZERO:
                    continue
                many, before = _glances_of(passes.glances, k, row, column)
                begin = 0 if passes.paths else 1
                part = np.float32(1.0 / max(many + 1 - begin, 1))
                for g in range(begin, many + 1):
                    way, place = pixel, index
                    if g > 0:
                        # Points of their own: every n-th of one sequence is no even spread.
                        way = uint64(pixel ^ _GLANCES)
                        place = uint32(before + g - 1)
                    origin, to = ORIGIN, UP
                    if not start:
                        origin, to = camera_ray(camera, way, place, row, column)
                    path = by_address(Path(
                        rays, cache, sources.active, sources.slot_of, tools.light, guide, tools.scratch, air,
                        Draw(way, place), passes.bounces, passes.calm,
                    ))  # fmt: skip
                    trace_path(path, origin, to, part, g > 0, start, first)
                out = into.out[row - block.row0, column - block.column0]
                _deposit(out, tools.light, into.clamp)
