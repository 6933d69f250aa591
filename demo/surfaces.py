"""Materials of the demo building, with textures made from noise: brick, oak, plaster, concrete."""

from __future__ import annotations

import io
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
from PIL import Image
from scipy import fft

Array = npt.NDArray[np.float64]
SIZE = 1024
#: Mean grey of the clay's texture; a surface on it has its colour divided by this.
GLAZE = 0.72
#: The texture goes twice around a pot, whose u is a tenth of the angle.
AROUND_M = 0.1 * np.pi


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
    #: Thin things seen from both sides; ``cutout``: the texture's alpha says where they are.
    two_sided: bool = False
    cutout: bool = False
    #: Share scattered through a thin sheet, its colour, and the share of holes between threads.
    translucency: float = 0.0
    through: tuple[float, float, float] = (1.0, 1.0, 1.0)
    openness: float = 0.0


def _noise(rng: np.random.Generator, sigma: float | tuple[float, float], size: int = SIZE) -> Array:
    # Smoothed in the frequency domain: it wraps around, and a wide blur costs no more than a fine.
    down, across = sigma if isinstance(sigma, tuple) else (sigma, sigma)
    spectrum = fft.rfft2(rng.standard_normal((size, size)), workers=2)
    spectrum *= np.exp(-2 * (np.pi * down * fft.fftfreq(size)) ** 2)[:, None]
    spectrum *= np.exp(-2 * (np.pi * across * fft.rfftfreq(size)) ** 2)[None, :]
    n = fft.irfft2(spectrum, (size, size), workers=2)
    return np.asarray((n - n.mean()) / n.std())


def _layers(rng: np.random.Generator, sigmas: list[float], size: int = SIZE) -> Array:
    return np.asarray(sum(_noise(rng, s, size) for s in sigmas) / len(sigmas) ** 0.5)


def _tint(base: tuple[float, float, float], value: Array) -> Array:
    return np.asarray(base)[None, None, :] * value[..., None]


