"""What there is to choose from, and the range of every number."""

from __future__ import annotations

from typing import Literal

from westlight.engine.questions import Answer
from westlight.engine.spec import PlantName, ShapeName, ToneName
from westlight.engine.spec.kinds import GlassName, HangingName, ReadingName, SkyName, UnitName
from westlight.engine.still_files import PassName


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
