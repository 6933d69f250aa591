"""Close work: lamps that are drawn to where they belong, a region first, a closer look, locked looks."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from .test_first_light import drawn_plan, lit
from .test_hunting import at

#: The lower edge of a pendant over the tables of the first view.
PENDANT = 0.53, 0.355


def test_a_lamp_goes_into_a_body_and_into_all_like_it(page: Page) -> None:
    lit(page)
    page.keyboard.press("4")
    page.get_by_role("button", name="Tube", exact=True).click()
    at(page, *PENDANT)
    expect(page.get_by_role("note").filter(has_text="It was drawn to the")).to_be_visible()
    expect(page.get_by_label("Length, value")).not_to_have_value("1.20 m")
    page.get_by_role("button", name="Repeat", exact=True).click()
    page.get_by_role("button", name="Into all bodies like its own").click()
    expect(page.get_by_text(re.compile(r"^\d+ linked copies"))).to_be_visible()
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_text("One of its kind")).to_be_visible()
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_text("One of its kind")).not_to_be_visible()


def test_a_lamp_hangs_in_the_air_off_a_floor(page: Page) -> None:
    lit(page)
    page.keyboard.press("4")
    page.get_by_label("Drawn to room, rows and lamp bodies").click()
    off = page.get_by_label("Off surface, value")
    off.fill("2.2")
    off.press("Enter")
    page.get_by_role("button", name="Sphere", exact=True).click()
    at(page, 0.45, 0.93)
    expect(page.get_by_label("Height, value")).to_have_value(re.compile(r"^2\.[12]\d m$"))
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_label("Height, value")).not_to_be_visible()


def test_a_region_clears_first_and_a_closer_look(page: Page) -> None:
    lit(page)
    box = page.get_by_test_id("picture").bounding_box()
    assert box is not None
    page.keyboard.press("r")
    page.mouse.move(box["x"] + 0.6 * box["width"], box["y"] + 0.3 * box["height"])
    page.mouse.down()
    page.mouse.move(box["x"] + 0.9 * box["width"], box["y"] + 0.7 * box["height"], steps=4)
    page.mouse.up()
    region = page.get_by_test_id("region")
    end = region.get_by_role("button", name=re.compile("end"))
    expect(end).to_be_visible()
    drawn = region.bounding_box()
    assert drawn is not None
    assert abs(drawn["width"] - 0.3 * box["width"]) < 4
    end.click()
    expect(region).not_to_be_visible()
    # Closer at the cursor: what is under it stays there, and clicks mean what is seen.
    page.mouse.move(box["x"] + 0.25 * box["width"], box["y"] + 0.5 * box["height"])
    for _ in range(4):
        page.mouse.wheel(0, -100)
    whole = page.get_by_role("button", name=re.compile("whole$"))
    expect(whole).to_have_text("2.4× · whole")
    close = page.get_by_test_id("picture").bounding_box()
    assert close is not None
    assert close["width"] > 2 * box["width"]
    under = (box["x"] + 0.25 * box["width"] - close["x"]) / close["width"]
    assert abs(under - 0.25) < 0.01
    whole.click()
    expect(whole).not_to_be_visible()


def test_a_locked_look_refuses_and_takes_a_new_name(page: Page) -> None:
    lit(page)
    looks = page.get_by_role("group", name="Looks")
    looks.get_by_role("button", name="Look …").click()
    menu = page.get_by_role("dialog", name="Look")
    menu.get_by_role("button", name="A copy to work on").click()
    expect(looks.get_by_role("button", name="Late sun 2")).to_be_visible()
    looks.get_by_role("button", name="Look …").click()
    name = menu.get_by_label("Name")
    name.fill("Client's choice")
    name.press("Enter")
    expect(looks.get_by_role("button", name="Client's choice")).to_be_visible()
    lock = menu.get_by_label("Locked: nothing of it changes")
    lock.click()
    expect(lock).to_be_checked()
    page.keyboard.press("Escape")
    page.keyboard.press(".")
    expect(page.get_by_test_id("message")).to_contain_text("is locked")
    looks.get_by_role("button", name="Look …").click()
    lock.click()
    expect(lock).not_to_be_checked()
    menu.get_by_role("button", name="Remove").click()
    expect(looks.get_by_role("button", name="Client's choice")).not_to_be_visible()


def test_openings_are_left_out_by_their_side(page: Page) -> None:
    lit(page)
    page.keyboard.press("3")
    rows = page.get_by_role("list", name="Openings")
    side = rows.get_by_role("list", name="South windows")
    expect(side.get_by_role("listitem").first).to_be_visible()
    rows.get_by_role("button", name="Leave out all south windows").click()
    expect(side.get_by_role("button", name=re.compile("^Use Opening")).first).to_be_visible()
    expect(side.get_by_role("button", name=re.compile("^Leave out"))).to_have_count(0)
    page.get_by_role("button", name="Undo").click()
    expect(side.get_by_role("button", name=re.compile("^Leave out")).first).to_be_visible()


def test_a_lamp_is_put_on_the_plan_and_the_histogram_shows_colours(page: Page) -> None:
    lit(page)
    page.keyboard.press("4")
    plan = drawn_plan(page)
    off = page.get_by_label("Off surface, value")
    off.fill("2.4")
    off.press("Enter")
    page.get_by_role("button", name="Sphere", exact=True).click()
    box = plan.bounding_box()
    assert box is not None
    page.mouse.click(box["x"] + 0.4 * box["width"], box["y"] + 0.55 * box["height"])
    expect(page.get_by_label("Height, value")).to_be_visible()
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_label("Height, value")).not_to_be_visible()
    page.get_by_role("img", name="Histogram", exact=True).click()
    expect(page.get_by_role("img", name="Histogram of red, green and blue")).to_be_visible()
