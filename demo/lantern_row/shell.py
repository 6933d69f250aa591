"""The flat's walls, floor, ceilings and windows, and the house it lies at the top of.

Inside, x 0…10.6 (west to east) and y 0…7.4 (south to north); the flat's floor is `FLOOR` above the street.
"""

from __future__ import annotations

import numpy as np

from ..shapes import Solid, box, join, moved, plate, rectangle, sheet
from ..writer import Piece, placed
from .shapes import bevelled, shifted

FLOOR, CEILING, LOWERED = 9.6, 2.75, 2.50
EAST, NORTH = 10.6, 7.4
WALL, LINING = 0.33, 0.02
#: Partitions: living rooms to the west of it; bath to the north of it.
ACROSS, BATH = 6.4, 4.85
#: Windows of the flat: x or y from, to; height from, to over its floor.
CORNER_SOUTH, CORNER_WEST = (0.10, 3.20, 0.38, 2.42), (0.10, 2.60, 0.38, 2.42)
BALCONY_DOOR, BEDROOM = (4.20, 5.80, 0.03, 2.36), (7.60, 9.40, 0.80, 2.36)
KITCHEN, BATH_WINDOW = (5.50, 6.60, 1.10, 2.20), (8.30, 9.10, 1.45, 2.20)
#: Storeys below, and windows of each: middle along the front, on the street and on the quay.
STOREYS = (0.0, 3.2, 6.4)
STREET_X, QUAY_Y = (1.6, 5.0, 8.5), (1.5, 5.0)
#: Niches in the wall of the living room: from x, to x, from and to height.
NICHES = ((4.62, 5.18, 0.95, 1.38), (5.38, 5.94, 0.95, 1.38), (4.62, 5.94, 1.55, 1.98))
NICHE_WALL = (4.35, 6.4, 4.90, 5.16)


def hole(w: tuple[float, float, float, float], up: float = 0.0) -> list[tuple[float, float]]:
    """Outline of a window in a wall."""
    return rectangle(w[0], w[2] + up, w[1], w[3] + up)


def turned_west(solid: Solid) -> Solid:
    """A plate (x, z, thickness along y) as a wall that runs along y, its thickness towards −x."""
    return Solid(solid.points[:, [1, 0, 2]] * [-1, 1, 1], solid.normals[:, [1, 0, 2]] * [-1, 1, 1],
                 solid.uvs)  # fmt: skip


def _lower(middle: float, storey: float) -> list[tuple[float, float]]:
    return rectangle(middle - 0.55, storey + 0.85, middle + 0.55, storey + 2.45)


def outside() -> list[Piece]:
    """The rendered front to the street, the side to the quay, and the plain sides."""
    top = FLOOR + 3.3
    low = [_lower(x, s) for s in STOREYS for x in STREET_X]
    flat = [hole(w, FLOOR) for w in (CORNER_SOUTH, BALCONY_DOOR, BEDROOM)]
    front = plate(rectangle(-0.35, 0, EAST + 0.35, top), [*low, *flat], WALL)
    quay_holes = [_lower(y, s) for s in STOREYS for y in QUAY_Y]
    quay = plate(rectangle(-0.02, 0, NORTH + 0.35, top),
                 [*quay_holes, hole(CORNER_WEST, FLOOR), hole(KITCHEN, FLOOR)], WALL)  # fmt: skip
    back = plate(rectangle(-0.35, 0, EAST + 0.35, top), [hole(BATH_WINDOW, FLOOR)], WALL)
    bands = [
        bevelled([-0.40, -0.40, z - 0.09], [EAST + 0.35, -0.34, z + 0.09], 0.015)
        for z in (3.0, 6.2, 9.35)
    ]
    cornice = bevelled([-0.55, -0.55, top - 0.02], [EAST + 0.35, NORTH + 0.5, top + 0.16], 0.03)
    return [
        Piece("Street front", [(moved(front, [0, -WALL - LINING, 0]), "ochre render")], "House"),
        Piece("Quay front", [(moved(turned_west(quay), [-LINING, 0, 0]), "ochre render")], "House"),
        Piece("Back wall", [(moved(back, [0, NORTH + LINING, 0]), "ochre render")], "House"),
        Piece("Party wall", [(box([EAST + LINING, 0, 0], [EAST + 0.35, NORTH, top]), "grey render")], "House"),
        Piece("String courses", [(join(*bands), "kerb stone")], "House"),
        Piece("Cornice", [(cornice, "white paint")], "House"),
        Piece("Lower floors", [(box([0, 0, s - 0.25], [EAST, NORTH, s]), "white plaster") for s in STOREYS[1:]], "House"),
    ]  # fmt: skip


