"""The workshop: walls with real thickness, windows, doors, saw-tooth roof and trusses.

Inside x −6…6 (west to east) and y −3.75…3.75 (south to north), floor at 0, eaves at 3.6.
"""

from __future__ import annotations

import numpy as np

from .shapes import Solid, beam, box, join, moved, plate, rectangle, sheet, surface, timber, tube
from .writer import Piece, placed

X0, X1, Y0, Y1 = -6.0, 6.0, -3.75, 3.75
WALL, LINING = 0.40, 0.025
EAVES, RIDGE = 3.6, 5.5
#: Centres of the south windows, their width, sill and head.
WINDOWS_X = (-3.7, -0.9, 1.9)
WINDOW = (1.55, 0.75, 3.05)
DOOR = (-1.7, 1.7, 3.0)
EAST_WINDOW = (-1.2, 1.4, 1.0, 2.5)


def _wall_from_plate(solid: Solid, side: str) -> Solid:
    """A plate in x and z with thickness along y, turned onto a side of the building."""
    if side == "west":  # plate x runs along building y
        return Solid(solid.points[:, [1, 0, 2]] * [-1, 1, 1] + [X0, 0, 0],
                     solid.normals[:, [1, 0, 2]] * [-1, 1, 1], solid.uvs)  # fmt: skip
    return Solid(solid.points[:, [1, 0, 2]] + [X1, 0, 0], solid.normals[:, [1, 0, 2]], solid.uvs)


def _flip(solid: Solid) -> Solid:
    return Solid(solid.points.reshape(-1, 3, 3)[:, ::-1].reshape(-1, 3),
                 solid.normals.reshape(-1, 3, 3)[:, ::-1].reshape(-1, 3),
                 solid.uvs.reshape(-1, 3, 2)[:, ::-1].reshape(-1, 2))  # fmt: skip


def _gable(margin: float) -> list[tuple[float, float]]:
    """Saw-tooth outline in y and z: two teeth, upright faces to the north."""
    a, b = Y0 - margin, Y1 + margin
    return [(a, -0.3), (b, -0.3), (b, RIDGE), (0.0 + 0.0, EAVES), (0.0, RIDGE), (a, EAVES)]


def walls() -> list[Piece]:
    """Brick outside, lime plaster inside, openings with full reveals."""
    width, sill, head = WINDOW
    openings = [rectangle(x - width / 2, sill, x + width / 2, head) for x in WINDOWS_X]
    outline = rectangle(X0 - WALL, -0.3, X1 + WALL, EAVES)
    south = moved(plate(outline, list(openings), WALL - LINING), [0, Y0 - WALL, 0])
    lining = moved(
        plate(rectangle(X0, 0.0, X1, EAVES), list(openings), LINING), [0, Y0 - LINING, 0]
    )
    north = moved(plate(rectangle(X0 - WALL, -0.3, X1 + WALL, EAVES), [], WALL - LINING),
                  [0, Y1 + LINING, 0])  # fmt: skip
    north_lining = moved(plate(rectangle(X0, 0, X1, EAVES), [], LINING), [0, Y1, 0])
    door = rectangle(DOOR[0], -0.001, DOOR[1], DOOR[2])
    west_outline = [(Y0, -0.3), (DOOR[0], -0.3), (DOOR[0], DOOR[2]), (DOOR[1], DOOR[2]),
                    (DOOR[1], -0.3), (Y1, -0.3), (Y1, RIDGE), (0, EAVES), (0, RIDGE), (Y0, EAVES)]  # fmt: skip
    del door
    west = _wall_from_plate(moved(plate(west_outline, [], WALL - LINING), [0, LINING, 0]), "west")
    inner = [(y, max(z, 0.0)) for y, z in west_outline]
    west_lining = _wall_from_plate(plate(inner, [], LINING), "west")
    y0, y1, z0, z1 = EAST_WINDOW
    hole = [rectangle(y0, z0, y1, z1)]
    east_outline = [(Y0, -0.3), (Y1, -0.3), (Y1, RIDGE), (0, EAVES), (0, RIDGE), (Y0, EAVES)]
    east = _wall_from_plate(
        moved(plate(east_outline, list(hole), WALL - LINING), [0, LINING, 0]), "east"
    )
    east_lining = _wall_from_plate(
        plate([(y, max(z, 0.0)) for y, z in east_outline], list(hole), LINING), "east"
    )
    return [
        Piece("South wall", [(south, "brick")], "Walls"),
        Piece("South wall lining", [(lining, "lime plaster")], "Walls"),
        Piece("North wall", [(north, "brick")], "Walls"),
        Piece("North wall lining", [(north_lining, "lime plaster")], "Walls"),
        Piece("West wall", [(west, "brick")], "Walls"),
        Piece("West wall lining", [(west_lining, "lime plaster")], "Walls"),
        Piece("East wall", [(_flip(east), "brick")], "Walls"),
        Piece("East wall lining", [(_flip(east_lining), "lime plaster")], "Walls"),
    ]


