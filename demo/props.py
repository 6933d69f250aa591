"""What makes the workshop a place of work: desk, rack, buckets, aprons, sacks, tools."""

from __future__ import annotations

from itertools import pairwise

import numpy as np

from .furniture import PROFILES, smooth_profile
from .shapes import Solid, beam, box, join, moved, sheet, surface, timber, tube, turned
from .workshop import X0, Y0
from .writer import Piece, placed

#: Desk against the west wall, north of the doors; its screen looks into the room.
DESK = (X0 + 0.36, 2.55)
DESK_LAMP = (X0 + 0.40, 3.02, 1.16)
RACK = (0.52, Y0 + 0.3)
RACK_LEVELS = (0.22, 0.56, 0.9, 1.24, 1.58)


def _desk() -> list[tuple[Solid, str]]:
    top = timber([-0.34, -0.62, 0.71], [0.34, 0.62, 0.74])
    legs = [box([x - 0.02, y - 0.02, 0], [x + 0.02, y + 0.02, 0.71])
            for x in (-0.3, 0.3) for y in (-0.57, 0.57)]  # fmt: skip
    drawers = box([-0.3, -0.57, 0.42], [0.26, -0.15, 0.70])
    return [(join(top, drawers), "oak"), (join(*legs), "black steel")]


def _screen() -> list[tuple[Solid, str]]:
    back = box([-0.022, -0.285, 0.86], [-0.002, 0.285, 1.21])
    foot = join(
        box([-0.1, -0.12, 0.74], [0.08, 0.12, 0.75]),
        box([-0.05, -0.025, 0.75], [-0.02, 0.025, 0.95]),
    )
    face = sheet([[0, -0.27, 0.875], [0, 0.27, 0.875], [0, 0.27, 1.195], [0, -0.27, 1.195]])
    return [(join(back, foot), "black steel"), (face, "screen")]


def _desk_lamp() -> list[tuple[Solid, str]]:
    """Foot, two arms and an open shade whose rim is at the origin."""
    foot = turned([(0, -0.42), (0.08, -0.42), (0.08, -0.405), (0, -0.40)])
    arms = [tube([-0.02, 0.16, -0.41], [-0.06, 0.30, -0.05], 0.007, 8),
            tube([-0.06, 0.30, -0.05], [0, 0.02, 0.10], 0.007, 8)]  # fmt: skip
    foot = moved(foot, [-0.02, 0.16, 0])
    shade = turned([(0.075, 0), (0.055, 0.05), (0.025, 0.09), (0.012, 0.11), (0.009, 0.105),
                    (0.022, 0.085), (0.052, 0.047), (0.072, 0)])  # fmt: skip
    return [(join(foot, *arms, shade), "painted door")]


def _bucket() -> list[tuple[Solid, str]]:
    body = turned([(0, 0), (0.11, 0), (0.113, 0.004), (0.15, 0.27), (0.156, 0.275), (0.156, 0.283),
                   (0.148, 0.28), (0.108, 0.01), (0, 0.01)])  # fmt: skip
    angle = np.linspace(0, np.pi, 13)
    handle = [tube([0.155 * np.cos(a), 0.06 * np.sin(a) + 0.02, 0.265 - 0.14 * np.sin(a)],
                   [0.155 * np.cos(b), 0.06 * np.sin(b) + 0.02, 0.265 - 0.14 * np.sin(b)], 0.004, 5)
              for a, b in pairwise(angle)]  # fmt: skip
    return [(join(body, *[moved(h, [0, 0.11, 0]) for h in handle]), "galvanised")]


def _rack() -> list[tuple[Solid, str]]:
    posts = [timber([x - 0.02, y - 0.02, 0], [x + 0.02, y + 0.02, 1.85])
             for x in (-0.5, 0.5) for y in (-0.2, 0.2)]  # fmt: skip
    rails = [
        box([x - 0.012, -0.2, z - 0.03], [x + 0.012, 0.2, z])
        for x in (-0.5, 0.5)
        for z in RACK_LEVELS
    ]
    planks = [
        timber([-0.56, y - 0.09, z], [0.56, y + 0.09, z + 0.02])
        for z in RACK_LEVELS
        for y in (-0.1, 0.1)
    ]
    return [(join(*posts, *rails), "dark oak"), (join(*planks), "oak")]


def _sack() -> list[tuple[Solid, str]]:
    """A filled sack, slumped: a rounded box whose middle bulges."""
    u, v = np.meshgrid(np.linspace(0, 2 * np.pi, 33), np.linspace(-np.pi / 2, np.pi / 2, 17))

    def power(x: np.ndarray) -> np.ndarray:
        return np.asarray(np.sign(x) * np.abs(x) ** 0.45)

    bulge = 1 + 0.05 * np.sin(3 * u) * np.cos(v)
    p = np.stack([0.30 * power(np.cos(v)) * power(np.cos(u)) * bulge,
                  0.19 * power(np.cos(v)) * power(np.sin(u)) * bulge,
                  0.11 + 0.11 * power(np.sin(v)) - 0.01 * np.cos(2 * u)], axis=-1)  # fmt: skip
    return [(surface(p[::-1], closed=True), "sacking")]


def _apron(cloth: str) -> list[tuple[Solid, str]]:
    """A cloth apron hanging from a hook, in folds that open towards its hem."""
    s, t = np.meshgrid(np.linspace(-1, 1, 41), np.linspace(0, 1, 33))
    half = 0.04 + 0.165 * np.clip(t * 3.2, 0, 1) ** 0.7
    fold = 0.045 * t**0.6 * np.sin(9 * s + 1.2) + 0.012 * np.sin(23 * s + 4 * t)
    p = np.stack(
        [0.045 + fold + 0.02 * (1 - s**2), half * s, -0.95 * t - 0.05 * s**2 * (1 - t)], axis=-1
    )
    return [(surface(p), cloth)]


