"""Plan and section: the building cut by a plane, level or upright, seen from one side.

Triangles that cross the plane give segments; segments whose ends meet are chained to loops. Closed
loops are filled (even–odd), open chains stay lines. Parts beyond the cut are drawn by the hull
of what one sees of them.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
from scipy.spatial import ConvexHull, QhullError

from ..model import Model
from ..model.parts import box_corners, place

Array = npt.NDArray[np.float64]
#: Ends closer than this, in metres, are one point.
JOIN_M = 1e-4
#: Parts of more vertices are placed anew for each cut instead of being kept.
LARGE_PART = 1_000_000
#: Parts wider than this are ground or surroundings and not drawn below the cut.
WIDEST_BELOW_M = 30.0


#: Height of the usual cut of a ground floor, and how far below the eyes one is in a storey above, in metres.
GROUND_CUT_M, BELOW_EYES_M, GROUND_FLOOR_M = 1.2, 0.4, 3.0
#: Wider than this a drawing is that of a place, not of a building; what comes so near to the camera belongs to its building, but
#: for loops that are wider: those are ground or water. In metres.
PLACE_M, NEAR_M, WIDE_M = 60.0, 8.0, 40.0
#: A drawing is shown with some room around it.
ROOM_AROUND = 1.16


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


@dataclass(frozen=True)
class Shown:
    """The part of a drawing that is shown: its middle and its span, metres."""

    x: float
    y: float
    span: float


def usual_cut(eye_m: float) -> float:
    """Height in metres of the usual level cut through the storey that eyes at a height stand in: at the sills of a ground
    floor, and below the eyes in a storey above, to 5 cm."""
    if eye_m < GROUND_FLOOR_M:
        return GROUND_CUT_M
    return round((eye_m - BELOW_EYES_M) * 20) / 20


def shown_at_first(plan: Plan, eye: tuple[float, float]) -> Shown:
    """What of a drawing shows the building: all of it, of a whole place what is around the camera (metres in the drawing)."""
    low, high = np.array(plan.low), np.array(plan.high)
    if (high - low).max() > PLACE_M:
        boxes = [(loop.min(axis=0), loop.max(axis=0)) for loop in plan.filled]
        near = [(a, b) for a, b in boxes
                if (a < np.array(eye) + NEAR_M).all() and (b > np.array(eye) - NEAR_M).all() and (b - a).max() < WIDE_M]  # fmt: skip
        if near:
            low = np.min([a for a, _ in near], axis=0)
            high = np.max([b for _, b in near], axis=0)
    x, y = ((low + high) / 2).tolist()
    return Shown(x, y, float((high - low).max()) * ROOM_AROUND)


def section_frame(through: tuple[float, float], looking_deg: float) -> Array:
    """Matrix from the building to an upright cut: metres to the right of a point (x, y) and up, looking along an angle
    anticlockwise from x."""
    a = np.radians(looking_deg)
    forward = np.array([np.cos(a), np.sin(a), 0.0])
    frame = np.eye(4)
    frame[0, :3], frame[1, :3], frame[2, :3] = (forward[1], -forward[0], 0), (0, 0, 1), -forward
    frame[:3, 3] = -frame[:3, :3] @ [*through, 0.0]
    return frame


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


class Cutter:
    """Cuts of one model, level or upright; what is dear is kept, so that a cut can be dragged."""

    def __init__(self, model: Model) -> None:
        self._model = model
        self._parts = [p for p in model.parts if len(p.mesh.faces)]
        boxes: dict[int, Array] = {}
        for p in self._parts:
            v = p.mesh.vertices
            boxes.setdefault(id(p.mesh), box_corners(v.min(axis=0), v.max(axis=0)))
        self._corners = np.array([place(p.matrix, boxes[id(p.mesh)]) for p in self._parts])
        self._corners = self._corners.reshape(-1, 8, 3)
        self._world: dict[int, Array] = {}
        self._outlines: dict[tuple[int, bytes], Array | None] = {}

    def plan(self, height_m: float) -> Plan:
        """Cut at a height in metres, seen from above: x east, y north (of the model)."""
        frame = np.eye(4)
        frame[2, 3] = -height_m
        return self._cut(frame, height_m)

    def section(self, through: tuple[float, float], looking_deg: float) -> Plan:
        """Cut upright through a point (x, y), looking along an angle anticlockwise from x.

        Points are metres to the right of ``through`` and up; ``height_m`` is 0.
        """
        return self._cut(section_frame(through, looking_deg), 0.0)

    def _cut(self, frame: Array, height_m: float) -> Plan:
        filled: list[Array] = []
        lines: list[Array] = []
        below: list[Array] = []
        boxes: list[Array] = []
        reach = self._corners @ frame[:3, :3].T + frame[:3, 3]
        lows, highs = reach.min(axis=1), reach.max(axis=1)
        for i, (low, high) in enumerate(zip(lows, highs, strict=True)):
            narrow = max(high[:2] - low[:2]) < WIDEST_BELOW_M
            if low[2] < 0 < high[2]:
                loops, rest = chain(cut_segments(place(frame, self._crossing(i, frame)), 0.0))
                filled += loops
                lines += rest
                if narrow:
                    boxes.append(np.array([low[:2], high[:2]]))
            elif high[2] <= 0 and narrow:
                outline = self._outline(i, frame)
                if outline is not None:
                    below.append(outline)
                    boxes.append(np.array([low[:2], high[:2]]))
        low2, high2 = (
            _reach(boxes) if boxes else (lows[:, :2].min(axis=0), highs[:, :2].max(axis=0))
        )
        return Plan(
            height_m, filled, lines, below,
            (float(low2[0]), float(low2[1])), (float(high2[0]), float(high2[1])),
        )  # fmt: skip

    def _crossing(self, i: int, frame: Array) -> Array:
        """Corners in the world, (n, 3, 3), of a part's triangles that the plane of a frame meets."""
        faces, points = self._parts[i].mesh.faces, self._points(i)
        above = (points @ frame[2, :3] > -frame[2, 3])[faces]
        return points[faces[above.any(axis=1) & ~above.all(axis=1)]]

    def _points(self, i: int) -> Array:
        """A part's vertices in the world, (n, 3), kept while they are not many."""
        if i not in self._world:
            part = self._parts[i]
            made = place(part.matrix, part.mesh.vertices)
            if len(made) > LARGE_PART:
                return made
            self._world[i] = made
        return self._world[i]

    def _outline(self, i: int, frame: Array) -> Array | None:
        """Hull of a part as one sees it; the same for every cut that looks the same way."""
        key = (i, frame[:2, :3].round(4).tobytes())
        if key not in self._outlines:
            if len(self._outlines) > 20_000:
                self._outlines.clear()
            points = self._points(i) @ frame[:2, :3].T
            try:
                self._outlines[key] = points[ConvexHull(points).vertices]
            except (QhullError, ValueError):
                self._outlines[key] = None
        hull = self._outlines[key]
        return None if hull is None else hull + frame[:2, 3]


def cut_plan(model: Model, height_m: float = 1.2) -> Plan:
    """Cut a model at a height in metres and look down. Empty lists where nothing is met."""
    return Cutter(model).plan(height_m)


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
