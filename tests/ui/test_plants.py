"""Plants drawn with a brush in the picture and on the plan, in the browser."""

from __future__ import annotations

from typing import Any

from playwright.sync_api import Locator, Page, expect

from ..conftest import Server, wait_for
from .test_first_light import lit, settled
from .test_moved_parts import edits


def drawn(page: Page, on: Locator, *points: tuple[float, float]) -> None:
    """The mouse pressed, led through points (0…1) of an element, and let go."""
    box = on.bounding_box()
    assert box is not None
    at = [(box["x"] + x * box["width"], box["y"] + y * box["height"]) for x, y in points]
    page.mouse.move(*at[0])
    page.mouse.down()
    for x, y in at[1:]:
        page.mouse.move(x, y, steps=4)
    page.mouse.up()


def only(server: Server) -> dict[str, Any]:
    """The one planting there is; nothing yet if there is none."""
    found: dict[str, Any] = next(iter(edits(server)["plantings"].values()), {})
    return found


def test_a_meadow_is_painted_erased_thinned_and_undone(page: Page, server: Server) -> None:
    lit(page)
    page.get_by_role("button", name="Site", exact=True).click()
    page.get_by_role("button", name="Kiln yard").click()
    settled(page)
    here = page.get_by_role("region", name="Plants")
    shelf = here.get_by_role("group", name="Shelf of plants")
    expect(shelf.locator("img")).to_have_count(10)
    assert shelf.locator("img").evaluate_all(
        "pictures => pictures.every(p => p.naturalWidth > 100)"
    )
    shelf.get_by_role("button", name="Grass").click()
    picture = page.get_by_test_id("picture")
    before = picture.screenshot()
    drawn(page, picture, (0.35, 0.9), (0.45, 0.92), (0.6, 0.9))
    grass = here.get_by_role("button", name="Grass", exact=True).last
    expect(here.get_by_role("list", name="Plantings")).to_contain_text("Grass", timeout=30_000)
    wait_for(lambda: bool(only(server)), 30, "nothing is planted")
    first = only(server)["strokes"]["0001"]
    assert first["kind"] == "brush"
    assert len(first["points"]) >= 2
    assert first["on"]
    settled(page)
    assert picture.screenshot() != before

    # On the plan, with the same planting: what is rubbed out there is a stroke of its own.
    page.get_by_role("tab", name="plan").click()
    plan = page.get_by_test_id("plan-sheet")
    expect(plan).to_have_attribute("aria-busy", "false", timeout=30_000)
    expect(page.get_by_test_id("plants-on-plan").locator("path")).not_to_have_count(0)
    here.get_by_role("radio", name="Erase").click()
    drawn(page, plan, (0.5, 0.5), (0.52, 0.52))
    wait_for(lambda: len(only(server)["strokes"]) == 2, 30, "nothing is erased")
    assert only(server)["strokes"]["0002"]["kind"] == "erase"

    page.keyboard.press("Escape")
    expect(here.get_by_role("radiogroup")).to_have_count(0)
    grass.click()
    density = here.get_by_role("textbox", name="Density, value")
    density.fill("12")
    density.press("Enter")
    wait_for(lambda: only(server)["per_m2"] == 12.0, 30, "it is not thinned")
    expect(density).to_have_value("12 /m²")
    here.get_by_role("button", name="Another arrangement").click()
    wait_for(lambda: only(server)["seed"] == 2, 30, "not arranged anew")
    here.get_by_role("radio", name="Far").click()
    wait_for(lambda: only(server)["detail"] == "far", 30, "no other detail")
    here.get_by_role("button", name="Take away Grass").click()
    wait_for(lambda: only(server)["on"] is False, 30, "it is still on")
    expect(page.get_by_test_id("plants-on-plan").locator("mask")).to_have_count(0)
    here.get_by_role("button", name="Remove Grass").click()
    expect(here.get_by_role("button", name="Remove Grass")).to_have_count(0)
    page.get_by_role("button", name="Undo").click()
    expect(here.get_by_role("button", name="Remove Grass")).to_have_count(1)
    wait_for(lambda: len(only(server)["strokes"]) == 2, 30, "it did not come back whole")


def test_a_hedge_in_a_row_and_a_tree_by_itself(page: Page, server: Server) -> None:
    """Each plant comes with the way it is mostly set; the sky is no ground, and the page says so."""
    lit(page)
    page.get_by_role("button", name="Site", exact=True).click()
    page.get_by_role("button", name="Kiln yard").click()
    settled(page)
    here = page.get_by_role("region", name="Plants")
    here.get_by_role("button", name="Hedge", exact=True).click()
    expect(here.get_by_role("radio", name="Row")).to_be_checked()
    picture = page.get_by_test_id("picture")
    drawn(page, picture, (0.3, 0.9), (0.65, 0.9))
    wait_for(lambda: only(server).get("plant") == "hedge", 30, "no hedge")
    assert only(server)["strokes"]["0001"]["kind"] == "row"
    here.get_by_role("button", name="Light tree", exact=True).first.click()
    expect(here.get_by_role("radio", name="Single")).to_be_checked()
    drawn(page, picture, (0.5, 0.03), (0.5, 0.03))
    expect(page.get_by_test_id("message")).to_contain_text("no ground at this point")
    drawn(page, picture, (0.8, 0.85), (0.8, 0.85))
    wait_for(lambda: len(edits(server)["plantings"]) == 2, 30, "no tree")
    tree = next(p for p in edits(server)["plantings"].values() if p["plant"] == "light tree")
    assert [s["kind"] for s in tree["strokes"].values()] == ["one"]
    assert len(tree["strokes"]["0001"]["points"]) == 1
