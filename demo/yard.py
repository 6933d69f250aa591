"""Outside: quay, water, kiln yard, wood stacks, neighbours and the far shore."""

from __future__ import annotations

import numpy as np

from .shapes import Solid, box, join, plate, sheet, tube, turned
from .workshop import X0, X1, Y0
from .writer import Piece, placed

QUAY_EDGE_X = -15.0
WATER_Z = -1.5
#: Lanterns on the west wall (centre of the glowing globe) and bulkheads on the south wall.
LANTERNS = ((X0 - 0.62, -2.35, 2.55), (X0 - 0.62, 2.35, 2.55))
BULKHEADS = tuple((x, Y0 - 0.52, 3.28) for x in (-2.3, 0.5))
POST_LAMPS = ((-13.6, -6.5, 3.0), (-13.6, 3.5, 3.0))
KILN = (10.2, 1.6)


def ground() -> list[Piece]:
    """Quay with its wall to the water, yard, and grass behind."""
    quay = box([QUAY_EDGE_X, -40, -3.0], [X1 + 14, 40, -0.06])
    kerb = box([QUAY_EDGE_X - 0.1, -40, -0.3], [QUAY_EDGE_X + 0.5, 40, 0.02])
    grass = box([X1 + 14, -60, -3.0], [70, 60, -0.1])
    water = sheet([[-400, -400, WATER_Z], [QUAY_EDGE_X + 0.2, -400, WATER_Z],
                   [QUAY_EDGE_X + 0.2, 400, WATER_Z], [-400, 400, WATER_Z]])  # fmt: skip
    shore = plate([(-260, -2), (260, -2), (260, 5), (180, 9), (90, 7), (20, 13), (-60, 8),
                   (-150, 11), (-220, 6), (-260, 4)], [], 4.0)  # fmt: skip
    turned_shore = Solid(shore.points[:, [1, 0, 2]] * [-1, 1, 1] + [-330, 0, 0],
                         shore.normals[:, [1, 0, 2]] * [-1, 1, 1], shore.uvs)  # fmt: skip
    return [
        Piece("Quay", [(quay, "quay stone")], "Ground"),
        Piece("Quay kerb", [(kerb, "quay stone")], "Ground"),
        Piece("Meadow", [(grass, "grass")], "Ground"),
        Piece("Tidal water", [(water, "water")], "Ground"),
        Piece("Far shore", [(turned_shore, "far shore")], "Surroundings"),
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


def _kiln() -> list[tuple[Solid, str]]:
    body = [box([-1.1, -0.9, -0.06], [1.1, 0.9, 1.5])]
    angle = np.linspace(0, np.pi, 17)
    arch = [(0.9 * np.cos(a), 1.5 + 0.6 * np.sin(a)) for a in angle]
    vault = plate(arch, [], 2.2)
    shell = Solid(vault.points[:, [1, 0, 2]] - [1.1, 0, 0], vault.normals[:, [1, 0, 2]], vault.uvs)
    flipped = Solid(*(a.reshape(-1, 3, a.shape[1])[:, ::-1].reshape(-1, a.shape[1])
                      for a in (shell.points, shell.normals, shell.uvs)))  # fmt: skip
    chimney = box([0.55, -0.3, 1.6], [1.1, 0.3, 4.2])
    spy = sheet(
        [[-1.104, 0.11, 0.62], [-1.104, -0.11, 0.62], [-1.104, -0.11, 0.88], [-1.104, 0.11, 0.88]]
    )
    frame = join(box([-1.13, -0.17, 0.56], [-1.1, -0.11, 0.94]), box([-1.13, 0.11, 0.56], [-1.1, 0.17, 0.94]),
                 box([-1.13, -0.17, 0.88], [-1.1, 0.17, 0.94]), box([-1.13, -0.17, 0.56], [-1.1, 0.17, 0.62]))  # fmt: skip
    return [(join(*body, flipped, chimney), "brick"), (frame, "black steel"), (spy, "kiln fire")]


def _log_stack() -> list[tuple[Solid, str]]:
    rng = np.random.default_rng(3)
    logs = []
    for row in range(7):
        for i in range(13 - row % 2):
            y, z = -1.0 + i * 0.16 + 0.08 * (row % 2), 0.02 + row * 0.135
            r = rng.uniform(0.062, 0.078)
            logs.append(tube([-0.35 + rng.uniform(-0.03, 0.03), y, z], [0.35, y, z], r, 9))
    return [(join(*logs), "shed boards")]


def _shed(width: float, depth: float, height: float) -> list[tuple[Solid, str]]:
    gable = plate([(-width / 2, -0.2), (width / 2, -0.2), (width / 2, height), (0, height * 1.45),
                   (-width / 2, height)], [], depth)  # fmt: skip
    lift = 0.06
    roof = plate([(-width / 2 - 0.3, height - 0.3 + lift), (0, height * 1.45 + lift),
                  (width / 2 + 0.3, height - 0.3 + lift), (width / 2 + 0.3, height - 0.2 + lift),
                  (0, height * 1.45 + 0.12 + lift), (-width / 2 - 0.3, height - 0.2 + lift)], [],
                 depth + 0.5)  # fmt: skip
    cover = Solid(roof.points - [0, 0.25, 0], roof.normals, roof.uvs)
    return [(gable, "shed boards"), (cover, "slate")]


def pieces() -> list[Piece]:
    """Everything outside."""
    posts = tube([0, 0, -3], [0, 0, 0.9], 0.13)
    crate = join(*[box([-0.35, -0.25, z], [0.35, 0.25, z + 0.09]) for z in (0.0, 0.13, 0.26)],
                 *[box([x, y, 0], [x + 0.05, y + 0.04, 0.36]) for x in (-0.33, 0.28) for y in (-0.26, 0.22)])  # fmt: skip
    return [
        *ground(),
        Piece("Bollard", _bollard(), "Quay furniture",
              [placed(QUAY_EDGE_X + 1.1, y, 0) for y in (-14, -8, -2, 4, 10)]),
        Piece("Mooring post", [(posts, "dark oak")], "Quay furniture",
              [placed(QUAY_EDGE_X - 1.0, y, WATER_Z + 1.6) for y in (-11, -4.5, 6)]),
        Piece("Lantern body", _lantern(), "Lamp bodies", [placed(*p) for p in LANTERNS]),
        Piece("Bulkhead body", _bulkhead(), "Lamp bodies", [placed(*p) for p in BULKHEADS]),
        Piece("Lamp post", _post_lamp(), "Lamp bodies", [placed(*p) for p in POST_LAMPS]),
        Piece("Kiln", _kiln(), "Kiln yard", [placed(*KILN, 0)]),
        Piece("Log stack", _log_stack(), "Kiln yard", [placed(9.4, -2.4, 0.0), placed(9.4, 4.4, 0, 8)]),
        Piece("Crate", [(crate, "shed boards")], "Quay furniture",
              [placed(-7.4, -3.1, -0.06, 12), placed(-7.5, -3.05, 0.31, 30), placed(-8.1, -3.3, -0.06, -20)]),
        Piece("Boat shed", _shed(7, 11, 3.4), "Surroundings", [placed(-6, 17, 0, 4)]),
        Piece("Net loft", _shed(6, 9, 4.6), "Surroundings", [placed(14, -22, 0, -6), placed(18, 16, 0, 10)]),
    ]  # fmt: skip
