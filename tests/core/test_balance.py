"""Suggested balances against wishes that can be met, that cannot, and that touch nothing."""

from __future__ import annotations

import numpy as np
import pytest

from westlight.core.analysis import suggested_balance


def test_wishes_that_can_be_met_are_met() -> None:
    rng = np.random.default_rng(1)
    light = np.diag(rng.uniform(5, 50, 4)) + rng.uniform(0, 1, (4, 4))
    factors = 2.0 ** rng.uniform(-2, 2, 4)
    made = suggested_balance(light, light @ factors)
    assert made.factors == pytest.approx(factors, rel=0.08)
    assert made.reached == pytest.approx(light @ factors, rel=0.06)


def test_levels_stay_where_no_wish_asks_for_a_change() -> None:
    light = np.array([[10.0, 3.0, 0.0], [2.0, 8.0, 0.0]])
    same = suggested_balance(light, light.sum(axis=1))
    assert same.factors == pytest.approx([1, 1, 1], abs=1e-6)
    dimmed = suggested_balance(light, [1e-6, 1e-6])
    assert (dimmed.factors > 0).all()
    assert dimmed.factors[2] == 1.0


def test_the_source_that_lights_a_place_is_the_one_that_changes() -> None:
    made = suggested_balance([[90.0, 1.0], [1.0, 90.0]], [4 * 91.0, 91.0])
    assert np.log2(made.factors) == pytest.approx([2.0, 0.0], abs=0.1)


def test_wishes_without_light_are_refused() -> None:
    with pytest.raises(ValueError, match="above zero"):
        suggested_balance([[1.0]], [0.0])
    with pytest.raises(ValueError, match="needs a place"):
        suggested_balance([[1.0]], [1.0, 2.0])
