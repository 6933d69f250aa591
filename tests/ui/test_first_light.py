"""First light, driven as a new user would: in a browser, with mouse and keyboard."""

from __future__ import annotations

import io
import re
from pathlib import Path

import numpy as np
from PIL import Image
from playwright.sync_api import Locator, Page, expect

from westlight.core.files import read_layers

from ..conftest import wait_for
from ..core.test_models import glb


def state(page: Page, name: str) -> str:
    """What the picture's canvas says of itself."""
    return page.get_by_test_id("picture").evaluate(f"e => e.dataset.{name} ?? ''")


def lit(page: Page, passes: int = 1, every: bool = False) -> None:
    """Wait for a picture with bounced light, of every source of the mix if asked."""
    seen: dict[str, str | int | None] = {}

    def there() -> bool:
        seen.update({of: state(page, of) for of in ("passes", "moving", "waiting", "frames")})
        seen["last picture"] = page.get_by_test_id("last-picture").count()
        return (
            int(seen["passes"] or 0) >= passes
            and seen["moving"] == "false"
            and (not every or seen["waiting"] == "0")
            and seen["last picture"] == 0
        )

    try:
        wait_for(there, 120)
    except AssertionError:
        said = [t for of in ("alert", "status") for t in page.get_by_role(of).all_inner_texts()]
        raise AssertionError(f"no picture with light: {seen}, {said}") from None


def choose(of: Locator, option: str) -> None:
    """Open a list and take one of its options by its name."""
    of.click()
    of.page.get_by_role("option", name=option, exact=True).click()


def drawn_plan(page: Page) -> Locator:
    """Turn the sheet to the plan and wait until the building is cut: before that a click finds nothing."""
    page.get_by_role("tab", name="plan", exact=True).click()
    plan = page.get_by_test_id("plan-sheet")
    expect(plan).to_have_attribute("aria-busy", "false")
    return plan


def card(page: Page, name: str) -> Locator:
    """The card of a source in the strip, out of the group or the fold it lies in."""
    strip = page.get_by_role("list", name="Sources")
    found = strip.get_by_role("listitem", name=name, exact=True)
    expect(strip.get_by_role("listitem").first).to_be_visible()
    folds = strip.get_by_role("button", expanded=False)
    while not found.count() and folds.count():
        folds.first.click()
    return found


def pixels(page: Page) -> np.ndarray:
    """The picture as shown, scaled to 64 × 36 so that noise does not matter."""
    raw = page.get_by_test_id("picture").screenshot()
    with Image.open(io.BytesIO(raw)) as picture:
        return np.asarray(picture.convert("RGB").resize((64, 36)), np.float64)


def brightest(source: Locator) -> float:
    """Brightest value in the little picture of a source on the strip."""
    with Image.open(io.BytesIO(source.locator("img").first.screenshot())) as picture:
        return float(np.asarray(picture.convert("RGB"), np.float64).max())


def another_frame(page: Page) -> bool:
    """Wait for a frame; False when none comes, soon if the last one said so of itself."""
    frames = state(page, "frames")
    for tenths in range(42):
        page.wait_for_timeout(100)
        if state(page, "frames") != frames:
            return True
        if tenths >= 7 and state(page, "settled") == "true":
            break
    return False


def settled(page: Page) -> np.ndarray:
    """The picture once two looks at it agree, with another frame between them if one comes."""
    last = pixels(page)
    for _ in range(60):
        another_frame(page)
        now = pixels(page)
        if np.abs(now - last).mean() < 0.6:
            return now
        last = now
    raise AssertionError("the picture does not come to rest")


def at_rest(page: Page) -> None:
    """Wait until a paused picture has taken in what was still being denoised: no more frames come."""
    for _ in range(160):
        if not another_frame(page):
            return
    raise AssertionError("frames go on though the picture is paused")


def drag(page: Page, at: Locator, dx: float, dy: float) -> None:
    """Drag an element in small steps."""
    box = at.bounding_box()
    assert box is not None
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    for i in range(1, 11):
        page.mouse.move(x + dx * i / 10, y + dy * i / 10)
        page.wait_for_timeout(60)
    page.mouse.up()


