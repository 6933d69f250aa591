"""What a grid of places sees of portals and sky, and portals of what is outside: a few rays each."""

import math

import numpy as np
from numba import njit, uint32, uint64

from .. import layout as L
from ..embree import MASK_BLOCKER, MASK_SOLID, intersect1, occluded1
from .numbers import ENTRY, HALF, INFINITE, ONE, PIECE, TWO, TWO_PI, ZERO, dot, normalise
from .points import mix, point2
from .portals import crosses
from .rays import NO_HIT, set_ray

_SOLID = np.uint32(MASK_SOLID | MASK_BLOCKER)
_OUTWARDS = np.float32(0.02)
_INV_TWO_PI = np.float32(1.0 / (2.0 * np.pi))
#: Least cosine with which a pane counts for a face; a little of it for what lies just behind, since
#: surfaces lean. Behind `_BACK` none can see it.
_FLAT, _BEHIND, _BACK = np.float32(0.08), np.float32(0.04), np.float32(-0.5)
#: What a ray counts that did not get out: this much, or a part of how much of the whole portal is seen
#: from its cell, or a part of how much of its pane is seen from a cell beside it.
#: Something else goes for what looks wider than `_WIDE` steradians.
_WIDE, _CLOSE = np.float32(1.0), np.float32(0.5)
_UNSEEN, _LENT, _LENT_BESIDE = np.float32(0.03), np.float32(0.2), np.float32(0.5)


@njit(**PIECE)
def _place(box, seed, n):
    """Place ``n`` in a cell (lower corner, edge)."""
    u, v = point2(seed, uint32(n), 0)
    w, q = point2(seed, uint32(n), 1)
    return box[0] + u * box[3], box[1] + v * box[3], box[2] + w * box[3], q


@njit(**PIECE)
def _to_pane(portals, panes, k, seed, n, x, y, z, thick):
    """Way from a place to place ``n`` of a pane, and the solid angle of the pane there (0: behind it).

    A place less than ``thick`` behind the pane counts as if it were as far in front.
    """
    f, pane = portals[np.int64(panes[k, 0])], panes[k]
    a, b = point2(seed, uint32(n), 2 + k)
    a, b = pane[1] + a * (pane[2] - pane[1]), pane[3] + b * (pane[4] - pane[3])
    dx = f[0] + f[3] * a + f[6] * b - x
    dy = f[1] + f[4] * a + f[7] * b - y
    dz = f[2] + f[5] * a + f[8] * b - z
    away = -dot(dx, dy, dz, f[9], f[10], f[11])
    if away <= -thick:
        return dx, dy, dz, ZERO
    if away < ZERO:
        e = TWO * away
        dx, dy, dz = dx + f[9] * e, dy + f[10] * e, dz + f[11] * e
        away = -away
    d2 = dx * dx + dy * dy + dz * dz
    area = (pane[2] - pane[1]) * (pane[4] - pane[3])
    return dx, dy, dz, min(area * away / max(d2 * math.sqrt(d2), np.float32(1e-12)), TWO_PI)


@njit(**PIECE)
def _any_direction(seed, n):
    u, v = point2(seed, uint32(n), 2)
    z = ONE - TWO * u
    s, phi = math.sqrt(max(ONE - z * z, ZERO)), TWO_PI * v
    return s * math.cos(phi), s * math.sin(phi), z


@njit(**ENTRY)
def mark_cells(scene, firsts, normals, boxes, low, shape, first, probes, asked, ray):
    """Set ``asked`` (X·Y·Z,) for the cells of a grid that surfaces will read: those a whole cell in
    front of places where rays from ``boxes`` end. ``firsts`` (G,) and
    ``normals`` (I, 3, 3) are those of `SceneArrays`."""
    words = ray.view(np.uint32)
    address = uint64(ray.ctypes.data)
    for row in range(first, boxes.shape[0], 2):
        seed, edge = mix(uint32(row)), boxes[row, 3]
        for n in range(probes):
            x, y, z, _ = _place(boxes[row], seed, n)
            dx, dy, dz = _any_direction(seed, n)
            set_ray(ray, words, x, y, z, dx, dy, dz, INFINITE, _SOLID)
            intersect1(scene, address, uint64(0))
            if words[18] == NO_HIT or words[19] == NO_HIT:
                continue
            m, t = normals[firsts[words[19]] + np.int64(words[20])], ray[8]
            nx, ny, nz = normalise(
                dot(m[0, 0], m[0, 1], m[0, 2], ray[12], ray[13], ray[14]),
                dot(m[1, 0], m[1, 1], m[1, 2], ray[12], ray[13], ray[14]),
                dot(m[2, 0], m[2, 1], m[2, 2], ray[12], ray[13], ray[14]),
            )
            e = edge if dot(nx, ny, nz, dx, dy, dz) < ZERO else -edge
            i = int(math.floor((x + dx * t + nx * e - low[0]) / edge))
            j = int(math.floor((y + dy * t + ny * e - low[1]) / edge))
            k = int(math.floor((z + dz * t + nz * e - low[2]) / edge))
            if min(i, min(j, k)) >= 0 and i < shape[0] and j < shape[1] and k < shape[2]:
                asked[(i * shape[1] + j) * shape[2] + k] = True


