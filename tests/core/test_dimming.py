"""Colour of a dimmed lamp."""

from __future__ import annotations

import numpy as np
import pytest

from westlight.core.sources import dimmed_kelvin
from westlight.core.sources.dimming import COLDEST_K


def test_a_dimmed_filament_follows_its_voltage() -> None:
    """At half the voltage a lamp gives 2^−3.4 of its flux, at 2^−0.42 of its colour temperature."""
    assert dimmed_kelvin(3000, -3.4) == pytest.approx(3000 * 2**-0.42)
    assert dimmed_kelvin(3000, 0) == 3000
    assert dimmed_kelvin(3000, 4) == 3000


def test_it_grows_warmer_step_by_step_down_to_a_glow() -> None:
    kelvin = np.array([dimmed_kelvin(2700, -s) for s in np.arange(0, 16, 0.1)])
    assert (np.diff(kelvin) <= 0).all()
    assert kelvin[-1] == COLDEST_K
    # What is warmer than that from the start stays as it is.
    assert dimmed_kelvin(1100, -6) == 1100
