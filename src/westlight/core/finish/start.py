"""A starting point for the grade, worked out from how the picture's light is spread."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
import numpy.typing as npt

from ..colour import AP1_LUMINANCE
from ..photometry import saturation_luminance
from .grade import MIDDLE_GREY, PLAIN, Grade

F4 = npt.NDArray[np.float32]
Mood = Literal["flat", "natural", "strong"]
#: Stops between the 2nd and the 98th per cent that a picture of each mood should have.
_SPAN = {"flat": 4.6, "natural": 6.0, "strong": 7.4}
_OPEN_SHADOWS = {"flat": 1.0, "natural": 0.6, "strong": 0.2}
#: Stops from middle grey to burning.
_BURNS = float(-np.log2(MIDDLE_GREY))


@dataclass(frozen=True)
class Spread:
    """Stops from middle grey below which 2, 50 and 98 per cent of the picture lie, and 99.7."""

    low: float
    middle: float
    high: float
    top: float


def spread_of(picture: F4, ev: float) -> Spread:
    """How the light of a picture (h, w, 3) in cd/m² is spread at an exposure (EV100)."""
    y = np.maximum(picture @ AP1_LUMINANCE.astype(np.float32), 1e-9)
    stops = np.log2(y / (MIDDLE_GREY * saturation_luminance(ev)))
    return Spread(*(float(v) for v in np.percentile(stops, [2, 50, 98, 99.7])))


def starting_grade(
    picture: F4, ev: float, mood: Mood, grade: Grade = PLAIN, tone: str = "linear"
) -> Grade:
    """``grade`` with contrast, shadows and compression set for a mood; all else is left alone.

    The span of the picture is brought half-way to that of the mood, highlights are held as far as
    they burn, and shadows opened as far as they drown. A ``tone`` that rolls highlights off by itself
    needs help only with what lies two stops and more above burning.
    """
    s = spread_of(picture, ev)
    slope = float(np.clip((_SPAN[mood] / max(s.high - s.low, 0.5)) ** 0.5, 0.72, 1.4))
    after_low, after_top = slope * s.low, slope * s.top
    over = after_top - _BURNS + (0.4 if tone == "linear" else -2.0)
    return replace(
        grade,
        contrast=round(slope, 3),
        shadows=round(float(np.clip((-4.6 - after_low) / 3, 0, 1.2)) * _OPEN_SHADOWS[mood], 2),
        compression=round(float(np.clip(over / (2.5 if tone == "linear" else 6.0), 0, 1)), 2),
        compression_start=2.0,
        saturation={"flat": 0.95, "natural": 1.0, "strong": 1.05}[mood],
    )


#: Shown values that the 2nd, 50th and 98th per cent of a picture are drawn towards, and how far.
_AIMS, _HOW_FAR = (0.05, 0.46, 0.93), 0.5


def starting_curve(pixels: npt.NDArray[np.uint8]) -> tuple[tuple[float, float], ...]:
    """Points of a curve (0…1) for a shown picture (h, w, 3): darks, middle and lights brought half-way to
    where they usually lie.

    A picture of one value gets no points. Points rise, and no part of the curve is steeper than three.
    """
    luma = pixels.astype(np.float32) @ np.array([0.2126, 0.7152, 0.0722], np.float32) / 255.0
    found = [float(v) for v in np.percentile(luma, [2, 50, 98])]
    if found[2] - found[0] < 0.02:
        return ()
    points = [(0.0, 0.0)]
    for x, aim in zip(found, _AIMS, strict=True):
        y = x + _HOW_FAR * (aim - x)
        left, low = points[-1]
        if 0.02 < x < 0.98 and x - left > 0.02:
            points.append((round(x, 3), round(float(np.clip(y, low, low + 3 * (x - left))), 3)))
    return (*points, (1.0, 1.0)) if len(points) > 1 else ()
