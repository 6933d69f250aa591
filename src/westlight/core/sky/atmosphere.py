"""Clear-air radiative transfer: compiled kernels over a spherical atmosphere.

Single scattering by ray marching (Nishita et al. 1993) with Rayleigh, haze and ozone, plus all
further orders by an isotropic multiple-scattering table (Hillaire 2020). Sixteen wavelengths.
Extinction data as tabulated by Bruneton & Neyret 2008: Rayleigh 1.24062e-6·λ⁻⁴ (λ in µm), ozone
cross-sections of Serdyuchenko et al. at 233 K, extraterrestrial spectrum ASTM G173.
"""

import math

import numpy as np
from numba import njit

EARTH_RADIUS = 6_360_000.0
TOP_RADIUS = 6_440_000.0
RAYLEIGH_HEIGHT = 8_000.0
HAZE_HEIGHT = 1_200.0
HAZE_ASYMMETRY = 0.76
HAZE_SCATTERED = 0.93
ANGSTROM_EXPONENT = 1.3
OZONE_DOBSON = 320.0

WAVELENGTHS_NM = np.linspace(385.0, 730.0, 16)
_TABLE_NM = np.arange(360.0, 831.0, 10.0)
# fmt: off
_OZONE_M2 = np.array([
    1.18e-27, 2.182e-28, 2.818e-28, 6.636e-28, 1.527e-27, 2.763e-27, 5.52e-27, 8.451e-27,
    1.582e-26, 2.316e-26, 3.669e-26, 4.924e-26, 7.752e-26, 9.016e-26, 1.48e-25, 1.602e-25,
    2.139e-25, 2.755e-25, 3.091e-25, 3.5e-25, 4.266e-25, 4.672e-25, 4.398e-25, 4.701e-25,
    5.019e-25, 4.305e-25, 3.74e-25, 3.215e-25, 2.662e-25, 2.238e-25, 1.852e-25, 1.473e-25,
    1.209e-25, 9.423e-26, 7.455e-26, 6.566e-26, 5.105e-26, 4.15e-26, 4.228e-26, 3.237e-26,
    2.451e-26, 2.801e-26, 2.534e-26, 1.624e-26, 1.465e-26, 2.078e-26, 1.383e-26, 7.105e-27])
_SOLAR_W = np.array([
    1.11776, 1.14259, 1.01249, 1.14716, 1.72765, 1.73054, 1.6887, 1.61253, 1.91198, 2.03474,
    2.02042, 2.02212, 1.93377, 1.95809, 1.91686, 1.8298, 1.8685, 1.8931, 1.85149, 1.8504, 1.8341,
    1.8345, 1.8147, 1.78158, 1.7533, 1.6965, 1.68194, 1.64654, 1.6048, 1.52143, 1.55622, 1.5113,
    1.474, 1.4482, 1.41018, 1.36775, 1.34188, 1.31429, 1.28303, 1.26758, 1.2367, 1.2082, 1.18737,
    1.14683, 1.12362, 1.1058, 1.07124, 1.04992])
# fmt: on
#: Extraterrestrial spectral irradiance in W/(m²·nm).
SOLAR = np.interp(WAVELENGTHS_NM, _TABLE_NM, _SOLAR_W)
#: Rayleigh scattering at sea level in 1/m.
RAYLEIGH = 1.24062e-6 * (WAVELENGTHS_NM / 1000.0) ** -4
#: Peak ozone absorption (tent 10–25–40 km) in 1/m.
OZONE = np.interp(WAVELENGTHS_NM, _TABLE_NM, _OZONE_M2) * OZONE_DOBSON * 2.687e20 / 15_000.0


def haze_extinction(turbidity):
    """Haze extinction at sea level in 1/m for each wavelength; turbidity as defined in `sky`."""
    rayleigh_depth_550 = 1.24062e-6 * 0.55**-4 * RAYLEIGH_HEIGHT
    depth_550 = max(turbidity - 1.0, 0.0) * rayleigh_depth_550
    return depth_550 / HAZE_HEIGHT * (WAVELENGTHS_NM / 550.0) ** -ANGSTROM_EXPONENT


@njit(cache=True, nogil=True)
def _densities(height):
    ozone = max(0.0, 1.0 - abs(height - 25_000.0) / 15_000.0)
    return math.exp(-height / RAYLEIGH_HEIGHT), math.exp(-height / HAZE_HEIGHT), ozone


@njit(cache=True, nogil=True)
def _to_sphere(r, mu, radius, far):
    """Distance along a ray from radius ``r`` with zenith cosine ``mu`` to a sphere, or −1."""
    disc = radius * radius - r * r * (1.0 - mu * mu)
    if disc < 0.0:
        return -1.0
    root = math.sqrt(disc)
    return -r * mu + root if far else -r * mu - root


