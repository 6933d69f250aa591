"""What an import found, parts and materials, plan and section, doubts."""

from __future__ import annotations

from typing import Any

from westlight.engine.questions import Answer
from westlight.engine.spec import Tag

from .named import Point, Track
from .project import Project


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
