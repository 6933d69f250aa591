"""Patches of sun: light that enters by a portal, falls on a surface and goes on from there to a place.

Indoors the sun lights little of a room, but that little lights the rest, and a ray from a place
seldom meets it. So a place in a portal is drawn by the sunlight that enters there, the ray followed
to the surface it falls on, and that joined to the place: one step from the light's side (Lafortune &
Willems 1993), weighed against the rays that meet the patch by chance (Veach & Guibas 1995).
"""

import numpy as np
from numba import njit, uint64

from .. import layout as L
from ..embree import MASK_BLOCKER, MASK_SOLID, intersect1
from .look import surface_at
from .numbers import INFINITE, ONE, OUTLINE, PIECE, ZERO, dot, frame
from .points import point2
from .portals import admitted, cell_of, crosses
from .rays import NO_HIT, face_of_hit, instance_of, offset, set_ray, triangle_of, visibility
from .skies import parted, sample_sun
from .surface import coat_share, evaluate, mirrored_share, prepare

_SOLID = np.uint32(MASK_SOLID | MASK_BLOCKER)
#: Smoother surfaces send the sun on as from a mirror: rays by chance find that better.
LEAST_ROUGH = np.float32(0.3)
#: Nearer to a patch than this, in metres, the joining way is left to rays that go by chance.
_TOO_CLOSE = np.float32(0.01)


@njit(**PIECE)
def _entering(S, p, f):
    """How much of a sun row's light enters by a portal, up to a factor: area × cosine × gain."""
    g = S.portal_floats[p]
    c = -dot(f[0], f[1], f[2], g[9], g[10], g[11])
    return max(c, ZERO) * g[L.P_WIDTH] * g[L.P_HEIGHT] * g[L.P_GAIN]


@njit(**OUTLINE)
def patch_density(S, f, x, y, z, gx, gy, gz, dx, dy, dz):
    """Density per square metre with which a lit place, facing (gx, gy, gz), is drawn with the sun in
    direction (dx, dy, dz)."""
    total = met = ZERO
    for p in range(S.portal_floats.shape[0]):
        enters = _entering(S, p, f)
        total += enters
        if enters > ZERO and crosses(S.portal_floats[p], x, y, z, dx, dy, dz):
            g = S.portal_floats[p]
            cosine = abs(dot(dx, dy, dz, g[9], g[10], g[11]))
            met += enters / (g[L.P_WIDTH] * g[L.P_HEIGHT] * max(cosine, np.float32(1e-4)))
    if not met > ZERO:
        return ZERO
    return met / total * abs(dot(dx, dy, dz, gx, gy, gz))


@njit(**PIECE)
def looks_for_patches(S, x, y, z, gx, gy, gz, outside):
    """Whether a place is one from which patches of sun are looked for: indoors, by what cells know."""
    if S.portal_floats.shape[0] == 0 or outside:
        return False
    lift = ONE / S.cell_box[3]
    return cell_of(S, x + gx * lift, y + gy * lift, z + gz * lift) >= 0


@njit(**PIECE)
def not_by_patch(S, s, by_chance, x, y, z, gx, gy, gz, dx, dy, dz):
    """Weight of sun that a ray found at a lit place, with density ``by_chance`` per square metre there
    (0: patches were not looked for)."""
    if by_chance <= ZERO:
        return ONE
    by_patch = patch_density(S, S.source_floats[s], x, y, z, gx, gy, gz, dx, dy, dz)
    return by_chance * by_chance / (by_chance * by_chance + by_patch * by_patch)


@njit(**OUTLINE)
def lit_place(S, s, seed, index, dimension, ray, words, address, counts):
    """A place that sun ``s`` lights through a portal: found, place, face normal towards the sun, its
    triangle, copy, material and (u, v), and the direction to the sun."""
    f = S.source_floats[s]
    total = ZERO
    for p in range(S.portal_floats.shape[0]):
        total += _entering(S, p, f)
    nothing = (
        False, ZERO, ZERO, ZERO, ZERO, ZERO, ONE, np.int64(0), np.int64(0), np.int64(0), ZERO, ZERO,
        ZERO, ZERO, ONE,
    )  # fmt: skip
    if not total > ZERO:
        return nothing
    w, a = point2(seed, index, dimension)
    b, u = point2(seed, index, dimension + 1)
    v, _ = point2(seed, index, dimension + 2)
    chosen, run = 0, ZERO
    for p in range(S.portal_floats.shape[0]):
        enters = _entering(S, p, f)
        if enters > ZERO:
            chosen = p
            run += enters
            if w * total < run:
                break
    g = S.portal_floats[chosen]
    a, b = a * g[L.P_WIDTH], b * g[L.P_HEIGHT]
    ox, oy, oz = (
        g[0] + g[3] * a + g[6] * b, g[1] + g[4] * a + g[7] * b, g[2] + g[5] * a + g[8] * b
    )  # fmt: skip
    dx, dy, dz = sample_sun(f, u, v)
    if dot(dx, dy, dz, g[9], g[10], g[11]) >= ZERO:
        return nothing
    set_ray(ray, words, ox, oy, oz, -dx, -dy, -dz, INFINITE, _SOLID)
    counts[0] += 1
    intersect1(S.scene, address, uint64(0))
    if words[18] == NO_HIT or words[19] == NO_HIT:
        return nothing
    row, nx, ny, nz, cosine = face_of_hit(S, words, ray)
    if S.material_ints[row, L.M_KIND] != L.KIND_SURFACE:
        return nothing
    if cosine > ZERO:
        nx, ny, nz = -nx, -ny, -nz
    t = ray[8]
    return (
        True, ox - dx * t, oy - dy * t, oz - dz * t, nx, ny, nz, np.int64(triangle_of(S, words)),
        instance_of(S, words), np.int64(row), ray[15], ray[16], dx, dy, dz,
    )  # fmt: skip


