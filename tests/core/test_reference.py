"""Towards a reference: what is read of a shown picture, and steps that come nearer to it."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
import pytest

from westlight.core.analysis import reference as R
from westlight.core.finish.grade import Curve, Grade

RNG = np.random.default_rng(5)


def room(width: int = 96, height: int = 64) -> tuple[np.ndarray, np.ndarray]:
    """Two sources of a made-up room: a window at the left that falls off, and a warm lamp at the right, in cd/m²."""
    y, x = np.mgrid[0:height, 0:width] / np.array([height, width])[:, None, None]
    wall = 0.3 + 0.5 * (np.sin(9 * x) * np.cos(7 * y) > 0)
    window = (wall * 400 * np.exp(-3 * x))[..., None] * np.array([0.9, 1.0, 1.2])
    lamp = (wall * 60 * np.exp(-4 * np.hypot(x - 0.8, y - 0.3)))[..., None] * np.array(
        [1.5, 1.0, 0.5]
    )
    return window.astype(np.float32), lamp.astype(np.float32)


SETUP = R.Setup(8.0, 5600.0, 0.0, "natural", Grade())


def shown(setup: R.Setup, factors: tuple[float, float] = (1.0, 1.0)) -> np.ndarray:
    window, lamp = room()
    return R.developed_small(window * factors[0] + lamp * factors[1], setup)


def step(kind: str, target: np.ndarray, setup: R.Setup = SETUP) -> tuple[float, R.Step]:
    before, steps = R.nearer(room(), setup, target)
    return before, next(s for s in steps if s.kind == kind)


def test_a_picture_is_nowhere_from_itself() -> None:
    """Nothing is offered then; its mirror image is as near: places do not count."""
    same = shown(SETUP)
    before, steps = R.nearer(room(), SETUP, same)
    assert before == pytest.approx(0.0, abs=1e-6)
    assert steps == []
    assert R.apart(R.bands(same), R.bands(same[:, ::-1])) == pytest.approx(0.0, abs=1e-6)


@pytest.mark.parametrize("stops", [-1.5, 1.25])
def test_an_exposure_is_found_again(stops: float) -> None:
    target = shown(SETUP._replace(ev=SETUP.ev - stops))
    before, found = step("exposure", target)
    assert SETUP.ev - found.setup.ev == pytest.approx(stops, abs=0.13)
    assert found.apart < 0.1 * before


def test_a_white_point_is_found_again() -> None:
    """To within what is seen: the steps left are fewer than one."""
    target = shown(SETUP._replace(kelvin=3900.0, tint=9.0))
    before, found = step("white", target)
    assert found.setup.kelvin == pytest.approx(3900.0, rel=0.04)
    assert found.setup.tint == pytest.approx(9.0, abs=3.0)
    assert before > 2 > 1 > found.apart


def test_levels_are_found_again() -> None:
    """A lamp two stops up and a window one down, from the brightness of blocks alone."""
    before, found = step("levels", shown(SETUP, (0.5, 4.0)))
    assert np.log2(found.factors) == pytest.approx([-1.0, 2.0], abs=0.35)
    assert found.apart < 0.35 * before


def test_a_curve_is_found_again_and_stays_gentle() -> None:
    bent = replace(SETUP.grade, curve=Curve(((0.0, 0.0), (0.3, 0.2), (0.7, 0.8), (1.0, 1.0))))
    before, found = step("curve", shown(SETUP._replace(grade=bent)))
    assert found.apart < 0.35 * before
    x = np.linspace(0, 1, 400)
    slope = np.diff(found.setup.grade.curve(x)) / np.diff(x)
    # Points are told to a thousandth, so slopes between near ones may be off by a little.
    assert slope.min() > 0
    knots = np.diff(np.array(found.setup.grade.curve.points), axis=0)
    assert (knots[:, 1] / knots[:, 0]).max() < R.SLOPES[1] * 1.05
    assert (knots[:, 1] / knots[:, 0]).min() > R.SLOPES[0] * 0.95


def test_a_curve_towards_noise_neither_bands_nor_breaks() -> None:
    """Whatever the other picture is, the curve rises and ends where it must."""
    for _ in range(60):
        mine, its = RNG.beta(*RNG.uniform(0.2, 5, 2), 4000), RNG.beta(*RNG.uniform(0.2, 5, 2), 4000)
        points = np.array(R.matched(mine, its))
        if len(points):
            assert (np.diff(points[:, 0]) > 0).all()
            assert (np.diff(points[:, 1]) >= 0).all()
            assert points[-1].tolist() == [1.0, 1.0]


def test_split_tone_and_saturation_are_found_again() -> None:
    toned = replace(SETUP.grade, warm_lights=0.9, warm_shadows=-0.8)
    before, found = step("split", shown(SETUP._replace(grade=toned)))
    assert found.setup.grade.warm_lights == pytest.approx(0.9, abs=0.2)
    assert found.setup.grade.warm_shadows == pytest.approx(-0.8, abs=0.2)
    assert found.apart < 0.4 * before
    pale = shown(SETUP._replace(grade=replace(SETUP.grade, saturation=0.5)))
    assert step("saturation", pale)[1].setup.grade.saturation == pytest.approx(0.5, abs=0.06)


def test_readings_tell_stops() -> None:
    """Half black and half white: far apart; a key two stops above its fill; warm lights over cold shadows."""
    grey = np.full((8, 8, 3), 118, np.uint8)
    assert sum(R.reading(grey).stops) == pytest.approx(1.0)
    half = grey.copy()
    # A quarter of the linear light of the encoded 118.
    linear = ((118 / 255 + 0.055) / 1.055) ** 2.4 / 4
    half[:, 4:] = round(255 * (1.055 * linear ** (1 / 2.4) - 0.055))
    assert R.key_to_fill(half, (0, 0, 0.4, 1), (0.6, 0, 1, 1)) == pytest.approx(2.0, abs=0.05)
    assert R.reading(half).contrast == pytest.approx(2.0, abs=0.05)
    split = np.zeros((9, 9, 3), np.uint8)
    split[:3], split[3:6], split[6:] = (20, 25, 60), (118, 118, 118), (250, 220, 160)
    r = R.reading(split)
    assert r.lights > 0.02 > -0.02 > r.shadows


@pytest.mark.parametrize("elevation", [8.0, 33.0, 61.0])
def test_a_shadow_tells_how_high_the_sun_is(elevation: float) -> None:
    length = 100 / math.tan(math.radians(elevation))
    # The picture may be turned: lengths alone count.
    assert R.sun_height((50, 200), (50, 100), (50 + length, 200)) == pytest.approx(elevation)
    with pytest.raises(ValueError, match="length"):
        R.sun_height((1, 1), (1, 1), (5, 1))
