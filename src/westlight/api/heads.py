"""What the picture's socket answers: frames, and answers to questions about the picture."""

from __future__ import annotations

from typing import Literal

from westlight.core.analysis import Cure
from westlight.engine.spec import Place

from .answers import Answer, Facts, Match, Point, Track

Box = tuple[float, float, float, float]


class SourceNoise(Answer):
    """Noise one source makes in the mix, and what would cure it."""

    source: str
    noise: float
    direct: float
    bounced: float
    remedy: str
    cure: Cure


class NoiseStep(Answer):
    """One step of the noise overlay: from this share of the light on, in this colour."""

    share: float
    colour: str


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
    #: Sources of the mix that have no bounced light yet as they are set now.
    waiting: int
    noise: float
    seconds: float
    milliseconds: float
    settled: bool
    moving: bool
    ev: float
    metered_s: float | None
    #: Shutter the picture is shown with: the look's, or the metered one of an automatic exposure.
    shutter_s: float
    #: Nearest and farthest distance that is sharp, in metres (no farthest: to infinity).
    sharp: tuple[float, float | None] | None
    burnt: float
    black: float
    histogram: list[int]
    #: The same of red, green and blue.
    histogram_rgb: list[list[int]]
    #: Seconds until the noise wanted or the most time is reached; null while it cannot be told.
    left_s: float | None = None
    tone: ToneCurve
    empty: bool
    #: What is wrong with the view itself, in words.
    doubt: str | None = None
    openings: int
    noisy: list[SourceNoise]
    #: Share of the picture beyond an sRGB screen, while that is marked.
    beyond: float | None
    legend: list[LegendBand]
    noise_legend: list[NoiseStep]


class ContributionHead(Answer):
    """Head of the little picture of one source."""

    kind: Literal["contribution"]
    source: str
    burnt: float
    colour: str
    headroom: float | None
    #: Stops that bring it just below burning, and whether it burns out more than the lamp itself.
    just_below: float | None
    burns: bool


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
    #: Colour of the light there, and stops of the sun over the sky where both count.
    kelvin: float | None = None
    sun_over_sky: float | None = None


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


class CurveHead(Answer):
    """An answer to the wish for a curve to start from."""

    kind: Literal["curve"]
    id: int
    points: list[tuple[float, float]]


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
    """An opening of the building: the side it is on, centre, direction into the room, size in metres."""

    name: str
    group: str
    inward_azimuth_deg: float | None
    position: Point
    inward: Point
    width: float
    height: float
    #: What is wrong with it as it stands, and where its corners are in the picture (0…1).
    doubt: str | None = None
    corners: list[tuple[float, float]] | None = None


class OpeningsHead(Answer):
    """The openings that were found in the building."""

    kind: Literal["openings"]
    id: int
    found: list[Opening]


class PortalGainHead(Answer):
    """By how much openings lessen the noise of the sky in equal time; null where there is nothing."""

    kind: Literal["gain"]
    id: int
    direct: float | None
    whole: float | None


class Sizes(Answer):
    """Sizes of an emitter that fit a body, in metres."""

    width: float
    height: float
    radius: float
    length: float


class LandHead(Answer):
    """Where a lamp lands that is put at a point of the picture, and what drew it ``to`` there."""

    kind: Literal["land"]
    id: int
    hit: bool
    position: Point | None = None
    direction: Point | None = None
    roll_deg: float = 0.0
    to: str = ""
    sizes: Sizes | None = None


class SpreadHead(Answer):
    """Copies of a fixture spread over its room, and the lux they give on the working plane, traced."""

    kind: Literal["spread"]
    id: int
    columns: int
    rows: int
    width_m: float
    depth_m: float
    average_lx: float
    least_lx: float
    places: list[Place]


class OpeningHead(Answer):
    """An opening between two clicked corners, or what was wrong with them."""

    kind: Literal["opening"]
    id: int
    problem: str | None = None
    opening: Opening | None = None


class FixtureDoubt(Answer):
    """An emitter that touches a surface or is shut in: its copy, the gap, and a move that frees it."""

    source: str
    place: int
    shut_in: bool
    gap_m: float
    move: Point


class FixtureDoubtsHead(Answer):
    """Emitters that stand so close to surfaces that they speckle."""

    kind: Literal["doubts"]
    id: int
    found: list[FixtureDoubt]


class Unanswered(Answer):
    """A question that could not be answered, and why in words."""

    kind: Literal["unanswered"]
    id: int
    text: str


class LeakRow(Answer):
    """A hole: share of all directions that see the sky by it, and a place near it in metres."""

    share: float
    position: Point
    #: Where it lies in the picture, which may be outside 0…1; None behind the camera.
    seen: tuple[float, float] | None


class LeaksHead(Answer):
    """Holes seen from the camera or a room; ``inside`` tells whether any of them is in a room at all."""

    kind: Literal["leaks"]
    id: int
    inside: bool
    found: list[LeakRow]


class Boxes(Answer):
    """Left, top, right and bottom of what is seen of parts and materials, in shares of the picture."""

    parts: dict[str, Box]
    materials: dict[str, Box]


class CoveredHead(Answer):
    """Share of the picture that each part and each material covers, and where they lie in it."""

    kind: Literal["covered"]
    id: int
    parts: dict[str, float]
    materials: dict[str, float]
    boxes: Boxes


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


#: What comes over the socket, which the web framework does not describe.
SOCKET_HEADS: list[type[Answer]] = [
    FrameHead,
    ContributionHead,
    Picked,
    Said,
    Unanswered,
    FactsHead,
    CurveHead,
    GradeHead,
    PatternHead,
    AimHead,
    NeutralHead,
    OpeningsHead,
    OpeningHead,
    PortalGainHead,
    LandHead,
    SpreadHead,
    FixtureDoubtsHead,
    LeaksHead,
    CoveredHead,
    BalanceHead,
    EstimateHead,
]
