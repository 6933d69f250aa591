"""The path tracer: one camera path, its light split by source.

Kajiya 1986 with next-event estimation to every active source at every vertex, combined with
surface sampling by multiple importance sampling (Veach & Guibas 1995). Clear panes are passed
straight and tint what goes through, so they need no vertex of their own.
"""

import math

import numpy as np
from numba import njit, uint32, uint64

from .. import layout as L
from ..embree import MASK_EMITTER, MASK_PANE, MASK_SOLID, intersect1, occluded1
from .emitters import (
    choice_chance,
    choose,
    in_sun,
    sample_shape,
    sample_sky,
    sample_sun,
    shape_density,
    sky_pixel,
    sky_smooth,
)
from .numbers import (
    ENTRY,
    HALF,
    INFINITE,
    ONE,
    PIECE,
    TWO,
    ZERO,
    dot,
    frame,
    normalise,
    power_heuristic,
)
from .points import mix, point2
from .surface import evaluate, lobe_shares, pane_reflectance, sample
from .textures import look_up, to_working

NO_HIT = uint32(0xFFFFFFFF)
DELTA = np.float32(1e20)
ROULETTE_FROM = 3
MAX_PANES = 16
# Above this roughness the last vertex needs no surface-sampled ray: light sampling alone is calm.
ROUGH_ENOUGH = np.float32(0.3)
_ALL = np.uint32(MASK_SOLID | MASK_PANE | MASK_EMITTER)
_BLOCKING = np.uint32(MASK_SOLID | MASK_EMITTER)
_PANES = np.uint32(MASK_PANE)


@njit(**PIECE)
def set_ray(ray, words, ox, oy, oz, dx, dy, dz, far, mask):
    ray[0], ray[1], ray[2], ray[3] = ox, oy, oz, ZERO
    ray[4], ray[5], ray[6], ray[7] = dx, dy, dz, ZERO
    ray[8] = far
    words[9] = mask
    words[10] = uint32(0)
    words[11] = uint32(0)
    words[17] = NO_HIT
    words[18] = NO_HIT
    words[19] = NO_HIT


@njit(**PIECE)
def offset(x, y, z, nx, ny, nz, dx, dy, dz):
    """Point moved off a surface along its face normal, to the side a direction leaves by."""
    size = max(abs(x), max(abs(y), abs(z)))
    e = np.float32(2e-5) + size * np.float32(4e-6)
    if nx * dx + ny * dy + nz * dz < ZERO:
        e = -e
    return x + nx * e, y + ny * e, z + nz * e


@njit(**PIECE)
def _pane_through(S, words, ray):
    """Material row, cosine and Ng side of the pane in the hit record."""
    t = S.instance_first[words[19]] + np.int64(words[17])
    row = S.corner_words[t, L.N_MATERIAL]
    m = S.instance_normal[words[19]]
    ng0, ng1, ng2 = ray[12], ray[13], ray[14]
    nx = m[0, 0] * ng0 + m[0, 1] * ng1 + m[0, 2] * ng2
    ny = m[1, 0] * ng0 + m[1, 1] * ng1 + m[1, 2] * ng2
    nz = m[2, 0] * ng0 + m[2, 1] * ng1 + m[2, 2] * ng2
    nx, ny, nz = normalise(nx, ny, nz)
    return row, nx, ny, nz, dot(nx, ny, nz, ray[4], ray[5], ray[6])


