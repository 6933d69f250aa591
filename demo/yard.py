"""The kiln yard east of the gallery: kiln under its roof, wood, sheds."""

from __future__ import annotations

import numpy as np

from .furniture import PROFILES, smooth_profile
from .shapes import Solid, box, join, plate, sheet, timber, tube, turned
from .writer import Piece, placed

KILN = (18.6, 3.4)
#: Two lamps under the kiln's roof and washers along the gallery's outer walls.
ROOF_LAMPS = ((16.9, 1.2, 2.5), (20.3, 1.2, 2.5))
WASHERS = (
    ((13.15, -2.4, 0.11), [-0.2, 0.0, 1.0]), ((13.15, 0.6, 0.11), [-0.2, 0.0, 1.0]),
    ((6.85, -4.55, 0.11), [0.0, 0.2, 1.0]), ((11.6, -4.55, 0.11), [0.0, 0.2, 1.0]),
)  # fmt: skip


#: The floodlight on the gallery's east wall.
FLOOD = (13.0, 1.9, 3.15)


def _flipped(solid: Solid) -> Solid:
    return Solid(*(a.reshape(-1, 3, a.shape[1])[:, ::-1].reshape(-1, a.shape[1])
                   for a in (solid.points, solid.normals, solid.uvs)))  # fmt: skip


def _kiln() -> list[tuple[Solid, str]]:
    """Barrel-vaulted kiln with a spy-hole to the west, iron straps and a chimney."""
    body = box([-1.1, -0.9, -0.06], [1.1, 0.9, 1.5])
    angle = np.linspace(0, np.pi, 17)
    arch = [(0.9 * np.cos(a), 1.5 + 0.6 * np.sin(a)) for a in angle]
    vault = plate(arch, [], 2.2)
    shell = Solid(vault.points[:, [1, 0, 2]] - [1.1, 0, 0], vault.normals[:, [1, 0, 2]], vault.uvs)
    chimney = join(
        box([0.5, -0.33, 1.6], [1.1, 0.33, 4.6]), box([0.44, -0.39, 4.42], [1.16, 0.39, 4.56])
    )
    spy = sheet(
        [[-1.104, 0.13, 0.60], [-1.104, -0.13, 0.60], [-1.104, -0.13, 0.90], [-1.104, 0.13, 0.90]]
    )
    bars = [box([-1.15, y - 0.03, 0.54], [-1.1, y + 0.03, 0.96]) for y in (-0.16, 0.16)]
    bars += [box([-1.15, -0.19, z - 0.03], [-1.1, 0.19, z + 0.03]) for z in (0.57, 0.93)]
    straps = [
        box([x - 0.03, s * 0.9 - 0.02, 0], [x + 0.03, s * 0.9 + 0.02, 1.5])
        for x in (-0.7, 0.0, 0.7)
        for s in (-1, 1)
    ]
    step = box([-1.7, -1.1, -0.06], [-1.1, 1.1, 0.06])
    return [(join(body, _flipped(shell), chimney, step), "brick"), (join(*bars, *straps), "black steel"),
            (spy, "kiln fire")]  # fmt: skip


def _kiln_roof() -> list[tuple[Solid, str]]:
    """Open roof on six posts: rafters and slates, a hole for the chimney."""
    posts = [timber([x - 0.08, y - 0.08, 0], [x + 0.08, y + 0.08, z])
             for x in (-3.0, 0.0, 3.0) for y, z in ((-2.9, 2.62), (1.9, 3.42))]  # fmt: skip
    beams = [
        timber([-3.3, -2.98, 2.6], [3.3, -2.82, 2.78]),
        timber([-3.3, 1.82, 3.4], [3.3, 1.98, 3.58]),
    ]
    rise = 0.8 / 4.8

    def slab(x0: float, x1: float, y0: float, y1: float, low: float, high: float) -> Solid:
        z0, z1 = 2.78 + (y0 + 2.9) * rise, 2.78 + (y1 + 2.9) * rise
        made = plate(
            [(y0, z0 + low), (y1, z1 + low), (y1, z1 + high), (y0, z0 + high)], [], x1 - x0
        )
        return _flipped(
            Solid(
                made.points[:, [1, 0, 2]] + [x0, 0, 0],
                made.normals[:, [1, 0, 2]],
                made.uvs[:, ::-1],
            )
        )

    rafters = [
        slab(x - 0.04, x + 0.04, -3.3, 2.3, 0.0, 0.12)
        for x in np.linspace(-3.2, 3.2, 9)
        if abs(x - 0.8) > 0.4
    ]
    # The chimney stands at x 0.5…1.1, y −0.33…0.33 of the kiln.
    spans = (
        (-3.5, 0.45, -3.4, 2.4),
        (1.15, 3.5, -3.4, 2.4),
        (0.45, 1.15, -3.4, -0.38),
        (0.45, 1.15, 0.38, 2.4),
    )
    boards = [slab(*s, 0.12, 0.145) for s in spans]
    slates = [slab(*s, 0.145, 0.20) for s in spans]
    return [
        (join(*posts, *beams, *rafters), "dark oak"),
        (join(*boards), "oak"),
        (join(*slates), "slate"),
    ]


