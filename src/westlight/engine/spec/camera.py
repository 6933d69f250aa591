"""Settings of a view and of its exposure."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from .base import Kelvin, Point, Settings, Share, ToneName

Shift = Annotated[float, Field(ge=-1, le=1)]


class ViewSettings(Settings):
    """A camera: metres, lens in mm."""

    position: Point = (5.5, -2.3, 1.55)
    target: Point = (-4.5, 1.4, 1.35)
    focal_length_mm: Annotated[float, Field(ge=8, le=400)] = 24.0
    upright: bool = True
    roll_deg: Annotated[float, Field(ge=-180, le=180)] = 0.0
    near_m: Annotated[float, Field(ge=0, le=500)] = 0.0
    aspect: Annotated[float, Field(ge=0.2, le=5)] = 16 / 9
    shift: tuple[Shift, Shift] = (0.0, 0.0)
    depth_of_field: bool = False
    focus_m: Annotated[float, Field(gt=0.01, le=100_000)] = 5.0
    blades: Annotated[int, Field(ge=0, le=12)] = 0
    #: Aperture of the look that is shown (filled in on the way when depth of field is on).
    f_number: float | None = None
    guides: Literal["none", "thirds", "golden", "spiral", "diagonals", "centre", "safe"] = "none"
    #: Which of four ways the spiral turns.
    guides_turn: Annotated[int, Field(ge=0, le=3)] = 0


class ExposureSettings(Settings):
    """Camera exposure and white point."""

    f_number: Annotated[float, Field(ge=0.7, le=64)] = 5.6
    shutter_s: Annotated[float, Field(gt=0, le=3600)] = 1 / 30
    iso: Annotated[float, Field(ge=1, le=409_600)] = 200.0
    kelvin: Kelvin = 5600.0
    tint: Annotated[float, Field(ge=-50, le=50)] = 0.0
    tone: ToneName = "natural"
    #: The shutter follows the picture: metered on all of it, or on an area around a point.
    automatic: Literal["off", "whole", "area"] = "off"
    #: Stops the automatic exposure stays above what it meters.
    compensation: Annotated[float, Field(ge=-5, le=5)] = 0.0
    #: Middle of the metered area, in shares of the picture from its top left.
    area: tuple[Share, Share] = (0.5, 0.5)
