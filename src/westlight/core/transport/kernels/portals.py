"""Window portals: directions drawn exactly from sky × opening (Bitterli, Wyman & Pharr 2015).

A portal's directions form an upright rectangle in the map u = ½ + ½·X/(1+|X|), X = dx/dz, of its
own axes, so a summed-area table of the sky in that map gives the light through it and draws from
it. What stands outside, the ground above all, is left out of each portal's table. Portals are cut into
panes, and panes are chosen by what a grid cell expects of each of them; the whole sky always keeps
a chance, so light by any other way is found too and the mean does not depend on the portals.
"""

import numpy as np
from numba import njit

from .. import layout as L
from .numbers import HALF, ONE, OUTLINE, PIECE, TWO, TWO_PI, ZERO, dot, normalise
from .points import to_unit
from .skies import sample_sky, sky_density, table_of

_SIDE = np.float32(L.MAP_SIDE)
_MARGIN, _INNER = np.float32(1e-5), np.float32(1.0 - 2e-5)
# The same on a map, whose places are told less finely.
_MAP_MARGIN = np.float32(1e-4)
#: How directions through portals are drawn; 0 while none are in use.
_EXACT, _EVENLY = np.float32(1.0), np.float32(2.0)
#: Density of an even draw over all directions, per steradian.
_EVERYWHERE = np.float32(1.0 / (4.0 * np.pi))
#: A surface that leans less than this (squared cosine) to a face takes nothing of it.
_LEAN = np.float32(0.02)


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
def _pane(S, k):
    """Portal of a pane, and its sides on it: from and to along the width and the height, in metres."""
    p = np.int64(S.pane_portal[k])
    n, f = S.portal_ints[p], S.portal_floats[p]
    j = k - n[L.W_FIRST]
    i, j = j % n[L.W_ACROSS], j // n[L.W_ACROSS]
    wide, high = f[L.P_WIDTH] / np.float32(n[L.W_ACROSS]), f[L.P_HEIGHT] / np.float32(n[L.W_UP])
    a, b = np.float32(i) * wide, np.float32(j) * high
    return p, a, a + wide, b, b + high


@njit(**PIECE)
def _window(f, a0, a1, b0, b1, x, y, z):
    """Rectangle (u0, u1, v0, v1) of a pane in cells of its portal's map; u1 ≤ u0 from behind it."""
    cx, cy, cz = f[0] - x, f[1] - y, f[2] - z
    away = -dot(cx, cy, cz, f[9], f[10], f[11])
    if away <= np.float32(1e-3):
        return ZERO, ZERO, ZERO, ZERO
    k = ONE / away
    a, b = dot(cx, cy, cz, f[3], f[4], f[5]), dot(cx, cy, cz, f[6], f[7], f[8])
    return (
        _to_map((a + a0) * k),
        _to_map((a + a1) * k),
        _to_map((b + b0) * k),
        _to_map((b + b1) * k),
    )


@njit(**OUTLINE)
def _through(maps, first, f, a0, a1, b0, b1, x, y, z):
    """Light of the sky through a pane at a point: luminance × solid angle."""
    u0, u1, v0, v1 = _window(f, a0, a1, b0, b1, x, y, z)
    if u1 <= u0 or v1 <= v0:
        return ZERO
    t = _sum(maps, first, u1, v1) - _sum(maps, first, u0, v1)
    t -= _sum(maps, first, u1, v0) - _sum(maps, first, u0, v0)
    return max(np.float32(t), ZERO)


@njit(**PIECE)
def _crossing(f, x, y, z, dx, dy, dz):
    """Where a ray from inside meets a portal row: distance (0: it does not), place along the width and
    the height in metres, cosine."""
    out = -dot(dx, dy, dz, f[9], f[10], f[11])
    if out <= np.float32(1e-6):
        return ZERO, ZERO, ZERO, ONE
    cx, cy, cz = f[0] - x, f[1] - y, f[2] - z
    away = -dot(cx, cy, cz, f[9], f[10], f[11])
    if away <= ZERO:
        return ZERO, ZERO, ZERO, ONE
    t = away / out
    a = dot(dx, dy, dz, f[3], f[4], f[5]) * t - dot(cx, cy, cz, f[3], f[4], f[5])
    if a < ZERO or a > f[L.P_WIDTH]:
        return ZERO, ZERO, ZERO, ONE
    b = dot(dx, dy, dz, f[6], f[7], f[8]) * t - dot(cx, cy, cz, f[6], f[7], f[8])
    if b < ZERO or b > f[L.P_HEIGHT]:
        return ZERO, ZERO, ZERO, ONE
    return t, a, b, out


