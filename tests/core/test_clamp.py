"""The automatic clamp keeps what it promises, also for light whose brightest samples a pilot seldom meets."""

from __future__ import annotations

import numpy as np
import pytest

from westlight.core.transport.clamp import MOST_TAKEN, _limit


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
