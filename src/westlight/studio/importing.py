"""Bringing a building in: unpacking, packing into one asset, a first view of it."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np

from westlight.core.analysis.standpoint import LENS_MM
from westlight.core.model import Model
from westlight.core.sun import sun_positions
from westlight.engine.spec import ExposureSettings, ViewSettings

from .daylight import moment
from .exchange import view_through
from .settings import LookState, ModelState

#: Cameras of a file that become views.
MOST_VIEWS = 12
#: Times of the day that are tried, degrees within which a sun speaks for another, and the lowest sun for a first picture.
STEP_MIN, NEAR_DEG, LOWEST_DEG = 12, 14.0, 6.0
#: Suns are told about 9° apart: this many, by their nearness, speak for one that all of them are like.
SPOKEN_FOR = 2.2
#: What sun in the first picture is worth, a window in it being 1, and so much of it in m² is enough.
SUNNY, SUNNY_M2 = 0.8, 1.0
#: Stops over the meter at which a room is seen first: bright windows would make its white walls grey.
ROOM_COMPENSATION = 1.0


def first_look() -> LookState:
    """The look of a new project: whatever building comes, its first picture is neither burnt nor black."""
    return LookState(exposure=ExposureSettings(automatic="whole"))


def views_of(
    report: dict[str, Any], standing: dict[str, Any] | None
) -> list[tuple[str, dict[str, Any]]]:
    """Names and settings of the views of a new building: its cameras, or one from where one stands and one that takes it in.

    The only view of a building without rooms looks from the south-west and has no name of its own.
    """
    if report["cameras"]:
        return [(c["name"] or f"Camera {n}", view_through(c).model_dump(mode="json"))
                for n, c in enumerate(report["cameras"][:MOST_VIEWS], 1)]  # fmt: skip
    low, high = report["low"], report["high"]
    middle = [(a + b) / 2 for a, b in zip(low, high, strict=True)]
    size = max(high[0] - low[0], high[1] - low[1], high[2] - low[2], 0.1)
    whole = ViewSettings(
        position=(middle[0] - 0.9 * size, middle[1] - 1.1 * size, low[2] + max(1.6, 0.35 * size)),
        target=(middle[0], middle[1], middle[2]),
        focal_length_mm=28, upright=True,
    ).model_dump(mode="json")  # fmt: skip
    if standing is None:
        return [("", whole)]
    inside = ViewSettings(
        position=standing["position"], target=standing["target"], focal_length_mm=LENS_MM
    )
    return [("Inside", inside.model_dump(mode="json")), ("Outside", whole)]


def first_standing(
    places: Sequence[dict[str, Any]],
    look: LookState,
    place: tuple[float, float, str],
    north_deg: float,
) -> tuple[dict[str, Any] | None, float | None]:
    """Of the places one could stand at, the best with the sun of a look's day, and the minutes that show it most.

    Arguments as of `sunny_minutes`.
    """
    best: tuple[float, dict[str, Any] | None, float | None] = -np.inf, None, None
    for standing in places:
        minutes, area = sunny_minutes(standing["suns"], look, place, north_deg)
        worth = standing["worth"] + SUNNY * min(area / SUNNY_M2, 1.0)
        if worth > best[0]:
            best = worth, standing, minutes
    return best[1:]


def sunny_minutes(
    suns: Sequence[tuple[float, float, float]],
    look: LookState,
    place: tuple[float, float, str],
    north_deg: float,
) -> tuple[float | None, float]:
    """Minutes of a look's day at which most sun falls into a view, and its area in m²; None for a view that has none then.

    ``suns`` are azimuth from the model's y axis and elevation in degrees, and the area of sun seen in m²; ``place``: latitude,
    longitude and time zone.
    """
    latitude, longitude, time_zone = place
    known = np.array(suns, float).reshape(-1, 3)
    minutes = np.arange(0, 1440, STEP_MIN)
    times = [moment(look.day, float(m), time_zone) for m in minutes]
    azimuth, _, elevation = sun_positions(times, latitude, longitude).T
    off = (azimuth[:, None] - north_deg - known[:, 0] + 180) % 360 - 180
    apart = np.hypot(off * np.cos(np.radians(elevation))[:, None], elevation[:, None] - known[:, 1])
    # Suns near the one of the moment speak for it, the nearer the more.
    near = np.maximum(1 - apart / NEAR_DEG, 0)
    area = np.where(elevation > LOWEST_DEG, (near * known[:, 2]).sum(axis=1), 0.0)
    best = int(area.argmax())
    return (float(minutes[best]), float(area[best]) / SPOKEN_FOR) if area[best] > 0 else (None, 0.0)


def carried_over(old: ModelState, new: ModelState, building: Model) -> ModelState:
    """Settings of a building that replaces another: edits kept by name, the rest told in remarks."""
    parts = {p.name for p in building.parts}
    materials = {m.name for m in building.materials}
    edits = old.edits
    lost = [f"“{n}” was hidden; the new building has no such part." for n in edits.hidden
            if n not in parts]  # fmt: skip
    lost += [f"“{n}” was changed; the new building has no such material."
             for n in [*edits.materials, *edits.not_clay] if n not in materials]  # fmt: skip
    lost += [f"“{n}” was moved or copied; the new building has no such part."
             for n in dict.fromkeys([*edits.moved, *(c.of for c in edits.copies)]) if n not in parts]  # fmt: skip
    kept = edits.model_copy(update={
        "hidden": [n for n in edits.hidden if n in parts],
        "materials": {n: m for n, m in edits.materials.items() if n in materials},
        **{key: {n: v for n, v in getattr(edits, key).items() if n in parts}
           for key in ("own_materials", "names", "tags", "moved")},
        "copies": [c for c in edits.copies if c.of in parts],
        "not_clay": [n for n in edits.not_clay if n in materials],
    })  # fmt: skip
    return new.model_copy(
        update={"edits": kept, "scale": old.scale, "remarks": [*lost, *new.remarks][:40]}
    )
