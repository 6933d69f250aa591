"""The past of a project: the list of its edits to go to, and kept states of its looks."""

from __future__ import annotations

from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from westlight.store import History, LookVersion

from . import edits
from .errors import BadEdit, NotFound

#: Edits that are listed; older ones can still be undone one by one.
LISTED = 80


def steps(session: Session, project_id: str) -> list[dict[str, Any]]:
    """The last edits, newest first: id, label, when, and whether it is undone."""
    rows = session.scalars(
        select(History).where(History.project_id == project_id)
        .order_by(History.id.desc()).limit(LISTED)
    )  # fmt: skip
    return [
        {
            "id": h.id,
            "label": h.label,
            "at": h.created_at.isoformat(),
            "undone": h.undone,
            "by": h.by,
        }
        for h in rows
    ]


def go_to(session: Session, project_id: str, step: int) -> str:
    """Undo or redo until an edit is the last one that counts; returns its label.

    Step 0 is the state before the first edit.
    """
    label = "the beginning"
    if step:
        # A number the table cannot hold is no step either.
        wanted = session.get(History, step) if 0 < step < 2**31 else None
        if wanted is None or wanted.project_id != project_id:
            raise NotFound("This step is no longer in the history.")
        label = wanted.label
        while wanted.undone:
            edits.redo(session, project_id)
            session.flush()
    while (last := edits.last_done(session, project_id)) is not None and last.id > step:
        edits.undo(session, project_id)
        session.flush()
    return label


def versions(session: Session, project_id: str) -> dict[str, list[dict[str, Any]]]:
    """Kept states by look, newest first."""
    out: dict[str, list[dict[str, Any]]] = {}
    for v in session.scalars(
        select(LookVersion).where(LookVersion.project_id == project_id)
        .order_by(LookVersion.created_at.desc())
    ):  # fmt: skip
        out.setdefault(v.look_id, []).append(
            {"id": v.id, "name": v.name, "at": v.created_at.isoformat()}
        )
    return out


def keep(session: Session, project_id: str, look: Any, name: str) -> None:
    """Keep the present state of a look under a name."""
    if not name.strip():
        raise BadEdit("A version needs a name, such as “before the client's visit”.")
    session.add(
        LookVersion(
            project_id=project_id, look_id=look.id, name=name.strip(), settings=look.settings
        )
    )


def _version(session: Session, project_id: str, version_id: str) -> LookVersion:
    found = session.get(LookVersion, version_id)
    if found is None or found.project_id != project_id:
        raise NotFound("This version is no longer there.")
    return found


def restore(session: Session, project_id: str, version_id: str) -> None:
    """Give a look a kept state again, as one edit that can be undone."""
    version = _version(session, project_id, version_id)
    edits.replace(session, project_id, "look", version.look_id, version.settings,
                  f"Back to “{version.name}”")  # fmt: skip


def drop(session: Session, project_id: str, version_id: str) -> None:
    """Let a kept state go."""
    session.delete(_version(session, project_id, version_id))
