"""The browser that the interface is driven in."""

from __future__ import annotations

import os
from collections.abc import Generator, Iterator
from pathlib import Path
from typing import Any

import httpx
import pytest
from playwright.sync_api import Browser, Page, expect, sync_playwright

from ..conftest import Server

#: So few pixels that the picture has its least width: what a test looks at is as large, and its light there in a ninth of the time.
SMALL: dict[str, Any] = {"viewport": {"width": 1280, "height": 800}, "device_scale_factor": 0.3}
ARGUMENTS = [
    "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run",
    "--disable-background-networking", "--disable-component-update", "--disable-sync",
]  # fmt: skip


def taken_back(server: Server) -> None:
    """Undo every edit and drop every proof: what a test leaves, or breaks off at, is not the next one's matter."""
    with httpx.Client(base_url=f"{server.address}/api", timeout=60) as client:
        for project in client.get("/projects").json():
            path = f"/projects/{project['id']}"
            client.post(f"{path}/history/0").raise_for_status()
            for proof in client.get(f"{path}/proofs").json():
                client.delete(f"{path}/proofs/{proof['id']}").raise_for_status()


@pytest.hookimpl(wrapper=True)
def pytest_runtest_makereport(
    item: pytest.Item,
) -> Generator[None, pytest.TestReport, pytest.TestReport]:
    """A test that fails in the browser says what was to be read there, and leaves a picture of it."""
    report = yield
    page = getattr(item, "funcargs", {}).get("page")
    if report.when == "call" and report.failed and isinstance(page, Page) and not page.is_closed():
        report.sections.append(("The page", page.locator("body").aria_snapshot()))
        if folder := os.environ.get("WESTLIGHT_FAILED"):
            page.screenshot(path=Path(folder) / f"{item.name}.png")
    return report


@pytest.fixture(scope="module")
def browser() -> Iterator[Browser]:
    """One browser for the tests of a file: to begin one takes longer than many a test."""
    with sync_playwright() as playwright:
        begun = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=ARGUMENTS)
        yield begun
        begun.close()


@pytest.fixture
def page(server: Server, browser: Browser) -> Iterator[Page]:
    """An empty browser at the application's address; errors in the page fail the test."""
    # What the page does when asked is checked, not how fast a shared machine does it.
    expect.set_options(timeout=180_000)
    taken_back(server)
    # Nothing of what a page keeps goes on to the next one.
    apart = browser.new_context(**SMALL)
    page = apart.new_page()
    page.set_default_timeout(180_000)
    # Who drives the page has been here before.
    page.add_init_script("""localStorage['first-steps'] ??= '["sun","level","proof"]'""")
    problems: list[str] = []
    page.on("pageerror", lambda error: problems.append(str(error)))
    page.goto(server.address)
    # Keys are heard from the moment the project is there.
    expect(page.get_by_test_id("picture")).to_be_visible()
    yield page
    for opened in list(browser.contexts):
        opened.close()
    assert not problems, problems
