"""The first steps of somebody who has never been here."""

from __future__ import annotations

from playwright.sync_api import Page, expect

from .test_first_light import lit


def test_three_cards_each_gone_once_it_is_done_and_never_again(page: Page) -> None:
    """Beside what they speak of; one is done, one is read, the last stays until it is put away."""
    # The page was opened as somebody who knows it; now as somebody who does not.
    page.add_init_script(
        "if (!sessionStorage.new) { localStorage.removeItem('first-steps'); sessionStorage.new = 1 }"
    )
    page.reload()
    lit(page, 1)
    cards = page.get_by_role("complementary", name="First step")
    expect(cards).to_have_count(3)
    # None of them lies over what it speaks of.
    for name, test_id in (("Move the sun", "sun-disc"), ("Mix the sources", "source-sun")):
        card = page.get_by_role("complementary", name=name).bounding_box()
        thing = page.get_by_test_id(test_id).bounding_box()
        assert card is not None
        assert thing is not None
        apart = (
            card["y"] + card["height"] <= thing["y"] + 8 or thing["y"] + thing["height"] <= card["y"]
            or card["x"] + card["width"] <= thing["x"] or thing["x"] + thing["width"] <= card["x"]
        )  # fmt: skip
        assert apart, name
    band = page.get_by_test_id("day-band").bounding_box()
    assert band is not None
    page.mouse.click(band["x"] + band["width"] * 0.5, band["y"] + band["height"] / 2)
    expect(page.get_by_role("complementary", name="Move the sun")).to_have_count(0)
    page.get_by_role("complementary", name="Mix the sources").get_by_role(
        "button", name="Got it"
    ).click()
    expect(cards).to_have_count(1)
    page.keyboard.press("p")
    expect(cards).to_have_count(0)
    page.reload()
    lit(page, 1)
    expect(cards).to_have_count(0)
