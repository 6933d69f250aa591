"""Kelvin: colour of lamps and white points.

Planckian locus below 4000 K, CIE daylight locus (CIE 15:2004) above 5000 K, blended between.
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np
import numpy.typing as npt

from .spaces import (
    AP1_LUMINANCE,
    AP1_TO_XYZ,
    AP1_WHITE_XY,
    XYZ_TO_AP1,
    adaptation_matrix,
    xy_to_xyz,
)
from .spectrum import planck_xy

Array = npt.NDArray[np.float64]

KELVIN_MIN, KELVIN_MAX = 1000.0, 25000.0


def _daylight_xy(kelvin: float) -> tuple[float, float]:
    t = 1000.0 / kelvin
    if kelvin <= 7000.0:
        x = 0.244063 + 0.09911 * t + 2.9678 * t**2 - 4.6070 * t**3
    else:
        x = 0.237040 + 0.24748 * t + 1.9018 * t**2 - 2.0064 * t**3
    return x, -3.0 * x**2 + 2.870 * x - 0.275


@lru_cache(maxsize=512)
def kelvin_to_xy(kelvin: float) -> tuple[float, float]:
    """Chromaticity of a colour temperature in kelvin (1000–25 000, clamped).

    >>> tuple(round(v, 3) for v in kelvin_to_xy(6504))
    (0.313, 0.329)
    """
    k = min(max(kelvin, KELVIN_MIN), KELVIN_MAX)
    if k <= 4000.0:
        return planck_xy(k)
    if k >= 5000.0:
        return _daylight_xy(k)
    blend = (k - 4000.0) / 1000.0
    (xp, yp), (xd, yd) = planck_xy(k), _daylight_xy(max(k, 4000.0))
    return xp + (xd - xp) * blend, yp + (yd - yp) * blend


def kelvin_to_rgb(kelvin: float) -> Array:
    """Working-space RGB of light at ``kelvin``, luminance 1, shape (3,)."""
    rgb = np.maximum(XYZ_TO_AP1 @ xy_to_xyz(kelvin_to_xy(kelvin)), 0.0)
    return rgb / float(rgb @ AP1_LUMINANCE)


def nearest_kelvin(rgb: npt.ArrayLike) -> float:
    """Correlated colour temperature in kelvin of working-space light, 1000–25 000.

    The nearest point of the locus in CIE 1960 u, v. Raises ``ValueError`` for no light.

    >>> round(nearest_kelvin(kelvin_to_rgb(3200.0)), -2)
    3200.0
    """
    x, y, z = (float(v) for v in AP1_TO_XYZ @ np.asarray(rgb, float))
    if x + y + z <= 0:
        raise ValueError("Light without energy has no colour temperature.")
    u, v = 4 * x / (x + 15 * y + 3 * z), 6 * y / (x + 15 * y + 3 * z)
    kelvins, us, vs = _locus_uv()
    return float(kelvins[np.argmin((us - u) ** 2 + (vs - v) ** 2)])


def white_of(rgb: npt.ArrayLike) -> tuple[float, float]:
    """White point, kelvin and green–magenta tint, that makes a working-space colour neutral.

    The tint is in the unit of `white_balance_matrix`. Raises ``ValueError`` for no light.

    >>> k, tint = white_of(kelvin_to_rgb(4300.0))
    >>> round(k, -2), abs(tint) < 0.2
    (4300.0, True)
    """
    x, y, z = (float(v) for v in AP1_TO_XYZ @ np.asarray(rgb, float))
    if x + y + z <= 0:
        raise ValueError("Light without energy has no white point.")
    u, v = 4 * x / (x + 15 * y + 3 * z), 6 * y / (x + 15 * y + 3 * z)
    kelvins, us, vs = _locus_uv()
    # The tint moves along v alone, so the locus is met at the same u.
    i = int(np.argmin(np.abs(us - u)))
    return float(kelvins[i]), float((v - vs[i]) * 1000.0)


@lru_cache(maxsize=1)
def _locus_uv() -> tuple[Array, Array, Array]:
    kelvins = 1e6 / np.linspace(1e6 / KELVIN_MIN, 1e6 / KELVIN_MAX, 1200)
    x, y = np.array([kelvin_to_xy(float(k)) for k in kelvins]).T
    return kelvins, 4 * x / (-2 * x + 12 * y + 3), 6 * y / (-2 * x + 12 * y + 3)


def white_balance_matrix(kelvin: float, tint: float = 0.0) -> Array:
    """3×3 matrix in the working space that makes light of ``kelvin`` neutral.

    ``tint`` shifts towards magenta (+) or green (−), in units of 0.001 of CIE 1960 v.
    """
    x, y = kelvin_to_xy(kelvin)
    u, v = 4 * x / (-2 * x + 12 * y + 3), 6 * y / (-2 * x + 12 * y + 3)
    v += 0.001 * tint
    x, y = 3 * u / (2 * u - 8 * v + 4), 2 * v / (2 * u - 8 * v + 4)
    return XYZ_TO_AP1 @ adaptation_matrix([x, y], AP1_WHITE_XY) @ AP1_TO_XYZ
