"""Sun and skies against almanac and standard values."""

from __future__ import annotations

import math
from datetime import UTC, datetime, timedelta, timezone

import numpy as np
import pytest

from westlight import core
from westlight.core.sky import portrait
from westlight.core.sky.cie import COEFFICIENTS, relative_luminance


def _air_mass(elevation: float) -> float:
    """Kasten & Young 1989."""
    return 1 / (math.sin(math.radians(elevation)) + 0.50572 * (elevation + 6.07995) ** -1.6364)


@pytest.mark.parametrize("elevation", [10, 15, 20, 30, 40, 50, 60, 70, 80, 90])
def test_clear_sky_by_day(elevation: float) -> None:
    """Sun and sky within a quarter of the IES daylight equations."""
    sky = core.sky.clear_sky(float(elevation), haze=2.0)
    sun = 127_500 * math.exp(-0.21 * _air_mass(elevation))
    dome = 800 + 15_500 * math.sqrt(math.sin(math.radians(elevation)))
    assert sky.sun_normal_illuminance() == pytest.approx(sun, rel=0.25)
    assert sky.horizontal_illuminance() == pytest.approx(dome, rel=0.25)


@pytest.mark.parametrize(("elevation", "lux", "factor"), [(-0.8, 450, 1.6), (-6, 3.4, 1.7)])
def test_clear_sky_at_dusk(elevation: float, lux: float, factor: float) -> None:
    """Twilight illuminance near the almanac's."""
    found = core.sky.clear_sky(float(elevation)).horizontal_illuminance()
    assert lux / factor < found < lux * factor


def test_sky_gets_darker_without_a_jump() -> None:
    """Illuminance falls evenly from noon into twilight."""
    elevations = np.arange(30.0, -9.0, -0.5)
    lux = [core.sky.clear_sky(float(e)).horizontal_illuminance() for e in elevations]
    steps = np.diff(np.log(lux))
    assert (steps < 0).all()
    assert np.abs(np.diff(steps)).max() < 0.05


def test_sky_colours() -> None:
    """Blue overhead, bluer in the blue hour; warm at the horizon under a low sun."""
    up, glow = [[0.0, 0.0, 1.0]], [core.sun.direction(180.0, 2.0)]
    day, late, dusk = (core.sky.clear_sky(e, 180.0).rgb for e in (40.0, 3.0, -6.0))
    assert day(up)[0, 2] > 1.4 * day(up)[0, 0]
    assert dusk(up)[0, 2] / dusk(up)[0, 0] > day(up)[0, 2] / day(up)[0, 0]
    assert late(glow)[0, 0] > 2 * late(glow)[0, 2]


@pytest.mark.parametrize("elevation", [-9.5, 3.0, 41.5])
def test_the_sky_above_the_sun_is_that_of_the_whole_sky(elevation: float) -> None:
    ups = [6.0, 50.0]
    whole = core.sky.clear_sky(elevation, 180.0, haze=2.4)
    there = whole.rgb([core.sun.direction(180.0, up) for up in ups])
    # The whole sky lies between its rows.
    assert core.sky.clear_sky_above_sun(ups, elevation, 2.4) == pytest.approx(there, rel=0.02)


def test_sun_under_the_horizon_gives_nothing() -> None:
    """No disc below the horizon, half of it at the horizon."""
    assert core.sky.clear_sky(-2.0).sun_normal_illuminance() == 0.0
    assert core.sky.clear_sky(0.0).sun_normal_illuminance() > 0.0


def test_refused_skies() -> None:
    """Impossible air is refused in words."""
    with pytest.raises(ValueError, match="elevation"):
        core.sky.clear_sky(120.0)
    with pytest.raises(ValueError, match="Haze"):
        core.sky.clear_sky(20.0, haze=0.5)
    with pytest.raises(ValueError, match="1 to 15"):
        core.sky.cie_sky(16, 20.0)


@pytest.mark.parametrize("kind", sorted(COEFFICIENTS))
def test_cie_skies_keep_their_shape_and_amount(kind: int) -> None:
    """Luminance towards the zenith and 20° follows the standard's formula; lux is as asked."""
    sky = core.sky.cie_sky(kind, 35.0, 120.0, horizontal_illuminance_lx=12_000)
    assert sky.horizontal_illuminance() == pytest.approx(12_000, rel=1e-6)
    d = np.array([core.sun.direction(200.0, 20.0), [0.0, 0.0, 1.0]])
    sun = core.sun.direction(120.0, 35.0)
    chi = np.arccos(d @ sun)
    expected = relative_luminance(kind, np.array([math.radians(70), 0.0]), chi)
    found = sky.luminance(d)
    assert found[0] / found[1] == pytest.approx(expected[0] / expected[1], rel=0.03)


def test_overcast_zenith_is_three_times_the_horizon() -> None:
    """Moon & Spencer's overcast sky, type 1: zenith to horizon about 3 : 1."""
    sky = core.sky.cie_sky(1, 30.0)
    high, low = sky.luminance([[0, 0, 1], [1, 0, 1e-3]])
    assert high / low == pytest.approx(3.0, rel=0.05)


