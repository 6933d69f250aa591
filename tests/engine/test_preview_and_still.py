"""A still looks like its preview: one finish, one code, whoever asks for it."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from westlight.engine.spec import FinishSettings
from westlight.engine.still import StillOrder, StillRun

from .stage import Bench, spec
from .test_still import quiet

FINISH = {
    "grade": {"contrast": 1.2, "shadows": 0.4, "warm_lights": 0.3, "saturation": 0.8, "compression": 0.5},
    "glare": {"glow": 0.08, "spread": 0.03},
    "occlusion": {"amount": 0.6, "radius_m": 0.8},
    "haze": {"per_metre": 0.03},
    "lens": {"vignette": 0.8},
}  # fmt: skip


def blocks(pixels: np.ndarray) -> np.ndarray:
    """Means of blocks of 8 × 8 pixels."""
    h, w = (n // 8 * 8 for n in pixels.shape[:2])
    return np.asarray(pixels[:h, :w].reshape(h // 8, 8, w // 8, 8, 3).mean(axis=(1, 3)))


@pytest.mark.parametrize("finish", [{}, FINISH])
def test_a_still_is_the_preview_again(
    room: Path, tmp_path: Path, finish: dict[str, object]
) -> None:
    """Within a level or two of 255 in blocks of 8 × 8, with a plain finish and with everything on."""
    wanted = spec(room, most=24, bounced="traced").model_copy(
        update={"finish": FinishSettings.model_validate(finish)}
    )
    bench = Bench()
    bench.show(wanted)
    preview = blocks(bench.pixels())
    order = StillOrder(spec=wanted, folder=str(tmp_path), noise=1e-6, samples=24, files=["png"],
                       keep=False)  # fmt: skip
    made = StillRun(order, quiet).render()
    assert made is not None
    with Image.open(made["png"]) as picture:
        still = blocks(np.asarray(picture, np.float64))
    assert still.shape == preview.shape
    assert 20 < still.mean() < 235
    assert np.abs(still - preview).mean() < 2.0
    assert still.mean() == pytest.approx(preview.mean(), abs=1.0)
