"""Glints: sun and bright sky mirrored by flat smooth surfaces, looked for from the places they light.

A polished floor or the water in front of a window throws the sun on walls and ceiling. Rays that leave
such a place by chance seldom meet the floor just where it mirrors the sun, and the few that do are
speckles. But all floors of one way mirror the sun from the same direction: around it rays are drawn, by
the facets of the surface (GGX, Walter et al. 2007), and weighed against those that go by chance (Veach &
Guibas 1995). The same goes for the bright part of a sky in what is level.
"""

import math

import numpy as np
from numba import njit, uint64

from .. import layout as L
from ..embree import intersect1
from .layers import layer_taken
from .light import add
from .look import surface_at
from .numbers import (
    FOUR,
    INFINITE,
    NO,
    ONE,
    OUTLINE,
    PIECE,
    TWO,
    TWO_PI,
    YES,
    ZERO,
    dot,
    frame,
    normalise,
    power_heuristic,
)
from .patches import LEAST_ROUGH
from .points import bits2, point2
from .portals import admitted, still_outside
from .rays import (
    MAX_PANES,
    NO_HIT,
    face_of_hit,
    instance_of,
    offset,
    ray_mask,
    set_ray,
    triangle_of,
    visibility,
)
from .skies import parted, sample_sky, sample_sun, sky_colour, sky_parted, sky_row
from .surface import evaluate, ggx, mirrored_share, pane_reflectance, prepare, sample

_NEAR = np.float32(1e-4)
_STOPPED, _OPEN, _SURFACE = range(3)


@njit(**PIECE)
def looks_for_glints(S, slot_of):
    """Whether a flat smooth surface mirrors a sun or a sky that is wanted."""
    sun, sky = S.glint_sources[0], S.glint_sources[1]
    return (sun >= 0 and slot_of[sun] >= 0) or (sky >= 0 and slot_of[sky] >= 0)


@njit(**PIECE)
def left_to_chance(S, slot_of, density, dx, dy, dz):
    """Weights of the light of sun and sky from a smooth place that a ray met with ``density``."""
    sun, sky = S.glint_sources[0], S.glint_sources[1]
    of_sun = of_sky = ONE
    if sun >= 0 and slot_of[sun] >= 0:
        of_sun = power_heuristic(density, glint_density(S, dx, dy, dz))
    if sky >= 0 and slot_of[sky] >= 0:
        of_sky = power_heuristic(density, sky_glint_density(S, dx, dy, dz))
    return of_sun, of_sky


@njit(**PIECE)
def glint_density(S, dx, dy, dz):
    """Density per steradian with which `_glint_direction` draws a direction."""
    f = S.source_floats[S.glint_sources[0]]
    hx, hy, hz = f[0] - dx, f[1] - dy, f[2] - dz
    size = math.sqrt(max(dot(hx, hy, hz, hx, hy, hz), np.float32(1e-12)))
    hx, hy, hz = hx / size, hy / size, hz / size
    total = ZERO
    for k in range(S.glints.shape[0]):
        g = S.glints[k]
        up = dot(g[0], g[1], g[2], hx, hy, hz)
        if up > ZERO:
            total += g[L.H_SHARE] * ggx(g[L.H_ALPHA], up) * up
    return total / (FOUR * max(dot(f[0], f[1], f[2], hx, hy, hz), _NEAR))


@njit(**PIECE)
def _glint_direction(S, u, v, w):
    """Direction towards where a smooth surface mirrors the sun, and its density per steradian."""
    f = S.source_floats[S.glint_sources[0]]
    k = 0
    while k < S.glints.shape[0] - 1 and w >= S.glints[k, L.H_SHARE]:
        w -= S.glints[k, L.H_SHARE]
        k += 1
    g = S.glints[k]
    a2 = g[L.H_ALPHA] * g[L.H_ALPHA]
    up2 = (ONE - u) / (ONE + (a2 - ONE) * u)
    side = math.sqrt(max(ONE - up2, ZERO))
    a, b, c = side * math.cos(TWO_PI * v), side * math.sin(TWO_PI * v), math.sqrt(up2)
    tx, ty, tz, bx, by, bz = frame(g[0], g[1], g[2])
    hx, hy, hz = tx * a + bx * b + g[0] * c, ty * a + by * b + g[1] * c, tz * a + bz * b + g[2] * c
    facing = dot(f[0], f[1], f[2], hx, hy, hz)
    if facing <= ZERO:
        return ZERO, ZERO, ONE, ZERO
    dx, dy, dz = f[0] - TWO * facing * hx, f[1] - TWO * facing * hy, f[2] - TWO * facing * hz
    return dx, dy, dz, glint_density(S, dx, dy, dz)


@njit(**PIECE)
def sky_glint_density(S, dx, dy, dz):
    """Density per steradian with which rays are sent to where what is level mirrors the bright sky."""
    if dz >= ZERO:
        return ZERO
    i = S.source_ints[S.glint_sources[1]]
    return S.sky_table[sky_row(i, True, dx, dy, -dz), L.K_DENSITY]


