"""Shelves and sheets: sky pictures, film tables, hours of a day."""

from __future__ import annotations

import io
from datetime import date
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from westlight.core.errors import PictureFileError
from westlight.core.files import write_exr
from westlight.core.finish import CubeError
from westlight.core.sky import Hdri
from westlight.core.sky.hdri import row_solid_angles
from westlight.core.sources import HdriSource
from westlight.engine.translate import sky_picture
from westlight.store import Store
from westlight.studio.daylight import hours_of, kept_of, months_of, times_of
from westlight.studio.errors import BadEdit, NotFound
from westlight.studio.settings import LookState
from westlight.studio.sheets import Sheet, Sheets
from westlight.studio.studio import Studio

from ..core.test_finish import identity_cube

PLACE = (43.6, -9.1, "Etc/GMT-1")


@pytest.fixture
def studio(store: Store, tmp_path: Path) -> Studio:
    """A studio with a folder of its own."""
    return Studio(store, tmp_path)


def sky_file(folder: Path, sun_lux: float = 50_000.0) -> Path:
    """An even grey sky of 10 000 lx with a small sun at azimuth 90°, elevation 45°."""
    height, width = 128, 256
    pixels = np.full((height, width, 3), 10_000 / np.pi, np.float32)
    pixels[height // 2 :] = 100.0
    row, column = height // 4, width // 2 + width // 4
    omega = row_solid_angles(height, width)[row]
    pixels[row, column] += sun_lux / omega
    file = folder / "East sun.exr"
    write_exr(file, pixels, {}, half=False)
    return file


def test_a_sky_is_described_and_kept(studio: Studio, tmp_path: Path) -> None:
    card = studio.shelves.skies.add(sky_file(tmp_path), "East sun.exr")
    assert card["sun"]["azimuth_deg"] == pytest.approx(90, abs=1.5)
    assert card["sun"]["elevation_deg"] == pytest.approx(45, abs=1.5)
    assert card["sun"]["lux"] == pytest.approx(60_000 - 10_000, rel=0.02)
    assert card["lux"] == pytest.approx(10_000 + 50_000 * np.sin(np.pi / 4), rel=0.03)
    assert card in studio.shelves.skies.cards()
    with Image.open(studio.shelves.skies.thumbnail(card["asset"])) as thumb:
        assert thumb.size == (256, 128)
    again = studio.shelves.skies.add(sky_file(tmp_path), "East sun.exr")
    assert again["asset"] == card["asset"]
    with pytest.raises(NotFound):
        studio.shelves.skies.thumbnail("../../etc/passwd")


def test_what_is_no_sky_is_refused(studio: Studio, tmp_path: Path) -> None:
    words = tmp_path / "notes.exr"
    words.write_text("not a picture")
    with pytest.raises(PictureFileError, match="save it again"):
        studio.shelves.skies.add(words, "notes.exr")
    cut = tmp_path / "cut.exr"
    noisy = np.random.default_rng(0).random((64, 128, 3)).astype(np.float32)
    write_exr(tmp_path / "noisy.exr", noisy, {})
    cut.write_bytes((tmp_path / "noisy.exr").read_bytes()[:20_000])
    with pytest.raises(PictureFileError, match="cut short"):
        studio.shelves.skies.add(cut, "cut.exr")


def test_film_tables_are_kept_by_content(studio: Studio) -> None:
    made = studio.shelves.tables.put(identity_cube().encode(), "Nothing.cube")
    assert studio.shelves.tables.put(identity_cube().encode(), "Nothing.cube") == made
    assert made in studio.shelves.tables.cards()
    with pytest.raises(CubeError):
        studio.shelves.tables.put(b"\xff\xfe binary", "bad.cube")
    with pytest.raises(CubeError, match="too large"):
        studio.shelves.tables.put(b"0" * 80_000_001, "huge.cube")


@pytest.mark.parametrize("calibrated", [None, 20_000.0])
def test_a_swapped_sun_brings_its_light(
    studio: Studio, tmp_path: Path, calibrated: float | None
) -> None:
    """On open ground it is as bright as before, and back again; the picture is turned and mirrored."""
    card = studio.shelves.skies.add(sky_file(tmp_path), "East sun.exr")
    pid = studio.projects.create("Sky")
    look = studio.projects.overview(pid)["looks"][0]["id"]
    hdri = {"asset": card["asset"], "rotation_deg": 30.0, "mirror": True, "lux": calibrated}
    studio.history.change(pid, "look", look, {"settings": {"sky": {"model": "hdri", "hdri": hdri}}})

    def ground() -> tuple[float, float]:
        """Lux of sun and sky on open ground."""
        row = studio.projects.overview(pid)["looks"][0]["settings"]
        sun, p = row["sun"], row["sky"]["hdri"]
        sky = sky_picture(card["asset"], p["without_sun"])
        source = HdriSource("s", sky, mirror=p["mirror"], horizontal_illuminance_lx=p["lux"])
        from_sun = (sun["lux"] or 0.0) * np.sin(np.radians(sun["elevation_deg"]))
        return from_sun, Hdri(source.pixels()).horizontal_illuminance()

    _, before = ground()
    studio.looks.picture_sun(pid, look, "swap")
    sun, sky = ground()
    facts = studio.scenes.facts(pid, look)
    assert facts["sun_lx"] == pytest.approx(sun, rel=0.01)
    assert facts["sky_lx"] == pytest.approx(sky, rel=0.02)
    assert sun + sky == pytest.approx(before, rel=0.01)
    assert sun > 0.7 * before
    placed = studio.projects.overview(pid)["looks"][0]["settings"]["sun"]
    # Mirrored, 90° is 270°; turned on by 30° it is 300°.
    assert placed["azimuth_deg"] == pytest.approx(300, abs=1.5)
    studio.looks.picture_sun(pid, look, "swap")
    assert ground()[1] == pytest.approx(before, rel=0.01)
    assert studio.projects.overview(pid)["looks"][0]["settings"]["sun"]["lux"] is None


def test_picture_and_sun_are_brought_into_line_either_way(studio: Studio, tmp_path: Path) -> None:
    card = studio.shelves.skies.add(sky_file(tmp_path), "East sun.exr")
    pid = studio.projects.create("Sky")
    look = studio.projects.overview(pid)["looks"][0]["id"]
    with pytest.raises(BadEdit, match="shelf"):
        studio.looks.picture_sun(pid, look, "swap")
    sky = {"model": "hdri", "hdri": {"asset": card["asset"]}}
    sun = {"mode": "free", "azimuth_deg": 200.0, "elevation_deg": 30.0}
    studio.history.change(pid, "look", look, {"settings": {"sky": sky, "sun": sun}})
    studio.looks.picture_sun(pid, look, "turn picture")
    settings = studio.projects.overview(pid)["looks"][0]["settings"]
    assert settings["sky"]["hdri"]["rotation_deg"] == pytest.approx(110, abs=1.5)
    studio.history.change(
        pid, "look", look, {"settings": {"sky": {"hdri": {"rotation_deg": -20.0}}}}
    )
    studio.looks.picture_sun(pid, look, "move sun")
    moved = studio.projects.overview(pid)["looks"][0]["settings"]["sun"]
    assert (moved["azimuth_deg"], moved["elevation_deg"]) == pytest.approx((70, 45), abs=1.5)


def test_kept_suns_become_pictures_of_a_sheet(studio: Studio) -> None:
    day = {"day": "2026-06-21", "minutes": 495.0, "azimuth_deg": 80.0, "elevation_deg": 20.0}
    kept = LookState.model_validate(
        {"kept_suns": [{**day, "mode": "time"}, {**day, "mode": "free"}]}
    )
    (first, by_time), (second, free) = kept_of(kept, *PLACE)
    assert first == "21 June, 08:15"
    assert by_time == {"day": "2026-06-21", "minutes": 495.0, "sun": {"mode": "time"}}
    assert "azimuth 80°" in second
    assert free["sun"] == {"mode": "free", "azimuth_deg": 80.0, "elevation_deg": 20.0}
    pid = studio.projects.create("Bare")
    row = studio.projects.overview(pid)
    with pytest.raises(BadEdit, match="No sun is kept"):
        studio.handover.make_sheet(pid, row["looks"][0]["id"], row["views"][0]["id"], "kept")


def test_the_skies_of_a_look_come_as_one_picture(studio: Studio) -> None:
    """Seventeen domes side by side; those that follow the sun change with its hour, the even one not."""
    pid = studio.projects.create("Sky")
    look = studio.projects.overview(pid)["looks"][0]["id"]

    def row() -> np.ndarray:
        with Image.open(io.BytesIO(studio.scenes.sky_pictures(pid, look))) as picture:
            return np.asarray(picture, float)

    before = row()
    assert before.shape == (48, 17 * 48, 4)
    studio.history.change(pid, "look", look, {"settings": {"minutes": 600.0}})
    after = row()
    moved = np.abs(after - before).reshape(48, 17, 48, 4).mean(axis=(0, 2, 3))
    assert moved[0] > 1
    assert moved[1 + 12] > 1
    assert moved[1 + 5] == 0


def test_whites_of_the_house(studio: Studio) -> None:
    """Kept by name, the same name replaced, taken off again; a nameless one is refused."""
    studio.shelves.whites.keep("Gallery 3500", 3500, None)
    studio.shelves.whites.keep("amber", 3000, "#ffaa00")
    studio.shelves.whites.keep("Gallery 3500 ", 3450, None)
    amber, gallery = studio.shelves.whites.cards()
    assert amber["settings"] == {"kelvin": 3000, "colour": "#ffaa00"}
    assert (gallery["name"], gallery["settings"]["kelvin"]) == ("Gallery 3500", 3450)
    with pytest.raises(BadEdit, match="name"):
        studio.shelves.whites.keep("  ", 3000, None)
    for white in (amber, gallery):
        studio.shelves.whites.remove(white["id"])
    assert studio.shelves.whites.cards() == []
    with pytest.raises(NotFound, match="white"):
        studio.shelves.whites.remove(amber["id"])


def test_hours_of_a_day_and_months_of_a_year() -> None:
    look = LookState(day=date(2026, 6, 21))
    hours = hours_of(look, *PLACE)
    minutes = [take["minutes"] for _, take in hours]
    assert len(hours) == 12
    assert minutes == sorted(minutes)
    assert minutes[0] < 7.5 * 60
    assert minutes[-1] > 21 * 60
    assert all(caption == f"{m // 60:02d}:{m % 60:02d}" for (caption, _), m in
               zip(hours, minutes, strict=True))  # fmt: skip
    assert hours_of(look, 80.0, 0.0, "UTC") == []
    months = months_of(look, *PLACE)
    assert [c for c, _ in months][:2] == ["21 January", "21 February"]


def test_a_sheet_is_put_on_one_page(tmp_path: Path) -> None:
    """What is ready is on the page, in PNG and PDF; an empty sheet and a lost one say so."""
    sheets = Sheets(tmp_path)
    folder = tmp_path / "x"
    folder.mkdir()
    for n, grey in ((0, 40), (2, 200)):
        Image.new("L", (320, 180), grey).save(folder / f"{n:03d}.jpg")
    made = Sheet("x", "p", "A day", folder, ["08:00", "09:00", "10:00"], [{}] * 3)
    made.rounds = [3, 0, 1]
    sheets._sheets["x"] = made
    with Image.open(io.BytesIO(sheets.as_file("x"))) as page:
        assert page.size[0] > 2 * 320
        shown = np.asarray(page.convert("L"))
    assert (np.abs(shown.astype(int) - 40) < 3).sum() > 40_000
    assert (np.abs(shown.astype(int) - 200) < 3).sum() > 40_000
    assert sheets.as_file("x", "PDF").startswith(b"%PDF")
    with pytest.raises(NotFound, match="not ready"):
        sheets.picture("x", 1)
    made.rounds = [0] * 3
    with pytest.raises(NotFound, match="No picture"):
        sheets.as_file("x")


def test_seasons_of_an_aim() -> None:
    """Noon sun of 46° at this place is the equinox: two seasons of a few days, around noon."""
    aimed = {"open": [[180.0, 46.4]], "blocked": [], "spacing_deg": 1.0, "opening": ""}
    found = times_of(aimed, LookState(), *PLACE)
    assert found["nearest"] is None
    assert 1 <= len(found["seasons"]) <= 4
    for s in found["seasons"]:
        assert date.fromisoformat(s["day"]).month in (3, 9)
        assert s["begins"] <= s["minutes"] <= s["ends"]
        assert abs(s["minutes"] - 13.6 * 60) < 45
    never = {**aimed, "open": [[0.0, 60.0]]}
    missed = times_of(never, LookState(), *PLACE)
    assert missed["seasons"] == []
    assert missed["nearest"]["apart_deg"] > 20


def test_finishes_are_kept_by_name_without_what_belongs_to_the_building(
    store: Store, tmp_path: Path
) -> None:
    """One of a name, tone and tint with it, no backdrop or single parts; taken off again."""
    studio = Studio(store, tmp_path)
    pid = studio.projects.create("Finishes")
    look = studio.projects.overview(pid)["looks"][0]["id"]
    part = {"of": "part", "what": "Net loft", "stops": -1.0}
    studio.history.change(pid, "look", look, {"settings": {
        "finish": {"grade": {"contrast": 1.3}, "parts": [part]}, "exposure": {"tone": "film"}}})  # fmt: skip
    studio.looks.keep_finish(look, " Warm print ")
    studio.history.change(pid, "look", look, {"settings": {"finish": {"grade": {"contrast": 1.1}}}})
    studio.looks.keep_finish(look, "Warm print")
    (kept,) = [k for k in studio.shelves.finishes.cards() if k["name"] == "Warm print"]
    assert kept["settings"]["finish"]["grade"]["contrast"] == 1.1
    assert kept["settings"]["exposure"] == {"tone": "film", "tint": 0.0}
    assert not {"parts", "backdrop"} & set(kept["settings"]["finish"])
    other = studio.projects.create("Elsewhere")
    theirs = studio.projects.overview(other)["looks"][0]["id"]
    studio.history.change(other, "look", theirs, {"settings": kept["settings"]})
    taken = studio.projects.overview(other)["looks"][0]["settings"]
    assert taken["finish"]["grade"]["contrast"] == 1.1
    assert taken["exposure"]["tone"] == "film"
    with pytest.raises(BadEdit, match="name"):
        studio.looks.keep_finish(look, "  ")
    studio.shelves.finishes.remove(kept["id"])
    assert "Warm print" not in [k["name"] for k in studio.shelves.finishes.cards()]
    with pytest.raises(NotFound):
        studio.shelves.finishes.remove(kept["id"])
