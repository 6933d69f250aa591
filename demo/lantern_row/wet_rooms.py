"""Kitchen with a stone top and glossy fronts, and the bathroom with its mirror and tiles."""

from __future__ import annotations

import numpy as np

from ..shapes import (
    Solid,
    box,
    join,
    lengthwise,
    sawn,
    sheet,
    surface,
    swept,
    timber,
    tube,
    turned,
)
from ..writer import Piece, placed
from .living import BOWL, CUP, PLATE, VASE, loaf
from .shapes import bevelled, cushion
from .shell import ACROSS, BATH, BATH_WINDOW, EAST, FLOOR, KITCHEN, NORTH

ISLAND = (1.55, 3.55, 5.25, 5.95)
ISLAND_LAMPS = ((2.0, 5.6, FLOOR + 1.75), (3.1, 5.6, FLOOR + 1.75))
#: Light under the shelf: from x to x, y and height.
SHELF_STRIP = (0.9, 3.7, NORTH - 0.24, FLOOR + 1.50)
MIRROR = (7.05, 8.05, FLOOR + 1.15, FLOOR + 2.0)


def _fronts(x0: float, x1: float, y: float, count: int, low: float, high: float) -> list[Solid]:
    """Doors beside one another along x, their faces towards −y."""
    step = (x1 - x0) / count
    return [bevelled([x0 + n * step + 0.002, y - 0.019, low], [x0 + (n + 1) * step - 0.002, y, high], 0.002)
            for n in range(count)]  # fmt: skip


def kitchen() -> list[Piece]:
    """Counters along two walls, an island with stools, a shelf with china."""
    f, y = FLOOR, NORTH - 0.60
    low, high = f + 0.10, f + 0.86
    fronts = [*_fronts(0.62, 4.22, y, 6, low, high)]
    west = [
        bevelled(
            [0.58, 5.02 + 0.44 * n + 0.002, low], [0.60, 5.02 + 0.44 * (n + 1) - 0.002, high], 0.002
        )
        for n in range(4)
    ]
    carcass = [box([0.0, y, low], [4.24, NORTH, high]), box([0.0, 5.0, low], [0.58, y, high]),
               box([0.05, y + 0.05, f], [4.24, NORTH, low]), box([0.0, 5.05, f], [0.53, y, low])]  # fmt: skip
    top = [
        bevelled([0.0, y - 0.02, high], [4.24, NORTH, high + 0.03], 0.003),
        bevelled([0.0, 4.98, high], [0.62, y - 0.02, high + 0.03], 0.003),
    ]
    tall = [bevelled([4.24, y - 0.02, f + 0.1], [4.84, NORTH, f + 2.3], 0.003), bevelled([4.262, y - 0.04, f + 0.11], [4.818, y - 0.02, f + 1.34], 0.003),
            bevelled([4.262, y - 0.04, f + 1.345], [4.818, y - 0.02, f + 2.29], 0.003)]  # fmt: skip
    basin = [box([1.60, y + 0.10, high + 0.0301], [2.2, y + 0.11, high + 0.034])]
    spout = [tube([1.9, NORTH - 0.09, high + 0.03], [1.9, NORTH - 0.09, high + 0.33], 0.011)]
    a = np.linspace(0, np.pi, 24)
    arc = [(1.9, NORTH - 0.09 - 0.09 * (1 - np.cos(t)), high + 0.33 + 0.09 * np.sin(t)) for t in a]
    spout += [swept([*arc, (*arc[-1][:2], arc[-1][2] - 0.03)], 0.011)]
    sx0, sx1, _, sz = SHELF_STRIP
    shelf = bevelled([sx0 - 0.1, NORTH - 0.26, sz + 0.012], [sx1 + 0.1, NORTH, sz + 0.045], 0.003)
    splash = box([0.0, NORTH - 0.008, high + 0.03], [4.24, NORTH, sz + 0.012])
    ix0, ix1, iy0, iy1 = ISLAND
    island = [box([ix0 + 0.04, iy0 + 0.24, f + 0.08], [ix1 - 0.04, iy1 - 0.02, high])]
    island_fronts = [*_fronts(ix0 + 0.04, ix1 - 0.04, iy0 + 0.24, 4, f + 0.1, high)]
    stool = [sawn(turned([(1e-4, 0.63), (0.16, 0.63), (0.17, 0.645), (0.165, 0.66), (1e-4, 0.662)], 56)),
             *(lengthwise(tube([0.17 * np.cos(t), 0.17 * np.sin(t), 0], [0.10 * np.cos(t), 0.10 * np.sin(t), 0.63], 0.012)) for t in np.radians([45, 135, 225, 315]))]  # fmt: skip
    shade = turned(
        [(0.115, 0.0), (0.11, 0.05), (0.07, 0.13), (0.022, 0.17), (0.02, 0.2), (1e-4, 0.2)], 56
    )
    lamps = [placed(*p) for p in ISLAND_LAMPS]
    flex = tube([0, 0, 0.2], [0, 0, FLOOR + 2.74 - ISLAND_LAMPS[0][2]], 0.003)
    rng = np.random.default_rng(5)
    jars = [
        placed(float(x), NORTH - 0.14, sz + 0.045, 0.0, float(rng.uniform(0.55, 0.95)))
        for x in (1.0, 1.22, 1.4, 3.3, 3.55)
    ]
    cups = [placed(2.3 + 0.11 * n, NORTH - 0.13, sz + 0.045) for n in range(6)]
    plates = [placed(1.85, NORTH - 0.14, sz + 0.045 + 0.009 * n) for n in range(7)]
    return [
        Piece("Kitchen carcass", [(join(*carcass), "white paint")], "Kitchen"),
        Piece("Glossy fronts", [(join(*fronts, *west), "glossy front")], "Kitchen"),
        Piece("Stone top", [(join(*top), "stone top")], "Kitchen"),
        Piece("Tall cupboard", [(join(*tall), "sage front")], "Kitchen"),
        Piece("Sink", [(join(*basin), "brushed steel")], "Kitchen"),
        Piece("Tap", [(join(*spout), "brushed steel")], "Kitchen"),
        Piece("Kitchen shelf", [(shelf, "pale timber")], "Kitchen"),
        Piece("Splash back", [(splash, "wall tiles")], "Kitchen"),
        Piece("Island", [(join(*island), "white paint"), (join(*island_fronts), "sage front"),
                         (bevelled([ix0, iy0, high], [ix1, iy1, high + 0.03], 0.003), "stone top")], "Kitchen"),
        Piece("Stool", [(join(*stool), "oiled timber")], "Kitchen", [placed(x, 5.02, f) for x in (1.95, 2.55, 3.15)]),
        Piece("Island lamp", [(shade, "brass"), (flex, "brass")], "Lamps", lamps),
        Piece("Jar", [(turned(VASE, 48), "china")], "Kitchen", jars),
        Piece("Kitchen cup", [(turned(CUP, 40), "china")], "Kitchen", cups),
        Piece("Plates in a pile", [(turned(PLATE, 56), "china")], "Kitchen", plates),
        Piece("Fruit bowl", [(turned(BOWL, 56), "sage front")], "Kitchen", [placed(2.7, 5.6, high + 0.03, 0.0, 1.25)]),
        Piece("Kitchen sill", [(bevelled([-0.02, KITCHEN[0], f + 1.08], [0.10, KITCHEN[1], f + 1.10], 0.003), "stone top")], "Kitchen"),
    ]  # fmt: skip


