"""Daylight: the sun, a computed sky, and a picture of one."""

from __future__ import annotations

import math
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import numpy as np
import numpy.typing as npt

from ..colour import AP1_LUMINANCE, kelvin_to_rgb
from ..errors import SourceError
from ..sky import Hdri, Sky, sun_irradiance
from ..sun import SUN_RADIUS_DEG, direction
from .emission import Array


@dataclass
class Sun:
    """The sun: azimuth (from north, clockwise) and elevation in degrees.

    ``normal_illuminance_lx`` on a plane facing it; None takes strength and colour from the clear
    sky of that elevation. ``size`` multiplies its diameter of 0.533° and keeps its illuminance.
    ``kelvin`` replaces the physical colour. ``level`` in stops.
    """

    name: str
    azimuth_deg: float
    elevation_deg: float
    normal_illuminance_lx: float | None = None
    size: float = 1.0
    kelvin: float | None = None
    level: float = 0.0
    haze: float = 2.0

    @property
    def direction(self) -> Array:
        """Unit vector towards the sun."""
        return direction(self.azimuth_deg, self.elevation_deg)

    @property
    def one_minus_cos(self) -> float:
        """1 − cos of its apparent radius, in double precision."""
        if self.size <= 0:
            raise SourceError("The sun's size must be greater than zero.")
        return 2.0 * math.sin(math.radians(min(SUN_RADIUS_DEG * self.size, 60.0)) / 2) ** 2

    @property
    def gain(self) -> Array:
        """Working-space RGB irradiance on a plane facing it; its luminance is lux."""
        elevation = min(max(self.elevation_deg, -90.0), 90.0)
        rgb = sun_irradiance(round(elevation, 2), self.haze)
        lux = float(rgb @ AP1_LUMINANCE)
        if self.kelvin is not None:
            rgb = kelvin_to_rgb(self.kelvin) * lux
        if self.normal_illuminance_lx is not None:
            chroma = rgb / lux if lux > 0 else np.ones(3)
            rgb = chroma * self.normal_illuminance_lx
        return rgb * 2.0**self.level


@dataclass
class SkySource:
    """A sky as a source; ``level`` in stops. ``seen`` multiplies its brightness where the camera
    sees it, ``lighting`` the light that surfaces scatter evenly, ``mirrored`` what they, panes and
    glass mirror, which ``other`` pixels (h, w, 3) may replace. ``picture`` and its ``tables`` for
    sampling are filled from the sky when needed."""

    name: str
    sky: Sky
    level: float = 0.0
    seen: float = 1.0
    lighting: float = 1.0
    mirrored: float = 1.0
    other: npt.NDArray[np.float32] | None = field(default=None, repr=False)
    picture: npt.NDArray[np.float32] | None = field(default=None, repr=False)
    tables: object = field(default=None, repr=False)

    def pixels(self) -> npt.NDArray[np.float32]:
        """Latitude–longitude picture in cd/m², (h, w, 3), row 0 the zenith, column 0 north."""
        if self.picture is None:
            self.picture = self.sky.image()
        return self.picture

    @property
    def gain(self) -> Array:
        """RGB factor of the level."""
        return np.full(3, 2.0**self.level)


class HdriSource(SkySource):
    """A latitude–longitude picture as a source: a path (EXR, RGBE) or an array (h, w, 3).

    Its values are working-space RGB in cd/m² times ``scale``; ``rotation_deg`` turns it clockwise
    seen from above, with its middle column towards north at 0. Other keywords as `adjust`.
    Raises `PictureFileError` for a file or array that cannot be a sky.
    """

    def __init__(
        self,
        name: str,
        path_or_array: str | Path | npt.ArrayLike | Hdri,
        *,
        level: float = 0.0,
        seen: float = 1.0,
        lighting: float = 1.0,
        mirrored: float = 1.0,
        **settings: Any,
    ) -> None:
        hdri = Hdri.of(path_or_array)
        super().__init__(name, hdri, level, seen, lighting, mirrored)  # type: ignore[arg-type]
        self.picture = hdri.adjusted(**settings)
