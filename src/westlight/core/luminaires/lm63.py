"""IES photometric files after ANSI/IES LM-63 (1986, 1991, 1995, 2002, 2019): read and write.

Type C is taken as it is; types B and A, whose poles lie across, are turned into it.
"""

from __future__ import annotations

import re

import numpy as np
import numpy.typing as npt

from ..errors import PhotometricError
from .distribution import IntensityDistribution, closed_turn
from .numbers import NumberStream

Array = npt.NDArray[np.float64]
_FOOT_M = 0.3048
_WHAT = "The photometric file"
#: Lumen from a watt that no lamp on the market exceeds.
MOST_LM_PER_W = 230.0


def _split(text: str) -> tuple[dict[str, str], str, str]:
    """Keywords, what TILT says, and the rest of the file."""
    match = re.search(r"^[ \t]*TILT[ \t]*=[ \t]*(.*)$", text, re.MULTILINE | re.IGNORECASE)
    if match is None:
        raise PhotometricError(
            f"{_WHAT} has no TILT line, so it is not LM-63; ask for an .ies or .ldt file."
        )
    keywords: dict[str, str] = {}
    last = ""
    for line in text[: match.start()].splitlines():
        found = re.match(r"\s*\[(\w+)\]\s*(.*)", line)
        if found:
            last = found.group(1).upper()
            if last == "MORE" and keywords:
                last = list(keywords)[-1]
                keywords[last] += " " + found.group(2).strip()
            else:
                keywords[last] = found.group(2).strip()
    return keywords, match.group(1).strip().upper(), text[match.end() :]


def _rising(angles: list[float], name: str) -> Array:
    out = np.array(angles)
    if len(out) > 1 and not (np.diff(out) > 0).all():
        raise PhotometricError(f"{_WHAT} has {name} angles that do not rise; it is damaged.")
    return out


def whole_turn(h: Array, table: Array, remarks: list[str]) -> tuple[Array, Array]:
    """Horizontal angles unfolded by the symmetry that the last of them stands for."""
    if len(h) == 1:
        return np.zeros(1), table
    first, last = h[0], h[-1]
    if first == 0 and last == 90:
        h = np.concatenate([h, 180 - h[-2::-1]])
        table = np.concatenate([table, table[-2::-1]])
        last = 180.0
    elif first == 90 and last == 270:
        # Symmetric about the plane 90°–270°: mirror C → 180° − C.
        return closed_turn(np.concatenate([h, 180 - h]), np.concatenate([table, table]))
    if first == 0 and last == 180:
        return np.concatenate([h, 360 - h[-2::-1]]), np.concatenate([table, table[-2::-1]])
    if first == 0 and last == 360:
        return h, table
    remarks.append(
        f"Its horizontal angles run from {first:g}° to {last:g}°, which no symmetry explains; "
        "the gap was bridged."
    )
    return closed_turn(h, table)


def _from_crosswise(kind: int, v: Array, h: Array, table: Array) -> tuple[Array, Array, Array]:
    """Types B (2) and A (3) resampled in the C–γ system.

    B turns about the length of the lamp (horizontal axis across the beam), A about the upright.
    """
    gamma, c = np.linspace(0, 180, 181), np.linspace(0, 360, 73)
    g, p = np.radians(gamma)[None, :], np.radians(c)[:, None]
    # Axis of the beam z, C = 0 towards x, C = 90° towards y.
    x, y, z = np.sin(g) * np.cos(p), np.sin(g) * np.sin(p), np.cos(g) + 0 * p
    if kind == 2:
        vertical, horizontal = np.degrees(np.arctan2(y, z)), np.degrees(np.arcsin(x))
    else:
        vertical, horizontal = np.degrees(np.arcsin(y)), np.degrees(np.arctan2(x, z))
    if h[0] >= 0:
        horizontal = np.abs(horizontal)
    if v[0] >= 0 and v[-1] <= 90:
        vertical = np.abs(vertical)
    i = np.clip(np.searchsorted(v, vertical, side="right") - 1, 0, max(len(v) - 2, 0))
    j = np.clip(np.searchsorted(h, horizontal, side="right") - 1, 0, max(len(h) - 2, 0))
    i1, j1 = np.minimum(i + 1, len(v) - 1), np.minimum(j + 1, len(h) - 1)
    a = (vertical - v[i]) / np.where(i1 > i, v[i1] - v[i], 1.0)
    b = (horizontal - h[j]) / np.where(j1 > j, h[j1] - h[j], 1.0)
    low = table[j, i] * (1 - a) + table[j, i1] * a
    high = table[j1, i] * (1 - a) + table[j1, i1] * a
    inside = (vertical >= v[0]) & (vertical <= v[-1]) & (horizontal >= h[0]) & (horizontal <= h[-1])
    return gamma, c, np.where(inside, np.maximum(low * (1 - b) + high * b, 0.0), 0.0)


