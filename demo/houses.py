"""The neighbours: limewashed houses with sash windows, some of them lit behind blinds and curtains."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Collection

import numpy as np

from .shapes import Solid, box, join, moved, plate, sheet, surface, tube, turned
from .writer import Piece, placed

#: Half the width of a window and its height, metres.
HALF, HIGH = 0.45, 1.25


def _window(kind: int, lit: bool) -> dict[str, list[Solid]]:
    """A window in the plane y = 0 seen from −y, its sill at z = 0. ``kind``: how it is dressed.

    Pane, frame and bars, a stone sill; then nothing, a blind, curtains to both sides, or a short curtain.
    """
    w, h = HALF, HIGH
    out: dict[str, list[Solid]] = defaultdict(list)
    pane = sheet([[-w, -0.012, 0], [w, -0.012, 0], [w, -0.012, h], [-w, -0.012, h]])
    out["lit house pane" if lit else "house pane"].append(pane)
    out["white frames"] += [
        box([-w - 0.07, -0.06, -0.02], [-w, 0, h + 0.07]), box([w, -0.06, -0.02], [w + 0.07, 0, h + 0.07]),
        box([-w, -0.06, h], [w, 0, h + 0.07]), box([-w, -0.05, h / 2 - 0.025], [w, 0, h / 2 + 0.025]),
        box([-0.013, -0.04, 0], [0.013, 0, h]), box([-w, -0.05, 0], [w, 0, 0.045]),
    ]  # fmt: skip
    out["quay stone"].append(box([-w - 0.12, -0.12, -0.1], [w + 0.12, 0, -0.02]))
    if not lit:
        return out

    def cloth(x0: float, x1: float, z0: float, z1: float, folds: float) -> Solid:
        x, z = np.meshgrid(np.linspace(x0, x1, max(round(abs(x1 - x0) / 0.02), 2)), [z1, z0])
        return surface(np.stack([x, -0.022 - 0.006 * np.sin(x * folds), z], axis=-1))

    if kind == 1:
        out["house blind"].append(cloth(-w, w, 0.62 * h, h, 0.0))
    elif kind == 2:
        out["house blind"] += [cloth(-w, -0.30 * w, 0, h, 62.0), cloth(0.42 * w, w, 0, h, 62.0)]
    elif kind == 3:
        out["house blind"].append(cloth(-w, w, 0, 0.5 * h, 62.0))
        # A plant on the inner sill, as a shape against the light.
        out["dark oak"].append(box([0.1, -0.02, 0.045], [0.24, -0.014, 0.2]))
    return out


def _door() -> dict[str, list[Solid]]:
    """A front door with its step and a light over it, in the plane y = 0, in the middle."""
    out: dict[str, list[Solid]] = defaultdict(list)
    out["painted door"].append(box([-0.45, -0.04, 0.12], [0.45, 0, 2.1]))
    out["white frames"] += [box([-0.55, -0.07, 0.0], [-0.45, 0, 2.5]), box([0.45, -0.07, 0.0], [0.55, 0, 2.5]),
                            box([-0.55, -0.07, 2.5], [0.55, 0, 2.62]), box([-0.45, -0.06, 2.1], [0.45, 0, 2.15])]  # fmt: skip
    out["house pane"].append(sheet([[-0.45, -0.02, 2.15], [0.45, -0.02, 2.15], [0.45, -0.02, 2.5], [-0.45, -0.02, 2.5]]))  # fmt: skip
    out["quay stone"].append(box([-0.75, -0.45, -0.3], [0.75, 0, 0.1]))
    return out


def house(
    width: float, depth: float, height: float, lit: Collection[int], seed: int
) -> list[tuple[Solid, str]]:
    """A neighbour with windows on all four sides; those whose number is ``lit`` glow, each dressed its own way."""
    rng = np.random.default_rng(seed)
    out: dict[str, list[Solid]] = defaultdict(list)
    top = height + width * 0.42
    out["limewash"].append(plate(
        [(-width / 2, -0.3), (width / 2, -0.3), (width / 2, height), (0, top), (-width / 2, height)], [], depth))  # fmt: skip
    eave, ridge, over = height - 0.12, top + 0.05, width / 2 + 0.28
    cover = plate([(-over, eave), (0, ridge), (over, eave), (over, eave + 0.12), (0, ridge + 0.13),
                   (-over, eave + 0.12)], [], depth + 0.3)  # fmt: skip
    out["slate"].append(moved(cover, [0, -0.15, 0]))
    for y in (0.4, depth - 0.4):
        out["limewash"] += [box([-0.35, y - 0.25, height], [0.35, y + 0.25, top + 0.9]),
                            box([-0.42, y - 0.32, top + 0.78], [0.42, y + 0.32, top + 0.9])]  # fmt: skip
        pot = turned([(0.11, 0), (0.13, 0.02), (0.1, 0.08), (0.085, 0.36), (0.1, 0.4), (0.07, 0.4), (0.07, 0.1)], 16)  # fmt: skip
        out["terracotta"] += [moved(pot, [x, y, top + 0.9]) for x in (-0.17, 0.17)]
    # What every house has: a plinth, gutters along the eaves, a pipe down at a corner.
    out["quay stone"].append(box([-width / 2 - 0.03, -0.03, -0.3], [width / 2 + 0.03, depth + 0.03, 0.32]))  # fmt: skip
    for side in (-1, 1):
        x = side * (over + 0.05)
        out["black steel"] += [
            tube([x, -0.15, eave + 0.02], [x, depth + 0.15, eave + 0.02], 0.06, 10),
            tube([side * (width / 2 + 0.06), 0.1, 0], [side * (width / 2 + 0.06), 0.1, eave - 0.25], 0.04, 8),
            tube([side * (width / 2 + 0.06), 0.1, eave - 0.25], [x, 0.1, eave], 0.04, 8),
        ]  # fmt: skip
    floors = np.arange(0.9, height - 1.0, 2.5)
    spots = [
        (s, y, z)
        for s in (90, -90)
        for y in np.linspace(depth * 0.18, depth * 0.82, 3)
        for z in floors
    ]
    spots += [(s, x, z) for s in (0, 180) for x in (-width * 0.24, width * 0.24) for z in floors]
    for k, (turn, along, z) in enumerate(spots):
        at = {0: [along, 0, z], 180: [along, depth, z], 90: [width / 2, along, z], -90: [-width / 2, along, z]}[turn]  # fmt: skip
        kind = int(rng.integers(0, 4))
        for material, solids in _window(kind, k in lit).items():
            out[material] += [moved(s, at, turn) for s in solids]
    for material, solids in _door().items():
        out[material] += solids
    return [(join(*solids), material) for material, solids in out.items()]


def pieces() -> list[Piece]:
    """The houses around the quay."""
    return [
        Piece("House by the quay", house(6.2, 9.0, 5.2, (1, 4, 9, 13), 3), "Surroundings", [placed(-3.5, 19, 0, 6)]),
        Piece("Row house 1", house(5.4, 8.0, 5.4, (0, 3, 6, 12), 5), "Surroundings", [placed(6.5, 21, 0, 3)]),
        Piece("Row house 2", house(5.4, 8.0, 5.4, (2, 7, 13, 15), 8), "Surroundings", [placed(13.5, 22.5, 0, -5)]),
        *(Piece(f"House inland {n}", house(6.6, 8.5, 3.2, lit, n), "Surroundings", [place]) for n, lit, place in (
            (1, (2, 7), placed(38, 3, 0, 80)), (2, (0, 6), placed(34, -20, 0, 15)), (3, (1, 4), placed(47, 24, 0, -40)))),
    ]  # fmt: skip