def linings() -> list[Piece]:
    """Plain white plaster inside, one plum wall, ceilings with their lowered border."""
    f, c = FLOOR, FLOOR + CEILING + 0.1
    south = plate(rectangle(-0.02, f - 0.05, EAST, c), [hole(w, f) for w in (CORNER_SOUTH, BALCONY_DOOR, BEDROOM)], LINING)  # fmt: skip
    west = plate(rectangle(0, f - 0.05, NORTH, c), [hole(w, f) for w in (CORNER_WEST, KITCHEN)], LINING)  # fmt: skip
    north = plate(rectangle(-0.02, f - 0.05, EAST, c), [hole(BATH_WINDOW, f)], LINING)
    door = [rectangle(3.60, f - 0.04, 4.50, f + 2.08)]
    across = moved(turned_west(plate(rectangle(0, f - 0.05, NORTH, c), door, 0.1)), [ACROSS + 0.1, 0, 0])  # fmt: skip
    bath = moved(plate(rectangle(ACROSS + 0.1, f - 0.05, EAST, c), [rectangle(6.75, f - 0.04, 7.55, f + 2.08)], 0.1),
                 [0, BATH - 0.1, 0])  # fmt: skip
    x0, x1, y0, y1 = NICHE_WALL
    niches = plate(rectangle(x0, f - 0.05, x1, c), [rectangle(a, f + s, b, f + h) for a, b, s, h in NICHES], 0.2)  # fmt: skip
    back = box([x0, y0 + 0.2, f], [x1, y1, c])
    plum = plate(rectangle(0.0, f, 3.60, f + CEILING), [], 0.012)
    return [
        Piece("South lining", [(moved(south, [0, -LINING, 0]), "white plaster")], "Walls"),
        Piece("West lining", [(turned_west(west), "white plaster")], "Walls"),
        Piece("North lining", [(moved(north, [0, NORTH, 0]), "white plaster")], "Walls"),
        Piece("East lining", [(box([EAST, 0, f], [EAST + LINING, NORTH, c]), "white plaster")], "Walls"),
        Piece("Wall to the bedroom", [(across, "white plaster")], "Walls"),
        Piece("Wall to the bathroom", [(bath, "white plaster")], "Walls"),
        Piece("Niche wall", [(moved(niches, [0, y0, 0]), "white plaster"), (back, "white plaster")], "Walls"),
        Piece("Plum wall", [(moved(turned_west(plum), [ACROSS, 0, 0]), "plum wall")], "Walls"),
    ]  # fmt: skip


def ceilings() -> list[Piece]:
    """The slab, and the lowered border of the living room whose lip hides the light of the coves."""
    f = FLOOR
    slab = box([0, 0, f + CEILING], [EAST, NORTH, f + CEILING + 0.3])
    x0, x1, y0, y1, wide = 0.0, ACROSS, 0.0, NICHE_WALL[2], 0.55
    z = f + LOWERED
    border = plate([(x0, y0), (x1, y0), (x1, y1), (x0, y1)],
                   [[(x0 + wide, y0 + wide), (x1 - wide, y0 + wide), (x1 - wide, y1 - wide), (x0 + wide, y1 - wide)]],
                   0.045)  # fmt: skip
    level = Solid(border.points[:, [0, 2, 1]], border.normals[:, [0, 2, 1]], border.uvs)
    level = Solid(level.points.reshape(-1, 3, 3)[:, ::-1].reshape(-1, 3), level.normals, level.uvs)
    a, b, c, d, t = x0 + wide, x1 - wide, y0 + wide, y1 - wide, 0.02
    lips = [box([a - t, c - t, z], [b + t, c, z + 0.10]), box([a - t, d, z], [b + t, d + t, z + 0.10]),
            box([a - t, c, z], [a, d, z + 0.10]), box([b, c, z], [b + t, d, z + 0.10])]  # fmt: skip
    roof = box([-0.35, -0.35, f + 3.06], [EAST + 0.35, NORTH + 0.35, f + 3.3])
    return [
        Piece("Ceiling", [(slab, "white plaster")], "Ceilings"),
        Piece("Lowered ceiling", [(moved(level, [0, 0, z]), "white plaster"), (join(*lips), "white plaster")], "Ceilings"),
        Piece("Roof slab", [(roof, "grey render")], "House"),
    ]  # fmt: skip


