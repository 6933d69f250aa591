"""HDRI skies: latitude–longitude pictures, adjusted, calibrated, and searched for their sun.

Pixels are working-space RGB; row 0 is the zenith, columns run clockwise seen from above. A file's
middle column faces north until it is rotated.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import numpy.typing as npt
from scipy import ndimage

from ..colour import AP1_LUMINANCE
from ..errors import PictureFileError
from .altered import over_horizon

F4 = npt.NDArray[np.float32]
Array = npt.NDArray[np.float64]
#: Wider pictures are reduced: finer than the sun's disc adds nothing but memory.
MAX_WIDTH_PX = 8192


@dataclass(frozen=True)
class Lobe:
    """The brightest compact part of a sky: where it stands, how large, how strong.

    ``irradiance_rgb`` is working-space RGB on a plane facing it, its luminance lux.
    """

    azimuth_deg: float
    elevation_deg: float
    solid_angle_sr: float
    irradiance_rgb: Array
    rows: npt.NDArray[np.int64]
    columns: npt.NDArray[np.int64]

    @property
    def normal_illuminance_lx(self) -> float:
        """Illuminance in lux on a plane facing it."""
        return float(self.irradiance_rgb @ AP1_LUMINANCE)

    def placed(
        self, rotation_deg: float = 0.0, tilt_deg: float = 0.0, mirror: bool = False
    ) -> tuple[float, float]:
        """Azimuth and elevation in degrees of the lobe in the picture as `Hdri.adjusted` lays it.

        >>> lobe = Lobe(30, 20, 0, np.zeros(3), np.zeros(0, int), np.zeros(0, int))
        >>> lobe.placed(rotation_deg=15, mirror=True)
        (345.0, 20.0)
        """
        azimuth = (-self.azimuth_deg if mirror else self.azimuth_deg) + rotation_deg
        a, e, t = np.radians([azimuth, self.elevation_deg, tilt_deg])
        x, y, z = np.sin(a) * np.cos(e), np.cos(a) * np.cos(e), np.sin(e)
        y, z = y * np.cos(t) - z * np.sin(t), y * np.sin(t) + z * np.cos(t)
        turned = math.degrees(math.atan2(x, y)) % 360
        return round(turned, 4), round(math.degrees(math.asin(min(max(z, -1), 1))), 4)


def row_solid_angles(height: int, width: int) -> Array:
    """Solid angle in sr of one pixel of each row of a latitude–longitude picture, (height,)."""
    edges = np.cos(np.linspace(0, np.pi, height + 1))
    return (edges[:-1] - edges[1:]) * 2 * np.pi / width


def directions(height: int, width: int) -> Array:
    """Unit directions (height, width, 3) of the pixels of a picture whose column 0 is north."""
    elevation = (0.5 - (np.arange(height) + 0.5) / height) * math.pi
    azimuth = (np.arange(width) + 0.5) / width * 2 * math.pi
    ee, aa = np.meshgrid(elevation, azimuth, indexing="ij")
    c = np.cos(ee)
    return np.stack([c * np.sin(aa), c * np.cos(aa), np.sin(ee)], axis=-1)


#: Pixels around that make up for one that is below zero.
_AROUND_PX = 6.0


def _without_negatives(picture: F4) -> F4:
    """A picture (h, w, 3) without values below zero, and with the light it had.

    Ringing of a resampled picture leaves bright and negative pixels side by side: cut off one by one the negative ones would
    add light (18 % were seen). What is missing is taken from the pixels around instead.
    """
    positive = np.maximum(picture, 0)
    sigma = (_AROUND_PX, _AROUND_PX, 0)
    modes = ("nearest", "wrap", "nearest")
    whole, kept = (ndimage.gaussian_filter(p, sigma, mode=modes) for p in (picture, positive))
    share = np.clip(whole / np.maximum(kept, 1e-12), 0.0, 1.0)
    out = positive * share
    # The blur spreads what is taken unevenly; over the whole picture the sum decides.
    weights = row_solid_angles(*picture.shape[:2])[:, None, None]
    wanted, found = ((p * weights).sum(axis=(0, 1)) for p in (picture, out))
    scale = np.where((wanted > 0) & (found > 0), wanted / np.maximum(found, 1e-12), 1.0)
    return np.asarray(out * scale, np.float32)


@dataclass(frozen=True, eq=False)
class Hdri:
    """A latitude–longitude picture as a sky, column 0 north; ``remarks`` say what was mended."""

    pixels: F4
    remarks: tuple[str, ...] = ()

    @staticmethod
    def of(path_or_array: str | Path | npt.ArrayLike | Hdri) -> Hdri:
        """From a file (EXR, RGBE) or an array (h, w, 3) whose middle column faces north.

        Raises `PictureFileError` for what cannot be a sky.
        """
        if isinstance(path_or_array, Hdri):
            return path_or_array
        if isinstance(path_or_array, (str, Path)):
            from ..files import read_linear

            raw = read_linear(Path(path_or_array), MAX_WIDTH_PX)
        else:
            raw = np.array(path_or_array, np.float32)
        if raw.ndim != 3 or raw.shape[2] != 3 or not raw.size:
            raise PictureFileError("A sky picture needs red, green and blue over a rectangle.")
        remarks = []
        height, width = raw.shape[:2]
        if width != 2 * height and (height, width) != (1, 1):
            remarks.append(
                f"It is {width} × {height}, not twice as wide as high; it was stretched."
            )
        bad = ~np.isfinite(raw) | (raw < 0)
        if bad.any():
            share = bad.any(axis=2).mean() * 100
            remarks.append(f"{share:.2g} % of its pixels were no light (NaN, infinite, negative).")
            finite = np.isfinite(raw)
            most = float(raw[finite].max()) if finite.any() else 0.0
            raw = _without_negatives(np.nan_to_num(raw, nan=0.0, posinf=most, neginf=0.0))
        if height < 2 or width < 2:
            raw = np.repeat(np.repeat(raw, 2 if height < 2 else 1, 0), 4 if width < 2 else 1, 1)
        # The middle column is north, ours is the first.
        raw = np.roll(raw, -(raw.shape[1] // 2), axis=1)
        return Hdri(np.ascontiguousarray(raw, np.float32), tuple(remarks))

    def rgb(self, towards: npt.ArrayLike) -> Array:
        """Working-space RGB towards unit directions (n, 3): the pixel each of them meets."""
        d = np.asarray(towards, float).reshape(-1, 3)
        h, w = self.pixels.shape[:2]
        azimuth = np.arctan2(d[:, 0], d[:, 1]) % (2 * math.pi)
        column = np.minimum((azimuth / (2 * math.pi) * w).astype(int), w - 1)
        row = np.minimum((np.arccos(np.clip(d[:, 2], -1, 1)) / math.pi * h).astype(int), h - 1)
        return self.pixels[row, column].astype(float)

    def luminance(self, towards: npt.ArrayLike) -> Array:
        """Luminance in cd/m² towards unit directions, (n, 3) → (n,)."""
        return self.rgb(towards) @ AP1_LUMINANCE

    def image(self, width: int = 0, height: int = 0) -> F4:
        """The picture itself, RGB in cd/m², (h, w, 3); reduced if a size is given."""
        if width and height:
            return reduced(self.pixels, width, height)
        return self.pixels

    def horizontal_rgb(self) -> Array:
        """Working-space irradiance on open level ground; its luminance is lux."""
        h, w = self.pixels.shape[:2]
        edges = np.linspace(0, np.pi, h + 1)
        above = np.clip(np.cos(edges), 0, 1) ** 2
        weight = (above[:-1] - above[1:]) / 2 * 2 * np.pi / w
        return np.asarray((self.pixels.sum(axis=1, dtype=float) * weight[:, None]).sum(axis=0))

    def horizontal_illuminance(self) -> float:
        """Illuminance in lux on open level ground, a sun in the picture included."""
        return float(self.horizontal_rgb() @ AP1_LUMINANCE)

    def sun_normal_illuminance(self) -> float:
        """0: a sun in the picture is part of it; see `brightest`."""
        return 0.0

    def adjusted(
        self,
        *,
        rotation_deg: float = 0.0,
        tilt_deg: float = 0.0,
        mirror: bool = False,
        brightness: float = 0.0,
        contrast: float = 1.0,
        saturation: float = 1.0,
        tint: Sequence[float] = (1.0, 1.0, 1.0),
        scale: float = 1.0,
        horizontal_illuminance_lx: float | None = None,
        horizon_deg: float = 0.0,
        horizon_blur_deg: float = 0.0,
    ) -> F4:
        """The picture turned clockwise, tilted about the east–west axis, mirrored, and graded.

        Then its horizon is moved and blurred, see `over_horizon`.
        ``brightness`` in stops; ``contrast`` is a power about the mean luminance; ``scale`` turns
        its values into cd/m², or ``horizontal_illuminance_lx`` calibrates it by what it gives on
        the ground. Shape as the picture.
        """
        out = self.pixels[:, ::-1] if mirror else self.pixels
        height, width = out.shape[:2]
        shift = rotation_deg / 360.0 * width
        if tilt_deg:
            out = _tilted(np.roll(out, round(shift), axis=1), tilt_deg)
        elif shift:
            out = np.roll(out, round(shift), axis=1)
        out = over_horizon(out, horizon_deg, horizon_blur_deg)
        if contrast != 1.0 or saturation != 1.0 or tuple(tint) != (1.0, 1.0, 1.0):
            lum = (out @ AP1_LUMINANCE.astype(np.float32))[..., None]
            weight = row_solid_angles(height, width)[:, None, None]
            mean = max(float((lum * weight).sum() / (4 * math.pi)), 1e-12)
            out = np.maximum(lum + (out - lum) * np.float32(saturation), 0.0)
            if contrast != 1.0:
                out = out * np.maximum(lum / mean, 1e-6) ** np.float32(contrast - 1.0)
            out = out * np.asarray(tint, np.float32)
        factor = scale * 2.0**brightness
        if horizontal_illuminance_lx is not None:
            lux = Hdri(np.asarray(out, np.float32)).horizontal_illuminance()
            factor = horizontal_illuminance_lx / lux * 2.0**brightness if lux > 0 else 0.0
        return np.ascontiguousarray(out * np.float32(factor), np.float32)

    def brightest(self) -> Lobe | None:
        """The brightest compact lobe, if one stands out like a sun; None for an even sky.

        Found among pixels brighter than a tenth of the peak, the connected part that holds it.
        """
        lum = self.pixels @ AP1_LUMINANCE.astype(np.float32)
        h, w = lum.shape
        omega = row_solid_angles(h, w)
        mean = float((lum * omega[:, None]).sum() / (4 * math.pi))
        peak = float(lum.max())
        if not peak > 20.0 * max(mean, 1e-12):
            return None
        row0, column0 = np.unravel_index(int(lum.argmax()), lum.shape)
        # Centred on the peak, so that a lobe over the picture's seam stays whole.
        turned = np.roll(lum, w // 2 - int(column0), axis=1)
        labels, _ = ndimage.label(turned > 0.1 * peak, np.ones((3, 3)))
        mask = labels == labels[row0, w // 2]
        rows, columns = np.nonzero(mask)
        columns = (columns - (w // 2 - int(column0))) % w
        size = float(omega[rows].sum())
        if size > 0.05:  # larger than 14° across: a bright cloud, not a sun
            return None
        weight = omega[rows][:, None] * self.pixels[rows, columns].astype(float)
        d = directions(h, w)[rows, columns]
        middle = (d * (weight @ AP1_LUMINANCE)[:, None]).sum(axis=0)
        middle /= np.linalg.norm(middle)
        facing = np.clip(d @ middle, 0, 1)[:, None]
        return Lobe(
            math.degrees(math.atan2(middle[0], middle[1])) % 360.0,
            math.degrees(math.asin(float(np.clip(middle[2], -1, 1)))),
            size, (weight * facing).sum(axis=0), rows, columns,
        )  # fmt: skip

    def without(self, lobe: Lobe) -> Hdri:
        """The picture with a lobe's pixels, and a margin, filled from the sky around them."""
        h, w = self.pixels.shape[:2]
        mask = np.zeros((h, w), bool)
        mask[lobe.rows, lobe.columns] = True
        middle = int(np.median(lobe.columns)) if np.ptp(lobe.columns) < w // 2 else 0
        shift = w // 2 - middle
        mask, picture = np.roll(mask, shift, 1), np.roll(self.pixels, shift, 1).copy()
        mask = ndimage.binary_dilation(mask, iterations=2)
        ring = ndimage.binary_dilation(mask, iterations=4) & ~mask
        fill = np.median(picture[ring], axis=0) if ring.any() else np.zeros(3, np.float32)
        # Nothing is made brighter than it was.
        picture[mask] = np.minimum(picture[mask], fill)
        return Hdri(np.ascontiguousarray(np.roll(picture, -shift, 1)), self.remarks)


