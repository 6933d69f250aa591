"""The simulation of many workers against cases that can be counted by hand."""

from __future__ import annotations

import numpy as np
import pytest

from westlight.engine.many_workers import Farm, best_unit, efficiency, round_time

EVEN = {
    "speed_spread": 0.0, "unit_spread": 0.0, "lag_chance": 0.0, "death_chance": 0.0,
    "handing_out": 0.0, "travel_per_mb": 0.0,
}  # fmt: skip


def test_even_work_on_even_workers_loses_nothing() -> None:
    """As many seconds as units for each, and a remainder costs one unit more."""
    farm = Farm(10, **EVEN)
    assert efficiency(farm, 100.0, 50) == pytest.approx(1.0)
    assert round_time(farm, [2.0] * 51, 0.0) == pytest.approx(12.0)


def test_one_clerk_is_the_limit_of_tiny_units() -> None:
    """Handing out 2 ms each, a scheduler feeds no more than 333 units a second, whoever works."""
    farm = Farm(1000, **(EVEN | {"handing_out": 0.002}))
    units = 4000
    assert round_time(farm, [0.01] * units, 0.0) >= units * 0.003 * 0.95


def test_a_lagging_unit_is_traced_twice() -> None:
    """One unit in fifty that lags a hundredfold does not hold up the round a hundredfold."""
    farm = Farm(20, **(EVEN | {"lag_chance": 0.02, "lag": 100.0}))
    times = [round_time(farm, [1.0] * 200, 0.0, seed) for seed in range(8)]
    assert np.median(times) < 40
    assert min(times) >= 10


def test_deaths_cost_time_but_no_work() -> None:
    """Every unit comes back in the end, later than without deaths."""
    calm, deadly = Farm(16, **EVEN), Farm(16, **(EVEN | {"death_chance": 0.05}))
    assert round_time(deadly, [1.0] * 160, 0.0, 3) > round_time(calm, [1.0] * 160, 0.0, 3)
    assert np.isfinite(round_time(deadly, [1.0] * 160, 0.0, 3))


def test_the_best_unit_lies_between_too_small_and_too_large() -> None:
    """A thousand usual workers use neither the smallest nor the largest units best."""
    sizes = [0.2, 1.0, 3.0, 10.0, 40.0]
    size, share = best_unit(Farm(1000), 40_000.0, sizes)
    assert size not in (sizes[0], sizes[-1])
    assert 0.4 < share < 1.0
