"""Curtains and glass of openings, look by look, in the browser."""

from __future__ import annotations

from typing import Any

import httpx
from playwright.sync_api import Page, expect

from ..conftest import Server, wait_for
from .test_first_light import lit


def dress(server: Server, look: int) -> list[dict[str, Any]]:
    """What is dressed in a look of the demo."""
    with httpx.Client(base_url=f"{server.address}/api", timeout=60) as client:
        project = client.get("/projects").json()[0]["id"]
        looks = client.get(f"/projects/{project}").json()["looks"]
        made = looks[look]["settings"]["dress"].values()
        return [d for d in made if (d["hangs"], d["glass"]) != ("nothing", "as it is")]


def test_a_window_gets_a_curtain_in_one_look(page: Page, server: Server) -> None:
    """Hung, drawn by the slider, given to all of its kind, tinted, undone; other looks have none of it."""
    lit(page)
    page.get_by_role("button", name="Daylight", exact=True).click()
    openings = page.get_by_role("list", name="Openings")
    row = openings.get_by_role("button", name="Opening 3 3.6")
    row.click()
    openings.get_by_label("Before Opening 3", exact=True).click()
    page.get_by_role("option", name="Curtain", exact=True).click()
    drawn = openings.get_by_role("textbox", name="Drawn, value")
    expect(drawn).to_have_value("100 %")
    openings.get_by_role("slider", name="Drawn").press("Home")
    expect(drawn).to_have_value("0 %")
    drawn.fill("40")
    drawn.press("Enter")
    expect(row).to_contain_text("curtain")
    openings.get_by_role("radio", name="Tinted").click()
    expect(row).to_contain_text("curtain, tinted")
    wait_for(lambda: any(d["glass"] == "tinted" for d in dress(server, 0)), 30, "not tinted")
    (made,) = dress(server, 0)
    assert (made["hangs"], made["drawn"], made["glass"]) == ("curtain", 0.4, "tinted")
    assert made["panes"]

    openings.get_by_role("button", name="The same for all 4 of its kind").click()
    expect(openings.get_by_text("· curtain, tinted")).to_have_count(4)
    wait_for(lambda: [d["drawn"] for d in dress(server, 0)] == [0.4] * 4, 30, "not all are alike")
    assert dress(server, 1) == []
    page.get_by_role("button", name="Blue hour").click()
    expect(openings.get_by_text("· curtain, tinted")).to_have_count(0)
    page.get_by_role("button", name="Late sun").click()
    expect(openings.get_by_text("· curtain, tinted")).to_have_count(4)
    page.get_by_role("button", name="Undo").click()
    expect(openings.get_by_text("· curtain, tinted")).to_have_count(1)

    # With nothing before it and its own glass it is as in the other looks.
    openings.get_by_label("Before Opening 3", exact=True).click()
    page.get_by_role("option", name="Nothing", exact=True).click()
    openings.get_by_role("radio", name="As it is").click()
    expect(row).not_to_contain_text("curtain")
    wait_for(lambda: dress(server, 0) == [], 30, "it is still dressed")
