"""The building of a project: importing it, its plan, its parts and materials."""

from __future__ import annotations

import tempfile
import threading
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import asdict, replace
from pathlib import Path
from typing import Any

from sqlalchemy.orm import Session

from westlight import core
from westlight.core.analysis import Cutter, Plan
from westlight.core.analysis.plan import section_frame, shown_at_first, usual_cut
from westlight.core.errors import Cancelled
from westlight.core.model import Model as Building
from westlight.core.model import scaled, up_towards
from westlight.core.model.edit import own_name
from westlight.engine.reading import read_in_child
from westlight.engine.translate import placed_parts
from westlight.store import Look, Model, Source, Store
from westlight.store.rows import new_id

from . import checks, edits, exchange, file_suns, importing, inventory
from .errors import NotFound
from .rows import first_view, live_project, rows_of
from .settings import LookState, ModelState
from .shelves import Shelves

Point = tuple[float, float, float]


class Buildings:
    """Buildings as they are imported and read, the last ones kept in memory."""

    def __init__(self, store: Store, shelves: Shelves) -> None:
        self.store, self.shelves = store, shelves
        self._read: OrderedDict[str, Building] = OrderedDict()
        self._plans: dict[tuple[str, tuple[Any, ...]], tuple[Plan, dict[str, Any]]] = {}
        self._cutters: dict[str, Cutter] = {}
        self._lock = threading.RLock()

    def bring(
        self, project_id: str, file: Path, name: str, up: str = "y",
        stopped: Callable[[], bool] = lambda: False, wanted: str = "",
    ) -> dict[str, Any]:  # fmt: skip
        """Read a building (GLB, IFC, or a zip with glTF or OBJ and their files) into a project.

        The first building sets the first view. One that replaces another keeps what was edited, by
        name; what no longer matches is told in its remarks. Of a zip with several models nothing is read but
        their names (``choose``), until one is ``wanted``. Raises `ModelError`, and `Cancelled` when
        ``stopped`` turns true before it is in.
        """
        with tempfile.TemporaryDirectory() as folder:
            report = read_in_child("model", file, name, Path(folder), up, stopped, wanted)
            if "choose" in report:
                return report
            settings = self.kept(Path(folder), report)
        if wanted:
            name = f"{name} · {Path(wanted).name}"
        if stopped():
            raise Cancelled("The import was stopped; the project is as it was.")
        with self.store.editing(project_id) as session:
            live_project(session, project_id)
            steps = []
            old = rows_of(session, Model, project_id)
            if old:
                kept = ModelState.model_validate(old[0].settings)
                again = importing.carried_over(kept, ModelState.model_validate(settings),
                                               self.building(ModelState.model_validate(settings)))  # fmt: skip
                settings = again.model_dump(mode="json")
                report["remarks"] = again.remarks
            looks, told = self._suns(session, project_id, report["lights"])
            report["remarks"] = settings["remarks"] = [*settings["remarks"], *told]
            for row in old:
                steps.append({"kind": "model", "id": row.id, "before": edits.state_of("model", row),
                              "after": None})  # fmt: skip
            after = {"project_id": project_id, "name": name, "position": 0, "settings": settings}
            steps.append({"kind": "model", "id": new_id(), "before": None, "after": after})
            sources = rows_of(session, Source, project_id)
            known = {s.settings.get("material") for s in sources}
            glows = [g for g in report["glows"] if g not in known]
            steps += edits.glow_steps(project_id, glows, len(sources))
            for n, (lamp, made) in enumerate(exchange.sources_of_lights(report["lights"])):
                if lamp not in {s.name for s in sources}:
                    state = {"project_id": project_id, "name": lamp, "settings": made,
                             "position": len(sources) + len(report["glows"]) + n}  # fmt: skip
                    steps.append({"kind": "source", "id": new_id(), "before": None, "after": state})
            steps += looks
            if not old:
                # A building that replaces another is looked at from the same views.
                view = first_view(session, project_id)
                before = edits.state_of("view", view)
                look = self._as_made(session, project_id)
                standing, minutes = self._standing(session, project_id, report["standing"], look)
                (title, settings), *others = importing.views_of(report, standing)
                framed = {**before, "name": title or view.name, "settings": settings}
                steps.append({"kind": "view", "id": view.id, "before": before, "after": framed})
                for n, (title, settings) in enumerate(others):
                    state = {"project_id": project_id, "name": title, "settings": settings,
                             "position": view.position + 1 + n}  # fmt: skip
                    steps.append({"kind": "view", "id": new_id(), "before": None, "after": state})
                if standing is not None and look is not None:
                    steps += self._first_light(look, minutes)
            edits.record(session, project_id, f"Import {name}", steps)
        return report

    def _as_made(self, session: Session, project_id: str) -> Look | None:
        """The look of a project that has one, whatever of it was set already."""
        looks = rows_of(session, Look, project_id)
        return looks[0] if len(looks) == 1 else None

    def _suns(
        self, session: Session, project_id: str, lights: list[dict[str, Any]]
    ) -> tuple[list[edits.State], list[str]]:  # fmt: skip
        """Steps that make looks of the suns and the sky a building file brings along, but for names that are taken, and
        what could not be taken over."""
        rows = rows_of(session, Look, project_id)
        base = LookState.model_validate(rows[0].settings) if rows else importing.first_look()
        north = live_project(session, project_id).north_deg
        made, remarks = file_suns.looks_of(lights, base, north)
        known = {row.name for row in rows}
        return [
            {"kind": "look", "id": new_id(), "before": None,
             "after": {"project_id": project_id, "name": name, "settings": settings, "position": len(rows) + n}}
            for n, (name, settings) in enumerate(made) if name not in known
        ], remarks  # fmt: skip

    def _standing(
        self, session: Session, project_id: str, places: list[dict[str, Any]], look: Look | None
    ) -> tuple[dict[str, Any] | None, float | None]:
        """Where to stand in a new building, and the minutes of the day that let the sun in there."""
        project = live_project(session, project_id)
        state = importing.first_look() if look is None else LookState.model_validate(look.settings)
        place = project.latitude_deg, project.longitude_deg, project.time_zone
        return importing.first_standing(places, state, place, project.north_deg)

    def _first_light(self, row: Look, minutes: float | None) -> list[edits.State]:
        """The step that lets the sun into the first view of a room and exposes for it, as far as a look is as it was made."""
        look, new = LookState.model_validate(row.settings), importing.first_look()
        before = edits.state_of("look", row)
        settings = dict(before["settings"])
        untouched = (look.day, look.minutes, look.sun) == (new.day, new.minutes, new.sun)
        if untouched and minutes is not None:
            settings["minutes"] = minutes
        if look.exposure == new.exposure:
            over = {"compensation": importing.ROOM_COMPENSATION}
            settings["exposure"] = {**settings["exposure"], **over}
        if settings == before["settings"]:
            return []
        return [{"kind": "look", "id": row.id, "before": before,
                 "after": {**before, "settings": settings}}]  # fmt: skip

    def glows(self, session: Session, project_id: str, model: edits.State) -> list[edits.State]:
        """Steps that make a source of each material that the edits of a building make shine."""
        names = self._shining(ModelState.model_validate(model["settings"]))
        rows = rows_of(session, Source, project_id) if names else []
        known = {row.settings.get("material") for row in rows}
        return edits.glow_steps(project_id, [n for n in names if n not in known], len(rows))

    def _shining(self, state: ModelState) -> list[str]:
        """Materials that the edits of a building make shine, by name; those of light cards are theirs."""
        e = state.edits
        names = [n for n, m in e.materials.items() if m.emission_cd_m2]
        names += [a.name for a in e.additions if a.kind == "light card"]
        single = {n for n, m in e.own_materials.items() if m.emission_cd_m2}
        if single:
            parts = (p for p in self.building(state).parts if p.name in single)
            names += dict.fromkeys(own_name(m, p) for p in parts for m in p.mesh.materials)
        return names

    def turn_up(self, project_id: str, direction: tuple[float, float, float]) -> None:
        """Stand the building on another side: what shows in a direction of it now is up then."""
        with self.store.editing(project_id) as session:
            rows = rows_of(session, Model, project_id)
            if not rows:
                raise NotFound("There is no building to turn; import one first.")
            up = up_towards(ModelState.model_validate(rows[0].settings).up, direction)
            edits.change(session, project_id, "model", rows[0].id, {"settings": {"up": up}},
                         "Turn the building up")  # fmt: skip

    def kept(self, folder: Path, report: dict[str, Any]) -> dict[str, Any]:
        """Keep what the reader of buildings made of a file; returns the settings of its row."""
        asset, _ = self.shelves.keep_building(folder, report, "")
        fields = ("up", "triangles", "parts", "materials", "size_m", "remarks", "glows", "offset_m")
        state = ModelState(asset=asset, suffix=Path(report["file"]).suffix, cameras=len(report["cameras"]),
                           lamps=len(report["lights"]), **{f: report[f] for f in fields})  # fmt: skip
        return state.model_dump(mode="json")

    def building(self, state: ModelState) -> Building:
        """The building of settings as it was read, without the artist's changes."""
        with self._lock:
            key = f"{state.asset}{state.up}{state.scale}"
            if key not in self._read:
                path = self.shelves.assets.path(state.asset, state.suffix)
                self._read[key] = scaled(core.read_model(path, state.up, lazily=True), state.scale)
                while len(self._read) > 2:
                    self._read.popitem(last=False)
            return self._read[key]

    def _cutter(self, project_id: str) -> tuple[str, Cutter] | None:
        """Key and cutter of the project's building; None without one."""
        with self.store.session() as session:
            live_project(session, project_id)
            rows = rows_of(session, Model, project_id)
        if not rows:
            return None
        state = ModelState.model_validate(rows[0].settings)
        e = state.edits
        placed = e.model_dump_json(include={"moved", "copies"})
        key = f"{state.asset}{state.up}{state.scale}{placed}"
        with self._lock:
            if key not in self._cutters:
                self._cutters.clear()
                whole = self.building(state)
                self._cutters[key] = Cutter(replace(whole, parts=placed_parts(whole.parts, e)))
            return key, self._cutters[key]

    def plan(
        self, project_id: str, height_m: float | None = None, eye: Point = (0.0, 0.0, 0.0)
    ) -> dict[str, Any] | None:
        """The plan cut of the project's building, at the usual height for eyes at a point if none is given; None without a building."""
        found = self._cutter(project_id)
        usual = usual_cut(eye[2])
        height = usual if height_m is None else height_m
        return found and self._cut(found[0], ("plan", round(height, 2)),
                                   lambda: found[1].plan(height), usual, eye[:2])  # fmt: skip

    def section(
        self,
        project_id: str,
        through: tuple[float, float],
        looking_deg: float,
        eye: Point = (0.0, 0.0, 0.0),
    ) -> dict[str, Any] | None:
        """An upright cut of the project's building; None without one."""
        found = self._cutter(project_id)
        key = ("section", *(round(v, 2) for v in (*through, looking_deg)))
        right, up, _ = (section_frame(through, looking_deg) @ [*eye, 1.0])[:3].tolist()
        return found and self._cut(found[0], key, lambda: found[1].section(through, looking_deg),
                                   usual_cut(eye[2]), (right, up))  # fmt: skip

    def _cut(
        self,
        building: str,
        key: tuple[Any, ...],
        make: Callable[[], Plan],
        usual_m: float,
        eye: tuple[float, float],
    ) -> dict[str, Any]:
        """A cut as it is answered; what of it is shown at first depends on where the camera is."""
        with self._lock:
            if (building, key) not in self._plans:
                while len(self._plans) > 60:
                    self._plans.pop(next(iter(self._plans)))
                cut = make()
                self._plans[(building, key)] = cut, {
                    "height_m": cut.height_m, "low": cut.low, "high": cut.high,
                    **{name: [p.round(3).tolist() for p in getattr(cut, name)]
                       for name in ("filled", "open", "below")},
                }  # fmt: skip
            cut, drawn = self._plans[(building, key)]
        return {**drawn, "usual_m": usual_m, "shown": asdict(shown_at_first(cut, eye))}

    def parts(self, project_id: str) -> dict[str, Any]:
        """Parts and materials of the building, with the artist's changes and what is doubtful."""
        with self.store.session() as session:
            live_project(session, project_id)
            rows = rows_of(session, Model, project_id)
        if not rows:
            return {"parts": [], "materials": []}
        state = ModelState.model_validate(rows[0].settings)
        return inventory.described(self.building(state), state)

    def check(self, project_id: str) -> list[dict[str, Any]]:
        """What is doubtful about the building, each with a remedy in words."""
        with self.store.session() as session:
            live_project(session, project_id)
            rows = rows_of(session, Model, project_id)
            places = [p["position"] for s in rows_of(session, Source, project_id)
                      for p in s.settings.get("places", [])]  # fmt: skip
        if not rows:
            return []
        state = ModelState.model_validate(rows[0].settings)
        return checks.findings(self.building(state), state, places)
