"""What a path does where it meets something that is no place to gather light yet: panes, glass, weave, air."""

import math
from typing import Any, NamedTuple

import numpy as np
from numba import njit

from .. import layout as L
from .air import free_flight, light_segment, scattered
from .guide import SETTLED, met_light, met_matte, note_behind
from .haze import thinning
from .hit import shading_normal
from .layers import facet, through_glass, weave_taken
from .light import DELTA
from .look import surface_at, through_at, towards_viewer
from .numbers import (
    NO,
    ONE,
    OUTLINE,
    PIECE,
    TWO,
    YES,
    ZERO,
    Rgb,
    added,
    along,
    brightest,
    brightness,
    dimmed,
    dot,
    mirror,
    opposite,
    rgb,
    times,
    vec,
)
from .points import drawn
from .portals import closed, still_outside
from .rays import offset, set_ray
from .records import BOUNCED, LIGHT, MIRRORED, THROUGH, Goes, Leg, moved, weighted
from .surface import pane_reflectance

#: A path goes on by chance from its second surface on.
ROULETTE_FROM = 1
#: The chance in weights of the path: its first vertex, with all its glances, costs far more than what is saved by giving it up early.
ROULETTE = np.float32(3)


class Aside(NamedTuple):
    """What panes before the camera mirror: a way that may be followed later."""

    weight: Any  #: luminance of all the light mirrored so far
    leg: Leg  #: one of the ways, chosen by that
    also: Any


@njit(**PIECE)
def survives(path, depth, weight):
    """Russian roulette: whether a path goes on, and the chance of that."""
    u, _ = drawn(path.draw, 4001 + depth * 4096)
    keep = min(np.float32(0.95), ROULETTE * brightest(weight))
    return u < keep, keep


@njit(**PIECE)
def _scattered_in(path, leg, goes, depth):
    """Light scattered once into a leg; what its ray met stays in the record."""
    ray, words = path.rays.record, path.rays.words
    far, u, v = ray[L.X_FAR], ray[L.X_U], ray[L.X_V]
    normal, mask = vec(ray, L.X_NORMAL), words[L.X_MASK]
    primitive, geometry = words[L.X_PRIMITIVE], words[L.X_GEOMETRY]
    instance, copy = words[L.X_INSTANCE], words[L.X_COPY]
    light_segment(path, leg, far, goes, depth)
    set_ray(ray, words, leg.start, leg.way, far, mask)
    ray[L.X_NORMAL], ray[L.X_NORMAL + 1], ray[L.X_NORMAL + 2] = normal.x, normal.y, normal.z
    ray[L.X_U], ray[L.X_V] = u, v
    words[L.X_PRIMITIVE], words[L.X_GEOMETRY] = primitive, geometry
    words[L.X_INSTANCE], words[L.X_COPY] = instance, copy


@njit(**OUTLINE)
def through_air(path, leg, owed, sight, depth):
    """What air does to a leg whose ray is in the record: whether the path goes on at all, whether from a place
    in the air, the leg it goes on by, and what it owes the guide."""
    air, far = path.air, path.rays.record[L.X_FAR]
    if depth > path.bounces:
        kept = thinning(air, leg.start, leg.way, far)
        return YES, NO, weighted(leg, times(leg.weight, kept)), owed
    if not sight.glance:
        at = LIGHT if depth == 0 else BOUNCED
        _scattered_in(path, leg, Goes(at, sight.also, sight.share), depth)
    flight = free_flight(air, leg.start, leg.way, far, path.draw, depth, leg.panes)
    weight = times(leg.weight, flight.kept)
    if flight.box < 0:
        return YES, NO, weighted(leg, weight), owed
    if owed.told:
        owed = met_light(path.guide, owed)
    else:
        note_behind(path.rays, path.guide, sight.part, leg.way, far)
        owed = SETTLED
    if sight.glance or depth >= path.bounces:
        return NO, YES, leg, owed
    if depth >= ROULETTE_FROM:
        goes_on, keep = survives(path, depth, weight)
        if not goes_on:
            return NO, YES, leg, owed
        weight = dimmed(weight, ONE / keep)
    at = along(leg.start, leg.way, flight.far)
    outside = leg.outside
    if closed(path.rays.S):
        outside = still_outside(path.rays.S, leg.start, at, outside)
    u, v = drawn(path.draw, 4000 + depth * 4096)
    way = scattered(air[flight.box, L.A_FORWARD], leg.way, u, v)
    # Every source was asked from the air already: one met by this ray adds nothing.
    density, mirrored = ZERO, ZERO
    leg = Leg(at, way, weight, density, mirrored, ZERO, leg.panes, leg.behind_glass, outside, YES)
    return YES, YES, leg, owed


