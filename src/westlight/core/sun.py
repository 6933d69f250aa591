"""The sun's place in the sky for a site and time, and its path over a day.

NREL SPA (Reda & Andreas 2004, claimed ±0.0003°) through pvlib; refraction for the apparent
elevation at 1013 hPa and 12 °C.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from functools import lru_cache

import numpy as np
import numpy.typing as npt

#: Mean apparent radius of the sun in degrees (0.262–0.271 over the year).
SUN_RADIUS_DEG = 0.2665
#: Elevation of the sun's centre at sunrise and sunset: refraction plus one radius.
HORIZON_ELEVATION_DEG = -0.833


#: Tilt of the axis of the earth in degrees: the largest declination of the sun.
OBLIQUITY_DEG = 23.44
#: Step of the table of a year: the sun moves 2.5° in it, and matches are refined to the minute.
YEAR_STEP = timedelta(minutes=10)


@dataclass(frozen=True)
class SunPosition:
    """Sun direction in degrees; azimuth from north, clockwise."""

    azimuth_deg: float
    elevation_deg: float
    apparent_elevation_deg: float


@dataclass(frozen=True)
class SunDay:
    """Sunrise, highest stand and sunset of one local day; ``None`` where it does not happen."""

    sunrise: datetime | None
    noon: datetime
    sunset: datetime | None


def _require_zone(when: datetime) -> None:
    if when.tzinfo is None or when.utcoffset() is None:
        raise ValueError("A time needs its time zone: give an aware datetime.")


def sun_positions(
    times: list[datetime], latitude_deg: float, longitude_deg: float
) -> npt.NDArray[np.float64]:
    """Azimuth, elevation and apparent elevation in degrees for aware times, shape (n, 3)."""
    import pandas as pd
    from pvlib import solarposition

    for when in times:
        _require_zone(when)
    if not (-90 <= latitude_deg <= 90 and -180 <= longitude_deg <= 180):
        raise ValueError("Latitude must lie within ±90° and longitude within ±180°.")
    index = pd.DatetimeIndex(pd.to_datetime(times, utc=True))
    table = solarposition.spa_python(index, latitude_deg, longitude_deg)
    columns = ["azimuth", "elevation", "apparent_elevation"]
    return np.asarray(table[columns].to_numpy(), dtype=np.float64)


def sun_position(when: datetime, latitude_deg: float, longitude_deg: float) -> SunPosition:
    """Sun position at an aware time; latitude north and longitude east positive, in degrees.

    Raises ``ValueError`` for a time without zone or a place off the globe.

    >>> from datetime import timezone
    >>> p = sun_position(datetime(2026, 6, 21, 12, 38, tzinfo=timezone.utc), 43.6, -9.1)
    >>> round(p.elevation_deg)
    70
    """
    azimuth, elevation, apparent = sun_positions([when], latitude_deg, longitude_deg)[0]
    return SunPosition(float(azimuth), float(elevation), float(apparent))


#: Parts of a day by the sun's elevation, from and to in degrees: morning, and evening the other way.
DAY_PARTS: tuple[tuple[str, float, float], ...] = (
    ("Golden hour", -4.0, 6.0),
    ("Blue hour", -6.0, -4.0),
    ("Civil twilight", -6.0, HORIZON_ELEVATION_DEG),
    ("Nautical twilight", -12.0, -6.0),
    ("Astronomical twilight", -18.0, -12.0),
)


_WINDS = ("north", "north-east", "east", "south-east", "south", "south-west", "west", "north-west")


def wind(azimuth_deg: float) -> str:
    """The nearest of eight points of the compass for an azimuth in degrees from north.

    >>> wind(229.0), wind(-1.0)
    ('south-west', 'north')
    """
    return _WINDS[round(azimuth_deg / 45) % 8]


def twilight(elevation_deg: float) -> str | None:
    """What it is called when the sun stands below the horizon, by its elevation in degrees; None while it is up.

    >>> twilight(-8.0), twilight(-30.0), twilight(5.0)
    ('Nautical twilight', 'Night', None)
    """
    if elevation_deg >= HORIZON_ELEVATION_DEG:
        return None
    named = (
        n for n, low, high in DAY_PARTS if n.endswith("twilight") and low < elevation_deg <= high
    )
    return next(named, "Night")


@dataclass(frozen=True)
class DayPart:
    """A part of the day: begin and end in the morning and in the evening, None where it does not happen."""

    name: str
    morning: tuple[datetime, datetime] | None
    evening: tuple[datetime, datetime] | None


def day_parts(when: datetime, latitude_deg: float, longitude_deg: float) -> list[DayPart]:
    """Twilights, golden and blue hour of the local day of ``when``, to the nearest few seconds.

    A part the sun does not pass through whole, as in a white night, does not happen.
    """
    _require_zone(when)
    start = when.replace(hour=0, minute=0, second=0, microsecond=0)
    times = [start + timedelta(minutes=5 * i) for i in range(289)]
    elevation = sun_positions(times, latitude_deg, longitude_deg)[:, 1]
    out = []
    for name, low, high in DAY_PARTS:
        (up, up_end), (down, down_end) = (
            [_crossing(start, elevation, e, rising) for e in ends]
            for rising, ends in ((True, (low, high)), (False, (high, low)))
        )
        out.append(DayPart(
            name,
            (up, up_end) if up and up_end and up < up_end else None,
            (down, down_end) if down and down_end and down < down_end else None,
        ))  # fmt: skip
    return out


def _crossing(
    start: datetime, elevation: npt.NDArray[np.float64], at_deg: float, rising: bool
) -> datetime | None:
    """When the sun first passes an elevation, from its elevations every five minutes."""
    above = elevation > at_deg
    change = (~above[:-1] & above[1:]) if rising else (above[:-1] & ~above[1:])
    hits = np.nonzero(change)[0]
    if hits.size == 0:
        return None
    i = int(hits[0])
    part = (at_deg - elevation[i]) / (elevation[i + 1] - elevation[i])
    return start + timedelta(minutes=5.0 * (i + float(part)))


def sun_day(when: datetime, latitude_deg: float, longitude_deg: float) -> SunDay:
    """Sunrise, noon and sunset of the local day of ``when``, to the nearest few seconds."""
    _require_zone(when)
    start = when.replace(hour=0, minute=0, second=0, microsecond=0)
    times = [start + timedelta(minutes=5 * i) for i in range(289)]
    elevation = sun_positions(times, latitude_deg, longitude_deg)[:, 1]
    minutes = np.arange(289) * 5.0

    noon = start + timedelta(minutes=float(minutes[int(np.argmax(elevation))]))
    rise, set_ = (_crossing(start, elevation, HORIZON_ELEVATION_DEG, r) for r in (True, False))
    return SunDay(rise, noon, set_)


@dataclass(frozen=True)
class SunMatch:
    """A time at which the sun stands nearest to a wanted place, and how far from it in degrees."""

    when: datetime
    apart_deg: float


@lru_cache(maxsize=4)
def _year(year: int, latitude_deg: float, longitude_deg: float) -> npt.NDArray[np.float64]:
    """Directions of the sun (refracted) every `YEAR_STEP` of a year in UTC, (n, 3)."""
    start = datetime(year, 1, 1, tzinfo=UTC)
    steps = (datetime(year + 1, 1, 1, tzinfo=UTC) - start) // YEAR_STEP
    table = sun_positions(
        [start + YEAR_STEP * i for i in range(steps)], latitude_deg, longitude_deg
    )
    a, e = np.radians(table[:, 0]), np.radians(table[:, 2])
    return np.stack([np.sin(a) * np.cos(e), np.cos(a) * np.cos(e), np.sin(e)], axis=1)


def year_of_sun(
    year: int, latitude_deg: float, longitude_deg: float
) -> tuple[datetime, npt.NDArray[np.float64]]:
    """First moment of a year (UTC) and directions towards the sun every `YEAR_STEP` of it, (n, 3).

    x east, y north, z up, with refraction. Raises ``ValueError`` for a place off the globe.
    """
    return datetime(year, 1, 1, tzinfo=UTC), _year(year, latitude_deg, longitude_deg)


def sun_reaches(positions: npt.ArrayLike, latitude_deg: float) -> npt.NDArray[np.bool_]:
    """Whether the sun ever stands near positions (n, 2) of azimuth and elevation at a latitude.

    It does where the declination that belongs to them lies within the obliquity of the ecliptic,
    give or take half a degree (sin δ = sin φ sin h + cos φ cos h cos A).

    >>> sun_reaches([[180.0, 46.0], [0.0, 46.0], [180.0, 80.0]], 43.6).tolist()
    [True, False, False]
    """
    a, e = np.radians(np.asarray(positions, float).reshape(-1, 2)).T
    phi = math.radians(latitude_deg)
    sine = math.sin(phi) * np.sin(e) + math.cos(phi) * np.cos(e) * np.cos(a)
    return np.asarray(np.abs(sine) <= math.sin(math.radians(OBLIQUITY_DEG + 0.5)))


def when_the_sun_stands(
    azimuth_deg: float, elevation_deg: float, latitude_deg: float, longitude_deg: float, year: int
) -> list[SunMatch]:
    """Times of a year (UTC) when the sun is nearest to a direction, at most one each half-year.

    Half-years run between the solstices, because the sun passes every place of its range once
    going up and once coming down. Nearest first; the caller judges whether near is near enough.
    Raises ``ValueError`` for a place off the globe.

    >>> best = when_the_sun_stands(180.0, 46.4, 43.6, -9.1, 2026)
    >>> best[0].apart_deg < 0.3, sorted(m.when.month for m in best)
    (True, [3, 9])
    """
    path = _year(year, latitude_deg, longitude_deg)
    cosine = path @ direction(azimuth_deg, elevation_deg)
    start = datetime(year, 1, 1, tzinfo=UTC)
    summer = (datetime(year, 6, 21, tzinfo=UTC) - start) // YEAR_STEP
    winter = (datetime(year, 12, 21, tzinfo=UTC) - start) // YEAR_STEP
    falling = np.zeros(len(path), bool)
    falling[summer:winter] = True
    out = []
    for half in (~falling, falling):
        i = int(np.where(half, cosine, -2.0).argmax())
        # Between two steps the sun moves on a great circle's arc; refine to the minute.
        near = [start + YEAR_STEP * i + timedelta(minutes=m) for m in range(-8, 9)]
        table = sun_positions(near, latitude_deg, longitude_deg)
        wanted = direction(azimuth_deg, elevation_deg)
        apart = [
            math.degrees(math.acos(min(1.0, float(direction(a, e) @ wanted)))) for a, _, e in table
        ]
        k = int(np.argmin(apart))
        out.append(SunMatch(near[k], apart[k]))
    return sorted(out, key=lambda m: m.apart_deg)


def direction(azimuth_deg: float, elevation_deg: float) -> npt.NDArray[np.float64]:
    """Unit vector towards the sun, x east, y north, z up.

    >>> direction(90.0, 0.0).round(6).tolist()
    [1.0, 0.0, 0.0]
    """
    a, e = math.radians(azimuth_deg), math.radians(elevation_deg)
    return np.array([math.sin(a) * math.cos(e), math.cos(a) * math.cos(e), math.sin(e)])


def azimuth_elevation(vector: npt.ArrayLike) -> tuple[float, float]:
    """Azimuth (0–360, from north clockwise) and elevation in degrees of a direction."""
    x, y, z = np.asarray(vector, dtype=np.float64)
    return math.degrees(math.atan2(x, y)) % 360.0, math.degrees(math.atan2(z, math.hypot(x, y)))
