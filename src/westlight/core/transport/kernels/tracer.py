"""The path tracer: one camera path, its light split by source.

Kajiya 1986 with next-event estimation to every active source at every vertex, combined with
surface sampling by multiple importance sampling (Veach & Guibas 1995). Clear panes are passed
straight and tint what goes through, so they need no vertex of their own. A path goes through these rooms:

    camera_ray                      the first leg
       │
       ▼
    send ────────► through_air      scattered in the air: a new leg from there
       │                            (single scattering along the leg is gathered on the way)
       ├── nothing met ───► escape                         suns and skies: end
       ├── emitter ───────► lamp_met ──────┐               its light; its body sends light on
       └── surface                         │
            ├── pane ─────► pane_met ──► straight on; what it mirrors is put aside and followed now and then
            ├── glass ────► glass_met ─► a new leg, refracted or mirrored
            ├── weave ────► woven_met ─► straight on between its threads, or
            └─────────────► surface_met    its look, what it is made of
                               │           │
                               ▼           ▼
                            vertex_of ──► add_kept         where the light cache knows enough: end
                               │
                               ▼
                            light_vertex, patch_vertex, glint_vertex   light sent from sources; to what the camera sees
                               │                                       the sun by every layer of it
                               │
                               ▼
                            bounced ───► a new leg, or the end by Russian roulette
"""

from typing import Any, NamedTuple

import numpy as np
from numba import njit, uint64

from .. import layout as L
from .address import by_address
from .cells import cached_row
from .glints import glint_vertex, left_to_chance, looks_for_glints
from .guide import Owed, met_light, met_matte, met_mirror
from .hit import lifted, shading_normal
from .kept import add_kept
from .light import (
    ALL,
    DELTA,
    NO_SUNS,
    SUNS,
    Asked,
    escape,
    light_vertex,
    meet_emitter,
    patch_vertex,
)
from .look import Look, surface_at, through_at
from .meets import (
    ROULETTE_FROM,
    Aside,
    glass_met,
    pane_met,
    put_aside,
    survives,
    through_air,
    woven_met,
)
from .numbers import (
    BLACK,
    HALF,
    INFINITE,
    NO,
    ONE,
    PIECE,
    UP,
    WHITE,
    YES,
    ZERO,
    Rgb,
    added,
    along,
    brightness,
    dimmed,
    dot,
    from_frame,
    normalise,
    opposite,
    times,
    total,
    vec,
)
from .patches import LEAST_ROUGH, looks_for_patches
from .points import drawn
from .portals import closed, still_outside
from .rays import (
    MAX_PANES,
    hit_of,
    met_lamp,
    met_nothing,
    offset,
    ray_mask,
    send,
)
from .records import (
    BOUNCED,
    LIGHT,
    MIRRORED,
    SEEN,
    UNFOUND,
    Found,
    Goes,
    Left,
    Leg,
    arrived,
    moved,
    one_more,
    resown,
    weighted,
)
from .sides import NO_ROW, Place, chosen, kept_place, part_of, vertex_of
from .surface import LEAST_LOBE, evaluate, mirrored_share, sample

# Above this roughness the last vertex needs no surface-sampled ray: light sampling alone is calm.
ROUGH_ENOUGH = np.float32(0.3)
#: The same where the camera looks: there a broad highlight shows.
ROUGH_AT_ONCE = np.float32(0.7)
_NEAR = np.float32(1e-8)
#: Metal up to this rough is a mirror: its guide is what it shows.
MIRROR_ROUGH = np.float32(0.04)
#: Chance, at least, that the light mirrored by the panes before the camera is followed.
MIRRORS = np.float32(0.25)
#: Vertices of a path from which patches of sun are looked for.
PATCHES = 2
#: The same for sun and sky mirrored by smooth surfaces.
GLINTS = 2
# Kept light serves surfaces at least this rough, met by rays scattered at least this widely. A floor of
# 0.4 still sends a window's light on in one direction: an average over all would move it to other walls.
# Of metal a bucket in the sun would throw a speckled spot at a wall; there the average is the better lie.
CACHE_ROUGH, CACHE_METAL, CACHE_BLURRED = np.float32(0.5), np.float32(0.3), np.float32(0.4)


class Sight(NamedTuple):
    """How what is met counts."""

    also: Any  #: first channel that gets a share of it as well; LIGHT: none yet
    share: Any
    part: Any  #: share of what is seen straight, or through panes, that is this path's: the rest is that of glances
    shared: Any  #: whether it is shared so
    again: Any  #: this way was mirrored by a pane before the camera
    glance: Any  #: nothing but what is seen, and the sun on it, is gathered


