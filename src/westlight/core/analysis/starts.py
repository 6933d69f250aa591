"""Suns to begin with: of a pattern map, one for each character of light that artists start from."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
import numpy.typing as npt

from .pattern import PatternMap

#: Share of the picture in sun from which a sun is seen in it at all, and from which more adds nothing.
SEEN, ENOUGH = 0.004, 0.08
#: Lowest sun in degrees that is begun with, and degrees that two of them are apart at least.
LOWEST_DEG, APART_DEG = 4.0, 20.0
#: Cosine to the way the camera looks, on the plan, from which a sun stands before it.
AHEAD = 0.5
#: Share of the middle in sun from which it is called a patch, and at which it is large enough.
LEAST_PATCH, PATCH = 0.02, 0.35


def starting_suns(found: PatternMap, possible: npt.NDArray[np.bool_]) -> dict[str, int]:
    """Which position of a map to begin with, by character; one that no sun of the map can give is left out.

    "patch": sun on the middle of the picture while the rest lies in shade. "raking": it meets what it lights flatly, so that
    relief shows. "backlight": it stands low before the camera and shines towards it. ``possible`` (n,) are positions
    that may be chosen. Positions chosen are at least `APART_DEG` from each other.
    """
    enough = np.minimum(found.share / ENOUGH, 1.0)
    scores: Mapping[str, npt.NDArray[np.float64]] = {
        "patch": np.where(found.middle > LEAST_PATCH, np.minimum(found.middle / PATCH, 1.0), 0)
        * (1 - found.share),
        "raking": found.raking * enough * np.cos(np.radians(found.elevation_deg)),
        "backlight": np.where(found.ahead > AHEAD, found.ahead**2, 0) * enough * np.cos(np.radians(found.elevation_deg)),
    }  # fmt: skip
    free = possible & (found.share >= SEEN) & (found.elevation_deg >= LOWEST_DEG)
    a, e = np.radians(found.azimuth_deg), np.radians(found.elevation_deg)
    towards = np.stack([np.sin(a) * np.cos(e), np.cos(a) * np.cos(e), np.sin(e)], axis=1)
    chosen: dict[str, int] = {}
    for character, score in scores.items():
        worth = np.where(free, score, 0.0)
        best = int(worth.argmax()) if len(worth) else 0
        if not len(worth) or worth[best] <= 0:
            continue
        chosen[character] = best
        free = free & (towards @ towards[best] < np.cos(np.radians(APART_DEG)))
    return chosen