@njit(**PIECE)
def visibility(S, ray, words, address, x, y, z, dx, dy, dz, far, counts):
    """What light keeps on a straight way of length ``far``: RGB in 0…1, panes passed."""
    set_ray(ray, words, x, y, z, dx, dy, dz, far, _BLOCKING)
    counts[0] += 1
    occluded1(S.scene, address, uint64(0))
    if ray[8] < ZERO:
        return ZERO, ZERO, ZERO
    r = g = b = ONE
    if S.panes != uint64(0):
        left = far
        for _ in range(MAX_PANES):
            set_ray(ray, words, x, y, z, dx, dy, dz, left, _PANES)
            counts[0] += 1
            intersect1(S.panes, address, uint64(0))
            if words[18] == NO_HIT:
                break
            row, nx, ny, nz, cosine = _pane_through(S, words, ray)
            f = S.material_floats[row]
            sheet = S.material_ints[row, L.M_KIND] == L.KIND_SHEET
            t = (ONE - pane_reflectance(abs(cosine), f[L.M_IOR], sheet)) * f[L.M_TRANSMISSION]
            r, g, b = r * t * f[0], g * t * f[1], b * t * f[2]
            hit = ray[8]
            x, y, z = offset(x + dx * hit, y + dy * hit, z + dz * hit, nx, ny, nz, dx, dy, dz)
            left -= hit
            if left <= ZERO or max(r, max(g, b)) <= ZERO:
                break
    return r, g, b


@njit(**PIECE)
def _add(out, slot, r, g, b):
    total = r + g + b
    # A bad number would poison the sum for good; drop the sample instead.
    if total < INFINITE and total > ZERO:
        out[slot, 0] += r
        out[slot, 1] += g
        out[slot, 2] += b


@njit(**PIECE)
def _escape(S, slot_of, out, tr, tg, tb, dx, dy, dz, density, seen):
    """Light of suns and skies met by a ray that leaves the scene."""
    for s in range(S.source_ints.shape[0]):
        slot = slot_of[s]
        if slot < 0:
            continue
        kind = S.source_ints[s, L.S_KIND]
        f = S.source_floats[s]
        if kind == L.SOURCE_SUN:
            if in_sun(f, dx, dy, dz):
                w = power_heuristic(density, ONE / f[L.S_SOLID_ANGLE])
                _add(out, slot, tr * f[4] * w, tg * f[5] * w, tb * f[6] * w)
        elif kind == L.SOURCE_SKY:
            first, width = S.source_ints[s, L.S_FIRST], S.source_ints[s, L.S_WIDTH]
            height = S.source_ints[s, L.S_HEIGHT]
            if seen:
                r, g, b = sky_smooth(S.sky, first, width, height, dx, dy, dz)
                w = ONE
            else:
                p = sky_pixel(first, width, height, dx, dy, dz)
                r, g, b = S.sky[p, 0], S.sky[p, 1], S.sky[p, 2]
                w = power_heuristic(density, S.sky[p, L.K_DENSITY])
            _add(out, slot, tr * r * w, tg * g * w, tb * b * w)


@njit(**PIECE)
def _meet_emitter(S, slot_of, out, row, tr, tg, tb, px, py, pz, dx, dy, dz, dist, density, front):
    """Light of an emitter met by a surface-sampled ray that started at (px, py, pz)."""
    s = S.emitter_ints[row, L.E_SOURCE]
    slot = slot_of[s]
    if slot < 0 or (not front and S.emitter_ints[row, L.E_SIDES] == 1):
        return
    f = S.emitter_floats[row]
    w = ONE
    if density < DELTA:
        first, count = S.source_ints[s, L.S_FIRST], S.source_ints[s, L.S_COUNT]
        kind = S.emitter_ints[row, L.E_KIND]
        other = choice_chance(S.emitter_floats, S.emitter_ints, first, count, row, px, py, pz)
        other *= shape_density(f, kind, px, py, pz, dx, dy, dz, dist)
        w = power_heuristic(density, other)
    _add(out, slot, tr * f[L.E_RED] * w, tg * f[L.E_GREEN] * w, tb * f[L.E_BLUE] * w)


