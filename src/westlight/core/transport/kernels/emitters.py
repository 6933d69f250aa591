"""Emitters: choose one of a group, draw a direction towards it, and tell the density of that.

Rectangles by solid angle (Ureña et al. 2013) unless they look tiny, spheres by the cone they fill,
discs and triangles by area. Densities are per steradian at the shading point.
"""

import math

import numpy as np
from numba import njit

from .. import layout as L
from .numbers import ONE, PI, PIECE, TWO, TWO_PI, ZERO, dot, frame

# Below this many steradians the solid angle of a rectangle is not exact in float32.
SMALL = np.float32(4e-3)


@njit(**PIECE)
def choice_weight(f, kind, x, y, z):
    """Bound-like weight of an emitter row ``f`` at a point: flux over squared distance."""
    dx, dy, dz = f[L.E_POSITION] - x, f[L.E_POSITION + 1] - y, f[L.E_POSITION + 2] - z
    if kind != L.SHAPE_SPHERE:
        if kind == L.SHAPE_TRIANGLE:
            third = np.float32(1.0 / 3.0)
            dx += (f[L.E_U] + f[L.E_V]) * third
            dy += (f[L.E_U + 1] + f[L.E_V + 1]) * third
            dz += (f[L.E_U + 2] + f[L.E_V + 2]) * third
        else:
            front = -dot(dx, dy, dz, f[L.E_NORMAL], f[L.E_NORMAL + 1], f[L.E_NORMAL + 2])
            if front <= ZERO:
                return ZERO
    d2 = dx * dx + dy * dy + dz * dz
    return f[L.E_WEIGHT] / max(d2, f[L.E_AREA] * np.float32(0.25))


@njit(**PIECE)
def choose(floats, ints, first, count, x, y, z, u):
    """Row of one emitter of a group and the chance it was taken with (0: none shines here)."""
    if count == 1:
        return first, ONE
    total = ZERO
    for i in range(first, first + count):
        total += choice_weight(floats[i], ints[i, L.E_KIND], x, y, z)
    if not total > ZERO:
        return first, ZERO
    target, run, last, last_w = u * total, ZERO, first, ZERO
    for i in range(first, first + count):
        w = choice_weight(floats[i], ints[i, L.E_KIND], x, y, z)
        if w > ZERO:
            run += w
            last, last_w = i, w
            if run >= target:
                break
    return last, last_w / total


@njit(**PIECE)
def choice_chance(floats, ints, first, count, row, x, y, z):
    """Chance that `choose` takes ``row`` at a point."""
    if count == 1:
        return ONE
    total = ZERO
    for i in range(first, first + count):
        total += choice_weight(floats[i], ints[i, L.E_KIND], x, y, z)
    if not total > ZERO:
        return ZERO
    return choice_weight(floats[row], ints[row, L.E_KIND], x, y, z) / total


@njit(**PIECE)
def _rectangle_frame(f, x, y, z):
    """Corner offset in the rectangle's axes, edge lengths, unit axes; z0 ≤ 0 towards it."""
    eu = math.sqrt(dot(f[3], f[4], f[5], f[3], f[4], f[5]))
    ev = math.sqrt(dot(f[6], f[7], f[8], f[6], f[7], f[8]))
    ux, uy, uz = f[3] / eu, f[4] / eu, f[5] / eu
    vx, vy, vz = f[6] / ev, f[7] / ev, f[8] / ev
    half = np.float32(0.5)
    dx = f[0] - half * (f[3] + f[6]) - x
    dy = f[1] - half * (f[4] + f[7]) - y
    dz = f[2] - half * (f[5] + f[8]) - z
    x0, y0 = dot(dx, dy, dz, ux, uy, uz), dot(dx, dy, dz, vx, vy, vz)
    z0 = dot(dx, dy, dz, f[9], f[10], f[11])
    return x0, y0, z0, eu, ev, ux, uy, uz, vx, vy, vz


@njit(**PIECE)
def _angle(c):
    return math.acos(min(max(c, -ONE), ONE))


@njit(**PIECE)
def _rectangle_solid_angle(x0, y0, z0, eu, ev):
    """Solid angle of an axis-aligned rectangle and the terms its sampling reuses."""
    x1, y1 = x0 + eu, y0 + ev
    z2 = z0 * z0
    n0 = -y0 / math.sqrt(z2 + y0 * y0)
    n1 = x1 / math.sqrt(z2 + x1 * x1)
    n2 = y1 / math.sqrt(z2 + y1 * y1)
    n3 = -x0 / math.sqrt(z2 + x0 * x0)
    g0, g1 = _angle(-n0 * n1), _angle(-n1 * n2)
    g2, g3 = _angle(-n2 * n3), _angle(-n3 * n0)
    return g0 + g1 + g2 + g3 - TWO_PI, n0, n2, TWO_PI - g2 - g3


