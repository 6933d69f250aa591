"""The fifteen standard general skies of ISO 15469 / CIE S 011."""

from __future__ import annotations

import math

import numpy as np
import numpy.typing as npt

from ..colour import kelvin_to_rgb
from .dome import Sky

Array = npt.NDArray[np.float64]

#: (a, b, c, d, e) of types 1–15.
COEFFICIENTS: dict[int, tuple[float, float, float, float, float]] = {
    1: (4.0, -0.70, 0.0, -1.0, 0.0),
    2: (4.0, -0.70, 2.0, -1.5, 0.15),
    3: (1.1, -0.80, 0.0, -1.0, 0.0),
    4: (1.1, -0.80, 2.0, -1.5, 0.15),
    5: (0.0, -1.0, 0.0, -1.0, 0.0),
    6: (0.0, -1.0, 2.0, -1.5, 0.15),
    7: (0.0, -1.0, 5.0, -2.5, 0.30),
    8: (0.0, -1.0, 10.0, -3.0, 0.45),
    9: (-1.0, -0.55, 2.0, -1.5, 0.15),
    10: (-1.0, -0.55, 5.0, -2.5, 0.30),
    11: (-1.0, -0.55, 10.0, -3.0, 0.45),
    12: (-1.0, -0.32, 10.0, -3.0, 0.45),
    13: (-1.0, -0.32, 16.0, -3.0, 0.30),
    14: (-1.0, -0.15, 16.0, -3.0, 0.30),
    15: (-1.0, -0.15, 24.0, -2.8, 0.15),
}
OVERCAST_TYPES = frozenset(range(1, 7))
OVERCAST_KELVIN, CLEAR_KELVIN = 6500.0, 10_000.0


def overcast_illuminance(sun_elevation_deg: float) -> float:
    """Illuminance in lux of an overcast sky on level ground: 0.3 + 21·sin α klx (IES)."""
    return 300.0 + 21_000.0 * math.sin(math.radians(max(sun_elevation_deg, 0.0)))


def clear_illuminance(sun_elevation_deg: float) -> float:
    """Illuminance in lux of a clear sky on level ground: 0.8 + 15.5·√sin α klx (IES)."""
    return 800.0 + 15_500.0 * math.sqrt(math.sin(math.radians(max(sun_elevation_deg, 0.0))))


def relative_luminance(cie_type: int, zenith: Array, sun_angle: Array) -> Array:
    """φ(Z)·f(χ) of a standard sky for zenith angles Z and angles χ from the sun, in radians."""
    a, b, c, d, e = COEFFICIENTS[cie_type]
    gradation = 1.0 + a * np.exp(b / np.maximum(np.cos(zenith), 1e-3))
    indicatrix = 1.0 + c * (np.exp(d * sun_angle) - math.exp(d * math.pi / 2))
    return gradation * (indicatrix + e * np.cos(sun_angle) ** 2)


def cie_sky(
    cie_type: int,
    sun_elevation_deg: float,
    sun_azimuth_deg: float = 180.0,
    horizontal_illuminance_lx: float | None = None,
    ground_albedo: float = 0.2,
) -> Sky:
    """Standard sky 1–15 scaled to an illuminance in lux on level ground.

    Without ``horizontal_illuminance_lx`` the IES overcast or clear value for the sun's elevation
    is used. Raises ``ValueError`` for an unknown type.

    >>> round(cie_sky(5, 30.0, horizontal_illuminance_lx=10_000).horizontal_illuminance())
    10000
    """
    if cie_type not in COEFFICIENTS:
        raise ValueError("CIE standard skies are numbered 1 to 15.")
    rows, columns = 48, 48
    elevation = np.linspace(0, 1, rows)[:, None] ** 2 * math.pi / 2
    azimuth = np.linspace(0, 1, columns)[None, :] ** 2 * math.pi
    sun = math.radians(max(sun_elevation_deg, 0.0))
    cosine = np.sin(elevation) * math.sin(sun) + np.cos(elevation) * math.cos(sun) * np.cos(azimuth)
    shape = relative_luminance(
        cie_type, math.pi / 2 - elevation + 0 * azimuth, np.arccos(np.clip(cosine, -1, 1))
    )
    overcast = cie_type in OVERCAST_TYPES
    colour = kelvin_to_rgb(OVERCAST_KELVIN if overcast else CLEAR_KELVIN)
    if horizontal_illuminance_lx is None:
        level = overcast_illuminance if overcast else clear_illuminance
        horizontal_illuminance_lx = level(sun_elevation_deg)
    grid = np.maximum(shape, 0.0)[..., None] * colour
    unit = Sky(grid, sun_azimuth_deg, sun_elevation_deg, np.zeros(3))
    scale = horizontal_illuminance_lx / unit.horizontal_illuminance()
    ground = ground_albedo * horizontal_illuminance_lx / math.pi * colour
    return Sky(grid * scale, sun_azimuth_deg, sun_elevation_deg, ground)
