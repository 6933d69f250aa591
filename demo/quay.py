"""The waterside: quay and its wall, tidal water, jetty, boat, bollards, and the land around."""

from __future__ import annotations

from itertools import pairwise

import numpy as np

from .shapes import Solid, box, join, plate, sheet, surface, tube, turned
from .workshop import X0, Y0
from .writer import Piece, placed

QUAY_EDGE_X = -15.0
WATER_Z = -1.25
LAND_X = 28.0
JETTY_Y = (-17.2, -15.4)
#: Lanterns on the west wall (centre of the glowing globe) and bulkheads on the south wall.
LANTERNS = ((X0 - 0.62, -2.35, 2.55), (X0 - 0.62, 2.35, 2.55))
BULKHEADS = tuple((x, Y0 - 0.52, 3.28) for x in (-2.3, 0.5))
POST_LAMPS = ((-13.6, -8.5, 3.0), (-13.6, 5.5, 3.0))


def _hills(x0: float, x1: float, top: float, seed: int) -> Solid:
    """Rolling land from south to north between two distances, rising to about ``top``."""
    rng = np.random.default_rng(seed)
    u, v = np.meshgrid(np.linspace(0, 1, 13), np.linspace(-1, 1, 121), indexing="ij")
    height = np.zeros(u.shape)
    for wave, share in ((1.3, 1.0), (2.9, 0.5), (6.1, 0.22), (13.0, 0.09)):
        phase = rng.uniform(0, 6.28, 2)
        height += share * np.sin(
            v * wave * np.pi + phase[0] + u * wave * 0.7
        ) + share * 0.3 * np.sin(v * wave * 4.4 + phase[1])
    height = top * np.sin(np.pi * u / 2) * (0.55 + 0.3 * height / 1.8) - 1.0
    points = np.stack([x0 + (x1 - x0) * u, 420 * v, np.maximum(height, -2.0)], axis=-1)
    return surface(points) if x1 > x0 else surface(points[:, ::-1])


def ground() -> list[Piece]:
    """Quay with its wall to the water, yard, meadow, hills and the far shore."""
    quay = box([QUAY_EDGE_X, -60, -3.0], [LAND_X, 60, -0.06])
    kerb = join(*[box([QUAY_EDGE_X - 0.06, y + 0.006, -0.34], [QUAY_EDGE_X + 0.52, y + 1.494, 0.0])
                  for y in np.arange(-60, 60, 1.5)])  # fmt: skip
    meadow = box([LAND_X, -420, -3.0], [160, 420, -0.1])
    water = sheet([[-900, -900, WATER_Z], [QUAY_EDGE_X + 0.2, -900, WATER_Z],
                   [QUAY_EDGE_X + 0.2, 900, WATER_Z], [-900, 900, WATER_Z]])  # fmt: skip
    shore = plate([(-420, -2), (420, -2), (420, 5), (180, 9), (90, 7), (20, 13), (-60, 8),
                   (-150, 11), (-220, 6), (-420, 4)], [], 4.0)  # fmt: skip
    turned_shore = Solid(shore.points[:, [1, 0, 2]] * [-1, 1, 1] + [-330, 0, 0],
                         shore.normals[:, [1, 0, 2]] * [-1, 1, 1], shore.uvs)  # fmt: skip
    # Weed as high as the tide comes, thinner towards its top; foam where the water meets the wall.
    low, high = WATER_Z - 0.3, WATER_Z + 0.62
    grown = sheet([[QUAY_EDGE_X - 0.012, 60, low], [QUAY_EDGE_X - 0.012, -60, low],
                   [QUAY_EDGE_X - 0.012, -60, high], [QUAY_EDGE_X - 0.012, 60, high]])  # fmt: skip
    # Its picture runs along the wall every 1.8 m and once from top to bottom.
    grown.uvs[:] = np.stack(
        [grown.points[:, 1] / 1.8, (high - grown.points[:, 2]) / (high - low)], axis=1
    )
    strip = sheet([[QUAY_EDGE_X - 0.5, -60, WATER_Z + 0.004], [QUAY_EDGE_X, -60, WATER_Z + 0.004],
                   [QUAY_EDGE_X, 60, WATER_Z + 0.004], [QUAY_EDGE_X - 0.5, 60, WATER_Z + 0.004]])  # fmt: skip
    return [
        Piece("Weed on the quay", [(grown, "weed")], "Ground"),
        Piece("Foam", [(strip, "foam")], "Ground"),
        Piece("Quay", [(quay, "quay stone")], "Ground"),
        Piece("Quay kerb", [(kerb, "quay stone")], "Ground"),
        Piece("Meadow", [(meadow, "grass")], "Ground"),
        Piece("Tidal water", [(water, "water")], "Ground"),
        Piece("Far shore", [(turned_shore, "far shore")], "Surroundings"),
        Piece("Hills inland", [(_hills(110, 420, 34, 3), "far fields")], "Surroundings"),
    ]


