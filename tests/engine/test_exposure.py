"""The automatic exposure."""

from __future__ import annotations

import numpy as np
import pytest

from westlight.core.finish.meter import MIDDLE_GREY
from westlight.core.photometry import saturation_luminance
from westlight.engine.spec import ExposureSettings
from westlight.engine.translate import ev_of, exposed


def halves() -> np.ndarray:
    """A picture dark on its left and sixteen times as bright on its right."""
    picture = np.full((90, 160, 3), 10.0, np.float32)
    picture[:, 80:] = 160.0
    return picture


def test_off_leaves_the_shutter_alone() -> None:
    e = ExposureSettings(shutter_s=1 / 60)
    assert exposed(e, halves()) is e


@pytest.mark.parametrize(("area", "luminance"), [((0.2, 0.5), 10.0), ((0.8, 0.5), 160.0)])
def test_an_area_comes_to_middle_grey(area: tuple[float, float], luminance: float) -> None:
    e = exposed(ExposureSettings(automatic="area", area=area, f_number=8, iso=400), halves())
    assert MIDDLE_GREY * saturation_luminance(ev_of(e)) == pytest.approx(luminance, rel=1e-3)


def test_compensation_opens_up_and_the_f_number_does_not() -> None:
    """+1 doubles the shutter; another f-number keeps the brightness."""
    plain = exposed(ExposureSettings(automatic="whole"), halves())
    lighter = exposed(ExposureSettings(automatic="whole", compensation=1.0), halves())
    assert lighter.shutter_s == pytest.approx(2 * plain.shutter_s, rel=1e-6)
    stopped = exposed(ExposureSettings(automatic="whole", f_number=11), halves())
    assert ev_of(stopped) == pytest.approx(ev_of(plain), abs=1e-6)


def test_darkness_leaves_the_shutter() -> None:
    dark = np.zeros((90, 160, 3), np.float32)
    assert exposed(ExposureSettings(automatic="whole", shutter_s=2.0), dark).shutter_s == 2.0
