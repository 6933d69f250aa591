"""What lies on the shelves of a project, and the room files take."""

from __future__ import annotations

from typing import Any

from westlight.engine.questions import Answer

from .named import Named


class Kept(Named):
    """A kept finish or white: the settings a look or a fixture takes over."""

    settings: dict[str, Any]


class ConeStep(Answer):
    """Light straight below a luminaire at a distance."""

    distance_m: float
    lux: float
    diameter_m: float


class Luminaire(Answer):
    """A photometric file on the shelf. ``curve`` has intensities over the peak by plane."""

    asset: str
    name: str
    flux_lm: float
    watts: float | None
    efficacy: float | None
    peak_cd: float
    beam_deg: float
    field_deg: float
    remarks: list[str]
    #: What kind of light it is, to be searched by.
    tags: list[str]
    #: CIE flux codes N1…N4 in per cent.
    flux_codes: list[int]
    cone: list[ConeStep]
    step_deg: float
    curve: dict[str, list[float]]


class SkySun(Answer):
    """The sun found in a sky picture that is not rotated: degrees, and lux facing it."""

    azimuth_deg: float
    elevation_deg: float
    lux: float


class SkyCard(Answer):
    """A sky picture on the shelf: lux on the ground, kelvin, contrast in stops, its sun."""

    asset: str
    name: str
    width_px: int
    lux: float
    kelvin: float
    stops: float
    sun: SkySun | None
    remarks: list[str]


class StorageKind(Answer):
    """Bytes of files by what they belong to."""

    kind: str
    bytes: int


class Storage(Answer):
    """What the files of all projects take, what nothing names any more, what is free, what was freed."""

    kinds: list[StorageKind]
    unnamed: int
    free: int
    freed: int | None = None
