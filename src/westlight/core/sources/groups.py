"""Lamps that are one source together, and surfaces that shine."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
import numpy.typing as npt

from ..errors import SourceError
from ..model.material import Material, Texture
from ..photometry import lambertian_luminance
from .daylight import SkySource, Sun
from .emission import Amount, Array, Emission
from .lamps import Emitter


@dataclass
class Group:
    """Emitters that are one source: one contribution, one level (stops) and one switch.

    Without ``diffuse`` surfaces scatter none of their light evenly, without ``glossy`` none of them
    mirrors it: cheats no real lamp knows.
    """

    name: str
    emitters: Sequence[Emitter]
    level: float = 0.0
    diffuse: bool = True
    glossy: bool = True

    @cached_property
    def amounts(self) -> Array:
        """Amount of each emitter, (n, 3)."""
        return np.array([e.amount for e in self.emitters]).reshape(-1, 3)

    @cached_property
    def _common(self) -> bool:
        a = self.amounts
        return len(a) > 0 and bool(np.allclose(a, a[0], rtol=1e-9)) and bool(a[0].max() > 0)

    @cached_property
    def unit_amounts(self) -> Array:
        """Amounts as traced: white units if all emitters are alike, else their own."""
        return np.ones_like(self.amounts) if self._common else self.amounts

    @property
    def gain(self) -> Array:
        """RGB factor from the traced to the real contribution."""
        base = self.amounts[0] if self._common else np.ones(3)
        return base * 2.0**self.level


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
        emission = Amount(
            luminance_cd_m2=luminance_cd_m2, luminous_flux_lm=luminous_flux_lm, kelvin=kelvin,
            colour=colour,
        )  # fmt: skip
        given = emission.given()
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
        rgb = emission.chromatic() * value
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


def parts_of_light(source: Source) -> tuple[float, float]:
    """Factors on a source's light where it is scattered evenly, and where it is mirrored."""
    if isinstance(source, SkySource):
        return source.lighting, source.mirrored
    if isinstance(source, Group):
        return float(source.diffuse), float(source.glossy)
    return 1.0, 1.0


def as_source(source: Source | Emitter) -> Source:
    """A single emitter as a group of one; other sources as they are."""
    if isinstance(source, Emission):
        return Group(source.name, [source])
    return source
