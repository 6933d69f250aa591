"""Surfaces: a matte base under a GGX lobe, metal or dielectric, that loses no energy.

GGX with height-correlated Smith masking (Heitz 2014), sampled by visible normals (Heitz 2018);
lost multiple scattering put back after Turquin 2019; the matte base keeps what the coat does not
reflect, in the reciprocal form (1−E(i))(1−E(o))/(1−Ē) of Kulla & Conty 2017. Surfaces rougher
than `COAT_FADE` lose their coat smoothly and are purely matte at roughness 1.
"""

import math
from typing import Any, NamedTuple

import numpy as np
from numba import njit

from .. import layout as L
from .numbers import (
    BLACK,
    FOUR,
    HALF,
    INV_PI,
    ONE,
    PI,
    PIECE,
    TWO,
    TWO_PI,
    ZERO,
    Rgb,
    Vec,
    along,
    brightness,
    dimmed,
    dot,
    opposite,
    plus,
    scaled,
)

F0_DIELECTRIC = np.float32(0.04)
COAT_FADE = np.float32(0.85)
ALPHA_MIN = np.float32(0.0016)
#: Chance of sampling the lobe of a surface that has one, at least and, unless it is metal, at most.
LEAST_LOBE, MOST_LOBE = np.float32(0.25), np.float32(0.97)


@njit(**PIECE)
def coat_strength(roughness):
    """Share of the dielectric coat: 1 up to `COAT_FADE`, 0 at roughness 1."""
    return min(ONE, max(ZERO, (ONE - roughness) / (ONE - COAT_FADE)))


@njit(**PIECE)
def look_up_energy(table, roughness, cosine):
    rows, columns = table.shape
    r = min(max(roughness, ZERO), ONE) * np.float32(rows - 1)
    c = min(max(cosine, ZERO), ONE) * np.float32(columns - 1)
    i, j = min(int(r), rows - 2), min(int(c), columns - 2)
    a, b = r - np.float32(i), c - np.float32(j)
    low = table[i, j] * (ONE - b) + table[i, j + 1] * b
    high = table[i + 1, j] * (ONE - b) + table[i + 1, j + 1] * b
    return low * (ONE - a) + high * a


@njit(**PIECE)
def _mean_energy(table, roughness):
    r = min(max(roughness, ZERO), ONE) * np.float32(table.shape[0] - 1)
    i = min(int(r), table.shape[0] - 2)
    a = r - np.float32(i)
    return table[i] * (ONE - a) + table[i + 1] * a


@njit(**PIECE)
def schlick(f0, cosine):
    """Fresnel reflectance (Schlick 1994)."""
    m = ONE - min(max(cosine, ZERO), ONE)
    m2 = m * m
    return f0 + (ONE - f0) * m2 * m2 * m


@njit(**PIECE)
def ggx(alpha, nh):
    """Share of facets per steradian whose normal has cosine ``nh`` to that of the surface."""
    a2 = alpha * alpha
    d = nh * nh * (a2 - ONE) + ONE
    return a2 / max(PI * d * d, np.float32(1e-12))


@njit(**PIECE)
def _smith_lambda(alpha, cosine):
    c2 = cosine * cosine
    t2 = max(ONE - c2, ZERO) / max(c2, np.float32(1e-12))
    return HALF * (math.sqrt(ONE + alpha * alpha * t2) - ONE)


@njit(**PIECE)
def gloss_taken(roughness, cosine, energy):
    """Share of light that the gloss of a dielectric mirrors before it gets to the matte base."""
    if coat_strength(roughness) > ZERO:
        return look_up_energy(energy[1], roughness, cosine)
    return ZERO


class Lobes(NamedTuple):
    """What evaluating a surface needs of the outgoing side, found once a vertex."""

    colour: Rgb  #: reflectance
    roughness: Any
    metallic: Any
    chance: Any  #: with which the lobe is sampled; 0 without one
    matte: Any  #: factor of the base, per steradian
    coat: Any  #: strength of a dielectric's lobe
    alpha: Any  #: of GGX
    shaded: Any  #: Smith's term of the outgoing direction
    lost: Any  #: share of light that a white lobe loses to scattering between facets
    viewer: Vec  #: direction light goes on to, in the surface's frame


@njit(**PIECE)
def prepare(S, colour, roughness, metallic, viewer):
    """The `Lobes` of a surface that is looked at along ``viewer``, in its frame."""
    coat = coat_strength(roughness) if metallic < ONE else ZERO
    matte = (ONE - metallic) * INV_PI
    taken = ZERO
    if coat > ZERO:
        taken = look_up_energy(S.energy[1], roughness, viewer.z)
        matte *= (ONE - taken) / (ONE - _mean_energy(S.energy_mean, roughness))
    shiny = (ONE - metallic) * taken + metallic * brightness(colour)
    base = (ONE - metallic) * (ONE - taken) * brightness(colour)
    if base + shiny <= ZERO or shiny <= ZERO:
        return Lobes(colour, roughness, metallic, ZERO, matte, coat, ONE, ZERO, ZERO, viewer)
    chance = shiny / (base + shiny)
    # What a lobe mirrors of a bright window is many times the rest: found too rarely it speckles. And
    # where a surface mirrors nearly all, each ray for the base is a dark spot.
    if chance < ONE:
        chance = min(max(chance, LEAST_LOBE), MOST_LOBE)
    alpha = max(roughness * roughness, ALPHA_MIN)
    white = look_up_energy(S.energy[0], roughness, viewer.z)
    lost = (ONE - white) / max(white, np.float32(0.05))
    shaded = _smith_lambda(alpha, viewer.z)
    return Lobes(colour, roughness, metallic, chance, matte, coat, alpha, shaded, lost, viewer)