def brick(rng: np.random.Generator) -> tuple[Array, Array]:
    """Stretcher bond, 8 bricks by 24 courses on 1.8 m: colour and height."""
    size = 2 * SIZE
    y, x = np.mgrid[0:size, 0:size] / size
    course = np.floor(y * 24).astype(int)
    along = x * 8 + 0.5 * (course % 2)
    column = np.floor(along).astype(int) % 8
    wobble = 0.02 * _noise(rng, 6.0, size)
    fx = np.abs((along % 1.0) - 0.5) + wobble * 0.3
    fy = np.abs((y * 24) % 1.0 - 0.5) + wobble
    joint = np.clip(np.maximum((fx - 0.475) / 0.012, (fy - 0.43) / 0.05), 0, 1)
    # Most bricks are alike; a few were nearer to the fire.
    tone = rng.normal(1.0, 0.10, (24, 8)) * np.where(rng.random((24, 8)) < 0.07, 0.62, 1.0)
    warm = rng.uniform(-0.08, 0.08, (24, 8))[course, column]
    weather = 1 + 0.05 * _noise(rng, 190.0, size)
    face = _tint((0.33, 0.135, 0.085), np.clip(tone, 0.5, 1.25)[course, column]
                 * (1 + 0.10 * _layers(rng, [1.2, 3.0, 14.0], size)) * weather)  # fmt: skip
    face[..., 0] *= 1 + warm
    mortar = _tint((0.42, 0.37, 0.31), (1 + 0.07 * _noise(rng, 2.0, size)) * weather)
    colour = face * (1 - joint[..., None]) + mortar * joint[..., None]
    height = (1 - joint) + 0.10 * _noise(rng, 2.0, size) + 0.06 * _noise(rng, 8.0, size)
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
    """Quay setts in rows, every stone of its own length, with dark open joints, on 3.6 m."""
    size, rows, columns = 2 * SIZE, 16, 9
    y, x = np.mgrid[0:size, 0:size] / size
    bent = y * rows + 0.06 * _noise(rng, 60.0, size)
    row = np.floor(bent).astype(int) % rows
    ends = (np.arange(columns) + rng.uniform(-0.28, 0.28, (rows, columns))) / columns
    shifted = (x + rng.uniform(0, 1, rows)[row] + 0.0015 * _noise(rng, 40.0, size)) % 1.0
    column = np.zeros(row.shape, int)
    gap = np.ones(row.shape)
    for k in range(columns):
        away = shifted - ends[row, k]
        gap = np.minimum(gap, np.abs(away - np.round(away)))
        column += away >= 0
    wobble = _noise(rng, 9.0, size)
    fx = gap * 3.6 + 0.0035 * wobble
    fy = (0.5 - np.abs(bent % 1.0 - 0.5)) * 3.6 / rows + 0.0035 * wobble
    joint = np.clip(1.5 - np.minimum(fx, fy) / 0.009, 0, 1)
    tone = rng.uniform(0.78, 1.18, (rows, columns))[row, column % columns]
    hue = rng.uniform(-0.05, 0.05, (rows, columns))[row, column % columns]
    worn = 1 + 0.08 * _noise(rng, 230.0, size)
    face = _tint(
        (0.27, 0.255, 0.235), tone * worn * (1 + 0.11 * _layers(rng, [1.5, 6.0, 24.0], size))
    )
    face[..., 0] *= 1 + hue
    colour = face * (1 - 0.72 * joint[..., None])
    return colour, (1 - joint) + 0.14 * _noise(rng, 7.0, size)


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
    """Small waves on a calm evening: ruffled where the wind reaches down, smooth in the lanes between."""
    size = 2 * SIZE
    waves = (
        _noise(rng, (6.5, 12.0), size)
        + 0.5 * _noise(rng, (2.8, 4.6), size)
        + 0.2 * _noise(rng, 1.4, size)
    )
    wind = np.clip(0.62 + 0.45 * _noise(rng, (90.0, 260.0), size), 0.12, 1.25)
    return _tint((0.016, 0.026, 0.028), np.ones((size, size))), waves * wind


def grass(rng: np.random.Generator) -> tuple[Array, Array]:
    """Rough salt meadow: tufts, paths and paler patches."""
    tufts, patches = _layers(rng, [1.0, 3.0, 9.0]), _layers(rng, [40.0, 120.0])
    colour = _tint((0.085, 0.105, 0.04), 1 + 0.30 * tufts + 0.14 * patches)
    colour[..., 0] *= 1 + 0.16 * patches
    return colour, 0.8 * tufts


def boards(rng: np.random.Generator) -> tuple[Array, Array]:
    """Weathered boards standing upright, grey where the rain reaches them."""
    x = np.mgrid[0:SIZE, 0:SIZE][1] / SIZE
    board = np.floor(x * 9).astype(int)
    gap = np.clip(1 - np.abs((x * 9) % 1.0 - 0.5 - 0.485) / 0.02, 0, 1)
    grain = _noise(rng, (60.0, 1.2)) + 0.6 * _noise(rng, (160.0, 4.0))
    tone = rng.uniform(0.78, 1.2, 9)[board]
    value = tone * (1 + 0.13 * grain + 0.08 * _noise(rng, 90.0)) * (1 - 0.6 * gap)
    return _tint((0.165, 0.15, 0.13), value), 0.25 * grain - 1.4 * gap


def leaves(rng: np.random.Generator) -> tuple[Array, Array]:
    """A twig's worth of leaves; where there is none, colour is zero (the cut-out)."""
    size = 256
    y, x = np.mgrid[0:size, 0:size] / size - 0.5
    colour = np.zeros((size, size, 3))
    for k in range(22):
        angle = k * 2.4
        reach = 0.08 + 0.33 * np.sqrt(k / 22)
        cx, cy = reach * np.cos(angle), reach * np.sin(angle)
        turn = angle + rng.uniform(-0.7, 0.7)
        u = (x - cx) * np.cos(turn) + (y - cy) * np.sin(turn)
        v = -(x - cx) * np.sin(turn) + (y - cy) * np.cos(turn)
        inside = (u / 0.085) ** 2 + (v / (0.036 * (1.15 - u / 0.16))) ** 2 < 1
        vein = 1 - 0.25 * (np.abs(v) < 0.004)
        colour[inside] = (_tint((0.085, 0.13, 0.035), vein) * rng.uniform(0.75, 1.3))[inside]
    return colour, np.zeros((size, size))


