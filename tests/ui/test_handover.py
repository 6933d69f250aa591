"""Handing over in the browser: two stills, their files and sums, a refined region, papers, lights, storage."""

from __future__ import annotations

import re
import zipfile
from pathlib import Path

import numpy as np
import OpenImageIO as oiio
from PIL import Image
from playwright.sync_api import Locator, Page, expect

from westlight.core.files import read_layers

from .test_first_light import choose
from .test_hunting import lit


def number(page: Page, label: str, value: str) -> None:
    """Type a number into a field."""
    field = page.get_by_label(f"{label}, value")
    field.fill(value)
    field.press("Enter")


def saved(page: Page, link: Locator, folder: Path) -> Path:
    """A download of a link as a file."""
    with page.expect_download() as waiting:
        link.click()
    file = folder / waiting.value.suggested_filename
    waiting.value.save_as(file)
    return file


def test_stills_are_saved_checked_refined_and_packed(page: Page, tmp_path: Path) -> None:
    """Queued twice, the second put first or waiting; the EXR holds what was asked; a region gets more passes."""
    lit(page)
    page.keyboard.press(" ")
    page.keyboard.press("7")
    number(page, "Width", "320")
    number(page, "At most", "0.1")
    page.get_by_label("object mattes").check()
    page.get_by_label("depth", exact=True).check()
    page.get_by_role("radio", name="Light cache, quicker").click()
    names = page.get_by_label("Names of the files")
    names.fill("{author}")
    page.get_by_role("button", name="Save still").click()
    expect(page.get_by_test_id("message")).to_contain_text("Names of files may use")
    page.get_by_role("button", name="Close").click()
    names.fill("{view}-{look}-{version}")
    stills = page.get_by_test_id("still")
    before = stills.count()
    for k in (1, 2):
        page.get_by_role("button", name="Save still").click()
        expect(stills).to_have_count(before + k)
    for k in (0, 1):
        expect(stills.nth(k)).to_have_attribute("data-status", "done", timeout=600_000)
    first = stills.nth(1)
    expect(first).to_contain_text("Sources add up to the picture")

    file = saved(page, first.get_by_role("link", name=re.compile("^EXR")), tmp_path)
    assert re.fullmatch(r"wheel-room-late-sun-\d+\.exr", file.name)
    layers = read_layers(file)
    spec = oiio.ImageInput.open(str(file)).spec()
    sources = [n for n in layers if n and n != "depth" and not n.startswith("Crypto")]
    assert {"Sun", "Clear sky"} <= set(sources)
    total = sum(layers[n] for n in sources)
    assert np.abs(total - layers[""]).mean() < 2e-3 * layers[""].mean()
    assert "CryptoObject00.R" in spec.channelnames
    assert layers["depth"].max() > 3

    first.get_by_role("button", name="Refine …").click()
    drawn = first.get_by_test_id("refine-picture")
    drawn.scroll_into_view_if_needed()
    box = drawn.bounding_box()
    assert box is not None
    page.mouse.move(box["x"] + 40, box["y"] + 30)
    page.mouse.down()
    page.mouse.move(box["x"] + 140, box["y"] + 100, steps=4)
    page.mouse.up()
    expect(first.get_by_test_id("refine")).to_contain_text("Only this region")
    choose(first.get_by_label("Source to refine"), "Only Clear sky")
    number(page, "For", "0.1")
    first.get_by_role("button", name="Add passes").click()
    expect(stills).to_have_count(before + 3)
    expect(stills.nth(0)).to_contain_text("refined")
    expect(stills.nth(0)).to_have_attribute("data-status", "done", timeout=600_000)

    packed = saved(page, page.get_by_role("link", name="All files as one zip"), tmp_path)
    with zipfile.ZipFile(packed) as opened:
        found = opened.namelist()
    assert len(found) == len(set(found)) >= 6

    papers = page.get_by_role("region", name="Documents")
    papers.get_by_label("Words on client sheet and look book").fill("Which one?")
    book = saved(page, papers.get_by_role("link", name="HTML"), tmp_path)
    opened_book = page.context.new_page()
    problems: list[str] = []
    opened_book.on("console", lambda said: problems.append(said.text))
    opened_book.goto(book.as_uri())
    expect(opened_book.get_by_text("Which one?")).to_be_visible()
    expect(opened_book.locator("figure img")).to_have_count(3)
    wipe = opened_book.locator(".wipe").first
    shown = "e => [e.naturalWidth, getComputedStyle(e).clipPath]"
    wipe.get_by_role("slider").fill("0")
    wide, hidden = wipe.locator(".over").evaluate(shown)
    assert wide == 320
    wipe.get_by_role("slider").fill("100")
    assert wipe.locator(".over").evaluate(shown)[1] != hidden
    assert not problems
    opened_book.close()


