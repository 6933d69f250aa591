"""Where plants stand that were painted, set in rows or put one by one.

Under a brush there is one place for a plant in each cell of a grid, moved within it by chance that depends on the seed and the cell
alone: the same strokes give the same garden, and a stroke here changes nothing there. Rays then find the ground, and what is
too near to a wall or a path is left out.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import astuple, dataclass
from itertools import pairwise
from typing import Any, Literal, NamedTuple

import numpy as np
import numpy.typing as npt

from ..transport.assemble import Assembled
from ..transport.surfaces import surfaces_along

Array = npt.NDArray[np.float64]
Rows = npt.NDArray[np.int64]
StrokeKind = Literal["brush", "erase", "row", "one"]
#: Plants of one planting at most; more are thinned.
MOST_PLANTS = 250_000
#: The ground is looked for from so far above the hand, and so far below it, in metres.
ABOVE_M, BELOW_M = 1.5, 3.0
#: Walls are looked for so high over the ground; within one, most ways end nearer than that.
LOW_M, WITHIN_M, MOST_WAYS = 0.15, 0.6, 6
#: What is steeper than this (cosine) is not the ground a hand painted on.
STEEPEST = 0.5
#: Largest turn of what hangs on a wall, either way, in radians.
ON_WALL_TURN = 0.6
_WAYS = np.array([[math.cos(a), math.sin(a)] for a in np.arange(8) * math.pi / 4])
#: Names of the surfaces under rows of `surfaces_along`, as numbers.
Surfaces = Callable[[npt.NDArray[np.float32]], Rows]


@dataclass(frozen=True)
class Stroke:
    """One stroke: points (metres), its reach, the surface it grows on by number (−1: any), and the normal it began on.

    A row has plants along its points, "one" has one at each; neither keeps off anything.
    """

    kind: StrokeKind
    points: tuple[tuple[float, float, float], ...]
    radius_m: float = 1.0
    on: int = -1
    normal: tuple[float, float, float] = (0.0, 0.0, 1.0)


@dataclass(frozen=True)
class Bed:
    """How the plants of a planting stand: number for each m² under a brush, metres apart in a row, size as a factor and how much it differs (0…1),
    how differently they are turned (0…1), how far they lean with the ground (0…1), metres kept off walls and edges."""

    seed: int = 1
    per_m2: float = 1.0
    apart_m: float = 1.0
    size: float = 1.0
    size_spread: float = 0.2
    turn_spread: float = 1.0
    slope: float = 0.0
    keep_off_m: float = 0.0
    on_walls: bool = False


class Planted(NamedTuple):
    """Where plants stand: 4×4 matrices (n, 4, 4), and the number of each one's variant (n,)."""

    matrices: Array
    variants: Rows


@dataclass(frozen=True)
class _Places:
    """Places before the ground is found: points, the way off it and level along it (n, 3), chance (n,), whether they were
    brushed, numbers of the surfaces they may stand on."""

    at: Array
    off: Array
    along: Array
    chance: npt.NDArray[np.uint64]
    brushed: npt.NDArray[np.bool_]
    on: Rows

    def only(self, which: npt.NDArray[Any]) -> _Places:
        """Some of them, by a mask or by rows."""
        return _Places(self.at[which], self.off[which], self.along[which], self.chance[which],
                       self.brushed[which], self.on[which])  # fmt: skip

    def and_new(self, more: _Places) -> _Places:
        """With those that are not there yet: chance names the cell of each."""
        new = more.only(~np.isin(more.chance, self.chance))
        pairs = zip(astuple(self), astuple(new), strict=True)
        return _Places(*(np.concatenate(pair) for pair in pairs))


def planted(
    ground: Assembled, surfaces: Surfaces, strokes: Sequence[Stroke], bed: Bed, variants: int
) -> Planted:
    """Where the plants of some strokes stand on what is built."""
    places = _after_erasing(strokes, bed)
    if len(places.at) > MOST_PLANTS:
        places = places.only(np.sort(np.argsort(places.chance, kind="stable")[:MOST_PLANTS]))
    hits = surfaces_along(ground, places.at + places.off * ABOVE_M, -places.off)
    normals = hits[:, 3:6].astype(float)
    good = hits[:, 6] < ABOVE_M + BELOW_M
    good &= (normals * places.off).sum(axis=1) > STEEPEST
    good &= (places.on < 0) | (surfaces(hits) == places.on)
    places, at, normals = places.only(good), hits[good, 0:3].astype(float), normals[good]
    if places.brushed.any():
        free = ~places.brushed
        free[places.brushed] = _free(ground, surfaces, places.only(places.brushed), at[places.brushed], bed)  # fmt: skip
        places, at, normals = places.only(free), at[free], normals[free]
    return Planted(
        _matrices(places, at, normals, bed),
        (_chance(places.chance, 5) * variants).astype(np.int64).clip(0, variants - 1),
    )


