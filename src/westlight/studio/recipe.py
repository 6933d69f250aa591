"""From a project's rows to the spec of a picture."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from pydantic import TypeAdapter

from westlight.core.sources import dimmed_kelvin
from westlight.engine.spec import (
    ModelSpec,
    MoonSettings,
    PictureSpec,
    SkySettings,
    SourceSettings,
    SourceSpec,
    SunSettings,
    ViewSettings,
)
from westlight.engine.spec.kinds import SKIES
from westlight.store import Look, Model, Project, Source, View

from .daylight import moon_of, sun_of
from .settings import LookState, ModelState

SUN_ID, SKY_ID, MOON_ID = "sun", "sky", "moon"
_SOURCE: TypeAdapter[Any] = TypeAdapter(SourceSettings)


def sky_settings(look: LookState, latitude: float, longitude: float, time_zone: str) -> SkySettings:
    """The sky of a look as it is traced: with the sun's place, and the moon's light in its air."""
    azimuth, elevation = sun_of(look, latitude, longitude, time_zone)
    sky = look.sky
    if sky.model == "hdri" and sky.hdri.asset is None:
        # Until a picture is chosen the clear sky stands in.
        sky = sky.model_copy(update={"model": "clear"})
    placed = {"azimuth_deg": azimuth, "elevation_deg": elevation}
    if sky.moon:
        m = moon_of(look, latitude, longitude, time_zone)
        placed |= {"moon_azimuth_deg": m.azimuth_deg, "moon_elevation_deg": m.elevation_deg,
                   "moon_lux": m.illuminance_lx if m.elevation_deg > -12 else 0.0}  # fmt: skip
    return SkySettings(**placed, **sky.model_dump(exclude={"portals", "closed"}))


def sources_of(project: Project, look: LookState, rows: Sequence[Source]) -> list[SourceSpec]:
    """Sun, sky and all sources of a project in a look, with mute and solo decided."""
    place = project.latitude_deg, project.longitude_deg, project.time_zone
    azimuth, elevation = sun_of(look, *place)
    moon: list[tuple[str, str, Any]] = []
    if look.sky.moon:
        m = moon_of(look, *place)
        up = m.elevation_deg > -0.3
        moon = [(MOON_ID, "Moon", MoonSettings(
            azimuth_deg=m.azimuth_deg, elevation_deg=m.elevation_deg, haze=look.sky.haze,
            lux=m.illuminance_lx if up else 0.0))]  # fmt: skip
    found = [
        (SUN_ID, "Sun", SunSettings(azimuth_deg=azimuth, elevation_deg=elevation,
                                    size=look.sun.size, kelvin=look.sun.kelvin,
                                    lux=look.sun.lux,
                                    haze=look.sky.haze)),
        (SKY_ID, sky_name(look), sky_settings(look, *place)),
        *moon,
        *((r.id, r.name, _SOURCE.validate_python(r.settings)) for r in rows),
    ]  # fmt: skip
    mixes = {i: look.mix_of(i, getattr(settings, "group", "")) for i, _, settings in found}
    solo = any(m.solo for m in mixes.values())
    return [
        SourceSpec(id=i, name=name, settings=_dimmed(settings, mixes[i].level), level=mixes[i].level,
                   counts=mixes[i].solo if solo else not mixes[i].muted)
        for i, name, settings in found
    ]  # fmt: skip


def _dimmed(settings: Any, level: float) -> Any:
    """Settings of a source at a level: one that grows warmer when it is dimmed has the colour of that level."""
    if not getattr(settings, "warm_dim", False):
        return settings
    return settings.model_copy(update={"kelvin": dimmed_kelvin(settings.kelvin, level)})


def sky_name(look: LookState) -> str:
    """What the sky of a look is called."""
    picture = look.sky.hdri.name if look.sky.model == "hdri" else ""
    return picture or SKIES[look.sky.model].name


def picture_of(
    project: Project, look: LookState, view: ViewSettings, model: Model | None,
    sources: Sequence[Source], width_px: int = 1280,
) -> PictureSpec:  # fmt: skip
    """Spec of the picture of a look from a view."""
    building = None
    if model is not None:
        state = ModelState.model_validate(model.settings)
        building = ModelSpec(asset=state.asset, suffix=state.suffix, up=state.up, scale=state.scale,
                             north_deg=project.north_deg, edits=state.edits, dress=[d for d in look.dress.values() if not d.bare])  # fmt: skip
    return PictureSpec(
        model=building,
        view=_camera(view, look),
        width_px=width_px,
        exposure=look.exposure,
        finish=look.finish,
        sources=sources_of(project, look, sources) if building else [],
        clay=look.clay.reflectance if look.clay.on else None,
        portals=look.sky.portals,
        closed=look.sky.closed,
        air=look.air,
        bounced=look.bounced,
    )


def _camera(view: ViewSettings, look: LookState) -> ViewSettings:
    """A view as light is traced for it: with the aperture where it matters, without its guides."""
    open_at = look.exposure.f_number if view.depth_of_field else None
    focus = {} if view.depth_of_field else {"focus_m": 5.0, "blades": 0}
    return view.model_copy(
        update={"f_number": open_at, "guides": "none", "guides_turn": 0, **focus}
    )


def look_state(row: Look) -> LookState:
    """Settings of a look row."""
    return LookState.model_validate(row.settings)


def view_state(row: View) -> ViewSettings:
    """Settings of a view row."""
    return ViewSettings.model_validate(row.settings)
