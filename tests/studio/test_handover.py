"""Handing over: names of files, refining a still, papers, lights in and out, storage."""

from __future__ import annotations

import csv
import io
import os
import re
import time
import zipfile
from datetime import date
from html import unescape
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from PIL import Image
from rich.console import Console

from westlight.cli.rendering import free_name, recipe_in, still
from westlight.core.errors import WestlightError
from westlight.core.files import read_layers
from westlight.engine.still import StillOrder
from westlight.store import Still, Store
from westlight.studio import documents, storage
from westlight.studio.errors import BadEdit, NotFound
from westlight.studio.stills import file_name
from westlight.studio.studio import Studio

from .test_proofs import picture
from .test_stills import done, order, project, row, studio

__all__ = ["project", "studio"]


def pages(pdf: bytes) -> int:
    """Pages of a PDF."""
    return len(re.findall(rb"/Type /Page\b", pdf))


def test_names_follow_the_template(studio: Studio, project: str) -> None:
    """Words in braces are filled in, versions count up, unknown words are refused."""
    assert file_name("{project}/{view} {width}px", project="A b", view="c/d", width="32") == (
        "a-b-c-d-32px"
    )
    with pytest.raises(BadEdit, match="may use"):
        file_name("{author}")
    with pytest.raises(BadEdit, match="may use"):
        file_name("{view", view="a")
    with pytest.raises(BadEdit, match="letter"):
        file_name("{look}", look="")
    stills = [order(studio, project, names="{look}_{width}_v{version}") for _ in range(2)]
    studio.handover.queue.start()
    try:
        rows = done(studio, project, *stills)
    finally:
        studio.handover.queue.close()
    found = sorted(f["name"] for r in rows for f in r["files"] if f["kind"] == "png")
    assert found == ["day_32_v1.png", "day_32_v2.png"]
    packed = studio.handover.stills_zip(project)
    with zipfile.ZipFile(packed) as opened:
        assert sorted(opened.namelist()) == found
    packed.unlink()
    with pytest.raises(BadEdit, match="No still"):
        studio.handover.stills_zip(project, ["another"])


