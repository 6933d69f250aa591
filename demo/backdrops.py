"""Painted backdrops: made-up stretches of coast to stand behind windows and buildings, as JPEG."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import numpy.typing as npt
from PIL import Image
from scipy.ndimage import gaussian_filter

Array = npt.NDArray[np.float64]
WIDTH, HEIGHT = 2048, 1024
#: The horizon lies in the middle.
HORIZON = HEIGHT // 2


def _ridge(rng: np.random.Generator, rough: float, smooth: float) -> Array:
    """A skyline: smoothed noise of unit height along the picture."""
    line = gaussian_filter(rng.normal(size=WIDTH), smooth, mode="wrap")
    line += rough * gaussian_filter(rng.normal(size=WIDTH), smooth / 6, mode="wrap")
    return np.asarray((line - line.min()) / np.ptp(line))


def _clouds(rng: np.random.Generator) -> Array:
    """Streaks of cloud (HORIZON, WIDTH), 0…1, thinner towards the horizon."""
    field = np.zeros((HORIZON, WIDTH))
    for size, share in ((60, 1.0), (24, 0.5), (9, 0.25)):
        field += share * gaussian_filter(rng.normal(size=field.shape), (size / 5, size)) * size
    field = (field - field.mean()) / field.std()
    return np.asarray(np.clip(field * 0.45 - 0.1, 0, 1))


def coast(seed: int, top: Array, low: Array, cloud: Array, far: Array, near: Array) -> Array:
    """Sky from ``top`` to ``low``, clouds, two lines of hills and still water; encoded RGB 0…1."""
    rng = np.random.default_rng(seed)
    out = np.zeros((HEIGHT, WIDTH, 3))
    up = np.linspace(1, 0, HORIZON)[:, None, None]
    sky = low + (top - low) * up**0.6
    veil = _clouds(rng)[..., None]
    out[:HORIZON] = sky * (1 - veil) + cloud * veil
    y = np.arange(HORIZON)[:, None]
    for tall, rough, colour, haze in ((70, 0.05, far, 0.55), (34, 0.16, near, 0.15)):
        edge = HORIZON - 4 - tall * _ridge(rng, rough, 90)
        there = np.clip(y - edge[None, :], 0, 1)[..., None]
        tone = colour * (1 - haze) + low * haze
        out[:HORIZON] = out[:HORIZON] * (1 - there) + tone * there
    mirror = out[:HORIZON][::-1]
    ripple = gaussian_filter(rng.normal(size=(HORIZON, WIDTH)), (1.2, 26))
    ripple *= np.linspace(0.2, 1.0, HORIZON)[:, None] / ripple.std()
    rows = np.clip(np.arange(HORIZON)[:, None] + (ripple * 9).astype(int), 0, HORIZON - 1)
    water = mirror[rows, np.arange(WIDTH)[None, :]]
    out[HORIZON:] = gaussian_filter(water, (1.5, 5, 0)) * 0.8
    return np.asarray(np.clip(out, 0, 1))


def write_backdrops(folder: Path) -> None:
    """Write all backdrops as JPEG."""
    folder.mkdir(parents=True, exist_ok=True)
    painted = {
        "Estuary, evening": coast(
            5, np.array([0.36, 0.47, 0.62]), np.array([0.95, 0.78, 0.6]),
            np.array([0.98, 0.8, 0.7]), np.array([0.36, 0.36, 0.42]), np.array([0.2, 0.21, 0.2]),
        ),
        "Far shore, grey": coast(
            9, np.array([0.6, 0.64, 0.68]), np.array([0.82, 0.83, 0.83]),
            np.array([0.9, 0.9, 0.9]), np.array([0.45, 0.49, 0.52]), np.array([0.3, 0.34, 0.32]),
        ),
    }  # fmt: skip
    for name, picture in painted.items():
        Image.fromarray((picture * 255).round().astype(np.uint8)).save(
            folder / f"{name}.jpg", quality=92
        )