def thrown_clay(rng: np.random.Generator) -> tuple[Array, Array]:
    """What is left of the potter's fingers, with specks of iron: a grey that a surface's colour multiplies."""
    size = 512
    clouds = _layers(rng, [9.0, 40.0], size)
    specks = np.clip((_noise(rng, 1.1, size) - 2.55) / 0.35, 0, 1)
    rings = _noise(rng, (3.5, 300.0), size) + 0.5 * _noise(rng, (9.0, 400.0), size)
    value = GLAZE * (1 + 0.07 * clouds + 0.03 * rings) * (1 - 0.55 * specks)
    return _tint((1.0, 1.0, 1.0), value), rings


def splashes(rng: np.random.Generator) -> tuple[Array, Array]:
    """Drops of clay that dried on a floor, denser towards the middle; elsewhere nothing (the cut-out)."""
    size = 1024
    y, x = np.mgrid[0:size, 0:size]
    there = np.zeros((size, size), bool)
    for _ in range(420):
        away, angle = abs(rng.normal(0, 0.2)), rng.uniform(0, 2 * np.pi)
        cx, cy = size * (0.5 + away * np.cos(angle)), size * (0.5 + away * np.sin(angle))
        r = size * rng.choice([0.0022, 0.004, 0.009], p=[0.6, 0.32, 0.08]) * rng.uniform(0.7, 1.3)
        box = (slice(max(int(cy - 2 * r), 0), int(cy + 2 * r) + 2), slice(max(int(cx - 2 * r), 0), int(cx + 2 * r) + 2))  # fmt: skip
        dx, dy = x[box] - cx, y[box] - cy
        turn = np.arctan2(dy, dx)
        there[box] |= np.hypot(dx, dy) < r * (
            1 + 0.25 * np.sin(3 * turn + cx) + 0.15 * np.sin(7 * turn)
        )
    value = 1 + 0.12 * _layers(rng, [2.0, 12.0], size)
    return _tint((0.40, 0.33, 0.26), value) * there[..., None], np.zeros((size, size))


def weed(rng: np.random.Generator) -> tuple[Array, Array]:
    """Weed on a wall: thick at the bottom, in tufts higher up; where there is none, nothing (the cut-out)."""
    size = 1024
    y = np.mgrid[0:size, 0:size][0] / size
    tufts = (
        _noise(rng, (14.0, 4.0), size)
        + 0.8 * _noise(rng, 30.0, size)
        + 0.6 * _noise(rng, 2.0, size)
    )
    there = tufts > 3.4 - 6.2 * y
    value = np.clip(
        1 + 0.35 * _noise(rng, (9.0, 2.0), size) + 0.2 * _noise(rng, 40.0, size), 0.3, 2.0
    )
    colour = _tint((0.036, 0.042, 0.02), value)
    colour[..., 0] *= 1 + 0.25 * _noise(rng, 60.0, size)
    return np.maximum(colour, 0.004) * there[..., None], tufts


def foam(rng: np.random.Generator) -> tuple[Array, Array]:
    """Flecks of foam along a wall that stands at u = 0.5, out to u = 0.25; elsewhere nothing (the cut-out)."""
    size = 512
    u = (np.mgrid[0:size, 0:size][1] + 0.5) / size
    near = np.clip((u - 0.25) / 0.25, 0, 1) * (u < 0.5)
    there = _layers(rng, [1.6, 5.0, 18.0], size) + 2.6 * near > 2.5
    return _tint((0.42, 0.44, 0.42), np.ones((size, size))) * there[..., None], np.zeros(
        (size, size)
    )


