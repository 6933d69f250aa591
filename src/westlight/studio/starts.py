"""Lights to begin with: six looks proposed for a view, each with its hour, exposure and finish.

Three suns of different character from the view's pattern map, then skies without sun, dusk and night. What belongs to the
building is kept of the present look: its openings' closure and ground.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from westlight import core
from westlight.core.analysis import PatternMap, starting_suns
from westlight.engine.spec import ExposureSettings, FinishSettings, GlareSettings, GradeSettings

from .daylight import clock, minutes_at, zone
from .recipe import SKY_ID, SUN_ID
from .settings import LookState, Mix, SkyState, SunState

#: How many are proposed.
COUNT = 6
#: Elevations of the sun in degrees at dusk, at night, and just after it rose.
DUSK_DEG, NIGHT_DEG, RISEN_DEG = -4.0, -14.0, 3.0
#: Sun that stands farther than this from where it should cannot be had at the site.
NEAR_DEG = 4.0
#: Share of the stops over the meter that a proposal takes over from the present look.
_LIKE_THE_LOOK = 0.7
Place = tuple[float, float, str]


@dataclass(frozen=True)
class Start:
    """A look that is proposed: its name, what is said below its picture, and all of its settings."""

    name: str
    caption: str
    look: LookState


def starts_of(
    look: LookState, found: PatternMap | None, place: Place, lamps: Sequence[str]
) -> list[Start]:
    """Six looks to begin with, of the year of a look; fewer suns where none comes into the view.

    ``found`` is the pattern map of the view, ``place`` latitude, longitude and time zone, ``lamps`` the ids of the sources
    of the building.
    """
    made = [] if found is None else _suns(look, found, place, lamps)
    base = _base(look).model_copy(update={"mix": _mix(look, lamps, [])})
    noon = base.model_copy(update={"minutes": 720.0})
    soft = {
        "exposure": _exposed(look, 6300.0, 0.6),
        "finish": _finish(0.0, contrast=1.05, shadows=0.2, compression=0.4),
    }
    overcast = noon.model_copy(update={
        **soft, "sky": base.sky.model_copy(update={"model": "cie", "cie_type": 1}),
        "mix": _mix(look, lamps, [*lamps, SUN_ID])})  # fmt: skip
    made.append(Start("Overcast", "Overcast, no sun", overcast))
    lit = bool(lamps)
    evening = _at(base, DUSK_DEG, place, evening=True)
    made.append(Start(
        "Dusk", f"Dusk{' with lamps' if lit else ''}, {_said(evening)}",
        evening.model_copy(update={
            "exposure": _exposed(look, 4300.0 if lit else 6500.0, 0.2),
            "finish": _finish(0.04, warm_lights=0.1, warm_shadows=-0.2)})))  # fmt: skip
    if lit:
        late = _at(base, NIGHT_DEG, place, evening=True)
        made.append(Start("Night", f"Night, lamps alone, {_said(late)}", late.model_copy(update={
            "exposure": _exposed(look, 3400.0, -0.5),
            "finish": _finish(0.06, warm_shadows=-0.15, shadows=0.15)})))  # fmt: skip
    spare: list[Callable[[], Start]] = [
        lambda: _first_light(look, base, place, lamps),
        lambda: Start("Open sky", "Clear sky, no sun, 12:00",
                      noon.model_copy(update={**soft, "mix": _mix(look, lamps, [*lamps, SUN_ID])})),
        lambda: Start("Pale sky", "Thin cloud, no sun, 12:00", noon.model_copy(update={
            **soft, "sky": base.sky.model_copy(update={"model": "cie", "cie_type": 7}),
            "mix": _mix(look, lamps, [*lamps, SUN_ID])})),
        lambda: Start("Blue hour", "Before dawn, no lamps", _dawn(look, base, place, lamps)),
    ]  # fmt: skip
    for more in spare[: max(COUNT - len(made), 0)]:
        made.append(more())
    return made[:COUNT]


_CHARACTERS = {
    "patch": ("Sun on the middle", 0.3, {"contrast": 1.06, "warm_lights": 0.1}),
    "raking": ("Raking sun", 0.3, {"contrast": 1.1, "shadows": 0.1}),
    "backlight": ("Against the sun", 0.6, {"shadows": 0.35, "compression": 0.5}),
}


def _suns(look: LookState, found: PatternMap, place: Place, lamps: Sequence[str]) -> list[Start]:
    """The suns of a map that the site really has, each at the hour of the look's year at which it stands there."""
    latitude, longitude, time_zone = place
    positions = np.stack([found.azimuth_deg, found.elevation_deg], axis=1)
    real = core.sun.sun_reaches(positions, latitude)
    made = []
    for character, i in starting_suns(found, real).items():
        name, over, grade = _CHARACTERS[character]
        azimuth, elevation = map(float, positions[i])
        year = look.day.year
        best = core.sun.when_the_sun_stands(azimuth, elevation, latitude, longitude, year)[0]
        if best.apart_deg > NEAR_DEG:
            continue
        local = best.when.astimezone(zone(time_zone))
        at = _base(look).model_copy(update={
            "day": local.date(), "minutes": float(local.hour * 60 + local.minute),
            "exposure": _exposed(look, 5700.0, over), "finish": _finish(0.01, **grade),
            "mix": _mix(look, lamps, lamps)})  # fmt: skip
        made.append(Start(name, f"{name}, {local.day} {local:%B}, {_said(at)}", at))
    return made


