"""Patches of sun: light that enters by a portal, falls on a surface and goes on from there to a place.

Indoors the sun lights little of a room, but that little lights the rest, and a ray from a place
seldom meets it. So a place in a portal is drawn by the sunlight that enters there, the ray followed
to the surface it falls on, and that joined to the place: one step from the light's side (Lafortune &
Willems 1993), weighed against the rays that meet the patch by chance (Veach & Guibas 1995).
"""

from typing import Any, NamedTuple

import numpy as np
from numba import njit

from .. import layout as L
from ..embree import MASK_BLOCKER, MASK_SOLID
from .look import surface_at
from .numbers import (
    BLACK,
    INFINITE,
    NO,
    ONE,
    ORIGIN,
    OUTLINE,
    PIECE,
    UP,
    YES,
    ZERO,
    Rgb,
    Vec,
    along,
    dimmed,
    dot,
    frame,
    in_frame,
    minus,
    opposite,
    rgb,
    scaled,
    times,
    total,
    vec,
)
from .points import drawn
from .portals import admitted, cell_before, crosses, gated, on_portal
from .rays import NO_SURFACE, Hit, hit_of, met_no_surface, offset, send, visibility
from .skies import parted, sample_sun
from .surface import coat_share, evaluate, mirrored_share, prepare

_SOLID = np.uint32(MASK_SOLID | MASK_BLOCKER)
#: Smoother surfaces send the sun on as from a mirror: rays by chance find that better.
LEAST_ROUGH = np.float32(0.3)
#: Nearer to a patch than this, in metres, the joining way is left to rays that go by chance.
_TOO_CLOSE = np.float32(0.01)


class LitPlace(NamedTuple):
    """A place that a sun lights through a portal."""

    there: Any  #: whether one was found
    at: Vec
    hit: Hit  #: its face looks to the sun
    sun: Vec  #: direction to the sun


class Joined(NamedTuple):
    """Light that a lit place sends to another."""

    way: Vec  #: to the lit place
    density: Any  #: per steradian
    light: Rgb  #: radiance over that density; black where something is between


_NOWHERE = LitPlace(NO, ORIGIN, NO_SURFACE, UP)


@njit(**PIECE)
def _entering(S, p, f):
    """How much of a sun row's light enters by a portal, up to a factor: area × cosine × gain."""
    g = S.portal_floats[p]
    c = -dot(vec(f, L.S_DIRECTION), vec(g, L.P_NORMAL))
    return max(c, ZERO) * g[L.P_WIDTH] * g[L.P_HEIGHT] * g[L.P_GAIN]


@njit(**OUTLINE)
def patch_density(S, f, at, face, sun):
    """Density per square metre with which a lit place is drawn with a sun row ``f`` in direction ``sun``."""
    whole = met = ZERO
    for p in range(S.portal_floats.shape[0]):
        enters = _entering(S, p, f)
        whole += enters
        if enters > ZERO and crosses(S.portal_floats[p], at, sun):
            g = S.portal_floats[p]
            cosine = abs(dot(sun, vec(g, L.P_NORMAL)))
            met += enters / (g[L.P_WIDTH] * g[L.P_HEIGHT] * max(cosine, np.float32(1e-4)))
    if not met > ZERO:
        return ZERO
    return met / whole * abs(dot(sun, face))


@njit(**PIECE)
def looks_for_patches(S, at, face, outside):
    """Whether a place is one from which patches of sun are looked for: indoors, by what cells know."""
    if S.portal_floats.shape[0] == 0 or outside:
        return False
    return cell_before(S, at, face) >= 0


@njit(**PIECE)
def not_by_patch(S, s, by_chance, at, face, way):
    """Weight of sun that a ray found at a lit place, with density ``by_chance`` per square metre there
    (0: patches were not looked for)."""
    if by_chance <= ZERO:
        return ONE
    by_patch = patch_density(S, S.source_floats[s], at, face, way)
    return by_chance * by_chance / (by_chance * by_chance + by_patch * by_patch)


