"""Surface models as mathematics: densities are densities, samples follow them, light is not made."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
import pytest
from numba import njit
from scipy import stats

from westlight.core.transport.energy import energy_tables
from westlight.core.transport.kernels.numbers import Rgb, vec
from westlight.core.transport.kernels.surface import evaluate, prepare, sample


class Tables(NamedTuple):
    """What of a scene evaluating surfaces reads."""

    energy: np.ndarray
    energy_mean: np.ndarray


TABLES = Tables(*energy_tables())
SURFACES = [(0.5, 1.0, 0.0), (0.6, 0.35, 0.0), (0.9, 0.5, 1.0), (0.95, 0.2, 1.0), (0.4, 0.3, 0.5)]


@njit
def values(grey, roughness, metallic, o, ways, tables, out):  # type: ignore[no-untyped-def]
    """f·cos, density and the loss for many incoming directions."""
    g = np.float32(grey)
    rough, metal = np.float32(roughness), np.float32(metallic)
    lobes = prepare(tables, Rgb(g, g, g), rough, metal, vec(o, 0))
    for k in range(ways.shape[0]):
        f, density = evaluate(tables, lobes, lobes.chance, vec(ways[k], 0))
        out[k, 0], out[k, 1] = f.r, density
    return lobes.lost


@njit
def draws(grey, roughness, metallic, o, numbers, tables, out):  # type: ignore[no-untyped-def]
    """Directions for rows of three random numbers; the third chooses base or lobe."""
    g = np.float32(grey)
    rough, metal = np.float32(roughness), np.float32(metallic)
    lobes = prepare(tables, Rgb(g, g, g), rough, metal, vec(o, 0))
    for k in range(numbers.shape[0]):
        by_base = numbers[k, 2] >= lobes.chance
        way = sample(lobes, numbers[k, 0], numbers[k, 1], by_base)
        out[k, 0], out[k, 1], out[k, 2] = way.x, way.y, way.z


def outgoing(degrees: float) -> np.ndarray:
    """A direction at an angle from the normal."""
    a = np.radians(degrees)
    return np.array([np.sin(a), 0.0, np.cos(a)], np.float32)


def hemisphere(rows: int, columns: int) -> tuple[np.ndarray, float]:
    """Directions in the middles of cells of equal solid angle, and that solid angle."""
    z = (np.arange(rows) + 0.5) / rows
    phi = (np.arange(columns) + 0.5) / columns * 2 * np.pi
    zz, pp = (v.ravel() for v in np.meshgrid(z, phi, indexing="ij"))
    s = np.sqrt(1 - zz**2)
    ways = np.stack([s * np.cos(pp), s * np.sin(pp), zz], axis=1).astype(np.float32)
    return ways, 2 * np.pi / (rows * columns)


def at(
    surface: tuple[float, float, float], o: np.ndarray, ways: np.ndarray
) -> tuple[np.ndarray, float]:
    """f·cos and density towards directions (n, 2), and the loss of the outgoing side."""
    out = np.zeros((len(ways), 2))
    return out, float(values(*surface, o, ways, TABLES, out))


def drawn(surface: tuple[float, float, float], o: np.ndarray, n: int) -> np.ndarray:
    """Sampled directions (n, 3)."""
    numbers = np.random.default_rng(5).random((n, 3)).astype(np.float32)
    out = np.zeros((n, 3))
    draws(*surface, o, numbers, TABLES, out)
    return out


@pytest.mark.parametrize("surface", SURFACES)
@pytest.mark.parametrize("degrees", [10.0, 50.0, 75.0])
def test_density_integrates_to_what_is_sampled_above(
    surface: tuple[float, float, float], degrees: float
) -> None:
    """Over the half space the density is 1, less what the lobe sends below the surface."""
    o = outgoing(degrees)
    ways, angle = hemisphere(700, 1400)
    whole = at(surface, o, ways)[0][:, 1].sum() * angle
    above = (drawn(surface, o, 200_000)[:, 2] > 0).mean()
    assert whole == pytest.approx(above, abs=0.006)


@pytest.mark.parametrize("surface", SURFACES)
def test_samples_follow_their_density(surface: tuple[float, float, float]) -> None:
    """Chi-square of a histogram of directions against the integrated density."""
    o = outgoing(35.0)
    rows, columns, fine = 12, 16, 40
    n = 60_000
    d = drawn(surface, o, n)
    d = d[d[:, 2] > 0]
    phi = np.arctan2(d[:, 1], d[:, 0]) % (2 * np.pi)
    counts, _, _ = np.histogram2d(d[:, 2], phi, [np.linspace(0, 1, rows + 1),
                                                 np.linspace(0, 2 * np.pi, columns + 1)])  # fmt: skip
    ways, angle = hemisphere(rows * fine, columns * fine)
    density = at(surface, o, ways)[0][:, 1].reshape(rows, fine, columns, fine)
    wanted = density.sum(axis=(1, 3)).ravel() * angle * n
    enough = wanted > 8
    seen = counts.ravel()
    chi = ((seen - wanted)[enough] ** 2 / wanted[enough]).sum()
    p = stats.chi2.sf(chi, int(enough.sum()) - 1)
    assert p > 1e-4, (chi, int(enough.sum()))


@pytest.mark.parametrize("roughness", [0.25, 0.4, 0.6, 1.0])
@pytest.mark.parametrize("metallic", [0.0, 1.0])
@pytest.mark.parametrize("degrees", [0.0, 45.0, 70.0])
def test_white_sends_back_all_and_no_more(
    roughness: float, metallic: float, degrees: float
) -> None:
    surface = (1.0, roughness, metallic)
    ways, angle = hemisphere(1200, 2400)
    sent = at(surface, outgoing(degrees), ways)[0][:, 0].sum() * angle
    assert sent == pytest.approx(1.0, abs=0.025)


@pytest.mark.parametrize("surface", [(0.5, 1.0, 0.0), (0.9, 0.4, 1.0), (0.7, 0.25, 1.0)])
def test_light_goes_both_ways_alike(surface: tuple[float, float, float]) -> None:
    """Reciprocity of the lobe, apart from the factor that gives back many-times scattered light.

    That factor depends on the outgoing side alone (Turquin 2019), which is its known price.
    """
    grey, _, metallic = surface
    for a, b in ((20.0, 60.0), (5.0, 75.0), (40.0, 41.0)):
        one, other = outgoing(a), outgoing(b)
        other[0] = -other[0]
        forth, lost_forth = at(surface, one, other[None])
        back, lost_back = at(surface, other, one[None])
        scale = (1 + grey * lost_forth, 1 + grey * lost_back) if metallic else (1.0, 1.0)
        f = forth[0, 0] / other[2] / scale[0]
        g = back[0, 0] / one[2] / scale[1]
        assert f == pytest.approx(g, rel=2e-3)