def test_sun_position_against_known_events() -> None:
    """Equinox noon stands at the colatitude; June noon 23.4° above it; east in the morning."""
    noon = datetime(2026, 3, 20, 12, 44, tzinfo=UTC)
    p = core.sun.sun_position(noon, 43.6, -9.1)
    assert p.elevation_deg == pytest.approx(90 - 43.6, abs=0.15)
    assert p.azimuth_deg == pytest.approx(180.0, abs=1.0)
    june = core.sun.sun_position(datetime(2026, 6, 21, 12, 38, tzinfo=UTC), 43.6, -9.1)
    assert june.elevation_deg == pytest.approx(90 - 43.6 + 23.44, abs=0.05)
    dawn = core.sun.sun_position(datetime(2026, 6, 21, 6, 0, tzinfo=UTC), 43.6, -9.1)
    assert 50 < dawn.azimuth_deg < 90


def test_a_time_without_zone_is_refused() -> None:
    """A naive time could be any hour."""
    with pytest.raises(ValueError, match="time zone"):
        core.sun.sun_position(datetime(2026, 6, 21, 12), 43.6, -9.1)


def test_day_of_the_sun() -> None:
    """Sunrise and sunset at the horizon; none in the polar night."""
    zone = timezone(timedelta(hours=1))
    when = datetime(2026, 10, 11, 12, tzinfo=zone)
    day = core.sun.sun_day(when, 43.6, -9.1)
    assert day.sunrise is not None
    assert day.sunset is not None
    for moment in (day.sunrise, day.sunset):
        p = core.sun.sun_position(moment, 43.6, -9.1)
        assert p.elevation_deg == pytest.approx(-0.833, abs=0.02)
    assert core.sun.sun_day(datetime(2026, 12, 21, 12, tzinfo=zone), 80.0, 10.0).sunrise is None


def test_directions_go_there_and_back() -> None:
    """Azimuth and elevation survive the way through a vector."""
    for azimuth, elevation in ((0.0, 10.0), (93.0, -5.0), (271.0, 80.0)):
        found = core.sun.azimuth_elevation(core.sun.direction(azimuth, elevation))
        assert found == pytest.approx((azimuth, elevation))


def test_when_the_sun_stands_somewhere() -> None:
    """A place the sun was at is found again, to its own width; one it never reaches is not."""
    from datetime import datetime

    when = datetime(2026, 4, 20, 16, 40, tzinfo=UTC)
    p = core.sun.sun_position(when, 43.6, -9.1)
    found = core.sun.when_the_sun_stands(p.azimuth_deg, p.apparent_elevation_deg, 43.6, -9.1, 2026)
    assert found[0].apart_deg < 0.2
    spring = next(m for m in found if m.when.month < 7)
    assert abs((spring.when - when).total_seconds()) < 36 * 3600
    assert {m.when.month for m in found} <= {4, 8}
    north = core.sun.when_the_sun_stands(0.0, 60.0, 43.6, -9.1, 2026)
    assert north[0].apart_deg > 40


def test_the_portrait_of_a_sky_shows_the_sun_where_the_chart_does() -> None:
    """North up, east right: a clear sky is brightest on the sun's side; an even one is flat."""
    seen = portrait(core.sky.cie_sky(12, 20.0, 90.0), 64)
    assert seen.shape == (64, 64, 4)
    assert seen[0, 0, 3] == 0
    assert seen[32, 32, 3] == 255
    grey = seen[..., :3].astype(float).mean(axis=2)
    east, west = grey[24:40, 50:60].mean(), grey[24:40, 4:14].mean()
    assert east > west + 20
    even = portrait(core.sky.cie_sky(5, 20.0, 90.0), 64)
    inner = even[even[..., 3] == 255][:, 1].astype(float)
    assert inner.std() < 2
    night = portrait(core.sky.clear_sky(-40.0), 32)
    assert np.isfinite(night.astype(float)).all()


def test_parts_of_a_day_follow_one_another() -> None:
    """Evening of an equinox at 43.6° N: each begins where the one before ends, at the sun's height."""
    when = datetime(2026, 3, 20, 12, tzinfo=UTC)
    parts = {p.name: p for p in core.sun.day_parts(when, 43.6, 0.0)}
    golden, blue, nautical, stars = (
        parts[n].evening for n in
        ("Golden hour", "Blue hour", "Nautical twilight", "Astronomical twilight")
    )  # fmt: skip
    assert golden is not None
    assert blue is not None
    assert nautical is not None
    assert stars is not None
    assert golden[1] == blue[0]
    assert abs((blue[1] - nautical[0]).total_seconds()) < 1
    assert nautical[1] == stars[0]
    for moment, height in ((golden[0], 6.0), (blue[1], -6.0), (stars[1], -18.0)):
        found = core.sun.sun_position(moment, 43.6, 0.0).elevation_deg
        assert found == pytest.approx(height, abs=0.02)
    morning = parts["Golden hour"].morning
    assert morning is not None
    assert morning[0] < morning[1] < golden[0]


def test_a_white_night_has_no_astronomical_twilight() -> None:
    parts = {
        p.name: p for p in core.sun.day_parts(datetime(2026, 6, 21, 12, tzinfo=UTC), 60.0, 0.0)
    }
    assert parts["Astronomical twilight"].evening is None
    assert parts["Golden hour"].evening is not None
    assert all(
        p.morning is None
        for p in core.sun.day_parts(datetime(2026, 6, 21, 12, tzinfo=UTC), 89.9, 0.0)
    )
