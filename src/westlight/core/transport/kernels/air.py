"""Air that scatters and absorbs: boxes of haze, even or thinning with height.

Single scattering along every segment of a path is gathered by next-event estimation, near lamps at
equiangular distances (Kulla & Fajardo 2012), from suns and skies by how much haze lies along the
way; free flights with scattering into new directions carry the rest, so no order of scattering is
missing. Boxes overlap as independent media do: the first of their free flights is the one that ends.
"""

import math

import numpy as np
from numba import njit

from .. import layout as L
from .emitters import emitted, sample_shape, triangle_place
from .haze import distance_after, haze_between, rho, span, thinning
from .light import add
from .numbers import INFINITE, ONE, OUTLINE, PIECE, TWO, TWO_PI, ZERO, dot, frame
from .points import bits2, point2, to_unit
from .portals import admitted, sample_outside, still_outside, weigh
from .rays import visibility
from .skies import sample_sun, sky_colour
from .tree import choose

_FOUR_PI = np.float32(4 * math.pi)
_DIMENSIONS = 0x20000000


@njit(**OUTLINE)
def free_flight(air, ox, oy, oz, dx, dy, dz, far, seed, index, depth, part):
    """Where the air ends a segment: distance, box (−1: it does not), and weights RGB of what follows.

    Weights are the light kept, and where the flight ends the share scattered, over the chance.
    """
    best, box = far, -1
    for i in range(air.shape[0]):
        f = air[i]
        near, end = span(f, ox, oy, oz, dx, dy, dz, far)
        if end <= near or not f[L.A_MEAN] > ZERO:
            continue
        u, _ = point2(seed, index, _DIMENSIONS + 8192 * depth + 64 * part + 8 + i)
        t = distance_after(f, oz, dz, near, -math.log(max(ONE - u, np.float32(1e-7))) / f[L.A_MEAN])
        if t < min(best, end):
            best, box = t, i
    mean = r = g = b = ZERO
    for i in range(air.shape[0]):
        f = air[i]
        near, end = span(f, ox, oy, oz, dx, dy, dz, best)
        if end > near:
            k = haze_between(f, oz, dz, near, end)
            r, g, b, mean = r + f[9] * k, g + f[10] * k, b + f[11] * k, mean + f[L.A_MEAN] * k
    wr, wg, wb = math.exp(mean - r), math.exp(mean - g), math.exp(mean - b)
    if box >= 0:
        f = air[box]
        k = ONE / f[L.A_MEAN]
        wr, wg, wb = wr * f[6] * k, wg * f[7] * k, wb * f[8] * k
    return best, box, wr, wg, wb


@njit(**PIECE)
def _phase(g, cosine):
    """Henyey & Greenstein 1941, per steradian; ``cosine`` 1 for light that goes on straight."""
    k = ONE + g * g - TWO * g * cosine
    return (ONE - g * g) / (_FOUR_PI * max(k * math.sqrt(max(k, ZERO)), np.float32(1e-9)))


@njit(**OUTLINE)
def scattered(g, dx, dy, dz, u, v):
    """A direction after scattering, drawn from the phase function."""
    if abs(g) < np.float32(1e-3):
        c = ONE - TWO * u
    else:
        q = (ONE - g * g) / (ONE + g - TWO * g * u)
        c = min(max((ONE + g * g - q * q) / (TWO * g), -ONE), ONE)
    s, phi = math.sqrt(max(ONE - c * c, ZERO)), TWO_PI * v
    tx, ty, tz, bx, by, bz = frame(dx, dy, dz)
    a, b = s * math.cos(phi), s * math.sin(phi)
    return tx * a + bx * b + dx * c, ty * a + by * b + dy * c, tz * a + bz * b + dz * c


@njit(**PIECE)
def _box_along(air, ox, oy, oz, dx, dy, dz, far, u):
    """A box by how much haze of it lies along a segment: row (−1: none), chance, its span, amount."""
    total = ZERO
    for i in range(air.shape[0]):
        near, end = span(air[i], ox, oy, oz, dx, dy, dz, far)
        if end > near:
            total += air[i, L.A_MEAN] * haze_between(air[i], oz, dz, near, end)
    if not total > ZERO:
        return -1, ONE, ZERO, ZERO, ZERO, u
    run = ZERO
    for i in range(air.shape[0]):
        near, end = span(air[i], ox, oy, oz, dx, dy, dz, far)
        if end > near:
            amount = haze_between(air[i], oz, dz, near, end)
            share = air[i, L.A_MEAN] * amount / total
            if share > ZERO and u < run + share:
                left = min(max((u - run) / share, ZERO), np.float32(0.9999999))
                return i, share, near, end, amount, left
            run += share
    return -1, ONE, ZERO, ZERO, ZERO, u


