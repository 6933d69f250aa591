"""Extremes over channels against NumPy's own."""

from __future__ import annotations

import numpy as np
import pytest

from westlight.core.channels import largest, smallest


@pytest.mark.parametrize("shape", [(3,), (5, 3), (7, 4, 3)])
@pytest.mark.parametrize("kind", [np.uint8, np.float32])
def test_extremes_of_channels(shape: tuple[int, ...], kind: type) -> None:
    pixels = (np.random.default_rng(3).random(shape) * 200 - 50).astype(kind)
    np.testing.assert_array_equal(largest(pixels), pixels.max(axis=-1))
    np.testing.assert_array_equal(smallest(pixels), pixels.min(axis=-1))
    assert largest(pixels).dtype == kind


def test_what_is_no_number_is_not_hidden() -> None:
    assert np.isnan(largest(np.array([[1.0, np.nan, 2.0]]))).all()
