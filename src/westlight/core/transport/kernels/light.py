"""Light gathered along a path: by rays sent to every source, and by rays that happen to meet one."""

from typing import Any, NamedTuple

import numpy as np
from numba import njit, uint32

from .. import layout as L
from .emitters import emitted, sample_shape, shape_density, triangle_place
from .haze import thinning
from .numbers import (
    BLACK,
    INFINITE,
    ONE,
    PIECE,
    UP,
    WHITE,
    ZERO,
    Rgb,
    Vec,
    dimmed,
    dot,
    in_frame,
    power_heuristic,
    rgb,
    times,
    total,
)
from .patches import joined, lit_place, not_by_patch
from .points import bits2, point2, to_unit
from .portals import admitted, gated, outside_density, sample_outside, weigh
from .rays import offset, visibility
from .records import BOUNCED, LIGHT, MIRRORED, SEEN, Goes
from .skies import in_sun, parted, sample_sun, sky_colour, sky_density, sky_parted, sky_smooth
from .surface import evaluate, mirrored_share
from .tree import chance_of, choose

DELTA = np.float32(1e20)
#: `E_VISIBLE`: kept out of reflections; met by rays; without a size that rays could meet.
HIDDEN, MET, SIZELESS = 0, 1, 2
#: Shadow rays to a sky from the first surface.
SKY_RAYS = 4
#: Below this roughness an emitter that reflections must not show lights the matte base only.
MIRROR_BELOW = np.float32(0.6)
#: Emitters are met a little before they are: their own surface casts no shadow.
SHORT = np.float32(0.9995)


class Lit(NamedTuple):
    """A direction drawn towards a source."""

    way: Vec
    far: Any
    density: Any  #: per steradian; 0: nothing comes from there
    light: Rgb  #: radiance; of a sky white, it is looked up only where it is seen
    met: Any  #: HIDDEN, MET or SIZELESS


#: A source that sends nothing.
UNLIT = Lit(UP, INFINITE, ZERO, BLACK, np.int64(MET))


ALL, SUNS, NO_SUNS = range(3)


class Asked(NamedTuple):
    """How a place asks its sources."""

    depth: Any
    weighed: Any  #: a ray drawn by the surface follows, and finds light as well
    part: Any  #: share of the sun that is this path's: the rest is that of glances
    shared: Any  #: whether it is shared so
    which: Any  #: which sources are asked: ALL, SUNS or NO_SUNS


@njit(**PIECE)
def add(light, slot, goes, c):
    """Add light to the channels of ``goes``, and a share of it to the other ones it names."""
    # A bad number would poison the sum for good; drop the sample instead.
    if total(c) < INFINITE and total(c) > ZERO:
        light[slot, goes.at] += c.r
        light[slot, goes.at + 1] += c.g
        light[slot, goes.at + 2] += c.b
        if goes.also > 0:
            light[slot, goes.also] += c.r * goes.share
            light[slot, goes.also + 1] += c.g * goes.share
            light[slot, goes.also + 2] += c.b * goes.share


@njit(**PIECE)
def _sky_seen(S, s, way, mirrored):
    """A sky as the camera sees it, straight or by a pane: what a pane mirrors is no view of the sky itself."""
    i, f = S.source_ints[s], S.source_floats[s]
    if mirrored > ZERO:
        first, width, height = i[L.S_OTHER], i[L.S_OTHER_WIDTH], i[L.S_OTHER_HEIGHT]
        return dimmed(sky_smooth(S.sky, first, width, height, way), f[L.S_MIRRORED])
    first, width, height = i[L.S_FIRST], i[L.S_WIDTH], i[L.S_HEIGHT]
    return dimmed(sky_smooth(S.sky, first, width, height, way), f[L.S_SEEN])


