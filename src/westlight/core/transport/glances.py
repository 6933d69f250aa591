"""Where a picture has edges, and how many glances each of its pixels gets.

A path shares what it sees with further looks through its pixel (`kernels.passes`). Where a window frame stands before
the sky one needs many of them, on a wall none. Edges are told by looks of their own, which no film keeps: to decide by
what the film itself has found would change its mean.
"""

from __future__ import annotations

import threading
import time
import weakref
from collections import OrderedDict
from collections.abc import Callable, Sequence

import numpy as np
import numpy.typing as npt
from scipy.ndimage import correlate1d

from ..colour import AP1_LUMINANCE
from ..view import View
from . import layout as L
from .assemble import Assembled
from .cache import NO_CACHE
from .film import BAND_ROWS
from .kernels.passes import trace_rows
from .thin_lamps import thin_lamps
from .threads import Bench, run_in_threads, slots_of

F4 = npt.NDArray[np.float32]
U1 = npt.NDArray[np.uint8]
#: Mean number of glances of a path, by pass; the last number is that of all later ones.
GLANCES = (7, 3)
#: Looks that edges are told by, through each pixel of a picture of half the size.
LOOKS = 4
#: Most glances of a pixel.
MOST = 127
#: Most glances for each unit of spread: where looks differ by a two-hundredth of the mean of the picture none is worth its rays.
WORTH = 100.0
_SEED = 0x3ADE
_NEIGHBOURS = np.array([0.25, 0.5, 0.25])


def even_glances(many: Sequence[int]) -> U1:
    """The same number of glances everywhere, by pass: (passes, 1, 1)."""
    return np.array(many, np.uint8).reshape(-1, 1, 1)


class Edges:
    """Looks for the edges of a view in slices of time, and shares glances out by them."""

    def __init__(self, view: View) -> None:
        self._view = view
        self._small = view.resized(max(view.width_px // 2, 1), max(view.height_px // 2, 1))
        height, width = self._small.height_px, self._small.width_px
        self._seen = np.zeros((2, height, width), np.float32)
        self._todo = list(range(0, height, BAND_ROWS))
        self._doing = 0
        self._thin = np.zeros((3, height, width), np.float32)
        self._aimed = False
        self._spread: F4 | None = None
        self._lock = threading.Lock()

    @property
    def done(self) -> bool:
        """Whether the whole picture was looked at."""
        return not self._todo and not self._doing

    def advance(
        self,
        assembled: Assembled,
        threads: int,
        end: float | None = None,
        stop: Callable[[], bool] | None = None,
    ) -> bool:
        """Look until done, until the clock (`time.perf_counter`) shows ``end``, or until told to stop."""
        if not self._aimed:
            self._thin, self._aimed = thin_lamps(assembled, self._small), True
        while not self.done:
            run_in_threads(lambda: self._work(assembled, end, stop), threads)
            if (end is not None and time.perf_counter() >= end) or (stop and stop()):
                break
            # Someone else may be looking at the last bands.
            time.sleep(0 if self.done else 0.001)
        return self.done

    def _work(
        self, assembled: Assembled, end: float | None, stop: Callable[[], bool] | None
    ) -> None:
        bench = Bench(assembled, len(assembled.sources), self._small.width_px)
        while (end is None or time.perf_counter() < end) and not (stop and stop()):
            with self._lock:
                if not self._todo:
                    return
                row = self._todo.pop(0)
                self._doing += 1
            try:
                self._look(assembled, bench, row)
            finally:
                with self._lock:
                    self._doing -= 1

    def _look(self, assembled: Assembled, bench: Bench, row: int) -> None:
        """Look through the pixels of a band from a row on."""
        width, end = self._small.width_px, min(row + BAND_ROWS, self._small.height_px)
        count = len(assembled.sources)
        rows, slot_of = slots_of(assembled, range(count))
        gains = np.array([s.gain @ AP1_LUMINANCE for s in assembled.sources], np.float32)
        clamp = np.full(max(count, 1), L.F4_MAX, np.float32)
        for look in range(LOOKS):
            out = bench.band(end - row, width, count)
            trace_rows(
                assembled.arrays, NO_CACHE, assembled.air, self._small.camera_array(), _NONE_KEPT,
                L.Sources(rows, slot_of), L.Passes(0, np.float32(0), even_glances((1,)), False, _SEED, look, 1),
                L.Block(row, end, 0, width), L.Into(out, bench.guide, clamp), bench.tools(count),
            )  # fmt: skip
            light = (out[:, :, :count, L.O_SEEN : L.O_SEEN + 3] @ _LUMINANCE) @ gains
            self._seen[0, row:end] += light
            self._seen[1, row:end] += light * light

    def spread(self) -> F4:
        """Standard deviation (h, w) of what looks through a pixel and its neighbours see, over the mean of the picture.

        Of all sources together at their set amounts: what is seen itself, and the sun there. What is known of lamps too
        thin for a look to meet counts as if looks had met them.
        """
        if self._spread is None:
            looks = self._seen / np.float32(LOOKS)
            whole = max(float(p.mean(dtype=np.float64)) for p in (looks[0], self._thin[1]))
            mean = np.float32(max(whole, 1e-30))
            variance: F4 = np.zeros(looks.shape[1:], np.float32)
            for first, second in (looks, self._thin[1:]):
                once, twice = _about(first / mean), _about(second / mean / mean)
                variance += np.maximum(twice - once**2, 0)
            found = np.sqrt(variance)
            height, width = self._view.height_px, self._view.width_px
            at = [
                np.minimum(np.arange(n) // 2, m - 1)
                for n, m in zip((height, width), found.shape, strict=True)
            ]
            self._spread = np.asarray(found[np.ix_(*at)], np.float32)
        return self._spread

    def glances(self, many: Sequence[int]) -> U1:
        """Glances (passes, h, w), by pass so many in the mean at most, in proportion to the spread."""
        return np.stack([shared_out(self.spread(), n) for n in many])


def _about(picture: F4) -> F4:
    """Weighted means of pixels (h, w) and their neighbours."""
    for axis in (0, 1):
        picture = correlate1d(picture, _NEIGHBOURS, axis, mode="nearest")
    return picture


def shared_out(spread: F4, mean: float) -> U1:
    """Glances (h, w) in proportion to the spread of what is seen, so many in the mean at most."""
    low, high = 0.0, WORTH
    for _ in range(40):
        k = (low + high) / 2
        low, high = (low, k) if np.minimum(spread * k, MOST).mean() > mean else (k, high)
    return np.minimum(spread * np.float32(low) + np.float32(0.5), MOST).astype(np.uint8)


_NONE_KEPT = np.zeros((0, 1, L.FIRST_COLUMNS), np.float32)
_LUMINANCE = AP1_LUMINANCE.astype(np.float32)
#: Edges that are kept: a few views or sizes of one building.
_KEPT = 4
_known: OrderedDict[tuple[int, View], tuple[weakref.ref[Assembled], Edges]] = OrderedDict()
_lock = threading.Lock()


def edges_of(assembled: Assembled, view: View) -> Edges:
    """Edges of a view of a scene, as far as they are known.

    They depend on the scene and the view alone, so that a pass is the same whoever traces it.
    """
    key = (id(assembled), view)
    with _lock:
        known = _known.get(key)
        if known is None or known[0]() is not assembled:
            known = _known[key] = (weakref.ref(assembled), Edges(view))
        _known.move_to_end(key)
        while len(_known) > _KEPT:
            _known.popitem(last=False)
        return known[1]