def _base(look: LookState) -> LookState:
    """A plain look of the day of another, with what belongs to the building."""
    sky = SkyState(portals=look.sky.portals, closed=look.sky.closed, ground=look.sky.ground)
    return LookState(day=look.day, sky=sky, bounced=look.bounced)


def _mix(look: LookState, lamps: Sequence[str], off: Sequence[str]) -> dict[str, Mix]:
    """Every source at its own level, some of them off: nothing of the mix of the present look shines through."""
    everyone = {*look.mix, SUN_ID, SKY_ID, *lamps}
    return {source: Mix(muted=source in off) for source in sorted(everyone)}


def _exposed(look: LookState, kelvin: float, over: float) -> ExposureSettings:
    """Exposed by the meter: what light a proposal has is not known before it is traced.

    A look that follows the meter itself tells by how much this view wants more: bright windows make a room dark.
    """
    e = look.exposure
    more = _LIKE_THE_LOOK * e.compensation if e.automatic != "off" else 0.0
    stops = round(min(max(over + more, -5.0), 5.0), 2)
    return ExposureSettings(kelvin=kelvin, automatic="whole", compensation=stops)


def _finish(glow: float, **grade: float) -> FinishSettings:
    return FinishSettings(grade=GradeSettings(**grade), glare=GlareSettings(glow=glow))


def _at(base: LookState, elevation: float, place: Place, evening: bool) -> LookState:
    """A look at the minute its sun passes an elevation; a free sun where it never does on that day."""
    minutes = minutes_at(base.day, elevation, *place, evening=evening)
    if minutes is None:
        sun = SunState(mode="free", azimuth_deg=290.0 if evening else 70.0, elevation_deg=elevation)
        return base.model_copy(update={"sun": sun})
    return base.model_copy(update={"minutes": minutes})


def _first_light(look: LookState, base: LookState, place: Place, lamps: Sequence[str]) -> Start:
    risen = _at(base, RISEN_DEG, place, evening=False)
    return Start("First light", f"First light, {_said(risen)}", risen.model_copy(update={
        "exposure": _exposed(look, 5200.0, 0.4), "finish": _finish(0.02, warm_lights=0.15, shadows=0.2),
        "mix": _mix(look, lamps, lamps)}))  # fmt: skip


def _dawn(look: LookState, base: LookState, place: Place, lamps: Sequence[str]) -> LookState:
    return _at(base, DUSK_DEG, place, evening=False).model_copy(update={
        "exposure": _exposed(look, 7000.0, 0.0), "finish": _finish(0.02, warm_shadows=-0.15),
        "mix": _mix(look, lamps, lamps)})  # fmt: skip


def _said(look: LookState) -> str:
    """Clock time of a look in words; of a free sun where it stands."""
    if look.sun.mode == "free":
        return f"sun at {look.sun.elevation_deg:.0f}°"
    return clock(look.minutes)
