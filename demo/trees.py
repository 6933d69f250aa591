"""Trees bent by the sea wind: two bare ones of the same growth, and one in leaf."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from .shapes import Solid, join, tapered
from .writer import Piece, placed

Array = npt.NDArray[np.float64]
WIND = np.array([0.22, 0.06, 0.0])


def _grow(seed: int, levels: int) -> tuple[list[Solid], list[tuple[Array, Array]]]:
    """Limbs of a tree about 6 m high, and the ends of its twigs (place, direction)."""
    rng = np.random.default_rng(seed)
    limbs: list[Solid] = []
    tips: list[tuple[Array, Array]] = []

    def branch(start: Array, way: Array, length: float, radius: float, level: int) -> None:
        at, steps = start, 3 if level < 3 else 2
        for k in range(steps):
            way = way + rng.normal(0, 0.10, 3) + WIND * 0.10 + [0, 0, 0.05]
            way /= np.linalg.norm(way)
            end = at + way * length / steps
            thin = radius * (1 - 0.32 * (k + 1) / steps)
            limbs.append(tapered(at, end, radius * (1 - 0.32 * k / steps), thin,
                                 10 if level < 2 else 6 if level < 4 else 4))  # fmt: skip
            at = end
            if 0 < level < levels and k < steps - 1 and rng.random() < 0.55:
                fork(at, way, length * 0.62, thin * 0.55, level + 1, 0.95)
        if level == levels:
            tips.append((at, way))
            return
        for _ in range(3 if level < 2 else 2):
            fork(at, way, length * rng.uniform(0.62, 0.82), radius * rng.uniform(0.5, 0.66),
                 level + 1, 0.62)  # fmt: skip

    def fork(
        at: Array, way: Array, length: float, radius: float, level: int, spread: float
    ) -> None:
        aside = rng.normal(0, 1, 3)
        aside -= way * (aside @ way)
        aside /= np.linalg.norm(aside)
        tilt = rng.uniform(0.55, 1.15) * spread
        branch(at, way * np.cos(tilt) + aside * np.sin(tilt), length, radius, level)

    branch(np.array([0.0, 0, -0.2]), np.array([0.06, 0.0, 1.0]), 2.0, 0.17, 0)
    return limbs, tips


def _leaves(tips: list[tuple[Array, Array]]) -> Solid:
    """Cards with a twig's worth of leaves, several at every end of a twig."""
    rng = np.random.default_rng(5)
    count = 4 * len(tips)
    at = np.repeat(np.array([p for p, _ in tips]), 4, axis=0) + rng.normal(0, 0.16, (count, 3))
    u = rng.normal(0, 1, (count, 3))
    u /= np.linalg.norm(u, axis=1, keepdims=True)
    n = rng.normal((0, 0, 0.8), 1, (count, 3))
    v = np.cross(n, u)
    v /= np.linalg.norm(v, axis=1, keepdims=True)
    half = rng.uniform(0.14, 0.22, (count, 1))
    corners = np.stack([at - half * (u + v), at + half * (u - v), at + half * (u + v),
                        at - half * (u - v)], axis=1)  # fmt: skip
    points = corners[:, [0, 1, 2, 0, 2, 3]].reshape(-1, 3)
    normals = np.repeat(np.cross(u, v), 6, axis=0)
    square = np.array([[0.0, 1], [1, 1], [1, 0], [0, 1], [1, 0], [0, 0]])
    return Solid(points, normals, np.tile(square, (count, 1)))


def pieces() -> list[Piece]:
    """Two bare trees in the kiln yard, one in leaf beside it, thorns along the meadow."""
    bare, _ = _grow(41, 5)
    limbs, tips = _grow(17, 5)
    return [
        Piece("Bare tree", [(join(*bare), "bark")], "Trees",
              [placed(22.5, 8.0, 0, 30, 1.12), placed(24.5, -3.5, 0, 200, 0.95)]),
        Piece("Tree in leaf", [(join(*limbs), "bark"), (_leaves(tips), "leaf")], "Trees",
              [placed(-3.6, -9.6, 0, 60, 0.86), placed(33, 13, 0, 10, 1.2),
               placed(36, -9, 0, 140, 1.05), placed(27.5, 21, 0, 250, 1.1)]),
    ]  # fmt: skip
