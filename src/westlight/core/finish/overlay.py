"""Reading aids laid over the shown picture: burnt and black stripes, luminance in false colour."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
from scipy.ndimage import gaussian_filter

from ..channels import largest, smallest
from ..colour import AP1_LUMINANCE
from ..colour.spaces import SRGB_FROM_P3, srgb_decode
from ..photometry import saturation_luminance
from .grade import MIDDLE_GREY
from .show import BLACK_TO, BURNT_FROM

F4 = npt.NDArray[np.float32]
U1 = npt.NDArray[np.uint8]
#: Bands of false colour: whole stops from middle grey. Cold below it, warm above, grey at it.
LOWEST, HIGHEST = -7, 5
_BANDS = np.array(
    [
        (24, 22, 44), (38, 38, 84), (44, 60, 122), (44, 92, 148), (52, 128, 158), (72, 158, 150),
        (112, 178, 140), (138, 138, 138), (196, 190, 96), (222, 168, 62), (224, 124, 52),
        (214, 76, 60), (250, 236, 226),
    ],
    np.uint8,
)  # fmt: skip
_BURNT_STRIPE, _BLACK_STRIPE = (232, 146, 36), (66, 104, 176)
_STRIPE_PX = 5
_BEYOND_STRIPE = (128, 128, 128)
#: Linear light by which a channel must leave what sRGB shows to count as beyond it.
_FAR = 0.008


#: Steps of the noise overlay, in differences that are just noticed, and their colours.
NOISE_STEPS = (1.0, 2.0, 3.0, 5.0, 8.0)
_NOISE_BANDS = np.array(
    [(96, 148, 160), (126, 178, 126), (214, 196, 96), (224, 128, 56), (206, 64, 60)], np.uint8
)


@dataclass(frozen=True)
class NoiseBand:
    """One step of the noise overlay: from so many just-noticed steps on, its colour as CSS."""

    steps: float
    colour: str


def noise_legend() -> list[NoiseBand]:
    """Steps of the noise overlay, the calmest first."""
    return [NoiseBand(s, "rgb({} {} {})".format(*c))
            for s, c in zip(NOISE_STEPS, _NOISE_BANDS, strict=True)]  # fmt: skip


def noise_colours(pixels: U1, steps: F4) -> U1:
    """A shown picture in grey, coloured where its noise (h, w), in just-noticed steps, passes a band."""
    grey = np.repeat((pixels.mean(axis=2, keepdims=True) * 0.55 + 40).astype(np.uint8), 3, axis=2)
    band = np.searchsorted(NOISE_STEPS, steps, side="right") - 1
    tint = _NOISE_BANDS[np.maximum(band, 0)]
    mixed = (grey * 0.4 + tint * 0.6).astype(np.uint8)
    return np.ascontiguousarray(np.where((band >= 0)[..., None], mixed, grey))


@dataclass(frozen=True)
class Band:
    """One step of the legend: stops from middle grey, cd/m² in its middle, its colour as CSS."""

    stops: int
    luminance: float
    colour: str


def legend(ev: float) -> list[Band]:
    """Bands of the false colours at an exposure (EV100), darkest first.

    >>> [b.stops for b in legend(10.0)][7]
    0
    """
    grey = MIDDLE_GREY * saturation_luminance(ev)
    return [
        Band(s, grey * 2.0**s, "rgb({} {} {})".format(*_BANDS[s - LOWEST]))
        for s in range(LOWEST, HIGHEST + 1)
    ]


def luminance_colours(picture: F4, ev: float) -> U1:
    """False colours (h, w, 3) of a scene-linear picture in cd/m²: one per stop from middle grey."""
    y = np.maximum(picture @ AP1_LUMINANCE.astype(np.float32), 1e-9)
    stops = np.rint(np.log2(y / np.float32(MIDDLE_GREY * saturation_luminance(ev)))).astype(int)
    return np.ascontiguousarray(_BANDS[np.clip(stops, LOWEST, HIGHEST) - LOWEST])


def striped(pixels: U1) -> U1:
    """A shown picture with stripes on what is burnt (a channel at the top) and black (all at 0)."""
    out = pixels.copy()
    y, x = np.indices(pixels.shape[:2], dtype=np.int32)
    stripe, top = ((x + y) // _STRIPE_PX) % 2 == 0, largest(pixels)
    out[stripe & (top >= BURNT_FROM)] = _BURNT_STRIPE
    out[stripe & (top <= BLACK_TO)] = _BLACK_STRIPE
    return out


def beyond_srgb(pixels: U1) -> npt.NDArray[np.bool_]:
    """Where a picture shown on a Display P3 screen, (h, w, 3), has colours that no sRGB screen has."""
    linear = srgb_decode(pixels.astype(np.float32) / 255.0) @ SRGB_FROM_P3.T.astype(np.float32)
    # Eight bits tell colours apart only so far.
    return np.asarray((smallest(linear) < -_FAR) | (largest(linear) > 1 + _FAR))


def marked(pixels: U1, where: npt.NDArray[np.bool_]) -> U1:
    """A shown picture with stripes where ``where`` (h, w) holds."""
    out = pixels.copy()
    y, x = np.indices(pixels.shape[:2], dtype=np.int32)
    out[(((x + y) // _STRIPE_PX) % 2 == 0) & where] = _BEYOND_STRIPE
    return out


def outlined(pixels: U1, share: F4, level: float = 0.25) -> U1:
    """A shown picture with a line where ``share`` (h, w) crosses a level: how far a light reaches."""
    # Noise would fray the line.
    inside = gaussian_filter(share, share.shape[1] / 400) > level
    edge = np.zeros_like(inside)
    edge[:, 1:] |= inside[:, 1:] != inside[:, :-1]
    edge[1:] |= inside[1:] != inside[:-1]
    out = pixels.copy()
    out[edge] = _BURNT_STRIPE
    return out
