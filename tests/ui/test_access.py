"""Everyone can use the page: every stage and dialog, by day and by night, held against the rules of an outside checker."""

from __future__ import annotations

import re
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Page, expect

from .test_first_light import choose, lit

CHECKER = Path(__file__).parents[2] / "web/node_modules/axe-core/axe.min.js"
RULES = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "best-practice"]


def faults(page: Page, part: str = "html") -> list[str]:
    """What the checker finds wrong with a part of what is shown: the rule, and the element."""
    if not page.evaluate("'axe' in window"):
        page.evaluate(CHECKER.read_text())
    found: dict[str, Any] = page.evaluate(
        "([part, rules]) => axe.run(part, {runOnly: rules, resultTypes: ['violations']})",
        [part, RULES],
    )
    return [f"{v['id']}: {node['html'][:160]}" for v in found["violations"] for node in v["nodes"]]


@pytest.mark.parametrize("theme", ["day", "night"])
def test_stages_and_dialogs(page: Page, theme: str) -> None:
    """Names, contrast, order of headings, roles and landmarks."""
    page.add_init_script(f"localStorage.theme = '{theme}'")
    page.reload()
    lit(page)
    page.keyboard.press("Space")
    expect(page.locator("html")).to_have_attribute("data-theme", theme)
    wrong: dict[str, list[str]] = {}
    stages = page.get_by_role("navigation", name="Stages").get_by_role("button").all()
    for n, stage in enumerate(stages, 1):
        page.keyboard.press(str(n))
        expect(stage).to_have_attribute("aria-current", "step")
        side = page.get_by_role("complementary", name=re.compile("stage$"))
        expect(side.get_by_role("heading").first).to_be_visible()
        if stage.inner_text() == "Fixtures":
            page.get_by_role("button", name=re.compile("^Unfold Workshop")).click()
            page.get_by_role("button", name="Select Bench pendants").click()
            expect(page.get_by_label("Unit of the amount")).to_be_visible()
        wrong[stage.inner_text()] = faults(page)
    page.get_by_role("button", name=re.compile("^Fold Workshop")).click()

    page.keyboard.press("?")
    expect(page.get_by_role("dialog")).to_be_visible()
    wrong["keys"] = faults(page)
    page.keyboard.press("Escape")
    page.keyboard.press("Control+k")
    expect(page.get_by_role("combobox", name="Find a command")).to_be_visible()
    wrong["commands"] = faults(page)
    # The list is the index of the guide.
    page.keyboard.type("lut")
    page.keyboard.press("Shift+Enter")
    told = page.get_by_role("dialog", name="Guide").locator(".found")
    expect(told).to_contain_text("lays a table of colours over the picture")
    expect(told).to_be_in_viewport()
    wrong["guide"] = faults(page)
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Look …").click()
    expect(page.get_by_role("dialog", name="Look")).to_be_visible()
    wrong["look"] = faults(page)
    page.keyboard.press("Escape")
    page.get_by_role("button", name=re.compile("^History")).click()
    expect(page.get_by_role("dialog", name="History")).to_be_visible()
    wrong["history"] = faults(page)
    page.keyboard.press("Escape")
    page.keyboard.press("2")
    page.get_by_role("combobox", name="Composition guides").click()
    expect(page.get_by_role("listbox")).to_be_visible()
    # While a list is open, the page behind it is hidden from those who do not see it.
    wrong["list"] = faults(page, "[role=listbox]")
    page.keyboard.press("Escape")
    page.get_by_role("button", name=re.compile("^All projects")).click()
    expect(page.get_by_role("list", name="Projects")).to_be_visible()
    wrong["home"] = faults(page)
    page.get_by_role("button", name="New project …").click()
    expect(page.get_by_role("dialog")).to_be_visible()
    wrong["new project"] = faults(page)
    page.keyboard.press("Escape")
    assert not {where: found for where, found in wrong.items() if found}


def test_a_list_is_worked_by_keys(page: Page) -> None:
    """It opens, its options are found by their first letters, and letters in it are not the page's keys."""
    lit(page)
    page.keyboard.press("2")
    guides = page.get_by_role("combobox", name="Composition guides")
    before = guides.inner_text()
    guides.focus()
    page.keyboard.press("Enter")
    # The list has the keyboard once it is laid out.
    expect(page.get_by_role("listbox").locator(":focus")).to_have_count(1)
    options = page.get_by_role("option").all_inner_texts()
    other = next(o for o in options if o != before and [p[0] for p in options].count(o[0]) == 1)
    page.keyboard.press(other[0].lower())
    expect(page.get_by_role("option", name=other, exact=True)).to_be_focused()
    page.keyboard.press("Enter")
    expect(guides).to_have_text(other)
    expect(page.get_by_role("button", name="View", exact=True)).to_have_attribute(
        "aria-current", "step"
    )
    choose(guides, before)
    expect(guides).to_have_text(before)
