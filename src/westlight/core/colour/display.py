"""Display transforms: from exposed scene-linear AP1 to what a screen shows.

The exact output transforms of ACES cost a third of a second a frame, so each is baked once into
a shaper and a 3-D table (OpenColorIO evaluates it) and that is applied per pixel.
The shaper is the fourth root of x / SHAPER_TOP: fine in the shadows, and two square roots to compute.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import numpy.typing as npt
import PyOpenColorIO as ocio

from .spaces import AP1_TO_SRGB, srgb_encode

Float32 = npt.NDArray[np.float32]

#: Names offered to the artist, with the view of OpenColorIO's built-in ACES configuration.
TONES = {"natural": "ACES 2.0 - SDR 100 nits (Rec.709)", "linear": ""}
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


def _grid() -> Float32:
    t = np.linspace(0.0, 1.0, TABLE_SIZE)
    x = SHAPER_TOP * t**4
    return np.stack(np.meshgrid(x, x, x, indexing="ij"), axis=-1).astype(np.float32)


@lru_cache(maxsize=8)
def display_transform(name: str = "natural") -> DisplayTransform:
    """The baked transform called ``name`` ("natural" or "linear"); ``ValueError`` otherwise."""
    if name not in TONES:
        raise ValueError(f"No tone called {name!r}; choose one of {', '.join(TONES)}.")
    rgb = np.ascontiguousarray(_grid().reshape(-1, 3))
    if name == "linear":
        out = srgb_encode(rgb @ AP1_TO_SRGB.T).astype(np.float32)
    else:
        config = ocio.Config.CreateFromBuiltinConfig("ocio://default")
        transform = ocio.DisplayViewTransform("ACEScg", "sRGB - Display", TONES[name])
        config.getProcessor(transform).getDefaultCPUProcessor().applyRGB(rgb)
        out = rgb
    n = TABLE_SIZE
    table = np.clip(out, 0.0, 1.0).astype(np.float32).reshape(n, n, n, 3)
    return DisplayTransform(name, np.ascontiguousarray(table))
