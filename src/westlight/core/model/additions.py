"""Things an artist adds around a building: ground, blocks, trees, blinds, and blockers unseen.

Each stands on its own origin: z up, its middle at x = y = 0, its foot at z = 0, lengths in metres.
"""

from __future__ import annotations

import math
from typing import Any, NamedTuple

import numpy as np
import numpy.typing as npt

from .material import Material
from .parts import Mesh, Part

Array = npt.NDArray[np.float64]
Faces = npt.NDArray[np.signedinteger[Any]]
_BOX_FACES = [
    [0, 2, 3], [0, 3, 1], [4, 5, 7], [4, 7, 6], [0, 1, 5], [0, 5, 4], [2, 6, 7], [2, 7, 3],
    [0, 4, 6], [0, 6, 2], [1, 3, 7], [1, 7, 5],
]  # fmt: skip


class Kind(NamedTuple):
    """What is added around a building: its usual ``size_m`` (width, depth, height) and colour, how many metres
    it keeps off a wall it hangs before (``gap_m``) and over the ground it lies on (``over_m``), the tilt of its
    slats in degrees, and its own luminance in cd/m²."""

    size_m: tuple[float, float, float]
    colour: str
    gap_m: float = 0.0
    over_m: float = 0.0
    tilt_deg: float = 0.0
    emission_cd_m2: float = 0.0


KINDS: dict[str, Kind] = {
    "block": Kind((6.0, 6.0, 5.0), "#9c958a"),
    "tree": Kind((4.0, 4.0, 6.0), "#5d7440"),
    "blind": Kind((1.5, 0.05, 1.6), "#d8d4c8", gap_m=0.1, tilt_deg=35.0),
    # Level with the ground it would fight with it for what is seen.
    "ground": Kind((30.0, 30.0, 0.1), "#8a8578", over_m=0.005),
    "blocker": Kind((2.0, 0.02, 1.5), "#060606", gap_m=0.1),
    "light card": Kind((1.2, 0.02, 0.8), "#ffffff", gap_m=0.03, emission_cd_m2=500.0),
}
#: Leaves of a tree by square metre of its crown's surface, and the length of one.
_LEAVES_PER_M2 = 42
_LEAF_M = 0.14
#: Thickness of a slat of a blind.
_SLAT_M = 0.002


def placed(
    name: str,
    mesh: Mesh,
    position: tuple[float, float, float],
    turn_deg: float = 0.0,
    blocker: bool = False,
) -> Part:
    """An addition standing at a position, turned anticlockwise seen from above."""
    a = math.radians(turn_deg)
    matrix = np.eye(4)
    matrix[:2, :2] = [[math.cos(a), -math.sin(a)], [math.sin(a), math.cos(a)]]
    matrix[:3, 3] = position
    return Part(name, mesh, matrix, ("Additions", name), blocker, movable=True)


def box(name: str, width: float, depth: float, height: float, material: Material) -> Mesh:
    """A box along x, y, z: a neighbour's house, a slab, a card.

    >>> box("b", 2, 4, 6, Material()).vertices.max(axis=0).tolist()
    [1.0, 2.0, 6.0]
    """
    points = [[x * width / 2, y * depth / 2, z * height]
              for x in (-1, 1) for y in (-1, 1) for z in (0, 1)]  # fmt: skip
    return Mesh.single(name, points, _BOX_FACES, material)


def card(name: str, width: float, height: float, material: Material) -> Mesh:
    """An upright card across y, seen the right way round from +y; a picture fits it once.

    >>> card("c", 2, 1, Material()).vertices.max(axis=0).tolist()
    [1.0, 0.0, 1.0]
    """
    x = width / 2
    corners = [[-x, 0, 0], [x, 0, 0], [x, 0, height], [-x, 0, height]]
    return Mesh.single(name, corners, [[0, 1, 2], [0, 2, 3]], material,
                       uvs=[[1, 1], [0, 1], [0, 0], [1, 0]])  # fmt: skip


def ground(name: str, width: float, depth: float, material: Material) -> Mesh:
    """A level piece of ground."""
    x, y = width / 2, depth / 2
    return Mesh.single(name, [[-x, -y, 0], [x, -y, 0], [x, y, 0], [-x, y, 0]],
                       [[0, 1, 2], [0, 2, 3]], material)  # fmt: skip


