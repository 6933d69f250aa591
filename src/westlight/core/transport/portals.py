"""Window portals: openings through which outside light is sampled, and what each place sees of them."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field

import numpy as np
import numpy.typing as npt
from scipy.ndimage import binary_dilation, maximum_filter

from ..errors import SourceError
from ..remembered import key_of, remembered
from ..sources import axes_towards
from . import layout as L
from .embree import EmbreeScene, ray_buffer
from .skytables import map_directions

Array = npt.NDArray[np.float64]
Point = Sequence[float]
#: Cells per metre of the grid that remembers which portals can be seen, and most cells on a side.
CELLS_PER_M, MOST_CELLS = 1.0, 40
#: Parts a cell indoors is cut into along each side.
FINER = 3
#: Counts the ways in which cells were looked at: what was found in an earlier one is not what is found now.
_WAY = 2
#: How far from the portals the grid reaches, in metres.
REACH_M = 14.0
#: Rays from a cell to each portal, and to the sky, to find where it is; to each pane; and all around,
#: to find the surfaces that will read it.
PROBES, FINE_PROBES, MARKING = 8, 8, 8
#: Side of a pane in metres, and most panes.
PANE_M, MOST_PANES = 1.2, 64
#: Rays in each direction of a portal's map, and the least they are taken to have found open.
OUTSIDE_PROBES, LEAST_OPEN = 6, 0.03


#: Least cosine with which a pane counts for a face; a little of it for what lies just behind, since
#: surfaces lean. Behind `_BACK` (120°, and half a cell of the sky) none can see it.
_FLAT, _BEHIND, _BACK = 0.08, 0.04, -0.57

#: What is found by looking around portals.
_FOUND = ("outside", "rows", "boxes", "bits", "cells")


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
    ints: L.I4 = field(default_factory=lambda: np.zeros((0, L.PORTAL_INTS), np.int32))
    #: Panes (K, 5): portal, from and to along its width and its height in metres.
    panes: L.F4 = field(default_factory=lambda: np.zeros((1, 5), np.float32))
    state: L.I8 = field(default_factory=lambda: np.zeros(5, np.int64))
    box: L.F4 = field(default_factory=lambda: np.zeros(4, np.float32))
    rows: L.I4 = field(default_factory=lambda: np.zeros(1, np.int32))
    cells: L.F4 = field(default_factory=lambda: np.zeros((1, L.CELL_COLUMNS), np.float32))
    #: Lower corner and edge of each cell (C, 4), and which rays got out through each pane (C, K), see
    #: `weigh_panes`.
    boxes: L.F4 = field(default_factory=lambda: np.zeros((0, 4), np.float32))
    bits: npt.NDArray[np.uint16] = field(default_factory=lambda: np.zeros((0, 1), np.uint16))
    axes: list[tuple[Array, Array, Array]] = field(default_factory=list)
    #: Of each portal and each cell of its map, a weight by how much of what lies there is open.
    outside: L.F4 = field(default_factory=lambda: np.zeros((0, L.MAP_SIDE, L.MAP_SIDE), np.float32))
    #: What cells see through panes, once a sky was weighed by it.
    _through: _Through | None = field(default=None, init=False, repr=False)

    def weighed(self, sky: Array) -> tuple[L.F4, L.F4]:
        """What cells expect through panes under a sky of mean luminances (rows of equal height, columns).

        The total of each way to face (C · FACES,) in lux, and shares of panes in it, summed up
        (C · FACES, K).
        """
        from .kernels.probe import weigh_panes

        count = len(self.boxes)
        totals = np.zeros((count, L.FACES), np.float32)
        chances = np.zeros((count, L.FACES, len(self.panes)), np.float32)
        if count and sky.any():
            if self._through is None or self._through.shape != sky.shape:
                self._through = self._looked_through(*sky.shape)
            through = self._through
            squares = np.square(sky, dtype=np.float32).reshape(-1)

            def work(first: int) -> None:
                weigh_panes(
                    self.bits, first, FINE_PROBES, through.firsts, through.cells, through.weights,
                    squares, through.facing, totals, chances,
                )  # fmt: skip

            _on_two_threads(work)
        return totals.reshape(-1), chances.reshape(-1, len(self.panes))

    def _looked_through(self, height: int, width: int) -> _Through:
        """Where cells look through panes, in a sky of so many rows and columns."""
        from .kernels.probe import look_through

        entries = np.where(self.bits & 255 != 0, FINE_PROBES, 1).sum(axis=1)
        firsts = np.concatenate([[0], np.cumsum(entries)]).astype(np.int64)
        cells, weights = np.zeros(firsts[-1], np.uint16), np.zeros(firsts[-1], np.float32)

        def work(first: int) -> None:
            look_through(
                self.floats, self.panes, self.boxes, first, self.bits, firsts,
                (FINE_PROBES, height, width), cells, weights, np.zeros((2, len(self.floats)), np.int64),
            )  # fmt: skip

        _on_two_threads(work)
        return _Through((height, width), firsts, cells, weights, _facing(height, width))


@dataclass(frozen=True)
class _Through:
    """What is seen of a sky of some rows and columns through panes: see `look_through` and `weigh_panes`."""

    shape: tuple[int, int]
    firsts: L.I8
    cells: npt.NDArray[np.uint16]
    weights: L.F4
    facing: L.F4


def _facing(height: int, width: int) -> L.F4:
    """Squared cosines (H · W, 6) that count for light from each cell of a sky on surfaces along ±x, ±y, ±z."""
    z = np.repeat(1 - 2 * (np.arange(height) + 0.5) / height, width)
    azimuth = np.tile(2 * np.pi * (np.arange(width) + 0.5) / width, height)
    flat = np.sqrt(1 - z * z)
    way = np.stack([flat * np.sin(azimuth), flat * np.cos(azimuth), z], axis=1)
    cosine = np.stack([way, -way], axis=2).reshape(-1, 6)
    behind = np.where(cosine > _BACK, _BEHIND, 0.0)
    return np.square(np.where(cosine > 0, np.maximum(cosine, _FLAT), behind)).astype(np.float32)


def portal_arrays(
    portals: Sequence[Portal],
    closed: bool,
    top: EmbreeScene,
    turns: tuple[L.I8, L.F4],
    of: str = "",
) -> PortalArrays:
    """Arrays of portals; the grid is found by tracing rays in the scene ``top``.

    ``of`` is a key of all that stands in it: what was found there before need not be looked for again.
    ``turns``: first instances of its geometries (G,), and what turns normals of instances (I, 3, 3).
    """
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
    ints, panes = _panes(portals)
    arrays = PortalArrays(floats.astype(np.float32), ints, panes, axes=axes)
    corners = floats[:, 0:3]
    ends = corners + floats[:, 3:6] * floats[:, 12:13] + floats[:, 6:9] * floats[:, 13:14]
    low = np.minimum(corners, ends).min(axis=0) - REACH_M
    high = np.maximum(corners, ends).max(axis=0) + REACH_M
    per_m = min(CELLS_PER_M, MOST_CELLS / float((high - low).max()))
    size = np.maximum(np.ceil((high - low) * per_m), 1).astype(int)
    gained = any(p.gain != 1.0 for p in portals)

    def found() -> dict[str, npt.NDArray[np.generic]]:
        arrays.outside = _open_outside(arrays, top)
        _look_around(arrays, np.array([*low, per_m]), size, top, turns)
        return {name: getattr(arrays, name) for name in _FOUND}

    if of:
        settings = (_WAY, PROBES, FINE_PROBES, MARKING, OUTSIDE_PROBES, FINER, L.MAP_SIDE)
        key = key_of(of, arrays.floats, arrays.ints, panes, settings)
        for name, values in remembered("portals", key, found).items():
            setattr(arrays, name, values)
    else:
        found()
    arrays.state = np.array([int(closed), int(gained), *(size * FINER)], np.int64)
    arrays.box = np.array([*low, per_m * FINER], np.float32)
    return arrays


def axes_key(u: Array, v: Array, n: Array) -> bytes:
    """Key that portals with the same axes share."""
    return np.round(np.concatenate([u, v, n]), 6).tobytes()


def _on_two_threads(work: Callable[[int], None], parts: int = 2) -> None:
    with ThreadPoolExecutor(2) as pool:
        list(pool.map(work, range(parts)))


def _panes(portals: Sequence[Portal]) -> tuple[L.I4, L.F4]:
    """Portals cut into panes: columns W_* of each portal, and the rows of the panes."""
    side = PANE_M
    while True:
        cuts = [(max(round(p.width / side), 1), max(round(p.height / side), 1)) for p in portals]
        if sum(a * b for a, b in cuts) <= max(MOST_PANES, len(portals)):
            break
        side *= 1.15
    ints = np.zeros((len(portals), L.PORTAL_INTS), np.int32)
    panes: list[tuple[float, ...]] = []
    for p, (portal, (across, up)) in enumerate(zip(portals, cuts, strict=True)):
        ints[p] = len(panes), across, up
        wide, high = portal.width / across, portal.height / up
        panes += [
            (p, i * wide, (i + 1) * wide, j * high, (j + 1) * high)
            for j in range(up)
            for i in range(across)
        ]
    return ints, np.array(panes, np.float32)


def _open_outside(arrays: PortalArrays, top: EmbreeScene) -> L.F4:
    """Weight of each direction outside each portal by how open it is, (W, MAP_SIDE, MAP_SIDE).

    From places spread over the portal. Each cell counts like the most open one around it, and never
    less than `LEAST_OPEN`: what a few rays missed must still be found.
    """
    from .kernels.probe import probe_outside

    count = len(arrays.floats)
    seen = np.zeros((count, L.MAP_SIDE, L.MAP_SIDE), np.float32)

    def work(i: int) -> None:
        directions = map_directions(*arrays.axes[i]).astype(np.float32)
        probe_outside(
            np.uint64(top.handle),
            arrays.floats[i],
            directions,
            OUTSIDE_PROBES,
            seen[i],
            ray_buffer(),
        )

    _on_two_threads(work, count)
    # The root: a way that is seldom open is worth more than it brings on average.
    return np.sqrt(np.maximum(maximum_filter(seen, (1, 3, 3)), np.float32(LEAST_OPEN)))


def _indoors(
    arrays: PortalArrays, boxes: L.F4, size: npt.NDArray[np.int64], top: EmbreeScene
) -> tuple[npt.NDArray[np.int64], npt.NDArray[np.bool_]]:
    """Cells that see a portal and little sky, or that a wall cuts, and the portals (n, W) each may see."""
    whole = np.array(
        [(p, 0, f[L.P_WIDTH], 0, f[L.P_HEIGHT]) for p, f in enumerate(arrays.floats)], np.float32
    )
    every = np.ones((len(boxes), len(arrays.floats)), bool)
    views, seen = _probe(arrays.floats, whole, boxes, every, PROBES, top)
    # The neighbours of a cell that sees a portal may see it, too: a few rays miss thin views.
    may = binary_dilation(views.reshape(*size, -1) > 0, np.ones((3, 3, 3, 1))).reshape(every.shape)
    sees = binary_dilation(seen[:, 0].reshape(size) > 0).reshape(-1)
    worth = may.any(axis=1)
    inside = worth & ((sees & (seen[:, 1] < 0.5)) | _from_inside(seen))
    # Of a cell that mostly lies beyond a wall the probes may all miss the slice that is indoors: beside cells that are
    # indoors its parts are looked at one by one.
    beside = binary_dilation(inside.reshape(size), np.ones((3, 3, 3))).reshape(-1) & worth & ~inside
    doubtful = np.flatnonzero(beside)
    part = np.stack(np.unravel_index(np.arange(FINER**3), (FINER,) * 3), axis=1)
    edge = boxes[doubtful, 3].repeat(FINER**3) / FINER
    corners = boxes[doubtful, None, :3] + part * (boxes[doubtful, 3] / FINER)[:, None, None]
    parts = np.column_stack([corners.reshape(-1, 3), edge]).astype(np.float32)
    _, found = _probe(arrays.floats, whole, parts, may[doubtful].repeat(FINER**3, 0), PROBES, top)
    inside[doubtful] = _from_inside(found).reshape(-1, FINER**3).any(axis=1)
    chosen = np.flatnonzero(inside)
    return chosen, may[chosen]


def _from_inside(seen: L.F4) -> npt.NDArray[np.bool_]:
    """Whether cells have places that see a portal and little of the sky otherwise; columns of `probe_cells`."""
    return np.asarray((seen[:, 2] >= 0) & (seen[:, 2] < 0.5))


def _look_around(
    arrays: PortalArrays,
    box: Array,
    size: npt.NDArray[np.int64],
    top: EmbreeScene,
    turns: tuple[L.I8, L.F4],
) -> None:
    """Set what each cell sees: ``rows``, ``cells``, ``boxes``, ``bits``.

    Only cells indoors have rows. Where furniture and roof timbers stand in the way of an opening, a cell
    of a metre says too little: its parts have rows of their own where surfaces will read them.
    """
    boxes = _boxes(np.arange(int(size.prod())), size, box, 1)
    indoors, may = _indoors(arrays, boxes, size, top)
    shape = size * FINER
    parent = np.stack(np.unravel_index(indoors, tuple(size)), axis=1)
    part = np.stack(np.unravel_index(np.arange(FINER**3), (FINER,) * 3), axis=1)
    places = (parent[:, None] * FINER + part).reshape(-1, 3)
    parts = np.ravel_multi_index(tuple(places.T), tuple(shape))
    asked = _asked(_boxes(parts, shape, box, FINER), box[:3], shape, turns, top)[parts]
    rows = np.full(int(shape.prod()), -1, np.int32)
    rows[parts] = np.repeat(np.arange(len(indoors), dtype=np.int32), FINER**3)
    rows[parts[asked]] = len(indoors) + np.arange(int(asked.sum()), dtype=np.int32)
    arrays.rows = rows
    arrays.boxes = np.concatenate([boxes[indoors], _boxes(parts[asked], shape, box, FINER)])
    may = np.concatenate([may, np.repeat(may, FINER**3, axis=0)[asked]])
    bits, found = _probe(arrays.floats, arrays.panes, arrays.boxes, may, FINE_PROBES, top)
    at = np.concatenate([parent * FINER + FINER // 2, places[asked]])
    arrays.bits = _with_beside(bits, at, rows.reshape(shape))
    near = _is_near(arrays)[:, None].astype(np.float32)
    arrays.cells = np.ascontiguousarray(np.concatenate([found[:, 1:], near], axis=1))


def _with_beside(
    bits: npt.NDArray[np.uint16], places: npt.NDArray[np.int64], rows: npt.NDArray[np.int32]
) -> npt.NDArray[np.uint16]:
    """Bits (C, K) of cells at ``places`` (C, 3) of a grid, and above them the most of a cell beside."""
    counts = np.bitwise_count(bits).astype(np.uint16)
    most = np.zeros_like(counts)
    for axis in range(3):
        for step in (1, -1):
            at = places.copy()
            at[:, axis] = np.clip(at[:, axis] + step, 0, rows.shape[axis] - 1)
            beside = rows[tuple(at.T)]
            known = beside >= 0
            most[known] = np.maximum(most[known], counts[beside[known]])
    return np.asarray(bits | (most << 8), np.uint16)


def _asked(
    boxes: L.F4,
    low: Array,
    shape: npt.NDArray[np.int64],
    turns: tuple[L.I8, L.F4],
    top: EmbreeScene,
) -> npt.NDArray[np.bool_]:
    """Which cells of a grid (X·Y·Z,) surfaces around ``boxes`` will read."""
    from .kernels.probe import mark_cells

    asked = np.zeros(int(shape.prod()), bool)
    scene, corner = np.uint64(top.handle), low.astype(np.float32)

    def work(first: int) -> None:
        mark_cells(scene, *turns, boxes, corner, shape, first, MARKING, asked, ray_buffer())

    _on_two_threads(work)
    return asked


def _boxes(
    which: npt.NDArray[np.int64], size: npt.NDArray[np.int64], box: Array, finer: int
) -> L.F4:
    """Lower corners and edges (n, 4) of cells of a grid."""
    at = np.stack(np.unravel_index(which, tuple(size)), axis=1)
    edge = 1.0 / (box[3] * finer)
    corners = box[:3] + at * edge
    return np.concatenate([corners, np.full((len(at), 1), edge)], axis=1).astype(np.float32)


def _is_near(arrays: PortalArrays) -> npt.NDArray[np.bool_]:
    """Whether each cell is as near to a portal as its panes are wide."""
    centres = arrays.boxes[:, :3].astype(float) + arrays.boxes[:, 3:] / 2
    near = np.zeros(len(centres), bool)
    for f, n in zip(arrays.floats.astype(float), arrays.ints, strict=True):
        middle = f[0:3] + f[3:6] * f[L.P_WIDTH] / 2 + f[6:9] * f[L.P_HEIGHT] / 2
        to = middle - centres
        away = to @ f[9:12]
        beside = [
            np.maximum(np.abs(to @ f[3 * k + 3 : 3 * k + 6]) - f[L.P_WIDTH + k] / 2, 0)
            for k in (0, 1)
        ]
        pane = f[L.P_WIDTH] * f[L.P_HEIGHT] / (n[L.W_ACROSS] * n[L.W_UP])
        near |= beside[0] ** 2 + beside[1] ** 2 + away**2 < pane
    return near


def _probe(
    floats: L.F4,
    panes: L.F4,
    boxes: L.F4,
    may: npt.NDArray[np.bool_],
    probes: int,
    top: EmbreeScene,
) -> tuple[npt.NDArray[np.uint16], L.F4]:
    """What some cells see, on two threads: see `probe_cells`."""
    from .kernels.probe import probe_cells

    seen = np.zeros((len(boxes), 3), np.float32)
    bits = np.zeros((len(boxes), len(panes)), np.uint16)
    scene = np.uint64(top.handle)

    def work(first: int) -> None:
        probe_cells(scene, floats, panes, boxes, may, first, probes, bits, seen, ray_buffer())

    _on_two_threads(work)
    return bits, seen