#: Recipe, seed and relief (slope of the normal map) of each texture.
TEXTURES: dict[str, tuple[Callable[[np.random.Generator], tuple[Array, Array]], int, float]] = {
    "brick": (brick, 11, 2.2),
    "oak": (oak, 12, 0.5),
    "plaster": (plaster, 13, 0.5),
    "concrete": (concrete, 14, 0.4),
    "stone": (stone, 15, 2.4),
    "slate": (slate, 16, 1.0),
    "water": (water, 17, 0.5),
    "grass": (grass, 18, 0.5),
    "boards": (boards, 19, 0.6),
    "leaves": (leaves, 20, 0.0),
    "thrown clay": (thrown_clay, 21, 0.16),
    "splashes": (splashes, 22, 0.0),
    "foam": (foam, 23, 0.0),
    "weed": (weed, 24, 0.5),
}


def _file(values: npt.NDArray[np.uint8]) -> bytes:
    """JPEG, or PNG where there is an alpha."""
    out = io.BytesIO()
    if values.shape[2] == 4:
        Image.fromarray(values).save(out, "PNG")
    else:
        Image.fromarray(values).save(out, "JPEG", quality=90, subsampling=0)
    return out.getvalue()


def texture_files(name: str) -> tuple[bytes, bytes]:
    """Colour and normal map of a texture as image files; always the same bytes."""
    recipe, seed, relief = TEXTURES[name]
    cutout = any(s.cutout and s.texture == name for s in SURFACES.values())
    return written(*recipe(np.random.default_rng(seed)), relief, cutout)


def written(colour: Array, height: Array, relief: float, cutout: bool) -> tuple[bytes, bytes]:
    """A colour (linear) and the slopes of a height as image files; ``cutout``: what has no colour is cut out."""
    linear = np.clip(colour, 0.003, 0.85)
    encoded = np.where(linear <= 0.0031308, linear * 12.92, 1.055 * linear ** (1 / 2.4) - 0.055)
    dx = (np.roll(height, -1, 1) - np.roll(height, 1, 1)) * relief
    dy = (np.roll(height, -1, 0) - np.roll(height, 1, 0)) * relief
    normal = np.stack([-dx, dy, np.ones_like(dx) * 2.0], axis=-1)
    normal /= np.linalg.norm(normal, axis=-1, keepdims=True)
    if cutout:
        there = (colour.sum(axis=-1, keepdims=True) > 0).astype(float)
        bled = np.where(there > 0, encoded, encoded[there[..., 0] > 0].mean(axis=0))
        encoded = np.concatenate([bled, there], axis=-1)
    as_bytes = np.round((normal * 0.5 + 0.5) * 255).astype(np.uint8)
    return _file(np.round(encoded * 255).astype(np.uint8)), _file(as_bytes)


def _clay(name: str, colour: tuple[float, float, float], roughness: float) -> Surface:
    """Thrown clay or a glaze on it, by the mean colour it is to have."""
    r, g, b = (c / GLAZE for c in colour)
    return Surface(name, (r, g, b), roughness, texture="thrown clay", tile_m=AROUND_M)


