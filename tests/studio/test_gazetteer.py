"""Places by name and their time zones."""

from __future__ import annotations

from zoneinfo import ZoneInfo

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from westlight.studio.gazetteer import MOST, folded, search, zone_at


def test_a_town_is_found_by_the_beginning_of_its_name() -> None:
    """The largest first; accents need not be typed, and other spellings count."""
    (first, *_) = search("reykja")
    assert first["name"] == "Reykjavík"
    assert first["latitude_deg"] == pytest.approx(64.1, abs=0.2)
    assert first["time_zone"] == "Atlantic/Reykjavik"
    assert search("Lisbon")[0]["country"] == "Portugal"
    assert {"Lisbon", "Lisboa"} & {search("lisboa")[0]["name"]}


def test_nothing_is_found_for_nothing() -> None:
    assert search("") == []
    assert search("q") == []
    assert search("zzzzqqq") == []
    assert len(search("san")) == MOST


@pytest.mark.parametrize(
    ("latitude", "longitude", "zone"),
    [
        (48.1, 11.6, "Europe/Berlin"),
        (40.7, -74.0, "America/New_York"),
        (-33.9, 151.2, "Australia/Sydney"),
    ],
)
def test_the_zone_of_a_place(latitude: float, longitude: float, zone: str) -> None:
    assert zone_at(latitude, longitude) == zone


@settings(max_examples=60, deadline=None)
@given(st.floats(-90, 90), st.floats(-180, 180))
def test_every_place_on_earth_has_a_zone(latitude: float, longitude: float) -> None:
    """Poles, date line and sea included; each is one the clock knows."""
    assert ZoneInfo(zone_at(latitude, longitude))


@given(st.text(max_size=20))
def test_folding_twice_changes_nothing(text: str) -> None:
    assert folded(folded(text)) == folded(text)
