"""Surfaces that single rays meet."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import numpy.typing as npt

from .assemble import Assembled
from .embree import ray_buffer
from .kernels.first import first_surface, many_surfaces
from .threads import in_pieces


def surface_under(
    assembled: Assembled, origin: npt.NDArray[np.float64], towards: npt.NDArray[np.float64]
) -> npt.NDArray[np.float32] | None:
    """First solid surface along a ray: x, y, z, normal x, y, z, distance, instance, triangle."""
    hit = np.zeros(9, np.float32)
    o, d = origin.astype(np.float32), towards.astype(np.float32)
    met = first_surface(assembled.arrays, o, d, ray_buffer(), hit, np.zeros(1, np.int64))
    return hit if met else None


#: Rays a thread takes at a time.
RAYS_AT_ONCE = 4096


def surfaces_along(
    assembled: Assembled, origins: npt.ArrayLike, directions: npt.ArrayLike
) -> npt.NDArray[np.float32]:
    """`surface_under` of many rays (n, 3): rows (n, 9), their distance infinite where nothing is met."""
    o = np.ascontiguousarray(origins, np.float32)
    d = np.ascontiguousarray(directions, np.float32)
    hits = np.zeros((len(o), 9), np.float32)

    def begin() -> Callable[[int, int], None]:
        ray, counts = ray_buffer(), np.zeros(1, np.int64)
        return lambda row, end: many_surfaces(assembled.arrays, o, d, row, end, ray, hits, counts)

    in_pieces(len(o), RAYS_AT_ONCE, begin)
    return hits
