"""Window portals: directions drawn exactly from sky × opening (Bitterli, Wyman & Pharr 2015).

A portal's directions form an upright rectangle in the map u = ½ + ½·X/(1+|X|), X = dx/dz, of its
own axes, so a summed-area table of the sky in that map gives the light through it and draws from
it. What stands outside, the ground above all, is left out of each portal's table. Portals and the whole sky are chosen by what a grid cell sees of them; the sky always keeps a
chance, so light by any other way is found too and the mean does not depend on the portals.
"""

import numpy as np
from numba import njit

from .. import layout as L
from .numbers import HALF, ONE, OUTLINE, PIECE, TWO, TWO_PI, ZERO, dot, normalise
from .points import to_unit
from .skies import sample_sky, sky_density

_SIDE = np.float32(L.MAP_SIDE)
_MARGIN, _INNER = np.float32(1e-5), np.float32(1.0 - 2e-5)
#: How directions through portals are drawn; 0 while none are in use.
_EXACT, _EVENLY = np.float32(1.0), np.float32(2.0)
#: Density of an even draw over all directions, per steradian.
_EVERYWHERE = np.float32(1.0 / (4.0 * np.pi))


@njit(**PIECE)
def _to_map(x):
    return (HALF + HALF * x / (ONE + abs(x))) * _SIDE


@njit(**PIECE)
def _from_map(u):
    w = TWO * (u / _SIDE) - ONE
    return w / max(ONE - abs(w), np.float32(1e-6))


@njit(**PIECE)
def _sum(maps, first, u, v):
    """Bilinear value of a summed-area table; (u, v) in cells."""
    i = min(max(int(u), 0), L.MAP_SIDE - 1)
    j = min(max(int(v), 0), L.MAP_SIDE - 1)
    a, b = np.float64(u) - i, np.float64(v) - j
    p = first + i * (L.MAP_SIDE + 1) + j
    q = p + L.MAP_SIDE + 1
    low = maps[p] * (1.0 - b) + maps[p + 1] * b
    high = maps[q] * (1.0 - b) + maps[q + 1] * b
    return low * (1.0 - a) + high * a


@njit(**PIECE)
def _window(f, x, y, z):
    """Rectangle (u0, u1, v0, v1) of a portal row in map cells; u1 ≤ u0 from behind it."""
    cx, cy, cz = f[0] - x, f[1] - y, f[2] - z
    away = -dot(cx, cy, cz, f[9], f[10], f[11])
    if away <= np.float32(1e-3):
        return ZERO, ZERO, ZERO, ZERO
    k = ONE / away
    a, b = dot(cx, cy, cz, f[3], f[4], f[5]), dot(cx, cy, cz, f[6], f[7], f[8])
    return (
        _to_map(a * k), _to_map((a + f[L.P_WIDTH]) * k),
        _to_map(b * k), _to_map((b + f[L.P_HEIGHT]) * k),
    )  # fmt: skip


@njit(**OUTLINE)
def _through(maps, first, f, x, y, z):
    """Light of the sky through a portal row at a point: luminance × solid angle."""
    u0, u1, v0, v1 = _window(f, x, y, z)
    if u1 <= u0 or v1 <= v0:
        return ZERO
    t = _sum(maps, first, u1, v1) - _sum(maps, first, u0, v1)
    t -= _sum(maps, first, u1, v0) - _sum(maps, first, u0, v0)
    return max(np.float32(t), ZERO)


@njit(**PIECE)
def _area_density(f, x, y, z, dx, dy, dz):
    """Density per steradian of an even draw over a portal row's area; 0 where a ray misses it."""
    out = -dot(dx, dy, dz, f[9], f[10], f[11])
    if out <= np.float32(1e-6):
        return ZERO
    cx, cy, cz = f[0] - x, f[1] - y, f[2] - z
    away = -dot(cx, cy, cz, f[9], f[10], f[11])
    if away <= ZERO:
        return ZERO
    t = away / out
    a = dot(dx, dy, dz, f[3], f[4], f[5]) * t - dot(cx, cy, cz, f[3], f[4], f[5])
    if a < ZERO or a > f[L.P_WIDTH]:
        return ZERO
    b = dot(dx, dy, dz, f[6], f[7], f[8]) * t - dot(cx, cy, cz, f[6], f[7], f[8])
    if b < ZERO or b > f[L.P_HEIGHT]:
        return ZERO
    return t * t / (out * f[L.P_WIDTH] * f[L.P_HEIGHT])


@njit(**PIECE)
def crosses(f, x, y, z, dx, dy, dz):
    """Whether a ray from inside leaves through a portal row."""
    return _area_density(f, x, y, z, dx, dy, dz) > ZERO


