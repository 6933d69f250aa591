"""Emitters: draw a direction towards one, tell the density of that, and the light that comes.

Rectangles by solid angle (Ureña et al. 2013) unless they look tiny, spheres by the cone they fill,
tubes by the half that can be seen, discs and triangles by area. Densities are per steradian at the
shading point.
"""

import math
from typing import Any, NamedTuple

import numpy as np
from numba import njit

from .. import layout as L
from .hit import texture_place
from .numbers import (
    HALF,
    ONE,
    OUTLINE,
    PI,
    PIECE,
    TWO,
    TWO_PI,
    UP,
    ZERO,
    Vec,
    along,
    cross,
    dimmed,
    dot,
    frame,
    from_frame,
    minus,
    opposite,
    plus,
    rgb,
    scaled,
    times,
    vec,
)
from .textures import look_up, to_working

# Below this many steradians the solid angle of a rectangle is not exact in float32.
SMALL = np.float32(4e-3)


class Aim(NamedTuple):
    """A direction drawn towards an emitter."""

    way: Vec
    far: Any
    density: Any  #: per steradian; 0 where the emitter is dark


class _Rectangle(NamedTuple):
    """A rectangle in its own axes, seen from a point."""

    x: Any  #: of its corner, along ``u``
    y: Any  #: of its corner, along ``v``
    z: Any  #: of its plane; ≤ 0 towards it
    wide: Any
    high: Any
    u: Vec
    v: Vec


class _Tube(NamedTuple):
    """How a tube is seen from a point."""

    along: Any  #: where the point is along the axis, from the middle
    away: Any  #: how far it is from the axis
    radial: Vec  #: unit direction from the axis to the point
    arc: Any  #: half of the angle that faces the point
    strip: Any  #: area of what faces it
    end: Any  #: area of the end that can be seen


#: What is drawn where an emitter is dark.
DARK = Aim(UP, ZERO, ZERO)


@njit(**PIECE)
def _rectangle(f, at):
    u, v = vec(f, L.E_U), vec(f, L.E_V)
    wide, high = math.sqrt(dot(u, u)), math.sqrt(dot(v, v))
    corner = minus(along(along(vec(f, L.E_POSITION), u, -HALF), v, -HALF), at)
    u, v = scaled(u, ONE / wide), scaled(v, ONE / high)
    return _Rectangle(
        dot(corner, u), dot(corner, v), dot(corner, vec(f, L.E_NORMAL)), wide, high, u, v
    )


@njit(**PIECE)
def _angle(c):
    return math.acos(min(max(c, -ONE), ONE))


@njit(**PIECE)
def _rectangle_solid_angle(q):
    """Solid angle of a rectangle and the terms its sampling reuses."""
    x1, y1 = q.x + q.wide, q.y + q.high
    z2 = q.z * q.z
    n0 = -q.y / math.sqrt(z2 + q.y * q.y)
    n1 = x1 / math.sqrt(z2 + x1 * x1)
    n2 = y1 / math.sqrt(z2 + y1 * y1)
    n3 = -q.x / math.sqrt(z2 + q.x * q.x)
    g0, g1 = _angle(-n0 * n1), _angle(-n1 * n2)
    g2, g3 = _angle(-n2 * n3), _angle(-n3 * n0)
    return g0 + g1 + g2 + g3 - TWO_PI, n0, n2, TWO_PI - g2 - g3


@njit(**PIECE)
def _looks_small(f, at):
    way = minus(vec(f, L.E_POSITION), at)
    return f[L.E_AREA] < SMALL * dot(way, way)


@njit(**PIECE)
def _tube(f, at):
    axis = vec(f, L.E_U)
    off = minus(at, vec(f, L.E_POSITION))
    t = dot(off, axis)
    off = along(off, axis, -t)
    away = math.sqrt(dot(off, off))
    radius, half = f[L.E_RADIUS], f[L.E_LENGTH] * HALF
    arc = strip = ZERO
    if away > radius * np.float32(1.00001):
        arc = math.acos(radius / away)
        strip = TWO * arc * radius * f[L.E_LENGTH]
    end = PI * radius * radius if abs(t) > half else ZERO
    return _Tube(t, away, scaled(off, ONE / max(away, np.float32(1e-9))), arc, strip, end)


