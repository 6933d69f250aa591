"""Grading: tone and colour of the exposed picture, baked with the display into one table.

Everything here is a function of one pixel's colour, so it is worked out once on the grid of the
display table (`colour.display`) and costs nothing per frame. Order: colour decision list, shadows
and contrast, saturation, split tone, highlight compression, display transform, curves, film table.
Exposed values are scene-linear AP1 in which 1.0 burns and 0.18 is middle grey.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import lru_cache
from pathlib import Path

import numpy as np
import numpy.typing as npt
from scipy.interpolate import PchipInterpolator

from ..colour.display import (
    SHAPER_TOP,
    TABLE_SIZE,
    DisplayTransform,
    display_grid,
    shown_on_display,
)
from ..colour.spaces import AP1_LUMINANCE
from ..colour.temperature import kelvin_to_rgb
from .lut import read_cube
from .show import BURNT_FROM

Array = npt.NDArray[np.float64]
Triple = tuple[float, float, float]
Points = tuple[tuple[float, float], ...]
MIDDLE_GREY = 0.18
#: Where ACEScct turns from a straight line to a logarithm (Academy S-2016-001).
_CCT_BREAK = 0.0078125


@dataclass(frozen=True)
class Curve:
    """A curve through points of 0…1, monotone between them (Fritsch & Carlson 1980)."""

    points: Points = ()

    def __call__(self, x: Array) -> Array:
        """Values of the curve; without points the same values."""
        # Points nearer than an eighth of an 8-bit step are one point: no slope is that steep.
        inner = {round(a, 3): b for a, b in sorted(self.points) if 0 <= a <= 1}
        if not inner:
            return x
        inner = {0.0: 0.0, **inner} if 0.0 not in inner else inner
        inner.setdefault(1.0, 1.0)
        xs = sorted(inner)
        ys = np.maximum.accumulate([inner[v] for v in xs])
        return np.asarray(PchipInterpolator(xs, ys)(np.clip(x, 0, 1)))


@dataclass(frozen=True)
class Grade:
    """Tone and colour of a look. The defaults change nothing.

    ``compression`` 0…1 bends what lies above ``compression_start`` (stops below burning) towards
    the burning point; ``shadows`` lifts the darks in stops; ``contrast`` is the slope in stops about
    ``pivot`` (stops from middle grey); ``vibrance`` saturates what is pale, ``saturation`` all;
    ``warm_lights`` and ``warm_shadows`` −1…1 cool or warm lights and shadows. ``slope``, ``offset``,
    ``power`` are the ASC colour decision list in ACEScct. ``toe``, ``shoulder`` 0…1 and ``mid`` (stops)
    shape the "film" tone. ``black`` and ``white`` are points of the shown picture, 0…1. Curves act
    on shown values. ``cube`` names a .cube file laid over with ``cube_opacity``.
    """

    compression: float = 0.0
    compression_start: float = 2.0
    shadows: float = 0.0
    contrast: float = 1.0
    pivot: float = 0.0
    saturation: float = 1.0
    vibrance: float = 0.0
    warm_lights: float = 0.0
    warm_shadows: float = 0.0
    slope: Triple = (1.0, 1.0, 1.0)
    offset: Triple = (0.0, 0.0, 0.0)
    power: Triple = (1.0, 1.0, 1.0)
    toe: float = 0.4
    shoulder: float = 0.5
    mid: float = 0.0
    black: float = 0.0
    white: float = 1.0
    curve: Curve = field(default_factory=Curve)
    red: Curve = field(default_factory=Curve)
    green: Curve = field(default_factory=Curve)
    blue: Curve = field(default_factory=Curve)
    cube: str | None = None
    cube_opacity: float = 1.0


#: The grade that changes nothing.
PLAIN = Grade()


def _luminance(rgb: Array) -> Array:
    return np.maximum(rgb @ AP1_LUMINANCE, 1e-9)[..., None]


def _to_cct(x: Array) -> Array:
    log = (np.log2(np.maximum(x, 1e-10)) + 9.72) / 17.52
    return np.where(x <= _CCT_BREAK, 10.5402377416545 * x + 0.0729055341958355, log)


def _from_cct(y: Array) -> Array:
    line = (y - 0.0729055341958355) / 10.5402377416545
    return np.where(y <= 0.155251141552511, line, np.exp2(y * 17.52 - 9.72))


def decide(rgb: Array, slope: Triple, offset: Triple, power: Triple) -> Array:
    """ASC CDL v1.2 in ACEScct: (slope·x + offset)^power per channel, negative bases held at 0."""
    if (slope, offset, power) == ((1, 1, 1), (0, 0, 0), (1, 1, 1)):
        return rgb
    v = np.maximum(_to_cct(rgb) * np.array(slope) + np.array(offset), 0.0) ** np.array(power)
    return np.maximum(_from_cct(v), 0.0)


def lift_shadows(rgb: Array, stops: float) -> Array:
    """Brighten (or darken) what lies below middle grey by up to ``stops``, fading out above it."""
    if stops == 0:
        return rgb
    y = _luminance(rgb)
    return np.asarray(rgb * np.exp2(stops / (1.0 + (y / (0.5 * MIDDLE_GREY)) ** 1.2)))


def contrast(rgb: Array, slope: float, pivot_stops: float = 0.0) -> Array:
    """Slope of luminance in stops about a pivot; hue and saturation are kept."""
    if slope == 1:
        return rgb
    pivot = MIDDLE_GREY * 2.0**pivot_stops
    return np.asarray(rgb * (_luminance(rgb) / pivot) ** (slope - 1.0))


def saturate(rgb: Array, saturation: float, vibrance: float = 0.0) -> Array:
    """Distance from grey times ``saturation``; ``vibrance`` acts the more the paler a colour is."""
    y = _luminance(rgb)
    top = np.maximum(rgb.max(axis=-1, keepdims=True), 1e-9)
    pale = np.clip(np.maximum(rgb.min(axis=-1, keepdims=True), 0) / top, 0, 1)
    return np.maximum(y + (rgb - y) * (saturation * (1.0 + vibrance * pale)), 0.0)


def split_tone(rgb: Array, lights: float, shadows: float) -> Array:
    """Warm (+) or cool (−) lights and shadows, luminance kept."""
    if lights == 0 and shadows == 0:
        return rgb
    y = _luminance(rgb)
    share = y / (y + MIDDLE_GREY)
    stops = (lights * share + shadows * (1 - share)) * 0.5
    warm, cool = kelvin_to_rgb(4300.0), kelvin_to_rgb(9500.0)
    toned = rgb * np.where(stops > 0, warm ** np.abs(stops), cool ** np.abs(stops))
    return np.asarray(toned * y / _luminance(toned))


def compress(x: Array, strength: float, start_stops: float) -> Array:
    """Highlights bent towards 1: straight up to ``start_stops`` below it, then with falling slope.

    The curve s + (1 − s)·t/(1 + k·t), t = (x − s)/(1 − s), has no edge at s; at full strength all
    light fits below 1, at none it is a straight line.
    """
    s = 2.0 ** -max(start_stops, 0.05)
    t = np.maximum(x - s, 0.0) / (1.0 - s)
    return np.where(x <= s, x, s + (1.0 - s) * t / (1.0 + strength * t))


def compress_rgb(rgb: Array, strength: float, start_stops: float) -> Array:
    """`compress` by the brightest channel, so that hues stay."""
    if strength == 0:
        return rgb
    top = np.maximum(rgb.max(axis=-1, keepdims=True), 1e-9)
    return np.asarray(rgb * (compress(top, strength, start_stops) / top))


def film(x: Array, toe: float, shoulder: float, mid_stops: float = 0.0) -> Array:
    """A film-like curve from exposed to shown linear light, 0…1, rising everywhere.

    Around middle grey it is x^g; below, the toe steepens it in stops; above, the shoulder bends it
    to 1 (Naka & Rushton 1966 with the exponent of the shoulder).
    """
    grey = MIDDLE_GREY * 2.0**-mid_stops
    stops = np.log2(np.maximum(x, 1e-9) / grey)
    # The toe: a slope in stops that grows smoothly from 1 at middle grey to 1 + toe in the darks.
    low = np.minimum(stops, 0.0)
    bent = np.where(stops < 0, stops - toe * (np.hypot(low, 2.0) - 2.0), stops)
    y = np.exp2(bent) * MIDDLE_GREY
    p = 3.0 - 2.2 * np.clip(shoulder, 0, 1)
    scale = (1.0 - MIDDLE_GREY**p) ** (1.0 / p)
    held = y / scale
    return np.asarray(held / (1.0 + held**p) ** (1.0 / p))


def graded(rgb: Array, g: Grade) -> Array:
    """Scene-side part: exposed scene-linear (…, 3) to exposed scene-linear."""
    rgb = decide(np.maximum(rgb, 0.0), g.slope, g.offset, g.power)
    rgb = contrast(lift_shadows(rgb, g.shadows), g.contrast, g.pivot)
    rgb = split_tone(saturate(rgb, g.saturation, g.vibrance), g.warm_lights, g.warm_shadows)
    return compress_rgb(rgb, g.compression, g.compression_start)


def printed(shown: Array, g: Grade) -> Array:
    """Display-side part: encoded values 0…1 through points, curves and the film table."""
    v = np.clip((shown - g.black) / max(g.white - g.black, 1e-3), 0, 1)
    v = g.curve(v)
    v = np.stack([c(v[..., i]) for i, c in enumerate((g.red, g.green, g.blue))], axis=-1)
    if g.cube is not None and g.cube_opacity > 0:
        v = v + (_cube(g.cube)(v) - v) * g.cube_opacity
    return np.clip(v, 0, 1)


_cube = lru_cache(maxsize=8)(lambda path: read_cube(Path(path)))


def develop_colour(rgb: npt.ArrayLike, tone: str, g: Grade, screen: str = "sRGB") -> Array:
    """Exposed scene-linear colours (…, 3) as shown, exactly: what the baked table approximates."""
    x = np.asarray(rgb, np.float64)
    scene = graded(x, g)
    if tone == "film":
        top = np.maximum(scene.max(axis=-1, keepdims=True), 1e-9)
        bent = film(top, g.toe, g.shoulder, g.mid)
        # Very bright colours fade to white, as dye layers do when all of them are exposed.
        fade = np.clip(np.log2(top) / 6.0, 0, 1)
        scene = (scene / top + (1 - scene / top) * fade) * bent
    return printed(shown_on_display(scene, "linear" if tone == "film" else tone, screen), g)


def burning_light(table: DisplayTransform) -> float:
    """Exposed value of the darkest grey that is shown burnt; the end of the table if none is."""
    axis = SHAPER_TOP * np.linspace(0.0, 1.0, TABLE_SIZE) ** 4
    greys = table.table[np.arange(TABLE_SIZE), np.arange(TABLE_SIZE), np.arange(TABLE_SIZE)]
    shown = greys.max(axis=1)
    return float(np.interp(BURNT_FROM / 255, np.maximum.accumulate(shown), axis))


@lru_cache(maxsize=24)
def baked(tone: str, grade: Grade = PLAIN, screen: str = "sRGB") -> DisplayTransform:
    """Tone and grade as one display table; ``ValueError`` for an unknown tone or screen."""
    table = develop_colour(display_grid(), tone, grade, screen).astype(np.float32)
    return DisplayTransform(tone, np.ascontiguousarray(table))
