"""Around the house: balconies, the row and the houses over the street, quay and river, the town on the other bank, hills."""

from __future__ import annotations

from itertools import pairwise

import numpy as np

from ..shapes import Array, Solid, box, from_triangles, join, sheet, surface, tube, turned
from ..writer import Piece, placed
from .shapes import bevelled, ring
from .shell import EAST, FLOOR, STOREYS

#: Where the street ends and the quay begins, the water's level, and the far bank.
QUAY_X, WATER, BANK_X = -9.0, -1.7, -95.0
STREET_LAMPS = ((-2.5, -4.6), (6.5, -4.6), (15.5, -4.6), (-6.6, 4.0), (-6.6, 14.0), (2.0, -11.2))
LAMP_HEAD = 4.35
BALCONY = (3.85, 6.15, 1.45)


def balconies() -> list[Piece]:
    """A slab with a glass front and a rail at each storey's door."""
    x0, x1, deep = BALCONY
    y = -0.35
    slab = bevelled([x0, y - deep, -0.16], [x1, y, -0.02], 0.01)
    panes = [sheet([[x0 + 0.04, y - deep + 0.04, 0.04], [x1 - 0.04, y - deep + 0.04, 0.04], [x1 - 0.04, y - deep + 0.04, 1.0], [x0 + 0.04, y - deep + 0.04, 1.0]]),
             sheet([[x0 + 0.04, y - 0.05, 0.04], [x0 + 0.04, y - deep + 0.04, 0.04], [x0 + 0.04, y - deep + 0.04, 1.0], [x0 + 0.04, y - 0.05, 1.0]]),
             sheet([[x1 - 0.04, y - deep + 0.04, 0.04], [x1 - 0.04, y - 0.05, 0.04], [x1 - 0.04, y - 0.05, 1.0], [x1 - 0.04, y - deep + 0.04, 1.0]])]  # fmt: skip
    rails = [tube([x0 + 0.04, y, 1.03], [x0 + 0.04, y - deep + 0.04, 1.03], 0.018), tube([x0 + 0.04, y - deep + 0.04, 1.03], [x1 - 0.04, y - deep + 0.04, 1.03], 0.018),
             tube([x1 - 0.04, y - deep + 0.04, 1.03], [x1 - 0.04, y, 1.03], 0.018)]  # fmt: skip
    posts = [
        tube([x, y - deep + 0.04, -0.02], [x, y - deep + 0.04, 1.02], 0.014)
        for x in np.linspace(x0 + 0.04, x1 - 0.04, 4)
    ]
    floors = [*STOREYS[1:], FLOOR]
    return [Piece("Balcony", [(slab, "kerb stone"), (join(*panes), "clear glass"), (join(*rails, *posts), "brushed steel")],
                  "House", [placed(0, 0, z) for z in floors])]  # fmt: skip


def _tiled(a: float, b: float, low: Array, high: Array, rng: np.random.Generator) -> Solid:
    """Tiles in courses on a slope between two levels (y, z), each a little out of line, from x = a to b."""
    along = high - low
    length = float(np.linalg.norm(along))
    along = along / length
    off = np.array([-along[1], along[0]]) * (1 if along[0] > 0 else -1)
    wide, course, thick = 0.21, 0.17, 0.014
    u = np.array([0, 1, 1, 0, 0, 1, 1, 0], float)
    v = np.array([0, 0, 1, 1, 0, 0, 1, 1], float)
    lift = np.array([1, 1, 0, 0, 2, 2, 1, 1], float) * thick
    faces = np.array([[4, 5, 6], [4, 6, 7], [0, 1, 5], [0, 5, 4], [1, 2, 6], [1, 6, 5], [3, 0, 4], [3, 4, 7]])  # fmt: skip
    if along[0] < 0:
        faces = faces[:, ::-1]
    points = []
    for row in range(int(length / course)):
        for column in range(int((b - a) / wide) + 1):
            x0 = a + (column - 0.5 * (row % 2)) * wide + float(rng.normal() * 0.003)
            s = row * course + float(rng.normal() * 0.004) + v * (course + 0.05)
            h = lift + 0.003 * float(rng.random())
            yz = low + along * s[:, None] + off * h[:, None]
            points.append(np.column_stack([np.clip(x0 + u * (wide - 0.004), a, b), yz]))
    every = (faces[None] + 8 * np.arange(len(points))[:, None, None]).reshape(-1, 3)
    return from_triangles(np.concatenate(points), every)


