"""Settings of a look and of a model, as stored and as the browser edits them."""

from __future__ import annotations

from datetime import date
from typing import Annotated, Any, Literal

from pydantic import Field, field_validator

from westlight.engine.spec import (
    MOST_STOPS,
    Bounced,
    Dress,
    ExposureSettings,
    FileId,
    FinishSettings,
    HazeSettings,
    ModelEdits,
    ModelSuffix,
    Settings,
    SkyKind,
    UpAxis,
)
from westlight.engine.spec.base import dial


class ProjectState(Settings):
    """Columns of a project: its name and where the building stands."""

    name: str
    latitude_deg: Annotated[float, Field(ge=-90, le=90)]
    longitude_deg: Annotated[float, Field(ge=-180, le=180)]
    time_zone: Annotated[str, Field(max_length=64)]
    north_deg: Annotated[float, Field(ge=-3600, le=3600)]


class SunState(Settings):
    """Where the sun of a look stands: by place, date and clock time, or free."""

    mode: Literal["time", "free"] = "time"
    azimuth_deg: float = dial(240, 0, 360, "Azimuth", 0.5, "°")
    elevation_deg: float = dial(20, -90, 90, "Elevation", 0.5, "°", (-12, 90))
    size: float = dial(1, 0, 40, "Disc size", 0.05, "×", (0.25, 32), logarithmic=True, above=True)
    kelvin: float | None = dial(
        5500, 1000, 25_000, "Colour", 50, "K", (1800, 12_000), logarithmic=True, optional=True
    )
    #: Lux on a plane facing it, taken over from a sky picture; None for that of the clear sky.
    lux: Annotated[float, Field(ge=0, le=1_000_000)] | None = None


class KeptSun(Settings):
    """A position of the sun that was kept: by date and clock time, or free."""

    mode: Literal["time", "free"] = "time"
    day: date
    minutes: Annotated[float, Field(ge=0, le=1440)]
    azimuth_deg: Annotated[float, Field(ge=0, le=360)]
    elevation_deg: Annotated[float, Field(ge=-90, le=90)]


class SkyState(SkyKind):
    """The sky of a look, and how its light enters."""

    portals: bool = True
    closed: bool = False


class Mix(Settings):
    """A source in a look: level in stops, muted, solo."""

    level: float = dial(0, -MOST_STOPS, MOST_STOPS, "Strength", 0.1, "EV", (-8, 8))
    muted: bool = False
    solo: bool = False


class SceneState(Settings):
    """Levels, mute and solo of lamps and of their groups, by the keys of `LookState.mix`."""

    levels: Annotated[dict[str, Mix], Field(max_length=5000)] = Field(default_factory=dict)


def group_key(group: str) -> str:
    """Under which key the mix of a group of sources is kept.

    >>> group_key("Outside")
    'group: Outside'
    """
    return f"group: {group}"


class ClayState(Settings):
    """Clay switch and its reflectance."""

    on: bool = False
    reflectance: float = dial(0.5, 0.02, 0.95, "Reflectance", 0.01, "%", (0.05, 0.9))


class LookState(Settings):
    """One lighting state of the building."""

    day: date = date(2026, 10, 11)
    minutes: Annotated[float, Field(ge=0, le=1440)] = 972.0
    sun: SunState = Field(default_factory=SunState)
    #: Positions of the sun to choose from, for a sheet of their pictures.
    kept_suns: Annotated[list[KeptSun], Field(max_length=24)] = Field(default_factory=list)
    sky: SkyState = Field(default_factory=SkyState)
    exposure: ExposureSettings = Field(default_factory=ExposureSettings)
    finish: FinishSettings = Field(default_factory=FinishSettings)
    clay: ClayState = Field(default_factory=ClayState)
    air: Annotated[list[HazeSettings], Field(max_length=8)] = Field(default_factory=list)
    #: Curtains, blinds and glass of openings, by their names.
    dress: Annotated[dict[str, Dress], Field(max_length=200)] = Field(default_factory=dict)
    #: How the live picture finds bounced light; a still has a choice of its own.
    bounced: Bounced = "kept"
    #: By the id of a source, and for groups of sources by `group_key`.
    mix: dict[str, Mix] = Field(default_factory=dict)
    note: Annotated[str, Field(max_length=2000)] = ""
    #: Picture that it is lit towards.
    reference: FileId | None = None
    #: A finished look: nothing of it changes until it is unlocked.
    locked: bool = False

    def mix_of(self, source_id: str, group: str = "") -> Mix:
        """Level, mute and solo of a source together with those of its group."""
        own = self.mix.get(source_id, Mix())
        whole = self.mix.get(group_key(group), Mix()) if group else Mix()
        level = min(max(own.level + whole.level, -MOST_STOPS), MOST_STOPS)
        return Mix(level=level, muted=own.muted or whole.muted, solo=own.solo or whole.solo)

    @field_validator("dress", mode="before")
    @classmethod
    def _without_cleared(cls, values: Any) -> Any:
        """An edit lays itself over what is there; null takes an entry away."""
        if isinstance(values, dict):
            return {k: v for k, v in values.items() if v is not None}
        return values

    @field_validator("finish", mode="before")
    @classmethod
    def _no_finish(cls, value: Any) -> Any:
        """None stands for a finish that changes nothing, so that it can be cleared."""
        return FinishSettings() if value is None else value


class ModelState(Settings):
    """The building's file, how it stands, and what the import found."""

    asset: FileId
    suffix: ModelSuffix
    up: UpAxis = "y"
    scale: Annotated[float, Field(gt=0, le=1000)] = 1.0
    triangles: int = 0
    parts: int = 0
    materials: int = 0
    cameras: int = 0
    lamps: int = 0
    size_m: tuple[float, float, float] = (0.0, 0.0, 0.0)
    #: By what a building at map coordinates was moved to the origin, in whole metres of its file.
    offset_m: tuple[float, float, float] = (0.0, 0.0, 0.0)
    remarks: list[str] = Field(default_factory=list)
    glows: list[str] = Field(default_factory=list)
    edits: ModelEdits = Field(default_factory=ModelEdits)
