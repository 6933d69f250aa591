"""Light on the plan, in the browser."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from ..conftest import wait_for
from .test_first_light import lit


def average(said: str) -> float:
    """The average a summary tells, in lux; thousands are set apart."""
    return float(re.sub(r"[^\d.]", "", said.split("lx")[0]))


def test_lux_lies_over_the_room_and_follows_the_look(page: Page) -> None:
    """Lamps and daylight, another height, the daylight factor, another room, on paper; outdoors it is said that there is none."""
    lit(page)
    page.get_by_role("button", name="Fixtures", exact=True).click()
    page.get_by_role("tab", name="plan").click()
    chosen = page.get_by_role("combobox", name="Light on the plan")

    def show(kind: str) -> None:
        chosen.click()
        page.get_by_role("option", name=kind, exact=True).click()

    show("Lux of daylight")
    told = page.get_by_test_id("light-on-plan")
    expect(told).to_contain_text("on average")
    expect(page.get_by_test_id("light-cells").locator("rect").nth(20)).to_be_attached()
    day = average(told.inner_text())
    assert day > 50
    show("Daylight factor, overcast")
    expect(told).to_contain_text("%")
    show("Lux of the lamps")
    expect(told).to_contain_text(re.compile(r"lx on average"))
    expect(told).not_to_contain_text("…")
    lamps = average(told.inner_text())
    level = page.get_by_role("textbox", name="Level of Workshop, value")
    level.fill("2")
    level.press("Enter")
    wait_for(lambda: average(told.inner_text()) > 2 * lamps, 60, "the plan does not follow")
    with page.expect_download() as got:
        page.get_by_role("link", name="PDF", exact=True).click()
    assert got.value.suggested_filename == "light-plan.pdf"
    assert got.value.path().read_bytes()[:5] == b"%PDF-"

    # Outdoors, before the west wall.
    page.get_by_role("button", name="A room other than the camera’s").click()
    sheet = page.get_by_test_id("plan-sheet").bounding_box()
    assert sheet is not None
    page.mouse.click(sheet["x"] + 12, sheet["y"] + 12)
    expect(page.get_by_role("note").filter(has_text="No room is found here")).to_be_visible()
    show("No light on the plan")
    expect(page.get_by_test_id("light-cells")).to_have_count(0)
