"""Parts of the building moved and copied by hand, in the browser."""

from __future__ import annotations

from typing import Any

import httpx
from playwright.sync_api import Page, expect

from ..conftest import Server, wait_for
from .test_first_light import lit, settled


def edits(server: Server) -> dict[str, Any]:
    """What is saved of the demo building."""
    with httpx.Client(base_url=f"{server.address}/api", timeout=60) as client:
        project = client.get("/projects").json()[0]["id"]
        made: dict[str, Any] = client.get(f"/projects/{project}").json()["models"][0]["settings"][
            "edits"
        ]
        return made


def test_a_bench_is_moved_turned_copied_and_put_back(page: Page, server: Server) -> None:
    """Picked in the picture, drawn along the floor, turned by typing and by keys, copied, undone, put back."""
    lit(page)
    page.get_by_role("button", name="Site", exact=True).click()
    here = page.get_by_role("region", name="Moved parts")
    here.get_by_role("button", name="Move a part").click()
    box = page.get_by_test_id("picture").bounding_box()
    assert box is not None
    page.mouse.click(box["x"] + 0.45 * box["width"], box["y"] + 0.87 * box["height"])
    bench = here.get_by_role("button", name="Bench 3", exact=True)
    expect(bench).to_be_visible()
    mark = page.get_by_test_id("hands").get_by_label("Bench 3", exact=True)
    page.mouse.move(box["x"] + 0.5 * box["width"], box["y"] + 0.4 * box["height"])
    expect(mark).to_be_visible()
    at = mark.bounding_box()
    assert at is not None
    x, y = at["x"] + at["width"] / 2, at["y"] + at["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    for n in range(1, 6):
        page.mouse.move(x - 12 * n, y + 5 * n)
    page.mouse.up()
    history = page.get_by_role("button", name="History")
    expect(history).to_contain_text("Move Be")
    wait_for(lambda: any(edits(server)["moved"]["Bench 3"]["by"]), 30, "it was not moved")
    moved = edits(server)["moved"]["Bench 3"]
    assert abs(moved["by"][0]) + abs(moved["by"][1]) > 0.1
    # It went along the floor: what stands stays at its height.
    assert abs(moved["by"][2]) < 0.01

    bench.click()
    turned = here.get_by_role("textbox", name="Turned by, value")
    turned.fill("30")
    turned.press("Enter")
    expect(history).to_contain_text("Turned")
    here.get_by_role("slider", name="Turned by").press("ArrowRight")
    expect(turned).to_have_value("31.0°")
    settled(page)
    wait_for(lambda: edits(server)["moved"]["Bench 3"]["turn_deg"] == 31.0, 30, "not turned")

    here.get_by_role("button", name="Copy a part").click()
    page.mouse.click(box["x"] + 0.62 * box["width"], box["y"] + 0.80 * box["height"])
    copies = here.get_by_role("button", name="Remove ")
    expect(copies).to_have_count(1)
    wait_for(lambda: len(edits(server)["copies"]) == 1, 30, "no copy")
    (copy,) = edits(server)["copies"]
    assert copy["name"] == f"{copy['of']} copy"
    page.get_by_role("tab", name="plan").click()
    expect(page.get_by_text(f"{copy['name']}: drag to move it")).to_have_count(1)
    page.get_by_role("button", name="Undo").click()
    expect(copies).to_have_count(0)

    here.get_by_role("button", name="Move all 4 of Bench like it").click()
    expect(here.get_by_role("button", name="Bench 1", exact=True)).to_be_visible()
    wait_for(lambda: len(edits(server)["moved"]) == 4, 30, "not all are moved")
    here.get_by_role("button", name="Put Bench 3 back").click()
    expect(bench).to_have_count(0)
    wait_for(lambda: "Bench 3" not in edits(server)["moved"], 30, "it is not back")
