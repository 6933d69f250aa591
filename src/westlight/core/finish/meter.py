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
    lum = block_mean(picture, 4) @ AP1_LUMINANCE.astype(np.float32)
    lum = lum[(lum > 0) & (lum <= np.percentile(lum, 99))]
    if lum.size == 0:
        return None
    return math.log2(float(np.exp(np.log(lum).mean())) / (MIDDLE_GREY * saturation_luminance(0.0)))
