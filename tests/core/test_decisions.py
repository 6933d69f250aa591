"""Decisions can be found and read at a look: each has its head, and the index names it."""

from __future__ import annotations

from pathlib import Path

import pytest

FOLDER = Path(__file__).parents[2] / "docs" / "decisions"
DECISIONS = sorted(FOLDER.glob("0*.md"))


@pytest.mark.parametrize("file", DECISIONS, ids=lambda f: f.name[:4])
def test_a_decision_begins_with_its_head(file: Path) -> None:
    text = file.read_text()
    places = [text.find(word) for word in ("*Status: ", "**Context", "**Decision", "**Consequences", "**Measured")]  # fmt: skip
    assert min(places) > 0, f"{file.name} lacks a line of its head: {places}"
    title = text.split("\n", 1)[0].removeprefix("# ")
    assert f"[{title}]({file.name})" in (FOLDER / "README.md").read_text()


def test_decisions_are_numbered_without_gaps() -> None:
    assert [int(f.name[:4]) for f in DECISIONS] == list(range(1, len(DECISIONS) + 1))
