"""Towards a reference, in the browser."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from PIL import Image
from playwright.sync_api import Locator, Page, expect

from ..conftest import Server


def photograph(file: Path) -> Path:
    """A dim, warm room: bright at the left, with a pole and its shadow."""
    x = np.linspace(1.0, 0.12, 160)[None, :, None]
    pixels = np.repeat(190 * x, 100, axis=0) * np.array([1.0, 0.78, 0.5])
    Image.fromarray(pixels.astype(np.uint8)).save(file)
    return file


def drag(over: Locator, page: Page, begin: tuple[float, float], end: tuple[float, float]) -> None:
    """Drag over a part of an element, in shares of it."""
    box = over.bounding_box()
    assert box is not None
    page.mouse.move(box["x"] + begin[0] * box["width"], box["y"] + begin[1] * box["height"])
    page.mouse.down()
    page.mouse.move(box["x"] + end[0] * box["width"], box["y"] + end[1] * box["height"], steps=3)
    page.mouse.up()


def test_a_picture_is_come_nearer_to(page: Page, server: Server, tmp_path: Path) -> None:
    """Added, read, compared in every way; a step is taken and undone; key and fill, the sun by a shadow, and no reference."""
    page.get_by_role("button", name="Balance", exact=True).click()
    here = page.get_by_role("region", name="Reference")
    here.get_by_label("Reference file").set_input_files(photograph(tmp_path / "Dim room.png"))
    expect(here.get_by_role("button", name="Dim room")).to_have_attribute("aria-pressed", "true")
    expect(page.get_by_test_id("reference-corner")).to_be_visible()
    expect(page.get_by_test_id("apart")).to_contain_text("steps apart")

    here.get_by_role("radio", name="Wipe").click()
    expect(page.get_by_test_id("reference-wipe")).to_be_visible()
    line = page.get_by_role("slider", name="Wipe between the reference and the picture")
    line.focus()
    page.keyboard.press("ArrowRight")
    expect(line).to_have_attribute("aria-valuenow", "52")
    here.get_by_role("radio", name="Hidden").click()
    expect(page.get_by_test_id("reference-wipe")).to_have_count(0)

    here.get_by_role("button", name="Come nearer").click()
    steps = here.get_by_test_id("step")
    expect(steps.first).to_be_visible()
    darker = here.get_by_role("button", name="Take Exposure −")
    said = str(darker.get_attribute("aria-label")).removeprefix("Take ")
    darker.click()
    expect(page.get_by_role("button", name="History")).to_contain_text(said[:8])
    expect(darker).to_have_count(0)
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_role("button", name="History")).to_contain_text("Referen")

    here.get_by_role("button", name="Key and fill").click()
    marked = page.get_by_test_id("mark-reference")
    drag(marked, page, (0.02, 0.1), (0.2, 0.9))
    drag(marked, page, (0.8, 0.1), (0.98, 0.9))
    readings = here.get_by_test_id("reference-readings")
    expect(readings).to_contain_text("Key over fill")
    drag(page.get_by_test_id("mark-picture"), page, (0.1, 0.1), (0.3, 0.4))
    drag(page.get_by_test_id("mark-picture"), page, (0.6, 0.5), (0.9, 0.9))
    expect(page.get_by_test_id("mark-picture")).to_have_count(0)

    here.get_by_role("button", name="Sun by a shadow").click()
    # 45° in its pixels: 40 up and 40 along.
    for at in ((0.25, 0.8), (0.25, 0.4), (0.5, 0.8)):
        drag(page.get_by_test_id("mark-reference"), page, at, at)
    expect(here.get_by_test_id("sun-height")).to_contain_text("stands 45° high")

    here.get_by_role("button", name="None", exact=True).click()
    expect(page.get_by_test_id("reference-beside")).to_have_count(0)
    expect(here.get_by_test_id("reference-readings")).to_have_count(0)


def test_what_is_no_picture_is_refused_in_words(page: Page, tmp_path: Path) -> None:
    page.get_by_role("button", name="Balance", exact=True).click()
    (tmp_path / "notes.jpg").write_text("no picture")
    page.get_by_label("Reference file").set_input_files(tmp_path / "notes.jpg")
    expect(page.get_by_test_id("message")).to_contain_text("“notes.jpg” is no picture")
