"""Stills, contact sheets and proofs."""

from __future__ import annotations

from typing import Any, Literal

from westlight.engine.questions import Answer

from .named import Named


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


class Proof(Named):
    """A kept picture: its file, its note, its light in words, and the look and view it is of."""

    note: str
    described: str
    shown: str
    created_at: str
    look: str
    view: str


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
