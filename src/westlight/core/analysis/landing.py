"""Where a lamp lands that is put near a good place: the middle of a room, in line with others, in a body.

A hand points within some centimetres of what it means. The middle of the room, its axes, the lines
of lamps that hang there and the next step of their row draw it.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt

from ..model.parts import Part, part_bounds, place
from ..sources import SHAPES, axes_towards
from ..transport.embree import EmbreeScene
from .doubts import evenly
from .spread import Room

Array = npt.NDArray[np.float64]
#: Lamps at other heights, or farther along a wall's depth, than this are no row of these, in metres.
ONE_LEVEL_M = 0.4
#: Slices a body is cut into to find its bulk, the share of the usual surface of a slice below which
#: one is thin, and faces looked at.
SLICES, THIN, MOST_FACES = 60, 0.1, 4000
#: Of a body's clear size, how much an emitter in it takes.
_FILL = 0.8
#: A lamp this near to a body belongs to it, in metres.
NEAR_BODY_M = 0.12
#: Step by which a body is turned to find the way it lies, and a tube's usual radius at most.
TURN_STEP_DEG, THICKEST_TUBE_M = 3, 0.02


@dataclass(frozen=True)
class Snap:
    """A place in metres, and what drew it there: "" if nothing did."""

    position: Array
    to: str = ""


def snapped(
    at: Sequence[float] | Array, normal: Sequence[float] | Array, room: Room | None, others: Sequence[Sequence[float]],
    within_m: float,
) -> Snap:  # fmt: skip
    """A place on a surface of a ``normal``, drawn to what is at most ``within_m`` away.

    ``others`` are places of lamps. On level surfaces both ways along the room's axes are drawn, on
    walls the way along the wall and the height.
    """
    p, n = np.asarray(at, float), np.asarray(normal, float)
    level = abs(n[2]) > 0.7
    a = np.array([1.0, 0, 0]) if level else np.array([-n[1], n[0], 0]) / np.hypot(n[0], n[1])
    b = np.array([0, 1.0, 0]) if level else np.array([0, 0, 1.0])
    depth = np.array([0, 0, 1.0]) if level else n
    lamps = np.asarray(others, float).reshape(-1, 3)
    lamps = lamps[np.abs((lamps - p) @ depth) < ONE_LEVEL_M]
    named: list[tuple[Array, str]] = []
    if room is not None and level:
        named.append((np.append(room.middle, p[2]), "the middle of the room"))
    named += [(q, "the spacing of the row") for q in _steps(lamps)]
    reach = [float(np.hypot((q - p) @ a, (q - p) @ b)) for q, _ in named]
    if reach and min(reach) <= within_m:
        q, what = named[int(np.argmin(reach))]
        return Snap(p + a * ((q - p) @ a) + b * ((q - p) @ b), what)
    to, found = p.copy(), []
    for axis in (a, b):
        lines = [(float((q - p) @ axis), "a line with other lamps") for q in lamps]
        if room is not None and (level or axis is a):
            middle = np.append(room.middle, p[2])
            lines.append((float((middle - p) @ axis), "an axis of the room"))
        lines = [x for x in lines if abs(x[0]) <= within_m]
        if lines:
            shift, what = min(lines, key=lambda x: abs(x[0]))
            to = to + axis * shift
            found.append(what)
    return Snap(to, " and ".join(dict.fromkeys(found)))


def _steps(lamps: Array) -> list[Array]:
    """Places that go on with a row of lamps, or stand halfway between two neighbours."""
    out: list[Array] = []
    for i, one in enumerate(lamps):
        away = np.linalg.norm(lamps - one, axis=1)
        away[away < 1e-3] = np.inf
        if not np.isfinite(away).any():
            continue
        near = lamps[int(np.argmin(away))]
        # Only a lamp at the end of its row has room for the next.
        if not (np.linalg.norm(lamps - (2 * one - near), axis=1) < 0.05).any():
            out.append(2 * one - near)
        if i < len(lamps) - 1:
            out.append((one + near) / 2)
    return out


@dataclass(frozen=True)
class Fit:
    """Place, direction, roll in degrees and sizes in metres of an emitter in a lamp body."""

    position: Array
    direction: Array
    roll_deg: float
    width: float
    height: float
    radius: float
    length: float


def fitted(part: Part, shape: str) -> Fit:
    """An emitter of a ``shape`` centred in a lamp body: its bulk, without cables and rods.

    Flat ones lie in its lower opening; all shine down, their width (a tube its length) along the
    body's longer side. ``ValueError`` for a part without faces.
    """
    if not len(part.mesh.faces):
        raise ValueError("A part without faces holds no lamp.")
    corners = place(part.matrix, part.mesh.vertices)[part.mesh.faces]
    area = np.linalg.norm(
        np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1
    )
    low_z, high_z = _bulk(corners[..., 2], area)
    boxes = [_turned(corners, area, float(a)) for a in range(0, 180, TURN_STEP_DEG)]
    # Of the narrowest boxes around it, the one whose first side is the longer.
    angle, (x0, x1), (y0, y1) = min(
        boxes,
        key=lambda b: (round((b[1][1] - b[1][0]) * (b[2][1] - b[2][0]), 5), b[2][1] - b[2][0]),
    )
    size = np.maximum([x1 - x0, y1 - y0, high_z - low_z], 0.01)
    flat = SHAPES[shape].flat
    c, t = np.cos(np.radians(angle)), np.sin(np.radians(angle))
    u, v = (x0 + x1) / 2, (y0 + y1) / 2
    height = low_z + (0.15 * size[2] if flat else 0.5 * size[2])
    x, y, z = size * _FILL
    radius = min(x, y) / 2 if shape == "disc" else min(x, y, z) / 2
    if shape == "tube":
        radius = min(radius, THICKEST_TUBE_M)
    return Fit(
        np.array([c * u - t * v, t * u + c * v, height]), np.array([0.0, 0.0, -1.0]), -angle,
        float(x), float(y), float(max(radius, 0.005)), float(x),
    )  # fmt: skip


#: Share of the ways out of a body that must be barred for it to be closed.
_BARRED = 0.97


def closed(part: Part, top: EmbreeScene, at: Array) -> bool:
    """Whether light from a place in a body meets something before it leaves the body's box."""
    low, high = part_bounds(part)
    ways = evenly(200)
    with np.errstate(divide="ignore"):
        leaves = np.maximum((low - at) / ways, (high - at) / ways).min(axis=1)
    met = top.distances(np.broadcast_to(at, ways.shape), ways)
    return bool((met < leaves + 0.01).mean() > _BARRED)


