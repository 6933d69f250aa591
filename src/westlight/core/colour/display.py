"""Display transforms: from exposed scene-linear AP1 to what a screen shows.

The exact output transforms of ACES cost a third of a second a frame, so each is baked once into
a shaper and a 3-D table (OpenColorIO evaluates it) and that is applied per pixel.
The shaper is the fourth root of x / SHAPER_TOP: fine in the shadows, and two square roots to compute.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from typing import NamedTuple

import numpy as np
import numpy.typing as npt
import PyOpenColorIO as ocio

from .spaces import AP1_TO_SRGB, P3_FROM_AP1, srgb_encode

Float32 = npt.NDArray[np.float32]


class Tone(NamedTuple):
    """A way from light to screen: its name, what it does, and the view of OpenColorIO's built-in ACES configuration it is."""

    label: str
    does: str
    view: str = ""


TONES = {
    "natural": Tone(
        "Natural",
        "The open ACES output transform: highlights roll off, colours stay believable.",
        "ACES 2.0 - SDR 100 nits",
    ),
    "film": Tone(
        "Film",
        "A curve of its own: toe for the darks, shoulder for the lights, middle grey where you put it.",
    ),
    "linear": Tone(
        "Linear",
        "No compression: what is brighter than white is cut. For judging exposure.",
    ),
}
#: Screens a picture can be made for, with their linear space and display in that configuration.
SCREENS = {
    "sRGB": ("sRGB - Display", "(Rec.709)"),
    "Display P3": ("Display P3 - Display", "(P3 D65)"),
    "Rec.709": ("Rec.1886 Rec.709 - Display", "(Rec.709)"),
}
TABLE_SIZE = 41
#: Scene-linear value at the last grid point; brighter light is shown like this one.
SHAPER_TOP = 30.0


@dataclass(frozen=True)
class DisplayTransform:
    """A baked display transform: sRGB-encoded values 0…1 on a cubic grid of shaped AP1.

    ``table`` has shape (n, n, n, 3), indexed [red, green, blue].
    """

    name: str
    table: Float32


def display_grid() -> npt.NDArray[np.float64]:
    """Exposed AP1 values at the grid points of the tables, (n, n, n, 3)."""
    x = SHAPER_TOP * np.linspace(0.0, 1.0, TABLE_SIZE) ** 4
    return np.stack(np.meshgrid(x, x, x, indexing="ij"), axis=-1)


@lru_cache(maxsize=8)
def _processor(name: str, screen: str) -> ocio.CPUProcessor:
    config = ocio.Config.CreateFromBuiltinConfig("ocio://default")
    display, gamut = SCREENS[screen]
    transform = ocio.DisplayViewTransform("ACEScg", display, f"{TONES[name].view} {gamut}")
    return config.getProcessor(transform).getDefaultCPUProcessor()


def shown_on_display(
    rgb: npt.ArrayLike, name: str = "natural", screen: str = "sRGB"
) -> npt.NDArray[np.float64]:
    """Exposed AP1 (…, 3) as encoded values of a screen, 0…1; ``ValueError`` for unknown names."""
    if name not in TONES:
        raise ValueError(f"No tone called {name!r}; choose one of {', '.join(TONES)}.")
    if screen not in SCREENS:
        raise ValueError(f"No screen called {screen!r}; choose one of {', '.join(SCREENS)}.")
    x = np.asarray(rgb, np.float64)
    if not TONES[name].view:
        linear = x @ (P3_FROM_AP1 if screen == "Display P3" else AP1_TO_SRGB).T
        if screen == "Rec.709":
            return np.clip(linear, 0, 1) ** (1 / 2.4)
        return srgb_encode(linear)
    flat = np.ascontiguousarray(x.reshape(-1, 3), np.float32)
    _processor(name, screen).applyRGB(flat)
    return np.clip(flat.astype(np.float64), 0, 1).reshape(x.shape)


@lru_cache(maxsize=8)
def display_transform(name: str = "natural", screen: str = "sRGB") -> DisplayTransform:
    """The baked transform of a tone on a screen; ``ValueError`` for unknown names."""
    table = shown_on_display(display_grid(), name, screen).astype(np.float32)
    return DisplayTransform(name, np.ascontiguousarray(table))
