"""Questions of a hand in the picture: where things can be taken hold of, and how the sun follows a patch of its light."""

from __future__ import annotations

import math
import uuid
from collections.abc import Iterator
from typing import Annotated, Any, Literal

import numpy as np
import numpy.typing as npt
from pydantic import Field

from westlight.core.analysis import hinge_of, sun_by
from westlight.core.model.additions import KINDS
from westlight.core.sources import SHAPES
from westlight.core.sun import direction
from westlight.core.transport.portals import Portal
from westlight.core.transport.surfaces import surface_under

from ..spec import (
    AddedOpening,
    Addition,
    AdditionKind,
    FixtureSettings,
    Place,
    Settings,
    SunSettings,
)
from .asked import Answer, Asked, At, Nothing, Point
from .building import corners_of, pick
from .landing import HANGS_M
from .moved_parts import held_parts, middle_of, moved_by, part_seen
from .surfaces import FAR_M, nearest_on_line, point, surface_at

Array = npt.NDArray[np.float64]
#: Marks told at most, the nearest to the camera first.
MOST_MARKS = 120
#: How near to what hides it a thing may be and still be seen, in metres: lamps stand in bodies, which are as large as that.
AT_SURFACE_M = 0.25
#: How far from its lamp the search for what is aimed at begins, in metres.
CLEAR_M = 0.05
Kind = Literal["lamp", "aim", "addition", "opening", "part", "copy"]
#: Farther outside than this, in shares of the picture, nothing is marked.
OUTSIDE = 0.02
#: A lamp that hangs free moves level if the camera is so many metres above or below it.
LEVEL_M = 0.5
#: Largest opening that is placed by hand, in metres (`AddedOpening`).
MOST_M = 2000.0


class Mark(Answer):
    """Something that can be taken hold of: a copy of a lamp, what a copy is aimed at, an addition, an opening, a part of the
    building that was moved, a copy of a part.

    ``of`` names it by id (an opening and a part by name), ``place`` counts copies; x and y lie in the picture, 0…1 from its top left.
    """

    kind: Kind
    of: str
    place: int
    name: str
    x: float
    y: float
    position: Point
    #: Something stands before it.
    hidden: bool
    #: An opening as one that is placed by hand; none for other things, and for one that is turned in its plane.
    opening: AddedOpening | None = None
    #: Its corners in the picture, 0…1, one after another around it; none where one lies behind the camera.
    corners: list[tuple[float, float]] | None = None


class Marks(Answer):
    """What can be taken hold of in the picture."""

    marks: list[Mark]


class Slide(Settings):
    """A thing of `Marks` drawn to a point of the picture; ``lift`` off its surface instead of along it."""

    kind: Kind
    of: Annotated[str, Field(max_length=80)]
    place: Annotated[int, Field(ge=0)] = 0
    x: float
    y: float
    lift: bool = False


class Slid(Answer):
    """Where a thing is now, and how it is turned; nulls for what stays as it is. A part stands so far from where its file
    has it (``by``)."""

    position: Point | None = None
    by: Point | None = None
    direction: Point | None = None
    turn_deg: float | None = None
    #: Corners of an opening in the picture, 0…1, where it is now.
    corners: list[tuple[float, float]] | None = None


class Standing(Settings):
    """Something of a kind that is to stand, or hang, at a point of the picture."""

    kind: AdditionKind
    x: float
    y: float


class Stood(Answer):
    """The addition as it would be, not yet made; or what is wrong."""

    problem: str | None = None
    addition: Addition | None = None


class Grip(Settings):
    """A patch of sunlight at a point of the picture; ``hinge`` once it is held: what the sun turns about."""

    x: float
    y: float
    hinge: Point | None = None


class Held(Answer):
    """The point the sun turns about, and where it stands to light this point of the picture; or what is wrong."""

    problem: str | None = None
    hinge: Point | None = None
    azimuth_deg: float | None = None
    elevation_deg: float | None = None


def marks(a: Asked, _: Nothing) -> Marks:
    """What can be taken hold of, as it lies in the picture now."""
    eye = np.asarray(a.p.spec.view.position, float)
    found = [m for t in _things(a) if (m := _mark(a, eye, *t)) is not None]
    stands = _openings(a)
    for n, mark in enumerate(found):
        opening = stands.get(mark.of) if mark.kind == "opening" else None
        if opening is not None:
            shape = {"opening": opening, "corners": _corners(a, opening, opening.position)}
            found[n] = mark.model_copy(update=shape)
    found.sort(key=lambda m: float(np.linalg.norm(np.asarray(m.position) - eye)))
    return Marks(marks=found[:MOST_MARKS])


def _openings(a: Asked) -> dict[str, AddedOpening]:
    """Openings of the picture by name, as they would be placed by hand."""
    if a.p.scene is None or a.p.spec.model is None:
        return {}
    return {
        p.name: AddedOpening(
            name=p.name, position=point(p.position), inward=point(p.inward), width=round(float(p.width), 4),
            height=round(float(p.height), 4), gain=round(math.log2(max(p.gain, 1e-6)), 3),
        )
        for p in a.p.scene.openings(a.p.spec.model)
        # A model in millimetres taken for metres has openings larger than any by hand may be.
        if p.roll_deg == 0 and max(p.width, p.height) <= MOST_M
    }  # fmt: skip


