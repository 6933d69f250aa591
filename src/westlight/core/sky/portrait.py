"""Small pictures of skies: the dome as the sun chart draws it, to choose a sky by."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from ..colour import AP1_LUMINANCE, AP1_TO_SRGB, srgb_encode
from .dome import Sky

#: Share of the dome that may burn out, and the encoded value its mean comes to.
BURNT, MEAN = 0.04, 0.62


def portrait(sky: Sky, size_px: int = 48) -> npt.NDArray[np.uint8]:
    """The dome of a sky, (size, size, 4) sRGB with coverage: zenith in the middle, north up, east
    right, stereographic. Exposed by itself, so that skies of any brightness can be compared.
    """
    at = (np.arange(size_px) + 0.5) / size_px * 2 - 1
    x, y = np.meshgrid(at, -at)
    r = np.hypot(x, y)
    inside = r < 1
    azimuth, zenith = np.arctan2(x[inside], y[inside]), 2 * np.arctan(r[inside])
    directions = np.stack(
        [np.sin(azimuth) * np.sin(zenith), np.cos(azimuth) * np.sin(zenith), np.cos(zenith)], axis=1
    )
    light = np.asarray(sky.rgb(directions), float)
    luminance = light @ AP1_LUMINANCE
    # Between a mean in the middle and lights that do not burn: whichever is darker.
    white = max(
        float(np.quantile(luminance, 1 - BURNT)), float(luminance.mean()) / MEAN**2.2, 1e-12
    )
    shown = np.clip(light @ AP1_TO_SRGB.T / white, 0, 1)
    out = np.zeros((size_px, size_px, 4), np.uint8)
    out[inside, :3] = np.round(np.asarray(srgb_encode(shown)) * 255)
    out[..., 3] = np.round(np.clip((1 - r) * size_px / 2, 0, 1) * 255)
    return out
