"""Window portals: openings through which outside light is sampled, and what each place sees of them."""

from __future__ import annotations

from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field

import numpy as np
import numpy.typing as npt
from scipy.ndimage import maximum_filter

from ..errors import SourceError
from ..sources import axes_towards
from . import layout as L
from .embree import EmbreeScene, ray_buffer
from .skytables import map_directions

Array = npt.NDArray[np.float64]
Point = Sequence[float]
#: Cells per metre of the grid that remembers which portals can be seen, and most cells on a side.
CELLS_PER_M, MOST_CELLS = 1.0, 40
#: Parts a cell indoors is cut into along each side, and how many rays all of them may cost.
FINER, MOST_RAYS = 3, 4_000_000
#: How far from the portals the grid reaches, in metres.
REACH_M = 14.0
#: Rays from a cell to each portal, and to the sky; and from a part of one.
PROBES, FINE_PROBES = 12, 24
#: Least share of a portal in front of a place that sees any: what rays missed must still be found.
LEAST_SHARE = 0.02
#: Rays in each direction of a portal's map, and the least they are taken to have found open.
OUTSIDE_PROBES, LEAST_OPEN = 6, 0.05


@dataclass(frozen=True)
class Portal:
    """A rectangular opening: centre, direction into the room, width and height in metres.

    ``width`` runs horizontally (along x for one in a roof, turned by ``roll_deg``). ``gain``
    multiplies what comes through: a cheat. Raises `SourceError` without size or direction.
    """

    position: Point
    inward: Point
    width: float
    height: float
    gain: float = 1.0
    roll_deg: float = 0.0
    name: str = ""

    def __post_init__(self) -> None:
        """Check that it is an opening at all."""
        n = np.asarray(self.inward, float)
        if not np.isfinite(n).all() or not np.linalg.norm(n) > 0:
            raise SourceError(f"The portal “{self.name}” needs a direction into the room.")
        if not min(self.width, self.height) > 0:
            raise SourceError(f"The portal “{self.name}” needs a width and height above zero.")
        if not self.gain >= 0:
            raise SourceError(f"The portal “{self.name}” cannot have a negative gain.")

    def axes(self) -> tuple[Array, Array, Array]:
        """Unit width, height and inward directions."""
        return axes_towards(self.inward, self.roll_deg, f"portal {self.name}")


@dataclass
class PortalArrays:
    """Portals as the kernels read them, with the grid of what is seen from where."""

    floats: L.F4 = field(default_factory=lambda: np.zeros((0, L.PORTAL_FLOATS), np.float32))
    state: L.I8 = field(default_factory=lambda: np.zeros(5, np.int64))
    box: L.F4 = field(default_factory=lambda: np.zeros(4, np.float32))
    rows: L.I4 = field(default_factory=lambda: np.zeros(1, np.int32))
    cells: L.F4 = field(default_factory=lambda: np.zeros((1, 1), np.float32))
    axes: list[tuple[Array, Array, Array]] = field(default_factory=list)
    #: Of each portal and each cell of its map, how much of what lies there is open to the sky.
    outside: L.F4 = field(default_factory=lambda: np.zeros((0, L.MAP_SIDE, L.MAP_SIDE), np.float32))