@njit(**PIECE)
def _sky_met(S, s, memory, leg, left, found, depth):
    """Light of a sky met by a ray that a surface scattered, weighed against rays sent to the sky from there."""
    if S.portal_state[L.G_PARTED] == 1:
        light = sky_parted(S, s, leg.way, leg.mirrored)
    else:
        light = sky_colour(S, s, leg.way)
    w = ONE
    if leg.density < DELTA:
        if S.portal_floats.shape[0] > 0:
            other = outside_density(S, s, memory, left.at, leg.way)
        else:
            other = sky_density(S, s, memory, leg.way)
        if depth == 1:
            # The first surface asks skies several times.
            other *= np.float32(SKY_RAYS)
        w = power_heuristic(leg.density, other)
    if s == S.glint_sources[1]:
        w *= found.left_sky
    return dimmed(light, w)


@njit(**PIECE)
def escape(path, leg, left, found, goes, weight, depth):
    """Light of suns and skies met by a ray that left the place ``left`` and the scene."""
    S = path.rays.S
    seen = depth == 0
    if not seen and gated(S):
        weight = dimmed(weight, admitted(S, left.at, leg.way, leg.outside))
    for s in range(S.source_ints.shape[0]):
        slot = path.slot_of[s]
        if slot < 0:
            continue
        kind = S.source_ints[s, L.S_KIND]
        f = S.source_floats[s]
        if kind == L.SOURCE_SUN:
            if in_sun(f, leg.way):
                w = power_heuristic(leg.density, ONE / f[L.S_SOLID_ANGLE]) * parted(f, leg.mirrored)
                w *= not_by_patch(S, s, found.by_chance, left.at, left.face, leg.way)
                if s == S.glint_sources[0]:
                    w *= found.left_sun
                add(path.light, slot, goes, times(weight, dimmed(rgb(f, L.S_RED), w)))
        elif kind == L.SOURCE_SKY:
            if seen:
                light = _sky_seen(S, s, leg.way, leg.mirrored)
            else:
                memory = path.scratch[S.source_ints[s, L.S_SKY]]
                light = _sky_met(S, s, memory, leg, left, found, depth)
            add(path.light, slot, goes, times(weight, light))


@njit(**PIECE)
def meet_emitter(path, row, leg, left, goes, weight, front, u, v):
    """Light of an emitter met by a ray at the end of a leg, at (u, v) of its triangle."""
    S = path.rays.S
    n = S.emitter_ints[row]
    s = n[L.E_SOURCE]
    slot = path.slot_of[s]
    if slot < 0 or (not front and n[L.E_SIDES] == 1):
        return
    w = ONE
    if leg.density < DELTA:
        if n[L.E_VISIBLE] != MET:
            return
        f = S.emitter_floats[row]
        other = shape_density(f, n[L.E_KIND], left.at, leg.way, leg.travelled)
        if S.source_ints[s, L.S_COUNT] > 1:
            other *= chance_of(S.tree_floats, S.tree_ints, n[L.E_LEAF], left.at, left.normal)
        w = power_heuristic(leg.density, other)
    w *= parted(S.source_floats[s], leg.mirrored)
    light = emitted(S, np.int64(row), leg.way, leg.travelled, u, v)
    add(path.light, slot, goes, times(weight, dimmed(light, w)))


@njit(**PIECE)
def towards_lamps(S, s, at, normal, u, v, w):
    """A direction drawn towards one of the emitters of source ``s``, chosen by the light tree."""
    if S.source_ints[s, L.S_COUNT] == 0:
        return UNLIT
    row, taken = np.int64(S.source_ints[s, L.S_FIRST]), ONE
    if S.source_ints[s, L.S_COUNT] > 1:
        tree = S.source_ints[s, L.S_TREE]
        row, taken = choose(S.tree_floats, S.tree_ints, tree, at, normal, w)
        if taken <= ZERO:
            return UNLIT
    return towards_lamp(S, row, at, u, v, taken)


