"""Edits: each is one transaction and one history entry, so everything can be undone.

A row's state is a plain dict of its editable columns. History keeps the states before and after,
which makes undo and redo the same few lines for every kind of edit.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from pydantic import BaseModel, TypeAdapter, ValidationError
from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from westlight.engine.spec import GlowSettings, SourceSettings, ViewSettings
from westlight.store import (
    AUTHOR,
    History,
    LightScene,
    Look,
    Model,
    Project,
    Source,
    View,
    require_lock,
)
from westlight.store.rows import new_id

from .errors import BadEdit, NotFound
from .settings import LookState, ModelState, ProjectState, SceneState

State = dict[str, Any]
#: Letters of a name at most.
MOST_LETTERS = 200
#: Last place of a row in its list that a column holds.
_LAST_PLACE = 2**31 - 1
KINDS: dict[str, Any] = {
    "project": Project, "model": Model, "view": View, "look": Look, "source": Source,
    "scene": LightScene,
}  # fmt: skip
_ADAPTERS: dict[str, TypeAdapter[Any]] = {
    "project": TypeAdapter(ProjectState),
    "model": TypeAdapter(ModelState),
    "view": TypeAdapter(ViewSettings),
    "look": TypeAdapter(LookState),
    "source": TypeAdapter(SourceSettings),
    "scene": TypeAdapter(SceneState),
}
_PROJECT_COLUMNS = ("name", "latitude_deg", "longitude_deg", "time_zone", "north_deg")
_ROW_COLUMNS = ("project_id", "name", "position", "settings")


def merged(old: Any, patch: Any) -> Any:
    """``patch`` laid over ``old``: dicts member by member, everything else replaced."""
    if isinstance(old, dict) and isinstance(patch, dict):
        return {**old, **{k: merged(old.get(k), v) for k, v in patch.items()}}
    return patch


def validated(kind: str, settings: Any) -> dict[str, Any]:
    """Settings checked and completed with defaults; raises `BadEdit` naming the field."""
    try:
        checked: BaseModel = _ADAPTERS[kind].validate_python(settings)
    except ValidationError as error:
        first = error.errors()[0]
        field = " ".join(str(p).replace("_", " ") for p in first["loc"] if isinstance(p, str))
        raise BadEdit(f"{field or kind}: {first['msg']}. Nothing was changed.") from error
    return checked.model_dump(mode="json")


def named(name: Any) -> str:
    """A name as it may be kept; raises `BadEdit`."""
    if not isinstance(name, str) or not 0 < len(name.strip()) <= MOST_LETTERS:
        raise BadEdit(f"A name has between one and {MOST_LETTERS} letters. Nothing was changed.")
    if "\x00" in name or any("\ud800" <= c <= "\udfff" for c in name):
        raise BadEdit("This name holds signs that no text has. Nothing was changed.")
    return name


def state_of(kind: str, row: Any) -> State:
    """Editable columns of a row."""
    columns = _PROJECT_COLUMNS if kind == "project" else _ROW_COLUMNS
    return {c: getattr(row, c) for c in columns}


def _row(session: Session, kind: str, row_id: str) -> Any:
    row = session.get(KINDS[kind], row_id)
    if row is None:
        raise NotFound(f"This {kind} is no longer there; it may have been removed.")
    return row


def _put(session: Session, kind: str, row_id: str, state: State | None) -> None:
    """Make a row have a state; None removes it."""
    row = session.get(KINDS[kind], row_id)
    if state is None:
        if row is not None:
            session.delete(row)
    elif row is None:
        session.add(KINDS[kind](id=row_id, **state))
    else:
        for column, value in state.items():
            setattr(row, column, value)


def record(
    session: Session, project_id: str, label: str, changes: list[State], gesture: str | None = None
) -> None:
    """Write changes to their rows and to the history; what was undone can no longer be redone.

    Edits of one gesture (a drag) become one entry: the first state before, the last state after.
    """
    require_lock(session, project_id)
    for c in changes:
        _put(session, c["kind"], c["id"], c["after"])
    session.execute(delete(History).where(History.project_id == project_id, History.undone))
    last = session.scalars(
        select(History).where(History.project_id == project_id).order_by(History.id.desc()).limit(1)
    ).first()
    if gesture and last is not None and (last.gesture, last.by) == (gesture, AUTHOR.get()):
        known = {(c["kind"], c["id"]): dict(c) for c in last.changes}
        for c in changes:
            found = known.setdefault((c["kind"], c["id"]), dict(c))
            found["after"] = c["after"]
        last.changes = list(known.values())
        return
    session.add(
        History(
            project_id=project_id, label=label, gesture=gesture, changes=changes, by=AUTHOR.get()
        )
    )


def glow_steps(project_id: str, materials: Sequence[str], first: int) -> list[State]:
    """Steps that make a source of each material that shines, from a position in the list on."""
    return [
        {"kind": "source", "id": new_id(), "before": None, "after": {
            "project_id": project_id, "name": named(name), "position": first + n,
            "settings": GlowSettings(material=name).model_dump(mode="json")}}
        for n, name in enumerate(materials)
    ]  # fmt: skip


def change(
    session: Session, project_id: str, kind: str, row_id: str, patch: State,
    label: str = "", gesture: str | None = None, also: Callable[[State], list[State]] | None = None,
) -> None:  # fmt: skip
    """Lay ``patch`` over a row (columns, and ``settings`` member by member) as one edit.

    ``also`` tells what else belongs to the edit, from the state of the row after it.
    """
    row = _row(session, kind, row_id)
    if kind != "project" and row.project_id != project_id:
        raise NotFound(f"This {kind} belongs to another project.")
    before = state_of(kind, row)
    unknown = set(patch) - set(before)
    if unknown or "project_id" in patch:
        raise BadEdit(f"A {kind} has no {', '.join(sorted(unknown)) or 'such owner'}.")
    after = merged(before, patch)
    named(after["name"])
    if kind == "project":
        after = validated(kind, after)
    else:
        after["settings"] = validated(kind, after["settings"])
        if type(after["position"]) is not int or abs(after["position"]) > _LAST_PLACE:
            raise BadEdit("A place in the list is a whole number. Nothing was changed.")
    if after != before:
        unlocked(kind, before, after)
        step = {"kind": kind, "id": row_id, "before": before, "after": after}
        more = also(after) if also else []
        record(session, project_id, label or f"Change {kind}", [step, *more], gesture)


def unlocked(kind: str, before: State, after: State) -> None:
    """Raise `BadEdit` if a look is locked, and the edit is not that it no longer is."""
    if kind != "look" or not before["settings"].get("locked"):
        return
    if after.get("settings", {}).get("locked", True):
        raise BadEdit(f"“{before['name']}” is locked; unlock it first, beside its chip.")


def add(
    session: Session, project_id: str, kind: str, row_id: str, name: str, settings: Any
) -> None:
    """Add a row as one edit, after the others of its kind."""
    table = KINDS[kind]
    others = session.scalars(select(table.position).where(table.project_id == project_id)).all()
    state = {
        "project_id": project_id, "name": named(name), "position": max(others, default=-1) + 1,
        "settings": validated(kind, settings),
    }  # fmt: skip
    step = {"kind": kind, "id": row_id, "before": None, "after": state}
    record(session, project_id, f"Add {name}", [step])


def remove(session: Session, project_id: str, kind: str, row_id: str) -> None:
    """Remove a row as one edit; the last look or view stays."""
    row = _row(session, kind, row_id)
    table = KINDS[kind]
    count = len(session.scalars(select(table.id).where(table.project_id == project_id)).all())
    if kind in ("look", "view") and count < 2:
        raise BadEdit(f"A project keeps at least one {kind}; add another before removing this.")
    before = state_of(kind, row)
    unlocked(kind, before, {})
    step = {"kind": kind, "id": row_id, "before": before, "after": None}
    record(session, project_id, f"Remove {row.name}", [step])


def replace(
    session: Session, project_id: str, kind: str, row_id: str, settings: Any, label: str
) -> None:
    """Give a row other settings as a whole, as one edit."""
    row = _row(session, kind, row_id)
    before = state_of(kind, row)
    after = {**before, "settings": validated(kind, settings)}
    unlocked(kind, before, {})
    step = {"kind": kind, "id": row_id, "before": before, "after": after}
    record(session, project_id, label, [step])


def last_done(session: Session, project_id: str) -> History | None:
    """The last edit that counts; None if there is none."""
    return session.scalars(
        select(History).where(History.project_id == project_id, ~History.undone)
        .order_by(History.id.desc()).limit(1)
    ).first()  # fmt: skip


def next_steps(session: Session, project_id: str) -> dict[str, str | None]:
    """Labels of the next undo and redo, and the pages they came from."""
    told: dict[str, str | None] = {}
    for name, order in (("undo", History.id.desc()), ("redo", History.id)):
        wanted = History.undone if name == "redo" else ~History.undone
        # History holds whole rows: only what is told is read of it.
        found = session.execute(
            select(History.label, History.by)
            .where(History.project_id == project_id, wanted).order_by(order).limit(1)
        ).first()  # fmt: skip
        told |= {name: found and found.label, f"{name}_by": found and found.by}
    return told


def undo(session: Session, project_id: str) -> str | None:
    """Take back the last edit; returns its label, None if there is none."""
    require_lock(session, project_id)
    entry = last_done(session, project_id)
    if entry is None:
        return None
    for c in reversed(entry.changes):
        _put(session, c["kind"], c["id"], c["before"])
    entry.undone = True
    return entry.label


def redo(session: Session, project_id: str) -> str | None:
    """Do the edit that was last taken back again; returns its label, None if there is none."""
    require_lock(session, project_id)
    entry = session.scalars(
        select(History).where(History.project_id == project_id, History.undone)
        .order_by(History.id).limit(1)
    ).first()  # fmt: skip
    if entry is None:
        return None
    for c in entry.changes:
        _put(session, c["kind"], c["id"], c["after"])
    entry.undone = False
    return entry.label
