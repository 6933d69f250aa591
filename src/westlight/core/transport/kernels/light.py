"""Light gathered along a path: by rays sent to every source, and by rays that happen to meet one."""

import numpy as np
from numba import njit, uint32

from .. import layout as L
from .emitters import emitted, sample_shape, shape_density, triangle_place
from .haze import thinning
from .numbers import INFINITE, ONE, PIECE, ZERO, dot, power_heuristic
from .patches import joined, lit_place, not_by_patch
from .points import bits2, point2, to_unit
from .portals import admitted, outside_density, sample_outside, weigh
from .rays import offset, visibility
from .skies import in_sun, parted, sample_sun, sky_colour, sky_density, sky_parted, sky_smooth
from .surface import evaluate, mirrored_share
from .tree import chance_of, choose

DELTA = np.float32(1e20)
#: `E_VISIBLE`: kept out of reflections; met by rays; without a size that rays could meet.
HIDDEN, MET, SIZELESS = 0, 1, 2
#: Shadow rays to a sky from the first surface.
SKY_RAYS = 4
#: Below this roughness an emitter that reflections must not show lights the matte base only.
MIRROR_BELOW = np.float32(0.6)


@njit(**PIECE)
def add(acc, slot, at, also, share, r, g, b):
    """Add light to the channels ``at``, and a share of it to those of ``also`` (0: none)."""
    total = r + g + b
    # A bad number would poison the sum for good; drop the sample instead.
    if total < INFINITE and total > ZERO:
        acc[slot, at] += r
        acc[slot, at + 1] += g
        acc[slot, at + 2] += b
        if also > 0:
            acc[slot, also] += r * share
            acc[slot, also + 1] += g * share
            acc[slot, also + 2] += b * share


@njit(**PIECE)
def escape(
    S, slot_of, acc, at, also, share, scratch, tr, tg, tb, px, py, pz, pgx, pgy, pgz, dx, dy, dz,
    density, seen, outside, mirrored, by_chance, left_sun, left_sky, from_first,
):  # fmt: skip
    """Light of suns and skies met by a ray that left (px, py, pz) and the scene.

    ``mirrored`` is the share of the ray that a surface mirrored (below 0: none did, nor scattered).
    ``from_first``: the ray left the first surface, which asks skies several times. ``by_chance``: see `not_by_patch`; ``left_sun``, ``left_sky``: see `glints.left_to_chance`.
    """
    gate = ONE
    portals = S.portal_floats.shape[0] > 0
    if portals and not seen and (S.portal_state[L.G_CLOSED] | S.portal_state[L.G_GAINED]) != 0:
        gate = admitted(S, px, py, pz, dx, dy, dz, outside)
        tr, tg, tb = tr * gate, tg * gate, tb * gate
    for s in range(S.source_ints.shape[0]):
        slot = slot_of[s]
        if slot < 0:
            continue
        kind = S.source_ints[s, L.S_KIND]
        f = S.source_floats[s]
        if kind == L.SOURCE_SUN:
            if in_sun(f, dx, dy, dz):
                w = power_heuristic(density, ONE / f[L.S_SOLID_ANGLE]) * parted(f, mirrored)
                w *= not_by_patch(S, s, by_chance, px, py, pz, pgx, pgy, pgz, dx, dy, dz)
                if s == S.glint_sources[0]:
                    w *= left_sun
                add(acc, slot, at, also, share, tr * f[4] * w, tg * f[5] * w, tb * f[6] * w)
        elif kind == L.SOURCE_SKY:
            if seen:
                i = S.source_ints[s]
                # What a pane mirrors is no view of the sky itself.
                w = f[L.S_SEEN]
                first, width, height = i[L.S_FIRST], i[L.S_WIDTH], i[L.S_HEIGHT]
                if mirrored > ZERO:
                    w = f[L.S_MIRRORED]
                    first, width, height = (
                        i[L.S_OTHER], i[L.S_OTHER_WIDTH], i[L.S_OTHER_HEIGHT]
                    )  # fmt: skip
                r, g, b = sky_smooth(S.sky, first, width, height, dx, dy, dz)
            else:
                if S.portal_state[L.G_PARTED] == 1:
                    r, g, b = sky_parted(S, s, dx, dy, dz, mirrored)
                else:
                    r, g, b = sky_colour(S, s, dx, dy, dz)
                w = ONE
                if density < DELTA:
                    memory = scratch[S.source_ints[s, L.S_SKY]]
                    if portals:
                        other = outside_density(S, s, memory, px, py, pz, dx, dy, dz)
                    else:
                        other = sky_density(S, s, memory, dx, dy, dz)
                    if from_first:
                        other *= np.float32(SKY_RAYS)
                    w = power_heuristic(density, other)
                if s == S.glint_sources[1]:
                    w *= left_sky
            add(acc, slot, at, also, share, tr * r * w, tg * g * w, tb * b * w)


