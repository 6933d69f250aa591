"""What a grid of places sees of portals and sky, and portals of what is outside: a few rays each."""

import math

import numpy as np
from numba import njit, uint32, uint64

from .. import layout as L
from ..embree import MASK_BLOCKER, MASK_SOLID, intersect1, occluded1
from .numbers import (
    ENTRY,
    HALF,
    INFINITE,
    ONE,
    PIECE,
    TWO,
    TWO_PI,
    ZERO,
    Vec,
    along,
    dot,
    minus,
    normalise,
    scaled,
    turned_by,
    vec,
)
from .points import mix, point2
from .portals import crosses, on_portal
from .rays import met_no_surface, set_ray
from .skies import azimuth

_SOLID = np.uint32(MASK_SOLID | MASK_BLOCKER)
_OUTWARDS = np.float32(0.02)
_INV_TWO_PI = np.float32(1.0 / (2.0 * np.pi))
#: What a ray counts that did not get out: this much, or a part of how much of the whole portal is seen
#: from its cell, or a part of how much of its pane is seen from a cell beside it.
#: Something else goes for what looks wider than `_WIDE` steradians.
_WIDE, _CLOSE = np.float32(1.0), np.float32(0.5)
_UNSEEN, _LENT, _LENT_BESIDE = np.float32(0.03), np.float32(0.2), np.float32(0.5)


@njit(**PIECE)
def _place(box, seed, n):
    """Place ``n`` in a cell (lower corner, edge), and one more random number."""
    u, v = point2(seed, uint32(n), 0)
    w, q = point2(seed, uint32(n), 1)
    return along(vec(box, 0), Vec(u, v, w), box[3]), q


@njit(**PIECE)
def _to_pane(f, pane, u, v, at, thick):
    """Way from a place to place (u, v) of a pane of a portal row, and the solid angle of the pane there (0: behind it).

    A place less than ``thick`` behind the pane counts as if it were as far in front.
    """
    wide, high = pane[2] - pane[1], pane[4] - pane[3]
    way = minus(on_portal(f, pane[1] + u * wide, pane[3] + v * high), at)
    normal = vec(f, L.P_NORMAL)
    away = -dot(way, normal)
    if away <= -thick:
        return way, ZERO
    if away < ZERO:
        way = along(way, normal, TWO * away)
        away = -away
    d2 = dot(way, way)
    return way, min(wide * high * away / max(d2 * math.sqrt(d2), np.float32(1e-12)), TWO_PI)


@njit(**PIECE)
def _any_direction(seed, n):
    u, v = point2(seed, uint32(n), 2)
    z = ONE - TWO * u
    s, phi = math.sqrt(max(ONE - z * z, ZERO)), TWO_PI * v
    return Vec(s * math.cos(phi), s * math.sin(phi), z)


@njit(**PIECE)
def _free(scene, ray, words, start, way, far):
    """Whether a ray of length ``far`` (in lengths of ``way``) meets nothing solid."""
    set_ray(ray, words, start, way, far, _SOLID)
    occluded1(scene, uint64(ray.ctypes.data), uint64(0))
    return ray[L.X_FAR] >= ZERO


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
            start, _ = _place(boxes[row], seed, n)
            way = _any_direction(seed, n)
            set_ray(ray, words, start, way, INFINITE, _SOLID)
            intersect1(scene, address, uint64(0))
            if met_no_surface(words):
                continue
            m = normals[firsts[words[L.X_INSTANCE]] + np.int64(words[L.X_COPY])]
            face = normalise(turned_by(m, vec(ray, L.X_NORMAL)))
            before = along(
                along(start, way, ray[L.X_FAR]), face, edge if dot(face, way) < ZERO else -edge
            )
            cell = scaled(minus(before, vec(low, 0)), ONE / edge)
            i, j, k = int(math.floor(cell.x)), int(math.floor(cell.y)), int(math.floor(cell.z))
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
    for row in range(first, boxes.shape[0], 2):
        seed = mix(uint32(row))
        inside = inside_open = all_open = ZERO
        for n in range(probes):
            start, q = _place(boxes[row], seed, n)
            sees = False
            for k in range(panes.shape[0]):
                if not may[row, np.int64(panes[k, 0])]:
                    continue
                u, v = point2(seed, uint32(n), 2 + k)
                f = portals[np.int64(panes[k, 0])]
                way, angle = _to_pane(f, panes[k], u, v, start, ZERO)
                if angle <= ZERO:
                    continue
                if _free(scene, ray, words, start, way, INFINITE):
                    bits[row, k] |= 1 << n
                    sees = True
                elif not sees:
                    sees = _free(scene, ray, words, start, way, ONE)
            z = TWO * q - ONE if n % 4 == 0 else q
            s = math.sqrt(max(ONE - z * z, ZERO))
            phi = TWO_PI * np.float32(n + HALF) * np.float32(0.618034)
            way = Vec(s * math.cos(phi), s * math.sin(phi), z)
            free = ONE if _free(scene, ray, words, start, way, INFINITE) else ZERO
            for p in range(portals.shape[0]):
                if free > ZERO and crosses(portals[p], start, way):
                    free = ZERO
            all_open += free
            if sees:
                inside += ONE
                inside_open += free
        seen[row, 0] = inside / np.float32(probes)
        seen[row, 1] = all_open / np.float32(probes)
        seen[row, 2] = inside_open / inside if inside > ZERO else -ONE


