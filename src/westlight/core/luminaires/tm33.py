"""Luminaires as XML after ANSI/IES TM-33: the luminous intensities of one emitter, C–γ angles, candela.

Elements are found by their names, whatever namespace or edition they stand in. Types A and B are refused: their files are for
road lighting and floodlights.
"""

from __future__ import annotations

import math
from xml.etree import ElementTree

import numpy as np

from ..errors import PhotometricError
from .distribution import IntensityDistribution
from .lm63 import whole_turn, with_remarks

_WHAT = "The photometric file"
#: Roots of the standard's editions begin so.
ROOT = "IESTM33"
#: Most values of one emitter: a value at every half degree of the sphere.
MOST = 721 * 361


def is_tm33(text: str) -> bool:
    """Whether a text is a file of this kind."""
    return text.lstrip()[:1] == "<" and ROOT in text[:4000]


def _name(element: ElementTree.Element) -> str:
    return element.tag.rpartition("}")[2].lower()


def _first(within: ElementTree.Element, *names: str) -> str:
    """Text of the first element of the first name that has any; empty if none has."""
    for wanted in names:
        for e in within.iter():
            if _name(e) == wanted.lower() and (e.text or "").strip():
                return (e.text or "").strip()
    return ""


def _number(within: ElementTree.Element, *names: str) -> float | None:
    text = _first(within, *names)
    try:
        value = float(text) if text else math.nan
    except ValueError:
        return None
    return value if math.isfinite(value) else None


def _values(emitter: ElementTree.Element) -> dict[tuple[float, float], float]:
    """Intensities by their horizontal and vertical angle."""
    out: dict[tuple[float, float], float] = {}
    for element in emitter.iter():
        if _name(element) not in ("intdata", "intensitydata"):
            continue
        angles = {k.rpartition("}")[2].lower()[:1]: v for k, v in element.attrib.items()}
        try:
            at = float(angles["h"]), float(angles["v"])
            out[at] = float((element.text or "").strip())
        except (KeyError, ValueError):
            raise PhotometricError(
                f"{_WHAT} holds an intensity without its angles or its number; ask for it again."
            ) from None
        if len(out) > MOST:
            raise PhotometricError(f"{_WHAT} holds more than {MOST} intensities.")
    return out


def parse_tm33(text: str, name: str = "") -> IntensityDistribution:
    """An intensity distribution from the text of a TM-33 file; raises `PhotometricError`."""
    try:
        root = ElementTree.fromstring(text)
    except (ElementTree.ParseError, LookupError, ValueError) as error:
        raise PhotometricError(
            f"{_WHAT} is cut short or damaged: it is no whole XML. Ask for it again."
        ) from error
    remarks: list[str] = []
    emitters = [e for e in root.iter() if _name(e) == "emitter"] or [root]
    lit = [e for e in emitters if any(_name(d) in ("intdata", "intensitydata") for d in e.iter())]
    if not lit:
        raise PhotometricError(
            f"{_WHAT} tells no luminous intensities; ask for an .ies or .ldt file."
        )
    if len(lit) > 1:
        others = ", ".join(_first(e, "Description", "CatalogNumber") or "unnamed" for e in lit[1:])
        remarks.append(f"It has {len(lit)} emitters; the first was taken. The others: {others}.")
    emitter = lit[0]
    kind = _first(emitter, "PhotometryType", "PhotometricType") or _first(root, "PhotometryType")
    if kind and kind.upper().rpartition("-")[2].rpartition("_")[2] not in ("C", "TYPEC"):
        raise PhotometricError(f"{_WHAT} is of type {kind[:20]}; ask for one of type C.")
    found = _values(emitter)
    h = np.array(sorted({a for a, _ in found}))
    v = np.array(sorted({b for _, b in found}))
    if not np.isfinite(h).all() or not np.isfinite(v).all() or v[0] < 0 or v[-1] > 180:
        raise PhotometricError(f"{_WHAT} has vertical angles outside 0°…180°.")
    if len(found) != len(h) * len(v) or len(v) < 2:
        raise PhotometricError(f"{_WHAT} leaves some intensities out; ask for it again.")
    table = np.array([[found[(a, b)] for b in v] for a in h])
    table *= _number(emitter, "Multiplier") or 1.0
    if not np.isfinite(table).all():
        raise PhotometricError(f"{_WHAT} holds impossible numbers.")
    if (table < 0).any():
        remarks.append("Some intensities were negative; they were taken as 0.")
        table = np.maximum(table, 0.0)
    if not table.max() > 0:
        raise PhotometricError(f"{_WHAT} describes a lamp without light: every intensity is 0.")
    h, table = whole_turn(h, table, remarks)
    # Lengths stand in millimetres.
    width, length, height = (
        max(_number(root, n) or 0.0, 0.0) / 1000 for n in ("Width", "Length", "Height")
    )
    keywords = {"MANUFAC": _first(root, "Manufacturer"), "LUMCAT": _first(root, "CatalogNumber"),
                "TESTLAB": _first(root, "Laboratory"), "TEST": _first(root, "ReportNumber")}  # fmt: skip
    made = IntensityDistribution(
        v, h, table, name or _first(root, "Description", "CatalogNumber"), _number(emitter, "RatedLumens"),
        _number(emitter, "InputWattage"), width, length, height, (), {k: t for k, t in keywords.items() if t},
    )  # fmt: skip
    return with_remarks(made, remarks)
