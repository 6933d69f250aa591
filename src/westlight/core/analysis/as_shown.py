"""Patterns of the sun as they are seen: in the light of everything else, exposed and toned, and where they are wanted."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
import numpy.typing as npt

from ..colour import AP1_LUMINANCE
from ..transport import layout as L
from ..transport.film import F4

Array = npt.NDArray[np.float64]
Mask = npt.NDArray[np.bool_]
#: Shown from this on, 0…1, a place is burnt out.
BURNT = 0.99
#: Least luminance that counts for the exposure, in cd/m².
_DARK = 1e-4


@dataclass(frozen=True)
class Screen:
    """What a pattern is seen in: luminance of all other light (h, w) in cd/m², lux of each sun on a plane that faces it (n,), and what
    is shown (0…1) of a luminance.

    ``key_cd_m2``: the geometric mean of a picture that an automatic exposure keeps; None where the exposure stays.
    """

    rest: Array
    sun_lux: Array
    shown: Callable[[Array], Array]
    key_cd_m2: float | None = None


@dataclass(frozen=True)
class Brushed:
    """A stroke in the picture: points 0…1 from its top left, reach as a share of its width, light wanted there or none."""

    points: tuple[tuple[float, float], ...]
    radius: float
    wanted: bool


def shown_with(first: F4, lit: F4, screen: Screen) -> Array:
    """What is shown (n, h, w), 0…1, of first surfaces (h, w, columns) with each sun that falls on them as ``lit`` (n, h, w).

    Sunlight that is bounced is not in it: it is that of the present picture, if at all.
    """
    weights = AP1_LUMINANCE
    paint = first[..., L.F_RED : L.F_RED + 3].astype(np.float64) @ weights
    kept = first[..., L.F_KEPT : L.F_KEPT + 3].astype(np.float64) @ weights
    paint = np.where(first[..., L.F_THERE] > 0, paint * kept, 0.0)
    luminance = screen.rest + screen.sun_lux[:, None, None] * lit * paint / np.pi
    if screen.key_cd_m2 is not None:
        key = np.exp(np.log(np.maximum(luminance, _DARK)).mean(axis=(1, 2)))
        luminance = luminance * (screen.key_cd_m2 / key)[:, None, None]
    return np.asarray(screen.shown(luminance))


def contrast_seen(shown: Array) -> Array:
    """How much light and dark a picture (n, h, w) shows: the spread of what is shown, less the share that is burnt out."""
    return np.asarray(shown.std(axis=(1, 2)) * (1 - (shown >= BURNT).mean(axis=(1, 2))))


def brushed(strokes: Sequence[Brushed], height: int, width: int) -> tuple[Mask, Mask]:
    """Where light is wanted and where none is, (h, w) each; a later stroke takes over from an earlier one."""
    wanted, unwanted = np.zeros((2, height, width), bool)
    x = (np.arange(width) + 0.5) / width
    y = (np.arange(height) + 0.5) / width
    for s in strokes:
        line = np.asarray(s.points, float) * [1.0, height / width]
        ends = list(pairwise(line)) or [(line[0], line[0])]
        under = np.zeros((height, width), bool)
        for a, b in ends:
            d = b - a
            t = ((x - a[0])[None, :] * d[0] + (y - a[1])[:, None] * d[1]) / max(float(d @ d), 1e-12)
            t = np.clip(t, 0.0, 1.0)
            apart = np.hypot(x[None, :] - a[0] - t * d[0], y[:, None] - a[1] - t * d[1])
            under |= apart <= s.radius
        wanted = (wanted | under) if s.wanted else (wanted & ~under)
        unwanted = (unwanted & ~under) if s.wanted else (unwanted | under)
    return wanted, unwanted


def as_wanted(shown: Array, wanted: Mask, unwanted: Mask) -> Array:
    """How much brighter (0…1) a picture (n, h, w) is shown where light is wanted than where none is; nothing for the other way round.

    Where only one of both was painted the other stands at its best.
    """
    light = shown[:, wanted].mean(axis=1) if wanted.any() else 1.0
    dark = shown[:, unwanted].mean(axis=1) if unwanted.any() else 0.0
    if not (wanted.any() or unwanted.any()):
        return np.zeros(len(shown))
    return np.asarray(np.maximum(light - dark, 0.0))
