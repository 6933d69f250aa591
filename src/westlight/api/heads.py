"""What the picture's socket answers: frames, and answers to questions about the picture."""

from __future__ import annotations

from typing import Any, Literal

from westlight.core.analysis import Cure
from westlight.engine.questions import Answer

from .answers import Facts, StillRow


class SourceNoise(Answer):
    """Noise one source makes in the mix, and what would cure it."""

    source: str
    noise: float
    direct: float
    bounced: float
    remedy: str
    cure: Cure


class NoiseStep(Answer):
    """One step of the noise overlay: from so many just-noticed steps on, in this colour."""

    steps: float
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
    #: Project, look and view it is a picture of.
    of: str
    #: Its light in words.
    described: str
    format: Literal["png", "jpeg"]
    width: int
    height: int
    scale: int
    passes: int
    #: Sources of the mix that have no bounced light yet as they are set now.
    waiting: int
    #: How many times too noisy the picture is to be calm, and what is seen of it; nothing before it is measured.
    noise: float | None
    #: Share of the light that the clamp on speckles took; null where there is no clamp.
    clamped: float | None
    grain: str
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
    #: What it is and how it is set, in words.
    described: str
    burnt: float
    colour: str
    #: Part of the light of the picture that it makes; 0 for one that does not count, null before its first light.
    share: float | None
    #: Stops by which the print is brighter than the picture; null for one exposed like it.
    lifted_ev: float | None
    headroom: float | None
    #: Stops that bring it just below burning, and whether it burns out more than the lamp itself.
    just_below: float | None
    burns: bool


class Said(Answer):
    """Words for the status line."""

    kind: Literal["note", "problem"]
    text: str


class FactsHead(Facts):
    """Sun and sky under a moving hand."""

    kind: Literal["facts"]


class Ready(Answer):
    """The first message: how the page's picture is called where it must be named."""

    kind: Literal["ready"]
    session: str


class Failure(Answer):
    """The picture could not be computed: words with the number in the log, and seconds until the next try."""

    kind: Literal["failure"]
    fault: int
    text: str
    again_s: float


class Answered(Answer):
    """Head of an answer; what it holds is told by `Questions`."""

    kind: Literal["answer"]
    id: int
    what: str
    answer: dict[str, Any]


class Unanswered(Answer):
    """A question that could not be answered, and why in words."""

    kind: Literal["unanswered"]
    id: int
    text: str


class Changed(Answer):
    """Somebody else has changed the project that is shown."""

    kind: Literal["changed"]
    project: str


class StillsHead(Answer):
    """The stills of the project that is shown, once more: one of them is further than before."""

    kind: Literal["stills"]
    project: str
    stills: list[StillRow]


#: What comes over the socket, which the web framework does not describe.
SOCKET_HEADS: list[type[Answer]] = [
    Ready, FrameHead, ContributionHead, Said, Failure, FactsHead, Answered, Unanswered, Changed,
    StillsHead,
]  # fmt: skip
