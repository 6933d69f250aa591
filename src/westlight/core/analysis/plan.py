"""The plan: the building cut by a level plane, seen from above.

Triangles that cross the plane give segments; segments whose ends meet are chained to loops. Closed
loops are filled (even–odd), open chains stay lines. Parts below the cut are drawn by the hull of
what one sees of them from above.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
from scipy.spatial import ConvexHull, QhullError

from ..model import Model
from ..model.parts import Part, part_bounds, place

Array = npt.NDArray[np.float64]
#: Ends closer than this, in metres, are one point.
JOIN_M = 1e-4
#: Parts wider than this are ground or surroundings and not drawn below the cut.
WIDEST_BELOW_M = 30.0


@dataclass(frozen=True)
class Plan:
    """A cut at ``height_m``: loops and lines of points (n, 2) in metres, x east, y north.

    ``filled`` are closed loops of cut solids, ``open`` cut sheets such as panes, ``below`` outlines
    of parts under the cut. ``low`` and ``high`` bound what is cut.
    """

    height_m: float
    filled: list[Array]
    open: list[Array]
    below: list[Array]
    low: tuple[float, float]
    high: tuple[float, float]


def cut_segments(corners: Array, height: float) -> Array:
    """Segments (k, 2, 2) where triangles (n, 3, 3) cross the plane z = ``height``."""
    above = corners[..., 2] > height
    crossing = above.any(axis=1) & ~above.all(axis=1)
    t, up = corners[crossing], above[crossing]
    # The odd corner is alone on its side; both its edges cross.
    odd = np.where(up.sum(axis=1) == 1, up.argmax(axis=1), (~up).argmax(axis=1))
    rows = np.arange(len(t))
    a = t[rows, odd]
    ends = []
    for step in (1, 2):
        b = t[rows, (odd + step) % 3]
        s = (height - a[:, 2]) / (b[:, 2] - a[:, 2])
        ends.append(a[:, :2] + (b - a)[:, :2] * s[:, None])
    return np.stack(ends, axis=1) if len(t) else np.zeros((0, 2, 2))


def chain(segments: Array) -> tuple[list[Array], list[Array]]:
    """Closed loops and open lines made of segments (k, 2, 2) whose ends meet."""
    lengths = np.linalg.norm(segments[:, 0] - segments[:, 1], axis=1)
    segments = segments[lengths > JOIN_M]
    keys = np.round(segments / JOIN_M).astype(np.int64)
    at: dict[tuple[int, int], list[int]] = {}
    for i, (p, q) in enumerate(keys):
        at.setdefault((int(p[0]), int(p[1])), []).append(i)
        at.setdefault((int(q[0]), int(q[1])), []).append(i)
    used = np.zeros(len(segments), bool)
    closed: list[Array] = []
    lines: list[Array] = []
    for first in range(len(segments)):
        if used[first]:
            continue
        used[first] = True
        points = [segments[first, 0], segments[first, 1]]
        start, end = (tuple(int(v) for v in k) for k in keys[first])
        while end != start:
            following = next((i for i in at[end] if not used[i]), None)  # type: ignore[index]
            if following is None:
                break
            used[following] = True
            side = 0 if tuple(int(v) for v in keys[following, 1]) == end else 1
            points.append(segments[following, side])
            end = tuple(int(v) for v in keys[following, side])
        (closed if end == start else lines).append(simplified(np.array(points)))
    return closed, lines


def simplified(points: Array) -> Array:
    """Points without those that lie straight between their neighbours."""
    if len(points) < 4:
        return points
    before, after = points[1:-1] - points[:-2], points[2:] - points[1:-1]
    turn = before[:, 0] * after[:, 1] - before[:, 1] * after[:, 0]
    size = np.linalg.norm(before, axis=1) * np.linalg.norm(after, axis=1)
    keep = np.abs(turn) > 1e-4 * np.maximum(size, 1e-12)
    return points[np.concatenate([[True], keep, [True]])]


def _outline(part: Part) -> Array | None:
    points = place(part.matrix, part.mesh.vertices)[:, :2]
    try:
        return points[ConvexHull(points).vertices]
    except (QhullError, ValueError):
        return None


def cut_plan(model: Model, height_m: float = 1.2) -> Plan:
    """Cut a model at a height in metres and look down. Empty lists where nothing is met."""
    filled: list[Array] = []
    lines: list[Array] = []
    below: list[Array] = []
    boxes: list[Array] = []
    for part in model.parts:
        if not len(part.mesh.faces):
            continue
        low, high = part_bounds(part)
        if low[2] < height_m < high[2]:
            corners = place(part.matrix, part.mesh.vertices)[part.mesh.faces]
            loops, rest = chain(cut_segments(corners, height_m))
            filled += loops
            lines += rest
            if max(high[:2] - low[:2]) < WIDEST_BELOW_M:
                boxes.append(np.array([low[:2], high[:2]]))
        elif high[2] <= height_m and max(high[:2] - low[:2]) < WIDEST_BELOW_M:
            outline = _outline(part)
            if outline is not None:
                below.append(outline)
                boxes.append(np.array([low[:2], high[:2]]))
    low2, high2 = _reach(boxes) if boxes else (model.bounds()[0][:2], model.bounds()[1][:2])
    return Plan(
        height_m, filled, lines, below,
        (float(low2[0]), float(low2[1])), (float(high2[0]), float(high2[1])),
    )  # fmt: skip


def _reach(boxes: list[Array]) -> tuple[Array, Array]:
    """Corners of the building itself: where most parts are, with every part that touches there.

    Neighbours are few and far, furniture is plentiful and near: so the middle of the
    parts' centres marks the building.
    """
    all_boxes = np.array(boxes)
    centres = all_boxes.mean(axis=1)
    low, high = np.percentile(centres, [15, 85], axis=0)
    touching = (all_boxes[:, 0] <= high).all(axis=1) & (all_boxes[:, 1] >= low).all(axis=1)
    chosen = all_boxes[touching] if touching.any() else all_boxes
    return chosen[:, 0].min(axis=0), chosen[:, 1].max(axis=0)
