"""Checking a building for what will trouble its light: scale, duplicates, lamps without a source."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np

from westlight.core.errors import ModelError
from westlight.core.model import Model, doubts
from westlight.core.model.edit import changed
from westlight.core.model.parts import Missing, Part, place
from westlight.core.model.tags import guessed_tag
from westlight.engine.translate import change_of

from .settings import ModelState

#: Units files are made in, in metres; from the smallest.
UNITS = {"mm": 0.001, "cm": 0.01, "inch": 0.0254, "foot": 0.3048, "m": 1.0}
#: A lamp body has a source if one shines within this distance of it.
NEAR_M = 0.4


def fitting_scale(size: Sequence[float]) -> str | None:
    """Unit that would give a building a believable size, if metres do not; None if they do.

    >>> fitting_scale([12_000, 8_000, 5_000]), fitting_scale([12, 8, 5])
    ('mm', None)
    """
    tallest = size[2]
    if 1.5 <= tallest <= 400:
        return None
    return next((u for u, k in UNITS.items() if u != "m" and 2 <= tallest * k <= 60), None)


def findings(
    model: Model, state: ModelState, sources: Sequence[Sequence[float]]
) -> list[dict[str, Any]]:
    """What is doubtful, as text, remedy, the part it is about, and a scale if that is the cure.

    ``sources`` are positions of emitters.
    """
    out: list[dict[str, Any]] = []

    def say(text: str, remedy: str, part: str | None = None, **more: Any) -> None:
        out.append({"text": text, "remedy": remedy, "part": part, **more})

    try:
        low, high = model.bounds()
    except ModelError as error:
        return [{"text": str(error), "remedy": "Import another file.", "part": None}]
    unit = fitting_scale([float(v) for v in high - low])
    if unit is not None:
        size = " × ".join(f"{v:.1f}" for v in high - low)
        say(f"The building measures {size} m.", f"It was probably made in {unit}: take it as {unit}.",
            unit=unit)  # fmt: skip
    if float(np.abs(model.bounds()[0]).max()) > 20_000:
        say("The building lies far from its origin.", "Move it to the origin and export it again; "
            "shadows lose their edges out there.")  # fmt: skip
    for material in model.materials:
        edit = state.edits.materials.get(material.name)
        for doubt in doubts(changed(material, change_of(edit)) if edit else material):
            say(f"{material.name}: {doubt.text}", "It can be changed under Materials, too.",
                material=material.name, cure=doubt.cure, change=doubt.change)  # fmt: skip
    for remark in model.remarks:
        if isinstance(remark, Missing):
            say(remark, "Put the file beside the model, pack both as a zip and import it again.")
    for names in _duplicates(model):
        say(f"“{names[1]}” stands exactly where “{names[0]}” does.",
            "Hide one of them: their faces flicker into each other.", names[1])  # fmt: skip
    for part in _inside_out(model):
        say(f"The faces of “{part.name}” look inwards.",
            "Turn its faces round in the program it was made in; it is lit all the same, but glass "
            "bends light the wrong way and grades may miss it.", part.name)  # fmt: skip
    at = np.asarray(sources, float).reshape(-1, 3)
    for part in _dark_lamps(model, at):
        say(f"“{part.name}” looks like a lamp, but no source shines there.",
            "Put a fixture into it, or give its material light of its own.", part.name)  # fmt: skip
    return out


def _duplicates(model: Model) -> list[tuple[str, str]]:
    """Pairs of parts with the same faces in the same place."""
    seen: dict[tuple[Any, ...], str] = {}
    out = []
    for part in model.parts:
        if not len(part.mesh.faces):
            continue
        points = place(part.matrix, part.mesh.vertices)
        key = (len(part.mesh.faces), len(points), *points.sum(axis=0).round(3),
               *points.std(axis=0).round(4), *points[0].round(3))  # fmt: skip
        if key in seen:
            out.append((seen[key], part.name))
        else:
            seen[key] = part.name
    return out[:20]


def _inside_out(model: Model) -> list[Part]:
    """Closed parts whose faces look inwards: their signed volume is negative.

    Open parts (a sheet, a wall of one face) have no inside and are left alone.
    """
    out = []
    for part in model.parts:
        faces = part.mesh.faces
        if not 4 <= len(faces) <= 200_000:
            continue
        # Corners in one place count as one, however many normals meet there.
        _, same = np.unique(part.mesh.vertices.round(5), axis=0, return_inverse=True)
        welded = same.reshape(-1)[faces]
        edges = np.sort(welded[:, [0, 1, 1, 2, 2, 0]].reshape(-1, 2), axis=1)
        _, counts = np.unique(edges, axis=0, return_counts=True)
        if (counts % 2).any():
            continue
        corners = place(part.matrix, part.mesh.vertices)[faces]
        corners = corners - corners.reshape(-1, 3).mean(axis=0)
        volume = np.einsum("ij,ij->i", corners[:, 0], np.cross(corners[:, 1], corners[:, 2])).sum()
        # A mirrored copy turns its faces with it; they are read as they are meant.
        if volume * np.sign(np.linalg.det(part.matrix[:3, :3])) < -1e-6:
            out.append(part)
    return out[:20]


def _dark_lamps(model: Model, sources: np.ndarray) -> list[Part]:
    """Parts called a lamp, with no source near and no light of their own."""
    out = []
    for part in model.parts:
        if guessed_tag(part.name) != "lamp body" or not len(part.mesh.faces):
            continue
        if any(m.emits for m in part.mesh.materials):
            continue
        points = place(part.matrix, part.mesh.vertices)
        low, high = points.min(axis=0) - NEAR_M, points.max(axis=0) + NEAR_M
        if not len(sources) or not ((sources >= low) & (sources <= high)).all(axis=1).any():
            out.append(part)
    return out[:20]
