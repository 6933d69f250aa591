"""Every edit of a project: made, taken back, done again."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from sqlalchemy.orm import Session

from westlight.store import Store
from westlight.store.rows import new_id

from . import daylight, edits, past
from .rows import live_project

#: What an edit of a row brings with it: further steps, from the session, the project and the row after it.
Follow = Callable[[Session, str, edits.State], list[edits.State]]


class History:
    """Edits under the lock of their project. ``follow`` tells by kind of row what an edit of it brings with it."""

    def __init__(self, store: Store, follow: dict[str, Follow]) -> None:
        self.store, self._follow = store, follow

    def change(
        self, project_id: str, kind: str, row_id: str, patch: dict[str, Any],
        label: str = "", gesture: str | None = None,
    ) -> None:  # fmt: skip
        """Lay a patch over a row, as one edit; a zone or place that cannot be is refused."""
        if kind == "project":
            daylight.zone(str(patch.get("time_zone", "UTC")))
        follow = self._follow.get(kind)
        with self.store.editing(project_id) as session:
            then = None if follow is None else lambda row: follow(session, project_id, row)
            edits.change(session, project_id, kind, row_id, patch, label, gesture, then)

    def add(self, project_id: str, kind: str, name: str, settings: Any) -> str:
        """Add a view, look or source; returns its id."""
        row_id = new_id()
        with self.store.editing(project_id) as session:
            live_project(session, project_id)
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

    def steps(self, project_id: str) -> list[dict[str, Any]]:
        """The last edits, newest first."""
        with self.store.session() as session:
            live_project(session, project_id)
            return past.steps(session, project_id)

    def go_to(self, project_id: str, step: int) -> str:
        """Undo or redo up to an edit (0: before the first); returns its label."""
        with self.store.editing(project_id) as session:
            return past.go_to(session, project_id, step)