def _bollard() -> list[tuple[Solid, str]]:
    return [(turned([(0, -0.06), (0.2, -0.06), (0.17, 0.05), (0.13, 0.12), (0.13, 0.38), (0.19, 0.43),
                     (0.2, 0.5), (0.15, 0.55), (0, 0.57)]), "black steel")]  # fmt: skip


def _lantern() -> list[tuple[Solid, str]]:
    arm = [tube([0.22, 0, 0.18], [0, 0, 0.22], 0.014), box([0.2, -0.06, 0.1], [0.23, 0.06, 0.28])]
    cap = turned([(0.005, 0.2), (0.13, 0.12), (0.135, 0.11), (0, 0.115)])
    return [(join(*arm, cap), "black steel")]


def _bulkhead() -> list[tuple[Solid, str]]:
    return [(join(box([-0.12, 0.0, -0.05], [0.12, 0.115, 0.07]),
                  box([-0.14, -0.09, 0.06], [0.14, 0.115, 0.08])), "black steel")]  # fmt: skip


def _post_lamp() -> list[tuple[Solid, str]]:
    post = tube([0, 0, -3.05], [0, 0, -0.17], 0.045)
    foot = turned([(0, -3.06), (0.14, -3.06), (0.12, -2.9), (0.05, -2.75), (0, -2.7)])
    ring = turned([(0.02, -0.19), (0.1, -0.16), (0.1, -0.145), (0.02, -0.15)])
    cap = turned([(0, 0.22), (0.05, 0.21), (0.2, 0.14), (0.2, 0.13), (0, 0.15)])
    return [(join(post, foot, ring, cap), "black steel")]


def _jetty() -> list[tuple[Solid, str]]:
    """Planks on posts, from the quay out over the water."""
    low, high = JETTY_Y
    rng = np.random.default_rng(8)
    planks = [box([x + 0.006, low - rng.uniform(0, 0.05), -0.10], [x + 0.154, high + rng.uniform(0, 0.05), -0.05])
              for x in np.arange(-37.0, QUAY_EDGE_X, 0.16)]  # fmt: skip
    beams = [
        box([-37.0, y - 0.07, -0.32], [QUAY_EDGE_X, y + 0.07, -0.10])
        for y in (low + 0.2, high - 0.2)
    ]
    posts = [tube([x, y, -3.4], [x, y, 0.55 if k % 2 else -0.1], 0.11)
             for k, x in enumerate(np.arange(-36.6, QUAY_EDGE_X, 3.1)) for y in (low - 0.06, high + 0.06)]  # fmt: skip
    return [(join(*planks), "shed boards"), (join(*beams, *posts), "dark oak")]


def _boat() -> list[tuple[Solid, str]]:
    """A rowing boat 4.2 m long, keel on the water's plane minus its draught."""
    s = np.linspace(0, 1, 33)[:, None]
    t = np.linspace(-1, 1, 29)[None, :]
    wide = 0.78 * np.clip(1 - np.abs(2 * s - 0.9) ** 2.6, 0, 1) ** 0.8 + 0.001
    sheer = 0.34 + 0.26 * (2 * s - 1) ** 2
    keel = -0.2 + 0.36 * np.abs(2 * s - 1) ** 5
    x = 4.2 * (s - 0.5) + 0 * t
    y = wide * np.sign(t) * np.abs(t) ** 0.62
    z = keel + (sheer - keel) * np.abs(t) ** 2.4
    hull = surface(np.stack([x, y, z], axis=-1))
    edge = [np.stack([x[:, k], y[:, k], z[:, k]], axis=-1) for k in (0, -1)]
    rails = [tube(a, b, 0.022, 6) for line in edge for a, b in pairwise(line)]
    seats = [
        box([cx - 0.12, -w, 0.16], [cx + 0.12, w, 0.19])
        for cx, w in ((-1.1, 0.55), (0.1, 0.72), (1.2, 0.52))
    ]
    oars = [tube([-1.2, d, 0.22], [1.3, d * 0.6, 0.30], 0.02, 8) for d in (-0.22, 0.2)]
    return [(hull, "boat paint"), (join(*rails, *seats, *oars), "oak")]