@njit(**PIECE)
def _light_vertex(
    S, active, slot_of, out, seed, index, depth, weigh, ray, words, address, counts,
    x, y, z, gx, gy, gz, nx, ny, nz, tx, ty, tz, bx, by, bz, ox, oy, oz,
    tr, tg, tb, r, g, b, roughness, metallic, chance,
):  # fmt: skip
    """Next-event estimation: one shadow ray to every active source."""
    for a in range(active.shape[0]):
        s = active[a]
        slot = slot_of[s]
        kind = S.source_ints[s, L.S_KIND]
        f = S.source_floats[s]
        base = 16 + depth * 4096 + slot * 2
        u, v = point2(seed, index, base)
        far = INFINITE
        hittable = True
        if kind == L.SOURCE_SUN:
            ix, iy, iz = sample_sun(f, u, v)
            density = ONE / f[L.S_SOLID_ANGLE]
            er, eg, eb = f[4], f[5], f[6]
        elif kind == L.SOURCE_SKY:
            first, width = S.source_ints[s, L.S_FIRST], S.source_ints[s, L.S_WIDTH]
            height = S.source_ints[s, L.S_HEIGHT]
            w, q = point2(seed, index, base + 1)
            ix, iy, iz, p = sample_sky(S.sky, first, width, height, u, v, w, q)
            density = S.sky[p, L.K_DENSITY]
            er, eg, eb = S.sky[p, 0], S.sky[p, 1], S.sky[p, 2]
        else:
            first, count = S.source_ints[s, L.S_FIRST], S.source_ints[s, L.S_COUNT]
            if count == 0:
                continue
            w, _ = point2(seed, index, base + 1)
            row, taken = choose(S.emitter_floats, S.emitter_ints, first, count, x, y, z, w)
            if taken <= ZERO:
                continue
            e = S.emitter_floats[row]
            ix, iy, iz, far, density = sample_shape(
                e, S.emitter_ints[row, L.E_KIND], S.emitter_ints[row, L.E_SIDES], x, y, z, u, v
            )
            density *= taken
            far *= np.float32(0.9995)
            er, eg, eb = e[L.E_RED], e[L.E_GREEN], e[L.E_BLUE]
            hittable = S.emitter_ints[row, L.E_VISIBLE] == 1
        cosine = dot(ix, iy, iz, nx, ny, nz)
        if not density > ZERO or cosine <= ZERO or dot(ix, iy, iz, gx, gy, gz) <= ZERO:
            continue
        fr, fg, fb, other = evaluate(
            r, g, b, roughness, metallic, chance, ox, oy, oz,
            dot(ix, iy, iz, tx, ty, tz), dot(ix, iy, iz, bx, by, bz), cosine,
            S.energy, S.energy_mean,
        )  # fmt: skip
        k = (power_heuristic(density, other) if weigh and hittable else ONE) / density
        cr, cg, cb = tr * fr * er * k, tg * fg * eg * k, tb * fb * eb * k
        if cr + cg + cb <= ZERO:
            continue
        sx, sy, sz = offset(x, y, z, gx, gy, gz, ix, iy, iz)
        vr, vg, vb = visibility(S, ray, words, address, sx, sy, sz, ix, iy, iz, far, counts)
        _add(out, slot, cr * vr, cg * vg, cb * vb)


@njit(**PIECE)
def _shading_normal(S, t, inst, u, v, gx, gy, gz):
    """Interpolated normal in world space, on the side of the face normal."""
    c = S.corners
    w = ONE - u - v
    n0 = c[t, 0] * w + c[t, 5] * u + c[t, 10] * v
    n1 = c[t, 1] * w + c[t, 6] * u + c[t, 11] * v
    n2 = c[t, 2] * w + c[t, 7] * u + c[t, 12] * v
    m = S.instance_normal[inst]
    nx = m[0, 0] * n0 + m[0, 1] * n1 + m[0, 2] * n2
    ny = m[1, 0] * n0 + m[1, 1] * n1 + m[1, 2] * n2
    nz = m[2, 0] * n0 + m[2, 1] * n1 + m[2, 2] * n2
    length = nx * nx + ny * ny + nz * nz
    if not length > np.float32(1e-12):
        return gx, gy, gz
    nx, ny, nz = normalise(nx, ny, nz)
    if dot(nx, ny, nz, gx, gy, gz) < ZERO:
        nx, ny, nz = -nx, -ny, -nz
    return nx, ny, nz


