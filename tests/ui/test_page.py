"""The page around the picture: how much room it gets, the picture alone, the strip, sheets in the mount."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Locator, Page, expect

from ..conftest import wait_for
from .test_first_light import card, lit, state

STAGES = ["Site", "View", "Daylight", "Fixtures", "Balance", "Finish", "Handover"]


def reached(element: Locator) -> None:
    """Scroll until an element is seen; what is filled in above it meanwhile may move it away again."""

    def seen() -> bool:
        element.evaluate("e => e.scrollIntoView({block: 'center'})")
        return bool(
            element.evaluate(
                """(e) => { const b = e.getBoundingClientRect();
                    return !!b.width && b.top >= 0 && b.bottom <= innerHeight && b.left >= 0 && b.right <= innerWidth
                        && e.contains(document.elementFromPoint((b.left + b.right) / 2, (b.top + b.bottom) / 2)); }"""
            )
        )

    wait_for(seen, 20, "not to be scrolled to")


def width_of(page: Page) -> float:
    """Width of the picture on the screen."""
    box = page.get_by_test_id("picture").bounding_box()
    assert box is not None
    return box["width"]


@pytest.mark.parametrize(
    ("size", "least"), [((1280, 800), 940), ((1920, 1080), 1320), ((2560, 1440), 1850)]
)
def test_the_picture_has_the_most_of_the_page(
    page: Page, size: tuple[int, int], least: int
) -> None:
    """In every stage, without a scroll bar of the page; alone it is as wide as the window."""
    page.set_viewport_size({"width": size[0], "height": size[1]})
    page.get_by_role("button", name="Wheel room", exact=True).click()
    for stage in STAGES:
        page.get_by_role("button", name=stage, exact=True).click()
        wait_for(lambda: width_of(page) >= least, 20, f"{stage}: {width_of(page)} of {least}")
        beyond = page.evaluate(
            "[document.documentElement.scrollWidth - innerWidth, document.documentElement.scrollHeight - innerHeight]"
        )
        assert beyond == [0, 0]
    whole = width_of(page)
    page.keyboard.press("a")
    wait_for(lambda: width_of(page) == size[0], 20, "the picture does not stand alone")
    expect(page.get_by_role("navigation", name="Stages")).to_have_count(0)
    # The exposure still answers to its keys, without the line being seen.
    page.keyboard.press(",")
    page.keyboard.press("a")
    wait_for(lambda: width_of(page) == whole, 20, "the page does not come back")
    page.get_by_role("button", name="Undo", exact=True).click()


def test_everything_is_reached_in_a_small_window(page: Page) -> None:
    """Half of the usual window, as at twice its type: nothing lies over anything, and the page does not scroll."""
    page.set_viewport_size({"width": 640, "height": 400})
    lit(page)
    wait_for(lambda: width_of(page) > 220, 20, f"the picture has {width_of(page)} pixels")
    for stage in STAGES:
        button = page.get_by_role("button", name=stage, exact=True)
        expect(button).to_be_in_viewport(ratio=1)
        button.click()
        side = page.get_by_role("complementary", name=f"{stage} stage")
        reached(side.get_by_role("heading").last)
        expect(side.get_by_role("button", name="Undo", exact=True)).to_be_in_viewport(ratio=1)
        beyond = page.evaluate(
            "[document.documentElement.scrollWidth - innerWidth, document.documentElement.scrollHeight - innerHeight]"
        )
        assert beyond == [0, 0]
    for label in ("f-number", "shutter", "ISO", "white"):
        field = page.get_by_label(label, exact=True)
        assert field.evaluate("f => f.scrollWidth <= f.clientWidth + 1"), label
    first = page.get_by_role("list", name="Sources").get_by_role("slider").first
    expect(first).to_be_in_viewport(ratio=1)
    words, beside = page.get_by_test_id("status").bounding_box(), side.bounding_box()
    assert words is not None
    assert beside is not None
    assert words["x"] + words["width"] <= beside["x"]


def test_the_sheet_folds_where_it_is_not_worked_on(page: Page) -> None:
    """It lies open for the sun, folded for the balance, and a hand's wish is remembered for each stage."""
    band = page.get_by_role("slider", name="Time of day")
    page.keyboard.press("3")
    expect(band).to_be_visible()
    page.keyboard.press("5")
    expect(band).to_have_count(0)
    page.get_by_role("button", name="Open the sheet").click()
    expect(band).to_be_visible()
    page.keyboard.press("6")
    expect(band).to_have_count(0)
    page.keyboard.press("5")
    expect(band).to_be_visible()


