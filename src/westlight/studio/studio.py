"""The studio itself: what can be asked and done with projects. The web door only forwards to it."""

from __future__ import annotations

import shutil
import tempfile
import threading
import zipfile
from collections import OrderedDict
from collections.abc import Sequence
from pathlib import Path
from typing import Any

import numpy as np
from sqlalchemy import select
from sqlalchemy.orm import Session

from westlight import core
from westlight.core.analysis import cut_plan
from westlight.core.errors import ModelError
from westlight.core.model import Model as Building
from westlight.engine.contact import ContactOrder
from westlight.engine.reading import read_safely
from westlight.engine.spec import GlowSettings, PictureSpec, ViewSettings
from westlight.engine.still import StillOrder
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
from westlight.store.rows import new_id

from . import building, daylight, demo, edits, fixtures, proofs, recipe, sheets, tables
from .errors import BadEdit, NotFound
from .photometry import put_on_shelf, shelf
from .settings import LookState, ModelState
from .skies import Skies
from .stills import Stills

#: Name of a new fixture by shape, and its distance from the surface in metres: a globe stands
#: clear of it, a flat lamp just off it.
SHAPES = {
    "rectangle": ("Panel", 0.03), "disc": ("Disc", 0.03), "sphere": ("Globe", 0.13),
    "tube": ("Tube", 0.05), "spot": ("Spot", 0.08), "photometric": ("Luminaire", 0.08),
}  # fmt: skip
#: Settings that fit a shape better than the defaults.
_USUAL: dict[str, dict[str, Any]] = {
    "tube": {"radius": 0.013, "lumen": 1800.0, "kelvin": 4000.0},
    "spot": {"radius": 0.03, "lumen": 900.0},
    "photometric": {"radius": 0.03},
}
TABLES: dict[str, Any] = {"model": Model, "view": View, "look": Look, "source": Source}


