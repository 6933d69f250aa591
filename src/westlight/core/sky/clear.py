"""Clear sky for any sun elevation, spectral, with haze and ground, from noon into twilight."""

from __future__ import annotations

import math
from functools import lru_cache
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from ..colour import XYZ_TO_AP1, colour_matching
from ..remembered import key_of, remembered
from ..sun import SUN_RADIUS_DEG
from . import atmosphere as air
from .dome import Sky

Array = npt.NDArray[np.float64]

#: Illuminance of the sun outside the air on a plane facing it, in lux.
EXTRATERRESTRIAL_LX = 128_000.0
#: Airglow and stars, cd/m²: the floor of a moonless night without towns.
NIGHT_FLOOR_CD_M2 = 2.0e-4
GRID_ROWS, GRID_COLUMNS = 40, 40
#: Way in which the table of multiple scattering is worked out; raise it when that changes.
_TABLE = 1


class _Air(NamedTuple):
    haze: Array
    transmittance: Array
    multiple: Array


def _spectral_to_rgb() -> Array:
    """Weights (n, 3) from radiance per unit sun irradiance to working-space RGB in cd/m²."""
    step = float(air.WAVELENGTHS_NM[1] - air.WAVELENGTHS_NM[0])
    xyz = colour_matching(air.WAVELENGTHS_NM) * (air.SOLAR * step)[:, None] * 683.002
    xyz *= EXTRATERRESTRIAL_LX / xyz[:, 1].sum()
    return np.asarray(xyz @ XYZ_TO_AP1.T)


_TO_RGB = _spectral_to_rgb()


@lru_cache(maxsize=16)
def _air(haze: float, ground_albedo: float) -> _Air:
    extinction = air.haze_extinction(haze)  # type: ignore[no-untyped-call]
    trans = air.transmittance_grid(air.RAYLEIGH, extinction, air.OZONE, 40, 96)

    def worked_out() -> dict[str, Array]:
        table = air.multiple_scattering_table(
            air.RAYLEIGH, extinction, air.OZONE, ground_albedo, trans, 16, 40
        )
        return {"table": table}

    # Half a second: the whole of a sky takes 0.1 s otherwise.
    key = key_of(_TABLE, air.RAYLEIGH, extinction, air.OZONE, ground_albedo, trans)
    return _Air(
        extinction, trans, np.asarray(remembered("scattering", key, worked_out)["table"], float)
    )


def _sun_rgb(layers: _Air, elevation_deg: float) -> Array:
    """Irradiance of the disc, averaged over the part of it that stands above the horizon."""
    offsets = np.linspace(-0.9, 0.9, 7) * SUN_RADIUS_DEG
    chord = np.sqrt(np.maximum(1 - (offsets / SUN_RADIUS_DEG) ** 2, 0.0))
    mus = np.sin(np.radians(elevation_deg + offsets))
    trans = air.transmittance_table(air.RAYLEIGH, layers.haze, air.OZONE, np.array([5.0]), mus)[0]
    spectrum = (trans * chord[:, None]).sum(axis=0) / chord.sum()
    return np.maximum(spectrum @ _TO_RGB, 0.0)


def _air_of(sun_elevation_deg: float, haze: float, ground_albedo: float) -> _Air:
    """The air of a clear sky; raises `ValueError` for a sun, haze or ground that could not be."""
    if not -90.0 <= sun_elevation_deg <= 90.0:
        raise ValueError("The sun's elevation must lie between −90° and 90°.")
    if not 1.0 <= haze <= 12.0 or not 0.0 <= ground_albedo <= 1.0:
        raise ValueError("Haze must lie between 1 and 12, ground reflectance between 0 and 1.")
    return _air(round(haze, 3), round(ground_albedo, 3))


def _radiance(layers: _Air, elevations: Array, azimuths: Array, sun_elevation_deg: float) -> Array:
    """Working-space RGB in cd/m² (elevations, azimuths, 3); angles in radians, azimuths relative to the sun."""
    spectral = air.sky_radiance(
        elevations,
        azimuths,
        math.radians(sun_elevation_deg),
        air.RAYLEIGH,
        layers.haze,
        air.OZONE,
        layers.transmittance,
        layers.multiple,
        36,
    )
    return np.asarray(np.maximum(spectral @ _TO_RGB, 0.0) + NIGHT_FLOOR_CD_M2)


def clear_sky_above_sun(
    elevations_deg: npt.ArrayLike,
    sun_elevation_deg: float,
    haze: float = 2.0,
    ground_albedo: float = 0.2,
) -> Array:
    """Working-space RGB in cd/m² (n, 3) of a clear sky over the sun, at elevations in degrees (n,).

    Much quicker than a whole sky where only its colours are wanted; arguments and errors as of `clear_sky`.
    """
    layers = _air_of(sun_elevation_deg, haze, ground_albedo)
    up = np.radians(np.atleast_1d(np.asarray(elevations_deg, float)))
    return _radiance(layers, up, np.zeros(1), sun_elevation_deg)[:, 0]


@lru_cache(maxsize=256)
def sun_irradiance(elevation_deg: float, haze: float = 2.0, ground_albedo: float = 0.2) -> Array:
    """Working-space irradiance of the sun's disc through clear air on a plane facing it.

    Its luminance is lux. Much quicker than a whole sky; elevation in degrees, haze as turbidity.
    """
    return _sun_rgb(_air(round(haze, 3), round(ground_albedo, 3)), elevation_deg)


@lru_cache(maxsize=64)
def clear_sky(
    sun_elevation_deg: float,
    sun_azimuth_deg: float = 180.0,
    haze: float = 2.0,
    ground_albedo: float = 0.2,
) -> Sky:
    """Clear sky with the sun at an elevation and azimuth in degrees (from north, clockwise).

    ``haze`` is the turbidity 1 + τ_haze/τ_Rayleigh at 550 nm (1 = clean air, 2 clear, 6 hazy);
    ``ground_albedo`` is the reflectance of the country around, 0–1. Valid from 90° to −18°;
    below, the floor of a moonless night remains. Raises ``ValueError`` outside −90…90°, haze 1…12,
    albedo 0…1. Method and data: see `westlight.core.sky.atmosphere`.

    >>> 70_000 < clear_sky(40.0).sun_normal_illuminance() < 100_000
    True
    """
    layers = _air_of(sun_elevation_deg, haze, ground_albedo)
    v, u = np.linspace(0, 1, GRID_ROWS), np.linspace(0, 1, GRID_COLUMNS)
    grid = _radiance(
        layers, np.maximum(v**2 * math.pi / 2, 1e-4), u**2 * math.pi, sun_elevation_deg
    )
    sun = _sun_rgb(layers, sun_elevation_deg)
    sky = Sky(grid, sun_azimuth_deg, sun_elevation_deg, np.zeros(3), sun)
    falling = sky.horizontal_rgb() + sun * max(math.sin(math.radians(sun_elevation_deg)), 0.0)
    return Sky(grid, sun_azimuth_deg, sun_elevation_deg, ground_albedo * falling / math.pi, sun)
