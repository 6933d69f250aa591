"""Questions of a hand that plants: what lies under its brush, and where plants would show in panes."""

from __future__ import annotations

import math
from collections.abc import Iterator
from typing import Annotated

import numpy as np
import numpy.typing as npt
from pydantic import Field

from westlight.core.model import Part
from westlight.core.model.parts import place
from westlight.core.model.plants import PLANTS, plant
from westlight.core.transport.surfaces import surface_under

from ..garden import STANDS_FOR
from ..spec import PlantName, Settings
from .asked import Answer, Asked, Nothing, Point
from .building import part_at
from .moved_parts import LEVEL_COSINE
from .surfaces import point

Array = npt.NDArray[np.float64]
#: Plants that a look at the ground passes through at most.
MOST_THROUGH = 64
#: Points of the ring a brush is shown by.
RING = 28
#: How far from the glass plants that it mirrors may stand, in metres; how many at most; triangles of panes looked at.
NEAREST_M, FARTHEST_M, MOST_MIRRORED, MOST_PANES = 7.0, 34.0, 16, 4000
#: What is nearer than this to what hides it is seen.
AT_SURFACE_M = 0.02
UP = np.array([0.0, 0.0, 1.0])


class Brush(Settings):
    """A brush at a point of the picture, 0…1 from its top left, or over a place of the plan."""

    x: float = 0.5
    y: float = 0.5
    place: Point | None = None
    radius_m: Annotated[float, Field(gt=0, le=100)] = 1.0


class Soil(Answer):
    """What lies under the brush, plants left out: place, normal and name of the part; null where there is nothing. ``ring`` is its reach as it
    lies in the picture, empty where a piece of it is behind the camera."""

    position: Point | None = None
    normal: Point | None = None
    part: str = ""
    ring: list[tuple[float, float]] = []


class Mirrored(Settings):
    """Plants of a kind that should show in the panes of the picture."""

    plant: PlantName
    apart_m: Annotated[float, Field(gt=0, le=100)] = 3.0


class Behind(Answer):
    """Where they would stand; or what is wrong."""

    problem: str | None = None
    positions: list[Point] = []


class Planted(Answer):
    """How many plants stand, by the id of their planting; one that is off is not among them."""

    counts: dict[str, int]


def planted(a: Asked, _: Nothing) -> Planted:
    """How many plants of each planting stand in the picture's building."""
    model = a.p.spec.model
    on = {} if model is None else model.edits.plantings
    counts = {i: 0 for i, p in on.items() if p.on and p.strokes}
    for part in () if a.p.scene is None else a.p.scene.plants:
        if part.path[-1] in counts and part.scattered is not None:
            counts[part.path[-1]] += len(part.scattered)
    return Planted(counts=counts)


def soil(a: Asked, of: Brush) -> Soil:
    """The surface that would be planted."""
    if of.place is None:
        origin, way = a.view.ray(of.x, of.y)
    else:
        origin, way = np.asarray(of.place, float), np.array([0.0, 0.0, -1.0])
    for _ in range(MOST_THROUGH):
        hit = None if a.p.assembled is None else surface_under(a.p.assembled, origin, way)
        if hit is None:
            return Soil()
        part = part_at(a.p, int(hit[7]), int(hit[8]))
        if part is not None and part.path[:1] != (STANDS_FOR,):
            at, normal = np.asarray(hit[:3], float), np.asarray(hit[3:6], float)
            return Soil(position=point(at), normal=point(normal), part=part.name, ring=_ring(a, at, normal, of.radius_m))  # fmt: skip
        origin = np.asarray(hit[:3], float) + 1e-3 * way
    return Soil()


def _ring(a: Asked, at: Array, normal: Array, radius: float) -> list[tuple[float, float]]:
    helper = np.array([1.0, 0.0, 0.0]) if abs(normal[2]) > 0.7 else np.array([0.0, 0.0, 1.0])
    u = np.cross(normal, helper)
    u /= max(float(np.linalg.norm(u)), 1e-9)
    v = np.cross(normal, u)
    turns = np.arange(RING) * 2 * math.pi / RING
    places = [a.view.place_of(point(at + radius * (u * math.cos(t) + v * math.sin(t)))) for t in turns]  # fmt: skip
    seen = [(round(p[0], 4), round(p[1], 4)) for p in places if p is not None]
    return seen if len(seen) == RING else []


