"""Figures of a bench with their goals, and the log of them by commit."""

from __future__ import annotations

import subprocess
from dataclasses import dataclass, field
from pathlib import Path
from typing import Literal

ROOT = Path(__file__).parents[2]
LOG = ROOT / "docs/bench.md"
_HEAD = """# Speeds by commit

Written by `./westlight bench`, which also ends with an error when a figure misses its goal. Two cores of a shared machine: compare
the ratios; times say something only beside times of the same day.

"""


@dataclass
class Figures:
    """What was measured: name, value, unit, and the goal it is held against."""

    rows: list[tuple[str, float, str, str, bool]] = field(default_factory=list)

    def add(
        self, name: str, value: float, unit: str, goal: float | None = None,
        wanted: Literal["at most", "at least"] = "at most", digits: int = 0,
    ) -> None:  # fmt: skip
        """Keep a figure and print it."""
        missed = goal is not None and (value > goal if wanted == "at most" else value < goal)
        sign = "≤" if wanted == "at most" else "≥"
        told = "" if goal is None else f"({sign} {goal:g})"
        print(
            f"{name:<48} {value:8.{digits}f} {unit:<6} {told}{'  MISSED' if missed else ''}",
            flush=True,
        )
        self.rows.append((name, round(value, digits), unit, told, missed))

    @property
    def missed(self) -> int:
        """How many goals were missed."""
        return sum(row[4] for row in self.rows)

    def log(self) -> None:
        """Write the figures beside those of other commits, in place of earlier ones of this commit."""
        names = [f"{name}, {unit}" if unit else name for name, _, unit, _, _ in self.rows]
        made = f"| {_commit()} | " + " | ".join(f"{value:g}" for _, value, *_ in self.rows) + " |"
        head = "| commit | " + " | ".join(names) + " |"
        goals = "| goal | " + " | ".join(told.strip("()") for *_, told, _ in self.rows) + " |"
        old = LOG.read_text().splitlines() if LOG.exists() else []
        rows = [
            x
            for x in old
            if x.startswith("| ") and not x.startswith(("| commit", "| goal", "| ---", made[:10]))
        ]
        same = [x for x in rows if x.count("|") == made.count("|")]
        line = "|" + " --- |" * (len(names) + 1)
        LOG.write_text(_HEAD + "\n".join([head, line, goals, *same, made]) + "\n")


def _commit() -> str:
    """The commit that was measured, and whether something was changed since."""

    def git(*words: str) -> str:
        return subprocess.run(
            ["git", *words], cwd=ROOT, capture_output=True, text=True
        ).stdout.strip()

    changed = git("status", "--porcelain", "--untracked-files=no", "--", "src")
    return git("rev-parse", "--short=7", "HEAD") + ("+" if changed else "")