def _bar(x: float, y: float, z0: float, z1: float) -> list[Solid]:
    """An upright handle that stands off a front towards −y."""
    feet = [tube([x, y, z], [x, y - 0.03, z], 0.004) for z in (z0 + 0.02, z1 - 0.02)]
    return [tube([x, y - 0.03, z0], [x, y - 0.03, z1], 0.006), *feet]


#: Profiles of what stands on the stove and the counter: radius and height.
PAN = [(1e-4, 0.0), (0.10, 0.0), (0.108, 0.012), (0.11, 0.10), (0.113, 0.105), (0.107, 0.105), (0.103, 0.015), (1e-4, 0.012)]  # fmt: skip
LID = [(0.112, 0.106), (0.10, 0.118), (0.04, 0.132), (0.014, 0.136), (0.012, 0.150), (0.02, 0.158), (1e-4, 0.162)]  # fmt: skip
BOTTLE = [(1e-4, 0), (0.032, 0), (0.034, 0.01), (0.034, 0.17), (0.030, 0.20), (0.012, 0.235), (0.012, 0.29), (1e-4, 0.292)]  # fmt: skip
CROCK = [(1e-4, 0), (0.055, 0), (0.062, 0.02), (0.06, 0.15), (0.064, 0.155), (0.054, 0.155), (0.05, 0.02), (1e-4, 0.015)]  # fmt: skip


def _towel() -> Solid:
    """A towel over an edge, its long end hanging in slack folds."""
    rows = [np.stack([np.linspace(0, 0.34, 28), np.full(28, -0.012 - 0.006 * down) - 0.006 * np.sin(np.linspace(0, 11, 28)) * down,
                      np.full(28, 0.004 - 0.40 * down)], axis=-1) for down in np.linspace(1, 0.03, 14)]  # fmt: skip
    over = [
        np.stack([np.linspace(0, 0.34, 28), np.full(28, s), np.full(28, 0.006)], axis=-1)
        for s in (0.0, 0.05, 0.11)
    ]
    return surface(np.stack([*rows, *over])[:, ::-1])