def blind(
    name: str, width: float, slat: float, height: float, tilt_deg: float, material: Material
) -> Mesh:
    """A blind of level slats along x, ``slat`` deep, tilted about their length (0 = level)."""
    step = slat * 0.85
    count = max(1, int(height / step))
    a = math.radians(tilt_deg)
    across, up = np.array([0, math.cos(a), math.sin(a)]), np.array([0, -math.sin(a), math.cos(a)])
    corners = []
    for s in (-0.5, 0.5):
        for t in (-0.5, 0.5):
            corners += [across * slat * s + up * _SLAT_M * t]
    profile = np.array(corners)
    points, faces = [], []
    for i in range(count):
        middle = np.array([0.0, 0.0, height - step * (i + 0.5)])
        for x in (-width / 2, width / 2):
            points.append(profile + middle + [x, 0, 0])
        faces.append(np.array(_BOX_FACES) + 8 * i)
    return Mesh.single(name, np.concatenate(points), np.concatenate(faces), material)


def tree(
    name: str, width: float, height: float, material: Material, bark: Material, seed: int = 1
) -> Mesh:
    """A tree in leaf: a trunk, and a crown of leaves gathered in clumps, so that light dapples."""
    rng = np.random.default_rng(seed)
    crown = np.array([width / 2, width / 2, height * 0.36])
    middle = np.array([0, 0, height - crown[2]])
    clumps = _in_ball(rng, 36) * crown * 0.82 + middle
    around = clumps[rng.integers(len(clumps), size=_leaf_count(crown))]
    at = around + _in_ball(rng, len(around)) * crown * 0.34
    leaves, leaf_faces = _leaves(rng, at)
    trunk, trunk_faces = _trunk(width * 0.02 + 0.03, middle[2])
    faces = np.concatenate([leaf_faces, trunk_faces + len(leaves)])
    of = np.concatenate([np.zeros(len(leaf_faces), np.int32), np.ones(len(trunk_faces), np.int32)])
    points = np.concatenate([leaves, trunk]).astype(np.float32)
    return Mesh(name, points, faces.astype(np.int32), [material, bark], of)


def _leaf_count(crown: Array) -> int:
    area = 4 * math.pi * float(np.mean([crown[0] * crown[1], crown[0] * crown[2]]))
    return int(np.clip(area * _LEAVES_PER_M2, 400, 20_000))


def _in_ball(rng: np.random.Generator, count: int) -> Array:
    d = rng.normal(size=(count, 3))
    return np.asarray(d / np.linalg.norm(d, axis=1)[:, None] * rng.uniform(0, 1, (count, 1)) ** 0.4)


def _leaves(rng: np.random.Generator, at: Array) -> tuple[Array, Faces]:
    """Kite-shaped leaves at points, lying any way but rather level."""
    count = len(at)
    along = rng.normal(size=(count, 3)) * [1, 1, 0.5]
    along /= np.linalg.norm(along, axis=1)[:, None]
    up = rng.normal(size=(count, 3)) * 0.6 + [0, 0, 1]
    side = np.cross(along, up)
    side /= np.maximum(np.linalg.norm(side, axis=1), 1e-9)[:, None]
    size = _LEAF_M * rng.uniform(0.6, 1.2, (count, 1))
    kite = [(-0.5, 0.0), (0.1, -0.28), (0.5, 0.0), (0.1, 0.28)]
    points = np.stack([at + along * size * a + side * size * b for a, b in kite], axis=1)
    faces = np.array([[0, 1, 2], [0, 2, 3]])[None] + 4 * np.arange(count)[:, None, None]
    return points.reshape(-1, 3), faces.reshape(-1, 3)


def _trunk(radius: float, height: float, sides: int = 10) -> tuple[Array, Faces]:
    a = 2 * np.pi * np.arange(sides) / sides
    ring = np.stack([np.cos(a), np.sin(a), 0 * a], axis=1)
    low, high = ring * radius, ring * radius * 0.5 + [0, 0, height]
    i, j = np.arange(sides), (np.arange(sides) + 1) % sides
    faces = np.concatenate([np.stack([i, j, sides + j], 1), np.stack([i, sides + j, sides + i], 1)])
    return np.concatenate([low, high]), faces