@njit(**PIECE)
def _aim_at_tube(f, at, u, v):
    seen = _tube(f, at)
    all_of_it = seen.strip + seen.end
    if all_of_it <= ZERO:
        return DARK
    radius, length, axis = f[L.E_RADIUS], f[L.E_LENGTH], vec(f, L.E_U)
    third = cross(axis, seen.radial)
    pick = u * all_of_it
    if pick < seen.strip:
        phi = (TWO * pick / seen.strip - ONE) * seen.arc
        normal = along(scaled(seen.radial, math.cos(phi)), third, math.sin(phi))
        place = along(scaled(axis, (v - HALF) * length), normal, radius)
    else:
        side = ONE if seen.along > ZERO else -ONE
        r = radius * math.sqrt(min((pick - seen.strip) / max(seen.end, np.float32(1e-20)), ONE))
        normal = scaled(axis, side)
        place = along(scaled(normal, length * HALF), seen.radial, math.cos(TWO_PI * v) * r)
        place = along(place, third, math.sin(TWO_PI * v) * r)
    way = minus(plus(vec(f, L.E_POSITION), place), at)
    d2 = dot(way, way)
    d = math.sqrt(max(d2, np.float32(1e-20)))
    way = scaled(way, ONE / d)
    cosine = -dot(way, normal)
    if cosine <= np.float32(1e-5):
        return DARK
    return Aim(way, d, d2 / (cosine * all_of_it))


@njit(**PIECE)
def _tube_density(f, at, way, far):
    seen, axis = _tube(f, at), vec(f, L.E_U)
    met = minus(along(at, way, far), vec(f, L.E_POSITION))
    t = dot(met, axis)
    off = along(met, axis, -t)
    r = math.sqrt(dot(off, off))
    if r < f[L.E_RADIUS] * np.float32(0.999) and abs(t) > f[L.E_LENGTH] * np.float32(0.499):
        cosine = abs(dot(way, axis))
    else:
        cosine = abs(dot(way, off)) / max(r, np.float32(1e-9))
    return far * far / max(cosine * (seen.strip + seen.end), np.float32(1e-12))


@njit(**OUTLINE)
def profile_candela(profiles, ints, profile, f, way):
    """Luminous intensity of a profile in the unit direction a ray leaves the emitter by."""
    first, rows, columns = ints[profile, 0], ints[profile, 1], ints[profile, 2]
    c = min(max(dot(way, vec(f, L.E_NORMAL)), -ONE), ONE)
    r = math.acos(c) / PI * np.float32(rows - 1)
    i = min(int(r), rows - 2)
    a = r - np.float32(i)
    p = first + i * columns
    if columns == 1:
        return profiles[p] * (ONE - a) + profiles[p + 1] * a
    u, v = vec(f, L.E_U), vec(f, L.E_V)
    phi = math.atan2(dot(way, v) / math.sqrt(dot(v, v)), dot(way, u) / math.sqrt(dot(u, u)))
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
def emitted(S, row, way, far, a, b):
    """Radiance of an emitter towards a point that sees it in direction ``way``.

    Of a point without size it is the irradiance it gives there. (a, b) is the place on a triangle.
    """
    f = S.emitter_floats[row]
    n = S.emitter_ints[row]
    kind = n[L.E_KIND]
    k = ONE
    if n[L.E_PROFILE] >= 0:
        k = profile_candela(S.profiles, S.profile_ints, n[L.E_PROFILE], f, opposite(way))
        if kind == L.SHAPE_POINT:
            k /= max(far * far, np.float32(1e-6))
        elif kind == L.SHAPE_SPHERE:
            k /= PI * f[L.E_RADIUS] * f[L.E_RADIUS]
        elif kind == L.SHAPE_TUBE:
            cosine = abs(dot(way, vec(f, L.E_U)))
            sine = math.sqrt(max(ONE - cosine * cosine, ZERO))
            radius = f[L.E_RADIUS]
            k /= TWO * radius * f[L.E_LENGTH] * sine + PI * radius * radius * cosine
        else:
            k /= f[L.E_AREA] * max(abs(dot(way, vec(f, L.E_NORMAL))), np.float32(1e-3))
    if f[L.E_RANGE] > ZERO:
        q = far / f[L.E_RANGE]
        q *= q
        fall = max(ONE - q * q, ZERO)
        k *= fall * fall
    light = dimmed(rgb(f, L.E_RED), k)
    if n[L.E_TEXTURE] >= 0:
        tu, tv = texture_place(S.corners[n[L.E_TRIANGLE]], a, b)
        found = look_up(S.texels, S.texture_ints, S.decode, n[L.E_TEXTURE], False, tu, tv)
        light = times(light, to_working(found))
    return light


@njit(**PIECE)
def triangle_place(u, v):
    """Place (a, b) on a triangle that `sample_shape` takes for two random numbers."""
    root = math.sqrt(u)
    return ONE - root, root * v


