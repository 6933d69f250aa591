"""Lamps: rectangle, disc, sphere, tube, spot, and any distribution from a photometric file."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from ..errors import SourceError
from ..luminaires import IntensityDistribution, narrowed, spot
from .emission import Array, Emission, Point, axes_towards, disc_area


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
        return axes_towards(self.direction, self.roll_deg, self.name)

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
        return axes_towards(self.direction, 0.0, self.name)

    @property
    def profile(self) -> IntensityDistribution | None:
        """Distribution of a narrowed face, None for an even one."""
        return _narrowed(self.narrowing) if self.narrowing > 0 else None

    @property
    def area_m2(self) -> float:
        """Emitting area in m²."""
        return disc_area(self.radius, self.name)


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
        return 4 * disc_area(self.radius, self.name)

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
        return axes_towards(self.axis, 0.0, self.name)

    @property
    def area_m2(self) -> float:
        """Surface in m², ends included."""
        if not self.length > 0:
            raise SourceError(f"“{self.name}” needs a length greater than zero.")
        end = disc_area(self.radius, self.name)
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
        return axes_towards(self.direction, 0.0, self.name)

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
        return axes_towards(self.direction, self.roll_deg, self.name)

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
        disc = disc_area(self.radius, self.name)
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
            return self.chromatic() * 2.0**self.level
        return super().amount


Emitter = Rectangle | Disc | Sphere | Tube | Spot | Photometric


@lru_cache(maxsize=64)
def _narrowed(narrowing: float) -> IntensityDistribution:
    return narrowed(narrowing)


@lru_cache(maxsize=256)
def _spot(beam_deg: float, field_deg: float) -> IntensityDistribution:
    return spot(beam_deg, field_deg)
