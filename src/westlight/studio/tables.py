"""The shelf of film tables (.cube): kept as assets by content."""

from __future__ import annotations

import tempfile
from pathlib import Path
from typing import Any

from sqlalchemy import select

from westlight.core.finish import CubeError, parse_cube
from westlight.store import Asset, AssetStore, Store

MEDIA_TYPE = "text/x-cube"
#: A table of 129 steps as text is about this large.
LARGEST_BYTES = 80_000_000


def put_on_shelf(store: Store, assets: AssetStore, content: bytes, name: str) -> dict[str, Any]:
    """Check a film table and keep it; returns its asset and name. Raises `CubeError`."""
    if len(content) > LARGEST_BYTES:
        raise CubeError(f"“{name}” is too large for a film table; export it with 33 or 65 steps.")
    try:
        parse_cube(content.decode("utf-8"), name)
    except UnicodeDecodeError as error:
        raise CubeError(f"“{name}” is not a .cube text file; export the table again.") from error
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder) / f"{Path(name).stem}.cube"
        file.write_bytes(content)
        asset = assets.put(file)
        with store.session() as session:
            if session.get(Asset, asset) is None:
                session.add(Asset(id=asset, name=file.name, media_type=MEDIA_TYPE,
                                  size_bytes=len(content)))  # fmt: skip
    return {"id": asset, "name": Path(name).stem}


def shelf(store: Store) -> list[dict[str, Any]]:
    """All tables on the shelf, by name."""
    with store.session() as session:
        rows = session.scalars(select(Asset).where(Asset.media_type == MEDIA_TYPE)).all()
        found = [{"id": r.id, "name": r.name.removesuffix(".cube")} for r in rows]
    return sorted(found, key=lambda t: str(t["name"]).lower())