@njit(**PIECE)
def cell_of(S, x, y, z):
    """Row of `cells` a point reads, −1 outside the grid."""
    b = S.cell_box
    nx, ny, nz = S.portal_state[L.G_X], S.portal_state[L.G_Y], S.portal_state[L.G_Z]
    fx, fy, fz = (x - b[0]) * b[3], (y - b[1]) * b[3], (z - b[2]) * b[3]
    if fx < ZERO or fy < ZERO or fz < ZERO:
        return -1
    i, j, k = int(fx), int(fy), int(fz)
    if i >= nx or j >= ny or k >= nz:
        return -1
    return np.int64(S.cell_rows[(i * ny + j) * nz + k])


@njit(**PIECE)
def weigh(S, s, scratch, x, y, z, gx, gy, gz, outside, exact):
    """Fill ``scratch`` with the chance of each portal at a point and of the open sky.

    ``scratch`` is (3, W + 1): chances; light through each, −1 until it is needed, and in [1, W] whether
    the rest is drawn evenly over all directions; and in [2, W] whether portals are in use, and how: `_EXACT` draws from the sky through the opening, `_EVENLY`
    over the opening's area. The exact way costs look-ups in a large table, which pays where the
    picture is looked at and not after a bounce.
    """
    count = S.portal_floats.shape[0]
    scratch[2, count] = ZERO
    if outside:
        return
    # A whole cell into the air the surface faces: one that holds the surface itself has places on
    # both sides of it, and from below a floor or behind a wall the open sky may be seen.
    lift = ONE / S.cell_box[3]
    cell = cell_of(S, x + gx * lift, y + gy * lift, z + gz * lift)
    if cell < 0:
        return
    row = S.cells[cell]
    maps = S.source_ints[s, L.S_MAPS]
    total = ZERO
    # Close by an opening an even draw over its area would speckle.
    exact = exact or row[2 * count + 2] > ZERO
    if not exact:
        # After a bounce the cell's own figures will do: no place is looked at closely there.
        for p in range(count):
            w = row[count + 1 + p]
            if w > ZERO:
                f = S.portal_floats[p]
                # From behind, a place in the opening is drawn that no ray from there comes by.
                if dot(f[0] - x, f[1] - y, f[2] - z, f[9], f[10], f[11]) < np.float32(-1e-3):
                    m = (maps + p) * L.MAP_SIZE + L.MAP_SIZE - 1
                    w *= np.float32(S.portal_maps[m]) * f[L.P_GAIN]
                else:
                    w = ZERO
            scratch[0, p] = w
            total += w
    for p in range(count if exact else 0):
        w = ZERO
        if row[p] > ZERO:
            # Not what comes through exactly, which costs sixteen look-ups: about its solid angle,
            # times the mean brightness of the sky on its side.
            f = S.portal_floats[p]
            half_u, half_v = f[L.P_WIDTH] * HALF, f[L.P_HEIGHT] * HALF
            cx = f[0] + f[3] * half_u + f[6] * half_v - x
            cy = f[1] + f[4] * half_u + f[7] * half_v - y
            cz = f[2] + f[5] * half_u + f[8] * half_v - z
            away = -dot(cx, cy, cz, f[9], f[10], f[11])
            corner = -dot(f[0] - x, f[1] - y, f[2] - z, f[9], f[10], f[11])
            if away > np.float32(1e-3) and corner > np.float32(1e-3):
                d2 = cx * cx + cy * cy + cz * cz
                area = f[L.P_WIDTH] * f[L.P_HEIGHT]
                angle = area * away / max(d2 * np.sqrt(d2), area * np.float32(0.3) * away)
                # Light that reaches the surface edge-on counts for less.
                face = dot(cx, cy, cz, gx, gy, gz) / np.sqrt(d2)
                angle *= max(face, np.float32(0.08))
                m = (maps + p) * L.MAP_SIZE + L.MAP_SIZE - 1
                w = angle * np.float32(S.portal_maps[m]) * row[p] * f[L.P_GAIN]
        scratch[0, p], scratch[1, p] = w, -ONE
        total += w
    if not total > ZERO:
        return
    sky = open_sky = ZERO
    if S.portal_state[L.G_CLOSED] == 0:
        # Both in the same unit: total luminance × solid angle over a hemisphere.
        open_sky = S.source_floats[s, L.S_TOTAL] * row[count] * np.float32(3.0)
        sky = open_sky
        inside = row[2 * count + 1]
        if inside >= ZERO and inside < HALF:
            # A cell cut by a wall or a roof: whoever asks may be on either side of it.
            sky = min(open_sky, total)
        sky = max(sky, total * np.float32(0.03))
    # Indoors the rest finds its way in by gaps nobody knows: an even draw over all directions does
    # for that, and its density needs no look-up.
    scratch[1, count] = ONE if sky > open_sky else ZERO
    share = ONE / (total + sky)
    for p in range(count):
        scratch[0, p] *= share
    scratch[0, count] = sky * share
    scratch[2, count] = _EXACT if exact else _EVENLY


