"""How noisy a picture looks, from the two halves of its passes: for the live picture and for stills alike."""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from westlight.core.analysis.visible import Grain, by_tile, grain_between, invented, steps_apart
from westlight.core.colour import AP1_LUMINANCE
from westlight.core.finish import baked, show
from westlight.core.transport.film import F4

from .spec import ExposureSettings, FinishSettings
from .translate import ev_of, finish_of

U1 = npt.NDArray[np.uint8]
_Y = AP1_LUMINANCE.astype(np.float32)
#: How a scene-linear picture (h, w, 3) is shown.
Show = Callable[[F4], U1]
#: A copy of a picture (h, w, 3) denoised, called as a `Denoiser` is.
Denoise = Callable[..., F4]


class Halves(NamedTuple):
    """Luminance (h, w) of the mix from even and from odd passes at full size, and of what is seen in it."""

    even: F4
    odd: F4
    seen: F4


class Guides(NamedTuple):
    """Albedo and normals (h, w, 3) that the denoiser goes by; ``soft``: see `Denoiser`."""

    albedo: F4
    normal: F4
    soft: bool


def shower(exposure: ExposureSettings, finish: FinishSettings) -> Show:
    """How pictures of a look are shown: exposed, toned and graded, without the lens."""
    table = baked(exposure.tone, finish_of(finish, exposure.tone).grade)

    def shown(picture: F4) -> U1:
        return show(
            picture, ev_of(exposure), exposure.kelvin, exposure.tint, table, dither=True
        ).pixels

    return shown


def grain_of(
    denoise: Denoise, clean: F4, halves: Halves, guides: Guides | None, show: Show
) -> Grain:
    """Noise of a shown picture ``clean`` (h, w, 3) from the halves it is the mean of.

    Without guides the picture is shown as it was traced. The colour of each half is that of the picture: what
    differs is their luminance.
    """
    light = np.maximum(clean @ _Y, np.float32(1e-9))
    hue = clean / light[..., None]
    parts = []
    for half in (halves.even, halves.odd):
        picture, seen = hue * half[..., None], hue * halves.seen[..., None]
        if guides is not None:
            picture = denoise(
                np.maximum(picture, seen), guides.albedo, guides.normal, "high", seen, guides.soft
            )
        parts.append(show(np.ascontiguousarray(picture, np.float32)))
    grain = grain_between(parts[0], parts[1])
    if guides is None:
        return grain
    made_up = invented(light, halves.even, halves.odd)[..., None]
    other = show(np.ascontiguousarray(clean * (1 + made_up), np.float32))
    return Grain(np.maximum(grain.tiles, by_tile(steps_apart(show(clean), other))))
