"""Metering: the exposure a picture asks for."""

from __future__ import annotations

import math

import numpy as np
import numpy.typing as npt

from ..colour import AP1_LUMINANCE
from ..photometry import saturation_luminance
from .mix import block_mean

#: Share of the sensor's range at which middle grey lies.
MIDDLE_GREY = 0.18


def stops_from_middle_grey(luminance_cd_m2: float, ev100: float) -> float:
    """How many stops a luminance lies above middle grey (18 % of the burnt point) at an EV.

    >>> round(stops_from_middle_grey(0.18 * saturation_luminance(10.0), 10.0), 6)
    0.0
    """
    middle = MIDDLE_GREY * saturation_luminance(ev100)
    return math.log2(max(luminance_cd_m2, 1e-12) / middle)


def metered_ev(picture: npt.NDArray[np.float32]) -> float | None:
    """EV100 that puts the geometric mean of a picture in cd/m², (h, w, 3), at middle grey.

    The brightest hundredth is left out: a lamp in the picture should not darken the room. None
    for a picture without light.
    """
    # A picture smaller than a block is metered by its pixels.
    lum = block_mean(picture, min(4, *picture.shape[:2])) @ AP1_LUMINANCE.astype(np.float32)
    lum = lum[(lum > 0) & (lum <= np.percentile(lum, 99))]
    if lum.size == 0:
        return None
    return math.log2(float(np.exp(np.log(lum).mean())) / (MIDDLE_GREY * saturation_luminance(0.0)))


def around(
    picture: npt.NDArray[np.float32], x: float, y: float, share: float = 0.12
) -> npt.NDArray[np.float32]:
    """Part of a picture, (h, w, 3), around a point in shares from its top left.

    ``share`` is the part's side in widths of the picture; at the edge it is cut off.
    """
    height, width = picture.shape[:2]
    half = max(2, round(share * width / 2))
    row, column = int(y * (height - 1)), int(x * (width - 1))
    return picture[max(row - half, 0) : row + half + 1, max(column - half, 0) : column + half + 1]
