"""The page of all projects: new, renamed, copied, carried to a file and back, removed and brought back."""

from __future__ import annotations

import base64
import re
import zipfile
from pathlib import Path

import numpy as np
from playwright.sync_api import Locator, Page, expect

from ..core.test_models import glb
from .test_first_light import card, lit, settled


def home(page: Page) -> Locator:
    """Go to all projects; returns their list."""
    page.get_by_role("button", name=re.compile("^All projects")).click()
    return page.get_by_role("list", name="Projects")


def more(page: Page, projects: Locator, name: str, what: str) -> None:
    """Choose something from a project's menu."""
    projects.get_by_role("button", name=f"More for {name}", exact=True).click()
    page.get_by_role("menuitem", name=what).click()


def dropped(page: Page, file: Path) -> None:
    """Let go of a file over the page."""
    page.evaluate(
        """([name, text]) => {
            const bytes = Uint8Array.from(atob(text), (c) => c.charCodeAt(0));
            const dataTransfer = new DataTransfer();
            dataTransfer.items.add(new File([bytes], name));
            const list = document.querySelector("[aria-label=Projects]");
            for (const kind of ["dragover", "drop"])
                list.dispatchEvent(new DragEvent(kind, {bubbles: true, cancelable: true, dataTransfer}));
        }""",
        [file.name, base64.b64encode(file.read_bytes()).decode()],
    )


def test_a_zip_with_two_buildings_is_dropped_and_one_is_chosen(page: Page, tmp_path: Path) -> None:
    """Let go over the list it is the building of a new project; which of two is read is asked, by keyboard too."""
    with zipfile.ZipFile(tmp_path / "site.zip", "w") as packed:
        packed.write(glb(tmp_path / "hall.glb"), "hall.glb")
        packed.write(glb(tmp_path / "shed.glb"), "yard/shed.glb")
    home(page)
    dropped(page, tmp_path / "site.zip")
    dialog = page.get_by_role("dialog", name="New project")
    expect(dialog).to_contain_text("site.zip")
    dialog.get_by_role("button", name="Make it").click()
    choice = page.get_by_role("dialog", name="Which building?")
    expect(choice.get_by_role("radio")).to_have_count(2)
    choice.get_by_role("radio", name="hall.glb").focus()
    page.keyboard.press("ArrowDown")
    expect(choice.get_by_role("radio", name="shed.glb")).to_be_checked()
    choice.get_by_role("button", name="Read it").click()
    lit(page)
    page.keyboard.press("1")
    expect(page.get_by_role("region", name="Building")).to_contain_text("site.zip · shed.glb")
    projects = home(page)
    more(page, projects, "New building", "Remove")
    page.get_by_role("button", name="Remove").click()
    expect(projects.get_by_role("listitem", name="New building")).to_have_count(0)


def test_a_project_opened_again_has_its_picture_and_prints(page: Page) -> None:
    """From the list back to the project one came from: what the page had put away is sent once more."""
    lit(page, every=True)
    projects = home(page)
    projects.get_by_role("button", name="Open Saltmarsh Pottery").click()
    expect(page.get_by_test_id("status")).to_contain_text("pass")
    expect(card(page, "Sun").locator("img")).to_be_visible()
    expect(card(page, "Sun")).to_contain_text(re.compile(r"\d+ %"))


