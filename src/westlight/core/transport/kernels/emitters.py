"""Emitters: draw a direction towards one, tell the density of that, and the light that comes.

Rectangles by solid angle (Ureña et al. 2013) unless they look tiny, spheres by the cone they fill,
tubes by the half that can be seen, discs and triangles by area. Densities are per steradian at the
shading point.
"""

import math

import numpy as np
from numba import njit

from .. import layout as L
from .numbers import HALF, ONE, OUTLINE, PI, PIECE, TWO, TWO_PI, ZERO, dot, frame
from .textures import look_up, to_working

# Below this many steradians the solid angle of a rectangle is not exact in float32.
SMALL = np.float32(4e-3)


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
def _tube_sight(f, x, y, z):
    """How a tube is seen: offset along its axis, distance from it, unit radial direction, half of
    the arc that faces the point, area of that arc's strip, area of the end that can be seen."""
    dx, dy, dz = x - f[0], y - f[1], z - f[2]
    along = dot(dx, dy, dz, f[3], f[4], f[5])
    qx, qy, qz = dx - f[3] * along, dy - f[4] * along, dz - f[5] * along
    away = math.sqrt(qx * qx + qy * qy + qz * qz)
    radius, half = f[L.E_RADIUS], f[L.E_LENGTH] * HALF
    arc = strip = ZERO
    if away > radius * np.float32(1.00001):
        arc = math.acos(radius / away)
        strip = TWO * arc * radius * f[L.E_LENGTH]
    end = PI * radius * radius if abs(along) > half else ZERO
    k = ONE / max(away, np.float32(1e-9))
    return along, away, qx * k, qy * k, qz * k, arc, strip, end


@njit(**PIECE)
def _sample_tube(f, x, y, z, u, v):
    along, _, qx, qy, qz, arc, strip, end = _tube_sight(f, x, y, z)
    total = strip + end
    if total <= ZERO:
        return ZERO, ZERO, ONE, ZERO, ZERO
    radius, length = f[L.E_RADIUS], f[L.E_LENGTH]
    # Third axis of the tube's frame: axis × radial.
    wx, wy, wz = f[4] * qz - f[5] * qy, f[5] * qx - f[3] * qz, f[3] * qy - f[4] * qx
    pick = u * total
    if pick < strip:
        phi = (TWO * pick / strip - ONE) * arc
        c, s = math.cos(phi), math.sin(phi)
        nx, ny, nz = qx * c + wx * s, qy * c + wy * s, qz * c + wz * s
        t = (v - HALF) * length
        px, py, pz = f[3] * t + nx * radius, f[4] * t + ny * radius, f[5] * t + nz * radius
    else:
        side = ONE if along > ZERO else -ONE
        r = radius * math.sqrt(min((pick - strip) / max(end, np.float32(1e-20)), ONE))
        c, s = math.cos(TWO_PI * v) * r, math.sin(TWO_PI * v) * r
        t = side * length * HALF
        nx, ny, nz = f[3] * side, f[4] * side, f[5] * side
        px, py, pz = f[3] * t + qx * c + wx * s, f[4] * t + qy * c + wy * s, f[5] * t
        pz += qz * c + wz * s
    ix, iy, iz = f[0] + px - x, f[1] + py - y, f[2] + pz - z
    d2 = ix * ix + iy * iy + iz * iz
    d = math.sqrt(max(d2, np.float32(1e-20)))
    ix, iy, iz = ix / d, iy / d, iz / d
    cosine = -dot(ix, iy, iz, nx, ny, nz)
    if cosine <= np.float32(1e-5):
        return ZERO, ZERO, ONE, ZERO, ZERO
    return ix, iy, iz, d, d2 / (cosine * total)


@njit(**PIECE)
def _tube_density(f, x, y, z, ix, iy, iz, dist):
    _, _, _, _, _, _, strip, end = _tube_sight(f, x, y, z)
    hx, hy, hz = x + ix * dist - f[0], y + iy * dist - f[1], z + iz * dist - f[2]
    t = dot(hx, hy, hz, f[3], f[4], f[5])
    rx, ry, rz = hx - f[3] * t, hy - f[4] * t, hz - f[5] * t
    r = math.sqrt(rx * rx + ry * ry + rz * rz)
    if r < f[L.E_RADIUS] * np.float32(0.999) and abs(t) > f[L.E_LENGTH] * np.float32(0.499):
        cosine = abs(dot(ix, iy, iz, f[3], f[4], f[5]))
    else:
        cosine = abs(dot(ix, iy, iz, rx, ry, rz)) / max(r, np.float32(1e-9))
    return dist * dist / max(cosine * (strip + end), np.float32(1e-12))


@njit(**OUTLINE)
def profile_candela(profiles, ints, profile, f, dx, dy, dz):
    """Luminous intensity of a profile in the unit direction a ray leaves the emitter by."""
    first, rows, columns = ints[profile, 0], ints[profile, 1], ints[profile, 2]
    c = min(max(dot(dx, dy, dz, f[9], f[10], f[11]), -ONE), ONE)
    r = math.acos(c) / PI * np.float32(rows - 1)
    i = min(int(r), rows - 2)
    a = r - np.float32(i)
    p = first + i * columns
    if columns == 1:
        return profiles[p] * (ONE - a) + profiles[p + 1] * a
    eu = math.sqrt(dot(f[3], f[4], f[5], f[3], f[4], f[5]))
    ev = math.sqrt(dot(f[6], f[7], f[8], f[6], f[7], f[8]))
    phi = math.atan2(dot(dx, dy, dz, f[6], f[7], f[8]) / ev, dot(dx, dy, dz, f[3], f[4], f[5]) / eu)
    if phi < ZERO:
        phi += TWO_PI
    h = phi / TWO_PI * np.float32(columns - 1)
    j = min(int(h), columns - 2)
    b = h - np.float32(j)
    low = profiles[p + j] * (ONE - b) + profiles[p + j + 1] * b
    p += columns
    high = profiles[p + j] * (ONE - b) + profiles[p + j + 1] * b
    return low * (ONE - a) + high * a