@njit(**PIECE)
def meet_emitter(
    S, slot_of, acc, at, also, share, row, tr, tg, tb, px, py, pz, pnx, pny, pnz, dx, dy, dz, dist,
    density, front, u, v, mirrored,
):  # fmt: skip
    """Light of an emitter met by a ray sampled at (px, py, pz), where the normal is (pnx, pny, pnz)."""
    n = S.emitter_ints[row]
    s = n[L.E_SOURCE]
    slot = slot_of[s]
    if slot < 0 or (not front and n[L.E_SIDES] == 1):
        return
    w = ONE
    if density < DELTA:
        if n[L.E_VISIBLE] != MET:
            return
        f = S.emitter_floats[row]
        other = shape_density(f, n[L.E_KIND], px, py, pz, dx, dy, dz, dist)
        if S.source_ints[s, L.S_COUNT] > 1:
            other *= chance_of(S.tree_floats, S.tree_ints, n[L.E_LEAF], px, py, pz, pnx, pny, pnz)
        w = power_heuristic(density, other)
    w *= parted(S.source_floats[s], mirrored)
    r, g, b = emitted(S, np.int64(row), dx, dy, dz, dist, u, v)
    add(acc, slot, at, also, share, tr * r * w, tg * g * w, tb * b * w)


@njit(**PIECE)
def light_vertex(
    S, air, active, slot_of, acc, at, also, share, scratch, seed, index, depth, weighed, part, shared,
    glance, outside, by_chance, left_sun, left_sky, ray, words, address, counts,
    x, y, z, sx, sy, sz, smooth, gx, gy, gz, nx, ny, nz, tx, ty, tz, bx, by, bz, ox, oy, oz,
    tr, tg, tb, r, g, b, roughness, metallic, chance, matte, coat, alpha, lo, lost,
):  # fmt: skip
    """Next-event estimation at (x, y, z): a shadow ray from (sx, sy, sz) to every active source, several to skies where
    the camera looks: openings are weighed once for all of them.

    Of suns this is only a ``part`` if it is ``shared`` with glances, which ask nothing else.
    ``by_chance``, ``left_sun``, ``left_sky``: see `escape`.
    """
    portals = S.portal_floats.shape[0] > 0
    gated = portals and (S.portal_state[L.G_CLOSED] | S.portal_state[L.G_GAINED]) != 0
    # What the first surface mirrors is told apart from what it scatters.
    split = depth == 0 and also == 0 and chance > ZERO
    parts = S.portal_state[L.G_PARTED] == 1
    for a in range(active.shape[0]):
        s = np.int64(active[a])
        slot = slot_of[s]
        kind = S.source_ints[s, L.S_KIND]
        f = S.source_floats[s]
        if glance and kind != L.SOURCE_SUN:
            continue
        rays = SKY_RAYS if kind == L.SOURCE_SKY and depth == 0 else 1
        for nth in range(rays):
            point = uint32(index * uint32(rays) + uint32(nth))
            base = 16 + depth * 4096 + slot * 2
            u, v = bits2(seed, point, base)
            far = INFINITE
            met = MET
            if kind == L.SOURCE_SUN:
                ix, iy, iz = sample_sun(f, to_unit(u), to_unit(v))
                density = ONE / f[L.S_SOLID_ANGLE]
                er, eg, eb = f[4], f[5], f[6]
            elif kind == L.SOURCE_SKY:
                memory = scratch[S.source_ints[s, L.S_SKY]]
                w = ZERO
                # Only where a ray sampled by the surface follows may what that finds be left out.
                memory[L.R_COMPENSATED] = ONE if weighed else ZERO
                if portals and nth == 0:
                    weigh(S, s, memory, x, y, z, gx, gy, gz, outside, depth == 0)
                if portals:
                    w, _ = point2(seed, point, base + 1)
                ix, iy, iz, density = sample_outside(S, s, memory, x, y, z, u, v, w)
                er = eg = eb = ONE
            else:
                if S.source_ints[s, L.S_COUNT] == 0:
                    continue
                row, taken = np.int64(S.source_ints[s, L.S_FIRST]), ONE
                if S.source_ints[s, L.S_COUNT] > 1:
                    w, _ = point2(seed, index, base + 1)
                    row, taken = choose(
                        S.tree_floats,
                        S.tree_ints,
                        S.source_ints[s, L.S_TREE],
                        x,
                        y,
                        z,
                        nx,
                        ny,
                        nz,
                        w,
                    )
                    if taken <= ZERO:
                        continue
                n = S.emitter_ints[row]
                u1, v1 = to_unit(u), to_unit(v)
                ix, iy, iz, far, density = sample_shape(
                    S.emitter_floats[row], n[L.E_KIND], n[L.E_SIDES], x, y, z, u1, v1
                )
                if not density > ZERO:
                    continue
                pa = pb = ZERO
                if n[L.E_TEXTURE] >= 0:
                    pa, pb = triangle_place(u1, v1)
                er, eg, eb = emitted(S, row, ix, iy, iz, far, pa, pb)
                density *= taken
                far *= np.float32(0.9995)
                met = n[L.E_VISIBLE]
            cosine = dot(ix, iy, iz, nx, ny, nz)
            density *= np.float32(rays)
            if not density > ZERO or cosine <= ZERO:
                continue
            if not smooth and dot(ix, iy, iz, gx, gy, gz) <= ZERO:
                continue
            lobe = chance if met != HIDDEN or roughness > MIRROR_BELOW else ZERO
            fr, fg, fb, other = evaluate(
                r, g, b, roughness, metallic, lobe, matte, coat, alpha, lo, lost, ox, oy, oz,
                dot(ix, iy, iz, tx, ty, tz), dot(ix, iy, iz, bx, by, bz), cosine, S.energy,
            )  # fmt: skip
            k = (power_heuristic(density, other) if weighed and met == MET else ONE) / density
            if gated and kind != L.SOURCE_EMITTERS:
                k *= admitted(S, x, y, z, ix, iy, iz, outside)
            if kind == L.SOURCE_SUN:
                k *= part * not_by_patch(S, s, by_chance, x, y, z, gx, gy, gz, ix, iy, iz)
            if s == S.glint_sources[0]:
                k *= left_sun
            elif s == S.glint_sources[1]:
                k *= left_sky
            mirrored = ZERO
            if (parts or split) and lobe > ZERO:
                mirrored = mirrored_share(g, roughness, matte, coat, cosine, fg, S.energy)
            if parts and kind != L.SOURCE_SKY:
                k *= parted(f, mirrored)
            cr, cg, cb = tr * fr * er * k, tg * fg * eg * k, tb * fb * eb * k
            if cr + cg + cb <= ZERO:
                continue
            qx, qy, qz = offset(sx, sy, sz, gx, gy, gz, ix, iy, iz)
            vr, vg, vb = visibility(S, ray, words, address, qx, qy, qz, ix, iy, iz, far, counts)
            if vr + vg + vb <= ZERO:
                continue
            if kind == L.SOURCE_SKY:
                # Only a direction that light comes by is worth the look-up.
                if parts:
                    er, eg, eb = sky_parted(S, s, ix, iy, iz, mirrored)
                else:
                    er, eg, eb = sky_colour(S, s, ix, iy, iz)
                vr, vg, vb = vr * er, vg * eg, vb * eb
            if air is not None:
                qr, qg, qb = thinning(air, qx, qy, qz, ix, iy, iz, far)
                vr, vg, vb = vr * qr, vg * qg, vb * qb
            if split:
                also = L.O_MIRRORED
                share = mirrored
            where = at
            if kind == L.SOURCE_SUN and shared:
                where = L.O_SEEN
            add(acc, slot, where, also, share, cr * vr, cg * vg, cb * vb)


