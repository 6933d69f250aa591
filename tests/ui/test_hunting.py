"""Hunting for light and finishing, driven in the browser."""

from __future__ import annotations

import io
import re
from pathlib import Path

import numpy as np
from PIL import Image
from playwright.sync_api import Page, expect

from ..conftest import wait_for
from ..core.test_finish import identity_cube
from .test_first_light import at_rest, choose, lit, pixels, settled, state


def at(page: Page, x: float, y: float) -> None:
    """Click a point of the picture, 0…1."""
    box = page.get_by_test_id("picture").bounding_box()
    assert box is not None
    page.mouse.click(box["x"] + box["width"] * x, box["y"] + box["height"] * y)


def test_pattern_map_and_aiming(page: Page) -> None:
    """The map has suns to click; two clicks in the picture give dates, one of which is taken."""
    lit(page)
    azimuth = page.get_by_test_id("azimuth").inner_text()
    choose(page.get_by_label("What the sun should do"), "Light against dark")
    expect(page.get_by_test_id("hunt")).to_have_text(re.compile(r"\d{3,} suns"))
    dots = page.locator("svg circle[fill-opacity]")
    assert dots.count() > 300
    dots.nth(dots.count() // 2).click(force=True)
    expect(page.get_by_test_id("azimuth")).not_to_have_text(azimuth)
    expect(page.get_by_test_id("stands")).to_be_visible()
    choose(page.get_by_label("What the sun should do"), "Not shown")

    page.get_by_role("button", name="Through a window").click()
    at(page, 0.42, 0.88)
    at(page, 0.75, 0.30)
    expect(page.get_by_test_id("message")).to_contain_text("no glazed opening")
    page.get_by_role("button", name="Close").click()
    at(page, 0.022, 0.30)
    aimed = page.get_by_test_id("aimed")
    expect(aimed).to_contain_text("The real sun")
    aimed.get_by_role("button").first.click()
    expect(page.get_by_test_id("stands")).not_to_be_visible()
    for _ in range(2):
        page.keyboard.press("Control+z")
        page.wait_for_timeout(300)


def test_finish_traces_nothing_and_can_be_undone(page: Page, tmp_path: Path) -> None:
    """Tone and colour follow without a new pass; a film table is taken from a file; T shows before."""
    lit(page, 2)
    page.keyboard.press("6")
    page.get_by_role("button", name="Clear all").click()
    page.get_by_role("heading", name="Westlight").click()
    page.keyboard.press("Space")
    at_rest(page)
    passes, before = state(page, "passes"), pixels(page)
    curve = page.get_by_test_id("tone-curve")
    natural = curve.locator("polyline").get_attribute("points")
    page.get_by_role("radio", name="Linear").click()
    expect(curve).to_have_attribute("aria-label", re.compile(r"clip at \+2\.4 stops"))
    assert curve.locator("polyline").get_attribute("points") != natural
    page.get_by_role("radio", name="Natural").click()
    wait_for(lambda: curve.locator("polyline").get_attribute("points") == natural, 20)
    field = page.get_by_label("Saturation, value")
    field.fill("0")
    field.press("Enter")
    wait_for(lambda: float(np.ptp(pixels(page), axis=2).mean()) < 3.0, 20, "colour stays")
    assert state(page, "passes") == passes
    page.get_by_role("heading", name="Westlight").click()
    page.keyboard.down("t")
    wait_for(lambda: np.abs(pixels(page) - before).mean() < 3, 20, "T shows no before")
    page.keyboard.up("t")
    wait_for(lambda: float(np.ptp(pixels(page), axis=2).mean()) < 3.0, 20)
    # Kept under a name it comes back after everything was cleared.
    page.get_by_label("Name for this finish").fill("No colour")
    page.keyboard.press("Enter")
    kept = page.get_by_role("list", name="Kept finishes").get_by_role("button", name="No colour")
    expect(kept.first).to_be_visible()
    page.get_by_role("button", name="Clear all").click()
    wait_for(lambda: np.abs(pixels(page) - before).mean() < 3, 20, "it cannot be cleared")
    kept.first.click()
    wait_for(lambda: float(np.ptp(pixels(page), axis=2).mean()) < 3.0, 20, "the kept one is lost")
    page.get_by_role("button", name="Remove the finish No colour").click()
    expect(kept).to_have_count(0)
    page.get_by_role("button", name="Clear all").click()
    wait_for(lambda: np.abs(pixels(page) - before).mean() < 3, 20, "it cannot be cleared")

    bad = tmp_path / "bad.cube"
    bad.write_text("LUT_3D_SIZE 4\n0 0 0")
    page.get_by_label("LUT file").set_input_files(bad)
    expect(page.get_by_test_id("message")).to_contain_text("cut short")
    page.get_by_role("button", name="Close").click()
    good = tmp_path / "Harbour.cube"
    good.write_text(identity_cube().replace("1.0", "0.6"))
    page.get_by_label("LUT file").set_input_files(good)
    shelf = page.get_by_role("combobox", name="LUT")
    expect(shelf).to_have_text("Harbour")
    wait_for(lambda: pixels(page).max() < before.max() - 20, 20, "the table does nothing")
    choose(shelf, "None")
    page.get_by_role("heading", name="Westlight").click()
    page.keyboard.press("Space")


def test_curve_from_the_picture_and_colours_beyond_the_screen(page: Page) -> None:
    """A curve is put through the light of the picture and undone; a vivid picture leaves sRGB."""
    lit(page)
    page.keyboard.press("6")
    page.get_by_role("button", name="From the picture").click()
    expect(page.get_by_text("Curve from the picture")).to_be_visible()
    page.keyboard.press("Control+z")
    expect(page.get_by_text("Curve from the picture")).not_to_be_visible()
    page.get_by_label("Mark colours beyond sRGB").check()
    expect(page.get_by_test_id("beyond")).to_contain_text("shows all of this picture")
    field = page.get_by_label("Saturation, value")
    field.fill("200")
    field.press("Enter")
    expect(page.get_by_test_id("beyond")).to_contain_text("paler")
    page.get_by_label("Mark colours beyond sRGB").uncheck()
    page.keyboard.press("Control+z")


def test_bounced_light_can_be_traced_instead(page: Page) -> None:
    """The choice starts the picture anew and is undone like any edit; N shows the grain."""
    lit(page)
    page.keyboard.press("5")
    page.get_by_role("radio", name="Traced").click()
    expect(page.get_by_role("region", name="Noise")).to_contain_text("followed to its end")

    def grain() -> float:
        raw = page.get_by_test_id("picture").screenshot()
        with Image.open(io.BytesIO(raw)) as picture:
            return float(np.abs(np.diff(np.asarray(picture.convert("L"), np.float64))).mean())

    clean = grain()
    page.keyboard.down("n")
    wait_for(lambda: grain() > 1.3 * clean, 30, "it was denoised all the same")
    page.keyboard.up("n")
    page.keyboard.press("Control+z")
    expect(page.get_by_role("region", name="Noise")).to_contain_text("Calm early")


def test_reading_the_picture(page: Page) -> None:
    """False colour with its legend, stripes, guides, find: each shows and goes away again."""
    lit(page, 1)
    before = settled(page)
    page.keyboard.press("l")
    expect(page.get_by_test_id("legend")).to_contain_text("grey")
    wait_for(lambda: np.abs(pixels(page) - before).mean() > 15, 20, "no false colours")
    page.keyboard.press("Escape")
    expect(page.get_by_test_id("legend")).not_to_be_visible()
    wait_for(lambda: np.abs(pixels(page) - before).mean() < 8, 20)
    page.keyboard.press("5")
    page.get_by_role("button", name="Raw beside denoised").click()
    line = page.get_by_role("slider", name="Wipe between raw and denoised")
    expect(line).to_have_attribute("aria-valuenow", "50")
    line.press("ArrowRight")
    expect(line).to_have_attribute("aria-valuenow", "52")
    page.keyboard.press("Escape")
    expect(line).not_to_be_visible()
    wait_for(lambda: np.abs(pixels(page) - before).mean() < 8, 20)
    page.keyboard.press("g")
    expect(page.get_by_test_id("guides")).to_be_visible()
    page.keyboard.press("Control+z")
    expect(page.get_by_test_id("guides")).not_to_be_visible()
    page.get_by_role("button", name="Select Sun").click()
    page.get_by_role("heading", name="Westlight").click()
    page.keyboard.down("f")
    wait_for(lambda: np.abs(pixels(page) - before).mean() > 10, 20, "F finds nothing")
    page.keyboard.up("f")
    wait_for(lambda: np.abs(pixels(page) - before).mean() < 8, 20, "F does not let go")


def test_proofs(page: Page) -> None:
    """Keep, change, see what differs, look at the proof, go back."""
    lit(page, 1)
    kept = settled(page)
    page.keyboard.press("5")
    proofs = page.get_by_role("region", name="Proofs")
    expect(proofs).to_be_visible()
    count = proofs.locator("img").count()
    proofs.get_by_role("button", name=re.compile("Keep this picture")).click()
    expect(proofs.locator("img")).to_have_count(count + 1)
    shutter = page.get_by_label("shutter")
    shutter.fill("1/200")
    shutter.press("Enter")
    wait_for(lambda: pixels(page).mean() < kept.mean() - 20, 20)
    page.get_by_role("heading", name="Westlight").click()
    page.keyboard.down("x")
    expect(page.get_by_test_id("proof-overlay")).to_be_visible()
    wait_for(lambda: np.abs(pixels(page) - kept).mean() < 8, 20, "the proof is another picture")
    page.keyboard.up("x")
    expect(page.get_by_test_id("proof-overlay")).not_to_be_visible()
    proofs.locator("img").first.click()
    expect(page.get_by_test_id("proof")).to_contain_text("shutter")
    page.get_by_role("button", name="Go back").click()
    wait_for(lambda: pixels(page).mean() > kept.mean() - 10, 20, "it does not go back")
    page.get_by_role("button", name="Remove", exact=True).last.click()
    expect(proofs.locator("img")).to_have_count(count)


def test_hour_sheet_and_a_paused_still(page: Page) -> None:
    """Pictures come in one after another and can be stopped; a still waits and goes on."""
    lit(page)
    page.keyboard.press("3")
    page.get_by_role("button", name="This day").click()
    sheet = page.get_by_role("region", name="Hour sheet")
    expect(sheet.get_by_test_id("sheet-progress")).to_contain_text("of 12")
    expect(sheet.locator("img").first).to_be_visible(timeout=600_000)
    sheet.get_by_role("button", name="Stop").click()
    expect(sheet.get_by_role("link", name="Save as one image")).to_be_visible()

    page.keyboard.press("7")
    for label, value in (("Width", "320"), ("At most", "5")):
        field = page.get_by_label(f"{label}, value")
        field.fill(value)
        field.press("Enter")
    page.get_by_label("occlusion").check()
    page.get_by_role("button", name="Save still").click()
    still = page.get_by_test_id("still").first
    expect(still).to_have_attribute("data-status", "rendering")
    # It reads the building first, beside whatever else the machine does.
    expect(still).to_contain_text("pass", timeout=300_000)
    still.get_by_role("button", name="Pause").click()
    expect(still).to_have_attribute("data-status", "paused")
    still.get_by_role("button", name="Resume").click()
    expect(still).to_have_attribute("data-status", "rendering")
    still.get_by_role("button", name="Cancel").click()
    expect(still).to_have_attribute("data-status", "cancelled")


def test_lights_to_begin_with_are_proposed_and_one_becomes_a_look(page: Page) -> None:
    """Six pictures of the present view lie in the mount, coarse at first; a click makes one a look, which undo takes away."""
    lit(page, 1)
    page.keyboard.press("3")
    page.get_by_role("button", name="Propose six lights").click()
    mounted = page.get_by_test_id("mounted")
    expect(mounted.locator("img")).to_have_count(6)
    first = mounted.locator("img").first
    expect(first).to_have_attribute("src", re.compile("round=[23]"))
    captions = [c.inner_text() for c in mounted.locator("button").all() if ", " in c.inner_text()]
    assert len(captions) == 6
    assert any(c.startswith("Night") for c in captions)
    mounted.get_by_role("button", name=re.compile("^Overcast")).click()
    expect(mounted).not_to_be_visible()
    chip = page.get_by_role("button", name="Overcast", exact=True)
    expect(chip).to_have_attribute("aria-pressed", "true")
    lit(page, 1)
    page.keyboard.press("Control+z")
    expect(chip).not_to_be_visible()
    lit(page, 1)


def test_light_is_painted_where_it_is_wanted(page: Page) -> None:
    """Painted where the sun should fall and where not, the map has a best sun; cleared it has none, Esc lays the brush down."""
    lit(page)
    choose(page.get_by_label("What the sun should do"), "Light where it is painted")
    page.get_by_role("button", name="Light here").click()
    box = page.get_by_test_id("picture").bounding_box()
    assert box is not None

    def paint(*points: tuple[float, float]) -> None:
        for n, (x, y) in enumerate(points):
            page.mouse.move(box["x"] + x * box["width"], box["y"] + y * box["height"], steps=4)
            if n == 0:
                page.mouse.down()
        page.mouse.up()

    paint((0.35, 0.85), (0.6, 0.87))
    brush = page.get_by_test_id("light-brush")
    expect(brush.locator("path")).to_have_count(1)
    page.get_by_role("button", name="None here").click()
    paint((0.15, 0.4), (0.3, 0.42))
    expect(brush.locator("path")).to_have_count(2)
    best = page.locator('svg circle[stroke="var(--ink)"][fill-opacity]')
    expect(page.get_by_test_id("hunt")).to_have_text(re.compile(r"\d{3,} suns"))
    expect(best).to_have_count(1)
    expect(best).to_have_attribute("fill-opacity", re.compile(r"^0\.[89]"))
    page.keyboard.press("Escape")
    expect(page.get_by_role("button", name="None here")).to_have_attribute("aria-pressed", "false")
    page.get_by_role("button", name="Clear what is painted").click()
    expect(brush.locator("path")).to_have_count(0)
    choose(page.get_by_label("What the sun should do"), "Contrast as the look shows it")
    expect(page.get_by_test_id("hunt")).to_have_text(re.compile(r"\d{3,} suns"))
    choose(page.get_by_label("What the sun should do"), "Not shown")


def test_speckles_are_clamped_in_the_picture(page: Page) -> None:
    """What the clamp takes is told; without it the picture of before is there again."""
    lit(page)
    page.get_by_role("button", name="Balance", exact=True).click()
    clamp = page.get_by_role("button", name="Clamp speckles")
    clamp.click()
    expect(page.get_by_text(re.compile(r"The clamp takes (nothing|0\.\d\d %)"))).to_be_visible()
    clamp.click()
    expect(page.get_by_text("The clamp takes")).to_have_count(0)
