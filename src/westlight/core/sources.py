"""Sources of light: sun, sky, HDRI, lamps of many shapes, alone or as a group, and glowing meshes.

Every source is traced with a *unit* amount; `gain` is what the result is multiplied by. So level,
amount and colour change a picture without tracing anything again.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import cached_property, lru_cache
from pathlib import Path
from typing import Any

import numpy as np
import numpy.typing as npt

from .colour import AP1_LUMINANCE, kelvin_to_rgb
from .errors import SourceError
from .luminaires import IntensityDistribution, narrowed, spot
from .model.material import Material, Texture
from .photometry import lambertian_luminance
from .sky import Hdri, Sky, sun_irradiance
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

    ``luminance_cd_m2`` of the face, ``luminous_flux_lm`` of the whole, ``luminous_intensity_cd``
    straight ahead. ``colour`` is a working-space RGB of luminance 1 (it is normalised) or use
    ``kelvin``. ``level`` in stops. ``visible`` emitters can be seen by the camera, by reflections
    (unless ``in_reflections`` is False) and through glass (unless ``through_glass`` is False).
    ``casts_shadow`` tells whether a visible body stops light. ``range_m`` ends its light smoothly
    at a distance: a cheat no real lamp knows.
    """

    luminance_cd_m2: float | None = None
    luminous_flux_lm: float | None = None
    luminous_intensity_cd: float | None = None
    kelvin: float | None = None
    colour: tuple[float, float, float] | None = None
    level: float = 0.0
    visible: bool = True
    in_reflections: bool = True
    through_glass: bool = True
    casts_shadow: bool = True
    range_m: float | None = None

    def _chromatic(self) -> Array:
        if self.kelvin is not None:
            return kelvin_to_rgb(self.kelvin)
        if self.colour is None:
            return np.ones(3)
        rgb = np.asarray(self.colour, dtype=np.float64)
        y = float(rgb @ AP1_LUMINANCE)
        if not (np.isfinite(rgb).all() and y > 0):
            raise SourceError("A light colour needs some brightness; black cannot shine.")
        return rgb / y

    def _given(self) -> str:
        amounts = {
            "luminance": self.luminance_cd_m2,
            "flux": self.luminous_flux_lm,
            "intensity": self.luminous_intensity_cd,
        }
        given = [k for k, v in amounts.items() if v is not None]
        if len(given) != 1:
            raise SourceError("Give the amount once: as luminance, as lumen or as candela.")
        value = amounts[given[0]]
        if value is None or not math.isfinite(value) or value < 0:
            raise SourceError("The amount of a light must be a number of 0 or more.")
        return given[0]

    @property
    def profile(self) -> IntensityDistribution | None:
        """Distribution of its intensity, None for an even (Lambert) surface."""
        return None

    @property
    def area_m2(self) -> float:
        """Emitting area in m²; 0 for a point."""
        raise NotImplementedError

    @property
    def ahead_m2(self) -> float:
        """Area seen from straight ahead in m²."""
        return self.area_m2

    @property
    def amount(self) -> Array:
        """Working-space RGB the traced unit is multiplied by, level included.

        The unit is a luminance of 1 cd/m², or with a profile its candela as they stand.
        """
        given = self._given()
        profile = self.profile
        if profile is None:
            if given == "luminance":
                value = self.luminance_cd_m2 or 0.0
            elif given == "flux":
                value = lambertian_luminance(self.luminous_flux_lm or 0.0, self.area_m2)
            else:
                value = (self.luminous_intensity_cd or 0.0) / self.ahead_m2
        elif given == "luminance":
            if self.area_m2 <= 0:
                raise SourceError("A point has no face; give its amount in lumen or candela.")
            ahead = float(profile.candela(0.0))
            value = (self.luminance_cd_m2 or 0.0) * self.ahead_m2 / max(ahead, 1e-12)
        elif given == "flux":
            if profile.flux_lm <= 0:
                raise SourceError("This distribution has no light; choose another file.")
            value = (self.luminous_flux_lm or 0.0) / profile.flux_lm
        else:
            value = (self.luminous_intensity_cd or 0.0) / max(float(profile.maximum_cd), 1e-12)
        return self._chromatic() * value * 2.0**self.level


@dataclass
class Rectangle(Emission):
    """One-sided rectangle: centre, direction it shines to, width and height in metres.

    ``width`` runs horizontally; for one that shines straight up or down, along x unless
    ``roll_deg`` turns it. ``narrowing`` 0…0.99 gathers its light ahead and keeps its flux.
    """

    name: str
    position: Point
    direction: Point
    width: float
    height: float
    roll_deg: float = 0.0
    narrowing: float = 0.0

    @property
    def axes(self) -> tuple[Array, Array, Array]:
        """Unit width, height and normal directions."""
        return _axes(self.direction, self.roll_deg, self.name)

    @property
    def profile(self) -> IntensityDistribution | None:
        """Distribution of a narrowed face, None for an even one."""
        return _narrowed(self.narrowing) if self.narrowing > 0 else None

    @property
    def area_m2(self) -> float:
        """Emitting area in m²."""
        if not min(self.width, self.height) > 0:
            raise SourceError(f"“{self.name}” needs a width and height greater than zero.")
        return self.width * self.height


