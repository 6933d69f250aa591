"""The tone curve that is drawn: where greys go, where they burn, and where the light lies."""

from __future__ import annotations

import numpy as np
import pytest

from westlight.core.finish import Grade, response, stops_histogram
from westlight.core.finish.grade import MIDDLE_GREY
from westlight.core.photometry import saturation_luminance


@pytest.mark.parametrize("tone", ["natural", "film", "linear"])
def test_curves_rise_and_stay_in_range(tone: str) -> None:
    """Brighter never looks darker; the darkest grey is black, the brightest nearly white."""
    r = response(tone, Grade())
    assert (np.diff(r.shown) >= -1e-6).all()
    assert r.shown[0] < 0.03
    assert r.shown[-1] > 0.95


def test_linear_burns_where_the_sensor_is_full() -> None:
    """Where 250 of 255 is reached, just below 1 / 0.18 above middle grey; later with half the slope."""
    full = np.log2(((250 / 255 + 0.055) / 1.055) ** 2.4 / MIDDLE_GREY)
    r = response("linear", Grade())
    assert r.burnt_stops == pytest.approx(full, abs=0.05)
    half = response("linear", Grade(slope=(1.0, 1.0, 1.0), contrast=0.5))
    assert half.burnt_stops is not None
    assert half.burnt_stops == pytest.approx(2 * full, abs=0.1)
    calm = response("linear", Grade(compression=1.0))
    assert calm.burnt_stops is None or calm.burnt_stops > r.burnt_stops


def test_histogram_lies_where_the_exposure_puts_it() -> None:
    """An even grey three stops over fills one bin; an EV more moves it one stop down."""
    ev = 10.0
    grey = MIDDLE_GREY * saturation_luminance(ev)
    picture = np.full((32, 32, 3), grey * 8, np.float32)
    found = stops_histogram(picture, ev)
    assert found.sum() == 64
    assert int(found.argmax()) == 64 // 2 + 3 * 4 or int(found.argmax()) == 64 // 2 + 3 * 4 - 1
    later = stops_histogram(picture, ev + 1)
    assert int(found.argmax()) - int(later.argmax()) == 4
    assert stops_histogram(picture * 0, ev)[0] == 64
