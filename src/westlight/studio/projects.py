"""Projects, their rows and edits, and the shelves that all of them share."""

from __future__ import annotations

import tempfile
import threading
from collections import OrderedDict
from pathlib import Path
from typing import Any

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from westlight.core.analysis import USUAL_RATIOS, Cutter
from westlight.core.luminaires import read_photometric
from westlight.core.model import Model as Building
from westlight.engine.files import look_in
from westlight.engine.readers import READERS
from westlight.engine.reading import read_in_child
from westlight.engine.spec import FixtureSettings, ViewSettings
from westlight.store import (
    Asset,
    AssetStore,
    History,
    Look,
    Model,
    Project,
    Source,
    Still,
    Store,
    View,
)
from westlight.store.rows import new_id, now

from . import (
    checks,
    daylight,
    edits,
    fixtures,
    importing,
    lamp_doubts,
    past,
    photometry,
    sheets,
    tables,
)
from .backdrops import Backdrops
from .errors import BadEdit, NotFound
from .finishes import Finishes
from .gazetteer import zone_at
from .last_pictures import LastPictures
from .recipe import MOON_ID, SKY_ID, SUN_ID, look_state
from .settings import LookState, Mix, group_key
from .shelving import keep_asset
from .skies import Skies
from .stills import Stills
from .whites import Whites

TABLES: dict[str, Any] = {"model": Model, "view": View, "look": Look, "source": Source}


