"""Settings of the building: what was changed of it and put around it, and the air."""

from __future__ import annotations

from pathlib import PurePath
from typing import Annotated, Any, Literal

from pydantic import AfterValidator, Field, field_validator, model_validator

from westlight.core.model.cloths import CLOTHS
from westlight.core.model.plants import PLANTS
from westlight.core.model.tags import Tag

from .base import FileId, Hex, Point, Settings, dial, drawn, listed, one_of
from .kinds import GlassName, HangingName

PlantName = Annotated[str, AfterValidator(one_of(PLANTS)), listed(PLANTS)]
ClothName = Annotated[str, AfterValidator(one_of(CLOTHS)), listed(CLOTHS)]
#: Formats of a building's file.
ModelSuffix = Literal[".glb", ".gltf", ".obj", ".ifc"]
#: Axis of a model file that points up.
UpAxis = Literal["x", "y", "z", "-x", "-y", "-z"]


class MaterialEdit(Settings):
    """Changes of one material of the model; see `core.model.MaterialChange`."""

    reflectance: Annotated[float, Field(ge=0, le=1)] | None = None
    #: Hue of what it sends back, or of what glass lets through.
    colour: Hex | None = None
    roughness: Annotated[float, Field(ge=0, le=1)] | None = None
    metallic: Annotated[float, Field(ge=0, le=1)] | None = None
    glass: bool | None = None
    clear_path: bool | None = None
    solid: bool | None = None
    frost: Annotated[float, Field(ge=0, le=1)] | None = None
    coat: Annotated[float, Field(ge=0, le=1)] | None = None
    coat_roughness: Annotated[float, Field(ge=0, le=1)] | None = None
    translucency: Annotated[float, Field(ge=0, le=1)] | None = None
    #: Colour of the light scattered through.
    through: Hex | None = None
    openness: Annotated[float, Field(ge=0, le=1)] | None = None
    emission_cd_m2: Annotated[float, Field(ge=0, le=1e9)] | None = None
    #: A picture its own light shows: its asset, and what it is called.
    picture: FileId | None = None
    picture_name: str = ""
    gone = frozenset({"picture_path"})


Size = Annotated[float, Field(gt=0, le=2000)]


#: What can be added; see `core.model.additions.KINDS`.
AdditionKind = Literal["ground", "block", "tree", "blind", "blocker", "light card"]


class Addition(Settings):
    """Something added around the building; see `core.model.additions`.

    ``size_m`` is width, depth and height (of a blind: depth of a slat). A blocker is a card or box
    that stops and tints light unseen. ``on`` switches it without losing it.
    """

    id: str
    name: Annotated[str, Field(min_length=1, max_length=80)]
    kind: AdditionKind
    position: Point
    size_m: Annotated[
        tuple[Size, Size, Size],
        Field(json_schema_extra=drawn("Size", 0.01, 200, 0.05, "m", 1, True)),
    ]
    turn_deg: float = dial(0, -360, 360, "Turned", 1, "°", shown=(-180, 180))
    tilt_deg: float = dial(0, -90, 90, "Tilt", 1, "°", shown=(-80, 80))
    colour: Hex = "#8c8c8c"
    on: bool = True
    #: Luminance of a light card, and the picture it shows: its asset, and what it is called.
    emission_cd_m2: float = dial(
        0, 0, 1e9, "Own light", 10, "cd/m²", shown=(1, 50_000), logarithmic=True
    )
    picture: FileId | None = None
    picture_name: str = ""
    gone = frozenset({"picture_path"})


def _gain() -> Any:
    """Stops that are added to the light that comes in by an opening: a cheat."""
    return dial(0.0, -6, 6, "Gain", 0.1, "EV", shown=(-4, 4))


class OpeningEdit(Settings):
    """What was changed of an opening that was found: left out, turned round, its gain in stops."""

    on: bool = True
    turned: bool = False
    gain: float = _gain()


class AddedOpening(Settings):
    """An opening placed by hand: centre, direction into the room, size in metres, gain in stops."""

    name: Annotated[str, Field(min_length=1, max_length=80)]
    position: Point
    inward: Point
    width: Size
    height: Size
    gain: float = _gain()


class Moved(Settings):
    """How a part stands against where its file has it; see `core.model.moved`."""

    by: Annotated[Point, Field(json_schema_extra=drawn("Moved by", -5, 5, 0.01, "m"))] = (0, 0, 0)
    turn_deg: float = dial(0, -360, 360, "Turned by", 1, "°", shown=(-180, 180))
    size: float = dial(1, 0.01, 100, "Size", 0.01, "×", shown=(0.2, 5), logarithmic=True)


class PartCopy(Moved):
    """One more of a part, which is named by the file's name for it."""

    id: Annotated[str, Field(min_length=1, max_length=40)]
    of: str
    name: Annotated[str, Field(min_length=1, max_length=80)]


class Stroke(Settings):
    """One stroke of a planting; see `core.analysis.planting.Stroke`. ``on`` names the part it began on."""

    kind: Literal["brush", "erase", "row", "one"] = "brush"
    points: Annotated[list[Point], Field(min_length=1, max_length=600)]
    radius_m: float = dial(
        1, 0, 100, "Reach", 0.1, "m", shown=(0.1, 15), logarithmic=True, above=True
    )
    on: Annotated[str, Field(max_length=200)] = ""
    normal: Point = (0.0, 0.0, 1.0)


