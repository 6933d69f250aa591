"""Running the kernels: bands of rows shared out to threads, passes added to films."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable, Sequence
from itertools import pairwise
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from ..errors import Cancelled
from ..view import View
from . import layout as L
from .assemble import Assembled
from .cache import NO_CACHE, NO_GLANCES, LightCache
from .embree import ray_buffer
from .film import BAND_ROWS, TILE_COLUMNS, Accumulator, GuideFilm, bands_of, tiles_of
from .glances import GLANCES, edges_of, even_glances
from .kernels.deposit import deposit
from .kernels.first import keep_first
from .kernels.passes import trace_rows
from .threads import Bench, in_pieces, run_in_threads, slots_of, thread_count

F4 = npt.NDArray[np.float32]
#: Tiles traced in one call at most, so that a slice of time ends soon after its time also where many glances are.
MOST_TILES = 2
_NONE_KEPT = np.zeros((0, 1, L.FIRST_COLUMNS), np.float32)
_NO_CAMERA = np.zeros(L.CAMERA_FLOATS, np.float32)


class Window(NamedTuple):
    """A part of a picture in pixels; its first row is one that a band begins with."""

    row0: int
    row1: int
    column0: int
    column1: int


class _Run(NamedTuple):
    """Tiles of a band beside one another that have the same passes: traced in one call."""

    band: int
    tile0: int
    tile1: int


class PassRun:
    """Passes over a picture up to a number, done in slices of time; each run of tiles goes to the films
    at once, so a run that is given up loses nothing.

    Films of one run advance together: in each tile those that have fewest passes are traced. Pass
    n of a pixel is the same whoever traces it and in whatever order. ``kept`` first surfaces save
    the camera rays, for pass 0 of a picture whose view has not changed. With a ``cache`` paths end where
    it keeps light of all sources traced; ``cache_keys`` name them in it, one for each film.
    Every path shares what it sees with ``glances``, so many by pass in the mean and most of them ``at_edges``, or as many everywhere; from
    kept surfaces there are none.
    With a ``window`` the films are of that part of the picture alone; with ``tiles`` (bands, tiles) of
    the films only those are traced.
    """

    def __init__(
        self,
        assembled: Assembled,
        view: View,
        active: Sequence[int],
        films: Sequence[Accumulator],
        guide: GuideFilm | None = None,
        *,
        upto: int,
        seed: int = 0,
        bounces: int = 8,
        calm: float = 0.0,
        glances: Sequence[int] = GLANCES,
        at_edges: bool = True,
        threads: int | None = None,
        guide_passes: int = 1 << 30,
        rows: tuple[int, int] | None = None,
        window: Window | None = None,
        tiles: npt.NDArray[np.bool_] | None = None,
        kept: F4 | None = None,
        cache: LightCache | None = None,
        cache_keys: Sequence[str] = (),
    ) -> None:
        self.kept = _NONE_KEPT if kept is None else kept
        self.cache = cache
        self._columns = None if cache is None else cache.columns(cache_keys)
        self.assembled, self.view = assembled, view
        self.active, self.films, self.guide = list(active), list(films), guide
        self.upto, self.seed, self.bounces = upto, seed, bounces
        self._many = (0,) if kept is not None else tuple(glances)
        self._at_edges = at_edges and any(self._many)
        self._glances = even_glances(self._many)
        self.calm, self.threads = np.float32(calm), threads or thread_count()
        self.guide_passes = guide_passes
        self.rays = 0
        self._camera = view.camera_array()
        self._window = window or Window(0, view.height_px, 0, view.width_px)
        bands = range(bands_of(view.height_px))
        if window is not None:
            rows = (window.row0, window.row1)
        if rows is not None:
            bands = range(rows[0] // BAND_ROWS, bands_of(min(rows[1], view.height_px)))
        #: Number of the first band that films have.
        self._band0 = self._window.row0 // BAND_ROWS
        size = self._window.row1 - self._window.row0, self._window.column1 - self._window.column0
        self._chosen = np.ones(tiles_of(*size), bool) if tiles is None else tiles
        self._todo = [r for b in bands for r in self._runs(b) if self._least(r) < upto]
        #: Passes left, in tiles.
        self._all = max(sum((upto - self._least(r)) * (r.tile1 - r.tile0) for r in self._todo), 1)
        self._left = self._all
        self._lock = threading.Lock()

    def _counts(self, band: int) -> npt.NDArray[np.int64]:
        """Passes of every film, and of the guide, in the tiles of a band, (films + 1, tiles)."""
        own = band - self._band0
        rows = [f.counts[own].sum(axis=-1) for f in self.films]
        if self.guide is not None:
            rows.append(np.minimum(self.guide.counts[own], self.guide_passes))
        return np.array(rows or np.full((1, self._chosen.shape[1]), self.upto), np.int64)

    def _runs(self, band: int) -> list[_Run]:
        """Chosen tiles of a band in runs of equal passes, none longer than `MOST_TILES`."""
        counts, chosen = self._counts(band), self._chosen[band - self._band0]
        new = (counts[:, 1:] != counts[:, :-1]).any(axis=0) | (chosen[1:] != chosen[:-1])
        ends = sorted(
            {*(np.nonzero(new)[0] + 1).tolist(), *range(0, len(chosen), MOST_TILES), len(chosen)}
        )
        return [_Run(band, a, b) for a, b in pairwise(ends) if chosen[a]]

    def _least(self, run: _Run) -> int:
        own = run.band - self._band0
        if not self.films:
            return self.upto if self.guide is None else int(self.guide.counts[own, run.tile0])
        return min(int(f.counts[own, run.tile0].sum()) for f in self.films)

    @property
    def done(self) -> bool:
        """Whether every band has its passes."""
        return self._left <= 0

    @property
    def share(self) -> float:
        """Part of the work that is done, 0…1."""
        return 1.0 - self._left / self._all

    def advance(
        self,
        seconds: float | None = None,
        stop: Callable[[], bool] | None = None,
        called: Callable[[], bool] | None = None,
    ) -> bool:
        """Trace until done, until ``seconds`` have passed, or until ``called`` away; returns whether it is done.

        Raises `Cancelled` as soon as ``stop`` returns True.
        """
        end = None if seconds is None else time.perf_counter() + seconds
        if self._at_edges and self._todo and not self._look_for_edges(end, stop, called):
            return False

        def work() -> None:
            width = self._window.column1 - self._window.column0
            bench = Bench(self.assembled, len(self.films), width)
            while end is None or time.perf_counter() < end:
                if (stop is not None and stop()) or (called is not None and called()):
                    break
                with self._lock:
                    run = self._todo.pop(0) if self._todo else None
                if run is None:
                    break
                self._trace(run, bench)
            with self._lock:
                self.rays += int(bench.counts[0])

        run_in_threads(work, self.threads)
        if stop is not None and stop():
            raise Cancelled("The rendering was stopped.")
        return self.done

    def _look_for_edges(
        self,
        end: float | None,
        stop: Callable[[], bool] | None,
        called: Callable[[], bool] | None,
    ) -> bool:
        """Find out where glances are wanted; returns whether that is known."""
        edges = edges_of(self.assembled, self.view)

        def enough() -> bool:
            return any(f() for f in (stop, called) if f is not None)

        found = edges.advance(self.assembled, self.threads, end, enough)
        if stop is not None and stop():
            raise Cancelled("The rendering was stopped.")
        if found:
            self._glances, self._at_edges = edges.glances(self._many), False
        return found

    def _trace(self, run: _Run, bench: Bench) -> None:
        """One more pass over a run of tiles for the films that are behind in it."""
        n = self._least(run)
        w = self._window
        own, tiles = run.band - self._band0, slice(run.tile0, run.tile1)
        behind = [i for i, f in enumerate(self.films) if int(f.counts[own, run.tile0].sum()) == n]
        rows, slot_of = slots_of(self.assembled, [self.active[i] for i in behind])
        row0 = run.band * BAND_ROWS
        row1 = min(row0 + BAND_ROWS, w.row1)
        column0 = w.column0 + run.tile0 * TILE_COLUMNS
        column1 = min(w.column0 + run.tile1 * TILE_COLUMNS, w.column1)
        out = bench.band(row1 - row0, column1 - column0, len(behind))
        clamp = np.array([self.films[i].clamp for i in behind] or [0], np.float32)
        guide = self.guide
        wants_guide = guide is not None and guide.counts[own, run.tile0] < min(
            n + 1, self.guide_passes
        )
        if wants_guide:
            bench.guide[...] = 0.0
        cache = NO_CACHE
        if self.cache is not None and self._columns is not None:
            cache = self.cache.arrays(self._columns[behind], self.view)
        trace_rows(
            self.assembled.arrays, cache, self.assembled.air, self._camera, self.kept, L.Sources(rows, slot_of),
            L.Passes(self.bounces, self.calm, self._glances, True, self.seed, n, 1),
            L.Block(row0, row1, column0, column1), L.Into(out, bench.guide, clamp), bench.tools(len(behind)),
        )  # fmt: skip
        top, end, left = row0 - w.row0, row1 - w.row0, column0 - w.column0
        for slot, i in enumerate(behind):
            f = self.films[i]
            deposit(out, slot, n & 1, left, f.light[top:end], f.bounced[top:end], f.odd[top:end],
                    f.removed[top:end], f.apart[top:end], f.seen[top:end])  # fmt: skip
            f.counts[own, tiles, n & 1] += 1
        if wants_guide and guide is not None:
            across = column1 - column0
            guide.sums[top:end, left : left + across] += bench.guide[: row1 - row0, :across]
            guide.counts[own, tiles] += 1
        with self._lock:
            self._left -= run.tile1 - run.tile0
            if self._least(run) < self.upto:
                self._todo.append(run)


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
    n = np.ascontiguousarray(n / np.linalg.norm(n, axis=1, keepdims=True), np.float32)
    rows, slot_of = slots_of(assembled, range(len(assembled.sources)))
    slots = max(len(rows), 1)
    total = np.zeros((len(p), slots, 3), np.float64)
    kept = np.zeros((1, len(p), L.FIRST_COLUMNS), np.float32)
    kept[0, :, 0:3] = p
    kept[0, :, 3:6] = kept[0, :, 6:9] = kept[0, :, 9:12] = n
    kept[0, :, L.F_RED : L.F_METALLIC] = 1.0  # white and matte
    kept[0, :, L.F_KEPT :] = 1.0
    clamp = np.full(slots, L.F4_MAX, np.float32)
    # Sums of float32 lose digits: a few hundred samples at a time go to the double total.
    jobs = [(i, k) for i in range(len(p)) for k in range(0, samples, 256)]
    queue, lock = iter(jobs), threading.Lock()

    def work() -> None:
        bench = Bench(assembled, slots, 1)
        while True:
            with lock:
                job = next(queue, None)
            if job is None:
                return
            i, k = job
            out = bench.band(1, 1, slots)
            passes = L.Passes(
                bounces, np.float32(0), NO_GLANCES, True, seed, k, min(256, samples - k)
            )
            trace_rows(
                assembled.arrays, NO_CACHE, assembled.air, _NO_CAMERA, kept, L.Sources(rows, slot_of),
                passes, L.Block(0, 1, i, i + 1), L.Into(out, bench.guide, clamp), bench.tools(slots),
            )  # fmt: skip
            with lock:
                total[i] += np.pi * out[0, 0, :, :3].astype(np.float64)

    run_in_threads(work, thread_count())
    return (total / samples).astype(np.float32)


def first_surfaces(assembled: Assembled, view: View, seed: int = 0) -> F4:
    """First surface of each pixel of a view, (h, w, FIRST_COLUMNS), for `PassRun`'s ``kept``."""
    kept = np.zeros((view.height_px, view.width_px, L.FIRST_COLUMNS), np.float32)

    def begin() -> Callable[[int, int], None]:
        ray, camera, counts = ray_buffer(), view.camera_array(), np.zeros(1, np.int64)
        return lambda row, end: keep_first(
            assembled.arrays, camera, seed, view.width_px, row, end, kept, ray, counts
        )

    in_pieces(view.height_px, BAND_ROWS, begin)
    return kept
