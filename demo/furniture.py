"""What stands in the workshop: benches, wheels, shelves, pots, pendants."""

from __future__ import annotations

import numpy as np

from .shapes import Solid, beam, box, join, tube, turned
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
    top = [box([-w / 2, -d / 2 + i * d / 4 + 0.002, h - 0.05],
               [w / 2, -d / 2 + (i + 1) * d / 4 - 0.002, h]) for i in range(4)]  # fmt: skip
    legs = [box([x - 0.045, y - 0.045, 0], [x + 0.045, y + 0.045, h - 0.05])
            for x in (-w / 2 + 0.12, w / 2 - 0.12) for y in (-d / 2 + 0.1, d / 2 - 0.1)]  # fmt: skip
    rails = [box([-w / 2 + 0.1, y - 0.02, h - 0.16], [w / 2 - 0.1, y + 0.02, h - 0.05])
             for y in (-d / 2 + 0.1, d / 2 - 0.1)]  # fmt: skip
    low = box([-w / 2 + 0.1, -d / 2 + 0.08, 0.18], [w / 2 - 0.1, d / 2 - 0.08, 0.205])
    return [(join(*top, *legs, *rails, low), "oak")]


def _bench() -> list[tuple[Solid, str]]:
    top = box([-1.15, -0.16, 0.42], [1.15, 0.16, 0.46])
    ends = [box([x - 0.03, -0.13, 0], [x + 0.03, 0.13, 0.42]) for x in (-0.9, 0.9)]
    return [(join(top, *ends, beam([-0.9, 0, 0.2], [0.9, 0, 0.2], 0.03, 0.07)), "oak")]


def _wheel() -> list[tuple[Solid, str]]:
    frame = [box([x - 0.03, y - 0.03, 0], [x + 0.03, y + 0.03, 0.5])
             for x in (-0.32, 0.32) for y in (-0.28, 0.28)]  # fmt: skip
    tray = [box([-0.36, -0.32, 0.5], [0.36, 0.32, 0.52]), box([-0.36, -0.32, 0.5], [-0.34, 0.32, 0.64]),
            box([-0.36, 0.30, 0.5], [0.36, 0.32, 0.64])]  # fmt: skip
    head = turned([(0, 0.52), (0.03, 0.52), (0.03, 0.6), (0.17, 0.6), (0.17, 0.62), (0, 0.62)])
    kick = turned([(0, 0.12), (0.26, 0.12), (0.26, 0.17), (0, 0.17)])
    pot = turned([(r * 0.9, z * 0.9 + 0.62) for r, z in PROFILES["jar"]])
    return [(join(*frame, *tray), "oak"), (join(head, kick), "black steel"), (pot, "raw clay")]


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
    boards = [box([x0, y, z], [x1, Y1 - 0.002, z + 0.028]) for z in SHELF_LEVELS]
    posts = [box([x - 0.02, y + 0.01, 0], [x + 0.02, Y1 - 0.003, 2.85])
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
        Piece(
            f"{glaze} {shape}", [(turned(smooth_profile(PROFILES[shape])), glaze)], "Pots", places
        )
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
        Piece("Work table", _table(), "Furniture", [placed(x, y, 0) for x, y in TABLES]),
        Piece("Bench", _bench(), "Furniture",
              [placed(x, y + s, 0) for x, y in TABLES for s in (-0.78, 0.8)]),
        Piece("Throwing wheel", _wheel(), "Furniture",
              [placed(x, y, 0, 90) for x, y in WHEELS]),
        Piece("Stool", _stool(), "Furniture",
              [placed(3.55, 0.75, 0), placed(3.55, 2.15, 0), placed(-5.05, 2.45, 0)]),
        Piece("Pendant", _pendant(), "Lamp bodies", [placed(x, y, z) for x, y, z in PENDANTS]),
        *shelves(),
        *pots(),
    ]  # fmt: skip