def portal_arrays(portals: Sequence[Portal], closed: bool, top: EmbreeScene) -> PortalArrays:
    """Arrays of portals; the grid is found by tracing rays in the scene ``top``."""
    if not portals:
        return PortalArrays()
    floats = np.zeros((len(portals), L.PORTAL_FLOATS))
    axes: list[tuple[Array, Array, Array]] = []
    for i, p in enumerate(portals):
        u, v, n = p.axes()
        floats[i, 0:3] = np.asarray(p.position, float) - u * p.width / 2 - v * p.height / 2
        floats[i, 3:6], floats[i, 6:9], floats[i, 9:12] = u, v, n
        floats[i, L.P_WIDTH], floats[i, L.P_HEIGHT] = p.width, p.height
        floats[i, L.P_GAIN] = p.gain
        axes.append((u, v, n))
    arrays = PortalArrays(floats.astype(np.float32), axes=axes)
    arrays.outside = _open_outside(arrays, top)
    corners = floats[:, 0:3]
    ends = corners + floats[:, 3:6] * floats[:, 12:13] + floats[:, 6:9] * floats[:, 13:14]
    low = np.minimum(corners, ends).min(axis=0) - REACH_M
    high = np.maximum(corners, ends).max(axis=0) + REACH_M
    per_m = min(CELLS_PER_M, MOST_CELLS / float((high - low).max()))
    size = np.maximum(np.ceil((high - low) * per_m), 1).astype(int)
    arrays.box = np.array([*low, per_m], np.float32)
    gained = any(p.gain != 1.0 for p in portals)
    finer = _look_around(arrays, np.array([*low, per_m], np.float32), size, top)
    arrays.state = np.array([int(closed), int(gained), *(size * finer)], np.int64)
    arrays.box = np.array([*low, per_m * finer], np.float32)
    return arrays


def _open_outside(arrays: PortalArrays, top: EmbreeScene) -> L.F4:
    """How much of what lies in each direction outside each portal is open, (W, MAP_SIDE, MAP_SIDE).

    From places spread over the portal. Each cell counts like the most open one around it, and never
    less than `LEAST_OPEN`: what a few rays missed must still be found.
    """
    from .kernels.probe import probe_outside

    count = len(arrays.floats)
    seen = np.zeros((count, L.MAP_SIDE, L.MAP_SIDE), np.float32)

    def work(i: int) -> None:
        directions = map_directions(*arrays.axes[i]).astype(np.float32)
        probe_outside(
            np.uint64(top.handle), arrays.floats[i], directions, OUTSIDE_PROBES, seen[i], ray_buffer()
        )

    with ThreadPoolExecutor(2) as pool:
        list(pool.map(work, range(count)))
    return np.maximum(maximum_filter(seen, (1, 3, 3)), np.float32(LEAST_OPEN))


def axes_key(u: Array, v: Array, n: Array) -> bytes:
    """Key that portals with the same axes share."""
    return np.round(np.concatenate([u, v, n]), 6).tobytes()


def _look_around(
    arrays: PortalArrays, box: L.F4, size: npt.NDArray[np.int64], top: EmbreeScene
) -> int:
    """Set what each cell sees (``rows``, ``cells``); returns the parts a cell is cut into a side.

    Indoors, where furniture and roof timbers stand in the way of an opening, a cell of a metre says
    too little: those that see a portal and little sky are cut into parts and looked at again.
    """
    count = len(arrays.floats)
    every = np.arange(int(size.prod()))
    coarse = _probe(arrays, box, size, every, PROBES, top)
    grid = coarse.reshape(*size, -1)
    # A few rays miss thin views: neighbours lend a little of the portals they see. Not of the sky,
    # or the air outside would shine into every room.
    lent = grid.copy()
    for axis in range(3):
        for step in (1, -1):
            moved = np.roll(grid, step, axis=axis)
            edge: list[slice | int] = [slice(None)] * 3
            edge[axis] = 0 if step == 1 else -1
            moved[tuple(edge)] = 0.0
            np.maximum(lent, 0.25 * moved, out=lent)
    lent[..., _of_sky(count)] = grid[..., _of_sky(count)]
    coarse = lent.reshape(len(every), -1)
    any_seen = (coarse[:, :count] > 0).any(axis=1)
    inside = coarse[:, 2 * count + 1]
    indoors = np.flatnonzero(
        any_seen & ((coarse[:, count] < 0.5) | ((inside >= 0) & (inside < 0.5)))
    )
    finer = FINER
    while finer > 1 and len(indoors) * finer**3 * FINE_PROBES * (count + 1) > MOST_RAYS:
        finer -= 1
    if finer == 1:
        arrays.rows = every.astype(np.int32)
        arrays.cells = _with_least(arrays, coarse, _centres(every, size, box))
        return 1
    shape = size * finer
    parent = np.stack(np.unravel_index(indoors, tuple(size)), axis=1)
    part = np.stack(np.unravel_index(np.arange(finer**3), (finer,) * 3), axis=1)
    places = (parent[:, None] * finer + part).reshape(-1, 3)
    which = np.ravel_multi_index(tuple(places.T), tuple(shape))
    fine_box = np.array([*box[:3], box[3] * finer], np.float32)
    fine = _probe(arrays, fine_box, shape, which, FINE_PROBES, top)
    sky = fine[:, _of_sky(count)].copy()
    np.maximum(fine, 0.15 * np.repeat(coarse[indoors], finer**3, axis=0), out=fine)
    fine[:, _of_sky(count)] = sky
    rows = every.reshape(tuple(size)).astype(np.int32)
    for axis in range(3):
        rows = rows.repeat(finer, axis=axis)
    rows = rows.reshape(-1)
    rows[which] = len(every) + np.arange(len(which), dtype=np.int32)
    arrays.rows = rows
    centres = np.concatenate([_centres(every, size, box), _centres(which, shape, fine_box)])
    arrays.cells = _with_least(arrays, np.concatenate([coarse, fine]), centres)
    return finer