@njit(**PIECE)
def _bend_normal(S, t, inst, texture, scale, tu, tv, nx, ny, nz):
    """Normal map applied in the tangent frame of the triangle's texture coordinates."""
    i0, i1, i2 = S.triangles[t, 0], S.triangles[t, 1], S.triangles[t, 2]
    m = S.instance_matrix[inst]
    c = S.corners
    du1, dv1 = c[t, 8] - c[t, 3], c[t, 9] - c[t, 4]
    du2, dv2 = c[t, 13] - c[t, 3], c[t, 14] - c[t, 4]
    det = du1 * dv2 - du2 * dv1
    if abs(det) < np.float32(1e-12):
        return nx, ny, nz
    k = ONE if det > ZERO else -ONE
    ax = (S.positions[i1, 0] - S.positions[i0, 0]) * dv2
    ax = (ax - (S.positions[i2, 0] - S.positions[i0, 0]) * dv1) * k
    ay = (S.positions[i1, 1] - S.positions[i0, 1]) * dv2
    ay = (ay - (S.positions[i2, 1] - S.positions[i0, 1]) * dv1) * k
    az = (S.positions[i1, 2] - S.positions[i0, 2]) * dv2
    az = (az - (S.positions[i2, 2] - S.positions[i0, 2]) * dv1) * k
    tx = m[0, 0] * ax + m[0, 1] * ay + m[0, 2] * az
    ty = m[1, 0] * ax + m[1, 1] * ay + m[1, 2] * az
    tz = m[2, 0] * ax + m[2, 1] * ay + m[2, 2] * az
    d = dot(tx, ty, tz, nx, ny, nz)
    tx, ty, tz = normalise(tx - nx * d, ty - ny * d, tz - nz * d)
    # v runs downwards in a texture, the bitangent upwards.
    bx, by, bz = -(ny * tz - nz * ty) * k, -(nz * tx - nx * tz) * k, -(nx * ty - ny * tx) * k
    r, g, b = look_up(S.texels, S.texture_ints, S.decode, texture, False, tu, tv)
    sx, sy = (r * TWO - ONE) * scale, -(g * TWO - ONE) * scale
    sz = max(b * TWO - ONE, np.float32(0.05))
    return normalise(
        tx * sx + bx * sy + nx * sz, ty * sx + by * sy + ny * sz, tz * sx + bz * sy + nz * sz
    )


