"""How a tone shows greys, and where the light of a picture lies: the two halves of its tone curve."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import numpy.typing as npt

from ..colour import AP1_LUMINANCE
from ..photometry import saturation_luminance
from .grade import MIDDLE_GREY, Grade, develop_colour
from .show import BLACK_TO, BURNT_FROM

F4 = npt.NDArray[np.float32]
#: Stops from middle grey that the curve and the histogram span.
DARKEST, BRIGHTEST = -8.0, 8.0


@dataclass(frozen=True)
class Response:
    """Shown value 0…1 (n,) of greys from `DARKEST` to `BRIGHTEST` stops about middle grey.

    ``burnt_stops`` and ``black_stops`` are where shown greys begin to count as burnt and cease to
    count as black, as `Shown` counts them; None where that lies outside.
    """

    shown: npt.NDArray[np.float64]
    burnt_stops: float | None
    black_stops: float | None


@lru_cache(maxsize=8)
def response(tone: str, grade: Grade, screen: str = "sRGB", steps: int = 65) -> Response:
    """How a tone and grade show neutral greys.

    >>> r = response("linear", Grade())
    >>> round(float(r.shown[32]), 2)  # middle grey, 18 %, as sRGB encodes it
    0.46
    """
    fine = np.linspace(DARKEST, BRIGHTEST, 8 * (steps - 1) + 1)
    grey = np.repeat((MIDDLE_GREY * np.exp2(fine))[:, None], 3, axis=1)
    shown = develop_colour(grey, tone, grade, screen).mean(axis=1)
    burnt = np.flatnonzero(shown >= BURNT_FROM / 255)
    black = np.flatnonzero(shown <= BLACK_TO / 255)
    return Response(
        shown[::8],
        float(fine[burnt[0]]) if len(burnt) else None,
        float(fine[black[-1]]) if len(black) else None,
    )


def stops_histogram(picture: F4, ev: float, bins: int = 64) -> npt.NDArray[np.int64]:
    """Pixels (bins,) of a scene-linear picture (h, w, 3) in cd/m² by stops from middle grey at an EV.

    What lies beyond the ends counts in the outer bins. Every fourth pixel each way is counted.
    """
    y = picture[::4, ::4].reshape(-1, 3) @ AP1_LUMINANCE.astype(np.float32)
    grey = MIDDLE_GREY * saturation_luminance(ev)
    stops = np.log2(np.maximum(y / grey, 2.0 ** (DARKEST - 1)))
    stops = np.clip(stops, DARKEST, BRIGHTEST)
    return np.histogram(stops, bins, (DARKEST, BRIGHTEST))[0]