def floors() -> list[Piece]:
    """Boards of their own lengths, tiles in the bathroom, and what lies below."""
    rng = np.random.default_rng(8)
    boards: list[Solid] = []
    wide, gap = 0.145, 0.0012
    for row in range(int(NORTH / wide) + 1):
        y0, y1 = row * wide, min((row + 1) * wide - gap, NORTH)
        end = ACROSS + 0.1 if y0 > BATH - 0.12 else EAST
        x = -float(rng.uniform(0.0, 1.2))
        while x < end:
            length = float(rng.uniform(0.9, 2.3))
            a, b = max(x, 0.0), min(x + length - gap, end)
            if b - a > 0.05 and y1 - y0 > 0.02:
                z = FLOOR + float(rng.normal() * 0.0002)
                board = bevelled([a, y0, FLOOR - 0.02], [b, y1, z], 0.0016)
                boards.append(shifted(board, float(rng.uniform(0, 9)), float(rng.uniform(0, 9))))
            x += length
    tiled = box([ACROSS + 0.1, BATH, FLOOR - 0.02], [EAST, NORTH, FLOOR])
    skirting = [
        bevelled([0, NICHE_WALL[2] - 0.014, FLOOR], [0.001, NICHE_WALL[2], FLOOR + 0.07], 0.003),
        bevelled([NICHE_WALL[0], NICHE_WALL[2] - 0.014, FLOOR], [ACROSS, NICHE_WALL[2], FLOOR + 0.07], 0.003),
        bevelled([0, 0, FLOOR], [4.15, 0.014, FLOOR + 0.07], 0.003),
        bevelled([5.85, 0, FLOOR], [ACROSS, 0.014, FLOOR + 0.07], 0.003),
        bevelled([ACROSS - 0.026, 0, FLOOR], [ACROSS - 0.012, 3.60, FLOOR + 0.07], 0.003),
        bevelled([ACROSS - 0.014, 4.50, FLOOR], [ACROSS, NICHE_WALL[2], FLOOR + 0.07], 0.003),
        bevelled([0, 0, FLOOR], [0.014, 5.0, FLOOR + 0.07], 0.003),
    ]  # fmt: skip
    return [
        Piece("Floor boards", [(join(*boards), "pale timber")], "Floors"),
        Piece("Bathroom floor", [(tiled, "floor tiles")], "Floors"),
        Piece("Floor slab", [(box([0, 0, FLOOR - 0.3], [EAST, NORTH, FLOOR - 0.02]), "grey render")], "Floors"),
        Piece("Skirting", [(join(*skirting), "white paint")], "Floors"),
    ]  # fmt: skip


def window(
    width: float, height: float, panes: int, rail: float | None = None
) -> list[tuple[Solid, str]]:
    """A frame with sashes beside one another and one sheet of glass each, from x = 0 and z = 0 in the plane y = 0."""
    t, deep = 0.055, 0.07
    bars = [
        bevelled([0, -deep / 2, 0], [width, deep / 2, t]), bevelled([0, -deep / 2, height - t], [width, deep / 2, height]),
    ]  # fmt: skip
    step = width / panes
    glass = []
    for n in range(panes + 1):
        x = min(max(n * step - t / 2, 0), width - t)
        bars.append(bevelled([x, -deep / 2, 0], [x + t, deep / 2, height]))
    if rail is not None:
        bars.append(bevelled([0, -deep / 2, rail], [width, deep / 2, rail + t]))
    for n in range(panes):
        a, b = n * step + t / 2, (n + 1) * step - t / 2
        glass.append(sheet([[a, 0, t], [b, 0, t], [b, 0, height - t], [a, 0, height - t]]))
    return [(join(*bars), "painted frame"), (join(*glass), "clear glass")]