@njit(**PIECE)
def crosses(f, x, y, z, dx, dy, dz):
    """Whether a ray from inside leaves through a portal row."""
    return _crossing(f, x, y, z, dx, dy, dz)[0] > ZERO


@njit(**PIECE)
def cell_of(S, x, y, z):
    """Row of `cells` a point reads, −1 outside the grid and where no portal is seen."""
    b = S.cell_box
    nx, ny, nz = S.portal_state[L.G_X], S.portal_state[L.G_Y], S.portal_state[L.G_Z]
    fx, fy, fz = (x - b[0]) * b[3], (y - b[1]) * b[3], (z - b[2]) * b[3]
    if fx < ZERO or fy < ZERO or fz < ZERO:
        return np.int64(-1)
    i, j, k = int(fx), int(fy), int(fz)
    if i >= nx or j >= ny or k >= nz:
        return np.int64(-1)
    return np.int64(S.cell_rows[(i * ny + j) * nz + k])


@njit(**PIECE)
def weigh(S, s, memory, x, y, z, gx, gy, gz, outside, exact):
    """Remember for a place that faces (gx, gy, gz), zeros for air, how light of sky ``s`` is drawn there.

    ``memory`` has the columns R_*. Portals are drawn from the sky through a pane (`_EXACT`) or evenly
    over its area (`_EVENLY`). The exact way costs look-ups in a large table, which pays where the
    picture is looked at and not after a bounce.
    """
    memory[L.R_MODE] = ZERO
    if outside:
        return
    # A whole cell into the air the surface faces: one that holds the surface itself has places on
    # both sides of it, and from below a floor or behind a wall the open sky may be seen.
    lift = ONE / S.cell_box[3]
    cell = cell_of(S, x + gx * lift, y + gy * lift, z + gz * lift)
    if cell < 0:
        return
    row = S.cells[cell]
    first = (S.source_ints[s, L.S_SKY] * S.cells.shape[0] + cell) * L.FACES
    # A slanted surface takes some of each face it leans to.
    memory[L.R_ROW] = np.float32(first + (0 if gx > ZERO else 1))
    memory[L.R_ROW + 1] = np.float32(first + (2 if gy > ZERO else 3))
    memory[L.R_ROW + 2] = np.float32(first + (4 if gz > ZERO else 5))
    memory[L.R_SHARE], memory[L.R_SHARE + 1] = gx * gx, gy * gy
    memory[L.R_SHARE + 2] = gz * gz
    if gx == ZERO and gy == ZERO and gz == ZERO:
        memory[L.R_SHARE], memory[L.R_ROW] = ONE, np.float32(first + L.FACE_ANY)
    total = ZERO
    for a in range(3):
        w = memory[L.R_SHARE + a]
        if w < _LEAN:
            w = ZERO
        else:
            w *= S.pane_totals[np.int64(memory[L.R_ROW + a])]
        memory[L.R_SHARE + a] = w
        total += w
    if not total > ZERO:
        return
    for a in range(3):
        memory[L.R_SHARE + a] /= total
    sky = open_sky = ZERO
    if S.portal_state[L.G_CLOSED] == 0:
        # About the illuminance of so much of the sky.
        open_sky = sky = S.source_floats[s, L.S_TOTAL] * row[L.N_SKY] * HALF
        inside = row[L.N_INSIDE]
        if inside >= ZERO and inside < HALF:
            # A cell cut by a wall or a roof: whoever asks may be on either side of it.
            sky = min(open_sky, total)
        sky = max(sky, total * np.float32(0.03))
    # Indoors the rest finds its way in by gaps nobody knows: an even draw over all directions does
    # for that, and its density needs no look-up.
    memory[L.R_EVEN] = ONE if sky > open_sky else ZERO
    memory[L.R_SKY] = sky / (total + sky)
    # Close by an opening an even draw over its area would speckle.
    memory[L.R_MODE] = _EXACT if exact or row[L.N_CLOSE] > ZERO else _EVENLY


@njit(**PIECE)
def _choose_pane(S, memory, w):
    """A pane by its chance at a place `weigh` was called for; ``w`` in [0, 1)."""
    chosen, place = 0, ZERO
    for a in range(3):
        share = memory[L.R_SHARE + a]
        if share > ZERO:
            chosen, place = a, w / share
            if w < share:
                break
            w -= share
    chances = S.pane_chances[np.int64(memory[L.R_ROW + chosen])]
    w = min(place, np.float32(0.9999999))
    low, high = 0, chances.shape[0] - 1
    while low < high:
        middle = (low + high) >> 1
        if chances[middle] > w:
            high = middle
        else:
            low = middle + 1
    return low


