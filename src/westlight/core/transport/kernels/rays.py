"""Rays: filling Embree's record, leaving surfaces, and what a straight way lets through."""

from typing import Any, NamedTuple

import numpy as np
from numba import njit, uint32, uint64

from .. import layout as L
from ..embree import (
    BLOCKING,
    MASK_BLOCKER,
    MASK_CAMERA,
    MASK_CAMERA_GLASS,
    MASK_MIRROR,
    MASK_MIRROR_GLASS,
    MASK_PANE,
    MASK_SOLID,
    intersect1,
    occluded1,
)
from .numbers import (
    BLACK,
    ONE,
    PIECE,
    UP,
    WHITE,
    YES,
    ZERO,
    Vec,
    along,
    brightest,
    dimmed,
    dot,
    normalise,
    opposite,
    rgb,
    times,
    turned_by,
    vec,
)
from .surface import pane_reflectance

NO_HIT = uint32(0xFFFFFFFF)
MAX_PANES = 24
_BLOCKING = np.uint32(BLOCKING)
_PANES = np.uint32(MASK_PANE)
_CAMERA = np.uint32(MASK_SOLID | MASK_PANE | MASK_CAMERA)
_CAMERA_GLASS = np.uint32(MASK_SOLID | MASK_PANE | MASK_CAMERA_GLASS)
_MIRROR = np.uint32(MASK_SOLID | MASK_PANE | MASK_MIRROR)
_MIRROR_GLASS = np.uint32(MASK_SOLID | MASK_PANE | MASK_MIRROR_GLASS)
_MATTE = np.uint32(MASK_BLOCKER)


class Rays(NamedTuple):
    """What a thread sends rays with."""

    S: Any  #: `SceneArrays`, by address
    record: Any  #: Embree's record of a ray and its hit, floats: columns X_*
    words: Any  #: the same memory as integers
    address: Any  #: where it lies
    counts: Any  #: rays sent, in column 0


class Hit(NamedTuple):
    """Where a ray met a surface."""

    triangle: Any
    copy: Any  #: row of the placed mesh
    material: Any
    u: Any
    v: Any
    face: Vec  #: unit face normal, turned towards the ray
    cosine: Any  #: between that and the way back, 0…1
    front: Any  #: whether the face looks at the ray


#: What is in place of a hit where nothing was met.
NO_SURFACE = Hit(np.int64(0), np.int64(0), np.int64(0), ZERO, ZERO, UP, ONE, YES)


@njit(**PIECE)
def ray_mask(depth, behind_glass, matte):
    """What a ray of a path meets, by the bounces before it, the glass it passed and what sent it."""
    if depth == 0:
        return _CAMERA_GLASS if behind_glass else _CAMERA
    mask = _MIRROR_GLASS if behind_glass else _MIRROR
    return uint32(mask | _MATTE) if matte else mask


@njit(**PIECE)
def set_ray(ray, words, start, way, far, mask):
    """Fill Embree's record for a ray of length ``far`` (in lengths of ``way``)."""
    ray[L.X_ORIGIN], ray[L.X_ORIGIN + 1], ray[L.X_ORIGIN + 2] = start.x, start.y, start.z
    ray[L.X_NEAR] = ZERO
    ray[L.X_WAY], ray[L.X_WAY + 1], ray[L.X_WAY + 2] = way.x, way.y, way.z
    ray[L.X_TIME] = ZERO
    ray[L.X_FAR] = far
    words[L.X_MASK] = mask
    words[L.X_ID] = uint32(0)
    words[L.X_FLAGS] = uint32(0)
    words[L.X_PRIMITIVE] = NO_HIT
    words[L.X_GEOMETRY] = NO_HIT
    words[L.X_INSTANCE] = NO_HIT


@njit(**PIECE)
def send(rays, start, way, far, mask):
    """Find what a ray meets first; it is in the record then."""
    set_ray(rays.record, rays.words, start, way, far, mask)
    rays.counts[0] += 1
    intersect1(rays.S.scene, rays.address, uint64(0))


@njit(**PIECE)
def met_nothing(words):
    """Whether the ray in the record left the scene."""
    return words[L.X_GEOMETRY] == NO_HIT


@njit(**PIECE)
def met_lamp(words):
    """Whether what the ray in the record met is an emitter with a shape of its own: those are not placed."""
    return words[L.X_INSTANCE] == NO_HIT


@njit(**PIECE)
def met_no_surface(words):
    """Whether the ray in the record met nothing, or an emitter."""
    return met_nothing(words) or met_lamp(words)


@njit(**PIECE)
def offset(at, normal, way):
    """Point moved off a surface along its face normal, to the side a direction leaves by."""
    size = max(abs(at.x), max(abs(at.y), abs(at.z)))
    e = np.float32(2e-5) + size * np.float32(4e-6)
    if dot(normal, way) < ZERO:
        e = -e
    return along(at, normal, e)


@njit(**PIECE)
def hit_of(rays):
    """The surface in the record. Many copies of a mesh share a geometry; cut-outs are a second one after the solid."""
    S, ray, words = rays.S, rays.record, rays.words
    copy = S.geometry_first[words[L.X_INSTANCE]] + np.int64(words[L.X_COPY])
    t = S.instance_first[copy] + np.int64(words[L.X_PRIMITIVE])
    if words[L.X_GEOMETRY] != uint32(0):
        t += S.instance_cut[copy]
    face = normalise(turned_by(S.instance_normal[copy], vec(ray, L.X_NORMAL)))
    cosine = dot(face, vec(ray, L.X_WAY))
    front = cosine < ZERO
    if not front:
        face = opposite(face)
    material = np.int64(S.corner_words[t, L.N_MATERIAL])
    return Hit(t, copy, material, ray[L.X_U], ray[L.X_V], face, abs(cosine), front)


@njit(**PIECE)
def kept_by_pane(f, kind, cosine):
    """Light that a clear pane or a weave of a material row lets through straight, RGB."""
    if kind == L.KIND_WOVEN:
        return dimmed(WHITE, f[L.M_OPEN])
    mirrored = pane_reflectance(cosine, f[L.M_IOR], kind == L.KIND_SHEET)
    return dimmed(rgb(f, L.M_RED), f[L.M_TRANSMISSION] * (ONE - mirrored))


@njit(**PIECE)
def visibility(rays, start, way, far):
    """What light keeps on a straight way of length ``far``: RGB in 0…1."""
    S, ray, words = rays.S, rays.record, rays.words
    set_ray(ray, words, start, way, far, _BLOCKING)
    rays.counts[0] += 1
    occluded1(S.scene, rays.address, uint64(0))
    if ray[L.X_FAR] < ZERO:
        return BLACK
    kept = WHITE
    if S.panes != uint64(0):
        left = far
        for _ in range(MAX_PANES):
            set_ray(ray, words, start, way, left, _PANES)
            rays.counts[0] += 1
            intersect1(S.panes, rays.address, uint64(0))
            if met_nothing(words):
                break
            hit = hit_of(rays)
            kind = S.material_ints[hit.material, L.M_KIND]
            kept = times(kept, kept_by_pane(S.material_floats[hit.material], kind, hit.cosine))
            gone = ray[L.X_FAR]
            start = offset(along(start, way, gone), hit.face, way)
            left -= gone
            if left <= ZERO or brightest(kept) <= ZERO:
                break
    return kept
