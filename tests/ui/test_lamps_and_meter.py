"""Lamps from the photometric shelf, spots, and the meter, as an artist uses them."""

from __future__ import annotations

import re
from pathlib import Path

from playwright.sync_api import Locator, Page, expect

from ..core.test_luminaires import lm63
from .test_first_light import card, choose, lit, settled, wait_for


def test_lamp_from_a_file_and_a_reading_under_it(page: Page, tmp_path: Path) -> None:
    """Bring a file, read its curve, place it, meter the table, see who lights it; bad files."""
    lit(page)
    page.keyboard.press("4")
    chooser = page.get_by_label("Photometric files", exact=True).first
    bad = tmp_path / "broken.ies"
    bad.write_bytes(b"IESNA:LM-63-2002\nTILT=NONE\n1 -1 1 3 1 1 2 0 0 0\n1 1 1\n0 45")
    chooser.set_input_files(bad)
    expect(page.get_by_test_id("message")).to_contain_text(
        re.compile("broken.ies: .*ends too early")
    )
    good = tmp_path / "potter.ies"
    head = "IESNA:LM-63-2002\n[LUMINAIRE] Potter\nTILT=NONE\n"
    good.write_bytes(lm63([0, 20, 40, 90], [0], [[15000, 12000, 450, 0]], head=head))
    chooser.set_input_files(good)
    expect(page.get_by_role("img", name="Polar curve of Potter")).to_be_visible()
    expect(page.get_by_text(re.compile(r"flux code \d+ \d+ \d+ 100"))).to_be_visible()
    wall = page.get_by_role("img", name=re.compile("A wall .* lit by Potter"))
    wait_for(lambda: bool(wall.evaluate("e => e.complete && e.naturalWidth > 0")), 30, "no wall")
    page.get_by_text("Edit a copy").click()
    page.get_by_label("Even all around its axis").check()
    page.get_by_label("Name of the copy").fill("Potter, even")
    page.get_by_role("button", name="Keep", exact=True).click()
    expect(page.get_by_role("img", name="Polar curve of Potter, even")).to_be_visible()
    page.get_by_role("list", name="Photometric files").get_by_role(
        "button", name=re.compile(r"^Potter(?!, even)")
    ).first.click()
    page.get_by_role("button", name="Place Potter", exact=True).click()
    box = page.get_by_test_id("picture").bounding_box()
    assert box is not None
    page.mouse.click(box["x"] + box["width"] * 0.60, box["y"] + box["height"] * 0.70)
    strip = page.get_by_role("list", name="Sources")
    expect(strip.get_by_role("listitem", name=re.compile("^Potter"))).to_be_visible()
    lit(page, 1)
    settled(page)

    # The meter names the sources at a point, brightest first, and tells the ratio of two.
    page.keyboard.press("m")
    for x, y in ((0.30, 0.75), (0.62, 0.30)):
        page.mouse.click(box["x"] + box["width"] * x, box["y"] + box["height"] * y)
        page.wait_for_timeout(400)
    readings = page.get_by_test_id("reading")
    expect(readings).to_have_count(2)
    expect(readings.first).to_contain_text("cd/m²")
    expect(readings.first).to_contain_text(re.compile(r"sky|Sun|Potter"))
    expect(page.get_by_text(re.compile(r"stops \("))).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.get_by_role("button", name="Pin a reading in the picture")).to_be_visible()


def test_a_white_of_the_house_is_kept(page: Page) -> None:
    """Kept under a name it stands among the whites, for any lamp; let go, it is gone."""
    lit(page)
    page.keyboard.press("4")
    card(page, "Shelf lights").get_by_role("button", name="Select").click()
    page.get_by_role("button", name="Keep this colour for the house").click()
    page.get_by_label("Name of the white").fill("Shelf warm")
    page.get_by_role("button", name="Keep", exact=True).last.click()
    let_go = page.get_by_role("button", name="Let “Shelf warm” go")
    expect(let_go).to_be_visible()
    card(page, "Bench pendants").get_by_role("button", name="Select").click()
    choose(page.get_by_label("Usual whites"), "Shelf warm")
    expect(let_go).to_be_visible()
    let_go.click()
    expect(let_go).to_have_count(0)
    page.get_by_role("button", name="Undo", exact=True).click()


