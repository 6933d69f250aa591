"""What the rooms are built of: boxes, and walls with holes in them. Metres, z up."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise

from westlight.core.model import Material, Mesh, Part

Point = tuple[float, float, float]
#: A hole in a wall: from, to along the wall, and from, to in height.
Hole = tuple[float, float, float, float]
_FACES = [
    [0, 1, 3], [0, 3, 2], [4, 6, 7], [4, 7, 5], [0, 4, 5], [0, 5, 1],
    [2, 3, 7], [2, 7, 6], [0, 2, 6], [0, 6, 4], [1, 5, 7], [1, 7, 3],
]  # fmt: skip
PLASTER = Material(0.82, name="white paint")
FLOOR = Material((0.42, 0.34, 0.26), roughness=0.55, name="oak")
CONCRETE = Material(0.38, roughness=0.8, name="concrete")
GLASS = Material(0.97, transmission=1.0, ior=1.52, name="glass")
STEEL = Material(0.12, roughness=0.6, name="frame")


def box(name: str, low: Point, high: Point, material: Material) -> Part:
    """A box between two corners."""
    points = [
        [x, y, z] for x in (low[0], high[0]) for y in (low[1], high[1]) for z in (low[2], high[2])
    ]
    return Part(name, Mesh.single(name, points, _FACES, material))


def sheet(name: str, corners: Sequence[Point], material: Material) -> Part:
    """A flat sheet with four corners, anticlockwise seen from its front."""
    return Part(name, Mesh.single(name, corners, [[0, 1, 2], [0, 2, 3]], material))


def wall(
    name: str, low: Point, high: Point, holes: Sequence[Hole], material: Material
) -> list[Part]:
    """A wall that fills a box, along its longer level side, with holes right through."""
    along = 0 if high[0] - low[0] > high[1] - low[1] else 1
    cuts = sorted({low[along], high[along], *(v for h in holes for v in h[:2])})
    rises = sorted({low[2], high[2], *(v for h in holes for v in h[2:])})
    parts: list[Part] = []
    for a, b in pairwise(cuts):
        # Cells above one another that are no holes are one piece.
        solid = [
            (z0, z1) for z0, z1 in pairwise(rises)
            if not any(h[0] <= a and b <= h[1] and h[2] <= z0 and z1 <= h[3] for h in holes)
        ]  # fmt: skip
        joined: list[tuple[float, float]] = []
        for z0, z1 in solid:
            if joined and joined[-1][1] == z0:
                joined[-1] = (joined[-1][0], z1)
            else:
                joined.append((z0, z1))
        for z0, z1 in joined:
            p, q = list(low), list(high)
            p[along], q[along], p[2], q[2] = a, b, z0, z1
            label = f"{name} {len(parts) + 1}"
            parts.append(box(label, (p[0], p[1], p[2]), (q[0], q[1], q[2]), material))
    return parts


def window(name: str, low: Point, high: Point, bars: int = 1) -> list[Part]:
    """A frame around the edge of a thin box, with upright bars, and a pane in its middle."""
    along = 0 if high[0] - low[0] > high[1] - low[1] else 1
    across, t = 1 - along, 0.05
    holes: list[Hole] = []
    step = (high[along] - low[along] - t) / bars
    for i in range(bars):
        a = low[along] + t + i * step
        holes.append((a, a + step - t, low[2] + t, high[2] - t))
    parts = wall(f"{name} frame", low, high, holes, STEEL)
    middle = (low[across] + high[across]) / 2
    corners: list[Point] = []
    for u, z in ((low, low), (high, low), (high, high), (low, high)):
        p = [0.0, 0.0, z[2]]
        p[along], p[across] = u[along], middle
        corners.append((p[0], p[1], p[2]))
    parts.append(sheet(f"{name} pane", corners, GLASS))
    return parts


def shell(width: float, depth: float, height: float, floor: Material = FLOOR,
          ceiling: Material = PLASTER) -> list[Part]:  # fmt: skip
    """Floor and ceiling slabs over 0…width, 0…depth, a quarter of a metre thick."""
    return [
        box("floor", (-0.3, -0.3, -0.25), (width + 0.3, depth + 0.3, 0.0), floor),
        box("ceiling", (-0.3, -0.3, height), (width + 0.3, depth + 0.3, height + 0.25), ceiling),
    ]