@njit(**PIECE)
def _looks_small(f, x, y, z):
    dx, dy, dz = f[0] - x, f[1] - y, f[2] - z
    d2 = dx * dx + dy * dy + dz * dz
    return f[L.E_AREA] < SMALL * d2


@njit(**PIECE)
def sample_shape(f, kind, sides, x, y, z, u, v):
    """Unit direction, distance and density towards an emitter row; density 0 where it is dark."""
    if kind == L.SHAPE_SPHERE:
        dx, dy, dz = f[0] - x, f[1] - y, f[2] - z
        d2 = dx * dx + dy * dy + dz * dz
        radius = f[L.E_RADIUS]
        if d2 <= radius * radius * np.float32(1.0001):
            return ZERO, ZERO, ONE, ZERO, ZERO
        d = math.sqrt(d2)
        s2 = radius * radius / d2
        one_minus = s2 / (ONE + math.sqrt(ONE - s2))
        w = one_minus * u
        c = ONE - w
        s = math.sqrt(max(w * (TWO - w), ZERO))
        phi = TWO_PI * v
        nx, ny, nz = dx / d, dy / d, dz / d
        tx, ty, tz, bx, by, bz = frame(nx, ny, nz)
        a, b = s * math.cos(phi), s * math.sin(phi)
        ix, iy, iz = tx * a + bx * b + nx * c, ty * a + by * b + ny * c, tz * a + bz * b + nz * c
        near = d * c - math.sqrt(max(radius * radius - d2 * s * s, ZERO))
        return ix, iy, iz, near, ONE / (TWO_PI * one_minus)
    if kind == L.SHAPE_RECTANGLE and not _looks_small(f, x, y, z):
        x0, y0, z0, eu, ev, ux, uy, uz, vx, vy, vz = _rectangle_frame(f, x, y, z)
        if z0 >= ZERO:  # behind the emitting face
            return ZERO, ZERO, ONE, ZERO, ZERO
        omega, n0, n2, k = _rectangle_solid_angle(x0, y0, z0, eu, ev)
        if omega <= ZERO:
            return ZERO, ZERO, ONE, ZERO, ZERO
        au = u * omega + k
        fu = (math.cos(au) * n0 - n2) / math.sin(au)
        cu = (ONE if fu > ZERO else -ONE) / math.sqrt(fu * fu + n0 * n0)
        cu = min(max(cu, -ONE), ONE)
        xu = -(cu * z0) / max(math.sqrt(ONE - cu * cu), np.float32(1e-7))
        xu = min(max(xu, x0), x0 + eu)
        d = math.sqrt(xu * xu + z0 * z0)
        h0, h1 = y0 / math.sqrt(d * d + y0 * y0), (y0 + ev) / math.sqrt(d * d + (y0 + ev) ** 2)
        hv = h0 + v * (h1 - h0)
        yv = (hv * d) / math.sqrt(max(ONE - hv * hv, np.float32(1e-7)))
        yv = min(max(yv, y0), y0 + ev)
        px = ux * xu + vx * yv + f[9] * z0
        py = uy * xu + vy * yv + f[10] * z0
        pz = uz * xu + vz * yv + f[11] * z0
        dist = math.sqrt(px * px + py * py + pz * pz)
        return px / dist, py / dist, pz / dist, dist, ONE / omega
    if kind == L.SHAPE_DISC:
        radius, phi = f[L.E_RADIUS] * math.sqrt(u), TWO_PI * v
        a, b = radius * math.cos(phi), radius * math.sin(phi)
    elif kind == L.SHAPE_TRIANGLE:
        root = math.sqrt(u)
        a, b = ONE - root, root * v
    else:
        a, b = u - np.float32(0.5), v - np.float32(0.5)
    px = f[0] + a * f[3] + b * f[6] - x
    py = f[1] + a * f[4] + b * f[7] - y
    pz = f[2] + a * f[5] + b * f[8] - z
    d2 = px * px + py * py + pz * pz
    dist = math.sqrt(max(d2, np.float32(1e-20)))
    ix, iy, iz = px / dist, py / dist, pz / dist
    cosine = -dot(ix, iy, iz, f[9], f[10], f[11])
    if sides == 2:
        cosine = abs(cosine)
    if cosine <= np.float32(1e-6):
        return ZERO, ZERO, ONE, ZERO, ZERO
    return ix, iy, iz, dist, d2 / (cosine * f[L.E_AREA])


