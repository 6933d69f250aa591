"""Two tabs, a window of another size, a server that is gone: each sees its own, and nothing is lost."""

from __future__ import annotations

import re
from pathlib import Path

import numpy as np
from playwright.sync_api import Page, expect

from ..conftest import Server, wait_for
from ..core.test_models import glb
from .conftest import SMALL
from .test_first_light import lit, pixels, settled, state


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


def test_two_projects_in_windows_of_two_sizes(page: Page, tmp_path: Path) -> None:
    """Each tab has its own building at its own size, at the same time; a change in one leaves the other alone."""
    lit(page)
    mine = settled(page)
    other = page.context.browser.new_page(
        viewport={"width": 1500, "height": 900}, device_scale_factor=0.36
    )
    other.goto(page.url)
    other.get_by_role("button", name=re.compile("^All projects")).click()
    other.get_by_role("button", name="New project …").click()
    dialog = other.get_by_role("dialog")
    dialog.get_by_label("Name").fill("Shed beside")
    dialog.get_by_label("Building of the new project").set_input_files(glb(tmp_path / "shed.glb"))
    dialog.get_by_role("button", name="Make it").click()
    lit(other)
    shed = pixels(other)
    widths = [p.get_by_test_id("picture").evaluate("e => e.width") for p in (page, other)]
    assert widths[0] != widths[1]
    assert np.abs(shed - mine).mean() > 10
    # Darker there, and not here.
    for _ in range(6):
        other.keyboard.press(",")
    wait_for(lambda: pixels(other).mean() < 0.8 * shed.mean(), 60, "it gets no darker")
    page.bring_to_front()
    lit(page)
    assert np.abs(settled(page) - mine).mean() < 8
    assert page.get_by_test_id("picture").evaluate("e => e.width") == widths[0]
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
