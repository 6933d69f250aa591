"""Showing a picture: exposure, white point and the baked display transform, to 8 bits."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
from numba import njit

from ..colour.display import (
    SHAPER_TOP,
    TABLE_SIZE,
    DisplayTransform,
    display_transform,
)
from ..colour.temperature import white_balance_matrix
from ..photometry import saturation_luminance
from ..transport.threads import run_in_threads, thread_count

F4 = npt.NDArray[np.float32]
U1 = npt.NDArray[np.uint8]
#: A pixel is burnt when a channel is shown at or above this, black when all are at or below.
BURNT_FROM, BLACK_TO = 250, 4


@dataclass(frozen=True)
class Shown:
    """A displayed picture (h, w, 3) uint8 with what the exposure line says about it.

    ``histogram`` (256,) counts pixels by shown luma; shares are 0…1.
    """

    pixels: U1
    histogram: npt.NDArray[np.int64]
    burnt: float
    black: float


_SCALE, _CELLS = np.float32(1 / SHAPER_TOP), np.float32(TABLE_SIZE - 1)
_LAST = np.float32(TABLE_SIZE - 1 - 1e-3)


@njit(nogil=True, cache=True, fastmath=True, error_model="numpy", _nrt=False)
def _show_rows(picture, m, table, out, tally, row0, row1, dither):  # type: ignore[no-untyped-def]
    """Tetrahedral look-up in the display table; ``tally`` (258,) gets luma bins, burnt, black."""
    for y in range(row0, row1):
        for x in range(picture.shape[1]):
            r, g, b = picture[y, x, 0], picture[y, x, 1], picture[y, x, 2]
            p = m[0, 0] * r + m[0, 1] * g + m[0, 2] * b
            q = m[1, 0] * r + m[1, 1] * g + m[1, 2] * b
            s = m[2, 0] * r + m[2, 1] * g + m[2, 2] * b
            fr = math.sqrt(math.sqrt(max(p, np.float32(0)) * _SCALE)) * _CELLS
            fg = math.sqrt(math.sqrt(max(q, np.float32(0)) * _SCALE)) * _CELLS
            fb = math.sqrt(math.sqrt(max(s, np.float32(0)) * _SCALE)) * _CELLS
            fr = min(fr, _LAST)
            fg = min(fg, _LAST)
            fb = min(fb, _LAST)
            i, j, k = int(fr), int(fg), int(fb)
            u, v, w = fr - np.float32(i), fg - np.float32(j), fb - np.float32(k)
            # Two corners are shared by all six tetrahedra; the other two follow the order of
            # the fractions.
            i1, j1, k1, i2, j2, k2 = i, j, k, i + 1, j + 1, k + 1
            if u >= v:
                if v >= w:
                    i1, k2, hi, mid, lo = i + 1, k, u, v, w
                elif u >= w:
                    i1, j2, hi, mid, lo = i + 1, j, u, w, v
                else:
                    k1, j2, hi, mid, lo = k + 1, j, w, u, v
            elif w >= v:
                k1, i2, hi, mid, lo = k + 1, i, w, v, u
            elif w >= u:
                j1, i2, hi, mid, lo = j + 1, i, v, w, u
            else:
                j1, k2, hi, mid, lo = j + 1, k, v, u, w
            a, d = np.float32(1) - hi, lo
            e, f = hi - mid, mid - lo
            top, bottom = 0, 255
            luma = np.float32(0)
            half = np.float32(0.5)
            if dither:
                # Interleaved gradient noise: neighbours differ most, so no bands are seen.
                n = np.float32(0.06711056) * x + np.float32(0.00583715) * y
                n = np.float32(52.9829189) * (n - math.floor(n))
                half = n - math.floor(n)
            for c in range(3):
                t = a * table[i, j, k, c] + e * table[i1, j1, k1, c]
                t += f * table[i2, j2, k2, c] + d * table[i + 1, j + 1, k + 1, c]
                byte = min(int(t * np.float32(255) + half), 255)
                out[y, x, c] = byte
                top, bottom = max(top, byte), min(bottom, byte)
                luma += t * (np.float32(0.25) if c != 1 else np.float32(0.5))
            tally[int(luma * np.float32(255))] += 1
            if top >= BURNT_FROM:
                tally[256] += 1
            if top <= BLACK_TO:
                tally[257] += 1


#: Pixels up to which one thread is quicker than several.
SMALL = 20_000


def show(
    picture: F4, ev: float, kelvin: float = 6500.0, tint: float = 0.0,
    tone: str | DisplayTransform = "natural", dither: bool = False,
) -> Shown:  # fmt: skip
    """A scene-linear picture in cd/m² as the camera settings show it.

    ``ev`` is EV100, ``kelvin`` and ``tint`` the white point, ``tone`` a display transform or the
    name of one; ``dither`` breaks the steps of 8 bits up.
    """
    transform = display_transform(tone) if isinstance(tone, str) else tone
    matrix = (white_balance_matrix(kelvin, tint) / saturation_luminance(ev)).astype(np.float32)
    height, width = picture.shape[:2]
    out = np.empty((height, width, 3), np.uint8)
    starts = iter(range(0, height, 24))
    tallies: list[npt.NDArray[np.int64]] = []

    def work() -> None:
        tally = np.zeros(258, np.int64)
        for row0 in starts:
            row1 = min(row0 + 24, height)
            _show_rows(picture, matrix, transform.table, out, tally, row0, row1, dither)
        tallies.append(tally)

    # A little picture is done before another thread has begun.
    run_in_threads(work, thread_count() if height * width > SMALL else 1)
    total = np.sum(tallies, axis=0)
    n = height * width
    return Shown(out, total[:256], float(total[256] / n), float(total[257] / n))