def parse_lm63(text: str, name: str = "") -> IntensityDistribution:
    """An intensity distribution from the text of an LM-63 file.

    Raises `PhotometricError`, in the artist's words, for a file that cannot be used; what is only
    doubtful becomes a remark.
    """
    keywords, tilt, rest = _split(text)
    numbers = NumberStream(rest, _WHAT)
    remarks: list[str] = []
    if tilt == "INCLUDE":
        numbers.take()
        pairs = numbers.whole(1, 1000, "number of tilt angles")
        numbers.many(2 * pairs)
        remarks.append("Its tilt table was left out: lamps are taken as they hang.")
    elif tilt != "NONE":
        remarks.append(f"It refers to a tilt file “{tilt[:40]}”, which was left out.")
    lamps = numbers.take()
    lumens_per_lamp = numbers.take()
    multiplier = numbers.take()
    rows = numbers.whole(1, 2000, "number of vertical angles")
    columns = numbers.whole(1, 2000, "number of horizontal angles")
    kind = numbers.whole(1, 3, "photometric type")
    units = numbers.whole(1, 2, "unit")
    size = [numbers.take() * (_FOOT_M if units == 1 else 1.0) for _ in range(3)]
    ballast, _future, watts = numbers.many(3)
    v = _rising(numbers.many(rows), "vertical")
    h = _rising(numbers.many(columns), "horizontal")
    table = np.array(numbers.many(rows * columns)).reshape(columns, rows)
    if (table < 0).any():
        remarks.append("Some intensities were negative; they were taken as 0.")
        table = np.maximum(table, 0.0)
    factor = (multiplier if multiplier > 0 else 1.0) * (ballast if ballast > 0 else 1.0)
    table = table * factor
    if kind == 1:
        if v[0] < 0 or v[-1] > 180:
            raise PhotometricError(
                f"{_WHAT} has vertical angles outside 0°…180°; its type is wrong."
            )
        h, table = whole_turn(h, table, remarks)
    else:
        v, h, table = _from_crosswise(kind, v, h, table)
    if not table.max() > 0:
        raise PhotometricError(f"{_WHAT} describes a lamp without light: every intensity is 0.")
    stated = lamps * lumens_per_lamp if lumens_per_lamp > 0 else None
    out = IntensityDistribution(
        v, h, table, name or keywords.get("LUMINAIRE", "") or keywords.get("LUMCAT", ""), stated,
        watts if watts > 0 else None, abs(size[0]), abs(size[1]), abs(size[2]), (), keywords,
    )  # fmt: skip
    return with_remarks(out, remarks)


def with_remarks(d: IntensityDistribution, remarks: list[str]) -> IntensityDistribution:
    """The distribution with remarks, its own doubts about flux and symmetry added."""
    found = list(remarks)
    if d.stated_flux_lm and d.flux_lm > 1.05 * d.stated_flux_lm:
        found.append(
            f"It sends out {d.flux_lm:.0f} lm, more than the {d.stated_flux_lm:.0f} lm of its lamps."
        )
    if d.flux_lm <= 0:
        found.append("Its flux is 0.")
    if d.watts and d.flux_lm > MOST_LM_PER_W * d.watts:
        found.append(
            f"It would give {d.flux_lm / d.watts:.0f} lm/W, more than any lamp: its flux or its watts are wrong."
        )
    if not d.is_round:
        top = d.candela(0.0, d.horizontal_deg)
        if top.max() > 0 and np.ptp(top) > 0.1 * top.max():
            found.append("Its planes disagree about the intensity straight ahead.")
    return IntensityDistribution(
        d.vertical_deg, d.horizontal_deg, d.table_cd, d.name, d.stated_flux_lm, d.watts,
        d.width_m, d.length_m, d.height_m, tuple(found), d.keywords,
    )  # fmt: skip


