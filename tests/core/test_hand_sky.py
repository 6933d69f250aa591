"""Skies set by hand, and the colour temperature that light reads as."""

from __future__ import annotations

import numpy as np
import pytest

from westlight.core.colour import AP1_LUMINANCE, kelvin_to_rgb, nearest_kelvin
from westlight.core.sky import graded_sky

UP, LEVEL = np.array([[0.0, 0.0, 1.0]]), np.array([[1.0, 0.0, 1e-4]])


def test_one_colour_is_even() -> None:
    """An even sky of E lux has luminance E/π everywhere, and its own kelvin."""
    sky = graded_sky(10_000.0, 6500.0)
    towards = np.random.default_rng(0).normal(size=(50, 3))
    towards[:, 2] = np.abs(towards[:, 2])
    towards /= np.linalg.norm(towards, axis=1, keepdims=True)
    assert np.allclose(sky.luminance(towards), 10_000 / np.pi, rtol=0.01)
    assert nearest_kelvin(sky.rgb(UP)[0]) == pytest.approx(6500, rel=0.02)


def test_horizon_and_zenith_are_what_was_asked() -> None:
    sky = graded_sky(8_000.0, 12_000.0, 3500.0, horizon_brightness=2.5)
    assert sky.horizontal_illuminance() == pytest.approx(8_000, rel=0.005)
    assert sky.luminance(LEVEL)[0] / sky.luminance(UP)[0] == pytest.approx(2.5, rel=0.03)
    assert nearest_kelvin(sky.rgb(UP)[0]) == pytest.approx(12_000, rel=0.05)
    assert nearest_kelvin(sky.rgb(LEVEL)[0]) == pytest.approx(3500, rel=0.03)
    higher = graded_sky(8_000.0, 12_000.0, 3500.0, 2.5, spread=3.0)
    slope = np.array([[0.7, 0.0, 0.7]])
    assert nearest_kelvin(higher.rgb(slope)[0]) < nearest_kelvin(sky.rgb(slope)[0])


def test_ground_shines_back_or_as_told() -> None:
    sky = graded_sky(5_000.0, ground_albedo=0.3)
    down = np.array([[0.0, 0.0, -1.0]])
    assert sky.luminance(down)[0] == pytest.approx(0.3 * 5_000 / np.pi, rel=0.01)
    told = graded_sky(5_000.0, ground=[10.0, 20.0, 30.0])
    assert np.allclose(told.rgb(down)[0], [10, 20, 30])


def test_darkness_and_nonsense() -> None:
    assert graded_sky(0.0).horizontal_illuminance() == 0
    for bad in ({"horizontal_illuminance_lx": -1.0}, {"horizontal_illuminance_lx": float("nan")},
                {"horizontal_illuminance_lx": 1.0, "horizon_brightness": -1.0}):  # fmt: skip
        with pytest.raises(ValueError, match="negative"):
            graded_sky(**bad)


@pytest.mark.parametrize("kelvin", [1500, 2700, 4000, 5500, 9000, 20000])
def test_kelvin_reads_back(kelvin: float) -> None:
    assert nearest_kelvin(7.0 * kelvin_to_rgb(kelvin)) == pytest.approx(kelvin, rel=0.02)
    with pytest.raises(ValueError, match="no colour temperature"):
        nearest_kelvin(np.zeros(3))
    assert AP1_LUMINANCE.sum() == pytest.approx(1.0)
