"""Parts of the building in the hand: where those lie that were moved or copied, and what they are drawn along."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Literal

import numpy as np

from westlight.core.model import Part
from westlight.core.model.parts import part_bounds
from westlight.core.transport.surfaces import surface_under

from .asked import Asked, Point
from .building import part_at
from .surfaces import FAR_M, MOST_THROUGH, Array, Spot, nearest_on_line, point, surface_at

Which = Literal["part", "copy"]
#: Surfaces that are as level as this carry what stands; gap in metres below what still stands.
LEVEL_COSINE, STANDS_M = 0.7, 0.06
#: How far beside a foot its floor is looked for, in metres.
BESIDE_M = 0.03


def held_parts(a: Asked) -> Iterator[tuple[Which, str, str, Part]]:
    """Parts that were moved and copies of parts: by what they are known, what they are called, as they stand."""
    model, scene = a.p.spec.model, a.p.scene
    if model is None or scene is None:
        return
    e = model.edits
    copies = {c.name: c for c in e.copies}
    for part in scene.parts:
        if not part.movable or not len(part.mesh.faces):
            continue
        if part.name in copies:
            yield "copy", copies[part.name].id, part.name, part
        elif part.name in e.moved:
            yield "part", part.name, e.names.get(part.name, part.name), part


def moved_by(a: Asked, kind: Which, of: str, spot: Spot, lift: bool) -> Point | None:
    """How far from where its file has it a part stands that is drawn to a point of the picture; None if it stays.

    What stands on something goes along what is level, what hangs on a wall along walls, all else level; lifted, upright. Of
    parts of one name the first is drawn, and the others go with it.
    """
    model = a.p.spec.model
    assert model is not None
    part = next((p for k, name, _, p in held_parts(a) if (k, name) == (kind, of)), None)
    if part is None:
        return None
    e = model.edits
    by = e.moved[of].by if kind == "part" else next(c.by for c in e.copies if c.id == of)
    middle = middle_of(part)
    moved = _lifted(a, middle, spot) if lift else _along(a, part, middle, spot)
    return None if moved is None else point(np.asarray(by, float) + moved - middle)


def part_seen(a: Asked, x: float, y: float) -> str | None:
    """Name of the part that is seen at a point of the picture."""
    hit = None if a.p.assembled is None else surface_under(a.p.assembled, *a.view.ray(x, y))
    part = None if hit is None else part_at(a.p, int(hit[7]), int(hit[8]))
    return None if part is None else part.name


def middle_of(part: Part) -> Array:
    """Middle of the box of a part, in metres (3,): where it is taken hold of."""
    low, high = part_bounds(part)
    return np.asarray((low + high) / 2)


def _lifted(a: Asked, middle: Array, spot: Spot) -> Array | None:
    return nearest_on_line(middle, np.array([0.0, 0.0, 1.0]), *a.view.ray(spot.x, spot.y))


def _along(a: Asked, part: Part, middle: Array, spot: Spot) -> Array | None:
    low, high = part_bounds(part)
    hit, stands = surface_at(a, spot, part.name), _stands(a, part)
    if hit is not None:
        at, normal = hit
        level, upright = normal[2] > LEVEL_COSINE, abs(normal[2]) < 1 - LEVEL_COSINE
        if level and stands:
            return np.array([at[0], at[1], at[2] + middle[2] - low[2]])
        if upright and not stands:
            # It touches the wall it is drawn along.
            return np.asarray(at + normal * (np.abs(normal) @ (high - low) / 2))
    origin, ray = a.view.ray(spot.x, spot.y)
    t = (middle[2] - origin[2]) / ray[2] if abs(float(ray[2])) > 1e-3 else -1.0
    return np.asarray(origin + t * ray) if 0 < t < FAR_M else None


def _stands(a: Asked, part: Part) -> bool:
    """Whether a part stands on something: below its foot, or right beside it, there is a surface of another at that height.

    Where a foot and its floor lie in one plane the ray from within finds either; beside it there is the floor alone.
    """
    assert a.p.assembled is not None
    low, high = part_bounds(part)
    out = BESIDE_M / np.maximum((high - low)[:2], BESIDE_M)
    inner = [(0.5, 0.5), (0.15, 0.15), (0.85, 0.15), (0.15, 0.85), (0.85, 0.85)]
    beside = [(-out[0], 0.5), (1 + out[0], 0.5), (0.5, -out[1]), (0.5, 1 + out[1])]
    for u, v in inner + beside:
        at = np.array(
            [low[0] + u * (high[0] - low[0]), low[1] + v * (high[1] - low[1]), low[2] + STANDS_M]
        )
        if _carried(a, part, at, low[2]):
            return True
    return False


def _carried(a: Asked, part: Part, at: Array, foot_m: float) -> bool:
    assert a.p.assembled is not None
    for _ in range(MOST_THROUGH):
        hit = surface_under(a.p.assembled, at, np.array([0.0, 0.0, -1.0]))
        if hit is None or foot_m - hit[2] > STANDS_M:
            return False
        found = part_at(a.p, int(hit[7]), int(hit[8]))
        if found is None or found.name != part.name:
            return True
        at = np.array([hit[0], hit[1], hit[2] - 1e-3])
    return False