#: Keywords of LM-63-2019; others stand in a file as a user's own, led by an underscore.
KEYWORDS = (
    "TEST", "TESTLAB", "TESTDATE", "NEARFIELD", "MANUFAC", "LUMCAT", "LUMINAIRE", "LAMPCAT", "LAMP", "BALLASTCAT", "BALLAST",
    "MAINTCAT", "DISTRIBUTION", "FLASHAREA", "COLORCONSTANT", "LAMPPOSITION", "ISSUEDATE", "FILEGENINFO", "SEARCH", "OTHER",
)  # fmt: skip
#: Those a file has to have, and what stands there if nothing is known.
_NEEDED = {"TEST": "none", "TESTLAB": "none", "ISSUEDATE": "unknown", "MANUFAC": "unknown"}
#: File generation of an undefined kind: the number that stands where older files have a 1.
_GENERATION = "1.00001"
#: Angles of a file in degrees are written to a thousandth; a jump takes one such step.
_STEP_DEG = 0.001
#: Least angles a table is thinned to if it was not read from a file: a degree, and five around.
MOST_VERTICAL, MOST_HORIZONTAL = 181, 73


def _full_range(v: Array, table: Array) -> tuple[Array, Array]:
    """Vertical angles from 0° or 90° to 90° or 180°, as the standard wants them, without light where there was none."""
    if v[0] not in (0.0, 90.0):
        first = [0.0, v[0] - _STEP_DEG] if v[0] > 2 * _STEP_DEG else [0.0]
        v, table = np.concatenate([first, v]), np.pad(table, ((0, 0), (len(first), 0)))
    if v[-1] not in (90.0, 180.0):
        end = 90.0 if v[-1] < 90.0 and v[0] < 90.0 else 180.0
        last = [v[-1] + _STEP_DEG, end] if end - v[-1] > 2 * _STEP_DEG else [end]
        v, table = np.concatenate([v, last]), np.pad(table, ((0, 0), (0, len(last))))
    return v, table


def _apart(angles: Array, table: Array) -> tuple[Array, Array]:
    """Angles to a thousandth of a degree, none of them twice; of equal ones the last stays."""
    written = np.round(angles, 3)
    kept = np.append(np.diff(written) > 0, True)
    return written[kept], table[..., kept]


def write_lm63(d: IntensityDistribution) -> str:
    """The distribution as the text of an LM-63-2019 file (absolute photometry, type C, metres).

    No angle stands there twice. A table that was not read from a file has at most 181 × 73 angles.
    """

    def lines(values: Array, per_line: int = 10) -> list[str]:
        words = [f"{v:.6g}" for v in values]
        return [" ".join(words[i : i + per_line]) for i in range(0, len(words), per_line)]

    v, h, table = d.vertical_deg, d.horizontal_deg, d.table_cd
    if not d.keywords and len(v) > MOST_VERTICAL:
        v = np.linspace(v[0], v[-1], MOST_VERTICAL)
        around = np.minimum(h, 360 - 1e-9)[:, None]
        table = d.candela(v[None, :], around)
    if not d.keywords and len(h) > MOST_HORIZONTAL:
        h = np.linspace(0, 360, MOST_HORIZONTAL)
        table = np.array([[np.interp(a, d.horizontal_deg, c) for c in table.T] for a in h])
    v, table = _apart(*_full_range(v, table))
    if len(h) > 1:
        h, turned = _apart(h, table.T)
        table = turned.T
    keywords = {**_NEEDED, **d.keywords}
    keywords["LUMINAIRE"] = d.name or keywords.get("LUMINAIRE", "luminaire")
    told = [
        f"[{k if k in KEYWORDS else '_' + k.lstrip('_')}] {' '.join(text.split())}"
        for k, text in keywords.items()
    ]
    head = ["IES:LM-63-2019", *told, "TILT=NONE"]
    head.append(f"1 -1 1 {len(v)} {len(h)} 1 2 {d.width_m:g} {d.length_m:g} {d.height_m:g}")
    head.append(f"1 {_GENERATION} {d.watts or 0:g}")
    out = [*head, *lines(v, 10), *lines(h, 10)]
    for row in table:
        out += lines(row)
    return "\r\n".join(out) + "\r\n"
