"""The first picture of a new building: from inside a room, at an hour when the sun comes in by its window."""

from __future__ import annotations

from datetime import date
from pathlib import Path

import pytest

from westlight.core.model import Material, Model
from westlight.core.model.write import write_glb
from westlight.studio.daylight import sun_of
from westlight.studio.importing import first_standing, sunny_minutes
from westlight.studio.settings import LookState
from westlight.studio.studio import Studio

from ..core.test_standpoint import SIZE, block, room

PLACE = {"latitude_deg": 43.6, "longitude_deg": -9.1, "time_zone": "UTC"}


def test_a_new_building_is_seen_from_inside_with_its_sun(studio: Studio, tmp_path: Path) -> None:
    # Its window looks to the model's y axis, which lies south-west.
    pid = studio.projects.create("House", **PLACE, north_deg=225.0)
    write_glb(Model(room()), tmp_path / "house.glb")
    studio.buildings.bring(pid, tmp_path / "house.glb", "house.glb")
    made = studio.projects.overview(pid)
    assert [v["name"] for v in made["views"]] == ["Inside", "Outside"]
    eye = made["views"][0]["settings"]["position"]
    assert all(0.3 < a < b for a, b in zip(eye, SIZE, strict=True))
    look = LookState.model_validate(made["looks"][0]["settings"])
    azimuth, elevation = sun_of(look, 43.6, -9.1, "UTC")
    assert abs(azimuth - 225) < 60
    assert elevation > 5
    # A room is exposed over the meter, which its windows mislead.
    assert look.exposure.automatic == "whole"
    assert look.exposure.compensation == 1.0
    # One step by the name of its file, which is taken back as one.
    assert made["undo"] == "Import house.glb"
    studio.history.undo(pid)
    back = studio.projects.overview(pid)
    assert len(back["views"]) == 1
    assert LookState.model_validate(back["looks"][0]["settings"]).minutes == LookState().minutes


def test_a_look_that_was_set_keeps_its_hour(studio: Studio, tmp_path: Path) -> None:
    pid = studio.projects.create("House", **PLACE, north_deg=225.0)
    look = studio.projects.overview(pid)["looks"][0]["id"]
    studio.history.change(pid, "look", look, {"settings": {"minutes": 600.0}})
    write_glb(Model(room()), tmp_path / "house.glb")
    studio.buildings.bring(pid, tmp_path / "house.glb", "house.glb")
    assert studio.projects.overview(pid)["looks"][0]["settings"]["minutes"] == 600.0


def test_an_exposure_that_was_set_stays(studio: Studio, tmp_path: Path) -> None:
    pid = studio.projects.create("House", **PLACE, north_deg=225.0)
    look = studio.projects.overview(pid)["looks"][0]["id"]
    studio.history.change(pid, "look", look, {"settings": {"exposure": {"automatic": "off"}}})
    before = studio.projects.overview(pid)["looks"][0]["settings"]["exposure"]
    write_glb(Model(room()), tmp_path / "house.glb")
    studio.buildings.bring(pid, tmp_path / "house.glb", "house.glb")
    assert studio.projects.overview(pid)["looks"][0]["settings"]["exposure"] == before


def test_what_has_no_room_is_seen_from_outside(studio: Studio, tmp_path: Path) -> None:
    pid = studio.projects.create("Thing", **PLACE)
    write_glb(Model([block("ground", (0, 0, -0.1), (5, 5, 0), Material(0.5))]), tmp_path / "g.glb")
    studio.buildings.bring(pid, tmp_path / "g.glb", "g.glb")
    assert [v["name"] for v in studio.projects.overview(pid)["views"]] == ["View 1"]


@pytest.mark.parametrize(("azimuth", "low", "high"), [(120.0, 480, 660), (240.0, 900, 1050)])
def test_the_hour_follows_the_side_the_sun_comes_from(azimuth: float, low: int, high: int) -> None:
    look = LookState(day=date(2026, 10, 11))
    where = (43.6, -9.1, "UTC"), 0.0
    minutes, area = sunny_minutes([(azimuth, 24.0, 2.0)], look, *where)
    assert minutes is not None
    assert low < minutes < high
    assert 0 < area < 2.0
    assert sunny_minutes([(0.0, 54.0, 2.0)], look, *where) == (None, 0.0)
    assert sunny_minutes([], look, *where) == (None, 0.0)


def test_one_stands_where_the_sun_of_the_place_is_seen() -> None:
    """Of two places as good the one with the sun of that day; much better without any sun is better."""
    look, where = LookState(day=date(2026, 10, 11)), ((43.6, -9.1, "UTC"), 0.0)
    from_north = {"worth": 4.1, "suns": [(0.0, 54.0, 3.0)]}
    from_south = {"worth": 4.0, "suns": [(180.0, 42.0, 3.0)]}
    assert first_standing([from_north, from_south], look, *where)[0] is from_south
    # Turned round, north is where the sun is.
    assert first_standing([from_south, from_north], look, where[0], 180.0)[0] is from_north
    best = {"worth": 5.5, "suns": []}
    assert first_standing([best, from_south], look, *where) == (best, None)
    assert first_standing([], look, *where) == (None, None)