Ends = tuple[float, float]


def _turned(corners: Array, area: Array, angle_deg: float) -> tuple[float, Ends, Ends]:
    """Ends of a body along an axis ``angle_deg`` from x and across it."""
    c, t = np.cos(np.radians(angle_deg)), np.sin(np.radians(angle_deg))
    along, across = (
        corners[..., 0] * c + corners[..., 1] * t,
        corners[..., 1] * c - corners[..., 0] * t,
    )
    return angle_deg, _bulk(along, area), _bulk(across, area)


def _bulk(values: Array, area: Array) -> Ends:
    """Ends along one axis between which a body has breadth; values (n, 3) of its corners.

    The surface in each of many slices is reckoned up; thin slices at the ends are cables and rods.
    """
    low, high = values.min(axis=1), values.max(axis=1)
    if len(low) > MOST_FACES:
        step = len(low) // MOST_FACES + 1
        low, high, area = low[::step], high[::step], area[::step]
    edges = np.linspace(low.min(), high.max(), SLICES + 1)
    below = np.clip((edges[:, None] - low) / np.maximum(high - low, 1e-6), 0, 1) @ area
    # A face that lies in the last edge belongs to the last slice.
    below[-1] = area.sum()
    slices = np.diff(below)
    usual = float((slices**2).sum() / max(slices.sum(), 1e-12))
    broad = np.nonzero(slices > THIN * usual)[0]
    if not len(broad):
        return float(low.min()), float(high.max())
    return float(edges[broad[0]]), float(edges[broad[-1] + 1])


def carried(place_: Mapping[str, Any], motion: Array) -> dict[str, Any]:
    """A place of a lamp (position in metres, direction, roll in degrees) after a rigid 4×4 motion."""
    turn = motion[:3, :3]
    position = turn @ np.asarray(place_["position"], float) + motion[:3, 3]
    right = axes_towards(tuple(place_["direction"]), place_.get("roll_deg", 0.0), "lamp")[0]
    direction = turn @ np.asarray(place_["direction"], float)
    to = tuple(float(v) for v in direction)
    a, b, _ = axes_towards((to[0], to[1], to[2]), 0.0, "lamp")
    roll = np.degrees(np.arctan2((turn @ right) @ b, (turn @ right) @ a))
    return {"position": [round(float(v), 4) for v in position],
            "direction": [round(v, 5) for v in to], "roll_deg": round(float(roll), 2)}  # fmt: skip