@njit(**OUTLINE)
def _beyond(
    S, ox, oy, oz, dx, dy, dz, gx, gy, gz, matte, outside, ray, words, address, counts
):  # fmt: skip
    """What a ray from (ox, oy, oz), facing (gx, gy, gz), comes to behind clear panes: `OPEN`, a `SURFACE`
    or what ends it; place, face normal towards the ray, triangle, copy, material and (u, v); whether
    that is outside; and what the panes keep RGB."""
    closed = S.portal_floats.shape[0] > 0 and S.portal_state[L.G_CLOSED] == 1
    x, y, z = offset(ox, oy, oz, gx, gy, gz, dx, dy, dz)
    tr = tg = tb = ONE
    behind = NO
    end = _STOPPED
    nx, ny, nz = gx, gy, gz
    t = inst = row = np.int64(0)
    for _ in range(MAX_PANES):
        set_ray(ray, words, x, y, z, dx, dy, dz, INFINITE, ray_mask(1, behind, matte))
        counts[0] += 1
        intersect1(S.scene, address, uint64(0))
        if words[18] == NO_HIT:
            end = _OPEN
            break
        if words[19] == NO_HIT:
            break
        material, nx, ny, nz, cosine = face_of_hit(S, words, ray)
        row = material
        far = ray[8]
        px, py, pz = x + dx * far, y + dy * far, z + dz * far
        if closed:
            outside = still_outside(S, x, y, z, px, py, pz, outside)
        if cosine > ZERO:
            nx, ny, nz = -nx, -ny, -nz
        x, y, z = px, py, pz
        kind = S.material_ints[row, L.M_KIND]
        if kind == L.KIND_SURFACE:
            end = _SURFACE
            t, inst = np.int64(triangle_of(S, words)), instance_of(S, words)
            break
        f = S.material_floats[row]
        if kind == L.KIND_WOVEN:
            keep = f[L.M_OPEN]
            tr, tg, tb = tr * keep, tg * keep, tb * keep
        elif kind == L.KIND_SHEET or kind == L.KIND_INTERFACE:
            keep = f[L.M_TRANSMISSION]
            keep *= ONE - pane_reflectance(abs(cosine), f[L.M_IOR], kind == L.KIND_SHEET)
            tr, tg, tb = tr * keep * f[0], tg * keep * f[1], tb * keep * f[2]
        else:
            break
        x, y, z = offset(x, y, z, nx, ny, nz, dx, dy, dz)
        behind = True
    return end, x, y, z, nx, ny, nz, t, inst, row, ray[15], ray[16], outside, tr, tg, tb


@njit(**OUTLINE)
def _sent_on(S, s, place, dx, dy, dz, seed, index, depth, calm, ray, words, address, counts):
    """Light of sun or sky ``s`` that a smooth place sends back along a ray, RGB; 0 if it is not smooth."""
    _, x, y, z, gx, gy, gz, t, inst, row, u, v, outside, tr, tg, tb = place
    sun = S.source_ints[s, L.S_KIND] == L.SOURCE_SUN
    vx, vy, vz = -dx, -dy, -dz
    nx, ny, nz, r, g, b, roughness, metallic = surface_at(
        S, t, inst, row, u, v, depth, gx, gy, gz, vx, vy, vz
    )
    f = S.material_floats[row]
    if f[L.M_COAT] > ZERO:
        nx, ny, nz, coated, k = layer_taken(
            S, f, seed, index, depth, vx, vy, vz, nx, ny, nz, nx, ny, nz
        )
        tr, tg, tb = tr * k, tg * k, tb * k
        if coated:
            r = g = b = metallic = ONE
            roughness = f[L.M_COAT_ROUGH]
    roughness = max(roughness, calm)
    if roughness >= LEAST_ROUGH:
        return ZERO, ZERO, ZERO
    tx, ty, tz, bx, by, bz = frame(nx, ny, nz)
    cx, cy = dot(vx, vy, vz, tx, ty, tz), dot(vx, vy, vz, bx, by, bz)
    cz = max(dot(vx, vy, vz, nx, ny, nz), np.float32(1e-3))
    chance, matte, coat, alpha, lo, lost = prepare(
        r, g, b, roughness, metallic, cz, S.energy, S.energy_mean
    )
    a, c = point2(seed, index, (7902 if sun else 7905) + depth * 4096)
    even = True
    if sun:
        ix, iy, iz = sample_sun(S.source_floats[s], a, c)
        ax, ay, az = (
            dot(ix, iy, iz, tx, ty, tz),
            dot(ix, iy, iz, bx, by, bz),
            dot(ix, iy, iz, nx, ny, nz),
        )
    else:
        # The sky is looked up where the facets mirror it: as a path of its own would.
        even = a >= chance
        w = ONE if even else ZERO
        if chance > ZERO:
            a = (a - chance) / (ONE - chance) if even else a / chance
        ax, ay, az = sample(roughness, chance, cx, cy, cz, min(a, np.float32(0.9999999)), c, w)
        ix, iy, iz = normalise(
            tx * ax + bx * ay + nx * az, ty * ax + by * ay + ny * az, tz * ax + bz * ay + nz * az
        )
    if az <= ZERO or dot(ix, iy, iz, gx, gy, gz) <= ZERO:
        return ZERO, ZERO, ZERO
    fr, fg, fb, density = evaluate(
        r, g, b, roughness, metallic, chance, matte, coat, alpha, lo, lost, cx, cy, cz, ax, ay, az,
        S.energy,
    )  # fmt: skip
    k = S.source_floats[s, L.S_SOLID_ANGLE] if sun else ONE / max(density, np.float32(1e-20))
    if (
        S.portal_floats.shape[0] > 0
        and (S.portal_state[L.G_CLOSED] | S.portal_state[L.G_GAINED]) != 0
    ):
        k *= admitted(S, x, y, z, ix, iy, iz, outside)
    if not fr + fg + fb > ZERO or not k > ZERO:
        return ZERO, ZERO, ZERO
    mirrored = ZERO
    parts = S.portal_state[L.G_PARTED] == 1
    if parts and chance > ZERO:
        mirrored = mirrored_share(g, roughness, matte, coat, az, fg, S.energy)
    if sun:
        qx, qy, qz = offset(x, y, z, gx, gy, gz, ix, iy, iz)
        vr, vg, vb = visibility(S, ray, words, address, qx, qy, qz, ix, iy, iz, INFINITE, counts)
        e = S.source_floats[s]
        er, eg, eb = e[4], e[5], e[6]
        if parts:
            k *= parted(e, mirrored)
    else:
        seen = _beyond(
            S, x, y, z, ix, iy, iz, gx, gy, gz, even, outside, ray, words, address, counts
        )
        if seen[0] != _OPEN:
            return ZERO, ZERO, ZERO
        vr, vg, vb = seen[13], seen[14], seen[15]
        er, eg, eb = (
            sky_parted(S, s, ix, iy, iz, mirrored) if parts else sky_colour(S, s, ix, iy, iz)
        )
    return tr * fr * er * k * vr, tg * fg * eg * k * vg, tb * fb * eb * k * vb