@njit(**PIECE)
def _base(S, lobes, cosine):
    """Factor of the matte base for light that comes in at a cosine."""
    if lobes.coat > ZERO:
        return lobes.matte * (ONE - look_up_energy(S.energy[1], lobes.roughness, cosine))
    return lobes.matte


@njit(**PIECE)
def _metal(reflectance, facing, lost):
    """Reflectance of metal facets, with what scatters between them put back (Turquin 2019)."""
    return schlick(reflectance, facing) * (ONE + reflectance * lost)


@njit(**PIECE)
def evaluate(S, lobes, chance, into):
    """f·cos (RGB) and sampling density of light from a direction in the surface's frame.

    ``chance`` is that of the lobes, or 0 where the base alone is to be lit.
    """
    out = lobes.viewer
    if into.z <= ZERO or out.z <= ZERO:
        return BLACK, ZERO
    density = (ONE - chance) * into.z * INV_PI
    f = dimmed(lobes.colour, _base(S, lobes, into.z))
    if chance > ZERO:
        half = plus(out, into)
        scale = ONE / math.sqrt(max(dot(half, half), np.float32(1e-20)))
        facing = max(dot(out, half) * scale, np.float32(1e-6))
        d = ggx(lobes.alpha, half.z * scale)
        shaded = ONE + lobes.shaded + _smith_lambda(lobes.alpha, into.z)
        base = d / (shaded * FOUR * out.z * into.z)
        if lobes.coat > ZERO and lobes.metallic < ONE:
            k = schlick(F0_DIELECTRIC, facing) * lobes.coat * (ONE + F0_DIELECTRIC * lobes.lost)
            k *= (ONE - lobes.metallic) * base
            f = Rgb(f.r + k, f.g + k, f.b + k)
        if lobes.metallic > ZERO:
            m, c = lobes.metallic * base, lobes.colour
            f = Rgb(
                f.r + m * _metal(c.r, facing, lobes.lost),
                f.g + m * _metal(c.g, facing, lobes.lost),
                f.b + m * _metal(c.b, facing, lobes.lost),
            )
        density += chance * d / ((ONE + lobes.shaded) * FOUR * out.z)
    return dimmed(f, into.z), density


@njit(**PIECE)
def mirrored_share(S, lobes, cosine, green):
    """Share of f·cos (judged in ``green``) that the lobe mirrors; the rest is scattered by the base."""
    scattered = lobes.colour.g * _base(S, lobes, cosine) * cosine
    return min(max(ONE - scattered / max(green, np.float32(1e-12)), ZERO), ONE)


@njit(**PIECE)
def visible_normal(roughness, out, u, v):
    """A microfacet normal as it is seen from a direction, in the local frame (Heitz 2018)."""
    alpha = max(roughness * roughness, ALPHA_MIN)
    s = Vec(alpha * out.x, alpha * out.y, out.z)
    s = scaled(s, ONE / math.sqrt(dot(s, s)))
    # Visible normals as a cap of the sphere (Dupuy & Benyoub 2023).
    phi = TWO_PI * u
    z = (ONE - v) * (ONE + s.z) - s.z
    r = math.sqrt(max(ONE - z * z, ZERO))
    h = Vec((r * math.cos(phi) + s.x) * alpha, (r * math.sin(phi) + s.y) * alpha, z + s.z)
    return scaled(h, ONE / math.sqrt(max(dot(h, h), np.float32(1e-20))))


@njit(**PIECE)
def even_direction(u, v):
    """A direction in the frame of a matte surface, drawn by its cosine."""
    radius, phi = math.sqrt(u), TWO_PI * v
    z = math.sqrt(max(ONE - u, np.float32(1e-12)))
    return Vec(radius * math.cos(phi), radius * math.sin(phi), z)


@njit(**PIECE)
def sample(lobes, u, v, by_base):
    """An incoming direction in the surface's frame: matte by cosine, lobe by visible normals."""
    if by_base:
        return even_direction(u, v)
    h = visible_normal(lobes.roughness, lobes.viewer, u, v)
    return along(opposite(lobes.viewer), h, TWO * dot(lobes.viewer, h))


@njit(**PIECE)
def fresnel_dielectric(cosine, ior):
    """Exact unpolarised Fresnel reflectance entering a dielectric of index ``ior``."""
    c = min(max(cosine, ZERO), ONE)
    s2 = (ONE - c * c) / (ior * ior)
    if s2 >= ONE:
        return ONE
    t = math.sqrt(ONE - s2)
    rs = (c - ior * t) / (c + ior * t)
    rp = (ior * c - t) / (ior * c + t)
    return HALF * (rs * rs + rp * rp)


@njit(**PIECE)
def pane_reflectance(cosine, ior, sheet):
    """Reflectance of a clear pane met once: both faces of a sheet with all echoes, or one face."""
    r = fresnel_dielectric(cosine, ior)
    return TWO * r / (ONE + r) if sheet else r


@njit(**PIECE)
def coat_share(f, cosine, energy):
    """Share of the light that a clear coat of a material row mirrors before it gets to what lies below."""
    return f[L.M_COAT] * look_up_energy(energy[1], f[L.M_COAT_ROUGH], cosine)
