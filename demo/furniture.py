"""What stands in the workshop: benches, wheels, shelves, pots, pendants."""

from __future__ import annotations

from itertools import pairwise

import numpy as np

from .shapes import Solid, beam, box, join, moved, surface, timber, tube, turned, worn_box
from .workshop import Y0, Y1
from .writer import Piece, placed

#: Profiles of the pots (radius, height) in metres, bottom to rim and back inside.
PROFILES: dict[str, list[tuple[float, float]]] = {
    "bowl": [(0, 0), (0.045, 0), (0.05, 0.012), (0.085, 0.03), (0.115, 0.06), (0.13, 0.095),
             (0.125, 0.096), (0.11, 0.063), (0.08, 0.035), (0.04, 0.02), (0, 0.018)],
    "vase": [(0, 0), (0.06, 0), (0.09, 0.04), (0.115, 0.12), (0.11, 0.2), (0.075, 0.27),
             (0.045, 0.31), (0.05, 0.345), (0.06, 0.355), (0.054, 0.356), (0.04, 0.34), (0, 0.3)],
    "jar": [(0, 0), (0.07, 0), (0.085, 0.02), (0.1, 0.09), (0.095, 0.16), (0.07, 0.195),
            (0.072, 0.21), (0.066, 0.211), (0.06, 0.19), (0, 0.17)],
    "bottle": [(0, 0), (0.05, 0), (0.062, 0.03), (0.066, 0.13), (0.055, 0.19), (0.022, 0.24),
               (0.018, 0.31), (0.028, 0.33), (0.024, 0.331), (0.012, 0.31), (0, 0.3)],
    "plate": [(0, 0), (0.07, 0), (0.075, 0.008), (0.12, 0.02), (0.15, 0.032), (0.148, 0.036),
              (0.11, 0.024), (0, 0.014)],
    "beaker": [(0, 0), (0.036, 0), (0.042, 0.02), (0.046, 0.11), (0.043, 0.111), (0.038, 0.02),
               (0, 0.016)],
}  # fmt: skip
GLAZES = ["raw clay", "terracotta", "celadon glaze", "tenmoku glaze", "shino glaze",
          "cobalt glaze", "ash glaze"]  # fmt: skip
TABLES = ((-3.0, -0.75), (0.9, -0.75))
TABLE_SIZE = (2.7, 0.95, 0.80)
#: Lower face of the pendant shades: centres; each shade is 1.3 m long.
PENDANTS = tuple((x + dx, y, 2.12) for x, y in TABLES for dx in (-0.68, 0.68))
PENDANT_SIZE = (1.1, 0.10)
SHELF = (-5.4, 3.2, Y1 - 0.36)
SHELF_LEVELS = (0.45, 0.9, 1.35, 1.8, 2.25, 2.7)
SHELF_LIGHTS = tuple((x, SHELF[2] + 0.03, 2.665) for x in (-4.7, -3.2, -1.75, -0.3, 1.15, 2.6))
WHEELS = ((4.2, 0.7), (4.2, 2.2))


def _table() -> list[tuple[Solid, str]]:
    w, d, h = TABLE_SIZE
    top = [timber([-w / 2, -d / 2 + i * d / 4 + 0.0015, h - 0.05],
                  [w / 2, -d / 2 + (i + 1) * d / 4 - 0.0015, h], 0.004) for i in range(4)]  # fmt: skip
    legs = [timber([x - 0.045, y - 0.045, 0], [x + 0.045, y + 0.045, h - 0.05], 0.005)
            for x in (-w / 2 + 0.12, w / 2 - 0.12) for y in (-d / 2 + 0.1, d / 2 - 0.1)]  # fmt: skip
    rails = [timber([-w / 2 + 0.1, y - 0.02, h - 0.16], [w / 2 - 0.1, y + 0.02, h - 0.05])
             for y in (-d / 2 + 0.1, d / 2 - 0.1)]  # fmt: skip
    low = [timber([-w / 2 + 0.1, y, 0.18], [w / 2 - 0.1, y + 0.258, 0.205])
           for y in np.linspace(-d / 2 + 0.08, d / 2 - 0.08, 4)[:3]]  # fmt: skip
    return [(join(*top, *legs, *rails, *low), "oak")]


