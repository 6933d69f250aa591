"""What a page may say on the picture's socket, checked at the door."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field, TypeAdapter

from westlight.engine.spec import Settings, Share, Speckles
from westlight.engine.spec.kinds import ReadingName

Id = Annotated[str, Field(min_length=1, max_length=64)]


class Held(Settings):
    """What the hand moves: patches of settings, which are checked with what they are laid over."""

    look: dict[str, Any] = Field(default_factory=dict)
    view: dict[str, Any] = Field(default_factory=dict)
    sources: dict[Id, dict[str, Any]] = Field(default_factory=dict)
    model: dict[str, Any] = Field(default_factory=dict)


class Show(Settings):
    """Which picture, at which width, and what the hand holds."""

    kind: Literal["show"]
    project: Id
    look: Id
    view: Id
    held: Held | None = None
    width: Annotated[int, Field(ge=16, le=8192)] = 1280
    moving: bool = False
    paused: bool = False
    #: Whether the page is looked at: a hidden one computes nothing.
    visible: bool = True
    #: The page has no picture of what it shows: one is sent though nothing of it is new.
    blank: bool = False
    #: The light as it was traced, for as long as a key is held.
    plain: bool = False
    reading: ReadingName = "plain"
    #: Share of the width, from the left, that is shown before denoising.
    split: Share | None = None
    speckles: Speckles = "left"
    find: Id | None = None
    prints_by_themselves: bool = False
    region: tuple[Share, Share, Share, Share] | None = None


class Drawn(Settings):
    """A frame has been drawn; another may come."""

    kind: Literal["drawn"]


class Ask(Settings):
    """A question about the picture, with a number that its answer gives back."""

    kind: Literal["ask"]
    id: int
    what: Annotated[str, Field(max_length=40)]
    of: dict[str, Any] = Field(default_factory=dict)


class Again(Settings):
    """Try again what failed."""

    kind: Literal["again"]


Message = Annotated[Show | Drawn | Ask | Again, Field(discriminator="kind")]
MESSAGES: TypeAdapter[Show | Drawn | Ask | Again] = TypeAdapter(Message)
