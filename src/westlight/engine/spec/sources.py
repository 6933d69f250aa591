"""Settings of everything that emits."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field

from .base import FileId, Hex, Kelvin, Level, Point, Settings, ShapeName, dial
from .kinds import SkyName, UnitName


class SunSettings(Settings):
    """The sun of a look, already placed. Azimuth from true north."""

    kind: Literal["sun"] = "sun"
    azimuth_deg: float = 180.0
    elevation_deg: Annotated[float, Field(ge=-90, le=90)] = 30.0
    size: Annotated[float, Field(gt=0, le=40)] = 1.0
    kelvin: Kelvin | None = None
    #: Lux on a plane facing it, taken over from a sky picture; None for that of the clear sky.
    lux: Annotated[float, Field(ge=0, le=1_000_000)] | None = None
    haze: Annotated[float, Field(ge=1, le=12)] = 2.0


class GradedSky(Settings):
    """A sky set by hand; see `core.sky.graded_sky`."""

    lux: float = dial(12_000, 0, 200_000, "Light", 100, "lx", (0.01, 100_000), logarithmic=True)
    zenith_kelvin: float = dial(
        9000, 1000, 25_000, "Zenith", 100, "K", (1800, 25_000), logarithmic=True
    )
    horizon_kelvin: float = dial(
        6000, 1000, 25_000, "Horizon", 100, "K", (1800, 25_000), logarithmic=True
    )
    #: Colours instead of kelvin; only their hue counts.
    zenith_colour: Hex | None = None
    horizon_colour: Hex | None = None
    horizon_brightness: float = dial(
        1.5, 0.05, 20, "Horizon level", 0.05, "×", (0.1, 10), logarithmic=True
    )
    spread: float = dial(1, 0.2, 5, "Gradient height", 0.05, "×", (0.25, 4), logarithmic=True)


#: Stops at which a part of a source's light is off, and those it can be moved by.
OFF_STOPS = -10.0


def _part(label: str) -> Any:
    """Brightness of a part of a picture's light, in stops."""
    return dial(0, OFF_STOPS, 10, label, 0.1, "EV", (OFF_STOPS, 6))


class PictureSky(Settings):
    """An HDRI as the sky; see `core.sources.HdriSource`. ``lux`` calibrates it on open ground."""

    asset: FileId | None = None
    name: str = ""
    rotation_deg: float = dial(0, -360, 360, "Turned", 1, "°", (-180, 180))
    tilt_deg: float = dial(0, -90, 90, "Tilted", 1, "°", (-45, 45))
    mirror: bool = False
    contrast: float = dial(1, 0.2, 3, "Contrast", 0.01, shown=(0.4, 2))
    saturation: float = dial(1, 0, 2, "Saturation", 0.01, "%")
    lux: float | None = dial(
        10_000, 0, 200_000, "Calibrate", 100, "lx", (0.01, 120_000), logarithmic=True, optional=True
    )
    #: Its sun is taken out, because the sun of the look stands for it.
    without_sun: bool = False
    #: Colour the picture is looked at through.
    tint: Hex = "#ffffff"
    #: Brightness of the visible background, of the light it sheds on what scatters it, and of what
    #: is mirrored, in stops; at the lowest it is off: cheats.
    seen: float = _part("Background")
    lighting: float = _part("Lighting")
    mirrored: float = _part("Reflections")
    #: Another picture of the shelf that is mirrored in its place.
    other: FileId | None = None
    other_name: str = ""
    gone = frozenset({"path", "other_path"})


class SkyKind(Settings):
    """Which sky, and what each kind of it needs."""

    model: SkyName = "clear"
    cie_type: Annotated[int, Field(ge=1, le=15)] = 1
    haze: float = dial(2, 1, 12, "Turbidity", 0.1, shown=(1, 10))
    ground: float = dial(0.2, 0, 1, "Ground", 0.01, "%", shown=(0, 0.9))
    #: Hue of what the ground sends back; grey for none.
    ground_colour: Hex = "#808080"
    #: Elevation of the horizon, the band it runs out in, and colour: cheats. A picture's colour is
    #: set by its own saturation.
    horizon_deg: float = dial(0, -60, 60, "Horizon", 0.5, "°", (-15, 30))
    horizon_blur_deg: float = dial(0, 0, 90, "Horizon blur", 0.5, "°", (0, 30))
    colourful: float = dial(1, 0, 3, "Colour", 0.01, "%", (0, 2))
    #: The moon as it stands at place and time, with the light it makes in the air.
    moon: bool = False
    #: Glow of towns along the horizon, cd/m²: a cheat.
    town_cd_m2: float = dial(0, 0, 10, "Town glow", 0.001, "cd/m²", (0.0001, 1), logarithmic=True)
    graded: GradedSky = Field(default_factory=GradedSky)
    hdri: PictureSky = Field(default_factory=PictureSky)


