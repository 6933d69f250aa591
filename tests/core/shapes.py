"""Simple scenes with known answers."""

from __future__ import annotations

import numpy as np

from westlight import core

Array = np.ndarray


def quad(scene: core.Scene, half: float, material: core.Material, z: float = 0.0) -> None:
    """A level square around the origin."""
    points = [[-half, -half, z], [half, -half, z], [half, half, z], [-half, half, z]]
    scene.add_mesh(points, [[0, 1, 2], [0, 2, 3]], material, "floor")


BOX_FACES = [
    [0, 1, 3], [0, 3, 2], [4, 6, 7], [4, 7, 5], [0, 4, 5], [0, 5, 1],
    [2, 3, 7], [2, 7, 6], [0, 2, 6], [0, 6, 4], [1, 5, 7], [1, 7, 3],
]  # fmt: skip


def box(
    scene: core.Scene, low: tuple[float, ...], high: tuple[float, ...], m: core.Material
) -> None:
    """A closed box."""
    points = [
        [x, y, z] for x in (low[0], high[0]) for y in (low[1], high[1]) for z in (low[2], high[2])
    ]
    scene.add_mesh(points, BOX_FACES, m, "box")


def uniform_sky(luminance: float = 1.0) -> core.sources.SkySource:
    """A sky of one luminance all around."""
    grid = np.full((4, 4, 3), luminance)
    return core.sources.SkySource("sky", core.sky.Sky(grid, 0.0, 0.0, np.full(3, luminance)))


def lux(rgb: Array) -> Array:
    """Illuminance of working-space irradiance."""
    return core.colour.luminance(rgb)
