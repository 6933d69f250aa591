"""What the server answers: the shapes the browser's generated types are made from."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from westlight.engine.spec import FixtureSettings, GlowSettings, ViewSettings
from westlight.studio.settings import LookState, ModelState

Point = tuple[float, float, float]
Track = list[tuple[float, float]]


class Answer(BaseModel):
    """Base of answers. Fields with a default are always sent."""

    model_config = ConfigDict(json_schema_serialization_defaults_required=True)


class Named(Answer):
    """A row by id and name."""

    id: str
    name: str


class ModelRow(Named):
    """A building of the project."""

    settings: ModelState


class ViewRow(Named):
    """A view of the project."""

    settings: ViewSettings


class LookRow(Named):
    """A look of the project."""

    settings: LookState


class SourceRow(Named):
    """A fixture or a glowing material of the project."""

    settings: Annotated[FixtureSettings | GlowSettings, Field(discriminator="kind")]
    #: What one lumen is in each unit, None where a unit has no meaning; None for a material.
    per_lumen: dict[str, float | None] | None


class StillFile(Answer):
    """A file of a finished still."""

    kind: str
    asset: str
    name: str
    bytes: int


class StillProgress(Answer):
    """How far a still is; ``left`` in seconds."""

    share: float
    text: str | None = None
    passes: int | None = None
    noise: float | None = None
    left: float | None = None
    curve: list[tuple[float, float]] = []


class StillRow(Named):
    """A still, waiting, being rendered or done."""

    status: Literal["waiting", "rendering", "paused", "done", "failed", "cancelled", "removed"]
    created_at: str
    width_px: int
    files: list[StillFile]
    problem: str | None
    remark: str | None
    curve: list[tuple[float, float]]
    progress: StillProgress | None


class Project(Named):
    """A project with everything in it, and the labels of the next undo and redo."""

    latitude_deg: float
    longitude_deg: float
    time_zone: str
    north_deg: float
    models: list[ModelRow]
    views: list[ViewRow]
    looks: list[LookRow]
    sources: list[SourceRow]
    stills: list[StillRow]
    undo: str | None
    redo: str | None


class Made(Answer):
    """A new row, and the project with it."""

    id: str
    project: Project


class Stepped(Answer):
    """What was undone or redone, and the project after it."""

    label: str | None
    project: Project


class ImportReport(Answer):
    """What the import found in a model file."""

    triangles: int
    parts: int
    materials: int
    size_m: Point
    low: Point
    high: Point
    remarks: list[str]
    glows: list[str]
    cameras: list[dict[str, Any]]


class Imported(Answer):
    """Report of an import, and the project with the building."""

    report: ImportReport
    project: Project


class PartRow(Answer):
    """Parts of one name, with the group they belong to."""

    name: str
    group: str
    copies: int
    triangles: int
    hidden: bool


class MaterialRow(Answer):
    """A material as it is now: what it does to light, and what is doubtful about it."""

    name: str
    changed: bool
    reflectance: float
    roughness: float
    metallic: float
    glass: bool
    clear_path: bool
    emission_cd_m2: float
    textured: bool
    parts: int
    doubts: list[str]
    not_clay: bool


class Parts(Answer):
    """What the building is made of."""

    parts: list[PartRow]
    materials: list[MaterialRow]


class Plan(Answer):
    """The plan cut, metres; polygons of filled walls, open edges and what lies below."""

    height_m: float
    low: tuple[float, float]
    high: tuple[float, float]
    filled: list[Track]
    open: list[Track]
    below: list[Track]


class SunChart(Answer):
    """Sun paths as azimuth and elevation in degrees, and the colours of the day's band."""

    day: Track
    longest: Track
    shortest: Track
    hours: list[Track]
    band: list[str]
    sunrise: float | None
    sunset: float | None


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


class Match(Answer):
    """A day and clock time at which the real sun stands near a place, and how near."""

    day: str
    minutes: int
    apart_deg: float


