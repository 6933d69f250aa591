"""Air that scatters and absorbs: boxes of haze, even or thinning with height.

Single scattering along every segment of a path is gathered by next-event estimation, near lamps at
equiangular distances (Kulla & Fajardo 2012), from suns and skies by how much haze lies along the
way; free flights with scattering into new directions carry the rest, so no order of scattering is
missing. Boxes overlap as independent media do: the first of their free flights is the one that ends.
"""

import math
from typing import Any, NamedTuple

import numpy as np
from numba import njit

from .. import layout as L
from .haze import distance_after, haze_between, rho, span, thinning
from .light import MET, Lit, add, towards_lamp, towards_sun
from .numbers import (
    BLACK,
    INFINITE,
    ONE,
    ORIGIN,
    OUTLINE,
    PIECE,
    TWO,
    TWO_PI,
    ZERO,
    Rgb,
    Vec,
    added,
    along,
    dimmed,
    dot,
    frame,
    from_frame,
    minus,
    rgb,
    times,
    total,
    vec,
)
from .points import bits2, drawn
from .portals import admitted, closed, gated, sample_outside, still_outside, weigh
from .rays import visibility
from .skies import sky_colour
from .tree import choose

_FOUR_PI = np.float32(4 * math.pi)
_DIMENSIONS = 0x20000000


class Flight(NamedTuple):
    """Where the air ends a segment."""

    far: Any
    box: Any  #: −1: it does not
    kept: Rgb  #: weight of what follows: light kept, and where it ends the share scattered, over the chance


class _Place(NamedTuple):
    """A place on a segment where light is scattered."""

    box: Any  #: row of the box of air; −1: none
    chance: Any  #: with which the box was taken
    near: Any  #: span of the box on the segment
    end: Any
    amount: Any  #: metres of bottom density in that
    left: Any  #: of the random number


@njit(**OUTLINE)
def free_flight(air, start, way, far, draw, depth, part):
    """Where the air ends a segment, drawn by its mean extinction."""
    best, box = far, -1
    for i in range(air.shape[0]):
        f = air[i]
        near, end = span(f, start, way, far)
        if end <= near or not f[L.A_MEAN] > ZERO:
            continue
        u, _ = drawn(draw, _DIMENSIONS + 8192 * depth + 64 * part + 8 + i)
        path = -math.log(max(ONE - u, np.float32(1e-7))) / f[L.A_MEAN]
        t = distance_after(f, start.z, way.z, near, path)
        if t < min(best, end):
            best, box = t, i
    mean, depths = ZERO, BLACK
    for i in range(air.shape[0]):
        f = air[i]
        near, end = span(f, start, way, best)
        if end > near:
            k = haze_between(f, start.z, way.z, near, end)
            depths = added(depths, dimmed(rgb(f, L.A_EXTINCTION), k))
            mean += f[L.A_MEAN] * k
    kept = Rgb(math.exp(mean - depths.r), math.exp(mean - depths.g), math.exp(mean - depths.b))
    if box >= 0:
        f = air[box]
        kept = times(kept, dimmed(rgb(f, L.A_SCATTER), ONE / f[L.A_MEAN]))
    return Flight(best, box, kept)


@njit(**PIECE)
def _phase(g, cosine):
    """Henyey & Greenstein 1941, per steradian; ``cosine`` 1 for light that goes on straight."""
    k = ONE + g * g - TWO * g * cosine
    return (ONE - g * g) / (_FOUR_PI * max(k * math.sqrt(max(k, ZERO)), np.float32(1e-9)))


@njit(**OUTLINE)
def scattered(g, way, u, v):
    """A direction after scattering, drawn from the phase function."""
    if abs(g) < np.float32(1e-3):
        c = ONE - TWO * u
    else:
        q = (ONE - g * g) / (ONE + g - TWO * g * u)
        c = min(max((ONE + g * g - q * q) / (TWO * g), -ONE), ONE)
    s, phi = math.sqrt(max(ONE - c * c, ZERO)), TWO_PI * v
    return from_frame(frame(way), Vec(s * math.cos(phi), s * math.sin(phi), c))


@njit(**PIECE)
def _box_along(air, start, way, far, u):
    """A box by how much haze of it lies along a segment."""
    whole = ZERO
    for i in range(air.shape[0]):
        near, end = span(air[i], start, way, far)
        if end > near:
            whole += air[i, L.A_MEAN] * haze_between(air[i], start.z, way.z, near, end)
    none = _Place(np.int64(-1), ONE, ZERO, ZERO, ZERO, u)
    if not whole > ZERO:
        return none
    run = ZERO
    for i in range(air.shape[0]):
        near, end = span(air[i], start, way, far)
        if end > near:
            amount = haze_between(air[i], start.z, way.z, near, end)
            share = air[i, L.A_MEAN] * amount / whole
            if share > ZERO and u < run + share:
                left = min(max((u - run) / share, ZERO), np.float32(0.9999999))
                return _Place(np.int64(i), share, near, end, amount, left)
            run += share
    return none