#: How a path may go on from what is no place that sends light on.
_ENDS, _GOES_ON, _STAYS = range(3)


@njit(**PIECE)
def _channels(sight, depth):
    """Where light goes that a ray meets."""
    at = LIGHT if depth <= 1 else BOUNCED
    if sight.shared:
        at = SEEN
    return Goes(at, sight.also, sight.share)


@njit(**PIECE)
def _alone(sight):
    """The same sight, no longer shared with glances."""
    return Sight(sight.also, sight.share, ONE, NO, sight.again, sight.glance)


@njit(**PIECE)
def _also(sight, also):
    """The same sight, its light going to other channels as well."""
    return Sight(also, sight.share, sight.part, sight.shared, sight.again, sight.glance)


@njit(**PIECE)
def lamp_met(path, leg, left, goes, sight, owed):
    """An emitter of a shape of its own: its light, and its body as a place that sends light on (black: it does not)."""
    S, rays = path.rays.S, path.rays
    shape = np.int64(rays.words[L.X_GEOMETRY]) - S.geometry_first.shape[0]
    primitive = np.int64(rays.words[L.X_PRIMITIVE]) // S.emitter_triangles[shape]
    row = S.emitter_of_primitive[S.emitter_first[shape] + primitive]
    e, kind = S.emitter_floats[row], S.emitter_ints[row, L.E_KIND]
    front = kind == L.SHAPE_SPHERE or kind == L.SHAPE_TUBE
    front = front or dot(leg.way, vec(e, L.E_NORMAL)) < ZERO
    meet_emitter(path, row, leg, left, goes, dimmed(leg.weight, sight.part), front, ZERO, ZERO)
    viewer = opposite(leg.way)
    owed = met_matte(path.guide, owed, sight.part, WHITE, viewer, leg.travelled)
    face = normalise(vec(rays.record, L.X_NORMAL))
    if dot(face, leg.way) > ZERO:
        face = opposite(face)
    at = along(leg.start, leg.way, rays.record[L.X_FAR])
    body = e[L.E_BODY]
    look = Look(face, Rgb(body, body, body), ONE, ZERO)
    return Place(at, at, face, viewer, look, NO, NO, NO, NO, BLACK, NO_ROW, face), owed


@njit(**PIECE)
def _smoothed(S, hit, at, depth):
    """Where shadow rays of a place that the camera sees start, its normal without relief, and whether its normals
    describe a rounder surface than its faces."""
    if depth > 0:
        return at, hit.face, False
    normal = shading_normal(S, hit)
    if dot(normal, hit.face) < np.float32(0.9995):
        return lifted(S, hit, at), normal, True
    return at, normal, False


@njit(**PIECE)
def _told(path, owed, look, through, sight, far):
    """What a path owes the guide after a surface: of a mirror, what that shows."""
    if look.metallic > HALF and look.roughness < MIRROR_ROUGH:
        return met_mirror(path.guide, owed, sight.part, look.colour, look.normal, far, sight.glance)
    albedo = added(look.colour, through)
    return met_matte(path.guide, owed, sight.part, albedo, look.normal, far)


@njit(**PIECE)
def surface_met(path, leg, left, hit, at, goes, sight, owed, depth):
    """A surface that scatters: the place that sends light on, the weight of the path there, what it owes the guide."""
    S = path.rays.S
    f = S.material_floats[hit.material]
    viewer, face, weight = opposite(leg.way), hit.face, leg.weight
    # What a mirror shows is seen as sharply as the rest.
    sharp = depth == 0 or owed.owing
    look = surface_at(S, hit, sharp, viewer)
    lift, plain, smooth = _smoothed(S, hit, at, depth)
    if S.material_ints[hit.material, L.M_GLOWS] == 1 and S.triangle_emitter[hit.triangle] >= 0:
        row, part = S.triangle_emitter[hit.triangle], dimmed(weight, sight.part)
        meet_emitter(path, row, leg, left, goes, part, hit.front, hit.u, hit.v)
    through = BLACK
    if f[L.M_TRANSLUCENT] > ZERO:
        through = through_at(S, hit, sharp)
    owed = _told(path, owed, look, through, sight, leg.travelled)
    coat = NO_ROW
    if depth > path.bounces:
        through = BLACK
    elif f[L.M_COAT] > ZERO:
        coat = np.int64(hit.material)
    # The varnish does not follow the relief below it.
    smooth_normal = plain if depth == 0 else look.normal
    solid = S.material_ints[hit.material, L.M_KIND] != L.KIND_WOVEN
    place = Place(at, lift, face, viewer, look, smooth, NO, NO, solid, through, coat, smooth_normal)
    return place, weight, owed


