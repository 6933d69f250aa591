"""What a thread needs of its own to trace, and sharing work out to threads."""

from __future__ import annotations

import math
import os
import threading
from collections.abc import Callable, Sequence
from functools import lru_cache
from pathlib import Path

import numpy as np
import numpy.typing as npt

from . import layout as L
from .assemble import Assembled
from .embree import ray_buffer
from .film import BAND_ROWS

F4 = npt.NDArray[np.float32]


@lru_cache(maxsize=1)
def thread_count() -> int:
    """Threads the tracer uses: as many as `WESTLIGHT_THREADS` says, else one per core this process may run on.

    A container may have less time than it sees cores: its share of them counts, rounded up.
    """
    told = os.environ.get("WESTLIGHT_THREADS", "")
    if told.isdigit() and int(told) > 0:
        return int(told)
    allowed = len(os.sched_getaffinity(0))
    share = _share_of_cores(Path("/sys/fs/cgroup"))
    return allowed if share is None else max(1, min(allowed, math.ceil(share)))


def _share_of_cores(folder: Path) -> float | None:
    """Cores' worth of time a container may use, by either version of control groups; None for no limit."""
    for files in (["cpu.max"], ["cpu/cpu.cfs_quota_us", "cpu/cpu.cfs_period_us"]):
        try:
            quota, period = " ".join((folder / f).read_text() for f in files).split()
            if float(quota) > 0:
                return float(quota) / float(period)
        except (OSError, ValueError, ZeroDivisionError):
            # "max" is no number: there is no limit.
            continue
    return None


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

    def tools(self, slots: int) -> L.Tools:
        """What a kernel works with, for so many slots."""
        return L.Tools(self.acc[:slots], self.scratch, self.ray, self.counts)

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


def in_pieces(count: int, size: int, begin: Callable[[], Callable[[int, int], None]]) -> None:
    """Share rows 0…``count`` out to all threads, ``size`` at a time, as each becomes free.

    Every thread calls ``begin`` once, for what it alone may write to; what that returns does the rows from the first to before the second
    number it is given.
    """
    starts, lock = iter(range(0, count, size)), threading.Lock()

    def work() -> None:
        do = begin()
        while True:
            with lock:
                first = next(starts, None)
            if first is None:
                return
            do(first, min(first + size, count))

    run_in_threads(work, thread_count())
