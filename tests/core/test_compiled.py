"""Machine code compiled by two processes, taken together."""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path

import pytest

from westlight.core.compiled import merge_kernels

MODULE = """
from numba import njit

@njit(cache=True)
def twice(x):
    return x + x
"""


def _run(folder: Path, cache: Path, values: list[str]) -> str:
    """Call ``twice`` in a new process; what came out, and how often it was found compiled."""
    code = f"import kernels; print({', '.join(f'kernels.twice({v})' for v in values)}, sum(kernels.twice.stats.cache_hits.values()))"
    done = subprocess.run([sys.executable, "-c", code], cwd=folder, capture_output=True, text=True, check=True,
                          env={**os.environ, "NUMBA_CACHE_DIR": str(cache), "PYTHONPATH": str(folder)})  # fmt: skip
    return done.stdout.strip()


@pytest.mark.parametrize("both", [True, False])
def test_what_two_processes_compiled_is_found_by_a_third(tmp_path: Path, both: bool) -> None:
    """Each its own folder and kinds of argument; merged, none is compiled again, and none is lost."""
    (tmp_path / "kernels.py").write_text(MODULE)
    a, b = tmp_path / "a", tmp_path / "b"
    if both:
        assert _run(tmp_path, a, ["2", "2j"]) == "4 4j 0"
    assert _run(tmp_path, b, ["2.5", "2"]) == "5.0 4 0"
    assert merge_kernels(b, a) == (1 if both else 2)
    wanted = ["2", "2.5", "2j"] if both else ["2", "2.5"]
    assert _run(tmp_path, a, wanted).endswith(f" {len(wanted)}")
    assert merge_kernels(b, a) == 0
