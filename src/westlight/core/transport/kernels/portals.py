"""Window portals: directions drawn exactly from sky × opening (Bitterli, Wyman & Pharr 2015).

A portal's directions form an upright rectangle in the map u = ½ + ½·X/(1+|X|), X = dx/dz, of its
own axes, so a summed-area table of the sky in that map gives the light through it and draws from
it. What stands outside, the ground above all, is left out of each portal's table. Portals are cut into
panes, and panes are chosen by what a grid cell expects of each of them; the whole sky always keeps
a chance, so light by any other way is found too and the mean does not depend on the portals.
"""

from typing import Any, NamedTuple

import numpy as np
from numba import njit

from .. import layout as L
from .numbers import (
    HALF,
    ONE,
    OUTLINE,
    PIECE,
    TWO,
    TWO_PI,
    ZERO,
    Vec,
    along,
    dot,
    minus,
    normalise,
    scaled,
    vec,
)
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


class Pane(NamedTuple):
    """A piece of a portal: its sides from and to along the width and the height, in metres."""

    left: Any
    right: Any
    low: Any
    high: Any


class _Crossing(NamedTuple):
    """Where a ray from inside meets a portal."""

    far: Any  #: 0 where it does not
    across: Any  #: metres along the width
    up: Any  #: metres along the height
    cosine: Any


@njit(**PIECE)
def on_portal(f, across, up):
    """The point of a portal row so many metres along its width and its height."""
    return along(along(vec(f, L.P_CORNER), vec(f, L.P_U), across), vec(f, L.P_V), up)


@njit(**PIECE)
def _pane(S, k):
    """Portal of a pane, and the pane on it."""
    p = np.int64(S.pane_portal[k])
    n, f = S.portal_ints[p], S.portal_floats[p]
    j = k - n[L.W_FIRST]
    i, j = j % n[L.W_ACROSS], j // n[L.W_ACROSS]
    wide, high = f[L.P_WIDTH] / np.float32(n[L.W_ACROSS]), f[L.P_HEIGHT] / np.float32(n[L.W_UP])
    a, b = np.float32(i) * wide, np.float32(j) * high
    return p, Pane(a, a + wide, b, b + high)


@njit(**PIECE)
def _window(f, pane, at):
    """A pane in cells of its portal's map; its right is not beyond its left from behind it."""
    off = minus(vec(f, L.P_CORNER), at)
    away = -dot(off, vec(f, L.P_NORMAL))
    if away <= np.float32(1e-3):
        return Pane(ZERO, ZERO, ZERO, ZERO)
    k = ONE / away
    a, b = dot(off, vec(f, L.P_U)), dot(off, vec(f, L.P_V))
    return Pane(
        _to_map((a + pane.left) * k),
        _to_map((a + pane.right) * k),
        _to_map((b + pane.low) * k),
        _to_map((b + pane.high) * k),
    )


@njit(**OUTLINE)
def _through(maps, first, f, pane, at):
    """Light of the sky through a pane at a point: luminance × solid angle."""
    w = _window(f, pane, at)
    if w.right <= w.left or w.high <= w.low:
        return ZERO
    t = _sum(maps, first, w.right, w.high) - _sum(maps, first, w.left, w.high)
    t -= _sum(maps, first, w.right, w.low) - _sum(maps, first, w.left, w.low)
    return max(np.float32(t), ZERO)


@njit(**PIECE)
def _crossing(f, at, way):
    """Where a ray from inside meets a portal row."""
    nowhere = _Crossing(ZERO, ZERO, ZERO, ONE)
    normal = vec(f, L.P_NORMAL)
    out = -dot(way, normal)
    if out <= np.float32(1e-6):
        return nowhere
    off = minus(vec(f, L.P_CORNER), at)
    away = -dot(off, normal)
    if away <= ZERO:
        return nowhere
    t = away / out
    a = dot(way, vec(f, L.P_U)) * t - dot(off, vec(f, L.P_U))
    if a < ZERO or a > f[L.P_WIDTH]:
        return nowhere
    b = dot(way, vec(f, L.P_V)) * t - dot(off, vec(f, L.P_V))
    if b < ZERO or b > f[L.P_HEIGHT]:
        return nowhere
    return _Crossing(t, a, b, out)


@njit(**PIECE)
def crosses(f, at, way):
    """Whether a ray from inside leaves through a portal row."""
    return _crossing(f, at, way).far > ZERO