@njit(cache=True, nogil=True)
def transmittance_table(rayleigh, haze, ozone, heights, mus):
    """Transmittance to space, shape (heights, mus, wavelengths); 0 where the ground is in the way."""
    n = rayleigh.shape[0]
    table = np.zeros((heights.shape[0], mus.shape[0], n))
    steps = 60
    for i in range(heights.shape[0]):
        r = EARTH_RADIUS + heights[i]
        for j in range(mus.shape[0]):
            mu = mus[j]
            if mu < 0.0 and _to_sphere(r, mu, EARTH_RADIUS, False) > 0.0:
                continue
            length = _to_sphere(r, mu, TOP_RADIUS, True)
            sr = sh = so = 0.0
            for k in range(steps):
                a, b = (k / steps) ** 2, ((k + 1) / steps) ** 2
                t = 0.5 * (a + b) * length
                height = math.sqrt(r * r + t * t + 2 * r * t * mu) - EARTH_RADIUS
                dr, dh, do = _densities(max(height, 0.0))
                w = (b - a) * length
                sr += dr * w
                sh += dh * w
                so += do * w
            for k in range(n):
                table[i, j, k] = math.exp(-(rayleigh[k] * sr + haze[k] * sh + ozone[k] * so))
    return table


@njit(cache=True, nogil=True)
def _height_coordinate(height, count):
    return min(
        max(math.sqrt(height / (TOP_RADIUS - EARTH_RADIUS)) * (count - 1), 0.0), count - 1.001
    )


@njit(cache=True, nogil=True)
def _mu_coordinate(r, mu, count):
    """Cosines relative to the horizon's, finest where twilight happens."""
    horizon = -math.sqrt(max(1.0 - (EARTH_RADIUS / r) ** 2, 0.0))
    x = mu - horizon
    s = math.sqrt(abs(x) / 2.2)
    u = 0.25 + 0.75 * s if x >= 0 else 0.25 - 0.25 * math.sqrt(-x / 1.0)
    return min(max(u * (count - 1), 0.0), count - 1.001)


@njit(cache=True, nogil=True)
def mu_of_coordinate(r, index, count):
    """Inverse of the cosine coordinate of the tables."""
    horizon = -math.sqrt(max(1.0 - (EARTH_RADIUS / r) ** 2, 0.0))
    u = index / (count - 1)
    if u >= 0.25:
        x = 2.2 * ((u - 0.25) / 0.75) ** 2
    else:
        x = -(((0.25 - u) / 0.25) ** 2)
    return min(max(horizon + x, -1.0), 1.0)


@njit(cache=True, nogil=True)
def transmittance_grid(rayleigh, haze, ozone, height_count, mu_count):
    """Transmittance to space over the tables' own coordinates, shape (heights, mus, n)."""
    n = rayleigh.shape[0]
    table = np.zeros((height_count, mu_count, n))
    one_height = np.zeros(1)
    mus = np.zeros(mu_count)
    for i in range(height_count):
        one_height[0] = (i / (height_count - 1)) ** 2 * (TOP_RADIUS - EARTH_RADIUS)
        for j in range(mu_count):
            mus[j] = mu_of_coordinate(EARTH_RADIUS + one_height[0], j, mu_count)
        table[i] = transmittance_table(rayleigh, haze, ozone, one_height, mus)[0]
    return table


@njit(cache=True, nogil=True)
def _cell(table, r, mu):
    """Cell indices and fractions of a table at radius ``r`` and zenith cosine ``mu``."""
    h = _height_coordinate(r - EARTH_RADIUS, table.shape[0])
    m = _mu_coordinate(r, mu, table.shape[1])
    i, j = int(h), int(m)
    return i, j, h - i, m - j


@njit(cache=True, nogil=True)
def _in_cell(table, i, j, a, b, k):
    low = table[i, j, k] * (1 - b) + table[i, j + 1, k] * b
    high = table[i + 1, j, k] * (1 - b) + table[i + 1, j + 1, k] * b
    return low * (1 - a) + high * a


@njit(cache=True, nogil=True)
def _look_up(table, r, mu, k):
    i, j, a, b = _cell(table, r, mu)
    return _in_cell(table, i, j, a, b, k)


