"""Passes over blocks of pixels: each sample is a path, its light added to its pixel by source."""

import numpy as np
from numba import njit, uint32, uint64

from .. import layout as L
from .camera import camera_ray
from .numbers import ENTRY, PIECE, ZERO, luminance
from .points import pixel_seed
from .tracer import trace_path

_GLANCES = np.uint64(0x2545F491)


@njit(**PIECE)
def _deposit(out, acc, clamp):
    """Add one sample's light to its pixel, bounced light limited to ``clamp`` by source."""
    for s in range(acc.shape[0]):
        br, bg, bb = acc[s, 3], acc[s, 4], acc[s, 5]
        y = luminance(br, bg, bb)
        if y > clamp[s]:
            k = clamp[s] / y
            out[s, L.O_REMOVED] += y - clamp[s]
            br, bg, bb = br * k, bg * k, bb * k
        sr, sg, sb = acc[s, L.O_SEEN], acc[s, L.O_SEEN + 1], acc[s, L.O_SEEN + 2]
        out[s, 0] += acc[s, 0] + sr + br
        out[s, 1] += acc[s, 1] + sg + bg
        out[s, 2] += acc[s, 2] + sb + bb
        out[s, 3] += br
        out[s, 4] += bg
        out[s, 5] += bb
        direct = acc[s, 0] + acc[s, 1] + acc[s, 2] + sr + sg + sb
        before, after = direct + acc[s, 3] + acc[s, 4] + acc[s, 5], direct + br + bg + bb
        # What the clamp took, it took from mirrored light and light through glass alike.
        k = after / before if before > ZERO else ZERO
        for c in range(L.O_MIRRORED, L.O_SEEN):
            out[s, c] += acc[s, c] * k
        out[s, L.O_SEEN] += sr
        out[s, L.O_SEEN + 1] += sg
        out[s, L.O_SEEN + 2] += sb
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
def trace_rows(
    S, Q, air, camera, kept, active, slot_of, bounces, calm, glances, paths, seed, first_sample, samples,
    clamp, row0, row1, column0, column1, out, guide, acc, scratch, ray, counts,
):  # fmt: skip
    """Add ``samples`` passes over a block of pixels to ``out`` (rows, columns, slots, OUT_CHANNELS).

    First surfaces go to ``guide``. With such surfaces ``kept`` (rows, columns, FIRST_COLUMNS) paths start from those. Any block of
    any picture may be traced by itself, in any order, and gives the same bits. Each path shares what it
    sees, and the sun there, with ``glances`` (passes, rows, columns; the last pass stands for all later ones, one row
    or column for all), see `trace_path`: at edges against the sky, of lamps and of patches of sun a pixel would else
    take many passes to come to rest. Without ``paths`` there are glances alone.
    """
    words = ray.view(np.uint32)
    address = uint64(ray.ctypes.data)
    start = kept.shape[0] > 0
    for row in range(row0, row1):
        for column in range(column0, column1):
            pixel = pixel_seed(seed, row, column)
            for k in range(samples):
                index = uint32(first_sample + k)
                first = kept[row if start else 0, column if start else 0]
                if start and first[L.F_THERE] == ZERO:
                    continue
                many, before = _glances_of(glances, first_sample + k, row, column)
                begin = 0 if paths else 1
                part = np.float32(1.0 / max(many + 1 - begin, 1))
                for g in range(begin, many + 1):
                    way, place = pixel, index
                    if g > 0:
                        # Points of their own: every n-th of one sequence is no even spread.
                        way = uint64(pixel ^ _GLANCES)
                        place = uint32(before + g - 1)
                    ox = oy = oz = dx = dy = dz = ZERO
                    if not start:
                        ox, oy, oz, dx, dy, dz = camera_ray(camera, way, place, row, column)
                    trace_path(
                        S, Q, air, active, slot_of, bounces, calm, way, place, ox, oy, oz, dx, dy, dz,
                        part, g > 0, start, first, acc, guide[row - row0, column - column0], scratch, ray,
                        words, address, counts,
                    )  # fmt: skip
                _deposit(out[row - row0, column - column0], acc, clamp)
