"""Denoising: the noise it leaves, measured from two halves, and what lamps do to it."""

from __future__ import annotations

import numpy as np
import pytest

from westlight.core.transport.denoise import Denoiser, noise_left
from westlight.core.transport.film import Accumulator

from .shapes import lux


def halves(sigma: float, seed: int = 1) -> tuple[np.ndarray, np.ndarray]:
    """Two noisy pictures of a step of light."""
    rng = np.random.default_rng(seed)
    truth = np.where(np.arange(128) < 64, 0.5, 1.5) * np.ones((96, 1))
    a, b = (truth + rng.normal(0, sigma, truth.shape) for _ in range(2))
    return a.astype(np.float32), b.astype(np.float32)


def test_denoising_leaves_less_and_none_of_none() -> None:
    """Far less than the raw error of the mean, more for noisier halves, nothing for equal ones."""
    guide = np.full((96, 128, 3), 0.5, np.float32)
    denoise = Denoiser()
    raw = {s: s / np.sqrt(2) for s in (0.1, 0.4)}
    none = np.zeros((96, 128), np.float32)
    left = {s: noise_left(denoise, halves(s), none, guide, guide) for s in raw}
    for s in raw:
        assert 0 < left[s] < 0.5 * raw[s]
    assert left[0.4] > left[0.1]
    a, _ = halves(0.3)
    assert noise_left(denoise, (a, a), none, guide, guide) == 0.0
    dark = np.zeros_like(a)
    assert noise_left(denoise, (dark, dark), none, guide, guide) == 0.0


def test_rest_changes_no_picture_and_waits_for_none() -> None:
    """Memory is let go of between two pictures; while one is at work nobody waits for that."""
    denoise, rng = Denoiser(), np.random.default_rng(3)
    noisy = rng.uniform(0, 2, (64, 96, 3)).astype(np.float32)
    plain = np.full((64, 96, 3), 0.5, np.float32)
    before = denoise(noisy, plain, plain)
    denoise.rest()
    denoise.rest()
    np.testing.assert_array_equal(denoise(noisy, plain, plain), before)
    with denoise._lock:
        denoise.rest()
    np.testing.assert_array_equal(denoise(noisy, plain, plain), before)


def test_halves_add_up_to_the_mean() -> None:
    """Even and odd passes, weighted by their counts, are all passes."""
    rng = np.random.default_rng(2)
    film = Accumulator.empty(16, 8)
    film.light[:] = rng.uniform(5, 6, film.light.shape)
    film.odd[..., 0] = lux(film.light.reshape(-1, 3)).reshape(16, 8) * 0.4
    film.counts[:] = [[[3, 2]], [[4, 2]]]
    a, b = film.halves()
    n = np.repeat(film.counts[:, 0], 8, axis=0).astype(float)
    whole = lux(film.mean().reshape(-1, 3)).reshape(16, 8)
    np.testing.assert_allclose((a * n[:, :1] + b * n[:, 1:]) / n.sum(axis=1, keepdims=True), whole,
                               rtol=1e-5)  # fmt: skip


@pytest.mark.parametrize("peak", [30.0, 1e3, 1e6])
@pytest.mark.parametrize("seen", [True, False])
def test_a_bright_lamp_neither_tints_nor_lifts_the_rest(peak: float, seen: bool) -> None:
    """Dim noise around a white disc keeps its light and stays grey; so does the disc.

    ``seen``: the guide knows the disc as a lamp; else it is light on a surface.
    """
    rng = np.random.default_rng(3)
    y, x = np.mgrid[0:180, 0:320]
    disc = (y - 90) ** 2 + (x - 160) ** 2 < 20
    around = ~disc & ((y - 90) ** 2 + (x - 160) ** 2 > 60)
    picture = np.repeat(rng.exponential(0.3, disc.shape)[..., None], 3, axis=2).astype(np.float32)
    picture[disc] = peak
    albedo = np.full(picture.shape, 0.5, np.float32)
    albedo[disc] = 1.0 if seen else 0.5
    normal = np.zeros_like(picture)
    normal[..., 2] = 1.0
    out = Denoiser()(picture, albedo, normal)
    rest = out[around].mean(axis=0)
    assert rest == pytest.approx(np.full(3, 0.3), rel=0.1)
    assert rest / rest.mean() == pytest.approx(np.ones(3), abs=0.03)
    lamp = out[disc].mean(axis=0)
    assert lamp / lamp.mean() == pytest.approx(np.ones(3), abs=0.06)
    assert lamp.mean() == pytest.approx(peak, rel=1e-6 if seen else 0.5)


def test_a_speckle_is_still_taken_away() -> None:
    """One pixel a thousand times too bright loses almost all of it."""
    rng = np.random.default_rng(4)
    picture = np.repeat(rng.uniform(0.2, 0.4, (96, 128, 1)), 3, axis=2).astype(np.float32)
    picture[40, 60] = 300.0
    guide = np.full(picture.shape, 0.5, np.float32)
    assert Denoiser()(picture, guide, guide)[40, 60].max() < 3.0


def test_the_best_way_keeps_what_a_noisy_guide_hides() -> None:
    """Guides as noisy as the picture: less error than with the guides as they are."""
    rng = np.random.default_rng(6)
    y, x = np.mgrid[0:120, 0:160]
    paint = np.where((x // 10 + y // 10) % 2 == 0, 0.2, 0.7)[..., None] * np.ones(3)
    light = (0.3 + 0.7 * x / 160)[..., None]
    noise = rng.exponential(1.0, (120, 160, 1))
    picture = (paint * light * noise).astype(np.float32)
    albedo = (paint * rng.uniform(0.6, 1.4, paint.shape)).astype(np.float32)
    normal = np.zeros_like(albedo)
    normal[..., 2] = 1.0
    found = {q: Denoiser()(picture, albedo, normal, q) for q in ("high", "best")}
    error = {q: float(((p - paint * light) ** 2).mean()) for q, p in found.items()}
    assert error["best"] < 0.9 * error["high"]