@njit(**PIECE)
def glint_vertex(
    S, slot_of, acc, also, share, seed, index, depth, calm, outside, ray, words, address, counts,
    sx, sy, sz, gx, gy, gz, nx, ny, nz, tx, ty, tz, bx, by, bz, ox, oy, oz,
    tr, tg, tb, r, g, b, roughness, metallic, chance, matte, coat, alpha, lo, lost,
):  # fmt: skip
    """Light of the sun and of a sky that a smooth surface throws at (sx, sy, sz)."""
    split = depth == 0 and also == 0 and chance > ZERO
    for n in range(2):
        s = np.int64(S.glint_sources[n])
        if s < 0 or slot_of[s] < 0:
            continue
        if n == 0:
            u, v = point2(seed, index, 7900 + depth * 4096)
            w, _ = point2(seed, index, 7901 + depth * 4096)
            dx, dy, dz, density = _glint_direction(S, u, v, w)
        else:
            i = S.source_ints[s]
            a, c = bits2(seed, index, 7904 + depth * 4096)
            first = i[L.S_TABLE] + i[L.S_TABLE_WIDTH] * i[L.S_TABLE_HEIGHT]
            dx, dy, dz, density = sample_sky(
                S.sky_table, first, i[L.S_TABLE_WIDTH], i[L.S_TABLE_HEIGHT], a, c
            )
            if dz <= ZERO:
                continue
            dz = -dz
        cosine = dot(dx, dy, dz, nx, ny, nz)
        if not density > ZERO or cosine <= ZERO or dot(dx, dy, dz, gx, gy, gz) <= ZERO:
            continue
        fr, fg, fb, other = evaluate(
            r, g, b, roughness, metallic, chance, matte, coat, alpha, lo, lost, ox, oy, oz,
            dot(dx, dy, dz, tx, ty, tz), dot(dx, dy, dz, bx, by, bz), cosine, S.energy,
        )  # fmt: skip
        k = power_heuristic(density, other) / density
        if not (fr + fg + fb) * k > ZERO:
            continue
        place = _beyond(
            S, sx, sy, sz, dx, dy, dz, gx, gy, gz, YES, outside, ray, words, address, counts
        )
        if place[0] != _SURFACE:
            continue
        cr, cg, cb = _sent_on(
            S, s, place, dx, dy, dz, seed, index, depth + 1, calm, ray, words, address, counts
        )
        if split:
            also = L.O_MIRRORED
            share = mirrored_share(g, roughness, matte, coat, cosine, fg, S.energy)
        add(
            acc,
            slot_of[s],
            L.O_BOUNCED,
            also,
            share,
            tr * fr * cr * k,
            tg * fg * cg * k,
            tb * fb * cb * k,
        )
