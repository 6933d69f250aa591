"""What a project hands over: papers, lights for other programs, contact sheets and stills."""

from __future__ import annotations

import os
import tempfile
import zipfile
from collections.abc import Container, Mapping, Sequence
from datetime import date
from pathlib import Path
from typing import Any

from westlight.core.analysis import PatternMap
from westlight.engine.contact import ContactOrder
from westlight.engine.spec import Bounced, Speckles, ViewSettings
from westlight.engine.still import MixOrder, StillOrder, window_of
from westlight.store import Look, Model, Source, Store, View
from westlight.store.rows import new_id

from . import daylight, documents, exchange, fixtures, series, sheets, starts
from .buildings import Buildings
from .errors import BadEdit, NotFound
from .light_plan import light_plan_pdf
from .look_book import Leaf, look_book
from .rows import first_view, live_project, look_row, rows_of
from .scenes import Scenes
from .series import Series
from .settings import LookState, ModelState
from .shelves import Shelves
from .stills import NAMES, Stills

#: Sheets of suns, each with what tells the captions and settings of its pictures.
_SUNS = {"day": daylight.hours_of, "year": daylight.months_of, "kept": daylight.kept_of}


def free_name(wanted: str, taken: Container[str], before: str = " ", after: str = "") -> str:
    """A name that is not taken: with a number behind it if need be.

    >>> free_name("Night", {"Night", "Night 2"})
    'Night 3'
    """
    free, n = f"{wanted}{after}", 2
    while free in taken:
        free, n = f"{wanted}{before}{n}{after}", n + 1
    return free


def _where(latitude: float, longitude: float) -> str:
    """A place in words.

    >>> _where(43.6, -9.1)
    '43.60° N, 9.10° W'
    """
    return (f"{abs(latitude):.2f}° {'N' if latitude >= 0 else 'S'}, "
            f"{abs(longitude):.2f}° {'E' if longitude >= 0 else 'W'}")  # fmt: skip


