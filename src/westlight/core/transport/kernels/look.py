"""What a surface is like where a ray meets it: shading normal, reflectance, roughness, metal."""

from typing import Any, NamedTuple

import numpy as np
from numba import njit

from .. import layout as L
from .hit import painted, relief, shading_normal, texture_place
from .numbers import ONE, PIECE, ZERO, Rgb, Vec, along, dimmed, dot, normalise, rgb, times
from .textures import look_up, to_working


class Look(NamedTuple):
    """What a surface is like at a place."""

    normal: Vec  #: shading normal
    colour: Rgb  #: reflectance
    roughness: Any
    metallic: Any


@njit(**PIECE)
def towards_viewer(normal, viewer):
    """A shading normal, bent where it is turned away from the viewer: that would show as a black edge."""
    facing = dot(normal, viewer)
    if facing < np.float32(0.02):
        return normalise(along(normal, viewer, np.float32(0.02) - facing))
    return normal


@njit(**PIECE)
def _coloured(S, hit, colour, sharp, tu, tv):
    """A colour times what texture and vertices say at a place."""
    textures = S.material_ints[hit.material]
    if textures[L.M_TEX_BASE] >= 0:
        found = look_up(
            S.texels, S.texture_ints, S.decode, textures[L.M_TEX_BASE], not sharp, tu, tv
        )
        colour = times(colour, to_working(found))
    if textures[L.M_PAINTED] == 1:
        colour = times(colour, painted(S, hit))
    return colour


@njit(**PIECE)
def surface_at(S, hit, sharp, viewer):
    """What the surface is like that was hit. Where light has bounced, reduced textures do (``sharp`` false), and no relief:
    it is too blurred to show them, and the look-ups are dear."""
    f, textures = S.material_floats[hit.material], S.material_ints[hit.material]
    normal = shading_normal(S, hit)
    roughness, metallic = f[L.M_ROUGHNESS], f[L.M_METALLIC]
    tu = tv = ZERO
    base, rough, bent = textures[L.M_TEX_BASE], textures[L.M_TEX_ROUGH], textures[L.M_TEX_NORMAL]
    if base >= 0 or rough >= 0 or bent >= 0:
        tu, tv = texture_place(S.corners[hit.triangle], hit.u, hit.v)
    colour = _coloured(S, hit, rgb(f, L.M_RED), sharp, tu, tv)
    if rough >= 0:
        found = look_up(S.texels, S.texture_ints, S.decode, rough, not sharp, tu, tv)
        roughness, metallic = roughness * found.g, metallic * found.b
    if bent >= 0 and sharp:
        normal = relief(S, hit, bent, f[L.M_NORMAL_SCALE], tu, tv, normal)
    # What is scattered through is not sent back.
    colour = dimmed(colour, ONE - f[L.M_TRANSLUCENT])
    return Look(towards_viewer(normal, viewer), colour, roughness, metallic)


@njit(**PIECE)
def through_at(S, hit, sharp):
    """Light of a place scattered through a translucent sheet, per light that falls on it: RGB, 0…1."""
    f = S.material_floats[hit.material]
    tu = tv = ZERO
    if S.material_ints[hit.material, L.M_TEX_BASE] >= 0:
        tu, tv = texture_place(S.corners[hit.triangle], hit.u, hit.v)
    through = dimmed(rgb(f, L.M_THROUGH_RED), f[L.M_TRANSLUCENT])
    return _coloured(S, hit, through, sharp, tu, tv)
