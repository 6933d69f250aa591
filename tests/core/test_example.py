"""The example in the guide runs as it is printed, and its numbers make sense."""

from __future__ import annotations

import re
import subprocess
import sys
from pathlib import Path

import numpy as np
from PIL import Image

from westlight.core.files import read_layers

EXAMPLE = Path(__file__).parents[2] / "docs/examples/light_a_room.py"


def test_a_room_is_lit_from_scratch(tmp_path: Path) -> None:
    """Sources add up in the EXR, the lamp lights the table, the pictures are neither black nor burnt."""
    done = subprocess.run([sys.executable, str(EXAMPLE), str(tmp_path), "160"], text=True,
                          capture_output=True, check=False)  # fmt: skip
    assert done.returncode == 0, done.stderr
    layers = read_layers(tmp_path / "room.exr")
    total = sum(layers[n] for n in ("sun", "sky", "lamp"))
    assert np.allclose(total, layers[""], rtol=2e-2, atol=1.0)
    table = re.search(r"on the table (\d+) lx", done.stdout)
    assert table is not None
    # Under a disc the lamp alone gives Φ·r²/(π r² (r² + h²)) = 900 / (π · (0.18² + 0.95²)) ≈ 306 lx.
    assert 306 < float(table[1]) < 20_000
    for name in ("day", "night"):
        with Image.open(tmp_path / f"room-{name}.png") as picture:
            assert 40 < np.asarray(picture).mean() < 200, name