def _of_sky(count: int) -> list[int]:
    """Columns of what is seen that tell of the sky, which neighbours do not lend."""
    return [count, 2 * count + 1]


def _centres(which: npt.NDArray[np.int64], size: npt.NDArray[np.int64], box: L.F4) -> Array:
    """Centres (n, 3) of cells of a grid."""
    at = np.stack(np.unravel_index(which, tuple(size)), axis=1)
    return np.asarray(box[:3] + (at + 0.5) / box[3], float)


def _with_least(arrays: PortalArrays, seen: L.F4, centres: Array) -> L.F4:
    """Rows of what is seen: no portal in front of a place that sees another at nothing; and, last,
    whether a portal is as near as it is wide."""
    count = len(arrays.floats)
    close = np.zeros((len(seen), 1), np.float32)
    any_seen = (seen[:, :count] > 0).any(axis=1)
    for p, f in enumerate(arrays.floats.astype(float)):
        middle = f[0:3] + f[3:6] * f[L.P_WIDTH] / 2 + f[6:9] * f[L.P_HEIGHT] / 2
        to = middle - centres
        away, d2 = -(to @ f[9:12]), np.maximum((to**2).sum(axis=1), 1e-6)
        front = any_seen & (away > 0)
        angle = np.minimum(f[L.P_WIDTH] * f[L.P_HEIGHT] * away / d2**1.5, 2 * np.pi)
        seen[front, p] = np.maximum(seen[front, p], LEAST_SHARE)
        q = count + 1 + p
        seen[front, q] = np.maximum(seen[front, q], (LEAST_SHARE * angle[front]).astype(np.float32))
        beside = [
            np.maximum(np.abs(to @ f[3 * k + 3 : 3 * k + 6]) - f[L.P_WIDTH + k] / 2, 0)
            for k in (0, 1)
        ]
        near = np.sqrt(f[L.P_WIDTH] * f[L.P_HEIGHT])
        close[beside[0] ** 2 + beside[1] ** 2 + away**2 < near**2] = 1.0
    return np.ascontiguousarray(np.concatenate([seen, close], axis=1))


def _probe(
    arrays: PortalArrays,
    box: L.F4,
    size: npt.NDArray[np.int64],
    which: npt.NDArray[np.int64],
    probes: int,
    top: EmbreeScene,
) -> L.F4:
    """What some cells of a grid see, on two threads."""
    from .kernels.probe import probe_cells

    seen = np.zeros((len(which), 2 * len(arrays.floats) + 2), np.float32)

    def work(first: int) -> None:
        probe_cells(
            np.uint64(top.handle), arrays.floats, box, size.astype(np.int64),
            which.astype(np.int64), first, probes, seen, ray_buffer(),
        )  # fmt: skip

    with ThreadPoolExecutor(2) as pool:
        list(pool.map(work, (0, 1)))
    return seen