class Projects:
    """Rows of projects, every edit of them, and the shelves."""

    def __init__(self, store: Store, folder: Path) -> None:
        self.store, self._folder = store, folder
        self.assets = AssetStore(folder / "assets")
        look_in(self.assets.folder)
        self.skies = Skies(store, self.assets, folder / "skies")
        self.backdrops = Backdrops(store, self.assets, folder / "backdrops")
        self.finishes = Finishes(store, self.assets)
        self.whites = Whites(store, self.assets)
        self.sheets = sheets.Sheets(folder / "sheets")
        self.stills = Stills(store, self.assets, folder / "stills")
        self.last_pictures = LastPictures(folder / "pictures")
        self._buildings: OrderedDict[str, Building] = OrderedDict()
        self._plans: dict[tuple[str, tuple[Any, ...]], dict[str, Any]] = {}
        self._cutters: dict[str, Cutter] = {}
        self._lock = threading.RLock()
        self._rows_kept: tuple[Any, tuple[Project, Look, View, list[Model], list[Source]]] | None
        self._rows_kept = None

    def projects(self) -> list[dict[str, Any]]:
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

    def put_project_aside(self, project_id: str) -> None:
        """Remove a project; it can be put back until its space is freed."""
        with self.store.editing(project_id) as session:
            self.live_project(session, project_id).removed_at = now()

    def put_project_back(self, project_id: str) -> None:
        """Bring back a project that was removed; raises `NotFound` once it is gone for good."""
        with self.store.editing(project_id) as session:
            project = session.get(Project, project_id)
            if project is None:
                raise NotFound("The space of this project was freed; it cannot be brought back.")
            project.removed_at = None

    def create_project(self, name: str, **place: Any) -> str:
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
            project = self.live_project(session, project_id)
            out: dict[str, Any] = {
                "id": project.id, "name": project.name, "latitude_deg": project.latitude_deg,
                "longitude_deg": project.longitude_deg, "time_zone": project.time_zone,
                "north_deg": project.north_deg, "units": checks.UNITS, "usual_ratios": USUAL_RATIOS,
            }  # fmt: skip
            for kind, table in TABLES.items():
                out[f"{kind}s"] = [
                    {"id": r.id, "name": r.name, "settings": r.settings}
                    for r in self._rows(session, table, project_id)
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
            out["stills"] = self._stills_of(session, project_id)
            versions = past.versions(session, project_id)
            for row in out["looks"]:
                row["versions"] = versions.get(row["id"], [])
            return out | edits.next_steps(session, project_id)

    def stills_of(self, project_id: str) -> list[dict[str, Any]]:
        """Stills of a project with their present progress, the newest first."""
        with self.store.session() as session:
            self.live_project(session, project_id)
            return self._stills_of(session, project_id)

    def _stills_of(self, session: Session, project_id: str) -> list[dict[str, Any]]:
        of = select(Still).where(Still.project_id == project_id)
        return [self._still(s) for s in session.scalars(of.order_by(Still.created_at.desc()))]

    def _still(self, still: Still) -> dict[str, Any]:
        order = still.settings["order"]
        return {
            "id": still.id, "name": still.name, "status": still.status,
            "created_at": still.created_at.isoformat(), "width_px": order["spec"]["width_px"],
            "files": still.settings.get("files", []), "problem": still.settings.get("problem"),
            "progress": self.stills.progress.get(still.id),
            "sums_differ": still.settings.get("sums_differ"),
            "sources": {s["id"]: s["name"] for s in order["spec"]["sources"] if s["counts"]},
            "remark": still.settings.get("remark"), "curve": still.settings.get("curve") or [],
            "seen": still.settings["order"].get("noise", 1.0) is None,
        }  # fmt: skip

    def keep_model(
        self, folder: Path, report: dict[str, Any], suffix: str
    ) -> tuple[str, dict[str, Any]]:
        """Keep a building that was read; returns its file's id, and settings that changed if it was converted."""
        kept = folder / report["file"]
        asset = keep_asset(self.store, self.assets, kept, "building", "model/gltf-binary")
        return asset, {} if kept.suffix == suffix else {"suffix": kept.suffix, "up": report["up"]}

    def live_project(self, session: Session, project_id: str) -> Project:
        """A project that was not removed; raises `NotFound`."""
        project = session.get(Project, project_id)
        if project is None or project.removed_at is not None:
            raise NotFound("This project is no longer there.")
        return project

    def _rows(self, session: Session, table: Any, project_id: str) -> list[Any]:
        query = select(table).where(table.project_id == project_id)
        return list(session.scalars(query.order_by(table.position, table.name)))

    def change(
        self, project_id: str, kind: str, row_id: str, patch: dict[str, Any],
        label: str = "", gesture: str | None = None,
    ) -> None:  # fmt: skip
        """Lay a patch over a row, as one edit; a zone or place that cannot be is refused."""
        if kind == "project":
            daylight.zone(str(patch.get("time_zone", "UTC")))
        with self.store.editing(project_id) as session:
            edits.change(session, project_id, kind, row_id, patch, label, gesture)

    def add(self, project_id: str, kind: str, name: str, settings: Any) -> str:
        """Add a view, look or source; returns its id."""
        row_id = new_id()
        with self.store.editing(project_id) as session:
            self.live_project(session, project_id)
            edits.add(session, project_id, kind, row_id, name, settings)
        return row_id

    def remove(self, project_id: str, kind: str, row_id: str) -> None:
        """Remove a view, look or source."""
        with self.store.editing(project_id) as session:
            edits.remove(session, project_id, kind, row_id)

    def undo(self, project_id: str) -> str | None:
        """Take back the last edit."""
        with self.store.editing(project_id) as session:
            return edits.undo(session, project_id)

    def redo(self, project_id: str) -> str | None:
        """Do it again."""
        with self.store.editing(project_id) as session:
            return edits.redo(session, project_id)

    def history(self, project_id: str) -> list[dict[str, Any]]:
        """The last edits, newest first."""
        with self.store.session() as session:
            return past.steps(session, project_id)

    def go_to(self, project_id: str, step: int) -> str:
        """Undo or redo up to an edit (0: before the first); returns its label."""
        with self.store.editing(project_id) as session:
            return past.go_to(session, project_id, step)

    def keep_version(self, project_id: str, look_id: str, name: str) -> None:
        """Keep the present state of a look under a name."""
        with self.store.editing(project_id) as session:
            past.keep(session, project_id, self._look_row(session, look_id), name)

    def take_look(self, project_id: str, look_id: str, other_id: str) -> None:
        """Give a look everything of another one but its note, as one edit."""
        with self.store.editing(project_id) as session:
            mine, other = (self._look_row(session, i) for i in (look_id, other_id))
            if project_id not in (mine.project_id, other.project_id) or (
                mine.project_id != other.project_id
            ):
                raise NotFound("This look belongs to another project.")
            settings = {**other.settings, "note": mine.settings.get("note", ""), "locked": False}
            edits.replace(session, project_id, "look", look_id, settings,
                          f"All of {other.name} for {mine.name}")  # fmt: skip

    def restore_version(self, project_id: str, version_id: str) -> None:
        """Give a look a kept state again; can be undone."""
        with self.store.editing(project_id) as session:
            past.restore(session, project_id, version_id)

    def drop_version(self, project_id: str, version_id: str) -> None:
        """Let a kept state go."""
        with self.store.editing(project_id) as session:
            past.drop(session, project_id, version_id)

    def photometry(self) -> list[dict[str, Any]]:
        """Cards of the photometric files on the shelf."""
        return photometry.shelf(self.store, self.assets)

    def bring(self, kind: str, file: Path, name: str) -> dict[str, Any]:
        """Put a file from outside on its shelf (`engine.readers`): it is read in a child with limits."""
        with tempfile.TemporaryDirectory() as folder:
            return self.keep_read(kind, read_in_child(kind, file, name, Path(folder)), Path(folder))

    def put(self, kind: str, content: bytes, name: str) -> dict[str, Any]:
        """Put a file of our own making on its shelf; raises what its reader raises."""
        with tempfile.TemporaryDirectory() as folder:
            file = Path(folder) / "given"
            file.write_bytes(content)
            return self.keep_read(kind, READERS[kind].read(file, name, Path(folder)), Path(folder))

    def keep_read(self, kind: str, report: dict[str, Any], folder: Path) -> dict[str, Any]:
        """Put what a reader made of a file on the shelf of its kind; returns its card."""
        if kind == "sky":
            return self.skies.keep(report, folder)
        if kind.endswith("backdrop"):
            return self.backdrops.keep(report, folder)
        shelf = photometry if kind == "photometry" else tables
        return shelf.keep(self.store, self.assets, report, folder)

    def add_photometry(self, content: bytes, name: str) -> dict[str, Any]:
        """Put a photometric file on the shelf; raises `PhotometricError`."""
        return self.put("photometry", content, name)

    def _photometric_file(self, asset: str) -> Path:
        with self.store.session() as session:
            row = session.get(Asset, asset)
            if row is None or row.media_type != photometry.MEDIA_TYPE:
                raise NotFound("This photometric file is no longer on the shelf.")
        return self.assets.path(asset, ".ies")

    def photometric_wall(self, asset: str) -> Path:
        """Picture of a wall lit by a file of the shelf."""
        return photometry.wall_picture(self._photometric_file(asset), self._folder / "walls")

    def photometric_file(self, asset: str) -> Path:
        """A file of the shelf as LM-63."""
        return self._photometric_file(asset)

    def copy_photometry(self, asset: str, name: str, **changes: Any) -> dict[str, Any]:
        """Put an edited copy of a file on the shelf: ``scale``, ``turn_deg``, ``symmetrise``."""
        d = read_photometric(self._photometric_file(asset))
        return self.add_photometry(photometry.copied(d, name, **changes), f"{name}.ies")

    def shift_lamps(self, project_id: str, look_id: str, step: float) -> None:
        """Levels of all sources of the building by a step in stops, within what a level can be."""
        with self.store.session() as session:
            look = self._look_row(session, look_id)
            ids = [row.id for row in self._rows(session, Source, project_id)]
            mix = look_state(look).mix
        levels = {i: {"level": max(-8.0, min(8.0, mix.get(i, Mix()).level + step))} for i in ids}
        self.change(project_id, "look", look_id, {"settings": {"mix": levels}},
                    f"All lamps {step:+.2g} EV")  # fmt: skip

    def copy_levels(
        self, project_id: str, look_id: str, from_id: str, source_id: str | None = None
    ) -> None:
        """Levels, mute and solo of another look: of all sources, or of one."""
        with self.store.session() as session:
            other = self._look_row(session, from_id)
            ids = [
                SUN_ID,
                SKY_ID,
                MOON_ID,
                *(k for k in look_state(other).mix if k.startswith(group_key(""))),
                *(r.id for r in self._rows(session, Source, project_id)),
            ]
            mix, name = look_state(other).mix, other.name
        wanted = ids if source_id is None else [i for i in ids if i == source_id]
        taken = {i: mix.get(i, Mix()).model_dump() for i in wanted}
        self.change(project_id, "look", look_id, {"settings": {"mix": taken}}, f"Levels of {name}")

    @staticmethod
    def _look_row(session: Session, look_id: str) -> Look:
        look = session.get(Look, look_id)
        if look is None:
            raise NotFound("This look is no longer there.")
        return look

    def keep_finish(self, look_id: str, name: str) -> None:
        """Keep the finish of a look under a name."""
        with self.store.session() as session:
            state = look_state(self._look_row(session, look_id))
        self.finishes.keep(name, state)

    def tables(self) -> list[dict[str, Any]]:
        """Film tables on the shelf."""
        return tables.shelf(self.store)

    def add_table(self, content: bytes, name: str) -> dict[str, Any]:
        """Put a film table on the shelf; raises `CubeError`."""
        return self.put("table", content, name)

    def asset_file(self, asset_id: str) -> tuple[Path, str, str]:
        """Path, name and media type of a stored file."""
        with self.store.session() as session:
            asset = session.get(Asset, asset_id)
            if asset is None:
                raise NotFound("This file is no longer there.")
            return self.assets.path(asset_id, Path(asset.name).suffix), asset.name, asset.media_type