def edges() -> list[Piece]:
    """Where the plaster turns into a reveal it is rounded by hand: no corner of it is sharp."""
    width, sill, head = WINDOW
    r, y = 0.014, Y0 - 0.004
    left, right = -width / 2, width / 2
    round_window = join(
        tube([left, 0, sill], [left, 0, head], r), tube([right, 0, sill], [right, 0, head], r),
        tube([left, 0, head], [right, 0, head], r),
    )  # fmt: skip
    x = X0 - 0.004
    round_door = join(*[tube([x, s, 0], [x, s, DOOR[2]], r) for s in DOOR[:2]],
                      tube([x, DOOR[0], DOOR[2]], [x, DOOR[1], DOOR[2]], r))  # fmt: skip
    return [
        Piece("Plaster edge", [(round_window, "lime plaster")], "Walls", [placed(x, y, 0) for x in WINDOWS_X]),
        Piece("Plaster edge of the doors", [(round_door, "lime plaster")], "Walls"),
    ]  # fmt: skip


def _window(
    width: float, sill: float, head: float, columns: int, rows: int
) -> list[tuple[Solid, str]]:
    """Steel frame, glazing bars and one pane; centred on x = 0 in the plane y = 0."""
    h, t = width / 2, 0.045
    bars = [
        box([-h, -0.03, sill], [-h + t, 0.03, head]),
        box([h - t, -0.03, sill], [h, 0.03, head]),
        box([-h, -0.03, sill], [h, 0.03, sill + t]),
        box([-h, -0.03, head - t], [h, 0.03, head]),
    ]
    for c in range(1, columns):
        x = -h + width * c / columns
        bars.append(box([x - 0.013, -0.02, sill], [x + 0.013, 0.02, head]))
    for r in range(1, rows):
        z = sill + (head - sill) * r / rows
        bars.append(box([-h, -0.02, z - 0.013], [h, 0.02, z + 0.013]))
    pane = sheet([[-h, 0, sill], [h, 0, sill], [h, 0, head], [-h, 0, head]])
    return [(join(*bars), "black steel"), (pane, "window glass")]


def _curtain(width: float, foot: float, head: float) -> Solid:
    """Cloth along y in folds of 5 cm, hung from a rod: flat at its head, fuller at its foot."""
    columns, rows = round(width / 0.018), 8
    y = np.linspace(0, width, columns + 1)
    z = np.linspace(head, foot, rows + 1)
    full = np.linspace(0.5, 1.0, rows + 1)[:, None]
    x = 0.027 * full * np.sin(2 * np.pi * y / 0.155 + 0.25 * full)
    return surface(np.stack(np.broadcast_arrays(x, y, z[:, None]), axis=-1))


def windows() -> list[Piece]:
    """South windows as copies of one, the east window, sills, and the north lights."""
    width, sill, head = WINDOW
    y0, y1, z0, z1 = EAST_WINDOW
    east = _window(y1 - y0, z0, z1, 3, 3)
    bay = (X1 - X0) / 4
    light = _window(bay, EAVES + 0.25, RIDGE - 0.12, 3, 2)
    sills = timber([-width / 2, -0.28, sill - 0.04], [width / 2, 0.14, sill])
    return [
        Piece("South window", _window(width, sill, head, 3, 4), "Windows",
              [placed(x, Y0 - 0.22, 0) for x in WINDOWS_X]),
        Piece("Window board", [(sills, "oak")], "Windows",
              [placed(x, Y0 + 0.03, 0) for x in WINDOWS_X]),
        Piece("East window", east, "Windows", [placed(X1 + 0.2, (y0 + y1) / 2, 0, 90)]),
        Piece("East curtain", [(_curtain(0.95, z0 - 0.12, z1 + 0.12), "sheer linen")], "Windows",
              [placed(X1 - 0.075, y1 - 0.72, 0)]),
        Piece("East curtain rod", [(tube([0, y0 - 0.2, 0], [0, y1 + 0.28, 0], 0.012), "black steel")],
              "Windows", [placed(X1 - 0.075, 0, z1 + 0.13)]),
        Piece("North light", light, "Windows",
              [placed(X0 + bay * (i + 0.5), y, 0) for y in (-0.06, Y1 + 0.1) for i in range(4)]),
    ]  # fmt: skip