@njit(**PIECE)
def emitted(S, row, ix, iy, iz, dist, a, b):
    """Radiance of an emitter towards a point that sees it in direction (ix, iy, iz).

    Of a point without size it is the irradiance it gives there. (a, b) is the place on a triangle.
    """
    f = S.emitter_floats[row]
    n = S.emitter_ints[row]
    kind = n[L.E_KIND]
    k = ONE
    if n[L.E_PROFILE] >= 0:
        k = profile_candela(S.profiles, S.profile_ints, n[L.E_PROFILE], f, -ix, -iy, -iz)
        if kind == L.SHAPE_POINT:
            k /= max(dist * dist, np.float32(1e-6))
        elif kind == L.SHAPE_SPHERE:
            k /= PI * f[L.E_RADIUS] * f[L.E_RADIUS]
        else:
            cosine = abs(dot(ix, iy, iz, f[9], f[10], f[11]))
            if kind == L.SHAPE_TUBE:
                cosine = abs(dot(ix, iy, iz, f[3], f[4], f[5]))
                sine = math.sqrt(max(ONE - cosine * cosine, ZERO))
                radius = f[L.E_RADIUS]
                k /= TWO * radius * f[L.E_LENGTH] * sine + PI * radius * radius * cosine
            else:
                k /= f[L.E_AREA] * max(cosine, np.float32(1e-3))
    if f[L.E_RANGE] > ZERO:
        q = dist / f[L.E_RANGE]
        q *= q
        fall = max(ONE - q * q, ZERO)
        k *= fall * fall
    r, g, bl = f[L.E_RED] * k, f[L.E_GREEN] * k, f[L.E_BLUE] * k
    if n[L.E_TEXTURE] >= 0:
        c = S.corners
        t = n[L.E_TRIANGLE]
        w = ONE - a - b
        tu = c[t, 3] * w + c[t, 8] * a + c[t, 13] * b
        tv = c[t, 4] * w + c[t, 9] * a + c[t, 14] * b
        cr, cg, cb = look_up(S.texels, S.texture_ints, S.decode, n[L.E_TEXTURE], False, tu, tv)
        cr, cg, cb = to_working(cr, cg, cb)
        r, g, bl = r * cr, g * cg, bl * cb
    return r, g, bl


@njit(**PIECE)
def triangle_place(u, v):
    """Place (a, b) on a triangle that `sample_shape` takes for two random numbers."""
    root = math.sqrt(u)
    return ONE - root, root * v


@njit(**OUTLINE)
def sample_shape(f, kind, sides, x, y, z, u, v):
    """Unit direction, distance and density towards an emitter row; density 0 where it is dark."""
    if kind == L.SHAPE_POINT:
        dx, dy, dz = f[0] - x, f[1] - y, f[2] - z
        d = math.sqrt(max(dx * dx + dy * dy + dz * dz, np.float32(1e-20)))
        return dx / d, dy / d, dz / d, d, ONE
    if kind == L.SHAPE_TUBE:
        return _sample_tube(f, x, y, z, u, v)
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
        if z0 >= ZERO and sides == 1:  # behind the emitting face
            return ZERO, ZERO, ONE, ZERO, ZERO
        if abs(z0) < np.float32(1e-6):
            return ZERO, ZERO, ONE, ZERO, ZERO
        omega, n0, n2, k = _rectangle_solid_angle(x0, y0, z0, eu, ev)
        if omega <= ZERO:
            return ZERO, ZERO, ONE, ZERO, ZERO
        au = u * omega + k
        fu = (math.cos(au) * n0 - n2) / math.sin(au)
        cu = (ONE if fu > ZERO else -ONE) / math.sqrt(fu * fu + n0 * n0)
        cu = min(max(cu, -ONE), ONE)
        xu = (cu * abs(z0)) / max(math.sqrt(ONE - cu * cu), np.float32(1e-7))
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
        a, b = triangle_place(u, v)
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


@njit(**OUTLINE)
def shape_density(f, kind, x, y, z, ix, iy, iz, dist):
    """Density with which `sample_shape` draws the direction that met the emitter at ``dist``."""
    if kind == L.SHAPE_SPHERE:
        dx, dy, dz = f[0] - x, f[1] - y, f[2] - z
        s2 = f[L.E_RADIUS] * f[L.E_RADIUS] / max(dx * dx + dy * dy + dz * dz, np.float32(1e-20))
        if s2 >= ONE:
            return ZERO
        return (ONE + math.sqrt(ONE - s2)) / (TWO_PI * s2)
    if kind == L.SHAPE_TUBE:
        return _tube_density(f, x, y, z, ix, iy, iz, dist)
    if kind == L.SHAPE_RECTANGLE and not _looks_small(f, x, y, z):
        x0, y0, z0, eu, ev, _, _, _, _, _, _ = _rectangle_frame(f, x, y, z)
        omega, _, _, _ = _rectangle_solid_angle(x0, y0, z0, eu, ev)
        return ONE / max(omega, np.float32(1e-9))
    cosine = abs(dot(ix, iy, iz, f[9], f[10], f[11]))
    return dist * dist / max(cosine * f[L.E_AREA], np.float32(1e-12))
