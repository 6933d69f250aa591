"""The sheet as a drawing board, walking, additions, openings and air, driven in the browser."""

from __future__ import annotations

import re

import numpy as np
from playwright.sync_api import Page, expect

from ..conftest import wait_for
from .test_first_light import drawn_plan, lit, pixels, settled
from .test_hunting import at


def frames(page: Page) -> int:
    return int(page.get_by_test_id("picture").get_attribute("data-frames") or 0)


def test_the_camera_is_dragged_on_the_plan_and_walked_in_the_picture(page: Page) -> None:
    lit(page, 1)
    page.keyboard.press("2")
    east = page.get_by_label("East, value").first
    before = east.input_value()
    sheet = drawn_plan(page)
    camera = sheet.locator("circle[fill='var(--blue)']")
    box = camera.bounding_box()
    assert box is not None
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x - 15, y - 5, steps=4)
    page.mouse.up()
    expect(east).not_to_have_value(before)
    page.get_by_role("button", name="Undo").click()
    expect(east).to_have_value(before)

    page.get_by_role("tab", name="section", exact=True).click()
    expect(page.get_by_role("img", name="Section of the building")).to_be_visible()
    page.keyboard.press("w")
    expect(page.get_by_text("Drag to look around")).to_be_visible()
    shown = frames(page)
    for _ in range(4):
        page.keyboard.press("ArrowUp")
        page.wait_for_timeout(120)
    wait_for(lambda: frames(page) > shown, 30, "the picture does not follow the walk")
    expect(east).not_to_have_value(before)
    page.keyboard.press("Escape")
    expect(page.get_by_text("Drag to look around")).not_to_be_visible()
    page.wait_for_timeout(600)
    page.get_by_role("button", name="Undo").click()
    expect(east).to_have_value(before)


def test_a_blocker_darkens_the_room_and_undo_brings_the_light_back(page: Page) -> None:
    lit(page, 1)
    before = settled(page)
    page.keyboard.press("1")
    page.get_by_role("button", name="Block", exact=True).click()
    at(page, 0.6, 0.85)
    rows = page.get_by_role("list", name="Additions")
    expect(rows.get_by_text("Block 1")).to_be_visible()
    wait_for(lambda: np.abs(pixels(page) - before).mean() > 10, 60, "no block stands there")
    rows.get_by_role("button", name="Take away Block 1").click()
    rows.get_by_role("button", name="Remove Block 1").click()
    expect(rows.get_by_text("Block 1")).not_to_be_visible()
    page.get_by_role("button", name="Check the model").click()
    expect(page.get_by_text(re.compile(r"\d+ found|nothing found"))).to_be_visible()


def test_the_picture_follows_an_addition_while_it_is_dragged(page: Page) -> None:
    lit(page)
    empty = settled(page)
    page.keyboard.press("1")
    page.get_by_role("button", name="Block", exact=True).click()
    # On the floor in front, where no lamp hangs over it on the plan.
    at(page, 0.6, 0.97)
    rows = page.get_by_role("list", name="Additions")
    rows.get_by_role("button", name="Block 1", exact=True).click()
    wait_for(lambda: np.abs(pixels(page) - empty).mean() > 10, 60, "no block stands there")
    # Small, so that the camera does not stand in it.
    for label in ("Width, value", "Depth, value"):
        rows.get_by_label(label).fill("0.8")
        rows.get_by_label(label).press("Enter")
    wait_for(lambda: pixels(page).mean() > 0.7 * empty.mean(), 60, "the camera stands in the block")
    sheet = drawn_plan(page)
    stands = rows.get_by_label("East, value")
    before = stands.input_value()
    block = sheet.locator("g", has=page.get_by_text("Block 1: drag to move it")).last
    shown = settled(page)
    # Where nothing else lies over it: lamps do.
    x, y = block.evaluate(
        """g => {
          const r = g.getBoundingClientRect();
          for (let y = r.top; y < r.bottom; y++)
            for (let x = r.left; x < r.right; x++)
              if (g.contains(document.elementFromPoint(x, y))) return [x, y];
          return [0, 0];
        }"""
    )
    assert x > 0
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x - 30, y + 4, steps=6)
    wait_for(lambda: np.abs(pixels(page) - shown).mean() > 4, 60, "the picture waits for the hand")
    # The room under the hand, and no black while its light is on the way.
    assert pixels(page).mean() > 0.5 * shown.mean()
    assert page.get_by_role("button", name=re.compile("^History · Move")).count() == 0
    page.mouse.up()
    expect(stands).not_to_have_value(before)
    assert pixels(page).mean() > 0.5 * shown.mean()
    page.get_by_role("button", name="Undo").click()
    expect(stands).to_have_value(before)
    assert pixels(page).mean() > 0.5 * shown.mean()
    for _ in range(3):
        page.get_by_role("button", name="Undo").click()
    expect(rows.get_by_text("Block 1")).not_to_be_visible()


