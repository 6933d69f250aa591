"""Edge-avoiding à-trous smoothing, one round."""

import numpy as np
from numba import njit

from .numbers import ENTRY, ONE, ZERO, dot, luminance


@njit(**ENTRY)
def smooth_rows(source, albedo, normal, step, out, row0, row1):
    """One round with taps ``step`` pixels apart over rows row0…row1 of (h, w, 3) pictures."""
    height, width = source.shape[0], source.shape[1]
    for y in range(row0, row1):
        for x in range(width):
            nx, ny, nz = normal[y, x, 0], normal[y, x, 1], normal[y, x, 2]
            level = luminance(source[y, x, 0], source[y, x, 1], source[y, x, 2])
            r = g = b = total = ZERO
            for j in range(-1, 2):
                v = min(max(y + j * step, 0), height - 1)
                for i in range(-1, 2):
                    u = min(max(x + i * step, 0), width - 1)
                    near = ONE if i == 0 else np.float32(0.5)
                    near *= ONE if j == 0 else np.float32(0.5)
                    turn = dot(nx, ny, nz, normal[v, u, 0], normal[v, u, 1], normal[v, u, 2])
                    turn = min(max(turn, ZERO), ONE)
                    turn *= turn
                    turn *= turn
                    colour = abs(albedo[y, x, 0] - albedo[v, u, 0])
                    colour += abs(albedo[y, x, 1] - albedo[v, u, 1])
                    colour += abs(albedo[y, x, 2] - albedo[v, u, 2])
                    other = luminance(source[v, u, 0], source[v, u, 1], source[v, u, 2])
                    # Shadow edges are what the hand looks for: smooth only like with like.
                    step_up = abs(other - level) / (other + level + np.float32(1e-6))
                    w = (
                        near
                        * turn
                        * turn
                        / (ONE + np.float32(20) * colour + np.float32(4) * step_up)
                    )
                    if i == 0 and j == 0:
                        w = ONE
                    r += w * source[v, u, 0]
                    g += w * source[v, u, 1]
                    b += w * source[v, u, 2]
                    total += w
            out[y, x, 0], out[y, x, 1], out[y, x, 2] = r / total, g / total, b / total
