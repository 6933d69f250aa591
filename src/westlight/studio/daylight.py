"""The light of a place and hour: the sun of a look, its path over the day, the band of the day."""

from __future__ import annotations

import math
from datetime import date, datetime, timedelta
from functools import lru_cache
from typing import Any
from zoneinfo import ZoneInfo

import numpy as np

from westlight import core
from westlight.core.analysis import Aim, Spell, nearest, spells
from westlight.core.colour import AP1_LUMINANCE, AP1_TO_SRGB, srgb_encode
from westlight.core.sun import day_parts, sun_day, sun_positions

from .errors import BadEdit
from .settings import LookState

#: The clear sky of the band is computed for this haze, so that days can be compared.
BAND_HAZE = 2.5


def zone(name: str) -> ZoneInfo:
    """A time zone by its IANA name; raises `BadEdit` for an unknown one."""
    try:
        return ZoneInfo(name)
    except (KeyError, ValueError, OSError) as error:
        raise BadEdit(f"There is no time zone called “{name[:64]}”.") from error


def clock(minutes: float) -> str:
    """Clock time in hours, minutes and, where there are any, seconds.

    >>> clock(437.5), clock(720)
    ('07:17:30', '12:00')
    """
    seconds = round(minutes * 60)
    told = f"{seconds // 3600:02}:{seconds // 60 % 60:02}"
    return told if seconds % 60 == 0 else f"{told}:{seconds % 60:02}"


def moment(day: date, minutes: float, time_zone: str) -> datetime:
    """Clock time of a place as an aware datetime."""
    start = datetime(day.year, day.month, day.day, tzinfo=zone(time_zone))
    return start + timedelta(minutes=minutes)


def sun_of(
    look: LookState, latitude: float, longitude: float, time_zone: str
) -> tuple[float, float]:
    """Azimuth and apparent elevation in degrees of a look's sun."""
    if look.sun.mode == "free":
        return look.sun.azimuth_deg, look.sun.elevation_deg
    if look.minutes != int(look.minutes):
        p = core.sun.sun_position(moment(look.day, look.minutes, time_zone), latitude, longitude)
        return p.azimuth_deg, p.apparent_elevation_deg
    azimuth, elevation = _minute_by_minute(look.day, latitude, longitude, time_zone)[
        int(look.minutes)
    ]
    return float(azimuth), float(elevation)


def moon_of(
    look: LookState, latitude: float, longitude: float, time_zone: str
) -> core.moon.MoonPosition:
    """The moon at a look's place, date and clock time."""
    return core.moon.moon_position(moment(look.day, look.minutes, time_zone), latitude, longitude)


@lru_cache(maxsize=16)
def _minute_by_minute(day: date, latitude: float, longitude: float, time_zone: str) -> np.ndarray:
    """Azimuth and apparent elevation at every minute of a day, found at once: a dragged sun asks
    for one many times a second."""
    times = [moment(day, m, time_zone) for m in range(1441)]
    return np.asarray(sun_positions(times, latitude, longitude)[:, [0, 2]])


def minutes_at(
    day: date, elevation: float, latitude: float, longitude: float, time_zone: str,
    evening: bool,
) -> float | None:  # fmt: skip
    """Clock minutes of a day at which the sun goes down through an elevation in degrees, or up through it; None if it never does."""
    height = _minute_by_minute(day, latitude, longitude, time_zone)[:, 1] - elevation
    falls = height[:-1] * height[1:] <= 0
    way = np.diff(height) < 0 if evening else np.diff(height) > 0
    found = np.flatnonzero(falls & way)
    return float(found[-1] if evening else found[0]) if len(found) else None


#: Fields of a look that its facts depend on.
OF_FACTS = frozenset({"day", "minutes", "sun", "sky"})


def facts(
    look: LookState, latitude: float, longitude: float, time_zone: str, sky_lx: float
) -> dict[str, Any]:
    """What the sheet says below the chart: place of the sun, and light on open ground, that of the sky as it was found."""
    azimuth, elevation = sun_of(look, latitude, longitude, time_zone)
    air = core.sky.clear_sky(round(elevation, 2), haze=look.sky.haze, ground_albedo=look.sky.ground)
    normal_lx = air.sun_normal_illuminance() if look.sun.lux is None else look.sun.lux
    sun_lx = normal_lx * max(math.sin(math.radians(elevation)), 0.0)
    return {
        "azimuth_deg": round(azimuth, 2),
        "elevation_deg": round(elevation, 2),
        "sun_lx": round(sun_lx, 1),
        "sky_lx": float(f"{sky_lx:.4g}"),
        "moon": _moon_facts(look, latitude, longitude, time_zone),
    }


