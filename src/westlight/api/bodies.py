"""Bodies of requests."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import AfterValidator, BaseModel, ConfigDict, Field

from westlight.engine.spec import Bounced, Hex, Kelvin, ShapeName, Speckles
from westlight.engine.spec.base import dial
from westlight.engine.still import Share
from westlight.engine.still_files import Kind as FileKind
from westlight.engine.still_files import PassName
from westlight.studio.picture_sun import Act
from westlight.studio.series import Series
from westlight.studio.stills import NAMES

Kind = Literal["view", "look", "source", "scene"]
EditKind = Literal["project", "model", "view", "look", "source", "scene"]


def _writable(text: str) -> str:
    """Text that a row can hold: no NUL, no halves of letters."""
    if "\x00" in text or any("\ud800" <= c <= "\udfff" for c in text):
        raise ValueError("this holds signs that no text has")
    return text


#: Text of any length, a line, an id.
Text = Annotated[str, AfterValidator(_writable)]
#: Path of a file inside a zip; none for the only one.
NameInZip = Annotated[Text, Field(max_length=1000)]
UpAxis = Literal["x", "y", "z", "-x", "-y", "-z"]
Line = Annotated[Text, Field(max_length=200)]


class Body(BaseModel):
    """Base of request bodies."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)


class Direction(Body):
    """A direction of the building as it stands now."""

    direction: tuple[float, float, float]


class NewProject(Body):
    """A project to create."""

    name: Annotated[Text, Field(max_length=200)]


class NewName(Body):
    """A name to keep something under."""

    name: Annotated[Text, Field(max_length=200)]


class Edit(Body):
    """Columns and settings to lay over a row; edits of one gesture are one step of undo."""

    patch: dict[str, Any]
    label: Line = ""
    gesture: Line | None = None


class NewRow(Body):
    """A view, look, source or scene of the lamps to add."""

    name: Annotated[Text, Field(min_length=1, max_length=200)]
    settings: dict[str, Any]


class NewFixture(Body):
    """A fixture to put on a surface: where, and the surface's normal there; or free, in mid-air or
    fitted into a body."""

    shape: ShapeName
    position: tuple[float, float, float]
    normal: tuple[float, float, float]
    photometry: Text | None = None
    free: bool = False
    roll_deg: float = 0.0
    sizes: (
        dict[Literal["width", "height", "radius", "length"], Annotated[float, Field(gt=0)]] | None
    ) = None


class Grid(Body):
    """Linked copies of a fixture around its first place: numbers, spacing in metres, turn."""

    columns: int = dial(1, 1, 200, "Columns", 1, shown=(1, 20), whole=True)
    rows: int = dial(1, 1, 200, "Rows", 1, shown=(1, 20), whole=True)
    across_m: float = dial(1.5, 0, 200, "Across", 0.05, "m", shown=(0.1, 10), above=True)
    along_m: float = dial(1.5, 0, 200, "Along", 0.05, "m", shown=(0.1, 10), above=True)
    turn_deg: float = dial(0, -180, 180, "Turned", 1, "°", shown=(-90, 90))


class NewSheet(Body):
    """A contact sheet to make: over the day, the year, kept suns, lights to begin with, all looks of a view, all views, or both."""

    look: Text
    view: Text
    kind: Literal["day", "year", "kept", "start", "looks", "views", "all"]
    #: How the page's picture is called, for lights to begin with; see the first message of its socket.
    session: Text = ""


class NewProof(Body):
    """The present picture of a look and view, as a page sees it, to be kept."""

    look: Text
    view: Text
    #: How the page's picture is called; see the first message of its socket.
    session: Text


class NewFinish(Body):
    """The finish of a look, to be kept under a name."""

    look: Text
    name: Annotated[Text, Field(min_length=1, max_length=60)]


class LampStep(Body):
    """A step in stops for all lamps."""

    step: Annotated[float, Field(ge=-8, le=8)]


class LevelsOf(Body):
    """The look whose levels are taken over; of one source, or of all."""

    look: Text
    source: Text | None = None


class OtherLook(Body):
    """The look to take everything from."""

    other: Text


class PictureSun(Body):
    """What to do with the sun of a sky picture."""

    act: Act


class PhotometricCopy(Body):
    """An edited copy of a photometric file: intensities times a factor, turned, or made even."""

    name: Annotated[Text, Field(min_length=1, max_length=80)]
    scale: float = dial(
        1, 0, 1000, "Light", 0.05, "×", shown=(0.05, 20), logarithmic=True, above=True
    )
    turn_deg: float = dial(0, -360, 360, "Turned", 5, "°", shown=(-180, 180))
    symmetrise: bool = False


class NewWhite(Body):
    """A white of lamps in kelvin, or a hue instead of it, to be kept under a name."""

    name: Annotated[Text, Field(min_length=1, max_length=60)]
    kelvin: Kelvin
    colour: Hex | None = None


class Note(Body):
    """A note on something kept."""

    note: Annotated[Text, Field(max_length=2000)]


StillAct = Literal[
    "cancel", "pause", "resume", "sooner", "remove", "restore", "drop_light", "sweep"
]


class NewStill(Body):
    """A still to render: stops at noise, time or samples, whichever first."""

    look: Text
    view: Text
    width_px: int = dial(
        1920, 64, 8192, "Width", 16, "px", shown=(320, 8192), logarithmic=True, whole=True
    )
    #: Share of the light to stop at; without one it stops when no noise is seen.
    noise: Annotated[float, Field(gt=0, le=1)] | None = None
    seconds: float = dial(
        600, 0, 86_400, "At most", 6, "min", shown=(6, 14_400), logarithmic=True, above=True
    )
    samples: Annotated[int, Field(ge=1, le=65_536)] = 256
    files: Annotated[list[FileKind], Field(min_length=1)] = ["exr", "png"]
    passes: list[PassName] = []
    sources: bool = True
    half: bool = True
    keep: bool = True
    compression: Literal["zip", "zips", "piz", "none"] = "zip"
    bounced: Bounced = "traced"
    speckles: Speckles = "left"
    #: Template of file names: words in braces.
    names: Annotated[Text, Field(min_length=1, max_length=200)] = NAMES
    dpi: Annotated[float, Field(ge=30, le=2400)] | None = None
    screen: Literal["sRGB", "Display P3", "Rec.709"] = "sRGB"


class NewSeries(NewStill):
    """A series of stills: over clock minutes of the day, or over stops that all lamps are dimmed by."""

    series: Series


SeriesAct = Literal["cancel", "pause", "resume", "remove"]


class Again(Body):
    """More passes for a finished still: in a region (left, top, right, bottom, 0…1), of some sources."""

    region: tuple[Share, Share, Share, Share] | None = None
    only: list[Text] = []
    noise: Annotated[float, Field(gt=0, le=1)] = 0.02
    seconds: float = dial(
        120, 0, 86_400, "For", 6, "min", shown=(6, 7_200), logarithmic=True, above=True
    )


#: Bodies whose numbers are set on sliders, by the name the page knows them by.
ORDERS: dict[str, type[Body]] = {
    "order": NewStill,
    "again": Again,
    "copy": PhotometricCopy,
    "grid": Grid,
}
