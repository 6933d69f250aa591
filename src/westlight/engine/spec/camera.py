"""Settings of a view and of its exposure."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from .base import Kelvin, Point, Settings, Share, ToneName, dial, drawn

Shift = Annotated[float, Field(ge=-1, le=1)]


class ViewSettings(Settings):
    """A camera: metres, lens in mm."""

    position: Point = (5.5, -2.3, 1.55)
    target: Point = (-4.5, 1.4, 1.35)
    focal_length_mm: float = dial(24, 8, 400, "Focal length", 1, "mm", (10, 200), logarithmic=True)
    upright: bool = True
    roll_deg: float = dial(0, -180, 180, "Roll", 0.1, "°", (-15, 15))
    near_m: float = dial(0, 0, 500, "Cut away", 0.05, "m", (0, 10))
    aspect: float = dial(16 / 9, 0.2, 5, "Free aspect", 0.01, shown=(0.4, 3))
    #: To the right and up, as shares of the picture's width and height.
    shift: tuple[Shift, Shift] = Field(
        default=(0.0, 0.0), json_schema_extra=drawn("Shift", -0.5, 0.5, 0.01, "%")
    )
    depth_of_field: bool = False
    focus_m: float = dial(
        5, 0.01, 100_000, "Focus", 0.05, "m", (0.2, 100), logarithmic=True, above=True
    )
    blades: int = dial(0, 0, 12, "Blades", 1, whole=True)
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
    tint: float = dial(0, -50, 50, "Tint", 0.5, shown=(-30, 30))
    tone: ToneName = "natural"
    #: The shutter follows the picture: metered on all of it, or on an area around a point.
    automatic: Literal["off", "whole", "area"] = "off"
    #: Stops the automatic exposure stays above what it meters.
    compensation: Annotated[float, Field(ge=-5, le=5)] = 0.0
    #: Middle of the metered area, in shares of the picture from its top left.
    area: tuple[Share, Share] = (0.5, 0.5)
