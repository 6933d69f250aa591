"""Where light is sent on: a surface as a path meets it, its coat, what lies below that, and its far side."""

from typing import Any, NamedTuple

import numpy as np
from numba import njit

from .. import layout as L
from .layers import layer_taken, let_through, side_taken
from .look import Look
from .numbers import (
    BLACK,
    NO,
    ONE,
    PIECE,
    WHITE,
    YES,
    ZERO,
    Rgb,
    Vec,
    dimmed,
    dot,
    frame,
    in_frame,
    mirror,
    opposite,
    rgb,
    total,
    vec,
)
from .records import Vertex
from .surface import coat_share, prepare

#: No row of a table.
NO_ROW = np.int64(-1)


class Place(NamedTuple):
    """A surface that light is sent on by."""

    at: Vec
    lift: Vec  #: where shadow rays start
    face: Vec  #: unit face normal on the side that is lit
    viewer: Vec  #: direction the light goes on to
    look: Look
    smooth: Any  #: its normals describe a rounder surface than its faces
    coated: Any  #: it is the coat
    beyond: Any  #: it is the far side of a sheet
    solid: Any  #: patches of sun and glints are looked for on it
    through: Rgb  #: light of the other side that it scatters through; black once a side was chosen
    coat: Any  #: row of a varnished material; −1: none, or it was chosen whether that sends the light on
    plain: Vec  #: its normal without relief, which varnish has


@njit(**PIECE)
def kept_place(first):
    """The surface kept in a row of first surfaces, and the weight of what it sends on."""
    at = vec(first, L.F_POSITION)
    look = Look(
        vec(first, L.F_NORMAL), rgb(first, L.F_RED), first[L.F_ROUGHNESS], first[L.F_METALLIC]
    )
    face, viewer = vec(first, L.F_FACE), vec(first, L.F_VIEWER)
    place = Place(at, at, face, viewer, look, NO, NO, NO, YES, BLACK, NO_ROW, look.normal)
    return place, rgb(first, L.F_KEPT)


@njit(**PIECE)
def _varnish(S, place):
    """The coat over a place."""
    rough = S.material_floats[place.coat, L.M_COAT_ROUGH]
    return Place(
        place.at, place.lift, place.face, place.viewer, Look(place.plain, WHITE, rough, ONE),
        place.smooth, YES, NO, place.solid, BLACK, NO_ROW, place.plain,
    )  # fmt: skip


@njit(**PIECE)
def _below(place):
    """A place without the coat over it."""
    return Place(
        place.at, place.lift, place.face, place.viewer, place.look, place.smooth, NO, NO, place.solid,
        place.through, NO_ROW, place.plain,
    )  # fmt: skip


@njit(**PIECE)
def _beyond(place):
    """The far side of a sheet."""
    look = Look(opposite(place.look.normal), place.through, ONE, ZERO)
    viewer = mirror(place.viewer, place.face)
    return Place(
        place.at, place.at, opposite(place.face), viewer, look, NO, NO, YES, place.solid, BLACK, NO_ROW,
        look.normal,
    )  # fmt: skip


@njit(**PIECE)
def chosen(path, place, weight, depth):
    """What of a place a path goes on from, its coat, what lies below or its far side, and the weight there."""
    S = path.rays.S
    if place.coat >= 0:
        f = S.material_floats[place.coat]
        coated, k = layer_taken(S, f, path.draw, depth, place.viewer, place.plain)
        place, weight = _varnish(S, place) if coated else _below(place), dimmed(weight, k)
    if total(place.through) > ZERO:
        beyond, k = side_taken(S, path.draw, depth, place.look, place.through, place.viewer)
        place, weight = _beyond(place) if beyond else place, dimmed(weight, k)
    return place, weight


@njit(**PIECE)
def part_of(path, place, n):
    """What lies below the coat of a place (1), its far side (2) or its coat (3), and the share of light each has."""
    S, coat = path.rays.S, ZERO
    if place.coat >= 0:
        f = S.material_floats[place.coat]
        coat = coat_share(f, max(dot(place.viewer, place.plain), np.float32(1e-3)), S.energy)
    if n == 3:
        return (_varnish(S, place) if place.coat >= 0 else place), coat
    below = _below(place)
    if n == 1:
        return below, ONE - coat
    if total(place.through) > ZERO:
        return _beyond(below), (ONE - coat) * let_through(S, place.look, place.viewer)
    return below, ZERO


@njit(**PIECE)
def vertex_of(path, place, weight, outside, depth):
    """A place as one where light is gathered."""
    look = place.look
    roughness = look.roughness
    if depth > 0 and roughness < path.calm:
        roughness = path.calm
    axes = frame(look.normal)
    out = in_frame(axes, place.viewer)
    out = Vec(out.x, out.y, max(out.z, np.float32(1e-3)))
    lobes = prepare(path.rays.S, look.colour, roughness, look.metallic, out)
    return Vertex(place.at, place.lift, place.face, axes, weight, lobes, place.smooth, outside)