def _bench() -> list[tuple[Solid, str]]:
    top = [timber([-1.15, y, 0.42], [1.15, y + 0.158, 0.46], 0.006) for y in (-0.16, 0.002)]
    ends = [timber([x - 0.03, -0.13, 0], [x + 0.03, 0.13, 0.42], 0.005) for x in (-0.9, 0.9)]
    return [(join(*top, *ends, beam([-0.9, 0, 0.2], [0.9, 0, 0.2], 0.03, 0.07)), "oak")]


def _wheel() -> list[tuple[Solid, str]]:
    frame = [timber([x - 0.03, y - 0.03, 0], [x + 0.03, y + 0.03, 0.5], 0.004)
             for x in (-0.32, 0.32) for y in (-0.28, 0.28)]  # fmt: skip
    tray = [timber([-0.36, -0.32, 0.5], [0.36, 0.32, 0.52]), timber([-0.36, -0.32, 0.5], [-0.34, 0.32, 0.64]),
            timber([-0.36, 0.30, 0.5], [0.36, 0.32, 0.64])]  # fmt: skip
    head = turned([(0, 0.52), (0.03, 0.52), (0.03, 0.6), (0.17, 0.6), (0.17, 0.62), (0, 0.62)])
    kick = turned([(0, 0.12), (0.26, 0.12), (0.26, 0.17), (0, 0.17)])
    return [(join(*frame, *tray), "oak"), (join(head, kick), "black steel")]


#: Half thrown: a thick cylinder whose wall has just been drawn up; and a lump that is centred.
HALF_THROWN = [(0.0, 0.0), (0.105, 0.0), (0.108, 0.012), (0.094, 0.05), (0.088, 0.13), (0.096, 0.185),
               (0.099, 0.198), (0.090, 0.2), (0.080, 0.13), (0.078, 0.03), (0.0, 0.022)]  # fmt: skip
CENTRED = [(0.0, 0.0), (0.1, 0.0), (0.105, 0.02), (0.09, 0.07), (0.055, 0.105), (0.0, 0.112)]


def _on_the_wheels() -> list[Piece]:
    """What was left when the bell rang: a pot half thrown, a lump of clay, water and tools beside them."""
    (ax, ay), (bx, by) = WHEELS
    rib = moved(worn_box([-0.06, -0.025, 0], [0.06, 0.025, 0.006], 0.002), [0.02, 0, 0])
    needle = tube([0, 0.06, 0.006], [0.15, 0.07, 0.006], 0.006, 8)
    sponge = worn_box([-0.045, 0.11, 0], [0.04, 0.17, 0.035], 0.012)
    return [
        Piece("Half-thrown pot", [(turned(smooth_profile(HALF_THROWN)), "wet clay")], "Pots",
              [placed(ax, ay, 0.6205)]),
        Piece("Centred clay", [(turned(smooth_profile(CENTRED)), "wet clay")], "Pots",
              [placed(bx, by, 0.6205)]),
        Piece("Throwing tools", [(join(rib, needle), "oak"), (sponge, "sacking")], "Furniture",
              [placed(ax - 0.24, ay - 0.26, 0.5205, 95), placed(bx - 0.22, by + 0.2, 0.5205, 15)]),
        Piece("Water bowl", thrown("bowl", "shino glaze"), "Pots",
              [placed(ax + 0.22, ay - 0.24, 0.5205, 0, 0.8), placed(bx + 0.2, by + 0.2, 0.5205, 0, 0.8)]),
    ]  # fmt: skip


def _mug() -> list[tuple[Solid, str]]:
    """A mug of tea: a beaker with a handle, full to two fingers below its rim."""
    a = np.linspace(-0.5 * np.pi, 0.5 * np.pi, 9)
    ring = np.stack([0.041 + 0.03 * np.cos(a), 0 * a, 0.062 + 0.03 * np.sin(a)], axis=-1)
    handle = [tube(p, q, 0.0055, 8) for p, q in pairwise(ring)]
    tea = turned([(0.0401, 0.078), (0.0, 0.0781)], 32)
    body = turned(smooth_profile(PROFILES["beaker"]))
    return [(join(body, *handle), "celadon glaze"), (tea, "tenmoku glaze")]