def _coil() -> list[tuple[Solid, str]]:
    """A coiled rope."""
    angle = np.linspace(0, 5 * 2 * np.pi, 140)
    radius = 0.30 - 0.0045 * angle
    p = np.stack([radius * np.cos(angle), radius * np.sin(angle), 0.02 + 0.004 * angle], axis=-1)
    return [(join(*[tube(a, b, 0.018, 6) for a, b in pairwise(p)]), "sacking")]


def _pots_in_a_row() -> list[tuple[Solid, str]]:
    """Lobster pots: slatted half-rounds."""
    hoops = []
    angle = np.linspace(0, np.pi, 9)
    for x in (-0.3, 0.0, 0.3):
        arch = np.stack([np.full(9, x), 0.22 * np.cos(angle), 0.34 * np.sin(angle)], axis=-1)
        hoops += [tube(a, b, 0.012, 5) for a, b in pairwise(arch)]
    slats = [tube([-0.32, 0.22 * np.cos(a), 0.34 * np.sin(a)], [0.32, 0.22 * np.cos(a), 0.34 * np.sin(a)], 0.008, 5)
             for a in np.linspace(0, np.pi, 12)]  # fmt: skip
    return [(join(*hoops, *slats), "dark oak")]


def pieces() -> list[Piece]:
    """Everything at the water."""
    post = tube([0, 0, -3], [0, 0, 0.9], 0.13, 20)
    wet = tube([0, 0, -3], [0, 0, -1.12], 0.134, 20)
    crate = join(*[box([-0.35, -0.25, z], [0.35, 0.25, z + 0.09]) for z in (0.0, 0.13, 0.26)],
                 *[box([x, y, 0], [x + 0.05, y + 0.04, 0.36]) for x in (-0.33, 0.28) for y in (-0.26, 0.22)])  # fmt: skip
    ladder = join(*[tube([0, y, -2.4], [0, y, 0.35], 0.018, 8) for y in (-0.2, 0.2)],
                  *[tube([0, -0.2, z], [0, 0.2, z], 0.014, 8) for z in np.arange(-2.2, 0.2, 0.28)])  # fmt: skip
    return [
        *ground(),
        Piece("Bollard", _bollard(), "Quay furniture",
              [placed(QUAY_EDGE_X + 1.1, y, 0) for y in (-20, -12, -3, 3, 11, 19)]),
        Piece("Mooring post", [(post, "dark oak"), (wet, "wet wood")], "Quay furniture",
              [placed(QUAY_EDGE_X - 1.0, y, WATER_Z + 1.6) for y in (-11.5, -5.0, 6.5, 12)]),
        Piece("Jetty", _jetty(), "Quay furniture"),
        Piece("Quay ladder", [(ladder, "black steel")], "Quay furniture",
              [placed(QUAY_EDGE_X - 0.1, y, 0) for y in (-7.0, 8.0)]),
        Piece("Rowing boat", _boat(), "Quay furniture",
              [placed(QUAY_EDGE_X - 2.6, 2.2, WATER_Z + 0.06, 82), placed(-11.9, -11.6, 0.18, 28)]),
        Piece("Coil of rope", _coil(), "Quay furniture",
              [placed(QUAY_EDGE_X + 1.6, -3.4, -0.06), placed(-9.4, 4.6, -0.06, 40)]),
        Piece("Lobster pot", _pots_in_a_row(), "Quay furniture",
              [placed(-8.4, 5.2, -0.06, 8), placed(-8.5, 5.75, -0.06, -5), placed(-8.45, 5.45, 0.28, 2),
               placed(-9.3, 6.3, -0.06, 70)]),
        Piece("Crate", [(crate, "shed boards")], "Quay furniture",
              [placed(-7.4, -3.1, -0.06, 12), placed(-7.5, -3.05, 0.31, 30), placed(-8.1, -3.3, -0.06, -20)]),
        Piece("Lantern body", _lantern(), "Lamp bodies", [placed(*p) for p in LANTERNS]),
        Piece("Bulkhead body", _bulkhead(), "Lamp bodies", [placed(*p) for p in BULKHEADS]),
        Piece("Lamp post", _post_lamp(), "Lamp bodies", [placed(*p) for p in POST_LAMPS]),
    ]  # fmt: skip