@njit(**PIECE)
def trace_path(
    S, active, slot_of, bounces, calm, seed, index, ox, oy, oz, dx, dy, dz,
    start, sx, sy, sz, out, guide, ray, words, address, counts,
):  # fmt: skip
    """Follow one path and add its light to ``out`` (slots, 3), its first surface to ``guide``.

    With ``start`` the path begins on a white matte surface at the origin with normal (sx, sy, sz)
    instead of at a camera: π times its light is the irradiance there. ``calm`` raises roughness
    after the first bounce to at least this value (a named bias; 0 for none).
    """
    tr = tg = tb = ONE
    density = DELTA
    depth = 0
    panes = 0
    px, py, pz = ox, oy, oz
    travelled = ZERO
    guided = start
    while True:
        r = g = b = ONE
        roughness, metallic = ONE, ZERO
        if start:
            x, y, z = ox, oy, oz
            gx, gy, gz, nx, ny, nz = sx, sy, sz, sx, sy, sz
            vx, vy, vz = sx, sy, sz
            start = False
        else:
            set_ray(ray, words, ox, oy, oz, dx, dy, dz, INFINITE, _ALL)
            counts[0] += 1
            intersect1(S.scene, address, uint64(0))
            if words[18] == NO_HIT:
                _escape(S, slot_of, out, tr, tg, tb, dx, dy, dz, density, depth == 0)
                break
            dist = ray[8]
            travelled += dist
            if words[19] == NO_HIT:
                shape = np.int64(words[18]) - S.instance_first.shape[0]
                primitive = np.int64(words[17])
                if shape == 0:
                    primitive = primitive // 2
                row = S.emitter_of_primitive[S.emitter_first[shape] + primitive]
                e = S.emitter_floats[row]
                front = S.emitter_ints[row, L.E_KIND] == L.SHAPE_SPHERE
                front = front or dot(dx, dy, dz, e[9], e[10], e[11]) < ZERO
                _meet_emitter(
                    S, slot_of, out, row, tr, tg, tb, px, py, pz, dx, dy, dz, travelled, density,
                    front,
                )  # fmt: skip
                if not guided:
                    guide[0] += ONE
                    guide[1] += ONE
                    guide[2] += ONE
                    guide[3] -= dx
                    guide[4] -= dy
                    guide[5] -= dz
                    guide[6] += travelled
                    guide[7] += ONE
                break
            inst = np.int64(words[19])
            t = S.instance_first[inst] + np.int64(words[17])
            row, gx, gy, gz, cosine = _pane_through(S, words, ray)
            f = S.material_floats[row]
            kind = S.material_ints[row, L.M_KIND]
            x, y, z = ox + dx * dist, oy + dy * dist, oz + dz * dist
            front = cosine < ZERO
            if not front:
                gx, gy, gz = -gx, -gy, -gz
            if kind != L.KIND_SURFACE:
                panes += 1
                if panes > MAX_PANES:
                    break
                mirror = pane_reflectance(abs(cosine), f[L.M_IOR], kind == L.KIND_SHEET)
                u, _ = point2(seed, index, 0x40000000 + panes)
                if u < mirror:
                    if depth > 0:
                        # Light mirrored by a pane onto a surface would only be found by luck.
                        break
                    k = TWO * dot(dx, dy, dz, gx, gy, gz)
                    dx, dy, dz = dx - gx * k, dy - gy * k, dz - gz * k
                    ox, oy, oz = offset(x, y, z, gx, gy, gz, dx, dy, dz)
                    px, py, pz = ox, oy, oz
                    travelled = ZERO
                    continue
                keep = f[L.M_TRANSMISSION]
                tr, tg, tb = tr * keep * f[0], tg * keep * f[1], tb * keep * f[2]
                ox, oy, oz = offset(x, y, z, gx, gy, gz, dx, dy, dz)
                continue
            u, v = ray[15], ray[16]
            nx, ny, nz = _shading_normal(S, t, inst, u, v, gx, gy, gz)
            r, g, b = f[0], f[1], f[2]
            roughness, metallic = f[L.M_ROUGHNESS], f[L.M_METALLIC]
            textures = S.material_ints[row]
            tu = tv = ZERO
            if textures[0] >= 0 or textures[1] >= 0 or textures[2] >= 0:
                c = S.corners
                w = ONE - u - v
                tu = c[t, 3] * w + c[t, 8] * u + c[t, 13] * v
                tv = c[t, 4] * w + c[t, 9] * u + c[t, 14] * v
            if textures[L.M_TEX_BASE] >= 0:
                cr, cg, cb = look_up(
                    S.texels, S.texture_ints, S.decode, textures[L.M_TEX_BASE], depth > 0, tu, tv
                )
                cr, cg, cb = to_working(cr, cg, cb)
                r, g, b = r * cr, g * cg, b * cb
            if textures[L.M_TEX_ROUGH] >= 0:
                _, cg, cb = look_up(
                    S.texels, S.texture_ints, S.decode, textures[L.M_TEX_ROUGH], depth > 0, tu, tv
                )
                roughness, metallic = roughness * cg, metallic * cb
            vx, vy, vz = -dx, -dy, -dz
            # Bounced light is too blurred to show relief, and the look-ups are dear.
            if textures[L.M_TEX_NORMAL] >= 0 and depth == 0:
                nx, ny, nz = _bend_normal(
                    S, t, inst, textures[L.M_TEX_NORMAL], f[L.M_NORMAL_SCALE], tu, tv, nx, ny, nz
                )
            # A shading normal turned away from the viewer would show as a black edge.
            facing = dot(nx, ny, nz, vx, vy, vz)
            if facing < np.float32(0.02):
                k = np.float32(0.02) - facing
                nx, ny, nz = normalise(nx + vx * k, ny + vy * k, nz + vz * k)
            if textures[L.M_GLOWS] == 1 and S.triangle_emitter[t] >= 0:
                _meet_emitter(
                    S, slot_of, out, S.triangle_emitter[t], tr, tg, tb, px, py, pz, dx, dy, dz, travelled,
                    density, front,
                )  # fmt: skip
            if not guided:
                guided = True
                guide[0] += r
                guide[1] += g
                guide[2] += b
                guide[3] += nx
                guide[4] += ny
                guide[5] += nz
                guide[6] += travelled
                guide[7] += ONE
        if depth > bounces:
            break
        if depth > 0 and roughness < calm:
            roughness = calm
        tx, ty, tz, bx, by, bz = frame(nx, ny, nz)
        lx, ly = dot(vx, vy, vz, tx, ty, tz), dot(vx, vy, vz, bx, by, bz)
        lz = max(dot(vx, vy, vz, nx, ny, nz), np.float32(1e-3))
        _, _, chance = lobe_shares(r, g, b, roughness, metallic, lz, S.energy, S.energy_mean)
        last = depth == bounces
        weigh = not (last and (chance == ZERO or roughness > ROUGH_ENOUGH))
        _light_vertex(
            S, active, slot_of, out, seed, index, depth, weigh, ray, words, address, counts,
            x, y, z, gx, gy, gz, nx, ny, nz, tx, ty, tz, bx, by, bz, lx, ly, lz,
            tr, tg, tb, r, g, b, roughness, metallic, chance,
        )  # fmt: skip
        if not weigh:
            break
        u, v = point2(seed, index, 4000 + depth * 4096)
        w, q = point2(seed, index, 4001 + depth * 4096)
        ax, ay, az = sample(roughness, chance, lx, ly, lz, u, v, w)
        fr, fg, fb, density = evaluate(
            r, g, b, roughness, metallic, chance, lx, ly, lz, ax, ay, az, S.energy, S.energy_mean
        )
        if not density > ZERO:
            break
        dx, dy, dz = normalise(
            tx * ax + bx * ay + nx * az, ty * ax + by * ay + ny * az, tz * ax + bz * ay + nz * az
        )
        if dot(dx, dy, dz, gx, gy, gz) <= ZERO:
            break
        tr, tg, tb = tr * fr / density, tg * fg / density, tb * fb / density
        if depth >= ROULETTE_FROM:
            keep = min(np.float32(0.95), max(tr, max(tg, tb)))
            if not q < keep:
                break
            tr, tg, tb = tr / keep, tg / keep, tb / keep
        ox, oy, oz = offset(x, y, z, gx, gy, gz, dx, dy, dz)
        px, py, pz = x, y, z
        travelled = ZERO
        depth += 1