class Studio:
    """Projects and everything done to them."""

    def __init__(self, store: Store, folder: Path) -> None:
        self.store = store
        self.assets = AssetStore(folder / "assets")
        self.skies = Skies(store, self.assets, folder / "skies")
        self.sheets = sheets.Sheets(folder / "sheets")
        self.stills = Stills(store, self.assets, folder / "stills")
        self._buildings: OrderedDict[str, Building] = OrderedDict()
        self._plans: dict[tuple[str, float], dict[str, Any]] = {}
        self._lock = threading.Lock()
        self._rows_kept: tuple[Any, tuple[Project, Look, View, list[Model], list[Source]]] | None
        self._rows_kept = None

    # -- projects ------------------------------------------------------------------------------

    def projects(self) -> list[dict[str, Any]]:
        """All projects, oldest first."""
        with self.store.session() as session:
            rows = session.scalars(select(Project).order_by(Project.created_at)).all()
            return [{"id": p.id, "name": p.name} for p in rows]

    def create_project(self, name: str, **place: Any) -> str:
        """A project with one view and one look, ready for a building."""
        if not name.strip():
            raise BadEdit("A project needs a name.")
        with self.store.session() as session:
            project = Project(name=name.strip(), **place)
            session.add(project)
            session.flush()
            view = ViewSettings().model_dump(mode="json")
            look = LookState().model_dump(mode="json")
            session.add(View(project_id=project.id, name="View 1", settings=view))
            session.add(Look(project_id=project.id, name="Day", settings=look))
            return project.id

    def create_demo(self, folder: Path) -> str:
        """The demo project from the generator's files, unless it is there already."""
        for known in self.projects():
            if known["name"] == demo.NAME:
                return str(known["id"])
        building = self._model_state(folder / "saltmarsh.glb", "y")
        for file in sorted((folder / "photometry").glob("*.*")):
            self.add_photometry(file.read_bytes(), file.name)
        for file in sorted((folder / "skies").glob("*.exr")):
            self.skies.add(file, file.name)
        for file in sorted((folder / "tables").glob("*.cube")):
            self.add_table(file.read_bytes(), file.name)
        with self.store.session() as session:
            project = Project(name=demo.NAME, **demo.PLACE)
            session.add(project)
            session.flush()
            pid = project.id
            session.add(Model(project_id=pid, name="saltmarsh.glb", settings=building[0]))
            ids = {}
            for n, (name, settings) in enumerate(demo.fixtures(folder / "saltmarsh.json")):
                ids[name] = new_id()
                session.add(Source(id=ids[name], project_id=pid, name=name, position=n,
                                   settings=settings.model_dump(mode="json")))  # fmt: skip
            for n, (name, view) in enumerate(demo.views()):
                session.add(View(project_id=pid, name=name, position=n,
                                 settings=view.model_dump(mode="json")))  # fmt: skip
            for n, (name, look) in enumerate(demo.looks(ids)):
                session.add(Look(project_id=pid, name=name, position=n,
                                 settings=look.model_dump(mode="json")))  # fmt: skip
        return pid

    def overview(self, project_id: str) -> dict[str, Any]:
        """Everything the browser shows of a project, stills with their present progress."""
        with self.store.session() as session:
            project = self._project(session, project_id)
            out: dict[str, Any] = {
                "id": project.id, "name": project.name, "latitude_deg": project.latitude_deg,
                "longitude_deg": project.longitude_deg, "time_zone": project.time_zone,
                "north_deg": project.north_deg,
            }  # fmt: skip
            for kind, table in TABLES.items():
                out[f"{kind}s"] = [
                    {"id": r.id, "name": r.name, "settings": r.settings}
                    for r in self._rows(session, table, project_id)
                ]
            for row in out["sources"]:
                row["per_lumen"] = (
                    fixtures.per_lumen(row["settings"], self.assets)
                    if row["settings"]["kind"] == "fixture" else None
                )  # fmt: skip
            out["stills"] = [self._still(s) for s in session.scalars(
                select(Still).where(Still.project_id == project_id).order_by(Still.created_at.desc())
            )]  # fmt: skip
            entries = session.scalars(
                select(History).where(History.project_id == project_id).order_by(History.id)
            ).all()
            undoable = [e.label for e in entries if not e.undone]
            redoable = [e.label for e in entries if e.undone]
            out["undo"] = undoable[-1] if undoable else None
            out["redo"] = redoable[0] if redoable else None
            return out

    def _still(self, still: Still) -> dict[str, Any]:
        order = still.settings["order"]
        return {
            "id": still.id, "name": still.name, "status": still.status,
            "created_at": still.created_at.isoformat(), "width_px": order["spec"]["width_px"],
            "files": still.settings.get("files", []), "problem": still.settings.get("problem"),
            "progress": self.stills.progress.get(still.id),
        }  # fmt: skip

    def _project(self, session: Session, project_id: str) -> Project:
        project = session.get(Project, project_id)
        if project is None:
            raise NotFound("This project is no longer there.")
        return project

    def _rows(self, session: Session, table: Any, project_id: str) -> list[Any]:
        query = select(table).where(table.project_id == project_id)
        return list(session.scalars(query.order_by(table.position, table.name)))

    # -- edits ---------------------------------------------------------------------------------

    def change(
        self, project_id: str, kind: str, row_id: str, patch: dict[str, Any],
        label: str = "", gesture: str | None = None,
    ) -> None:  # fmt: skip
        """Lay a patch over a row, as one edit; a zone or place that cannot be is refused."""
        if kind == "project":
            daylight.zone(patch.get("time_zone", "UTC"))
            if not -90 <= patch.get("latitude_deg", 0.0) <= 90:
                raise BadEdit("Latitude must lie between −90° and 90°.")
            if not -180 <= patch.get("longitude_deg", 0.0) <= 180:
                raise BadEdit("Longitude must lie between −180° and 180°.")
        with self.store.session() as session:
            edits.change(session, project_id, kind, row_id, patch, label, gesture)

    def add(self, project_id: str, kind: str, name: str, settings: Any) -> str:
        """Add a view, look or source; returns its id."""
        row_id = new_id()
        with self.store.session() as session:
            self._project(session, project_id)
            edits.add(session, project_id, kind, row_id, name, settings)
        return row_id

    def place_fixture(
        self, project_id: str, shape: str, position: Sequence[float], normal: Sequence[float],
        photometry: str | None = None,
    ) -> str:  # fmt: skip
        """Add a fixture on a surface, a little off it, shining along its normal; returns its id.

        A photometric one takes flux and name from its file on the shelf.
        """
        if shape not in SHAPES:
            raise BadEdit(f"A fixture is one of {', '.join(SHAPES)}.")
        name, gap = SHAPES[shape]
        at = [round(p + n * gap, 4) for p, n in zip(position, normal, strict=True)]
        count = len(self.overview(project_id)["sources"])
        settings: dict[str, Any] = {
            "kind": "fixture", "shape": shape,
            "places": [{"position": at, "direction": list(normal)}],
            **_USUAL.get(shape, {}),
        }  # fmt: skip
        if shape == "photometric":
            found = next((c for c in self.photometry() if c["asset"] == photometry), None)
            if found is None:
                raise BadEdit("Choose a photometric file from the shelf first.")
            name = found["name"]
            settings |= {"photometry": photometry, "photometry_name": name,
                         "lumen": found["flux_lm"]}  # fmt: skip
        return self.add(project_id, "source", f"{name} {count + 1}", settings)

    def repeat_fixture(self, project_id: str, source_id: str, **grid: Any) -> None:
        """Make linked copies of a fixture in a grid, as one edit."""
        with self.store.session() as session:
            row = session.get(Source, source_id)
            if row is None or row.settings.get("kind") != "fixture":
                raise NotFound("This fixture is no longer there.")
            patch = {"settings": {"places": fixtures.repeated(row.settings, **grid)}}
            edits.change(session, project_id, "source", source_id, patch, f"Repeat {row.name}")

    def separate_fixture(self, project_id: str, source_id: str) -> None:
        """Make the linked copies of a fixture independent sources, as one edit."""
        with self.store.session() as session:
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
            for look in self._rows(session, Look, project_id):
                mix = look.settings.get("mix", {})
                if source_id in mix:
                    old = edits.state_of("look", look)
                    more = {s["id"]: mix[source_id] for s in steps}
                    new = {**old, "settings": {**look.settings, "mix": {**mix, **more}}}
                    steps.append({"kind": "look", "id": look.id, "before": old, "after": new})
            edits.record(session, project_id, f"Make {row.name} independent", steps)

    def schedule(self, project_id: str, look_id: str) -> list[dict[str, Any]]:
        """The light schedule of a look."""
        _, look = self._look(project_id, look_id, None)
        with self.store.session() as session:
            rows = [(r.id, r.name, r.settings) for r in self._rows(session, Source, project_id)]
        return fixtures.schedule(rows, look)

    def photometry(self) -> list[dict[str, Any]]:
        """Cards of the photometric files on the shelf."""
        return shelf(self.store, self.assets)

    def add_photometry(self, content: bytes, name: str) -> dict[str, Any]:
        """Put a photometric file on the shelf; raises `PhotometricError`."""
        return put_on_shelf(self.store, self.assets, content, name)

    def tables(self) -> list[dict[str, Any]]:
        """Film tables on the shelf."""
        return tables.shelf(self.store)

    def add_table(self, content: bytes, name: str) -> dict[str, Any]:
        """Put a film table on the shelf; raises `CubeError`."""
        return tables.put_on_shelf(self.store, self.assets, content, name)

    def remove(self, project_id: str, kind: str, row_id: str) -> None:
        """Remove a view, look or source."""
        with self.store.session() as session:
            edits.remove(session, project_id, kind, row_id)

    def undo(self, project_id: str) -> str | None:
        """Take back the last edit."""
        with self.store.session() as session:
            return edits.undo(session, project_id)

    def redo(self, project_id: str) -> str | None:
        """Do it again."""
        with self.store.session() as session:
            return edits.redo(session, project_id)

    # -- the building --------------------------------------------------------------------------

    def import_model(self, project_id: str, file: Path, name: str, up: str = "y") -> dict[str, Any]:
        """Read a building (GLB, or a zip with glTF or OBJ and their files) into a project.

        It replaces the project's model; the first view is set to see it. Raises `ModelError`.
        """
        with tempfile.TemporaryDirectory() as folder:
            if name.lower().endswith(".zip"):
                file = _unpacked(file, Path(folder))
            else:
                target = Path(folder) / Path(name).name
                shutil.copyfile(file, target)
                file = target
            settings, report = self._model_state(file, up)
        with self.store.session() as session:
            self._project(session, project_id)
            steps = []
            for row in self._rows(session, Model, project_id):
                steps.append({"kind": "model", "id": row.id, "before": edits.state_of("model", row),
                              "after": None})  # fmt: skip
            after = {"project_id": project_id, "name": name, "position": 0, "settings": settings}
            steps.append({"kind": "model", "id": new_id(), "before": None, "after": after})
            sources = self._rows(session, Source, project_id)
            known = {s.settings.get("material") for s in sources}
            for n, glow in enumerate(g for g in report["glows"] if g not in known):
                state = {"project_id": project_id, "name": glow, "position": len(sources) + n,
                         "settings": GlowSettings(material=glow).model_dump(mode="json")}  # fmt: skip
                steps.append({"kind": "source", "id": new_id(), "before": None, "after": state})
            view = self._rows(session, View, project_id)[0]
            before = edits.state_of("view", view)
            framed = {**before, "settings": _framing(report)}
            steps.append({"kind": "view", "id": view.id, "before": before, "after": framed})
            edits.record(session, project_id, f"Import {name}", steps)
        return report

    def _model_state(self, file: Path, up: str) -> tuple[dict[str, Any], dict[str, Any]]:
        report = read_safely(file, up)
        if file.suffix.lower() != ".glb":
            file = _packed(file, up)
            up = "y"
        asset_id = self.assets.put(file)
        with self.store.session() as session:
            if session.get(Asset, asset_id) is None:
                size = file.stat().st_size
                session.add(Asset(id=asset_id, name=file.name, media_type="model/gltf-binary",
                                  size_bytes=size))  # fmt: skip
        fields = ("triangles", "parts", "materials", "size_m", "remarks", "glows")
        state = ModelState(asset=asset_id, suffix=file.suffix.lower(), up=up,
                           **{f: report[f] for f in fields})  # fmt: skip
        return state.model_dump(mode="json"), report

    def _building(self, state: ModelState) -> Building:
        with self._lock:
            key = f"{state.asset}{state.up}"
            if key not in self._buildings:
                path = self.assets.path(state.asset, state.suffix)
                self._buildings[key] = core.read_model(path, state.up)
                while len(self._buildings) > 2:
                    self._buildings.popitem(last=False)
            return self._buildings[key]

    def plan(self, project_id: str, height_m: float = 1.2) -> dict[str, Any] | None:
        """The plan cut of the project's building; None without one."""
        with self.store.session() as session:
            rows = self._rows(session, Model, project_id)
        if not rows:
            return None
        state = ModelState.model_validate(rows[0].settings)
        key = (f"{state.asset}{state.up}", round(height_m, 3))
        if key not in self._plans:
            cut = cut_plan(self._building(state), height_m)
            self._plans[key] = {
                "height_m": cut.height_m, "low": cut.low, "high": cut.high,
                **{name: [p.round(3).tolist() for p in getattr(cut, name)]
                   for name in ("filled", "open", "below")},
            }  # fmt: skip
        return self._plans[key]

    def parts(self, project_id: str) -> dict[str, Any]:
        """Parts and materials of the building, with the artist's changes and what is doubtful."""
        with self.store.session() as session:
            rows = self._rows(session, Model, project_id)
        if not rows:
            return {"parts": [], "materials": []}
        state = ModelState.model_validate(rows[0].settings)
        return building.described(self._building(state), state)

    def _shown(
        self, project_id: str, look_id: str, view_id: str
    ) -> tuple[Project, Look, View, list[Model], list[Source]]:
        """Rows a picture is made from, kept until something is written: a hand that drags asks
        for them many times a second."""
        key = (self.store.version, project_id, look_id, view_id)
        if self._rows_kept is None or self._rows_kept[0] != key:
            with self.store.session() as session:
                project = self._project(session, project_id)
                look, view = session.get(Look, look_id), session.get(View, view_id)
                if look is None or view is None:
                    raise NotFound("This look or view is no longer there.")
                models = self._rows(session, Model, project_id)
                sources = self._rows(session, Source, project_id)
                session.expunge_all()
            self._rows_kept = (key, (project, look, view, models, sources))
        return self._rows_kept[1]

    # -- the picture ---------------------------------------------------------------------------

    def picture(
        self, project_id: str, look_id: str, view_id: str, held: dict[str, Any] | None = None,
        width_px: int = 1280,
    ) -> PictureSpec:  # fmt: skip
        """Spec of the picture; ``held`` overlays what the hand is moving: look, view, sources."""
        held = held or {}
        project, look, view, models, sources = self._shown(project_id, look_id, view_id)
        state = LookState.model_validate(
            edits.validated("look", edits.merged(look.settings, held.get("look", {})))
        )
        frame = edits.validated("view", edits.merged(view.settings, held.get("view", {})))
        patches = held.get("sources", {})
        sources = [
            Source(id=s.id, name=s.name, settings=edits.validated(
                "source", edits.merged(s.settings, patches[s.id])
            )) if s.id in patches else s
            for s in sources
        ]  # fmt: skip
        return recipe.picture_of(
            project, state, ViewSettings.model_validate(frame), models[0] if models else None,
            sources, self.assets, width_px,
        )  # fmt: skip

    def facts(
        self, project_id: str, look_id: str, held: dict[str, Any] | None = None
    ) -> dict[str, Any]:
        """Sun and sky of a look in numbers, with what the hand holds."""
        project, look = self._look(project_id, look_id, held)
        found = daylight.facts(look, project.latitude_deg, project.longitude_deg, project.time_zone)
        if look.sky.model == "hdri" and look.sky.hdri.asset and look.sky.hdri.lux is None:
            found["sky_lx"] = self.skies.card(look.sky.hdri.asset)["lux"]
        return found

    def stands(self, project_id: str, look_id: str) -> dict[str, Any] | None:
        """When the real sun stands where a look's free sun does."""
        p, look = self._look(project_id, look_id, None)
        return daylight.stands(look, p.latitude_deg, p.longitude_deg, p.time_zone)

    def with_real_suns(self, project_id: str, scored: dict[str, Any]) -> dict[str, Any]:
        """A pattern map with ``real``: whether the sun ever stands at a position at this site."""
        with self.store.session() as session:
            latitude = self._project(session, project_id).latitude_deg
        positions = list(zip(scored["azimuth_deg"], scored["elevation_deg"], strict=True))
        return {**scored, "real": core.sun.sun_reaches(positions, latitude).tolist()}

    def sun_times(self, project_id: str, look_id: str, aimed: dict[str, Any]) -> dict[str, Any]:
        """When the real sun stands in a region found by the engine, in the year of a look."""
        p, look = self._look(project_id, look_id, None)
        return daylight.times_of(aimed, look, p.latitude_deg, p.longitude_deg, p.time_zone)

    def chart(self, project_id: str, look_id: str) -> dict[str, Any]:
        """Sun paths and day band for the date of a look."""
        p, look = self._look(project_id, look_id, None)
        return daylight.chart(look.day, p.latitude_deg, p.longitude_deg, p.time_zone)

    def _look(
        self, project_id: str, look_id: str, held: dict[str, Any] | None
    ) -> tuple[Project, LookState]:
        with self.store.session() as session:
            project, look = self._project(session, project_id), session.get(Look, look_id)
            if look is None:
                raise NotFound("This look is no longer there.")
            session.expunge_all()
        settings = edits.merged(look.settings, (held or {}).get("look", {}))
        return project, LookState.model_validate(edits.validated("look", settings))

    def _recipe(self, project_id: str, look_id: str, view_id: str) -> dict[str, Any]:
        _, look, view, _, sources = self._shown(project_id, look_id, view_id)
        return proofs.recipe_of(look, view, sources)

    def keep_proof(
        self, project_id: str, look_id: str, view_id: str, picture: dict[str, Any]
    ) -> list[dict[str, Any]]:
        """Keep the present picture (from the engine) as a proof; returns all proofs."""
        recipe = self._recipe(project_id, look_id, view_id)
        with self.store.session() as session:
            count = len(proofs.listed(session, project_id))
            name = f"{count + 1}: {recipe['view']['name']}, {recipe['look']['name']}"
            proofs.keep(session, self.assets, project_id, name, recipe, picture)
            return proofs.listed(session, project_id)

    def proofs(self, project_id: str) -> list[dict[str, Any]]:
        """All proofs, newest first."""
        with self.store.session() as session:
            return proofs.listed(session, project_id)

    def note_proof(self, project_id: str, proof_id: str, note: str) -> None:
        """Write a note on a proof."""
        with self.store.session() as session:
            proofs.annotate(session, project_id, proof_id, note)

    def remove_proof(self, project_id: str, proof_id: str) -> None:
        """Throw a proof away."""
        with self.store.session() as session:
            proofs.remove(session, project_id, proof_id)

    def restore_proof(self, project_id: str, proof_id: str) -> dict[str, str]:
        """Bring the project back to a proof's recipe, as one edit."""
        with self.store.session() as session:
            return proofs.restore(session, project_id, proof_id)

    def proof_differences(
        self, project_id: str, proof_id: str, look_id: str, view_id: str
    ) -> list[str]:
        """What has changed from a proof to the present state."""
        now = self._recipe(project_id, look_id, view_id)
        with self.store.session() as session:
            proof = proofs.found(session, project_id, proof_id)
            return proofs.differences(proof.settings["recipe"], now)

    def proof_difference(self, project_id: str, proof_id: str, picture: dict[str, Any]) -> bytes:
        """PNG of the difference in stops from a proof to a present picture of the engine."""
        if not picture:
            raise BadEdit("There is no picture yet to compare.")
        with self.store.session() as session:
            files = proofs.found(session, project_id, proof_id).settings["files"]
        kept = np.load(self.assets.path(files["linear"], ".npy"))
        return proofs.difference_picture(kept, picture["linear"])

    def make_sheet(self, project_id: str, look_id: str, view_id: str, kind: str) -> dict[str, Any]:
        """Begin a contact sheet: "day", "year" (of this view and look), "looks" or "views"."""
        project, look, view, _, _ = self._shown(project_id, look_id, view_id)
        state = LookState.model_validate(look.settings)
        place = (project.latitude_deg, project.longitude_deg, project.time_zone)
        with self.store.session() as session:
            looks = [(r.id, r.name) for r in self._rows(session, Look, project_id)]
            views = [(r.id, r.name) for r in self._rows(session, View, project_id)]
        shots: list[tuple[str, str, str, dict[str, Any]]] = []
        if kind in ("day", "year"):
            times = (daylight.hours_of if kind == "day" else daylight.months_of)(state, *place)
            for caption, take in times:
                shots.append((caption, look_id, view_id, take))
            title = f"{project.name}: {view.name}, {look.name}"
        elif kind == "looks":
            shots = [(f"{v}, {n}", i, j, {}) for j, v in views for i, n in looks]
            title = f"{project.name}: all views and looks"
        else:
            shots = [(n, look_id, i, {}) for i, n in views]
            title = f"{project.name}: {look.name}"
        specs = [
            self.picture(project_id, i, j, {"look": take} if take else None, sheets.WIDTH)
            for _, i, j, take in shots
        ]
        if specs and specs[0].model is None:
            raise BadEdit("There is no building to render; import one on the Site stage.")
        if not specs:
            raise BadEdit("The sun does not rise on this day; choose another date.")
        order = ContactOrder(specs=specs, folder="", metered=kind in ("day", "year"))
        takes = [{"look": i, "view": j, "settings": take} for _, i, j, take in shots]
        return self.sheets.begin(project_id, title, order, [s[0] for s in shots], takes).describe()

    def order_still(
        self, project_id: str, look_id: str, view_id: str, *, width_px: int, **wanted: Any
    ) -> str:
        """Queue a still of a look from a view; ``wanted`` are limits and files of `StillOrder`."""
        spec = self.picture(project_id, look_id, view_id, width_px=width_px)
        if spec.model is None:
            raise BadEdit("There is no building to render; import one on the Site stage.")
        with self.store.session() as session:
            look, view = session.get(Look, look_id), session.get(View, view_id)
            assert look is not None
            assert view is not None
            name = f"{view.name}, {look.name}"
        order = StillOrder(spec=spec, folder="", **wanted)
        return self.stills.order(project_id, name, order)

    def asset_file(self, asset_id: str) -> tuple[Path, str, str]:
        """Path, name and media type of a stored file."""
        with self.store.session() as session:
            asset = session.get(Asset, asset_id)
            if asset is None:
                raise NotFound("This file is no longer there.")
            return self.assets.path(asset_id, Path(asset.name).suffix), asset.name, asset.media_type