def _frame(x: float, y: float, z: float, way: int) -> list[Solid]:
    """Bars and sill of a window on a wall along x that looks towards −y (way 1) or +y."""
    t = 0.05
    a, b = sorted((y - 0.012 * way, y + 0.05 * way))
    c, d = sorted((y - 0.09 * way, y + 0.05 * way))
    bars = [(x - 0.5, z, x - 0.5 + t, z + 1.5), (x + 0.5 - t, z, x + 0.5, z + 1.5), (x - 0.5, z, x + 0.5, z + t),
            (x - 0.5, z + 1.5 - t, x + 0.5, z + 1.5), (x - 0.02, z, x + 0.02, z + 1.5), (x - 0.5, z + 1.0, x + 0.5, z + 1.04)]  # fmt: skip
    made = [bevelled([x0, a, z0], [x1, b, z1]) for x0, z0, x1, z1 in bars]
    return [*made, bevelled([x - 0.6, c, z - 0.08], [x + 0.6, d, z], 0.01)]


def _house(
    width: float, depth: float, storeys: int, render: str, seed: int, near: bool = False
) -> list[tuple[Solid, str]]:
    """A house with windows on all sides and a tiled roof: front towards −y, its middle at x = 0. One that is ``near`` has its tiles
    and the bars of its windows one by one."""
    rng = np.random.default_rng(seed)
    wall = 3.0 * storeys + 0.4
    body = [box([-width / 2, 0, -3], [width / 2, depth, wall])]
    dark: list[Solid] = []
    lit: list[Solid] = []
    frames: list[Solid] = []
    for s in range(storeys):
        z = 0.9 + 3.0 * s
        count = max(int(width / 2.3), 1)
        for x in (np.arange(count) + 0.5) / count * width - width / 2:
            for y, way in ((-0.03, 1), (depth + 0.03, -1)):
                pane = [
                    [x - 0.5 * way, y, z],
                    [x + 0.5 * way, y, z],
                    [x + 0.5 * way, y, z + 1.5],
                    [x - 0.5 * way, y, z + 1.5],
                ]
                (lit if rng.random() < 0.28 else dark).append(sheet(pane))
                if near:
                    frames += _frame(float(x), y, z, way)
                    continue
                frames.append(
                    bevelled(
                        [x - 0.58, min(y, y + 0.04 * way) - 0.01, z - 0.09],
                        [x + 0.58, max(y, y + 0.04 * way) + 0.01, z - 0.01],
                        0.01,
                    )
                )
        for y in (np.arange(max(int(depth / 3), 1)) + 0.5) / max(int(depth / 3), 1) * depth:
            for x, way in ((-width / 2 - 0.03, -1), (width / 2 + 0.03, 1)):
                pane = [
                    [x, y - 0.45 * way, z],
                    [x, y + 0.45 * way, z],
                    [x, y + 0.45 * way, z + 1.5],
                    [x, y - 0.45 * way, z + 1.5],
                ]
                (lit if rng.random() < 0.2 else dark).append(sheet(pane))
    rise, eave = 0.5 * depth * 0.8, 0.35
    a, b, ridge = -width / 2 - 0.2, width / 2 + 0.2, wall + rise
    drop = eave * rise / (depth / 2)
    roof = from_triangles([[a, -eave, wall - drop], [b, -eave, wall - drop], [b, depth / 2, ridge], [a, depth / 2, ridge],
                           [a, depth + eave, wall - drop], [b, depth + eave, wall - drop]],
                          [[0, 1, 2], [0, 2, 3], [3, 2, 5], [3, 5, 4]])  # fmt: skip
    if near:
        low, top = np.array([-eave, wall - drop + 0.02]), np.array([depth / 2, ridge + 0.02])
        back = np.array([depth + eave, wall - drop + 0.02])
        roof = join(roof, _tiled(a, b, low, top, rng), _tiled(a, b, back, top, rng),
                    tube([a, depth / 2, ridge + 0.03], [b, depth / 2, ridge + 0.03], 0.09, 16))  # fmt: skip
    gables = [from_triangles([[x, 0, wall], [x, depth, wall], [x, depth / 2, ridge - 0.05]], [[0, 1, 2]] if x > 0 else [[1, 0, 2]])
              for x in (-width / 2, width / 2)]  # fmt: skip
    stack = box(
        [width / 4 - 0.4, depth / 2 - 0.3, ridge - 1.0],
        [width / 4 + 0.4, depth / 2 + 0.3, ridge + 0.9],
    )
    made = [
        (join(*body, *gables, stack), render),
        (roof, "roof tiles"),
        (join(*frames), "kerb stone"),
    ]
    return (
        made
        + ([(join(*dark), "dark pane")] if dark else [])
        + ([(join(*lit), "lit pane")] if lit else [])
    )