class SkySettings(SkyKind):
    """The sky of a look, with the sun's place that a clear sky follows."""

    kind: Literal["sky"] = "sky"
    azimuth_deg: float = 180.0
    elevation_deg: float = 30.0
    #: Where the moon stands and its lux outside the air (filled in on the way; 0 without one).
    moon_azimuth_deg: float = 180.0
    moon_elevation_deg: float = -90.0
    moon_lux: float = 0.0


class MoonSettings(Settings):
    """The moon of a look, already placed; ``lux`` outside the air."""

    kind: Literal["moon"] = "moon"
    azimuth_deg: float = 180.0
    elevation_deg: float = -90.0
    lux: Annotated[float, Field(ge=0, le=1)] = 0.0
    haze: Annotated[float, Field(ge=1, le=12)] = 2.0


class Place(Settings):
    """Where one copy of a fixture shines from, and to where."""

    position: Point
    direction: Point = (0.0, 0.0, -1.0)
    roll_deg: float = 0.0


GroupName = Annotated[str, Field(max_length=40)]


class FixtureSettings(Settings):
    """A fixture: one emitter, repeated at its places as linked copies."""

    kind: Literal["fixture"] = "fixture"
    shape: ShapeName = "rectangle"
    width: Annotated[float, Field(gt=0, le=100)] = 0.6
    height: Annotated[float, Field(gt=0, le=100)] = 0.3
    radius: Annotated[float, Field(gt=0, le=100)] = 0.1
    lumen: float = dial(
        1000, 0, 10_000_000, "Amount", 10, "lm", shown=(5, 50_000), logarithmic=True, above=True
    )
    #: Lumen per watt that watts are counted with, and the unit the artist reads the amount in.
    efficacy: float = dial(90, 0, 683, "Efficacy", 1, "lm/W", shown=(5, 250), above=True)
    unit: UnitName = "lm"
    #: Sources of one group are balanced together, too.
    group: GroupName = ""
    #: The circuit it is wired to, for the light schedule.
    circuit: GroupName = ""
    #: A fill exists only for the picture: a cheat, kept in a list of its own.
    fill: bool = False
    kelvin: float = dial(3000, 1000, 25_000, "Colour", 50, "K", (1500, 10_000))
    #: A colour instead of kelvin.
    colour: Hex | None = None
    #: Dimmed below its amount it grows warmer, as a filament does; what it then has is resolved for each look.
    warm_dim: bool = False
    visible: bool = True
    in_reflections: bool = True
    through_glass: bool = True
    casts_shadow: bool = True
    #: Whether surfaces scatter its light, and whether they mirror it as highlights; else a cheat.
    diffuse: bool = True
    glossy: bool = True
    #: Its light ends here, in metres: a cheat.
    range_m: float | None = dial(
        4, 0.05, 1000, "Reaches", 0.1, "m", (0.2, 40), logarithmic=True, above=True, optional=True
    )
    length: Annotated[float, Field(gt=0, le=100)] = 1.2
    beam_deg: Annotated[float, Field(gt=0.5, lt=170)] = 24.0
    field_deg: Annotated[float, Field(gt=1, le=180)] = 48.0
    narrowing: Annotated[float, Field(ge=0, le=0.95)] = 0.0
    #: Photometric file: its asset, and what it is called.
    photometry: FileId | None = None
    photometry_name: str = ""
    gone = frozenset({"photometry_path"})
    places: list[Place] = Field(default_factory=list)


class GlowSettings(Settings):
    """Light of an emissive material of the model, by the material's name."""

    kind: Literal["glow"] = "glow"
    material: str
    group: GroupName = ""


SourceSettings = Annotated[
    SunSettings | MoonSettings | SkySettings | FixtureSettings | GlowSettings,
    Field(discriminator="kind"),
]


class SourceSpec(Settings):
    """One source in a picture: what it is, how strong, and whether it counts."""

    id: str
    name: str
    settings: SourceSettings
    level: Level = 0.0
    counts: bool = True
