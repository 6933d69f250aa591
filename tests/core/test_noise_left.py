"""Noise after denoising, measured from two halves of the passes."""

from __future__ import annotations

import numpy as np

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
    left = {s: noise_left(denoise, halves(s), guide, guide) for s in raw}
    for s in raw:
        assert 0 < left[s] < 0.5 * raw[s]
    assert left[0.4] > left[0.1]
    a, _ = halves(0.3)
    assert noise_left(denoise, (a, a), guide, guide) == 0.0
    dark = np.zeros_like(a)
    assert noise_left(denoise, (dark, dark), guide, guide) == 0.0


def test_halves_add_up_to_the_mean() -> None:
    """Even and odd passes, weighted by their counts, are all passes."""
    rng = np.random.default_rng(2)
    film = Accumulator.empty(16, 8)
    film.light[:] = rng.uniform(5, 6, film.light.shape)
    film.odd[..., 0] = lux(film.light.reshape(-1, 3)).reshape(16, 8) * 0.4
    film.counts[:] = [[3, 2], [4, 2]]
    a, b = film.halves()
    n = np.repeat(film.counts, 8, axis=0).astype(float)
    whole = lux(film.mean().reshape(-1, 3)).reshape(16, 8)
    np.testing.assert_allclose((a * n[:, :1] + b * n[:, 1:]) / n.sum(axis=1, keepdims=True), whole,
                               rtol=1e-5)  # fmt: skip