class Stands(Answer):
    """When the real sun stands where a free one was put; ``ever`` whether near enough."""

    ever: bool
    matches: list[Match]


class Daylight(Answer):
    """The light of a look's place and hour."""

    chart: SunChart
    facts: Facts
    stands: Stands | None


class ConeStep(Answer):
    """Light straight below a luminaire at a distance."""

    distance_m: float
    lux: float
    diameter_m: float


class Luminaire(Answer):
    """A photometric file on the shelf. ``curve`` has intensities over the peak by plane."""

    asset: str
    name: str
    flux_lm: float
    watts: float | None
    efficacy: float | None
    peak_cd: float
    beam_deg: float
    field_deg: float
    remarks: list[str]
    cone: list[ConeStep]
    step_deg: float
    curve: dict[str, list[float]]


class SourceNoise(Answer):
    """Noise one source makes in the mix, and what would cure it."""

    source: str
    noise: float
    direct: float
    bounced: float
    remedy: str


class LegendBand(Answer):
    """One step of the false colours: stops from middle grey, cd/m², CSS colour."""

    stops: int
    luminance: float
    colour: str


class ToneCurve(Answer):
    """Shown value 0…1 of greys by stops from middle grey, and how much of the picture lies where."""

    darkest: float
    brightest: float
    shown: list[float]
    burnt: float | None
    black: float | None
    histogram: list[int]


class FrameHead(Answer):
    """Head of a frame on the picture's socket; the picture file follows it."""

    kind: Literal["frame"]
    format: Literal["png", "jpeg"]
    width: int
    height: int
    scale: int
    passes: int
    noise: float
    seconds: float
    milliseconds: float
    settled: bool
    moving: bool
    ev: float
    metered_s: float | None
    burnt: float
    black: float
    histogram: list[int]
    tone: ToneCurve
    empty: bool
    openings: int
    noisy: list[SourceNoise]
    legend: list[LegendBand]


class ContributionHead(Answer):
    """Head of the little picture of one source."""

    kind: Literal["contribution"]
    source: str
    burnt: float
    colour: str
    headroom: float | None


class Picked(Answer):
    """The surface under a point of the picture, and with the meter what is read there."""

    kind: Literal["picked"]
    id: int
    hit: bool
    position: Point | None = None
    normal: Point | None = None
    distance: float | None = None
    depth: float | None = None
    part: str | None = None
    material: str | None = None
    luminance: float | None = None
    log2_luminance: float | None = None
    stops: float | None = None
    lux: float | None = None
    rgb: Point | None = None
    shares: dict[str, float] | None = None


class Said(Answer):
    """Words for the status line."""

    kind: Literal["note", "problem"]
    text: str


class FactsHead(Facts):
    """Sun and sky under a moving hand."""

    kind: Literal["facts"]


class StartingGrade(Answer):
    """Settings of the grade that suit the present picture."""

    contrast: float
    shadows: float
    compression: float
    compression_start: float
    saturation: float


class GradeHead(Answer):
    """An answer to the wish for a starting point."""

    kind: Literal["grade"]
    id: int
    grade: StartingGrade


class Proof(Named):
    """A kept picture: its file, its note, and the look and view it is of."""

    note: str
    shown: str
    created_at: str
    look: str
    view: str


class Restored(Answer):
    """Look and view that a proof brought back, and the project with them."""

    look: str
    view: str
    project: Project


class SkySun(Answer):
    """The sun found in a sky picture that is not rotated: degrees, and lux facing it."""

    azimuth_deg: float
    elevation_deg: float
    lux: float


class SkyCard(Answer):
    """A sky picture on the shelf: lux on the ground, kelvin, contrast in stops, its sun."""

    asset: str
    name: str
    width_px: int
    lux: float
    kelvin: float
    stops: float
    sun: SkySun | None
    remarks: list[str]