@njit(**PIECE)
def towards_lamp(S, row, at, u, v, taken):
    """A direction drawn towards an emitter that was chosen with chance ``taken``."""
    n = S.emitter_ints[row]
    u1, v1 = to_unit(u), to_unit(v)
    aim = sample_shape(S.emitter_floats[row], n[L.E_KIND], n[L.E_SIDES], at, u1, v1)
    if not aim.density > ZERO:
        return UNLIT
    a = b = ZERO
    if n[L.E_TEXTURE] >= 0:
        a, b = triangle_place(u1, v1)
    light = emitted(S, row, aim.way, aim.far, a, b)
    return Lit(aim.way, aim.far * SHORT, aim.density * taken, light, np.int64(n[L.E_VISIBLE]))


@njit(**PIECE)
def towards_sun(S, s, u, v):
    """A direction drawn towards a sun."""
    f = S.source_floats[s]
    way = sample_sun(f, to_unit(u), to_unit(v))
    return Lit(way, INFINITE, ONE / f[L.S_SOLID_ANGLE], rgb(f, L.S_RED), np.int64(MET))


@njit(**PIECE)
def _towards(path, s, vertex, asked, nth, rays):
    """A direction drawn from a place towards source ``s``: the ``nth`` of its rays there."""
    S, draw = path.rays.S, path.draw
    kind = S.source_ints[s, L.S_KIND]
    point = uint32(draw.index * uint32(rays) + uint32(nth))
    base = 16 + asked.depth * 4096 + path.slot_of[s] * 2
    u, v = bits2(draw.seed, point, base)
    if kind == L.SOURCE_SUN:
        return towards_sun(S, s, u, v)
    if kind == L.SOURCE_SKY:
        memory = path.scratch[S.source_ints[s, L.S_SKY]]
        # Only where a ray sampled by the surface follows may what that finds be left out.
        memory[L.R_COMPENSATED] = ONE if asked.weighed else ZERO
        w = ZERO
        if S.portal_floats.shape[0] > 0:
            if nth == 0:
                weigh(S, s, memory, vertex.at, vertex.face, vertex.outside, asked.depth == 0)
            w, _ = point2(draw.seed, point, base + 1)
        way, density = sample_outside(S, s, memory, vertex.at, u, v, w)
        return Lit(way, INFINITE, density, WHITE, np.int64(MET))
    w = ZERO
    if S.source_ints[s, L.S_COUNT] > 1:
        w, _ = point2(draw.seed, draw.index, base + 1)
    return towards_lamps(S, s, vertex.at, vertex.axes.n, u, v, w)


@njit(**PIECE)
def _asked_for(S, s, lit, vertex, found, asked):
    """Factor on the light of source ``s`` by where it comes from and what else would find it."""
    kind = S.source_ints[s, L.S_KIND]
    k = ONE
    if kind != L.SOURCE_EMITTERS and gated(S):
        k *= admitted(S, vertex.at, lit.way, vertex.outside)
    if kind == L.SOURCE_SUN:
        chance = not_by_patch(S, s, found.by_chance, vertex.at, vertex.face, lit.way)
        k *= asked.part * chance
    if s == S.glint_sources[0]:
        k *= found.left_sun
    elif s == S.glint_sources[1]:
        k *= found.left_sky
    return k