def _spoons() -> list[Solid]:
    """Wooden spoons as they stand in a crock."""
    spoons = [lengthwise(tube([0.02 * np.cos(a), 0.02 * np.sin(a), 0.03], [0.075 * np.cos(a), 0.075 * np.sin(a), h], 0.006))
              for a, h in ((0.3, 0.30), (2.2, 0.27), (3.9, 0.31), (5.1, 0.26))]  # fmt: skip
    heads = [
        cushion((0.08 * np.cos(a), 0.08 * np.sin(a), h + 0.02), (0.045, 0.02, 0.06), 1.0, 11)
        for a, h in ((0.3, 0.30), (3.9, 0.31))
    ]
    return [*spoons, *heads]


def in_use() -> list[Piece]:
    """What shows that somebody cooks here: hob and pan, boards, oil, lemons, bread knife, a towel over an edge, handles."""
    y, high = NORTH - 0.60, FLOOR + 0.89
    ix0, _, iy0, _ = ISLAND
    hob = bevelled([3.05, y + 0.08, high], [3.65, y + 0.50, high + 0.005], 0.001)
    pan = turned(PAN, 64)
    grips = [swept([(0.11 * s, -0.035, 0.085), (0.15 * s, -0.03, 0.09), (0.158 * s, 0.0, 0.092), (0.15 * s, 0.03, 0.09), (0.11 * s, 0.035, 0.085)], 0.006)
             for s in (-1, 1)]  # fmt: skip
    lid = turned(LID, 64)
    board = timber([0, 0, 0], [0.30, 0.022, 0.42], 0.006)
    small = timber([0, 0, 0], [0.34, 0.22, 0.02], 0.005)
    # Leant against the tiles.
    lean = np.radians(-9)
    turn = np.array([[1, 0, 0], [0, np.cos(lean), -np.sin(lean)], [0, np.sin(lean), np.cos(lean)]])
    board = Solid(board.points @ turn.T, board.normals @ turn.T, board.uvs)
    bottle = turned(BOTTLE, 40)
    cork = turned([(0.010, 0.288), (0.011, 0.31), (1e-4, 0.312)], 20)
    crock = turned(CROCK, 48)
    lemons = [
        cushion((dx, dy, dz), (0.075, 0.058, 0.058), 0.95, 13)
        for dx, dy, dz in (
            (0.05, 0.02, 0.075),
            (-0.045, 0.035, 0.078),
            (0.0, -0.055, 0.076),
            (0.01, 0.03, 0.118),
        )
    ]
    handles = [
        *_bar(4.30, y - 0.04, FLOOR + 0.95, FLOOR + 1.28),
        *_bar(4.30, y - 0.04, FLOOR + 1.42, FLOOR + 1.75),
    ]
    return [
        Piece("Hob", [(hob, "black glass")], "Kitchen"),
        Piece("Pan", [(join(pan, *grips, lid), "brushed steel")], "Kitchen", [placed(3.22, y + 0.30, high + 0.005, 20.0)]),
        Piece("Board", [(board, "oiled timber")], "Kitchen", [placed(0.72, NORTH - 0.09, high, 0.0), placed(0.98, NORTH - 0.12, high, 0.0, 0.72)]),
        Piece("Chopping board", [(small, "pale timber")], "Kitchen", [placed(ix0 + 0.35, iy0 + 0.16, high, 14.0)]),
        Piece("Oil", [(bottle, "oil"), (cork, "crust")], "Kitchen", [placed(2.72, NORTH - 0.14, high), placed(2.84, NORTH - 0.12, high, 0.0, 0.8)]),
        Piece("Crock", [(crock, "china"), (join(*_spoons()), "oiled timber")], "Kitchen", [placed(2.55, NORTH - 0.15, high)]),
        Piece("Lemons", [(join(*lemons), "lemon")], "Kitchen", [placed(2.7, 5.6, high)]),
        Piece("Kitchen bread", loaf(), "Kitchen", [placed(ix0 + 0.50, iy0 + 0.29, high + 0.02, 32.0)]),
        Piece("Kitchen towel", [(_towel(), "linen")], "Kitchen", [placed(0.64, 5.55, high, -90.0)]),
        Piece("Handles", [(join(*handles), "brass")], "Kitchen"),
    ]  # fmt: skip