Thing = tuple[Kind, str, int, str, Point]


def _things(a: Asked) -> Iterator[Thing]:
    spec, scene = a.p.spec, a.p.scene
    for s in spec.sources:
        if not isinstance(s.settings, FixtureSettings):
            continue
        for n, place in enumerate(s.settings.places):
            yield "lamp", s.id, n, s.name, place.position
            aimed = _aimed_at(a, place) if SHAPES[s.settings.shape].aimed else None
            if aimed is not None:
                yield "aim", s.id, n, s.name, aimed
    if spec.model is None:
        return
    for addition in spec.model.edits.additions:
        if addition.on and addition.kind != "ground":
            x, y, z = addition.position
            yield "addition", addition.id, 0, addition.name, (x, y, z + addition.size_m[2] / 2)
    if scene is not None:
        for kind, of, name, part in held_parts(a):
            yield kind, of, 0, name, point(middle_of(part))
        for portal in scene.openings(spec.model):
            yield "opening", portal.name, 0, portal.name, point(portal.position)


def _aimed_at(a: Asked, place: Place) -> Point | None:
    """Where the axis of a copy ends on a surface."""
    if a.p.scene is None:
        return None
    way = np.asarray(place.direction, float)
    way /= max(float(np.linalg.norm(way)), 1e-9)
    start = np.asarray(place.position, float) + CLEAR_M * way
    far = float(a.p.scene.bare().distances(start[None], way[None])[0])
    if not far < FAR_M:
        return None
    return point(start + far * way)


def _mark(a: Asked, eye: Array, kind: Kind, of: str, n: int,
          name: str, at: Point) -> Mark | None:  # fmt: skip
    place = a.view.place_of(at)
    if place is None or not all(-OUTSIDE <= v <= 1 + OUTSIDE for v in place):
        return None
    hidden = False
    if a.p.scene is not None:
        way = np.asarray(at, float) - eye
        far = float(np.linalg.norm(way))
        origin = eye + way / far * a.p.spec.view.near_m
        free = float(a.p.scene.bare().distances(origin[None], (way / far)[None])[0])
        hidden = free + a.p.spec.view.near_m < far - AT_SURFACE_M
        if hidden and kind in ("part", "copy"):
            # The middle of a body lies behind its own surface.
            hidden = part_seen(a, *place) != (of if kind == "part" else name)
    return Mark(
        kind=kind, of=of, place=n, name=name, x=place[0], y=place[1], position=at, hidden=hidden
    )


def slide(a: Asked, of: Slide) -> Slid:
    """Draw a thing to a point of the picture: along the surface it is on, or level where it hangs free.

    Nothing changes where there is no surface.
    """
    if a.p.assembled is None or a.p.scene is None or a.p.spec.model is None:
        return Slid()
    if of.kind == "addition":
        found = next((x for x in a.p.spec.model.edits.additions if x.id == of.of), None)
        return Slid() if found is None else _slid_addition(a, of, found)
    if of.kind == "opening":
        return _slid_opening(a, of)
    if of.kind == "part" or of.kind == "copy":
        return Slid(by=moved_by(a, of.kind, of.of, of, of.lift))
    source = a.p.source_named(of.of)
    fixture = None if source is None else source.settings
    if not isinstance(fixture, FixtureSettings) or of.place >= len(fixture.places):
        return Slid()
    place = fixture.places[of.place]
    if of.kind == "aim":
        hit = surface_at(a, of, "")
        if hit is None:
            return Slid()
        way = hit[0] - np.asarray(place.position, float)
        return Slid(direction=point(way / max(float(np.linalg.norm(way)), 1e-9)))
    return _slid_lamp(a, of, place, aimed=SHAPES[fixture.shape].aimed)


def _slid_lamp(a: Asked, of: Slide, place: Place, aimed: bool) -> Slid:
    assert a.p.scene is not None
    at, way = np.asarray(place.position, float), np.asarray(place.direction, float)
    way = way / max(float(np.linalg.norm(way)), 1e-9)
    # What is aimed hangs from what is above it, whichever way it shines.
    off = np.array([0.0, 0.0, -1.0]) if aimed else way
    gap = float(a.p.scene.bare().distances(at[None], -off[None])[0])
    mounted = gap < HANGS_M
    origin, ray = a.view.ray(of.x, of.y)
    if of.lift:
        moved = nearest_on_line(at, off if mounted else np.array([0.0, 0.0, 1.0]), origin, ray)
        return Slid() if moved is None else Slid(position=point(moved))
    if mounted:
        hit = surface_at(a, of, "")
        if hit is None:
            return Slid()
        spot, normal = hit
        return Slid(position=point(spot + normal * gap), direction=None if aimed else point(normal))
    # Hanging free it stays at its height, unless one looks along that height.
    level = abs(float(origin[2] - at[2])) > LEVEL_M
    across = a.view.axes()[2] * [1.0, 1.0, 0.0]
    normal = (
        np.array([0.0, 0.0, 1.0]) if level else across / max(float(np.linalg.norm(across)), 1e-9)
    )
    along = float(ray @ normal)
    t = float((at - origin) @ normal) / along if abs(along) > 1e-6 else -1.0
    return Slid(position=point(origin + t * ray)) if 0 < t < FAR_M else Slid()