def mirrored(a: Asked, of: Mirrored) -> Behind:
    """Where plants stand on open ground that the panes in the picture mirror, out of the picture itself."""
    p = a.p
    if p.scene is None or p.assembled is None:
        return Behind(problem="There is no building yet.")
    if PLANTS[of.plant].on_walls:
        return Behind(problem="A climber needs a wall; choose another plant for the panes.")
    tall = float(plant(of.plant, "far").vertices[:, 2].max())
    rng = np.random.default_rng(1)
    bare, kept = p.scene.bare(), list[Array]()
    panes = 0
    for at, way in _mirroring(a):
        panes += 1
        far = float(bare.distances((at + AT_SURFACE_M * way)[None], way[None])[0])
        for t in rng.uniform(NEAREST_M, min(FARTHEST_M, far), 3) if far > NEAREST_M else ():
            spot = at + way * t
            if any(math.dist(spot[:2], k[:2]) < of.apart_m for k in kept):
                continue
            ground = surface_under(p.assembled, spot + 0.3 * UP, -UP)
            if ground is None or ground[5] < LEVEL_COSINE:
                continue
            stands = np.asarray(ground[:3], float)
            # The ray passes through the plant, and the plant does not stand in the picture.
            if not 0 <= spot[2] - stands[2] < tall:
                continue
            if not any(_in_picture(a, stands + h * UP) for h in (0.0, tall / 2, tall)):
                kept.append(stands)
        if len(kept) >= MOST_MIRRORED:
            break
    if not panes:
        return Behind(
            problem="No glass is seen in this view; choose one that looks at windows from outside."
        )
    if not kept:
        return Behind(
            problem="What the glass here mirrors is no open ground; move the camera, or plant by hand."
        )
    return Behind(positions=[point(k) for k in kept])


def _in_picture(a: Asked, at: Array) -> bool:
    seen = a.view.place_of(point(at))
    return seen is not None and all(-0.03 <= v <= 1.03 for v in seen)


def _mirroring(a: Asked) -> Iterator[tuple[Array, Array]]:
    """Places on panes that the camera sees, in chance order, and where each mirrors to."""
    assert a.p.scene is not None
    eye = np.asarray(a.p.spec.view.position, float)
    triangles = [t for part in a.p.scene.parts for t in _panes_of(part)]
    order = np.random.default_rng(2).permutation(len(triangles))[:MOST_PANES]
    for i in order:
        at, normal = triangles[i]
        if not _in_picture(a, at):
            continue
        far = float(np.linalg.norm(at - eye))
        way = (at - eye) / max(far, 1e-9)
        if float(a.p.scene.bare().distances(eye[None], way[None])[0]) < far - AT_SURFACE_M:
            continue
        yield at, np.asarray(way - 2 * float(way @ normal) * normal)


def _panes_of(part: Part) -> Iterator[tuple[Array, Array]]:
    """Middle and normal of the glass of a part, a triangle at a time."""
    panes = np.array([m.is_pane for m in part.mesh.materials])
    if not panes.any() or part.scattered is not None:
        return
    faces = part.mesh.faces[panes[part.mesh.face_material]]
    corners = place(part.matrix, part.mesh.vertices)[faces]
    for c in corners[:MOST_PANES]:
        n = np.cross(c[1] - c[0], c[2] - c[0])
        size = float(np.linalg.norm(n))
        # The edges of a pane of some thickness mirror next to nothing.
        if size > 0.02:
            for u, v in ((1 / 3, 1 / 3), (0.15, 0.15), (0.7, 0.15), (0.15, 0.7)):
                yield c[0] + u * (c[1] - c[0]) + v * (c[2] - c[0]), n / size