@njit(**OUTLINE)
def lit_place(rays, s, draw, dimension):
    """A place that sun ``s`` lights through a portal, drawn by how much enters by each."""
    S = rays.S
    f = S.source_floats[s]
    whole = ZERO
    for p in range(S.portal_floats.shape[0]):
        whole += _entering(S, p, f)
    if not whole > ZERO:
        return _NOWHERE
    w, a = drawn(draw, dimension)
    b, u = drawn(draw, dimension + 1)
    v, _ = drawn(draw, dimension + 2)
    chosen, run = 0, ZERO
    for p in range(S.portal_floats.shape[0]):
        enters = _entering(S, p, f)
        if enters > ZERO:
            chosen = p
            run += enters
            if w * whole < run:
                break
    g = S.portal_floats[chosen]
    start = on_portal(g, a * g[L.P_WIDTH], b * g[L.P_HEIGHT])
    sun = sample_sun(f, u, v)
    if dot(sun, vec(g, L.P_NORMAL)) >= ZERO:
        return _NOWHERE
    way = opposite(sun)
    send(rays, start, way, INFINITE, _SOLID)
    if met_no_surface(rays.words):
        return _NOWHERE
    hit = hit_of(rays)
    if S.material_ints[hit.material, L.M_KIND] != L.KIND_SURFACE:
        return _NOWHERE
    return LitPlace(YES, along(start, way, rays.record[L.X_FAR]), hit, sun)


@njit(**OUTLINE)
def patch_at(S, place, way, calm):
    """What a lit place sends on along ``way`` of its sun: f·cos RGB, and the share of it that is mirrored."""
    look = surface_at(S, place.hit, NO, way)
    roughness = max(look.roughness, calm)
    if roughness < LEAST_ROUGH:
        return BLACK, ZERO
    axes = frame(look.normal)
    to_viewer = in_frame(axes, way)
    to_viewer = Vec(to_viewer.x, to_viewer.y, max(to_viewer.z, np.float32(1e-3)))
    lobes = prepare(S, look.colour, roughness, look.metallic, to_viewer)
    to_sun = in_frame(axes, place.sun)
    sent, _ = evaluate(S, lobes, lobes.chance, to_sun)
    f = S.material_floats[place.hit.material]
    mirrored = ZERO
    kept = ONE
    if f[L.M_COAT] > ZERO:
        # What the coat mirrors is left to rays by chance.
        kept = ONE - coat_share(f, to_viewer.z, S.energy)
    sent = dimmed(sent, kept)
    if lobes.chance > ZERO and S.portal_state[L.G_PARTED] == 1:
        mirrored = mirrored_share(S, lobes, to_sun.z, sent.g)
    return sent, mirrored


@njit(**OUTLINE)
def joined(rays, s, place, start, face, calm):
    """Light of sun ``s`` that a lit place sends to a place at ``start`` that faces so."""
    S = rays.S
    way = minus(place.at, start)
    d2 = dot(way, way)
    if d2 < _TOO_CLOSE * _TOO_CLOSE:
        return Joined(UP, ZERO, BLACK)
    far = np.float32(np.sqrt(d2))
    way = scaled(way, ONE / far)
    cosine = -dot(way, place.hit.face)
    if cosine <= np.float32(1e-5) or dot(way, face) <= ZERO:
        return Joined(way, ZERO, BLACK)
    f = S.source_floats[s]
    area = patch_density(S, f, place.at, place.hit.face, place.sun)
    if not area > ZERO:
        return Joined(way, ZERO, BLACK)
    density = area * d2 / cosine
    sent, mirrored = patch_at(S, place, opposite(way), calm)
    k = f[L.S_SOLID_ANGLE] * parted(f, mirrored) / density
    if gated(S):
        k *= admitted(S, place.at, place.sun, NO)
    light = dimmed(times(sent, rgb(f, L.S_RED)), k)
    if not total(light) > ZERO:
        return Joined(way, ZERO, BLACK)
    seen = visibility(rays, offset(start, face, way), way, far * np.float32(0.9995))
    if total(seen) > ZERO:
        lifted = offset(place.at, place.hit.face, place.sun)
        seen = times(seen, visibility(rays, lifted, place.sun, INFINITE))
    return Joined(way, density, times(light, seen))