def _moon_facts(
    look: LookState, latitude: float, longitude: float, time_zone: str
) -> dict[str, Any] | None:
    """Where the moon stands and how it shines, if the look has one."""
    if not look.sky.moon:
        return None
    m = moon_of(look, latitude, longitude, time_zone)
    lux = core.moon.moon_lux(m.elevation_deg, m.illuminance_lx, look.sky.haze)
    ground = lux * max(math.sin(math.radians(m.elevation_deg)), 0.0)
    return {"azimuth_deg": round(m.azimuth_deg, 1), "elevation_deg": round(m.elevation_deg, 1),
            "lit": round(m.lit, 3), "lux": float(f"{ground:.3g}")}  # fmt: skip


#: Nearer than this the real sun counts as standing there: about its own diameter.
NEAR_ENOUGH_DEG = 0.6


def stands(
    look: LookState, latitude: float, longitude: float, time_zone: str
) -> dict[str, Any] | None:
    """When the real sun stands where a free one was put; None for a sun placed by time.

    ``matches`` are local days and minutes with degrees apart, nearest first; ``ever`` says whether
    any of them is near enough to be called the same place.
    """
    if look.sun.mode != "free":
        return None
    found = core.sun.when_the_sun_stands(
        look.sun.azimuth_deg, look.sun.elevation_deg, latitude, longitude, look.day.year
    )
    matches = []
    for m in found:
        local = m.when.astimezone(zone(time_zone))
        matches.append({"day": local.date().isoformat(), "minutes": local.hour * 60 + local.minute,
                        "apart_deg": round(m.apart_deg, 2)})  # fmt: skip
    ever = found[0].apart_deg <= NEAR_ENOUGH_DEG
    return {"ever": ever, "matches": matches}


def times_of(
    aimed: dict[str, Any], look: LookState, latitude: float, longitude: float, time_zone: str
) -> dict[str, Any]:
    """Spells of a year in which the sun stands in an aimed region, or the nearest it comes.

    Neighbouring days with a spell at about the same clock time are one season.
    """
    region = Aim(np.array(aimed["open"], float).reshape(-1, 2), np.zeros((0, 2)),
                 aimed["spacing_deg"])  # fmt: skip
    place = (latitude, longitude, look.day.year, zone(time_zone))
    found = spells(region, *place)
    near = None if found else nearest(region, *place)
    return {
        "open": aimed["open"], "blocked": aimed["blocked"], "opening": aimed["opening"],
        "seasons": [_season(run) for run in _seasons(found)],
        "nearest": None if near is None else {
            "day": near[0].date().isoformat(), "minutes": _minutes(near[0]),
            "apart_deg": round(near[1], 1)},
    }  # fmt: skip


def kept_of(
    look: LookState, latitude: float, longitude: float, time_zone: str
) -> list[tuple[str, dict[str, Any]]]:
    """Captions and settings of the sun positions that were kept, in their order."""
    out = []
    for k in look.kept_suns:
        sun: dict[str, Any] = {"mode": k.mode}
        if k.mode == "free":
            sun |= {"azimuth_deg": k.azimuth_deg, "elevation_deg": k.elevation_deg}
            caption = f"azimuth {k.azimuth_deg:.0f}°, elevation {k.elevation_deg:.0f}°"
        else:
            caption = f"{k.day.day} {k.day:%B}, {clock(int(k.minutes))}"
        out.append((caption, {"day": k.day.isoformat(), "minutes": k.minutes, "sun": sun}))
    return out


def hours_of(
    look: LookState, latitude: float, longitude: float, time_zone: str, count: int = 12
) -> list[tuple[str, dict[str, Any]]]:
    """Captions and look settings of pictures over the day, from sunrise to sunset and a little on."""
    day = chart(look.day, latitude, longitude, time_zone)
    if day["sunrise"] is None or day["sunset"] is None:
        return []
    first, last = day["sunrise"] + 12, day["sunset"] + 18
    out = []
    for i in range(count):
        minutes = round((first + (last - first) * i / (count - 1)) / 5) * 5
        out.append((clock(minutes), {"minutes": minutes, "sun": {"mode": "time"}}))
    return out


def months_of(
    look: LookState, latitude: float, longitude: float, time_zone: str
) -> list[tuple[str, dict[str, Any]]]:
    """Captions and look settings of the same clock time on the 21st of each month."""
    out = []
    for month in range(1, 13):
        day = date(look.day.year, month, 21)
        caption = f"{day.day} {day:%B}"
        out.append((caption, {"day": day.isoformat(), "sun": {"mode": "time"}}))
    return out


def _minutes(when: datetime) -> int:
    return when.hour * 60 + when.minute


def _seasons(found: list[Spell]) -> list[list[Spell]]:
    """Spells of days that follow each other and overlap on the clock, gathered."""
    runs: list[list[Spell]] = []
    for spell in sorted(found, key=lambda s: s.day):
        for run in runs:
            last = run[-1]
            follows = (spell.day - last.day).days == 1
            # An hour's leeway, or the change of clocks would cut a season in two.
            if follows and abs(_minutes(spell.best) - _minutes(last.best)) <= 90:
                run.append(spell)
                break
        else:
            runs.append([spell])
    return runs