def test_lamps_are_spread_over_their_room(page: Page) -> None:
    """Proposed with the lux they give, traced; placed they are linked copies; undone, as before."""
    lit(page)
    page.keyboard.press("4")
    card(page, "Bench pendants").get_by_role("button", name="Select").click()
    before = page.get_by_text(re.compile(r"\d+ linked copies")).inner_text()
    page.get_by_role("button", name="Repeat", exact=True).click()
    page.get_by_label("Lux wanted, value").fill("400")
    page.get_by_role("button", name="Spread over the room").click()
    said = page.get_by_test_id("spread")
    expect(said).to_contain_text(re.compile(r"\d+ × \d+ over .* m\s+give \d+ lx"), timeout=200_000)
    columns, rows = map(int, re.findall(r"(\d+) × (\d+) over", said.inner_text())[0])
    said.get_by_role("button", name="Place them").click()
    expect(page.get_by_text(f"{columns * rows} linked copies")).to_be_visible()
    page.get_by_role("button", name="Undo", exact=True).click()
    expect(page.get_by_text(before)).to_be_visible()


def test_spot_and_tube_have_their_own_fields(page: Page) -> None:
    """A spot shows beam and field, a tube its length; undo takes each away again."""
    lit(page)
    page.keyboard.press("4")
    box = page.get_by_test_id("picture").bounding_box()
    assert box is not None
    for shape, label in (("Spot", "Beam"), ("Tube", "Length")):
        page.get_by_role("button", name=shape, exact=True).click()
        page.mouse.click(box["x"] + box["width"] * 0.62, box["y"] + box["height"] * 0.30)
        expect(page.get_by_label(f"{label}, value")).to_be_visible()
        strip = page.get_by_role("list", name="Sources")
        expect(strip.get_by_role("listitem", name=re.compile(rf"^{shape} \d"))).to_be_visible()
        page.get_by_role("button", name="Undo", exact=True).click()
        expect(page.get_by_label(f"{label}, value")).to_have_count(0)


def test_openings_are_found_and_can_be_closed(page: Page) -> None:
    """The demo's glazed openings are counted; closing the room is one edit, undone in one step."""
    lit(page)
    page.keyboard.press("3")
    expect(page.get_by_text(re.compile(r"(\d+) · \1 in use"))).to_be_visible()
    closed = page.get_by_label("Light only through openings")
    closed.click()
    expect(closed).to_be_checked()
    expect(page.get_by_label(re.compile("Sample daylight through"))).to_be_disabled()
    page.get_by_role("button", name="Undo", exact=True).click()
    expect(closed).not_to_be_checked()


def test_levels_together(page: Page) -> None:
    """All lamps go up a stop, the sun stays; levels of another look come over; both are undone."""
    lit(page, 1)
    page.keyboard.press("5")
    shelf = card(page, "Shelf lights").get_by_label("Level of Shelf lights, value")
    sun = page.get_by_label("Level of Sun, value")

    def level(field: Locator) -> float:
        return float(field.input_value().replace("−", "-").removesuffix(" EV"))

    before, sunny = level(shelf), level(sun)
    page.get_by_role("button", name="All lamps +1 EV").click()
    wait_for(lambda: abs(level(shelf) - before - 1) < 0.06, 20, "the lamps stay")
    assert level(sun) == sunny
    page.get_by_role("button", name="Undo", exact=True).click()
    wait_for(lambda: level(shelf) == before, 20, "it cannot be undone")
    page.get_by_role("button", name="Overcast noon").click()
    page.get_by_role("button", name="All lamps +1 EV").click()
    page.wait_for_timeout(500)
    there = level(shelf)
    assert there != before
    page.get_by_role("button", name="Late sun").click()
    wait_for(lambda: level(shelf) == before, 20)
    copy = page.get_by_label("Copy levels of another look")
    choose(copy, "Overcast noon: all sources")
    wait_for(lambda: level(shelf) == there, 20, "levels of the other look do not come")
    for _ in range(2):
        page.get_by_role("button", name="Undo", exact=True).click()
        page.wait_for_timeout(400)
    wait_for(lambda: level(shelf) == before, 20)
