"""Film tables of other kinds: one curve, a curve before a table, other programs' texts, each against the curve it was made from."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest

from westlight.core.finish import CubeError, parse_cube
from westlight.engine.readers import table

STEPS = 33


def curve(v: np.ndarray) -> np.ndarray:
    """What the tables below do to each of red, green and blue."""
    return np.asarray(np.clip(v, 0, 1) ** 1.4 * 0.9 + 0.05)


def _cube_1d(file: Path) -> None:
    rows = "\n".join(f"{v:.6f} {v:.6f} {v:.6f}" for v in curve(np.linspace(0, 1, 256)))
    file.write_text(f'TITLE "one curve"\nLUT_1D_SIZE 256\n{rows}\n')


def _cube_shaped(file: Path) -> None:
    """A curve that takes roots, before a table that undoes it and applies the rest."""
    shaper = "\n".join(f"{v:.6f} {v:.6f} {v:.6f}" for v in np.sqrt(np.linspace(0, 1, 1024)))
    rows = _grid(lambda v: curve(v**2))
    file.write_text(f"LUT_1D_SIZE 1024\nLUT_3D_SIZE {STEPS}\n{shaper}\n{rows}\n")


def _cube_small_letters(file: Path) -> None:
    file.write_bytes(b"\xef\xbb\xbf" + f"lut_3d_size {STEPS}\n{_grid(curve)}\n".encode())


def _grid(of: Callable[[np.ndarray], np.ndarray]) -> str:
    """Rows of a table, red fastest."""
    axis = of(np.linspace(0, 1, STEPS))
    return "\n".join(f"{r:.6f} {g:.6f} {b:.6f}" for b in axis for g in axis for r in axis)


def _spi1d(file: Path) -> None:
    rows = "\n".join(f"{v:.6f}" for v in curve(np.linspace(0, 1, 256)))
    file.write_text(f"Version 1\nFrom 0.0 1.0\nLength 256\nComponents 1\n{{\n{rows}\n}}\n")


def _spi3d(file: Path) -> None:
    axis = curve(np.linspace(0, 1, STEPS))
    rows = "\n".join(f"{r} {g} {b} {axis[r]:.6f} {axis[g]:.6f} {axis[b]:.6f}"
                     for r in range(STEPS) for g in range(STEPS) for b in range(STEPS))  # fmt: skip
    file.write_text(f"SPILUT 1.0\n3 3\n{STEPS} {STEPS} {STEPS}\n{rows}\n")


def _3dl(file: Path) -> None:
    steps = 17
    axis = np.round(curve(np.linspace(0, 1, steps)) * 4095).astype(int)
    ticks = " ".join(str(round(i * 1023 / (steps - 1))) for i in range(steps))
    rows = "\n".join(f"{r} {g} {b}" for r in axis for g in axis for b in axis)
    file.write_text(f"{ticks}\n{rows}\n")


def _csp(file: Path) -> None:
    rows = "\n".join(f"{v:.6f} {v:.6f} {v:.6f}" for v in curve(np.linspace(0, 1, 256)))
    shaper = "2\n0.0 1.0\n0.0 1.0\n" * 3
    file.write_text(f"CSPLUTV100\n1D\n\nBEGIN METADATA\nEND METADATA\n\n{shaper}\n256\n{rows}\n")


def _clf(file: Path) -> None:
    rows = "\n".join(f"{v:.6f}" for v in curve(np.linspace(0, 1, 256)))
    file.write_text(
        '<?xml version="1.0"?><ProcessList compCLFversion="3" id="a"><LUT1D inBitDepth="32f" outBitDepth="32f">'
        f'<Array dim="256 1">{rows}</Array></LUT1D></ProcessList>'
    )


WRITERS: dict[str, Callable[[Path], None]] = {
    "curve.cube": _cube_1d, "shaped.cube": _cube_shaped, "small.cube": _cube_small_letters, "a.spi1d": _spi1d,
    "a.spi3d": _spi3d, "a.3dl": _3dl, "a.csp": _csp, "a.clf": _clf,
}  # fmt: skip


@pytest.mark.parametrize("name", WRITERS)
def test_a_table_does_what_its_curve_does(tmp_path: Path, name: str) -> None:
    out = tmp_path / "out"
    out.mkdir()
    WRITERS[name](tmp_path / name)
    report = table(tmp_path / name, name, out)
    assert report["title"] == Path(name).stem
    apply = parse_cube((out / report["file"]).read_text("utf-8-sig"))
    values = np.random.default_rng(1).uniform(0, 1, (500, 3))
    # A table of 17 steps in twelve bits is as far from its curve as it is coarse.
    near = 0.004 if name.endswith(("3dl", "cube")) else 0.001
    assert np.abs(apply(values) - curve(values)).max() < near


def test_a_curve_for_bright_values_keeps_its_range(tmp_path: Path) -> None:
    rows = "\n".join(f"{v:.6f} {v:.6f} {v:.6f}" for v in np.linspace(0, 1, 64))
    (tmp_path / "log.cube").write_text(f"LUT_1D_SIZE 64\nLUT_1D_INPUT_RANGE 0.0 4.0\n{rows}\n")
    out = tmp_path / "out"
    out.mkdir()
    table(tmp_path / "log.cube", "log.cube", out)
    apply = parse_cube((out / "table.cube").read_text())
    assert apply(np.array([[0.0, 1.0, 3.0]])) == pytest.approx(
        np.array([[0, 0.25, 0.75]]), abs=1e-3
    )


@pytest.mark.parametrize(("name", "text"), [
    ("a.3dl", "nothing"), ("a.clf", "<ProcessList"), ("a.spi1d", "Version 1"), ("a.cube", "LUT_1D_SIZE 4\n0 0 0\n"),
    ("a.txt", "LUT_3D_SIZE 2"), ("a.csp", ""), ("a.csp", "CSPLUTV100\n1D\n\nBEGIN METADATA\nEND METADAT\n\n2\n0 1\n0 1\n"),
])  # fmt: skip
def test_what_is_no_table_is_refused_in_words(tmp_path: Path, name: str, text: str) -> None:
    out = tmp_path / "out"
    out.mkdir()
    (tmp_path / name).write_text(text)
    with pytest.raises(CubeError, match="export it"):
        table(tmp_path / name, name, out)
