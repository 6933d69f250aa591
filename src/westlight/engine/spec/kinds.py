"""Tables of what is chosen of a picture's settings: kinds of sky, ways to read the picture, what hangs before openings."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated

from pydantic import AfterValidator

from westlight.core.sources import UNITS

from .base import listed, one_of


@dataclass(frozen=True)
class SkyKind:
    """A kind of sky: as its tile is called, and as the source is called in the strip."""

    label: str
    name: str


@dataclass(frozen=True)
class ReadingKind:
    """A way to read the picture, and the key that turns it on and off; one without a label has a control of its own."""

    label: str = ""
    key: str = ""


SKIES = {
    "clear": SkyKind("Clear", "Clear sky"),
    "cie": SkyKind("CIE", "CIE sky"),
    "graded": SkyKind("By hand", "Sky by hand"),
    "hdri": SkyKind("Picture", "Sky picture"),
}
READINGS = {
    "plain": ReadingKind("None"),
    "burnt": ReadingKind("Clipping", "b"),
    "luminance": ReadingKind("Luminance", "l"),
    "noise": ReadingKind("Noise"),
    "gamut": ReadingKind(),
    "raw": ReadingKind(),
}
#: What hangs before an opening, and what its glass is, by what they are called.
HANGINGS = {
    "nothing": "Nothing",
    "curtain": "Curtain",
    "roller": "Roller blind",
    "slats": "Slatted blind",
}
GLASSES = {"as it is": "As it is", "tinted": "Tinted", "frosted": "Frosted"}
HangingName = Annotated[str, AfterValidator(one_of(HANGINGS)), listed(HANGINGS)]
GlassName = Annotated[str, AfterValidator(one_of(GLASSES)), listed(GLASSES)]
UnitName = Annotated[str, AfterValidator(one_of(UNITS)), listed(UNITS)]
SkyName = Annotated[str, AfterValidator(one_of(SKIES)), listed(SKIES)]
ReadingName = Annotated[str, AfterValidator(one_of(READINGS)), listed(READINGS)]