@njit(**PIECE)
def _aim_at_sphere(f, at, u, v):
    """By the cone that it fills."""
    way = minus(vec(f, L.E_POSITION), at)
    d2, radius = dot(way, way), f[L.E_RADIUS]
    if d2 <= radius * radius * np.float32(1.0001):
        return DARK
    d = math.sqrt(d2)
    s2 = radius * radius / d2
    one_minus = s2 / (ONE + math.sqrt(ONE - s2))
    w = one_minus * u
    c = ONE - w
    s = math.sqrt(max(w * (TWO - w), ZERO))
    phi = TWO_PI * v
    axes = frame(scaled(way, ONE / d))
    far = d * c - math.sqrt(max(radius * radius - d2 * s * s, ZERO))
    way = from_frame(axes, Vec(s * math.cos(phi), s * math.sin(phi), c))
    return Aim(way, far, ONE / (TWO_PI * one_minus))


@njit(**PIECE)
def _aim_at_rectangle(f, sides, at, u, v):
    """By solid angle (Ureña, Fajardo & King 2013)."""
    q = _rectangle(f, at)
    if q.z >= ZERO and sides == 1:  # behind the emitting face
        return DARK
    if abs(q.z) < np.float32(1e-6):
        return DARK
    omega, n0, n2, k = _rectangle_solid_angle(q)
    if omega <= ZERO:
        return DARK
    au = u * omega + k
    fu = (math.cos(au) * n0 - n2) / math.sin(au)
    cu = (ONE if fu > ZERO else -ONE) / math.sqrt(fu * fu + n0 * n0)
    cu = min(max(cu, -ONE), ONE)
    xu = (cu * abs(q.z)) / max(math.sqrt(ONE - cu * cu), np.float32(1e-7))
    xu = min(max(xu, q.x), q.x + q.wide)
    d = math.sqrt(xu * xu + q.z * q.z)
    y1 = q.y + q.high
    h0, h1 = q.y / math.sqrt(d * d + q.y * q.y), y1 / math.sqrt(d * d + y1 * y1)
    hv = h0 + v * (h1 - h0)
    yv = (hv * d) / math.sqrt(max(ONE - hv * hv, np.float32(1e-7)))
    yv = min(max(yv, q.y), y1)
    place = along(along(scaled(q.u, xu), q.v, yv), vec(f, L.E_NORMAL), q.z)
    far = math.sqrt(dot(place, place))
    return Aim(scaled(place, ONE / far), far, ONE / omega)


@njit(**OUTLINE)
def sample_shape(f, kind, sides, at, u, v):
    """A direction towards an emitter row: an `Aim`."""
    if kind == L.SHAPE_POINT:
        way = minus(vec(f, L.E_POSITION), at)
        d = math.sqrt(max(dot(way, way), np.float32(1e-20)))
        return Aim(scaled(way, ONE / d), d, ONE)
    if kind == L.SHAPE_TUBE:
        return _aim_at_tube(f, at, u, v)
    if kind == L.SHAPE_SPHERE:
        return _aim_at_sphere(f, at, u, v)
    if kind == L.SHAPE_RECTANGLE and not _looks_small(f, at):
        return _aim_at_rectangle(f, sides, at, u, v)
    if kind == L.SHAPE_DISC:
        radius, phi = f[L.E_RADIUS] * math.sqrt(u), TWO_PI * v
        a, b = radius * math.cos(phi), radius * math.sin(phi)
    elif kind == L.SHAPE_TRIANGLE:
        a, b = triangle_place(u, v)
    else:
        a, b = u - HALF, v - HALF
    place = along(along(vec(f, L.E_POSITION), vec(f, L.E_U), a), vec(f, L.E_V), b)
    way = minus(place, at)
    d2 = dot(way, way)
    far = math.sqrt(max(d2, np.float32(1e-20)))
    way = scaled(way, ONE / far)
    cosine = -dot(way, vec(f, L.E_NORMAL))
    if sides == 2:
        cosine = abs(cosine)
    if cosine <= np.float32(1e-6):
        return DARK
    return Aim(way, far, d2 / (cosine * f[L.E_AREA]))


@njit(**OUTLINE)
def shape_density(f, kind, at, way, far):
    """Density with which `sample_shape` draws the direction that met the emitter at distance ``far``."""
    if kind == L.SHAPE_SPHERE:
        off = minus(vec(f, L.E_POSITION), at)
        s2 = f[L.E_RADIUS] * f[L.E_RADIUS] / max(dot(off, off), np.float32(1e-20))
        if s2 >= ONE:
            return ZERO
        return (ONE + math.sqrt(ONE - s2)) / (TWO_PI * s2)
    if kind == L.SHAPE_TUBE:
        return _tube_density(f, at, way, far)
    if kind == L.SHAPE_RECTANGLE and not _looks_small(f, at):
        omega, _, _, _ = _rectangle_solid_angle(_rectangle(f, at))
        return ONE / max(omega, np.float32(1e-9))
    cosine = abs(dot(way, vec(f, L.E_NORMAL)))
    return far * far / max(cosine * f[L.E_AREA], np.float32(1e-12))
