"""What the server answers: the shapes the browser's generated types are made from."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field

from westlight.engine.questions import Answer
from westlight.engine.questions.light import Match
from westlight.engine.spec import (
    FixtureSettings,
    GlowSettings,
    PlantName,
    ShapeName,
    Tag,
    ToneName,
    ViewSettings,
)
from westlight.engine.spec.kinds import GlassName, HangingName, ReadingName, SkyName, UnitName
from westlight.engine.still_files import PassName
from westlight.studio.settings import LookState, ModelState, SceneState

Point = tuple[float, float, float]
Track = list[tuple[float, float]]


class Named(Answer):
    """A row by id and name."""

    id: str
    name: str


class Quantity(Answer):
    """A number of a fixture as a slider shows it; see `core.sources.shapes.Quantity`."""

    #: The field of `FixtureSettings` that keeps it.
    key: str
    label: str
    low: float
    high: float
    step: float
    normal: float
    unit: Literal["m", "°", "share"]
    logarithmic: bool
    none: str


class ShapeKind(Answer):
    """A shape that fixtures can have."""

    id: ShapeName
    label: str
    from_file: bool
    quantities: list[Quantity]


class ToneKind(Answer):
    """A way from light to screen."""

    id: ToneName
    label: str
    does: str


class PassKind(Answer):
    """An output pass of an EXR."""

    id: PassName
    label: str


class ClothKind(Answer):
    """A usual sheet that light comes through, and what it changes of a material."""

    id: str
    label: str
    translucency: float
    openness: float
    #: Whether it hangs before windows.
    hangs: bool


class HangingKind(Answer):
    """What may hang before an opening."""

    id: HangingName
    label: str


class GlassKind(Answer):
    """What the glass of an opening may be."""

    id: GlassName
    label: str


class PlantKind(Answer):
    """A plant of the shelf, with what is usual for a planting of it; see `core.model.plants.Plant`."""

    id: PlantName
    label: str
    hint: str
    per_m2: float
    apart_m: float
    brush_m: float
    keep_off_m: float
    turn_spread: float
    size_spread: float
    slope: float
    on_walls: bool
    by: Literal["brush", "row", "one"]


class UnitChoice(Answer):
    """A unit that amounts of light are read in: as it is offered, and as it stands behind a number."""

    id: UnitName
    label: str
    short: str


class SkyChoice(Answer):
    """A kind of sky: as its tile is called, and as the source is called in the strip."""

    id: SkyName
    label: str
    name: str


class ReadingChoice(Answer):
    """A way to read the picture, and the key that turns it on and off."""

    id: ReadingName
    label: str
    key: str


class Dial(Answer):
    """A number that is set on a slider: what its line is drawn by."""

    label: str
    min: float
    max: float
    step: float
    normal: float
    unit: str
    logarithmic: bool


class Vocabulary(Answer):
    """What there is to choose from: the tables of the core, as the page's fields need them."""

    shapes: list[ShapeKind]
    units: list[UnitChoice]
    tones: list[ToneKind]
    passes: list[PassKind]
    #: Endings of files that can be brought in, with their dots.
    buildings: list[str]
    references: list[str]
    luts: list[str]
    cloths: list[ClothKind]
    hangings: list[HangingKind]
    glasses: list[GlassKind]
    plants: list[PlantKind]
    skies: list[SkyChoice]
    readings: list[ReadingChoice]
    #: Numbers of sun, sky, camera, air and clay, by what they are of and name.
    numbers: dict[str, dict[str, Dial]]
    #: Numbers of the finish by group and name.
    finish: dict[str, dict[str, Dial]]


class Card(Named):
    """A project as the first page shows it."""

    looks: list[str]
    changed_at: str
    #: Look and view of its newest picture; null before there is one.
    picture: tuple[str, str] | None


class ModelRow(Named):
    """A building of the project."""

    settings: ModelState


class ViewRow(Named):
    """A view of the project."""

    settings: ViewSettings


class Version(Named):
    """A kept state of a look."""

    at: str


class LookRow(Named):
    """A look of the project; ``sky`` are colours of its sky, high up and at the horizon."""

    settings: LookState
    sky: tuple[str, str]
    versions: list[Version]


class LampDoubt(Answer):
    """What is doubtful about a fixture, and settings that would cure it."""

    text: str
    remedy: str
    settings: dict[str, float]


class SourceRow(Named):
    """A fixture or a glowing material of the project."""

    settings: Annotated[FixtureSettings | GlowSettings, Field(discriminator="kind")]
    #: What one lumen is in each unit, None where a unit has no meaning; None for a material.
    per_lumen: dict[str, float | None] | None
    doubts: list[LampDoubt]


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
    #: How many times too much noise is seen, or a share of the light, by what the still stops at.
    noise: float | None = None
    left: float | None = None
    #: Workers of a scheduler that trace it; None on this machine alone.
    workers: int | None = None
    curve: list[tuple[float, float]] = []


class InSeries(Answer):
    """Where a still stands in a series, and what that is called."""

    id: str
    number: int
    count: int
    name: str
    #: What is varied, at this still.
    at: str


class StillRow(Named):
    """A still, waiting, being rendered or done."""

    #: Its light in words.
    described: str
    series: InSeries | None
    status: Literal["waiting", "rendering", "paused", "done", "failed", "cancelled", "removed"]
    created_at: str
    width_px: int
    files: list[StillFile]
    problem: str | None
    remark: str | None
    curve: list[tuple[float, float]]
    #: Whether its noise is told as it is seen, or as a share of the light.
    seen: bool
    #: How far the sources of the EXR are from adding up to its beauty, relative to its mean.
    sums_differ: float | None
    #: Sources it is lit by, by id.
    sources: dict[str, str]
    progress: StillProgress | None


