"""What a hand in the picture draws things along: the surface under a point, and lines through space."""

from __future__ import annotations

from typing import Protocol

import numpy as np
import numpy.typing as npt

from westlight.core.transport.surfaces import surface_under

from .asked import Asked, Point
from .building import part_at

Array = npt.NDArray[np.float64]
#: Surfaces a ray may pass that do not count, and the farthest that something is drawn, in metres.
MOST_THROUGH, FAR_M = 12, 200.0


class Spot(Protocol):
    """A point of the picture, 0…1 from its top left."""

    x: float
    y: float


def surface_at(a: Asked, of: Spot, without: str) -> tuple[Array, Array] | None:
    """Place and normal of the surface under a point of the picture, but for lamps' bodies and the part that is moved."""
    assert a.p.assembled is not None
    origin, ray = a.view.ray(of.x, of.y)
    for _ in range(MOST_THROUGH):
        hit = surface_under(a.p.assembled, origin, ray)
        if hit is None:
            return None
        part = part_at(a.p, int(hit[7]), int(hit[8]))
        if part is not None and (not part.movable or part.name != without):
            return np.asarray(hit[:3], float), np.asarray(hit[3:6], float)
        origin = np.asarray(hit[:3], float) + 1e-3 * ray
    return None


def nearest_on_line(at: Array, along: Array, origin: Array, ray: Array) -> Array | None:
    """The point of a line that a ray passes nearest; None for a ray along it."""
    b = float(along @ ray)
    if abs(b) > 0.999:
        return None
    w = at - origin
    return np.asarray(at + along * float((b * (ray @ w) - along @ w) / (1 - b * b)))


def point(values: npt.ArrayLike) -> Point:
    x, y, z = (round(float(v), 4) for v in np.asarray(values, float))
    return x, y, z
