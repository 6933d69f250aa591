"""Mixing contributions: a weighted sum over sources, in scene-linear light."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import numpy.typing as npt
from numba import njit

from ..transport.threads import run_in_threads, thread_count

F4 = npt.NDArray[np.float32]


@njit(nogil=True, cache=True, fastmath=True)
def _add_rows(out, picture, red, green, blue, row0, row1, first):  # type: ignore[no-untyped-def]
    for y in range(row0, row1):
        for x in range(out.shape[1]):
            if first:
                out[y, x, 0] = picture[y, x, 0] * red
                out[y, x, 1] = picture[y, x, 1] * green
                out[y, x, 2] = picture[y, x, 2] * blue
            else:
                out[y, x, 0] += picture[y, x, 0] * red
                out[y, x, 1] += picture[y, x, 1] * green
                out[y, x, 2] += picture[y, x, 2] * blue


def mix(pictures: Sequence[F4], gains: Sequence[npt.NDArray[np.float64]], out: F4) -> F4:
    """Σ picture·gain into ``out`` (h, w, 3); gains are RGB. Bands of rows stay in the cache."""
    height = out.shape[0]
    if not pictures:
        out[:] = 0
        return out
    starts = iter(range(0, height, 12))
    weights = [tuple(np.float32(v) for v in g) for g in gains]

    def work() -> None:
        for row0 in starts:
            row1 = min(row0 + 12, height)
            for i, (picture, (r, g, b)) in enumerate(zip(pictures, weights, strict=True)):
                _add_rows(out, picture, r, g, b, row0, row1, i == 0)

    run_in_threads(work, thread_count())
    return out


class Mixture:
    """A mix that is kept: when only some gains change, only those sources are added again.

    Small rounding errors would add up under a long drag, so a kept mix is made anew now and then.
    """

    #: Changes after which everything is summed again.
    ANEW_AFTER = 64

    def __init__(self) -> None:
        self._out = np.empty((0, 0, 3), np.float32)
        self._pictures: list[F4] = []
        self._gains: list[npt.NDArray[np.float64]] = []
        self._changes = 0

    def of(self, pictures: Sequence[F4], gains: Sequence[npt.NDArray[np.float64]]) -> F4:
        """Σ picture·gain (h, w, 3). The array belongs to the mixture and changes with it."""
        shape = pictures[0].shape if pictures else (0, 0, 3)
        kept = len(pictures) == len(self._pictures) and all(
            a is b for a, b in zip(pictures, self._pictures, strict=True)
        )
        changed = [
            i for i, (g, old) in enumerate(zip(gains, self._gains, strict=False))
            if not np.array_equal(g, old)
        ]  # fmt: skip
        if kept and len(changed) <= len(gains) // 2 and self._changes < self.ANEW_AFTER:
            steps = [gains[i] - self._gains[i] for i in changed]
            if changed:
                self._changes += 1
                one = np.ones(3)
                mix([self._out, *(pictures[i] for i in changed)], [one, *steps], self._out)
        else:
            if self._out.shape != shape:
                self._out = np.empty(shape, np.float32)
            mix(pictures, gains, self._out)
            self._changes = 0
        self._pictures = list(pictures)
        self._gains = [np.array(g, np.float64) for g in gains]
        return self._out


@njit(nogil=True, cache=True, fastmath=True, error_model="numpy")
def _block_means(picture, factor, out):  # type: ignore[no-untyped-def]
    scale = np.float32(1.0 / (factor * factor))
    for y in range(out.shape[0]):
        for x in range(out.shape[1]):
            r = g = b = np.float32(0)
            for j in range(y * factor, (y + 1) * factor):
                for i in range(x * factor, (x + 1) * factor):
                    r += picture[j, i, 0]
                    g += picture[j, i, 1]
                    b += picture[j, i, 2]
            out[y, x, 0], out[y, x, 1], out[y, x, 2] = r * scale, g * scale, b * scale


def block_mean(picture: F4, factor: int) -> F4:
    """Picture (h, w, 3) reduced by averaging ``factor``² pixels; rests at the edges are cut."""
    out = np.empty((picture.shape[0] // factor, picture.shape[1] // factor, 3), np.float32)
    _block_means(picture, factor, out)
    return out