@njit(**OUTLINE)
def light_segment(
    S, air, active, slot_of, acc, at, also, share, scratch, seed, index, depth, part, outside, ray, words,
    address, counts, ox, oy, oz, dx, dy, dz, far, tr, tg, tb,
):  # fmt: skip
    """Light of every active source scattered once into a segment of a path, added to ``acc``."""
    portals = S.portal_floats.shape[0] > 0
    gated = portals and (S.portal_state[L.G_CLOSED] | S.portal_state[L.G_GAINED]) != 0
    closed = portals and S.portal_state[L.G_CLOSED] == 1
    for a in range(active.shape[0]):
        s = np.int64(active[a])
        slot = slot_of[s]
        kind = S.source_ints[s, L.S_KIND]
        f = S.source_floats[s]
        base = _DIMENSIONS + 8192 * depth + 64 * part + 4096 + 4 * slot
        u0, v0 = point2(seed, index, base)
        box, chance, near, end, amount, u0 = _box_along(air, ox, oy, oz, dx, dy, dz, far, u0)
        if box < 0:
            return
        h = air[box]
        u, v = bits2(seed, index, base + 1)
        w, _ = point2(seed, index, base + 2)
        row, taken = np.int64(0), ONE
        if kind == L.SOURCE_EMITTERS:
            if S.source_ints[s, L.S_COUNT] == 0:
                continue
            row = np.int64(S.source_ints[s, L.S_FIRST])
            if S.source_ints[s, L.S_COUNT] > 1:
                m = near + (end - near) * v0
                row, taken = choose(
                    S.tree_floats, S.tree_ints, S.source_ints[s, L.S_TREE],
                    ox + dx * m, oy + dy * m, oz + dz * m, ZERO, ZERO, ZERO, w,
                )  # fmt: skip
                if taken <= ZERO:
                    continue
            e = S.emitter_floats[row]
            ex, ey, ez = e[0] - ox, e[1] - oy, e[2] - oz
            middle = dot(ex, ey, ez, dx, dy, dz)
            off = math.sqrt(max(dot(ex, ey, ez, ex, ey, ez) - middle * middle, np.float32(1e-6)))
            start, stop = math.atan((near - middle) / off), math.atan((end - middle) / off)
            side = off * math.tan(start + (stop - start) * u0)
            t = min(max(middle + side, near), end)
            density = off / (max(stop - start, np.float32(1e-9)) * (off * off + side * side))
        else:
            tau = h[L.A_MEAN] * amount
            most = -math.expm1(-tau)
            t = distance_after(h, oz, dz, near, -math.log1p(-u0 * most) / h[L.A_MEAN])
            t = min(max(t, near), end)
            passed = haze_between(h, oz, dz, near, t)
            density = h[L.A_MEAN] * rho(h, oz + dz * t) * math.exp(-h[L.A_MEAN] * passed) / most
        x, y, z = ox + dx * t, oy + dy * t, oz + dz * t
        here = outside
        if closed:
            here = still_outside(S, ox, oy, oz, x, y, z, outside)
        reach = INFINITE
        er = eg = eb = ONE
        if kind == L.SOURCE_SUN:
            ix, iy, iz = sample_sun(f, to_unit(u), to_unit(v))
            density *= ONE / f[L.S_SOLID_ANGLE]
            er, eg, eb = f[4], f[5], f[6]
        elif kind == L.SOURCE_SKY:
            memory = scratch[S.source_ints[s, L.S_SKY] + scratch.shape[0] // 2]
            if portals:
                weigh(S, s, memory, x, y, z, ZERO, ZERO, ZERO, here, depth == 0)
            ix, iy, iz, found = sample_outside(S, s, memory, x, y, z, u, v, w)
            density *= found
            er, eg, eb = sky_colour(S, s, ix, iy, iz)
        else:
            n = S.emitter_ints[row]
            u1, v1 = to_unit(u), to_unit(v)
            ix, iy, iz, reach, found = sample_shape(
                S.emitter_floats[row], n[L.E_KIND], n[L.E_SIDES], x, y, z, u1, v1
            )
            density *= found * taken
            if not density > ZERO:
                continue
            pa = pb = ZERO
            if n[L.E_TEXTURE] >= 0:
                pa, pb = triangle_place(u1, v1)
            er, eg, eb = emitted(S, row, ix, iy, iz, reach, pa, pb)
            reach *= np.float32(0.9995)
        if not density > ZERO:
            continue
        k = rho(h, z) * _phase(h[L.A_FORWARD], dot(dx, dy, dz, ix, iy, iz)) / (density * chance)
        # Air scatters, it does not mirror.
        k *= f[L.S_EVEN]
        if gated and kind != L.SOURCE_EMITTERS:
            k *= admitted(S, x, y, z, ix, iy, iz, here)
        cr, cg, cb = tr * er * k * h[6], tg * eg * k * h[7], tb * eb * k * h[8]
        if cr + cg + cb <= ZERO:
            continue
        vr, vg, vb = visibility(S, ray, words, address, x, y, z, ix, iy, iz, reach, counts)
        if vr + vg + vb <= ZERO:
            continue
        qr, qg, qb = thinning(air, ox, oy, oz, dx, dy, dz, t)
        pr, pg, pb = thinning(air, x, y, z, ix, iy, iz, reach)
        add(acc, slot, at, also, share, cr * vr * qr * pr, cg * vg * qg * pg, cb * vb * qb * pb)
