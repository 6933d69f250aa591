"""Air that is not clear: haze everywhere or in a box, thinning with height, with its own colours."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from ..errors import SourceError
from . import layout as L
from .build import GeometryBuild

Array = npt.NDArray[np.float64]
Point = tuple[float, float, float]
#: Contrast at which a dark thing is lost against the sky: Koschmieder's 2 %, ln 50.
_LOST_AT = 3.912
#: Haze everywhere reaches this many times the size of the building beyond it.
_BEYOND = 0.5


@dataclass(frozen=True)
class Air:
    """Haze in a box, or everywhere without corners.

    ``visibility_m`` is the meteorological range at the bottom of the box: the distance at which
    2 % of contrast is left (Koschmieder 1924), so extinction is 3.912 / visibility. ``scattering``
    0…1 (one number or working-space RGB) is the share of it that goes on as light, ``absorption`` the
    share that is lost: by itself the rest. ``thins_over_m`` is the height over which it thins to 37 %; None for even haze.
    ``forward`` −0.95…0.95 is the mean cosine of scattering (Henyey & Greenstein 1941).
    Raises ``SourceError`` for haze that could not exist.
    """

    visibility_m: float = 200.0
    scattering: float | tuple[float, float, float] = 1.0
    absorption: float | tuple[float, float, float] | None = None
    low: Point | None = None
    high: Point | None = None
    thins_over_m: float | None = None
    forward: float = 0.5

    def __post_init__(self) -> None:
        for share in self.shares:
            if not (np.isfinite(share).all() and (share >= 0).all() and (share <= 1).all()):
                raise SourceError("What haze scatters and absorbs are shares between 0 and 1.")
        if not (np.isfinite(self.visibility_m) and self.visibility_m > 0):
            raise SourceError("The visibility in haze is a distance greater than zero.")
        if not abs(self.forward) <= 0.95:
            raise SourceError("Forward scattering lies between −0.95 and 0.95.")
        if self.thins_over_m is not None and not self.thins_over_m > 0:
            raise SourceError("Haze thins over a height greater than zero, or not at all.")
        if self.low is not None and self.high is not None:
            corners = np.array([self.low, self.high], float)
            if not np.isfinite(corners).all() or not (corners[1] > corners[0]).all():
                raise SourceError(
                    "A box of haze needs a size: its upper corner lies beyond the lower."
                )

    @property
    def shares(self) -> tuple[Array, Array]:
        """Scattered and absorbed shares of the extinction, RGB (3,) each."""
        scattered = np.broadcast_to(np.asarray(self.scattering, float), 3)
        if self.absorption is None:
            return scattered, 1.0 - scattered
        return scattered, np.broadcast_to(np.asarray(self.absorption, float), 3)

    @property
    def extinction_per_m(self) -> float:
        """Light lost on the way at the bottom of the box, per metre."""
        return _LOST_AT / self.visibility_m


def air_array(air: Sequence[Air], build: GeometryBuild) -> npt.NDArray[np.float32]:
    """Boxes of haze for the kernels (n, AIR_COLUMNS); none in clear air."""
    rows = np.zeros((len(air), L.AIR_COLUMNS), np.float32)
    if not air:
        # Nothing asks how large a building is that may have no parts.
        return rows
    low, high = build.bounds
    margin = float((high - low).max()) * _BEYOND
    for row, a in zip(rows, air, strict=True):
        row[L.A_LOW : L.A_LOW + 3] = (low - [margin, margin, 0]) if a.low is None else a.low
        row[L.A_HIGH : L.A_HIGH + 3] = (high + margin) if a.high is None else a.high
        scattered, absorbed = a.shares
        row[L.A_SCATTER : L.A_SCATTER + 3] = scattered * a.extinction_per_m
        lost = (scattered + absorbed) * a.extinction_per_m
        row[L.A_EXTINCTION : L.A_EXTINCTION + 3], row[L.A_MEAN] = lost, lost.mean()
        row[L.A_FALL] = 0.0 if a.thins_over_m is None else 1.0 / a.thins_over_m
        row[L.A_FORWARD] = a.forward
    return rows
