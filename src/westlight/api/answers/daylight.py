"""Sun, moon and sky of a place and hour."""

from __future__ import annotations

from westlight.engine.questions import Answer
from westlight.engine.questions.light import Match

from .named import Track


class DayPart(Answer):
    """A twilight, or a golden or blue hour: begin and end in minutes of the day, morning and evening."""

    name: str
    morning: tuple[float, float] | None
    evening: tuple[float, float] | None


class SunChart(Answer):
    """Sun paths as azimuth and elevation in degrees, and the colours of the day's band."""

    day: Track
    longest: Track
    shortest: Track
    hours: list[Track]
    band: list[str]
    sunrise: float | None
    sunset: float | None
    parts: list[DayPart]


class MoonFacts(Answer):
    """Where the moon stands, the share of it that is lit, and its lux on open ground."""

    azimuth_deg: float
    elevation_deg: float
    lit: float
    lux: float


class Facts(Answer):
    """Sun and sky in numbers: degrees, and lux on open ground."""

    azimuth_deg: float
    elevation_deg: float
    sun_lx: float
    sky_lx: float
    moon: MoonFacts | None = None


class Stands(Answer):
    """When the real sun stands where a free one was put; ``ever`` whether near enough."""

    ever: bool
    matches: list[Match]


class Daylight(Answer):
    """The light of a look's place and hour."""

    chart: SunChart
    facts: Facts
    stands: Stands | None
