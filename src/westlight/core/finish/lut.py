"""Film tables in the open .cube format (Cube LUT Specification 1.0): three-dimensional, 2 to 129."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import numpy as np
import numpy.typing as npt
from scipy.interpolate import RegularGridInterpolator

from ..errors import WestlightError

Array = npt.NDArray[np.float64]
#: A table of this size has two million entries; none that is meant for pictures is larger.
LARGEST = 129


class CubeError(WestlightError):
    """A .cube file that cannot be used, in words for the artist."""


def read_cube(path: Path) -> Callable[[Array], Array]:
    """The table of a file as a function of encoded values (…, 3) in 0…1.

    Raises `CubeError` for a file that is no table, is cut short or too large.
    """
    try:
        text = path.read_text("utf-8", errors="strict")
    except (OSError, UnicodeDecodeError) as error:
        raise CubeError(
            f"“{path.name}” is not a .cube text file; export the table again."
        ) from error
    return parse_cube(text, path.name)


def parse_cube(text: str, name: str = "table.cube") -> Callable[[Array], Array]:
    """As `read_cube`, from text."""
    size, low, high = 0, [0.0] * 3, [1.0] * 3
    rows: list[str] = []
    for line in text.lstrip("\ufeff").splitlines():
        words = line.split("#")[0].split()
        if not words:
            continue
        # Some writers use small letters.
        words[0] = words[0].upper()
        if words[0] == "TITLE":
            continue
        try:
            if words[0] == "LUT_1D_SIZE":
                raise CubeError(f"“{name}” is a one-dimensional table; a 3-D one is needed.")
            if words[0] == "LUT_3D_SIZE":
                size = int(words[1])
                if not 2 <= size <= LARGEST:
                    raise CubeError(f"“{name}” has a size of {size}; 2 to {LARGEST} can be used.")
            elif words[0] == "DOMAIN_MIN":
                low = [float(v) for v in words[1:4]]
            elif words[0] == "DOMAIN_MAX":
                high = [float(v) for v in words[1:4]]
            else:
                rows.append(line.split("#")[0])
                if len(rows) > LARGEST**3:
                    raise ValueError(line)
        except (ValueError, IndexError) as error:
            raise CubeError(
                f"“{name}” is not a .cube table (line “{line[:40]}”); export it again."
            ) from error
    values = _numbers(rows, name)
    if size == 0 or len(rows) != size**3:
        raise CubeError(
            f"“{name}” is cut short: {len(rows)} of {size**3} entries; export it again."
        )
    # Red changes fastest in the file.
    values = values.reshape(size, size, size, 3).transpose(2, 1, 0, 3)
    if not np.isfinite(values).all() or not all(b > a for a, b in zip(low, high, strict=True)):
        raise CubeError(f"“{name}” holds values that are no numbers; export it again.")
    axes = [np.linspace(a, b, size) for a, b in zip(low, high, strict=True)]
    table = RegularGridInterpolator(axes, values)

    def apply(v: Array) -> Array:
        return np.asarray(table(np.clip(v, low, high)))

    return apply


def _numbers(rows: list[str], name: str) -> Array:
    """Three numbers of each row, (n, 3), read all at once; raises `CubeError` naming the first that has others."""
    try:
        flat = np.array(" ".join(rows).split(), float)
        if flat.size == 3 * len(rows):
            return flat.reshape(-1, 3)
    except ValueError:
        pass
    for row in rows:
        try:
            if len([float(v) for v in row.split()]) == 3:
                continue
        except ValueError:
            pass
        break
    raise CubeError(f"“{name}” is not a .cube table (line “{row.strip()[:40]}”); export it again.")