@njit(**PIECE)
def clear(acc):
    for s in range(acc.shape[0]):
        acc[s, 0] = acc[s, 1] = acc[s, 2] = ZERO


@njit(**PIECE)
def _tent(u):
    """Tent of radius one pixel: a calm, sharp pixel filter drawn exactly."""
    if u < HALF:
        return math.sqrt(TWO * u) - ONE
    return ONE - math.sqrt(max(TWO * (ONE - u), ZERO))


@njit(**ENTRY)
def render_rows(
    S, camera, active, slot_of, bounces, calm, seed, first_sample, samples, width, row0, row1,
    out, guide, acc, ray, counts,
):  # fmt: skip
    """Add ``samples`` passes over rows row0…row1 to ``out`` (rows, width, slots, 3) and ``guide``."""
    words = ray.view(np.uint32)
    address = uint64(ray.ctypes.data)
    slots = active.shape[0]
    for row in range(row0, row1):
        for column in range(width):
            pixel = mix(uint32(row * 65536 + column) ^ mix(uint32(seed)))
            clear(acc)
            for k in range(samples):
                index = uint32(first_sample + k)
                u, v = point2(pixel, index, 0)
                c = np.float32(column) + HALF + _tent(u)
                r = np.float32(row) + HALF + _tent(v)
                dx = camera[3] + camera[6] * c + camera[9] * r
                dy = camera[4] + camera[7] * c + camera[10] * r
                dz = camera[5] + camera[8] * c + camera[11] * r
                ox, oy, oz = camera[0], camera[1], camera[2]
                if camera[L.C_LENS_RADIUS] > ZERO:
                    u, v = point2(pixel, index, 1)
                    radius = camera[L.C_LENS_RADIUS] * math.sqrt(u)
                    phi = np.float32(6.2831853) * v
                    a, b = radius * math.cos(phi), radius * math.sin(phi)
                    mx = camera[12] * a + camera[15] * b
                    my = camera[13] * a + camera[16] * b
                    mz = camera[14] * a + camera[17] * b
                    focus = camera[L.C_FOCUS]
                    dx, dy, dz = dx * focus - mx, dy * focus - my, dz * focus - mz
                    ox, oy, oz = ox + mx, oy + my, oz + mz
                dx, dy, dz = normalise(dx, dy, dz)
                trace_path(
                    S, active, slot_of, bounces, calm, pixel, index, ox, oy, oz, dx, dy, dz,
                    False, ZERO, ZERO, ONE, acc, guide[row - row0, column], ray, words, address,
                    counts,
                )  # fmt: skip
            for s in range(slots):
                out[row - row0, column, s, 0] += acc[s, 0]
                out[row - row0, column, s, 1] += acc[s, 1]
                out[row - row0, column, s, 2] += acc[s, 2]


