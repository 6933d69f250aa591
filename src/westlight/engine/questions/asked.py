"""What a question is, and what it may look at: the present picture of a session, and nothing that changes it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property
from typing import Any, NamedTuple

from pydantic import BaseModel, ConfigDict

from westlight.core import View

from ..live.draft import Hand
from ..live.frames import Drawing
from ..live.pictures import Found, Pictures
from ..live.prepared import Prepared
from ..live.session import Session
from ..spec import ExposureSettings, Settings, SourceSpec
from ..translate import view_of

Point = tuple[float, float, float]


class Nothing(Settings):
    """A question that needs no more than its name."""


class At(Settings):
    """A point of the picture, 0…1 from its top left."""

    x: float
    y: float


class Answer(BaseModel):
    """Base of answers. Fields with a default are always sent."""

    model_config = ConfigDict(json_schema_serialization_defaults_required=True)


@dataclass(frozen=True, eq=False)
class Asked:
    """The picture that is asked about."""

    p: Prepared
    pictures: Pictures
    hand: Hand
    #: Draws the present picture, as it will rest or on the way.
    drawing: Callable[[bool], Drawing]
    session: Session

    @staticmethod
    def of(session: Session) -> Asked:
        """A session as questions see it."""
        return Asked(session.prepared, session.pictures, session.hand, session.drawing, session)

    @cached_property
    def view(self) -> View:
        """The view at full size."""
        spec = self.p.spec
        return view_of(spec.view, spec.width_px, spec.height_px)

    @property
    def exposure(self) -> ExposureSettings:
        """Exposure that the picture is shown with."""
        return self.session.mixer.exposure(self.p)

    def best(self, source: SourceSpec) -> Found | None:
        """The best film of a source, or the one that stands in for it."""
        return self.pictures.best(self.p, source, self.hand.moved)


class Question(NamedTuple):
    """A question by name: what must be told with it, what it is answered with, and who knows."""

    name: str
    request: type[Settings]
    answer: type[Answer]
    function: Callable[[Asked, Any], Answer]
    #: Seconds after which an answer is given up.
    timeout_s: float = 60.0
    #: Asked by the server alone, not by pages.
    inside: bool = False