@njit(**PIECE)
def _gather(path, s, lit, vertex, found, asked, goes, rays):
    """Light that one ray to source ``s`` brings to a place: estimator of the rendering equation (Kajiya 1986),
    f·cos·L/p, times the weight against rays drawn by the surface (Veach & Guibas 1995)."""
    S, lobes = path.rays.S, vertex.lobes
    kind = S.source_ints[s, L.S_KIND]
    cosine = dot(lit.way, vertex.axes.n)
    density = lit.density * np.float32(rays)
    if not density > ZERO or cosine <= ZERO:
        return
    if not vertex.smooth and dot(lit.way, vertex.face) <= ZERO:
        return
    chance = lobes.chance if lit.met != HIDDEN or lobes.roughness > MIRROR_BELOW else ZERO
    sent, other = evaluate(S, lobes, chance, in_frame(vertex.axes, lit.way))
    k = (power_heuristic(density, other) if asked.weighed and lit.met == MET else ONE) / density
    k *= _asked_for(S, s, lit, vertex, found, asked)
    parts = S.portal_state[L.G_PARTED] == 1
    split = asked.depth == 0 and goes.also == LIGHT and lobes.chance > ZERO
    mirrored = ZERO
    if (parts or split) and chance > ZERO:
        mirrored = mirrored_share(S, lobes, cosine, sent.g)
    if parts and kind != L.SOURCE_SKY:
        k *= parted(S.source_floats[s], mirrored)
    brought = dimmed(times(times(vertex.weight, sent), lit.light), k)
    if total(brought) <= ZERO:
        return
    start = offset(vertex.lift, vertex.face, lit.way)
    seen = visibility(path.rays, start, lit.way, lit.far)
    if total(seen) <= ZERO:
        return
    if kind == L.SOURCE_SKY:
        # Only a direction that light comes by is worth the look-up.
        if parts:
            seen = times(seen, sky_parted(S, s, lit.way, mirrored))
        else:
            seen = times(seen, sky_colour(S, s, lit.way))
    if path.air.shape[0] > 0:
        seen = times(seen, thinning(path.air, start, lit.way, lit.far))
    at = SEEN if kind == L.SOURCE_SUN and asked.shared else goes.at
    also, share = goes.also, goes.share
    if split:
        also, share = MIRRORED, mirrored
    add(path.light, path.slot_of[s], Goes(at, also, share), times(brought, seen))


@njit(**PIECE)
def light_vertex(path, vertex, found, asked, goes):
    """Next-event estimation at a place: a shadow ray to every active source, several to skies where
    the camera looks: openings are weighed once for all of them."""
    S = path.rays.S
    for a in range(path.active.shape[0]):
        s = np.int64(path.active[a])
        kind = S.source_ints[s, L.S_KIND]
        if asked.which == (NO_SUNS if kind == L.SOURCE_SUN else SUNS):
            continue
        rays = SKY_RAYS if kind == L.SOURCE_SKY and asked.depth == 0 else 1
        for nth in range(rays):
            lit = _towards(path, s, vertex, asked, nth, rays)
            _gather(path, s, lit, vertex, found, asked, goes, rays)


@njit(**PIECE)
def patch_vertex(path, vertex, goes, depth):
    """Light of every active sun that a patch of it, drawn through a portal, sends to a place."""
    S, lobes = path.rays.S, vertex.lobes
    for a in range(path.active.shape[0]):
        s = np.int64(path.active[a])
        if S.source_ints[s, L.S_KIND] != L.SOURCE_SUN:
            continue
        place = lit_place(path.rays, s, path.draw, 6000 + depth * 4096 + path.slot_of[s] * 4)
        if not place.there:
            continue
        from_it = joined(path.rays, s, place, vertex.lift, vertex.face, path.calm)
        cosine = dot(from_it.way, vertex.axes.n)
        if cosine <= ZERO or not total(from_it.light) > ZERO:
            continue
        sent, other = evaluate(S, lobes, lobes.chance, in_frame(vertex.axes, from_it.way))
        k = power_heuristic(from_it.density, other)
        add_bounced(path, s, vertex, goes, depth, cosine, sent, dimmed(from_it.light, k))


@njit(**PIECE)
def add_bounced(path, s, vertex, goes, depth, cosine, sent, light):
    """Add light of source ``s`` that came by another surface and is sent on with f·cos ``sent``."""
    also, share = goes.also, goes.share
    if depth == 0 and goes.also == LIGHT and vertex.lobes.chance > ZERO:
        also = MIRRORED
        share = mirrored_share(path.rays.S, vertex.lobes, cosine, sent.g)
    brought = times(times(vertex.weight, sent), light)
    add(path.light, path.slot_of[s], Goes(BOUNCED, also, share), brought)
