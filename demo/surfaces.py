"""Materials of the demo building, with textures made from noise: brick, oak, plaster, concrete."""

from __future__ import annotations

import io
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
from PIL import Image
from scipy import ndimage

Array = npt.NDArray[np.float64]
SIZE = 1024


@dataclass(frozen=True)
class Surface:
    """One material: linear sRGB colour, gloss, pane, glow, and textures by name."""

    name: str
    colour: tuple[float, float, float] = (0.5, 0.5, 0.5)
    roughness: float = 1.0
    metallic: float = 0.0
    transmission: float = 0.0
    emission: tuple[float, float, float] = (0.0, 0.0, 0.0)
    strength: float = 1.0
    texture: str | None = None
    tile_m: float = 1.0


def _noise(rng: np.random.Generator, sigma: float | tuple[float, float]) -> Array:
    n = ndimage.gaussian_filter(rng.standard_normal((SIZE, SIZE)), sigma, mode="wrap")
    return np.asarray((n - n.mean()) / n.std())


def _layers(rng: np.random.Generator, sigmas: list[float]) -> Array:
    return np.asarray(sum(_noise(rng, s) for s in sigmas) / len(sigmas) ** 0.5)


def _tint(base: tuple[float, float, float], value: Array) -> Array:
    return np.asarray(base)[None, None, :] * value[..., None]


def brick(rng: np.random.Generator) -> tuple[Array, Array]:
    """Stretcher bond, 4 bricks by 12 courses on 0.9 m: colour and height."""
    y, x = np.mgrid[0:SIZE, 0:SIZE] / SIZE
    course = np.floor(y * 12).astype(int)
    along = x * 4 + 0.5 * (course % 2)
    column = np.floor(along).astype(int) % 4
    wobble = 0.02 * _noise(rng, 6.0)
    fx = np.abs((along % 1.0) - 0.5) + wobble * 0.3
    fy = np.abs((y * 12) % 1.0 - 0.5) + wobble
    joint = np.clip(np.maximum((fx - 0.475) / 0.012, (fy - 0.43) / 0.05), 0, 1)
    tone = rng.uniform(0.72, 1.2, (12, 4))[course, column]
    warm = rng.uniform(-0.08, 0.08, (12, 4))[course, column]
    grain = 1 + 0.10 * _layers(rng, [1.2, 3.0, 14.0])
    face = _tint((0.33, 0.135, 0.085), tone * grain)
    face[..., 0] *= 1 + warm
    mortar = _tint((0.42, 0.37, 0.31), 1 + 0.07 * _noise(rng, 2.0))
    colour = face * (1 - joint[..., None]) + mortar * joint[..., None]
    height = (1 - joint) * 1.0 + 0.10 * _noise(rng, 2.0) + 0.06 * _noise(rng, 8.0)
    return colour, height


def oak(rng: np.random.Generator) -> tuple[Array, Array]:
    """Grain running along u, with boards of five tones."""
    y, _ = np.mgrid[0:SIZE, 0:SIZE] / SIZE
    grain = (
        _noise(rng, (1.2, 60.0)) + 0.7 * _noise(rng, (4.0, 160.0)) + 0.25 * _noise(rng, (0.7, 12.0))
    )
    rings = np.sin(28 * np.pi * y + 1.4 * _noise(rng, (18.0, 220.0)))
    board = np.floor(y * 5).astype(int)
    tone = rng.uniform(0.86, 1.14, 5)[board]
    gap = np.clip(1 - np.abs((y * 5) % 1.0 - 0.5 - 0.49) / 0.012, 0, 1)
    value = tone * (1 + 0.11 * grain + 0.07 * rings) * (1 - 0.55 * gap)
    colour = _tint((0.36, 0.215, 0.115), value)
    return colour, 0.25 * grain - 1.2 * gap


def plaster(rng: np.random.Generator) -> tuple[Array, Array]:
    """Lime plaster: nearly even, softly trowelled."""
    soft = _layers(rng, [12.0, 40.0, 110.0])
    return _tint((0.70, 0.66, 0.59), 1 + 0.022 * soft), 0.8 * _noise(rng, 20.0) + 0.15 * _noise(
        rng, 2
    )


def concrete(rng: np.random.Generator) -> tuple[Array, Array]:
    """Worn concrete: clouds, pores, pale paths."""
    clouds = _layers(rng, [5.0, 30.0, 90.0, 170.0])
    pores = np.clip(_noise(rng, 1.0) - 2.4, 0, 1)
    value = 1 + 0.11 * clouds - 0.4 * pores
    return _tint((0.30, 0.285, 0.26), value), 0.2 * _noise(rng, 4.0) - 0.8 * pores


def stone(rng: np.random.Generator) -> tuple[Array, Array]:
    """Quay setts in rows, with dark open joints."""
    y, x = np.mgrid[0:SIZE, 0:SIZE] / SIZE
    row = np.floor(y * 6).astype(int)
    along = x * 4 + rng.uniform(0, 1, 6)[row]
    column = np.floor(along).astype(int) % 4
    fx = np.abs((along % 1.0) - 0.5) + 0.012 * _noise(rng, 9.0)
    fy = np.abs((y * 6) % 1.0 - 0.5) + 0.018 * _noise(rng, 9.0)
    joint = np.clip(np.maximum((fx - 0.465) / 0.02, (fy - 0.45) / 0.03), 0, 1)
    tone = rng.uniform(0.75, 1.2, (6, 4))[row, column]
    face = _tint((0.27, 0.255, 0.235), tone * (1 + 0.13 * _layers(rng, [1.5, 6.0, 24.0])))
    colour = face * (1 - 0.72 * joint[..., None])
    return colour, (1 - joint) + 0.14 * _noise(rng, 7.0)