def _clock() -> list[tuple[Solid, str]]:
    """A round clock, its face in the plane x = 0.03 looking east, at twelve past five."""
    rim = turned(
        [(0.0, 0.0), (0.155, 0.0), (0.16, 0.03), (0.15, 0.034), (0.146, 0.024), (0.0, 0.024)]
    )
    face = turned([(0.145, 0.0245), (0.0, 0.025)])
    hands = []
    for turn, length in ((156.0, 0.085), (72.0, 0.125)):
        a = np.radians(turn)
        hands.append(tube([0, 0, 0.027], [length * np.sin(a), length * np.cos(a), 0.027], 0.004, 6))

    def upright(s: Solid) -> Solid:
        # Its plan (x right, y up) onto a wall seen from the east: right is north, up is up.
        return Solid(s.points[:, [2, 0, 1]], s.normals[:, [2, 0, 1]], s.uvs)

    return [(upright(join(rim, *hands)), "black steel"), (upright(face), "paper")]


def _sketches() -> list[tuple[Solid, str]]:
    """Sheets pinned to the wall over the desk, none of them straight."""
    out = []
    for y, z, turn in ((2.18, 1.52, 3), (2.46, 1.56, -2), (2.72, 1.49, 1), (2.32, 1.86, -4)):
        a = np.radians(turn)
        half = [(-0.105, -0.148), (0.105, -0.148), (0.105, 0.148), (-0.105, 0.148)]
        out.append(sheet([[X0 + 0.003, y + c * np.cos(a) - d * np.sin(a), z + c * np.sin(a) + d * np.cos(a)]
                          for c, d in half]))  # fmt: skip
    return [(join(*out), "paper")]


def _splashes(size: float) -> list[tuple[Solid, str]]:
    """Clay on the floor: drops that dried where they fell, thickest in the middle."""
    h = size / 2
    made = sheet([[-h, -h, 0.0015], [h, -h, 0.0015], [h, h, 0.0015], [-h, h, 0.0015]])
    # One picture over the whole sheet, whatever its size.
    return [(Solid(made.points, made.normals, made.uvs / size + 0.5), "clay splashes")]


def pieces() -> list[Piece]:
    """All props of the workshop."""
    rng = np.random.default_rng(31)
    beakers = [placed(RACK[0] + x, RACK[1] + y, z + 0.0205, rng.uniform(0, 360), rng.uniform(0.85, 0.95))
               for z in RACK_LEVELS for y in (-0.1, 0.1) for x in np.linspace(-0.44, 0.44, 7)
               if rng.random() < 0.82 and z < 1.5]  # fmt: skip
    bowls = [placed(RACK[0] + x, RACK[1] + y, z + 0.0205, 0, 0.8)
             for z in RACK_LEVELS[4:] for y in (-0.1, 0.1) for x in (-0.4, -0.13, 0.13, 0.4)]  # fmt: skip
    rail = join(beam([X0 + 0.035, -3.45, 1.78], [X0 + 0.035, -2.05, 1.78], 0.03, 0.1),
                *[tube([X0 + 0.04, y, 1.77], [X0 + 0.10, y, 1.79], 0.008, 8)
                  for y in (-3.25, -2.8, -2.3)])  # fmt: skip
    broom = join(
        tube([0, 0, 0.12], [0.18, 0.02, 1.35], 0.012, 10),
        box([-0.17, -0.03, 0], [0.17, 0.03, 0.12]),
    )
    return [
        Piece("Desk", _desk(), "Furniture", [placed(*DESK, 0)]),
        Piece("Screen", _screen(), "Furniture", [placed(DESK[0] - 0.05, DESK[1] - 0.1, 0)]),
        Piece("Desk lamp", _desk_lamp(), "Lamp bodies", [placed(*DESK_LAMP)]),
        Piece("Bucket", _bucket(), "Furniture",
              [placed(2.55, 0.55, 0, 20), placed(2.95, 1.1, 0, 140), placed(-4.75, -3.3, 0, 60),
               placed(1.35, -3.35, 0, 200)]),
        Piece("Drying rack", _rack(), "Furniture", [placed(*RACK, 0)]),
        Piece("Drying beaker", [(turned(smooth_profile(PROFILES["beaker"])), "raw clay")], "Pots", beakers),
        Piece("Drying bowl", [(turned(smooth_profile(PROFILES["bowl"])), "raw clay")], "Pots", bowls),
        Piece("Sack of clay", _sack(), "Furniture",
              [placed(-2.55, Y0 + 0.28, 0, 4), placed(-1.92, Y0 + 0.26, 0, -6), placed(-2.3, Y0 + 0.27, 0.215, 10)]),
        Piece("Coat rail", [(rail, "oak")], "Furniture"),
        Piece("Apron", _apron("linen"), "Furniture", [placed(X0 + 0.02, y, 1.77) for y in (-3.25, -2.3)]),
        Piece("Blue apron", _apron("blue cloth"), "Furniture", [placed(X0 + 0.02, -2.8, 1.77)]),
        Piece("Clock", _clock(), "Furniture", [placed(X0 + 0.002, 2.5, 2.62)]),
        Piece("Sketches", _sketches(), "Furniture"),
        Piece("Clay on the floor", _splashes(1.5), "Floor",
              [placed(x, y, 0.0005 * k, 77 * k) for k, (x, y) in enumerate(
                  ((3.95, 0.7), (4.1, 2.15), (2.6, 0.75), (-1.2, -1.4), (0.4, -2.2)))]),
        Piece("Broom", [(broom, "oak")], "Furniture", [placed(-5.9, -1.95, 0, 90)]),
    ]  # fmt: skip
