"""Functions that can be read at a look: none is longer than a screen or asks for more than ten things."""

from __future__ import annotations

import ast
from pathlib import Path

SOURCES = Path(__file__).parents[2] / "src" / "westlight"
MOST_LINES, MOST_PARAMETERS = 80, 10
#: What may ask for more, and why: all are called with names, and most of what they take has a default.
MAY = {
    "core/scene.py render": "the front door of the core: one keyword for everything a picture depends on",
    "core/transport/render.py __init__": "a run of passes: one keyword for everything that changes what is traced",
    "core/sky/hdri.py adjusted": "one keyword for each way a sky picture is altered",
    "core/sources/groups.py __init__": "a glowing mesh by any of its amounts, as its sister shapes",
    "engine/spec/base.py dial": "one keyword for each thing a slider is drawn by",
}


def test_no_function_is_too_long_or_asks_for_too_much() -> None:
    found: dict[str, tuple[int, int]] = {}
    for file in SOURCES.rglob("*.py"):
        for node in ast.walk(ast.parse(file.read_text())):
            if isinstance(node, ast.FunctionDef | ast.AsyncFunctionDef):
                lines = (node.end_lineno or node.lineno) - node.lineno + 1
                given = node.args
                asks = len(given.args) + len(given.kwonlyargs) + len(given.posonlyargs)
                if lines > MOST_LINES or asks > MOST_PARAMETERS:
                    found[f"{file.relative_to(SOURCES)} {node.name}"] = (lines, asks)
    assert set(found) == set(MAY), found
    assert all(lines <= MOST_LINES for lines, _ in found.values())