@njit(**ENTRY)
def probe_cells(scene, portals, panes, boxes, may, first, probes, bits, seen, ray):
    """What cells of a grid see: ``boxes`` (n, 4) are their lower corners and edges, ``may`` (n, W) the
    portals worth asking for.

    ``bits`` (n, K) gets one of its lower eight bits for each of ``probes`` rays that gets out through each row of ``panes``
    (portal, from and to along the width and the height). ``seen`` (n, 3) gets the share of places
    that see a portal; of rays that reach the sky by another way; and of those from places that see
    a portal, −1 if none does. Rows from ``first`` on in steps of two: two threads share the work.
    """
    words = ray.view(np.uint32)
    address = uint64(ray.ctypes.data)
    for row in range(first, boxes.shape[0], 2):
        seed = mix(uint32(row))
        inside = inside_open = all_open = ZERO
        for n in range(probes):
            x, y, z, q = _place(boxes[row], seed, n)
            sees = False
            for k in range(panes.shape[0]):
                if not may[row, np.int64(panes[k, 0])]:
                    continue
                dx, dy, dz, angle = _to_pane(portals, panes, k, seed, n, x, y, z, ZERO)
                if angle <= ZERO:
                    continue
                set_ray(ray, words, x, y, z, dx, dy, dz, INFINITE, _SOLID)
                occluded1(scene, address, uint64(0))
                if ray[8] >= ZERO:
                    bits[row, k] |= 1 << n
                    sees = True
                elif not sees:
                    set_ray(ray, words, x, y, z, dx, dy, dz, ONE, _SOLID)
                    occluded1(scene, address, uint64(0))
                    sees = ray[8] >= ZERO
            dz = TWO * q - ONE if n % 4 == 0 else q
            s = math.sqrt(max(ONE - dz * dz, ZERO))
            phi = TWO_PI * np.float32(n + HALF) * np.float32(0.618034)
            dx, dy = s * math.cos(phi), s * math.sin(phi)
            set_ray(ray, words, x, y, z, dx, dy, dz, INFINITE, _SOLID)
            occluded1(scene, address, uint64(0))
            free = ONE if ray[8] >= ZERO else ZERO
            for p in range(portals.shape[0]):
                if free > ZERO and crosses(portals[p], x, y, z, dx, dy, dz):
                    free = ZERO
            all_open += free
            if sees:
                inside += ONE
                inside_open += free
        seen[row, 0] = inside / np.float32(probes)
        seen[row, 1] = all_open / np.float32(probes)
        seen[row, 2] = inside_open / inside if inside > ZERO else -ONE


@njit(**ENTRY)
def weigh_panes(portals, panes, boxes, first, probes, bits, sky, totals, chances, tally):
    """How much light each cell expects through each pane by ``bits`` (n, K), whose upper eight are the
    most of the lower ones that a cell beside has, under a sky of mean luminances ``sky`` (rows of
    equal height, columns of azimuth), for every way a surface may face.

    ``totals`` (n, FACES) in lux, ``chances`` (n, FACES, K) the share of panes in it, summed up. It is
    the root of the mean square of what single rays bring: chances like that leave the least noise.
    ``tally`` (2, W) is room to count in.
    """
    height, width = sky.shape
    count = panes.shape[0]
    seen, rays = tally[0], tally[1]
    for row in range(first, boxes.shape[0], 2):
        seed = mix(uint32(row))
        seen[:], rays[:] = 0, 0
        for k in range(count):
            p = np.int64(panes[k, 0])
            rays[p] += probes
            for n in range(probes):
                seen[p] += (bits[row, k] >> n) & 1
        for k in range(count):
            p = np.int64(panes[k, 0])
            # Whatever the rays met: some of what is seen from around here.
            least = max(_UNSEEN, _LENT * np.float32(seen[p]) / np.float32(rays[p]))
            beside = np.float32(bits[row, k] >> 8) / np.float32(probes)
            least = max(least, _LENT_BESIDE * beside)
            # One place does for a pane that no ray got through.
            places = probes if bits[row, k] & 255 != 0 else 1
            for n in range(places):
                x, y, z, _ = _place(boxes[row], seed, n)
                dx, dy, dz, angle = _to_pane(portals, panes, k, seed, n, x, y, z, boxes[row, 3])
                if angle <= ZERO:
                    continue
                d = ONE / math.sqrt(dx * dx + dy * dy + dz * dz)
                dx, dy, dz = dx * d, dy * d, dz * d
                phi = math.atan2(dx, dy)
                if phi < ZERO:
                    phi += TWO_PI
                i = min(max(int((ONE - dz) * HALF * np.float32(height)), 0), height - 1)
                j = min(int(phi * _INV_TWO_PI * np.float32(width)), width - 1)
                w = angle * sky[i, j] * portals[p, L.P_GAIN]
                if (bits[row, k] >> n) & 1 == 0:
                    # Reveals lie about the plane of their pane, where rays tell little.
                    w *= max(least, _CLOSE) if angle > _WIDE else least
                for face in range(6):
                    c = dx if face < 2 else (dy if face < 4 else dz)
                    c = c if face % 2 == 0 else -c
                    if c > _BACK:
                        c = w * (max(c, _FLAT) if c > ZERO else _BEHIND)
                        chances[row, face, k] += c * c
                chances[row, L.FACE_ANY, k] += w * w
            for face in range(L.FACES):
                chances[row, face, k] = math.sqrt(chances[row, face, k] / np.float32(places))
        for face in range(L.FACES):
            total = ZERO
            for k in range(count):
                total += chances[row, face, k]
            totals[row, face] = total
            run = ZERO
            for k in range(count):
                if total > ZERO:
                    run += chances[row, face, k] / total
                chances[row, face, k] = run


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
