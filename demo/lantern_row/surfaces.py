"""Materials of Lantern Row, with textures made from noise: plaster, pale timber, tiles, stone, rug, cloth, render, paving."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from ..surfaces import SIZE, Array, Surface, _layers, _noise, _tint, written

Recipe = tuple[Callable[[np.random.Generator], tuple[Array, Array]], int, float]


def white_plaster(rng: np.random.Generator) -> tuple[Array, Array]:
    """Rolled paint: nearly even in colour, a fine orange peel in height."""
    tone = 0.80 + 0.004 * _layers(rng, [60, 160])
    return _tint((1.0, 0.985, 0.955), tone), 0.55 * _noise(rng, 3.0) + 0.3 * _noise(rng, 9.0)


def timber(rng: np.random.Generator) -> tuple[Array, Array]:
    """Pale sawn timber, its grain along u: years as long waves, pores as short dashes."""
    years = np.sin(26 * np.linspace(0, 2 * np.pi, SIZE)[:, None] + 1.7 * _noise(rng, (30, 240)))
    pores = np.clip(_noise(rng, (0.7, 14)) - 1.4, 0, 1)
    tone = 0.47 * (1 + 0.05 * years + 0.05 * _noise(rng, (16, 160)) - 0.22 * pores)
    return _tint((1.0, 0.80, 0.575), tone), 0.2 * years - pores


def tiles(rng: np.random.Generator) -> tuple[Array, Array]:
    """Twelve by twelve glazed tiles on 1.8 m, each a little of its own, with joints."""
    n = 12
    y, x = np.mgrid[0:SIZE, 0:SIZE] / SIZE * n
    row, column = y.astype(int), x.astype(int)
    fx, fy = np.abs(x % 1 - 0.5), np.abs(y % 1 - 0.5)
    joint = np.clip((np.maximum(fx, fy) - 0.478) / 0.012, 0, 1)
    own = 1 + 0.05 * rng.standard_normal((n, n))[row, column]
    tilt = rng.normal(size=(2, n, n)) * 0.35
    height = (
        tilt[0][row, column] * (x % 1) + tilt[1][row, column] * (y % 1) + 0.25 * _noise(rng, 26)
    )
    colour = _tint((0.50, 0.56, 0.53), own) * (1 - joint[..., None]) + 0.42 * joint[..., None]
    return colour, height * (1 - joint) - 2.5 * joint


def stone_top(rng: np.random.Generator) -> tuple[Array, Array]:
    """Dark polished stone with pale grains; veins run one way, wander, branch and die out."""
    y, x = np.mgrid[0:SIZE, 0:SIZE] / SIZE
    grains = np.clip(_noise(rng, 1.3) - 1.2, 0, 2)
    veins = np.zeros((SIZE, SIZE))
    for across, along, width, strength in (
        (1, 2, 0.010, 1.0),
        (2, 3, 0.006, 0.55),
        (1, 1, 0.004, 0.4),
    ):
        way = across * x + along * y + 0.16 * _layers(rng, [40, 110]) + 0.02 * _noise(rng, 8)
        off = np.abs((way % 1.0) - 0.5) / (width * (1 + 0.6 * _noise(rng, 60)).clip(0.25))
        veins += strength * np.exp(-off) * np.clip(_noise(rng, 70) + 0.2, 0, 1)
    cloud = 0.012 * _layers(rng, [50, 140])
    tone = 0.055 + cloud + 0.045 * grains + 0.16 * veins
    return _tint((1.0, 0.99, 0.96), np.clip(tone, 0.01, 0.6)), 0.03 * _noise(rng, 12)


def rug(rng: np.random.Generator) -> tuple[Array, Array]:
    """Wool pile: tufts in rows, leaning about, in two tones of a large pattern."""
    y, x = np.mgrid[0:SIZE, 0:SIZE] / SIZE
    tufts = np.sin(2 * np.pi * 96 * x + 1.2 * _noise(rng, 5)) * np.sin(2 * np.pi * 96 * y + 1.2 * _noise(rng, 5))  # fmt: skip
    band = 1 / (1 + np.exp(-40 * np.sin(2 * np.pi * 3 * (x + y))))
    tone = 0.30 + 0.15 * band + 0.05 * tufts + 0.03 * _noise(rng, 40)
    return _tint((1.0, 0.93, 0.82), tone), 1.1 * tufts + 0.5 * _noise(rng, 2)


def cloth(rng: np.random.Generator) -> tuple[Array, Array]:
    """A plain weave with slubs."""
    y, x = np.mgrid[0:SIZE, 0:SIZE] / SIZE
    over = np.sin(2 * np.pi * 128 * x) * np.cos(2 * np.pi * 128 * y)
    tone = 0.42 * (1 + 0.06 * over + 0.07 * _noise(rng, (1, 40)) + 0.07 * _noise(rng, (40, 1)))
    return _tint((1.0, 0.97, 0.91), tone), over + 0.6 * _noise(rng, (1, 30))


def render_coat(rng: np.random.Generator) -> tuple[Array, Array]:
    """Scraped render of a street front, weathered in streaks."""
    streaks = _noise(rng, (180, 12))
    tone = 0.60 + 0.02 * streaks + 0.02 * _layers(rng, [10, 90])
    return _tint((1.0, 0.95, 0.85), tone), _noise(rng, 1.6) + 0.6 * _noise(rng, 5)


def paving(rng: np.random.Generator) -> tuple[Array, Array]:
    """Setts in bond, 16 by 20 on 2.4 m, worn round."""
    columns, rows = 16, 20
    y, x = np.mgrid[0:SIZE, 0:SIZE] / SIZE
    r = y * rows
    row = r.astype(int)
    c = x * columns + 0.5 * (row % 2)
    column = c.astype(int) % columns
    fx, fy = np.abs(c % 1 - 0.5) * 2, np.abs(r % 1 - 0.5) * 2
    crown = 1 - np.clip(np.maximum(fx**6, fy**6) * 1.2, 0, 1)
    own = 1 + 0.16 * rng.standard_normal((rows, columns))[row, column]
    tone = 0.15 * own * (0.45 + 0.55 * crown) * (1 + 0.06 * _noise(rng, 3))
    return _tint((1.0, 0.98, 0.95), np.clip(tone, 0.02, 0.6)), 3.0 * crown + 0.4 * _noise(rng, 4)


def roof_tiles(rng: np.random.Generator) -> tuple[Array, Array]:
    """Plain tiles in courses, 12 by 16 on 2 m."""
    columns, rows = 12, 16
    y, x = np.mgrid[0:SIZE, 0:SIZE] / SIZE
    r = y * rows
    row = r.astype(int)
    c = x * columns + 0.5 * (row % 2)
    column = c.astype(int) % columns
    own = 1 + 0.2 * rng.standard_normal((rows, columns))[row, column]
    edge = np.clip((np.abs(c % 1 - 0.5) - 0.47) / 0.02, 0, 1)
    tone = 0.16 * own * (1 - 0.5 * edge) * (0.8 + 0.2 * (r % 1))
    return _tint((1.0, 0.56, 0.42), np.clip(tone, 0.02, 0.6)), 2.2 * (r % 1) - 1.5 * edge


def river(rng: np.random.Generator) -> tuple[Array, Array]:
    """Small waves with calmer patches."""
    patches = np.clip(0.5 + 0.5 * _noise(rng, 120), 0.08, 1.0)
    waves = _layers(rng, [3, 7, 14])
    return _tint((0.018, 0.026, 0.026), np.ones((SIZE, SIZE))), 1.5 * waves * patches


TEXTURES: dict[str, Recipe] = {
    "white plaster": (white_plaster, 31, 0.16),
    "timber": (timber, 32, 0.25),
    "tiles": (tiles, 33, 0.5),
    "stone top": (stone_top, 34, 0.2),
    "rug": (rug, 35, 1.3),
    "cloth": (cloth, 36, 0.6),
    "render": (render_coat, 37, 0.22),
    "paving": (paving, 38, 1.1),
    "roof tiles": (roof_tiles, 39, 0.9),
    "river": (river, 40, 0.7),
}


def texture_files(name: str) -> tuple[bytes, bytes]:
    """Colour and normal map of a texture as image files; always the same bytes."""
    recipe, seed, relief = TEXTURES[name]
    return written(*recipe(np.random.default_rng(seed)), relief, cutout=False)


SURFACES: dict[str, Surface] = {
    s.name: s
    for s in [
        Surface("white plaster", (1, 1, 1), 0.95, texture="white plaster", tile_m=1.6),
        Surface("plum wall", (0.155, 0.062, 0.075), 0.9),
        Surface("pale timber", (1, 1, 1), 0.38, texture="timber", tile_m=1.5),
        Surface("oiled timber", (0.62, 0.56, 0.5), 0.45, texture="timber", tile_m=1.2),
        Surface("wall tiles", (1, 1, 1), 0.12, texture="tiles", tile_m=1.8),
        Surface("floor tiles", (0.42, 0.40, 0.38), 0.35, texture="tiles", tile_m=3.6),
        Surface("stone top", (1, 1, 1), 0.14, texture="stone top", tile_m=1.4),
        Surface("rug", (1, 1, 1), 1.0, texture="rug", tile_m=1.2),
        Surface("sofa cloth", (0.62, 0.60, 0.57), 1.0, texture="cloth", tile_m=0.5),
        Surface("ochre cloth", (0.85, 0.46, 0.12), 1.0, texture="cloth", tile_m=0.4),
        Surface("plum cloth", (0.36, 0.12, 0.16), 1.0, texture="cloth", tile_m=0.4),
        Surface("linen", (0.70, 0.68, 0.62), 1.0, texture="cloth", tile_m=0.25),
        Surface("crust", (0.33, 0.155, 0.055), 0.8),
        Surface("crumb", (0.70, 0.52, 0.30), 0.95),
        Surface("lemon", (0.80, 0.58, 0.07), 0.5),
        Surface("oil", (0.30, 0.26, 0.05), 0.1),
        Surface("black glass", (0.012, 0.012, 0.013), 0.05),
        Surface("glossy front", (0.66, 0.67, 0.655), 0.06),
        Surface("sage front", (0.21, 0.27, 0.225), 0.22),
        Surface("painted frame", (0.055, 0.058, 0.06), 0.4),
        Surface("white paint", (0.78, 0.775, 0.755), 0.5),
        Surface("brushed steel", (0.60, 0.59, 0.57), 0.28, metallic=1.0),
        Surface("brass", (0.78, 0.57, 0.27), 0.24, metallic=1.0),
        Surface("mirror", (0.95, 0.955, 0.95), 0.0, metallic=1.0),
        Surface("china", (0.83, 0.82, 0.79), 0.08),
        Surface("clear glass", (0.97, 0.985, 0.98), 0.0, transmission=1.0),
        Surface("sheer", (0.84, 0.83, 0.80), 1.0, two_sided=True, translucency=0.5,
                through=(0.84, 0.83, 0.79), openness=0.28),
        Surface("lamp shade", (0.86, 0.80, 0.68), 1.0, two_sided=True, translucency=0.48,
                through=(0.86, 0.78, 0.62)),
        Surface("book red", (0.27, 0.05, 0.04), 0.7),
        Surface("book blue", (0.05, 0.10, 0.18), 0.7),
        Surface("book cream", (0.62, 0.56, 0.44), 0.8),
        Surface("book green", (0.08, 0.15, 0.10), 0.7),
        Surface("paper", (0.74, 0.71, 0.64), 1.0),
        Surface("render", (1, 1, 1), 0.97, texture="render", tile_m=3.0),
        Surface("ochre render", (0.92, 0.70, 0.42), 0.97, texture="render", tile_m=3.0),
        Surface("rose render", (0.90, 0.62, 0.54), 0.97, texture="render", tile_m=3.0),
        Surface("grey render", (0.62, 0.64, 0.66), 0.97, texture="render", tile_m=3.0),
        Surface("paving", (1, 1, 1), 0.36, texture="paving", tile_m=2.4),
        Surface("kerb stone", (0.30, 0.295, 0.28), 0.6),
        Surface("roof tiles", (1, 1, 1), 0.85, texture="roof tiles", tile_m=2.0),
        Surface("river", (1, 1, 1), 0.05, texture="river", tile_m=9.0),
        Surface("hill", (0.085, 0.105, 0.055), 1.0),
        Surface("far hill", (0.10, 0.125, 0.12), 1.0),
        Surface("dark pane", (0.022, 0.025, 0.028), 0.04),
        Surface("lit pane", (0.30, 0.25, 0.18), 0.5, emission=(1.0, 0.46, 0.14), strength=12.0),
    ]
}  # fmt: skip
