"""What stands in the living room: sofa, round table with chairs, sideboard, books, lamps, rug, curtains."""

from __future__ import annotations

import numpy as np

from ..shapes import Solid, join, lengthwise, moved, sawn, swept, tube, turned
from ..writer import Piece, placed
from .shapes import bevelled, curtain, cushion, pillow, ring, shade, shade_rims
from .shell import ACROSS, CORNER_SOUTH, CORNER_WEST, FLOOR, NICHE_WALL, NICHES

TABLE = (4.75, 1.95)
PENDANT = (*TABLE, FLOOR + 1.52)
FLOOR_LAMP = (0.62, 4.15)
SIDE_LAMP = (6.06, 2.45, FLOOR + 0.72)
SOFA = (1.0, 3.35)


def _sofa() -> list[tuple[Solid, str]]:
    seat = [cushion((0.42 + 0.72 * n, 0.45, 0.36), (0.73, 0.78, 0.22), 0.22) for n in range(3)]
    back = [cushion((0.42 + 0.72 * n, 0.78, 0.60), (0.72, 0.24, 0.48), 0.30) for n in range(3)]
    body = [cushion((1.14, 0.47, 0.20), (2.26, 0.92, 0.20), 0.12),
            cushion((1.14, 0.88, 0.44), (2.26, 0.16, 0.66), 0.14),
            cushion((0.03, 0.47, 0.36), (0.18, 0.94, 0.46), 0.2),
            cushion((2.25, 0.47, 0.36), (0.18, 0.94, 0.46), 0.2)]  # fmt: skip
    feet = [tube([x, y, 0], [x, y, 0.11], 0.017) for x in (0.12, 2.16) for y in (0.12, 0.84)]
    return [(join(*seat, *back, *body), "sofa cloth"), (join(*feet), "brass")]


def _throw_cushion() -> Solid:
    return pillow(0.48, 0.17, 0.46)


def _chair() -> list[tuple[Solid, str]]:
    """A chair that looks along +y: a bent back on four splayed legs."""
    legs = [lengthwise(tube([sx * 0.21, sy * 0.20, 0], [sx * 0.16, sy * 0.16, 0.44], 0.015))
            for sx in (-1, 1) for sy in (-1, 1)]  # fmt: skip
    posts = [lengthwise(tube([sx * 0.17, -0.18, 0.44], [sx * 0.19, -0.25, 0.76], 0.012)) for sx in (-1, 1)]  # fmt: skip
    rail = [swept([(0.23 * t, -0.25 - 0.06 * (1 - t * t), 0.77) for t in np.linspace(-1, 1, 25)], 0.022)]  # fmt: skip
    for sx in (-1, 1):
        rail.append(
            moved(cushion((0, 0, 0), (0.02, 0.044, 0.044), 1.0, 9), [sx * 0.23, -0.25, 0.77])
        )
    seat = cushion((0, 0, 0.46), (0.44, 0.42, 0.05), 0.35)
    return [(join(*legs, *posts, *rail), "oiled timber"), (seat, "plum cloth")]


def _table() -> list[tuple[Solid, str]]:
    top = turned(
        [
            (1e-4, 0.712),
            (0.53, 0.712),
            (0.55, 0.722),
            (0.552, 0.735),
            (0.545, 0.742),
            (1e-4, 0.742),
        ],
        96,
    )
    foot = turned([(1e-4, 0), (0.27, 0), (0.28, 0.012), (0.25, 0.022), (0.06, 0.05)], 64)
    stem = turned([(0.06, 0.05), (0.042, 0.2), (0.042, 0.62), (0.10, 0.71), (1e-4, 0.712)], 64)
    return [(join(sawn(top), sawn(foot), lengthwise(stem)), "oiled timber")]


PLATE = [
    (1e-4, 0.003),
    (0.064, 0.003),
    (0.066, 0.0),
    (0.072, 0.0),
    (0.078, 0.006),
    (0.085, 0.009),
    (0.128, 0.018),
    (0.13, 0.021),
    (0.084, 0.013),
    (1e-4, 0.011),
]
CUP = [
    (1e-4, 0.0),
    (0.026, 0.0),
    (0.030, 0.012),
    (0.036, 0.06),
    (0.038, 0.075),
    (0.035, 0.075),
    (0.030, 0.02),
    (1e-4, 0.012),
]
BOWL = [
    (1e-4, 0.0),
    (0.05, 0.0),
    (0.09, 0.03),
    (0.125, 0.08),
    (0.13, 0.085),
    (0.122, 0.083),
    (0.08, 0.03),
    (1e-4, 0.012),
]
STICK = [(1e-4, 0), (0.045, 0), (0.047, 0.006), (0.012, 0.018), (0.008, 0.05), (0.014, 0.10), (0.008, 0.15), (0.016, 0.20),
         (0.016, 0.215), (1e-4, 0.215)]  # fmt: skip
