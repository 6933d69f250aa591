"""Aiming the sun: which directions bring it to a patch, and when it really stands there."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime, tzinfo

import numpy as np
import numpy.typing as npt
from scipy.spatial import cKDTree

from ..sun import YEAR_STEP, year_of_sun
from ..transport import layout as L
from ..transport.assemble import Assembled
from ..transport.portals import Portal
from .pattern import positions_of, sun_grid, sun_on

Array = npt.NDArray[np.float64]
#: Points across an opening, each way, that the sun may come through.
_ACROSS = 20
#: Spacing of directions when any way will do.
_ANY_STEP_DEG = 2.5
#: A direction counts as reached within this angle: about the radius of the sun, and a little.
_NEAR_DEG = 0.7
#: Metres up its ray about which the sun turns where no opening is in the way.
_UP_THE_RAY_M = 3.0


@dataclass(frozen=True)
class Aim:
    """Directions that bring the sun to a patch: (n, 2) azimuth from true north and elevation.

    ``open`` ones reach it, best first (steepest on the patch and clearest); ``blocked`` would, but
    something stands in the way. ``spacing_deg`` is how far apart they lie.
    """

    open: Array
    blocked: Array
    spacing_deg: float


@dataclass(frozen=True)
class Spell:
    """A time of day on which the sun does it: local, with the best moment in it."""

    day: date
    begins: datetime
    ends: datetime
    best: datetime


def aim(
    assembled: Assembled,
    point: Sequence[float],
    normal: Sequence[float],
    opening: Portal | None = None,
    north_deg: float = 0.0,
) -> Aim:
    """Sun directions that light a point (m, model axes) of a surface, through an opening or any way."""
    p, n = np.asarray(point, float), np.asarray(normal, float)
    if opening is None:
        spacing = _ANY_STEP_DEG
        a, e = np.radians(sun_grid(spacing, 0.0)).T
        ways = np.stack([np.sin(a) * np.cos(e), np.cos(a) * np.cos(e), np.sin(e)], axis=1)
    else:
        across, up, inward = opening.axes()
        s = (np.arange(_ACROSS) + 0.5) / _ACROSS - 0.5
        u, v = np.meshgrid(s * opening.width, s * opening.height)
        at = np.asarray(opening.position, float) + u.reshape(-1, 1) * across + v.reshape(-1, 1) * up
        ways = at - p
        ways = ways[ways @ inward < 0]
        far = np.linalg.norm(ways, axis=1, keepdims=True)
        step = max(opening.width, opening.height) / _ACROSS
        spacing = float(np.degrees(step / far.min())) if len(far) else 1.0
        ways = ways / np.maximum(far, 1e-9)
    ways = ways[(ways[:, 2] > 0) & (ways @ n > 0.02)] if len(ways) else ways
    first = np.zeros((1, 1, L.FIRST_COLUMNS), np.float32)
    first[0, 0, 0:3] = p
    first[0, 0, 3:6] = first[0, 0, 6:9] = n
    first[0, 0, L.F_THERE] = 1
    light = sun_on(assembled, first, ways, p)[:, 0, 0] if len(ways) else np.zeros(0)
    reached = light > 0.01
    best = np.argsort(-light[reached])
    return Aim(positions_of(ways[reached][best], north_deg), positions_of(ways[~reached], north_deg),
               spacing)  # fmt: skip


def _vectors(positions: Array) -> Array:
    a, e = np.radians(positions.reshape(-1, 2)).T
    return np.stack([np.sin(a) * np.cos(e), np.cos(a) * np.cos(e), np.sin(e)], axis=1)


def spells(
    aimed: Aim, latitude_deg: float, longitude_deg: float, year: int, zone: tzinfo
) -> list[Spell]:
    """When in a year the real sun stands in the open region: one spell per day and stretch.

    Empty when it never does. Times carry the zone, so summer time is right.
    """
    if not len(aimed.open):
        return []
    start, path = year_of_sun(year, latitude_deg, longitude_deg)
    up = path[:, 2] > 0
    reach = 2 * np.sin(np.radians(max(_NEAR_DEG, 0.75 * aimed.spacing_deg)) / 2)
    apart, which = cKDTree(_vectors(aimed.open)).query(path[up], distance_upper_bound=reach)
    inside = np.isfinite(apart)
    index = np.nonzero(up)[0][inside]
    rank = which[inside]
    out: list[Spell] = []
    for run in np.split(np.arange(len(index)), np.nonzero(np.diff(index) > 1)[0] + 1):
        if not len(run):
            continue
        moments = [(start + YEAR_STEP * int(index[i])).astimezone(zone) for i in (run[0], run[-1])]
        best = (start + YEAR_STEP * int(index[run[int(rank[run].argmin())]])).astimezone(zone)
        out.append(Spell(best.date(), moments[0], moments[1] + YEAR_STEP / 2, best))
    return out


def nearest(
    aimed: Aim, latitude_deg: float, longitude_deg: float, year: int, zone: tzinfo
) -> tuple[datetime, float] | None:
    """When the real sun comes nearest to the open region and how far off, in degrees; None without."""
    if not len(aimed.open):
        return None
    start, path = year_of_sun(year, latitude_deg, longitude_deg)
    up = np.nonzero(path[:, 2] > 0)[0]
    if not len(up):
        return None
    apart, _ = cKDTree(_vectors(aimed.open)).query(path[up])
    i = int(apart.argmin())
    when = (start + YEAR_STEP * int(up[i])).astimezone(zone)
    return when, float(np.degrees(2 * np.arcsin(min(apart[i] / 2, 1.0))))


def opening_under(
    openings: Sequence[Portal], origin: Array, towards: Array, beyond_m: float
) -> Portal | None:
    """The nearest opening that a ray passes, not further than ``beyond_m``; None without one."""
    crossed = [(t, n) for n, o in enumerate(openings)
               if (t := _crossing(o, origin, towards)) is not None and t < beyond_m]  # fmt: skip
    return openings[min(crossed)[1]] if crossed else None


def _crossing(portal: Portal, origin: Array, towards: Array) -> float | None:
    """Metres along a ray to an opening it passes; None for one it does not."""
    across, up, inward = portal.axes()
    along = float(towards @ inward)
    if abs(along) < 1e-9:
        return None
    t = float((np.asarray(portal.position) - origin) @ inward) / along
    off = origin + t * towards - np.asarray(portal.position)
    inside = abs(off @ across) <= portal.width / 2 and abs(off @ up) <= portal.height / 2
    return t if t > 0 and inside else None


def hinge_of(openings: Sequence[Portal], point: npt.ArrayLike, way: npt.ArrayLike) -> Array:
    """The point (m) of the opening by which sunlight from a unit direction comes to a point; one up its ray
    where there is no opening.

    A sun that keeps this point while it moves carries the patch of light along; see `sun_by`.
    """
    at, towards = np.asarray(point, float), np.asarray(way, float)
    crossed = [t for o in openings if (t := _crossing(o, at, towards)) is not None]
    return np.asarray(at + min(crossed, default=_UP_THE_RAY_M) * towards)


def sun_by(
    hinge: npt.ArrayLike, point: npt.ArrayLike, north_deg: float = 0.0
) -> tuple[float, float] | None:
    """Azimuth from true north and elevation in degrees of a sun that lights a point through another (m);
    None for one below the horizon, or if both are one point."""
    way = np.asarray(hinge, float) - np.asarray(point, float)
    length = float(np.linalg.norm(way))
    if length < 1e-6:
        return None
    azimuth, elevation = positions_of(way / length, north_deg)[0]
    return (float(azimuth), float(elevation)) if elevation >= 0 else None