def windows() -> list[Piece]:
    """Windows of the flat, window boards, and the windows of the storeys below, dark or lit."""
    f = FLOOR

    def along_x(
        name: str,
        w: tuple[float, float, float, float],
        y: float,
        panes: int,
        rail: float | None = None,
    ) -> Piece:
        return Piece(name, window(w[1] - w[0], w[3] - w[2], panes, rail), "Windows", [placed(w[0], y, f + w[2])])  # fmt: skip

    def along_y(name: str, w: tuple[float, float, float, float], x: float, panes: int) -> Piece:
        return Piece(name, window(w[1] - w[0], w[3] - w[2], panes), "Windows", [placed(x, w[0], f + w[2], 90.0)])  # fmt: skip

    lower = window(1.1, 1.6, 2, 1.05)[:1]
    dark = sheet([[0.03, 0.02, 0.03], [1.07, 0.02, 0.03], [1.07, 0.02, 1.57], [0.03, 0.02, 1.57]])
    places = [placed(x - 0.55, -0.2, s + 0.85) for s in STOREYS for x in STREET_X]
    places += [placed(-0.2, y + 0.55, s + 0.85, -90.0) for s in STOREYS for y in QUAY_Y]
    lit = [p for n, p in enumerate(places) if n % 5 == 2]
    unlit = [p for n, p in enumerate(places) if n % 5 != 2]
    boards = [
        bevelled([CORNER_SOUTH[0] - 0.1, -0.02, f + 0.34], [CORNER_SOUTH[1] + 0.06, 0.16, f + 0.38], 0.006),
        bevelled([-0.02, CORNER_WEST[0] - 0.1, f + 0.34], [0.16, CORNER_WEST[1] + 0.06, f + 0.38], 0.006),
        bevelled([-0.02, KITCHEN[0] - 0.05, f + 1.07], [0.06, KITCHEN[1] + 0.05, f + 1.10], 0.004),
    ]  # fmt: skip
    return [
        along_x("Corner window to the street", CORNER_SOUTH, -0.14, 2),
        along_y("Corner window to the river", CORNER_WEST, -0.14, 2),
        along_x("Balcony door", BALCONY_DOOR, -0.14, 2),
        along_x("Bedroom window", BEDROOM, -0.14, 2),
        along_y("Kitchen window", KITCHEN, -0.14, 1),
        along_x("Bathroom window", BATH_WINDOW, NORTH + 0.14, 1),
        Piece("Window boards", [(join(*boards), "oiled timber")], "Windows"),
        Piece("Window below", [*lower, (dark, "dark pane")], "Windows", unlit),
        Piece("Lit window below", [*lower, (dark, "lit pane")], "Windows", lit),
    ]


def doors() -> list[Piece]:
    """Flush doors in their frames; that of the bathroom stands open."""

    def leaf(width: float) -> list[tuple[Solid, str]]:
        handle = join(bevelled([width - 0.16, -0.05, 1.02], [width - 0.05, -0.035, 1.04], 0.004),
                      bevelled([width - 0.07, -0.05, 1.02], [width - 0.05, 0.0, 1.04], 0.004))  # fmt: skip
        return [
            (bevelled([0, 0, 0.008], [width, 0.04, 2.05], 0.003), "white paint"),
            (handle, "brushed steel"),
        ]

    return [
        Piece("Bedroom door", leaf(0.86), "Doors", [placed(ACROSS + 0.06, 3.62, FLOOR, 90.0)]),
        Piece("Bathroom door", leaf(0.76), "Doors", [placed(6.77, BATH - 0.06, FLOOR, 68.0)]),
    ]  # fmt: skip


def pieces() -> list[Piece]:
    """Everything the house is built of."""
    return [*outside(), *linings(), *ceilings(), *floors(), *windows(), *doors()]
