"""Materials as light sees them: reflectance, roughness, metal, clear panes, emission."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property
from typing import Literal

import numpy as np
import numpy.typing as npt

from ..remembered import key_of

Colour = float | tuple[float, float, float]


#: How a picture goes on beyond its edges: again and again, its edge drawn out, or mirrored in turn.
Wrap = Literal["repeat", "clamp", "mirror"]


@dataclass(frozen=True, eq=False)
class Texture:
    """A picture on a surface: ``pixels`` (h, w, 4) uint8; ``srgb`` if it holds encoded colour; how it goes
    on beyond its left and right edges and beyond its upper and lower ones."""

    name: str
    pixels: npt.NDArray[np.uint8]
    srgb: bool
    wrap: tuple[Wrap, Wrap] = ("repeat", "repeat")

    @property
    def size(self) -> tuple[int, int]:
        """Height and width in pixels."""
        height, width = self.pixels.shape[:2]
        return height, width

    @cached_property
    def content(self) -> str:
        """Key of the pixels."""
        return key_of(self.pixels)

    def lend(self, pixels: npt.NDArray[np.uint8]) -> None:
        """Read the pixels from now on where they lie anyway: the same ones, once in memory."""
        object.__setattr__(self, "pixels", pixels)


def _triple(value: Colour) -> tuple[float, float, float]:
    if isinstance(value, (int, float)):
        return (float(value),) * 3
    r, g, b = value
    return float(r), float(g), float(b)


@dataclass(frozen=True, eq=False)
class Material:
    """A surface material. Hashable by identity: parts that share it share one object.

    ``reflectance`` is the share of light sent back (0–1), one number or working-space RGB; for a
    metal its mirror colour, for a pane its tint. ``roughness`` 0–1 (1 = perfectly matte),
    ``metallic`` 0–1. ``transmission`` above 0 makes glass of index ``ior``; ``sheet`` tells a pane
    modelled as one face from a solid one with two. With ``clear_path`` light passes glass straight
    and shadows see through it; without, a solid refracts, and both stop shadow rays. Inside a
    refracting solid white light takes the colour ``attenuation`` after ``attenuation_m`` metres, and
    its faces are rough by ``frost`` (0–1). ``coat`` (0–1) lays a clear varnish of roughness
    ``coat_roughness`` over a surface.
    ``emission_cd_m2`` is the luminance of its own light, one number or RGB, times
    ``emission_texture``. With ``cutout`` the alpha of the base texture times ``alpha`` below that
    value is a hole. Of what falls on cloth, paper or a leaf the share ``translucency`` is scattered
    through in the colour ``through`` (working-space RGB, times the base texture), the rest is reflected;
    ``openness`` is the share of holes between its threads, too small to see, that light passes straight.
    ``vertex_colours`` multiplies the reflectance by the mesh's own colours.
    """

    reflectance: Colour = 0.5
    roughness: float = 1.0
    metallic: float = 0.0
    transmission: float = 0.0
    ior: float = 1.52
    emission_cd_m2: Colour = 0.0
    name: str = ""
    sheet: bool = True
    base_texture: Texture | None = None
    rough_texture: Texture | None = None
    normal_texture: Texture | None = None
    normal_scale: float = 1.0
    emission_texture: Texture | None = None
    clear_path: bool = True
    attenuation: tuple[float, float, float] = (1.0, 1.0, 1.0)
    attenuation_m: float = 0.0
    frost: float = 0.0
    coat: float = 0.0
    coat_roughness: float = 0.0
    cutout: float | None = None
    alpha: float = 1.0
    vertex_colours: bool = False
    uv_transform: tuple[float, float, float, float, float] | None = None
    translucency: float = 0.0
    through: Colour = 1.0
    openness: float = 0.0

    def __post_init__(self) -> None:
        """Raise ``ValueError`` for a quantity no surface can have."""
        if not all(math.isfinite(c) for c in (*self.rgb, *self.emission_rgb)):
            raise ValueError("A material's colours must be numbers.")
        if any(not 0.0 <= c <= 1.0 for c in self.rgb):
            raise ValueError("Reflectance must lie between 0 and 1.")
        if not 0.0 <= self.roughness <= 1.0 or not 0.0 <= self.metallic <= 1.0:
            raise ValueError("Roughness and metal must lie between 0 and 1.")
        if not 0.0 <= self.transmission <= 1.0 or self.ior < 1.0:
            raise ValueError("Transmission must lie between 0 and 1 and the index be at least 1.")
        if any(not 0.0 <= c <= 1.0 for c in (self.frost, self.coat, self.coat_roughness)):
            raise ValueError("Frost, and a coat and its roughness, must lie between 0 and 1.")
        if any(not 0.0 <= c <= 1.0 for c in (self.translucency, self.openness, *self.through_rgb)):
            raise ValueError("Translucency, its colour and openness must lie between 0 and 1.")
        if any(c < 0.0 for c in self.emission_rgb):
            raise ValueError("Emission cannot be negative.")

    @property
    def rgb(self) -> tuple[float, float, float]:
        """Reflectance as working-space RGB."""
        return _triple(self.reflectance)

    @property
    def through_rgb(self) -> tuple[float, float, float]:
        """Colour of the light scattered through, as working-space RGB."""
        return _triple(self.through)

    @property
    def emission_rgb(self) -> tuple[float, float, float]:
        """Emission as working-space RGB in cd/m²."""
        return _triple(self.emission_cd_m2)

    @property
    def emits(self) -> bool:
        """Whether the surface has light of its own."""
        return max(self.emission_rgb) > 0.0

    @property
    def is_pane(self) -> bool:
        """Whether light passes straight through."""
        return self.transmission > 0.0

    @property
    def is_woven(self) -> bool:
        """Whether light passes between its threads."""
        return self.openness > 0.0 and not self.is_pane
