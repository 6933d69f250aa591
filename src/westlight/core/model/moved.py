"""Parts of a building that an artist moved, turned, made larger or copied, without touching its file."""

from __future__ import annotations

import math
from collections.abc import Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from .parts import Part, part_bounds

Array = npt.NDArray[np.float64]


@dataclass(frozen=True)
class Placement:
    """How a part stands against where its file has it.

    ``by`` is metres in the building's axes, ``turn_deg`` counter-clockwise seen from above about the upright line through
    its middle, ``size`` a factor from its foot.
    """

    by: tuple[float, float, float] = (0.0, 0.0, 0.0)
    turn_deg: float = 0.0
    size: float = 1.0


@dataclass(frozen=True)
class Copy:
    """One more of a part (``of``, by name), with a name of its own."""

    name: str
    of: str
    placement: Placement


def foot_of(part: Part) -> Array:
    """What a part is turned and scaled about: the middle of the foot of its box, in metres (3,)."""
    low, high = part_bounds(part)
    return np.array([(low[0] + high[0]) / 2, (low[1] + high[1]) / 2, low[2]])


def stood(part: Part, placement: Placement) -> Part:
    """A part as it is placed; what is placed can be placed otherwise without building anything again."""
    a, k = math.radians(placement.turn_deg), placement.size
    turn = (
        np.array([[math.cos(a), -math.sin(a), 0], [math.sin(a), math.cos(a), 0], [0, 0, 1.0]]) * k
    )
    foot = foot_of(part) if len(part.mesh.faces) else np.zeros(3)
    m = np.eye(4)
    m[:3, :3] = turn
    m[:3, 3] = foot + np.asarray(placement.by, float) - turn @ foot
    return replace(part, matrix=m @ part.matrix, movable=True)


def with_moved(
    parts: Sequence[Part], moved: Mapping[str, Placement], copies: Sequence[Copy] = (),
    hidden: Collection[str] = (),
) -> list[Part]:  # fmt: skip
    """Parts as they stand but for hidden ones, every part of a name alike, and the copies after them.

    A copy of a name that several parts have copies each of them, about the foot of its own. Copies are made of what their
    original is in the file, wherever that was moved to, and stay where it is hidden.
    """
    out = [stood(p, moved[p.name]) if p.name in moved else p
           for p in parts if p.name not in hidden]  # fmt: skip
    named: dict[str, list[Part]] = {}
    if copies:
        for p in parts:
            named.setdefault(p.name, []).append(p)
    return out + [p for c in copies for p in _copied(c, named.get(c.of, []))]


def _copied(copy: Copy, originals: Sequence[Part]) -> Iterator[Part]:
    for part in originals:
        yield replace(
            stood(part, copy.placement), name=copy.name, path=(*part.path[:-1], copy.name)
        )
