"""Sources of light: sun, sky, and emitters of simple shape, alone or as a group.

Every source is traced with a *unit* amount; `gain` is what the result is multiplied by. So level,
amount and colour change a picture without tracing anything again.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
import numpy.typing as npt

from .colour import AP1_LUMINANCE, kelvin_to_rgb
from .errors import SourceError
from .photometry import lambertian_luminance
from .sky import Sky, sun_irradiance
from .sun import SUN_RADIUS_DEG, direction

Array = npt.NDArray[np.float64]
Point = Sequence[float]


def _unit(vector: Point, what: str) -> Array:
    v = np.asarray(vector, dtype=np.float64)
    length = float(np.linalg.norm(v))
    if not length > 0:
        raise SourceError(f"{what} needs a direction.")
    return v / length


@dataclass(kw_only=True)
class Emission:
    """Amount and colour common to emitters: one of luminance, flux or intensity must be given.

    ``colour`` is a working-space RGB of luminance 1 (it is normalised) or use ``kelvin``.
    ``level`` in stops. ``visible`` emitters can be seen and are met by reflections.
    """

    luminance_cd_m2: float | None = None
    luminous_flux_lm: float | None = None
    luminous_intensity_cd: float | None = None
    kelvin: float | None = None
    colour: tuple[float, float, float] | None = None
    level: float = 0.0
    visible: bool = True

    def _chromatic(self) -> Array:
        if self.kelvin is not None:
            return kelvin_to_rgb(self.kelvin)
        if self.colour is None:
            return np.ones(3)
        rgb = np.asarray(self.colour, dtype=np.float64)
        y = float(rgb @ AP1_LUMINANCE)
        if y <= 0:
            raise SourceError("A light colour needs some brightness; black cannot shine.")
        return rgb / y

    def _luminance(self, flux_area_m2: float, intensity_area_m2: float) -> float:
        given = [self.luminance_cd_m2, self.luminous_flux_lm, self.luminous_intensity_cd]
        if sum(v is not None for v in given) != 1:
            raise SourceError("Give the amount once: as luminance, as lumen or as candela.")
        if self.luminance_cd_m2 is not None:
            return self.luminance_cd_m2
        if self.luminous_flux_lm is not None:
            return lambertian_luminance(self.luminous_flux_lm, flux_area_m2)
        assert self.luminous_intensity_cd is not None
        return self.luminous_intensity_cd / intensity_area_m2


@dataclass
class Rectangle(Emission):
    """Diffuse one-sided rectangle: centre, direction it shines to, width and height in metres.

    ``width`` runs horizontally; for one that shines straight up or down, along x unless
    ``roll_deg`` turns it.
    """

    name: str
    position: Point
    direction: Point
    width: float
    height: float
    roll_deg: float = 0.0

    @property
    def axes(self) -> tuple[Array, Array, Array]:
        """Unit width, height and normal directions."""
        return _axes(self.direction, self.roll_deg, self.name)

    @property
    def area_m2(self) -> float:
        """Emitting area in m²."""
        if min(self.width, self.height) <= 0:
            raise SourceError(f"“{self.name}” needs a width and height greater than zero.")
        return self.width * self.height

    @property
    def radiance(self) -> Array:
        """Working-space RGB of its face in cd/m², level included."""
        lum = self._luminance(self.area_m2, self.area_m2)
        return self._chromatic() * lum * 2.0**self.level


@dataclass
class Disc(Emission):
    """Diffuse one-sided disc: centre, direction it shines to, radius in metres."""

    name: str
    position: Point
    direction: Point
    radius: float

    @property
    def axes(self) -> tuple[Array, Array, Array]:
        """Unit directions in the disc and its normal."""
        return _axes(self.direction, 0.0, self.name)

    @property
    def area_m2(self) -> float:
        """Emitting area in m²."""
        if self.radius <= 0:
            raise SourceError(f"“{self.name}” needs a radius greater than zero.")
        return math.pi * self.radius**2

    @property
    def radiance(self) -> Array:
        """Working-space RGB of its face in cd/m², level included."""
        lum = self._luminance(self.area_m2, self.area_m2)
        return self._chromatic() * lum * 2.0**self.level


@dataclass
class Sphere(Emission):
    """Diffuse glowing sphere: centre and radius in metres; intensity I = L·π·r² to every side."""

    name: str
    position: Point
    radius: float

    @property
    def area_m2(self) -> float:
        """Surface in m²."""
        if self.radius <= 0:
            raise SourceError(f"“{self.name}” needs a radius greater than zero.")
        return 4 * math.pi * self.radius**2

    @property
    def radiance(self) -> Array:
        """Working-space RGB of its face in cd/m², level included."""
        lum = self._luminance(self.area_m2, self.area_m2 / 4)
        return self._chromatic() * lum * 2.0**self.level


Emitter = Rectangle | Disc | Sphere


def _axes(towards: Point, roll_deg: float, name: str) -> tuple[Array, Array, Array]:
    n = _unit(towards, f"“{name}”")
    up = np.array([0.0, 0.0, 1.0])
    u = np.array([1.0, 0.0, 0.0]) if abs(n[2]) > 0.999 else np.cross(up, n)
    u = u - n * float(u @ n)
    u /= np.linalg.norm(u)
    v = np.cross(n, u)
    a = math.radians(roll_deg)
    return u * math.cos(a) + v * math.sin(a), v * math.cos(a) - u * math.sin(a), n


@dataclass
class Group:
    """Emitters that are one source: one contribution, one level (stops) and one switch."""

    name: str
    emitters: Sequence[Emitter]
    level: float = 0.0

    @cached_property
    def radiances(self) -> Array:
        """Radiance of each emitter in cd/m², (n, 3)."""
        return np.array([e.radiance for e in self.emitters]).reshape(-1, 3)

    @property
    def _common(self) -> bool:
        r = self.radiances
        return len(r) > 0 and bool(np.allclose(r, r[0], rtol=1e-9)) and bool(r[0].max() > 0)

    @property
    def unit_radiances(self) -> Array:
        """Radiances as traced: white of 1 cd/m² if all emitters are alike, else their own."""
        return np.ones_like(self.radiances) if self._common else self.radiances

    @property
    def gain(self) -> Array:
        """RGB factor from the traced to the real contribution."""
        base = self.radiances[0] if self._common else np.ones(3)
        return base * 2.0**self.level


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
    """A sky as a source; ``level`` in stops. ``picture`` and its sampling ``table`` are filled
    from the sky when needed."""

    name: str
    sky: Sky
    level: float = 0.0
    picture: npt.NDArray[np.float32] | None = field(default=None, repr=False)
    table: npt.NDArray[np.float32] | None = field(default=None, repr=False)

    def pixels(self) -> npt.NDArray[np.float32]:
        """Latitude–longitude picture in cd/m², (h, w, 3), row 0 the zenith, column 0 north."""
        if self.picture is None:
            self.picture = self.sky.image()
        return self.picture

    @property
    def gain(self) -> Array:
        """RGB factor of the level."""
        return np.full(3, 2.0**self.level)


@dataclass
class Glow:
    """Emission of one material of the model as a source of its own."""

    name: str
    material: object
    emission_rgb: tuple[float, float, float]
    level: float = 0.0

    @property
    def gain(self) -> Array:
        """Working-space RGB luminance in cd/m², level included."""
        return np.asarray(self.emission_rgb, dtype=np.float64) * 2.0**self.level


Source = Sun | SkySource | Group | Glow


def as_source(source: Source | Emitter) -> Source:
    """A single emitter as a group of one; other sources as they are."""
    if isinstance(source, Rectangle | Disc | Sphere):
        return Group(source.name, [source])
    return source