@njit(**PIECE)
def _column_sum(maps, first, i, v):
    """`_sum` at a whole column."""
    j = min(max(int(v), 0), L.MAP_SIDE - 1)
    b = np.float64(v) - j
    p = first + i * (L.MAP_SIDE + 1) + j
    return maps[p] * (1.0 - b) + maps[p + 1] * b


@njit(**PIECE)
def _cell_sum(maps, first, i, j):
    """`_sum` at a whole column and row."""
    return maps[first + i * (L.MAP_SIDE + 1) + j]


@njit(**OUTLINE)
def _sample_window(maps, m, f, x, y, z, u, v):
    """Direction through a portal row, drawn by the light the sky sends through it."""
    u0, u1, v0, v1 = _window(f, x, y, z)
    base = _sum(maps, m, u0, v1) - _sum(maps, m, u0, v0)
    target = (_sum(maps, m, u1, v1) - _sum(maps, m, u1, v0) - base) * u + base
    low, high = int(u0), min(int(u1) + 1, L.MAP_SIDE)
    # Columns low…high bracket the target; the sum is linear between neighbouring columns.
    while high - low > 1:
        middle = (low + high) >> 1
        if _column_sum(maps, m, middle, v1) - _column_sum(maps, m, middle, v0) <= target:
            low = middle
        else:
            high = middle
    f_low = np.float32(low)
    a = _column_sum(maps, m, low, v1) - _column_sum(maps, m, low, v0)
    b = _column_sum(maps, m, low + 1, v1) - _column_sum(maps, m, low + 1, v0)
    mu = f_low + np.float32(min(max((target - a) / max(b - a, 1e-300), 0.0), 1.0))
    mu = min(max(mu, u0), u1)
    column = min(int(mu), L.MAP_SIDE - 1)
    base = _column_sum(maps, m, column + 1, v0) - _column_sum(maps, m, column, v0)
    end = _column_sum(maps, m, column + 1, v1) - _column_sum(maps, m, column, v1)
    target = (end - base) * v + base
    low, high = int(v0), min(int(v1) + 1, L.MAP_SIDE)
    while high - low > 1:
        middle = (low + high) >> 1
        if _cell_sum(maps, m, column + 1, middle) - _cell_sum(maps, m, column, middle) <= target:
            low = middle
        else:
            high = middle
    f_low = np.float32(low)
    a = _cell_sum(maps, m, column + 1, low) - _cell_sum(maps, m, column, low)
    b = _cell_sum(maps, m, column + 1, low + 1) - _cell_sum(maps, m, column, low + 1)
    mv = f_low + np.float32(min(max((target - a) / max(b - a, 1e-300), 0.0), 1.0))
    mv = min(max(mv, v0), v1)
    px, py = _from_map(mu), _from_map(mv)
    k = ONE / np.sqrt(px * px + py * py + ONE)
    px, py = px * k, py * k
    return (
        f[3] * px + f[6] * py - f[9] * k,
        f[4] * px + f[7] * py - f[10] * k,
        f[5] * px + f[8] * py - f[11] * k,
    )


@njit(**OUTLINE)
def _window_density(m, first, f, dx, dy, dz, through):
    """Density per steradian with which `_sample_window` draws a direction that crosses a portal."""
    k = ONE / max(-dot(dx, dy, dz, f[9], f[10], f[11]), np.float32(1e-6))
    x, y = dot(dx, dy, dz, f[3], f[4], f[5]) * k, dot(dx, dy, dz, f[6], f[7], f[8]) * k
    i = min(max(int(_to_map(x)), 0), L.MAP_SIDE - 1)
    j = min(max(int(_to_map(y)), 0), L.MAP_SIDE - 1)
    q = first + i * (L.MAP_SIDE + 1) + j
    cell = np.float32(m[q + L.MAP_SIDE + 2] - m[q + 1] - m[q + L.MAP_SIDE + 1] + m[q])
    ax, ay = ONE + abs(x), ONE + abs(y)
    n2 = x * x + y * y + ONE
    stretch = np.float32(4.0) * ax * ax * ay * ay / (n2 * np.sqrt(n2))
    return cell * _SIDE * _SIDE / max(through * stretch, np.float32(1e-30))


