"""The shelf of sky pictures: kept as EXR assets, each with a card of what it gives and a thumbnail."""

from __future__ import annotations

import json
import shutil
import tempfile
from pathlib import Path
from typing import Any

from sqlalchemy import select

from westlight.engine import readers
from westlight.store import Asset, AssetStore, Store

from .errors import NotFound
from .shelving import keep_asset

MEDIA_TYPE = "image/x-exr-sky"


class Skies:
    """Sky pictures of this server. Cards and thumbnails lie beside the assets, by content."""

    def __init__(self, store: Store, assets: AssetStore, folder: Path) -> None:
        self.store, self.assets, self.folder = store, assets, folder
        folder.mkdir(parents=True, exist_ok=True)

    def add(self, file: Path, name: str) -> dict[str, Any]:
        """Check a picture (EXR or Radiance HDR) and keep it; returns its card.

        Raises `PictureFileError` in the artist's words.
        """
        with tempfile.TemporaryDirectory() as folder:
            return self.keep(readers.sky(file, name, Path(folder)), Path(folder))

    def keep(self, report: dict[str, Any], folder: Path) -> dict[str, Any]:
        """Keep what the reader of skies made; returns its card."""
        title = report["title"]
        asset = keep_asset(self.store, self.assets, folder / report["file"], title, MEDIA_TYPE)
        made: dict[str, Any] = report["card"] | {"asset": asset, "name": title}
        shutil.copyfile(folder / "thumbnail.jpg", self.folder / f"{asset}.jpg")
        (self.folder / f"{asset}.json").write_text(json.dumps(made))
        return made

    def shelf(self) -> list[dict[str, Any]]:
        """Cards of all skies, by name."""
        with self.store.session() as session:
            found = session.scalars(select(Asset.id).where(Asset.media_type == MEDIA_TYPE)).all()
        files = (self.folder / f"{i}.json" for i in found)
        cards = [json.loads(f.read_text()) for f in files if f.is_file()]
        return sorted(cards, key=lambda c: str(c["name"]).lower())

    def card(self, asset: str) -> dict[str, Any]:
        """Card of one sky; raises `NotFound`."""
        file = self.folder / f"{Path(asset).name}.json"
        if not file.is_file():
            raise NotFound("This sky is no longer on the shelf.")
        found: dict[str, Any] = json.loads(file.read_text())
        return found

    def thumbnail(self, asset: str) -> Path:
        """File of a thumbnail; raises `NotFound`."""
        file = self.folder / f"{Path(asset).name}.jpg"
        if not file.is_file():
            raise NotFound("This sky is no longer on the shelf.")
        return file
