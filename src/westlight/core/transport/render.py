"""Running the kernels: rows shared out to threads, passes added to films."""

from __future__ import annotations

import itertools
import os
import threading
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
    height, width = view.height_px, view.width_px
    rows, slot_of = slots_of(assembled, active)
    out = np.zeros((height, width, max(len(rows), 1), 3), np.float32)
    gathered = np.zeros((height, width, L.GUIDE_CHANNELS), np.float32)
    camera = view.camera_array()
    starts = itertools.count(0, ROWS_AT_A_TIME)
    rays = [0]
    errors: list[BaseException] = []
    lock = threading.Lock()

    def work() -> None:
        ray, counts = ray_buffer(), np.zeros(1, np.int64)
        acc = np.zeros((max(len(rows), 1), 3), np.float32)
        try:
            for row0 in starts:
                if row0 >= height or errors or (stop is not None and stop()):
                    break
                row1 = min(row0 + ROWS_AT_A_TIME, height)
                render_rows(
                    assembled.arrays, camera, rows, slot_of, bounces, np.float32(calm), seed,
                    first_sample, samples, width, row0, row1, out[row0:row1],
                    gathered[row0:row1], acc, ray, counts,
                )  # fmt: skip
        except BaseException as error:
            errors.append(error)
        with lock:
            rays[0] += int(counts[0])

    run_in_threads(work, threads or thread_count())
    if errors:
        raise errors[0]
    if stop is not None and stop():
        raise Cancelled("The rendering was stopped.")
    half = first_sample & 1
    for slot, accumulator in enumerate(accumulators):
        accumulator.halves[half] += out[:, :, slot]
        accumulator.counts[half] += samples
    if guide is not None:
        guide += gathered
    return rays[0]


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
