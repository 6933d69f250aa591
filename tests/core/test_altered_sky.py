"""A sky with its horizon moved, blurred, its colour turned."""

from __future__ import annotations

import numpy as np
import pytest

from westlight import core
from westlight.core.colour import AP1_LUMINANCE
from westlight.core.moon import moonlit
from westlight.core.sky import altered, clear_sky
from westlight.core.sky.altered import over_horizon


def towards(elevation_deg: float, azimuth_deg: float = 90.0) -> list[float]:
    return list(core.sun.direction(azimuth_deg, elevation_deg))


SKY = clear_sky(30.0, 180.0, 2.0, 0.3)


def test_nothing_changed_is_the_same_sky() -> None:
    assert altered(SKY) is SKY


def test_below_a_raised_horizon_is_ground_and_the_zenith_stays() -> None:
    """The lowest sky is seen just above the rim, at every azimuth."""
    raised = altered(SKY, horizon_deg=12.0)
    assert raised.rgb([towards(11.0)])[0] == pytest.approx(SKY.ground_rgb)
    assert raised.rgb([towards(12.01, 250)])[0] == pytest.approx(
        SKY.rgb([towards(0.05, 250)])[0], rel=0.02
    )
    assert raised.rgb([[0, 0, 1.0]])[0] == pytest.approx(SKY.rgb([[0, 0, 1.0]])[0], rel=1e-3)
    assert raised.horizontal_illuminance() != SKY.horizontal_illuminance()


def test_a_lowered_horizon_shows_sky_below_the_level() -> None:
    lowered = altered(SKY, horizon_deg=-8.0)
    assert not np.allclose(lowered.rgb([towards(-4.0)])[0], SKY.ground_rgb, rtol=0.05)
    assert lowered.rgb([towards(-8.1)])[0] == pytest.approx(SKY.ground_rgb)


def test_a_blurred_horizon_runs_from_ground_to_sky_without_a_step() -> None:
    soft = altered(SKY, blur_deg=10.0)
    rows = soft.luminance([towards(e) for e in np.linspace(-6, 6, 121)])
    hard = SKY.luminance([towards(e) for e in np.linspace(-6, 6, 121)])
    assert np.abs(np.diff(rows)).max() < 0.05 * np.abs(np.diff(hard)).max()
    assert rows[0] == pytest.approx(hard[0])
    assert rows[-1] == pytest.approx(hard[-1], rel=0.02)


@pytest.mark.parametrize("amount", [0.0, 0.5, 1.6])
def test_colour_turns_at_the_same_luminance(amount: float) -> None:
    d = [towards(40.0), towards(80.0, 10), [0, 0, 1.0]]
    before, after = SKY.rgb(d), altered(SKY, saturation=amount).rgb(d)
    assert after @ AP1_LUMINANCE == pytest.approx(before @ AP1_LUMINANCE, rel=2e-3)
    spread = np.ptp(after, axis=1) / np.ptp(before, axis=1)
    assert spread == pytest.approx(np.full(3, amount), abs=0.02)


def test_it_lights_a_room_by_its_own_illuminance() -> None:
    """The tracer sees the altered sky: open ground gets what the sky says of itself."""
    raised = altered(SKY, horizon_deg=10.0, blur_deg=6.0, saturation=0.4)
    scene = core.Scene()
    scene.add_source(core.sources.SkySource("sky", raised))
    found = core.irradiance(scene, [[0, 0, 0]], [[0, 0, 1.0]], samples=4096, bounces=0)
    assert float(found[0] @ AP1_LUMINANCE) == pytest.approx(
        raised.horizontal_illuminance(), rel=0.02
    )


@pytest.mark.parametrize("name", ["clear", "moonlit", "altered", "altered moonlit"])
def test_the_picture_of_a_sky_is_what_it_says_of_each_direction(name: str) -> None:
    """A picture is made by rows and columns, not direction by direction; it may not tell."""
    sky = core.sky.clear_sky(18.0, 205.0)
    if "moonlit" in name:
        sky = moonlit(sky, 80.0, 35.0, 90_000.0)
    if "altered" in name:
        sky = altered(sky, horizon_deg=7.0, blur_deg=9.0, saturation=0.6)
    width, height = 64, 32
    elevation = (0.5 - (np.arange(height) + 0.5) / height) * np.pi
    azimuth = (np.arange(width) + 0.5) / width * 2 * np.pi
    e, a = np.meshgrid(elevation, azimuth, indexing="ij")
    ways = np.stack([np.cos(e) * np.sin(a), np.cos(e) * np.cos(a), np.sin(e)], axis=-1)
    asked = sky.rgb(ways.reshape(-1, 3)).reshape(height, width, 3)
    assert sky.image(width, height) == pytest.approx(asked, rel=1e-5, abs=1e-6 * asked.max())


def test_impossible_horizons_are_refused() -> None:
    with pytest.raises(ValueError, match="horizon lies between"):
        altered(SKY, horizon_deg=75.0)


def test_the_horizon_of_a_picture_moves_and_blurs() -> None:
    """A white half over a black one: the border goes where it is told, the zenith stays."""
    pixels = np.zeros((180, 4, 3), np.float32)
    pixels[:90], pixels[0] = 1.0, 5.0
    assert over_horizon(pixels, 0.0, 0.0) is pixels
    raised = over_horizon(pixels, 20.0, 0.0)
    assert np.array_equal(np.nonzero(raised[:, 0, 0] == 0)[0], np.arange(70, 180))
    assert raised[0, 0, 0] == pytest.approx(5.0, rel=0.2)
    soft = over_horizon(pixels, 0.0, 30.0)[:, 1, 1]
    assert (np.diff(soft[2:]) <= 1e-6).all()
    assert soft[89] == pytest.approx(0.5, abs=0.06)
    assert soft[70] == 1.0
    assert soft[110] == 0.0
    with pytest.raises(ValueError, match="horizon"):
        over_horizon(pixels, 80.0, 0.0)