def test_a_series_of_stills_is_saved_followed_and_moves(page: Page, tmp_path: Path) -> None:
    """Two hours as numbered files and one moving picture; the rest of a long series is cancelled."""
    lit(page)
    page.keyboard.press(" ")
    page.keyboard.press("7")
    number(page, "Width", "320")
    number(page, "At most", "0.1")
    page.get_by_role("radio", name="Light cache, quicker").click()
    lapse = page.get_by_role("region", name="Time-lapse")
    number(page, "Pictures", "2")
    lapse.get_by_role("button", name="Save a series of 2").click()
    series = page.get_by_test_id("series").first
    expect(series).to_contain_text("08:00 to 20:00")
    expect(series).to_contain_text("2 of 2 pictures", timeout=600_000)
    film = saved(page, series.get_by_role("link", name="WebP, moving"), tmp_path)
    with Image.open(film) as opened:
        assert opened.n_frames == 2  # type: ignore[attr-defined]
    packed = saved(page, series.get_by_role("link", name="Files as zip"), tmp_path)
    with zipfile.ZipFile(packed) as zipped:
        assert {Path(n).stem[-4:] for n in zipped.namelist()} == {"-001", "-002"}
    lapse.get_by_role("radio", name="Dimming of all lamps").click()
    number(page, "Pictures", "9")
    lapse.get_by_role("button", name="Save a series of 9").click()
    newest = page.get_by_test_id("series").first
    expect(newest).to_contain_text("of 9 pictures")
    newest.get_by_role("button", name="Cancel the rest").click()
    newest.get_by_role("button", name="Single stills").click()
    expect(newest.get_by_test_id("still").last).to_have_attribute("data-status", "cancelled")
    # The whole row goes only once the picture that was being traced has ended, too.
    expect(newest.get_by_role("button", name="Cancel the rest")).to_have_count(0)
    newest.get_by_role("button", name="Remove", exact=True).first.click()
    expect(page.get_by_test_id("series")).to_have_count(1)


def test_papers_lights_and_storage(page: Page, tmp_path: Path) -> None:
    """PDFs and tables come out, lamps go out as OpenUSD and come in again, sizes are told."""
    lit(page)
    page.keyboard.press(" ")
    page.keyboard.press("7")
    papers = page.get_by_role("region", name="Documents")
    expect(papers.get_by_role("link", name="CSV")).to_have_count(2)
    for link in papers.get_by_role("link", name="PDF").all():
        assert saved(page, link, tmp_path).read_bytes().startswith(b"%PDF")
    tables = [saved(page, x, tmp_path) for x in papers.get_by_role("link", name="CSV").all()]
    assert "Bench pendants" in tables[0].read_text()
    assert tables[1].read_text().count("\n") == 13

    lights = page.get_by_role("region", name="Lights")
    packed = saved(page, lights.get_by_role("link", name="Save as zip"), tmp_path)
    with zipfile.ZipFile(packed) as opened:
        stage = tmp_path / "lights.usda"
        stage.write_bytes(opened.read("lights.usda"))
    page.get_by_label("File of lights").set_input_files(stage)
    expect(lights).to_contain_text("came in")
    expect(page.get_by_role("button", name="Undo")).to_be_enabled()
    page.keyboard.press("Control+z")
    storage = page.get_by_role("region", name="Storage").get_by_test_id("storage")
    expect(storage).to_contain_text("buildings")
    expect(storage).to_contain_text("free on the disk")