@njit(**PIECE)
def woven_met(path, leg, hit, owed, part, u):
    """A weave: whether the path goes straight between its threads, its weight, and what it owes the guide."""
    S = path.rays.S
    if not owed.told or owed.owing:
        # Its folds, not what shimmers through, are the edges that denoising keeps.
        look = surface_at(S, hit, YES, opposite(leg.way))
        albedo = added(look.colour, through_at(S, hit, YES))
        owed = met_matte(path.guide, owed, part, albedo, look.normal, leg.travelled)
    between, k = weave_taken(S.material_floats[hit.material], u)
    return between, dimmed(leg.weight, k), owed


@njit(**PIECE)
def glass_met(path, leg, hit, at, far, also, depth, u):
    """A face of solid glass: the leg that goes on from it, refracted or mirrored, and where its light goes as well."""
    S = path.rays.S
    f = S.material_floats[hit.material]
    weight = leg.weight
    if not hit.front:
        # Absorption inside (Beer–Lambert).
        weight = times(weight, Rgb(
            math.exp(-f[L.M_ABSORB_RED] * far),
            math.exp(-f[L.M_ABSORB_GREEN] * far),
            math.exp(-f[L.M_ABSORB_BLUE] * far),
        ))  # fmt: skip
    u1, v1 = drawn(path.draw, 0x50000000 + leg.panes)
    # Round bodies bend light as what they stand for, not as their flat faces.
    normal = towards_viewer(shading_normal(S, hit), opposite(leg.way))
    normal = facet(f[L.M_FROST], normal, leg.way, u1, v1)
    way, turned = through_glass(f[L.M_IOR], hit.front, normal, leg.way, u)
    # Between facets light is turned until it leaves on the side it was sent to.
    off = dot(way, hit.face)
    if (off > ZERO) != turned:
        way = along(way, hit.face, -TWO * off)
    mirrored, behind = leg.mirrored, leg.behind_glass
    if depth == 0 and turned:
        mirrored = ONE
    if depth == 0 and also == LIGHT:
        also = MIRRORED if turned else THROUGH
    if not turned:
        weight = times(weight, dimmed(rgb(f, L.M_RED), f[L.M_TRANSMISSION]))
        behind = YES
    start = offset(at, hit.face, way)
    leg = Leg(start, way, weight, DELTA, mirrored, ZERO, leg.panes, behind, leg.outside, leg.matte)
    return leg, also


@njit(**PIECE)
def pane_met(S, leg, hit, at, also, depth):
    """A clear pane: the leg that goes straight on behind it, where its light goes as well, and the share mirrored."""
    f, kind = S.material_floats[hit.material], S.material_ints[hit.material, L.M_KIND]
    mirrored = pane_reflectance(hit.cosine, f[L.M_IOR], kind != L.KIND_INTERFACE)
    keep = f[L.M_TRANSMISSION] * (ONE - mirrored)
    weight = times(leg.weight, dimmed(rgb(f, L.M_RED), keep))
    # No shadow ray gets through a sheet that shades, so what is met behind it counts in full.
    density = DELTA if kind == L.KIND_SHADING_SHEET else leg.density
    on = moved(leg, offset(at, hit.face, leg.way), weight)
    on = Leg(
        on.start, on.way, on.weight, density, on.mirrored, on.travelled, on.panes, YES, on.outside,
        on.matte,
    )  # fmt: skip
    if depth == 0 and also == LIGHT:
        also = THROUGH
    return on, also, mirrored


@njit(**PIECE)
def put_aside(aside, leg, hit, at, also, mirrored, u):
    """Keep the way that a pane before the camera mirrors, or the one kept before, by how much light each takes."""
    light = brightness(leg.weight) * mirrored
    waiting = aside.weight + light
    if not u * waiting < light:
        return Aside(waiting, aside.leg, aside.also)
    way = mirror(leg.way, hit.face)
    on = Leg(
        offset(at, hit.face, way), way, dimmed(leg.weight, mirrored / light), DELTA, ONE, ZERO,
        leg.panes, leg.behind_glass, leg.outside, NO,
    )  # fmt: skip
    return Aside(waiting, on, MIRRORED if also == LIGHT else also)
