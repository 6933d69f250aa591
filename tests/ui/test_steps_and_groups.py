"""History and versions, automatic exposure, groups, parts by name, the sheet's new hands."""

from __future__ import annotations

import re

import numpy as np
from playwright.sync_api import Page, expect

from ..conftest import wait_for
from .test_first_light import card, choose, drawn_plan, lit, pixels, settled
from .test_hunting import at
from .test_looking_over import undo


def test_steps_and_versions(page: Page) -> None:
    """A version is kept and gone back to; any step of the list is gone to by a click."""
    lit(page)
    shutter = page.get_by_label("shutter")
    before = shutter.input_value()
    for key in (",", ","):
        page.keyboard.press(key)
        expect(page.get_by_role("button", name=re.compile("History · Exposure"))).to_be_visible()
        page.wait_for_timeout(300)
    darker = shutter.input_value()
    assert darker != before
    page.get_by_role("button", name=re.compile("^History")).click()
    panel = page.get_by_label("History", exact=True)
    panel.get_by_label("Name of the version").fill("Darker")
    panel.get_by_role("button", name="Keep", exact=True).click()
    expect(panel.get_by_role("button", name="Go back to Darker")).to_be_visible()
    steps = panel.get_by_role("list", name="Steps").get_by_role("button")
    # Two steps down from the newest lies the state before both.
    steps.nth(2).click()
    expect(steps.nth(2)).to_have_attribute("aria-current", "step")
    expect(shutter).to_have_value(before)
    panel.get_by_role("button", name="Go back to Darker").click()
    expect(shutter).to_have_value(darker)
    panel.get_by_role("button", name="Let Darker go").click()
    expect(panel.get_by_role("button", name="Go back to Darker")).not_to_be_visible()
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Undo", exact=True).click()
    expect(shutter).to_have_value(before)


def test_the_exposure_follows_until_it_is_taken_over(page: Page) -> None:
    """Automatic holds the mean when the sun is turned down; a shutter by hand ends it."""
    lit(page, 1)
    shutter = page.get_by_label("shutter")
    by_hand = shutter.input_value()
    auto = page.get_by_label("Automatic exposure")
    auto.check()
    expect(auto).to_be_checked()
    before = settled(page).mean()
    page.keyboard.press("5")
    for name in ("Sun", "Clear sky"):
        level = page.get_by_label(f"Level of {name}, value")
        level.fill("-3")
        level.press("Enter")
    wait_for(lambda: shutter.input_value() != by_hand, 30, "the shutter stays")
    assert abs(settled(page).mean() - before) < 12
    page.get_by_role("button", name="area …").click()
    at(page, 0.5, 0.4)
    expect(page.get_by_role("button", name="whole", exact=True)).to_be_visible()
    shutter.fill(by_hand)
    shutter.press("Enter")
    expect(auto).not_to_be_checked()
    wait_for(lambda: pixels(page).mean() < before - 25, 30, "it still follows")
    for _ in range(5):
        page.get_by_role("button", name="Undo", exact=True).click()
        page.wait_for_timeout(400)
    expect(auto).not_to_be_checked()
    expect(shutter).to_have_value(by_hand)