def _tilted(pixels: F4, tilt_deg: float) -> F4:
    """A picture turned about the east–west axis, bilinear."""
    h, w = pixels.shape[:2]
    d = directions(h, w)
    a = math.radians(tilt_deg)
    y = d[..., 1] * math.cos(a) + d[..., 2] * math.sin(a)
    z = -d[..., 1] * math.sin(a) + d[..., 2] * math.cos(a)
    column = (np.arctan2(d[..., 0], y) % (2 * math.pi)) / (2 * math.pi) * w - 0.5
    row = np.arccos(np.clip(z, -1, 1)) / math.pi * h - 0.5
    padded = np.concatenate([pixels, pixels[:, :1]], axis=1)
    at = np.stack([np.clip(row, 0, h - 1), column % w])
    return np.stack(
        [ndimage.map_coordinates(padded[..., c], at, order=1, mode="nearest") for c in range(3)], -1
    )


def reduced(pixels: F4, width: int, height: int) -> F4:
    """A latitude–longitude picture averaged by solid angle to at most a width and height."""
    h, w = pixels.shape[:2]
    if w <= width and h <= height:
        return pixels
    rows = np.linspace(0, h, min(height, h) + 1).astype(int)
    columns = np.linspace(0, w, min(width, w) + 1).astype(int)
    weight = row_solid_angles(h, w)
    total = np.add.reduceat(pixels * weight[:, None, None], rows[:-1], axis=0)
    total = np.add.reduceat(total, columns[:-1], axis=1)
    area = np.add.reduceat(weight, rows[:-1])[:, None] * np.diff(columns)[None, :]
    return np.asarray(total / area[..., None], np.float32)
