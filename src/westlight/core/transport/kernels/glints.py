"""Glints: sun and bright sky mirrored by flat smooth surfaces, looked for from the places they light.

A polished floor or the water in front of a window throws the sun on walls and ceiling. Rays that leave
such a place by chance seldom meet the floor just where it mirrors the sun, and the few that do are
speckles. But all floors of one way mirror the sun from the same direction: around it rays are drawn, by
the facets of the surface (GGX, Walter et al. 2007), and weighed against those that go by chance (Veach &
Guibas 1995). The same goes for the bright part of a sky in what is level.
"""

import math
from typing import Any, NamedTuple

import numpy as np
from numba import njit

from .. import layout as L
from .layers import layer_taken
from .light import add_bounced
from .look import Look, surface_at
from .numbers import (
    BLACK,
    FOUR,
    INFINITE,
    NO,
    ONE,
    OUTLINE,
    PIECE,
    TWO,
    TWO_PI,
    UP,
    WHITE,
    YES,
    ZERO,
    Frame,
    Rgb,
    Vec,
    along,
    dimmed,
    dot,
    frame,
    from_frame,
    in_frame,
    minus,
    opposite,
    power_heuristic,
    rgb,
    scaled,
    times,
    total,
    vec,
)
from .patches import LEAST_ROUGH
from .points import bits2, drawn
from .portals import admitted, closed, gated, still_outside
from .rays import (
    MAX_PANES,
    NO_SURFACE,
    Hit,
    hit_of,
    kept_by_pane,
    met_lamp,
    met_nothing,
    offset,
    ray_mask,
    send,
    visibility,
)
from .skies import parted, sample_sky, sample_sun, sky_colour, sky_parted, sky_row
from .surface import evaluate, ggx, mirrored_share, prepare, sample

_NEAR = np.float32(1e-4)
_STOPPED, _OPEN, _SURFACE = range(3)


class _Beyond(NamedTuple):
    """What a ray comes to behind clear panes."""

    end: Any  #: _STOPPED, _OPEN or _SURFACE
    at: Vec
    hit: Hit
    outside: Any
    kept: Rgb  #: by the panes


class _Smooth(NamedTuple):
    """A smooth place that sends sun or sky on."""

    at: Vec
    face: Vec
    axes: Frame
    lobes: Any
    outside: Any
    kept: Rgb  #: on the way from there


@njit(**PIECE)
def looks_for_glints(S, slot_of):
    """Whether a flat smooth surface mirrors a sun or a sky that is wanted."""
    sun, sky = S.glint_sources[0], S.glint_sources[1]
    return (sun >= 0 and slot_of[sun] >= 0) or (sky >= 0 and slot_of[sky] >= 0)


@njit(**PIECE)
def left_to_chance(S, slot_of, density, way):
    """Weights of the light of sun and sky from a smooth place that a ray met with ``density``."""
    sun, sky = S.glint_sources[0], S.glint_sources[1]
    of_sun = of_sky = ONE
    if sun >= 0 and slot_of[sun] >= 0:
        of_sun = power_heuristic(density, glint_density(S, way))
    if sky >= 0 and slot_of[sky] >= 0:
        of_sky = power_heuristic(density, sky_glint_density(S, way))
    return of_sun, of_sky


@njit(**PIECE)
def glint_density(S, way):
    """Density per steradian with which `_glint_direction` draws a direction."""
    sun = vec(S.source_floats[S.glint_sources[0]], L.S_DIRECTION)
    half = minus(sun, way)
    half = scaled(half, ONE / math.sqrt(max(dot(half, half), np.float32(1e-12))))
    density = ZERO
    for k in range(S.glints.shape[0]):
        g = S.glints[k]
        up = dot(vec(g, L.H_NORMAL), half)
        if up > ZERO:
            density += g[L.H_SHARE] * ggx(g[L.H_ALPHA], up) * up
    return density / (FOUR * max(dot(sun, half), _NEAR))


