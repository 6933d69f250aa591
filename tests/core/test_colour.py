"""Colour, exposure and the picture on the screen."""

from __future__ import annotations

import doctest
import importlib

import numpy as np
import PyOpenColorIO as ocio
import pytest
from hypothesis import given
from hypothesis import strategies as st

from westlight import core
from westlight.core.colour import (
    AP1_LUMINANCE,
    AP1_TO_SRGB,
    SRGB_TO_AP1,
    kelvin_to_rgb,
    kelvin_to_xy,
    srgb_decode,
    srgb_encode,
    white_balance_matrix,
)
from westlight.core.finish import block_mean, mix, show
from westlight.core.photometry import (
    ev100,
    factor_to_stops,
    saturation_luminance,
    shutter_for_ev,
    stops_to_factor,
)


@pytest.mark.parametrize(
    "name",
    ["photometry", "sun", "colour.spaces", "colour.spectrum", "colour.temperature", "sky.clear",
     "sky.cie", "view", "luminaires.distribution", "luminaires.read", "analysis.meter",
     "analysis.noise", "finish.meter"],
)  # fmt: skip
def test_worked_examples(name: str) -> None:
    """The examples in the docstrings are true."""
    module = importlib.import_module(f"westlight.core.{name}")
    assert doctest.testmod(module).failed == 0


def test_worked_example_of_the_front_door() -> None:
    """The notebook example of the package."""
    found = doctest.testmod(core)
    assert found.attempted > 3
    assert found.failed == 0


def test_exposure() -> None:
    """Sunny sixteen, and Lmax = 1.2·2^EV."""
    assert ev100(16, 1 / 128, 100) == pytest.approx(15.0)
    assert saturation_luminance(15.0) == pytest.approx(1.2 * 2**15)
    with pytest.raises(ValueError, match="greater than zero"):
        ev100(0, 1, 100)


@given(st.floats(1, 32), st.floats(1e-4, 60), st.floats(25, 25600))
def test_shutter_for_an_exposure(f_number: float, shutter_s: float, iso: float) -> None:
    """The shutter found for an EV is the one that gave it."""
    ev = ev100(f_number, shutter_s, iso)
    assert shutter_for_ev(ev, f_number, iso) == pytest.approx(shutter_s, rel=1e-9)


@given(st.floats(-12, 12))
def test_stops(stops: float) -> None:
    """Stops go to a factor and back."""
    assert factor_to_stops(stops_to_factor(stops)) == pytest.approx(stops, abs=1e-9)


def test_spaces() -> None:
    """White stays white, matrices invert, luminance sums to one."""
    assert SRGB_TO_AP1 @ np.ones(3) == pytest.approx(np.ones(3), abs=1e-6)
    assert pytest.approx(np.eye(3), abs=1e-9) == AP1_TO_SRGB @ SRGB_TO_AP1
    assert AP1_LUMINANCE.sum() == pytest.approx(1.0)
    ramp = np.linspace(0, 1, 50)
    assert srgb_encode(srgb_decode(ramp)) == pytest.approx(ramp, abs=1e-6)


@pytest.mark.parametrize(
    ("kelvin", "x", "y"), [(2856, 0.4476, 0.4074), (5003, 0.3457, 0.3585), (6504, 0.3127, 0.3290)]
)
def test_kelvin_against_standard_illuminants(kelvin: float, x: float, y: float) -> None:
    """Illuminants A, D50 and D65."""
    assert kelvin_to_xy(kelvin) == pytest.approx((x, y), abs=0.003)


def test_kelvin_is_even_and_ordered() -> None:
    """From warm to cold red falls and blue rises, without a kink where the loci meet."""
    kelvins = np.arange(1500, 12000, 50.0)
    rgb = np.array([kelvin_to_rgb(float(k)) for k in kelvins])
    ratio = rgb[:, 2] / rgb[:, 0]
    assert (np.diff(ratio) > 0).all()
    assert np.abs(np.diff(np.log(ratio), 2)).max() < 0.02


