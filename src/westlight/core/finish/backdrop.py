"""A picture behind everything: behind the windows, or behind the building. The camera alone sees it."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

import numpy as np
import numpy.typing as npt
from scipy.ndimage import gaussian_filter, map_coordinates

from ..colour import AP1_LUMINANCE
from ..files import read_linear
from ..photometry import saturation_luminance
from .grade import MIDDLE_GREY

F4 = npt.NDArray[np.float32]
#: Pictures are read at no more than this width: a backdrop is seen small or out of focus.
WIDEST = 4096


@dataclass(frozen=True)
class Backdrop:
    """A picture and how it hangs behind the view.

    ``path`` names a file whose 1 is the burnt point (None: no backdrop). ``stops`` is its brightness against that.
    ``zoom`` 1 makes it as wide as the view, ``across`` −1…1 moves it by a width, ``horizon`` is the
    height of its horizon from its foot (0…1), which comes to lie at ``at``, the horizon of the view
    from the top (0…1). ``blur`` 0…1 is a radius up to 3 % of the width; ``match`` 0…1 draws its
    colour towards the mean colour of the scene. ``distortion`` −0.3…0.3 is that of the lens it was taken with
    (barrel below 0): a straight line at its edge bends by about this share of half its width.
    """

    path: str | None = None
    stops: float = 0.0
    zoom: float = 1.0
    across: float = 0.0
    horizon: float = 0.5
    at: float = 0.5
    blur: float = 0.0
    mirror: bool = False
    match: float = 0.0
    distortion: float = 0.0


def backdrop_of(file: Path, exposed: bool = False) -> F4:
    """A picture file as a backdrop: working-space (h, w, 3) where 1 is the burnt point.

    Bad pixels become black; a picture without a white (EXR, HDR) gets its mean at middle grey, unless it is
    ``exposed``: a backdrop that was kept, where 1 is that point already.
    Raises `PictureFileError`.
    """
    picture = np.nan_to_num(read_linear(file, WIDEST), nan=0.0, posinf=0.0, neginf=0.0)
    picture = np.maximum(picture, 0)
    if file.suffix.lower() in (".exr", ".hdr") and not exposed:
        mean = float((picture @ AP1_LUMINANCE.astype(np.float32)).mean())
        picture = picture * np.float32(MIDDLE_GREY / max(mean, 1e-9))
    return np.asarray(picture, np.float32)


@lru_cache(maxsize=3)
def _picture(path: str) -> F4:
    return read_linear(Path(path))


def distorted(
    row: npt.NDArray[np.float64], column: npt.NDArray[np.float64], height: int, width: int, k: float
) -> tuple[npt.NDArray[np.float64], npt.NDArray[np.float64]]:
    """Where a lens put what belongs at (row, column): r → r·(1 + k·r²), r = 1 at the side (Brown 1966)."""
    y, x = row - (height - 1) / 2, column - (width - 1) / 2
    stretch = 1 + k * (x * x + y * y) / (width / 2) ** 2
    return y * stretch + (height - 1) / 2, x * stretch + (width - 1) / 2


@lru_cache(maxsize=4)
def _hung(path: str, height: int, width: int, b: Backdrop) -> F4:
    """The backdrop as it lies behind a view of a size; its edge colours go on beyond it."""
    picture = _picture(path)
    if b.mirror:
        picture = picture[:, ::-1]
    own_height, own_width = picture.shape[:2]
    step = own_width / (width * b.zoom)
    if step > 1.5:
        picture = gaussian_filter(picture, (step / 3, step / 3, 0))
    column = (np.arange(width) + 0.5 - width / 2) * step + own_width * (0.5 - b.across)
    row = (np.arange(height) + 0.5 - height * b.at) * step + own_height * (1 - b.horizon)
    at = np.meshgrid(row - 0.5, column - 0.5, indexing="ij")
    if b.distortion:
        at = distorted(at[0], at[1], own_height, own_width, b.distortion)
    made = np.stack(
        [map_coordinates(picture[..., c], at, order=1, mode="nearest") for c in range(3)], axis=-1
    )
    if b.blur > 0:
        radius = 0.03 * b.blur * width
        made = gaussian_filter(made, (radius, radius, 0), mode="nearest")
    return np.asarray(made, np.float32)


def with_backdrop(picture: F4, outside: F4, b: Backdrop, ev: float) -> F4:
    """The picture with a backdrop where the camera looks ``outside`` (h, w), 0…1 with soft edges.

    The light of the sky itself must not be in the picture there.
    """
    if b.path is None:
        return picture
    height, width = picture.shape[:2]
    behind = _hung(b.path, height, width, b)
    if b.match > 0:
        behind = behind * _towards(behind, picture, outside, b.match)
    light = behind * np.float32(saturation_luminance(ev) * 2.0**b.stops)
    return np.asarray(picture + light * outside[..., None], np.float32)


def _towards(behind: F4, picture: F4, outside: F4, share: float) -> F4:
    """Factor per channel that gives the backdrop the hue of the scene, its brightness kept."""
    inside = (1 - np.clip(outside, 0, 1))[..., None]
    scene = (picture * inside).mean(axis=(0, 1)) + 1e-9
    own = behind.mean(axis=(0, 1)) + 1e-9
    y = AP1_LUMINANCE.astype(np.float32)
    hue = (scene / (scene @ y)) / (own / (own @ y))
    return np.asarray(np.clip(hue, 0.25, 4) ** share, np.float32)