def _log_stack() -> list[tuple[Solid, str]]:
    rng = np.random.default_rng(3)
    logs = []
    for row in range(9):
        for i in range(17 - row % 2):
            y, z = -1.3 + i * 0.16 + 0.08 * (row % 2), 0.02 + row * 0.135
            r = rng.uniform(0.056, 0.078)
            logs.append(
                tube(
                    [-0.35 + rng.uniform(-0.05, 0.05), y, z],
                    [0.35 + rng.uniform(-0.05, 0.05), y, z],
                    r,
                    9,
                )
            )
    return [(join(*logs), "bark")]


def _chopping() -> list[tuple[Solid, str]]:
    block = turned([(0, -0.06), (0.26, -0.06), (0.24, 0.1), (0.25, 0.48), (0, 0.49)], 24)
    axe = join(tube([0, 0, 0.52], [0.34, 0.05, 1.05], 0.016, 8))
    head = box([-0.09, -0.02, 0.46], [0.05, 0.02, 0.58])
    return [(block, "bark"), (axe, "oak"), (head, "black steel")]


def _ware_board() -> list[tuple[Solid, str]]:
    """A trestle with boards, for pots on their way into the kiln."""
    top = [timber([-1.1, y - 0.11, 0.82], [1.1, y + 0.11, 0.85]) for y in (-0.24, 0.0, 0.24)]
    legs = [tube([x, 0.0, 0.82], [x + dx, dy, -0.06], 0.022, 8)
            for x in (-0.8, 0.8) for dx in (-0.08, 0.08) for dy in (-0.34, 0.34)]  # fmt: skip
    return [(join(*top, *legs), "oak")]


def _barrow() -> list[tuple[Solid, str]]:
    tray = join(box([-0.45, -0.3, 0.34], [0.4, 0.3, 0.37]), box([-0.45, -0.3, 0.36], [-0.42, 0.3, 0.62]),
                box([-0.45, -0.3, 0.36], [0.4, -0.27, 0.56]), box([-0.45, 0.27, 0.36], [0.4, 0.3, 0.56]))  # fmt: skip
    arms = [tube([-0.7, s * 0.2, 0.22], [0.95, s * 0.3, 0.5], 0.022, 8) for s in (-1, 1)]
    feet = [tube([0.3, s * 0.27, 0.38], [0.36, s * 0.27, -0.06], 0.018, 8) for s in (-1, 1)]
    wheel = tube([-0.72, -0.03, 0.13], [-0.72, 0.03, 0.13], 0.19, 24)
    return [(join(tray, *arms, *feet), "shed boards"), (wheel, "black steel")]


def _wall() -> list[tuple[Solid, str]]:
    """Yard wall of brick with a coping."""
    return [(box([-6.5, -0.16, -0.3], [6.5, 0.16, 1.75]), "brick"),
            (box([-6.55, -0.21, 1.75], [6.55, 0.21, 1.83]), "quay stone")]  # fmt: skip


def _shed(width: float, depth: float, height: float) -> list[tuple[Solid, str]]:
    """A boarded shed with a steep roof and a pair of doors."""
    gable = plate([(-width / 2, -0.2), (width / 2, -0.2), (width / 2, height), (0, height * 1.45),
                   (-width / 2, height)], [], depth)  # fmt: skip
    lift = 0.06
    roof = plate([(-width / 2 - 0.3, height - 0.3 + lift), (0, height * 1.45 + lift),
                  (width / 2 + 0.3, height - 0.3 + lift), (width / 2 + 0.3, height - 0.2 + lift),
                  (0, height * 1.45 + 0.12 + lift), (-width / 2 - 0.3, height - 0.2 + lift)], [],
                 depth + 0.5)  # fmt: skip
    cover = Solid(roof.points - [0, 0.25, 0], roof.normals, roof.uvs)
    doors = join(box([-1.2, -0.05, 0], [-0.01, 0, 2.3]), box([0.01, -0.05, 0], [1.2, 0, 2.3]))
    return [(gable, "shed boards"), (cover, "slate"), (doors, "painted door")]


