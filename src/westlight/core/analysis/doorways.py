"""Finding doorways: holes in walls by which a room sees the open sky, though no pane stands in them.

From places in rooms rays look for the sky. Where some get away, the wall around is found by the
points other rays meet beside them, and the hole is measured by rays straight through that wall.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import numpy.typing as npt

from ..model.parts import Part, part_bounds
from ..transport.embree import EmbreeScene
from ..transport.portals import Portal
from .doubts import INSIDE_SHARE, LOOKS, evenly, leaving_by
from .openings import facing_room

Array = npt.NDArray[np.float64]
#: Places that are looked around from at most; rooms are found by their windows, else on a grid.
MOST_PLACES, GRID = 12, 5
#: Height of the eye, and how far a ray through the wall must come to be free, in metres.
EYE_M, THROUGH_M = 1.5, 0.9
#: Step by which a hole is measured, and the least and greatest side of one, in metres.
STEP_M, LEAST_M, GREATEST_M = 0.05, 0.4, 8.0
#: Cosine of the angle within which rays that leave belong to one hole.
_ONE_HOLE = 0.985


def find_doorways(
    parts: Sequence[Part], top: EmbreeScene, windows: Sequence[Portal]
) -> list[Portal]:
    """Portals for upright holes without panes, the largest first, facing into their room.

    ``top`` is the building as rays meet it, ``windows`` are openings that are known. A hole is told
    from the outdoors by what closes its room off: a place that sees much sky is in none.
    """
    found: list[Portal] = []
    for at in places_in_rooms(parts, top, windows):
        for hole in _holes_from(at, top, [*windows, *found]):
            if not any(same_hole(hole, other) for other in [*windows, *found]):
                found.append(hole)
    found.sort(key=lambda p: -p.width * p.height)
    return [Portal(p.position, p.inward, p.width, p.height, name=f"Doorway {i + 1}")
            for i, p in enumerate(found)]  # fmt: skip


def _reach(top: EmbreeScene, at: Array, way: Sequence[float] | Array) -> float:
    """Distance to what a ray from a point meets; infinite if nothing."""
    return float(top.distances(at[None], np.asarray(way, float)[None])[0])


def places_in_rooms(
    parts: Sequence[Part], top: EmbreeScene, windows: Sequence[Portal]
) -> list[Array]:
    """Places (3,) at eye height in rooms, in metres: before windows, or on a grid if there are none."""
    seeds = [np.asarray(p.position) + np.asarray(p.inward) for p in windows]
    if not seeds:
        boxes = [part_bounds(p) for p in parts if len(p.mesh.faces)]
        if not boxes:
            return []
        middles = np.array([(low + high) / 2 for low, high in boxes])
        low = np.min([b[0] for b in boxes], axis=0)
        x, y = (
            np.linspace(np.percentile(middles[:, k], 5), np.percentile(middles[:, k], 95), GRID)
            for k in (0, 1)
        )
        seeds = [np.array([a, b, low[2] + 2 * EYE_M]) for a in x for b in y]
    out: list[Array] = []
    for seed in seeds:
        drop = _reach(top, seed, (0, 0, -1))
        if not np.isfinite(drop) or not np.isfinite(_reach(top, seed, (0, 0, 1))):
            continue
        at = seed + np.array([0, 0, min(EYE_M, drop / 2) - drop])
        if all(np.linalg.norm(at - other) > 2.0 for other in out):
            out.append(at)
    return out[:MOST_PLACES]


def _holes_from(at: Array, top: EmbreeScene, known: Sequence[Portal]) -> list[Portal]:
    ways = evenly(LOOKS)
    distances = top.distances(np.broadcast_to(at, ways.shape), ways)
    gone = ~np.isfinite(distances)
    if float((~gone[ways[:, 2] > 0]).mean()) <= INSIDE_SHARE:
        return []
    free = ways[gone]
    for p in known:
        free = free[~leaving_by(p, at, free)]
    met, far = ways[~gone], distances[~gone]
    out = []
    while len(free) > 3:
        # Holes are taken one by one, beginning with where rays leave most densely.
        near = free @ free.T > _ONE_HOLE
        one = near[int(near.sum(axis=1).argmax())]
        hole = _measured(at, free[one], met, far, top)
        free = free[~leaving_by(hole, at, free) & ~one] if hole is not None else free[~one]
        if hole is not None:
            out.append(hole)
    return out


def _measured(at: Array, leaving: Array, met: Array, far: Array, top: EmbreeScene) -> Portal | None:
    """The hole by which a bundle of rays leaves a place; None if it is not one in an upright wall."""
    ahead = leaving.mean(axis=0)
    if np.hypot(*ahead[:2]) < 0.3:
        return None
    beside = ((met @ leaving.T).max(axis=1) > 0.94) & (np.abs(met[:, 2]) < 0.7)
    wall = _wall(at[:2] + met[beside, :2] * far[beside, None], ahead[:2])
    if wall is None:
        return None
    out, offset = wall
    n = np.array([out[0], out[1], 0.0])
    u = np.array([-out[1], out[0], 0.0])
    facing = leaving @ n
    t = (offset - at @ n) / np.where(facing > 0.05, facing, np.inf)
    t = t[t > 0]
    if not len(t):
        return None
    middle = np.median(at + leaving[facing > 0.05][: len(t)] * t[:, None], axis=0)
    inside = middle - n * 0.3
    floor, ceiling = _reach(top, inside, (0, 0, -1)), _reach(top, inside, (0, 0, 1))

    def passes(points: Array) -> npt.NDArray[np.bool_]:
        start = points - n * 0.1
        return np.asarray(top.distances(start, np.broadcast_to(n, start.shape)) > THROUGH_M)

    def extent(direction: Array, most: float) -> float:
        steps = np.arange(0.0, min(most, GREATEST_M), STEP_M)
        blocked = ~passes(middle + steps[:, None] * direction)
        if not blocked.any():
            return min(most, GREATEST_M)
        fine = steps[int(blocked.argmax())] + np.arange(-STEP_M, STEP_M / 20, STEP_M / 10)
        free = passes(middle + np.maximum(fine, 0)[:, None] * direction)
        return float(max(fine[free].max(), 0.0)) if free.any() else 0.0

    right, left = (extent(s * u, _reach(top, inside, s * u)) for s in (1, -1))
    middle = middle + u * (right - left) / 2
    up, down = extent(np.array([0, 0, 1.0]), ceiling), extent(np.array([0, 0, -1.0]), floor)
    width, height = right + left, up + down
    if not LEAST_M <= min(width, height) <= max(width, height) < GREATEST_M:
        return None
    middle = middle + np.array([0, 0, (up - down) / 2])
    x, y, z = (round(float(v), 3) for v in middle + n * 0.05)
    return facing_room(Portal((x, y, z), (-n[0], -n[1], 0.0), width, height), top)


def _wall(points: Array, ahead: Array) -> tuple[Array, float] | None:
    """Normal (away from the room) and offset of the upright plane that most points lie in."""
    if len(points) < 8:
        return None
    rng = np.random.default_rng(1)
    best, line = 0, None
    for i, j in rng.integers(0, len(points), (300, 2)):
        along = points[j] - points[i]
        length = float(np.hypot(*along))
        if length < 0.3:
            continue
        normal = np.array([along[1], -along[0]]) / length
        normal *= np.sign(normal @ ahead)
        if normal @ ahead < 0.25 * np.hypot(*ahead):
            continue
        offset = float(points[i] @ normal)
        count = int((np.abs(points @ normal - offset) < 0.04).sum())
        if count > best:
            best, line = count, (normal, offset)
    if line is None or best < 6:
        return None
    # The line of two points is as crooked as they are; that of all who lie on it is not.
    normal, offset = line
    for tolerance in (0.02, 0.005, 0.001):
        on = points[np.abs(points @ normal - offset) < tolerance]
        if len(on) < 6:
            break
        normal = np.linalg.svd(on - on.mean(axis=0), full_matrices=False)[2][1]
        normal = normal * np.sign(normal @ ahead)
        offset = float(on.mean(axis=0) @ normal)
    return normal, offset


def same_hole(a: Portal, b: Portal) -> bool:
    """Whether two openings are the same hole: parallel, near, and one's middle within the other."""
    u, v, n = b.axes()
    apart = np.asarray(a.position, float) - np.asarray(b.position, float)
    parallel = abs(float(np.asarray(a.inward, float) @ n)) > 0.9
    return bool(parallel and abs(apart @ n) < 0.7 and abs(apart @ u) < max(a.width, b.width) / 2
                and abs(apart @ v) < max(a.height, b.height) / 2)  # fmt: skip
