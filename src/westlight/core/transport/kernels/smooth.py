"""Edge-avoiding à-trous smoothing, one round."""

import numpy as np
from numba import njit

from .numbers import BLACK, ENTRY, ONE, ZERO, added, brightness, dimmed, dot, put, rgb, vec


@njit(**ENTRY)
def smooth_rows(source, albedo, normal, step, out, row0, row1):
    """One round with taps ``step`` pixels apart over rows row0…row1 of (h, w, 3) pictures."""
    height, width = source.shape[0], source.shape[1]
    for y in range(row0, row1):
        for x in range(width):
            facing = vec(normal[y, x], 0)
            level = brightness(rgb(source[y, x], 0))
            light, weights = BLACK, ZERO
            for j in range(-1, 2):
                v = min(max(y + j * step, 0), height - 1)
                for i in range(-1, 2):
                    u = min(max(x + i * step, 0), width - 1)
                    near = ONE if i == 0 else np.float32(0.5)
                    near *= ONE if j == 0 else np.float32(0.5)
                    turn = min(max(dot(facing, vec(normal[v, u], 0)), ZERO), ONE)
                    turn *= turn
                    turn *= turn
                    colour = abs(albedo[y, x, 0] - albedo[v, u, 0])
                    colour += abs(albedo[y, x, 1] - albedo[v, u, 1])
                    colour += abs(albedo[y, x, 2] - albedo[v, u, 2])
                    other = brightness(rgb(source[v, u], 0))
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
                    light = added(light, dimmed(rgb(source[v, u], 0), w))
                    weights += w
            put(out[y, x], 0, dimmed(light, ONE / weights))