@njit(**PIECE)
def _kept_row(path, vertex, leg, left, depth):
    """Row of the light cache that a path may end at, −1 where it must go on."""
    lobes, Q = vertex.lobes, path.Q
    rough = CACHE_METAL if lobes.metallic > HALF else CACHE_ROUGH
    if depth == 0 or not left.blurred or lobes.roughness <= rough or vertex.outside:
        return np.int64(-1)
    if Q.keys.shape[0] <= 1:
        return np.int64(-1)
    return cached_row(Q, path.draw, 4002 + depth * 4096, vertex.at, vertex.face, leg.travelled)


@njit(**PIECE)
def _found(path, place, vertex, leg, left):
    """How likely the sun and sky of this place would have been found from the place before."""
    # After a refraction there is no density, and no straight way that joins the two either.
    if not leg.density < DELTA:
        return UNFOUND
    rough = vertex.lobes.roughness
    by_chance = ZERO
    # Patches are looked for on what is solid, and on the side they fall on.
    if left.patched and rough >= LEAST_ROUGH and place.solid and not (place.coated or place.beyond):
        facing = abs(dot(vertex.face, leg.way))
        by_chance = leg.density * facing / max(leg.travelled * leg.travelled, _NEAR)
    left_sun = left_sky = ONE
    if left.glinting and rough < LEAST_ROUGH and place.solid:
        left_sun, left_sky = left_to_chance(path.rays.S, path.slot_of, leg.density, leg.way)
    return Found(by_chance, left_sun, left_sky)


@njit(**PIECE)
def _needs_ray(path, lobes, depth):
    """Whether a ray drawn by the surface follows: not from a last place that is rough enough."""
    enough = ROUGH_ENOUGH if depth > 0 else ROUGH_AT_ONCE
    return not (depth == path.bounces and (lobes.chance == ZERO or lobes.roughness > enough))


@njit(**PIECE)
def _lit(path, place, vertex, weight, leg, found, sight, goes, depth):
    """Ask all sources for light at a vertex, which stands for a place with its weight.

    What is seen is not denoised, so there is to be no noise in it: all that a place is made of is asked for the sun,
    whichever the path goes on from.
    """
    apart = sight.shared and (place.coat >= 0 or total(place.through) > ZERO)
    begin = 1 if apart and sight.glance else 0
    for n in range(begin, 4 if apart else 1):
        at = vertex
        if n > 0:
            side, share = part_of(path, place, n)
            if share <= ZERO:
                continue
            at = vertex_of(path, side, dimmed(weight, share), leg.outside, depth)
        which = np.int64(ALL)
        if sight.glance or n > 0:
            which = np.int64(SUNS)
        elif apart:
            which = np.int64(NO_SUNS)
        weighed = _needs_ray(path, at.lobes, depth)
        asked = Asked(depth, weighed, sight.part, sight.shared, which)
        light_vertex(path, at, found, asked, goes)


@njit(**PIECE)
def _thrown(path, vertex, goes, depth):
    """Sun and sky thrown at a place by other surfaces; whether patches, and whether glints, were looked for."""
    S, clear = path.rays.S, path.air.shape[0] == 0
    patched = glinting = NO
    if depth < min(path.bounces, PATCHES) and clear and path.Q.keys.shape[0] == 1:
        patched = looks_for_patches(S, vertex.at, vertex.face, vertex.outside)
        if patched:
            patch_vertex(path, vertex, goes, depth)
    if depth < min(path.bounces, GLINTS) and clear and vertex.lobes.chance < ONE:
        glinting = looks_for_glints(S, path.slot_of)
        if glinting:
            glint_vertex(path, vertex, goes, depth)
    return patched, glinting


