"""The automatic clamp keeps what it promises, also for light whose brightest samples a pilot seldom meets."""

from __future__ import annotations

import numpy as np
import pytest

from westlight.core.colour import AP1_LUMINANCE
from westlight.core.transport.clamp import MOST_TAKEN, _limit, clamp_gathered
from westlight.core.transport.film import Accumulator


def taken(steepness: float, seed: int) -> float:
    """Share of all light above the limit found from 200,000 samples, a third of them lit: of a power law
    (Pareto) its mean is a / (a − 1), and c^(1 − a) / (a − 1) of that lies above c."""
    rng = np.random.default_rng(seed)
    samples = (rng.pareto(steepness, 200_000) + 1) * (rng.random(200_000) < 0.33)
    limit = _limit(samples, MOST_TAKEN * samples.sum())
    return float(limit ** (1 - steepness) / steepness)


@pytest.mark.parametrize("steepness", [1.4, 1.6, 2.0, 3.0])
def test_less_than_half_a_per_cent_is_taken(steepness: float) -> None:
    found = [taken(steepness, seed) for seed in range(30)]
    assert max(found) < 0.005
    # And it does not shrink from taking anything.
    assert np.mean(found) > 0.00005


def test_samples_of_one_brightness_are_left_alone() -> None:
    """Where nothing stands out there is next to nothing to take."""
    limit = _limit(np.full(1000, 3.0), MOST_TAKEN * 3000.0)
    assert 1000 * max(3.0 - limit, 0.0) <= MOST_TAKEN * 3000.0 * 1.001
    assert limit < 3.1


def test_nothing_lit_sets_no_limit() -> None:
    assert _limit(np.zeros(100), 0.0) > 1e38


def film_of(
    rng: np.random.Generator, split: bool, clamp: float = 1e20, passes: int = 1
) -> Accumulator:
    """A film of made-up samples, each pixel's summed as the kernel does: bounced light limited to the clamp."""
    film = Accumulator.empty(200, 256, split=split, apart=True)
    y = AP1_LUMINANCE.astype(np.float32)
    for n in range(passes):
        direct = rng.random((200, 256, 3), np.float32)
        bounced = (rng.exponential(1.0, (200, 256, 1)) * [1.0, 0.8, 0.5]).astype(np.float32)
        k = np.minimum(1.0, clamp / np.maximum(bounced @ y, 1e-9))[..., None].astype(np.float32)
        film.removed += ((bounced @ y) * (1 - k[..., 0])).astype(np.float32)
        before, left = direct + bounced, direct + bounced * k
        film.light += left
        film.bounced += bounced * k if split else (bounced * k) @ y[:, None]
        film.apart += np.tile(0.1 * before * (left.sum(-1) / before.sum(-1))[..., None], 2)
        if n % 2:
            film.odd += np.stack([left @ y, (bounced * k) @ y], axis=2)
        film.counts[..., n % 2] += 1
    return film


@pytest.mark.parametrize("split", [True, False])
def test_light_that_was_gathered_is_clamped_as_if_it_had_been_from_the_start(split: bool) -> None:
    """One pass, then the clamp chosen from it: the film is that of a pass traced with this clamp."""
    film = film_of(np.random.default_rng(3), split)
    before = film.mean() @ AP1_LUMINANCE
    clamp_gathered(film)
    assert film.clamp < 1e30
    again = film_of(np.random.default_rng(3), split, film.clamp)
    y = AP1_LUMINANCE
    assert np.allclose(film.removed, again.removed, rtol=1e-4, atol=1e-4)
    assert np.allclose(film.light @ y, again.light @ y, rtol=1e-4)
    assert np.allclose(film.bounced, again.bounced, rtol=1e-4)
    if split:
        assert np.allclose(film.light, again.light, rtol=1e-4)
    # Nothing is lost but what is told of.
    assert np.allclose(film.mean() @ y + film.removed_mean(), before, rtol=1e-4)
    assert 0 < film.removed_mean().mean() < 0.02 * before.mean()


def test_a_film_of_several_passes_keeps_its_halves_and_one_without_a_pass_its_light() -> None:
    film = film_of(np.random.default_rng(5), True, passes=4)
    clamp_gathered(film)
    even, odd = film.halves()
    assert np.allclose((even + odd) / 2, film.mean() @ AP1_LUMINANCE, rtol=1e-4)
    assert (film.bounced_mean() @ AP1_LUMINANCE).max() <= film.clamp * 1.0001
    fresh = Accumulator.empty(40, 64)
    clamp_gathered(fresh)
    assert fresh.clamp > 1e30
