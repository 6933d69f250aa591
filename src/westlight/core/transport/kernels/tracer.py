"""The path tracer: one camera path, its light split by source.

Kajiya 1986 with next-event estimation to every active source at every vertex, combined with
surface sampling by multiple importance sampling (Veach & Guibas 1995). Clear panes are passed
straight and tint what goes through, so they need no vertex of their own.
"""

import math

import numpy as np
from numba import njit, uint64

from .. import layout as L
from ..embree import intersect1
from .air import free_flight, light_segment, scattered
from .cells import cached_row
from .glints import glint_vertex, left_to_chance, looks_for_glints
from .guide import note, note_behind, pay
from .haze import thinning
from .hit import lifted, shading_normal
from .kept import add_kept
from .layers import facet, layer_taken, side_taken, through_glass, turned_over, weave_taken
from .light import DELTA, escape, light_vertex, meet_emitter, patch_vertex
from .look import surface_at, through_at, towards_viewer
from .numbers import (
    HALF,
    INFINITE,
    NO,
    ONE,
    PIECE,
    TWO,
    ZERO,
    dot,
    frame,
    luminance,
    normalise,
)
from .patches import LEAST_ROUGH, looks_for_patches
from .points import point2
from .portals import still_outside
from .rays import (
    MAX_PANES,
    NO_HIT,
    face_of_hit,
    instance_of,
    offset,
    ray_mask,
    set_ray,
    triangle_of,
)
from .surface import (
    LEAST_LOBE,
    evaluate,
    mirrored_share,
    pane_reflectance,
    prepare,
    sample,
)

#: A path goes on by chance from its second surface on: what it may still bring seldom pays for its rays.
ROULETTE_FROM = 1
# Above this roughness the last vertex needs no surface-sampled ray: light sampling alone is calm.
ROUGH_ENOUGH = np.float32(0.3)
#: The same where the camera looks: there a broad highlight shows.
ROUGH_AT_ONCE = np.float32(0.7)
_NEAR = np.float32(1e-8)
#: Metal up to this rough is a mirror: its guide is what it shows.
MIRROR_ROUGH = np.float32(0.04)
#: Chance, at least, that the light mirrored by the panes before the camera is followed.
MIRRORS = np.float32(0.25)
#: Vertices of a path from which patches of sun are looked for.
PATCHES = 2
#: The same for sun and sky mirrored by smooth surfaces.
GLINTS = 2
# Kept light serves surfaces at least this rough, met by rays scattered at least this widely. A floor of
# 0.4 still sends a window's light on in one direction: an average over all would move it to other walls.
# Of metal a bucket in the sun would throw a speckled spot at a wall; there the average is the better lie.
CACHE_ROUGH, CACHE_METAL, CACHE_BLURRED = np.float32(0.5), np.float32(0.3), np.float32(0.4)


