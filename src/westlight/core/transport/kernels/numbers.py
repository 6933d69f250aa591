"""Numbers for kernels: float32 constants, compiler flags, vectors and colours.

Vectors and colours are named tuples: the compiler takes them apart into registers.
"""

import math
from typing import Any, NamedTuple

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


class Vec(NamedTuple):
    """A point in metres, or a direction; in the frame of a surface z is its normal."""

    x: Any
    y: Any
    z: Any


class Rgb(NamedTuple):
    """Light, or the share of it that is kept, in the working space."""

    r: Any
    g: Any
    b: Any


class Frame(NamedTuple):
    """Axes of a surface: two tangents and the normal."""

    t: Vec
    b: Vec
    n: Vec


#: Nowhere in particular, and straight up.
ORIGIN, UP = Vec(ZERO, ZERO, ZERO), Vec(ZERO, ZERO, ONE)
BLACK, WHITE = Rgb(ZERO, ZERO, ZERO), Rgb(ONE, ONE, ONE)


@njit(**PIECE)
def vec(row, at):
    """The vector that begins at a column of a row."""
    return Vec(row[at], row[at + 1], row[at + 2])


@njit(**PIECE)
def rgb(row, at):
    """The colour that begins at a column of a row."""
    return Rgb(row[at], row[at + 1], row[at + 2])


@njit(**PIECE)
def put(row, at, a):
    """Write a vector or a colour into a row from a column on."""
    row[at], row[at + 1], row[at + 2] = a[0], a[1], a[2]


@njit(**PIECE)
def dot(a, b):
    return a.x * b.x + a.y * b.y + a.z * b.z


@njit(**PIECE)
def cross(a, b):
    return Vec(a.y * b.z - a.z * b.y, a.z * b.x - a.x * b.z, a.x * b.y - a.y * b.x)


@njit(**PIECE)
def plus(a, b):
    return Vec(a.x + b.x, a.y + b.y, a.z + b.z)


@njit(**PIECE)
def minus(a, b):
    return Vec(a.x - b.x, a.y - b.y, a.z - b.z)


@njit(**PIECE)
def scaled(a, k):
    return Vec(a.x * k, a.y * k, a.z * k)


@njit(**PIECE)
def opposite(a):
    return Vec(-a.x, -a.y, -a.z)


@njit(**PIECE)
def along(start, way, far):
    """The point so far from a start along a direction."""
    return Vec(start.x + way.x * far, start.y + way.y * far, start.z + way.z * far)


@njit(**PIECE)
def mirror(way, normal):
    """A direction after a mirror with a unit normal."""
    return along(way, normal, -TWO * dot(way, normal))


@njit(**PIECE)
def normalise(a):
    return scaled(a, ONE / math.sqrt(max(dot(a, a), np.float32(1e-30))))


@njit(**PIECE)
def times(a, b):
    return Rgb(a.r * b.r, a.g * b.g, a.b * b.b)


@njit(**PIECE)
def dimmed(a, k):
    return Rgb(a.r * k, a.g * k, a.b * k)


@njit(**PIECE)
def added(a, b):
    return Rgb(a.r + b.r, a.g + b.g, a.b + b.b)


@njit(**PIECE)
def brightest(a):
    return max(a.r, max(a.g, a.b))


@njit(**PIECE)
def total(a):
    return a.r + a.g + a.b


@njit(**PIECE)
def luminance(r, g, b):
    return LUM_R * r + LUM_G * g + LUM_B * b


@njit(**PIECE)
def brightness(a):
    """Luminance of a colour."""
    return luminance(a.r, a.g, a.b)


@njit(**PIECE)
def frame(n):
    """Tangents of a unit normal (Duff et al. 2017)."""
    s = ONE if n.z >= ZERO else -ONE
    a = -ONE / (s + n.z)
    b = n.x * n.y * a
    return Frame(Vec(ONE + s * n.x * n.x * a, s * b, -s * n.x), Vec(b, s + n.y * n.y * a, -n.y), n)


@njit(**PIECE)
def in_frame(f, a):
    """A direction of the world in a surface's frame."""
    return Vec(dot(a, f.t), dot(a, f.b), dot(a, f.n))


@njit(**PIECE)
def from_frame(f, a):
    """A direction of a surface's frame in the world."""
    return Vec(
        f.t.x * a.x + f.b.x * a.y + f.n.x * a.z,
        f.t.y * a.x + f.b.y * a.y + f.n.y * a.z,
        f.t.z * a.x + f.b.z * a.y + f.n.z * a.z,
    )


@njit(**PIECE)
def turned_by(m, a):
    """A vector after the upper left 3 × 3 of a matrix."""
    return Vec(
        m[0, 0] * a.x + m[0, 1] * a.y + m[0, 2] * a.z,
        m[1, 0] * a.x + m[1, 1] * a.y + m[1, 2] * a.z,
        m[2, 0] * a.x + m[2, 1] * a.y + m[2, 2] * a.z,
    )


@njit(**PIECE)
def power_heuristic(a, b):
    """Weight of the strategy with density ``a`` against ``b`` (Veach & Guibas 1995, β = 2)."""
    if not (a < np.float32(1e18)):
        return ONE
    return a * a / max(a * a + b * b, np.float32(1e-30))
