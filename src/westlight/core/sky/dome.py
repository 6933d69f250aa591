"""A sky as a dome of colour: what every sky model hands to the rest of the program."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from ..colour import AP1_LUMINANCE

Array = npt.NDArray[np.float64]


@dataclass(frozen=True)
class Sky:
    """Radiance of the sky without the sun's disc.

    ``grid`` holds working-space RGB (luminance in cd/m²), shape (elevations, azimuths, 3), from
    horizon to zenith and from the sun's azimuth to the opposite side (the sky is symmetric about
    the sun's vertical). Rows lie at elevation 90°·v², columns at 180°·u², so that the horizon and
    the neighbourhood of the sun are finest. Below the horizon the ground shines back evenly.
    """

    grid: Array
    sun_azimuth_deg: float
    sun_elevation_deg: float
    ground_rgb: Array
    sun_rgb: Array | None = None

    def rgb(self, directions: npt.ArrayLike) -> Array:
        """Working-space RGB in cd/m² towards unit directions (n, 3), x east, y north, z up."""
        d = np.asarray(directions, dtype=np.float64).reshape(-1, 3)
        elevation = np.arcsin(np.clip(d[:, 2], -1.0, 1.0))
        i, a = self._rows(elevation)
        j, b = self._columns(np.arctan2(d[:, 0], d[:, 1]))
        a, b, g = a[:, None], b[:, None], self.grid
        low = g[i, j] * (1 - b) + g[i, j + 1] * b
        high = g[i + 1, j] * (1 - b) + g[i + 1, j + 1] * b
        above = low * (1 - a) + high * a
        return np.where((elevation < 0)[:, None], self.ground_rgb[None, :], above)

    def _rows(self, elevation: Array) -> tuple[npt.NDArray[np.int64], Array]:
        """Rows of the grid below elevations (radians), and how far they are on the way to the next."""
        rows = len(self.grid)
        v = np.sqrt(np.clip(elevation / (math.pi / 2), 0, 1)) * (rows - 1)
        i = np.minimum(v.astype(np.int64), rows - 2)
        return i, v - i

    def _columns(self, azimuth: Array) -> tuple[npt.NDArray[np.int64], Array]:
        """The same of columns, for azimuths (radians, clockwise from north)."""
        columns = self.grid.shape[1]
        away = azimuth - math.radians(self.sun_azimuth_deg)
        away = np.abs((away + math.pi) % (2 * math.pi) - math.pi)
        u = np.sqrt(np.clip(away / math.pi, 0, 1)) * (columns - 1)
        j = np.minimum(u.astype(np.int64), columns - 2)
        return j, u - j

    def luminance(self, directions: npt.ArrayLike) -> Array:
        """Luminance in cd/m² towards unit directions, (n, 3) → (n,)."""
        return self.rgb(directions) @ AP1_LUMINANCE

    def horizontal_rgb(self) -> Array:
        """Working-space irradiance of the sky alone on open level ground; its luminance is lux."""
        n = 90
        sin2 = (np.arange(n) + 0.5) / n  # equal steps of sin²: cosine-weighted rings
        phi = (np.arange(180) + 0.5) / 180 * 2 * math.pi
        return np.asarray(math.pi * self.over(np.arcsin(np.sqrt(sin2)), phi).mean(axis=(0, 1)))

    def horizontal_illuminance(self) -> float:
        """Illuminance in lux of the sky alone, without the sun's disc, on open level ground."""
        return float(self.horizontal_rgb() @ AP1_LUMINANCE)

    def sun_normal_rgb(self) -> Array:
        """Working-space irradiance of the sun's disc on a plane facing it; its luminance is lux."""
        return np.zeros(3) if self.sun_rgb is None else self.sun_rgb

    def sun_normal_illuminance(self) -> float:
        """Illuminance in lux of the sun's disc on a plane facing it; 0 below the horizon."""
        return float(self.sun_normal_rgb() @ AP1_LUMINANCE)

    def image(self, width: int = 512, height: int = 256) -> npt.NDArray[np.float32]:
        """Latitude–longitude picture, RGB in cd/m², (height, width, 3) float32.

        Row 0 is the zenith; columns run from north (0) through east, clockwise.
        """
        elevation = (0.5 - (np.arange(height) + 0.5) / height) * math.pi
        azimuth = (np.arange(width) + 0.5) / width * 2 * math.pi
        return self.over(elevation, azimuth).astype(np.float32)

    def over(self, elevation: Array, azimuth: Array) -> Array:
        """Working-space RGB in cd/m² at every elevation (h,) and azimuth (w,), (h, w, 3); radians, clockwise from north.

        The same as `rgb` of those directions, in a twentieth of the time: none is asked for by itself.
        """
        i, a = self._rows(elevation)
        j, b = self._columns(azimuth)
        a, b = a[:, None, None], b[:, None]
        rows = self.grid[i] * (1 - a) + self.grid[i + 1] * a
        rows[elevation < 0] = self.ground_rgb
        return np.asarray(rows[:, j] * (1 - b) + rows[:, j + 1] * b)
