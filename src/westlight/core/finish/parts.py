"""Grading one part or material alone, through its matte."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
from scipy.ndimage import gaussian_filter

from ..colour import AP1_LUMINANCE
from ..photometry import saturation_luminance
from .grade import MIDDLE_GREY, split_tone

F4 = npt.NDArray[np.float32]


@dataclass(frozen=True)
class PartGrade:
    """What is done to one thing: ``stops``, ``contrast`` about middle grey, ``saturation`` 0…2,
    ``warm`` −1…1; ``soft`` 0…1 blurs the edge of its matte by up to 2 % of the width. ``matte``
    names the pass that covers it."""

    matte: str
    stops: float = 0.0
    contrast: float = 1.0
    saturation: float = 1.0
    warm: float = 0.0
    soft: float = 0.0


def coverage_of(matte: F4, wanted: Collection[int]) -> F4:
    """Share of each pixel (h, w) that things cover, from a matte (h, w, ranks, 2) of number and share.

    >>> import numpy as np
    >>> float(coverage_of(np.array([[[[3, 0.75], [5, 0.25]]]], np.float32), {3})[0, 0])
    0.75
    """
    if not wanted:
        return np.zeros(matte.shape[:2], np.float32)
    mine = np.isin(matte[..., 0].astype(np.int64), np.fromiter(wanted, np.int64))
    return np.asarray((matte[..., 1] * mine).sum(axis=2), np.float32)


def graded_part(picture: F4, coverage: F4, g: PartGrade, ev: float) -> F4:
    """The picture (h, w, 3) in cd/m² with one thing graded where its matte covers it."""
    if g.soft > 0:
        coverage = gaussian_filter(coverage, 0.02 * g.soft * picture.shape[1])
    grey = np.float32(MIDDLE_GREY * saturation_luminance(ev))
    y = AP1_LUMINANCE.astype(np.float32)
    made = picture * np.float32(2.0**g.stops)
    if g.contrast != 1.0:
        luminance = np.maximum(made @ y, 1e-9 * grey)
        made = made * ((luminance / grey) ** np.float32(g.contrast - 1.0))[..., None]
    if g.saturation != 1.0:
        luminance = (made @ y)[..., None]
        made = np.maximum(luminance + (made - luminance) * np.float32(g.saturation), 0)
    if g.warm:
        made = np.asarray(
            split_tone((made / grey).astype(np.float64), g.warm, g.warm) * grey, np.float32
        )
    return np.asarray(picture + (made - picture) * coverage[..., None], np.float32)
