"""Spectra to colour: CIE 1931 matching functions and black bodies.

Matching functions by the multi-lobe fit of Wyman, Sloan & Shirley 2013 ("Simple analytic
approximations to the CIE XYZ color matching functions", JCGT 2(2)), within about 1 %.
"""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

Array = npt.NDArray[np.float64]

#: Second radiation constant hc/k in m·K (CODATA 2018).
_C2 = 1.438776877e-2
#: Maximum luminous efficacy in lm/W.
K_M = 683.002


def _lobe(w: Array, centre: float, left: float, right: float) -> Array:
    scale = np.where(w < centre, left, right)
    return np.exp(-0.5 * ((w - centre) * scale) ** 2)


def colour_matching(wavelength_nm: npt.ArrayLike) -> Array:
    """CIE 1931 x̄, ȳ, z̄ at wavelengths in nm, shape (n,) → (n, 3)."""
    w = np.asarray(wavelength_nm, dtype=np.float64)
    x = (
        0.362 * _lobe(w, 442.0, 0.0624, 0.0374)
        + 1.056 * _lobe(w, 599.8, 0.0264, 0.0323)
        - 0.065 * _lobe(w, 501.1, 0.0490, 0.0382)
    )
    y = 0.821 * _lobe(w, 568.8, 0.0213, 0.0247) + 0.286 * _lobe(w, 530.9, 0.0613, 0.0322)
    z = 1.217 * _lobe(w, 437.0, 0.0845, 0.0278) + 0.681 * _lobe(w, 459.0, 0.0385, 0.0725)
    return np.stack([x, y, z], axis=-1)


def planck_xy(kelvin: float) -> tuple[float, float]:
    """Chromaticity of a black body at ``kelvin`` (Planck's law, 360–830 nm in 5 nm steps).

    >>> tuple(round(v, 2) for v in planck_xy(2856))
    (0.45, 0.41)
    """
    w = np.arange(360.0, 831.0, 5.0)
    metres = w * 1e-9
    radiance = metres**-5 / np.expm1(_C2 / (metres * kelvin))
    X, Y, Z = radiance @ colour_matching(w)
    total = X + Y + Z
    return float(X / total), float(Y / total)
