"""Output passes of first surfaces: position, occlusion, and mattes of objects and materials."""

from __future__ import annotations

from collections.abc import Callable, Collection

import numpy as np
import numpy.typing as npt

from ..view import View
from . import layout as L
from .assemble import Assembled
from .embree import ray_buffer
from .kernels.survey import survey_rows
from .threads import in_pieces

#: Passes that are made only when asked for: of first surfaces, and of the light itself.
SURVEYED = frozenset({"position", "occlusion", "objects", "materials"})
APART = frozenset({"reflection", "transmission"})
EXTRA_PASSES = SURVEYED | APART
#: Things that can share one pixel in a matte.
RANKS = 4


def survey(
    assembled: Assembled,
    view: View,
    wanted: Collection[str],
    samples: int,
    seed: int,
    radius_m: float = 1.0,
) -> dict[str, npt.NDArray[np.float32]]:
    """The wanted passes of `SURVEYED`.

    "position" (h, w, 3) in metres; "occlusion" (h, w), 1 where nothing is within the radius;
    "objects" and "materials" (h, w, RANKS, 2): number (part or material row + 1, 0 for none) and
    the share of the pixel it covers, largest first.
    """
    wanted = SURVEYED.intersection(wanted)
    if not wanted:
        return {}
    height, width = view.height_px, view.width_px
    samples = min(max(samples, 4), 64)
    position = np.zeros((height, width, 4), np.float32)
    occlusion = np.zeros((height, width), np.float32)
    mattes = np.zeros((2, height, width, RANKS, 2), np.float32)
    build = assembled.build
    radius = np.float32(radius_m if "occlusion" in wanted else 0.0)

    survey = L.Survey(seed, samples, radius, build.triangle_part, build.instance_part)
    into = L.Surveyed(position, occlusion, mattes[0], mattes[1])

    def begin() -> Callable[[int, int], None]:
        ray, camera, counts = ray_buffer(), view.camera_array(), np.zeros(1, np.int64)
        return lambda row, end: survey_rows(
            assembled.arrays, camera, survey, L.Block(row, end, 0, width), into, ray, counts
        )

    in_pieces(height, 8, begin)
    made: dict[str, npt.NDArray[np.float32]] = {
        "position": np.asarray(position[..., :3] / np.maximum(position[..., 3:], 1), np.float32),
        "occlusion": occlusion / np.float32(samples),
    }
    for name, matte in zip(("objects", "materials"), mattes, strict=True):
        order = np.argsort(-matte[..., 1], axis=2)[..., None]
        matte = np.take_along_axis(matte, np.repeat(order, 2, axis=3), axis=2)
        matte[..., 1] /= np.float32(samples)
        made[name] = matte
    return {name: made[name] for name in wanted}
