"""The browser that the interface is driven in."""

from __future__ import annotations

from collections.abc import Iterator

import httpx
import pytest
from playwright.sync_api import Page, sync_playwright

from westlight.studio.demo import NAME

from ..conftest import Server

ARGUMENTS = [
    "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run",
    "--disable-background-networking", "--disable-component-update", "--disable-sync",
]  # fmt: skip


@pytest.fixture
def page(server: Server) -> Iterator[Page]:
    """An empty browser at the application's address; errors in the page fail the test."""
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=ARGUMENTS)
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        problems: list[str] = []
        page.on("pageerror", lambda error: problems.append(str(error)))
        # Other tests may have left projects of their own before the demo.
        known = httpx.get(f"{server.address}/api/projects").json()
        demo = next(p["id"] for p in known if p["name"] == NAME)
        page.add_init_script(
            f"localStorage.getItem('project') ?? localStorage.setItem('project', '{demo}')"
        )
        page.goto(server.address)
        yield page
        browser.close()
        assert not problems, problems