@njit(**PIECE)
def _follow(
    S, Q, air, active, slot_of, bounces, calm, seed, index, begun, again, part, glance,
    start, first, acc, guide, scratch, ray, words, address, counts,
):  # fmt: skip
    """Follow one way of a path; returns how much light panes before the camera mirror, and the begin of
    the way that this light takes from one of them.

    ``begun``: origin, direction and weight RGB of the way, panes it passed, whether it is behind glass
    and outside, and the channels its light goes to as well. ``again``: it was mirrored by a pane. ``part``, ``glance``: see `trace_path`.
    """
    ox, oy, oz, dx, dy, dz, tr, tg, tb, panes, behind_glass, outside, also = begun
    waiting, later = ZERO, begun
    density = DELTA
    # Typed, not plain constants: for each literal the compiler would make all it is passed to once more.
    depth = np.int64(0)
    px, py, pz = ox, oy, oz
    pnx, pny, pnz = ZERO, ZERO, ONE
    pgx, pgy, pgz = ZERO, ZERO, ONE
    # Where patches of sun were looked for, ``by_chance`` is the density per square metre with which the
    # ray from there met the place where the path stands. From a smooth surface that was met
    # from a ``glinting`` place, these shares of its sun and sky are not found from there already.
    patched = glinting = NO
    by_chance = ZERO
    left_sun = left_sky = ONE
    travelled = ZERO
    guided = start or again
    # The guide is owed the albedo of what a mirror before the camera shows, in the mirror's colour.
    owing = NO
    owed = (ZERO, ZERO, ZERO)
    matte_ray = blurred = NO
    share = ONE
    mirrored = ONE if again else -ONE
    # Share of what is seen straight, or through panes, that is this way's: the rest is that of glances.
    seen, shared = part, not again
    closed = S.portal_floats.shape[0] > 0 and S.portal_state[L.G_CLOSED] == 1
    while True:
        r = g = b = ONE
        roughness, metallic = ONE, ZERO
        smooth = coated = beyond = woven = NO
        at = L.O_LIGHT if depth <= 1 else L.O_BOUNCED
        if shared:
            at = L.O_SEEN
        if start:
            x, y, z = first[0], first[1], first[2]
            lx, ly, lz = x, y, z
            gx, gy, gz, nx, ny, nz = first[3], first[4], first[5], first[6], first[7], first[8]
            vx, vy, vz = first[9], first[10], first[11]
            r, g, b, roughness, metallic = first[12], first[13], first[14], first[15], first[16]
            tr, tg, tb = first[17], first[18], first[19]
            px, py, pz = x, y, z
            start = False
        else:
            mask = ray_mask(depth, behind_glass, matte_ray)
            set_ray(ray, words, ox, oy, oz, dx, dy, dz, INFINITE, mask)
            counts[0] += 1
            intersect1(S.scene, address, uint64(0))
            if air is not None:
                if depth <= bounces and not glance:
                    # Copies: rays sent into the air overwrite the record of this hit.
                    hit_far, hit_u, hit_v = ray[8], ray[15], ray[16]
                    ng0, ng1, ng2 = ray[12], ray[13], ray[14]
                    w17, w18, w19, w20 = words[17], words[18], words[19], words[20]
                    light_segment(
                        S, air, active, slot_of, acc, L.O_LIGHT if depth == 0 else L.O_BOUNCED, also, share,
                        scratch, seed, index, depth, panes, outside, ray, words, address, counts,
                        ox, oy, oz, dx, dy, dz, hit_far, tr, tg, tb,
                    )  # fmt: skip
                    set_ray(ray, words, ox, oy, oz, dx, dy, dz, hit_far, mask)
                    ray[12], ray[13], ray[14], ray[15], ray[16] = ng0, ng1, ng2, hit_u, hit_v
                    words[17], words[18], words[19], words[20] = w17, w18, w19, w20
                if depth <= bounces:
                    hit_far = ray[8]
                    flown, box, wr, wg, wb = free_flight(
                        air, ox, oy, oz, dx, dy, dz, hit_far, seed, index, depth, panes
                    )
                    tr, tg, tb = tr * wr, tg * wg, tb * wb
                    if box >= 0:
                        if not guided:
                            guided = True
                            note_behind(S, guide, seen, ray, words, ox, oy, oz, dx, dy, dz, hit_far)
                        elif owing:
                            owing = pay(guide, ONE, ONE, ONE, owed)
                        if glance or depth >= bounces:
                            break
                        if depth >= ROULETTE_FROM:
                            q, _ = point2(seed, index, 4001 + depth * 4096)
                            keep = min(np.float32(0.95), max(tr, max(tg, tb)))
                            if not q < keep:
                                break
                            tr, tg, tb = tr / keep, tg / keep, tb / keep
                        seen, shared = ONE, False
                        x, y, z = ox + dx * flown, oy + dy * flown, oz + dz * flown
                        if closed:
                            outside = still_outside(S, ox, oy, oz, x, y, z, outside)
                        u, v = point2(seed, index, 4000 + depth * 4096)
                        dx, dy, dz = scattered(air[box, L.A_FORWARD], dx, dy, dz, u, v)
                        ox, oy, oz = x, y, z
                        px, py, pz = x, y, z
                        travelled = ZERO
                        # Every source was asked from the air already: one met by this ray adds nothing.
                        density = ZERO
                        matte_ray = True
                        mirrored = ZERO
                        depth += 1
                        continue
                else:
                    wr, wg, wb = thinning(air, ox, oy, oz, dx, dy, dz, ray[8])
                    tr, tg, tb = tr * wr, tg * wg, tb * wb
            if words[18] == NO_HIT:
                # A refraction on the way: no straight line joins what it shows.
                found = by_chance if density < DELTA else ZERO
                if not density < DELTA:
                    left_sun = left_sky = ONE
                escape(
                    S, slot_of, acc, at, also, share, scratch, tr * seen, tg * seen, tb * seen,
                    px, py, pz, pgx, pgy, pgz, dx, dy, dz, density, depth == 0, outside, mirrored, found, left_sun, left_sky, depth == 1,
                )  # fmt: skip
                if owing:
                    owing = pay(guide, ONE, ONE, ONE, owed)
                if depth == 0 and not again and also != L.O_MIRRORED:
                    guide[L.G_OPEN] += luminance(tr, tg, tb) * seen
                break
            dist = ray[8]
            travelled += dist
            if words[19] == NO_HIT:
                shape = np.int64(words[18]) - S.geometry_first.shape[0]
                primitive = np.int64(words[17]) // S.emitter_triangles[shape]
                row = S.emitter_of_primitive[S.emitter_first[shape] + primitive]
                e = S.emitter_floats[row]
                kind = S.emitter_ints[row, L.E_KIND]
                front = kind == L.SHAPE_SPHERE or kind == L.SHAPE_TUBE
                front = front or dot(dx, dy, dz, e[9], e[10], e[11]) < ZERO
                meet_emitter(
                    S, slot_of, acc, at, also, share, row, tr * seen, tg * seen, tb * seen,
                    px, py, pz, pnx, pny, pnz, dx, dy, dz, travelled, density, front, ZERO, ZERO, mirrored,
                )  # fmt: skip
                if not guided:
                    guided = True
                    note(guide, seen, ONE, ONE, ONE, -dx, -dy, -dz, travelled)
                elif owing:
                    owing = pay(guide, ONE, ONE, ONE, owed)
                # What falls on the body of a lamp is sent on; patches of sun are not looked for on it.
                r = g = b = e[L.E_BODY]
                if r == ZERO:
                    break
                patched = False
                x, y, z = ox + dx * dist, oy + dy * dist, oz + dz * dist
                if closed:
                    outside = still_outside(S, ox, oy, oz, x, y, z, outside)
                gx, gy, gz = normalise(ray[12], ray[13], ray[14])
                if dot(gx, gy, gz, dx, dy, dz) > ZERO:
                    gx, gy, gz = -gx, -gy, -gz
                lx, ly, lz, nx, ny, nz, vx, vy, vz = x, y, z, gx, gy, gz, -dx, -dy, -dz
            else:
                inst = instance_of(S, words)
                t = triangle_of(S, words)
                row, gx, gy, gz, cosine = face_of_hit(S, words, ray)
                f = S.material_floats[row]
                kind = S.material_ints[row, L.M_KIND]
                x, y, z = ox + dx * dist, oy + dy * dist, oz + dz * dist
                if closed:
                    outside = still_outside(S, ox, oy, oz, x, y, z, outside)
                front = cosine < ZERO
                if not front:
                    gx, gy, gz = -gx, -gy, -gz
                woven = kind == L.KIND_WOVEN
                if kind != L.KIND_SURFACE:
                    panes += 1
                    if panes > MAX_PANES:
                        break
                    u, _ = point2(seed, index, 0x40000000 + panes)
                if woven:
                    if not guided or owing:
                        # Its folds, not what shimmers through, are the edges that denoising keeps.
                        guided = True
                        nx, ny, nz, r, g, b, _, _ = surface_at(
                            S, t, inst, row, ray[15], ray[16], depth, gx, gy, gz, -dx, -dy, -dz
                        )
                        qr, qg, qb = through_at(S, t, row, ray[15], ray[16], depth)
                        if owing:
                            owing = pay(guide, r + qr, g + qg, b + qb, owed)
                        else:
                            note(guide, seen, r + qr, g + qg, b + qb, nx, ny, nz, travelled)
                    between, k = weave_taken(f, u)
                    tr, tg, tb = tr * k, tg * k, tb * k
                    if between:
                        # Shadow rays count the same share of holes. What is seen so is no calm sight.
                        if glance:
                            break
                        seen, shared = ONE, False
                        ox, oy, oz = offset(x, y, z, gx, gy, gz, dx, dy, dz)
                        continue
                if kind != L.KIND_SURFACE and not woven:
                    if kind == L.KIND_GLASS:
                        if glance:
                            break
                        seen, shared = ONE, False
                        if not front:
                            tr *= math.exp(-f[L.M_ABSORB_RED] * dist)
                            tg *= math.exp(-f[L.M_ABSORB_GREEN] * dist)
                            tb *= math.exp(-f[L.M_ABSORB_BLUE] * dist)
                        u1, v1 = point2(seed, index, 0x50000000 + panes)
                        # Round bodies bend light as what they stand for, not as their flat faces.
                        mx, my, mz = shading_normal(S, t, inst, ray[15], ray[16], gx, gy, gz)
                        mx, my, mz = towards_viewer(mx, my, mz, -dx, -dy, -dz)
                        mx, my, mz = facet(f[L.M_FROST], mx, my, mz, dx, dy, dz, u1, v1)
                        dx, dy, dz, turned = through_glass(
                            f, dot(mx, my, mz, dx, dy, dz), front, mx, my, mz, dx, dy, dz, u
                        )
                        # Between facets light is turned until it leaves on the side it was sent to.
                        off = dot(dx, dy, dz, gx, gy, gz)
                        if (off > ZERO) != turned:
                            off *= TWO
                            dx, dy, dz = dx - gx * off, dy - gy * off, dz - gz * off
                        if depth == 0 and turned:
                            mirrored = ONE
                        if depth == 0 and also == L.O_LIGHT:
                            also = L.O_MIRRORED if turned else L.O_THROUGH
                        if not turned:
                            keep = f[L.M_TRANSMISSION]
                            tr, tg, tb = tr * keep * f[0], tg * keep * f[1], tb * keep * f[2]
                            behind_glass = True
                        ox, oy, oz = offset(x, y, z, gx, gy, gz, dx, dy, dz)
                        px, py, pz = ox, oy, oz
                        travelled = ZERO
                        density = DELTA
                        continue
                    sheet = kind != L.KIND_INTERFACE
                    mirror = pane_reflectance(abs(cosine), f[L.M_IOR], sheet)
                    # What a pane mirrors onto a surface would only be found by luck, and is left out.
                    if depth == 0 and not again and not glance:
                        weight = luminance(tr, tg, tb) * mirror
                        waiting += weight
                        if u * waiting < weight:
                            k = TWO * dot(dx, dy, dz, gx, gy, gz)
                            ax, ay, az = dx - gx * k, dy - gy * k, dz - gz * k
                            qx, qy, qz = offset(x, y, z, gx, gy, gz, ax, ay, az)
                            k = mirror / weight
                            later = (
                                qx, qy, qz, ax, ay, az, tr * k, tg * k, tb * k, panes, behind_glass, outside,
                                L.O_MIRRORED if also == L.O_LIGHT else also,
                            )  # fmt: skip
                    keep = f[L.M_TRANSMISSION] * (ONE - mirror)
                    tr, tg, tb = tr * keep * f[0], tg * keep * f[1], tb * keep * f[2]
                    ox, oy, oz = offset(x, y, z, gx, gy, gz, dx, dy, dz)
                    behind_glass = True
                    if depth == 0 and also == L.O_LIGHT:
                        also = L.O_THROUGH
                    if kind == L.KIND_SHADING_SHEET:
                        # No shadow ray gets through this one, so what is met behind it counts in full.
                        density = DELTA
                    continue
                u, v = ray[15], ray[16]
                vx, vy, vz = -dx, -dy, -dz
                nx, ny, nz, r, g, b, roughness, metallic = surface_at(
                    S, t, inst, row, u, v, depth, gx, gy, gz, vx, vy, vz
                )
                textures = S.material_ints[row]
                lx, ly, lz = x, y, z
                if depth == 0:
                    qx, qy, qz = shading_normal(S, t, inst, u, v, gx, gy, gz)
                    if dot(qx, qy, qz, gx, gy, gz) < np.float32(0.9995):
                        smooth = True
                        lx, ly, lz = lifted(S, t, inst, u, v, x, y, z, gx, gy, gz)
                if textures[L.M_GLOWS] == 1 and S.triangle_emitter[t] >= 0:
                    meet_emitter(
                        S, slot_of, acc, at, also, share, S.triangle_emitter[t], tr * seen, tg * seen,
                        tb * seen, px, py, pz, pnx, pny, pnz, dx, dy, dz, travelled, density, front, u, v, mirrored,
                    )  # fmt: skip
                qr = qg = qb = ZERO
                if f[L.M_TRANSLUCENT] > ZERO:
                    qr, qg, qb = through_at(S, t, row, u, v, depth)
                mirrors = metallic > HALF and roughness < MIRROR_ROUGH
                if not guided:
                    guided = True
                    if mirrors:
                        # What it shows is met by the whole path alone, and counts for the glances with it.
                        note(guide, seen, ZERO, ZERO, ZERO, nx, ny, nz, travelled)
                        owing, owed = not glance, (r, g, b)
                    else:
                        note(guide, seen, r + qr, g + qg, b + qb, nx, ny, nz, travelled)
                elif owing:
                    if mirrors:
                        owed = (owed[0] * r, owed[1] * g, owed[2] * b)
                    else:
                        owing = pay(guide, r + qr, g + qg, b + qb, owed)
                if f[L.M_COAT] > ZERO and depth <= bounces:
                    # The varnish does not follow the relief below it.
                    sx, sy, sz = (qx, qy, qz) if depth == 0 else (nx, ny, nz)
                    nx, ny, nz, coated, k = layer_taken(
                        S, f, seed, index, depth, vx, vy, vz, nx, ny, nz, sx, sy, sz
                    )
                    tr, tg, tb = tr * k, tg * k, tb * k
                    if coated:
                        r = g = b = metallic = ONE
                        roughness = f[L.M_COAT_ROUGH]
                if f[L.M_TRANSLUCENT] > ZERO and depth <= bounces and not coated:
                    beyond, k = side_taken(
                        S, f, seed, index, depth, r, g, b, qr, qg, qb, roughness, metallic,
                        max(dot(vx, vy, vz, nx, ny, nz), ZERO),
                    )  # fmt: skip
                    tr, tg, tb = tr * k, tg * k, tb * k
                    if beyond:
                        r, g, b, roughness, metallic = qr, qg, qb, ONE, ZERO
                        vx, vy, vz = turned_over(vx, vy, vz, gx, gy, gz)
                        gx, gy, gz, nx, ny, nz = -gx, -gy, -gz, -nx, -ny, -nz
                        lx, ly, lz, smooth = x, y, z, False
        if depth > bounces:
            break
        if depth > 0 and roughness < calm:
            roughness = calm
        tx, ty, tz, bx, by, bz = frame(nx, ny, nz)
        cx, cy = dot(vx, vy, vz, tx, ty, tz), dot(vx, vy, vz, bx, by, bz)
        cz = max(dot(vx, vy, vz, nx, ny, nz), np.float32(1e-3))
        chance, matte, coat, alpha, lo, lost = prepare(
            r, g, b, roughness, metallic, cz, S.energy, S.energy_mean
        )
        if depth == 0 and not again:
            guide[L.G_DIFFUSE] += seen * min((ONE - chance) / (ONE - LEAST_LOBE), ONE)
        if (
            depth > 0
            and blurred
            and roughness > (CACHE_METAL if metallic > HALF else CACHE_ROUGH)
            and Q.keys.shape[0] > 1
            and not outside
        ):
            kept_row = cached_row(
                Q.keys, Q.rows, Q.light, Q.columns, Q.eye, seed, index, 4002 + depth * 4096,
                x, y, z, gx, gy, gz, travelled,
            )  # fmt: skip
            if kept_row >= 0:
                add_kept(
                    Q, kept_row, slot_of, active, acc, also, share, S, tr, tg, tb, r, g, b, roughness,
                    metallic, cz,
                )  # fmt: skip
                break
        by_chance = ZERO
        # After a refraction there is no density, and no straight way that joins the two either.
        # Patches are looked for on what is solid, and on the side they fall on.
        lies_in_it = roughness >= LEAST_ROUGH and not (coated or beyond or woven)
        if patched and density < DELTA and lies_in_it:
            by_chance = (
                density * abs(dot(gx, gy, gz, dx, dy, dz)) / max(travelled * travelled, _NEAR)
            )
        left_sun = left_sky = ONE
        if glinting and density < DELTA and roughness < LEAST_ROUGH and not woven:
            left_sun, left_sky = left_to_chance(S, slot_of, density, dx, dy, dz)
        patched = glinting = False
        last = depth == bounces
        enough = ROUGH_ENOUGH if depth > 0 else ROUGH_AT_ONCE
        weighed = not (last and (chance == ZERO or roughness > enough))
        at = L.O_LIGHT if depth == 0 else L.O_BOUNCED
        light_vertex(
            S, air, active, slot_of, acc, at, also, share, scratch, seed, index, depth, weighed, seen, shared, glance,
            outside, by_chance, left_sun, left_sky, ray, words, address, counts,
            x, y, z, lx, ly, lz, smooth, gx, gy, gz, nx, ny, nz, tx, ty, tz, bx, by, bz,
            cx, cy, cz, tr, tg, tb, r, g, b, roughness, metallic, chance, matte, coat, alpha, lo,
            lost,
        )  # fmt: skip
        if glance or not weighed:
            break
        seen, shared = ONE, False
        if depth < min(bounces, PATCHES) and air is None and Q.keys.shape[0] == 1:
            patched = looks_for_patches(S, x, y, z, gx, gy, gz, outside)
            if patched:
                patch_vertex(
                    S, active, slot_of, acc, also, share, seed, index, depth, calm, ray, words, address,
                    counts, lx, ly, lz, gx, gy, gz, nx, ny, nz, tx, ty, tz, bx, by, bz, cx, cy, cz,
                    tr, tg, tb, r, g, b, roughness, metallic, chance, matte, coat, alpha, lo, lost,
                )  # fmt: skip
        if depth < min(bounces, GLINTS) and air is None and chance < ONE:
            glinting = looks_for_glints(S, slot_of)
            if glinting:
                glint_vertex(
                    S, slot_of, acc, also, share, seed, index, depth, calm, outside, ray, words, address,
                    counts, lx, ly, lz, gx, gy, gz, nx, ny, nz, tx, ty, tz, bx, by, bz, cx, cy, cz,
                    tr, tg, tb, r, g, b, roughness, metallic, chance, matte, coat, alpha, lo, lost,
                )  # fmt: skip
        u, v = point2(seed, index, 4000 + depth * 4096)
        # One number serves for the lobe and, stretched, for the direction in it.
        matte_ray = u >= chance
        blurred = matte_ray or roughness > CACHE_BLURRED
        w = ONE
        if chance > ZERO:
            if matte_ray:
                u = (u - chance) / (ONE - chance)
            else:
                u, w = u / chance, ZERO
        ax, ay, az = sample(roughness, chance, cx, cy, cz, min(u, np.float32(0.9999999)), v, w)
        fr, fg, fb, density = evaluate(
            r, g, b, roughness, metallic, chance, matte, coat, alpha, lo, lost, cx, cy, cz,
            ax, ay, az, S.energy,
        )  # fmt: skip
        if not density > ZERO:
            break
        dx, dy, dz = normalise(
            tx * ax + bx * ay + nx * az, ty * ax + by * ay + ny * az, tz * ax + bz * ay + nz * az
        )
        if dot(dx, dy, dz, gx, gy, gz) <= ZERO:
            break
        mirrored = ZERO
        told = depth == 0 and also == L.O_LIGHT
        if chance > ZERO and (told or S.portal_state[L.G_PARTED] == 1):
            mirrored = mirrored_share(g, roughness, matte, coat, az, fg, S.energy)
        if told and chance > ZERO:
            also = L.O_MIRRORED
            share = mirrored
        tr, tg, tb = tr * fr / density, tg * fg / density, tb * fb / density
        if depth >= ROULETTE_FROM:
            q, _ = point2(seed, index, 4001 + depth * 4096)
            keep = min(np.float32(0.95), max(tr, max(tg, tb)))
            if not q < keep:
                break
            tr, tg, tb = tr / keep, tg / keep, tb / keep
            owed = (owed[0] / keep, owed[1] / keep, owed[2] / keep)
        ox, oy, oz = offset(x, y, z, gx, gy, gz, dx, dy, dz)
        px, py, pz = x, y, z
        pnx, pny, pnz = nx, ny, nz
        pgx, pgy, pgz = gx, gy, gz
        travelled = ZERO
        behind_glass = False
        depth += 1
    return waiting, later


