"""Settings of everything after light."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field

from .base import FileId, Settings, Share, dial, drawn

Channel = Annotated[float, Field(ge=-1, le=4)]
Channels = tuple[Channel, Channel, Channel]
CurvePoints = Annotated[list[tuple[Share, Share]], Field(max_length=16)]


def _each(label: str, low: float, high: float, normal: float) -> Any:
    """How a number of each of three channels is drawn."""
    return Field(json_schema_extra=drawn(label, low, high, 0.005, normal=normal))


class GradeSettings(Settings):
    """Tone and colour; see `core.finish.Grade`. The defaults change nothing."""

    compression: float = dial(0, 0, 1, "Highlights", 0.01, "%")
    compression_start: float = dial(2, 0.1, 6, "Compress from", 0.1, "-EV", shown=(0.2, 5))
    shadows: float = dial(0, -2, 2, "Shadows", 0.05, "EV")
    contrast: float = dial(1, 0.4, 2.5, "Contrast", 0.01, shown=(0.5, 1.8))
    pivot: float = dial(0, -4, 4, "Pivot", 0.1, "EV", shown=(-3, 3))
    saturation: float = dial(1, 0, 2, "Saturation", 0.01, "%")
    vibrance: float = dial(0, -1, 1, "Vibrance", 0.01)
    warm_lights: float = dial(0, -1, 1, "In highlights", 0.01)
    warm_shadows: float = dial(0, -1, 1, "In shadows", 0.01)
    slope: Annotated[Channels, _each("Slope", 0.5, 1.5, 1)] = (1.0, 1.0, 1.0)
    offset: Annotated[Channels, _each("Offset", -0.2, 0.2, 0)] = (0.0, 0.0, 0.0)
    power: Annotated[Channels, _each("Power", 0.5, 2, 1)] = (1.0, 1.0, 1.0)
    toe: float = dial(0.4, 0, 1, "Toe", 0.01, "%")
    shoulder: float = dial(0.5, 0, 1, "Shoulder", 0.01, "%")
    mid: float = dial(0, -2, 2, "Middle", 0.05, "EV")
    black: float = dial(0, 0, 0.4, "Black point", 0.005, "%", shown=(0, 0.3))
    white: float = dial(1, 0.5, 1, "White point", 0.005, "%", shown=(0.6, 1))
    curve: CurvePoints = Field(default_factory=list)
    red: CurvePoints = Field(default_factory=list)
    green: CurvePoints = Field(default_factory=list)
    blue: CurvePoints = Field(default_factory=list)
    #: Film table: its asset, and what it is called.
    table: FileId | None = None
    table_name: str = ""
    table_opacity: float = dial(1, 0, 1, "Opacity", 0.01, "%")
    gone = frozenset({"table_path"})


class GlareSettings(Settings):
    """Light scattered by the lens; see `core.finish.Glare`."""

    glow: float = dial(0, 0, 0.5, "Glow", 0.005, "%", shown=(0, 0.4))
    spread: float = dial(0.02, 0.002, 0.2, "Glow width", 0.001, "%", (0.004, 0.1), logarithmic=True)
    star: float = dial(0, 0, 0.5, "Star", 0.005, "%", shown=(0, 0.3))
    blades: int = dial(6, 3, 12, "Star blades", 1, whole=True)
    rotation_deg: float = dial(10, 0, 180, "Star angle", 1, "°")


class OcclusionSettings(Settings):
    """Ambient occlusion multiplied in; see `core.finish.Occlusion`."""

    amount: float = dial(0, 0, 1, "Amount", 0.01, "%")
    white: float = dial(0.9, 0.1, 1, "White level", 0.01, "%", shown=(0.2, 1))
    radius_m: float = dial(0.6, 0.02, 20, "Radius", 0.05, "m", (0.05, 5), logarithmic=True)


class DepthHazeSettings(Settings):
    """Haze by depth, a cheat; see `core.finish.DepthHaze`."""

    per_metre: float = dial(0, 0, 1, "Per metre", 0.001, "%", shown=(0, 0.1))
    kelvin: float = dial(7500, 1000, 25000, "Colour", 100, "K", (2000, 15000), logarithmic=True)
    stops: float = dial(1, -6, 6, "Brightness", 0.1, "EV", shown=(-4, 4))


class LensSettings(Settings):
    """Vignette, grain and sharpness; see `core.finish.Lens`."""

    vignette: float = dial(0, -1, 3, "Vignette", 0.05, "EV", shown=(0, 2))
    grain: float = dial(0, 0, 0.5, "Grain", 0.005, "EV", shown=(0, 0.3))
    sharpen: float = dial(0, 0, 1, "Sharpness", 0.01, "%")


class BackdropSettings(Settings):
    """A picture behind everything, seen by the camera only; see `core.finish.Backdrop`."""

    asset: FileId | None = None
    name: str = ""
    gone = frozenset({"path"})
    stops: float = dial(0, -10, 10, "Brightness", 0.1, "EV", shown=(-6, 6))
    zoom: float = dial(1, 0.2, 10, "Size", 0.01, "×", (0.5, 6), logarithmic=True)
    across: float = dial(0, -1, 1, "Across", 0.01, "%")
    #: Height of the horizon in the picture, from its foot, 0…1.
    horizon: float = dial(0.5, 0, 1, "Its horizon", 0.005, "%")
    blur: float = dial(0, 0, 1, "Blur", 0.01, "%")
    mirror: bool = False
    match: float = dial(0, 0, 1, "Match hue", 0.01, "%")
    #: Barrel (below 0) or cushion (above) of the lens it was taken with, taken out again.
    distortion: float = dial(0, -0.3, 0.3, "Lens bend", 0.005, "%")


class PartGradeSettings(Settings):
    """A grade of one part or material alone; see `core.finish.PartGrade`."""

    of: Literal["part", "material"]
    what: str
    #: What the artist calls it; empty for the name of the part.
    name: Annotated[str, Field(max_length=80)] = ""
    stops: float = dial(0, -6, 6, "Brightness", 0.05, "EV", shown=(-3, 3))
    contrast: float = dial(1, 0.2, 3, "Contrast", 0.01, shown=(0.4, 2))
    saturation: float = dial(1, 0, 2, "Saturation", 0.01, "%")
    warm: float = dial(0, -1, 1, "Warm", 0.01)
    soft: float = dial(0, 0, 1, "Soft edge", 0.01, "%")


class FinishSettings(Settings):
    """Everything after light, tone apart, which stands with the exposure."""

    grade: GradeSettings = Field(default_factory=GradeSettings)
    glare: GlareSettings = Field(default_factory=GlareSettings)
    occlusion: OcclusionSettings = Field(default_factory=OcclusionSettings)
    haze: DepthHazeSettings = Field(default_factory=DepthHazeSettings)
    lens: LensSettings = Field(default_factory=LensSettings)
    backdrop: BackdropSettings = Field(default_factory=BackdropSettings)
    parts: Annotated[list[PartGradeSettings], Field(max_length=12)] = Field(default_factory=list)
