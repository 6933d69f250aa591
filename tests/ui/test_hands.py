"""Hands in the picture: lamps and sunlight are taken hold of where they are seen."""

from __future__ import annotations

import re
from typing import Any

import httpx
from playwright.sync_api import Locator, Page, expect

from ..conftest import Server, wait_for
from .test_first_light import lit


def project(server: Server) -> dict[str, Any]:
    """The demo project as it is stored."""
    with httpx.Client(base_url=f"{server.address}/api", timeout=60) as client:
        found: dict[str, Any] = client.get(
            f"/projects/{client.get('/projects').json()[0]['id']}"
        ).json()
    return found


def places(server: Server, name: str) -> list[dict[str, Any]]:
    """Copies of a lamp."""
    row = next(s for s in project(server)["sources"] if s["name"] == name)
    found: list[dict[str, Any]] = row["settings"]["places"]
    return found


def middle(mark: Locator) -> tuple[float, float]:
    """Where a mark lies on the page."""
    box = mark.bounding_box()
    assert box is not None
    return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2


def drag(page: Page, mark: Locator, dx: float, dy: float) -> None:
    """Take hold of a mark and move it; it is not let go."""
    x, y = middle(mark)
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + dx / 2, y + dy / 2, steps=3)
    page.mouse.move(x + dx, y + dy, steps=3)


def back(mark: Locator, at: tuple[float, float]) -> None:
    """Wait until a mark stands where it stood: taken hold of on its way, it would be missed."""
    wait_for(
        lambda: max(abs(a - b) for a, b in zip(middle(mark), at, strict=True)) < 2, 60,
        "the mark does not come back",
    )  # fmt: skip


def into(page: Page) -> dict[str, float]:
    """Put the pointer into the picture; the picture's box."""
    box = page.get_by_test_id("picture").bounding_box()
    assert box is not None
    page.mouse.move(box["x"] + box["width"] * 0.5, box["y"] + box["height"] * 0.95)
    return {**box}


def openings(server: Server) -> dict[str, Any]:
    """What was changed of the openings."""
    edits = project(server)["models"][0]["settings"]["edits"]
    return {"added": edits["added_openings"], "edited": edits["openings"]}


def test_an_opening_is_dragged_copied_and_nudged(page: Page, server: Server) -> None:
    """Moved, a found window is one placed by hand and the found one is left out; with Ctrl a copy; keys; Delete."""
    lit(page, 1)
    before = openings(server)
    page.keyboard.press("3")
    into(page)
    marks = page.get_by_test_id("hands").get_by_role("button", name=re.compile("^Opening"))
    expect(marks.first).to_be_visible()
    name = str(marks.first.get_attribute("aria-label"))

    def mark(called: str) -> Locator:
        return page.get_by_test_id("hands").get_by_role("button", name=called, exact=True)

    drag(page, mark(name), 40, 10)
    page.keyboard.press("Escape")
    page.mouse.up()
    assert openings(server) == before
    into(page)
    drag(page, mark(name), 40, 10)
    page.mouse.up()
    wait_for(lambda: openings(server) != before, 60, "the opening was not moved")
    moved = openings(server)
    (own,) = moved["added"]
    assert own["name"] == f"{name} by hand"
    assert moved["edited"][name]["on"] is False
    undo = page.get_by_role("button", name="Undo", exact=True)

    into(page)
    hatch = mark(f"{name} by hand")
    expect(hatch).to_be_visible()
    page.keyboard.down("Control")
    drag(page, hatch, -30, 5)
    page.mouse.up()
    page.keyboard.up("Control")
    wait_for(lambda: len(openings(server)["added"]) == 2, 60, "there is no copy")
    undo.click()
    wait_for(lambda: openings(server) == moved, 60, "the copy stays")

    into(page)
    hatch.focus()
    page.keyboard.press("PageUp")
    wait_for(lambda: openings(server) != moved, 60, "a key moves nothing")
    (lifted,) = openings(server)["added"]
    assert abs(lifted["position"][2] - own["position"][2] - 0.05) < 1e-3
    into(page)
    hatch.focus()
    page.keyboard.press("Delete")
    wait_for(lambda: not openings(server)["added"], 60, "it is not removed")
    for _ in range(3):
        undo.click()
    wait_for(lambda: openings(server) == before, 60, "undo does not lead back")


