"""Made-up film tables in the open .cube format, each a few lines of colour arithmetic."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import numpy as np
import numpy.typing as npt

Array = npt.NDArray[np.float64]
SIZE = 17
_LUMA = np.array([0.2126, 0.7152, 0.0722])


def _toned(v: Array, shadows: Array, lights: Array, colour: float, hard: float) -> Array:
    """Tinted shadows and lights, colour kept by a share, an S-curve of a hardness."""
    luma = (v @ _LUMA)[..., None]
    v = luma + (v - luma) * colour
    v = v + hard * (v * v * (3 - 2 * v) - v)
    return v * (shadows * (1 - luma) + lights * luma)


def chalk(v: Array) -> Array:
    """Soft and pale, blacks lifted a little."""
    return 0.04 + 0.94 * _toned(v, np.array([1.0, 1.0, 1.02]), np.ones(3), 0.82, -0.25)


def slate_dusk(v: Array) -> Array:
    """Blue-grey shadows under warm lamps."""
    return _toned(v, np.array([0.9, 0.98, 1.1]), np.array([1.02, 1.0, 0.96]), 0.92, 0.15)


def kiln(v: Array) -> Array:
    """Warm and hard."""
    return _toned(v, np.array([1.06, 0.98, 0.9]), np.array([1.02, 1.0, 0.95]), 1.05, 0.35)


def salt_print(v: Array) -> Array:
    """Nearly without colour, brown in the darks."""
    return _toned(v, np.array([1.08, 1.0, 0.9]), np.array([1.01, 1.0, 0.97]), 0.15, 0.1)


TABLES: dict[str, Callable[[Array], Array]] = {
    "Chalk": chalk, "Slate dusk": slate_dusk, "Kiln": kiln, "Salt print": salt_print,
}  # fmt: skip


def write_tables(folder: Path) -> None:
    """Write all tables as .cube files."""
    folder.mkdir(parents=True, exist_ok=True)
    axis = np.linspace(0, 1, SIZE)
    b, g, r = np.meshgrid(axis, axis, axis, indexing="ij")
    grid = np.stack([r, g, b], axis=-1).reshape(-1, 3)
    for name, tone in TABLES.items():
        rows = "\n".join(f"{a:.6f} {b:.6f} {c:.6f}" for a, b, c in np.clip(tone(grid), 0, 1))
        (folder / f"{name}.cube").write_text(f'TITLE "{name}"\nLUT_3D_SIZE {SIZE}\n{rows}\n')
