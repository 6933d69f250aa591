"""Settings of everything after light."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from .base import FileId, Kelvin, Settings, Share, Signed

Channel = Annotated[float, Field(ge=-1, le=4)]
CurvePoints = Annotated[list[tuple[Share, Share]], Field(max_length=16)]


class GradeSettings(Settings):
    """Tone and colour; see `core.finish.Grade`. The defaults change nothing."""

    compression: Share = 0.0
    compression_start: Annotated[float, Field(ge=0.1, le=6)] = 2.0
    shadows: Annotated[float, Field(ge=-2, le=2)] = 0.0
    contrast: Annotated[float, Field(ge=0.4, le=2.5)] = 1.0
    pivot: Annotated[float, Field(ge=-4, le=4)] = 0.0
    saturation: Annotated[float, Field(ge=0, le=2)] = 1.0
    vibrance: Signed = 0.0
    warm_lights: Signed = 0.0
    warm_shadows: Signed = 0.0
    slope: tuple[Channel, Channel, Channel] = (1.0, 1.0, 1.0)
    offset: tuple[Channel, Channel, Channel] = (0.0, 0.0, 0.0)
    power: tuple[Channel, Channel, Channel] = (1.0, 1.0, 1.0)
    toe: Share = 0.4
    shoulder: Share = 0.5
    mid: Annotated[float, Field(ge=-2, le=2)] = 0.0
    black: Annotated[float, Field(ge=0, le=0.4)] = 0.0
    white: Annotated[float, Field(ge=0.5, le=1)] = 1.0
    curve: CurvePoints = Field(default_factory=list)
    red: CurvePoints = Field(default_factory=list)
    green: CurvePoints = Field(default_factory=list)
    blue: CurvePoints = Field(default_factory=list)
    #: Film table: its asset, and what it is called.
    table: FileId | None = None
    table_name: str = ""
    table_opacity: Share = 1.0
    gone = frozenset({"table_path"})


class GlareSettings(Settings):
    """Light scattered by the lens; see `core.finish.Glare`."""

    glow: Annotated[float, Field(ge=0, le=0.5)] = 0.0
    spread: Annotated[float, Field(ge=0.002, le=0.2)] = 0.02
    star: Annotated[float, Field(ge=0, le=0.5)] = 0.0
    blades: Annotated[int, Field(ge=3, le=12)] = 6
    rotation_deg: Annotated[float, Field(ge=0, le=180)] = 10.0


class OcclusionSettings(Settings):
    """Ambient occlusion multiplied in; see `core.finish.Occlusion`."""

    amount: Share = 0.0
    white: Annotated[float, Field(ge=0.1, le=1)] = 0.9
    radius_m: Annotated[float, Field(ge=0.02, le=20)] = 0.6


class DepthHazeSettings(Settings):
    """Haze by depth, a cheat; see `core.finish.DepthHaze`."""

    per_metre: Annotated[float, Field(ge=0, le=1)] = 0.0
    kelvin: Kelvin = 7500.0
    stops: Annotated[float, Field(ge=-6, le=6)] = 1.0


class LensSettings(Settings):
    """Vignette, grain and sharpness; see `core.finish.Lens`."""

    vignette: Annotated[float, Field(ge=-1, le=3)] = 0.0
    grain: Annotated[float, Field(ge=0, le=0.5)] = 0.0
    sharpen: Share = 0.0


class BackdropSettings(Settings):
    """A picture behind everything, seen by the camera only; see `core.finish.Backdrop`."""

    asset: FileId | None = None
    name: str = ""
    gone = frozenset({"path"})
    stops: Annotated[float, Field(ge=-10, le=10)] = 0.0
    zoom: Annotated[float, Field(ge=0.2, le=10)] = 1.0
    across: Signed = 0.0
    #: Height of the horizon in the picture, from its foot, 0…1.
    horizon: Share = 0.5
    blur: Share = 0.0
    mirror: bool = False
    match: Share = 0.0
    #: Barrel (below 0) or cushion (above) of the lens it was taken with, taken out again.
    distortion: Annotated[float, Field(ge=-0.3, le=0.3)] = 0.0


class PartGradeSettings(Settings):
    """A grade of one part or material alone; see `core.finish.PartGrade`."""

    of: Literal["part", "material"]
    what: str
    #: What the artist calls it; empty for the name of the part.
    name: Annotated[str, Field(max_length=80)] = ""
    stops: Annotated[float, Field(ge=-6, le=6)] = 0.0
    contrast: Annotated[float, Field(ge=0.2, le=3)] = 1.0
    saturation: Annotated[float, Field(ge=0, le=2)] = 1.0
    warm: Signed = 0.0
    soft: Share = 0.0


class FinishSettings(Settings):
    """Everything after light, tone apart, which stands with the exposure."""

    grade: GradeSettings = Field(default_factory=GradeSettings)
    glare: GlareSettings = Field(default_factory=GlareSettings)
    occlusion: OcclusionSettings = Field(default_factory=OcclusionSettings)
    haze: DepthHazeSettings = Field(default_factory=DepthHazeSettings)
    lens: LensSettings = Field(default_factory=LensSettings)
    backdrop: BackdropSettings = Field(default_factory=BackdropSettings)
    parts: Annotated[list[PartGradeSettings], Field(max_length=12)] = Field(default_factory=list)