def _washer_body() -> list[tuple[Solid, str]]:
    """A low can on the paving, open upwards: its lamp sits so deep that only who bends over it sees it."""
    ring = [
        (0, -0.17),
        (0.1, -0.17),
        (0.1, -0.02),
        (0.062, -0.02),
        (0.055, -0.03),
        (0.055, -0.13),
        (0, -0.13),
    ]
    return [(turned(ring, 24), "black steel")]


def _flood_body() -> list[tuple[Solid, str]]:
    """A housing on a bracket from the gallery's wall, open below, with a hood that hides its lamp."""
    sides = [box([-0.1, y - 0.004, -0.09], [0.1, y + 0.004, 0.08]) for y in (-0.12, 0.12)]
    sides += [box([x - 0.004, -0.12, -0.09], [x + 0.004, 0.12, 0.08]) for x in (-0.1, 0.1)]
    return [(join(box([-0.26, -0.03, 0.08], [-0.02, 0.03, 0.12]),
                  box([-0.1, -0.12, 0.045], [0.1, 0.12, 0.08]), *sides), "black steel")]  # fmt: skip


def _roof_lamp_body() -> list[tuple[Solid, str]]:
    """An enamelled shade on a cord from the rafters, dark outside and white within; the bulb just shows below it."""
    outside = [(0.02, 0.17), (0.045, 0.155), (0.07, 0.11), (0.19, 0.005), (0.195, -0.01)]
    inside = [(0.195, -0.01), (0.19, -0.008), (0.066, 0.102), (0.04, 0.14), (0.0, 0.142)]
    cord = tube([0, 0, 0.165], [0, 0, 0.42], 0.005, 6)
    return [(join(turned(outside, 32), cord), "painted door"), (turned(inside, 32), "enamel")]


def boat_shed() -> list[Piece]:
    """The boat shed by itself: a second, small model."""
    return [Piece("Boat shed", _shed(7, 11, 3.4), "Surroundings")]


def pieces() -> list[Piece]:
    """Everything of the yard and the neighbours."""
    x, y = KILN
    rng = np.random.default_rng(12)
    c, s = np.cos(np.radians(78)), np.sin(np.radians(78))
    waiting = [placed(14.7 + c * u - s * v, 0.9 + s * u + c * v, 0.8505, rng.uniform(0, 360), rng.uniform(0.9, 1.15))
               for u in np.linspace(-0.95, 0.95, 6) for v in (-0.22, 0.02, 0.24) if rng.random() < 0.85]  # fmt: skip
    return [
        Piece("Washer body", _washer_body(), "Lamp bodies", [placed(*p) for p, _ in WASHERS]),
        Piece("Floodlight body", _flood_body(), "Lamp bodies", [placed(*FLOOD)]),
        Piece("Roof lamp body", _roof_lamp_body(), "Lamp bodies", [placed(*p) for p in ROOF_LAMPS]),
        Piece("Kiln", _kiln(), "Kiln yard", [placed(x, y, 0)]),
        Piece("Kiln roof", _kiln_roof(), "Kiln yard", [placed(x, y, 0)]),
        Piece("Log stack", _log_stack(), "Kiln yard",
              [placed(20.9, 5.6, 0.0, 90), placed(17.6, 5.6, 0, 90), placed(21.6, 1.6, 0, 6)]),
        Piece("Chopping block", _chopping(), "Kiln yard", [placed(20.9, -0.9, 0, 35)]),
        Piece("Ware boards", _ware_board(), "Kiln yard", [placed(14.7, 0.9, 0.0, 78)]),
        Piece("Ware on boards", [(turned(smooth_profile(PROFILES["jar"])), "raw clay")], "Kiln yard", waiting),
        Piece("Barrow", _barrow(), "Kiln yard", [placed(19.2, -2.2, 0, 200)]),
        Piece("Yard wall", _wall(), "Kiln yard", [placed(19.3, 8.2, 0), placed(26.2, 1.9, 0, 90)]),
        Piece("Boat shed", _shed(7, 11, 3.4), "Surroundings", [placed(3, -24, 0, 176)]),
        Piece("Net loft", _shed(6, 9, 4.6), "Surroundings", [placed(13.5, -22, 0, 184), placed(24, 18, 0, 10)]),
    ]  # fmt: skip