def test_a_region_is_refined_and_the_rest_left_alone(studio: Studio, project: str) -> None:
    """More passes change only the region, towards the light of a longer render; sums still hold."""
    look = studio.projects.overview(project)["looks"][0]["id"]
    studio.history.change(
        project, "look", look, {"settings": {"sky": {"model": "cie", "cie_type": 1}}}
    )
    first = order(studio, project, width_px=64, files=["exr", "png"], half=False)
    studio.handover.queue.start()
    try:
        before = done(studio, project, first)[0]
        assert before["sums_differ"] is not None
        assert before["sums_differ"] < 1e-5
        again = studio.handover.render_again(project, first, (0.25, 0.0, 0.75, 0.5), [], 1e-6, 2.0)
        after = done(studio, project, again)[0]
        only = studio.handover.render_again(project, first, None, ["sky"], 1e-6, 1.0)
        one = done(studio, project, only)[0]
    finally:
        studio.handover.queue.close()
    assert after["status"] == one["status"] == "done", (after["problem"], one["problem"])
    old, new = (_layers(studio, r) for r in (before, after))
    width = old[""].shape[1]
    inside = np.zeros(old[""].shape[:2], bool)
    inside[: -(-old[""].shape[0] // 2 // 8) * 8, width // 4 : width * 3 // 4] = True
    # What was kept is in half floats.
    np.testing.assert_allclose(new[""][~inside], old[""][~inside], rtol=2e-3, atol=1e-2)
    changed = np.abs(new[""] - old[""])
    assert changed[inside].mean() > 5 * changed[~inside].mean()
    assert changed[inside].mean() > 0.0005 * np.median(old[""])
    assert after["sums_differ"] < 1e-3
    with pytest.raises(BadEdit, match="no light"):
        studio.handover.render_again(project, first, None, ["lamp"], 0.1, 1.0)
    with pytest.raises(WestlightError, match="too small"):
        studio.handover.render_again(project, first, (0.5, 0.5, 0.505, 0.9), [], 0.1, 1.0)


def _layers(studio: Studio, still: dict[str, Any]) -> dict[str, np.ndarray]:
    file = next(f for f in still["files"] if f["kind"] == "exr")
    return read_layers(studio.shelves.any_file(file["asset"])[0])


def test_a_recipe_renders_the_still_again(studio: Studio, project: str, tmp_path: Path) -> None:
    """The JSON of a finished still gives the same light from the command line, and no file is overwritten."""
    first = order(studio, project, files=["exr"], half=False, samples=6, seconds=600)
    studio.handover.queue.start()
    try:
        before = done(studio, project, first)[0]
    finally:
        studio.handover.queue.close()
    file = tmp_path / "recipe.json"
    file.write_text(studio.handover.queue.recipe(first))
    recipe = recipe_in(file)
    assert isinstance(recipe, StillOrder)
    assert recipe.samples == 6
    out = tmp_path / "again.exr"
    made = [
        still(recipe, free_name(out), 0.1, 1.0, ["exr"], Console(quiet=True))[0] for _ in (1, 2)
    ]
    assert [Path(m).name for m in made] == ["again.exr", "again-2.exr"]
    np.testing.assert_array_equal(read_layers(Path(made[1]))[""], _layers(studio, before)[""])
    with pytest.raises(BadEdit, match="recipe"):
        studio.handover.queue.recipe("none")


def test_a_still_in_the_making_can_be_looked_at(studio: Studio, project: str) -> None:
    """Its picture so far is there once noise has been measured, and gone with the folder."""
    long = order(studio, project, width_px=640, samples=4000)
    with pytest.raises(NotFound):
        studio.handover.queue.preview(long)
    studio.handover.queue.start()
    try:
        end = time.monotonic() + 90
        while not (row(studio, project, long)["progress"] or {}).get("curve"):
            assert time.monotonic() < end
            time.sleep(0.2)
        with Image.open(studio.handover.queue.preview(long)) as shown:
            assert shown.size[0] == 320
        studio.handover.queue.cancel(long)
    finally:
        studio.handover.queue.close()
    with pytest.raises(NotFound):
        studio.handover.queue.preview(long)


def test_papers(studio: Studio, project: str) -> None:
    """Schedule, sun table and client sheet are PDFs of some pages, with or without content."""
    rows = studio.projects.overview(project)
    look = rows["looks"][0]["id"]
    assert pages(studio.handover.schedule_pdf(project, look)) == 1
    lamp = studio.fixtures.place(project, "disc", (0, 0, 2), (0, 0, -1))
    studio.fixtures.repeat(project, lamp, rows=12, columns=12, across_m=0.5, along_m=0.5)
    assert pages(studio.handover.schedule_pdf(project, look)) >= 1
    assert pages(studio.handover.sun_pdf(project, look)) == 1
    empty = studio.handover.client_pdf(project, "For the client: <b>not bold</b> & “quoted”, 20 °C")
    assert pages(empty) == 1
    still = order(studio, project, files=["png"])
    studio.handover.queue.start()
    try:
        done(studio, project, still)
    finally:
        studio.handover.queue.close()
    assert len(studio.handover.client_pdf(project)) > len(empty) / 2
    assert pages(studio.handover.client_pdf(project)) == 1
    (kept,) = studio.handover.stills(project)
    assert "sun from the" in kept["described"]
    book = studio.handover.look_book(project, "Made for <them>", [still]).decode()
    assert kept["described"] in unescape(book)
    assert "Made for &lt;them&gt;" in book
    with pytest.raises(BadEdit, match="No still"):
        studio.handover.look_book(project, "", ["another"])


def test_a_still_whose_order_is_not_understood_has_no_words(studio: Studio, project: str) -> None:
    """A still of an earlier version stays in the list, whatever its order holds."""
    still = order(studio, project, files=["png"])
    with studio.store.session() as session:
        row = session.get(Still, still)
        assert row is not None
        spec = {**row.settings["order"]["spec"], "air": "thick"}
        row.settings = {**row.settings, "order": {**row.settings["order"], "spec": spec}}
    (kept,) = studio.handover.stills(project)
    assert kept["described"] == ""


def test_sun_table_agrees_with_the_almanac() -> None:
    """Greenwich 2026: the longest day lasts 16 h 38 min, the shortest 7 h 50 min, noon heights by latitude."""
    rows = documents.sun_rows(date(2026, 3, 1), 51.48, 0.0, "Europe/London")
    june, december = rows[5], rows[11]

    def minutes(text: str) -> int:
        hours, rest = text.split(":")
        return int(hours) * 60 + int(rest)

    assert minutes(june["sunset"]) - minutes(june["sunrise"]) == pytest.approx(998, abs=3)
    assert minutes(december["sunset"]) - minutes(december["sunrise"]) == pytest.approx(470, abs=3)
    assert float(june["elevation (°)"]) == pytest.approx(90 - 51.48 + 23.44, abs=0.1)
    # In summer the clock is an hour ahead.
    assert june["highest"].startswith("13:")
    assert december["highest"].startswith(("11:", "12:"))
    polar = documents.sun_rows(date(2026, 3, 1), 78.0, 15.0, "Europe/Oslo")
    assert polar[5]["sunrise"] == "all day up"
    assert polar[11]["sunrise"] == "all day down"
    assert documents.hour_rows(date(2026, 12, 21), 78.0, 15.0, "Europe/Oslo") == []
    table = documents.sun_pdf("Saltmarsh Pottery", date(2026, 12, 21), 78.0, 15.0, "Europe/Oslo")
    assert pages(table) == 1


def test_lights_go_out_and_come_in_as_one_edit(
    studio: Studio, project: str, tmp_path: Path
) -> None:
    """Lamps and views of a zip's stage come back as fixtures and views; undo takes them out."""
    studio.fixtures.place(project, "spot", (1, 2, 2.5), (0, 0, -1))
    rows = studio.projects.overview(project)
    made = studio.handover.lights(project, rows["looks"][0]["id"], rows["views"][0]["id"])
    with zipfile.ZipFile(io.BytesIO(made)) as opened:
        assert {"lights.usda", "lights.gltf", "recipe.json"} <= set(opened.namelist())
        opened.extract("lights.usda", tmp_path)
    other = studio.projects.create("Other")
    count, remarks = studio.fixtures.bring(other, tmp_path / "lights.usda", "lights.usda")
    after = studio.projects.overview(other)
    # The sun that went out comes in as a look of its own.
    assert (count, remarks) == (1 + len(rows["views"]) + 1, [])
    assert [look["settings"]["sun"]["mode"] for look in after["looks"]] == ["time", "free"]
    lamp = after["sources"][0]["settings"]
    assert lamp["shape"] == "spot"
    own = next(s["settings"] for s in rows["sources"] if s["settings"]["kind"] == "fixture")
    assert lamp["places"][0]["position"] == pytest.approx(own["places"][0]["position"], abs=1e-5)
    assert len(after["views"]) == 1 + len(rows["views"])
    studio.history.undo(other)
    assert studio.projects.overview(other)["sources"] == []
    assert len(studio.projects.overview(other)["looks"]) == 1
    (tmp_path / "empty.usda").write_text("#usda 1.0\n")
    with pytest.raises(WestlightError, match="no lamps"):
        studio.fixtures.bring(other, tmp_path / "empty.usda", "empty.usda")
    with pytest.raises(WestlightError, match="come in from"):
        studio.fixtures.bring(other, tmp_path / "a.txt", "a.txt")


def test_schedule_has_a_row_a_fixture(studio: Studio, project: str) -> None:
    """The CSV of the sun table has twelve months."""
    look = studio.projects.overview(project)["looks"][0]["id"]
    from westlight.studio.fixtures import as_csv

    found = list(
        csv.DictReader(
            io.StringIO(as_csv(studio.handover.sun_table(project, look)).lstrip("\ufeff"))
        )
    )
    assert [r["date"][5:7] for r in found] == [f"{m:02d}" for m in range(1, 13)]
    # Units stand in the heading, cells hold bare numbers.
    assert all(0 < float(r["elevation (°)"]) < 90 for r in found)


def test_removed_proofs_come_back_until_the_space_is_freed(
    studio: Studio, project: str, store: Store
) -> None:
    """Storage counts by kind; what nothing names goes once it is not fresh, and nothing else does."""
    rows = studio.projects.overview(project)
    look, view = rows["looks"][0]["id"], rows["views"][0]["id"]
    kept = studio.proofs.keep(project, look, view, picture(3.0))
    studio.proofs.remove(project, kept[0]["id"])
    assert studio.proofs.all(project) == []
    assert [p["id"] for p in studio.proofs.put_back(project)] == [kept[0]["id"]]
    with pytest.raises(NotFound):
        studio.proofs.put_back(project)
    taken = {k["kind"]: k["bytes"] for k in studio.projects.storage()["kinds"]}
    assert taken["proofs"] > 1000
    assert taken["buildings"] > 100
    studio.proofs.remove(project, kept[0]["id"])
    assert studio.projects.sweep()["freed"] == 0
    # Another project of these tests may keep a proof that looks the same; its light is another.
    assert studio.projects.storage()["unnamed"] > 10_000
    old = time.time() - 2 * storage.YOUNG_S
    for file in studio.shelves.assets.folder.glob("??/*"):
        os.utime(file, (old, old))
    after = studio.projects.sweep()
    assert after["freed"] > 10_000
    assert after["unnamed"] == 0
    assert not list(studio.shelves.assets.folder.glob("??/*.npy"))
    building = studio.projects.overview(project)["models"][0]["settings"]
    assert studio.shelves.assets.path(building["asset"], building["suffix"]).exists()
    assert after["free"] > 0


def test_a_full_disk_is_said_and_nothing_lost(
    studio: Studio, project: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """The still fails with words; once there is space it goes on from what was gathered."""
    monkeypatch.setenv("WESTLIGHT_TEST_FILE_LIMIT", "1")
    still = order(studio, project, width_px=320, samples=4)
    limit = tmp_path / "sitecustomize.py"
    # A limit on the size of files stands in for a full disk: writes beyond it fail in the same way.
    limit.write_text(
        "import resource, signal\n"
        "signal.signal(signal.SIGXFSZ, signal.SIG_IGN)\n"
        "resource.setrlimit(resource.RLIMIT_FSIZE, (60_000, resource.RLIM_INFINITY))\n"
    )
    monkeypatch.setenv("PYTHONPATH", str(tmp_path))
    studio.handover.queue.start()
    try:
        failed = done(studio, project, still)[0]
        assert failed["status"] == "failed"
        assert "disk is full" in failed["problem"]
        limit.unlink()
        studio.handover.queue.resume(still)
        assert done(studio, project, still)[0]["status"] == "done"
    finally:
        studio.handover.queue.close()
    assert row(studio, project, still)["files"]


def test_the_light_of_a_room_on_paper(studio: Studio, project: str) -> None:
    """One page for each kind of light, whatever the room's shape, with places where no light comes and without lines."""
    look = studio.projects.overview(project)["looks"][0]["id"]
    values: list[float | None] = [float(v) for v in range(1, 25)]
    values[3] = None
    light = {"unit": "lx", "low": (0.0, 0.0), "high": (3.0, 2.0), "columns": 6, "rows": 4, "values": values,
             "average": 12.5, "least": 1.0, "most": 24.0, "uniformity": 0.08,
             "lines": [{"value": 10.0, "points": [(0.2 * n, 1.0) for n in range(12)]}]}  # fmt: skip
    lamps = studio.handover.light_plan_pdf(project, look, "lamps", 0.75, light)
    assert pages(lamps) == 1
    long = {**light, "unit": "%", "high": (60.0, 2.0), "lines": [], "values": [None] * 24}
    assert pages(studio.handover.light_plan_pdf(project, look, "daylight factor", 0.0, long)) == 1
