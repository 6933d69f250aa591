"""What is done to a whole picture for every frame under a hand, by kernels in bands: enlarging what was made at fewer pixels, and
darkening."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt
from numba import njit
from PIL import Image

from ..transport.threads import in_pieces

F4 = npt.NDArray[np.float32]
#: Rows of a band.
_BAND = 12


@njit(nogil=True, cache=True, fastmath=True, error_model="numpy")
def _scale_rows(out, small, left, share, kept, picture, row0, row1):  # type: ignore[no-untyped-def]
    """Bilinear between the middles of the pixels of ``small`` (h, w, 3); ``kept`` times ``picture`` is added, if there is one.

    ``left`` (columns of ``out``) is the pixel of ``small`` on the left of each, ``share`` what the one right of it counts.
    """
    one, half, none = np.float32(1), np.float32(0.5), np.float32(0)
    height, width = small.shape[0], small.shape[1]
    down = np.float32(height / out.shape[0])
    # A row between two of the smaller picture, and its last pixel once more.
    row = np.empty((width + 1, 3), np.float32)
    for y in range(row0, row1):
        at = min(max((np.float32(y) + half) * down - half, none), np.float32(height - 1))
        j = int(at)
        v = at - np.float32(j)
        above, below = small[j], small[min(j + 1, height - 1)]
        for i in range(width):
            for c in range(3):
                row[i, c] = above[i, c] + v * (below[i, c] - above[i, c])
        for c in range(3):
            row[width, c] = row[width - 1, c]
        line = out[y]
        for x in range(out.shape[1]):
            i, u = left[x], share[x]
            for c in range(3):
                line[x, c] = (one - u) * row[i, c] + u * row[i + 1, c]
        if kept != none:
            under = picture[y]
            for x in range(out.shape[1]):
                for c in range(3):
                    line[x, c] += kept * under[x, c]


@njit(nogil=True, cache=True, fastmath=True, error_model="numpy")
def _darken_rows(out, picture, openness, diffuse, amount, white, row0, row1):  # type: ignore[no-untyped-def]
    """``picture`` less ``amount`` where ``openness`` falls below ``white``, as far as its light is ``diffuse``."""
    one, none = np.float32(1), np.float32(0)
    even = diffuse.shape[0] > 0
    for y in range(row0, row1):
        for x in range(out.shape[1]):
            lost = one - min(max(openness[y, x] / white, none), one)
            if even:
                lost *= diffuse[y, x]
            k = one - amount * lost
            for c in range(3):
                out[y, x, c] = picture[y, x, c] * k


def _plain(picture: F4) -> F4:
    return np.ascontiguousarray(picture, np.float32)


def enlarged(picture: F4, height: int, width: int) -> F4:
    """A picture (h, w, …) at another size, bilinear between the middles of its pixels; made smaller it is averaged."""
    h, w = picture.shape[:2]
    if picture.shape[2:] == (3,) and height >= h and width >= w:
        return _over(np.empty((0, 0, 3), np.float32), 0.0, picture, (height, width))
    planes = picture.reshape(h, w, -1)
    out = [_resized(planes[..., i], height, width) for i in range(planes.shape[2])]
    return np.stack(out, -1).reshape(height, width, *picture.shape[2:])


def _resized(plane: F4, height: int, width: int) -> F4:
    image = Image.fromarray(np.ascontiguousarray(plane))
    return np.asarray(image.resize((width, height), Image.Resampling.BILINEAR))


def laid_over(picture: F4, kept: float, small: F4) -> F4:
    """``kept`` (0…1) times a picture (h, w, 3), with one no larger enlarged and added, in their common unit."""
    return _over(_plain(picture), kept, small, picture.shape[:2])


def _over(picture: F4, kept: float, small: F4, size: tuple[int, ...]) -> F4:
    out = np.empty((*size, 3), np.float32)
    w = small.shape[1]
    across = np.clip((np.arange(size[1]) + 0.5) * (w / size[1]) - 0.5, 0, w - 1)
    left = across.astype(np.int32)
    share = (across - left).astype(np.float32)
    light, k = _plain(small), np.float32(kept)

    def rows(row0: int, row1: int) -> None:
        _scale_rows(out, light, left, share, k, picture, row0, row1)

    in_pieces(size[0], _BAND, lambda: rows)
    return out


def darkened(picture: F4, openness: F4, amount: float, white: float, diffuse: F4 | None) -> F4:
    """A picture (h, w, 3) less ``amount`` where ``openness`` (h, w) is none, nothing where it reaches ``white``.

    Only ``diffuse`` (h, w), if it is given, of the light is darkened so.
    """
    out = np.empty(picture.shape, np.float32)
    light, seen = _plain(picture), _plain(openness)
    even = np.empty((0, 0), np.float32) if diffuse is None else _plain(diffuse)
    most, full = np.float32(amount), np.float32(white)

    def rows(row0: int, row1: int) -> None:
        _darken_rows(out, light, seen, even, most, full, row0, row1)

    in_pieces(len(out), _BAND, lambda: rows)
    return out