@njit(**PIECE)
def cell_of(S, at):
    """Row of `cells` a point reads, −1 outside the grid and where no portal is seen."""
    b = S.cell_box
    nx, ny, nz = S.portal_state[L.G_X], S.portal_state[L.G_Y], S.portal_state[L.G_Z]
    place = scaled(minus(at, vec(b, L.GRID_LOW)), b[L.GRID_PER_METRE])
    if place.x < ZERO or place.y < ZERO or place.z < ZERO:
        return np.int64(-1)
    i, j, k = int(place.x), int(place.y), int(place.z)
    if i >= nx or j >= ny or k >= nz:
        return np.int64(-1)
    return np.int64(S.cell_rows[(i * ny + j) * nz + k])


@njit(**PIECE)
def cell_before(S, at, face):
    """Row of `cells` of a place on a surface that faces so: a whole cell into the air before it.

    One that holds the surface itself has places on both sides of it, and from below a floor or behind a
    wall the open sky may be seen.
    """
    return cell_of(S, along(at, face, ONE / S.cell_box[L.GRID_PER_METRE]))


@njit(**PIECE)
def gated(S):
    """Whether light from outside depends on the portal it comes by."""
    state = S.portal_state
    return S.portal_floats.shape[0] > 0 and (state[L.G_CLOSED] | state[L.G_GAINED]) != 0


@njit(**PIECE)
def closed(S):
    """Whether light from outside enters by portals alone."""
    return S.portal_floats.shape[0] > 0 and S.portal_state[L.G_CLOSED] == 1


@njit(**PIECE)
def _faces(S, s, memory, cell, face):
    """Remember which rows of `pane_chances` serve a place that faces so, and how much it takes of each."""
    first = (S.source_ints[s, L.S_SKY] * S.cells.shape[0] + cell) * L.FACES
    # A slanted surface takes some of each face it leans to.
    memory[L.R_ROW] = np.float32(first + (0 if face.x > ZERO else 1))
    memory[L.R_ROW + 1] = np.float32(first + (2 if face.y > ZERO else 3))
    memory[L.R_ROW + 2] = np.float32(first + (4 if face.z > ZERO else 5))
    memory[L.R_SHARE], memory[L.R_SHARE + 1] = face.x * face.x, face.y * face.y
    memory[L.R_SHARE + 2] = face.z * face.z
    if face.x == ZERO and face.y == ZERO and face.z == ZERO:
        memory[L.R_SHARE], memory[L.R_ROW] = ONE, np.float32(first + L.FACE_ANY)


@njit(**PIECE)
def weigh(S, s, memory, at, face, outside, exact):
    """Remember for a place that faces so, zeros for air, how light of sky ``s`` is drawn there.

    ``memory`` has the columns R_*. Portals are drawn from the sky through a pane (`_EXACT`) or evenly
    over its area (`_EVENLY`). The exact way costs look-ups in a large table, which pays where the
    picture is looked at and not after a bounce.
    """
    memory[L.R_MODE] = ZERO
    if outside:
        return
    cell = cell_before(S, at, face)
    if cell < 0:
        return
    row = S.cells[cell]
    _faces(S, s, memory, cell, face)
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
def _sample_window(maps, m, f, pane, at, u, v):
    """Direction through a pane, drawn by the light the sky sends through it."""
    w = _window(f, pane, at)
    u0, u1, v0, v1 = w.left, w.right, w.low, w.high
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
    across, up = _from_map(mu), _from_map(mv)
    k = ONE / np.sqrt(across * across + up * up + ONE)
    way = along(scaled(vec(f, L.P_U), across * k), vec(f, L.P_V), up * k)
    return along(way, vec(f, L.P_NORMAL), -k)


@njit(**OUTLINE)
def _window_density(m, first, f, way, through):
    """Density per steradian with which `_sample_window` draws a direction that crosses a portal."""
    k = ONE / max(-dot(way, vec(f, L.P_NORMAL)), np.float32(1e-6))
    x, y = dot(way, vec(f, L.P_U)) * k, dot(way, vec(f, L.P_V)) * k
    i = min(max(int(_to_map(x)), 0), L.MAP_SIDE - 1)
    j = min(max(int(_to_map(y)), 0), L.MAP_SIDE - 1)
    q = first + i * (L.MAP_SIDE + 1) + j
    cell = np.float32(m[q + L.MAP_SIDE + 2] - m[q + 1] - m[q + L.MAP_SIDE + 1] + m[q])
    ax, ay = ONE + abs(x), ONE + abs(y)
    n2 = x * x + y * y + ONE
    stretch = np.float32(4.0) * ax * ax * ay * ay / (n2 * np.sqrt(n2))
    return cell * _SIDE * _SIDE / max(through * stretch, np.float32(1e-30))


