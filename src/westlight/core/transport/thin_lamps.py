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
        rows, places, cover = _aimed(assembled, view, rows)
        free = _free(assembled, view, places)
        pixels, covered = _pixels(view, places[free], cover[free])
        light = _luminance(assembled, rows[free])
        for k in range(3):
            sums[k] = np.bincount(pixels, covered * light**k, sums.shape[1] + 1)[:-1]
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


def _aimed(assembled: Assembled, view: View, rows: Rows) -> tuple[Rows, Array, Array]:
    """Points on emitters, more on what is long in the picture: their rows, their places, and the area (m², across the line of sight) of each."""
    floats = assembled.arrays.emitter_floats[rows].astype(np.float64)
    ints = assembled.arrays.emitter_ints[rows]
    wanted = np.maximum(RAYS * _length(view, floats, ints), RAYS)
    wanted *= min(1.0, MOST_RAYS / max(wanted.sum(), 1.0))
    # Of very many a part is drawn, evenly along their order.
    ends = np.floor(np.cumsum(wanted)).astype(np.int64)
    counts = np.diff(ends, prepend=0)
    of = np.repeat(np.arange(len(rows)), counts)
    along = (np.arange(len(of)) - (ends - counts)[of] + 0.5) / counts[of]
    across = np.mod(np.arange(len(of)) * 0.6180339887498949, 1.0).astype(np.float64)
    places, area = _points(floats[of], ints[of], view, along, across)
    return rows[of], places, area / wanted[of]


def _length(view: View, floats: Array, ints: L.I4) -> Array:
    """Length of emitters in the picture, in pixels; nothing for those outside it."""
    low, high = emitter_bounds(floats, ints)
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


def _points(
    floats: Array, ints: L.I4, view: View, along: Array, across: Array
) -> tuple[Array, Array]:
    """A place on each emitter (n, 3), at shares of its length and width, and its area as the camera sees it; 0 for a dark side."""
    centre, u, v = floats[:, 0:3].copy(), floats[:, 3:6].copy(), floats[:, 6:9].copy()
    kind, radius = ints[:, L.E_KIND], floats[:, L.E_RADIUS, None]
    sight = np.asarray(view.position, np.float64) - centre
    tube, ball = kind == L.SHAPE_TUBE, kind == L.SHAPE_SPHERE
    # A tube is a rectangle that turns to the camera, a ball a disc.
    axis = np.where(tube[:, None], u, _across(sight))
    side = np.cross(axis, sight)
    side /= np.maximum(np.linalg.norm(side, axis=1, keepdims=True), 1e-12)
    u[tube] *= floats[tube, L.E_LENGTH, None]
    u[ball] = (axis * radius)[ball]
    v[tube], v[ball] = (side * 2 * radius)[tube], (side * radius)[ball]
    disc = (kind == L.SHAPE_DISC) | ball
    flat = kind == L.SHAPE_TRIANGLE
    swap = ~disc & ~flat & (np.linalg.norm(v, axis=1) > np.linalg.norm(u, axis=1))
    u[swap], v[swap] = v[swap], u[swap].copy()
    root, turn = np.sqrt(across), 2 * np.pi * along
    # Flat discs have unit axes.
    reach = np.where((kind == L.SHAPE_DISC)[:, None], radius, 1.0)
    a = np.where(disc, root * np.cos(turn), np.where(flat, 1 - np.sqrt(1 - along), along - 0.5))
    b = np.where(
        disc, root * np.sin(turn), np.where(flat, np.sqrt(1 - along) * across, across - 0.5)
    )
    places = centre + u * reach * a[:, None] + v * reach * b[:, None]
    way = np.asarray(view.position, np.float64) - places
    far = np.maximum(np.linalg.norm(way, axis=1), 1e-9)
    cosine = np.einsum("ij,ij->i", way, floats[:, 9:12]) / far
    two = ints[:, L.E_SIDES] == 2
    facing = np.where(two, np.abs(cosine), np.maximum(cosine, 0))
    turned = np.abs(np.einsum("ij,ij->i", np.cross(u, v), way)) / far
    area = np.where(tube, turned, floats[:, L.E_AREA] * facing)
    return places, np.where(ball, np.pi * radius[:, 0] ** 2, area)


def _across(way: Array) -> Array:
    """A unit vector at right angles to each way."""
    other = np.where(np.abs(way[:, 2:]) > np.abs(way[:, :1]), [[1.0, 0, 0]], [[0, 0, 1.0]])
    found = np.cross(way, other)
    return np.asarray(found / np.maximum(np.linalg.norm(found, axis=1, keepdims=True), 1e-12))


def _free(assembled: Assembled, view: View, places: Array) -> npt.NDArray[np.bool_]:
    """Whether the camera sees each place; panes do not hide it."""
    eye = np.asarray(view.position, np.float64)
    way = places - eye
    far = np.maximum(np.linalg.norm(way, axis=1), 1e-9)
    _, ahead = view.places_of(places)
    start = eye + way * (view.near_m / np.maximum(ahead, 1e-9))[:, None]
    hits = surfaces_along(assembled, start, way / far[:, None])
    met = hits[:, 6] + np.linalg.norm(start - eye, axis=1)
    return (ahead > view.near_m) & (met > far * (1 - _OWN))


def _pixels(view: View, places: Array, area: Array) -> tuple[Rows, Array]:
    """The pixel of each place (one more than there are: outside), and the share of it that an area across the line of sight covers."""
    camera = view.camera_array().astype(np.float64)
    at, ahead = view.places_of(places)
    pixel = np.linalg.norm(np.cross(camera[L.C_RIGHT :][:3], camera[L.C_DOWN :][:3]))
    way = places - camera[:3]
    far = np.linalg.norm(way, axis=1)
    # A pixel is as large as it looks on the plane 1 m ahead, seen askew: its angle is area · cos / distance².
    angle = pixel * (ahead / far) ** 3
    column, row = np.floor(at).astype(np.int64).T
    inside = (column >= 0) & (column < view.width_px) & (row >= 0) & (row < view.height_px)
    return np.where(
        inside, row * view.width_px + column, view.width_px * view.height_px
    ), area / far**2 / angle