@njit(**ENTRY)
def irradiance_points(
    S, points, normals, active, slot_of, bounces, seed, samples, out, guide, acc, ray, counts
):
    """Sum over samples of irradiance at points with unit normals into ``out`` (points, slots, 3)."""
    words = ray.view(np.uint32)
    address = uint64(ray.ctypes.data)
    slots = active.shape[0]
    for i in range(points.shape[0]):
        pixel = mix(uint32(i) ^ mix(uint32(seed)))
        for k in range(samples):
            clear(acc)
            trace_path(
                S, active, slot_of, bounces, ZERO, pixel, uint32(k),
                points[i, 0], points[i, 1], points[i, 2], ZERO, ZERO, ONE,
                True, normals[i, 0], normals[i, 1], normals[i, 2],
                acc, guide, ray, words, address, counts,
            )  # fmt: skip
            for s in range(slots):
                for c in range(3):
                    out[i, s, c] += math.pi * acc[s, c]


@njit(**ENTRY)
def first_surface(S, ox, oy, oz, dx, dy, dz, ray, hit):
    """Closest solid surface along a ray: position, face normal towards the viewer, distance.

    ``hit`` (9,) gets x, y, z, nx, ny, nz, distance, instance, triangle; returns whether one is met.
    """
    words = ray.view(np.uint32)
    address = uint64(ray.ctypes.data)
    set_ray(ray, words, ox, oy, oz, dx, dy, dz, INFINITE, np.uint32(MASK_SOLID))
    intersect1(S.scene, address, uint64(0))
    if words[18] == NO_HIT or words[19] == NO_HIT:
        return False
    _, nx, ny, nz, cosine = _pane_through(S, words, ray)
    if cosine > ZERO:
        nx, ny, nz = -nx, -ny, -nz
    t = ray[8]
    hit[0], hit[1], hit[2] = ox + dx * t, oy + dy * t, oz + dz * t
    hit[3], hit[4], hit[5], hit[6] = nx, ny, nz, t
    hit[7] = np.float32(words[19])
    hit[8] = np.float32(S.instance_first[words[19]] + np.int64(words[17]))
    return True
