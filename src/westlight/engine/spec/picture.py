"""Everything a picture is made from."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from .base import Settings, Share
from .building import HazeSettings, ModelSpec
from .camera import ExposureSettings, ViewSettings
from .finish import FinishSettings
from .kinds import ReadingName
from .sources import SourceSpec

Bounced = Literal["kept", "traced"]
Speckles = Literal["left", "cut"]


Region = tuple[Share, Share, Share, Share]


class PictureSpec(Settings):
    """Everything a picture depends on. ``moving`` while a hand drags the sun or a source, ``held`` while one only mixes."""

    model: ModelSpec | None = None
    view: ViewSettings = Field(default_factory=ViewSettings)
    width_px: Annotated[int, Field(ge=16, le=8192)] = 1280
    exposure: ExposureSettings = Field(default_factory=ExposureSettings)
    finish: FinishSettings = Field(default_factory=FinishSettings)
    sources: list[SourceSpec] = Field(default_factory=list)
    clay: float | None = None
    portals: bool = True
    closed: bool = False
    air: Annotated[list[HazeSettings], Field(max_length=8)] = Field(default_factory=list)
    #: Most bounces of a path; roulette ends most of them before. Six left white rooms 8 to 27 % too dark, sixteen
    #: still a step of 255 (decisions 51, 59).
    bounces: Annotated[int, Field(ge=0, le=64)] = 32
    #: Bounced light from the light cache, averaged over small cells, or path by path.
    bounced: Bounced = "kept"
    #: Whether single samples of bounced light are kept below a limit that is chosen by what it takes.
    speckles: Speckles = "left"
    denoise: bool = True
    #: How the picture is read: as it is, before denoising, burnt and black striped, luminance in
    #: false colour, or with what lies beyond an sRGB screen marked.
    reading: ReadingName = "plain"
    #: Share of the width, from the left, that is shown before denoising beside the rest.
    split: Share | None = None
    #: A part of the picture that is refined before the rest: left, top, right, bottom, 0…1.
    region: Region | None = None
    #: Only this source, exposed by itself, with its reach outlined.
    find: str | None = None
    #: Whether the little picture of each source is exposed for itself instead of like the picture.
    prints_by_themselves: bool = False
    #: What this is a picture of, in the words of who asked; it comes back with each frame.
    of: Annotated[str, Field(max_length=200)] = ""
    moving: bool = False
    held: bool = False
    paused: bool = False
    #: Noise at which the picture is calm, in just-noticed steps of the worst twentieth of its tiles; a single
    #: tile may have three times as much.
    calm_at: Annotated[float, Field(gt=0, le=100)] = 1.0
    max_samples: Annotated[int, Field(ge=1, le=65536)] = 512
    max_seconds: Annotated[float, Field(gt=0)] = 300.0

    #: A noise in per cent of the mean, which the eye does not see.
    gone = frozenset({"target_noise"})

    @property
    def raw_share(self) -> float:
        """Share of the width, from the left, that is shown before denoising."""
        return 1.0 if self.reading == "raw" else self.split or 0.0

    @property
    def height_px(self) -> int:
        """Height that goes with the view's aspect, a multiple of four."""
        return max(16, round(self.width_px / self.view.aspect / 4) * 4)