CANDLE = [(0.009, 0.21), (0.009, 0.39), (0.006, 0.395), (1e-4, 0.395)]
VASE = [(1e-4, 0), (0.05, 0), (0.085, 0.05), (0.09, 0.12), (0.05, 0.22), (0.03, 0.28), (0.036, 0.30), (0.031, 0.30),
        (0.026, 0.28), (0.045, 0.22), (1e-4, 0.20)]  # fmt: skip


#: Where the candlesticks stand on the table, and their size.
STICKS = ((-0.05, 0.08, 1.0), (0.07, 0.02, 0.82))
#: Where the flame of a candlestick is over its foot.
FLAME = 0.408


def _cutlery() -> Solid:
    """A knife and a fork beside a plate, along y."""
    knife = [bevelled([0.148, -0.10, 0], [0.160, -0.005, 0.006], 0.002), bevelled([0.147, -0.005, 0.001], [0.163, 0.10, 0.0025], 0.0006)]  # fmt: skip
    fork = [bevelled([-0.160, -0.10, 0], [-0.150, 0.03, 0.0035], 0.001), bevelled([-0.167, 0.03, 0.001], [-0.143, 0.055, 0.0035], 0.001)]  # fmt: skip
    tines = [bevelled([x, 0.05, 0.001], [x + 0.0035, 0.10, 0.0035], 0.0008) for x in (-0.167, -0.1602, -0.1534, -0.1466)]  # fmt: skip
    return join(*knife, *fork, *tines)


def _napkin() -> Solid:
    """Folded linen under the fork: three soft layers, not quite in line."""
    layers = [
        cushion((-0.18 + 0.002 * n, -0.01 + 0.003 * n, 0.0025 + 0.003 * n), (0.10, 0.19 - 0.004 * n, 0.004), 0.12, 11)
        for n in range(3)
    ]  # fmt: skip
    return join(*layers)


def loaf() -> list[tuple[Solid, str]]:
    """A loaf, cut four times across before it was baked."""
    body = cushion((0, 0, 0.041), (0.25, 0.115, 0.082), 0.72, 25)
    cuts = []
    for x in (-0.075, -0.025, 0.025, 0.075):
        cut = cushion((0, 0, 0), (0.022, 0.085, 0.018), 0.9, 11)
        cuts.append(moved(cut, [x, 0.0, 0.076 - 0.9 * x * x], 24.0))
    return [(body, "crust"), (join(*cuts), "crumb")]


def prints() -> list[Piece]:
    """Two framed prints on the wall behind the sofa: plain fields of colour and one round shape."""
    made: dict[str, list[Solid]] = {"oiled timber": [], "paper": []}
    x = 0.004
    for y0, y1, z0, z1, colours in ((3.0, 3.62, 1.22, 2.02, ("book blue", "ochre cloth")), (3.72, 4.04, 1.60, 2.02, ("book red", "book green"))):  # fmt: skip
        a, b = FLOOR + z0, FLOOR + z1
        made["oiled timber"] += [
            bevelled([x, y0, a], [x + 0.028, y1, a + 0.018], 0.002), bevelled([x, y0, b - 0.018], [x + 0.028, y1, b], 0.002),
            bevelled([x, y0, a], [x + 0.028, y0 + 0.018, b], 0.002), bevelled([x, y1 - 0.018, a], [x + 0.028, y1, b], 0.002)]  # fmt: skip
        made["paper"].append(bevelled([x, y0 + 0.01, a + 0.01], [x + 0.012, y1 - 0.01, b - 0.01], 0.0005))  # fmt: skip
        m, w, h = (y0 + y1) / 2, y1 - y0, b - a
        field = bevelled([x + 0.011, y0 + 0.22 * w, a + 0.20 * h], [x + 0.0126, y1 - 0.22 * w, a + 0.48 * h], 0.0003)  # fmt: skip
        made.setdefault(colours[0], []).append(field)
        disc = turned([(1e-4, 0), (0.19 * w, 0), (0.19 * w, 0.0014), (1e-4, 0.0016)], 56)
        turned_on = Solid(disc.points[:, [2, 0, 1]] + [x + 0.0112, m + 0.06 * w, a + 0.64 * h], disc.normals[:, [2, 0, 1]], disc.uvs)  # fmt: skip
        made.setdefault(colours[1], []).append(turned_on)
    return [Piece(f"Prints, {colour}", [(join(*solids), colour)], "Living room") for colour, solids in made.items()]  # fmt: skip