@njit(**PIECE)
def _glint_direction(S, u, v, w):
    """Direction towards where a smooth surface mirrors the sun, and its density per steradian."""
    sun = vec(S.source_floats[S.glint_sources[0]], L.S_DIRECTION)
    k = 0
    while k < S.glints.shape[0] - 1 and w >= S.glints[k, L.H_SHARE]:
        w -= S.glints[k, L.H_SHARE]
        k += 1
    g = S.glints[k]
    a2 = g[L.H_ALPHA] * g[L.H_ALPHA]
    up2 = (ONE - u) / (ONE + (a2 - ONE) * u)
    side = math.sqrt(max(ONE - up2, ZERO))
    facet = Vec(side * math.cos(TWO_PI * v), side * math.sin(TWO_PI * v), math.sqrt(up2))
    half = from_frame(frame(vec(g, L.H_NORMAL)), facet)
    facing = dot(sun, half)
    if facing <= ZERO:
        return UP, ZERO
    way = along(sun, half, -TWO * facing)
    return way, glint_density(S, way)


@njit(**PIECE)
def sky_glint_density(S, way):
    """Density per steradian with which rays are sent to where what is level mirrors the bright sky."""
    if way.z >= ZERO:
        return ZERO
    i = S.source_ints[S.glint_sources[1]]
    return S.sky_table[sky_row(i, True, Vec(way.x, way.y, -way.z)), L.K_DENSITY]


@njit(**PIECE)
def _sky_glint_direction(S, draw, depth):
    """Direction towards where what is level mirrors the bright sky, and its density per steradian."""
    i = S.source_ints[S.glint_sources[1]]
    a, b = bits2(draw.seed, draw.index, 7904 + depth * 4096)
    width, height = i[L.S_TABLE_WIDTH], i[L.S_TABLE_HEIGHT]
    up, density = sample_sky(S.sky_table, i[L.S_TABLE] + width * height, width, height, a, b)
    if up.z <= ZERO:
        return UP, ZERO
    return Vec(up.x, up.y, -up.z), density


@njit(**OUTLINE)
def _beyond(rays, at, way, face, matte, outside):
    """What a ray from a place that faces so comes to behind clear panes."""
    S = rays.S
    keeps_sides = closed(S)
    start = offset(at, face, way)
    kept = WHITE
    behind = NO
    end = _STOPPED
    hit = NO_SURFACE
    for _ in range(MAX_PANES):
        send(rays, start, way, INFINITE, ray_mask(1, behind, matte))
        if met_nothing(rays.words):
            end = _OPEN
            break
        if met_lamp(rays.words):
            break
        hit = hit_of(rays)
        at = along(start, way, rays.record[L.X_FAR])
        if keeps_sides:
            outside = still_outside(S, start, at, outside)
        kind = S.material_ints[hit.material, L.M_KIND]
        if kind == L.KIND_SURFACE:
            end = _SURFACE
            break
        if kind != L.KIND_WOVEN and kind != L.KIND_SHEET and kind != L.KIND_INTERFACE:
            break
        kept = times(kept, kept_by_pane(S.material_floats[hit.material], kind, hit.cosine))
        start = offset(at, hit.face, way)
        behind = YES
    return _Beyond(end, at, hit, outside, kept)


@njit(**PIECE)
def _smooth_at(S, place, way, draw, depth, calm):
    """The surface a ray came to, as one that mirrors; whether it is smooth enough for that."""
    viewer = opposite(way)
    look = surface_at(S, place.hit, NO, viewer)
    f = S.material_floats[place.hit.material]
    kept = place.kept
    if f[L.M_COAT] > ZERO:
        coated, k = layer_taken(S, f, draw, depth, viewer, look.normal)
        kept = dimmed(kept, k)
        if coated:
            look = Look(look.normal, WHITE, f[L.M_COAT_ROUGH], ONE)
    roughness = max(look.roughness, calm)
    axes = frame(look.normal)
    out = in_frame(axes, viewer)
    lobes = prepare(
        S, look.colour, roughness, look.metallic, Vec(out.x, out.y, max(out.z, np.float32(1e-3)))
    )
    made = _Smooth(place.at, place.hit.face, axes, lobes, place.outside, kept)
    return made, roughness < LEAST_ROUGH


