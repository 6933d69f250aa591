"""Fixtures: units of their amount, repeating them, making copies independent, the light schedule."""

from __future__ import annotations

import csv
import io
from collections.abc import Sequence
from functools import lru_cache
from typing import Any

import numpy as np

from westlight.core.errors import WestlightError
from westlight.core.sources import PerLumen, axes_towards, unit_factors
from westlight.engine.spec import FixtureSettings, Place
from westlight.engine.translate import emitters_of

from .errors import BadEdit
from .settings import LookState

#: More copies than this are a mistake in typing, not a ceiling.
MOST_COPIES = 2000


def per_lumen(settings: dict[str, Any]) -> dict[str, float | None]:
    """What one lumen of a fixture is in every unit its amount is read in, straight ahead."""
    fixture = FixtureSettings.model_validate(settings)
    # Where it hangs and how much it gives do not matter here.
    fixture.places = [Place(position=(0.0, 0.0, 0.0))]
    fixture.lumen = 1.0
    return unit_factors(_per_lumen(fixture.model_dump_json()), fixture.efficacy)


@lru_cache(maxsize=512)
def _per_lumen(settings: str) -> PerLumen:
    fixture = FixtureSettings.model_validate_json(settings)
    try:
        return emitters_of(fixture, "fixture")[0].per_lumen()
    except WestlightError:
        # A lost file is said where the picture is made.
        return PerLumen(0.0, None)


def repeated(
    settings: dict[str, Any], columns: int, rows: int, across_m: float, along_m: float,
    turn_deg: float = 0.0,
) -> list[dict[str, Any]]:  # fmt: skip
    """Places of linked copies in a grid around the first place, in the plane of its surface.

    On ceilings and floors columns run east, turned by ``turn_deg`` counter-clockwise; on walls
    they run along the wall. Raises `BadEdit` for a grid of nothing or of thousands.
    """
    if not 1 <= columns * rows <= MOST_COPIES or columns < 1 or rows < 1:
        raise BadEdit(f"A grid has 1 to {MOST_COPIES} fixtures; change the numbers.")
    first = Place.model_validate(settings["places"][0])
    normal = np.asarray(first.direction, float)
    normal /= np.linalg.norm(normal)
    if abs(normal[2]) > 0.9:
        right, up = np.array([1.0, 0.0, 0.0]), np.array([0.0, 1.0, 0.0])
    else:
        right, up, _ = axes_towards(tuple(normal), 0.0, "fixture")
    a = np.radians(turn_deg)
    right, up = right * np.cos(a) + up * np.sin(a), up * np.cos(a) - right * np.sin(a)
    out = []
    for j in range(rows):
        for i in range(columns):
            at = (
                np.asarray(first.position)
                + right * across_m * (i - (columns - 1) / 2)
                + up * along_m * (j - (rows - 1) / 2)
            )
            place = {**first.model_dump(), "position": [round(float(v), 4) for v in at]}
            out.append(place)
    return out


def schedule(
    sources: Sequence[tuple[str, str, dict[str, Any]]], look: LookState
) -> list[dict[str, Any]]:
    """The light schedule: one line per fixture type of (id, name, settings), as a look sets it."""
    out = []
    for source_id, name, settings in sources:
        if settings["kind"] != "fixture":
            continue
        f = FixtureSettings.model_validate(settings)
        mix = look.mix_of(source_id, f.group)
        lumen = f.lumen * 2.0**mix.level
        out.append({
            "fixture": name, "shape": f.shape, "count": len(f.places), "colour (K)": round(f.kelvin),
            "flux each (lm)": round(lumen, 1), "flux in all (lm)": round(lumen * len(f.places), 1),
            "power each (W)": round(lumen / f.efficacy, 1), "level (EV)": round(mix.level, 2),
            "in this look": "off" if mix.muted else "on", "fill": "yes" if f.fill else "", "circuit": f.circuit,
            "photometric file": f.photometry_name,
            "positions (m)": "; ".join(
                " ".join(f"{v:.2f}" for v in p.position) for p in f.places
            ),
        })  # fmt: skip
    return out


def circuits(rows: Sequence[dict[str, Any]]) -> list[tuple[str, int, float]]:
    """Circuits of a schedule with how many fixtures are on in each, fills left out, and their watts, by name.

    >>> lamp = {"circuit": "L1", "count": 2, "power each (W)": 6.0, "in this look": "on", "fill": ""}
    >>> circuits([lamp, {**lamp, "circuit": "L2", "in this look": "off"}, {**lamp, "circuit": ""}])
    [('L1', 2, 12.0), ('L2', 0, 0.0)]
    """
    found: dict[str, tuple[int, float]] = {}
    for r in rows:
        if not r["circuit"] or r["fill"]:
            continue
        count, watts = found.get(r["circuit"], (0, 0.0))
        on = r["count"] if r["in this look"] == "on" else 0
        found[r["circuit"]] = count + on, watts + on * r["power each (W)"]
    return [(name, *found[name]) for name in sorted(found)]


def as_csv(rows: list[dict[str, Any]]) -> str:
    """Rows as CSV with a heading; an empty schedule says so. No cell can be taken for a formula.

    It begins with a byte order mark: without one table programs take it for text of an old code page.

    >>> as_csv([{"name": "=1+1", "flux (lm)": -2.5}])
    "\\ufeffname,flux (lm)\\r\\n'=1+1,-2.5\\r\\n"
    """
    if not rows:
        return "\ufeffno fixtures\r\n"
    out = io.StringIO("\ufeff")
    out.seek(0, io.SEEK_END)
    writer = csv.DictWriter(out, list(rows[0]))
    writer.writeheader()
    writer.writerows({name: _cell(value) for name, value in row.items()} for row in rows)
    return out.getvalue()


def _cell(value: Any) -> Any:
    """A cell that a table program shows as it is: what begins like a formula is led by an apostrophe."""
    if isinstance(value, str) and value.startswith(("=", "+", "-", "@", "\t", "\r")):
        return f"'{value}"
    return value