def test_first_light(page: Page, tmp_path: Path) -> None:
    """Sun, lamp, level, still: the whole way once."""
    expect(page.get_by_role("heading", name="Westlight")).to_be_visible()
    lit(page, 2)
    before = settled(page)
    assert before.mean() > 40

    # Drag the sun along its path: the light falls elsewhere.
    azimuth = page.get_by_test_id("azimuth").inner_text()
    drag(page, page.get_by_test_id("sun-disc"), 55, 14)
    expect(page.get_by_test_id("azimuth")).not_to_have_text(azimuth)

    def apart() -> np.ndarray:
        return np.asarray(np.abs(pixels(page) - before).mean(axis=2))

    # On a busy machine the frame of before is there for a while.
    wait_for(lambda: float(np.percentile(apart(), 95)) > 25, 120, "the sun's light stays where it was")  # fmt: skip
    lit(page, 1)
    settled(page)
    assert np.percentile(apart(), 95) > 25
    page.get_by_role("button", name="Undo", exact=True).click()
    expect(page.get_by_test_id("azimuth")).to_have_text(azimuth)
    lit(page, 1)
    wait_for(lambda: apart().mean() < 6, 120, "the light of before does not come back")

    # Add a lamp by clicking a surface.
    page.keyboard.press("4")
    page.get_by_role("button", name="Disc", exact=True).click()
    box = page.get_by_test_id("picture").bounding_box()
    assert box is not None
    page.mouse.click(box["x"] + box["width"] * 0.60, box["y"] + box["height"] * 0.36)
    lamp = page.get_by_role("list", name="Sources").get_by_role(
        "listitem", name=re.compile("^Disc")
    )
    expect(lamp).to_be_visible()
    amount = page.get_by_label("Amount, value")
    amount.fill("4000")
    amount.press("Enter")
    expect(amount).to_have_value("4000 lm")
    wait_for(lambda: brightest(lamp) > 40, 90, "the lamp's own picture stays dark")
    lit(page, 1)
    settled(page)

    # Pause, then drag its level: the picture follows without a new pass.
    page.locator("body").press("Escape")
    page.get_by_role("heading", name="Westlight").click()
    page.keyboard.press("Space")
    expect(page.get_by_test_id("status")).to_contain_text("paused")
    at_rest(page)
    passes, dark = state(page, "passes"), pixels(page)
    level = lamp.get_by_role("slider")
    lamp.scroll_into_view_if_needed()
    drag(page, level, 28, 0)
    expect(lamp.get_by_label(re.compile("value"))).not_to_have_value("0.0")
    wait_for(lambda: float(np.percentile(pixels(page) - dark, 99)) > 12, 20,
             "the level changed nothing")  # fmt: skip
    assert state(page, "passes") == passes
    page.keyboard.press("Space")

    # Save a still and read it back.
    page.get_by_role("button", name="Handover").click()
    for label, value in (("Width", "320"), ("At most", "0.1")):
        field = page.get_by_label(f"{label}, value")
        field.fill(value)
        field.press("Enter")
    kept = page.get_by_test_id("still").count()
    page.get_by_role("button", name="Save still").click()
    expect(page.get_by_test_id("still")).to_have_count(kept + 1)
    still = page.get_by_test_id("still").first
    expect(still).to_have_attribute("data-status", "done", timeout=600_000)
    with page.expect_download() as download:
        still.get_by_role("link", name=re.compile("EXR")).click()
    file = tmp_path / "still.exr"
    download.value.save_as(file)
    layers = read_layers(file)
    assert any(name.startswith("Disc") for name in layers)
    assert layers[""].mean() > 0

    # Mixed again it is another still, at once; removed it can be put back.
    still.get_by_role("button", name="Mix again").click()
    expect(page.get_by_test_id("still")).to_have_count(kept + 2)
    mixed = page.get_by_test_id("still").first
    expect(mixed).to_have_attribute("data-status", "done", timeout=600_000)
    expect(mixed).to_contain_text("mixed again")
    mixed.get_by_role("button", name="Remove").click()
    expect(page.get_by_test_id("still")).to_have_count(kept + 1)
    page.get_by_role("button", name="Put back").click()
    expect(page.get_by_test_id("still")).to_have_count(kept + 2)


