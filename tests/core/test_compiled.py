"""Machine code compiled by two processes, taken together."""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest
from numba import njit, typeof

from westlight.core import Material, Scene, sky, sources
from westlight.core.compiled import merge_kernels, tell_of_compiling
from westlight.core.model import Mesh, Part

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


def _scene(copies: int, lamps: bool) -> Scene:
    """Copies of a triangle, each turned a bit further, below a sky."""
    scene = Scene()
    mesh = Mesh.single("m", [[-1, -1, 0], [1, -1, 0], [1, 1, 0]], [[0, 1, 2]], Material(0.5))
    for i in range(copies):
        matrix = np.eye(4)
        matrix[:2, :2] = [[np.cos(i), -np.sin(i)], [np.sin(i), np.cos(i)]]
        matrix[0, 3] = 3 * i
        scene.add_part(Part(f"m {i}", mesh, matrix))
    scene.add_source(sources.SkySource("sky", sky.cie_sky(5, 40.0)))
    if lamps:
        scene.add_source(sources.Sphere("ball", (0, 0, 2), 0.1, luminous_flux_lm=100))
        scene.add_portal((0, 1, 1), (0, -1, 0), 1, 1)
    return scene


def test_every_scene_is_read_by_the_same_machine_code() -> None:
    """An array laid out otherwise for some buildings has the tracer compiled anew while the artist waits."""
    one = typeof(_scene(1, False).assembled().arrays)
    for copies, lamps in ((1, True), (2, False), (5, True)):
        assert typeof(_scene(copies, lamps).assembled().arrays) == one


def test_what_is_compiled_is_told(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """Once for each kind of argument, with its name; what is known is not told again."""
    told: list[str] = []
    end = tell_of_compiling(lambda kernel, seconds: told.append(kernel) if seconds > 0 else None)

    @njit
    def thrice(x: float) -> float:
        return x + x + x

    thrice(2)
    thrice(3)
    thrice(2.5)
    end()
    thrice(2j)
    assert [name.rsplit(".", 1)[-1] for name in told] == ["thrice", "thrice"]