def laid_table() -> list[Piece]:
    """Four places, a bowl, bread, two candlesticks."""
    x, y = TABLE
    z = FLOOR + 0.742
    places = np.radians([20, 110, 200, 290])
    round_it = [(x + 0.36 * np.cos(a), y + 0.36 * np.sin(a)) for a in places]
    cups = [(x + 0.30 * np.cos(a), y + 0.30 * np.sin(a)) for a in np.radians([52, 145, 235, 325])]
    chairs = [placed(x + 0.72 * np.cos(a), y + 0.72 * np.sin(a), FLOOR, np.degrees(a) + 90 + o)
              for a, o in zip(places, (4, -9, 0, 12), strict=True)]  # fmt: skip
    beside = [placed(x + 0.36 * np.cos(a), y + 0.36 * np.sin(a), z, float(np.degrees(a)) + 90) for a in places]  # fmt: skip
    sticks = [placed(dx + x, dy + y, z, 0.0, size) for dx, dy, size in STICKS]
    return [
        Piece("Round table", _table(), "Living room", [placed(x, y, FLOOR)]),
        Piece("Chair", _chair(), "Living room", chairs),
        Piece("Plate", [(turned(PLATE, 64), "china")], "Living room", [placed(a, b, z) for a, b in round_it]),
        Piece("Cup", [(turned(CUP, 48), "china")], "Living room", [placed(a, b, z) for a, b in cups]),
        Piece("Cutlery", [(_cutlery(), "brushed steel")], "Living room", beside),
        Piece("Napkin", [(_napkin(), "linen")], "Living room", beside),
        Piece("Bowl", [(turned(BOWL, 64), "plum wall")], "Living room", [placed(x - 0.02, y - 0.13, z)]),
        Piece("Bread", loaf(), "Living room", [placed(x + 0.12, y - 0.06, z, 35.0)]),
        Piece("Candlestick", [(turned(STICK, 40), "brass"), (turned(CANDLE, 24), "paper")], "Living room", sticks),
    ]  # fmt: skip


def lamps() -> list[Piece]:
    """Lamps with shades of cloth: over the table, on the floor, on the sideboard."""
    x, y, z = PENDANT
    wires = [ring(m, r, 0.0016) for m, r in shade_rims((0, 0, 0), 0.24, 0.20, 0.26)]
    flex = tube([0, 0, 0.25], [0, 0, FLOOR + 2.74 - z], 0.003)
    pendant = [(shade((0, 0, 0), 0.24, 0.20, 0.26), "lamp shade"), (join(*wires, flex), "brass")]
    fx, fy = FLOOR_LAMP
    stand = join(
        turned([(1e-4, 0), (0.14, 0), (0.142, 0.014), (0.02, 0.024), (1e-4, 0.025)], 64),
        tube([0, 0, 0.02], [0, 0, 1.5], 0.008),
    )
    floor = [
        (moved(shade((0, 0, 0), 0.22, 0.17, 0.30), [0, 0, 1.32]), "lamp shade"),
        (stand, "brass"),
    ]
    body = turned(
        [
            (1e-4, 0),
            (0.07, 0),
            (0.09, 0.05),
            (0.085, 0.12),
            (0.03, 0.20),
            (0.012, 0.24),
            (0.012, 0.30),
            (1e-4, 0.3),
        ],
        56,
    )
    table = [
        (moved(shade((0, 0, 0), 0.15, 0.11, 0.19), [0, 0, 0.27]), "lamp shade"),
        (body, "china"),
    ]
    return [
        Piece("Table pendant", pendant, "Lamps", [placed(x, y, z)]),
        Piece("Floor lamp", floor, "Lamps", [placed(fx, fy, FLOOR)]),
        Piece("Side lamp", table, "Lamps", [placed(*SIDE_LAMP)]),
    ]  # fmt: skip