@dataclass
class Disc(Emission):
    """One-sided disc: centre, direction it shines to, radius in metres; ``narrowing`` as above."""

    name: str
    position: Point
    direction: Point
    radius: float
    narrowing: float = 0.0

    @property
    def axes(self) -> tuple[Array, Array, Array]:
        """Unit directions in the disc and its normal."""
        return _axes(self.direction, 0.0, self.name)

    @property
    def profile(self) -> IntensityDistribution | None:
        """Distribution of a narrowed face, None for an even one."""
        return _narrowed(self.narrowing) if self.narrowing > 0 else None

    @property
    def area_m2(self) -> float:
        """Emitting area in m²."""
        return _disc_area(self.radius, self.name)


@dataclass
class Sphere(Emission):
    """Diffuse glowing sphere: centre and radius in metres; intensity I = L·π·r² to every side."""

    name: str
    position: Point
    radius: float

    @property
    def axes(self) -> tuple[Array, Array, Array]:
        """Any frame; a sphere has none of its own."""
        return np.array([1.0, 0, 0]), np.array([0, 1.0, 0]), np.array([0, 0, 1.0])

    @property
    def area_m2(self) -> float:
        """Surface in m²."""
        return 4 * _disc_area(self.radius, self.name)

    @property
    def ahead_m2(self) -> float:
        """Area seen from any side in m²."""
        return self.area_m2 / 4


@dataclass
class Tube(Emission):
    """Glowing tube: centre, axis, length and radius in metres, closed ends; even luminance."""

    name: str
    position: Point
    axis: Point
    length: float
    radius: float

    @property
    def axes(self) -> tuple[Array, Array, Array]:
        """Two unit directions across and the axis."""
        return _axes(self.axis, 0.0, self.name)

    @property
    def area_m2(self) -> float:
        """Surface in m², ends included."""
        if not self.length > 0:
            raise SourceError(f"“{self.name}” needs a length greater than zero.")
        end = _disc_area(self.radius, self.name)
        return 2 * math.pi * self.radius * self.length + 2 * end

    @property
    def ahead_m2(self) -> float:
        """Area seen square to the axis in m²."""
        return 2 * self.radius * self.length


@dataclass
class Spot(Emission):
    """Spotlight: half of its intensity at the beam angle, a tenth at the field angle (full, deg).

    ``luminous_intensity_cd`` is the peak on its axis. ``radius`` in metres is the lens that makes
    shadows soft; 0 for a point.
    """

    name: str
    position: Point
    direction: Point
    beam_deg: float = 30.0
    field_deg: float = 60.0
    radius: float = 0.0

    @property
    def axes(self) -> tuple[Array, Array, Array]:
        """Unit directions across and along the beam."""
        return _axes(self.direction, 0.0, self.name)

    @property
    def profile(self) -> IntensityDistribution:
        """Distribution of the beam."""
        try:
            return _spot(self.beam_deg, self.field_deg)
        except ValueError as error:
            raise SourceError(f"“{self.name}”: {error}") from error

    @property
    def area_m2(self) -> float:
        """Area of the lens in m², 0 for a point."""
        return math.pi * self.radius**2


@dataclass
class Photometric(Emission):
    """A lamp after a photometric file: place, where its vertical angle 0 points, and roll.

    Without an amount it gives what the file says. ``shape`` is "point", "disc", "rectangle",
    "tube" or "sphere"; ``radius`` (disc, sphere, tube), ``width`` and ``height`` (rectangle) and
    ``width`` (length of a tube, along C = 0) in metres make shadows soft and give it a face.
    """

    name: str
    position: Point
    direction: Point
    distribution: IntensityDistribution
    roll_deg: float = 0.0
    shape: str = "point"
    radius: float = 0.0
    width: float = 0.0
    height: float = 0.0

    @property
    def axes(self) -> tuple[Array, Array, Array]:
        """Unit directions of C = 0°, C = 90° and vertical angle 0."""
        return _axes(self.direction, self.roll_deg, self.name)

    @property
    def profile(self) -> IntensityDistribution:
        """Its distribution."""
        return self.distribution

    @property
    def area_m2(self) -> float:
        """Area of its face in m², 0 for a point."""
        if self.shape == "point":
            return 0.0
        if self.shape == "rectangle":
            if not min(self.width, self.height) > 0:
                raise SourceError(f"“{self.name}” needs a width and height greater than zero.")
            return self.width * self.height
        disc = _disc_area(self.radius, self.name)
        if self.shape == "tube":
            if not self.width > 0:
                raise SourceError(f"“{self.name}” needs a length greater than zero.")
            return 2 * math.pi * self.radius * self.width + 2 * disc
        return 4 * disc if self.shape == "sphere" else disc

    @property
    def amount(self) -> Array:
        """RGB factor on the candela of the file, level included."""
        amounts = (self.luminance_cd_m2, self.luminous_flux_lm, self.luminous_intensity_cd)
        if all(v is None for v in amounts):
            return self._chromatic() * 2.0**self.level
        return super().amount


