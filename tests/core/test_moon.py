"""The moon against eclipses, when its place is known, and against what it is known to give."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

import numpy as np
import pytest

from westlight import core
from westlight.core.moon import moon_lux, moon_position, moonlit, with_town_glow

HERE = (43.6, -9.1)


def test_a_solar_eclipse_puts_the_moon_before_the_sun() -> None:
    """Greatest eclipse of 8 April 2024: 18:17:20 UTC at 25.29° N, 104.14° W."""
    when, site = datetime(2024, 4, 8, 18, 17, 20, tzinfo=UTC), (25.29, -104.14)
    moon, sun = moon_position(when, *site), core.sun.sun_position(when, *site)
    assert moon.elevation_deg == pytest.approx(sun.elevation_deg, abs=0.4)
    assert moon.azimuth_deg == pytest.approx(sun.azimuth_deg, abs=1.0)
    assert moon.lit < 1e-3


def test_full_and_new_moons() -> None:
    for when in (
        datetime(2025, 3, 14, 6, 55, tzinfo=UTC),
        datetime(2022, 11, 8, 11, 2, tzinfo=UTC),
    ):
        full = moon_position(when, *HERE)
        assert full.lit > 0.999
        # A full moon gives about a quarter of a lux (0.21–0.32, by its distance).
        assert 0.19 < full.illuminance_lx < 0.34
        later = (moon_position(when + timedelta(hours=h), *HERE) for h in range(140, 220))
        half = min(later, key=lambda m: abs(m.lit - 0.5))
        assert half.lit == pytest.approx(0.5, abs=0.01)
        # Half a moon is far less than half a full one: about a tenth.
        assert half.illuminance_lx == pytest.approx(0.1 * full.illuminance_lx, rel=0.35)


def test_the_moon_is_opposite_the_sun_when_full() -> None:
    when = datetime(2025, 3, 14, 0, 0, tzinfo=UTC)
    moon, sun = moon_position(when, *HERE), core.sun.sun_position(when, *HERE)
    apart = np.dot(core.sun.direction(moon.azimuth_deg, moon.elevation_deg),
                   core.sun.direction(sun.azimuth_deg, sun.elevation_deg))  # fmt: skip
    assert apart < -0.99
    with pytest.raises(ValueError, match="time zone"):
        moon_position(datetime(2025, 3, 14), *HERE)
    with pytest.raises(ValueError, match="Latitude"):
        moon_position(when, 95.0, 0.0)


def test_a_moonlit_sky_is_a_faint_day() -> None:
    dark = core.sky.clear_sky(-30.0)
    lit = moonlit(dark, 120.0, 45.0, 0.26)
    day = core.sky.clear_sky(45.0)
    share = 0.26 / 128_000
    assert lit.horizontal_illuminance() - dark.horizontal_illuminance() == pytest.approx(
        day.horizontal_illuminance() * share, rel=0.15
    )
    assert moon_lux(45.0, 0.26) == pytest.approx(day.sun_normal_illuminance() * share, rel=0.15)
    # Brightest towards the moon, and the same picture whichever way it is asked for.
    towards = core.sun.direction(120.0, 40.0)
    away = core.sun.direction(300.0, 40.0)
    assert lit.luminance([towards])[0] > 1.5 * lit.luminance([away])[0]
    assert moonlit(dark, 120.0, 45.0, 0.0) is dark


def test_town_glow_lies_along_the_horizon() -> None:
    dark = core.sky.clear_sky(-30.0)
    lit = with_town_glow(dark, 0.01)
    low, high = (core.sun.direction(0.0, e) for e in (0.5, 60.0))
    assert lit.luminance([low])[0] == pytest.approx(0.01, rel=0.1)
    assert lit.luminance([high])[0] < 5e-4
    assert with_town_glow(dark, 0.0) is dark


def test_twilight_falls_without_a_step_to_the_floor_of_the_night() -> None:
    lux = [core.sky.clear_sky(e).horizontal_illuminance() for e in np.arange(-6.0, -24.5, -1.0)]
    assert (np.diff(lux) < 0).all()
    assert 0.0007 / 2.5 < lux[12] < 0.0007 * 2.5  # −18°
    assert 0.008 / 2.5 < lux[6] < 0.008 * 2.5  # −12°
