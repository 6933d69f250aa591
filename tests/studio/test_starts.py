"""Lights to begin with: six looks whose suns the site really has, and that take nothing of the present look's mix."""

from __future__ import annotations

from datetime import date

import numpy as np
import pytest

from westlight import core
from westlight.core.analysis import pattern_map, starting_suns, sun_grid
from westlight.studio.daylight import minutes_at, sun_of
from westlight.studio.settings import LookState, Mix
from westlight.studio.starts import COUNT, DUSK_DEG, NIGHT_DEG, starts_of
from westlight.studio.studio import Studio

from ..core.test_pattern import room

HERE = (43.6, -9.1, "Etc/GMT-1")
FOUND = pattern_map(room(), core.View((0, 3.8, 1.6), (0, 0.2, 1.2), 18, 96, 54), sun_grid(6.0))
PRESENT = LookState(
    day=date(2026, 10, 11),
    mix={
        "lamp": Mix(level=3.0, muted=True),
        "sun": Mix(level=-2.0),
        "group: Hall": Mix(muted=True),
    },
)


@pytest.mark.parametrize("lamps", [["lamp", "other"], []])
@pytest.mark.parametrize("found", [FOUND, None])
@pytest.mark.parametrize("place", [HERE, (-33.0, 151.0, "Australia/Sydney"), (78.0, 15.0, "UTC")])
def test_there_are_six_whatever_comes_in(
    lamps: list[str], found: object, place: tuple[float, float, str]
) -> None:
    made = starts_of(PRESENT, found, place, lamps)  # type: ignore[arg-type]
    assert len(made) == COUNT
    assert len({s.name for s in made}) == COUNT
    assert len({s.caption for s in made}) == COUNT
    for s in made:
        assert s.look.exposure.automatic == "whole"
        # Nothing of the levels, mutes and solos of the present look shines through.
        assert all(m.level == 0 and not m.solo for m in s.look.mix.values())
        assert set(s.look.mix) >= set(PRESENT.mix) | set(lamps)
        assert not s.look.mix["group: Hall"].muted


def test_suns_stand_where_the_map_found_them() -> None:
    """The hour that is proposed puts the real sun within a few degrees of the position that was scored."""
    positions = np.stack([FOUND.azimuth_deg, FOUND.elevation_deg], axis=1)
    chosen = starting_suns(FOUND, core.sun.sun_reaches(positions, HERE[0]))
    suns = [s for s in starts_of(PRESENT, FOUND, HERE, ["lamp"]) if "un" in s.name]
    assert len(suns) >= len(chosen) >= 2
    for start, i in zip(suns, chosen.values(), strict=False):
        azimuth, elevation = sun_of(start.look, *HERE)
        apart = core.sun.direction(azimuth, elevation) @ core.sun.direction(*positions[i])
        assert np.degrees(np.arccos(min(float(apart), 1.0))) < 4.5
        assert start.look.mix["lamp"].muted
        assert not start.look.mix["sun"].muted


def test_dusk_and_night_are_those_of_the_day() -> None:
    made = {s.name: s for s in starts_of(PRESENT, FOUND, HERE, ["lamp"])}
    for name, height in (("Dusk", DUSK_DEG), ("Night", NIGHT_DEG)):
        look = made[name].look
        assert look.day == PRESENT.day
        assert sun_of(look, *HERE)[1] == pytest.approx(height, abs=0.3)
        assert look.minutes > 17 * 60
        assert not look.mix["lamp"].muted
        assert f"{int(look.minutes) // 60:02}:" in made[name].caption
    assert made["Night"].look.minutes > made["Dusk"].look.minutes


def test_where_the_sun_never_sets_dusk_has_a_free_sun() -> None:
    summer = PRESENT.model_copy(update={"day": date(2026, 6, 21)})
    assert minutes_at(summer.day, DUSK_DEG, 78.0, 15.0, "UTC", evening=True) is None
    dusk = next(s for s in starts_of(summer, None, (78.0, 15.0, "UTC"), []) if s.name == "Dusk")
    assert dusk.look.sun.mode == "free"
    assert dusk.look.sun.elevation_deg == DUSK_DEG


def test_what_belongs_to_the_building_is_kept() -> None:
    closed = PRESENT.model_copy(deep=True)
    closed.sky.closed, closed.sky.portals, closed.sky.ground = True, False, 0.45
    for s in starts_of(closed, FOUND, HERE, []):
        assert (s.look.sky.closed, s.look.sky.portals, s.look.sky.ground) == (True, False, 0.45)


def test_a_look_that_follows_the_meter_tells_how_bright_the_view_is_wanted() -> None:
    """What a room needs over its windows goes on to the proposals; an exposure set by hand does not."""
    room_like = PRESENT.model_copy(deep=True)
    room_like.exposure.automatic, room_like.exposure.compensation = "whole", 1.0
    by_hand = PRESENT.model_copy(deep=True)
    by_hand.exposure.compensation = 1.0
    plain, more, same = (starts_of(x, FOUND, HERE, []) for x in (PRESENT, room_like, by_hand))
    for a, b, c in zip(plain, more, same, strict=True):
        assert b.look.exposure.compensation == pytest.approx(a.look.exposure.compensation + 0.7)
        assert c.look.exposure == a.look.exposure


def test_names_of_looks_there_are_get_a_number(studio: Studio) -> None:
    pid = studio.projects.create("Begun")
    rows = studio.projects.overview(pid)
    studio.history.add(pid, "look", "Overcast", {})
    look, view = rows["looks"][0]["id"], rows["views"][0]["id"]
    _, shots = studio.handover._shots(pid, look, view, "start", None)
    assert "Overcast 2" in [take["name"] for _, take in shots]
    made = studio.history.add(pid, "look", shots[0][1]["name"], shots[0][1]["settings"])
    row = next(r for r in studio.projects.overview(pid)["looks"] if r["id"] == made)
    assert row["settings"] == shots[0][1]["settings"]
