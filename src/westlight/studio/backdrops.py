"""The shelf of backdrops: pictures that hang behind the view, kept as EXR where 1 is the burnt point."""

from __future__ import annotations

import shutil
import tempfile
from pathlib import Path
from typing import Any

from sqlalchemy import select

from westlight.engine import readers
from westlight.store import Asset, AssetStore, Store

from .errors import NotFound
from .shelving import keep_asset

MEDIA_TYPE = "image/x-exr-backdrop"


class Backdrops:
    """Backdrops of this server; thumbnails lie beside the assets, by content."""

    def __init__(self, store: Store, assets: AssetStore, folder: Path) -> None:
        self.store, self.assets, self.folder = store, assets, folder
        folder.mkdir(parents=True, exist_ok=True)

    def add(self, file: Path, name: str) -> dict[str, Any]:
        """Check a picture and keep it; returns its asset and name. Raises `PictureFileError`."""
        with tempfile.TemporaryDirectory() as folder:
            return self.keep(readers.backdrop(file, name, Path(folder)), Path(folder))

    def keep(self, report: dict[str, Any], folder: Path) -> dict[str, Any]:
        """Keep what the reader of backdrops made; returns its asset and name."""
        title = report["title"]
        asset = keep_asset(self.store, self.assets, folder / report["file"], title, MEDIA_TYPE)
        shutil.copyfile(folder / "thumbnail.jpg", self.folder / f"{asset}.jpg")
        return {"id": asset, "name": title}

    def shelf(self) -> list[dict[str, Any]]:
        """All backdrops, by name."""
        with self.store.session() as session:
            rows = session.scalars(select(Asset).where(Asset.media_type == MEDIA_TYPE)).all()
            found = [{"id": r.id, "name": r.name.removesuffix(".exr")} for r in rows]
        return sorted(found, key=lambda b: str(b["name"]).lower())

    def thumbnail(self, asset: str) -> Path:
        """File of a thumbnail; raises `NotFound`."""
        file = self.folder / f"{Path(asset).name}.jpg"
        if not file.is_file():
            raise NotFound("This backdrop is no longer on the shelf.")
        return file
