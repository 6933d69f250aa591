"""What a thread needs of its own to trace, and sharing work out to threads."""

from __future__ import annotations

import os
import threading
from collections.abc import Callable, Sequence

import numpy as np
import numpy.typing as npt

from . import layout as L
from .assemble import Assembled
from .embree import ray_buffer
from .film import BAND_ROWS

F4 = npt.NDArray[np.float32]


def thread_count() -> int:
    """Threads the tracer uses: one per core this process may run on."""
    return len(os.sched_getaffinity(0))


def slots_of(assembled: Assembled, active: Sequence[int]) -> tuple[L.I4, L.I4]:
    """Arrays (active rows, slot of each source or −1) for a choice of sources."""
    slot_of = np.full(max(len(assembled.sources), 1), -1, np.int32)
    rows = np.asarray(list(active), np.int32)
    slot_of[rows] = np.arange(len(rows), dtype=np.int32)
    return rows, slot_of


class Bench:
    """What one thread needs of its own: a ray, sums of one sample, memory of portals, a band."""

    def __init__(self, assembled: Assembled, slots: int, width: int) -> None:
        self.ray = ray_buffer()
        self.counts = np.zeros(1, np.int64)
        self.acc = np.zeros((max(slots, 1), L.SAMPLE_CHANNELS), np.float32)
        self.scratch = np.zeros((2 * assembled.skies, L.MEMORY), np.float32)
        self._out = np.zeros(BAND_ROWS * width * max(slots, 1) * L.OUT_CHANNELS, np.float32)
        self.guide = np.zeros((BAND_ROWS, width, L.GUIDE_CHANNELS), np.float32)

    def band(self, rows: int, width: int, slots: int) -> F4:
        """An empty band (rows, width, slots, channels), in one piece whatever its size: an array
        with gaps would be another type to the compiler, and make it compile the tracer again."""
        shape = (rows, width, max(slots, 1), L.OUT_CHANNELS)
        out = self._out[: int(np.prod(shape))].reshape(shape)
        out[...] = 0.0
        return out


def run_in_threads(work: Callable[[], None], count: int) -> None:
    """Run the same work on ``count`` threads, the calling one among them; raises what one raised."""
    errors: list[BaseException] = []

    def guarded() -> None:
        try:
            work()
        except BaseException as error:
            errors.append(error)

    others = [threading.Thread(target=guarded) for _ in range(count - 1)]
    for t in others:
        t.start()
    guarded()
    for t in others:
        t.join()
    if errors:
        raise errors[0]