@njit(**PIECE)
def shape_density(f, kind, x, y, z, ix, iy, iz, dist):
    """Density with which `sample_shape` draws the direction that met the emitter at ``dist``."""
    if kind == L.SHAPE_SPHERE:
        dx, dy, dz = f[0] - x, f[1] - y, f[2] - z
        s2 = f[L.E_RADIUS] * f[L.E_RADIUS] / max(dx * dx + dy * dy + dz * dz, np.float32(1e-20))
        if s2 >= ONE:
            return ZERO
        return (ONE + math.sqrt(ONE - s2)) / (TWO_PI * s2)
    if kind == L.SHAPE_RECTANGLE and not _looks_small(f, x, y, z):
        x0, y0, z0, eu, ev, _, _, _, _, _, _ = _rectangle_frame(f, x, y, z)
        omega, _, _, _ = _rectangle_solid_angle(x0, y0, z0, eu, ev)
        return ONE / max(omega, np.float32(1e-9))
    cosine = abs(dot(ix, iy, iz, f[9], f[10], f[11]))
    return dist * dist / max(cosine * f[L.E_AREA], np.float32(1e-12))


@njit(**PIECE)
def sample_sun(s, u, v):
    """Direction inside the sun's disc for a source row ``s`` of floats."""
    w = s[L.S_ONE_MINUS_COS] * u
    c, sn = ONE - w, math.sqrt(max(w * (TWO - w), ZERO))
    phi = TWO_PI * v
    nx, ny, nz = s[0], s[1], s[2]
    tx, ty, tz, bx, by, bz = frame(nx, ny, nz)
    a, b = sn * math.cos(phi), sn * math.sin(phi)
    return tx * a + bx * b + nx * c, ty * a + by * b + ny * c, tz * a + bz * b + nz * c


@njit(**PIECE)
def in_sun(s, x, y, z):
    """Whether a unit direction lies inside the sun's disc (by chord: exact for small discs)."""
    dx, dy, dz = x - s[0], y - s[1], z - s[2]
    return dx * dx + dy * dy + dz * dz < TWO * s[L.S_ONE_MINUS_COS]


@njit(**PIECE)
def sample_sky(sky, first, width, height, u, v, w, q):
    """Direction and pixel drawn by luminance from one sky's alias table.

    ``u`` chooses the entry and ``w`` whether it is kept: one float32 could not do both, what is
    left of it after choosing among 10⁵ pixels is too coarse. ``q`` and ``v`` place it in the pixel.
    """
    count = width * height
    pixel = min(int(u * np.float32(count)), count - 1)
    if w >= sky[first + pixel, L.K_ACCEPT]:
        pixel = int(sky[first + pixel, L.K_ALIAS])
    row, column = pixel // width, pixel % width
    # Even in solid angle inside the pixel: even in azimuth and in height on the unit sphere.
    z0 = math.cos(PI * np.float32(row) / np.float32(height))
    z1 = math.cos(PI * np.float32(row + 1) / np.float32(height))
    z = z0 + (z1 - z0) * v
    phi = TWO_PI * (np.float32(column) + q) / np.float32(width)
    s = math.sqrt(max(ONE - z * z, ZERO))
    return s * math.sin(phi), s * math.cos(phi), z, first + pixel


@njit(**PIECE)
def sky_pixel(first, width, height, x, y, z):
    """Index of the sky pixel that a unit direction meets."""
    phi = math.atan2(x, y)
    if phi < ZERO:
        phi += TWO_PI
    column = min(int(phi / TWO_PI * np.float32(width)), width - 1)
    row = min(int(math.acos(min(max(z, -ONE), ONE)) / PI * np.float32(height)), height - 1)
    return first + row * width + column


@njit(**PIECE)
def sky_smooth(rgb, first, width, height, x, y, z):
    """Bilinear sky colour, for the sky as the camera sees it."""
    phi = math.atan2(x, y)
    if phi < ZERO:
        phi += TWO_PI
    c = phi / TWO_PI * np.float32(width) - np.float32(0.5)
    r = math.acos(min(max(z, -ONE), ONE)) / PI * np.float32(height) - np.float32(0.5)
    r = min(max(r, ZERO), np.float32(height) - np.float32(1.001))
    ic, ir = int(math.floor(c)), int(r)
    a, b = c - np.float32(ic), r - np.float32(ir)
    c0, c1 = ic % width, (ic + 1) % width
    # No blending over the horizon: the ground below would bleed into the sky.
    if 2 * (ir + 1) == height:
        b = ZERO if z >= ZERO else ONE
    p00, p01 = first + ir * width + c0, first + ir * width + c1
    p10, p11 = p00 + width, p01 + width
    w00, w01, w10, w11 = (ONE - a) * (ONE - b), a * (ONE - b), (ONE - a) * b, a * b
    return (
        rgb[p00, 0] * w00 + rgb[p01, 0] * w01 + rgb[p10, 0] * w10 + rgb[p11, 0] * w11,
        rgb[p00, 1] * w00 + rgb[p01, 1] * w01 + rgb[p10, 1] * w10 + rgb[p11, 1] * w11,
        rgb[p00, 2] * w00 + rgb[p01, 2] * w01 + rgb[p10, 2] * w10 + rgb[p11, 2] * w11,
    )
