"""What the camera looks at, for the guide that pictures are denoised by."""

from typing import Any, NamedTuple

from numba import njit

from .. import layout as L
from .look import surface_at
from .numbers import BLACK, NO, OUTLINE, PIECE, WHITE, YES, Rgb, opposite, times
from .rays import hit_of, met_lamp, met_nothing


class Owed(NamedTuple):
    """What a path has still to tell the guide: the albedo of what a mirror before the camera shows."""

    told: Any  #: whether it has told what it looks at
    owing: Any
    colour: Rgb  #: of the mirrors on the way


#: Nothing told yet; all told.
UNTOLD, SETTLED = Owed(NO, NO, BLACK), Owed(YES, NO, BLACK)


@njit(**PIECE)
def _note(guide, part, albedo, normal, far):
    """Add a part of a look to a pixel of the guide: albedo, normal, distance in metres."""
    guide[L.G_ALBEDO] += albedo.r * part
    guide[L.G_ALBEDO + 1] += albedo.g * part
    guide[L.G_ALBEDO + 2] += albedo.b * part
    guide[L.G_NORMAL] += normal.x * part
    guide[L.G_NORMAL + 1] += normal.y * part
    guide[L.G_NORMAL + 2] += normal.z * part
    guide[L.G_DISTANCE] += far * part
    guide[L.G_COVERED] += part


@njit(**PIECE)
def _pay(guide, albedo, colour):
    """Without it denoising would take what is mirrored for one flat colour and blur it."""
    guide[L.G_ALBEDO] += albedo.r * colour.r
    guide[L.G_ALBEDO + 1] += albedo.g * colour.g
    guide[L.G_ALBEDO + 2] += albedo.b * colour.b


@njit(**PIECE)
def met_matte(guide, owed, part, albedo, normal, far):
    """Tell the guide of a surface that was met: directly, or shown by a mirror."""
    if not owed.told:
        _note(guide, part, albedo, normal, far)
    elif owed.owing:
        _pay(guide, albedo, owed.colour)
    return SETTLED


@njit(**PIECE)
def met_mirror(guide, owed, part, colour, normal, far, glance):
    """Tell the guide of a mirror that was met: what it shows is owed. The whole path alone meets it, and
    counts for the glances with it."""
    if not owed.told:
        _note(guide, part, BLACK, normal, far)
        return Owed(YES, not glance, colour)
    return Owed(YES, owed.owing, times(owed.colour, colour))


@njit(**PIECE)
def met_light(guide, owed):
    """Pay what is owed where a mirror shows something bright."""
    if owed.owing:
        _pay(guide, WHITE, owed.colour)
    return Owed(owed.told, NO, owed.colour)


@njit(**OUTLINE)
def note_behind(rays, guide, part, way, far):
    """What a ray met behind haze that stopped it, for the guide: edges must not drown in it."""
    if met_nothing(rays.words):
        return
    albedo, normal = WHITE, opposite(way)
    if not met_lamp(rays.words):
        hit = hit_of(rays)
        kind = rays.S.material_ints[hit.material, L.M_KIND]
        if kind == L.KIND_SURFACE or kind == L.KIND_WOVEN:
            look = surface_at(rays.S, hit, YES, opposite(way))
            albedo, normal = look.colour, look.normal
    _note(guide, part, albedo, normal, far)