@njit(**OUTLINE)
def patch_at(S, place, ix, iy, iz, calm):
    """What a lit place sends on in direction (ix, iy, iz) of its sun: f·cos RGB, and the share of it that
    is mirrored."""
    _, _, _, _, gx, gy, gz, t, inst, row, u, v, dx, dy, dz = place
    nx, ny, nz, r, g, b, roughness, metallic = surface_at(
        S, t, inst, row, u, v, np.int64(1), gx, gy, gz, ix, iy, iz
    )
    roughness = max(roughness, calm)
    if roughness < LEAST_ROUGH:
        return ZERO, ZERO, ZERO, ZERO
    tx, ty, tz, bx, by, bz = frame(nx, ny, nz)
    cz = max(dot(ix, iy, iz, nx, ny, nz), np.float32(1e-3))
    chance, matte, coat, alpha, lo, lost = prepare(
        r, g, b, roughness, metallic, cz, S.energy, S.energy_mean
    )
    az = dot(dx, dy, dz, nx, ny, nz)
    fr, fg, fb, _ = evaluate(
        r, g, b, roughness, metallic, chance, matte, coat, alpha, lo, lost,
        dot(ix, iy, iz, tx, ty, tz), dot(ix, iy, iz, bx, by, bz), cz,
        dot(dx, dy, dz, tx, ty, tz), dot(dx, dy, dz, bx, by, bz), az, S.energy,
    )  # fmt: skip
    f = S.material_floats[row]
    if f[L.M_COAT] > ZERO:
        # What the coat mirrors is left to rays by chance.
        k = ONE - coat_share(f, cz, S.energy)
        fr, fg, fb = fr * k, fg * k, fb * k
    mirrored = ZERO
    if chance > ZERO and S.portal_state[L.G_PARTED] == 1:
        mirrored = mirrored_share(g, roughness, matte, coat, az, fg, S.energy)
    return fr, fg, fb, mirrored


@njit(**OUTLINE)
def joined(S, s, place, sx, sy, sz, gx, gy, gz, calm, ray, words, address, counts):
    """Light of sun ``s`` that a lit place sends to (sx, sy, sz), facing (gx, gy, gz): direction to it, its
    density per steradian, and radiance over that density RGB (0 where something is between)."""
    _, x, y, z, nx, ny, nz, _, _, _, _, _, dx, dy, dz = place
    wx, wy, wz = x - sx, y - sy, z - sz
    d2 = dot(wx, wy, wz, wx, wy, wz)
    if d2 < _TOO_CLOSE * _TOO_CLOSE:
        return ZERO, ZERO, ONE, ZERO, ZERO, ZERO, ZERO
    far = np.float32(np.sqrt(d2))
    wx, wy, wz = wx / far, wy / far, wz / far
    cosine = -dot(wx, wy, wz, nx, ny, nz)
    if cosine <= np.float32(1e-5) or dot(wx, wy, wz, gx, gy, gz) <= ZERO:
        return wx, wy, wz, ZERO, ZERO, ZERO, ZERO
    f = S.source_floats[s]
    area = patch_density(S, f, x, y, z, nx, ny, nz, dx, dy, dz)
    if not area > ZERO:
        return wx, wy, wz, ZERO, ZERO, ZERO, ZERO
    density = area * d2 / cosine
    fr, fg, fb, mirrored = patch_at(S, place, -wx, -wy, -wz, calm)
    k = f[L.S_SOLID_ANGLE] * parted(f, mirrored) / density
    if (S.portal_state[L.G_CLOSED] | S.portal_state[L.G_GAINED]) != 0:
        k *= admitted(S, x, y, z, dx, dy, dz, False)
    fr, fg, fb = fr * f[4] * k, fg * f[5] * k, fb * f[6] * k
    if not fr + fg + fb > ZERO:
        return wx, wy, wz, ZERO, ZERO, ZERO, ZERO
    qx, qy, qz = offset(sx, sy, sz, gx, gy, gz, wx, wy, wz)
    vr, vg, vb = visibility(
        S, ray, words, address, qx, qy, qz, wx, wy, wz, far * np.float32(0.9995), counts
    )
    if vr + vg + vb > ZERO:
        qx, qy, qz = offset(x, y, z, nx, ny, nz, dx, dy, dz)
        tr, tg, tb = visibility(S, ray, words, address, qx, qy, qz, dx, dy, dz, INFINITE, counts)
        vr, vg, vb = vr * tr, vg * tg, vb * tb
    return wx, wy, wz, density, fr * vr, fg * vg, fb * vb
