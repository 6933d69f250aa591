"""EULUMDAT files (.ldt, Stockmar 1990): one value a line, candela per kilolumen of the lamps."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from ..errors import PhotometricError
from .distribution import IntensityDistribution, closed_turn
from .lm63 import with_remarks

_WHAT = "The photometric file"


def _stored_planes(symmetry: int, planes: int) -> int:
    """Number of C planes in the file, of those in a whole turn."""
    if symmetry == 1:
        return 1
    if symmetry in (2, 3):
        return planes // 2 + 1
    return planes // 4 + 1 if symmetry == 4 else planes


class _Lines:
    def __init__(self, text: str) -> None:
        self._lines = text.splitlines()
        self._at = 0

    def text(self) -> str:
        if self._at >= len(self._lines):
            raise PhotometricError(f"{_WHAT} ends too early; copy or download it again.")
        self._at += 1
        return self._lines[self._at - 1].strip()

    def number(self) -> float:
        line = self.text()
        try:
            value = float(line.replace(",", ".").split()[0]) if line else 0.0
        except ValueError:
            raise PhotometricError(
                f"{_WHAT} holds “{line[:20]}” in line {self._at}, where a number belongs."
            ) from None
        if not abs(value) < 1e12:
            raise PhotometricError(f"{_WHAT} holds an impossible number in line {self._at}.")
        return value

    def whole(self, low: int, high: int, name: str) -> int:
        value = self.number()
        if value != int(value) or not low <= value <= high:
            raise PhotometricError(
                f"{_WHAT} gives {value:g} as its {name}; {low} to {high} is possible."
            )
        return int(value)


def parse_eulumdat(text: str, name: str = "") -> IntensityDistribution:
    """An intensity distribution from the text of a EULUMDAT file; raises `PhotometricError`."""
    lines = _Lines(text)
    maker = lines.text()
    lines.whole(0, 3, "kind of luminaire")
    symmetry = lines.whole(0, 4, "symmetry")
    mc = lines.whole(1, 721, "number of C planes")
    lines.number()
    ng = lines.whole(1, 721, "number of γ angles")
    lines.number()
    lines.text()
    title = lines.text()
    for _ in range(3):
        lines.text()
    sizes_mm = [lines.number() for _ in range(9)]
    lines.number()  # downward flux fraction
    lines.number()  # light output ratio
    conversion = lines.number()
    lines.number()  # tilt
    sets = lines.whole(1, 20, "number of lamp sets")
    # The flux is that of all lamps of a set, however many they are; sets are alternatives to one another.
    known: list[tuple[str, float, float]] = []
    for _ in range(sets):
        lines.number()
        lamp = lines.text()
        flux = lines.number()
        for _ in range(2):
            lines.text()
        known.append((lamp, flux, lines.number()))
    taken = next((s for s in known if s[1] > 0), known[0])
    _, lumens, watts = taken
    for _ in range(10):
        lines.number()
    c = np.array([lines.number() for _ in range(mc)])
    gamma = np.array([lines.number() for _ in range(ng)])
    if len(gamma) < 2 or not (np.diff(gamma) > 0).all() or gamma[0] < 0 or gamma[-1] > 180:
        raise PhotometricError(f"{_WHAT} has γ angles that do not rise from 0° to 180°.")
    stored = _stored_planes(symmetry, mc)
    values = np.array([[lines.number() for _ in range(ng)] for _ in range(stored)])
    remarks: list[str] = []
    if len(known) > 1:
        said = "; ".join(_in_words(*one) for one in known)
        remarks.append(f"It lists {len(known)} sets of lamps ({said}); the first is taken. "
                       "Each other one stands on the shelf by its name.")  # fmt: skip
    if lumens <= 0:
        raise PhotometricError(f"{_WHAT} says its lamps give no light.")
    if (values < 0).any():
        remarks.append("Some intensities were negative; they were taken as 0.")
    table = np.maximum(values, 0.0) * lumens / 1000.0 * (conversion if conversion > 0 else 1.0)
    if not table.max() > 0:
        raise PhotometricError(f"{_WHAT} describes a lamp without light: every intensity is 0.")
    h, table = _whole_turn(symmetry, c, table)
    found = IntensityDistribution(
        gamma, h, table, name or title or maker, lumens, watts if watts > 0 else None,
        sizes_mm[3] / 1000.0, sizes_mm[4] / 1000.0, sizes_mm[2] / 1000.0,
    )  # fmt: skip
    others = [
        with_remarks(replace(found, name=f"{found.name} · {_in_words(*s)}", table_cd=found.table_cd * s[1] / lumens,
                             stated_flux_lm=s[1], watts=s[2] if s[2] > 0 else None), [])
        for s in known if s is not taken and s[1] > 0
    ]  # fmt: skip
    return replace(with_remarks(found, remarks), others=tuple(others))


def _in_words(lamp: str, lumens: float, watts: float) -> str:
    """A set of lamps as the remarks and the shelf call it."""
    return f"{lamp or 'lamp'}, {lumens:g} lm, {watts:g} W"


def _whole_turn(symmetry: int, c: np.ndarray, table: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """C planes over a whole turn from those stored."""
    if symmetry == 1 or len(table) == 1:
        return np.zeros(1), table[:1]
    if symmetry == 4:  # C0…C90
        h = c[: len(table)]
        h, table = np.concatenate([h, 180 - h[-2::-1]]), np.concatenate([table, table[-2::-1]])
        return np.concatenate([h, 360 - h[-2::-1]]), np.concatenate([table, table[-2::-1]])
    if symmetry == 2:  # C0…C180
        h = c[: len(table)]
        return np.concatenate([h, 360 - h[-2::-1]]), np.concatenate([table, table[-2::-1]])
    if symmetry == 3:  # C270…C90 through C0: mirror C → 180° − C
        start = 3 * len(c) // 4
        h = np.array([c[(start + i) % len(c)] for i in range(len(table))])
        return closed_turn(np.concatenate([h, 180 - h]), np.concatenate([table, table]))
    return closed_turn(c, table)