@njit(**PIECE)
def _beside_lamp(f, start, way, place):
    """Distance along a segment drawn by the angle it has from a lamp (equiangular), and its density per metre."""
    near, end = place.near, place.end
    off = minus(vec(f, L.E_POSITION), start)
    middle = dot(off, way)
    away = math.sqrt(max(dot(off, off) - middle * middle, np.float32(1e-6)))
    first, last = math.atan((near - middle) / away), math.atan((end - middle) / away)
    side = away * math.tan(first + (last - first) * place.left)
    density = away / (max(last - first, np.float32(1e-9)) * (away * away + side * side))
    return min(max(middle + side, near), end), density


@njit(**PIECE)
def _by_haze(h, start, way, place):
    """Distance along a segment drawn by the light its haze scatters, and its density per metre."""
    most = -math.expm1(-h[L.A_MEAN] * place.amount)
    drawn_to = -math.log1p(-place.left * most) / h[L.A_MEAN]
    t = distance_after(h, start.z, way.z, place.near, drawn_to)
    t = min(max(t, place.near), place.end)
    passed = haze_between(h, start.z, way.z, place.near, t)
    return t, h[L.A_MEAN] * rho(h, start.z + way.z * t) * math.exp(-h[L.A_MEAN] * passed) / most


@njit(**PIECE)
def _lamp_for(S, s, start, way, place, v, w):
    """Row of an emitter of source ``s`` for a segment, and the chance it was taken with (0: none shines here)."""
    if S.source_ints[s, L.S_COUNT] == 0:
        return np.int64(0), ZERO
    if S.source_ints[s, L.S_COUNT] == 1:
        return np.int64(S.source_ints[s, L.S_FIRST]), ONE
    at = along(start, way, place.near + (place.end - place.near) * v)
    return choose(S.tree_floats, S.tree_ints, S.source_ints[s, L.S_TREE], at, ORIGIN, w)


@njit(**PIECE)
def _towards(path, s, at, row, taken, outside, depth, numbers):
    """A direction drawn from a place in the air towards source ``s``, and its light."""
    S = path.rays.S
    u, v, w = numbers
    kind = S.source_ints[s, L.S_KIND]
    if kind == L.SOURCE_SUN:
        return towards_sun(S, s, u, v)
    if kind == L.SOURCE_EMITTERS:
        return towards_lamp(S, row, at, u, v, taken)
    memory = path.scratch[S.source_ints[s, L.S_SKY] + path.scratch.shape[0] // 2]
    if S.portal_floats.shape[0] > 0:
        weigh(S, s, memory, at, ORIGIN, outside, depth == 0)
    way, density = sample_outside(S, s, memory, at, u, v, w)
    return Lit(way, INFINITE, density, sky_colour(S, s, way), np.int64(MET))


@njit(**OUTLINE)
def light_segment(path, leg, far, goes, depth):
    """Light of every active source scattered once into a segment of a path, added to what it gathers."""
    S, air, start, way = path.rays.S, path.air, leg.start, leg.way
    for a in range(path.active.shape[0]):
        s = np.int64(path.active[a])
        slot = path.slot_of[s]
        kind = S.source_ints[s, L.S_KIND]
        base = _DIMENSIONS + 8192 * depth + 64 * leg.panes + 4096 + 4 * slot
        u0, v0 = drawn(path.draw, base)
        place = _box_along(air, start, way, far, u0)
        if place.box < 0:
            return
        h = air[place.box]
        u, v = bits2(path.draw.seed, path.draw.index, base + 1)
        w, _ = drawn(path.draw, base + 2)
        row, taken = np.int64(0), ONE
        if kind == L.SOURCE_EMITTERS:
            row, taken = _lamp_for(S, s, start, way, place, v0, w)
            if taken <= ZERO:
                continue
            t, density = _beside_lamp(S.emitter_floats[row], start, way, place)
        else:
            t, density = _by_haze(h, start, way, place)
        at = along(start, way, t)
        outside = leg.outside
        if closed(S):
            outside = still_outside(S, start, at, outside)
        lit = _towards(path, s, at, row, taken, outside, depth, (u, v, w))
        density *= lit.density
        if not density > ZERO:
            continue
        k = rho(h, at.z) * _phase(h[L.A_FORWARD], dot(way, lit.way)) / (density * place.chance)
        # Air scatters, it does not mirror.
        k *= S.source_floats[s, L.S_EVEN]
        if gated(S) and kind != L.SOURCE_EMITTERS:
            k *= admitted(S, at, lit.way, outside)
        brought = times(dimmed(times(leg.weight, lit.light), k), rgb(h, L.A_SCATTER))
        if total(brought) <= ZERO:
            continue
        seen = visibility(path.rays, at, lit.way, lit.far)
        if total(seen) <= ZERO:
            continue
        seen = times(seen, thinning(air, start, way, t))
        add(
            path.light, slot, goes, times(times(brought, seen), thinning(air, at, lit.way, lit.far))
        )