class Zone(Answer):
    """The time zone of a place."""

    time_zone: str


class Town(Zone):
    """A town of the gazetteer."""

    name: str
    country: str
    latitude_deg: float
    longitude_deg: float


class Step(Answer):
    """One edit of the history."""

    id: int
    label: str
    at: str
    undone: bool
    #: The page it came from; empty if nobody knows.
    by: str


class Described(Answer):
    """The light of a look in one sentence."""

    text: str


class SceneRow(Named):
    """Levels of the lamps under a name."""

    settings: SceneState


class Project(Named):
    """A project with everything in it, and labels of the next undo and redo with the pages they came from."""

    latitude_deg: float
    longitude_deg: float
    time_zone: str
    north_deg: float
    #: Units a building may have been made in, in metres.
    units: dict[str, float]
    #: Usual differences of two places in stops: what they are, from and to.
    usual_ratios: list[tuple[str, float, float]]
    models: list[ModelRow]
    views: list[ViewRow]
    looks: list[LookRow]
    sources: list[SourceRow]
    scenes: list[SceneRow]
    stills: list[StillRow]
    undo: str | None
    undo_by: str | None
    redo: str | None
    redo_by: str | None


class Kept(Named):
    """A kept finish or white: the settings a look or a fixture takes over."""

    settings: dict[str, Any]


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


class InZip(Answer):
    """A model inside a zip, by its path there."""

    name: str
    bytes: int


class Imported(Answer):
    """Report of an import, and the project with the building; or the models of a zip to choose from."""

    report: ImportReport | None
    choose: list[InZip]
    project: Project


class Lit(Answer):
    """What of a material decides light, as it is now."""

    reflectance: float
    colour: str
    roughness: float
    metallic: float
    glass: bool
    clear_path: bool
    solid: bool
    frost: float
    coat: float
    coat_roughness: float
    translucency: float
    #: Which usual sheet that is, and what it sends back of the light that falls on it.
    cloth: str | None
    sent_back: float
    through: str
    openness: float
    emission_cd_m2: float
    #: Picture of its own light that was chosen here.
    picture: str | None
    picture_name: str


class MaterialDoubt(Answer):
    """What is doubtful about a material, and the change that cures it with a name for it."""

    text: str
    cure: str
    change: dict[str, float | bool]


class PartRow(Answer):
    """Parts of one name: what they are called and taken for, and the group they belong to."""

    name: str
    called: str
    group: str
    tag: Tag
    #: Materials in the file, and how the first is if this part has copies of its own.
    materials: list[str]
    own: Lit | None
    copies: int
    triangles: int
    hidden: bool
    #: Lowest and highest corner as the file has it, of what was moved or copied.
    box: tuple[tuple[float, float, float], tuple[float, float, float]] | None


class MaterialRow(Lit):
    """A material as it is now: what it does to light, and what is doubtful about it."""

    name: str
    changed: bool
    textured: bool
    parts: int
    doubts: list[MaterialDoubt]
    not_clay: bool


class Parts(Answer):
    """What the building is made of."""

    parts: list[PartRow]
    materials: list[MaterialRow]


class Shown(Answer):
    """The part of a drawing that shows the building: its middle and its span, metres."""

    x: float
    y: float
    span: float


class Plan(Answer):
    """The plan cut, metres; polygons of filled walls, open edges and what lies below; the usual height of a level cut for
    the storey that the camera stands in, and what is shown at first."""

    height_m: float
    usual_m: float
    shown: Shown
    low: tuple[float, float]
    high: tuple[float, float]
    filled: list[Track]
    open: list[Track]
    below: list[Track]


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
    #: What kind of light it is, to be searched by.
    tags: list[str]
    #: CIE flux codes N1…N4 in per cent.
    flux_codes: list[int]
    cone: list[ConeStep]
    step_deg: float
    curve: dict[str, list[float]]


class Proof(Named):
    """A kept picture: its file, its note, its light in words, and the look and view it is of."""

    note: str
    described: str
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
    """What taking a picture of a sheet means: its look and view, and settings of the look.

    With a ``name`` they are those of a new look of that name.
    """

    look: str
    view: str
    settings: dict[str, Any]
    name: str | None = None


class SheetPicture(Answer):
    """One picture of a contact sheet."""

    caption: str
    take: Take
    #: Rounds of passes it has had; 0 before it is there.
    round: int


class Sheet(Answer):
    """A contact sheet, perhaps still in the making."""

    id: str
    title: str
    problem: str | None
    running: bool
    #: Rounds of passes each picture gets.
    rounds: int
    pictures: list[SheetPicture]


class Finding(Answer):
    """Something doubtful about the building, with a remedy; ``unit`` if another scale is the cure.

    ``part`` or ``material`` is what it is about; ``change`` of the material cures it.
    """

    text: str
    remedy: str
    part: str | None = None
    material: str | None = None
    unit: str | None = None
    cure: str | None = None
    change: dict[str, float | bool] | None = None


class StorageKind(Answer):
    """Bytes of files by what they belong to."""

    kind: str
    bytes: int


class Storage(Answer):
    """What the files of all projects take, what nothing names any more, what is free, what was freed."""

    kinds: list[StorageKind]
    unnamed: int
    free: int
    freed: int | None = None


class Brought(Answer):
    """How many lamps, suns and cameras were brought in, what was left behind, and the project with them."""

    count: int
    remarks: list[str]
    project: Project