def _season(run: list[Spell]) -> dict[str, Any]:
    middle = run[len(run) // 2]
    return {
        "first": run[0].day.isoformat(), "last": run[-1].day.isoformat(),
        "begins": min(_minutes(s.begins) for s in run), "ends": max(_minutes(s.ends) for s in run),
        "day": middle.day.isoformat(), "minutes": _minutes(middle.best),
    }  # fmt: skip


@lru_cache(maxsize=64)
def path(day: date, latitude: float, longitude: float, time_zone: str) -> list[tuple[float, float]]:
    """Azimuth and apparent elevation every ten minutes of a day, from local midnight."""
    times = [moment(day, m, time_zone) for m in range(0, 1441, 10)]
    table = sun_positions(times, latitude, longitude)
    return [(round(float(a), 2), round(float(e), 2)) for a, e in table[:, [0, 2]]]


@lru_cache(maxsize=1024)
def _sky_colour(elevation: float, glow: float = 0.45) -> tuple[int, int, int]:
    """Colour of a clear sky: ``glow`` of it from just above the horizon at the sun's side, the rest from high up.

    By default what one would call the colour of the hour.
    """
    low, high = core.sky.clear_sky_above_sun([6.0, 50.0], elevation, BAND_HAZE)
    rgb = glow * low + (1 - glow) * high
    lum = float(rgb @ AP1_LUMINANCE)
    # The eye adapts: brightness is shown by its logarithm, colour as it is.
    shown = 0.04 + 0.72 * np.clip((math.log10(max(lum, 1e-3)) + 1.5) / 5.2, 0, 1) ** 1.6
    encoded = srgb_encode(np.clip(AP1_TO_SRGB @ (rgb / max(lum, 1e-9)) * shown**1.6, 0, 1))
    r, g, b = (round(float(v) * 255) for v in encoded)
    return r, g, b


def chip(look: LookState, latitude: float, longitude: float, time_zone: str) -> tuple[str, str]:
    """Colours of the clear sky of a look, high up and at the horizon, as CSS: its chip before it has a picture."""
    _, elevation = sun_of(look, latitude, longitude, time_zone)
    at = float(np.clip(round(elevation * 2) / 2, -18, 90))
    high, low = ("rgb({} {} {})".format(*_sky_colour(at, glow)) for glow in (0.05, 1.0))
    return high, low


def band(day: date, latitude: float, longitude: float, time_zone: str) -> list[str]:
    """Colour of the clear sky every ten minutes of the day, as CSS colours."""
    out = []
    for _, elevation in path(day, latitude, longitude, time_zone):
        r, g, b = _sky_colour(float(np.clip(round(elevation * 2) / 2, -18, 90)))
        out.append(f"rgb({r} {g} {b})")
    return out


@lru_cache(maxsize=64)
def chart(day: date, latitude: float, longitude: float, time_zone: str) -> dict[str, Any]:
    """Paths for the sun chart: the day itself, both solstices and the hours between them."""
    north = latitude >= 0
    june, december = date(day.year, 6, 21), date(day.year, 12, 21)
    hours = []
    months = [date(day.year, m, 21) for m in (12, 1, 2, 3, 4, 5, 6)]
    for hour in range(4, 23):
        times = [moment(d, hour * 60, "UTC") - timedelta(hours=longitude / 15) for d in months]
        table = sun_positions(times, latitude, longitude)
        hours.append([(round(float(a), 1), round(float(e), 1)) for a, e in table[:, [0, 2]]])
    stops = sun_day(moment(day, 720, time_zone), latitude, longitude)

    def clock(when: datetime | None) -> float | None:
        return None if when is None else round(when.hour * 60 + when.minute + when.second / 60, 1)

    return {
        "day": path(day, latitude, longitude, time_zone),
        "longest": path(june if north else december, latitude, longitude, time_zone),
        "shortest": path(december if north else june, latitude, longitude, time_zone),
        "hours": hours,
        "band": band(day, latitude, longitude, time_zone),
        "sunrise": clock(stops.sunrise),
        "sunset": clock(stops.sunset),
        "parts": [
            {"name": p.name, **{
                side: None if ends is None else [clock(t) for t in ends]
                for side, ends in (("morning", p.morning), ("evening", p.evening))
            }}
            for p in day_parts(moment(day, 720, time_zone), latitude, longitude)
        ],
    }  # fmt: skip


def warm_up() -> None:
    """Do the slow first computations (solar tables, the air) before someone waits for them."""
    chart(date(2026, 10, 11), 43.6, -9.1, "Etc/GMT-1")
