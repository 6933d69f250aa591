"""The gallery beside the workshop: white walls, a slot of daylight over the display wall, a track.

Inside x 6.4…12.4 and y −3.75…2.6, floor at 0, ceiling at 3.1.
"""

from __future__ import annotations

import numpy as np

from .furniture import thrown
from .shapes import Solid, box, join, moved, plate, rectangle, sheet, timber, tube, turned, worn_box
from .workshop import WALL, X1, Y0
from .writer import Piece, placed

X_WEST, X_EAST, Y_SOUTH, Y_NORTH = X1 + WALL, 12.4, Y0, 2.6
CEILING, THICK = 3.1, 0.34
#: The shop window in the south wall, the slot in the roof along the display wall.
SHOP_WINDOW = (7.3, 10.9, 0.45, 2.65)
SLOT = (7.0, 11.9, 1.7, 2.3)
SHELF_LEVELS = (0.95, 1.55)
PLINTHS = ((7.9, -0.2, 0.95), (9.4, 0.45, 1.15), (10.9, -0.35, 0.85))
TRACK_Y, TRACK_Z = 0.55, 2.92
#: Spots on the track: where each head hangs and the point it lights.
SPOTS = tuple(
    ((x, TRACK_Y, TRACK_Z - 0.13), aim)
    for x, aim in (
        (7.1, (7.2, 2.5, 1.3)), (8.2, (8.3, 2.5, 1.3)), (9.3, (9.4, 2.5, 1.3)),
        (10.4, (10.5, 2.5, 1.3)), (11.5, (11.6, 2.5, 1.3)), (7.6, (7.9, -0.2, 1.15)),
        (9.0, (9.4, 0.3, 1.35)), (11.2, (10.9, -0.35, 1.05)),
    )
)  # fmt: skip
WINDOW_SHELF_LIGHT = ((8.1, -3.2, 3.07), (10.1, -3.2, 3.07))


def shell() -> list[Piece]:
    """Walls, floor, ceiling with its slot, flat roof."""
    x0, x1, z0, z1 = SHOP_WINDOW
    hole = [rectangle(x0, z0, x1, z1)]
    lining = 0.025
    outline = rectangle(X_WEST, -0.3, X_EAST + THICK, CEILING + 0.45)
    south = moved(plate(outline, hole, THICK - lining), [0, Y_SOUTH - THICK, 0])
    south_in = moved(plate(rectangle(X_WEST, 0, X_EAST, CEILING), hole, lining),
                     [0, Y_SOUTH - lining, 0])  # fmt: skip
    north = box([X_WEST, Y_NORTH + lining, -0.3], [X_EAST + THICK, Y_NORTH + THICK, CEILING + 0.45])
    north_in = box([X_WEST, Y_NORTH, 0], [X_EAST, Y_NORTH + lining, CEILING])
    east = box([X_EAST + lining, Y_SOUTH - THICK, -0.3],
               [X_EAST + THICK, Y_NORTH + THICK, CEILING + 0.45])  # fmt: skip
    east_in = box([X_EAST, Y_SOUTH, 0], [X_EAST + lining, Y_NORTH, CEILING])
    # The workshop's brick becomes the gallery's west wall, limewashed.
    a, b, c, d = SLOT
    lid = [([X_WEST, Y_SOUTH - 0.02, 0], [X_EAST + 0.02, c, 0]), ([X_WEST, d, 0], [X_EAST + 0.02, Y_NORTH + 0.02, 0]),
           ([X_WEST, c, 0], [a, d, 0]), ([b, c, 0], [X_EAST + 0.02, d, 0])]  # fmt: skip
    ceiling = [box([*low[:2], CEILING], [*high[:2], CEILING + 0.06]) for low, high in lid]
    cover = [box([*low[:2], CEILING + 0.06], [*high[:2], CEILING + 0.3]) for low, high in lid]
    curb = [box([a - 0.08, c - 0.08, CEILING + 0.3], [b + 0.08, c, CEILING + 0.55]),
            box([a - 0.08, d, CEILING + 0.3], [b + 0.08, d + 0.08, CEILING + 0.55]),
            box([a - 0.08, c, CEILING + 0.3], [a, d, CEILING + 0.55]),
            box([b, c, CEILING + 0.3], [b + 0.08, d, CEILING + 0.55])]  # fmt: skip
    return [
        Piece("Gallery floor", [(box([X_WEST, Y_SOUTH - THICK, -0.25], [X_EAST + THICK, Y_NORTH + THICK, 0]),
                                 "oak")], "Gallery"),
        Piece("Gallery south wall", [(south, "brick"), (south_in, "limewash")], "Gallery"),
        Piece("Gallery north wall", [(north, "brick"), (north_in, "limewash")], "Gallery"),
        Piece("Gallery east wall", [(east, "brick"), (east_in, "limewash")], "Gallery"),
        Piece("Gallery ceiling", [(join(*ceiling), "limewash")], "Gallery"),
        Piece("Gallery roof", [(join(*cover, *curb), "zinc")], "Gallery"),
    ]  # fmt: skip