def row() -> list[Piece]:
    """The rest of the row, and the houses on the other side of the street."""
    kinds = [
        ("ochre render", 7.2, 3),
        ("rose render", 6.4, 4),
        ("grey render", 8.0, 3),
        ("render", 6.8, 4),
    ]
    made, x = [], EAST + 0.36
    for n, (coat, wide, storeys) in enumerate(kinds):
        made.append(
            Piece(
                f"Row house {n + 1}",
                _house(wide, 8.5, storeys, coat, 50 + n, near=True),
                "Street",
                [placed(x + wide / 2, -0.35, 0)],
            )
        )
        x += wide
    x = -6.0
    for n, (coat, wide, storeys) in enumerate(
        [
            ("render", 7.0, 3),
            ("rose render", 8.2, 3),
            ("ochre render", 6.6, 4),
            ("grey render", 7.6, 3),
            ("rose render", 7.0, 3),
        ]
    ):
        made.append(
            Piece(
                f"House across {n + 1}",
                _house(wide, 9.0, storeys, coat, 70 + n, near=True),
                "Street",
                [placed(x + wide / 2, -15.5, 0, 180.0)],
            )
        )
        x += wide
    return made


def ground() -> list[Piece]:
    """Paved street, kerbs, the quay with its wall, water, bank."""
    street = box([QUAY_X, -15.5, -0.6], [60, 0, -0.02])
    quay = box([QUAY_X, 0, -0.6], [-0.35, 70, -0.02])
    wall = box([QUAY_X - 0.5, -70, -6], [QUAY_X, 70, 0.0])
    behind = box([-0.35, 8.2, -0.6], [60, 70, -0.03])
    before = box([QUAY_X, -70, -0.6], [60, -24.5, -0.03])
    walks = [bevelled([-0.35, -2.6, -0.02], [60, -0.35, 0.10], 0.02), bevelled([QUAY_X + 1.2, -15.5, -0.02], [60, -13.2, 0.10], 0.02),
             bevelled([QUAY_X, -70, -0.02], [QUAY_X + 0.7, 70, 0.16], 0.03)]  # fmt: skip
    bollards = [placed(QUAY_X + 0.35, float(y), 0.14) for y in np.arange(-40, 60, 7.0)]
    post = turned(
        [
            (1e-4, 0),
            (0.13, 0),
            (0.11, 0.06),
            (0.10, 0.42),
            (0.15, 0.50),
            (0.14, 0.56),
            (1e-4, 0.58),
        ],
        32,
    )
    water = sheet(
        [
            [BANK_X, -400, WATER],
            [QUAY_X - 0.5, -400, WATER],
            [QUAY_X - 0.5, 400, WATER],
            [BANK_X, 400, WATER],
        ]
    )
    bank = box([-420, -400, -6], [BANK_X, 400, 0.6])
    return [
        Piece("Street paving", [(join(street, quay), "paving")], "Ground"),
        Piece("Quay wall", [(wall, "kerb stone")], "Ground"),
        Piece("Yards", [(join(behind, before), "paving")], "Ground"),
        Piece("Kerbs", [(join(*walks), "kerb stone")], "Ground"),
        Piece("Bollard", [(post, "painted frame")], "Ground", bollards),
        Piece("River", [(water, "river")], "Ground"),
        Piece("Far bank", [(bank, "hill")], "Ground"),
    ]  # fmt: skip


def lamps() -> list[Piece]:
    """Street lamps: a post, an arm, and a lantern of glass."""
    post = turned(
        [(1e-4, 0), (0.14, 0), (0.13, 0.5), (0.07, 0.62), (0.05, 4.0), (0.05, 4.12), (1e-4, 4.12)],
        28,
    )
    cage = [
        tube(
            [0.15 * np.cos(a), 0.15 * np.sin(a), 4.12],
            [0.20 * np.cos(a), 0.20 * np.sin(a), 4.58],
            0.008,
        )
        for a in np.radians([45, 135, 225, 315])
    ]
    top = turned([(0.24, 4.58), (0.20, 4.66), (0.06, 4.78), (1e-4, 4.8)], 28)
    return [Piece("Street lamp", [(join(post, *cage, top), "painted frame")], "Street", [placed(x, y, 0.1) for x, y in STREET_LAMPS])]  # fmt: skip


def _on_wire(x: float, t: float) -> tuple[float, float, float]:
    """A point of the wire over the street at x: it sags by half a metre."""
    return x + 0.5 * t, -0.4 - 15.0 * t, 6.7 - 0.5 * t - 2.0 * t * (1 - t)


#: Where paper lanterns hang over the street.
PAPER_LANTERNS = [_on_wire(x, t) for x in (-1.2, 3.3, 7.8, 12.6, 17.4) for t in (0.2, 0.4, 0.6, 0.8)]  # fmt: skip


