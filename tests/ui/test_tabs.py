"""Two tabs, a window of another size, a server that is gone: each sees its own, and nothing is lost."""

from __future__ import annotations

from playwright.sync_api import Page, expect

from ..conftest import Server, wait_for
from .conftest import SMALL
from .test_first_light import lit, pixels, state


def test_two_tabs_see_their_own_and_each_other_s_edits(page: Page) -> None:
    """Another look in another tab is another picture; an edit of one is seen in the other, and can be undone there."""
    lit(page)
    day = pixels(page).mean()
    other = page.context.browser.new_page(**SMALL)
    other.goto(page.url)
    expect(other.get_by_test_id("picture")).to_be_visible()
    other.get_by_role("group", name="Looks").get_by_role("button", name="Kiln night").click()
    lit(other)
    wait_for(lambda: pixels(other).mean() < 0.7 * day, 60, "the night is as bright as the day")
    page.bring_to_front()
    assert abs(pixels(page).mean() - day) < 0.2 * day
    # Both on the same look: an edit here is seen there.
    other.get_by_role("group", name="Looks").get_by_role("button", name="Late sun").click()
    before = other.get_by_label("shutter").input_value()
    expect(page.get_by_label("shutter")).to_have_value(before)
    page.keyboard.press(",")
    expect(page.get_by_label("shutter")).not_to_have_value(before)
    changed = page.get_by_label("shutter").input_value()
    expect(other.get_by_label("shutter")).to_have_value(changed)
    other.get_by_role("button", name="Undo", exact=True).click()
    expect(page.get_by_label("shutter")).to_have_value(before)
    other.close()


def test_a_smaller_window_keeps_its_picture(page: Page) -> None:
    """Made smaller while another stage opens, and larger again: a picture of the new size each time."""
    page.set_viewport_size({"width": 1600, "height": 900})
    lit(page)
    page.get_by_role("button", name="Handover", exact=True).click()
    page.set_viewport_size({"width": 1280, "height": 800})
    lit(page)
    frames = state(page, "frames")
    page.set_viewport_size({"width": 1600, "height": 900})
    wait_for(lambda: state(page, "frames") != frames, 60, "no picture comes for the larger window")
    lit(page)
    assert pixels(page).mean() > 20
    expect(page.get_by_text("Try again")).not_to_be_visible()


def test_a_server_that_is_gone_is_waited_for(page: Page, server: Server) -> None:
    """The page says so, keeps what was changed meanwhile, saves it when the server is back, and shows light again."""
    lit(page)
    shutter = page.get_by_label("shutter")
    before = shutter.input_value()
    server.kill()
    try:
        page.keyboard.press(",")
        expect(page.get_by_text("The server does not answer. Your change is kept")).to_be_visible()
    finally:
        server.start()
    expect(page.get_by_text("The server does not answer. Your change is kept")).not_to_be_visible()
    expect(shutter).not_to_have_value(before)
    saved = shutter.input_value()
    page.reload()
    expect(page.get_by_label("shutter")).to_have_value(saved)
    lit(page)
    page.get_by_role("button", name="Undo", exact=True).click()
    expect(page.get_by_label("shutter")).to_have_value(before)
