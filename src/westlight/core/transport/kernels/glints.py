"""Glints: the sun mirrored by flat smooth surfaces, looked for from the places it is thrown at.

A polished floor or the water in front of a window throws the sun on walls and ceiling. Rays that leave
such a place by chance seldom meet the floor just where it mirrors the sun, and the few that do are
speckles. But all floors of one way mirror the sun from the same direction: around it rays are drawn, by
the facets of the surface (GGX, Walter et al. 2007), and weighed against those that go by chance (Veach &
Guibas 1995).
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
    ONE,
    OUTLINE,
    PIECE,
    TWO,
    TWO_PI,
    ZERO,
    dot,
    frame,
    power_heuristic,
)
from .patches import LEAST_ROUGH
from .points import point2
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
from .skies import parted, sample_sun
from .surface import evaluate, ggx, mirrored_share, pane_reflectance, prepare

_NEAR = np.float32(1e-4)


@njit(**PIECE)
def looks_for_glints(S, slot_of):
    """Whether there is a sun, and a flat smooth surface that mirrors it."""
    s = S.glint_sun[0]
    return s >= 0 and slot_of[s] >= 0


@njit(**PIECE)
def glint_density(S, dx, dy, dz):
    """Density per steradian with which `_glint_direction` draws a direction."""
    f = S.source_floats[S.glint_sun[0]]
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
    f = S.source_floats[S.glint_sun[0]]
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


@njit(**OUTLINE)
def _smooth_place(
    S, ox, oy, oz, dx, dy, dz, gx, gy, gz, outside, ray, words, address, counts
):  # fmt: skip
    """What a ray from (ox, oy, oz), facing (gx, gy, gz), meets behind clear panes: whether a surface, its
    place, face normal towards the ray, triangle, copy, material and (u, v); whether it is outside;
    and what the panes keep RGB."""
    closed = S.portal_floats.shape[0] > 0 and S.portal_state[L.G_CLOSED] == 1
    x, y, z = offset(ox, oy, oz, gx, gy, gz, dx, dy, dz)
    tr = tg = tb = ONE
    behind = False
    for _ in range(MAX_PANES):
        set_ray(ray, words, x, y, z, dx, dy, dz, INFINITE, ray_mask(1, behind, True))
        counts[0] += 1
        intersect1(S.scene, address, uint64(0))
        if words[18] == NO_HIT or words[19] == NO_HIT:
            break
        row, nx, ny, nz, cosine = face_of_hit(S, words, ray)
        far = ray[8]
        px, py, pz = x + dx * far, y + dy * far, z + dz * far
        if closed:
            outside = still_outside(S, x, y, z, px, py, pz, outside)
        if cosine > ZERO:
            nx, ny, nz = -nx, -ny, -nz
        kind = S.material_ints[row, L.M_KIND]
        if kind == L.KIND_SURFACE:
            return (
                True, px, py, pz, nx, ny, nz, np.int64(triangle_of(S, words)), instance_of(S, words),
                np.int64(row), ray[15], ray[16], outside, tr, tg, tb,
            )  # fmt: skip
        if kind != L.KIND_SHEET and kind != L.KIND_INTERFACE:
            break
        f = S.material_floats[row]
        keep = f[L.M_TRANSMISSION]
        keep *= ONE - pane_reflectance(abs(cosine), f[L.M_IOR], kind == L.KIND_SHEET)
        tr, tg, tb = tr * keep * f[0], tg * keep * f[1], tb * keep * f[2]
        x, y, z = offset(px, py, pz, nx, ny, nz, dx, dy, dz)
        behind = True
    return (
        False, x, y, z, ZERO, ZERO, ONE, np.int64(0), np.int64(0), np.int64(0), ZERO, ZERO, outside,
        ZERO, ZERO, ZERO,
    )  # fmt: skip


@njit(**OUTLINE)
def _sun_sent(S, place, dx, dy, dz, seed, index, depth, calm, ray, words, address, counts):
    """Sunlight that a smooth place sends back along a ray, RGB; 0 from places that are not smooth."""
    _, x, y, z, gx, gy, gz, t, inst, row, u, v, outside, tr, tg, tb = place
    s = S.glint_sun[0]
    sun = S.source_floats[s]
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
    a, c = point2(seed, index, 7902 + depth * 4096)
    ix, iy, iz = sample_sun(sun, a, c)
    cosine = dot(ix, iy, iz, nx, ny, nz)
    if cosine <= ZERO or dot(ix, iy, iz, gx, gy, gz) <= ZERO:
        return ZERO, ZERO, ZERO
    tx, ty, tz, bx, by, bz = frame(nx, ny, nz)
    cz = max(dot(vx, vy, vz, nx, ny, nz), np.float32(1e-3))
    chance, matte, coat, alpha, lo, lost = prepare(
        r, g, b, roughness, metallic, cz, S.energy, S.energy_mean
    )
    fr, fg, fb, _ = evaluate(
        r, g, b, roughness, metallic, chance, matte, coat, alpha, lo, lost,
        dot(vx, vy, vz, tx, ty, tz), dot(vx, vy, vz, bx, by, bz), cz,
        dot(ix, iy, iz, tx, ty, tz), dot(ix, iy, iz, bx, by, bz), cosine, S.energy,
    )  # fmt: skip
    k = sun[L.S_SOLID_ANGLE]
    if S.portal_state[L.G_PARTED] == 1 and chance > ZERO:
        k *= parted(sun, mirrored_share(g, roughness, matte, coat, cosine, fg, S.energy))
    if (
        S.portal_floats.shape[0] > 0
        and (S.portal_state[L.G_CLOSED] | S.portal_state[L.G_GAINED]) != 0
    ):
        k *= admitted(S, x, y, z, ix, iy, iz, outside)
    if not fr + fg + fb > ZERO or not k > ZERO:
        return ZERO, ZERO, ZERO
    qx, qy, qz = offset(x, y, z, gx, gy, gz, ix, iy, iz)
    vr, vg, vb = visibility(S, ray, words, address, qx, qy, qz, ix, iy, iz, INFINITE, counts)
    return (
        tr * fr * sun[4] * k * vr, tg * fg * sun[5] * k * vg, tb * fb * sun[6] * k * vb,
    )  # fmt: skip


@njit(**PIECE)
def glint_vertex(
    S, slot_of, acc, also, share, seed, index, depth, calm, outside, ray, words, address, counts,
    sx, sy, sz, gx, gy, gz, nx, ny, nz, tx, ty, tz, bx, by, bz, ox, oy, oz,
    tr, tg, tb, r, g, b, roughness, metallic, chance, matte, coat, alpha, lo, lost,
):  # fmt: skip
    """Light of the sun that a smooth surface throws at (sx, sy, sz)."""
    u, v = point2(seed, index, 7900 + depth * 4096)
    w, _ = point2(seed, index, 7901 + depth * 4096)
    dx, dy, dz, density = _glint_direction(S, u, v, w)
    cosine = dot(dx, dy, dz, nx, ny, nz)
    if not density > ZERO or cosine <= ZERO or dot(dx, dy, dz, gx, gy, gz) <= ZERO:
        return
    fr, fg, fb, other = evaluate(
        r, g, b, roughness, metallic, chance, matte, coat, alpha, lo, lost, ox, oy, oz,
        dot(dx, dy, dz, tx, ty, tz), dot(dx, dy, dz, bx, by, bz), cosine, S.energy,
    )  # fmt: skip
    k = power_heuristic(density, other) / density
    if not (fr + fg + fb) * k > ZERO:
        return
    place = _smooth_place(
        S, sx, sy, sz, dx, dy, dz, gx, gy, gz, outside, ray, words, address, counts
    )
    if not place[0]:
        return
    cr, cg, cb = _sun_sent(
        S, place, dx, dy, dz, seed, index, depth + 1, calm, ray, words, address, counts
    )
    if depth == 0 and also == 0 and chance > ZERO:
        also = L.O_MIRRORED
        share = mirrored_share(g, roughness, matte, coat, cosine, fg, S.energy)
    slot = slot_of[S.glint_sun[0]]
    add(acc, slot, L.O_BOUNCED, also, share, tr * fr * cr * k, tg * fg * cg * k, tb * fb * cb * k)
