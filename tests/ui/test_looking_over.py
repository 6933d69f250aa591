"""Looking the building over, light cards, standing it up: the Site stage's newer hands, in the browser."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from ..conftest import wait_for
from .test_first_light import brightest, lit, pixels
from .test_hunting import at


def undo(page: Page, times: int) -> None:
    """Take back some edits."""
    for _ in range(times):
        page.get_by_role("button", name="Undo", exact=True).click()
        page.wait_for_timeout(400)


def test_a_finding_is_framed_and_cured(page: Page) -> None:
    """Buckets brighter than any paint are found, shown where they stand, and cured by a click."""
    lit(page)
    page.keyboard.press("1")
    materials = page.get_by_role("list", name="Materials")
    page.get_by_label("Search parts and materials").fill("galvanised")
    materials.get_by_role("button", name=re.compile("galvanised")).click()
    field = materials.get_by_label("Reflectance, value")
    field.fill("96")
    field.press("Enter")
    expect(materials.get_by_role("button", name="Bring it to 80 %")).to_be_visible()
    page.get_by_role("button", name="Check the model").click()
    finding = (
        page.get_by_role("list", name="Findings")
        .get_by_role("listitem")
        .filter(has_text="galvanised")
    )
    show = finding.get_by_role("button", name="Show it")
    show.click()
    frame, picture = page.get_by_test_id("framed"), page.get_by_test_id("picture")
    expect(frame).to_be_visible()
    inner, outer = frame.bounding_box(), picture.bounding_box()
    assert inner is not None
    assert outer is not None
    # The buckets stand low, left and right of the benches.
    assert outer["x"] < inner["x"] < inner["x"] + inner["width"] <= outer["x"] + outer["width"]
    assert inner["y"] > outer["y"] + 0.5 * outer["height"]
    show.click()
    expect(frame).not_to_be_visible()
    finding.get_by_role("button", name="Bring it to 80 %").click()
    expect(materials.get_by_label("Reflectance, value")).to_have_value("80 %")
    undo(page, 2)


def test_a_light_card_is_a_source_with_a_picture(page: Page) -> None:
    """Clicked onto the floor it shines and stands on the strip; a picture is laid into its light."""
    lit(page)
    page.keyboard.press("1")
    page.get_by_role("button", name="Light card").click()
    at(page, 0.5, 0.85)
    card = page.get_by_role("list", name="Sources").get_by_role("listitem", name="Light card 1")
    expect(card).to_be_visible()
    wait_for(lambda: card.locator("img").count() > 0 and brightest(card) > 40, 90, "it stays dark")
    page.get_by_role("list", name="Additions").get_by_role(
        "button", name="Light card 1"
    ).first.click()
    shelf = page.get_by_role("group", name="Shining pictures")
    picture = shelf.get_by_role("button").nth(1)
    picture.click()
    expect(picture).to_have_attribute("aria-pressed", "true")
    undo(page, 2)
    expect(card).not_to_be_visible()


def test_the_sun_of_a_picture_is_swapped(page: Page) -> None:
    """A sky picture wraps the chart; its sun is handed to the look with its light, and a sun is kept."""
    lit(page)
    page.get_by_role("button", name="Keep this sun").click()
    kept = page.get_by_role("list", name="Kept suns").get_by_role("listitem")
    expect(kept).to_have_count(1)
    azimuth = page.get_by_test_id("azimuth").inner_text()
    page.get_by_role("radio", name="Picture", exact=True).click()
    page.get_by_role("button", name=re.compile("High cirrus evening")).click()
    expect(page.get_by_role("img", name="The sky picture around the chart")).to_be_visible()
    swap = page.get_by_role("button", name="Swap the sun")
    swap.click()
    expect(page.get_by_text("taken from a picture")).to_be_visible()
    expect(page.get_by_role("radio", name="Free")).to_be_checked()
    expect(page.get_by_test_id("azimuth")).not_to_have_text(azimuth)
    kept.get_by_role("button").first.click()
    expect(page.get_by_test_id("azimuth")).to_have_text(azimuth)
    undo(page, 5)
    expect(kept).to_have_count(0)
    lit(page)


def test_a_cie_sky_is_chosen_by_its_picture(page: Page) -> None:
    lit(page)
    page.get_by_role("radio", name="CIE", exact=True).click()
    clear = page.get_by_role("radio", name=re.compile("Type 12: clear"))
    clear.click()
    expect(clear).to_be_checked()
    expect(page.get_by_role("list", name="Sources")).to_contain_text("CIE sky")
    undo(page, 2)
    expect(page.get_by_role("radio", name="Clear", exact=True)).to_be_checked()


def test_what_openings_save_is_measured(page: Page) -> None:
    lit(page)
    said = page.get_by_test_id("portal-gain")
    said.get_by_role("button").click()
    expect(said).to_contain_text(re.compile(r"daylight ÷ \d+\.\d"), timeout=200_000)
    expect(page.get_by_role("list", name="Openings")).to_contain_text("Doorway 1")


def test_up_is_dragged_on_the_section(page: Page) -> None:
    """An arrow key turns up, Enter stands the building up; undone, it is as it was."""
    lit(page)
    before = pixels(page)
    page.keyboard.press("1")
    axis = page.get_by_label("Up axis of the file")
    expect(axis).to_have_text("y")
    page.get_by_role("tab", name="section", exact=True).click()
    arrow = page.get_by_role("slider", name="Up")
    arrow.focus()
    arrow.press("ArrowRight")
    expect(arrow).to_have_attribute("aria-valuetext", "right in the section")
    arrow.press("Enter")
    expect(axis).not_to_have_text("y")
    undo(page, 1)
    expect(axis).to_have_text("y")
    page.get_by_role("tab", name="sun", exact=True).click()
    lit(page)
    wait_for(lambda: abs(pixels(page) - before).mean() < 12, 90, "the room is not as before")