Emitter = Rectangle | Disc | Sphere | Tube | Spot | Photometric


@lru_cache(maxsize=64)
def _narrowed(narrowing: float) -> IntensityDistribution:
    return narrowed(narrowing)


@lru_cache(maxsize=256)
def _spot(beam_deg: float, field_deg: float) -> IntensityDistribution:
    return spot(beam_deg, field_deg)


def _disc_area(radius: float, name: str) -> float:
    if not radius > 0:
        raise SourceError(f"“{name}” needs a radius greater than zero.")
    return math.pi * radius**2


def _axes(towards: Point, roll_deg: float, name: str) -> tuple[Array, Array, Array]:
    n = _unit(towards, f"“{name}”")
    if not np.isfinite(n).all():
        raise SourceError(f"“{name}” needs a direction.")
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
    def amounts(self) -> Array:
        """Amount of each emitter, (n, 3)."""
        return np.array([e.amount for e in self.emitters]).reshape(-1, 3)

    @property
    def _common(self) -> bool:
        a = self.amounts
        return len(a) > 0 and bool(np.allclose(a, a[0], rtol=1e-9)) and bool(a[0].max() > 0)

    @property
    def unit_amounts(self) -> Array:
        """Amounts as traced: white units if all emitters are alike, else their own."""
        return np.ones_like(self.amounts) if self._common else self.amounts

    @property
    def gain(self) -> Array:
        """RGB factor from the traced to the real contribution."""
        base = self.amounts[0] if self._common else np.ones(3)
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
    """A sky as a source; ``level`` in stops. ``seen`` multiplies its brightness where the camera
    sees it. ``picture`` and its ``tables`` for sampling are filled from the sky when needed."""

    name: str
    sky: Sky
    level: float = 0.0
    seen: float = 1.0
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
        path_or_array: str | Path | npt.ArrayLike,
        *,
        level: float = 0.0,
        seen: float = 1.0,
        **settings: Any,
    ) -> None:
        hdri = Hdri.of(path_or_array)
        super().__init__(name, hdri, level, seen)  # type: ignore[arg-type]
        self.picture = hdri.adjusted(**settings)


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


class MeshEmitter:
    """A mesh that shines from both sides of every face: vertices (n, 3) in metres, faces (m, 3).

    One of luminance and flux; ``picture`` (a `Texture`) with ``uvs`` multiplies its luminance.
    Raises `SourceError` without an amount or without area.
    """

    def __init__(
        self,
        name: str,
        vertices: npt.ArrayLike,
        faces: npt.ArrayLike,
        *,
        luminance_cd_m2: float | None = None,
        luminous_flux_lm: float | None = None,
        kelvin: float | None = None,
        colour: tuple[float, float, float] | None = None,
        level: float = 0.0,
        reflectance: float = 0.0,
        picture: Texture | None = None,
        uvs: npt.ArrayLike | None = None,
    ) -> None:
        emission = Emission(
            luminance_cd_m2=luminance_cd_m2, luminous_flux_lm=luminous_flux_lm, kelvin=kelvin,
            colour=colour,
        )  # fmt: skip
        given = emission._given()
        points, index = np.asarray(vertices, float), np.asarray(faces, int)
        corners = points[index]
        area = float(
            np.linalg.norm(
                np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1
            ).sum()
            / 2
        )
        if not area > 0:
            raise SourceError(f"“{name}” has no area to shine from.")
        value = luminance_cd_m2 if given == "luminance" else None
        if value is None:
            value = lambertian_luminance(luminous_flux_lm or 0.0, 2 * area)
        rgb = emission._chromatic() * value
        self.name, self.level = name, level
        self.vertices, self.faces, self.uvs = points, index, uvs
        self.material = Material(
            reflectance, emission_cd_m2=(float(rgb[0]), float(rgb[1]), float(rgb[2])), name=name,
            emission_texture=picture,
        )  # fmt: skip

    def glow(self) -> Glow:
        """The source of its light, once its mesh is in the scene."""
        return Glow(self.name, self.material, self.material.emission_rgb, self.level)


Source = Sun | SkySource | Group | Glow


def as_source(source: Source | Emitter) -> Source:
    """A single emitter as a group of one; other sources as they are."""
    if isinstance(source, Emission):
        return Group(source.name, [source])
    return source
