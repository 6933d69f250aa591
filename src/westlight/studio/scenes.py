"""From rows to what can be computed: the picture of a look from a view, and its daylight."""

from __future__ import annotations

import io
import math
from typing import Any

import numpy as np
from PIL import Image

from westlight import core
from westlight.engine.described import described
from westlight.engine.spec import PictureSpec, SkySettings, ViewSettings
from westlight.engine.translate import sky_of
from westlight.store import Look, Model, Project, Source, Store, View

from . import daylight, edits, recipe
from .errors import NotFound
from .rows import first_view, live_project, look_row, rows_of
from .settings import LookState
from .shelves import Shelves

#: Rows a picture is made from.
Shown = tuple[Project, Look, View, list[Model], list[Source]]


class Scenes:
    """Pictures and the sun and sky of looks."""

    def __init__(self, store: Store, shelves: Shelves) -> None:
        self.store, self.shelves = store, shelves
        self._rows_kept: tuple[Any, Shown] | None = None

    def shown(self, project_id: str, look_id: str, view_id: str) -> Shown:
        """Rows a picture is made from, kept until something is written: a hand that drags asks
        for them many times a second."""
        key = (self.store.version, project_id, look_id, view_id)
        if self._rows_kept is None or self._rows_kept[0] != key:
            with self.store.session() as session:
                project = live_project(session, project_id)
                look, view = session.get(Look, look_id), session.get(View, view_id)
                if look is None or view is None:
                    raise NotFound("This look or view is no longer there.")
                models = rows_of(session, Model, project_id)
                sources = rows_of(session, Source, project_id)
                session.expunge_all()
            self._rows_kept = (key, (project, look, view, models, sources))
        return self._rows_kept[1]

    def picture(
        self, project_id: str, look_id: str, view_id: str, held: dict[str, Any] | None = None,
        width_px: int = 1280,
    ) -> PictureSpec:  # fmt: skip
        """Spec of the picture; ``held`` overlays what the hand is moving: look, view, sources, model."""
        held = held or {}
        project, look, view, models, sources = self.shown(project_id, look_id, view_id)
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
        model = models[0] if models else None
        if model is not None and "model" in held:
            moved = edits.validated("model", edits.merged(model.settings, held["model"]))
            model = Model(id=model.id, name=model.name, settings=moved)
        return recipe.picture_of(
            project, state, ViewSettings.model_validate(frame), model, sources, width_px,
        )  # fmt: skip

    def facts(
        self, project_id: str, look_id: str, held: dict[str, Any] | None = None
    ) -> dict[str, Any]:
        """Sun and sky of a look in numbers, with what the hand holds."""
        project, look = self.look(project_id, look_id, held)
        place = project.latitude_deg, project.longitude_deg, project.time_zone
        return daylight.facts(look, *place, self._sky_lx(look, *place))

    def _sky_lx(self, look: LookState, *place: Any) -> float:
        """Lux of the sky of a look on open ground, as it is traced: with its horizon, town glow and moonlight."""
        hdri = look.sky.hdri
        if look.sky.model != "hdri" or hdri.asset is None:
            return sky_of(recipe.sky_settings(look, *place), 0.0).horizontal_illuminance()
        if hdri.lux is not None:
            return hdri.lux
        card = self.shelves.skies.card(hdri.asset)
        lux, baked = float(card["lux"]), card["sun"]
        if hdri.without_sun and baked is not None:
            lux -= baked["lux"] * math.sin(math.radians(max(baked["elevation_deg"], 0.0)))
        return max(lux, 0.0)

    def sky_pictures(self, project_id: str, look_id: str) -> bytes:
        """PNG of the skies a look could have in a row: clear, by hand, CIE 1 to 15, with its sun."""
        p, look = self.look(project_id, look_id)
        azimuth, elevation = daylight.sun_of(look, p.latitude_deg, p.longitude_deg, p.time_zone)
        placed = SkySettings(azimuth_deg=azimuth, elevation_deg=elevation,
                             **look.sky.model_dump(exclude={"portals", "closed"}))  # fmt: skip
        kinds: list[dict[str, Any]] = [{"model": "clear"}, {"model": "graded"}]
        kinds += [{"model": "cie", "cie_type": n} for n in range(1, 16)]
        skies = (sky_of(placed.model_copy(update=kind), 0.0) for kind in kinds)
        out = io.BytesIO()
        Image.fromarray(np.concatenate([core.sky.portrait(s) for s in skies], axis=1)).save(
            out, "png"
        )
        return out.getvalue()

    def described(self, project_id: str, look_id: str) -> str:
        """The light of a look in one sentence."""
        with self.store.session() as session:
            view = first_view(session, project_id).id
        return described(self.picture(project_id, look_id, view))

    def stands(self, project_id: str, look_id: str) -> dict[str, Any] | None:
        """When the real sun stands where a look's free sun does."""
        p, look = self.look(project_id, look_id)
        return daylight.stands(look, p.latitude_deg, p.longitude_deg, p.time_zone)

    def with_real_suns(self, project_id: str, scored: dict[str, Any]) -> dict[str, Any]:
        """A pattern map with ``real``: whether the sun ever stands at a position at this site."""
        with self.store.session() as session:
            latitude = live_project(session, project_id).latitude_deg
        positions = list(zip(scored["azimuth_deg"], scored["elevation_deg"], strict=True))
        return {**scored, "real": core.sun.sun_reaches(positions, latitude).tolist()}

    def sun_times(self, project_id: str, look_id: str, aimed: dict[str, Any]) -> dict[str, Any]:
        """When the real sun stands in a region found by the engine, in the year of a look."""
        p, look = self.look(project_id, look_id)
        return daylight.times_of(aimed, look, p.latitude_deg, p.longitude_deg, p.time_zone)

    def at_height(self, project_id: str, look_id: str, elevation: float) -> dict[str, float | None]:
        """Minutes of a look's day at which the sun rises and sinks through an elevation in degrees, if it does."""
        p, look = self.look(project_id, look_id)
        place = p.latitude_deg, p.longitude_deg, p.time_zone
        return {
            name: daylight.minutes_at(look.day, elevation, *place, evening=name == "evening")
            for name in ("morning", "evening")
        }

    def chart(self, project_id: str, look_id: str) -> dict[str, Any]:
        """Sun paths and day band for the date of a look."""
        p, look = self.look(project_id, look_id)
        return daylight.chart(look.day, p.latitude_deg, p.longitude_deg, p.time_zone)

    def look(
        self, project_id: str, look_id: str, held: dict[str, Any] | None = None
    ) -> tuple[Project, LookState]:
        """A project and the state of one of its looks, with what the hand holds."""
        with self.store.session() as session:
            project, look = live_project(session, project_id), look_row(session, look_id)
            session.expunge_all()
        settings = edits.merged(look.settings, (held or {}).get("look", {}))
        return project, LookState.model_validate(edits.validated("look", settings))