def glazing() -> list[Piece]:
    """The shop window in steel and the pane over the slot."""
    x0, x1, z0, z1 = SHOP_WINDOW
    y, t = Y_SOUTH - 0.2, 0.05
    bars = [
        box([x0, y - 0.03, z0], [x1, y + 0.03, z0 + t]),
        box([x0, y - 0.03, z1 - t], [x1, y + 0.03, z1]),
    ]
    bars += [box([x - t / 2, y - 0.03, z0], [x + t / 2, y + 0.03, z1])
             for x in np.linspace(x0 + t / 2, x1 - t / 2, 4)]  # fmt: skip
    pane = sheet([[x0, y, z0], [x1, y, z0], [x1, y, z1], [x0, y, z1]])
    a, b, c, d = SLOT
    top = CEILING + 0.5
    lid = sheet([[a, c, top], [b, c, top], [b, d, top], [a, d, top]])
    ribs = [box([x - 0.02, c, top - 0.06], [x + 0.02, d, top]) for x in np.linspace(a, b, 6)[1:-1]]
    sill = timber([x0, Y_SOUTH - 0.3, z0 - 0.05], [x1, Y_SOUTH + 0.32, z0])
    # Linen under the slot: what comes down is soft, and at night there is no hole in the ceiling.
    veil = sheet([[a - 0.02, c - 0.02, CEILING + 0.015], [b + 0.02, c - 0.02, CEILING + 0.015],
                  [b + 0.02, d + 0.02, CEILING + 0.015], [a - 0.02, d + 0.02, CEILING + 0.015]])  # fmt: skip
    return [
        Piece("Roof slot linen", [(veil, "sheer linen")], "Windows"),
        Piece("Shop window", [(join(*bars), "black steel"), (pane, "window glass")], "Windows"),
        Piece("Roof slot", [(join(*ribs), "black steel"), (lid, "window glass")], "Windows"),
        Piece("Shop window seat", [(sill, "oak")], "Gallery"),
    ]  # fmt: skip


def _spot_head() -> list[tuple[Solid, str]]:
    can = turned([(0.0, 0.10), (0.042, 0.10), (0.046, 0.09), (0.046, -0.06), (0.040, -0.06),
                  (0.036, -0.03), (0.0, -0.028)])  # fmt: skip
    stem = tube([0, 0, 0.09], [0, 0, 0.14], 0.008)
    return [(join(can, stem), "black steel")]


def furniture() -> list[Piece]:
    """Floating shelves, plinths, the track with its heads, and the pots that are for sale."""
    shelves = [timber([6.9, Y_NORTH - 0.28, z - 0.045], [12.0, Y_NORTH, z]) for z in SHELF_LEVELS]
    plinths = [worn_box([x - 0.19, y - 0.19, 0], [x + 0.19, y + 0.19, h]) for x, y, h in PLINTHS]
    seat = join(timber([8.3, -2.25, 0.40], [10.5, -1.83, 0.46], 0.005), timber([8.5, -2.2, 0], [8.56, -1.88, 0.4]),
                timber([10.24, -2.2, 0], [10.3, -1.88, 0.4]))  # fmt: skip
    track = join(box([6.7, TRACK_Y - 0.02, TRACK_Z], [12.1, TRACK_Y + 0.02, TRACK_Z + 0.035]),
                 *[tube([x, TRACK_Y, TRACK_Z + 0.03], [x, TRACK_Y, CEILING], 0.005, 6)
                   for x in (7.0, 9.4, 11.8)])  # fmt: skip
    return [
        Piece("Display shelves", [(join(*shelves), "dark oak")], "Gallery"),
        Piece("Plinths", [(join(*plinths), "limewash")], "Gallery"),
        Piece("Gallery bench", [(seat, "oak")], "Gallery"),
        Piece("Track", [(track, "black steel")], "Lamp bodies"),
        Piece("Spot head", _spot_head(), "Lamp bodies", [placed(*at) for at, _ in SPOTS]),
        *wares(),
    ]  # fmt: skip


def wares() -> list[Piece]:
    """Pots for sale: each with room around it, glazes in families along the shelf."""
    rng = np.random.default_rng(23)
    chosen: dict[tuple[str, str], list[np.ndarray]] = {}
    families = ["celadon glaze", "ash glaze", "shino glaze", "cobalt glaze", "tenmoku glaze"]
    for z in SHELF_LEVELS:
        for k, x in enumerate(np.linspace(7.15, 11.75, 12)):
            shape = str(
                rng.choice(
                    ["vase", "bottle", "jar", "bowl", "beaker"], p=[0.28, 0.27, 0.2, 0.15, 0.1]
                )
            )
            glaze = families[min(k * 5 // 12, 4)] if rng.random() < 0.8 else "raw clay"
            place = placed(x + rng.uniform(-0.04, 0.04), Y_NORTH - 0.15, z + 0.0005,
                           rng.uniform(0, 360), rng.uniform(0.85, 1.15))  # fmt: skip
            chosen.setdefault((shape, glaze), []).append(place)
    for (x, y, h), (shape, glaze, scale) in zip(
        PLINTHS, (("vase", "shino glaze", 1.25), ("bottle", "tenmoku glaze", 1.4), ("jar", "cobalt glaze", 1.35)),
        strict=True,
    ):  # fmt: skip
        chosen.setdefault((shape, glaze), []).append(placed(x, y, h + 0.0005, 40, scale))
    for x in (7.7, 8.6, 9.7, 10.4):
        chosen.setdefault(("bowl", "ash glaze"), []).append(
            placed(x, Y_SOUTH + 0.1, 0.4505, x * 50, 1.1)
        )
    return [
        Piece(
            f"For sale, {glaze} {shape}",
            thrown(shape, glaze),
            "Gallery",
            places,
        )
        for (shape, glaze), places in sorted(chosen.items())
    ]


def pieces() -> list[Piece]:
    """Everything of the gallery."""
    return [*shell(), *glazing(), *furniture()]
