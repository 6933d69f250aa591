"""Fixtures of a project: put in place, brought from a file, repeated, fitted into every body of a kind, made independent."""

from __future__ import annotations

import tempfile
from collections.abc import Sequence
from pathlib import Path
from typing import Any

import numpy as np

from westlight.core.analysis import NEAR_BODY_M, carried
from westlight.core.errors import ModelError
from westlight.core.model import Part, alike
from westlight.core.model.parts import part_bounds
from westlight.core.model.tags import guessed_tag
from westlight.core.sources import SHAPES
from westlight.engine.reading import read_in_child
from westlight.store import Look, Model, Source, Store
from westlight.store.rows import new_id

from . import edits, exchange, file_suns, fixtures
from .buildings import Buildings
from .errors import BadEdit, NotFound
from .history import History
from .importing import first_look
from .recipe import look_state
from .rows import TABLES, fixture_row, live_project, rows_of
from .settings import ModelState
from .shelves import Shelves


class Fixtures:
    """What is done to fixtures, each as one edit."""

    def __init__(
        self, store: Store, history: History, buildings: Buildings, shelves: Shelves
    ) -> None:
        self.store, self.history = store, history
        self.buildings, self.shelves = buildings, shelves

    def place(
        self, project_id: str, shape: str, position: Sequence[float], normal: Sequence[float],
        photometry: str | None = None, *, free: bool = False, roll_deg: float = 0.0,
        sizes: dict[str, float] | None = None,
    ) -> str:  # fmt: skip
        """Add a fixture on a surface, a little off it, shining along its normal; returns its id.

        A ``free`` one hangs where it is told. ``sizes`` in metres fit it into a body. A photometric one
        takes flux and name from its file on the shelf.
        """
        if shape not in SHAPES:
            raise BadEdit(f"A fixture is one of {', '.join(SHAPES)}.")
        kind = SHAPES[shape]
        name, gap = kind.label, 0.0 if free else kind.gap_m
        at = [round(p + n * gap, 4) for p, n in zip(position, normal, strict=True)]
        with self.store.session() as session:
            count = len(rows_of(session, Source, project_id))
        settings: dict[str, Any] = {
            "kind": "fixture", "shape": shape,
            "places": [{"position": at, "direction": list(normal), "roll_deg": roll_deg}],
            **kind.usual, **(sizes or {}),
        }  # fmt: skip
        if kind.from_file:
            found = next(
                (c for c in self.shelves.photometry.cards() if c["asset"] == photometry), None
            )
            if found is None:
                raise BadEdit("Choose a photometric file from the shelf first.")
            name = found["name"]
            settings |= {"photometry": photometry, "photometry_name": name,
                         "lumen": found["flux_lm"]}  # fmt: skip
            if found["efficacy"]:
                # The schedule then has the watts of the file.
                settings["efficacy"] = min(max(found["efficacy"], 1.0), 683.0)
        return self.history.add(project_id, "source", f"{name} {count + 1}", settings)

    def repeat(self, project_id: str, source_id: str, **grid: Any) -> None:
        """Make linked copies of a fixture in a grid, as one edit."""
        with self.store.editing(project_id) as session:
            row = fixture_row(session, source_id)
            patch = {"settings": {"places": fixtures.repeated(row.settings, **grid)}}
            edits.change(session, project_id, "source", source_id, patch, f"Repeat {row.name}")

    def separate(self, project_id: str, source_id: str) -> None:
        """Make the linked copies of a fixture independent sources, as one edit."""
        with self.store.editing(project_id) as session:
            row = session.get(Source, source_id)
            if row is None or len(row.settings.get("places", [])) < 2:
                raise BadEdit("There are no copies to make independent.")
            before = edits.state_of("source", row)
            steps = []
            for n, place in enumerate(row.settings["places"]):
                settings = {**row.settings, "places": [place]}
                after = {**before, "name": f"{row.name} {n + 1}", "settings": settings}
                steps.append({"kind": "source", "id": source_id if n == 0 else new_id(),
                              "before": before if n == 0 else None, "after": after})  # fmt: skip
            # Copies keep level and switch of the fixture in every look.
            for look in rows_of(session, Look, project_id):
                mix = look.settings.get("mix", {})
                if source_id in mix:
                    old = edits.state_of("look", look)
                    more = {s["id"]: mix[source_id] for s in steps}
                    new = {**old, "settings": {**look.settings, "mix": {**mix, **more}}}
                    steps.append({"kind": "look", "id": look.id, "before": old, "after": new})
            edits.record(session, project_id, f"Make {row.name} independent", steps)

    def fill_alike(self, project_id: str, source_id: str) -> int:
        """Put a copy of a fixture into every body like the one its first copy is in; returns how many.

        Linked copies, as one edit. Raises `BadEdit` if it is in no lamp body, or the only one.
        """
        with self.store.editing(project_id) as session:
            row = fixture_row(session, source_id)
            models = rows_of(session, Model, project_id)
            if not models:
                raise NotFound("There is no building with bodies for it; import one first.")
            state = ModelState.model_validate(models[0].settings)
            parts = [
                p for p in self.buildings.building(state).parts if p.name not in state.edits.hidden
            ]
            first = row.settings["places"][0]
            body = _body_at(parts, state, first["position"])
            if body is None:
                raise BadEdit("This fixture is in no lamp body: put it into one first, or mark its "
                              "part as a lamp body under Site.")  # fmt: skip
            found = alike(parts, body)
            if len(found) < 2:
                raise BadEdit(f"“{body.name}” is the only body of its kind.")
            places = [carried(first, motion) for _, motion in found]
            patch = {"settings": {"places": places}}
            edits.change(session, project_id, "source", source_id, patch,
                         f"{row.name} into all {len(found)} like it")  # fmt: skip
        return len(found)

    def bring(self, project_id: str, file: Path, name: str) -> tuple[int, list[str]]:
        """Lamps, cameras and suns of an open file become fixtures, views and looks, as one edit; returns how many,
        and what could not be taken over.

        Raises `ModelError` for a file that has none.
        """
        with tempfile.TemporaryDirectory() as folder:
            found = read_in_child("lights", file, name, Path(folder))
        cameras = found["cameras"]
        made = exchange.sources_of_lights(found["lights"])
        with self.store.editing(project_id) as session:
            north = live_project(session, project_id).north_deg
            old = rows_of(session, Look, project_id)
            base = look_state(old[0]) if old else first_look()
            looks, remarks = file_suns.looks_of(found["lights"], base, north)
            if not (made or cameras or looks):
                told = " ".join(
                    [f"“{name}” holds no lamps, suns or cameras that can be brought in.", *remarks]
                )
                raise ModelError(told)
            steps = []
            brought = (("source", made), ("view", exchange.views_of(cameras)), ("look", looks))
            for kind, rows in brought:
                after = len(rows_of(session, TABLES[kind], project_id))
                for n, (title, settings) in enumerate(rows):
                    state = {"project_id": project_id, "name": title, "position": after + n,
                             "settings": edits.validated(kind, settings)}  # fmt: skip
                    steps.append({"kind": kind, "id": new_id(), "before": None, "after": state})
            edits.record(session, project_id, f"Lights of {name}", steps)
        return len(made) + len(cameras) + len(looks), remarks


def _body_at(parts: Sequence[Part], state: ModelState, at: Sequence[float]) -> Part | None:
    """The smallest lamp body a place is in or just below."""
    p = np.asarray(at, float)
    best: tuple[float, Part] | None = None
    for part in parts:
        tag = state.edits.tags.get(part.name) or guessed_tag(part.name, part.mesh.materials)
        if tag != "lamp body" or not len(part.mesh.faces):
            continue
        low, high = part_bounds(part)
        if (p >= low - NEAR_BODY_M).all() and (p <= high + NEAR_BODY_M).all():
            size = float(np.prod(np.maximum(high - low, 0.01)))
            if best is None or size < best[0]:
                best = size, part
    return None if best is None else best[1]
