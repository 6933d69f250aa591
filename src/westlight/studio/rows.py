"""Rows of a project as every service finds them."""

from __future__ import annotations

from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from westlight.store import LightScene, Look, Model, Project, Source, View

from .errors import NotFound

#: Kinds of rows a project has, by the name an edit knows them by.
TABLES: dict[str, Any] = {
    "model": Model,
    "view": View,
    "look": Look,
    "source": Source,
    "scene": LightScene,
}


def live_project(session: Session, project_id: str) -> Project:
    """A project that was not removed; raises `NotFound`."""
    project = session.get(Project, project_id)
    if project is None or project.removed_at is not None:
        raise NotFound("This project is no longer there.")
    return project


def rows_of(session: Session, table: Any, project_id: str) -> list[Any]:
    """Rows of one kind in their order."""
    query = select(table).where(table.project_id == project_id)
    return list(session.scalars(query.order_by(table.position, table.name)))


def first_view(session: Session, project_id: str) -> View:
    """The first view of a project, which is there as long as the project; raises `NotFound`."""
    live_project(session, project_id)
    views: list[View] = rows_of(session, View, project_id)
    if not views:
        raise NotFound("This project has no view; add one first.")
    return views[0]


def look_row(session: Session, look_id: str) -> Look:
    """A look; raises `NotFound`."""
    look = session.get(Look, look_id)
    if look is None:
        raise NotFound("This look is no longer there.")
    return look


def fixture_row(session: Session, source_id: str) -> Source:
    """A source that is a fixture; raises `NotFound`."""
    row = session.get(Source, source_id)
    if row is None or row.settings.get("kind") != "fixture":
        raise NotFound("This fixture is no longer there.")
    return row