def test_a_lamp_is_dragged_copied_and_nudged_where_it_is_seen(page: Page, server: Server) -> None:
    """A shelf light slides over what is under it; Escape puts it back; with Ctrl a copy goes along; keys move it."""
    lit(page, 1)
    before = places(server, "Shelf lights")
    page.keyboard.press("4")
    into(page)
    mark = page.get_by_test_id("hands").get_by_role("button", name="Shelf lights", exact=True)
    expect(mark).to_be_visible()
    stood = middle(mark)

    # Given up, nothing has happened.
    drag(page, mark, -60, 30)
    expect(page.get_by_test_id("status")).to_contain_text("while you move")
    page.keyboard.press("Escape")
    page.mouse.up()
    assert places(server, "Shelf lights") == before
    into(page)
    back(mark, stood)

    drag(page, mark, -60, 30)
    page.mouse.up()
    wait_for(lambda: places(server, "Shelf lights") != before, 60, "the lamp was not moved")
    moved = places(server, "Shelf lights")
    assert len(moved) == len(before)
    undo = page.get_by_role("button", name="Undo", exact=True)
    undo.hover()
    expect(page.get_by_role("tooltip")).to_contain_text("Move Shelf lights")
    undo.click()
    wait_for(lambda: places(server, "Shelf lights") == before, 60, "undo does not bring it back")

    into(page)
    back(mark, stood)
    page.keyboard.down("Control")
    drag(page, mark, -40, 20)
    page.mouse.up()
    page.keyboard.up("Control")
    wait_for(lambda: len(places(server, "Shelf lights")) == len(before) + 1, 60, "no copy was made")
    assert places(server, "Shelf lights")[0] == before[0]
    undo.click()
    wait_for(lambda: places(server, "Shelf lights") == before, 60, "undo leaves the copy")

    # Keys: five centimetres up.
    into(page)
    back(mark, stood)
    mark.focus()
    page.keyboard.press("PageUp")
    wait_for(lambda: places(server, "Shelf lights") != before, 60, "the key does nothing")
    up = places(server, "Shelf lights")[0]["position"]
    assert abs(up[2] - before[0]["position"][2] - 0.05) < 1e-6
    assert up[:2] == before[0]["position"][:2]


def test_a_hand_faster_than_the_answers_keeps_its_last_place(page: Page, server: Server) -> None:
    """Let go before the first answer is there, the lamp goes where it was let go, as one step."""
    lit(page, 1)
    before = places(server, "Shelf lights")
    page.keyboard.press("4")
    into(page)
    mark = page.get_by_test_id("hands").get_by_role("button", name="Shelf lights", exact=True)
    expect(mark).to_be_visible()
    page.evaluate("""() => {
      const really = WebSocket.prototype.send;
      WebSocket.prototype.send = function (text) {
        if (!text.includes('"slide"')) return really.call(this, text);
        window.heldBack = (window.heldBack ?? 0) + 1;
        window.answerNow = () => really.call(this, text);
      };
    }""")
    drag(page, mark, -60, 30)
    page.mouse.up()
    assert page.evaluate("window.heldBack") == 1
    assert places(server, "Shelf lights") == before
    page.evaluate("""() => {
      const first = window.answerNow;
      delete window.answerNow;
      first();
    }""")
    wait_for(lambda: page.evaluate("!!window.answerNow"), 60, "the last place is not asked about")
    page.evaluate("window.answerNow()")
    wait_for(lambda: places(server, "Shelf lights") != before, 60, "the lamp was not moved")
    page.get_by_role("button", name="Undo", exact=True).click()
    wait_for(lambda: places(server, "Shelf lights") == before, 60, "it was more than one step")


def test_a_patch_of_sunlight_is_dragged_and_the_sun_follows(page: Page, server: Server) -> None:
    """Free by default, on the path of the day with Shift; Escape puts the sun back."""
    lit(page, 1)
    page.keyboard.press("3")
    box = into(page)
    canvas = page.get_by_test_id("picture")

    def cursor() -> str:
        return str(canvas.evaluate("c => getComputedStyle(c).cursor"))

    # Sunlight lies on the floor somewhere: the pointer turns into a hand over it.
    spots = [(x / 40, y / 20) for y in range(13, 19) for x in range(6, 36)]
    found = None
    for x, y in spots:
        page.mouse.move(box["x"] + box["width"] * x, box["y"] + box["height"] * y)
        page.wait_for_timeout(260)
        if cursor() == "grab":
            found = box["x"] + box["width"] * x, box["y"] + box["height"] * y
            break
    assert found is not None, "no sunlight can be taken hold of"
    azimuth = page.get_by_text(re.compile(r"Azimuth [\d.]+°"))
    before = azimuth.inner_text()

    def hold(keys: str = "") -> None:
        page.mouse.move(*found)
        wait_for(lambda: cursor() == "grab", 30, "the sunlight is gone")
        page.mouse.down()
        wait_for(lambda: cursor() == "grabbing", 30, "it is not held")
        if keys:
            page.keyboard.down(keys)
        page.mouse.move(found[0] + 30, found[1] - 6, steps=3)
        expect(azimuth).not_to_have_text(before)

    hold()
    page.keyboard.press("Escape")
    page.mouse.up()
    expect(azimuth).to_have_text(before)

    hold()
    page.mouse.up()
    page.get_by_role("button", name="Undo", exact=True).hover()
    expect(page.get_by_role("tooltip")).to_contain_text("Move the sunlight")
    assert project(server)["looks"][0]["settings"]["sun"]["mode"] == "free"
    page.get_by_role("button", name="Undo", exact=True).click()
    expect(azimuth).to_have_text(before)

    minutes = project(server)["looks"][0]["settings"]["minutes"]
    hold("Shift")
    page.mouse.up()
    page.keyboard.up("Shift")
    wait_for(
        lambda: project(server)["looks"][0]["settings"]["minutes"] != minutes, 60, "the time stays"
    )
    assert project(server)["looks"][0]["settings"]["sun"]["mode"] == "time"
