"""Layers a path meets before the surface itself: smooth and frosted faces of solid glass, clear coats."""

import math

import numpy as np
from numba import njit

from .. import layout as L
from .numbers import (
    ONE,
    PIECE,
    TWO,
    ZERO,
    Vec,
    along,
    brightness,
    dot,
    frame,
    from_frame,
    in_frame,
    normalise,
    opposite,
    scaled,
)
from .points import drawn
from .surface import coat_share, fresnel_dielectric, gloss_taken, visible_normal

#: Least chance with which a path goes on by a clear coat: it mirrors little, but bright things.
COAT_CHANCE = np.float32(0.2)
#: Chance of either side of a translucent sheet, and of threads and what is between them, at least: behind
#: a weave with hardly any holes may be the sky.
SIDE_CHANCE, WEAVE_CHANCE = np.float32(0.1), np.float32(0.3)


@njit(**PIECE)
def through_glass(ior, front, normal, way, u):
    """Direction after a smooth face of solid glass (Snell's law), and whether it was mirrored."""
    eta = ONE / ior if front else ior
    c = abs(dot(normal, way))
    s2 = eta * eta * (ONE - c * c)
    mirrored = ONE
    if s2 < ONE:
        # Fresnel's formula is the same from both sides when given the angle in the thinner medium.
        outer = c if front else math.sqrt(max(ONE - s2, ZERO))
        mirrored = fresnel_dielectric(outer, ior)
    if u < mirrored:
        return along(way, normal, TWO * c), True
    k = eta * c - math.sqrt(max(ONE - s2, ZERO))
    return normalise(along(scaled(way, eta), normal, k)), False


@njit(**PIECE)
def facet(frost, normal, way, u, v):
    """Normal of the facet of a frosted face that a ray meets."""
    if frost <= ZERO:
        return normal
    axes = frame(normal)
    back = in_frame(axes, opposite(way))
    back = Vec(back.x, back.y, max(back.z, np.float32(1e-4)))
    return from_frame(axes, visible_normal(frost, back, u, v))


@njit(**PIECE)
def layer_taken(S, f, draw, depth, viewer, smooth):
    """Whether a path goes on by the coat of a material row, whose normal is the ``smooth`` one, or by what lies
    below: the choice, and the weight of the path."""
    share = coat_share(f, max(dot(viewer, smooth), np.float32(1e-3)), S.energy)
    chance = max(share, COAT_CHANCE)
    u, _ = drawn(draw, 4004 + depth * 4096)
    if u >= chance:
        return False, (ONE - share) / (ONE - chance)
    return True, share / chance


@njit(**PIECE)
def weave_taken(f, u):
    """Whether a path goes straight between the threads of a woven material row, and the weight of the path."""
    share = f[L.M_OPEN]
    chance = min(max(share, WEAVE_CHANCE), ONE - WEAVE_CHANCE)
    if u < chance:
        return True, share / chance
    return False, (ONE - share) / (ONE - chance)


@njit(**PIECE)
def let_through(S, look, viewer):
    """Share of light that gets into a sheet of a ``look``: what its gloss mirrors does not."""
    cosine = max(dot(viewer, look.normal), ZERO)
    return (ONE - look.metallic) * (ONE - gloss_taken(look.roughness, cosine, S.energy))


@njit(**PIECE)
def side_taken(S, draw, depth, look, through, viewer):
    """Whether a path goes on from the far side of a translucent sheet, which scatters ``through`` it
    and the colour of its ``look`` back: the choice, and the weight of the path.

    A Lambertian sheet seen from one side and lit from the other is, to the path, a matte surface of
    that other side: nothing of what follows needs to know of it.
    """
    k = let_through(S, look, viewer)
    beyond, back = brightness(through) * k, brightness(look.colour)
    if beyond <= ZERO:
        return False, ONE
    chance = min(max(beyond / (beyond + back), SIDE_CHANCE), ONE - SIDE_CHANCE)
    u, _ = drawn(draw, 4005 + depth * 4096)
    if u >= chance:
        return False, ONE / (ONE - chance)
    return True, k / chance
