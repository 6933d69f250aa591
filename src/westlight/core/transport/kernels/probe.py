"""What a grid of places sees of portals and sky, and portals of what is outside: a few rays each."""

import math

import numpy as np
from numba import njit, uint32, uint64

from .. import layout as L
from ..embree import MASK_BLOCKER, MASK_SOLID, occluded1
from .numbers import ENTRY, INFINITE, ONE, TWO, TWO_PI, ZERO, dot
from .points import mix, point2
from .rays import set_ray

_SOLID = np.uint32(MASK_SOLID | MASK_BLOCKER)
_OUTWARDS = np.float32(0.02)


@njit(**ENTRY)
def probe_cells(scene, portals, box, size, which, first, probes, seen, ray):
    """Fill ``seen`` (n, 2·W + 2) for the cells ``which`` (n,) of a grid of ``size`` in ``box``.

    Share of rays that reach each portal; that reach the sky by another way; the solid angle of
    each portal that is seen; and the share that reaches the sky from places that see a portal, −1
    if none does. Rows from ``first`` on in steps of two: two threads share the work.
    """
    words = ray.view(np.uint32)
    address = uint64(ray.ctypes.data)
    edge = ONE / box[3]
    count = portals.shape[0]
    for row in range(first, which.shape[0], 2):
        cell = which[row]
        k = cell % size[2]
        j = (cell // size[2]) % size[1]
        i = cell // (size[2] * size[1])
        seed = mix(uint32(cell))
        inside = inside_open = ZERO
        for n in range(probes):
            u, v = point2(seed, uint32(n), 0)
            w, q = point2(seed, uint32(n), 1)
            x = box[0] + (np.float32(i) + u) * edge
            y = box[1] + (np.float32(j) + v) * edge
            z = box[2] + (np.float32(k) + w) * edge
            sees = False
            for p in range(count):
                f = portals[p]
                a, b = point2(seed, uint32(n), 2 + p)
                a, b = a * f[L.P_WIDTH], b * f[L.P_HEIGHT]
                dx = f[0] + f[3] * a + f[6] * b - x
                dy = f[1] + f[4] * a + f[7] * b - y
                dz = f[2] + f[5] * a + f[8] * b - z
                away = -dot(dx, dy, dz, f[9], f[10], f[11])
                if away <= ZERO:
                    continue
                set_ray(ray, words, x, y, z, dx, dy, dz, ONE, _SOLID)
                occluded1(scene, address, uint64(0))
                if ray[8] >= ZERO:
                    sees = True
                    seen[row, p] += ONE
                    d2 = dx * dx + dy * dy + dz * dz
                    angle = f[L.P_WIDTH] * f[L.P_HEIGHT] * away / (d2 * math.sqrt(d2))
                    seen[row, count + 1 + p] += min(angle, TWO_PI)
            dz = TWO * q - ONE if n % 4 == 0 else q
            s = math.sqrt(max(ONE - dz * dz, ZERO))
            phi = TWO_PI * np.float32(n + 0.5) * np.float32(0.618034)
            dx, dy = s * math.cos(phi), s * math.sin(phi)
            set_ray(ray, words, x, y, z, dx, dy, dz, INFINITE, _SOLID)
            occluded1(scene, address, uint64(0))
            open_ = ray[8] >= ZERO and not _by_portal(portals, x, y, z, dx, dy, dz)
            if open_:
                seen[row, count] += ONE
            if sees:
                inside += ONE
                inside_open += ONE if open_ else ZERO
        for p in range(2 * count + 1):
            seen[row, p] /= np.float32(probes)
        seen[row, 2 * count + 1] = inside_open / inside if inside > ZERO else -ONE


@njit(forceinline=True, _nrt=False)
def _by_portal(portals, x, y, z, dx, dy, dz):
    for p in range(portals.shape[0]):
        f = portals[p]
        out = -dot(dx, dy, dz, f[9], f[10], f[11])
        if out <= np.float32(1e-6):
            continue
        cx, cy, cz = f[0] - x, f[1] - y, f[2] - z
        t = -dot(cx, cy, cz, f[9], f[10], f[11]) / out
        if t <= ZERO:
            continue
        qx, qy, qz = dx * t - cx, dy * t - cy, dz * t - cz
        a, b = dot(qx, qy, qz, f[3], f[4], f[5]), dot(qx, qy, qz, f[6], f[7], f[8])
        if a >= ZERO and a <= f[L.P_WIDTH] and b >= ZERO and b <= f[L.P_HEIGHT]:
            return True
    return False


@njit(**ENTRY)
def probe_outside(scene, portal, directions, probes, seen, ray):
    """Fill ``seen`` (n, n) with the share of rays that leave a portal row in ``directions`` (n, n, 3)
    from places spread over it and meet nothing."""
    words = ray.view(np.uint32)
    address = uint64(ray.ctypes.data)
    f = portal
    side = seen.shape[0]
    for i in range(side):
        for j in range(side):
            seed = mix(uint32(i * side + j))
            for n in range(probes):
                a, b = point2(seed, uint32(n), 0)
                a, b = a * f[L.P_WIDTH], b * f[L.P_HEIGHT]
                # A little outwards: the pane itself and its frame are no part of what lies outside.
                x = f[0] + f[3] * a + f[6] * b - f[9] * _OUTWARDS
                y = f[1] + f[4] * a + f[7] * b - f[10] * _OUTWARDS
                z = f[2] + f[5] * a + f[8] * b - f[11] * _OUTWARDS
                dx, dy, dz = directions[i, j, 0], directions[i, j, 1], directions[i, j, 2]
                set_ray(ray, words, x, y, z, dx, dy, dz, INFINITE, _SOLID)
                occluded1(scene, address, uint64(0))
                if ray[8] >= ZERO:
                    seen[i, j] += ONE / np.float32(probes)
