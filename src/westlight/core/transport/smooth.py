"""A quick edge-keeping smoothing for pictures under a moving hand, where a network is too slow.

An à-trous filter (Dammertz et al. 2010) that stops at edges of normal, albedo and light.
"""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from .kernels.smooth import smooth_rows
from .threads import run_in_threads, thread_count

F4 = npt.NDArray[np.float32]


def smooth(picture: F4, albedo: F4, normal: F4, rounds: int = 1) -> F4:
    """A smoothed copy of a scene-linear picture (h, w, 3), edges of the guides kept."""
    source = np.ascontiguousarray(picture, np.float32)
    height = source.shape[0]
    for n in range(rounds):
        target = np.empty_like(source)
        starts = iter(range(0, height, 16))

        def work(
            starts: object = starts, source: F4 = source, target: F4 = target, step: int = 1 << n
        ) -> None:
            for row0 in starts:  # type: ignore[attr-defined]
                row1 = min(row0 + 16, height)
                smooth_rows(source, albedo, normal, step, target, row0, row1)

        run_in_threads(work, thread_count())
        source = target
    return source
