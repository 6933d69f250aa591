"""Directional albedo of GGX lobes, tabulated once, for the energy balance of surfaces."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
import numpy.typing as npt

from ..remembered import key_of, remembered

ROWS, COLUMNS = 33, 32
_F0, _FADE, _ALPHA_MIN = 0.04, 0.85, 0.0016
_SAMPLES = 2048
#: Way in which the tables are worked out; raise it when that changes.
_WAY = 1

F4 = npt.NDArray[np.float32]


def _split_sum(
    roughness: float, cosines: npt.NDArray[np.float64]
) -> tuple[npt.NDArray[np.float64], npt.NDArray[np.float64]]:
    """Scale and bias A, B with albedo = F0·A + B for Schlick's Fresnel (Karis 2013)."""
    alpha = max(roughness**2, _ALPHA_MIN)
    n = np.arange(_SAMPLES) + 0.5
    u, v = n / _SAMPLES, (n * 0.6180339887498949) % 1.0
    c = np.maximum(cosines, 1e-3)[:, None]
    ox, oz = np.sqrt(1 - c**2), c
    norm = np.sqrt((alpha * ox) ** 2 + oz**2)
    sx, sz = alpha * ox / norm, oz / norm
    z = (1 - v) * (1 + sz) - sz
    s = np.sqrt(np.maximum(1 - z * z, 0))
    hx, hy, hz = s * np.cos(2 * np.pi * u) + sx, s * np.sin(2 * np.pi * u), z + sz
    hx, hy = hx * alpha, hy * alpha
    k = 1 / np.sqrt(hx**2 + hy**2 + hz**2)
    hx, hz = hx * k, hz * k
    oh = ox * hx + oz * hz
    iz = 2 * oh * hz - oz

    def smith(cosine: npt.NDArray[np.float64]) -> npt.NDArray[np.float64]:
        tangent2 = (1 - cosine**2) / np.maximum(cosine**2, 1e-12)
        return 0.5 * (np.sqrt(1 + alpha**2 * tangent2) - 1)

    weight = np.where(iz > 0, (1 + smith(oz)) / (1 + smith(oz) + smith(np.maximum(iz, 1e-6))), 0)
    fresnel = np.clip(1 - oh, 0, 1) ** 5
    return (weight * (1 - fresnel)).mean(axis=1), (weight * fresnel).mean(axis=1)


@lru_cache(maxsize=1)
def energy_tables() -> tuple[F4, F4]:
    """Albedo tables (2, roughness, cosine) and the mean of the second over cosine (roughness,).

    Table 0: a white GGX lobe without compensation; table 1: the dielectric coat as the surface
    kernel evaluates it, fade and compensation included.
    """
    # A fifth of a second of every start otherwise.
    found = remembered(
        "energy", key_of(_WAY, ROWS, COLUMNS, _F0, _FADE, _ALPHA_MIN, _SAMPLES), _tables
    )
    return found["table"].astype(np.float32), found["mean"].astype(np.float32)


def _tables() -> dict[str, npt.NDArray[np.float32]]:
    cosines = np.linspace(0, 1, COLUMNS)
    table = np.zeros((2, ROWS, COLUMNS))
    for row, roughness in enumerate(np.linspace(0, 1, ROWS)):
        a, b = _split_sum(float(roughness), cosines)
        white = a + b
        fade = min(1.0, max(0.0, (1 - roughness) / (1 - _FADE)))
        table[0, row] = white
        table[1, row] = fade * (_F0 * a + b) * (1 + _F0 * (1 - white) / np.maximum(white, 0.05))
    # Mean over cosine-weighted directions; the tables are linear between their columns.
    fine = np.linspace(0, 1, 1001)
    mean = np.array([np.trapezoid(2 * fine * np.interp(fine, cosines, r), fine) for r in table[1]])
    return {"table": table.astype(np.float32), "mean": mean.astype(np.float32)}