class Take(Answer):
    """What taking a picture of a sheet means: its look and view, and settings of the look."""

    look: str
    view: str
    settings: dict[str, Any]


class SheetPicture(Answer):
    """One picture of a contact sheet."""

    caption: str
    take: Take
    ready: bool


class Sheet(Answer):
    """A contact sheet, perhaps still in the making."""

    id: str
    title: str
    problem: str | None
    running: bool
    pictures: list[SheetPicture]


class Pattern(Answer):
    """Sun positions scored for a view; see `core.analysis.PatternMap`. Arrays go together."""

    azimuth_deg: list[float]
    elevation_deg: list[float]
    share: list[float]
    contrast: list[float]
    pattern: list[float]
    spot: list[float]
    faces: list[float]
    shadows: list[float]
    real: list[bool]


class NeutralHead(Answer):
    """White point that makes a picked place neutral; nothing where there is no light."""

    kind: Literal["neutral"]
    id: int
    kelvin: float | None = None
    tint: float | None = None


class PatternHead(Answer):
    """An answer with a pattern map."""

    kind: Literal["pattern"]
    id: int
    map: Pattern | None


class Season(Answer):
    """Days on which the sun does it, at about the same clock time (minutes), and one to take."""

    first: str
    last: str
    begins: int
    ends: int
    day: str
    minutes: int


class AimHead(Answer):
    """Where the sun must stand to light a patch, and when it does; or what was wrong."""

    kind: Literal["aim"]
    id: int
    problem: str | None = None
    open: Track = []
    blocked: Track = []
    opening: str = ""
    seasons: list[Season] = []
    nearest: Match | None = None


class Opening(Answer):
    """An opening of the building: centre, direction into the room, size in metres."""

    name: str
    position: Point
    inward: Point
    width: float
    height: float


class OpeningsHead(Answer):
    """The openings that were found in the building."""

    kind: Literal["openings"]
    id: int
    found: list[Opening]


class OpeningHead(Answer):
    """An opening between two clicked corners, or what was wrong with them."""

    kind: Literal["opening"]
    id: int
    problem: str | None = None
    opening: Opening | None = None


class FixtureDoubt(Answer):
    """An emitter that touches a surface: its copy, the gap, and a way in metres that frees it."""

    source: str
    place: int
    gap_m: float
    move: Point


class FixtureDoubtsHead(Answer):
    """Emitters that stand so close to surfaces that they speckle."""

    kind: Literal["doubts"]
    id: int
    found: list[FixtureDoubt]


class LeakRow(Answer):
    """A hole: share of all directions that see the sky by it, and a place near it in metres."""

    share: float
    position: Point


class LeaksHead(Answer):
    """Holes seen from the camera; ``inside`` tells whether it stands in a room at all."""

    kind: Literal["leaks"]
    id: int
    inside: bool
    found: list[LeakRow]


class BalanceHead(Answer):
    """Levels that bring places to what was wished for, and the stops from grey they reach."""

    kind: Literal["balance"]
    id: int
    levels: dict[str, float]
    reached: list[float]


class EstimateHead(Answer):
    """Seconds and passes a still would take, null while there is no picture; ``sure`` of them."""

    kind: Literal["estimate"]
    id: int
    seconds: float | None
    passes: int | None
    sure: bool


class Finding(Answer):
    """Something doubtful about the building, with a remedy; ``unit`` if another scale is the cure."""

    text: str
    remedy: str
    part: str | None = None
    unit: str | None = None


#: What comes over the socket, which the web framework does not describe.
SOCKET_HEADS: list[type[Answer]] = [
    FrameHead,
    ContributionHead,
    Picked,
    Said,
    FactsHead,
    GradeHead,
    PatternHead,
    AimHead,
    NeutralHead,
    OpeningsHead,
    OpeningHead,
    FixtureDoubtsHead,
    LeaksHead,
    BalanceHead,
    EstimateHead,
]
