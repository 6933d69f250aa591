"""Numbers for kernels: float32 constants, compiler flags and small vector pieces."""

import math

import numpy as np
from numba import njit

from .pieces import PieceCompiler

# Not nnan/ninf: the kernels must be able to see a bad number and drop it.
FAST = {"reassoc", "nsz", "arcp", "contract", "afn"}
# Pieces are inlined by LLVM, and nothing is reference-counted: counting the two dozen arrays of a
# scene at every call made the tracer ten times slower. So kernels may not allocate. Pieces cannot be called from Python.
OUTLINE = {
    "fastmath": FAST, "error_model": "numpy", "_nrt": False, "pipeline_class": PieceCompiler,
    "no_cpython_wrapper": True, "no_cfunc_wrapper": True,
}  # fmt: skip
# Those are for long or rarely taken pieces, which stay functions of their own with few arrays as arguments: inlining
# them too would double the time to compile and push the common path out of the code cache.
PIECE = {**OUTLINE, "forceinline": True}
ENTRY = {"fastmath": FAST, "error_model": "numpy", "_nrt": False, "nogil": True, "cache": True}

ZERO, HALF, ONE, TWO, FOUR = (np.float32(v) for v in (0.0, 0.5, 1.0, 2.0, 4.0))
PI, TWO_PI = np.float32(math.pi), np.float32(2 * math.pi)
#: A plain `False` is a type of its own to the compiler, which then makes all it is passed to once for it.
YES, NO = np.bool_(True), np.bool_(False)
INV_PI = np.float32(1 / math.pi)
INFINITE = np.float32(1e30)
LUM_R, LUM_G, LUM_B = (np.float32(v) for v in (0.27222872, 0.67408177, 0.05368952))


@njit(**PIECE)
def dot(ax, ay, az, bx, by, bz):
    return ax * bx + ay * by + az * bz


@njit(**PIECE)
def normalise(x, y, z):
    k = ONE / math.sqrt(max(x * x + y * y + z * z, np.float32(1e-30)))
    return x * k, y * k, z * k


@njit(**PIECE)
def luminance(r, g, b):
    return LUM_R * r + LUM_G * g + LUM_B * b


@njit(**PIECE)
def frame(nx, ny, nz):
    """Tangent and bitangent of a unit normal (Duff et al. 2017)."""
    s = ONE if nz >= ZERO else -ONE
    a = -ONE / (s + nz)
    b = nx * ny * a
    return ONE + s * nx * nx * a, s * b, -s * nx, b, s + ny * ny * a, -ny


@njit(**PIECE)
def power_heuristic(a, b):
    """Weight of the strategy with density ``a`` against ``b`` (Veach & Guibas 1995, β = 2)."""
    if not (a < np.float32(1e18)):
        return ONE
    return a * a / max(a * a + b * b, np.float32(1e-30))