@njit(**PIECE)
def patch_vertex(
    S, active, slot_of, acc, also, share, seed, index, depth, calm, ray, words, address, counts,
    sx, sy, sz, gx, gy, gz, nx, ny, nz, tx, ty, tz, bx, by, bz, ox, oy, oz,
    tr, tg, tb, r, g, b, roughness, metallic, chance, matte, coat, alpha, lo, lost,
):  # fmt: skip
    """Light of every active sun that a patch of it, drawn through a portal, sends to (sx, sy, sz)."""
    split = depth == 0 and also == 0 and chance > ZERO
    for a in range(active.shape[0]):
        s = np.int64(active[a])
        if S.source_ints[s, L.S_KIND] != L.SOURCE_SUN:
            continue
        dimension = 6000 + depth * 4096 + slot_of[s] * 4
        place = lit_place(S, s, seed, index, dimension, ray, words, address, counts)
        if not place[0]:
            continue
        wx, wy, wz, density, cr, cg, cb = joined(
            S, s, place, sx, sy, sz, gx, gy, gz, calm, ray, words, address, counts
        )
        cosine = dot(wx, wy, wz, nx, ny, nz)
        if cosine <= ZERO or not cr + cg + cb > ZERO:
            continue
        fr, fg, fb, other = evaluate(
            r, g, b, roughness, metallic, chance, matte, coat, alpha, lo, lost, ox, oy, oz,
            dot(wx, wy, wz, tx, ty, tz), dot(wx, wy, wz, bx, by, bz), cosine, S.energy,
        )  # fmt: skip
        k = power_heuristic(density, other)
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