@njit(**ENTRY)
def look_through(portals, panes, boxes, first, bits, firsts, sizes, cells, weights, tally):
    """Where cells look through each pane, and what light from there would count: nothing of that depends on the sky.

    ``bits`` (n, K): see `probe_cells`; its upper eight are the most of the lower ones that a cell beside has. From
    ``firsts`` (n,) on each row fills an entry for each place that looks through each pane in turn, `_places` of them:
    ``cells`` the cell of a sky of ``height`` rows of equal height and ``width`` columns of azimuth, ``weights`` the mean
    square of the solid angle, with the gain. ``sizes`` are rays to each pane, and those rows and columns; ``tally`` (2, W)
    is room to count in.
    """
    count = panes.shape[0]
    probes, height, width = sizes
    seen, rays = tally[0], tally[1]
    for row in range(first, boxes.shape[0], 2):
        seed = mix(uint32(row))
        seen[:], rays[:] = 0, 0
        for k in range(count):
            p = np.int64(panes[k, 0])
            rays[p] += probes
            for n in range(probes):
                seen[p] += (bits[row, k] >> n) & 1
        entry = firsts[row]
        for k in range(count):
            p = np.int64(panes[k, 0])
            # Whatever the rays met: some of what is seen from around here.
            least = max(_UNSEEN, _LENT * np.float32(seen[p]) / np.float32(rays[p]))
            beside = np.float32(bits[row, k] >> 8) / np.float32(probes)
            least = max(least, _LENT_BESIDE * beside)
            places = _places(bits[row, k], probes)
            for n in range(places):
                at, _ = _place(boxes[row], seed, n)
                u, v = point2(seed, uint32(n), 2 + k)
                way, angle = _to_pane(portals[p], panes[k], u, v, at, boxes[row, 3])
                w = angle * portals[p, L.P_GAIN]
                if (bits[row, k] >> n) & 1 == 0:
                    # Reveals lie about the plane of their pane, where rays tell little.
                    w *= max(least, _CLOSE) if angle > _WIDE else least
                way = scaled(way, ONE / math.sqrt(max(dot(way, way), np.float32(1e-12))))
                i = min(max(int((ONE - way.z) * HALF * np.float32(height)), 0), height - 1)
                j = min(int(azimuth(way) * _INV_TWO_PI * np.float32(width)), width - 1)
                cells[entry] = i * width + j
                weights[entry] = w * w / np.float32(places)
                entry += 1


@njit(**PIECE)
def _places(bits, probes):
    """Places of a cell that look through a pane: one does where no ray got through."""
    return probes if bits & 255 != 0 else 1


@njit(**ENTRY)
def weigh_panes(bits, first, probes, firsts, cells, weights, sky, facing, totals, chances):
    """How much light each cell expects through each pane by what `look_through` found, for every way a surface may face.

    ``sky`` (H · W,) are squared mean luminances of its cells, ``facing`` (H · W, FACES − 1) the squared cosines that count
    for each face. ``totals`` (n, FACES) in lux, ``chances`` (n, FACES, K) the share of panes in it, summed up. It is
    the root of the mean square of what single rays bring: chances like that leave the least noise.
    """
    count = bits.shape[1]
    for row in range(first, bits.shape[0], 2):
        entry = firsts[row]
        for k in range(count):
            a = b = c = d = e = f = every = ZERO
            for _ in range(_places(bits[row, k], probes)):
                cell = np.int64(cells[entry])
                w = weights[entry] * sky[cell]
                a += w * facing[cell, 0]
                b += w * facing[cell, 1]
                c += w * facing[cell, 2]
                d += w * facing[cell, 3]
                e += w * facing[cell, 4]
                f += w * facing[cell, 5]
                every += w
                entry += 1
            chances[row, 0, k], chances[row, 1, k] = math.sqrt(a), math.sqrt(b)
            chances[row, 2, k], chances[row, 3, k] = math.sqrt(c), math.sqrt(d)
            chances[row, 4, k], chances[row, 5, k] = math.sqrt(e), math.sqrt(f)
            chances[row, L.FACE_ANY, k] = math.sqrt(every)
        for face in range(L.FACES):
            total = ZERO
            for k in range(count):
                total += chances[row, face, k]
            totals[row, face] = total
            run, share = ZERO, ONE / total if total > ZERO else ZERO
            for k in range(count):
                run += chances[row, face, k] * share
                chances[row, face, k] = run


@njit(**ENTRY)
def probe_outside(scene, portal, directions, probes, seen, ray):
    """Fill ``seen`` (n, n) with the share of rays that leave a portal row in ``directions`` (n, n, 3)
    from places spread over it and meet nothing."""
    words = ray.view(np.uint32)
    f = portal
    side = seen.shape[0]
    for i in range(side):
        for j in range(side):
            seed = mix(uint32(i * side + j))
            for n in range(probes):
                a, b = point2(seed, uint32(n), 0)
                at = on_portal(f, a * f[L.P_WIDTH], b * f[L.P_HEIGHT])
                # A little outwards: the pane itself and its frame are no part of what lies outside.
                start = along(at, vec(f, L.P_NORMAL), -_OUTWARDS)
                if _free(scene, ray, words, start, vec(directions[i, j], 0), INFINITE):
                    seen[i, j] += ONE / np.float32(probes)
