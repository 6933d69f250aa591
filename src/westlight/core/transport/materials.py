"""Materials and their textures as rows of numbers, and the same in clay."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from concurrent.futures import ThreadPoolExecutor
from functools import lru_cache
from typing import TYPE_CHECKING, get_args

import numpy as np
import numpy.typing as npt

from ..colour import srgb_decode, srgb_encode
from ..model import Material, Texture
from ..model.material import Wrap
from ..remembered import key_of, mapped
from . import layout as L

if TYPE_CHECKING:
    from .build import GeometryBuild

#: Ways on beyond the edges of a texture, in the order of their numbers.
WRAPS = get_args(Wrap)
#: Side of the texture copies that bounced light looks up.
SMALL_TEXTURE_PX = 128

F4 = npt.NDArray[np.float32]
U1 = npt.NDArray[np.uint8]
I4 = npt.NDArray[np.int32]


def material_arrays(materials: Sequence[Material], textures: dict[Texture, int]) -> tuple[F4, I4]:
    """Rows of materials; their textures are numbered on, after those that are known."""
    floats = np.zeros((max(len(materials), 1), L.MATERIAL_FLOATS), np.float32)
    ints = np.full((max(len(materials), 1), L.MATERIAL_INTS), -1, np.int32)
    ints[:, L.M_KIND] = L.KIND_SURFACE

    def row(texture: Texture | None) -> int:
        return -1 if texture is None else textures.setdefault(texture, len(textures))

    for i, m in enumerate(materials):
        floats[i, :7] = (*m.rgb, m.roughness, m.metallic, m.ior, m.transmission)
        floats[i, L.M_NORMAL_SCALE] = m.normal_scale
        floats[i, L.M_COAT : L.M_FROST + 1] = m.coat, m.coat_roughness, m.frost
        floats[i, L.M_TRANSLUCENT] = m.translucency
        floats[i, L.M_THROUGH_RED : L.M_THROUGH_BLUE + 1] = m.through_rgb
        floats[i, L.M_OPEN] = m.openness
        if m.attenuation_m > 0:
            colour = np.clip(m.attenuation, 1e-4, 1.0)
            floats[i, L.M_ABSORB_RED : L.M_ABSORB_BLUE + 1] = -np.log(colour) / m.attenuation_m
        ints[i, L.M_TEX_BASE] = row(m.base_texture)
        ints[i, L.M_TEX_ROUGH] = row(m.rough_texture)
        ints[i, L.M_TEX_NORMAL] = row(m.normal_texture)
        ints[i, L.M_TEX_EMIT] = row(m.emission_texture) if m.emits else -1
        ints[i, L.M_GLOWS] = int(m.emits)
        ints[i, L.M_PAINTED] = int(m.vertex_colours)
        if m.is_pane and m.clear_path:
            ints[i, L.M_KIND] = L.KIND_SHEET if m.sheet else L.KIND_INTERFACE
        elif m.is_pane:
            ints[i, L.M_KIND] = L.KIND_SHADING_SHEET if m.sheet else L.KIND_GLASS
        elif m.is_woven:
            ints[i, L.M_KIND] = L.KIND_WOVEN
    return floats, ints


@lru_cache(maxsize=1)
def decoding() -> F4:
    """Linear light of a byte: plain, and sRGB (2, 256)."""
    linear = np.arange(256) / 255.0
    return np.stack([linear, srgb_decode(linear)]).astype(np.float32)


def _step(size: tuple[int, int]) -> int:
    """How many pixels a side become one in the small copy of a texture of a height and width."""
    step = max(1, -(-max(size) // SMALL_TEXTURE_PX))
    return 1 if min(size) < step else step


def _small_size(texture: Texture) -> tuple[int, int]:
    """Height and width of the small copy of a texture."""
    step = _step(texture.size)
    return texture.size[0] // step, texture.size[1] // step


def _reduced(pixels: U1, srgb: bool) -> U1:
    """A copy of at most `SMALL_TEXTURE_PX` pixels a side with the same mean: colours are averaged as light."""
    h, w = pixels.shape[:2]
    step = _step((h, w))
    if step == 1:
        return pixels
    rows, columns = h // step, w // step
    blocks = pixels[: rows * step, : columns * step].reshape(rows, step, columns, step, 4)
    if srgb:
        # Both halves of the work in single numbers of four bytes: a table, then two sums.
        light = decoding()[1][blocks[..., :3]].sum(axis=1).sum(axis=2) / step**2
        rgb = np.asarray(srgb_encode(light)) * 255
    else:
        rgb = _byte_means(blocks[..., :3])
    small = np.concatenate([rgb, _byte_means(blocks[..., 3:])], axis=2)
    return np.asarray(np.round(small), np.uint8)


def _byte_means(blocks: npt.NDArray[np.uint8]) -> npt.NDArray[np.float64]:
    """Means (rows, columns, n) over blocks (rows, k, columns, k, n) of bytes."""
    total = blocks.sum(axis=1, dtype=np.uint32).sum(axis=2, dtype=np.uint32)
    return np.asarray(total / (blocks.shape[1] * blocks.shape[3]))


def texture_arrays(textures: Sequence[Texture]) -> tuple[U1, L.I8]:
    """Pixels of textures one after another (N, 4), each with a small copy, and their rows of numbers.

    From then on the textures read their pixels there.
    """
    ints, first = np.zeros((max(len(textures), 1), L.TEXTURE_INTS), np.int64), 1
    for i, t in enumerate(textures):
        ints[i, L.T_SRGB] = int(t.srgb)
        ints[i, [L.T_ACROSS, L.T_DOWN]] = [WRAPS.index(w) for w in t.wrap]
        for column, (h, w) in ((L.T_FIRST, t.size), (L.T_SMALL, _small_size(t))):
            ints[i, column : column + 3] = first, w, h
            first += w * h
    if not textures:
        return np.zeros((1, 4), np.uint8), ints

    def gathered() -> U1:
        texels = np.zeros((first, 4), np.uint8)

        def fill(i: int) -> None:
            pixels = textures[i].pixels
            for column, picture in (
                (L.T_FIRST, pixels),
                (L.T_SMALL, _reduced(pixels, textures[i].srgb)),
            ):
                _at(texels, ints[i], column)[:] = picture

        with ThreadPoolExecutor(2) as pool:
            list(pool.map(fill, range(len(textures))))
        return texels

    key = key_of(SMALL_TEXTURE_PX, [(t.content, t.srgb) for t in textures])
    texels = np.asarray(mapped("texels", key, gathered), np.uint8)
    for i, t in enumerate(textures):
        t.lend(_at(texels, ints[i], L.T_FIRST))
    return texels, ints


def _at(texels: U1, row: L.I8, column: int) -> U1:
    """A texture (h, w, 4) among all pixels."""
    first, w, h = (int(v) for v in row[column : column + 3])
    return texels[first : first + w * h].reshape(h, w, 4)


def clay_materials(
    build: GeometryBuild, reflectance: float, keep: Collection[str] = ()
) -> tuple[F4, I4]:
    """Material arrays with every surface matte at one reflectance; panes, woven cloth and ``keep`` (names
    of materials) stay as they are."""
    floats, ints = build.material_floats.copy(), build.material_ints.copy()
    surface = ints[:, L.M_KIND] == L.KIND_SURFACE
    for row, material in enumerate(build.materials):
        surface[row] &= material.name not in keep
    floats[surface, 0:3], floats[surface, L.M_ROUGHNESS] = reflectance, 1.0
    for column in (L.M_METALLIC, L.M_COAT, L.M_TRANSLUCENT):
        floats[surface, column] = 0.0
    ints[surface, L.M_TEX_BASE : L.M_TEX_NORMAL + 1] = -1
    ints[surface, L.M_PAINTED] = 0
    return floats, ints
