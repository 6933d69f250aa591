"""Finding the openings of a building: glazed faces gathered into rectangles that face inwards.

Panes that lie in one plane and stand close together (the lights of one window, between its bars)
make one opening. Which side is the room is found by rays: the side from which less sky is seen.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from ..model.parts import Part, place
from ..transport.embree import EmbreeScene
from ..transport.portals import Portal

Array = npt.NDArray[np.float64]
#: Panes nearer to each other than this belong to one opening, in metres.
GAP_M = 0.25
#: Smaller glazed faces are not openings worth a portal, in m².
LEAST_M2 = 0.15
#: Portals beyond this number would cost more than they save; the largest are kept.
MOST = 24
_PROBE_M = 0.25


@dataclass(frozen=True)
class _Face:
    normal: Array
    offset: float
    points: Array


def find_openings(parts: Sequence[Part], top: EmbreeScene) -> list[Portal]:
    """Portals for the glazed openings of a building, largest first, facing inwards.

    ``top`` is the building as rays meet it. Panes between two rooms, or with sky on both sides, are left out.
    """
    found = []
    for group in _groups(_pane_faces(parts)):
        portal = _rectangle(group)
        if portal is not None:
            inward = facing_room(portal, top)
            if inward is not None:
                found.append(_with_gaps(inward, top))
    found.sort(key=lambda p: -p.width * p.height)
    return [
        Portal(
            p.position, p.inward, p.width, p.height, roll_deg=p.roll_deg, name=f"Opening {i + 1}"
        )
        for i, p in enumerate(found[:MOST])
    ]


#: A gap beside a pane belongs to its opening: looked for in strips of this width, so many on each side,
#: open if this share of the ways straight through, so far on both sides, meets nothing.
STRIP_M, STRIPS, OPEN_STRIP, THROUGH_M = 0.03, 5, 0.2, 0.5


def _with_gaps(portal: Portal, top: EmbreeScene) -> Portal:
    """A portal widened by the gaps beside its pane: light by them is found by luck otherwise."""
    u, v, n = portal.axes()
    half = {0: portal.width / 2, 1: portal.height / 2}
    low, high = [-half[0], -half[1]], [half[0], half[1]]
    along = np.linspace(-0.96, 0.96, 25)
    for axis in (0, 1):
        for side in (-1.0, 1.0):
            for _ in range(STRIPS):
                edge = high[axis] if side > 0 else low[axis]
                at = np.zeros((len(along), 2))
                at[:, axis] = edge + side * STRIP_M / 2
                at[:, 1 - axis] = along * half[1 - axis]
                places = np.asarray(portal.position, float) + at[:, :1] * u + at[:, 1:] * v
                met = top.distances(places + n * THROUGH_M, np.broadcast_to(-n, places.shape))
                if float((met > 2 * THROUGH_M).mean()) < OPEN_STRIP:
                    break
                if side > 0:
                    high[axis] += STRIP_M
                else:
                    low[axis] -= STRIP_M
    middle = [(a + b) / 2 for a, b in zip(low, high, strict=True)]
    position = np.asarray(portal.position, float) + u * middle[0] + v * middle[1]
    return replace(
        portal, position=tuple(position), width=high[0] - low[0], height=high[1] - low[1]
    )


#: Names of the sides of a building, clockwise from north.
SIDES = ("North", "North-east", "East", "South-east", "South", "South-west", "West", "North-west")
#: Openings tilted more than this from the upright lie in a roof: share of their normal that is vertical.
ROOF = 0.25


def side_of(portal: Portal, north_deg: float) -> tuple[str, float | None]:
    """Group of an opening by the side it is on, and the azimuth it lets light in to; None from above.

    ``north_deg`` is how far the model's y axis lies clockwise of north. A group is named after where
    the outdoors are: "South windows", "North roof lights", "West doorways".
    """
    x, y, z = portal.inward
    if abs(z) > 0.95:
        return "Roof lights", None
    inward = (np.degrees(np.arctan2(x, y)) + north_deg) % 360
    side = SIDES[round((inward + 180) / 45) % 8]
    doorway = portal.name.startswith("Doorway")
    kind = "doorways" if doorway else "roof lights" if abs(z) > ROOF else "windows"
    return f"{side} {kind}", round(float(inward), 1)


#: Share of the ways through an opening that must be barred for it to count as closed, and how far
#: from its plane they begin and end, in metres.
BARRED, BEFORE_M, BEYOND_M = 0.85, 0.25, 0.8


def doubt_of(portal: Portal, top: EmbreeScene) -> str | None:
    """What is wrong with an opening as it stands: it faces outdoors, or something closes it."""
    facing = facing_room(portal, top)
    n = np.asarray(portal.inward, float)
    if facing is not None and float(np.asarray(facing.inward) @ n) < 0:
        return "It faces outdoors: turn it round."
    u, v, n = portal.axes()
    spots = np.array([
        np.asarray(portal.position) + u * portal.width * x + v * portal.height * y
        for x in (-0.4, -0.2, 0.0, 0.2, 0.4) for y in (-0.4, -0.2, 0.0, 0.2, 0.4)
    ])  # fmt: skip
    starts = spots + n * BEFORE_M
    met = top.distances(starts, np.broadcast_to(-n, starts.shape))
    if float((met < BEFORE_M + BEYOND_M).mean()) > BARRED:
        return "Something closes it: a shutter, a wall, or glass without a clear path."
    return None


def portal_between(a: Sequence[float], b: Sequence[float], top: EmbreeScene) -> Portal | None:
    """The opening with two opposite corners (metres): upright, or level if they are at one height.

    It faces the room; None if it is smaller than 15 cm or has a room or the open air on both sides.
    """
    p, q = np.asarray(a, float), np.asarray(b, float)
    middle, across = (p + q) / 2, q - p
    width = float(np.hypot(across[0], across[1]))
    if abs(across[2]) < 0.15:
        if np.abs(across[:2]).min() < 0.15:
            return None
        made = Portal(tuple(middle), (0, 0, -1), abs(float(across[0])), abs(float(across[1])))
    elif width < 0.15:
        return None
    else:
        normal = (-float(across[1]) / width, float(across[0]) / width, 0.0)
        made = Portal(tuple(middle), normal, width, abs(float(across[2])))
    return facing_room(made, top)


def _pane_faces(parts: Sequence[Part]) -> list[_Face]:
    """Large flat glazed pieces: triangles of a mesh's panes by plane."""
    out: list[_Face] = []
    for part in parts:
        mesh = part.mesh
        panes = np.array([m.is_pane for m in mesh.materials], bool)
        if not panes.any() or not len(mesh.faces):
            continue
        faces = mesh.faces[panes[mesh.face_material]]
        corners = place(part.matrix, mesh.vertices)[faces]
        normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
        area = np.linalg.norm(normals, axis=1) / 2
        good = area > 1e-6
        corners, normals = corners[good], normals[good] / (2 * area[good])[:, None]
        # One sign for both faces of a pane.
        lead = np.take_along_axis(normals, np.abs(normals).argmax(axis=1)[:, None], 1)
        normals *= np.sign(lead)
        offsets = (normals * corners[:, 0]).sum(axis=1)
        keys = np.concatenate([np.round(normals * 20), np.round(offsets[:, None] / 0.1)], axis=1)
        _, index = np.unique(keys, axis=0, return_inverse=True)
        for k in range(int(index.max()) + 1 if len(index) else 0):
            mine = index.ravel() == k
            if area[good][mine].sum() < 0.01:
                continue
            out.append(_Face(normals[mine].mean(axis=0), float(offsets[mine].mean()),
                             corners[mine].reshape(-1, 3)))  # fmt: skip
    return out