def lanterns() -> list[Piece]:
    """The lanterns the row is named after: paper on hoops, on wires from house to house."""
    u = np.linspace(-0.92, 0.92, 30)[:, None] * np.pi / 2
    v = np.linspace(-np.pi, np.pi, 57)[None, :]
    r = 0.20 * np.cos(u) ** 0.7 * (1 + 0.03 * np.cos(16 * u))
    ball = np.stack([r * np.cos(v), r * np.sin(v), 0.22 * np.sin(u) + 0 * v], axis=-1)
    paper = surface(ball[:, ::-1], closed=True)
    hooks = [tube([0, 0, 0.21], [0, 0, 0.32], 0.004, 8), ring((0, 0, 0.215), 0.045, 0.004), ring((0, 0, -0.215), 0.045, 0.004)]  # fmt: skip
    wires = []
    for x in (-1.2, 3.3, 7.8, 12.6, 17.4):
        line = [_on_wire(x, float(t)) for t in np.linspace(0, 1, 13)]
        wires += [tube(p, q, 0.005, 8) for p, q in pairwise(line)]
    places = [placed(x, y, z - 0.32) for x, y, z in PAPER_LANTERNS]
    return [
        Piece("Paper lantern", [(paper, "lamp shade"), (join(*hooks), "painted frame")], "Street", places),
        Piece("Lantern wires", [(join(*wires), "painted frame")], "Street"),
    ]  # fmt: skip


def _ridge(distance: float, height: float, seed: int) -> Array:
    """A chain of hills beyond the town, as a grid of points."""
    rng = np.random.default_rng(seed)
    along = np.linspace(-900, 900, 320)
    tops = sum(
        rng.normal() * np.sin(along / (60.0 * 1.7**k) + rng.uniform(0, 6)) * 0.5 ** (2 - k)
        for k in range(3)
    )
    tops = height * (0.7 + 0.25 * np.asarray(tops))
    rows = []
    for t in np.linspace(0, 1, 30):
        rows.append(
            np.stack(
                [
                    np.full_like(along, -distance - 260 * t),
                    along,
                    tops * np.sin(t * np.pi / 2) - 1.0,
                ],
                axis=-1,
            )
        )
    return np.stack(rows)[:, ::-1]


def town() -> list[Piece]:
    """Two hundred and sixty houses of eight kinds on the far bank, climbing, with a tower and a bridge; hills behind."""
    rng = np.random.default_rng(77)
    coats = ["render", "ochre render", "rose render", "grey render"]
    kinds = [_house(float(w), float(d), s, coats[n % 4], 90 + n)
             for n, (w, d, s) in enumerate([(7, 8, 2), (8, 8, 3), (6, 7, 3), (10, 8, 2), (7, 9, 4), (9, 9, 3), (6, 8, 2), (12, 9, 3)])]  # fmt: skip
    places: list[list[Array]] = [[] for _ in kinds]
    for street in range(9):
        y = -170.0 + float(rng.uniform(0, 8))
        while y < 190:
            n = int(rng.integers(len(kinds)))
            x = BANK_X - 10 - street * 17 - float(rng.uniform(0, 5))
            z = 0.6 + max(street - 1, 0) * 2.6 + float(rng.uniform(0, 1))
            places[n].append(placed(x, y, z, 90.0 + float(rng.normal() * 7)))
            y += float(rng.uniform(9, 15)) * (1 + 0.12 * street)
    spire = np.array(
        [[-3.4, -3.4, 26], [3.4, -3.4, 26], [3.4, 3.4, 26], [-3.4, 3.4, 26], [0, 0, 39]], float
    )
    tower = [bevelled([-3, -3, 0], [3, 3, 26], 0.3),
             from_triangles(spire, [[0, 1, 4], [1, 2, 4], [2, 3, 4], [3, 0, 4]])]  # fmt: skip
    arches = []
    for n in range(5):
        x = BANK_X + 8 + n * 17.2
        arches.append(box([x - 1.6, 98, -6], [x + 1.6, 106, 4.0]))
    deck = bevelled([BANK_X - 6, 98, 3.2], [QUAY_X + 2, 106, 5.0], 0.2)
    return [
        *(Piece(f"Town house {n + 1}", k, "Town", p) for n, (k, p) in enumerate(zip(kinds, places, strict=True)) if p),
        Piece("Tower", [(tower[0], "grey render"), (tower[1], "roof tiles")], "Town", [placed(BANK_X - 62, -28, 6)]),
        Piece("Bridge", [(join(*arches, deck), "kerb stone")], "Town"),
        Piece("Hills", [(surface(_ridge(300, 62, 3)), "hill")], "Town"),
        Piece("Far hills", [(surface(_ridge(620, 120, 4)), "far hill")], "Town"),
    ]  # fmt: skip


def pieces() -> list[Piece]:
    """Everything out of doors."""
    return [*balconies(), *row(), *ground(), *lamps(), *lanterns(), *town()]