def test_a_group_is_muted_and_dimmed_together(page: Page) -> None:
    """Two lamps put into one group answer to one level and one mute."""
    page.get_by_role("button", name="Wheel room", exact=True).click()
    lit(page)
    day = pixels(page)
    page.get_by_role("group", name="Looks").get_by_role("button", name="Kiln night").click()
    wait_for(lambda: np.abs(pixels(page) - day).mean() > 15, 60, "the look does not change")
    # Every lamp must have its light before the room can be compared with itself.
    lit(page, 2, every=True)
    page.keyboard.press("5")
    group = card(page, "Group Workshop")
    lamp = card(page, "Bench pendants")
    mute = group.get_by_role("button", name="Mute Workshop")
    expect(mute).to_have_attribute("aria-pressed", "false")
    expect(group.get_by_role("button", name="Solo Workshop")).to_have_attribute(
        "aria-pressed", "false"
    )
    before = settled(page)
    assert before.mean() > 15, "the room is dark from the start"
    mute.click()
    expect(mute).to_have_attribute("aria-pressed", "true")
    # Lamps that other hands left in the room may shine on.
    wait_for(lambda: pixels(page).mean() < before.mean() - 3, 60,
             f"the lamps stay on at {before.mean():.1f}")  # fmt: skip
    dark = settled(page).mean()
    expect(lamp.locator("img")).to_have_class(re.compile("opacity"))
    mute.click()
    wait_for(lambda: np.abs(pixels(page) - before).mean() < 8, 60, "they do not come back")
    level = group.get_by_label("Level of Workshop, value")
    level.fill("-8")
    level.press("Enter")
    # As good as mute, whatever of the other lamps has come since.
    near = dark + 0.3 * (before.mean() - dark)
    wait_for(lambda: pixels(page).mean() < near, 60, "the level does nothing")
    for _ in range(3):
        page.get_by_role("button", name="Undo", exact=True).click()
        page.wait_for_timeout(400)
    page.get_by_role("group", name="Looks").get_by_role("button", name="Late sun").click()


def test_a_card_has_a_menu(page: Page) -> None:
    """By the second button or the menu key: solo, level, order, removing; the keyboard goes through it."""
    page.get_by_role("button", name="Wheel room", exact=True).click()
    lit(page, 1, every=True)
    sun, sky = card(page, "Sun"), card(page, "Clear sky")
    sun.get_by_role("button", name="Select Sun").click(button="right")
    menu = page.get_by_role("menu", name="What to do with Sun")
    expect(menu.get_by_role("menuitem", name="Level 0 EV")).to_be_disabled()
    menu.get_by_role("menuitemcheckbox", name="Solo").click()
    expect(sun.get_by_role("button", name="Solo Sun")).to_have_attribute("aria-pressed", "true")
    level = sky.get_by_label("Level of Clear sky, value")
    level.fill("-2")
    level.press("Enter")
    expect(level).to_have_value("−2.0")
    sky.get_by_role("button", name="Select Clear sky").focus()
    page.keyboard.press("Shift+F10")
    menu = page.get_by_role("menu", name="What to do with Clear sky")
    expect(menu).to_be_visible()
    menu.get_by_role("menuitem", name="No source solo or muted").click()
    expect(sun.get_by_role("button", name="Solo Sun")).to_have_attribute("aria-pressed", "false")
    sky.get_by_role("button", name="Select Clear sky").focus()
    page.keyboard.press("Shift+F10")
    menu.get_by_role("menuitem", name="Level 0 EV").click()
    expect(level).to_have_value("0.0")
    # Of a lamp it is told where its settings are, and it can be removed; the step is taken back.
    name = "Gallery spots"
    lamp = card(page, name)
    lamp.get_by_role("button", name=f"Select {name}").click(button="right")
    page.get_by_role("menuitem", name="Show its settings").click()
    expect(page.get_by_role("complementary", name="Fixtures stage")).to_be_visible()
    lamp.get_by_role("button", name=f"Select {name}").click(button="right")
    page.get_by_role("menuitem", name=f"Remove {name}").click()
    expect(card(page, name)).to_have_count(0)
    undo(page, 1)
    expect(card(page, name)).to_have_count(1)


