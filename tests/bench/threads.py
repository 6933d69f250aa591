"""What more cores would reach: `./westlight bench threads`. Usage: threads.py DEMO_FOLDER.

One thread traces a pass of the demo, piece by piece; each piece is timed, and so is the part of it in which Python holds
its lock. Then the same pieces are given out in order to any number of threads, as `PassRun` does, the locked parts one after
another. Efficiency is the time of one thread over threads × the time of all.
"""

from __future__ import annotations

import heapq
import sys
import time
from pathlib import Path
from typing import Any

from figures import Figures

from bench import scene_of, view_of

THREADS = (2, 4, 8, 16, 32, 64)


def timed(assembled: Any, width: int, active: list[int]) -> list[tuple[float, float]]:
    """Seconds of each piece of a pass: within kernels, where other threads run, and between them."""
    from westlight.core.transport import render
    from westlight.core.transport.film import Accumulator, GuideFilm

    view = view_of(width)
    found: list[tuple[float, float]] = []
    inside = 0.0
    kernels = {name: getattr(render, name) for name in ("trace_rows", "deposit")}

    def watched(kernel: Any) -> Any:
        def run(*arguments: Any) -> Any:
            nonlocal inside
            begun = time.perf_counter()
            made = kernel(*arguments)
            inside += time.perf_counter() - begun
            return made

        return run

    trace = render.PassRun._trace

    def piece(self: Any, run: Any, tools: Any) -> None:
        nonlocal inside
        inside, begun = 0.0, time.perf_counter()
        trace(self, run, tools)
        found.append((inside, time.perf_counter() - begun - inside))

    for upto in (1, 2):
        # The first pass looks for edges and touches the memory of the films.
        found.clear()
        if upto == 1:
            films = [Accumulator.empty(view.height_px, width) for _ in active]
            guide = GuideFilm.empty(view.height_px, width)
        try:
            render.PassRun._trace = piece  # type: ignore[method-assign]
            for name, kernel in kernels.items():
                setattr(render, name, watched(kernel))
            render.PassRun(assembled, view, active, films, guide, upto=upto, bounces=6, threads=1).advance()  # fmt: skip
        finally:
            render.PassRun._trace = trace  # type: ignore[method-assign]
            for name, kernel in kernels.items():
                setattr(render, name, kernel)
    return found


def makespan(pieces: list[tuple[float, float]], threads: int) -> float:
    """Seconds until all pieces are done by so many threads, each taking the next one as it becomes free."""
    free = [0.0] * threads
    lock = 0.0
    for kernel, locked in pieces:
        begun = max(heapq.heappop(free), lock)
        lock = begun + locked
        heapq.heappush(free, lock + kernel)
    return max(free)


def main() -> int:
    """Print what was found; the exit code counts goals missed."""
    figures = Figures()
    assembled = scene_of(Path(sys.argv[1]), lamps=True, portals=True)
    for width in (640, 1280):
        pieces = timed(assembled, width, [0, 1])
        alone = makespan(pieces, 1)
        locked = sum(b for _, b in pieces) / alone
        print(
            f"{width} × {width * 9 // 16}: {len(pieces)} pieces, {alone:.2f} s by one thread, {locked:.1%} of it within Python's lock"
        )
        for threads in THREADS:
            share = alone / threads / makespan(pieces, threads) * 100
            figures.add(f"{threads} threads, {width} px wide, of what they could", share, "%",
                        85 if threads == 16 else None, "at least")  # fmt: skip
    return figures.missed


if __name__ == "__main__":
    sys.exit(min(main(), 99))
