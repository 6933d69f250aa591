"""Flat smooth surfaces of a building, by which way they face: where the sun is looked for in them."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

import numpy as np
import numpy.typing as npt

from ..colour import AP1_LUMINANCE
from ..sources import SkySource, Source, Sun
from . import layout as L
from .kernels.patches import LEAST_ROUGH

if TYPE_CHECKING:
    from .build import GeometryBuild

F4 = npt.NDArray[np.float32]
Array = npt.NDArray[np.float64]

#: Rays are drawn at least this widely: bounced light is calmed to about as much.
_LEAST_ALPHA = 0.01
#: Ways that surfaces face which are kept at most, and the least area of one in m².
_WAYS, _LEAST_AREA = 8, 0.05
#: Height of the normal of what counts as level.
_LEVEL = 0.999
#: Normals that differ by less count as one.
_ALIKE = 0.01


def smooth_planes(build: GeometryBuild) -> Array:
    """Ways in which flat smooth surfaces face (n, 5): unit normal, GGX alpha, area in m².

    What is round has no way of its own; its triangles are too small to count.
    """
    alpha = alphas_of(build)
    chosen = np.flatnonzero(np.isfinite(alpha)[build.triangle_material])
    if not len(chosen):
        return np.zeros((0, 5))
    corners = build.positions[build.triangles[chosen]].astype(np.float64)
    across = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]) / 2
    firsts = np.unique(build.instance_first)
    lot = np.searchsorted(firsts, chosen, "right") - 1
    keys = np.column_stack([lot, np.log2(alpha[build.triangle_material[chosen]]).round()])
    local = _gathered(across, keys)
    turned = [np.zeros((0, 4))]
    for lot in np.unique(local[:, 3]).astype(int):
        mine = local[local[:, 3] == lot]
        m = build.instance_matrix[build.instance_first == firsts[lot], :, :3].astype(np.float64)
        # An area vector goes with the cofactors of the matrix.
        across = mine[:, :3] @ (np.linalg.inv(m) * np.linalg.det(m)[:, None, None])
        alphas = np.broadcast_to(mine[:, 4:], (*across.shape[:2], 1))
        turned.append(np.concatenate([across, alphas], axis=2).reshape(-1, 4))
    copies = np.concatenate(turned)
    found = _gathered(copies[:, :3], copies[:, 3:])
    area = np.linalg.norm(found[:, :3], axis=1)
    order = np.argsort(-area)[:_WAYS]
    order = order[area[order] >= _LEAST_AREA]
    return np.column_stack(
        [found[order, :3] / area[order, None], np.exp2(found[order, 3]), area[order]]
    )


def alphas_of(build: GeometryBuild) -> Array:
    """GGX alpha of what mirrors most sharply of each material row, NaN where nothing is smooth."""
    f, ints = build.material_floats.astype(np.float64), build.material_ints
    rough = f[:, L.M_ROUGHNESS].copy()
    for row in np.flatnonzero(ints[:, L.M_TEX_ROUGH] >= 0):
        first, w, h = build.texture_ints[ints[row, L.M_TEX_ROUGH], L.T_SMALL : L.T_SMALL + 3]
        rough[row] *= build.texels[first : first + w * h, 1].mean() / 255.0
    coat = np.where(f[:, L.M_COAT] > 0, f[:, L.M_COAT_ROUGH], np.inf)
    sharpest = np.minimum(rough, coat)
    smooth = (sharpest < LEAST_ROUGH) & (ints[:, L.M_KIND] == L.KIND_SURFACE)
    return np.where(smooth, np.maximum(sharpest**2, _LEAST_ALPHA), np.nan)


def _gathered(across: Array, keys: Array) -> Array:
    """Sums of area vectors of like direction and equal keys, either side alike: (n, 3 + keys)."""
    length = np.linalg.norm(across, axis=1)
    across, keys, length = across[length > 0], keys[length > 0], length[length > 0]
    way = across / length[:, None]
    main = np.take_along_axis(way, np.abs(way).argmax(axis=1)[:, None], axis=1)
    sign = np.where(main < 0, -1.0, 1.0)
    way, across = way * sign, across * sign
    # One number for each row: sorting rows takes ten times as long.
    number = np.zeros(len(way), np.int64)
    for column in np.column_stack([keys, (way / _ALIKE).round()]).T.astype(np.int64):
        if len(column):
            number = number * (int(np.ptp(column)) + 1) + column - column.min()
    _, which = np.unique(number, return_inverse=True)
    count = int(which.max(initial=-1)) + 1
    sums = np.stack([np.bincount(which, across[:, k], count) for k in range(3)], axis=1)
    kept = np.zeros((count, keys.shape[1]))
    kept[which] = keys
    return np.column_stack([sums, kept])


def glint_rows(planes: Array, sources: Sequence[Source]) -> tuple[L.I8, F4]:
    """`SceneArrays.glint_sources` and `SceneArrays.glints`: for the strongest sun above the horizon, and
    for the first sky if anything smooth is level."""
    none = np.zeros((1, L.GLINT_COLUMNS), np.float32)
    if not len(planes):
        return np.array([-1, -1], np.int64), none
    skies = [i for i, s in enumerate(sources) if isinstance(s, SkySource)]
    level = bool((np.abs(planes[:, 2]) > _LEVEL).any())
    sky = skies[0] if skies and level else -1
    suns = [(float(s.gain @ AP1_LUMINANCE), i) for i, s in enumerate(sources)
            if isinstance(s, Sun) and s.direction[2] > 0]  # fmt: skip
    if not suns:
        return np.array([-1, sky], np.int64), none
    row = max(suns)[1]
    sun = sources[row]
    assert isinstance(sun, Sun)
    facing = planes[:, :3] @ np.asarray(sun.direction)
    # By the root of the area: a floor must not drown in the sea, nor a tray count as much as a floor.
    share = np.sqrt(planes[:, 4] * np.abs(facing))
    rows = np.zeros((len(planes), L.GLINT_COLUMNS), np.float32)
    rows[:, :3] = planes[:, :3] * np.where(facing < 0, -1.0, 1.0)[:, None]
    rows[:, L.H_ALPHA], rows[:, L.H_SHARE] = planes[:, 3], share / share.sum()
    return np.array([row, sky], np.int64), rows