@njit(**PIECE)
def outside_density(S, s, memory, at, way):
    """Density per steradian of the mixture of portals and sky at a point `weigh` was called for."""
    if memory[L.R_MODE] == ZERO:
        return sky_density(S, s, memory, way)
    density = memory[L.R_SKY]
    if density > ZERO:
        density *= _EVERYWHERE if memory[L.R_EVEN] == ONE else sky_density(S, s, memory, way)
    rest = ONE - memory[L.R_SKY]
    for p in range(S.portal_floats.shape[0]):
        f = S.portal_floats[p]
        met = _crossing(f, at, way)
        if met.far == ZERO:
            continue
        n = S.portal_ints[p]
        across, up = np.float32(n[L.W_ACROSS]), np.float32(n[L.W_UP])
        i = min(int(met.across / f[L.P_WIDTH] * across), n[L.W_ACROSS] - 1)
        j = min(int(met.up / f[L.P_HEIGHT] * up), n[L.W_UP] - 1)
        chance = rest * _chance_of_pane(S, memory, np.int64(n[L.W_FIRST] + j * n[L.W_ACROSS] + i))
        if not chance > ZERO:
            continue
        wide, high = f[L.P_WIDTH] / across, f[L.P_HEIGHT] / up
        if memory[L.R_MODE] == _EVENLY:
            density += chance * met.far * met.far / (met.cosine * wide * high)
        else:
            m = (S.source_ints[s, L.S_MAPS] + p) * L.MAP_SIZE
            a, b = np.float32(i) * wide, np.float32(j) * high
            through = _through(S.portal_maps, m, f, Pane(a, a + wide, b, b + high), at)
            density += chance * _window_density(S.portal_maps, m, f, way, through)
    return density


@njit(**PIECE)
def sample_outside(S, s, memory, at, a, b, w):
    """Direction and density towards sky source ``s``; random 32-bit integers a, b and w in [0, 1)."""
    i = S.source_ints[s]
    if memory[L.R_MODE] == ZERO:
        return sample_sky(
            S.sky_table, table_of(i, memory), i[L.S_TABLE_WIDTH], i[L.S_TABLE_HEIGHT], a, b
        )
    run = memory[L.R_SKY]
    if w < run and memory[L.R_EVEN] == ONE:
        z = ONE - TWO * to_unit(a)
        phi, r = TWO_PI * to_unit(b), np.sqrt(max(ONE - z * z, ZERO))
        way = Vec(r * np.cos(phi), r * np.sin(phi), z)
    elif w < run:
        way, _ = sample_sky(
            S.sky_table, table_of(i, memory), i[L.S_TABLE_WIDTH], i[L.S_TABLE_HEIGHT], a, b
        )
    else:
        k = _choose_pane(S, memory, (w - run) / (ONE - run))
        p, pane = _pane(S, k)
        f = S.portal_floats[p]
        u, v = to_unit(a), to_unit(b)
        if memory[L.R_MODE] == _EVENLY:
            # Never on its very edge: rays there may miss it.
            across = pane.left + (pane.right - pane.left) * (_MARGIN + u * _INNER)
            up = pane.low + (pane.high - pane.low) * (_MARGIN + v * _INNER)
            way = normalise(minus(on_portal(f, across, up), at))
        else:
            m = (i[L.S_MAPS] + p) * L.MAP_SIZE
            way = _sample_window(S.portal_maps, m, f, pane, at, u, v)
    return way, outside_density(S, s, memory, at, way)


@njit(**PIECE)
def admitted(S, at, way, outside):
    """Factor for light from outside: gain of the portal it comes by; 0 where closure shuts it out."""
    if outside:
        return ONE
    for p in range(S.portal_floats.shape[0]):
        if crosses(S.portal_floats[p], at, way):
            return S.portal_floats[p, L.P_GAIN]
    return ZERO if S.portal_state[L.G_CLOSED] == 1 else ONE


@njit(**PIECE)
def still_outside(S, start, end, outside):
    """Whether a path is outside after a segment, for closure: it changes sides at portals."""
    way = minus(end, start)
    for p in range(S.portal_floats.shape[0]):
        f = S.portal_floats[p]
        corner, normal = vec(f, L.P_CORNER), vec(f, L.P_NORMAL)
        a, b = dot(minus(start, corner), normal), dot(minus(end, corner), normal)
        if (a > ZERO) == (b > ZERO):
            continue
        off = minus(along(start, way, a / (a - b)), corner)
        u, v = dot(off, vec(f, L.P_U)), dot(off, vec(f, L.P_V))
        if u >= ZERO and u <= f[L.P_WIDTH] and v >= ZERO and v <= f[L.P_HEIGHT]:
            outside = b <= ZERO
    return outside
