"""Lamps that are thinner in the picture than a pixel, found by rays that are aimed at them.

Looks through each pixel miss a strip of light that fills a twentieth of it, and the strip comes out dashed. So where
such lamps lie is not left to chance: rays go to points all along each lamp, and tell how much of each pixel it covers.
"""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from ..colour import AP1_LUMINANCE
from ..view import View
from . import layout as L
from .assemble import Assembled
from .kernels.aim import AIM_COLUMNS, AIM_DENSITY, AIM_FAR, aim_at_emitters
from .lighttree import emitter_bounds
from .surfaces import surfaces_along

Array = npt.NDArray[np.float64]
Rows = npt.NDArray[np.int64]
F4 = npt.NDArray[np.float32]
#: Rays for each pixel that a lamp is long; and all together at most.
RAYS, MOST_RAYS = 4.0, 60_000
#: A lamp covering more of a pixel than this is found by any look.
THIN = 0.5
#: Share of the way to a lamp that a surface may stand before it and still be the lamp's own.
_OWN = 1e-3


def thin_lamps(assembled: Assembled, view: View) -> F4:
    """What lamps thinner than a pixel show in each: cover, mean and mean square of luminance (3, h, w), nits at set amounts.

    Hidden parts do not count. Where lamps cover more than `THIN` of a pixel there is nothing.
    """
    sums = np.zeros((3, view.height_px * view.width_px))
    rows = _seen_rows(assembled)
    if len(rows):
        rows, ways, far, angle = _aimed(assembled, view, rows)
        pixels, of_pixel = _pixels(view, ways)
        there = (pixels >= 0) & _free(assembled, view, ways, far)
        light, cover = _luminance(assembled, rows[there]), angle[there] / of_pixel[there]
        for k in range(3):
            sums[k] = np.bincount(pixels[there], cover * light**k, sums.shape[1])
        sums[:, sums[0] > THIN] = 0
    return sums.astype(np.float32).reshape(3, view.height_px, view.width_px)


def _seen_rows(assembled: Assembled) -> Rows:
    """Rows of the emitters that a camera ray can meet."""
    a = assembled.arrays
    rows = np.unique(np.concatenate([a.emitter_of_primitive, a.triangle_emitter])).astype(np.int64)
    rows = rows[rows >= 0]
    # Without lamps there is one row all the same, of nothing.
    return rows[a.emitter_floats[rows, L.E_WEIGHT] > 0]


def _luminance(assembled: Assembled, rows: Rows) -> Array:
    """Mean luminance of emitters at set amounts."""
    a = assembled.arrays
    gains = np.array([s.gain @ AP1_LUMINANCE for s in assembled.sources])
    floats, sources = a.emitter_floats[rows].astype(np.float64), a.emitter_ints[rows, L.E_SOURCE]
    return floats[:, L.E_WEIGHT] / np.maximum(floats[:, L.E_AREA], 1e-12) * gains[sources]


def _aimed(assembled: Assembled, view: View, rows: Rows) -> tuple[Rows, Array, Array, Array]:
    """Directions from the camera to emitters, more to what is long in the picture: their rows, the ways (n, 3), how far
    the emitters lie (n,), and the solid angle that each stands for (n,)."""
    a = assembled.arrays
    wanted = np.maximum(RAYS * _length(assembled, view, rows), RAYS)
    wanted *= min(1.0, MOST_RAYS / max(wanted.sum(), 1.0))
    # Of very many a part is drawn, evenly along their order.
    ends = np.floor(np.cumsum(wanted)).astype(np.int64)
    counts = np.diff(ends, prepend=0)
    of = np.repeat(np.arange(len(rows)), counts)
    numbers = np.arange(len(of)) - (ends - counts)[of]
    aims = np.zeros((len(of), AIM_COLUMNS), np.float32)
    eye = np.asarray(view.position, np.float32)
    aim_at_emitters(a.emitter_floats, a.emitter_ints, rows[of], numbers, eye, aims)
    lit = aims[:, AIM_DENSITY] > 0
    of, aimed = of[lit], aims[lit].astype(np.float64)
    return rows[of], aimed[:, :3], aimed[:, AIM_FAR], 1 / (aimed[:, AIM_DENSITY] * wanted[of])


def _length(assembled: Assembled, view: View, rows: Rows) -> Array:
    """Length of emitters in the picture, in pixels; nothing for those outside it."""
    a = assembled.arrays
    low, high = emitter_bounds(a.emitter_floats[rows].astype(np.float64), a.emitter_ints[rows])
    corners = np.stack([np.where(np.array([i, j, k]), high, low)
                        for i in (0, 1) for j in (0, 1) for k in (0, 1)], 1)  # fmt: skip
    at, ahead = view.places_of(corners)
    size = np.array([view.width_px, view.height_px])
    first, last = np.clip(at.min(1), 0, size), np.clip(at.max(1), 0, size)
    length = np.linalg.norm(last - first, axis=1)
    length = np.where(
        ((at.max(1) < 0) | (at.min(1) > size)).any(axis=1), 0.0, np.maximum(length, 1.0)
    )
    behind = ahead.min(1) <= 0
    return np.where(behind, np.where(ahead.max(1) > 0, size.sum(), 0.0), length)


def _free(assembled: Assembled, view: View, ways: Array, far: Array) -> npt.NDArray[np.bool_]:
    """Whether the camera sees what lies so far along each way; panes do not hide it."""
    eye = np.asarray(view.position, np.float64)
    _, ahead = view.places_of(eye + ways)
    near = view.near_m / np.maximum(ahead, 1e-9)
    hits = surfaces_along(assembled, eye + ways * near[:, None], ways)
    return (far > near) & (hits[:, 6] + near > far * (1 - _OWN))


def _pixels(view: View, ways: Array) -> tuple[Rows, Array]:
    """The pixel that is seen along each unit way, −1 for none, and its solid angle."""
    camera = view.camera_array().astype(np.float64)
    at, ahead = view.places_of(np.asarray(view.position, np.float64) + ways)
    column, row = np.floor(at).astype(np.int64).T
    inside = (column >= 0) & (column < view.width_px) & (row >= 0) & (row < view.height_px)
    # On the plane 1 m ahead, seen askew: area · cosine / distance².
    area = np.linalg.norm(np.cross(camera[L.C_RIGHT :][:3], camera[L.C_DOWN :][:3]))
    return np.where(inside & (ahead > 0), row * view.width_px + column, -1), area * ahead**3