def books() -> list[Piece]:
    """Books in the niches, upright in rows with some lying, in four bindings."""
    rng = np.random.default_rng(21)
    bound: dict[str, list[Solid]] = {}
    paper: list[Solid] = []
    y = NICHE_WALL[2]
    for n, (x0, x1, low, high) in enumerate(NICHES):
        x = x0 + 0.02
        while x < x1 - (0.30 if n == 2 else 0.16):
            thick, tall, deep = (
                rng.uniform(0.014, 0.045),
                rng.uniform(0.17, min(high - low - 0.05, 0.27)),
                rng.uniform(0.12, 0.16),
            )
            colour = str(rng.choice(["book red", "book blue", "book cream", "book green"]))
            a, front = FLOOR + low, y + 0.03 + rng.uniform(0, 0.015)
            bound.setdefault(colour, []).append(
                bevelled([x, front, a], [x + thick, front + deep, a + tall], 0.0015)
            )
            paper.append(
                bevelled(
                    [x + 0.002, front + 0.004, a + tall - 0.001],
                    [x + thick - 0.002, front + deep, a + tall + 0.0012],
                    0.0004,
                )
            )
            x += thick + rng.uniform(0.0004, 0.002)
    made = [Piece(f"Books, {c[5:]}", [(join(*s), c)], "Living room") for c, s in bound.items()]
    return [*made, Piece("Book edges", [(join(*paper), "paper")], "Living room")]


def curtains() -> list[Piece]:
    """Sheer curtains before the corner window, drawn aside, on rails of brass."""
    z = FLOOR + CORNER_SOUTH[3] + 0.03
    tall = z - FLOOR - 0.015
    hung = [
        curtain((0.20, 0.15, z), (1.05, 0.15, z), tall, seed=1),
        curtain((2.55, 0.15, z), (3.30, 0.15, z), tall, seed=2),
        curtain((0.15, 0.20, z), (0.15, 0.75, z), tall, seed=3),
        curtain((0.15, 1.95, z), (0.15, 2.70, z), tall, seed=4),
    ]
    rails = [
        tube([0.15, 0.15, z], [CORNER_SOUTH[1] + 0.2, 0.15, z], 0.009),
        tube([0.15, 0.15, z], [0.15, CORNER_WEST[1] + 0.2, z], 0.009),
    ]
    return [
        Piece("Sheer curtains", [(join(*hung), "sheer")], "Curtains"),
        Piece("Curtain rails", [(join(*rails), "brass")], "Curtains"),
    ]


def pieces() -> list[Piece]:
    """Everything in the living room."""
    rug = bevelled([0.75, 1.25, FLOOR], [3.55, 3.35, FLOOR + 0.018], 0.008)
    low = [
        sawn(turned([(1e-4, 0.30), (0.36, 0.30), (0.375, 0.31), (0.375, 0.325), (1e-4, 0.33)], 72)),
        *(
            lengthwise(
                tube(
                    [0.24 * np.cos(a), 0.24 * np.sin(a), 0],
                    [0.16 * np.cos(a), 0.16 * np.sin(a), 0.3],
                    0.012,
                )
            )
            for a in np.radians([30, 150, 270])
        ),
    ]
    side = [
        (join(bevelled([0, 0, 0.14], [0.40, 2.0, 0.72], 0.004)), "oiled timber"),
        (
            join(
                *(
                    bevelled(
                        [-0.012, 0.01 + 0.497 * n, 0.155], [0.002, 0.497 * (n + 1), 0.705], 0.003
                    )
                    for n in range(4)
                )
            ),
            "sage front",
        ),
        (
            join(
                *(tube([x, y, 0], [x, y, 0.14], 0.014) for x in (0.06, 0.34) for y in (0.12, 1.88))
            ),
            "brass",
        ),
    ]
    at = SOFA
    return [
        Piece("Sofa", _sofa(), "Living room", [placed(at[0], at[1], FLOOR)]),
        Piece("Ochre cushion", [(_throw_cushion(), "ochre cloth")], "Living room",
              [placed(at[0] + 0.35, at[1] + 0.60, FLOOR + 0.68, 12.0), placed(at[0] + 2.0, at[1] + 0.58, FLOOR + 0.67, -18.0)]),
        Piece("Plum cushion", [(_throw_cushion(), "plum cloth")], "Living room", [placed(at[0] + 0.66, at[1] + 0.52, FLOOR + 0.64, -7.0, 0.85)]),
        Piece("Rug", [(rug, "rug")], "Living room"),
        Piece("Low table", [(join(*low), "oiled timber")], "Living room", [placed(2.1, 2.35, FLOOR)]),
        Piece("Vase", [(turned(VASE, 64), "china")], "Living room", [placed(2.02, 2.42, FLOOR + 0.33), placed(6.10, 1.1, FLOOR + 0.72, 0.0, 1.2)]),
        Piece("Sideboard", side, "Living room", [placed(ACROSS - 0.43, 0.75, FLOOR)]),
        *laid_table(), *prints(), *lamps(), *books(), *curtains(),
    ]  # fmt: skip