def test_the_strip_is_the_mixer(page: Page) -> None:
    """Nine cards are seen; groups fold, and what adds most can stand first; a lamp is placed by the keyboard."""
    lit(page)
    strip = page.get_by_role("list", name="Sources")
    cards = strip.get_by_role("listitem")
    edge = page.get_by_role("main").bounding_box()
    assert edge is not None
    expect(card(page, "Sun")).to_contain_text(re.compile(r"\d+ %"))
    pendants = strip.get_by_role("listitem", name="Bench pendants")
    expect(pendants).to_have_count(0)
    strip.get_by_role("button", name="Unfold Workshop").click()
    expect(pendants).to_be_visible()
    seen = strip.evaluate(
        """(e, end) => [...e.querySelectorAll("[role=listitem]")]
           .filter((c) => c.getBoundingClientRect().right <= end).length""",
        edge["x"] + edge["width"],
    )
    assert seen >= 9
    strip.get_by_role("button", name="Fold Workshop").click()
    expect(pendants).to_have_count(0)
    # The order by share puts the sky, which lights most of this room, before the sun.
    page.keyboard.press("5")
    expect(cards.first).to_have_attribute("aria-label", "Sun")
    page.get_by_role("radio", name="Brightest first").click()
    expect(cards.first).to_have_attribute("aria-label", "Clear sky")
    page.get_by_role("radio", name="As placed").click()
    expect(cards.first).to_have_attribute("aria-label", "Sun")
    # Nothing else on the page sets a level.
    expect(page.get_by_role("slider", name="Level of Sun")).to_have_count(1)
    strip.get_by_role("button", name="Unfold Workshop").click()
    projects = page.url.rstrip("/") + "/api/projects"
    project = page.request.get(projects).json()[0]["id"]

    def order() -> list[str]:
        return [row["name"] for row in page.request.get(f"{projects}/{project}").json()["sources"]]

    before = order()
    pendants.get_by_role("button", name="Select").focus()
    page.keyboard.press("Alt+ArrowRight")
    wait_for(lambda: order() != before, 20, "it stays in its place")
    assert sorted(order()) == sorted(before)
    assert order().index("Bench pendants") == before.index("Bench pendants") + 1
    page.get_by_role("button", name="Undo", exact=True).click()
    wait_for(lambda: order() == before, 20, "it cannot be undone")


def test_a_sheet_of_pictures_lies_in_the_mount(page: Page) -> None:
    """As large as it allows; Escape goes back to the picture, a click takes what is shown."""
    lit(page)
    page.keyboard.press("5")
    proofs = page.get_by_role("region", name="Proofs")
    kept = proofs.get_by_role("img")
    expect(proofs).to_be_visible()
    before = kept.count()
    for n in (1, 2):
        page.keyboard.press("p")
        expect(kept).to_have_count(before + n)
    proofs.get_by_role("button", name="Open large").click()
    mounted = page.get_by_test_id("mounted")
    first = mounted.get_by_role("button").nth(1)
    expect(first).to_be_visible()
    box = first.bounding_box()
    assert box is not None
    assert box["width"] > 300
    page.keyboard.press("Escape")
    expect(mounted).to_have_count(0)
    proofs.get_by_role("button", name="Open large").click()
    first.click()
    expect(mounted).to_have_count(0)
    expect(page.get_by_test_id("proof")).to_be_visible()
    for n in (1, 0):
        if n == 0:
            kept.first.click()
        page.get_by_test_id("proof").get_by_role("button", name="Remove").click()
        expect(kept).to_have_count(before + n)


