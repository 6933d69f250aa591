"""Parts of daylight: hours of the day, what of a sky picture lights and is mirrored, openings drawn."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from .test_first_light import drawn_plan, lit
from .test_hunting import at


def test_a_click_goes_into_the_blue_hour(page: Page) -> None:
    lit(page)
    before = page.get_by_test_id("elevation").inner_text()
    page.get_by_text(re.compile("^Azimuth")).click()
    evening = page.get_by_role("button", name=re.compile(r"^19:\d\d–19:\d\d$")).first
    evening.click()
    expect(page.get_by_test_id("elevation")).to_have_text(re.compile(r"^−[45]\.\d°$"))
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_test_id("elevation")).to_have_text(before)


def test_a_sky_picture_lights_is_seen_and_is_mirrored_apart(page: Page) -> None:
    lit(page)
    page.keyboard.press("3")
    page.get_by_role("radio", name="Picture", exact=True).click()
    page.get_by_role("button", name=re.compile("High cirrus evening")).click()
    parts = page.get_by_role("group", name="Parts of its light")
    mirrored = parts.get_by_label("Reflections, value")
    mirrored.fill("off")
    mirrored.press("Enter")
    expect(mirrored).to_have_value("off")
    expect(parts.get_by_label(re.compile("^A cheat"))).to_have_count(1)
    show = parts.get_by_role("combobox", name="Reflect")
    expect(show).to_have_text("this picture")
    show.click()
    other = page.get_by_role("option").nth(1)
    name = other.inner_text()
    other.click()
    expect(show).to_have_text(name)
    lit(page)
    for _ in range(4):
        page.get_by_role("button", name="Undo").click()
    expect(page.get_by_role("radio", name="Clear", exact=True)).to_be_checked()


def test_openings_lie_over_the_picture_and_say_what_is_wrong(page: Page) -> None:
    lit(page)
    page.keyboard.press("3")
    page.get_by_label("Draw their outlines over the picture").check()
    outlines = page.get_by_test_id("opening-outlines").locator("polygon")
    expect(outlines.first).to_be_attached()
    rows = page.get_by_role("list", name="Openings")
    rows.get_by_role("button", name=re.compile("^Opening 4")).click()
    rows.get_by_role("button", name="turn round").click()
    expect(rows.get_by_role("note")).to_have_text("It faces outdoors: turn it round.")
    page.get_by_role("button", name="Undo").click()
    expect(rows.get_by_role("note")).not_to_be_visible()


def test_the_patch_of_the_sun_is_chosen_on_the_plan(page: Page) -> None:
    lit(page)
    page.keyboard.press("3")
    plan = drawn_plan(page)
    page.get_by_role("button", name="Any way").click()
    box = plan.bounding_box()
    assert box is not None
    page.mouse.click(box["x"] + 0.45 * box["width"], box["y"] + 0.6 * box["height"])
    expect(page.get_by_test_id("aimed")).to_be_visible()
    # The same by the picture ends the first answer and gives another.
    page.get_by_role("button", name="Any way").click()
    expect(page.get_by_test_id("aimed")).not_to_be_visible()
    at(page, 0.5, 0.9)
    expect(page.get_by_test_id("aimed")).to_be_visible()


def test_a_part_is_picked_on_the_plan(page: Page) -> None:
    lit(page)
    page.keyboard.press("1")
    plan = drawn_plan(page)
    page.get_by_role("button", name="Pick", exact=True).click()
    box = plan.bounding_box()
    assert box is not None
    page.mouse.click(box["x"] + 0.45 * box["width"], box["y"] + 0.6 * box["height"])
    found = page.get_by_role("list", name="Materials").locator("[aria-expanded=true]")
    expect(found).to_contain_text("concrete floor")