def slate(rng: np.random.Generator) -> tuple[Array, Array]:
    """Slates in staggered courses."""
    y, x = np.mgrid[0:SIZE, 0:SIZE] / SIZE
    row = np.floor(y * 6).astype(int)
    along = x * 4 + 0.5 * (row % 2)
    column = np.floor(along).astype(int) % 4
    edge = np.clip(1 - ((y * 6) % 1.0) / 0.05, 0, 1)
    gap = np.clip((np.abs((along % 1.0) - 0.5) - 0.485) / 0.01, 0, 1)
    tone = rng.uniform(0.75, 1.25, (6, 4))[row, column]
    value = tone * (1 + 0.09 * _layers(rng, [2.0, 10.0])) * (1 - 0.6 * np.maximum(edge, gap))
    return _tint((0.085, 0.092, 0.105), value), 1.5 * ((y * 6) % 1.0) - gap


def water(rng: np.random.Generator) -> tuple[Array, Array]:
    """Small waves on a calm evening."""
    waves = _noise(rng, (14.0, 26.0)) + 0.5 * _noise(rng, (6.0, 10.0)) + 0.2 * _noise(rng, 3.0)
    return _tint((0.016, 0.026, 0.028), np.ones((SIZE, SIZE))), waves


#: Recipe, seed and relief (slope of the normal map) of each texture.
TEXTURES: dict[str, tuple[Callable[[np.random.Generator], tuple[Array, Array]], int, float]] = {
    "brick": (brick, 11, 2.2),
    "oak": (oak, 12, 0.5),
    "plaster": (plaster, 13, 0.5),
    "concrete": (concrete, 14, 0.4),
    "stone": (stone, 15, 2.4),
    "slate": (slate, 16, 1.0),
    "water": (water, 17, 0.9),
}


def _png(values: npt.NDArray[np.uint8]) -> bytes:
    out = io.BytesIO()
    Image.fromarray(values).save(out, "JPEG", quality=90, subsampling=0)
    return out.getvalue()


def texture_files(name: str) -> tuple[bytes, bytes]:
    """Colour and normal map of a texture as JPEG files; always the same bytes."""
    recipe, seed, relief = TEXTURES[name]
    colour, height = recipe(np.random.default_rng(seed))
    linear = np.clip(colour, 0.003, 0.85)
    encoded = np.where(linear <= 0.0031308, linear * 12.92, 1.055 * linear ** (1 / 2.4) - 0.055)
    dx = (np.roll(height, -1, 1) - np.roll(height, 1, 1)) * relief
    dy = (np.roll(height, -1, 0) - np.roll(height, 1, 0)) * relief
    normal = np.stack([-dx, dy, np.ones_like(dx) * 2.0], axis=-1)
    normal /= np.linalg.norm(normal, axis=-1, keepdims=True)
    as_bytes = np.round((normal * 0.5 + 0.5) * 255).astype(np.uint8)
    return _png(np.round(encoded * 255).astype(np.uint8)), _png(as_bytes)


SURFACES: dict[str, Surface] = {
    s.name: s
    for s in [
        Surface("brick", (1, 1, 1), 0.92, texture="brick", tile_m=0.9),
        Surface("lime plaster", (1, 1, 1), 1.0, texture="plaster", tile_m=2.6),
        Surface("oak", (1, 1, 1), 0.55, texture="oak", tile_m=1.1),
        Surface("dark oak", (0.55, 0.5, 0.46), 0.7, texture="oak", tile_m=1.1),
        Surface("concrete floor", (1, 1, 1), 0.42, texture="concrete", tile_m=3.2),
        Surface("quay stone", (1, 1, 1), 0.8, texture="stone", tile_m=1.6),
        Surface("slate", (1, 1, 1), 0.6, texture="slate", tile_m=1.2),
        Surface("water", (1, 1, 1), 0.06, texture="water", tile_m=5.0),
        Surface("black steel", (0.035, 0.036, 0.038), 0.5),
        Surface("zinc", (0.55, 0.56, 0.57), 0.4, metallic=1.0),
        Surface("window glass", (0.97, 0.99, 0.98), 0.0, transmission=1.0),
        Surface("painted door", (0.045, 0.095, 0.11), 0.5),
        Surface("linen", (0.52, 0.47, 0.39), 1.0),
        Surface("grass", (0.075, 0.11, 0.035), 1.0),
        Surface("far shore", (0.10, 0.11, 0.09), 1.0),
        Surface("shed boards", (0.14, 0.12, 0.10), 0.9),
        Surface("kiln fire", (0.1, 0.05, 0.02), 1.0, emission=(1.0, 0.33, 0.07), strength=9000.0),
        Surface("raw clay", (0.42, 0.33, 0.26), 1.0),
        Surface("terracotta", (0.40, 0.15, 0.075), 0.85),
        Surface("celadon glaze", (0.30, 0.40, 0.33), 0.16),
        Surface("tenmoku glaze", (0.055, 0.03, 0.02), 0.12),
        Surface("shino glaze", (0.68, 0.60, 0.51), 0.35),
        Surface("cobalt glaze", (0.045, 0.09, 0.22), 0.18),
        Surface("ash glaze", (0.36, 0.33, 0.24), 0.28),
    ]
}
