"""Tables that skies are sampled by: luminance over the sphere, and over each portal's map."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import lru_cache

import numpy as np
import numpy.typing as npt

from ..colour import AP1_LUMINANCE
from ..sky.hdri import row_solid_angles
from . import layout as L

F4 = npt.NDArray[np.float32]
Array = npt.NDArray[np.float64]
#: Size of a sampling table: fine enough for a sun's disc, small enough for the processor's cache.
TABLE_WIDTH, TABLE_HEIGHT = 256, 128
#: Pictures of more detail get a finer table.
FINE_WIDTH, FINE_HEIGHT = 1024, 512
#: Share of the mean luminance that the compensated table leaves to rays sampled by surfaces.
COMPENSATED = 0.5
#: Small cells across each cell of a portal's map, by which its light is told.
_FINER = 3
#: Size of the blurred sky by which panes are weighed.
BLURRED_WIDTH, BLURRED_HEIGHT = 64, 32


@dataclass
class SkyTables:
    """What one sky needs for sampling; portal maps by the axes of the portals they are for."""

    rows: F4
    width: int
    height: int
    total: float
    #: Mean luminances by height and azimuth, by which panes of portals are weighed.
    blurred: Array
    maps: dict[bytes, Array] = field(default_factory=dict)

    def add_maps(self, picture: F4, wanted: Mapping[bytes, tuple[Array, Array, Array]]) -> None:
        """Make the maps of axes (width, height, inward) that are not there yet, from the sky's picture (h, w, 3)."""
        missing = {key: axes for key, axes in wanted.items() if key not in self.maps}
        if missing:
            luminance = picture.astype(np.float32) @ AP1_LUMINANCE.astype(np.float32)
            self.maps |= {key: portal_cells(luminance, *axes) for key, axes in missing.items()}


def sky_tables(picture: F4) -> SkyTables:
    """Sampling table of a sky picture (h, w, 3): density per steradian and alias table."""
    fine = picture.shape[1] > 1024
    width, height = (FINE_WIDTH, FINE_HEIGHT) if fine else (TABLE_WIDTH, TABLE_HEIGHT)
    weight = even_cells(picture, width, height).reshape(-1)
    total = float(weight.sum())
    rows = np.concatenate([_table(weight), _table(compensated(weight))])
    wide, high = BLURRED_WIDTH, BLURRED_HEIGHT
    blurred = even_cells(picture, wide, high) * (wide * high / (4 * np.pi))
    return SkyTables(rows, width, height, total, blurred)


def compensated(weight: Array) -> Array:
    """Weights of cells (n,) less what rays sampled by surfaces find as well (Karlík et al. 2019).

    Where the sky is even those rays do; light sampling is for what stands out. Not where nothing does.
    """
    left = np.maximum(weight - COMPENSATED * weight.mean(), 0.0)
    return left if left.sum() > 0.1 * weight.sum() else weight


def _table(weight: Array) -> F4:
    """Rows of a sampling table for weights of cells (n,), columns K_*."""
    # A pixel darker than its cell must still be found now and then.
    weight = weight + 0.005 * max(float(weight.sum()), 1e-30) / len(weight)
    p = weight / weight.sum()
    rows = np.zeros((len(p), L.TABLE_COLUMNS), np.float32)
    rows[:, L.K_DENSITY] = p * len(p) / (4 * np.pi)
    rows[:, L.K_ACCEPT], rows[:, L.K_ALIAS] = alias_table(p)
    return rows


def even_cells(picture: F4, width: int, height: int) -> Array:
    """Luminance × solid angle in cells of one solid angle, (height, width), from a picture.

    Even steps of height and azimuth: an even sky fills them alike, so that drawing from the table
    keeps the evenness of the random points.
    """
    h, w = picture.shape[:2]
    lum = np.maximum(picture.astype(np.float32) @ AP1_LUMINANCE.astype(np.float32), 0.0)
    light = lum * row_solid_angles(h, w)[:, None]
    below = np.zeros((h + 1, w + 1))
    below[1:, 1:] = light.cumsum(axis=0, dtype=np.float64).cumsum(axis=1)
    angle = np.arccos(np.linspace(1, -1, height + 1))
    # Inside a row of the picture light grows with height, not with angle.
    row = np.minimum((angle / np.pi * h).astype(int), h - 1)
    top, bottom = np.cos(np.pi * row / h), np.cos(np.pi * (row + 1) / h)
    part = ((top - np.cos(angle)) / (top - bottom))[:, None]
    rows = below[row] * (1 - part) + below[row + 1] * part
    at = np.linspace(0, w, width + 1)
    i = np.minimum(at.astype(int), w - 1)
    cut = rows[:, i] * (1 - (at - i)) + rows[:, i + 1] * (at - i)
    return np.maximum(np.diff(np.diff(cut, axis=0), axis=1), 0.0)