@njit(**PIECE)
def trace_path(
    S, Q, air, active, slot_of, bounces, calm, seed, index, ox, oy, oz, dx, dy, dz, part, glance,
    start, first, acc, guide, scratch, ray, words, address, counts,
):  # fmt: skip
    """Follow one path and add its light to ``acc`` (slots, SAMPLE_CHANNELS), its first surface to ``guide``.

    ``air`` are boxes of haze (A, AIR_COLUMNS), or None: then the compiler leaves all of it out.
    With ``start`` the path begins on the surface kept in ``first`` (columns F_*) instead of at a
    camera; on a white matte one π times its light is the irradiance there. ``calm`` raises
    roughness after the first bounce to at least this value (a named bias; 0 for none). A path that
    meets a surface whose light the cache ``Q`` keeps ends there with that light.

    What is seen straight or through panes, and the sun on it, is shared with glances: further looks
    through the same pixel that gather nothing else (``glance``), each with an equal ``part``.
    """
    way = (ox, oy, oz, dx, dy, dz, ONE, ONE, ONE, np.int64(0), NO, NO, np.int64(L.O_LIGHT))
    again = NO
    while True:
        mirrored, later = _follow(
            S, Q, air, active, slot_of, bounces, calm, seed, index, way, again, ONE if again else part, glance,
            start, first, acc, guide, scratch, ray, words, address, counts,
        )  # fmt: skip
        if again or not mirrored > ZERO:
            break
        # The path itself goes straight through panes; what they mirror is dim as a rule, and followed now
        # and then. To choose one of both would speckle wherever bright sky is seen.
        chance = min(MIRRORS + mirrored, ONE)
        u, _ = point2(seed, index, 0x60000000)
        if u >= chance:
            break
        k = mirrored / chance
        ox, oy, oz, dx, dy, dz, tr, tg, tb, panes, behind_glass, outside, also = later
        way = (
            ox, oy, oz, dx, dy, dz, tr * k, tg * k, tb * k, panes, behind_glass, outside, also
        )  # fmt: skip
        # Other random numbers than those of the way before.
        seed = uint64(seed ^ uint64(0x5851F42D))
        again = True