def test_looks_views_and_themes(page: Page) -> None:
    """Chips switch looks, the views switch, night theme is dark and remembered."""
    lit(page)
    day = settled(page)
    page.get_by_role("button", name="Blue hour").click()
    expect(page.get_by_test_id("elevation")).to_contain_text("−")
    page.wait_for_timeout(500)
    lit(page)
    # The last picture stays until the new one has light.
    wait_for(lambda: np.abs(pixels(page) - day).mean() > 12, 120, "the dusk looks like the day")
    dusk = settled(page)
    page.get_by_role("button", name="From the quay").click()
    wait_for(lambda: np.abs(pixels(page) - dusk).mean() > 12, 120, "the view stays")
    lit(page)
    outside = settled(page)
    sky = outside[2:6, 8:30].mean(axis=(0, 1))
    assert sky[2] > sky[0]
    page.get_by_role("button", name="Night", exact=True).click()
    background = page.evaluate("getComputedStyle(document.body).backgroundColor")
    assert sum(int(v) for v in re.findall(r"\d+", background)[:3]) < 200
    page.reload()
    expect(page.get_by_role("button", name="Day", exact=True)).to_be_visible()


def test_exposure_traces_nothing(page: Page) -> None:
    """A stop less is a darker picture of the same passes; the keys do it too."""
    lit(page, 2)
    page.keyboard.press("Space")
    at_rest(page)
    passes, bright = state(page, "passes"), pixels(page)
    shutter = page.get_by_label("shutter")
    shutter.fill("1/125")
    shutter.press("Enter")
    wait_for(lambda: pixels(page).mean() < bright.mean() - 15, 20, "exposure changed nothing")
    assert state(page, "passes") == passes
    dark = pixels(page)
    page.get_by_role("heading", name="Westlight").click()
    for _ in range(3):
        page.keyboard.press(".")
        page.wait_for_timeout(250)
    wait_for(lambda: pixels(page).mean() > dark.mean() + 5, 20)
    assert state(page, "passes") == passes


def test_a_building_of_ones_own(page: Page, tmp_path: Path) -> None:
    """A new project teaches its first step; a broken file is refused in words; a good one is lit."""
    page.get_by_role("button", name=re.compile("^All projects")).click()
    page.get_by_role("button", name="New project …").click()
    page.get_by_role("dialog").get_by_label("Name").fill("My barn")
    page.get_by_role("button", name="Make it").click()
    expect(page.get_by_text("Bring in a building")).to_be_visible()
    broken = tmp_path / "broken.glb"
    broken.write_bytes(b"nonsense")
    page.get_by_label("Building file").set_input_files(broken)
    expect(page.get_by_test_id("message")).to_contain_text("export it again")
    page.get_by_role("button", name="Close").click()
    page.get_by_label("Building file").set_input_files(glb(tmp_path / "barn.glb"))
    expect(page.get_by_text("2 triangles")).to_be_visible()
    lit(page)
    assert settled(page).max() > 60


def test_keyboard_alone(page: Page) -> None:
    """Stages by number, the sun by arrows, the sheet of keys by question mark."""
    lit(page)
    page.keyboard.press("5")
    expect(page.get_by_role("heading", name="All levels")).to_be_visible()
    page.keyboard.press("3")
    time = page.get_by_role("slider", name="Time of day")
    now = time.get_attribute("aria-valuetext")
    time.focus()
    page.keyboard.press("ArrowRight")
    expect(time).not_to_have_attribute("aria-valuetext", now or "")
    page.keyboard.press("Control+z")
    expect(time).to_have_attribute("aria-valuetext", now or "")
    page.keyboard.press("?")
    expect(page.get_by_role("dialog")).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.get_by_role("dialog")).not_to_be_visible()
    scroll = page.evaluate("document.documentElement.scrollHeight - window.innerHeight")
    assert scroll <= 0