@njit(cache=True, nogil=True)
def multiple_scattering_table(rayleigh, haze, ozone, ground_albedo, trans, heights, mus_count):
    """Isotropic source term of all orders ≥ 2 per unit sun irradiance, shape (heights, mus, n)."""
    n = rayleigh.shape[0]
    table = np.zeros((heights, mus_count, n))
    direction_count, steps = 64, 24
    for i in range(heights):
        r = EARTH_RADIUS + 10.0 + (i / (heights - 1)) ** 2 * (TOP_RADIUS - EARTH_RADIUS - 20.0)
        for j in range(mus_count):
            mu_sun = mu_of_coordinate(r, j, mus_count)
            sun_x, sun_z = math.sqrt(max(1 - mu_sun * mu_sun, 0.0)), mu_sun
            second = np.zeros(n)
            carried = np.zeros(n)
            for d in range(direction_count):
                z = 1.0 - (2.0 * d + 1.0) / direction_count
                phi = d * 2.399963229728653
                x = math.sqrt(1 - z * z) * math.cos(phi)
                ground = _to_sphere(r, z, EARTH_RADIUS, False) if z < 0 else -1.0
                hits_ground = ground > 0.0
                length = ground if hits_ground else _to_sphere(r, z, TOP_RADIUS, True)
                through = np.ones(n)
                for s in range(steps):
                    a, b = (s / steps) ** 1.5 * length, ((s + 1) / steps) ** 1.5 * length
                    t = 0.5 * (a + b)
                    rs = math.sqrt(r * r + t * t + 2 * r * t * z)
                    dr, dh, do = _densities(max(rs - EARTH_RADIUS, 0.0))
                    cos_sun = (sun_x * x * t + sun_z * (r + z * t)) / rs
                    ti, tj, ta, tb = _cell(trans, rs, cos_sun)
                    for k in range(n):
                        scatter = rayleigh[k] * dr + haze[k] * HAZE_SCATTERED * dh
                        extinct = rayleigh[k] * dr + haze[k] * dh + ozone[k] * do
                        step = math.exp(-extinct * (b - a))
                        got = through[k] * (1 - step) / max(extinct, 1e-12) * scatter
                        second[k] += got * _in_cell(trans, ti, tj, ta, tb, k) / (4 * math.pi)
                        carried[k] += got
                        through[k] *= step
                if hits_ground:
                    cos_ground = (sun_x * x * length + sun_z * (r + z * length)) / EARTH_RADIUS
                    if cos_ground > 0:
                        for k in range(n):
                            sun = _look_up(trans, EARTH_RADIUS + 1.0, cos_ground, k)
                            second[k] += through[k] * sun * cos_ground * ground_albedo / math.pi
            for k in range(n):
                mean_second = second[k] / direction_count
                mean_carried = min(carried[k] / direction_count, 0.98)
                table[i, j, k] = mean_second / (1.0 - mean_carried)
    return table


@njit(cache=True, nogil=True)
def _phase_haze(cos_angle):
    """Two Henyey–Greenstein lobes: a wide one and the bright forward peak around the sun."""
    g1, g2, share = HAZE_ASYMMETRY, 0.94, 0.08
    wide = (1 - g1 * g1) / (1 + g1 * g1 - 2 * g1 * cos_angle) ** 1.5
    peak = (1 - g2 * g2) / (1 + g2 * g2 - 2 * g2 * cos_angle) ** 1.5
    return ((1 - share) * wide + share * peak) / (4 * math.pi)


@njit(cache=True, nogil=True)
def sky_radiance(elevations, azimuths, sun_elevation, rayleigh, haze, ozone, trans, multi, steps):
    """Spectral radiance per unit sun irradiance seen from the ground.

    Angles in radians, azimuths relative to the sun; shape (elevations, azimuths, wavelengths).
    """
    n = rayleigh.shape[0]
    out = np.zeros((elevations.shape[0], azimuths.shape[0], n))
    r = EARTH_RADIUS + 5.0
    sun_x, sun_z = math.cos(sun_elevation), math.sin(sun_elevation)
    through, from_air, from_haze = np.ones(n), np.zeros(n), np.zeros(n)
    for i in range(elevations.shape[0]):
        z, c = math.sin(elevations[i]), math.cos(elevations[i])
        length = _to_sphere(r, z, TOP_RADIUS, True)
        through[:] = 1.0
        for s in range(steps):
            a, b = (s / steps) ** 2 * length, ((s + 1) / steps) ** 2 * length
            t = 0.5 * (a + b)
            rs = math.sqrt(r * r + t * t + 2 * r * t * z)
            dr, dh, do = _densities(max(rs - EARTH_RADIUS, 0.0))
            for k in range(n):
                scatter_h = haze[k] * HAZE_SCATTERED * dh
                extinct = rayleigh[k] * dr + haze[k] * dh + ozone[k] * do
                step = math.exp(-extinct * (b - a))
                got = through[k] * (1 - step) / max(extinct, 1e-12)
                from_air[k], from_haze[k] = got * rayleigh[k] * dr, got * scatter_h
                through[k] *= step
            for j in range(azimuths.shape[0]):
                x = c * math.cos(azimuths[j])
                cos_angle = x * sun_x + z * sun_z
                cos_sun = (sun_x * x * t + sun_z * (r + z * t)) / rs
                phase_r = 3.0 / (16.0 * math.pi) * (1 + cos_angle * cos_angle)
                phase_h = _phase_haze(cos_angle)
                ti, tj, ta, tb = _cell(trans, rs, cos_sun)
                mi, mj, ma, mb = _cell(multi, rs, cos_sun)
                for k in range(n):
                    direct = _in_cell(trans, ti, tj, ta, tb, k)
                    more = _in_cell(multi, mi, mj, ma, mb, k)
                    out[i, j, k] += from_air[k] * (direct * phase_r + more) + from_haze[k] * (
                        direct * phase_h + more
                    )
    return out