def _jacket() -> list[tuple[Solid, str]]:
    """A work jacket thrown over a bench: flat on the seat, hanging in folds to both sides."""
    s, t = np.meshgrid(np.linspace(-1, 1, 41), np.linspace(-1, 1, 61))
    over = 0.17
    out = t * 0.52
    hang = np.maximum(np.abs(out) - over, 0.0)
    bend = np.clip(hang / 0.05, 0, 1)
    y = np.sign(t) * (
        np.minimum(np.abs(out), over)
        + 0.015 * bend
        + 0.03 * bend * np.sin(7 * s + 2 * np.sign(t)) * hang / 0.3
    )
    z = (
        0.465
        + 0.008 * np.sin(5 * s + 3 * t) * (1 - bend)
        - np.maximum(hang - 0.01, 0)
        + 0.02 * s**2 * bend
    )
    x = 0.26 * s * (1 + 0.12 * np.abs(t)) + 0.03 * np.sin(2.3 * t + 1)
    return [(surface(np.stack([x, y, z], axis=-1)), "blue cloth")]


def thrown(shape: str, glaze: str) -> list[tuple[Solid, str]]:
    """A pot: glazed down to a finger above its foot, which stays bare."""
    profile = smooth_profile(PROFILES[shape])
    if glaze in ("raw clay", "terracotta"):
        return [(turned(profile), glaze)]
    bare = 0.10 * max(z for _, z in profile)
    cut = next(k for k, (_, z) in enumerate(profile) if z > bare)
    return [(turned(profile[cut - 1 :]), glaze), (turned(profile[:cut]), "raw clay")]


def _stool() -> list[tuple[Solid, str]]:
    seat = turned([(0, 0.43), (0.17, 0.43), (0.175, 0.45), (0.17, 0.465), (0, 0.46)])
    legs = [tube([0.11 * np.cos(a), 0.11 * np.sin(a), 0.43],
                 [0.19 * np.cos(a), 0.19 * np.sin(a), 0], 0.017)
            for a in (0.4, 2.49, 4.58)]  # fmt: skip
    return [(join(seat, *legs), "dark oak")]


def _pendant() -> list[tuple[Solid, str]]:
    w, d = 1.3, 0.18
    shade = [box([-w / 2, -d / 2, 0.055], [w / 2, d / 2, 0.075]),
             box([-w / 2, -d / 2, 0], [w / 2, -d / 2 + 0.012, 0.06]),
             box([-w / 2, d / 2 - 0.012, 0], [w / 2, d / 2, 0.06]),
             box([-w / 2, -d / 2, 0], [-w / 2 + 0.012, d / 2, 0.06]),
             box([w / 2 - 0.012, -d / 2, 0], [w / 2, d / 2, 0.06])]  # fmt: skip
    cables = [tube([x, 0, 0.07], [x, 0, 1.35], 0.006, 8) for x in (-0.5, 0.5)]
    return [(join(*shade, *cables), "black steel")]


def shelves() -> list[Piece]:
    """The long shelf on the north wall."""
    x0, x1, y = SHELF
    boards = [timber([x0, y, z], [x1, Y1 - 0.002, z + 0.028]) for z in SHELF_LEVELS]
    posts = [timber([x - 0.02, y + 0.01, 0], [x + 0.02, Y1 - 0.003, 2.85])
             for x in np.linspace(x0 + 0.02, x1 - 0.02, 7)]  # fmt: skip
    return [Piece("Shelf boards", [(join(*boards), "oak")], "Furniture"),
            Piece("Shelf posts", [(join(*posts), "dark oak")], "Furniture")]  # fmt: skip


def _pot_places(rng: np.random.Generator) -> list[tuple[float, float, float, float, float]]:
    """x, y, z, turn and scale for every pot on shelves, tables, sills and floor."""
    out = []
    x0, x1, y = SHELF
    for level, z in enumerate(SHELF_LEVELS):
        x = x0 + 0.2
        while x < x1 - 0.15:
            post = np.abs(np.linspace(x0 + 0.02, x1 - 0.02, 7) - x).min()
            if post > 0.16 and rng.random() > 0.10:
                out.append((x, y + rng.uniform(0.15, 0.22), z + 0.0285, rng.uniform(0, 360),
                            rng.uniform(0.78, 1.02) * (1.1 if level < 2 else 0.95)))  # fmt: skip
            x += rng.uniform(0.24, 0.36)
    for tx, ty in TABLES:
        for _ in range(9):
            out.append((tx + rng.uniform(-1.2, 1.2), ty + rng.uniform(-0.36, 0.36),
                        TABLE_SIZE[2] + 0.0005, rng.uniform(0, 360), rng.uniform(0.85, 1.15)))  # fmt: skip
        for _ in range(5):
            out.append((tx + rng.uniform(-1.0, 1.0), ty + rng.uniform(-0.28, 0.28), 0.206,
                        rng.uniform(0, 360), rng.uniform(0.9, 1.2)))  # fmt: skip
    for x in (-3.95, -3.5, -1.2, -0.7, 1.7, 2.2):
        out.append((x, Y0 + 0.03, 0.751, rng.uniform(0, 360), rng.uniform(0.6, 0.8)))
    return out


