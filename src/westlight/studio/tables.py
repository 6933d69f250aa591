"""The shelf of film tables (.cube): kept as assets by content."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from sqlalchemy import select

from westlight.store import Asset, AssetStore, Store

from .shelving import keep_asset

MEDIA_TYPE = "text/x-cube"


def keep(store: Store, assets: AssetStore, report: dict[str, Any], folder: Path) -> dict[str, Any]:
    """Keep what the reader of film tables checked; returns its asset and name."""
    title = report["title"]
    return {
        "id": keep_asset(store, assets, folder / report["file"], title, MEDIA_TYPE),
        "name": title,
    }


def shelf(store: Store) -> list[dict[str, Any]]:
    """All tables on the shelf, by name."""
    with store.session() as session:
        rows = session.scalars(select(Asset).where(Asset.media_type == MEDIA_TYPE)).all()
        found = [{"id": r.id, "name": r.name.removesuffix(".cube")} for r in rows]
    return sorted(found, key=lambda t: str(t["name"]).lower())
