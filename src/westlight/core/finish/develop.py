"""Developing: everything between the mixed light and the screen, the same for preview and still.

Works on the scene-linear picture in cd/m². What needs neighbours (glare, grain, sharpness) or output
passes (occlusion, depth) is done here, in the order light meets it; what is a function of one
pixel's colour is baked into the display table (`grade`).
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import lru_cache

import numpy as np
import numpy.typing as npt
from scipy.ndimage import gaussian_filter

from ..colour import AP1_LUMINANCE
from ..colour.temperature import kelvin_to_rgb, white_balance_matrix
from ..photometry import saturation_luminance
from .backdrop import Backdrop, with_backdrop
from .enlarge import darkened, enlarged
from .glow import Detail, Glare, with_glare
from .grade import MIDDLE_GREY, Grade, baked, develop_colour
from .parts import PartGrade, graded_part
from .show import Shown, show

F4 = npt.NDArray[np.float32]


@dataclass(frozen=True)
class Occlusion:
    """Ambient occlusion multiplied in: ``amount`` 0…1; ``white`` is the openness that counts as
    fully open, 0…1; ``radius_m`` says which pass is wanted."""

    amount: float = 0.0
    white: float = 1.0
    radius_m: float = 1.0


@dataclass(frozen=True)
class DepthHaze:
    """Haze by depth alone, a cheat: share lost per metre, colour, and stops from middle grey."""

    per_metre: float = 0.0
    kelvin: float = 7500.0
    stops: float = 1.0


@dataclass(frozen=True)
class Lens:
    """``vignette`` is stops lost in the corners, ``grain`` its standard deviation in stops at
    middle grey, ``sharpen`` the share of fine contrast added."""

    vignette: float = 0.0
    grain: float = 0.0
    sharpen: float = 0.0


@dataclass(frozen=True)
class Finish:
    """All of the finish of a look; the defaults change nothing."""

    tone: str = "natural"
    grade: Grade = field(default_factory=Grade)
    glare: Glare = field(default_factory=Glare)
    occlusion: Occlusion = field(default_factory=Occlusion)
    haze: DepthHaze = field(default_factory=DepthHaze)
    lens: Lens = field(default_factory=Lens)
    backdrop: Backdrop = field(default_factory=Backdrop)
    parts: tuple[PartGrade, ...] = ()


def occluded(picture: F4, openness: F4, o: Occlusion, diffuse: F4 | None = None) -> F4:
    """The picture darkened where ``openness`` (h, w), 1 in the open, falls below the white level.

    Only ``diffuse`` (h, w), the share of its light that a surface scatters evenly, is darkened: what it
    mirrors comes from one direction and does not care for the others.
    """
    return darkened(picture, openness, o.amount, max(o.white, 0.05), diffuse)


def hazed(picture: F4, depth_m: F4, alpha: F4, h: DepthHaze, ev: float) -> F4:
    """The picture behind haze of a colour; where nothing is hit the sky keeps its light."""
    grey = MIDDLE_GREY * saturation_luminance(ev) * 2.0**h.stops
    veil = (kelvin_to_rgb(h.kelvin) * grey).astype(np.float32)
    lost = (alpha * (1 - np.exp(np.float32(-h.per_metre) * depth_m)))[..., None]
    return np.asarray(picture * (1 - lost) + veil * lost, np.float32)


@lru_cache(maxsize=4)
def _falloff(height: int, width: int) -> F4:
    y, x = np.mgrid[0:height, 0:width].astype(np.float32)
    across = (x + 0.5) / width - 0.5, ((y + 0.5) - height / 2) / width
    r2 = across[0] ** 2 + across[1] ** 2
    return np.asarray(r2 / r2.max(), np.float32)


@lru_cache(maxsize=4)
def _grains(height: int, width: int) -> F4:
    # Grains have a size on the film: about a thousandth of the picture's width.
    noise = np.random.default_rng(7).standard_normal((height, width)).astype(np.float32)
    soft = gaussian_filter(noise, width / 2400)
    return np.asarray(soft / soft.std(), np.float32)


def through_lens(picture: F4, lens: Lens) -> F4:
    """Vignette, sharpness and grain, in stops: hues stay."""
    height, width = picture.shape[:2]
    stops = np.zeros((height, width), np.float32)
    if lens.vignette:
        stops -= np.float32(lens.vignette) * _falloff(height, width)
    if lens.sharpen or lens.grain:
        y = np.maximum(picture @ AP1_LUMINANCE.astype(np.float32), 1e-6)
    if lens.sharpen:
        fine = np.log2(y)
        fine -= gaussian_filter(fine, 1.2 * width / 1280)
        # Held at half a stop: more would draw bright lines around windows.
        stops += np.clip(np.float32(1.5 * lens.sharpen) * fine, -0.5, 0.5)
    if lens.grain:
        stops += np.float32(lens.grain) * _grains(height, width)
    return np.asarray(picture * np.exp2(stops)[..., None], np.float32)


def developed(
    picture: F4, ev: float, finish: Finish, passes: Mapping[str, F4], detail: Detail = "usual"
) -> F4:
    """Scene-linear picture (h, w, 3) in cd/m² with everything that needs more than one pixel.

    ``passes`` may hold "occlusion", "diffuse", "depth", "alpha", "outside" and the mattes of graded parts (any
    size); what is missing is left out. "fine" ``detail`` draws stars as sharp as the picture is: for files.
    """
    height, width = picture.shape[:2]

    def of_size(name: str) -> F4:
        made = passes[name]
        return made if made.shape[:2] == (height, width) else enlarged(made, height, width)

    if finish.occlusion.amount and "occlusion" in passes:
        even = of_size("diffuse") if "diffuse" in passes else None
        picture = occluded(picture, of_size("occlusion"), finish.occlusion, even)
    for part in finish.parts:
        if part.matte in passes:
            picture = graded_part(picture, of_size(part.matte), part, ev)
    if finish.backdrop.path is not None and "outside" in passes:
        picture = with_backdrop(picture, of_size("outside"), finish.backdrop, ev)
    if finish.haze.per_metre and "depth" in passes and "alpha" in passes:
        picture = hazed(picture, of_size("depth"), of_size("alpha"), finish.haze, ev)
    picture = with_glare(picture, finish.glare, detail)
    if finish.lens != Lens():
        picture = through_lens(picture, finish.lens)
    return picture


def developed_exactly(
    picture: F4, ev: float, kelvin: float, tint: float, finish: Finish,
    passes: Mapping[str, F4] | None = None, screen: str = "sRGB",
) -> npt.NDArray[np.float64]:  # fmt: skip
    """As `develop`, but encoded values 0…1 (h, w, 3) without a table: for files of 16 bits."""
    matrix = white_balance_matrix(kelvin, tint) / saturation_luminance(ev)
    light = developed(picture, ev, finish, passes or {}, detail="fine")
    out = np.empty(light.shape, np.float64)
    for row in range(0, len(light), 64):
        band = light[row : row + 64].astype(np.float64) @ matrix.T
        out[row : row + 64] = develop_colour(np.maximum(band, 0), finish.tone, finish.grade, screen)
    return out


def develop(
    picture: F4,
    ev: float,
    kelvin: float,
    tint: float,
    finish: Finish,
    passes: Mapping[str, F4] | None = None,
    screen: str = "sRGB",
    dither: bool = False,
    detail: Detail = "usual",
) -> Shown:
    """The finished picture of scene-linear light (h, w, 3) in cd/m².

    ``ev`` is EV100, ``kelvin`` and ``tint`` the white point; ``detail`` as in `developed`.
    """
    table = baked(finish.tone, finish.grade, screen)
    return show(
        developed(picture, ev, finish, passes or {}, detail), ev, kelvin, tint, table, dither
    )