@njit(**PIECE)
def bounced(path, vertex, leg, sight, owed, depth):
    """The leg that goes on from a place, drawn by its surface: whether there is one, the leg, whether it was
    scattered widely, how what it meets counts, and what is owed the guide (weights f·cos/p)."""
    S, lobes = path.rays.S, vertex.lobes
    chance = lobes.chance
    u, v = drawn(path.draw, 4000 + depth * 4096)
    # One number serves for the lobe and, stretched, for the direction in it.
    matte = u >= chance
    blurred = matte or lobes.roughness > CACHE_BLURRED
    if chance > ZERO:
        u = (u - chance) / (ONE - chance) if matte else u / chance
    into = sample(lobes, min(u, np.float32(0.9999999)), v, matte)
    sent, density = evaluate(S, lobes, chance, into)
    way = normalise(from_frame(vertex.axes, into))
    if not density > ZERO or dot(way, vertex.face) <= ZERO:
        return NO, leg, blurred, sight, owed
    mirrored = ZERO
    told = depth == 0 and sight.also == LIGHT
    if chance > ZERO and (told or S.portal_state[L.G_PARTED] == 1):
        mirrored = mirrored_share(S, lobes, into.z, sent.g)
    if told and chance > ZERO:
        sight = Sight(MIRRORED, mirrored, sight.part, sight.shared, sight.again, sight.glance)
    weight = times(vertex.weight, dimmed(sent, ONE / density))
    if depth >= ROULETTE_FROM:
        goes_on, keep = survives(path, depth, weight)
        if not goes_on:
            return NO, leg, blurred, sight, owed
        weight = dimmed(weight, ONE / keep)
        owed = Owed(owed.told, owed.owing, dimmed(owed.colour, ONE / keep))
    start = offset(vertex.at, vertex.face, way)
    leg = Leg(start, way, weight, density, mirrored, ZERO, leg.panes, NO, vertex.outside, matte)
    return YES, leg, blurred, sight, owed


@njit(**PIECE)
def _at_place(path, place, weight, leg, left, sight, owed, depth):
    """Gather light at a place and go on from there: whether the path does, by which leg, which place that leaves,
    how its light would have been found, how what is met counts, and what is owed the guide."""
    seen, whole = place, weight
    place, weight = chosen(path, place, weight, depth)
    vertex = vertex_of(path, place, weight, leg.outside, depth)
    lobes = vertex.lobes
    if depth == 0 and not sight.again:
        even = min((ONE - lobes.chance) / (ONE - LEAST_LOBE), ONE)
        path.guide[L.G_DIFFUSE] += sight.part * even
    row = _kept_row(path, vertex, leg, left, depth)
    goes = Goes(LIGHT if depth == 0 else BOUNCED, sight.also, sight.share)
    if row >= 0:
        add_kept(path, row, goes, weight, lobes)
        return NO, leg, left, UNFOUND, sight, owed
    found = _found(path, place, vertex, leg, left)
    _lit(path, seen, vertex, whole, leg, found, sight, goes, depth)
    if sight.glance or not _needs_ray(path, lobes, depth):
        return NO, leg, left, found, sight, owed
    patched, glinting = _thrown(path, vertex, goes, depth)
    goes_on, leg, blurred, sight, owed = bounced(path, vertex, leg, _alone(sight), owed, depth)
    left = Left(vertex.at, vertex.axes.n, vertex.face, patched, glinting, blurred)
    return goes_on, leg, left, found, sight, owed


@njit(**PIECE)
def _escaped(path, leg, left, found, goes, sight, owed, depth):
    """The path left the scene: its light, and what that tells the guide."""
    if not leg.density < DELTA:
        # A refraction on the way: no straight line joins what it shows.
        found = UNFOUND
    escape(path, leg, left, found, goes, dimmed(leg.weight, sight.part), depth)
    met_light(path.guide, owed)
    if depth == 0 and not sight.again and sight.also != MIRRORED:
        path.guide[L.G_OPEN] += brightness(leg.weight) * sight.part


@njit(**PIECE)
def _passed(path, leg, left, hit, at, far, sight, owed, aside, depth):
    """What a path does at a pane, at glass or at a weave: whether it ends, goes on or stays there; and all that follows it."""
    S = path.rays.S
    kind = S.material_ints[hit.material, L.M_KIND]
    leg = one_more(leg)
    ends = leg.panes > MAX_PANES
    u, _ = drawn(path.draw, 0x40000000 + leg.panes)
    if not ends and kind == L.KIND_WOVEN:
        between, weight, owed = woven_met(path, leg, hit, owed, sight.part, u)
        if not between:
            return _STAYS, weighted(leg, weight), left, sight, owed, aside
        # Shadow rays count the same share of holes. What is seen so is no calm sight.
        leg = moved(leg, offset(at, hit.face, leg.way), weight)
        return _ENDS if sight.glance else _GOES_ON, leg, left, _alone(sight), owed, aside
    if ends or (sight.glance and kind == L.KIND_GLASS):
        return _ENDS, leg, left, sight, owed, aside
    if kind == L.KIND_GLASS:
        leg, also = glass_met(path, leg, hit, at, far, sight.also, depth, u)
        left = Left(leg.start, left.normal, left.face, left.patched, left.glinting, left.blurred)
        return _GOES_ON, leg, left, _alone(_also(sight, also)), owed, aside
    on, also, mirrored = pane_met(S, leg, hit, at, sight.also, depth)
    # What a pane mirrors onto a surface would only be found by luck, and is left out.
    if depth == 0 and not sight.again and not sight.glance:
        aside = put_aside(aside, leg, hit, at, sight.also, mirrored, u)
    return _GOES_ON, on, left, _also(sight, also), owed, aside


