"""Projects: which there are, made, copied, put aside; what the page shows of one; the room they take."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from sqlalchemy import func, select

from westlight.core.analysis import USUAL_RATIOS
from westlight.engine.spec import FixtureSettings, ViewSettings
from westlight.store import History, Look, Project, Store, View
from westlight.store.rows import now

from . import checks, daylight, edits, fixtures, importing, lamp_doubts, past, storage, whole
from .errors import BadEdit, NotFound
from .gazetteer import zone_at
from .last_pictures import LastPictures
from .rows import TABLES, live_project, rows_of
from .settings import LookState
from .shelves import Shelves
from .stills import Stills


class Projects:
    """All projects of this server."""

    def __init__(
        self, store: Store, shelves: Shelves, last_pictures: LastPictures, queue: Stills
    ) -> None:
        self.store, self.shelves = store, shelves
        self.last_pictures, self.queue = last_pictures, queue

    def all(self) -> list[dict[str, Any]]:
        """All projects, oldest first."""
        with self.store.session() as session:
            rows = session.scalars(
                select(Project).where(Project.removed_at.is_(None)).order_by(Project.created_at)
            ).all()
            changed = dict(
                session.execute(
                    select(History.project_id, func.max(History.created_at))
                    .group_by(History.project_id)
                ).all()
            )  # fmt: skip
            looks: dict[str, list[str]] = {}
            for project_id, name in session.execute(
                select(Look.project_id, Look.name).order_by(Look.position, Look.name)
            ):
                looks.setdefault(project_id, []).append(name)
            return [
                {"id": p.id, "name": p.name, "looks": looks.get(p.id, []),
                 "changed_at": changed.get(p.id, p.created_at).isoformat(),
                 "picture": self.last_pictures.newest(p.id)}
                for p in rows
            ]  # fmt: skip

    def put_aside(self, project_id: str) -> None:
        """Remove a project; it can be put back until its space is freed."""
        with self.store.editing(project_id) as session:
            live_project(session, project_id).removed_at = now()

    def put_back(self, project_id: str) -> None:
        """Bring back a project that was removed; raises `NotFound` once it is gone for good."""
        with self.store.editing(project_id) as session:
            project = session.get(Project, project_id)
            if project is None:
                raise NotFound("The space of this project was freed; it cannot be brought back.")
            project.removed_at = None

    def create(self, name: str, **place: Any) -> str:
        """A project with one view and one look, ready for a building."""
        if not name.strip():
            raise BadEdit("A project needs a name.")
        with self.store.session() as session:
            project = Project(name=name.strip(), **place)
            session.add(project)
            session.flush()
            if "longitude_deg" in place and "time_zone" not in place:
                project.time_zone = zone_at(project.latitude_deg, project.longitude_deg)
            view = ViewSettings().model_dump(mode="json")
            look = importing.first_look().model_dump(mode="json")
            session.add(View(project_id=project.id, name="View 1", settings=view))
            session.add(Look(project_id=project.id, name="Day", settings=look))
            return project.id

    def overview(self, project_id: str) -> dict[str, Any]:
        """Everything the browser shows of a project, stills with their present progress."""
        with self.store.session() as session:
            project = live_project(session, project_id)
            out: dict[str, Any] = {
                "id": project.id, "name": project.name, "latitude_deg": project.latitude_deg,
                "longitude_deg": project.longitude_deg, "time_zone": project.time_zone,
                "north_deg": project.north_deg, "units": checks.UNITS, "usual_ratios": USUAL_RATIOS,
            }  # fmt: skip
            for kind, table in TABLES.items():
                out[f"{kind}s"] = [
                    {"id": r.id, "name": r.name, "settings": r.settings}
                    for r in rows_of(session, table, project_id)
                ]
            place = project.latitude_deg, project.longitude_deg, project.time_zone
            for row in out["looks"]:
                row["sky"] = daylight.chip(LookState.model_validate(row["settings"]), *place)
            lamps = [r for r in out["sources"] if r["settings"]["kind"] == "fixture"]
            for row in out["sources"]:
                row["per_lumen"] = (
                    fixtures.per_lumen(row["settings"])
                    if row["settings"]["kind"] == "fixture" else None
                )  # fmt: skip
                row["doubts"] = []
            for row in lamps:
                of = FixtureSettings.model_validate(row["settings"])
                family = [r["settings"]["kelvin"] for r in lamps
                          if of.group and r is not row and r["settings"].get("group") == of.group
                          and r["settings"].get("colour") is None]  # fmt: skip
                row["doubts"] = lamp_doubts.doubts(of, row["per_lumen"], family)
            out["stills"] = self.queue.of_project(session, project_id)
            versions = past.versions(session, project_id)
            for row in out["looks"]:
                row["versions"] = versions.get(row["id"], [])
            return out | edits.next_steps(session, project_id)

    def export(self, project_id: str, target: Path) -> str:
        """Write a project as one file; returns its name."""
        return whole.export(self.shelves, self.last_pictures, project_id, target)

    def duplicate(self, project_id: str) -> str:
        """A copy of a project; returns its id."""
        return whole.duplicate(self.store, self.last_pictures, project_id)

    def bring(self, file: Path, name: str) -> str:
        """Open a project file as a new project; returns its id."""
        return whole.bring(self.shelves, self.last_pictures, file, name)

    def storage(self) -> dict[str, Any]:
        """What the files of all projects take, and what is free."""
        return storage.report(self.store, self.shelves.assets)

    def sweep(self) -> dict[str, Any]:
        """Let go of files nothing names any more; returns the report after it with the bytes freed."""
        for project in storage.forget_projects(self.store):
            self.last_pictures.forget(project)
        freed = storage.sweep(self.store, self.shelves.assets)
        return {**self.storage(), "freed": freed}
