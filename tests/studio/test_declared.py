"""What is imported is declared, and what is declared is imported: by the application, the demo's builder, the tests."""

from __future__ import annotations

import ast
import re
import sys
from importlib.metadata import packages_distributions
from pathlib import Path

ROOT = Path(__file__).parents[2]
#: Declared without an import: drivers and servers that others load by name, tools that are run, readers of data.
_BY_NAME = {
    "uvicorn", "psycopg", "python-multipart", "tzdata", "embreex", "pillow", "pytest-xdist", "ruff",
    "mypy", "import-linter", "numpy", "playwright", "rich", "pydantic-settings",
}  # fmt: skip


def declared(name: str) -> set[str]:
    """Packages of a list, without their extras."""
    lines = (ROOT / name).read_text().splitlines()
    return {re.split(r"[\[<>=~ ]", line)[0].lower() for line in lines if line[:1].isalnum()}


def imported(*folders: str) -> set[str]:
    """Packages that code in some folders imports, by their names at the registry."""
    known, found = packages_distributions(), set()
    for folder in folders:
        for file in (ROOT / folder).rglob("*.py"):
            for node in ast.walk(ast.parse(file.read_text())):
                if isinstance(node, ast.Import):
                    modules = [n.name for n in node.names]
                elif isinstance(node, ast.ImportFrom) and not node.level:
                    modules = [node.module or ""]
                else:
                    continue
                for module in {m.partition(".")[0] for m in modules} - sys.stdlib_module_names:
                    found |= {d.lower().replace("_", "-") for d in known.get(module, ())}
    return found - {"westlight"}


def test_imports_and_lists_are_one() -> None:
    """None of the application's packages comes along with another one by luck, and none is installed for nothing."""
    app, demo, tests = (
        declared(f"requirements{n}.in") for n in ("", "-demo", "-test")
    )  # fmt: skip
    ours = imported("src")
    assert ours - app == set()
    assert app - ours - _BY_NAME == set()
    assert imported("demo") - app - demo == set()
    assert demo - imported("demo") == set()
    assert imported("tests") - app - demo - tests == set()
    assert tests - imported("tests") - _BY_NAME == set()
