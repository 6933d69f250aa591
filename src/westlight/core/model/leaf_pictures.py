"""Pictures of leaves, drawn by rule: their alpha is what is cut out.

A sprig carries leaves on a twig from the middle of its lower edge upwards. Around the leaves the colour goes on, so that no rim of
another colour is seen where the picture is blended.
"""

from __future__ import annotations

import math
from functools import lru_cache

import numpy as np
import numpy.typing as npt

from .material import Texture

SIDE = 192
#: sRGB of leaves, and how much they differ.
_HUES = {
    "broad": (112, 130, 56),
    "slim": (138, 150, 70),
    "round": (98, 120, 54),
    "ivy": (80, 108, 50),
}
_DIFFER = 0.16


@lru_cache
def sprig(hue: str, length: float, width: float, count: int) -> Texture:
    """A twig with ``count`` leaves, each ``length`` long and ``width`` wide as shares of the picture."""
    rng = np.random.default_rng([count, sum(ord(c) for c in hue)])
    base = np.array(_HUES[hue], float)
    rgb = np.broadcast_to(base, (SIDE, SIDE, 3)).copy()
    alpha = np.zeros((SIDE, SIDE), bool)
    at = (np.arange(SIDE) + 0.5) / SIDE
    x, y = at[None, :] - 0.5, 1.0 - at[:, None]
    twig = (np.abs(x - 0.03 * np.sin(6 * y)) < 0.008) & (y < 1 - length * 0.8)
    rgb[twig], alpha[twig] = base * [0.9, 0.7, 0.6], True
    for i in range(count):
        last = i == count - 1
        foot = (1 - length) * (0.12 + 0.88 * i / max(count - 1, 1))
        turn = 0.0 if last else (1 if i % 2 else -1) * rng.uniform(0.7, 1.15)
        size = rng.uniform(0.85, 1.1)
        along, across = _in_leaf(x - 0.03 * math.sin(6 * foot), y - foot, turn, length * size)
        inside = np.abs(across) < width * size / 2 * blade(along)
        shade = base * (1 + _DIFFER * rng.normal()) * [1 + 0.06 * rng.normal(), 1.0, 1.0]
        # A pale rib, and veins that leave it.
        rib = np.exp(-((across / 0.006) ** 2)) * 0.35
        veins = 0.07 * np.cos((along * 26 - np.abs(across) * 60) * 1.4)
        tone = 1 + rib + veins - 0.12 * (1 - along)
        rgb[inside] = (shade * tone[..., None])[inside]
        alpha |= inside
    pixels = np.dstack([np.clip(rgb, 0, 255), alpha * 255.0]).astype(np.uint8)
    return Texture(f"Sprig, {hue}", pixels, srgb=True, wrap=("clamp", "clamp"))


Grid = npt.NDArray[np.float64]


def _in_leaf(x: Grid, y: Grid, turn: float, length: float) -> tuple[Grid, Grid]:
    """Place along a leaf (0 at its foot, 1 at its tip) and across it, of points of the picture from its foot."""
    c, s = math.cos(turn), math.sin(turn)
    return (x * s + y * c) / length, x * c - y * s


def blade(along: Grid) -> Grid:
    """Half width of a leaf along it (0…1) against its widest; zero beyond its ends.

    >>> blade(np.array([0.0, 1.0])).round(6).tolist()
    [0.0, 0.0]
    """
    t = np.clip(along, 0.0, 1.0)
    return np.asarray(np.sin(math.pi * t**0.8) ** 0.85)
