"""Film tables of other kinds than a plain three-dimensional .cube, read through the colour library and baked into one."""

from __future__ import annotations

import re
import tempfile
from pathlib import Path

import numpy as np

from .lut import CubeError

#: Kinds of table that are read, beside the .cube.
KINDS = (".cube", ".3dl", ".spi1d", ".spi3d", ".csp", ".clf", ".ctf")
#: Steps of the baked table along each side.
STEPS = 65
_RANGE = re.compile(r"^\s*LUT_[13]D_INPUT_RANGE\s+(\S+)\s+(\S+)", re.IGNORECASE | re.MULTILINE)


def baked_cube(file: Path) -> str:
    """Any table as the text of a .cube over the values it is made for; raises `CubeError`.

    Tables of one dimension, shapers before a table, and chains of both become one table of `STEPS` steps, over 0 to 1, or
    over the range that a .cube names.
    """
    import PyOpenColorIO as ocio

    low, high = _range(file)
    config = ocio.Config.CreateRaw()
    try:
        with tempfile.TemporaryDirectory() as scratch:
            read = _without_notes(file, Path(scratch)) if file.suffix.lower() == ".csp" else file
            way = ocio.FileTransform(src=str(read), interpolation=ocio.INTERP_BEST)
            processor = config.getProcessor(way).getDefaultCPUProcessor()
    # Its words may hold bytes of the file.
    except (ocio.Exception, UnicodeDecodeError, ValueError) as error:
        raise CubeError(
            f"“{file.name}” is no film table that can be read; export it as .cube."
        ) from error
    axis = np.linspace(low, high, STEPS, dtype=np.float32)
    # Red changes fastest in the file.
    blue, green, red = np.meshgrid(axis, axis, axis, indexing="ij")
    values = np.ascontiguousarray(np.stack([red, green, blue], axis=-1).reshape(-1, 3))
    processor.applyRGB(values)
    if not np.isfinite(values).all():
        raise CubeError(f"“{file.name}” holds values that are no numbers; export it again.")
    lines = [f"LUT_3D_SIZE {STEPS}", f"DOMAIN_MIN {low:g} {low:g} {low:g}",
             f"DOMAIN_MAX {high:g} {high:g} {high:g}"]  # fmt: skip
    rows = ("%.7g %.7g %.7g\n" * len(values)) % tuple(values.ravel().tolist())
    return "\n".join(lines) + "\n" + rows


def _without_notes(file: Path, folder: Path) -> Path:
    """A copy of a .csp without its notes: the library looks for their end for ever, where a file has lost it."""
    lines = file.read_bytes().splitlines()
    plain = [line.lower().strip() for line in lines]
    begin = next((i for i, line in enumerate(plain) if b"begin metadata" in line), None)
    if begin is not None:
        end = next(
            (i for i, line in enumerate(plain) if i > begin and b"end metadata" in line), None
        )
        if end is None:
            raise CubeError(f"“{file.name}” is damaged; export it again.")
        lines[begin : end + 1] = []
    copy = folder / "table.csp"
    copy.write_bytes(b"\n".join(lines) + b"\n")
    return copy


def _range(file: Path) -> tuple[float, float]:
    """Values a table is made for: those a .cube names, else 0 to 1."""
    if file.suffix.lower() != ".cube":
        return 0.0, 1.0
    ranges = _RANGE.findall(file.read_text("utf-8-sig", "replace")[:100_000])
    try:
        # With a shaper its range is what comes in; the table's own follows it.
        low, high = (float(v) for v in ranges[0]) if ranges else (0.0, 1.0)
    except ValueError:
        return 0.0, 1.0
    return (low, high) if np.isfinite([low, high]).all() and low < high else (0.0, 1.0)