def test_the_last_picture_is_there_at_once(page: Page) -> None:
    """Opened again, a view shows its last picture until there is a better one; the status line says so."""
    page.get_by_role("button", name="Bench", exact=True).click()
    wait_for(lambda: state(page, "scale") == "1" and state(page, "waiting") == "0", 120)
    asked = page.url.rstrip("/") + "/api/projects"
    project = page.request.get(asked).json()[0]["id"]
    seen = page.evaluate("p => fetch(`/api/projects/${p}`).then(r => r.json())", project)
    bench = next(v["id"] for v in seen["views"] if v["name"] == "Bench")
    late = next(row["id"] for row in seen["looks"] if row["name"] == "Late sun")
    kept = f"{asked}/{project}/pictures/{late}/{bench}"
    wait_for(lambda: page.request.get(kept).status == 200, 60, "nothing was kept")
    # The server is as slow as it likes: the picture is there before its first frame.
    page.add_init_script("""
      const really = WebSocket.prototype.send;
      WebSocket.prototype.send = function (text) {
        if (window.letGo || !text.includes('"show"')) return really.call(this, text);
        (window.held ??= []).push([this, text]);
      };
    """)
    page.reload()
    page.get_by_role("button", name="Bench", exact=True).click()
    last = page.get_by_test_id("last-picture")
    expect(last).to_be_visible()
    expect(page.get_by_test_id("status")).to_contain_text("last picture of this view")
    assert last.evaluate("e => e.naturalWidth") > 100
    page.evaluate("() => { window.letGo = true; for (const [s, t] of window.held) s.send(t); }")
    expect(last).to_have_count(0)
    expect(page.get_by_test_id("status")).to_contain_text("pass")
    page.get_by_role("button", name="Wheel room", exact=True).click()


def test_anything_is_found_by_its_name(page: Page) -> None:
    """By the trade's word it leads to the section, marked and with the keyboard in it; an action is done."""
    lit(page)
    for typed, stage, section in (
        ("IES", "Fixtures", "Photometric shelf"), ("LUT", "Finish", "LUT"), ("dof", "View", "Depth of field"),
        ("turbidity", "Daylight", "Sky"), ("render passes", "Handover", "Layers of the EXR"),
        ("inverted normals", "Site", "Check"), ("key fill", "Balance", "Meter"),
    ):  # fmt: skip
        page.keyboard.press("Control+k")
        page.get_by_role("combobox", name="Find a command").fill(typed)
        page.keyboard.press("Enter")
        expect(page.get_by_role("button", name=stage, exact=True)).to_have_attribute(
            "aria-current", "step"
        )
        found = page.get_by_role("region", name=section, exact=True)
        expect(found).to_be_in_viewport()
        expect(found.locator(":focus")).to_have_count(1)
        page.get_by_role("heading", name="Westlight").click()
    whole = width_of(page)
    page.keyboard.press("Control+k")
    page.keyboard.type("full screen")
    page.keyboard.press("Enter")
    wait_for(lambda: width_of(page) > whole, 20, "the picture does not stand alone")
    page.keyboard.press("Escape")
    page.keyboard.press("Control+k")
    page.get_by_role("combobox", name="Find a command").fill("nothing like it")
    expect(page.get_by_text("Nothing is called that.")).to_be_visible()
    page.keyboard.press("Escape")


def test_a_look_says_its_light_in_words(page: Page) -> None:
    """Under the pointer, each look its own."""
    page.get_by_role("button", name="Kiln night").hover()
    expect(page.get_by_role("tooltip")).to_contain_text("lamps")
    page.mouse.move(5, 400)
    page.get_by_role("button", name="Overcast noon").hover()
    expect(page.get_by_role("tooltip")).to_contain_text("overcast sky; no lamps")
