"""Bringing a building in: unpacking, packing into one asset, a first view of it."""

from __future__ import annotations

from typing import Any

from westlight.core.model import Model
from westlight.engine.spec import ViewSettings

from .exchange import view_through
from .settings import ModelState

#: Cameras of a file that become views.
MOST_VIEWS = 12


def views_of(report: dict[str, Any]) -> list[tuple[str, dict[str, Any]]]:
    """Names and settings of the views of a new building: its cameras, or one that takes it in.

    Without cameras the one view looks from the south-west and has no name of its own.
    """
    if report["cameras"]:
        return [(c["name"] or f"Camera {n}", view_through(c).model_dump(mode="json"))
                for n, c in enumerate(report["cameras"][:MOST_VIEWS], 1)]  # fmt: skip
    low, high = report["low"], report["high"]
    middle = [(a + b) / 2 for a, b in zip(low, high, strict=True)]
    size = max(high[0] - low[0], high[1] - low[1], high[2] - low[2], 0.1)
    view = ViewSettings(
        position=(middle[0] - 0.9 * size, middle[1] - 1.1 * size, low[2] + max(1.6, 0.35 * size)),
        target=(middle[0], middle[1], middle[2]),
        focal_length_mm=28, upright=True,
    )  # fmt: skip
    return [("", view.model_dump(mode="json"))]


def carried_over(old: ModelState, new: ModelState, building: Model) -> ModelState:
    """Settings of a building that replaces another: edits kept by name, the rest told in remarks."""
    parts = {p.name for p in building.parts}
    materials = {m.name for m in building.materials}
    edits = old.edits
    lost = [f"“{n}” was hidden; the new building has no such part." for n in edits.hidden
            if n not in parts]  # fmt: skip
    lost += [f"“{n}” was changed; the new building has no such material."
             for n in [*edits.materials, *edits.not_clay] if n not in materials]  # fmt: skip
    kept = edits.model_copy(update={
        "hidden": [n for n in edits.hidden if n in parts],
        "materials": {n: m for n, m in edits.materials.items() if n in materials},
        **{key: {n: v for n, v in getattr(edits, key).items() if n in parts}
           for key in ("own_materials", "names", "tags")},
        "not_clay": [n for n in edits.not_clay if n in materials],
    })  # fmt: skip
    return new.model_copy(
        update={"edits": kept, "scale": old.scale, "remarks": [*lost, *new.remarks][:40]}
    )
