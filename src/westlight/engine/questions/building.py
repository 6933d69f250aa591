"""Questions about the building in the picture: what lies under a point, where things are, what is doubtful."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np
import numpy.typing as npt

from westlight.core.analysis import (
    close_surface,
    doubt_of,
    find_leaks,
    places_in_rooms,
    portal_between,
    portal_gain,
    side_of,
    way_out,
)
from westlight.core.model import Part
from westlight.core.sources import SHAPES
from westlight.core.transport.portals import Portal
from westlight.core.transport.surfaces import surface_under

from ..live.prepared import Prepared
from ..spec import FixtureSettings, Settings, SkySettings
from ..translate import view_of
from .asked import Answer, Asked, At, Nothing, Point

Array = npt.NDArray[np.float64]
Box = tuple[float, float, float, float]
#: Size of the picture in which the gain of openings is measured.
GAIN_GRID = 96, 54
#: Faces of panes that are looked at to tell where panes lie.
MOST_PANES = 1500
#: An emitter nearer to a surface than this speckles.
TOO_NEAR_M = 0.06
#: Rays across and down the picture that tell how much of it something covers.
COVER_GRID = (80, 45)


class Picked(Answer):
    """The surface under a point of the picture, and with the meter what is read there."""

    hit: bool
    position: Point | None = None
    normal: Point | None = None
    distance: float | None = None
    depth: float | None = None
    part: str | None = None
    material: str | None = None
    luminance: float | None = None
    log2_luminance: float | None = None
    stops: float | None = None
    lux: float | None = None
    rgb: Point | None = None
    shares: dict[str, float] | None = None
    #: Colour of the light there, and stops of the sun over the sky where both count.
    kelvin: float | None = None
    sun_over_sky: float | None = None


class Below(Settings):
    """A place in metres; what lies under it is asked for."""

    place: Point


class Opening(Answer):
    """An opening of the building: the side it is on, centre, direction into the room, size in metres."""

    name: str
    group: str
    inward_azimuth_deg: float | None
    position: Point
    inward: Point
    width: float
    height: float
    #: What is wrong with it as it stands, and where its corners are in the picture (0…1).
    doubt: str | None = None
    corners: list[tuple[float, float]] | None = None


class Openings(Answer):
    """The openings that were found in the building."""

    found: list[Opening]


class Corners(Settings):
    """Two opposite corners that were clicked in the picture."""

    corners: list[tuple[float, float]]


class OpeningMade(Answer):
    """An opening between two clicked corners, or what was wrong with them."""

    problem: str | None = None
    opening: Opening | None = None


class PortalGain(Answer):
    """By how much openings lessen the noise of the sky in equal time; null where there is nothing."""

    direct: float | None = None
    whole: float | None = None


class FixtureDoubt(Answer):
    """An emitter that touches a surface or is shut in: its copy, the gap, and a move that frees it."""

    source: str
    place: int
    shut_in: bool
    gap_m: float
    move: Point


class FixtureDoubts(Answer):
    """Emitters that stand so close to surfaces that they speckle."""

    found: list[FixtureDoubt] = []


class Leak(Answer):
    """A hole: share of all directions that see the sky by it, and a place near it in metres."""

    share: float
    position: Point
    #: Where it lies in the picture, which may be outside 0…1; None behind the camera.
    seen: tuple[float, float] | None


class Leaks(Answer):
    """Holes seen from the camera or a room; ``inside`` tells whether any of them is in a room at all."""

    inside: bool = False
    found: list[Leak] = []


class Boxes(Answer):
    """Left, top, right and bottom of what is seen of parts and materials, in shares of the picture."""

    parts: dict[str, Box]
    materials: dict[str, Box]


class Covered(Answer):
    """Share of the picture that each part and each material covers, and where they lie in it."""

    parts: dict[str, float]
    materials: dict[str, float]
    boxes: Boxes


def pick(a: Asked, at: At) -> Picked:
    """The solid surface under a point of the picture."""
    if a.p.assembled is None:
        return Picked(hit=False)
    hit = surface_under(a.p.assembled, *a.view.ray(at.x, at.y))
    if hit is None:
        return Picked(hit=False)
    return Picked(
        hit=True, position=_rounded(hit[:3]), normal=_rounded(hit[3:6]),
        distance=round(float(hit[6]), 3), **named_at(a.p, int(hit[7]), int(hit[8])),
        # Along the camera's axis, which is how focus is set.
        depth=round(float((hit[:3] - a.view.position) @ a.view.axes()[2]), 3),
    )  # fmt: skip


def under(a: Asked, of: Below) -> Picked:
    """The solid surface under a place in metres: where, its normal, its part and material."""
    hit = None
    if a.p.assembled is not None:
        hit = surface_under(a.p.assembled, np.asarray(of.place, float), np.array([0.0, 0, -1]))
    if hit is None:
        return Picked(hit=False)
    return Picked(hit=True, position=_rounded(hit[:3]), normal=_rounded(hit[3:6]),
                  **named_at(a.p, int(hit[7]), int(hit[8])))  # fmt: skip


def _rounded(values: npt.NDArray[np.floating]) -> Point:
    x, y, z = (round(float(v), 4) for v in values)
    return x, y, z


def named_at(p: Prepared, instance: int, triangle: int) -> dict[str, Any]:
    """Names of the part and the material under a ray; nothing for the body of a fixture."""
    part = part_at(p, instance, triangle)
    if part is None or p.scene is None:
        return {}
    build = p.scene.build
    row = int(build.triangle_material[triangle])
    return {"part": part.name, "material": build.materials[row].name}


def part_at(p: Prepared, instance: int, triangle: int) -> Part | None:
    """The part under a ray; None for the body of a fixture."""
    assert p.scene is not None
    build = p.scene.build
    if not 0 <= instance < len(build.instance_part):
        return None
    if build.instance_part[instance] >= 0:
        return p.scene.parts[int(build.instance_part[instance])]
    return p.scene.parts[int(build.triangle_part[triangle])]


def covered(a: Asked, _: Nothing) -> Covered:
    """Share of the picture that each part and each material covers, seen through glass, and where."""
    seen: dict[str, dict[str, list[tuple[float, float]]]] = {"part": {}, "material": {}}
    if a.p.assembled is not None:
        columns, rows = COVER_GRID
        for k in range(columns * rows):
            x, y = (k % columns + 0.5) / columns, (k // columns + 0.5) / rows
            hit = surface_under(a.p.assembled, *a.view.ray(x, y))
            named = {} if hit is None else named_at(a.p, int(hit[7]), int(hit[8]))
            for kind, name in named.items():
                seen[kind].setdefault(name, []).append((x, y))
    whole = COVER_GRID[0] * COVER_GRID[1]
    half = np.array([0.5 / COVER_GRID[0], 0.5 / COVER_GRID[1]])
    panes = _pane_boxes(a)
    shares, boxes = {}, {}
    for kind, names in seen.items():
        shares[f"{kind}s"] = {n: round(len(at) / whole, 4) for n, at in names.items()}
        own = {n: [*np.round(np.min(at, axis=0) - half, 4).tolist(),
                   *np.round(np.max(at, axis=0) + half, 4).tolist()]
               for n, at in names.items()}  # fmt: skip
        boxes[f"{kind}s"] = panes[f"{kind}s"] | own
    return Covered.model_validate({**shares, "boxes": boxes})


def _pane_boxes(a: Asked) -> dict[str, dict[str, list[float]]]:
    """Where panes lie in the picture, by part and material; rays that look for parts pass them."""
    out: dict[str, dict[str, list[float]]] = {"parts": {}, "materials": {}}
    if a.p.scene is None:
        return out
    build, parts, view = a.p.scene.build, a.p.scene.parts, a.view
    panes = [i for i, m in enumerate(build.materials) if m.is_pane]
    # Copies lie in a space of their own; those who stand once are told.
    rows = np.nonzero(np.isin(build.triangle_material, panes) & (build.triangle_part >= 0))[0]
    found: dict[tuple[str, str], list[tuple[float, float]]] = {}
    for row in rows[:: max(len(rows) // MOST_PANES, 1)]:
        names = {"parts": parts[int(build.triangle_part[row])].name,
                 "materials": build.materials[int(build.triangle_material[row])].name}  # fmt: skip
        for point in build.positions[build.triangles[row]]:
            place = view.place_of(point)
            if place is not None:
                for kind, name in names.items():
                    found.setdefault((kind, name), []).append(place)
    for (kind, name), places in found.items():
        low, high = np.clip([np.min(places, axis=0), np.max(places, axis=0)], 0, 1)
        if (high - low > 0.005).all():
            out[kind][name] = [*low.round(4).tolist(), *high.round(4).tolist()]
    return out


def described(portal: Portal, north_deg: float) -> dict[str, Any]:
    """An opening in numbers, and the side of the building it is on."""
    group, azimuth = side_of(portal, north_deg)
    return {
        "name": portal.name, "group": group, "inward_azimuth_deg": azimuth,
        "position": [round(float(v), 4) for v in portal.position],
        "inward": [round(float(v), 5) for v in portal.inward],
        "width": round(float(portal.width), 3), "height": round(float(portal.height), 3),
    }  # fmt: skip


def _turned_round(portal: Portal) -> Portal:
    """An opening that lets light in the other way."""
    x, y, z = portal.inward
    return replace(portal, inward=(-x, -y, -z))


def corners_of(portal: Portal) -> list[Array]:
    """Corners of an opening in metres, one after another around it."""
    u, v, _ = portal.axes()
    middle = np.asarray(portal.position, float)
    return [middle + u * portal.width * a / 2 + v * portal.height * b / 2
            for a, b in ((-1, -1), (1, -1), (1, 1), (-1, 1))]  # fmt: skip


def openings(a: Asked, _: Nothing) -> Openings:
    """Openings of the building as they were found, and what is wrong with them."""
    scene, model = a.p.scene, a.p.spec.model
    if scene is None or model is None:
        return Openings(found=[])
    bare, found = scene.bare(), []
    for portal in scene.found_for(model):
        edit = model.edits.openings.get(portal.name)
        stands = _turned_round(portal) if edit is not None and edit.turned else portal
        corners = [a.view.place_of(c) for c in corners_of(portal)]
        found.append(described(portal, model.north_deg) | {
            "doubt": doubt_of(stands, bare),
            "corners": None if any(c is None for c in corners) else corners,
        })  # fmt: skip
    return Openings.model_validate({"found": found})


def gain(a: Asked, _: Nothing) -> PortalGain:
    """By how much openings lessen the noise of the sky in this view, in equal time.

    Nulls where no opening is in use or no sky shines.
    """
    spec, scene = a.p.spec, a.p.scene
    row = next((i for i, s in enumerate(spec.sources)
                if isinstance(s.settings, SkySettings) and s.counts), None)  # fmt: skip
    if scene is None or spec.model is None or row is None or not scene.openings(spec.model):
        return PortalGain()
    source = a.p.sources[row]
    bare, guided = (
        scene.assemble(spec.model_copy(update={"closed": False, "portals": on}), [source])
        for on in (False, True)
    )
    view = view_of(spec.view, GAIN_GRID[0], GAIN_GRID[1])
    made = portal_gain(bare, guided, 0, view, spec.bounces)
    return PortalGain(direct=round(made.direct, 2), whole=round(made.whole, 2))


def opening(a: Asked, of: Corners) -> OpeningMade:
    """An opening between two opposite corners clicked in the picture, facing the room."""
    if a.p.assembled is None or a.p.spec.model is None:
        return OpeningMade(problem="There is no building yet.")
    hits = [pick(a, At(x=x, y=y)) for x, y in of.corners]
    places = [h.position for h in hits if h.position is not None]
    if len(places) != 2:
        return OpeningMade(
            problem="Click on the wall or frame at two opposite corners of the opening; "
            "there is no surface at one of these points."
        )
    made = portal_between(places[0], places[1], a.p.assembled.top)
    if made is None:
        return OpeningMade(
            problem="These points make no opening; choose two opposite corners at least "
            "15 cm apart, of a hole between a room and the open air."
        )
    north = a.p.spec.model.north_deg
    return OpeningMade(opening=Opening.model_validate(described(made, north)))


def doubts(a: Asked, _: Nothing) -> FixtureDoubts:
    """Emitters shut in by a body or so close to a surface that they speckle, and a move that helps."""
    found: list[FixtureDoubt] = []
    if a.p.assembled is None or a.p.scene is None:
        return FixtureDoubts()
    bare = a.p.scene.bare()
    for s in a.p.spec.sources:
        if not isinstance(s.settings, FixtureSettings) or not s.counts:
            continue
        f = s.settings
        one_sided = SHAPES[f.shape].one_sided
        for n, place in enumerate(f.places):
            shines = place.direction if one_sided else None
            out = way_out(bare, place.position, shines)
            if out is not None:
                found.append(
                    FixtureDoubt(source=s.id, place=n, shut_in=True, gap_m=0, move=_rounded(out))
                )
                continue
            near = close_surface(bare, place.position, shines, TOO_NEAR_M + f.radius)
            if near is None:
                continue
            gap = max(near.distance_m - (0 if one_sided else f.radius), 0.0)
            if gap < TOO_NEAR_M:
                move = _rounded(np.asarray(near.away) * (TOO_NEAR_M - gap))
                found.append(
                    FixtureDoubt(
                        source=s.id, place=n, shut_in=False, gap_m=round(gap, 3), move=move
                    )
                )
    return FixtureDoubts(found=found)


def leaks(a: Asked, _: Nothing) -> Leaks:
    """Where the open sky is seen from the camera or a room, though no opening is there."""
    scene, model = a.p.scene, a.p.spec.model
    if scene is None or model is None:
        return Leaks()
    known, bare = scene.openings(model), scene.bare()
    rooms = places_in_rooms(scene.parts, bare, known)
    made = find_leaks(bare, [np.asarray(a.p.spec.view.position), *rooms], known)
    return Leaks(inside=made.inside, found=[
        Leak(share=round(x.share, 4), position=_rounded(np.asarray(x.position)),
             seen=a.view.place_of(x.position))
        for x in made.leaks
    ])  # fmt: skip
