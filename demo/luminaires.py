"""Made-up photometric files: the shelf every project starts with."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import numpy as np

Array = np.ndarray
_G = np.arange(0, 181, 2.5)
_C = np.arange(0, 361, 15.0)


def _beam(half: float, power: float = 2.0) -> Array:
    return np.exp(-np.log(2) * (_G / half) ** power)


def _below(intensity: Array) -> Array:
    return np.where(_G < 90, intensity, 0.0)


def _cos(g: Array) -> Array:
    return np.maximum(np.cos(np.radians(g)), 0.0)


def _narrow(c: float) -> Array:
    rings = 1 + 0.08 * np.cos(np.radians(_G) * 40) * (_G < 25)
    return _below(_beam(5, 1.6) * rings + 0.012 * _cos(_G))


def _wide(c: float) -> Array:
    return _below(_beam(21, 2.6) + 0.03 * _cos(_G))


def _washer(c: float) -> Array:
    lean = 32 * np.cos(np.radians(c))
    across = np.exp(-(((_G - max(lean, 4)) / (17 if lean > 0 else 7)) ** 2))
    return _below(across * (0.35 + 0.65 * max(np.cos(np.radians(c)), 0)) + 0.03 * _cos(_G))


def _batwing(c: float) -> Array:
    wing = np.exp(-(((_G - 38) / 17) ** 2)) * (0.65 + 0.35 * np.cos(np.radians(2 * c)))
    return _below(0.45 * _cos(_G) + wing)


def _linear(c: float) -> Array:
    s = np.abs(np.sin(np.radians(c)))
    down = _cos(_G) ** (1.2 + 0.8 * (1 - s))
    up = 0.55 * np.maximum(-np.cos(np.radians(_G)), 0) ** 0.7 * (0.7 + 0.3 * s)
    return down + up


def _bulkhead(c: float) -> Array:
    cage = 1 - 0.22 * (np.abs(((_G + 10) % 20) - 10) < 2)
    return (0.25 + 0.75 * _cos(_G * 0.8)) * cage * (_G < 125)


def _lantern(c: float) -> Array:
    bars = 1 - 0.5 * np.exp(-((((c + 45) % 90) - 45) ** 2) / 60)
    return bars * np.exp(-(((_G - 78) / 38) ** 2)) + 0.03


def _facade(c: float) -> Array:
    aim = np.exp(-(((_G - 48) / 13) ** 2)) * np.exp(-((((c + 180) % 360 - 180) / 34) ** 2))
    return _below(aim + 0.015 * _cos(_G))


def _bulb(c: float) -> Array:
    return 1 - 0.55 * np.exp(-(((180 - _G) / 26) ** 2)) + 0.05 * np.cos(np.radians(_G) * 6)


def _downlight(c: float) -> Array:
    return np.where(_G < 42, _cos(_G) ** 1.5, 0.02 * _cos(_G))


def _strip(c: float) -> Array:
    """A strip behind a shelf edge: cut off towards the eye, ribbed by its diffuser."""
    eye = np.where(np.cos(np.radians(c)) > 0, np.clip((62 - _G) / 8, 0, 1), 1.0)
    return _below(_cos(_G) * eye * (1 + 0.04 * np.cos(np.radians(_G) * 24)))


def _flood(c: float) -> Array:
    throw = np.exp(-(((_G - 42) / 24) ** 2)) * np.maximum(np.cos(np.radians(c)), 0) ** 0.6
    return _below(0.25 * _cos(_G) + throw)


def _shade(c: float) -> Array:
    """A conical desk shade: sharp cut-off, a little through the slots at its top."""
    return _cos(_G) * np.clip((58 - _G) / 5, 0, 1) + 0.03 * np.exp(-(((_G - 165) / 8) ** 2))


def _street(c: float) -> Array:
    along = 0.35 + 0.65 * np.abs(np.sin(np.radians(c))) ** 1.5
    return _below(0.35 * _cos(_G) + along * np.exp(-(((_G - 64) / 9) ** 2)))


#: Name, lumen, watts, and intensity over γ at an angle C.
SHELF: list[tuple[str, float, float, Callable[[float], Array]]] = [
    ("Narrow spot 10°", 820, 11, _narrow),
    ("Wide spot 42°", 1150, 13, _wide),
    ("Wall washer", 1500, 18, _washer),
    ("Batwing pendant", 3200, 29, _batwing),
    ("Linear direct indirect", 4100, 36, _linear),
    ("Bulkhead with cage", 760, 9, _bulkhead),
    ("Quay lantern", 1300, 16, _lantern),
    ("Facade washer", 2600, 30, _facade),
    ("Bare bulb", 806, 8, _bulb),
    ("Deep downlight", 1050, 12, _downlight),
    ("Shelf strip", 610, 7, _strip),
    ("Yard floodlight", 4800, 44, _flood),
]
#: The same, as EULUMDAT.
SHELF_LDT: list[tuple[str, float, float, Callable[[float], Array]]] = [
    ("Desk lamp shade", 430, 6, _shade),
    ("Quay road lantern", 3600, 34, _street),
]


def eulumdat(name: str, lumen: float, watts: float, table: Array) -> str:
    """An EULUMDAT file of a table of candela (whole turn of C planes × γ), Stockmar 1990."""
    planes = len(_C) - 1
    head = ["Saltmarsh", 1, 0, planes, 360 / planes, len(_G), 2.5, "", name, "", f"{name}.ldt", "",
            180, 0, 60, 120, 0, 0, 0, 0, 0, 100, 100, 1, 0, 1, 1, "LED", lumen, "3000 K", "80", watts,
            *[0] * 10]  # fmt: skip
    rows = [*head, *_C[:-1], *_G, *(table[:-1] * 1000 / lumen).round(3).reshape(-1)]
    return "\r\n".join(f"{v:g}" if isinstance(v, float) else str(v) for v in rows) + "\r\n"


def write_shelf(folder: Path) -> list[Path]:
    """Write every luminaire, twelve as LM-63 and two as EULUMDAT; returns the files."""
    from westlight.core.luminaires import IntensityDistribution, write_lm63

    folder.mkdir(parents=True, exist_ok=True)
    out = []
    for name, lumen, watts, shape in [*SHELF, *SHELF_LDT]:
        table = np.maximum(np.array([shape(float(c)) for c in _C]), 0.0)
        table[-1] = table[0]
        plain = IntensityDistribution(_G, _C, table, name, watts=watts)
        factor = lumen / plain.flux_lm
        stem = name.replace(" ", "_").replace("°", "deg")
        if (name, lumen, watts, shape) in SHELF:
            target = folder / f"{stem}.ies"
            target.write_text(write_lm63(plain.scaled(factor)))
        else:
            target = folder / f"{stem}.ldt"
            target.write_text(eulumdat(name, lumen, watts, table * factor), newline="")
        out.append(target)
    return out
