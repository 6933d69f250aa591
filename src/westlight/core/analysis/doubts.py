"""What is doubtful about a scene: emitters that touch surfaces, and holes that leak daylight."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from ..transport.embree import EmbreeScene
from ..transport.portals import Portal

Array = npt.NDArray[np.float64]
#: Rays that look for holes; of the upper half a room must close off so many to be a room.
LOOKS, INSIDE_SHARE = 6000, 0.55
#: Exits nearer to each other than this are one hole, in metres along the walls.
ONE_HOLE_M = 1.2
#: Holes seen from two places are the same if they seem no farther apart than this, in metres.
SAME_HOLE_M = 1.5


#: What is nearer than this to the camera, in metres, and fills so much of the picture hides the view.
HIDES_M, HIDES_SHARE = 0.25, 0.3
#: A camera with something nearer than this, in metres, in so many directions stands in a body.
IN_BODY_M, IN_BODY_SHARE, IN_BODY_LOOKS = 0.5, 0.5, 256


def evenly(count: int) -> Array:
    """Unit directions (count, 3) spread evenly."""
    z = 1 - 2 * (np.arange(count) + 0.5) / count
    phi = np.arange(count) * 2.399963
    r = np.sqrt(1 - z * z)
    return np.stack([r * np.cos(phi), r * np.sin(phi), z], axis=1)


def view_doubt(
    top: EmbreeScene,
    position: Sequence[float],
    depth_m: npt.NDArray[np.float32],
    alpha: npt.NDArray[np.float32],
) -> str | None:
    """Words about a view that something hides, with a remedy; None if it is free.

    ``top`` is the scene as rays meet it, ``position`` the camera in metres, ``depth_m`` (h, w) in metres from it,
    ``alpha`` (h, w) the share of each pixel where anything is.
    """
    cure = "move it, or cut away what is near."
    ways = evenly(IN_BODY_LOOKS)
    around = top.distances(np.broadcast_to(np.asarray(position, float), ways.shape), ways)
    if float((around < IN_BODY_M).mean()) >= IN_BODY_SHARE:
        return f"The camera stands in a wall or another body: {cure}"
    share = float(((depth_m < HIDES_M) & (alpha > 0.5)).mean())
    if share < HIDES_SHARE:
        return None
    return f"Something close to the camera hides {share * 100:.0f} % of the picture: {cure}"


@dataclass(frozen=True)
class Near:
    """The nearest surface around a point: distance in metres, unit direction away from it."""

    distance_m: float
    away: Array


def close_surface(
    top: EmbreeScene, position: Sequence[float], shines: Sequence[float] | None, within_m: float
) -> Near | None:
    """The nearest surface within metres of a point, on the side an emitter ``shines`` to (None: all).

    A surface it shines away from does no harm. None if there is none.
    """
    at, ways = np.asarray(position, float), evenly(160)
    if shines is not None:
        n = np.asarray(shines, float)
        # Grazing directions carry little light and would meet the surface it is mounted on.
        ways = ways[ways @ (n / max(float(np.linalg.norm(n)), 1e-9)) > 0.3]
    distances = top.distances(np.broadcast_to(at, ways.shape), ways)
    k = int(np.argmin(distances))
    if not distances[k] < within_m:
        return None
    return Near(float(distances[k]), -ways[k])


#: An emitter is shut in if so much of what it shines at is so near, in metres.
SHUT_IN_SHARE, SHUT_IN_M = 0.95, 0.3
#: How far out of what shuts it in an emitter is put, and walls thinner than this are one.
_CLEAR_M, _SHELL_M = 0.03, 0.12


def way_out(
    top: EmbreeScene, position: Sequence[float], shines: Sequence[float] | None
) -> Array | None:
    """Move in metres that brings an emitter out of the body it is shut in; None if it is free.

    It is shut in if nearly all it ``shines`` at (None: all around) is within `SHUT_IN_M`. Out is the
    way it shines, or down, through a shell of up to 12 cm.
    """
    at, ways = np.asarray(position, float), evenly(200)
    ahead = np.asarray((0.0, 0.0, -1.0) if shines is None else shines, float)
    ahead = ahead / max(float(np.linalg.norm(ahead)), 1e-9)
    if shines is not None:
        ways = ways[ways @ ahead > 0.0]
    met = top.distances(np.broadcast_to(at, ways.shape), ways)
    if float((met < SHUT_IN_M).mean()) < SHUT_IN_SHARE:
        return None
    gone = 0.0
    for _ in range(3):
        step = float(top.distances((at + ahead * gone)[None], ahead[None])[0])
        if gone > 0 and step > _SHELL_M:
            break
        gone += min(step, SHUT_IN_M) + 1e-4
    return np.asarray(ahead * (gone + _CLEAR_M))


@dataclass(frozen=True)
class Leak:
    """A hole: share of all directions that see the sky by it, and a place near it in metres."""

    share: float
    position: Array


@dataclass(frozen=True)
class Leaks:
    """Whether any place lies in a room at all, and the holes seen from them, largest first."""

    inside: bool
    leaks: list[Leak]


def find_leaks(
    top: EmbreeScene, places: Sequence[Sequence[float] | Array], openings: Sequence[Portal]
) -> Leaks:
    """Holes by which the open sky is seen from places in rooms, though no opening is there.

    An open door is one of them as long as it has no opening. Places under the open sky see none;
    a hole seen from several places counts once, as it is seen best.
    """
    inside, found = False, list[Leak]()
    for place in places:
        at = np.asarray(place, float)
        seen = _leaks_from(top, at, openings)
        inside |= seen is not None
        for leak in seen or []:
            if all(np.linalg.norm(leak.position - x.position) > SAME_HOLE_M for x in found):
                found.append(leak)
            else:
                found = [leak if np.linalg.norm(leak.position - x.position) <= SAME_HOLE_M
                         and leak.share > x.share else x for x in found]  # fmt: skip
    return Leaks(inside, sorted(found, key=lambda x: -x.share)[:8])


def _leaks_from(top: EmbreeScene, at: Array, openings: Sequence[Portal]) -> list[Leak] | None:
    """Holes seen from one place; None if it lies in no room."""
    ways = evenly(LOOKS)
    distances = top.distances(np.broadcast_to(at, ways.shape), ways)
    gone = ~np.isfinite(distances)
    if float((~gone[ways[:, 2] > 0]).mean()) <= INSIDE_SHARE:
        return None
    free = ways[gone]
    for p in openings:
        free = free[~leaving_by(p, at, free)]
    # A hole lies about as far as what is met around it.
    met = ~gone
    groups: list[list[Array]] = []
    for d in free:
        around = met & (ways @ d > 0.97)
        reach = float(np.median(distances[around])) if around.any() else 3.0
        exit_ = at + d * min(reach, 30.0)
        near = next((g for g in groups if min(np.linalg.norm(q - exit_) for q in g) < ONE_HOLE_M),
                    None)  # fmt: skip
        (near.append(exit_) if near is not None else groups.append([exit_]))
    return [Leak(len(g) / LOOKS, np.mean(g, axis=0)) for g in groups if len(g) > 2]


def leaving_by(p: Portal, at: Array, ways: Array) -> npt.NDArray[np.bool_]:
    """Which rays from a point leave by a portal."""
    u, v, n = p.axes()
    middle = np.asarray(p.position, float)
    facing = ways @ n
    t = ((middle - at) @ n) / np.where(np.abs(facing) > 1e-6, facing, 1e-6)
    hit = at + ways * t[:, None] - middle
    inside = (np.abs(hit @ u) <= p.width / 2 + 0.05) & (np.abs(hit @ v) <= p.height / 2 + 0.05)
    return np.asarray((t > 0) & inside)