def _groups(faces: list[_Face]) -> list[list[_Face]]:
    """Faces of nearly one plane whose boxes touch or nearly touch."""
    owner = list(range(len(faces)))

    def root(i: int) -> int:
        while owner[i] != i:
            owner[i] = owner[owner[i]]
            i = owner[i]
        return i

    boxes = [(f.points.min(axis=0) - GAP_M / 2, f.points.max(axis=0) + GAP_M / 2) for f in faces]
    for i, a in enumerate(faces):
        for j in range(i):
            b = faces[j]
            if abs(float(a.normal @ b.normal)) < 0.98 or abs(a.offset - b.offset) > 0.12:
                continue
            if (boxes[i][0] <= boxes[j][1]).all() and (boxes[j][0] <= boxes[i][1]).all():
                owner[root(i)] = root(j)
    groups: dict[int, list[_Face]] = {}
    for i, face in enumerate(faces):
        groups.setdefault(root(i), []).append(face)
    return list(groups.values())


def _rectangle(group: list[_Face]) -> Portal | None:
    """The rectangle around a group in its plane, upright where the plane is."""
    normal = np.mean([f.normal for f in group], axis=0)
    normal /= np.linalg.norm(normal)
    points = np.concatenate([f.points for f in group])
    flat = Portal((0, 0, 0), tuple(normal), 1.0, 1.0)
    u, v, n = flat.axes()
    a, b, c = points @ u, points @ v, points @ n
    width, height = float(np.ptp(a)), float(np.ptp(b))
    if width * height < LEAST_M2 or min(width, height) < 0.15:
        return None
    middle = u * (a.min() + a.max()) / 2 + v * (b.min() + b.max()) / 2 + n * c.mean()
    return Portal(tuple(float(x) for x in middle), tuple(float(x) for x in n), width, height)


def facing_room(portal: Portal, top: EmbreeScene) -> Portal | None:
    """The portal turned to face the room; None if both sides are outdoors or both inside."""
    middle, n = np.asarray(portal.position), np.asarray(portal.inward)
    u, v, _ = portal.axes()
    spots = [middle + u * portal.width * x + v * portal.height * y
             for x in (-0.25, 0.0, 0.25) for y in (-0.25, 0.25)]  # fmt: skip
    front, back = (
        float(np.mean([top.open_share(s + n * side * _PROBE_M, _SKYWARD) for s in spots]))
        for side in (1.0, -1.0)
    )
    if abs(front - back) < 0.1:
        return None
    inward = n if front < back else -n
    return Portal(portal.position, tuple(float(x) for x in inward), portal.width, portal.height)


def _skyward(count: int = 48) -> Array:
    """Directions spread evenly over the upper half of the sphere."""
    z = (np.arange(count) + 0.5) / count
    phi = np.arange(count) * 2.399963
    r = np.sqrt(1 - z * z)
    return np.stack([r * np.cos(phi), r * np.sin(phi), z], axis=1)


_SKYWARD = _skyward()
