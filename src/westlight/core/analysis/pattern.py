"""Pattern maps: every sun position above the horizon, scored for what it does to a view.

The first surfaces of a small picture are kept once; for each position of the sun only the way to it
is tested. A soft disc is had for nothing: neighbouring pixels stand for the places between them.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from ..sun import azimuth_elevation, direction
from ..transport import layout as L
from ..transport.assemble import Assembled
from ..transport.embree import ray_buffer
from ..transport.kernels.pattern import sun_on_surfaces
from ..transport.render import F4, first_surfaces
from ..transport.threads import in_pieces
from ..view import View
from .as_shown import Brushed, Screen, as_wanted, brushed, contrast_seen, shown_with

Array = npt.NDArray[np.float64]
#: Cosine above which two surfaces count as one face.
_SAME_FACE = 0.98


@dataclass(frozen=True)
class PatternMap:
    """Scores of sun positions, each array (n,): higher is more of what is named.

    ``share`` of the picture in sun; ``contrast`` of light and dark, most where half the picture is
    lit and lit fully; ``pattern``, length of borders between light and dark in picture widths;
    ``spot``, light on what was picked; ``faces``, difference of light between two picked faces over
    their sum; ``shadows``, length of the shadow of an upright metre in metres; ``raking``, how flat
    the sun meets what it lights, 1 along it; ``middle``, share of the middle of the picture in sun;
    ``ahead``, 1 for a sun straight before the camera, -1 for one in its back. As they are shown on a screen (see `as_shown`):
    ``seen``, contrast of the picture; ``wanted``, light where it was painted to be and none where not.
    """

    azimuth_deg: Array
    elevation_deg: Array
    share: Array
    contrast: Array
    pattern: Array
    spot: Array
    faces: Array
    shadows: Array
    raking: Array
    middle: Array
    ahead: Array
    seen: Array
    wanted: Array


def sun_grid(step_deg: float, low_deg: float = 1.0) -> Array:
    """Positions (n, 2) of azimuth and elevation, about ``step_deg`` apart, from the horizon up.

    >>> len(sun_grid(10.0)) > 150
    True
    """
    rows = []
    for elevation in np.arange(low_deg + step_deg / 2, 90, step_deg):
        n = max(1, round(360 * np.cos(np.radians(elevation)) / step_deg))
        for i in range(n):
            rows.append((360.0 * (i + 0.5) / n, float(elevation)))
    return np.array(rows)


def sun_on(assembled: Assembled, first: F4, directions: npt.ArrayLike, eye: npt.ArrayLike) -> F4:
    """Cosine-weighted sun on first surfaces (h, w, columns) seen from ``eye`` (m), for directions (n, 3): (n, h, w).

    Where light comes in only through openings, only what comes through one.
    """
    seen_from = np.asarray(eye, np.float32)
    height, width = first.shape[:2]
    towards = np.ascontiguousarray(directions, np.float32)
    flat = np.ascontiguousarray(first.reshape(-1, L.FIRST_COLUMNS))
    lit = np.zeros((len(towards), height * width), np.float32)

    def begin() -> Callable[[int, int], None]:
        ray, counts = ray_buffer(), np.zeros(1, np.int64)
        return lambda first, end: sun_on_surfaces(
            assembled.arrays, flat, seen_from, towards, lit, first, end, ray, counts
        )

    in_pieces(len(towards), 4, begin)
    return lit.reshape(len(towards), height, width)


def face_at(first: F4, x: float, y: float) -> npt.NDArray[np.bool_]:
    """Pixels (h, w) of the flat face under a point of the picture, 0…1 from top left."""
    height, width = first.shape[:2]
    at = first[min(int(y * height), height - 1), min(int(x * width), width - 1)]
    if at[L.F_THERE] == 0:
        return np.zeros((height, width), bool)
    face = at[L.F_FACE : L.F_FACE + 3]
    same_way = first[..., L.F_FACE : L.F_FACE + 3] @ face > _SAME_FACE
    apart = (first[..., :3] - at[:3]) @ face
    return np.asarray(same_way & (np.abs(apart) < 0.1) & (first[..., L.F_THERE] > 0))


def pattern_map(
    assembled: Assembled,
    view: View,
    positions: Array,
    north_deg: float = 0.0,
    picked: Sequence[tuple[float, float]] = (),
    screen: Screen | None = None,
    strokes: Sequence[Brushed] = (),
) -> PatternMap:
    """Scores of sun ``positions`` (n, 2), azimuth from true north and elevation, for a view.

    Best with a small view of some 100 pixels width. ``picked`` are up to two points of the picture,
    0…1: "spot" is for the first, "faces" for both; without them these scores are 0, as "seen" and "wanted" are without a screen.
    """
    first = first_surfaces(assembled, view)
    towards = np.array([direction(a - north_deg, e) for a, e in positions]).reshape(-1, 3)
    lit = sun_on(assembled, first, towards, view.position)
    seen = max(float((first[..., L.F_THERE] > 0).sum()), 1.0)
    bright = lit > 0.05
    share = bright.sum(axis=(1, 2)) / seen
    strength = lit.sum(axis=(1, 2)) / np.maximum(bright.sum(axis=(1, 2)), 1)
    borders = (bright[:, :, 1:] != bright[:, :, :-1]).sum(axis=(1, 2)) + (
        bright[:, 1:] != bright[:, :-1]
    ).sum(axis=(1, 2))
    masks = [face_at(first, x, y) for x, y in picked[:2]]
    means = [lit[:, m].mean(axis=1) if m.any() else np.zeros(len(lit)) for m in masks]
    spot = means[0] if means else np.zeros(len(lit))
    faces = np.zeros(len(lit))
    if len(means) == 2:
        faces = np.abs(means[0] - means[1]) / np.maximum(means[0] + means[1], 1e-6)
    height, width = first.shape[:2]
    on_screen, wanted = np.zeros(len(lit)), np.zeros(len(lit))
    if screen is not None:
        shown = shown_with(first, lit, screen)
        on_screen = contrast_seen(shown)
        wanted = as_wanted(shown, *brushed(strokes, height, width))
    centre = (slice(height // 4, height - height // 4), slice(width // 3, width - width // 3))
    there = max(float((first[centre][..., L.F_THERE] > 0).sum()), 1.0)
    forward = np.subtract(view.target, view.position)[:2]
    forward = forward / max(float(np.hypot(*forward)), 1e-9)
    level = np.hypot(towards[:, 0], towards[:, 1])
    return PatternMap(
        positions[:, 0], positions[:, 1], share, 4 * share * (1 - share) * strength,
        borders / view.width_px, np.asarray(spot, float), faces,
        1 / np.tan(np.radians(np.maximum(positions[:, 1], 0.5))),
        np.where(bright.any(axis=(1, 2)), 1 - strength, 0.0),
        bright[(slice(None), *centre)].sum(axis=(1, 2)) / there,
        towards[:, :2] @ forward / np.maximum(level, 1e-9), on_screen, wanted,
    )  # fmt: skip


def positions_of(vectors: npt.ArrayLike, north_deg: float = 0.0) -> Array:
    """Azimuth from true north and elevation (n, 2) of directions in the model's axes."""
    found = [azimuth_elevation(v) for v in np.asarray(vectors, float).reshape(-1, 3)]
    return np.array([((a + north_deg) % 360, e) for a, e in found]).reshape(-1, 2)
