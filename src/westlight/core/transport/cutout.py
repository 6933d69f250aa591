"""Cut-outs: leaves and lattices whose holes are in the alpha of a texture.

Embree asks a compiled function about every hit on such a triangle; it looks the alpha up and
rejects the hit where there is a hole. Works for closest and for shadow rays alike.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

import numpy as np
import numpy.typing as npt
from llvmlite import ir
from numba import cfunc, types
from numba.core import cgutils
from numba.extending import intrinsic

from ..model import Material
from . import layout as L
from .kernels.textures import beside, led_in

#: What a filter knows of a material.
CUT_COLUMNS = 6


def _loader(numba_type: Any, llvm_type: Any) -> Any:
    @intrinsic
    def load(context: Any, address: Any) -> Any:
        """The value at an address."""

        def generate(context: Any, builder: Any, signature: Any, arguments: Any) -> Any:
            pointer = builder.inttoptr(arguments[0], llvm_type.as_pointer())
            return builder.load(pointer)

        return numba_type(types.int64), generate

    return load


_f4 = _loader(types.float32, ir.FloatType())
_i4 = _loader(types.int32, cgutils.int32_t)
_i8 = _loader(types.int64, ir.IntType(64))
_u1 = _loader(types.uint8, ir.IntType(8))


@intrinsic
def _reject(context: Any, address: Any) -> Any:
    """Write 0 to the valid flag."""

    def generate(context: Any, builder: Any, signature: Any, arguments: Any) -> Any:
        pointer = builder.inttoptr(arguments[0], cgutils.int32_t.as_pointer())
        builder.store(ir.Constant(cgutils.int32_t, 0), pointer)
        return context.get_dummy_value()

    return types.void(types.int64), generate


@cfunc(types.void(types.CPointer(types.int64)), cache=True)
def reject_holes(arguments):  # type: ignore[no-untyped-def]
    """Embree filter: arguments hold addresses of valid flags, our data and (at 4) the hit.

    Our data: addresses of the corner rows of these triangles, of the texels, and of a table by
    material row of first texel, width, height, the alpha (0…255) below which there is a hole, and how
    the picture goes on across and down.
    """
    data, hit = arguments[1], arguments[4]
    u, v = _f4(hit + 12), _f4(hit + 16)
    primitive = np.int64(_i4(hit + 20)) & 0xFFFFFFFF
    row = _i8(data) + primitive * (L.CORNER_COLUMNS * 4)
    w = np.float32(1.0) - u - v
    tu = _f4(row + 12) * w + _f4(row + 32) * u + _f4(row + 52) * v
    tv = _f4(row + 16) * w + _f4(row + 36) * u + _f4(row + 56) * v
    entry = _i8(data + 16) + np.int64(_i4(row + L.N_MATERIAL * 4)) * (CUT_COLUMNS * 8)
    first, width, height = _i8(entry), _i8(entry + 8), _i8(entry + 16)
    across, down = _i8(entry + 32), _i8(entry + 40)
    x, y = led_in(tu, across) * width - 0.5, led_in(tv, down) * height - 0.5
    fx, fy = math.floor(x), math.floor(y)
    a, b = x - fx, y - fy
    x0, y0 = beside(np.int64(fx), width, across), beside(np.int64(fy), height, down)
    x1, y1 = beside(np.int64(fx) + 1, width, across), beside(np.int64(fy) + 1, height, down)
    texels = _i8(data + 8) + first * 4 + 3
    low = _u1(texels + (y0 * width + x0) * 4) * (1 - a) + _u1(texels + (y0 * width + x1) * 4) * a
    high = _u1(texels + (y1 * width + x0) * 4) * (1 - a) + _u1(texels + (y1 * width + x1) * 4) * a
    if low * (1 - b) + high * b < _i8(entry + 24):
        _reject(arguments[0])


def filter_address() -> int:
    """Address of the compiled filter."""
    return int(reject_holes.address)


def cut_table(
    materials: Sequence[Material], ints: L.I4, texture_ints: L.I8
) -> npt.NDArray[np.int64]:
    """Rows of first texel, width, height, threshold and ways on for every material (M, 6)."""
    out = np.zeros((max(len(materials), 1), CUT_COLUMNS), np.int64)
    for i, m in enumerate(materials):
        if m.cutout is None or m.base_texture is None:
            continue
        texture = ints[i, L.M_TEX_BASE]
        out[i, :3] = texture_ints[texture, L.T_FIRST : L.T_FIRST + 3]
        out[i, 4:] = texture_ints[texture, [L.T_ACROSS, L.T_DOWN]]
        out[i, 3] = round(min(m.cutout / max(m.alpha, 1e-6), 1.0) * 255)
    return out