@njit(**OUTLINE)
def _sent_on(rays, s, place, way, draw, depth, calm):
    """Light of sun or sky ``s`` that a smooth place sends back along a ray, RGB; black if it is not smooth."""
    S = rays.S
    sun = S.source_ints[s, L.S_KIND] == L.SOURCE_SUN
    mirror, smooth = _smooth_at(S, place, way, draw, depth, calm)
    if not smooth:
        return BLACK
    lobes, axes = mirror.lobes, mirror.axes
    u, v = drawn(draw, (7902 if sun else 7905) + depth * 4096)
    even = True
    if sun:
        to = sample_sun(S.source_floats[s], u, v)
        local = in_frame(axes, to)
    else:
        # The sky is looked up where the facets mirror it: as a path of its own would.
        even = u >= lobes.chance
        if lobes.chance > ZERO:
            u = (u - lobes.chance) / (ONE - lobes.chance) if even else u / lobes.chance
        local = sample(lobes, min(u, np.float32(0.9999999)), v, even)
        to = from_frame(axes, local)
    if local.z <= ZERO or dot(to, mirror.face) <= ZERO:
        return BLACK
    sent, density = evaluate(S, lobes, lobes.chance, local)
    k = S.source_floats[s, L.S_SOLID_ANGLE] if sun else ONE / max(density, np.float32(1e-20))
    if gated(S):
        k *= admitted(S, mirror.at, to, mirror.outside)
    if not total(sent) > ZERO or not k > ZERO:
        return BLACK
    mirrored = ZERO
    parts = S.portal_state[L.G_PARTED] == 1
    if parts and lobes.chance > ZERO:
        mirrored = mirrored_share(S, lobes, local.z, sent.g)
    if sun:
        f = S.source_floats[s]
        light, seen = (
            rgb(f, L.S_RED),
            visibility(rays, offset(mirror.at, mirror.face, to), to, INFINITE),
        )
        if parts:
            k *= parted(f, mirrored)
    else:
        open_sky = _beyond(rays, mirror.at, to, mirror.face, even, mirror.outside)
        if open_sky.end != _OPEN:
            return BLACK
        seen = open_sky.kept
        light = sky_parted(S, s, to, mirrored) if parts else sky_colour(S, s, to)
    return dimmed(times(times(mirror.kept, sent), times(light, seen)), k)


@njit(**PIECE)
def glint_vertex(path, vertex, goes, depth):
    """Light of the sun and of a sky that a smooth surface throws at a place."""
    S, lobes, draw = path.rays.S, vertex.lobes, path.draw
    for n in range(2):
        s = np.int64(S.glint_sources[n])
        if s < 0 or path.slot_of[s] < 0:
            continue
        if n == 0:
            u, v = drawn(draw, 7900 + depth * 4096)
            w, _ = drawn(draw, 7901 + depth * 4096)
            way, density = _glint_direction(S, u, v, w)
        else:
            way, density = _sky_glint_direction(S, draw, depth)
        cosine = dot(way, vertex.axes.n)
        if not density > ZERO or cosine <= ZERO or dot(way, vertex.face) <= ZERO:
            continue
        sent, other = evaluate(S, lobes, lobes.chance, in_frame(vertex.axes, way))
        k = power_heuristic(density, other) / density
        if not total(sent) * k > ZERO:
            continue
        place = _beyond(path.rays, vertex.lift, way, vertex.face, YES, vertex.outside)
        if place.end != _SURFACE:
            continue
        light = _sent_on(path.rays, s, place, way, draw, depth + 1, path.calm)
        add_bounced(path, s, vertex, goes, depth, cosine, sent, dimmed(light, k))
