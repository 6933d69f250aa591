"""A sky with its horizon moved or softened and its colour turned up or down: cheats, all of them."""

from __future__ import annotations

from dataclasses import dataclass, fields

import numpy as np
import numpy.typing as npt

from ..colour import AP1_LUMINANCE
from .dome import Array, Sky


@dataclass(frozen=True)
class AlteredSky(Sky):
    """Another sky, seen over a horizon at ``horizon_deg``, blurred over ``blur_deg`` about it.

    What the other sky shows between horizon and zenith is squeezed or stretched to what is left of
    the dome above. ``saturation`` 0 is grey at the same luminance.
    """

    of: Sky | None = None
    horizon_deg: float = 0.0
    blur_deg: float = 0.0
    saturation: float = 1.0

    def rgb(self, directions: npt.ArrayLike) -> Array:
        """Working-space RGB in cd/m² towards unit directions (n, 3), x east, y north, z up."""
        assert self.of is not None
        d = np.asarray(directions, dtype=np.float64).reshape(-1, 3)
        elevation = np.degrees(np.arcsin(np.clip(d[:, 2], -1.0, 1.0)))
        seen = self._seen(elevation)
        flat = np.hypot(d[:, 0], d[:, 1])
        way = np.where(
            flat[:, None] > 1e-9, d[:, :2] / np.maximum(flat, 1e-9)[:, None], [[0.0, 1.0]]
        )
        sky = self.of.rgb(
            np.concatenate([way * np.cos(seen)[:, None], np.sin(seen)[:, None]], axis=1)
        )
        return self._coloured(sky, elevation[:, None])

    def over(self, elevation: Array, azimuth: Array) -> Array:
        """As `Sky.over`."""
        assert self.of is not None
        degrees = np.degrees(elevation)
        return self._coloured(self.of.over(self._seen(degrees), azimuth), degrees[:, None, None])

    def _seen(self, elevation: Array) -> Array:
        """Elevations (radians) of the other sky that are seen at some (degrees)."""
        above = (elevation - self.horizon_deg) * 90.0 / (90.0 - self.horizon_deg)
        # The last bit keeps what is just above the horizon from falling under it by rounding.
        return np.asarray(np.radians(np.clip(above, 1e-4, 90.0)))

    def _coloured(self, sky: Array, elevation: Array) -> Array:
        """The other sky's colours with the ground below the horizon, by elevations in degrees that spread over them."""
        assert self.of is not None
        share = _share(elevation - self.horizon_deg, self.blur_deg)
        out = self.of.ground_rgb * (1 - share) + sky * share
        if self.saturation != 1.0:
            grey = (out @ AP1_LUMINANCE)[..., None]
            out = np.maximum(grey + (out - grey) * self.saturation, 0.0)
        return np.asarray(out)


def over_horizon(
    pixels: npt.NDArray[np.float32], horizon_deg: float, blur_deg: float
) -> npt.NDArray[np.float32]:
    """A latitude–longitude picture (h, w, 3) with its horizon moved to an elevation and blurred.

    Both halves are squeezed or stretched to what is left for them; in the band they run into each
    other. Itself if nothing is changed. ``ValueError`` beyond the bounds of `altered`.
    """
    _checked(horizon_deg, blur_deg, 1.0)
    if horizon_deg == 0.0 and blur_deg == 0.0:
        return pixels
    height = pixels.shape[0]
    elevation = 90.0 - (np.arange(height) + 0.5) / height * 180.0
    over = elevation - horizon_deg
    above = np.clip(over * 90.0 / (90.0 - horizon_deg), 0.0, 90.0)
    below = np.clip(over * 90.0 / (90.0 + horizon_deg), -90.0, 0.0)
    rows = (90.0 - np.stack([above, below])) / 180.0 * height - 0.5
    middle = (height - 1) / 2
    # No row of one half is mixed into the other.
    rows = np.stack([np.clip(rows[0], 0, middle - 0.5), np.clip(rows[1], middle + 0.5, height - 1)])
    sky, ground = (_rows_at(pixels, r) for r in rows)
    share = _share(over, blur_deg).astype(np.float32)[:, None, None]
    return np.asarray(ground * (1 - share) + sky * share, np.float32)


def _rows_at(pixels: npt.NDArray[np.float32], rows: Array) -> npt.NDArray[np.float32]:
    """Rows of a picture between its rows, by linear interpolation."""
    low = np.floor(rows).astype(int)
    t = (rows - low).astype(np.float32)[:, None, None]
    return np.asarray(pixels[low] * (1 - t) + pixels[np.minimum(low + 1, len(pixels) - 1)] * t)


def _share(over: Array, blur_deg: float) -> Array:
    """Share of the sky by degrees over the horizon."""
    if blur_deg <= 0:
        return (over >= 0).astype(float)
    t = np.clip(over / blur_deg + 0.5, 0, 1)
    return np.asarray(t * t * (3 - 2 * t))


def _checked(horizon_deg: float, blur_deg: float, saturation: float) -> None:
    if not -60.0 <= horizon_deg <= 60.0 or not 0.0 <= blur_deg <= 90.0 or saturation < 0.0:
        raise ValueError("The horizon lies between −60° and 60°, its blur between 0° and 90°.")


def altered(
    sky: Sky, horizon_deg: float = 0.0, blur_deg: float = 0.0, saturation: float = 1.0
) -> Sky:
    """A sky with another horizon, softer, or more or less colourful; itself if nothing is changed.

    ``horizon_deg`` from −60 to 60 is the elevation of the horizon (a valley's rim, or the view from
    a tower); ``blur_deg`` the height of the band in which ground and sky run into each other.
    ``ValueError`` beyond.
    """
    _checked(horizon_deg, blur_deg, saturation)
    if horizon_deg == 0.0 and blur_deg == 0.0 and saturation == 1.0:
        return sky
    kept = {f.name: getattr(sky, f.name) for f in fields(Sky)}
    return AlteredSky(**kept, of=sky, horizon_deg=horizon_deg, blur_deg=blur_deg,
                      saturation=saturation)  # fmt: skip