def _tub() -> Solid:
    """A bath: outer and inner shell with a rolled rim, 1.7 × 0.75 m."""
    a = np.linspace(0, 2 * np.pi, 73)
    rows = []
    for r, z in [(0.80, 0.0), (0.93, 0.06), (0.99, 0.35), (1.0, 0.55), (0.985, 0.575), (0.955, 0.57), (0.92, 0.50), (0.84, 0.2),
                 (0.70, 0.13), (0.3, 0.12), (0.001, 0.12)]:  # fmt: skip
        e = 0.55
        x = np.sign(np.cos(a)) * np.abs(np.cos(a)) ** e * 0.85 * r
        y = np.sign(np.sin(a)) * np.abs(np.sin(a)) ** e * 0.375 * r
        rows.append(np.stack([x, y, np.full_like(a, z)], axis=-1))
    return surface(np.stack(rows)[:, ::-1], closed=True)


def bathroom() -> list[Piece]:
    """Tiles as high as the doors, a basin before a mirror, a tub under the window, a towel."""
    f, t, high = FLOOR, 0.008, FLOOR + 2.1
    x0, x1, y0, y1 = ACROSS + 0.1, EAST, BATH, NORTH
    wx0, wx1, sill, _ = BATH_WINDOW
    walls = [box([x0, y0, f], [x0 + t, y1, high]), box([x1 - t, y0, f], [x1, y1, high]),
             box([x0, y1 - t, f], [wx0 - 0.02, y1, high]), box([wx1 + 0.02, y1 - t, f], [x1, y1, high]),
             box([wx0 - 0.02, y1 - t, f], [wx1 + 0.02, y1, f + sill - 0.02]),
             box([7.6, y0, f], [x1, y0 + t, high]), box([x0, y0, f], [6.72, y0 + t, high])]  # fmt: skip
    top = bevelled([6.9, y1 - 0.50, f + 0.80], [8.2, y1 - t, f + 0.84], 0.003)
    under = [*_fronts(6.92, 8.18, y1 - 0.48, 2, f + 0.36, f + 0.79)]
    basin = turned(
        [
            (1e-4, 0.02),
            (0.12, 0.02),
            (0.19, 0.07),
            (0.205, 0.13),
            (0.20, 0.135),
            (0.18, 0.075),
            (0.11, 0.035),
            (1e-4, 0.03),
        ],
        72,
    )
    tap = [
        tube([7.55, y1 - 0.06, f + 0.84], [7.55, y1 - 0.06, f + 1.06], 0.012),
        tube([7.55, y1 - 0.06, f + 1.05], [7.55, y1 - 0.20, f + 1.05], 0.011),
    ]
    mx0, mx1, mz0, mz1 = MIRROR
    mirror = bevelled([mx0, y1 - t - 0.02, mz0], [mx1, y1 - t, mz1], 0.003)
    rail = [tube([x1 - 0.07, 5.2, f + 1.15], [x1 - 0.07, 5.9, f + 1.15], 0.009)]
    towel = surface(np.stack([np.stack([np.full(24, x1 - 0.07 - 0.011 * s), np.linspace(5.25, 5.75, 24),
                                        f + 1.165 - 0.62 * h + 0.004 * np.sin(np.linspace(0, 9, 24))], axis=-1)
                              for s, h in [(1, 1.0), (1, 0.5), (1, 0.03), (0, 0.0), (-1, 0.03), (-1, 0.4), (-1, 0.8)]]))  # fmt: skip
    glass = sheet(
        [
            [8.75, y0 + 0.9, f + 0.58],
            [8.75, y1 - 0.02, f + 0.58],
            [8.75, y1 - 0.02, f + 1.95],
            [8.75, y0 + 0.9, f + 1.95],
        ]
    )
    return [
        Piece("Wall tiles", [(join(*walls), "wall tiles")], "Bathroom"),
        Piece("Basin top", [(top, "stone top")], "Bathroom"),
        Piece("Basin cupboard", [(join(*under, box([6.94, y1 - 0.48, f + 0.36], [8.16, y1 - t, f + 0.80])), "sage front")], "Bathroom"),
        Piece("Basin", [(basin, "china")], "Bathroom", [placed(7.55, y1 - 0.26, f + 0.82)]),
        Piece("Basin tap", [(join(*tap), "brass")], "Bathroom"),
        Piece("Mirror", [(mirror, "mirror")], "Bathroom"),
        Piece("Bath tub", [(_tub(), "china")], "Bathroom", [placed(9.62, 6.55, f, 90.0)]),
        Piece("Bath screen", [(glass, "clear glass")], "Bathroom"),
        Piece("Towel rail", [(join(*rail), "brass")], "Bathroom"),
        Piece("Towel", [(towel, "sofa cloth")], "Bathroom"),
    ]  # fmt: skip


def pieces() -> list[Piece]:
    """Kitchen and bathroom."""
    return [*kitchen(), *in_use(), *bathroom()]
