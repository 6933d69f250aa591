"""Running the kernels: rows shared out to threads, passes added to films."""

from __future__ import annotations

import os
import threading
import time
from collections.abc import Callable, Sequence

import numpy as np
import numpy.typing as npt

from ..errors import Cancelled
from ..view import View
from . import layout as L
from .build import Assembled
from .embree import ray_buffer
from .film import Accumulator
from .kernels.tracer import first_surface, irradiance_points, render_rows

F4 = npt.NDArray[np.float32]
#: Rows a thread takes at a time: small enough to share evenly, large enough to be worth a call.
ROWS_AT_A_TIME = 8


def thread_count() -> int:
    """Threads the tracer uses: one per core this process may run on."""
    return len(os.sched_getaffinity(0))


def slots_of(assembled: Assembled, active: Sequence[int]) -> tuple[L.I4, L.I4]:
    """Arrays (active rows, slot of each source or −1) for a choice of sources."""
    slot_of = np.full(max(len(assembled.sources), 1), -1, np.int32)
    rows = np.asarray(list(active), np.int32)
    slot_of[rows] = np.arange(len(rows), dtype=np.int32)
    return rows, slot_of


class PassRun:
    """One or more passes over a picture, done in slices of time and added to films at the end."""

    def __init__(
        self,
        assembled: Assembled,
        view: View,
        active: Sequence[int],
        *,
        first_sample: int,
        samples: int = 1,
        seed: int = 0,
        bounces: int = 8,
        calm: float = 0.0,
        threads: int | None = None,
    ) -> None:
        self.assembled, self.view = assembled, view
        self.first_sample, self.samples, self.seed = first_sample, samples, seed
        self.bounces, self.calm = bounces, np.float32(calm)
        self.threads = threads or thread_count()
        self.rays = 0
        self._rows, self._slot_of = slots_of(assembled, active)
        height, width = view.height_px, view.width_px
        self._out = np.zeros((height, width, max(len(self._rows), 1), 3), np.float32)
        self._guide = np.zeros((height, width, L.GUIDE_CHANNELS), np.float32)
        self._camera = view.camera_array()
        self._next_row = 0
        self._lock = threading.Lock()

    @property
    def done(self) -> bool:
        """Whether every row has been traced."""
        return self._next_row >= self.view.height_px

    @property
    def share(self) -> float:
        """Part of the rows that has been taken up, 0…1."""
        return min(self._next_row / self.view.height_px, 1.0)

    def _take(self) -> int:
        with self._lock:
            row = self._next_row
            self._next_row += ROWS_AT_A_TIME
            return row

    def advance(self, seconds: float | None = None, stop: Callable[[], bool] | None = None) -> bool:
        """Trace rows until done or until ``seconds`` have passed; returns whether it is done.

        Raises `Cancelled` as soon as ``stop`` returns True.
        """
        end = None if seconds is None else time.perf_counter() + seconds
        errors: list[BaseException] = []
        height = self.view.height_px

        def work() -> None:
            ray, counts = ray_buffer(), np.zeros(1, np.int64)
            acc = np.zeros((max(len(self._rows), 1), 3), np.float32)
            try:
                while not errors and (end is None or time.perf_counter() < end):
                    if stop is not None and stop():
                        break
                    row0 = self._take()
                    if row0 >= height:
                        break
                    row1 = min(row0 + ROWS_AT_A_TIME, height)
                    render_rows(
                        self.assembled.arrays, self._camera, self._rows, self._slot_of,
                        self.bounces, self.calm, self.seed, self.first_sample, self.samples,
                        self.view.width_px, row0, row1, self._out[row0:row1],
                        self._guide[row0:row1], acc, ray, counts,
                    )  # fmt: skip
            except BaseException as error:
                errors.append(error)
            with self._lock:
                self.rays += int(counts[0])

        run_in_threads(work, self.threads)
        if errors:
            raise errors[0]
        if stop is not None and stop():
            raise Cancelled("The rendering was stopped.")
        return self.done

    def add_to(self, accumulators: Sequence[Accumulator], guide: F4 | None = None) -> None:
        """Add what was traced to one film per active source, and to a guide."""
        half = self.first_sample & 1
        for slot, accumulator in enumerate(accumulators):
            accumulator.halves[half] += self._out[:, :, slot]
            accumulator.counts[half] += self.samples
        if guide is not None:
            guide += self._guide


def add_passes(
    assembled: Assembled,
    view: View,
    active: Sequence[int],
    accumulators: Sequence[Accumulator],
    guide: F4 | None,
    *,
    first_sample: int,
    samples: int = 1,
    seed: int = 0,
    bounces: int = 8,
    calm: float = 0.0,
    threads: int | None = None,
    stop: Callable[[], bool] | None = None,
) -> int:
    """Trace passes ``first_sample …`` for the active sources into their films; returns rays.

    All passes of one call go to the half of the first one's parity. With ``stop`` the work ends
    early by raising `Cancelled`; nothing is added then.
    """
    run = PassRun(
        assembled, view, active, first_sample=first_sample, samples=samples, seed=seed,
        bounces=bounces, calm=calm, threads=threads,
    )  # fmt: skip
    run.advance(stop=stop)
    run.add_to(accumulators, guide)
    return run.rays


def run_in_threads(work: Callable[[], None], count: int) -> None:
    """Run the same work on ``count`` threads, the calling one among them."""
    others = [threading.Thread(target=work) for _ in range(count - 1)]
    for t in others:
        t.start()
    work()
    for t in others:
        t.join()


def irradiance_at(
    assembled: Assembled,
    points: npt.ArrayLike,
    normals: npt.ArrayLike,
    *,
    samples: int,
    seed: int,
    bounces: int,
) -> F4:
    """Irradiance (points, sources, 3) of every source, gains not applied."""
    p = np.ascontiguousarray(points, np.float32).reshape(-1, 3)
    n = np.ascontiguousarray(normals, np.float32).reshape(-1, 3)
    n = n / np.linalg.norm(n, axis=1, keepdims=True)
    rows, slot_of = slots_of(assembled, range(len(assembled.sources)))
    out = np.zeros((len(p), max(len(rows), 1), 3), np.float64)
    starts = iter(range(0, len(p), 4))

    def work() -> None:
        ray, counts = ray_buffer(), np.zeros(1, np.int64)
        acc = np.zeros((max(len(rows), 1), 3), np.float32)
        guide = np.zeros(L.GUIDE_CHANNELS, np.float32)
        for i in starts:
            s = slice(i, i + 4)
            # The seed differs per block because the kernel counts points from zero.
            irradiance_points(
                assembled.arrays, p[s], n[s], rows, slot_of, bounces, seed * 65537 + i, samples,
                out[s], guide, acc, ray, counts,
            )  # fmt: skip

    run_in_threads(work, thread_count())
    return (out / samples).astype(np.float32)


def surface_under(
    assembled: Assembled, origin: npt.NDArray[np.float64], towards: npt.NDArray[np.float64]
) -> npt.NDArray[np.float32] | None:
    """First solid surface along a ray: x, y, z, normal x, y, z, distance, instance, triangle."""
    hit = np.zeros(9, np.float32)
    o, d = origin.astype(np.float32), towards.astype(np.float32)
    met = first_surface(assembled.arrays, o[0], o[1], o[2], d[0], d[1], d[2], ray_buffer(), hit)
    return hit if met else None
