"""What window portals are worth in a view: noise in equal time with and without them, measured."""

from __future__ import annotations

import time
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from ..colour import AP1_LUMINANCE
from ..transport.assemble import Assembled
from ..transport.film import Accumulator
from ..transport.render import PassRun
from ..view import View

F4 = npt.NDArray[np.float32]
#: Share of the worst pixels that is left out: a few speckles would outweigh the picture.
WORST = 0.02
#: Passes that are compared, and how many times as many the picture gets they are compared with.
PASSES, TRUER = 12, 8


@dataclass(frozen=True)
class PortalGain:
    """By how much noise is less in equal time: of direct light, and of all of it; 1 is no gain."""

    direct: float
    whole: float


def portal_gain(
    bare: Assembled, guided: Assembled, row: int, view: View, bounces: int = 6
) -> PortalGain:
    """Gain in noise of source ``row`` by portals: ``guided`` has them, ``bare`` does not.

    Noise is the relative error against a picture with many passes, drawn through the portals; both
    kinds aim at it, because portals never change the mean. Takes some seconds at 96 × 54 pixels.
    Source: equal-time comparison as in Veach (1997), section 9.
    """
    return PortalGain(*(_gain(bare, guided, row, view, b) for b in (0, bounces)))


def _traced(assembled: Assembled, row: int, view: View, bounces: int, passes: int, seed: int) -> F4:
    film = Accumulator.empty(view.height_px, view.width_px)
    PassRun(assembled, view, [row], [film], upto=passes, seed=seed, bounces=bounces,
            glances=(0,)).advance()  # fmt: skip
    return np.asarray(film.mean() @ AP1_LUMINANCE.astype(np.float32))


def _gain(bare: Assembled, guided: Assembled, row: int, view: View, bounces: int) -> float:
    truth = _traced(guided, row, view, bounces, PASSES * TRUER, 1)
    floor = np.maximum(truth, 0.02 * float(truth.mean()) + 1e-12) ** 2

    def cost(assembled: Assembled) -> float:
        """Squared error times the time it took."""
        begun = time.perf_counter()
        error = (_traced(assembled, row, view, bounces, PASSES, 7) - truth) ** 2 / floor
        took = time.perf_counter() - begun
        return float(error[error <= np.quantile(error, 1 - WORST)].mean()) * took

    return float(np.sqrt(cost(bare) / max(cost(guided), 1e-12)))
