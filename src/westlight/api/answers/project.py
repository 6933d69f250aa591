"""A project with everything in it, and what edits of it answer."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from westlight.engine.questions import Answer
from westlight.engine.spec import FixtureSettings, GlowSettings, ViewSettings
from westlight.studio.settings import LookState, ModelState, SceneState

from .handover import StillRow
from .named import Named


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


class Made(Answer):
    """A new row, and the project with it."""

    id: str
    project: Project


class Stepped(Answer):
    """What was undone or redone, and the project after it."""

    label: str | None
    project: Project


class Restored(Answer):
    """Look and view that a proof brought back, and the project with them."""

    look: str
    view: str
    project: Project


class Brought(Answer):
    """How many lamps, suns and cameras were brought in, what was left behind, and the project with them."""

    count: int
    remarks: list[str]
    project: Project
