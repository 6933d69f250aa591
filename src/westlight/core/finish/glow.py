"""Glow and star glare: light scattered by eye or lens, as a convolution of the linear picture.

No threshold: every pixel scatters the same share of its light, so only bright ones show it, and
no light is made or lost but what falls beside the picture. The glow follows the glare functions of
Spencer, Shirley, Zimmerman & Greenberg 1995 (f1 and f2, falling with the third and second power of
the angle); the star is the diffraction picture of a bladed aperture (Fraunhofer), its size in
proportion to the wavelength of each colour.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Literal

import numpy as np
import numpy.typing as npt
from scipy import fft
from scipy.ndimage import map_coordinates

from .enlarge import enlarged, laid_over
from .mix import block_mean

F4 = npt.NDArray[np.float32]
#: Widest picture the scattering is computed at; it is smooth, so wider ones use this.
WIDEST = 640
#: The same under a quick hand: halos differ by a few hundredths then.
QUICK = 320
#: How finely it is computed.
Detail = Literal["quick", "usual", "fine"]
#: Peak wavelengths of red, green and blue in nm.
_WAVELENGTHS = (610.0, 550.0, 465.0)
_THREADS = 2
#: Grid that an aperture is drawn on.
_APERTURE = 512


@dataclass(frozen=True)
class Glare:
    """How a lens scatters: ``glow`` and ``star`` are shares of the light, 0…0.5; ``spread`` the
    width of the glow as a share of the picture's width; ``blades`` and ``rotation_deg`` the star's."""

    glow: float = 0.0
    star: float = 0.0
    spread: float = 0.02
    blades: int = 6
    rotation_deg: float = 0.0


def glow_kernel(height: int, width: int, spread: float) -> F4:
    """Point-spread function of the glow around [0, 0] (wrapping), sum 1, (height, width)."""
    y = np.fft.fftfreq(height, 1 / height)[:, None] / width
    x = np.fft.fftfreq(width, 1 / width)[None, :] / width
    r = np.hypot(x, y) / spread
    f = 1.0 / (r + 0.25) ** 3 + 0.35 / (r + 0.25) ** 2
    # Nothing is spread further than the picture is wide, so that the far ends do not wrap.
    f *= np.clip(2.0 - 2.0 * r * spread / 0.5, 0, 1)
    return np.asarray(f / f.sum(), np.float32)


def star_kernel(height: int, width: int, blades: int, rotation_deg: float) -> F4:
    """Diffraction picture of an aperture of ``blades`` straight edges, per colour, sum 1 each.

    (height, width, 3) around [0, 0].
    """
    planes = [_star(height, width, blades, rotation_deg, w, width) for w in _WAVELENGTHS]
    return np.stack(planes, axis=-1)


@lru_cache(maxsize=2)
def _diffraction(blades: int, rotation_deg: float, n: int) -> npt.NDArray[np.float64]:
    """Power of the light behind an aperture by direction, straight ahead in the middle, (n, n).

    The aperture has one size in pixels whatever ``n``: room around it makes the picture finer, not wider.
    """
    c = (np.arange(n) - n / 2 + 0.5) / (n / 2)
    x, y = np.meshgrid(c, c)
    opening = np.ones((n, n), np.float64)
    for k in range(blades):
        a = np.radians(rotation_deg) + 2 * np.pi * k / blades
        # Soft edges of a pixel or so, or the grid itself would show as a cross.
        edge = 0.10 * _APERTURE - (x * np.cos(a) + y * np.sin(a)) * n / 2
        opening *= np.clip(edge + 0.5, 0, 1)
    return np.asarray(np.abs(np.fft.fftshift(np.fft.fft2(np.fft.ifftshift(opening)))) ** 2)


def _star(
    height: int, width: int, blades: int, rotation_deg: float, wavelength: float, across: float
) -> F4:
    """`star_kernel` for one wavelength in nm, of a picture ``across`` pixels wide with its margins."""
    # As fine as the picture, as far as that shows: a ray is a pixel or two wide.
    n = int(min(max(2.0 ** np.ceil(np.log2(max(across, 1) * 0.66)), _APERTURE), 4096))
    power = _diffraction(blades, rotation_deg, n)
    rows = np.fft.fftfreq(height, 1 / height)
    columns = np.fft.fftfreq(width, 1 / width)
    # The whole table spans two thirds of the picture's width, more for red than for blue.
    scale = n / (0.66 * across) * 550.0 / wavelength
    reach = [np.flatnonzero(np.abs(v) * scale < n / 2) for v in (rows, columns)]
    at = np.meshgrid(
        rows[reach[0]] * scale + n / 2, columns[reach[1]] * scale + n / 2, indexing="ij"
    )
    f = np.zeros((height, width), np.float32)
    f[np.ix_(*reach)] = map_coordinates(power, at, order=1, mode="constant")
    return np.asarray(f / np.float32(max(float(f.sum(dtype=np.float64)), 1e-12)), np.float32)


@lru_cache(maxsize=6)
def _spectrum(height: int, width: int, g: Glare) -> npt.NDArray[np.complex64]:
    total = np.zeros((height, width, 3), np.float32)
    if g.glow > 0:
        total += g.glow * glow_kernel(height, width, g.spread)[..., None]
    if g.star > 0:
        total += g.star * star_kernel(height, width, g.blades, g.rotation_deg)
    return np.asarray(fft.rfft2(total, axes=(0, 1), workers=_THREADS), np.complex64)


def scattered(picture: F4, g: Glare, detail: Detail = "usual") -> F4:
    """Light that the lens scatters, (h, w, 3), in the unit of the picture.

    Computed at no more than `WIDEST` pixels across, or `QUICK`; "fine" draws the star at the size of the
    picture, a colour at a time, which takes seconds for the largest.
    """
    out = _scattered(picture, g, detail)
    height, width = picture.shape[:2]
    return out if out.shape == picture.shape else enlarged(out, height, width)


def _scattered(picture: F4, g: Glare, detail: Detail) -> F4:
    """`scattered`, at no more pixels than it is computed at."""
    width = picture.shape[1]
    if detail == "fine" and g.star > 0 and width > WIDEST:
        star = _star_of(np.ascontiguousarray(picture, np.float32), g)
        return star + scattered(picture, replace(g, star=0.0)) if g.glow > 0 else star
    factor = max(1, -(-width // (QUICK if detail == "quick" else WIDEST)))
    small = block_mean(np.ascontiguousarray(picture, np.float32), factor)
    h, w = small.shape[:2]
    # Room around the picture, or light would come in again on the other side.
    rows, columns = (
        fft.next_fast_len(h + h // 2, real=True),
        fft.next_fast_len(w + w // 2, real=True),
    )
    spectrum = fft.rfft2(small, (rows, columns), axes=(0, 1), workers=_THREADS)
    spectrum *= _spectrum(rows, columns, g)
    out = fft.irfft2(spectrum, (rows, columns), axes=(0, 1), workers=_THREADS)[:h, :w]
    return np.asarray(np.maximum(out, 0), np.float32)


def _star_of(picture: F4, g: Glare) -> F4:
    """The star of every pixel at full size."""
    h, w = picture.shape[:2]
    size = fft.next_fast_len(h + h // 2, real=True), fft.next_fast_len(w + w // 2, real=True)
    out = np.empty_like(picture)
    for i, wavelength in enumerate(_WAVELENGTHS):
        kernel = np.float32(g.star) * _star(*size, g.blades, g.rotation_deg, wavelength, w * 1.5)
        spectrum = fft.rfft2(picture[..., i], size, workers=_THREADS)
        spectrum *= fft.rfft2(kernel, workers=_THREADS)
        out[..., i] = np.maximum(fft.irfft2(spectrum, size, workers=_THREADS)[:h, :w], 0)
    return out


def with_glare(picture: F4, g: Glare, detail: Detail = "usual") -> F4:
    """The picture as the lens gives it: what it scatters is missing where it came from."""
    if g.glow + g.star <= 0:
        return picture
    return laid_over(picture, 1.0 - min(g.glow + g.star, 1.0), _scattered(picture, g, detail))