def alias_table(p: Array) -> tuple[F4, npt.NDArray[np.int32]]:
    """Walker's alias table (share kept, other entry) of probabilities (n,)."""
    from .kernels.alias import build_alias

    n = len(p)
    accept, alias = np.ones(n, np.float32), np.arange(n, dtype=np.int32)
    build_alias(p * n, accept, alias)
    return accept, alias


def _map_directions(side: int) -> tuple[Array, Array]:
    """Directions (side, side, 3) in portal axes (u, v, outwards) and solid angles of map cells."""
    w = 2 * (np.arange(side) + 0.5) / side - 1
    x = w / (1 - np.abs(w))
    stretch = 2 * (1 + np.abs(x)) ** 2 / side
    n2 = x[:, None] ** 2 + x[None, :] ** 2 + 1
    d = np.stack([np.broadcast_to(x[:, None], n2.shape), np.broadcast_to(x[None, :], n2.shape),
                  np.ones_like(n2)], axis=-1)  # fmt: skip
    return d / np.sqrt(n2)[..., None], stretch[:, None] * stretch[None, :] / n2**1.5


def map_directions(u: Array, v: Array, inward: Array) -> Array:
    """World directions outwards (MAP_SIDE, MAP_SIDE, 3) of the middles of a portal map's cells."""
    d, _ = _map_directions(L.MAP_SIDE)
    return np.asarray(d[..., 0:1] * u + d[..., 1:2] * v - d[..., 2:3] * inward)


def summed_area(cells: Array) -> Array:
    """Summed-area table of a portal map, flat, (MAP_SIDE + 1)²; entry (i, j) sums the cells below both."""
    table = np.zeros((L.MAP_SIDE + 1, L.MAP_SIDE + 1))
    table[1:, 1:] = cells.cumsum(axis=0).cumsum(axis=1)
    return table.reshape(-1)


def portal_cells(luminance: F4, u: Array, v: Array, inward: Array) -> Array:
    """Luminance × solid angle (MAP_SIDE, MAP_SIDE) over the map of portals with these axes, from a sky's luminance (h, w)."""
    pixels, omega, area = _map_pixels(
        np.stack([u, v, inward]).tobytes(), luminance.shape[0], luminance.shape[1]
    )
    value = np.maximum(luminance.reshape(-1)[pixels], 0.0) * omega
    cells = value.reshape(L.MAP_SIDE, _FINER, L.MAP_SIDE, _FINER).sum(axis=(1, 3))
    return np.asarray(cells + 0.02 * max(float(cells.sum()), 1e-30) * area / area.sum())


@lru_cache(maxsize=32)
def _map_pixels(axes: bytes, h: int, w: int) -> tuple[npt.NDArray[np.int32], F4, Array]:
    """Pixels of a sky that small cells of the map of portals with some axes see, solid angles of these, and of its cells.

    The same for every sky of a size: a moved sun changes none of it.
    """
    u, v, inward = np.frombuffer(axes).reshape(3, 3)
    d, omega = _map_directions(L.MAP_SIDE * _FINER)
    world = d[..., 0:1] * u + d[..., 1:2] * v - d[..., 2:3] * inward
    azimuth = np.arctan2(world[..., 0], world[..., 1]) % (2 * np.pi)
    column = np.minimum((azimuth / (2 * np.pi) * w).astype(np.int32), w - 1)
    height = np.arccos(np.clip(world[..., 2], -1, 1))
    row = np.minimum((height / np.pi * h).astype(np.int32), h - 1)
    area = omega.reshape(L.MAP_SIDE, _FINER, L.MAP_SIDE, _FINER).sum(axis=(1, 3))
    return row * np.int32(w) + column, omega.astype(np.float32), area