@njit(**PIECE)
def _chance_of_pane(S, memory, k):
    """Chance of a pane at a place `weigh` was called for."""
    chance = ZERO
    for a in range(3):
        share = memory[L.R_SHARE + a]
        if share > ZERO:
            chances = S.pane_chances[np.int64(memory[L.R_ROW + a])]
            chance += share * (chances[k] - (chances[k - 1] if k > 0 else ZERO))
    return chance


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
def _sample_window(maps, m, f, a0, a1, b0, b1, x, y, z, u, v):
    """Direction through a pane, drawn by the light the sky sends through it."""
    u0, u1, v0, v1 = _window(f, a0, a1, b0, b1, x, y, z)
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
    # Never on its very edge: rays there may miss it, and count as rare light from elsewhere.
    edge = (u1 - u0) * _MAP_MARGIN
    mu = min(max(mu, u0 + edge), u1 - edge)
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
    edge = (v1 - v0) * _MAP_MARGIN
    mv = min(max(mv, v0 + edge), v1 - edge)
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
def outside_density(S, s, memory, x, y, z, dx, dy, dz):
    """Density per steradian of the mixture of portals and sky at a point `weigh` was called for."""
    if memory[L.R_MODE] == ZERO:
        return sky_density(S, s, memory, dx, dy, dz)
    density = memory[L.R_SKY]
    if density > ZERO:
        density *= _EVERYWHERE if memory[L.R_EVEN] == ONE else sky_density(S, s, memory, dx, dy, dz)
    rest = ONE - memory[L.R_SKY]
    for p in range(S.portal_floats.shape[0]):
        f = S.portal_floats[p]
        t, a, b, out = _crossing(f, x, y, z, dx, dy, dz)
        if t == ZERO:
            continue
        n = S.portal_ints[p]
        across, up = np.float32(n[L.W_ACROSS]), np.float32(n[L.W_UP])
        i = min(int(a / f[L.P_WIDTH] * across), n[L.W_ACROSS] - 1)
        j = min(int(b / f[L.P_HEIGHT] * up), n[L.W_UP] - 1)
        chance = rest * _chance_of_pane(S, memory, np.int64(n[L.W_FIRST] + j * n[L.W_ACROSS] + i))
        if not chance > ZERO:
            continue
        wide, high = f[L.P_WIDTH] / across, f[L.P_HEIGHT] / up
        if memory[L.R_MODE] == _EVENLY:
            density += chance * t * t / (out * wide * high)
        else:
            m = (S.source_ints[s, L.S_MAPS] + p) * L.MAP_SIZE
            a, b = np.float32(i) * wide, np.float32(j) * high
            through = _through(S.portal_maps, m, f, a, a + wide, b, b + high, x, y, z)
            density += chance * _window_density(S.portal_maps, m, f, dx, dy, dz, through)
    return density


@njit(**PIECE)
def sample_outside(S, s, memory, x, y, z, a, b, w):
    """Direction and density towards sky source ``s``; random 32-bit integers a, b and w in [0, 1)."""
    i = S.source_ints[s]
    if memory[L.R_MODE] == ZERO:
        return sample_sky(
            S.sky_table, table_of(i, memory), i[L.S_TABLE_WIDTH], i[L.S_TABLE_HEIGHT], a, b
        )
    run = memory[L.R_SKY]
    if w < run and memory[L.R_EVEN] == ONE:
        dz = ONE - TWO * to_unit(a)
        phi, r = TWO_PI * to_unit(b), np.sqrt(max(ONE - dz * dz, ZERO))
        dx, dy = r * np.cos(phi), r * np.sin(phi)
    elif w < run:
        dx, dy, dz, _ = sample_sky(
            S.sky_table, table_of(i, memory), i[L.S_TABLE_WIDTH], i[L.S_TABLE_HEIGHT], a, b
        )
    else:
        k = _choose_pane(S, memory, (w - run) / (ONE - run))
        p, a0, a1, b0, b1 = _pane(S, k)
        f = S.portal_floats[p]
        u, v = to_unit(a), to_unit(b)
        if memory[L.R_MODE] == _EVENLY:
            # Never on its very edge: rays there may miss it.
            across = a0 + (a1 - a0) * (_MARGIN + u * _INNER)
            up = b0 + (b1 - b0) * (_MARGIN + v * _INNER)
            dx, dy, dz = normalise(
                f[0] + f[3] * across + f[6] * up - x,
                f[1] + f[4] * across + f[7] * up - y,
                f[2] + f[5] * across + f[8] * up - z,
            )  # fmt: skip
        else:
            m = (i[L.S_MAPS] + p) * L.MAP_SIZE
            dx, dy, dz = _sample_window(S.portal_maps, m, f, a0, a1, b0, b1, x, y, z, u, v)
    return dx, dy, dz, outside_density(S, s, memory, x, y, z, dx, dy, dz)


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