def test_openings_are_listed_left_out_and_given_a_gain(page: Page) -> None:
    lit(page)
    page.keyboard.press("3")
    rows = page.get_by_role("list", name="Openings")
    expect(rows.get_by_role("button", name=re.compile("^Opening 1"))).to_be_visible()
    expect(page.get_by_text(re.compile(r"(\d+) · \1 in use"))).to_be_visible()
    rows.get_by_role("button", name="Leave out Opening 6").click()
    expect(page.get_by_text(re.compile(r"\d+ · \d+ in use"))).to_be_visible()
    rows.get_by_role("button", name=re.compile("^Opening 1")).click()
    gain = rows.get_by_label("Gain, value")
    gain.fill("1")
    gain.press("Enter")
    expect(rows.get_by_label("A cheat: more than comes in")).to_be_visible()
    page.get_by_role("button", name="Undo").click()
    expect(rows.get_by_label("A cheat: more than comes in")).not_to_be_visible()
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_text(re.compile(r"(\d+) · \1 in use"))).to_be_visible()


def test_haze_backdrop_and_a_graded_part(page: Page) -> None:
    lit(page, 1)
    before = settled(page)
    page.keyboard.press("6")
    page.get_by_role("button", name="Pick a part").click()
    at(page, 0.9, 0.5)
    graded = page.get_by_role("list", name="Graded parts")
    bright = graded.get_by_label("Brightness, value")
    bright.fill("-3")
    bright.press("Enter")
    wait_for(lambda: np.median(pixels(page)) < np.median(before) - 5, 60, "nothing was graded")
    # A second one by its name goes on top; it is given a name of its own and changes places.
    by_name = page.get_by_label("Grade by name")
    by_name.click()
    first = page.get_by_role("group", name="Materials").get_by_role("option").first
    material = first.inner_text()
    first.click()
    rows = graded.get_by_role("listitem")
    expect(rows).to_have_count(2)
    expect(rows.first).to_contain_text(material)
    name = rows.first.get_by_label(re.compile("^Name for the grade"))
    name.fill("Calm this")
    name.press("Tab")
    expect(rows.first).to_contain_text("Calm this")
    rows.nth(1).get_by_role("button", name=re.compile("earlier$")).click()
    expect(rows.nth(1)).to_contain_text("Calm this")
    for left in (1, 0):
        graded.get_by_role("button", name=re.compile("^Remove the grade")).first.click()
        expect(rows).to_have_count(left)
    page.get_by_role("button", name="Estuary, evening").click()
    expect(page.get_by_label("Its horizon, value")).to_be_visible()
    page.get_by_role("button", name="The sky itself").click()

    page.keyboard.press("3")
    page.get_by_role("button", name="Haze in a box").click()
    field = page.get_by_label("Visibility, value")
    field.fill("15")
    field.press("Enter")
    # The hill beyond the door, at the end of the room where the box of haze stands, drowns in light.
    h, w = before.shape[:2]
    far = (slice(h * 36 // 100, h // 2), slice(w * 34 // 100, w * 47 // 100))
    wait_for(lambda: pixels(page)[far].std() < 0.5 * before[far].std(), 240, "the air stays clear")
    page.get_by_role("button", name="Remove haze 1").click()
    expect(page.get_by_label("Visibility, value")).not_to_be_visible()
