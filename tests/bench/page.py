"""The hand at the page, as it is seen: `./westlight bench page [RUNS]`.

The real page in a browser on this machine: pictures drawn a second while the sun and a level are dragged, and the time from letting the
sun go until bounced light is on screen. Frames are counted where they are drawn. Printed: every run and the median.
"""

from __future__ import annotations

import statistics
import sys
import tempfile
import time
from pathlib import Path

from playwright.sync_api import Locator, Page, sync_playwright

sys.path.insert(0, str(Path(__file__).parents[2]))
from tests.conftest import Server, wait_for
from tests.ui.conftest import ARGUMENTS

from westlight.cli.main import ensure_demo, ensure_front_end
from westlight.cli.postgres import Cluster

#: Length of a drag, steps of the hand in a second, and runs.
DRAG_S, STEPS_PER_S, RUNS = 3.0, 60, 5
#: Pictures a second under a moved sun and a moved level at least, and seconds until bounced light at most.
GOALS = {"sun, pictures a second": 12.0, "let go, s": 0.7, "level, pictures a second": 20.0}

#: Notes every drawn frame with the time it came and what it says of itself.
WATCH = """
window.drawn = [];
new MutationObserver(() => {
    const canvas = document.querySelector("[data-testid=picture]");
    if (!canvas || canvas.watched) return;
    canvas.watched = true;
    new MutationObserver((all) => {
        // Waiting: sources without bounced light yet. The first picture that has it of all of them is a quarter of the size.
        if (all.some((m) => m.attributeName === "data-frames"))
            window.drawn.push([performance.now(), +canvas.dataset.waiting, canvas.dataset.moving === "true"]);
    }).observe(canvas, {attributes: true});
}).observe(document, {childList: true, subtree: true});
"""


def settled(page: Page) -> None:
    """Wait for a picture with light of every source, and a moment more."""
    picture = page.get_by_test_id("picture")

    def there() -> bool:
        told = picture.evaluate("e => ({...e.dataset})")
        return (
            int(told.get("passes") or 0) >= 2
            and told.get("waiting") == "0"
            and told.get("moving") == "false"
            and page.get_by_test_id("last-picture").count() == 0
        )

    wait_for(there, 120, "no picture with light")
    time.sleep(2)


def dragged(page: Page, handle: Locator, across: float) -> tuple[float, float]:
    """Drag a handle there and back for a while; returns pictures a second and seconds from letting go to bounced light."""
    box = handle.bounding_box()
    assert box is not None
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.evaluate("window.drawn.length = 0")
    begun = time.perf_counter()
    step = 0
    while (at := time.perf_counter() - begun) < DRAG_S:
        step += 1
        way = abs((at / DRAG_S * 1.7) % 2 - 1)
        page.mouse.move(x + across * (1 - way), y)
        time.sleep(max(0.0, step / STEPS_PER_S - (time.perf_counter() - begun)))
    frames, let_go = page.evaluate("[window.drawn.length, performance.now()]")
    page.mouse.up()
    until = time.perf_counter() + 30
    lit: float | None = None
    while lit is None and time.perf_counter() < until:
        time.sleep(0.05)
        lit = page.evaluate(
            "t => window.drawn.find(([at, waiting, moving]) => at > t && waiting === 0 && !moving)?.[0] ?? null",
            let_go,
        )
    return frames / DRAG_S, ((lit or float("inf")) - let_go) / 1000


def main() -> int:
    """Print the figures; the exit code counts goals missed."""
    runs = int(sys.argv[1]) if len(sys.argv) > 1 else RUNS
    ensure_front_end()
    found: dict[str, list[float]] = {name: [] for name in GOALS}
    with tempfile.TemporaryDirectory(prefix="wl-bench-") as name, sync_playwright() as playwright:
        folder = Path(name)
        folder.chmod(0o755)
        cluster = Cluster(folder)
        cluster.start()
        data = folder / "data"
        data.mkdir()
        server = Server(cluster.url, data, ensure_demo(), Path("web/dist"))
        # Tests look at small pictures of few passes; what is measured here is what an artist has.
        for name in ("WESTLIGHT_LIVE_PASSES", "WESTLIGHT_LIVE_WIDTH"):
            server.environment.pop(name, None)
        try:
            server.start()
            browser = playwright.chromium.launch(
                executable_path="/usr/bin/chromium", args=ARGUMENTS
            )
            page = browser.new_page(viewport={"width": 1280, "height": 800})
            page.add_init_script("""localStorage['first-steps'] = '["sun","level","proof"]'""")
            page.add_init_script(WATCH)
            page.goto(server.address)
            page.get_by_test_id("picture").wait_for()
            page.keyboard.press("3")
            for _ in range(runs):
                settled(page)
                rate, lit = dragged(page, page.get_by_role("slider", name="Time of day"), 30)
                found["sun, pictures a second"].append(rate)
                found["let go, s"].append(lit)
                page.get_by_role("button", name="Undo", exact=True).click()
                settled(page)
                level = page.get_by_role("slider", name="Level of Clear sky")
                found["level, pictures a second"].append(dragged(page, level, 20)[0])
                page.get_by_role("button", name="Undo", exact=True).click()
            browser.close()
        finally:
            server.stop()
            cluster.stop()
    missed = 0
    for name, values in found.items():
        middle = statistics.median(values)
        kept = middle <= GOALS[name] if name.endswith(", s") else middle >= GOALS[name]
        missed += not kept
        print(
            f"  {name:28} {middle:6.2f}   goal {GOALS[name]:g}{'' if kept else '  missed'}"
            f"   ({', '.join(f'{v:.2f}' for v in values)})"
        )
    return missed


if __name__ == "__main__":
    sys.exit(main())