def doors() -> list[Piece]:
    """Big west doors, both leaves half open onto the quay."""
    half = (DOOR[1] - DOOR[0]) / 2
    boards = [timber([0.02 + i * half / 7, -0.03, 0.03], [half / 7 * (i + 1) - 0.004, 0.02, DOOR[2]])
              for i in range(7)]  # fmt: skip
    rails = [timber([0.02, 0.02, z], [half - 0.02, 0.06, z + 0.14]) for z in (0.3, 1.45, 2.6)]
    leaf = [(join(*boards, *rails), "painted door")]
    lintel = beam([X0 - WALL / 2, DOOR[0] - 0.25, DOOR[2] + 0.1],
                  [X0 - WALL / 2, DOOR[1] + 0.25, DOOR[2] + 0.1], WALL + 0.02, 0.2)  # fmt: skip
    return [
        Piece("West door leaf", leaf, "Doors",
              [placed(X0 - WALL, DOOR[0], 0, 180 + 18), placed(X0 - WALL, DOOR[1], 0, 180 - 24)]),
        Piece("Door lintel", [(lintel, "dark oak")], "Doors"),
    ]  # fmt: skip


def floor() -> list[Piece]:
    """Concrete floor and the threshold."""
    slab = box([X0 - WALL, Y0 - WALL, -0.25], [X1 + WALL, Y1 + WALL, 0.0])
    return [Piece("Floor", [(slab, "concrete floor")], "Floor")]


def roof() -> list[Piece]:
    """Two saw-teeth: slates outside, boards inside, trusses and purlins below."""
    out = []
    for name, y0, y1 in (("South", Y0, 0.0), ("North", 0.0, Y1)):
        rise = (RIDGE - EAVES) / (y1 - y0)
        over0, over1 = (0.45, 0.12) if name == "South" else (0.0, 0.30)
        a = (y0 - over0, EAVES - over0 * rise)
        b = (y1 + over1, RIDGE + over1 * rise)
        for label, low, high, material in (("boards", 0.0, 0.03, "oak"),
                                           ("slates", 0.03, 0.16, "slate")):  # fmt: skip
            skin = plate([(a[0], a[1] + low), (b[0], b[1] + low), (b[0], b[1] + high),
                          (a[0], a[1] + high)], [], X1 - X0 + 2 * WALL + 0.3)  # fmt: skip
            # The plate lies in x and z: its x is the building's y, its thickness runs along x.
            turned = Solid(skin.points[:, [1, 0, 2]] + [X0 - WALL - 0.15, 0, 0],
                           skin.normals[:, [1, 0, 2]], skin.uvs[:, ::-1])  # fmt: skip
            out.append(Piece(f"{name} roof {label}", [(_flip(turned), material)], "Roof"))
    gutter = box([X0 - WALL, -0.02, EAVES - 0.02], [X1 + WALL, 0.16, EAVES + 0.27])
    wall_head = box([X0 - WALL, Y1, EAVES], [X1 + WALL, Y1 + 0.3, EAVES + 0.25])
    head = [box([X0 - WALL, y - 0.09, RIDGE - 0.14], [X1 + WALL, y + 0.09, RIDGE - 0.01])
            for y in (-0.06, Y1 + 0.1)]  # fmt: skip
    out += [
        Piece("Valley gutter", [(gutter, "zinc")], "Roof"),
        Piece("North wall head", [(wall_head, "dark oak")], "Roof"),
        Piece("Ridge beams", [(join(*head), "dark oak")], "Roof"),
    ]
    return out + trusses()


def trusses() -> list[Piece]:
    """Oak trusses across the building at five places, as copies of one."""
    z = EAVES - 0.02
    timbers = [beam([0, Y0 - 0.1, z], [0, Y1 + 0.1, z], 0.16, 0.24)]
    for y0, y1 in ((Y0, 0.0), (0.0, Y1)):
        timbers += [
            beam([0, y0, EAVES - 0.1], [0, y1, RIDGE - 0.12], 0.13, 0.2),
            beam([0, y1 - 0.16, EAVES], [0, y1 - 0.16, RIDGE - 0.15], 0.13, 0.16),
            beam(
                [0, (y0 + y1) / 2, EAVES], [0, (y0 + y1) / 2, (EAVES + RIDGE) / 2 - 0.1], 0.1, 0.1
            ),
            beam([0, (y0 + y1) / 2, EAVES + 0.05], [0, y1 - 0.2, RIDGE - 0.55], 0.1, 0.1),
        ]
    purlins = [
        beam([X0, y0 + (y1 - y0) * f, EAVES + (RIDGE - EAVES) * f - 0.06],
             [X1, y0 + (y1 - y0) * f, EAVES + (RIDGE - EAVES) * f - 0.06], 0.09, 0.12)
        for y0, y1 in ((Y0, 0.0), (0.0, Y1)) for f in (0.3, 0.62)
    ]  # fmt: skip
    return [
        Piece("Truss", [(join(*timbers), "dark oak")], "Roof",
              [placed(x, 0, 0) for x in (-4.4, -2.2, 0.0, 2.2, 4.4)]),
        Piece("Purlins", [(join(*purlins), "dark oak")], "Roof"),
    ]  # fmt: skip


def pieces() -> list[Piece]:
    """All parts of the building shell."""
    return [*floor(), *walls(), *edges(), *windows(), *doors(), *roof()]
