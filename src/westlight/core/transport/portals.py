"""Window portals: openings through which outside light is sampled, and what each place sees of them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np
import numpy.typing as npt

from ..errors import SourceError
from ..sources import axes_towards
from . import layout as L
from .embree import EmbreeScene, ray_buffer

Array = npt.NDArray[np.float64]
Point = Sequence[float]
#: Cells per metre of the grid that remembers which portals can be seen, and most cells on a side.
CELLS_PER_M, MOST_CELLS = 1.0, 40
#: How far from the portals the grid reaches, in metres.
REACH_M = 14.0
#: Rays from a cell to each portal, and to the sky.
PROBES = 12


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
    ints: L.I4 = field(default_factory=lambda: np.zeros(0, np.int32))
    state: L.I8 = field(default_factory=lambda: np.zeros(5, np.int64))
    box: L.F4 = field(default_factory=lambda: np.zeros(4, np.float32))
    cells: L.F4 = field(default_factory=lambda: np.zeros((1, 1), np.float32))
    axes: list[tuple[Array, Array, Array]] = field(default_factory=list)


def portal_arrays(portals: Sequence[Portal], closed: bool, top: EmbreeScene) -> PortalArrays:
    """Arrays of portals; the grid is found by tracing rays in the scene ``top``."""
    if not portals:
        return PortalArrays()
    floats = np.zeros((len(portals), L.PORTAL_FLOATS))
    ints = np.zeros(len(portals), np.int32)
    axes: list[tuple[Array, Array, Array]] = []
    known: dict[bytes, int] = {}
    for i, p in enumerate(portals):
        u, v, n = p.axes()
        floats[i, 0:3] = np.asarray(p.position, float) - u * p.width / 2 - v * p.height / 2
        floats[i, 3:6], floats[i, 6:9], floats[i, 9:12] = u, v, n
        floats[i, L.P_WIDTH], floats[i, L.P_HEIGHT] = p.width, p.height
        floats[i, L.P_GAIN] = p.gain
        key = axes_key(u, v, n)
        if key not in known:
            known[key] = len(axes)
            axes.append((u, v, n))
        ints[i] = known[key]
    arrays = PortalArrays(floats.astype(np.float32), ints, axes=axes)
    corners = floats[:, 0:3]
    ends = corners + floats[:, 3:6] * floats[:, 12:13] + floats[:, 6:9] * floats[:, 13:14]
    low = np.minimum(corners, ends).min(axis=0) - REACH_M
    high = np.maximum(corners, ends).max(axis=0) + REACH_M
    per_m = min(CELLS_PER_M, MOST_CELLS / float((high - low).max()))
    size = np.maximum(np.ceil((high - low) * per_m), 1).astype(int)
    arrays.box = np.array([*low, per_m], np.float32)
    gained = any(p.gain != 1.0 for p in portals)
    arrays.state = np.array([int(closed), int(gained), *size], np.int64)
    arrays.cells = _cells(arrays, size, top)
    return arrays


def axes_key(u: Array, v: Array, n: Array) -> bytes:
    """Key that portals with the same axes share."""
    return np.round(np.concatenate([u, v, n]), 6).tobytes()


def _cells(arrays: PortalArrays, size: npt.NDArray[np.int64], top: EmbreeScene) -> L.F4:
    """Share of each portal, and of the open sky, that is seen from each cell."""
    from .kernels.probe import probe_cells

    count = len(arrays.floats)
    seen = np.zeros((int(size.prod()), count + 1), np.float32)
    probe_cells(
        np.uint64(top.handle), arrays.floats, arrays.box, size.astype(np.int64), PROBES, seen,
        ray_buffer(),
    )  # fmt: skip
    grid = seen.reshape(*size, count + 1)
    # A few rays miss thin views: neighbours lend a little of the portals they see. Not of the sky,
    # or the air outside would shine into every room.
    lent = grid.copy()
    for axis in range(3):
        for step in (1, -1):
            moved = np.roll(grid, step, axis=axis)
            edge: list[slice | int] = [slice(None)] * 3
            edge[axis] = 0 if step == 1 else -1
            moved[tuple(edge)] = 0.0
            moved[..., -1] = 0.0
            np.maximum(lent, 0.25 * moved, out=lent)
    return np.ascontiguousarray(lent.reshape(-1, count + 1))
