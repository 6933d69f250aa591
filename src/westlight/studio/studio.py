"""The studio itself: what can be asked and done with projects. The web door only forwards to it.

It is built up in layers: `projects` rows and edits, `scenes` pictures and daylight, `buildings` the
model; here fixtures, proofs, contact sheets and stills.
"""

from __future__ import annotations

import os
import tempfile
import zipfile
from collections.abc import Sequence
from datetime import date
from pathlib import Path
from typing import Any

import numpy as np

from westlight.core.errors import ModelError
from westlight.engine.contact import ContactOrder
from westlight.engine.readers import READERS
from westlight.engine.reading import read_in_child
from westlight.engine.spec import Bounced, Speckles, ViewSettings
from westlight.engine.still import MixOrder, StillOrder, window_of
from westlight.store import Look, Model, Project, Source, View
from westlight.store.rows import new_id

from . import daylight, demo, documents, edits, exchange, fixtures, proofs, sheets, storage, whole
from .errors import BadEdit, NotFound
from .lamps import Lamps
from .projects import TABLES
from .settings import LookState, ModelState
from .stills import NAMES


class Studio(Lamps):
    """Projects and everything done to them."""

    def create_demo(self, folder: Path) -> str:
        """The demo project from the generator's files, unless it is there already."""
        mark = self._folder / "demo-made"
        known = self.projects()
        if known and mark.is_file():
            # Renamed or removed, it does not come again.
            return mark.read_text()
        for there in known:
            if there["name"] == demo.NAME:
                mark.write_text(str(there["id"]))
                return str(there["id"])
        with tempfile.TemporaryDirectory() as scratch:
            report = READERS["model"].read(
                folder / "saltmarsh.glb", "saltmarsh.glb", Path(scratch), first=False
            )
            building = self._model_state(Path(scratch), report)
        files = sorted((folder / "photometry").glob("*.*"))
        cards = [self.add_photometry(file.read_bytes(), file.name) for file in files]
        shelf = {c["name"]: c["asset"] for c in cards}
        for file in sorted((folder / "skies").glob("*.exr")):
            self.skies.add(file, file.name)
        for file in sorted((folder / "backdrops").glob("*.jpg")):
            self.backdrops.add(file, file.name)
        for file in sorted((folder / "tables").glob("*.cube")):
            self.add_table(file.read_bytes(), file.name)
        for title, kept in demo.FINISHES.items():
            self.finishes.keep(title, LookState.model_validate({"finish": kept}))
        with self.store.session() as session:
            project = Project(name=demo.NAME, **demo.PLACE)
            session.add(project)
            session.flush()
            pid = project.id
            session.add(Model(project_id=pid, name="saltmarsh.glb", settings=building))
            ids = {}
            for n, (name, settings) in enumerate(demo.fixtures(folder / "saltmarsh.json", shelf)):
                ids[name] = new_id()
                session.add(Source(id=ids[name], project_id=pid, name=name, position=n,
                                   settings=settings.model_dump(mode="json")))  # fmt: skip
            for n, (name, view) in enumerate(demo.views()):
                session.add(View(project_id=pid, name=name, position=n,
                                 settings=view.model_dump(mode="json")))  # fmt: skip
            for n, (name, look) in enumerate(demo.looks(ids)):
                session.add(Look(project_id=pid, name=name, position=n,
                                 settings=look.model_dump(mode="json")))  # fmt: skip
        mark.write_text(pid)
        return pid

    def export_project(self, project_id: str, target: Path) -> str:
        """Write a project as one file; returns its name."""
        return whole.export(self, project_id, target)

    def duplicate_project(self, project_id: str) -> str:
        """A copy of a project; returns its id."""
        return whole.duplicate(self, project_id)

    def bring_project(self, file: Path, name: str) -> str:
        """Open a project file as a new project; returns its id."""
        return whole.bring(self, file, name)

    def schedule(self, project_id: str, look_id: str) -> list[dict[str, Any]]:
        """The light schedule of a look."""
        _, look = self._look(project_id, look_id, None)
        with self.store.session() as session:
            rows = [(r.id, r.name, r.settings) for r in self._rows(session, Source, project_id)]
        return fixtures.schedule(rows, look)

    def lights(self, project_id: str, look_id: str, view_id: str) -> bytes:
        """A zip with the lights of a look, its cameras and photometric files, in open formats."""
        spec = self.picture(project_id, look_id, view_id)
        with self.store.session() as session:
            name = self.live_project(session, project_id).name
            views = [(r.name, ViewSettings.model_validate(r.settings))
                     for r in self._rows(session, View, project_id)]  # fmt: skip
            models = [ModelState.model_validate(r.settings)
                      for r in self._rows(session, Model, project_id)]  # fmt: skip
            offset = (
                tuple(v * models[0].scale for v in models[0].offset_m) if models else (0.0,) * 3
            )
        table = fixtures.as_csv(self.schedule(project_id, look_id))
        return exchange.package(spec, views, table, name, offset)

    def bring_lights(self, project_id: str, file: Path, name: str) -> int:
        """Lamps and cameras of an open file become fixtures and views, as one edit; returns how many.

        Raises `ModelError` for a file that has none.
        """
        with tempfile.TemporaryDirectory() as folder:
            found = read_in_child("lights", file, name, Path(folder))
        cameras = found["cameras"]
        made = exchange.sources_of_lights(found["lights"])
        if not made and not cameras:
            raise ModelError(f"“{name}” holds no lamps or cameras that can be brought in.")
        with self.store.editing(project_id) as session:
            self.live_project(session, project_id)
            steps = []
            for kind, rows in (("source", made), ("view", exchange.views_of(cameras))):
                after = len(self._rows(session, TABLES[kind], project_id))
                for n, (title, settings) in enumerate(rows):
                    state = {"project_id": project_id, "name": title, "position": after + n,
                             "settings": edits.validated(kind, settings)}  # fmt: skip
                    steps.append({"kind": kind, "id": new_id(), "before": None, "after": state})
            edits.record(session, project_id, f"Lights of {name}", steps)
        return len(made) + len(cameras)

    def schedule_pdf(self, project_id: str, look_id: str) -> bytes:
        """The light schedule of a look as PDF."""
        project, look = self._names(project_id, look_id)
        return documents.schedule_pdf(project, look, self.schedule(project_id, look_id))

    def sun_table(self, project_id: str, look_id: str) -> list[dict[str, str]]:
        """The sun of the year of a look at the site, a row for each month."""
        p, look = self._look(project_id, look_id, None)
        return documents.sun_rows(look.day, p.latitude_deg, p.longitude_deg, p.time_zone)

    def sun_pdf(self, project_id: str, look_id: str) -> bytes:
        """The sun table as PDF, with the hours of the day of a look."""
        p, look = self._look(project_id, look_id, None)
        return documents.sun_pdf(p.name, look.day, p.latitude_deg, p.longitude_deg, p.time_zone)

    def client_pdf(self, project_id: str, note: str = "") -> bytes:
        """A sheet of all finished stills for the client."""
        rows = self.overview(project_id)
        stills = []
        for s in reversed(rows["stills"]):
            shown = next((f for f in s["files"] if f["kind"] in ("png", "jpeg")), None)
            if s["status"] == "done" and shown is not None:
                path, _, _ = self.asset_file(shown["asset"])
                stills.append((s["name"], f"{s['width_px']} px, {s['created_at'][:10]}", path))
        return documents.client_pdf(rows["name"], stills, note, date.today().isoformat())

    def stills_zip(self, project_id: str, chosen: Sequence[str] = ()) -> Path:
        """A zip of the files of finished stills, all or some; raises `BadEdit` for none.

        The caller deletes the file. Equal names get a number, nothing is overwritten.
        """
        files = [
            f for s in self.overview(project_id)["stills"]
            if s["status"] == "done" and (not chosen or s["id"] in chosen)
            for f in s["files"] if f["kind"] != "light"
        ]  # fmt: skip
        if not files:
            raise BadEdit("No still is finished yet; save one first.")
        handle, name = tempfile.mkstemp(suffix=".zip")
        taken: set[str] = set()
        with (
            os.fdopen(handle, "wb") as out,
            zipfile.ZipFile(out, "w", zipfile.ZIP_STORED) as packed,
        ):
            for f in files:
                path, _, _ = self.asset_file(f["asset"])
                title = f["name"]
                free, n = title, 2
                while free in taken:
                    free, n = f"{Path(title).stem}-{n}{Path(title).suffix}", n + 1
                taken.add(free)
                packed.write(path, free)
        return Path(name)

    def storage(self) -> dict[str, Any]:
        """What the files of all projects take, and what is free."""
        return storage.report(self.store, self.assets)

    def sweep_storage(self) -> dict[str, Any]:
        """Let go of files nothing names any more; returns the report after it with the bytes freed."""
        for project in storage.forget_projects(self.store):
            self.last_pictures.forget(project)
        freed = storage.sweep(self.store, self.assets)
        return {**self.storage(), "freed": freed}

    def _names(self, project_id: str, look_id: str) -> tuple[str, str]:
        with self.store.session() as session:
            project, look = self.live_project(session, project_id), session.get(Look, look_id)
            if look is None:
                raise NotFound("This look is no longer there.")
            return project.name, look.name

    def _recipe(self, project_id: str, look_id: str, view_id: str) -> dict[str, Any]:
        _, look, view, _, sources = self._shown(project_id, look_id, view_id)
        return proofs.recipe_of(look, view, sources)

    def keep_proof(
        self, project_id: str, look_id: str, view_id: str, picture: dict[str, Any]
    ) -> list[dict[str, Any]]:
        """Keep the present picture (from the engine) as a proof; returns all proofs."""
        recipe = self._recipe(project_id, look_id, view_id)
        with self.store.editing(project_id) as session:
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
        with self.store.editing(project_id) as session:
            proofs.annotate(session, project_id, proof_id, note)

    def remove_proof(self, project_id: str, proof_id: str) -> None:
        """Put a proof aside."""
        with self.store.editing(project_id) as session:
            proofs.remove(session, project_id, proof_id)

    def put_back_proof(self, project_id: str) -> list[dict[str, Any]]:
        """Bring back the proof that was removed last; returns all proofs."""
        with self.store.editing(project_id) as session:
            proofs.put_back(session, project_id)
            return proofs.listed(session, project_id)

    def restore_proof(self, project_id: str, proof_id: str) -> dict[str, str]:
        """Bring the project back to a proof's recipe, as one edit."""
        with self.store.editing(project_id) as session:
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
        """Begin a contact sheet: "day", "year", "kept" suns (of this view and look), "looks", "views", "all"."""
        project, look, view, _, _ = self._shown(project_id, look_id, view_id)
        state = LookState.model_validate(look.settings)
        place = (project.latitude_deg, project.longitude_deg, project.time_zone)
        with self.store.session() as session:
            looks = [(r.id, r.name) for r in self._rows(session, Look, project_id)]
            views = [(r.id, r.name) for r in self._rows(session, View, project_id)]
        shots: list[tuple[str, str, str, dict[str, Any]]] = []
        suns = {"day": daylight.hours_of, "year": daylight.months_of, "kept": daylight.kept_of}
        if kind in suns:
            for caption, take in suns[kind](state, *place):
                shots.append((caption, look_id, view_id, take))
            title = f"{project.name}: {view.name}, {look.name}"
        elif kind == "looks":
            shots = [(n, i, view_id, {}) for i, n in looks]
            title = f"{project.name}: {view.name}"
        elif kind == "all":
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
            raise BadEdit(
                "No sun is kept yet; find one and keep it." if kind == "kept"
                else "The sun does not rise on this day; choose another date."
            )  # fmt: skip
        order = ContactOrder(specs=specs, folder="", metered=kind in suns)
        takes = [{"look": i, "view": j, "settings": take} for _, i, j, take in shots]
        return self.sheets.begin(project_id, title, order, [s[0] for s in shots], takes).describe()

    def order_still(
        self, project_id: str, look_id: str, view_id: str, *, width_px: int,
        names: str = NAMES, bounced: Bounced = "traced", speckles: Speckles = "left", **wanted: Any,
    ) -> str:  # fmt: skip
        """Queue a still of a look from a view; ``wanted`` are limits and files of `StillOrder`.

        ``names`` is the template of its file names, ``bounced`` how bounced light is found, ``speckles``
        whether a limit is set to single samples of it.
        """
        spec = self.picture(project_id, look_id, view_id, width_px=width_px)
        if spec.model is None:
            raise BadEdit("There is no building to render; import one on the Site stage.")
        with self.store.session() as session:
            look, view = session.get(Look, look_id), session.get(View, view_id)
            assert look is not None
            assert view is not None
            of = {
                "project": self.live_project(session, project_id).name,
                "view": view.name,
                "look": look.name,
            }
        spec = spec.model_copy(update={"bounced": bounced, "speckles": speckles})
        order = StillOrder(spec=spec, folder="", **wanted)
        return self.stills.order(project_id, f"{of['view']}, {of['look']}", order, names, **of)

    def render_again(
        self, project_id: str, still_id: str, region: Sequence[float] | None, only: Sequence[str],
        noise: float, seconds: float,
    ) -> str:  # fmt: skip
        """Queue more passes for a region or some sources of a finished still, added to its light.

        Raises `BadEdit` if its light was not kept, or a source is not in it.
        """
        before, light = self.stills.light_of(still_id)
        # Numbers no pass of the still has had, so that the new ones are independent.
        seed = int.from_bytes(os.urandom(3), "little") + 2
        known = {s.id for s in before.spec.sources if s.counts}
        if not set(only) <= known:
            raise BadEdit("This source gives no light in that still.")
        order = StillOrder.model_validate(before.model_dump() | {
            "onto": light, "region": region, "only": list(only), "noise": noise,
            "seconds": seconds, "seed": seed, "keep": True,
        })  # fmt: skip
        window_of(order.region, order.spec.height_px, order.spec.width_px)
        name = self.stills.name_of(still_id)
        return self.stills.order(project_id, f"{name}, refined", order, "{view}-v{version}")

    def mix_still(self, project_id: str, still_id: str, look_id: str) -> str:
        """Queue a finished still again with the levels, exposure and finish a look has now."""
        order, light = self.stills.light_of(still_id)
        with self.store.session() as session:
            look, view = session.get(Look, look_id), self._rows(session, View, project_id)[0]
            if look is None:
                raise NotFound("This look is no longer there.")
            name, view_id = look.name, view.id
        spec = self.picture(project_id, look_id, view_id, width_px=order.spec.width_px)
        # The place and lens of the camera are those the light was rendered from.
        spec = spec.model_copy(update={"view": order.spec.view, "bounces": order.spec.bounces})
        wanted = order.model_dump(include=set(MixOrder.model_fields) - {"spec", "light"})
        mixed = MixOrder(spec=spec, light=light, **wanted)
        return self.stills.order(project_id, f"{name}, mixed again", mixed)
