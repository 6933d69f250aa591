"""What a picture is made from, as plain validated settings: the language of studio and engine."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, field_validator

Point = tuple[float, float, float]
#: Stops a source can be moved from its set amount, either way.
MOST_STOPS = 20.0
Level = Annotated[float, Field(ge=-MOST_STOPS, le=MOST_STOPS)]
Hex = Annotated[str, Field(pattern=r"^#[0-9a-fA-F]{6}$")]
Kelvin = Annotated[float, Field(ge=1000, le=25000)]


class Settings(BaseModel):
    """Base of all settings: unknown fields are an error, so a typing slip is noticed."""

    model_config = ConfigDict(extra="forbid", json_schema_serialization_defaults_required=True)


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

    lux: Annotated[float, Field(ge=0, le=200_000)] = 12_000.0
    zenith_kelvin: Kelvin = 9000.0
    horizon_kelvin: Kelvin = 6000.0
    horizon_brightness: Annotated[float, Field(ge=0.05, le=20)] = 1.5
    spread: Annotated[float, Field(ge=0.2, le=5)] = 1.0


class PictureSky(Settings):
    """An HDRI as the sky; see `core.sources.HdriSource`. ``lux`` calibrates it on open ground."""

    asset: str | None = None
    name: str = ""
    #: Where the file lies (filled in on the way).
    path: str | None = None
    rotation_deg: Annotated[float, Field(ge=-360, le=360)] = 0.0
    tilt_deg: Annotated[float, Field(ge=-90, le=90)] = 0.0
    mirror: bool = False
    contrast: Annotated[float, Field(ge=0.2, le=3)] = 1.0
    saturation: Annotated[float, Field(ge=0, le=2)] = 1.0
    lux: Annotated[float, Field(ge=0, le=200_000)] | None = None
    #: Its sun is taken out, because the sun of the look stands for it.
    without_sun: bool = False
    #: Brightness of the visible background, in stops: a cheat.
    seen: Annotated[float, Field(ge=-10, le=10)] = 0.0


class SkyKind(Settings):
    """Which sky, and what each kind of it needs."""

    model: Literal["clear", "cie", "graded", "hdri"] = "clear"
    cie_type: Annotated[int, Field(ge=1, le=15)] = 1
    haze: Annotated[float, Field(ge=1, le=12)] = 2.0
    ground: Annotated[float, Field(ge=0, le=1)] = 0.2
    #: Elevation of the horizon, the band it runs out in, and colour: cheats of a computed sky.
    horizon_deg: Annotated[float, Field(ge=-60, le=60)] = 0.0
    horizon_blur_deg: Annotated[float, Field(ge=0, le=90)] = 0.0
    colourful: Annotated[float, Field(ge=0, le=3)] = 1.0
    #: The moon as it stands at place and time, with the light it makes in the air.
    moon: bool = False
    #: Glow of towns along the horizon, cd/m²: a cheat.
    town_cd_m2: Annotated[float, Field(ge=0, le=10)] = 0.0
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


Share = Annotated[float, Field(ge=0, le=1)]
#: Axis of a model file that points up.
UpAxis = Literal["x", "y", "z", "-x", "-y", "-z"]


class Place(Settings):
    """Where one copy of a fixture shines from, and to where."""

    position: Point
    direction: Point = (0.0, 0.0, -1.0)
    roll_deg: float = 0.0


GroupName = Annotated[str, Field(max_length=40)]


class FixtureSettings(Settings):
    """A fixture: one emitter, repeated at its places as linked copies."""

    kind: Literal["fixture"] = "fixture"
    shape: Literal["rectangle", "disc", "sphere", "tube", "spot", "photometric"] = "rectangle"
    width: Annotated[float, Field(gt=0, le=100)] = 0.6
    height: Annotated[float, Field(gt=0, le=100)] = 0.3
    radius: Annotated[float, Field(gt=0, le=100)] = 0.1
    lumen: Annotated[float, Field(gt=0, le=10_000_000)] = 1000.0
    #: Lumen per watt that watts are counted with, and the unit the artist reads the amount in.
    efficacy: Annotated[float, Field(gt=0, le=683)] = 90.0
    unit: Literal["lm", "cd", "cd/m²", "lx at 1 m", "W"] = "lm"
    #: Sources of one group are balanced together, too.
    group: GroupName = ""
    #: A fill exists only for the picture: a cheat, kept in a list of its own.
    fill: bool = False
    kelvin: Kelvin = 3000.0
    #: A colour instead of kelvin.
    colour: Hex | None = None
    visible: bool = True
    in_reflections: bool = True
    through_glass: bool = True
    casts_shadow: bool = True
    #: Its light ends here, in metres: a cheat.
    range_m: Annotated[float, Field(gt=0.05, le=1000)] | None = None
    length: Annotated[float, Field(gt=0, le=100)] = 1.2
    beam_deg: Annotated[float, Field(gt=0.5, lt=170)] = 24.0
    field_deg: Annotated[float, Field(gt=1, le=180)] = 48.0
    narrowing: Annotated[float, Field(ge=0, le=0.95)] = 0.0
    #: Photometric file: its asset, what it is called, and where it lies (filled in on the way).
    photometry: str | None = None
    photometry_name: str = ""
    photometry_path: str | None = None
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


Shift = Annotated[float, Field(ge=-1, le=1)]


class ViewSettings(Settings):
    """A camera: metres, lens in mm."""

    position: Point = (5.5, -2.3, 1.55)
    target: Point = (-4.5, 1.4, 1.35)
    focal_length_mm: Annotated[float, Field(ge=8, le=400)] = 24.0
    upright: bool = True
    roll_deg: Annotated[float, Field(ge=-180, le=180)] = 0.0
    near_m: Annotated[float, Field(ge=0, le=500)] = 0.0
    aspect: Annotated[float, Field(ge=0.2, le=5)] = 16 / 9
    shift: tuple[Shift, Shift] = (0.0, 0.0)
    depth_of_field: bool = False
    focus_m: Annotated[float, Field(gt=0.01, le=100_000)] = 5.0
    blades: Annotated[int, Field(ge=0, le=12)] = 0
    #: Aperture of the look that is shown (filled in on the way when depth of field is on).
    f_number: float | None = None
    guides: Literal["none", "thirds", "golden", "spiral", "diagonals", "centre", "safe"] = "none"
    #: Which of four ways the spiral turns.
    guides_turn: Annotated[int, Field(ge=0, le=3)] = 0


Signed = Annotated[float, Field(ge=-1, le=1)]
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
    #: Film table: its asset, what it is called, and where it lies (filled in on the way).
    table: str | None = None
    table_name: str = ""
    table_path: str | None = None
    table_opacity: Share = 1.0


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

    asset: str | None = None
    name: str = ""
    #: Where the file lies (filled in on the way).
    path: str | None = None
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


class ExposureSettings(Settings):
    """Camera exposure and white point."""

    f_number: Annotated[float, Field(ge=0.7, le=64)] = 5.6
    shutter_s: Annotated[float, Field(gt=0, le=3600)] = 1 / 30
    iso: Annotated[float, Field(ge=1, le=409_600)] = 200.0
    kelvin: Kelvin = 5600.0
    tint: Annotated[float, Field(ge=-50, le=50)] = 0.0
    tone: Literal["natural", "linear", "film"] = "natural"
    #: The shutter follows the picture: metered on all of it, or on an area around a point.
    automatic: Literal["off", "whole", "area"] = "off"
    #: Stops the automatic exposure stays above what it meters.
    compensation: Annotated[float, Field(ge=-5, le=5)] = 0.0
    #: Middle of the metered area, in shares of the picture from its top left.
    area: tuple[Share, Share] = (0.5, 0.5)


class MaterialEdit(Settings):
    """Changes of one material of the model; see `core.model.MaterialChange`."""

    reflectance: Annotated[float, Field(ge=0, le=1)] | None = None
    roughness: Annotated[float, Field(ge=0, le=1)] | None = None
    metallic: Annotated[float, Field(ge=0, le=1)] | None = None
    glass: bool | None = None
    clear_path: bool | None = None
    solid: bool | None = None
    emission_cd_m2: Annotated[float, Field(ge=0, le=1e9)] | None = None
    #: A picture its own light shows: its asset, what it is called, where it lies (filled in).
    picture: str | None = None
    picture_name: str = ""
    picture_path: str | None = None


Size = Annotated[float, Field(gt=0, le=2000)]


class Addition(Settings):
    """Something added around the building; see `core.model.additions`.

    ``size_m`` is width, depth and height (of a blind: depth of a slat). A blocker is a card or box
    that stops and tints light unseen. ``on`` switches it without losing it.
    """

    id: str
    name: Annotated[str, Field(min_length=1, max_length=80)]
    kind: Literal["ground", "block", "tree", "blind", "blocker", "light card"]
    position: Point
    size_m: tuple[Size, Size, Size]
    turn_deg: Annotated[float, Field(ge=-360, le=360)] = 0.0
    tilt_deg: Annotated[float, Field(ge=-90, le=90)] = 0.0
    colour: Hex = "#8c8c8c"
    on: bool = True
    #: Luminance of a light card, and the picture it shows: asset, name, path (filled in).
    emission_cd_m2: Annotated[float, Field(ge=0, le=1e9)] = 0.0
    picture: str | None = None
    picture_name: str = ""
    picture_path: str | None = None


class OpeningEdit(Settings):
    """What was changed of an opening that was found: left out, turned round, its gain in stops."""

    on: bool = True
    turned: bool = False
    gain: Annotated[float, Field(ge=-6, le=6)] = 0.0


class AddedOpening(Settings):
    """An opening placed by hand: centre, direction into the room, size in metres, gain in stops."""

    name: Annotated[str, Field(min_length=1, max_length=80)]
    position: Point
    inward: Point
    width: Size
    height: Size
    gain: Annotated[float, Field(ge=-6, le=6)] = 0.0


#: What a part can be taken for.
Tag = Literal["building", "glass", "ground", "surroundings", "plant", "lamp body", "furniture"]


class ModelEdits(Settings):
    """What the artist changed of the model: parts hidden, materials, exceptions from clay, things
    added around it, openings."""

    hidden: list[str] = Field(default_factory=list)
    materials: dict[str, MaterialEdit] = Field(default_factory=dict)
    #: Changes of one part alone, by its name: it gets copies of its materials.
    own_materials: dict[str, MaterialEdit] = Field(default_factory=dict)
    #: What the artist calls a part, and what it is taken for; both by the name in the file.
    names: dict[str, Annotated[str, Field(min_length=1, max_length=80)]] = Field(
        default_factory=dict
    )
    tags: dict[str, Tag] = Field(default_factory=dict)
    not_clay: list[str] = Field(default_factory=list)
    additions: Annotated[list[Addition], Field(max_length=200)] = Field(default_factory=list)
    openings: dict[str, OpeningEdit] = Field(default_factory=dict)
    added_openings: Annotated[list[AddedOpening], Field(max_length=24)] = Field(
        default_factory=list
    )

    @field_validator("own_materials", "names", "tags", mode="before")
    @classmethod
    def _without_cleared(cls, values: Any) -> Any:
        """An edit lays itself over what is there; null takes an entry away."""
        if isinstance(values, dict):
            return {k: v for k, v in values.items() if v is not None}
        return values


class HazeSettings(Settings):
    """Haze in the air, traced; see `core.Air`. Without corners it is everywhere."""

    visibility_m: Annotated[float, Field(ge=1, le=100_000)] = 300.0
    thins_over_m: Annotated[float, Field(ge=0.1, le=10_000)] | None = None
    colour: Hex = "#ffffff"
    #: Share of the light it meets that it scatters on; the rest is lost.
    scattering: Share = 0.95
    forward: Annotated[float, Field(ge=-0.5, le=0.9)] = 0.5
    low: Point | None = None
    high: Point | None = None
    on: bool = True


class ModelSpec(Settings):
    """The building file, how it stands, and what was changed of it."""

    path: str
    up: UpAxis = "y"
    #: Metres of one unit of the file.
    scale: Annotated[float, Field(gt=0, le=1000)] = 1.0
    north_deg: float = 0.0
    edits: ModelEdits = Field(default_factory=ModelEdits)


Bounced = Literal["kept", "traced"]


class PictureSpec(Settings):
    """Everything a picture depends on. ``moving`` while a hand drags the sun or a source."""

    model: ModelSpec | None = None
    view: ViewSettings = Field(default_factory=ViewSettings)
    width_px: Annotated[int, Field(ge=16, le=8192)] = 1280
    exposure: ExposureSettings = Field(default_factory=ExposureSettings)
    finish: FinishSettings = Field(default_factory=FinishSettings)
    sources: list[SourceSpec] = Field(default_factory=list)
    clay: float | None = None
    portals: bool = True
    closed: bool = False
    air: Annotated[list[HazeSettings], Field(max_length=8)] = Field(default_factory=list)
    bounces: Annotated[int, Field(ge=0, le=64)] = 6
    #: Bounced light from the light cache, averaged over small cells, or path by path.
    bounced: Bounced = "kept"
    denoise: bool = True
    #: How the picture is read: as it is, before denoising, burnt and black striped, luminance in
    #: false colour, or with what lies beyond an sRGB screen marked.
    reading: Literal["plain", "raw", "burnt", "luminance", "gamut", "noise"] = "plain"
    #: Only this source, exposed by itself, with its reach outlined.
    find: str | None = None
    moving: bool = False
    paused: bool = False
    target_noise: Annotated[float, Field(gt=0, le=1)] = 0.015
    max_samples: Annotated[int, Field(ge=1, le=65536)] = 512
    max_seconds: Annotated[float, Field(gt=0)] = 300.0

    @property
    def height_px(self) -> int:
        """Height that goes with the view's aspect, a multiple of four."""
        return max(16, round(self.width_px / self.view.aspect / 4) * 4)