class Handover:
    """Everything that leaves the house, over the queue of stills and the contact sheets."""

    def __init__(
        self, store: Store, shelves: Shelves, scenes: Scenes, buildings: Buildings, folder: Path
    ) -> None:
        self.store, self.shelves, self.scenes = store, shelves, scenes
        self.buildings = buildings
        self.sheets = sheets.Sheets(folder / "sheets")
        self.queue = Stills(store, shelves.assets, folder / "stills")

    def stills(self, project_id: str) -> list[dict[str, Any]]:
        """Stills of a project with their present progress, the newest first."""
        with self.store.session() as session:
            live_project(session, project_id)
            return self.queue.of_project(session, project_id)

    def schedule(self, project_id: str, look_id: str) -> list[dict[str, Any]]:
        """The light schedule of a look."""
        _, look = self.scenes.look(project_id, look_id)
        with self.store.session() as session:
            rows = [(r.id, r.name, r.settings) for r in rows_of(session, Source, project_id)]
        return fixtures.schedule(rows, look)

    def lights(self, project_id: str, look_id: str, view_id: str) -> bytes:
        """A zip with the lights of a look, its cameras and photometric files, in open formats."""
        spec = self.scenes.picture(project_id, look_id, view_id)
        with self.store.session() as session:
            name = live_project(session, project_id).name
            views = [(r.name, ViewSettings.model_validate(r.settings))
                     for r in rows_of(session, View, project_id)]  # fmt: skip
            models = [ModelState.model_validate(r.settings)
                      for r in rows_of(session, Model, project_id)]  # fmt: skip
            offset = (
                tuple(v * models[0].scale for v in models[0].offset_m) if models else (0.0,) * 3
            )
        table = fixtures.as_csv(self.schedule(project_id, look_id))
        return exchange.package(spec, views, table, name, offset)

    def schedule_pdf(self, project_id: str, look_id: str) -> bytes:
        """The light schedule of a look as PDF."""
        project, look = self._names(project_id, look_id)
        rows = self.schedule(project_id, look_id)
        words = self.scenes.described(project_id, look_id)
        return documents.schedule_pdf(project, look, rows, words)

    def light_plan_pdf(
        self, project_id: str, look_id: str, of: str, height_m: float, light: dict[str, Any]
    ) -> bytes:
        """The light of a room in a look as PDF; ``light`` is what the engine found of it."""
        project, look = self._names(project_id, look_id)
        words = self.scenes.described(project_id, look_id)
        cut = self.buildings.plan(project_id)
        return light_plan_pdf(project, look, of, height_m, light, cut, words)

    def sun_table(self, project_id: str, look_id: str) -> list[dict[str, str]]:
        """The sun of the year of a look at the site, a row for each month."""
        p, look = self.scenes.look(project_id, look_id)
        return documents.sun_rows(look.day, p.latitude_deg, p.longitude_deg, p.time_zone)

    def sun_pdf(self, project_id: str, look_id: str) -> bytes:
        """The sun table as PDF, with the hours of the day of a look."""
        p, look = self.scenes.look(project_id, look_id)
        return documents.sun_pdf(p.name, look.day, p.latitude_deg, p.longitude_deg, p.time_zone)

    def client_pdf(self, project_id: str, note: str = "") -> bytes:
        """A sheet of all finished stills for the client."""
        with self.store.session() as session:
            name = live_project(session, project_id).name
        stills = [
            (
                s["name"],
                f"{s['width_px']} px, {s['created_at'][:10]}. {s['described']}".strip(),
                path,
            )
            for s, path in self._finished(project_id)
        ]
        return documents.client_pdf(name, stills, note, date.today().isoformat())

    def look_book(self, project_id: str, note: str = "", chosen: Sequence[str] = ()) -> bytes:
        """One HTML page of finished stills, all or some, for the client; raises `BadEdit` for none."""
        with self.store.session() as session:
            p = live_project(session, project_id)
            notes = {r.name: r.settings.get("note", "") for r in rows_of(session, Look, project_id)}
            name, place = p.name, _where(p.latitude_deg, p.longitude_deg)
        leaves = []
        for s, path in self._finished(project_id):
            if not chosen or s["id"] in chosen:
                view, _, look = str(s["name"]).partition(", ")
                leaves.append(Leaf(s["name"], view, s["described"], notes.get(look, ""), path))
        return look_book(name, place, leaves, note, date.today().isoformat())

    def _finished(self, project_id: str) -> list[tuple[dict[str, Any], Path]]:
        """Stills that can be shown, the oldest first, each with a picture file."""
        found = []
        for s in reversed(self.stills(project_id)):
            shown = next((f for f in s["files"] if f["kind"] in ("png", "jpeg")), None)
            if s["status"] == "done" and shown is not None:
                found.append((s, self.shelves.any_file(shown["asset"])[0]))
        return found

    def stills_zip(self, project_id: str, chosen: Sequence[str] = (), series_id: str = "") -> Path:
        """A zip of the files of finished stills, all, some, or those of a series; raises `BadEdit` for none.

        The caller deletes the file. Equal names get a number, nothing is overwritten.
        """
        files = [
            f for s in (self._series(project_id, series_id) if series_id else self.stills(project_id))
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
                path, _, _ = self.shelves.any_file(f["asset"])
                title = Path(f["name"])
                free = free_name(title.stem, taken, "-", title.suffix)
                taken.add(free)
                packed.write(path, free)
        return Path(name)

    def _names(self, project_id: str, look_id: str) -> tuple[str, str]:
        with self.store.session() as session:
            return live_project(session, project_id).name, look_row(session, look_id).name

    def make_sheet(
        self, project_id: str, look_id: str, view_id: str, kind: str,
        pattern: PatternMap | None = None,
    ) -> dict[str, Any]:  # fmt: skip
        """Begin a contact sheet of a project: of what, see `_shots`; ``pattern`` is the map of the view for "start"."""
        title, shots = self._shots(project_id, look_id, view_id, kind, pattern)
        specs = [
            self.scenes.picture(
                project_id, s["look"], s["view"],
                {"look": s["settings"]} if s["settings"] else None, sheets.WIDTH,
            )
            for _, s in shots
        ]  # fmt: skip
        if specs and specs[0].model is None:
            raise BadEdit("There is no building to render; import one on the Site stage.")
        if not specs:
            raise BadEdit(
                "No sun is kept yet; find one and keep it." if kind == "kept"
                else "The sun does not rise on this day; choose another date."
            )  # fmt: skip
        order = ContactOrder(specs=specs, folder="", metered=kind in _SUNS)
        captions, takes = [c for c, _ in shots], [t for _, t in shots]
        return self.sheets.begin(project_id, title, order, captions, takes).describe()

    def _shots(
        self, project_id: str, look_id: str, view_id: str, kind: str, pattern: PatternMap | None
    ) -> tuple[str, list[tuple[str, dict[str, Any]]]]:
        """Title, and captions with what taking each picture means.

        "day", "year", "kept" suns of this view and look; "start", lights to begin with in this view, each a look of its own;
        "looks", "views", "all".
        """
        project, look, view, _, sources = self.scenes.shown(project_id, look_id, view_id)
        state = LookState.model_validate(look.settings)
        place = (project.latitude_deg, project.longitude_deg, project.time_zone)
        with self.store.session() as session:
            looks = [(r.id, r.name) for r in rows_of(session, Look, project_id)]
            views = [(r.id, r.name) for r in rows_of(session, View, project_id)]

        def take(of: str, seen: str, **more: Any) -> dict[str, Any]:
            return {"look": of, "view": seen, "settings": {}, **more}

        if kind in _SUNS:
            title = f"{project.name}: {view.name}, {look.name}"
            return title, [
                (c, take(look_id, view_id, settings=s)) for c, s in _SUNS[kind](state, *place)
            ]
        if kind == "start":
            taken = {n for _, n in looks}
            found = starts.starts_of(state, pattern, place, [s.id for s in sources])
            return f"{project.name}: {view.name}, lights to begin with", [
                (s.caption, take(look_id, view_id, settings=s.look.model_dump(mode="json"),
                                 name=free_name(s.name, taken)))
                for s in found
            ]  # fmt: skip
        if kind == "looks":
            return f"{project.name}: {view.name}", [(n, take(i, view_id)) for i, n in looks]
        if kind == "all":
            return f"{project.name}: all views and looks", [
                (f"{v}, {n}", take(i, j)) for j, v in views for i, n in looks
            ]
        return f"{project.name}: {look.name}", [(n, take(look_id, i)) for i, n in views]

    def order_still(
        self, project_id: str, look_id: str, view_id: str, *, width_px: int,
        names: str = NAMES, bounced: Bounced = "traced", speckles: Speckles = "left", **wanted: Any,
    ) -> str:  # fmt: skip
        """Queue a still of a look from a view; ``wanted`` are limits and files of `StillOrder`.

        ``names`` is the template of its file names, ``bounced`` how bounced light is found, ``speckles``
        whether a limit is set to single samples of it.
        """
        order, of = self._ordered(
            project_id, look_id, view_id, {}, width_px, bounced, speckles, wanted
        )
        return self.queue.order(project_id, f"{of['view']}, {of['look']}", order, names, of)

    def order_series(
        self, project_id: str, look_id: str, view_id: str, wished: Series, *, width_px: int,
        names: str = NAMES, bounced: Bounced = "traced", speckles: Speckles = "left", **wanted: Any,
    ) -> str:  # fmt: skip
        """Queue a series of stills, each like any other; returns its id. Arguments as of `order_still`.

        Their light is not kept: a series would fill the disk.
        """
        _, look, _, _, sources = self.scenes.shown(project_id, look_id, view_id)
        state = LookState.model_validate(look.settings)
        shots = series.varied(wished, state, [s.id for s in sources])
        made = [
            self._ordered(project_id, look_id, view_id, {"look": held}, width_px, bounced, speckles,
                          {**wanted, "keep": False})
            for _, held in shots
        ]  # fmt: skip
        series_id, names = new_id(), series.template(names)
        for n, ((told, _), (order, of)) in enumerate(zip(shots, made, strict=True), 1):
            title = f"{of['view']}, {of['look']}"
            part = {"id": series_id, "number": n, "count": len(shots), "name": title, "at": told}
            self.queue.order(project_id, f"{title} {told}", order, names,
                             {**of, "number": f"{n:0{series.FIGURES}}"}, part)  # fmt: skip
        return series_id

    def _ordered(
        self, project_id: str, look_id: str, view_id: str, held: dict[str, Any], width_px: int,
        bounced: Bounced, speckles: Speckles, wanted: Mapping[str, Any],
    ) -> tuple[StillOrder, dict[str, str]]:  # fmt: skip
        """An order, and the names that its files are called by."""
        spec = self.scenes.picture(project_id, look_id, view_id, held, width_px)
        if spec.model is None:
            raise BadEdit("There is no building to render; import one on the Site stage.")
        project, look, view, _, _ = self.scenes.shown(project_id, look_id, view_id)
        spec = spec.model_copy(update={"bounced": bounced, "speckles": speckles})
        of = {"project": project.name, "view": view.name, "look": look.name}
        return StillOrder(spec=spec, folder="", **wanted), of

    def act_on_series(self, project_id: str, series_id: str, act: str) -> None:
        """Do what can be done to a still ("cancel", "pause", "resume", "remove") to all of a series, the last first."""
        for s in self._series(project_id, series_id)[::-1]:
            getattr(self.queue, act)(s["id"])

    def moving(self, project_id: str, series_id: str) -> bytes:
        """The finished pictures of a series as an animated WebP; raises `BadEdit` for none."""
        wanted = {s["id"]: s["series"]["number"] for s in self._series(project_id, series_id)}
        found = [
            (wanted[s["id"]], path) for s, path in self._finished(project_id) if s["id"] in wanted
        ]
        return series.moving([path for _, path in sorted(found, key=lambda f: f[0])])

    def _series(self, project_id: str, series_id: str) -> list[dict[str, Any]]:
        """The stills of a series in their order; raises `NotFound`."""
        found = [
            s for s in self.stills(project_id) if s["series"] and s["series"]["id"] == series_id
        ]
        if not found:
            raise NotFound("This series of stills is no longer there.")
        return sorted(found, key=lambda s: int(s["series"]["number"]))

    def render_again(
        self, project_id: str, still_id: str, region: Sequence[float] | None, only: Sequence[str],
        noise: float, seconds: float,
    ) -> str:  # fmt: skip
        """Queue more passes for a region or some sources of a finished still, added to its light.

        Raises `BadEdit` if its light was not kept, or a source is not in it.
        """
        before, light = self.queue.light_of(still_id)
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
        name = self.queue.name_of(still_id)
        return self.queue.order(project_id, f"{name}, refined", order, "{view}-v{version}")

    def mix_still(self, project_id: str, still_id: str, look_id: str) -> str:
        """Queue a finished still again with the levels, exposure and finish a look has now."""
        order, light = self.queue.light_of(still_id)
        with self.store.session() as session:
            look, view = look_row(session, look_id), first_view(session, project_id)
            name, view_id = look.name, view.id
        spec = self.scenes.picture(project_id, look_id, view_id, width_px=order.spec.width_px)
        # The place and lens of the camera are those the light was rendered from.
        spec = spec.model_copy(update={"view": order.spec.view, "bounces": order.spec.bounces})
        wanted = order.model_dump(include=set(MixOrder.model_fields) - {"spec", "light"})
        mixed = MixOrder(spec=spec, light=light, **wanted)
        return self.queue.order(project_id, f"{name}, mixed again", mixed)