def _after_erasing(strokes: Sequence[Stroke], bed: Bed) -> _Places:
    """Places of all strokes, one after another: what is erased is gone until it is painted again."""
    found = _Places(np.zeros((0, 3)), np.zeros((0, 3)), np.zeros((0, 3)), np.zeros(0, np.uint64),
                    np.zeros(0, bool), np.zeros(0, np.int64))  # fmt: skip
    for number, stroke in enumerate(strokes):
        if stroke.kind == "erase":
            found = found.only(~_under(found.at, stroke))
            continue
        more = _brushed(stroke, bed) if stroke.kind == "brush" else _set(stroke, bed, number)
        found = found.and_new(more)
    return found


def _frame(stroke: Stroke, bed: Bed) -> tuple[Array, int]:
    """Axes of the plane a stroke lies in (rows: along, up or across, off), and a number for it."""
    x, y, _ = stroke.normal
    if not bed.on_walls or math.hypot(x, y) < 0.1:
        return np.eye(3), 0
    a = math.atan2(y, x)
    along = [-math.sin(a), math.cos(a), 0.0]
    return np.array([along, [0.0, 0.0, 1.0], [math.cos(a), math.sin(a), 0.0]]), 1 + round(math.degrees(a) / 5) % 72  # fmt: skip


def _brushed(stroke: Stroke, bed: Bed) -> _Places:
    """One place in each cell of the plane that a brush reaches."""
    axes, plane = _frame(stroke, bed)
    cell, reach = 1 / math.sqrt(max(bed.per_m2, 1e-6)), stroke.radius_m
    line = np.asarray(stroke.points, float) @ axes.T
    ends = list(pairwise(line)) or [(line[0], line[0])]
    keys: list[Array] = []
    for a, b in ends:
        low, high = np.minimum(a, b)[:2] - reach - cell, np.maximum(a, b)[:2] + reach + cell
        i = [np.arange(math.floor(low[k] / cell), math.floor(high[k] / cell) + 1) for k in (0, 1)]
        u, v = (g.ravel() for g in np.meshgrid(*i, indexing="ij"))
        chance = _mixed(bed.seed, plane, u, v)
        spot = np.stack([u + _chance(chance, 1), v + _chance(chance, 2)], axis=1) * cell
        t, apart = _along(spot, a[:2], b[:2])
        near = apart <= reach
        off = a[2] + t * (b[2] - a[2])
        # Two upper bits of a chance are never set: as a float it is a number, and comes back as it was.
        keys.append(np.column_stack([spot, off, chance.view(np.float64)])[near])
    found = np.concatenate(keys)
    chance, first = np.unique(np.ascontiguousarray(found[:, 3]).view(np.uint64), return_index=True)
    n = len(first)
    return _Places(found[first, :3] @ axes, np.tile(axes[2], (n, 1)), np.tile(axes[0], (n, 1)), chance,
                   np.ones(n, bool), np.full(n, stroke.on))  # fmt: skip


def _set(stroke: Stroke, bed: Bed, number: int) -> _Places:
    """Places along a row, or at each point."""
    axes, _ = _frame(stroke, bed)
    line = np.asarray(stroke.points, float)
    along = np.tile(axes[0], (len(line), 1))
    if stroke.kind == "row" and len(line) > 1:
        steps = np.diff(line, axis=0)
        length = np.linalg.norm(steps, axis=1)
        far = np.concatenate([[0.0], np.cumsum(length)])
        count = max(int(far[-1] / max(bed.apart_m, 0.01)) + 1, 1)
        at = (np.arange(min(count, MOST_PLANTS)) * bed.apart_m).clip(0, far[-1])
        piece = np.clip(np.searchsorted(far, at, "right") - 1, 0, len(length) - 1)
        share = (at - far[piece]) / np.maximum(length[piece], 1e-9)
        line = line[piece] + steps[piece] * share[:, None]
        along = steps[piece] / np.maximum(length[piece], 1e-9)[:, None]
    n = len(line)
    chance = _mixed(bed.seed, 100 + number, np.arange(n), np.zeros(n, np.int64))
    return _Places(line, np.tile(axes[2], (n, 1)), along, chance, np.zeros(n, bool), np.full(n, -1))  # fmt: skip


def _under(at: Array, stroke: Stroke) -> npt.NDArray[np.bool_]:
    """Which points a stroke reaches in space."""
    line = np.asarray(stroke.points, float)
    reached = np.zeros(len(at), bool)
    for a, b in pairwise(line) if len(line) > 1 else [(line[0], line[0])]:
        box = (at > np.minimum(a, b) - stroke.radius_m).all(axis=1) & (at < np.maximum(a, b) + stroke.radius_m).all(axis=1)  # fmt: skip
        reached[box] |= _along(at[box], a, b)[1] <= stroke.radius_m
    return reached