@njit(**PIECE)
def _follow(path, begun, sight, start, first):
    """Follow one way of a path, from the leg ``begun``; returns what panes before the camera mirror of it."""
    S, rays = path.rays.S, path.rays
    leg, aside = begun, Aside(ZERO, begun, sight.also)
    left = Left(leg.start, UP, UP, NO, NO, NO)
    found = UNFOUND
    owed = Owed(start or sight.again, NO, BLACK)
    # Typed, not a plain constant: for each literal the compiler would make all it is passed to once more.
    depth = np.int64(0)
    while True:
        if start:
            place, weight = kept_place(first)
            start = NO
        else:
            send(rays, leg.start, leg.way, INFINITE, ray_mask(depth, leg.behind_glass, leg.matte))
            if path.air.shape[0] > 0:
                goes_on, flown, leg, owed = through_air(path, leg, owed, sight, depth)
                if not goes_on:
                    break
                if flown:
                    sight = _alone(sight)
                    left = Left(leg.start, left.normal, left.face, NO, NO, left.blurred)
                    depth += 1
                    continue
            goes = _channels(sight, depth)
            if met_nothing(rays.words):
                _escaped(path, leg, left, found, goes, sight, owed, depth)
                break
            far = rays.record[L.X_FAR]
            at = along(leg.start, leg.way, far)
            outside = still_outside(S, leg.start, at, leg.outside) if closed(S) else leg.outside
            leg = arrived(leg, far, outside)
            if met_lamp(rays.words):
                place, owed = lamp_met(path, leg, left, goes, sight, owed)
                weight = leg.weight
                if place.look.colour.r == ZERO:
                    break
            else:
                hit = hit_of(rays)
                if S.material_ints[hit.material, L.M_KIND] != L.KIND_SURFACE:
                    passed, leg, left, sight, owed, aside = _passed(
                        path, leg, left, hit, at, far, sight, owed, aside, depth
                    )
                    if passed == _ENDS:
                        break
                    if passed == _GOES_ON:
                        continue
                place, weight, owed = surface_met(
                    path, leg, left, hit, at, goes, sight, owed, depth
                )
        if depth > path.bounces:
            break
        goes_on, leg, left, found, sight, owed = _at_place(
            path, place, weight, leg, left, sight, owed, depth
        )
        if not goes_on:
            break
        depth += 1
    return aside


@njit(**PIECE)
def trace_path(path, start, way, part, glance, kept, first):
    """Follow one path and add its light to ``path.light`` (slots, SAMPLE_CHANNELS), its first surface to ``path.guide``.

    With ``kept`` the path begins on the surface kept in ``first`` (columns F_*) instead of at a
    camera; on a white matte one π times its light is the irradiance there. A path that
    meets a surface whose light the cache keeps ends there with that light.

    What is seen straight or through panes, and the sun on it, is shared with glances: further looks
    through the same pixel that gather nothing else (``glance``), each with an equal ``part``.
    """
    leg = Leg(start, way, WHITE, DELTA, -ONE, ZERO, np.int64(0), NO, NO, NO)
    sight = Sight(LIGHT, ONE, part, YES, NO, glance)
    while True:
        aside = _follow(path, leg, sight, kept, first)
        if sight.again or not aside.weight > ZERO:
            break
        # The path itself goes straight through panes; what they mirror is dim as a rule, and followed now
        # and then. To choose one of both would speckle wherever bright sky is seen.
        chance = min(MIRRORS + aside.weight, ONE)
        u, _ = drawn(path.draw, 0x60000000)
        if u >= chance:
            break
        leg = weighted(aside.leg, dimmed(aside.leg.weight, aside.weight / chance))
        sight = Sight(aside.also, ONE, ONE, NO, YES, glance)
        # Other random numbers than those of the way before.
        path = by_address(resown(path, uint64(path.draw.seed ^ uint64(0x5851F42D))))