SURFACES: dict[str, Surface] = {
    s.name: s
    for s in [
        Surface("brick", (1, 1, 1), 0.92, texture="brick", tile_m=1.8),
        Surface("lime plaster", (1, 1, 1), 1.0, texture="plaster", tile_m=2.6),
        Surface("oak", (1, 1, 1), 0.55, texture="oak", tile_m=1.1),
        Surface("dark oak", (0.55, 0.5, 0.46), 0.7, texture="oak", tile_m=1.1),
        Surface("concrete floor", (1, 1, 1), 0.42, texture="concrete", tile_m=3.2),
        Surface("quay stone", (1, 1, 1), 0.8, texture="stone", tile_m=3.6),
        Surface("slate", (1, 1, 1), 0.6, texture="slate", tile_m=1.2),
        Surface("water", (1, 1, 1), 0.06, texture="water", tile_m=22.0),
        Surface("black steel", (0.035, 0.036, 0.038), 0.5),
        Surface("zinc", (0.55, 0.56, 0.57), 0.4, metallic=1.0),
        Surface("window glass", (0.97, 0.99, 0.98), 0.0, transmission=1.0),
        Surface("painted door", (0.045, 0.095, 0.11), 0.5),
        Surface("linen", (0.52, 0.47, 0.39), 1.0, two_sided=True),
        Surface("blue cloth", (0.07, 0.11, 0.17), 1.0, two_sided=True),
        Surface("sacking", (0.34, 0.28, 0.20), 1.0),
        Surface("grass", (1, 1, 1), 1.0, texture="grass", tile_m=7.0),
        Surface("far shore", (0.10, 0.11, 0.09), 1.0),
        Surface("far fields", (0.10, 0.115, 0.065), 1.0),
        Surface("shed boards", (1, 1, 1), 0.9, texture="boards", tile_m=1.6),
        Surface("limewash", (0.62, 0.60, 0.55), 1.0),
        Surface("bark", (0.105, 0.09, 0.075), 1.0),
        Surface(
            "leaf",
            (1, 1, 1),
            0.7,
            texture="leaves",
            two_sided=True,
            cutout=True,
            translucency=0.42,
            through=(1.0, 1.0, 0.45),
        ),
        Surface(
            "sheer linen",
            (0.80, 0.77, 0.70),
            1.0,
            two_sided=True,
            translucency=0.5,
            through=(0.80, 0.76, 0.67),
            openness=0.22,
        ),
        Surface("boat paint", (0.30, 0.06, 0.045), 0.4, two_sided=True),
        Surface("house pane", (0.02, 0.022, 0.025), 0.05),
        Surface(
            "lit house pane", (0.3, 0.25, 0.18), 0.5, emission=(1.0, 0.62, 0.28), strength=90.0
        ),
        Surface("screen", (0.02, 0.02, 0.02), 0.2, emission=(0.62, 0.82, 1.0), strength=160.0),
        Surface("galvanised", (0.50, 0.51, 0.52), 0.5, metallic=1.0),
        Surface("kiln fire", (0.1, 0.05, 0.02), 1.0, emission=(1.0, 0.33, 0.07), strength=9000.0),
        Surface("weed", (1, 1, 1), 0.55, texture="weed", two_sided=True, cutout=True),
        Surface("wet wood", (0.03, 0.028, 0.022), 0.35),
        Surface("foam", (1, 1, 1), 0.9, texture="foam", tile_m=2.0, two_sided=True, cutout=True),
        Surface("enamel", (0.72, 0.71, 0.67), 0.3, two_sided=True),
        Surface("paper", (0.74, 0.72, 0.66), 1.0, two_sided=True),
        Surface("wet clay", (0.19, 0.14, 0.105), 0.28),
        Surface("clay splashes", (1, 1, 1), 1.0, texture="splashes", two_sided=True, cutout=True),
        Surface("white frames", (0.58, 0.57, 0.53), 0.6),
        Surface(
            "house blind",
            (0.55, 0.46, 0.34),
            1.0,
            two_sided=True,
            translucency=0.30,
            through=(0.9, 0.72, 0.45),
        ),
        _clay("raw clay", (0.42, 0.33, 0.26), 1.0),
        _clay("terracotta", (0.40, 0.15, 0.075), 0.85),
        _clay("celadon glaze", (0.30, 0.40, 0.33), 0.16),
        _clay("tenmoku glaze", (0.055, 0.03, 0.02), 0.12),
        _clay("shino glaze", (0.68, 0.60, 0.51), 0.35),
        _clay("cobalt glaze", (0.045, 0.09, 0.22), 0.18),
        _clay("ash glaze", (0.36, 0.33, 0.24), 0.28),
    ]
}
