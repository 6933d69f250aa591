"""A sky set by hand: one colour, or zenith, horizon and ground apart. Honest in amount, free in form."""

from __future__ import annotations

import math

import numpy as np
import numpy.typing as npt

from ..colour import kelvin_to_rgb
from .dome import Sky


def graded_sky(
    horizontal_illuminance_lx: float,
    zenith: float | npt.ArrayLike = 6500.0,
    horizon: float | npt.ArrayLike | None = None,
    horizon_brightness: float = 1.0,
    spread: float = 1.0,
    ground: npt.ArrayLike | None = None,
    ground_albedo: float = 0.2,
) -> Sky:
    """A sky that runs from a horizon to a zenith colour and gives an illuminance in lux on the ground.

    Colours are kelvin or working-space RGB (only their hue counts); ``horizon`` like the zenith by
    default. ``horizon_brightness`` is its luminance over the zenith's; ``spread`` above 1 draws the
    horizon's colour further up. The ground shines back ``ground_albedo`` of that light, or
    ``ground`` as RGB in cd/m². Raises ``ValueError`` for a negative amount or brightness.

    >>> sky = graded_sky(10_000.0, 9000.0, 4000.0, 2.0)
    >>> round(sky.horizontal_illuminance())
    10000
    """
    if not horizontal_illuminance_lx >= 0 or not horizon_brightness >= 0:
        raise ValueError("A sky cannot have a negative amount of light.")

    def colour(of: float | npt.ArrayLike) -> npt.NDArray[np.float64]:
        return kelvin_to_rgb(float(of)) if np.ndim(of) == 0 else np.asarray(of, float)  # type: ignore[arg-type]

    top = colour(zenith)
    low = (colour(horizon) if horizon is not None else top) * horizon_brightness
    rows = 64
    elevation = np.linspace(0, 1, rows) ** 2 * math.pi / 2
    share = ((1.0 - np.sin(elevation)) ** (3.0 / max(spread, 0.05)))[:, None, None]
    grid = np.repeat(top * (1 - share) + low * share, 8, axis=1)
    lux = Sky(grid, 0.0, 0.0, np.zeros(3)).horizontal_illuminance()
    scale = horizontal_illuminance_lx / lux if lux > 0 else 0.0
    below = Sky(grid * scale, 0.0, 0.0, np.zeros(3)).horizontal_rgb() * ground_albedo / math.pi
    return Sky(grid * scale, 0.0, 0.0, below if ground is None else np.asarray(ground, float))
