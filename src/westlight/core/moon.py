"""The moon: where it stands, how much of it is lit, and the light it gives.

Position by the low-precision series of the *Astronomical Almanac* (page D22: 0.3° in longitude,
0.2° in latitude), with parallax for the site; brightness by Allen, *Astrophysical Quantities* (1973).
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from datetime import UTC, datetime

import numpy as np
import numpy.typing as npt

from .colour import AP1_LUMINANCE, kelvin_to_rgb
from .sky.clear import EXTRATERRESTRIAL_LX, clear_sky, sun_irradiance
from .sky.dome import Sky

#: Its light is sunlight from grey-brown rock: warmer than the sun.
MOON_KELVIN = 4100.0
#: Apparent diameter against the sun's mean 0.533°.
MOON_SIZE = 0.97
_J2000 = datetime(2000, 1, 1, 12, tzinfo=UTC)


@dataclass(frozen=True)
class MoonPosition:
    """Direction in degrees (azimuth from north, clockwise), and its phase.

    ``phase_deg`` is the angle sun–moon–earth: 0 full, 180 new; ``lit`` the share of the disc that
    shines; ``illuminance_lx`` on a plane facing it outside the air.
    """

    azimuth_deg: float
    elevation_deg: float
    phase_deg: float
    lit: float
    illuminance_lx: float


def _sin(degrees: float) -> float:
    return math.sin(math.radians(degrees))


def _cos(degrees: float) -> float:
    return math.cos(math.radians(degrees))


def moon_position(when: datetime, latitude_deg: float, longitude_deg: float) -> MoonPosition:
    """The moon at an aware time; latitude north and longitude east positive, in degrees.

    Good to about half a degree from 1900 to 2100. Raises ``ValueError`` for a time without zone or
    a place off the globe.

    >>> p = moon_position(datetime(2025, 3, 14, 6, 55, tzinfo=UTC), 40.0, -100.0)
    >>> p.lit > 0.999
    True
    """
    if when.tzinfo is None or when.utcoffset() is None:
        raise ValueError("A time needs its time zone: give an aware datetime.")
    if not (-90 <= latitude_deg <= 90 and -180 <= longitude_deg <= 180):
        raise ValueError("Latitude must lie within ±90° and longitude within ±180°.")
    days = (when - _J2000).total_seconds() / 86400.0
    t = (days + 69.0 / 86400.0) / 36525.0
    mean = 135.0 + 477198.87 * t
    longitude = (
        218.32 + 481267.881 * t + 6.29 * _sin(mean) - 1.27 * _sin(259.3 - 413335.36 * t)
        + 0.66 * _sin(235.7 + 890534.22 * t) + 0.21 * _sin(269.9 + 954397.74 * t)
        - 0.19 * _sin(357.5 + 35999.05 * t) - 0.11 * _sin(186.5 + 966404.03 * t)
    )  # fmt: skip
    latitude = (
        5.13 * _sin(93.3 + 483202.02 * t) + 0.28 * _sin(228.2 + 960400.89 * t)
        - 0.28 * _sin(318.3 + 6003.15 * t) - 0.17 * _sin(217.6 - 407332.21 * t)
    )  # fmt: skip
    parallax = (
        0.9508 + 0.0518 * _cos(mean) + 0.0095 * _cos(259.3 - 413335.36 * t)
        + 0.0078 * _cos(235.7 + 890534.22 * t) + 0.0028 * _cos(269.9 + 954397.74 * t)
    )  # fmt: skip
    azimuth, elevation = _above(longitude, latitude, t, days, latitude_deg, longitude_deg)
    elevation -= parallax * _cos(elevation)
    anomaly = 357.528 + 0.9856003 * days
    sun = 280.460 + 0.9856474 * days + 1.915 * _sin(anomaly) + 0.020 * _sin(2 * anomaly)
    apart = _cos(latitude) * _cos(longitude - sun)
    phase = 180.0 - math.degrees(math.acos(max(-1.0, min(1.0, apart))))
    magnitude = -12.73 + 0.026 * phase + 4e-9 * phase**4
    lux = 10 ** (-0.4 * (magnitude + 14.18)) * (parallax / 0.9508) ** 2
    return MoonPosition(azimuth, elevation, phase, (1 + _cos(phase)) / 2, lux)


def _above(
    longitude: float, latitude: float, t: float, days: float, site_latitude: float, east: float
) -> tuple[float, float]:
    """Azimuth and elevation in degrees of ecliptic coordinates at a site."""
    tilt = 23.439 - 0.013 * t
    x = _cos(latitude) * _cos(longitude)
    y = _cos(latitude) * _sin(longitude) * _cos(tilt) - _sin(latitude) * _sin(tilt)
    z = _cos(latitude) * _sin(longitude) * _sin(tilt) + _sin(latitude) * _cos(tilt)
    right_ascension = math.degrees(math.atan2(y, x))
    sidereal = 280.46061837 + 360.98564736629 * days + east
    hour = sidereal - right_ascension
    c = math.hypot(x, y)
    up = z * _sin(site_latitude) + c * _cos(site_latitude) * _cos(hour)
    north = z * _cos(site_latitude) - c * _sin(site_latitude) * _cos(hour)
    towards_east = -c * _sin(hour)
    azimuth = math.degrees(math.atan2(towards_east, north)) % 360.0
    return azimuth, math.degrees(math.asin(max(-1.0, min(1.0, up))))


def moonlight(
    elevation_deg: float, illuminance_lx: float, haze: float = 2.0
) -> npt.NDArray[np.float64]:
    """Working-space RGB of moonlight through the air on a plane facing it; its luminance is lux."""
    through = sun_irradiance(round(elevation_deg, 2), haze)
    hue = kelvin_to_rgb(MOON_KELVIN) / kelvin_to_rgb(5800.0)
    rgb = through * hue * (illuminance_lx / EXTRATERRESTRIAL_LX)
    return np.asarray(rgb)


def moonlit(sky: Sky, azimuth_deg: float, elevation_deg: float, illuminance_lx: float,
            haze: float = 2.0, ground_albedo: float = 0.2) -> Sky:  # fmt: skip
    """A sky with the light the moon's own makes in the air: faint, and as blue as a day's."""
    if not illuminance_lx > 0:
        return sky
    day = clear_sky(round(elevation_deg, 2), round(azimuth_deg, 2), haze, ground_albedo)
    share = illuminance_lx / EXTRATERRESTRIAL_LX
    hue = kelvin_to_rgb(MOON_KELVIN) / kelvin_to_rgb(5800.0) * share
    own = Sky(day.grid * hue, azimuth_deg, elevation_deg, day.ground_rgb * hue)
    return MoonlitSky(sky.grid, sky.sun_azimuth_deg, sky.sun_elevation_deg, sky.ground_rgb,
                      sky.sun_rgb, own)  # fmt: skip


@dataclass(frozen=True)
class MoonlitSky(Sky):
    """A sky, and on top of it that of the moon, about another vertical."""

    moon: Sky | None = None

    def rgb(self, directions: npt.ArrayLike) -> npt.NDArray[np.float64]:
        """Working-space RGB in cd/m² towards unit directions (n, 3), x east, y north, z up."""
        own = super().rgb(directions)
        return own if self.moon is None else own + self.moon.rgb(directions)

    def over(
        self, elevation: npt.NDArray[np.float64], azimuth: npt.NDArray[np.float64]
    ) -> npt.NDArray[np.float64]:
        """As `Sky.over`."""
        own = super().over(elevation, azimuth)
        return own if self.moon is None else own + self.moon.over(elevation, azimuth)


def with_town_glow(sky: Sky, cd_m2: float) -> Sky:
    """A sky with the glow of towns along its horizon, ``cd_m2`` there and a tenth at 30°: a cheat."""
    if not cd_m2 > 0:
        return sky
    rows = sky.grid.shape[0]
    elevation = np.linspace(0, 1, rows) ** 2 * math.pi / 2
    glow = cd_m2 * np.exp(-elevation / math.radians(13.0))
    grid = sky.grid + glow[:, None, None] * kelvin_to_rgb(2400.0)
    ground = sky.ground_rgb + 0.02 * cd_m2 * kelvin_to_rgb(2400.0)
    return Sky(grid, sky.sun_azimuth_deg, sky.sun_elevation_deg, ground, sky.sun_rgb)


def moon_lux(elevation_deg: float, illuminance_lx: float, haze: float = 2.0) -> float:
    """Illuminance in lux of the moon's disc on a plane facing it, through the air."""
    return float(moonlight(elevation_deg, illuminance_lx, haze) @ AP1_LUMINANCE)