def test_white_point_makes_its_light_neutral() -> None:
    """Light of the chosen kelvin becomes grey."""
    for kelvin in (2700.0, 4500.0, 6500.0):
        rgb = white_balance_matrix(kelvin) @ kelvin_to_rgb(kelvin)
        assert rgb / rgb.max() == pytest.approx(np.ones(3), abs=2e-3)


def test_the_baked_tone_is_the_exact_one() -> None:
    """Baked table against the output transform itself, over twelve stops of any colour."""
    rng = np.random.default_rng(0)
    scene = (2.0 ** rng.uniform(-8, 4, (64, 64, 1)) * rng.uniform(0.3, 1, (64, 64, 3))).astype("f4")
    exact = (scene @ white_balance_matrix(6000).T).astype("f4").reshape(-1, 3).copy()
    config = ocio.Config.CreateFromBuiltinConfig("ocio://default")
    view = "ACES 2.0 - SDR 100 nits (Rec.709)"
    transform = ocio.DisplayViewTransform("ACEScg", "sRGB - Display", view)
    config.getProcessor(transform).getDefaultCPUProcessor().applyRGB(exact)
    shown = show(scene * np.float32(saturation_luminance(5.0)), 5.0, 6000).pixels.reshape(-1, 3)
    error = np.abs(shown - 255 * np.clip(exact, 0, 1))
    assert error.mean() < 0.6
    assert error.max() < 6


def test_burnt_and_black_are_counted() -> None:
    """A quarter far above white, a half without light."""
    picture = np.zeros((8, 8, 3), np.float32)
    picture[:2] = 1e6
    picture[2:4] = saturation_luminance(8.0) * 0.18
    shown = show(picture, 8.0, 6000)
    assert shown.burnt == pytest.approx(0.25)
    assert shown.black == pytest.approx(0.5)
    assert shown.histogram.sum() == 64


def test_one_stop_is_one_stop() -> None:
    """Half the light at one stop more exposure shows the same picture."""
    rng = np.random.default_rng(2)
    picture = rng.uniform(0, 50, (16, 16, 3)).astype(np.float32)
    assert np.array_equal(show(picture, 5.0).pixels, show(picture / 2, 4.0).pixels)


def test_mix_and_means() -> None:
    """A mix is the weighted sum; block means keep the average."""
    rng = np.random.default_rng(3)
    pictures = [rng.uniform(0, 9, (24, 36, 3)).astype(np.float32) for _ in range(3)]
    gains = [np.array([1.0, 2.0, 0.5]), np.array([0.0, 1.0, 0.0]), np.array([3.0, 3.0, 3.0])]
    out = np.full((24, 36, 3), 7, np.float32)
    expected = sum(p * g for p, g in zip(pictures, gains, strict=True))
    assert mix(pictures, gains, out) == pytest.approx(expected, rel=1e-5)
    small = block_mean(pictures[0], 4)
    assert small.shape == (6, 9, 3)
    assert small.mean() == pytest.approx(pictures[0].mean(), rel=1e-5)


def test_unknown_tone_is_refused() -> None:
    """An unknown tone names the ones there are."""
    with pytest.raises(ValueError, match="natural"):
        core.colour.display_transform("velvet")


def test_metering_puts_an_even_wall_at_middle_grey() -> None:
    """Whatever the wall's luminance, the metered exposure shows it the same; a lamp is ignored."""
    from westlight.core.finish import metered_ev

    shown = []
    for luminance in (0.3, 40.0, 9000.0):
        wall = np.full((80, 80, 3), luminance, np.float32)
        ev = metered_ev(wall)
        assert ev is not None
        assert luminance / saturation_luminance(ev) == pytest.approx(0.18)
        shown.append(int(show(wall, ev, 6000).pixels.mean()))
        wall[:4, :4] = 1e7
        assert metered_ev(wall) == pytest.approx(ev)
    assert max(shown) - min(shown) <= 1
    assert metered_ev(np.zeros((8, 8, 3), np.float32)) is None