def pots() -> list[Piece]:
    """A few hundred pots: six shapes, seven surfaces, every copy placed without crowding."""
    rng = np.random.default_rng(7)
    chosen: dict[tuple[str, str], list[np.ndarray]] = {}
    kept: list[tuple[float, float, float]] = []
    shapes, weights = list(PROFILES), [0.25, 0.15, 0.2, 0.15, 0.07, 0.18]
    for x, y, z, turn, scale in _pot_places(rng):
        shape = str(rng.choice(shapes, p=weights))
        if any(abs(z - c) < 0.05 and np.hypot(x - a, y - b) < 0.24 for a, b, c in kept):
            continue
        if z > 2.2 and shape in ("vase", "bottle"):
            shape = "jar"
        if shape in ("vase", "bottle") and 0.3 < z < 2.5 and y > 3:
            scale = min(scale, 0.95)
        kept.append((x, y, z))
        glaze = str(rng.choice(GLAZES, p=[0.22, 0.17, 0.14, 0.12, 0.15, 0.08, 0.12]))
        chosen.setdefault((shape, glaze), []).append(placed(x, y, z, turn, scale))
    tall = [placed(-5.3, 1.98, 0, 20, 2.0), placed(5.35, 3.0, 0, 200, 2.3)]
    chosen.setdefault(("vase", "terracotta"), []).extend(tall)
    return [
        Piece(f"{glaze} {shape}", thrown(shape, glaze), "Pots", places)
        for (shape, glaze), places in sorted(chosen.items())
    ]


def smooth_profile(
    profile: list[tuple[float, float]], per_span: int = 4
) -> list[tuple[float, float]]:
    """Profile with extra points on a Catmull–Rom curve, so that silhouettes are round."""
    p = np.array([profile[0], *profile, profile[-1]])
    out = []
    for i in range(1, len(p) - 2):
        for t in np.linspace(0, 1, per_span, endpoint=False):
            a, b, c, d = p[i - 1 : i + 3]
            q = 0.5 * (2 * b + (c - a) * t + (2 * a - 5 * b + 4 * c - d) * t**2
                       + (3 * b - a - 3 * c + d) * t**3)  # fmt: skip
            out.append((max(float(q[0]), 0.0), float(q[1])))
    return [*out, profile[-1]]


def pieces() -> list[Piece]:
    """All furniture and pots."""
    return [
        Piece("Work table", _table(), "Furniture",
              [placed(x, y, 0, turn) for (x, y), turn in zip(TABLES, (180, 0), strict=True)]),
        Piece("Bench", _bench(), "Furniture",
              [placed(x, y + s, 0, turn) for (x, y), turns in zip(TABLES, ((0, 180), (180, 0)), strict=True)
               for s, turn in zip((-0.78, 0.8), turns, strict=True)]),
        Piece("Throwing wheel", _wheel(), "Furniture",
              [placed(x, y, 0, 90) for x, y in WHEELS]),
        Piece("Stool", _stool(), "Furniture",
              [placed(3.55, 0.75, 0), placed(3.55, 2.15, 0), placed(-5.05, 2.45, 0)]),
        Piece("Pendant", _pendant(), "Lamp bodies", [placed(x, y, z) for x, y, z in PENDANTS]),
        Piece("Mug", _mug(), "Pots", [placed(1.62, -1.02, TABLE_SIZE[2] + 0.0005, 200)]),
        Piece("Jacket", _jacket(), "Furniture", [placed(-2.45, TABLES[0][1] + 0.8, 0)]),
        *_on_the_wheels(),
        *shelves(),
        *pots(),
    ]  # fmt: skip
