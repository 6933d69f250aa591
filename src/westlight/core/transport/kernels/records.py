"""What kernels hand one another of a path: named tuples, which the compiler takes apart into registers."""

from typing import Any, NamedTuple

import numpy as np
from numba import njit

from .. import layout as L
from .numbers import ONE, PIECE, ZERO, Frame, Rgb, Vec
from .points import Draw
from .surface import Lobes

#: First channels of a sample. Typed, not plain constants: for each literal the compiler would make all it is passed to once more.
LIGHT, BOUNCED, MIRRORED, THROUGH, SEEN = (
    np.int64(channel) for channel in (L.O_LIGHT, L.O_BOUNCED, L.O_MIRRORED, L.O_THROUGH, L.O_SEEN)
)


class Path(NamedTuple):
    """What one path is followed with; none of it changes on the way. It is handed on by its address."""

    rays: Any  #: `Rays`, by address
    Q: Any  #: `CacheArrays`, by address: light kept on surfaces
    active: Any  #: rows of the sources that are traced
    slot_of: Any  #: where the light of each source goes, −1: nowhere
    light: Any  #: (slots, SAMPLE_CHANNELS) what the path gathers
    guide: Any  #: (GUIDE_CHANNELS,) what it tells of its pixel
    scratch: Any  #: what is remembered of the last place, by sky: columns R_*
    air: Any  #: (n, AIR_COLUMNS) boxes of haze; none in clear air
    draw: Draw
    bounces: Any
    calm: Any  #: least roughness after the first bounce


class Goes(NamedTuple):
    """Channels of a source's light that a sample is added to."""

    at: Any  #: first channel: LIGHT, BOUNCED or SEEN
    also: Any  #: first channel of those that get a share of it as well; 0: none
    share: Any


class Leg(NamedTuple):
    """A straight piece of a path."""

    start: Vec
    way: Vec
    weight: Rgb  #: share of the light met that gets to the camera
    density: Any  #: per steradian, with which its direction was drawn; `DELTA`: there was no choice
    mirrored: Any  #: share of it that a surface mirrored; below 0: none did, nor scattered it
    travelled: Any  #: metres since the last place, panes not counted
    panes: Any  #: passed since the camera
    behind_glass: Any
    outside: Any
    matte: Any  #: scattered evenly by a surface, or by air


class Left(NamedTuple):
    """The place that a leg left, as what is met next must know it."""

    at: Vec
    normal: Vec
    face: Vec
    patched: Any  #: patches of sun were looked for from there
    glinting: Any  #: sun and sky mirrored by smooth surfaces were
    blurred: Any  #: it scattered widely enough that an average may be met


class Found(NamedTuple):
    """How likely light met at a place would have been found from the place before."""

    by_chance: (
        Any  #: density per m² with which the ray met the place; 0: patches were not looked for
    )
    left_sun: Any  #: share of the sun that is not found from there already
    left_sky: Any


#: All that is met is found by the path alone.
UNFOUND = Found(ZERO, ONE, ONE)


class Vertex(NamedTuple):
    """A place where light is gathered."""

    at: Vec
    lift: Vec  #: where shadow rays start
    face: Vec
    axes: Frame
    weight: Rgb
    lobes: Lobes
    smooth: Any  #: its normals describe a rounder surface than its faces: those shade nothing
    outside: Any


@njit(**PIECE)
def moved(leg, start, weight):
    """A leg that goes on straight from another place."""
    return Leg(
        start, leg.way, weight, leg.density, leg.mirrored, leg.travelled, leg.panes, leg.behind_glass,
        leg.outside, leg.matte,
    )  # fmt: skip


@njit(**PIECE)
def weighted(leg, weight):
    """The same leg with another weight."""
    return moved(leg, leg.start, weight)


@njit(**PIECE)
def arrived(leg, far, outside):
    """The same leg after it met something so far away."""
    return Leg(
        leg.start, leg.way, leg.weight, leg.density, leg.mirrored, leg.travelled + far, leg.panes,
        leg.behind_glass, outside, leg.matte,
    )  # fmt: skip


@njit(**PIECE)
def one_more(leg):
    """The same leg with one more pane on its way."""
    return Leg(
        leg.start, leg.way, leg.weight, leg.density, leg.mirrored, leg.travelled, leg.panes + 1,
        leg.behind_glass, leg.outside, leg.matte,
    )  # fmt: skip


@njit(**PIECE)
def resown(path, seed):
    """The same path with other random numbers."""
    return Path(
        path.rays, path.Q, path.active, path.slot_of, path.light, path.guide, path.scratch, path.air,
        Draw(seed, path.draw.index), path.bounces, path.calm,
    )  # fmt: skip