def _along(at: Array, a: Array, b: Array) -> tuple[Array, Array]:
    """Share along a piece of line that points (n, d) are nearest to, and how far they are from it."""
    d = b - a
    t = np.clip((at - a) @ d / max(float(d @ d), 1e-12), 0.0, 1.0)
    return t, np.linalg.norm(at - a - t[:, None] * d, axis=1)


def _free(ground: Assembled, surfaces: Surfaces, places: _Places, at: Array,
          bed: Bed) -> npt.NDArray[np.bool_]:  # fmt: skip
    """Which places are in no wall, and keep their distance to walls and to the edges of what they grow on."""
    across = np.cross(places.off, places.along)
    start = at + places.off * LOW_M
    free, inside = np.ones(len(at), bool), np.zeros(len(at), int)
    for x, y in _WAYS:
        way = places.along * x + across * y
        far = surfaces_along(ground, start, way)[:, 6]
        free &= far > bed.keep_off_m
        inside += far < WITHIN_M
    free &= inside < MOST_WAYS
    if bed.keep_off_m > 0:
        for x, y in _WAYS:
            beside = at + (places.along * x + across * y) * bed.keep_off_m
            hits = surfaces_along(ground, beside + places.off * ABOVE_M, -places.off)
            free &= (places.on < 0) | (surfaces(hits) == places.on)
    return free


def _matrices(places: _Places, at: Array, normals: Array, bed: Bed) -> Array:
    """Object-to-world matrices (n, 4, 4): turned about what is up, as far as the bed leans with the ground."""
    n = len(at)
    size = bed.size * (1 + bed.size_spread * (2 * _chance(places.chance, 3) - 1))
    chance = 2 * _chance(places.chance, 4) - 1
    m = np.tile(np.eye(4), (n, 1, 1))
    if bed.on_walls:
        turn = ON_WALL_TURN * bed.turn_spread * chance
        up = np.array([0.0, 0.0, 1.0]) - normals * normals[:, 2:3]
        up /= np.maximum(np.linalg.norm(up, axis=1, keepdims=True), 1e-9)
        side = np.cross(normals, up)
        z = up * np.cos(turn)[:, None] + side * np.sin(turn)[:, None]
        axes = [np.cross(normals, z), normals, z]
    else:
        up = places.off * (1 - bed.slope) + normals * bed.slope
        up /= np.maximum(np.linalg.norm(up, axis=1, keepdims=True), 1e-9)
        x = places.along - up * (places.along * up).sum(axis=1, keepdims=True)
        x /= np.maximum(np.linalg.norm(x, axis=1, keepdims=True), 1e-9)
        y = np.cross(up, x)
        turn = math.pi * bed.turn_spread * chance
        c, s = np.cos(turn)[:, None], np.sin(turn)[:, None]
        axes = [x * c + y * s, y * c - x * s, up]
    m[:, :3, :3] = np.stack(axes, axis=2) * size[:, None, None]
    m[:, :3, 3] = at
    return m


def _mixed(seed: int, plane: int, u: npt.ArrayLike, v: npt.ArrayLike) -> npt.NDArray[np.uint64]:
    """A number of 62 bits for each cell that looks like chance (the finisher of splitmix64, Steele et al. 2014)."""
    with np.errstate(over="ignore"):
        k = np.asarray(u, np.int64).astype(np.uint64) * np.uint64(0x9E3779B97F4A7C15)
        k ^= np.asarray(v, np.int64).astype(np.uint64) * np.uint64(0xC2B2AE3D27D4EB4F)
        k ^= np.uint64((seed * 0x165667B19E3779F9 + plane * 0x27D4EB2F165667C5) % 2**64)
        return _scrambled(k) >> np.uint64(2)


def _scrambled(k: npt.NDArray[np.uint64]) -> npt.NDArray[np.uint64]:
    with np.errstate(over="ignore"):
        k = (k ^ (k >> np.uint64(30))) * np.uint64(0xBF58476D1CE4E5B9)
        k = (k ^ (k >> np.uint64(27))) * np.uint64(0x94D049BB133111EB)
        return np.asarray(k ^ (k >> np.uint64(31)))


def _chance(key: npt.NDArray[np.uint64], which: int) -> Array:
    """A number 0…1 of a place; each ``which`` is another."""
    with np.errstate(over="ignore"):
        k = _scrambled(key + np.uint64(which) * np.uint64(0x9E3779B97F4A7C15))
    return np.asarray((k >> np.uint64(11)).astype(np.float64) / 2**53)
