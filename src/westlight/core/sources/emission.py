"""Amount, colour and visibility: what lamps of every shape share."""

from __future__ import annotations

import math
from abc import ABC, abstractmethod
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from ..colour import AP1_LUMINANCE, kelvin_to_rgb
from ..errors import SourceError
from ..luminaires import IntensityDistribution
from ..photometry import lambertian_luminance

Array = npt.NDArray[np.float64]
Point = Sequence[float]


@dataclass(kw_only=True)
class Amount:
    """How much light of which colour: one of luminance, flux or intensity must be given.

    ``luminance_cd_m2`` of the face, ``luminous_flux_lm`` of the whole, ``luminous_intensity_cd``
    straight ahead. ``colour`` is a working-space RGB of luminance 1 (it is normalised) or use
    ``kelvin``. ``level`` in stops.
    """

    luminance_cd_m2: float | None = None
    luminous_flux_lm: float | None = None
    luminous_intensity_cd: float | None = None
    kelvin: float | None = None
    colour: tuple[float, float, float] | None = None
    level: float = 0.0

    def chromatic(self) -> Array:
        if self.kelvin is not None:
            return kelvin_to_rgb(self.kelvin)
        if self.colour is None:
            return np.ones(3)
        rgb = np.asarray(self.colour, dtype=np.float64)
        y = float(rgb @ AP1_LUMINANCE)
        if not (np.isfinite(rgb).all() and y > 0):
            raise SourceError("A light colour needs some brightness; black cannot shine.")
        return rgb / y

    def given(self) -> str:
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


@dataclass(frozen=True)
class PerLumen:
    """Candela, and cd/m² of the face, that one lumen of a lamp gives straight ahead.

    ``luminance_cd_m2`` is None for a point, which has no face. Lux at d metres on the axis are
    candela / d²; watts are lumen over an efficacy in lm/W.
    """

    candela: float
    luminance_cd_m2: float | None


@dataclass(frozen=True)
class Unit:
    """A unit that amounts of light are read in: as it is offered, as it stands behind a number, and what one lumen of a lamp
    with an efficacy in lm/W is in it; None where it has no meaning."""

    label: str
    short: str
    per_lumen: Callable[[PerLumen, float], float | None]


UNITS = {
    "lm": Unit("lm", "lm", lambda one, efficacy: 1.0),
    "cd": Unit("cd straight ahead", "cd", lambda one, efficacy: one.candela),
    "cd/m²": Unit("cd/m²", "cd/m²", lambda one, efficacy: one.luminance_cd_m2),
    # On the axis, I / d² at one metre.
    "lx at 1 m": Unit("lx at 1 m", "lx", lambda one, efficacy: one.candela),
    "W": Unit("W", "W", lambda one, efficacy: 1.0 / efficacy),
}


def unit_factors(one: PerLumen, efficacy: float) -> dict[str, float | None]:
    """What one lumen is in every unit amounts are read in; None where a unit has no meaning."""
    return {name: unit.per_lumen(one, efficacy) for name, unit in UNITS.items()}


@dataclass(kw_only=True)
class Emission(Amount, ABC):
    """What all lamps share beyond amount and colour: how they can be seen, and what they shade.

    ``visible`` emitters can be seen by the camera, by reflections (unless ``in_reflections`` is
    False) and through glass (unless ``through_glass`` is False). ``casts_shadow`` tells whether a
    visible body stops light. ``range_m`` ends its light smoothly at a distance: a cheat no real
    lamp knows. ``reflectance`` (0…1) is the share of the light on its body that this sends on
    evenly; an opal lamp that is off looks white by it, 0 leaves it black.
    """

    visible: bool = True
    in_reflections: bool = True
    through_glass: bool = True
    casts_shadow: bool = True
    range_m: float | None = None
    reflectance: float = 0.0

    def __post_init__(self) -> None:
        """Raise `SourceError` for a body that would send on more light than falls on it."""
        if not 0.0 <= self.reflectance <= 1.0:
            raise SourceError("The reflectance of a lamp's body must lie between 0 and 1.")

    @property
    def profile(self) -> IntensityDistribution | None:
        """Distribution of its intensity, None for an even (Lambert) surface."""
        return None

    @property
    @abstractmethod
    def area_m2(self) -> float:
        """Emitting area in m²; 0 for a point."""

    @property
    def ahead_m2(self) -> float:
        """Area seen from straight ahead in m²."""
        return self.area_m2

    def per_lumen(self) -> PerLumen:
        """What one lumen of this lamp is in the other units, straight ahead."""
        profile = self.profile
        if profile is None:
            luminance = lambertian_luminance(1.0, self.area_m2)
            return PerLumen(luminance * self.ahead_m2, luminance)
        if profile.flux_lm <= 0:
            raise SourceError("This distribution has no light; choose another file.")
        candela = float(profile.candela(0.0)) / profile.flux_lm
        return PerLumen(candela, candela / self.ahead_m2 if self.ahead_m2 > 0 else None)

    @property
    def amount(self) -> Array:
        """Working-space RGB the traced unit is multiplied by, level included.

        The unit is a luminance of 1 cd/m², or with a profile its candela as they stand.
        """
        given = self.given()
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
        return self.chromatic() * value * 2.0**self.level


def _unit(vector: Point, what: str) -> Array:
    v = np.asarray(vector, dtype=np.float64)
    length = float(np.linalg.norm(v))
    if not length > 0:
        raise SourceError(f"{what} needs a direction.")
    return v / length


def axes_towards(towards: Point, roll_deg: float, name: str) -> tuple[Array, Array, Array]:
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


def disc_area(radius: float, name: str) -> float:
    if not radius > 0:
        raise SourceError(f"“{name}” needs a radius greater than zero.")
    return math.pi * radius**2
