"""Surfaces: a matte base under a GGX lobe, metal or dielectric, that loses no energy.

GGX with height-correlated Smith masking (Heitz 2014), sampled by visible normals (Heitz 2018);
lost multiple scattering put back after Turquin 2019; the matte base keeps what the coat does not
reflect, in the reciprocal form (1−E(i))(1−E(o))/(1−Ē) of Kulla & Conty 2017. Surfaces rougher
than `COAT_FADE` lose their coat smoothly and are purely matte at roughness 1.
"""

import math

import numpy as np
from numba import njit

from .. import layout as L
from .numbers import FOUR, HALF, INV_PI, ONE, PI, PIECE, TWO, TWO_PI, ZERO, luminance

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


@njit(**PIECE)
def prepare(r, g, b, roughness, metallic, oz, energy, energy_mean):
    """What evaluating a surface needs of the outgoing side, found once a vertex.

    Returns the chance to sample the lobe, the matte factor, strength of the coat, alpha, the
    Smith term of the outgoing direction and the share of light a white lobe loses.
    """
    coat = coat_strength(roughness) if metallic < ONE else ZERO
    matte = (ONE - metallic) * INV_PI
    taken = ZERO
    if coat > ZERO:
        taken = look_up_energy(energy[1], roughness, oz)
        matte *= (ONE - taken) / (ONE - _mean_energy(energy_mean, roughness))
    shiny = (ONE - metallic) * taken + metallic * luminance(r, g, b)
    base = (ONE - metallic) * (ONE - taken) * luminance(r, g, b)
    total = base + shiny
    if total <= ZERO or shiny <= ZERO:
        return ZERO, matte, coat, ONE, ZERO, ZERO
    chance = shiny / total
    # What a lobe mirrors of a bright window is many times the rest: found too rarely it speckles. And
    # where a surface mirrors nearly all, each ray for the base is a dark spot.
    if chance < ONE:
        chance = min(max(chance, LEAST_LOBE), MOST_LOBE)
    alpha = max(roughness * roughness, ALPHA_MIN)
    white = look_up_energy(energy[0], roughness, oz)
    lost = (ONE - white) / max(white, np.float32(0.05))
    return chance, matte, coat, alpha, _smith_lambda(alpha, oz), lost


@njit(**PIECE)
def evaluate(
    r, g, b, roughness, metallic, chance, matte, coat, alpha, lo, lost,
    ox, oy, oz, ix, iy, iz, energy,
):  # fmt: skip
    """f·cos (RGB) and sampling density for directions in the local frame, z the normal."""
    if iz <= ZERO or oz <= ZERO:
        return ZERO, ZERO, ZERO, ZERO
    density = (ONE - chance) * iz * INV_PI
    k = matte
    if coat > ZERO:
        k *= ONE - look_up_energy(energy[1], roughness, iz)
    fr, fg, fb = r * k, g * k, b * k
    if chance > ZERO:
        hx, hy, hz = ox + ix, oy + iy, oz + iz
        scale = ONE / math.sqrt(max(hx * hx + hy * hy + hz * hz, np.float32(1e-20)))
        hz *= scale
        oh = max((ox * hx + oy * hy) * scale + oz * hz, np.float32(1e-6))
        d = ggx(alpha, hz)
        li = _smith_lambda(alpha, iz)
        base = d / ((ONE + lo + li) * FOUR * oz * iz)
        if coat > ZERO and metallic < ONE:
            f = schlick(F0_DIELECTRIC, oh) * coat * (ONE + F0_DIELECTRIC * lost)
            f *= (ONE - metallic) * base
            fr, fg, fb = fr + f, fg + f, fb + f
        if metallic > ZERO:
            m = metallic * base
            fr += m * schlick(r, oh) * (ONE + r * lost)
            fg += m * schlick(g, oh) * (ONE + g * lost)
            fb += m * schlick(b, oh) * (ONE + b * lost)
        density += chance * d / ((ONE + lo) * FOUR * oz)
    return fr * iz, fg * iz, fb * iz, density


@njit(**PIECE)
def mirrored_share(g, roughness, matte, coat, iz, fg, energy):
    """Share of f·cos (judged in green) that the lobe mirrors; the rest is scattered by the base."""
    k = matte
    if coat > ZERO:
        k *= ONE - look_up_energy(energy[1], roughness, iz)
    return min(max(ONE - g * k * iz / max(fg, np.float32(1e-12)), ZERO), ONE)


@njit(**PIECE)
def visible_normal(roughness, ox, oy, oz, u, v):
    """A microfacet normal as it is seen from (ox, oy, oz), in the local frame (Heitz 2018)."""
    alpha = max(roughness * roughness, ALPHA_MIN)
    sx, sy, sz = alpha * ox, alpha * oy, oz
    k = ONE / math.sqrt(sx * sx + sy * sy + sz * sz)
    sx, sy, sz = sx * k, sy * k, sz * k
    # Visible normals as a cap of the sphere (Dupuy & Benyoub 2023).
    phi = TWO_PI * u
    z = (ONE - v) * (ONE + sz) - sz
    s = math.sqrt(max(ONE - z * z, ZERO))
    hx, hy, hz = s * math.cos(phi) + sx, s * math.sin(phi) + sy, z + sz
    hx, hy = hx * alpha, hy * alpha
    k = ONE / math.sqrt(max(hx * hx + hy * hy + hz * hz, np.float32(1e-20)))
    hx, hy, hz = hx * k, hy * k, hz * k
    return hx, hy, hz


@njit(**PIECE)
def sample(roughness, chance, ox, oy, oz, u, v, w):
    """An incoming direction in the local frame: matte by cosine, lobe by visible normals."""
    if w >= chance:
        # Without a lobe (chance 0) this is every direction.
        radius, phi = math.sqrt(u), TWO_PI * v
        x, y = radius * math.cos(phi), radius * math.sin(phi)
        return x, y, math.sqrt(max(ONE - u, np.float32(1e-12)))
    hx, hy, hz = visible_normal(roughness, ox, oy, oz, u, v)
    p = TWO * (ox * hx + oy * hy + oz * hz)
    return p * hx - ox, p * hy - oy, p * hz - oz


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