def _unpacked(file: Path, folder: Path) -> Path:
    """The model inside a zip, unpacked with what belongs to it; raises `ModelError`."""
    try:
        with zipfile.ZipFile(file) as opened:
            entries = [e for e in opened.infolist() if not e.is_dir()]
            if sum(e.file_size for e in entries) > 4_000_000_000 or len(entries) > 20_000:
                raise ModelError("The zip unpacks to more than 4 GB; leave the surroundings out.")
            for entry in entries:
                # extract() keeps names inside the folder, whatever they say.
                opened.extract(entry, folder)
    except zipfile.BadZipFile as error:
        raise ModelError(
            f"“{file.name}” is not a zip file or is damaged; pack it again."
        ) from error
    for suffix in ("*.glb", "*.gltf", "*.obj"):
        found = sorted(p for p in folder.rglob(suffix) if not p.name.startswith("."))
        if found:
            return found[0]
    raise ModelError("The zip holds no GLB, glTF or OBJ file.")


def _packed(file: Path, up: str) -> Path:
    """A model of several files as one GLB, so that it is one asset."""
    from westlight.core.model.write import write_glb

    target = file.with_suffix(".glb")
    write_glb(core.read_model(file, up), target)
    return target


def _framing(report: dict[str, Any]) -> dict[str, Any]:
    """A view from the south-west that takes in a whole building, or the model's first camera."""
    low, high = report["low"], report["high"]
    middle = [(a + b) / 2 for a, b in zip(low, high, strict=True)]
    size = max(high[0] - low[0], high[1] - low[1], high[2] - low[2], 0.1)
    view = ViewSettings(
        position=(middle[0] - 0.9 * size, middle[1] - 1.1 * size, low[2] + max(1.6, 0.35 * size)),
        target=(middle[0], middle[1], middle[2]),
        focal_length_mm=28, upright=True,
    )  # fmt: skip
    if report["cameras"]:
        camera = report["cameras"][0]
        view = ViewSettings(position=camera["position"], target=camera["target"],
                            focal_length_mm=28, upright=False)  # fmt: skip
    return view.model_dump(mode="json")
