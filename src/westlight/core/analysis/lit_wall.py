"""A wall lit by one luminaire: what a photometric file looks like, traced by our own engine."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from ..colour import AP1_LUMINANCE, AP1_TO_SRGB, srgb_encode
from ..luminaires import IntensityDistribution
from ..model import Material
from ..scene import Scene, render
from ..sources import Photometric
from ..view import FILM_WIDTH_MM, View

#: Sides of the wall, and how far before it and how high the luminaire hangs, in metres.
WIDTH_M, HEIGHT_M, BEFORE_M, HANGS_M = 2.4, 3.0, 0.35, 2.75
#: Part of the wall that may burn out, so that one hot spot does not leave the rest black.
BURNT = 0.01


def lit_wall(
    distribution: IntensityDistribution, height_px: int = 120, samples: int = 32
) -> npt.NDArray[np.uint8]:
    """Picture (h, w, 3), sRGB 8 bit, of a wall 2.4 × 3 m with the luminaire 35 cm before it.

    It hangs below the ceiling and shines down, its C = 0° plane along the wall. Exposed so that
    1 % of the wall burns; black for a file without light.
    """
    scene = Scene()
    x, paint = WIDTH_M / 2, Material(0.6, name="wall")
    corners = [[-x, 0, 0], [x, 0, 0], [x, 0, HEIGHT_M], [-x, 0, HEIGHT_M]]
    scene.add_mesh(corners, [[0, 1, 2], [0, 2, 3]], paint, name="wall")
    floor = [[-x, -2, 0], [x, -2, 0], [x, 0, 0], [-x, 0, 0]]
    scene.add_mesh(floor, [[0, 1, 2], [0, 2, 3]], Material(0.2, name="floor"), name="floor")
    scene.add_source(
        Photometric("lamp", (0, -BEFORE_M, HANGS_M), (0, 0, -1), distribution, visible=False)
    )
    width_px = round(height_px * WIDTH_M / HEIGHT_M / 4) * 4
    far = 6.0
    # The frame takes in the wall from edge to edge.
    view = View((0, -far, HEIGHT_M / 2), (0, 0, HEIGHT_M / 2), FILM_WIDTH_MM * far / WIDTH_M, width_px,
                height_px)  # fmt: skip
    picture = render(scene, view, samples=samples, bounces=2).beauty
    white = float(np.quantile(picture @ AP1_LUMINANCE.astype(np.float32), 1 - BURNT))
    shown = np.clip(picture @ AP1_TO_SRGB.T / max(white, 1e-9), 0, 1)
    return np.asarray(np.round(np.asarray(srgb_encode(shown)) * 255), np.uint8)