@njit(**PIECE)
def _sample_area(f, x, y, z, u, v):
    """Direction to a place (u, v) of a portal row, never on its very edge: rays there may miss it."""
    a, b = f[L.P_WIDTH] * (_MARGIN + u * _INNER), f[L.P_HEIGHT] * (_MARGIN + v * _INNER)
    return normalise(
        f[0] + f[3] * a + f[6] * b - x,
        f[1] + f[4] * a + f[7] * b - y,
        f[2] + f[5] * a + f[8] * b - z,
    )


@njit(**PIECE)
def outside_density(S, s, scratch, x, y, z, dx, dy, dz):
    """Density per steradian of the mixture of portals and sky at a point `weigh` was called for."""
    count = S.portal_floats.shape[0]
    if scratch[2, count] == ZERO:
        return sky_density(S, s, dx, dy, dz)
    density = scratch[0, count]
    if density > ZERO:
        density *= _EVERYWHERE if scratch[1, count] == ONE else sky_density(S, s, dx, dy, dz)
    if scratch[2, count] == _EVENLY:
        for p in range(count):
            chance = scratch[0, p]
            if chance > ZERO:
                density += chance * _area_density(S.portal_floats[p], x, y, z, dx, dy, dz)
        return density
    for p in range(count):
        if scratch[0, p] > ZERO and crosses(S.portal_floats[p], x, y, z, dx, dy, dz):
            m = (S.source_ints[s, L.S_MAPS] + p) * L.MAP_SIZE
            if scratch[1, p] < ZERO:
                scratch[1, p] = _through(S.portal_maps, m, S.portal_floats[p], x, y, z)
            density += scratch[0, p] * _window_density(
                S.portal_maps, m, S.portal_floats[p], dx, dy, dz, scratch[1, p]
            )
    return density


@njit(**PIECE)
def sample_outside(S, s, scratch, x, y, z, a, b, w):
    """Direction and density towards sky source ``s``; random 32-bit integers a, b and w in [0, 1)."""
    count = S.portal_floats.shape[0]
    i = S.source_ints[s]
    if scratch[2, count] == ZERO:
        return sample_sky(S.sky_table, i[L.S_TABLE], i[L.S_TABLE_WIDTH], i[L.S_TABLE_HEIGHT], a, b)
    run = scratch[0, count]
    if w < run and scratch[1, count] == ONE:
        dz = ONE - TWO * to_unit(a)
        phi, r = TWO_PI * to_unit(b), np.sqrt(max(ONE - dz * dz, ZERO))
        dx, dy = r * np.cos(phi), r * np.sin(phi)
    elif w < run:
        dx, dy, dz, _ = sample_sky(
            S.sky_table, i[L.S_TABLE], i[L.S_TABLE_WIDTH], i[L.S_TABLE_HEIGHT], a, b
        )
    else:
        chosen = -1
        for p in range(count):
            if scratch[0, p] > ZERO:
                chosen = p
                run += scratch[0, p]
                if w < run:
                    break
        f = S.portal_floats[chosen]
        if scratch[2, count] == _EVENLY:
            dx, dy, dz = _sample_area(f, x, y, z, to_unit(a), to_unit(b))
        else:
            m = (i[L.S_MAPS] + chosen) * L.MAP_SIZE
            dx, dy, dz = _sample_window(S.portal_maps, m, f, x, y, z, to_unit(a), to_unit(b))
    return dx, dy, dz, outside_density(S, s, scratch, x, y, z, dx, dy, dz)


@njit(**PIECE)
def admitted(S, x, y, z, dx, dy, dz, outside):
    """Factor for light from outside: gain of the portal it comes by; 0 where closure shuts it out."""
    if outside:
        return ONE
    for p in range(S.portal_floats.shape[0]):
        if crosses(S.portal_floats[p], x, y, z, dx, dy, dz):
            return S.portal_floats[p, L.P_GAIN]
    return ZERO if S.portal_state[L.G_CLOSED] == 1 else ONE


@njit(**PIECE)
def still_outside(S, x, y, z, hx, hy, hz, outside):
    """Whether a path is outside after a segment, for closure: it changes sides at portals."""
    dx, dy, dz = hx - x, hy - y, hz - z
    for p in range(S.portal_floats.shape[0]):
        f = S.portal_floats[p]
        a = dot(x - f[0], y - f[1], z - f[2], f[9], f[10], f[11])
        b = dot(hx - f[0], hy - f[1], hz - f[2], f[9], f[10], f[11])
        if (a > ZERO) == (b > ZERO):
            continue
        t = a / (a - b)
        qx, qy, qz = x + dx * t - f[0], y + dy * t - f[1], z + dz * t - f[2]
        u, v = dot(qx, qy, qz, f[3], f[4], f[5]), dot(qx, qy, qz, f[6], f[7], f[8])
        if u >= ZERO and u <= f[L.P_WIDTH] and v >= ZERO and v <= f[L.P_HEIGHT]:
            outside = b <= ZERO
    return outside