def test_parts_are_renamed_shown_alone_and_painted_alone(page: Page) -> None:
    lit(page)
    page.keyboard.press("1")
    search = page.get_by_label("Search parts and materials")
    search.fill("Valley")
    parts = page.get_by_role("list", name="Parts")
    parts.get_by_role("button", name="Valley gutter", exact=True).click()
    name = parts.get_by_label("Name of Valley gutter")
    name.fill("Gutter between the teeth")
    name.press("Enter")
    expect(parts.get_by_role("button", name="Gutter between the teeth", exact=True)).to_be_visible()
    taken_for = parts.get_by_label("Gutter between the teeth is taken for")
    choose(taken_for, "surroundings")
    expect(taken_for).to_have_text("surroundings")
    parts.get_by_role("button", name="Give it its own zinc").click()
    expect(parts.get_by_label("Metal, value")).to_be_visible()
    parts.get_by_role("button", name="Share zinc again").click()
    expect(parts.get_by_role("button", name="Give it its own zinc")).to_be_visible()
    parts.get_by_role("button", name="Show only Gutter between the teeth").click()
    expect(page.get_by_role("button", name=re.compile(r"Show all \d+ hidden"))).to_be_visible()
    for _ in range(5):
        page.get_by_role("button", name="Undo", exact=True).click()
        page.wait_for_timeout(400)
    expect(parts.get_by_role("button", name="Valley gutter", exact=True)).to_be_visible()


def test_the_plan_measures_and_cuts_along_a_line(page: Page) -> None:
    """Dimensions under the cursor, a section along a line drawn by hand, north turned by hand."""
    lit(page)
    sheet = drawn_plan(page)
    expect(sheet.locator("path").nth(1)).to_have_attribute("d", re.compile("M"))
    box = sheet.bounding_box()
    assert box is not None
    x, y = box["x"] + box["width"] * 0.42, box["y"] + box["height"] * 0.55
    page.mouse.move(x, y)
    expect(page.get_by_test_id("dimensions").locator("text").first).to_have_text(
        re.compile(r"\d+\.\d\d m")
    )
    page.get_by_role("button", name="Section along a line").click()
    page.mouse.move(x - 40, y - 20)
    page.mouse.down()
    page.mouse.move(x + 60, y + 15, steps=4)
    page.mouse.up()
    expect(page.get_by_role("img", name="Section of the building")).to_be_visible()
    expect(page.get_by_role("radio", name="line")).to_be_checked()
    page.get_by_role("tab", name="plan", exact=True).click()
    north = page.get_by_role("slider", name="North")
    before = north.get_attribute("aria-valuenow")
    north.focus()
    north.press("ArrowLeft")
    north.blur()
    expect(north).not_to_have_attribute("aria-valuenow", str(before))
    page.get_by_role("button", name="Undo", exact=True).click()
    expect(north).to_have_attribute("aria-valuenow", str(before))
    page.get_by_role("tab", name="sun", exact=True).click()


def test_a_town_brings_its_place_and_zone(page: Page) -> None:
    page.keyboard.press("1")
    zone = page.get_by_label("Time zone")
    before = zone.input_value()
    page.get_by_label("Find a town").fill("reykj")
    page.get_by_role("list", name="Towns").get_by_role("button").first.click()
    expect(zone).to_have_value("Atlantic/Reykjavik")
    page.get_by_role("button", name="Undo", exact=True).click()
    expect(zone).to_have_value(before)


def test_a_scene_of_the_lamps_is_used_in_another_look(page: Page) -> None:
    """Kept by a name in one look, used in another, undone, removed."""
    page.get_by_role("button", name="Balance", exact=True).click()
    here = page.get_by_role("region", name="Scenes of the lamps")
    strip = page.get_by_role("list", name="Sources")
    level = strip.get_by_role("textbox", name="Level of Gallery spots, value")
    level.fill("-1.5")
    level.press("Enter")
    here.get_by_label("Name of a new scene").fill("Dinner")
    here.get_by_role("button", name="Keep the levels").click()
    use = here.get_by_role("button", name="Use scene Dinner")
    expect(use).to_be_visible()
    page.get_by_role("button", name="Blue hour").click()
    before = level.input_value()
    assert before != "−1.5"
    use.click()
    expect(level).to_have_value("−1.5")
    page.get_by_role("button", name="Undo").click()
    expect(level).to_have_value(before)
    here.get_by_role("button", name="Remove scene Dinner").click()
    expect(use).to_have_count(0)
