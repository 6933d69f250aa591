"""Where one would stand to look at a building that is seen for the first time: in its best room, windows in view.

And for which suns that view shows sunlight: where a ray against the sun comes in by an opening and falls on what the
camera sees.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
from scipy.ndimage import binary_dilation

from ..model.parts import Part, place
from ..sun import direction
from ..transport.embree import EmbreeScene
from ..transport.portals import Portal
from ..view import FILM_WIDTH_MM
from .doorways import EYE_M, find_doorways, places_in_rooms
from .doubts import evenly, leaving_by
from .openings import find_openings

Array = npt.NDArray[np.float64]
#: The lens of a first view, and its sides, in mm.
LENS_MM, SENSOR_MM = 24.0, (FILM_WIDTH_MM, FILM_WIDTH_MM * 9 / 16)
#: Rooms that are looked at closely, the largest; directions in which one steps back in each, and looks from there.
ROOMS, STEPS, HEADINGS = 3, 12, 16
#: Of the upper half so much must be closed off, though walls may be left out of a model to look in.
ENCLOSED = 0.4
#: Of a low room the eye is at this share of the height.
EYE_SHARE = 0.6
#: Room that a camera keeps to walls, and what is farther than this counts no more, in metres.
FREE_M, FAR_M = 0.6, 12.0
#: What fills much of a picture nearer than this hides it, or stands close, in metres.
NEAR_M, CLOSE_M = 0.9, 1.8
#: Share of a picture that windows fill in a good view, at least and at most.
WINDOWS = (0.03, 0.3)
#: Rays across and down a picture that tell what is in it; places across and down an opening that the sun may come by.
GRID, PLACES = (24, 14), 4
#: Along a row of rays over a plane the inverse of depth grows evenly; where it turns by more than this share, something
#: begins or ends. So much of a picture full of such places is as good as windows in it.
KINK, FULL = 0.1, 0.2
#: Views that are offered at most; nearer than this in metres and cosine two are the same.
OFFERED, SAME_M, SAME_COS = 8, 1.5, 0.8
#: Azimuths and elevations in degrees of suns that are tried, openings that they may come by.
AZIMUTHS, ELEVATIONS, OPENINGS = tuple(range(0, 360, 10)), (8, 16, 24, 32, 42, 54), 40


@dataclass(frozen=True)
class Standpoint:
    """A camera in a room, position and target in metres, and suns that shine into its view.

    ``suns`` are azimuth from the model's y axis, clockwise, and elevation in degrees, with the area of sun that falls into the
    picture by them in m²; ``worth`` tells how good the view is without it, a window in the picture being 1.
    """

    position: tuple[float, float, float]
    target: tuple[float, float, float]
    worth: float
    suns: tuple[tuple[float, float, float], ...]


def standpoints(parts: Sequence[Part]) -> list[Standpoint]:
    """Where to look at a building from, the best place first; none if it has no room that one could stand in."""
    top = _scene(parts)
    if top is None:
        return []
    # Doorways take their time to find, and are seldom what lights a room that has windows.
    openings = find_openings(parts, top) or find_doorways(parts, top, [])
    inward = [p.axes()[2] for p in openings]
    views: list[tuple[float, Array, Array]] = []
    # Rooms are known by their windows; where that leads to none, they are looked for all over.
    rooms = _rooms(parts, top, openings) or _rooms(parts, top, [])
    for at in rooms:
        for eye in _places_to_stand(top, at):
            for heading in np.arange(HEADINGS) * 2 * np.pi / HEADINGS:
                look = np.array([np.sin(heading), np.cos(heading), 0.0])
                views.append((_worth(top, eye, look, openings, inward), eye, look))
    views.sort(key=lambda view: -view[0])
    patches = _patches(top, openings)
    out: list[Standpoint] = []
    for worth, eye, look in views:
        target = eye + 4 * look - np.array([0, 0, 0.1])
        if not any(_same(s, eye, target) for s in out):
            suns = tuple(_suns(top, eye, look, patches))
            out.append(Standpoint(_point(eye), _point(target), round(worth, 3), suns))
        if len(out) == OFFERED:
            break
    return out


def _same(other: Standpoint, eye: Array, target: Array) -> bool:
    """Whether a view is much as another one."""
    at = np.asarray(other.position)
    cosine = (np.asarray(other.target) - at) @ (target - eye) / 16
    return bool(cosine > SAME_COS and np.linalg.norm(at - eye) < SAME_M)


def _point(at: Array) -> tuple[float, float, float]:
    x, y, z = (round(float(v), 3) for v in at)
    return x, y, z


def _scene(parts: Sequence[Part]) -> EmbreeScene | None:
    """What stops a glance: everything but panes."""
    points: list[Array] = []
    faces: list[npt.NDArray[np.int32]] = []
    first = 0
    for part in parts:
        mesh = part.mesh
        solid = ~np.array([m.is_pane for m in mesh.materials], bool)
        kept = mesh.faces[solid[mesh.face_material]] if len(mesh.faces) else mesh.faces
        if not len(kept):
            continue
        points.append(place(part.matrix, mesh.vertices))
        faces.append((kept + first).astype(np.int32))
        first += len(mesh.vertices)
    if not points:
        return None
    made = EmbreeScene()
    made.add_triangles(np.concatenate(points).astype(np.float32), np.concatenate(faces), mask=1)
    return made.commit()


def _rooms(parts: Sequence[Part], top: EmbreeScene, openings: Sequence[Portal]) -> list[Array]:
    """Places at eye height in rooms, those of the largest rooms first."""
    ways = evenly(400)
    found = []
    for at in places_in_rooms(parts, top, openings):
        below, above = top.distances(np.stack([at, at]), np.array([[0, 0, -1.0], [0, 0, 1.0]]))
        if not np.isfinite(below + above):
            continue
        eye = at + np.array([0, 0, min(EYE_M, EYE_SHARE * (below + above)) - below])
        far = top.distances(np.broadcast_to(eye, ways.shape), ways)
        met = np.isfinite(far)
        if float(met[ways[:, 2] > 0].mean()) > ENCLOSED:
            found.append((float((np.minimum(far[met], FAR_M) ** 2).mean()), eye))
    found.sort(key=lambda room: -room[0])
    return [at for _, at in found[:ROOMS]]


def _places_to_stand(top: EmbreeScene, at: Array) -> list[Array]:
    """A place in a room, and others as far back from it as walls allow."""
    turns = np.arange(STEPS) * 2 * np.pi / STEPS
    ways = np.stack([np.sin(turns), np.cos(turns), np.zeros(STEPS)], axis=1)
    far = top.distances(np.broadcast_to(at, ways.shape), ways)
    out = [at]
    for way, reach in zip(ways, far, strict=True):
        # A wall that is missing is no place to step through.
        back = min(float(reach), FAR_M) - FREE_M
        if np.isfinite(reach) and back > FREE_M:
            out.append(at + way * back)
    return [eye for eye in out if _is_free(top, eye, ways)]


def _is_free(top: EmbreeScene, eye: Array, ways: Array) -> bool:
    """Whether one can stand there: on a floor, with room around."""
    around = top.distances(np.broadcast_to(eye, ways.shape), ways)
    below = float(top.distances(eye[None], np.array([[0.0, 0.0, -1.0]]))[0])
    return bool(around.min() >= 0.75 * FREE_M) and 0.7 < below < 2.5


def _rays(look: Array) -> Array:
    """Unit directions (n, 3) evenly over the picture of an upright camera."""
    x = (np.arange(GRID[0]) + 0.5) / GRID[0] - 0.5
    y = (np.arange(GRID[1]) + 0.5) / GRID[1] - 0.5
    right = np.cross(look, (0.0, 0.0, 1.0))
    a, b = np.meshgrid(x * SENSOR_MM[0] / LENS_MM, y * SENSOR_MM[1] / LENS_MM)
    ways = look + a.reshape(-1, 1) * right + b.reshape(-1, 1) * np.array([0.0, 0.0, 1.0])
    return np.asarray(ways / np.linalg.norm(ways, axis=1)[:, None])


def _worth(
    top: EmbreeScene, eye: Array, look: Array, openings: Sequence[Portal], inward: Sequence[Array]
) -> float:
    """How good a view is: depth, some windows, things to look at, nothing close by, no wall that is missing."""
    ways = _rays(look)
    far = top.distances(np.broadcast_to(eye, ways.shape), ways)
    # Cosine with which rays leave by an opening: seen from beside it a window is a line.
    by_window = np.zeros(len(ways))
    for p, n in zip(openings, inward, strict=True):
        facing = np.abs(ways @ n)
        # Most openings of a building are behind the camera, or beyond what it sees.
        if facing.max() > 0.1 and ((np.asarray(p.position) - eye) @ look) > 0:
            by_window = np.maximum(by_window, leaving_by(p, eye, ways) * facing)
    # A ray that meets something before it comes to the opening does not look through it.
    through = (by_window > 0) & (far > FAR_M)
    lost = ~np.isfinite(far) & ~through
    depth = np.where(through, 0.5 * FAR_M, np.where(lost, 0.0, np.minimum(far, FAR_M)))
    share, least, most = float((by_window * through).mean()), *WINDOWS
    windows = min(share / least, 1.0) - max(share - most, 0.0) / most
    # A window that the picture's side cuts off draws the eye out of it.
    windows -= float(through.reshape(GRID[::-1])[:, [0, -1]].mean())
    near = 3 * (far < NEAR_M).mean() + (far < CLOSE_M).mean()
    things = min(_things(far * (ways @ look), through) / FULL, 1.0)
    return float(np.log2(1 + depth).mean() + windows + things - near - 3 * lost.mean())


def _things(depth: Array, through: npt.NDArray[np.bool_]) -> float:
    """Share of a picture, depths (n,) of its rays in metres, where something begins, ends or turns.

    What is close by does not count, nor do the frames of windows, which ``through`` (n,) tells.
    """
    frames = binary_dilation(through.reshape(GRID[::-1]), iterations=2)
    inverse = np.where(depth > CLOSE_M, 1 / np.maximum(depth, CLOSE_M), 0).reshape(GRID[::-1])
    turns = np.zeros(inverse.shape, bool)
    for axis in (0, 1):
        of = np.swapaxes(inverse, 0, axis)
        before, at, after = of[:-2], of[1:-1], of[2:]
        kink = np.abs(before - 2 * at + after) > KINK * np.maximum(before, after)
        np.swapaxes(turns, 0, axis)[1:-1] |= kink & (np.minimum(np.minimum(before, at), after) > 0)
    return float((turns & ~frames).mean())


def _patches(top: EmbreeScene, openings: Sequence[Portal]) -> tuple[Array, Array, Array]:
    """Places (n, 3) in metres that suns shine on by openings, which sun that is (n,), and the area in m² it speaks for (n,)."""
    suns = np.array([direction(a, e) for a in AZIMUTHS for e in ELEVATIONS])
    cells = (np.arange(PLACES) + 0.5) / PLACES - 0.5
    spots, which, areas = [np.zeros((0, 3))], [np.zeros(0, int)], [np.zeros(0)]
    for p in openings[:OPENINGS]:
        u, v, n = p.axes()
        at = np.array([np.asarray(p.position) + u * p.width * a + v * p.height * b
                       for a in cells for b in cells])  # fmt: skip
        cosine = -suns @ n
        into = np.flatnonzero(cosine >= 0.1)
        of, start = np.repeat(into, len(at)), np.tile(at, (len(into), 1))
        free = ~np.isfinite(top.distances(start - 0.4 * n, suns[of]))
        reach = top.distances(start + 0.05 * n, -suns[of])
        lit = free & np.isfinite(reach)
        fell = start[lit] + 0.05 * n - suns[of[lit]] * (reach[lit] - 0.02)[:, None]
        spots.append(fell)
        which.append(of[lit])
        areas.append(cosine[of[lit]] * p.width * p.height / len(at))
    return np.concatenate(spots), np.concatenate(which), np.concatenate(areas)


def _suns(
    top: EmbreeScene, eye: Array, look: Array, patches: tuple[Array, Array, Array]
) -> list[tuple[float, float, float]]:
    """Suns that shine into a view by openings: azimuth, elevation, and the area of sun seen in m²."""
    spots, which, areas = patches
    way = spots - eye
    length, ahead = np.linalg.norm(way, axis=1), way @ look
    seen = (ahead > 0.3) & (
        np.abs(way @ np.cross(look, (0, 0, 1))) < ahead * SENSOR_MM[0] / LENS_MM / 2
    )
    seen &= np.abs(way[:, 2]) < ahead * SENSOR_MM[1] / LENS_MM / 2
    some = np.flatnonzero(seen)
    free = top.distances(np.broadcast_to(eye, (len(some), 3)), way[some] / length[some, None])
    some = some[free > length[some] - 0.05]
    area = np.bincount(which[some], areas[some], minlength=len(AZIMUTHS) * len(ELEVATIONS))
    suns = [(float(a), float(e)) for a in AZIMUTHS for e in ELEVATIONS]
    return [(*sun, round(float(m2), 3)) for sun, m2 in zip(suns, area, strict=True) if m2 > 0]