class Planting(Settings):
    """Plants of one kind, painted, in rows or put one by one; see `core.analysis.planting.Bed`.

    ``seed`` chooses the arrangement. Strokes are laid one over another in the order of their names.
    """

    name: Annotated[str, Field(min_length=1, max_length=80)]
    plant: PlantName
    on: bool = True
    detail: Literal["near", "usual", "far"] = "usual"
    seed: Annotated[int, Field(ge=0, le=9999)] = 1
    per_m2: float = dial(1, 0.001, 400, "Density", 0.01, "/m²", (0.01, 150), logarithmic=True)
    apart_m: float = dial(1, 0.05, 100, "Apart in a row", 0.01, "m", (0.1, 20), logarithmic=True)
    size: float = dial(1, 0.1, 10, "Size", 0.01, "×", (0.3, 3), logarithmic=True)
    size_spread: float = dial(0.25, 0, 0.9, "Sizes differ", 0.01, "%")
    turn_spread: float = dial(1, 0, 1, "Turns differ", 0.01, "%")
    slope: float = dial(0, 0, 1, "Leans", 0.01, "%")
    keep_off_m: float = dial(0.2, 0, 20, "Keeps off", 0.01, "m", (0, 4))
    strokes: dict[str, Stroke] = Field(default_factory=dict)

    @field_validator("strokes", mode="before")
    @classmethod
    def _without_cleared(cls, values: Any) -> Any:
        return without_cleared(values)

    @field_validator("strokes")
    @classmethod
    def _not_without_end(cls, values: dict[str, Stroke]) -> dict[str, Stroke]:
        if len(values) > MOST_STROKES:
            raise ValueError(f"A planting has at most {MOST_STROKES} strokes; begin another one.")
        return values


#: Strokes of one planting.
MOST_STROKES = 500


def without_cleared(values: Any) -> Any:
    """An edit lays itself over what is there; null takes an entry away."""
    if isinstance(values, dict):
        return {k: v for k, v in values.items() if v is not None}
    return values


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
    #: Parts that stand otherwise than in the file, by name, and more of them.
    moved: dict[str, Moved] = Field(default_factory=dict)
    copies: Annotated[list[PartCopy], Field(max_length=500)] = Field(default_factory=list)
    #: Plants around it, by id.
    plantings: dict[str, Planting] = Field(default_factory=dict)
    openings: dict[str, OpeningEdit] = Field(default_factory=dict)
    added_openings: Annotated[list[AddedOpening], Field(max_length=24)] = Field(
        default_factory=list
    )

    @field_validator("own_materials", "names", "tags", "moved", "plantings", mode="before")
    @classmethod
    def _without_cleared(cls, values: Any) -> Any:
        return without_cleared(values)


class Dress(Settings):
    """What hangs before an opening in one look, and how its glass is; see `core.model.dressing`.

    Where the opening is and how large stands here, so that it stays dressed when openings are looked for anew.
    """

    opening: Annotated[str, Field(min_length=1, max_length=80)]
    position: Point
    inward: Point
    width: Size
    height: Size
    roll_deg: Annotated[float, Field(ge=-360, le=360)] = 0.0
    hangs: HangingName = "nothing"
    cloth: ClothName = "sheer"
    colour: Hex = "#f2efe8"
    drawn: float = dial(1, 0, 1, "Drawn", 0.01, "%")
    tilt_deg: float = dial(35, -85, 85, "Slats", 1, "°")
    off_m: float = dial(0.12, 0, 2, "Distance", 0.01, "m", (0, 0.6))
    below_m: float = dial(0.05, -1, 10, "Hangs below", 0.01, "m", (0, 1.5))
    #: Parts whose glass lies in it, by name.
    panes: Annotated[list[str], Field(max_length=40)] = Field(default_factory=list)
    glass: GlassName = "as it is"
    tint: Hex = "#b4c9c0"
    through: float = dial(0.6, 0.02, 0.95, "Lets through", 0.01, "%")

    @property
    def bare(self) -> bool:
        """Whether nothing hangs there and its glass is its own."""
        return self.hangs == "nothing" and self.glass == "as it is"


class HazeSettings(Settings):
    """Haze in the air, traced; see `core.Air`. Without corners it is everywhere."""

    visibility_m: float = dial(300, 1, 100_000, "Visibility", 1, "m", (5, 20_000), logarithmic=True)
    thins_over_m: float | None = dial(
        1000, 0.1, 10_000, "Thins over", 0.1, "m", (0.3, 1000), logarithmic=True, optional=True
    )
    colour: Hex = "#ffffff"
    #: Share of the light it meets that it scatters on; the rest is lost.
    scattering: float = dial(0.95, 0, 1, "Scatters", 0.01, "%")
    forward: float = dial(0.5, -0.5, 0.9, "Forward", 0.05)
    low: Point | None = None
    high: Point | None = None
    on: bool = True


class ModelSpec(Settings):
    """The building file, how it stands, and what was changed of it."""

    asset: FileId
    suffix: ModelSuffix = ".glb"
    up: UpAxis = "y"
    #: Metres of one unit of the file.
    scale: Annotated[float, Field(gt=0, le=1000)] = 1.0
    north_deg: float = 0.0
    edits: ModelEdits = Field(default_factory=ModelEdits)
    #: Curtains, blinds and glass of the look.
    dress: list[Dress] = Field(default_factory=list)

    @model_validator(mode="before")
    @classmethod
    def _of_earlier_versions(cls, told: Any) -> Any:
        """Recipes of earlier versions named the building by its path, which ended in its id."""
        if isinstance(told, dict) and "path" in told and "asset" not in told:
            file = PurePath(told["path"])
            others = {name: value for name, value in told.items() if name != "path"}
            return {**others, "asset": file.stem, "suffix": file.suffix}
        return told
