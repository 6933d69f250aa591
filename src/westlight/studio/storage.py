"""What the files take on disk, and letting go of those that nothing names any more."""

from __future__ import annotations

import re
import shutil
import time
from collections.abc import Iterator
from typing import Any

from sqlalchemy import String, cast, select
from sqlalchemy.orm import Session

from westlight.store import (
    Asset,
    AssetStore,
    History,
    Look,
    Model,
    Project,
    Proof,
    Source,
    Still,
    Store,
)

from . import proofs
from .shelves import KINDS

#: Seconds a file is left alone after it was written: something may be about to name it.
YOUNG_S = 3600.0
_ID = re.compile(r"[0-9a-f]{64}")
#: What lies on a shelf is kept whether or not a project uses it.
_SHELVES = {k.media_type for k in KINDS}


def _named(session: Session) -> dict[str, str]:
    """Every file that some row names, with what it belongs to; history counts, so undo finds its files."""
    found: dict[str, str] = {}
    for kind, column in (
        # A still names its building too: what comes later here is what a file belongs to.
        ("history", History.changes), ("stills", Still.settings), ("proofs", Proof.settings),
        ("looks", Look.settings), ("lamps", Source.settings), ("buildings", Model.settings),
    ):  # fmt: skip
        for text in session.scalars(select(cast(column, String))):
            found |= dict.fromkeys(_ID.findall(text or ""), kind)
    for settings in session.scalars(select(Still.settings)):
        light = [f["asset"] for f in settings.get("files", []) if f["kind"] == "light"]
        found |= dict.fromkeys(light, "light of stills")
    return found


def _files(assets: AssetStore) -> Iterator[tuple[str, int, float]]:
    """Every stored file: id, bytes, when it was written."""
    for path in assets.folder.glob("??/*"):
        known = path.stat()
        yield path.name.split(".")[0], known.st_size, known.st_mtime


def report(store: Store, assets: AssetStore) -> dict[str, Any]:
    """Bytes by what they belong to, bytes nothing names any more, and bytes free on the disk."""
    with store.session() as session:
        named = _named(session)
        shelved = {a.id for a in session.scalars(select(Asset)) if _on_a_shelf(a)}
    taken: dict[str, int] = {}
    unnamed = 0
    for asset, size, _ in _files(assets):
        kind = named.get(asset) or ("shelves" if asset in shelved else None)
        if kind is None:
            unnamed += size
        else:
            taken[kind] = taken.get(kind, 0) + size
    kinds = [{"kind": k, "bytes": b} for k, b in sorted(taken.items(), key=lambda kb: -kb[1])]
    return {"kinds": kinds, "unnamed": unnamed, "free": shutil.disk_usage(assets.folder).free}


def forget_projects(store: Store) -> list[str]:
    """Delete the projects that were removed, with all their rows; returns their ids."""
    with store.session() as session:
        gone = session.scalars(select(Project).where(Project.removed_at.is_not(None))).all()
        for project in gone:
            session.delete(project)
        return [p.id for p in gone]


def sweep(store: Store, assets: AssetStore) -> int:
    """Delete files that no row and no shelf names and that are not fresh; returns their bytes.

    Proofs that were put aside are forgotten first.
    """
    freed = 0
    with store.session() as session:
        proofs.forget(session)
        session.flush()
        named = _named(session)
        rows = {a.id: a for a in session.scalars(select(Asset))}
        gone = []
        for asset, size, written in _files(assets):
            row = rows.get(asset)
            if asset in named or (row is not None and _on_a_shelf(row)):
                continue
            if time.time() - written < YOUNG_S:
                continue
            gone.append((asset, size))
            if row is not None:
                session.delete(row)
    # Only once the rows are gone for good: a row without its file could not be opened.
    for asset, size in gone:
        for path in assets.folder.glob(f"??/{asset}*"):
            path.unlink(missing_ok=True)
        freed += size
    return freed


def _on_a_shelf(asset: Asset) -> bool:
    return asset.media_type in _SHELVES
