"""Looks as a whole: kept versions, what one takes from another, and their sky pictures' suns."""

from __future__ import annotations

from westlight.engine.translate import sky_picture
from westlight.store import Source, Store

from . import daylight, edits, past, picture_sun
from .errors import BadEdit, NotFound
from .history import History
from .recipe import MOON_ID, SKY_ID, SUN_ID, look_state
from .rows import look_row, rows_of
from .scenes import Scenes
from .settings import Mix, group_key
from .shelves import Shelves


class Looks:
    """What is done to looks, each as one edit."""

    def __init__(self, store: Store, history: History, scenes: Scenes, shelves: Shelves) -> None:
        self.store, self.history, self.scenes, self.shelves = store, history, scenes, shelves

    def keep_version(self, project_id: str, look_id: str, name: str) -> None:
        """Keep the present state of a look under a name."""
        with self.store.editing(project_id) as session:
            past.keep(session, project_id, look_row(session, look_id), name)

    def restore_version(self, project_id: str, version_id: str) -> None:
        """Give a look a kept state again; can be undone."""
        with self.store.editing(project_id) as session:
            past.restore(session, project_id, version_id)

    def drop_version(self, project_id: str, version_id: str) -> None:
        """Let a kept state go."""
        with self.store.editing(project_id) as session:
            past.drop(session, project_id, version_id)

    def take(self, project_id: str, look_id: str, other_id: str) -> None:
        """Give a look everything of another one but its note, as one edit."""
        with self.store.editing(project_id) as session:
            mine, other = (look_row(session, i) for i in (look_id, other_id))
            if project_id not in (mine.project_id, other.project_id) or (
                mine.project_id != other.project_id
            ):
                raise NotFound("This look belongs to another project.")
            settings = {**other.settings, "note": mine.settings.get("note", ""), "locked": False}
            edits.replace(session, project_id, "look", look_id, settings,
                          f"All of {other.name} for {mine.name}")  # fmt: skip

    def shift_levels(self, project_id: str, look_id: str, step: float) -> None:
        """Levels of all sources of the building by a step in stops, within what a level can be."""
        with self.store.session() as session:
            look = look_row(session, look_id)
            ids = [row.id for row in rows_of(session, Source, project_id)]
            mix = look_state(look).mix
        levels = {i: {"level": max(-8.0, min(8.0, mix.get(i, Mix()).level + step))} for i in ids}
        self.history.change(project_id, "look", look_id, {"settings": {"mix": levels}},
                            f"All lamps {step:+.2g} EV")  # fmt: skip

    def copy_levels(
        self, project_id: str, look_id: str, from_id: str, source_id: str | None = None
    ) -> None:
        """Levels, mute and solo of another look: of all sources, or of one."""
        with self.store.session() as session:
            other = look_row(session, from_id)
            ids = [
                SUN_ID,
                SKY_ID,
                MOON_ID,
                *(k for k in look_state(other).mix if k.startswith(group_key(""))),
                *(r.id for r in rows_of(session, Source, project_id)),
            ]
            mix, name = look_state(other).mix, other.name
        wanted = ids if source_id is None else [i for i in ids if i == source_id]
        taken = {i: mix.get(i, Mix()).model_dump() for i in wanted}
        patch = {"settings": {"mix": taken}}
        self.history.change(project_id, "look", look_id, patch, f"Levels of {name}")

    def keep_finish(self, look_id: str, name: str) -> None:
        """Keep the finish of a look under a name."""
        with self.store.session() as session:
            state = look_state(look_row(session, look_id))
        self.shelves.finishes.keep(name, state)

    def picture_sun(self, project_id: str, look_id: str, act: picture_sun.Act) -> None:
        """Swap the sun of a look's sky picture, or bring picture and sun into line, as one edit."""
        p, look = self.scenes.look(project_id, look_id)
        if look.sky.model != "hdri" or look.sky.hdri.asset is None:
            raise BadEdit("Choose a sky picture from the shelf first.")
        whole = sky_picture(look.sky.hdri.asset)
        sun = daylight.sun_of(look, p.latitude_deg, p.longitude_deg, p.time_zone)
        settings, label = picture_sun.patch_of(act, look, whole, sun)
        self.history.change(project_id, "look", look_id, {"settings": settings}, label)
