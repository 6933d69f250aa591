"""The building and its fixtures, driven in the browser: find a part, hide it, change paint, repeat."""

from __future__ import annotations

import re

import numpy as np
from playwright.sync_api import Page, expect

from ..conftest import wait_for
from .test_first_light import choose, lit, pixels, settled
from .test_hunting import at


def test_find_hide_and_paint(page: Page) -> None:
    # With the light of every source: a first picture of some of them is no measure of the last one.
    lit(page, 2, every=True)
    before = settled(page)
    page.keyboard.press("1")
    page.get_by_role("button", name="Pick", exact=True).click()
    at(page, 0.9, 0.5)
    parts = page.get_by_role("list", name="Parts")
    expect(parts.locator(".border-blue")).to_contain_text("North wall lining")
    materials = page.get_by_role("list", name="Materials")
    expect(materials.locator("[aria-expanded=true]")).to_contain_text("lime plaster")

    field = materials.get_by_label("Reflectance, value")
    field.fill("10")
    field.press("Enter")
    expect(materials.get_by_text("changed")).to_be_visible()
    page.wait_for_timeout(1500)
    lit(page, 1)
    wait_for(lambda: pixels(page).mean() < before.mean() - 10, 60, "dark plaster is as light")
    page.keyboard.press("Escape")
    page.get_by_role("heading", name="Westlight").click()
    page.keyboard.press("Control+z")
    expect(materials.get_by_text("changed")).not_to_be_visible()

    # A varnish has a roughness of its own, which is asked for once there is one.
    expect(materials.get_by_label("Coat roughness, value")).to_have_count(0)
    coat = materials.get_by_label("Clear coat, value")
    coat.fill("80")
    coat.press("Enter")
    expect(materials.get_by_label("Coat roughness, value")).to_be_visible()
    page.get_by_role("heading", name="Westlight").click()
    page.keyboard.press("Control+z")
    expect(materials.get_by_label("Coat roughness, value")).to_have_count(0)

    page.get_by_label("Search parts and materials").fill("truss")
    hide = parts.get_by_role("button", name=re.compile("^Hide")).first
    hide.click()
    expect(page.get_by_role("button", name=re.compile("Show all .* hidden"))).to_be_visible()
    page.get_by_role("button", name=re.compile("Show all .* hidden")).click()
    expect(parts.get_by_role("button", name=re.compile("^Hide")).first).to_be_visible()
    page.wait_for_timeout(500)
    lit(page, 1)
    wait_for(lambda: np.abs(pixels(page) - before).mean() < 8, 60, "the room is not as before")


def test_a_cloth_is_chosen_by_its_name_and_lets_light_through(page: Page) -> None:
    """A usual kind sets its numbers; a colour of the light through it is asked for once there is some."""
    lit(page, 1)
    page.keyboard.press("1")
    page.get_by_label("Search parts and materials").fill("blue cloth")
    materials = page.get_by_role("list", name="Materials")
    materials.get_by_role("button", name=re.compile("^blue cloth")).click()
    chosen = materials.get_by_label("Cloth or paper of blue cloth")
    expect(chosen).to_contain_text("Lets no light through")
    expect(materials.get_by_label("Colour of the light through blue cloth")).to_have_count(0)
    choose(chosen, "Sheer curtain")
    expect(chosen).to_contain_text("Sheer curtain")
    expect(materials.get_by_label("Open weave, value")).to_have_value("30 %")
    expect(materials.get_by_label("Colour of the light through blue cloth")).to_be_visible()
    expect(materials).to_contain_text("30 % passes between the threads")
    weave = materials.get_by_label("Open weave, value")
    weave.fill("12")
    weave.press("Enter")
    expect(chosen).to_contain_text("As set below")
    choose(chosen, "Lets no light through")
    expect(materials.get_by_label("Open weave, value")).to_have_count(0)


def test_units_and_copies(page: Page) -> None:
    """The amount reads the same in candela; a row of three is one fixture until made independent."""
    lit(page)
    page.keyboard.press("4")
    page.get_by_role("button", name="Sphere", exact=True).click()
    at(page, 0.60, 0.36)
    amount = page.get_by_label("Amount, value")
    expect(amount).to_have_value("1000 lm")
    choose(page.get_by_label("Unit of the amount"), "cd straight ahead")
    # A sphere of 1000 lm shines with 1000 / 4π candela.
    expect(amount).to_have_value("80 cd")
    amount.fill("159.15")
    amount.press("Enter")
    choose(page.get_by_label("Unit of the amount"), "lm")
    expect(amount).to_have_value("2000 lm")
    warm = page.get_by_label("warmer when dimmed")
    warm.click()
    expect(warm).to_be_checked()
    page.get_by_role("heading", name="Westlight").click()
    page.keyboard.press("Control+z")
    expect(warm).not_to_be_checked()
    page.get_by_role("button", name="Repeat", exact=True).click()
    page.get_by_role("button", name="Make 3 of it").click()
    expect(page.get_by_text("3 linked copies")).to_be_visible()
    strip = page.get_by_role("list", name="Sources")
    copies = strip.get_by_role("listitem", name=re.compile("^Sphere"))
    expect(copies).to_have_count(1)
    page.get_by_role("button", name="Make them independent").click()
    expect(copies).to_have_count(3)
    page.get_by_role("heading", name="Westlight").click()
    for _ in range(6):
        page.keyboard.press("Control+z")
        page.wait_for_timeout(250)
    expect(copies).to_have_count(0)