def test_a_project_from_its_first_page_to_a_file_and_back(page: Page, tmp_path: Path) -> None:
    """Made with its place and building, exported, opened again: the same picture under another name."""
    projects = home(page)
    expect(projects.get_by_role("listitem", name="Saltmarsh Pottery")).to_contain_text("Kiln night")
    page.get_by_role("button", name="New project …").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Name").fill("Boat shed")
    dialog.get_by_label("Find a town").fill("Lisbon")
    dialog.get_by_role("list", name="Towns").get_by_role("button").first.click()
    dialog.get_by_label("Building of the new project").set_input_files(glb(tmp_path / "shed.glb"))
    dialog.get_by_role("button", name="Make it").click()
    expect(page.get_by_role("button", name=re.compile("this is Boat shed"))).to_be_visible()
    lit(page)
    before = settled(page)
    projects = home(page)
    with page.expect_download() as download:
        more(page, projects, "Boat shed", "Export as one file")
    file = tmp_path / download.value.suggested_filename
    assert file.name == "Boat shed.westlight.zip"
    download.value.save_as(file)

    more(page, projects, "Boat shed", "Rename")
    name = projects.get_by_label("Name of Boat shed")
    name.fill("Net loft")
    name.press("Enter")
    expect(projects.get_by_role("listitem", name="Net loft", exact=True)).to_be_visible()
    dropped(page, file)
    expect(page.get_by_role("button", name=re.compile("this is Boat shed"))).to_be_visible()
    lit(page)
    assert np.abs(settled(page) - before).mean() < 4
    page.keyboard.press("1")
    expect(page.get_by_label("Latitude, value")).to_have_value("38.7°")

    # Something else is refused in words, and nothing changes.
    projects = home(page)
    (tmp_path / "other.zip").write_bytes(b"PK nonsense")
    page.get_by_label("Project file").set_input_files(tmp_path / "other.zip")
    expect(page.get_by_test_id("message")).to_contain_text("not a project file")
    page.get_by_role("button", name="Close").click()

    more(page, projects, "Net loft", "Duplicate")
    expect(projects.get_by_role("listitem", name="Net loft copy")).to_be_visible()
    page.get_by_label("Find a project").fill("loft")
    expect(projects.get_by_role("listitem")).to_have_count(2)
    for gone in ("Net loft copy", "Net loft"):
        more(page, projects, gone, "Remove …")
        page.get_by_role("alertdialog").get_by_role("button", name="Remove").click()
        expect(projects.get_by_role("listitem", name=gone, exact=True)).to_have_count(0)
    page.get_by_role("button", name="Bring it back").click()
    expect(projects.get_by_role("listitem", name="Net loft", exact=True)).to_be_visible()
    page.get_by_label("Find a project").fill("")
    projects.get_by_role("button", name="Open Saltmarsh Pottery").click()
    lit(page)


def test_from_a_new_project_to_a_saved_still_by_the_keyboard_alone(
    page: Page, tmp_path: Path
) -> None:
    """No pointer: what has the keyboard is pressed; Enter in a field gives the keyboard back to the page."""

    def press(what: Locator, key: str = "Enter") -> None:
        what.focus()
        expect(what).to_be_focused()
        page.keyboard.press(key)

    def typed(label: str, text: str) -> None:
        page.get_by_label(label, exact=True).focus()
        page.keyboard.press("Control+a")
        page.keyboard.type(text)
        page.keyboard.press("Enter")

    press(page.get_by_role("button", name=re.compile("^All projects")))
    press(page.get_by_role("button", name="New project …"))
    dialog = page.get_by_role("dialog", name="New project")
    expect(dialog.get_by_label("Name")).to_be_focused()
    page.keyboard.type("Keys alone")
    with page.expect_file_chooser() as chooser:
        press(dialog.get_by_role("button", name="Choose a file …"))
    chooser.value.set_files(glb(tmp_path / "shed.glb"))
    expect(dialog).to_contain_text("shed.glb")
    press(dialog.get_by_role("button", name="Make it"))
    expect(page.get_by_role("button", name=re.compile("this is Keys alone"))).to_be_visible()
    expect(page.get_by_role("region", name="Building")).to_contain_text("shed.glb")
    lit(page)
    page.keyboard.press("7")
    typed("Width, value", "320")
    typed("At most, value", "0.1")
    # The field has let the keyboard go: a number is a stage again.
    page.keyboard.press("3")
    expect(page.get_by_role("slider", name="Time of day")).to_be_visible()
    sky = page.get_by_role("radiogroup", name="Kind of sky")
    press(sky.get_by_role("radio", checked=True), "ArrowRight")
    expect(sky.get_by_role("radio", name="CIE")).to_be_checked()
    page.keyboard.press("7")
    typed("Width, value", "320")
    typed("At most, value", "0.1")
    press(page.get_by_role("button", name="Save still"))
    still = page.get_by_test_id("still").first
    expect(still).to_have_attribute("data-status", "done", timeout=600_000)
    press(page.get_by_role("button", name=re.compile("^All projects")))
    projects = page.get_by_role("list", name="Projects")
    press(projects.get_by_role("button", name="More for Keys alone", exact=True))
    expect(page.get_by_role("menu").locator(":focus")).to_have_count(1)
    page.keyboard.press("End")
    expect(page.get_by_role("menuitem", name="Remove")).to_be_focused()
    page.keyboard.press("Enter")
    press(page.get_by_role("alertdialog").get_by_role("button", name="Remove"))
    expect(projects.get_by_role("listitem", name="Keys alone", exact=True)).to_have_count(0)