def _slid_opening(a: Asked, of: Slide) -> Slid:
    """An opening stays in its plane; lifted, it goes along the way it looks."""
    found = _openings(a).get(of.of)
    if found is None:
        return Slid()
    at, way = np.asarray(found.position, float), np.asarray(found.inward, float)
    way = way / max(float(np.linalg.norm(way)), 1e-9)
    origin, ray = a.view.ray(of.x, of.y)
    moved = None
    if of.lift:
        moved = nearest_on_line(at, way, origin, ray)
    else:
        along = float(ray @ way)
        t = float((at - origin) @ way) / along if abs(along) > 1e-3 else -1.0
        moved = origin + t * ray if 0 < t < FAR_M else None
    if moved is None:
        return Slid()
    return Slid(position=point(moved), corners=_corners(a, found, point(moved)))


def _corners(a: Asked, of: AddedOpening, at: Point) -> list[tuple[float, float]] | None:
    """Corners of an opening in the picture, if its middle stood somewhere."""
    places = [a.view.place_of(c) for c in corners_of(Portal(at, of.inward, of.width, of.height))]
    seen = [p for p in places if p is not None]
    return seen if len(seen) == len(places) else None


def _slid_addition(a: Asked, of: Slide, addition: Addition) -> Slid:
    at = np.asarray(addition.position, float)
    if of.lift:
        moved = nearest_on_line(at, np.array([0.0, 0.0, 1.0]), *a.view.ray(of.x, of.y))
        return Slid() if moved is None else Slid(position=point(moved))
    hit = surface_at(a, of, addition.name)
    if hit is None:
        return Slid()
    return Slid(**_before(addition.kind, *hit))


def _before(kind: AdditionKind, spot: Array, normal: Array) -> dict[str, Any]:
    """Place of an addition on a surface: a little before a wall and turned along it, or upon what is level."""
    table = KINDS[kind]
    upright = float(np.hypot(normal[0], normal[1])) > 0.5
    turn = round(math.degrees(math.atan2(normal[1], normal[0])) - 90) if upright else None
    off = normal * [table.gap_m, table.gap_m, 0.0] + [0.0, 0.0, table.over_m]
    return {"position": point(spot + off), "turn_deg": turn}


def stand(a: Asked, of: Standing) -> Stood:
    """An addition of a kind as it is usual, on the surface under a point of the picture."""
    model = a.p.spec.model
    hit = None if a.p.assembled is None or model is None else surface_at(a, of, "")
    if hit is None or model is None:
        return Stood(problem="There is no surface at this point; click where it should stand.")
    usual, at = KINDS[of.kind], _before(of.kind, *hit)
    count = sum(x.kind == of.kind for x in model.edits.additions) + 1
    made = Addition(
        id=uuid.uuid4().hex[:8], name=f"{of.kind.capitalize()} {count}", kind=of.kind, size_m=usual.size_m,
        colour=usual.colour, tilt_deg=usual.tilt_deg, emission_cd_m2=usual.emission_cd_m2,
        position=at["position"], turn_deg=at["turn_deg"] or 0.0,
    )  # fmt: skip
    return Stood(addition=made)


def patch(a: Asked, of: Grip) -> Held:
    """Take hold of sunlight at a point, or carry it there about the point it comes through."""
    p, model = a.p, a.p.spec.model
    hit = pick(a, At(x=of.x, y=of.y))
    if p.scene is None or p.assembled is None or model is None:
        return Held(problem="There is no building yet.")
    if hit.position is None or hit.normal is None:
        return Held(problem="There is no surface at this point.")
    if of.hinge is not None:
        stands = sun_by(of.hinge, hit.position, model.north_deg)
        if stands is None:
            return Held(problem="The sun would stand below the horizon there.", hinge=of.hinge)
        return Held(
            hinge=of.hinge, azimuth_deg=round(stands[0], 2), elevation_deg=round(stands[1], 2)
        )
    sun = next((s.settings for s in p.counting if isinstance(s.settings, SunSettings)), None)
    if sun is None or sun.elevation_deg <= 0:
        return Held(problem="No sun is up in this look.")
    way = direction(sun.azimuth_deg - model.north_deg, sun.elevation_deg)
    normal = np.asarray(hit.normal, float)
    at = np.asarray(hit.position, float) + 2e-3 * normal
    # Panes let it through: what is met first must be nothing, or glass.
    blocked = float(normal @ way) <= 0 or surface_under(p.assembled, at, way) is not None
    if blocked:
        return Held(problem="There is no sunlight at this point.")
    hinge = point(hinge_of(p.scene.openings(model), hit.position, way))
    return Held(hinge=hinge, azimuth_deg=sun.azimuth_deg, elevation_deg=sun.elevation_deg)
