"""The question where a lamp lands that is put into the picture, or onto the plan."""

from __future__ import annotations

from typing import Annotated

import numpy as np
import numpy.typing as npt
from pydantic import Field

from westlight.core.analysis import Snap, closed, fitted, room_around, snapped
from westlight.core.errors import WestlightError
from westlight.core.model import Part
from westlight.core.model.parts import part_bounds
from westlight.core.model.tags import guessed_tag
from westlight.core.sources import SHAPES
from westlight.core.transport.surfaces import surface_under

from ..live.prepared import Prepared
from ..spec import FixtureSettings, Settings
from ..spec.base import dial
from .asked import Answer, Asked, Point
from .building import TOO_NEAR_M, part_at

Array = npt.NDArray[np.float64]
#: How near a click must be to what draws it: a share of the distance, and metres at least.
SNAP_SHARE, NEAREST_SNAP_M = 0.04, 0.15
#: How far under a closed body a flat lamp lies, in metres.
UNDER_M = 0.01
#: Farther off its surface than this a lamp hangs free.
HANGS_M = 0.3


class Landing(Settings):
    """A lamp of a shape put at a point of the picture, or ``on_plan`` at a place of it in metres."""

    x: float
    y: float
    shape: Annotated[str, Field(max_length=40)]
    off_m: float = dial(0, 0, 100, "Off surface", 0.05, "m", shown=(0, 6))
    snap: bool
    on_plan: Point | None = None


class Sizes(Answer):
    """Sizes of an emitter that fit a body, in metres."""

    width: float
    height: float
    radius: float
    length: float


class Landed(Answer):
    """Where a lamp lands that is put at a point of the picture, and what drew it ``to`` there."""

    hit: bool
    position: Point | None = None
    direction: Point | None = None
    roll_deg: float = 0.0
    to: str = ""
    sizes: Sizes | None = None


def land(a: Asked, of: Landing) -> Landed:
    """Where a lamp lands, and how it is turned.

    ``off_m`` from the surface, shining down if it hangs high over a floor. On the plan it is put at the height of
    the cut: on the ceiling above, or so far off the floor below. With ``snap`` it goes into a lamp body that is
    clicked, sized to it, or is drawn to the middle of the room, its axes and the lamps there.
    """
    p = a.p
    if p.assembled is None or p.scene is None:
        return Landed(hit=False)
    ray = a.view.ray(of.x, of.y)
    if of.on_plan is not None:
        up = -1.0 if of.off_m > 0 else 1.0
        ray = np.asarray(of.on_plan, float), np.array([0.0, 0.0, up])
    hit = surface_under(p.assembled, *ray)
    if hit is None:
        return Landed(hit=False)
    part = part_at(p, int(hit[7]), int(hit[8]))
    if of.snap and of.off_m == 0 and part is not None and _is_lamp(p, part):
        return _in_body(p, part, of.shape)
    normal = np.asarray(hit[3:6], float)
    at = np.asarray(hit[:3], float) + normal * of.off_m
    hangs = of.off_m > HANGS_M and normal[2] > 0.7
    to = Snap(at)
    if of.snap:
        near = max(NEAREST_SNAP_M, SNAP_SHARE * float(hit[6]))
        to = _drawn_to(p, at, normal, of.off_m, near)
    return Landed(hit=True, position=_point(to.position),
                  direction=(0.0, 0.0, -1.0) if hangs else _point(normal), to=to.to)  # fmt: skip


def _point(values: Array) -> Point:
    x, y, z = (round(float(v), 4) for v in values)
    return x, y, z


def _in_body(p: Prepared, part: Part, shape: str) -> Landed:
    """Landing inside a lamp body; right under it, if it is closed."""
    assert p.scene is not None
    fit = fitted(part, shape)
    position, to = fit.position, f"the inside of “{part.name}”"
    if closed(part, p.scene.bare(), position):
        clear = UNDER_M if SHAPES[shape].one_sided else TOO_NEAR_M + fit.radius
        position = np.array([*position[:2], part_bounds(part)[0][2] - clear])
        to = f"the underside of “{part.name}”"
    sizes = {n: round(getattr(fit, n), 3) for n in ("width", "height", "radius", "length")}
    return Landed(hit=True, position=_point(position), direction=_point(fit.direction),
                  roll_deg=fit.roll_deg, to=to, sizes=Sizes(**sizes))  # fmt: skip


def _is_lamp(p: Prepared, part: Part) -> bool:
    tags = {} if p.spec.model is None else p.spec.model.edits.tags
    return (tags.get(part.name) or guessed_tag(part.name, part.mesh.materials)) == "lamp body"


def _drawn_to(p: Prepared, at: Array, normal: Array, off_m: float, within_m: float) -> Snap:
    """A place drawn to what is near, unless its surface ends before that."""
    assert p.scene is not None
    bare = p.scene.bare()
    try:
        room = room_around(bare, at + normal * 0.3)
    except WestlightError:
        room = None
    lamps = [place.position for s in p.spec.sources if isinstance(s.settings, FixtureSettings)
             for place in s.settings.places]  # fmt: skip
    to = snapped(at, normal, room, lamps, within_m)
    step = 0.05
    gap = float(bare.distances((to.position + normal * step)[None], -normal[None])[0])
    there = off_m > HANGS_M or abs(gap - step - off_m) < 0.03
    return to if there else Snap(at)
