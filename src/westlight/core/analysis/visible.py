"""Noise as it is seen: what differs between two pictures as they are shown, by tile, in steps the eye can tell.

A mean over the picture says little: one bright window makes any mean look calm. Here both halves of the passes
are denoised, exposed and toned, and compared in Oklab (Ottosson 2020). What denoising invents alike in both halves is
found by comparing its picture with means of the picture before it.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
from scipy.ndimage import gaussian_filter

F4 = npt.NDArray[np.float32]
U1 = npt.NDArray[np.uint8]
#: Difference in Oklab that is just noticed on areas side by side (the step of CSS Color 4).
JUST_NOTICED = 0.02
#: Side of a tile in pixels: what is looked at as one place.
TILE = 16
#: A picture is calm when the worst twentieth of its tiles begins below one step, and no tile is above three.
CALM, CALM_AT_MOST = 1.0, 3.0
#: Error of a picture over the difference of its denoised halves: 1/√2 for two halves, and what twice the passes
#: take from the error of a denoised picture (see `denoise.USUAL_FALL`).
_OF_HALVES = 0.58
#: Blur of the eye at the distance a screen is worked at, in pixels.
_EYE = 0.5
#: Mottle: lightness between two blurs, in pixels, that is, what is some 5 to 40 pixels wide, and the amount of it that is
#: just noticed. The eye sees it far sooner than grain of single pixels: its contrast sensitivity is greatest at 2 to 5 cycles
#: per degree (Campbell and Robson 1968), where a screen has 8 to 20 pixels.
_MOTTLE, MOTTLE_NOTICED = (2.0, 10.0), 0.0065
#: Sides of the blocks that means are compared on, and standard errors that noise explains.
_BLOCKS, _EXPLAINED = (4, 8, 16), 3.0
_TO_LMS = np.array([
    [0.4122214708, 0.5363325363, 0.0514459929],
    [0.2119034982, 0.6806995451, 0.1073969566],
    [0.0883024619, 0.2817188376, 0.6299787005],
])  # fmt: skip
_TO_LAB = np.array([
    [0.2104542553, 0.7936177850, -0.0040720468],
    [1.9779984951, -2.4285922050, 0.4505937099],
    [0.0259040371, 0.7827717662, -0.8086757660],
])  # fmt: skip
_CODES = np.arange(256) / 255.0
_LINEAR = np.where(_CODES <= 0.04045, _CODES / 12.92, ((_CODES + 0.055) / 1.055) ** 2.4).astype(
    np.float32
)
#: Words for a picture, by the step that the worst twentieth of its tiles begins with.
_WORDS = ((1.0, "clean"), (2.0, "grain just visible"), (4.0, "grain visible"), (8.0, "grainy"))


def oklab(pixels: U1) -> F4:
    """Lightness and the two hue axes (h, w, 3) of sRGB pixels (h, w, 3), by Ottosson's Oklab.

    >>> oklab(np.full((1, 1, 3), 255, np.uint8))[0, 0].round(3).tolist()
    [1.0, 0.0, 0.0]
    """
    lms = np.cbrt(_LINEAR[pixels] @ _TO_LMS.T.astype(np.float32))
    return np.asarray(lms @ _TO_LAB.T.astype(np.float32))


def steps_apart(a: U1, b: U1) -> F4:
    """Just-noticed steps between two shown pictures (h, w, 3), by pixel: of grain or of mottle, whichever is more (h, w)."""
    apart = oklab(a) - oklab(b)
    fine, broad = (gaussian_filter(apart[..., 0], sigma, mode="nearest") for sigma in _MOTTLE)
    mottle = np.abs(fine - broad) / np.float32(MOTTLE_NOTICED)
    for axis in range(3):
        apart[..., axis] = gaussian_filter(apart[..., axis], _EYE, mode="nearest")
    grain = np.sqrt((apart * apart).sum(axis=2)) / np.float32(JUST_NOTICED)
    return np.asarray(np.maximum(grain, mottle))


def by_tile(values: F4) -> F4:
    """Root mean square of a picture (h, w) over each tile; tiles at the edge count what they have."""
    rows, columns = np.arange(0, values.shape[0], TILE), np.arange(0, values.shape[1], TILE)
    squares = np.add.reduceat(np.add.reduceat(values.astype(np.float64) ** 2, rows, 0), columns, 1)
    sizes = np.outer(np.diff([*rows, values.shape[0]]), np.diff([*columns, values.shape[1]]))
    return np.asarray(np.sqrt(squares / sizes), np.float32)


@dataclass(frozen=True)
class Grain:
    """Noise of a shown picture by tile (rows, columns), in just-noticed steps."""

    tiles: F4

    @property
    def worst(self) -> float:
        """Where the worst twentieth of the tiles begins."""
        return float(np.quantile(self.tiles, 0.95)) if self.tiles.size else 0.0

    @property
    def most(self) -> float:
        """The worst tile."""
        return float(self.tiles.max(initial=0.0))

    @property
    def calm(self) -> bool:
        """Whether nothing of it is seen: 95 % of the tiles below one step, none above three."""
        return self.worst < CALM and self.most < CALM_AT_MOST

    @property
    def excess(self) -> float:
        """How many times too noisy the picture is to be calm: below 1 when it is."""
        return max(self.worst / CALM, self.most / CALM_AT_MOST)

    @property
    def words(self) -> str:
        """What an artist sees.

        >>> Grain(np.full((4, 4), 1.5, np.float32)).words
        'grain just visible'
        """
        return next((text for top, text in _WORDS if self.worst < top), "coarse grain")


def grain_between(even: U1, odd: U1) -> Grain:
    """Noise of a picture whose two halves are shown as ``even`` and ``odd`` (h, w, 3)."""
    return Grain(by_tile(steps_apart(even, odd) * np.float32(_OF_HALVES)))


def invented(clean: F4, even: F4, odd: F4) -> F4:
    """Share of its light that denoising changed without cause, by pixel (h, w); 0 where noise explains it.

    ``clean`` is the luminance of the denoised picture, ``even`` and ``odd`` that of both halves before it, (h, w).
    On blocks of 4, 8 and 16 pixels the means must agree within the noise of the block; what is beyond that
    is light that was moved or a pattern that was made up. Pixels must be independent of one another.
    """
    height, width = clean.shape
    raw = np.asarray((even + odd) / 2, np.float32)
    variance = np.asarray(((even - odd) / 2) ** 2, np.float32)
    found = np.zeros((height, width), np.float32)
    for side in _BLOCKS:
        if min(height, width) < side:
            continue
        mean, wanted, spread = (_block_means(p, side) for p in (clean, raw, variance))
        # Two halves tell the noise of a single block badly; its neighbourhood knows it better.
        spread = gaussian_filter(spread, 2.0, mode="nearest")
        error = np.sqrt(spread) / side
        beyond = np.maximum(np.abs(mean - wanted) - _EXPLAINED * error, 0)
        share = beyond / np.maximum(np.maximum(mean, wanted), 1e-9)
        large = np.repeat(np.repeat(share, side, axis=0), side, axis=1)
        h, w = large.shape
        np.maximum(found[:h, :w], large[:height, :width], out=found[:h, :w])
    return found


def _block_means(picture: F4, side: int) -> F4:
    """Means over whole blocks of a picture (h, w)."""
    rows, columns = (n // side for n in picture.shape)
    cut = picture[: rows * side, : columns * side]
    return np.asarray(cut.reshape(rows, side, columns, side).mean(axis=(1, 3)))
