"""The shelves that all projects share, and how a file from outside comes onto its own."""

from __future__ import annotations

import tempfile
from pathlib import Path
from typing import Any

from westlight.engine.files import look_in
from westlight.engine.reading import read_in_child
from westlight.store import Asset, AssetStore, Store

from .backdrops import Backdrops
from .errors import NotFound
from .finishes import Finishes
from .photometry import Photometry
from .references import References
from .shelf import ReadShelf, Shelf, keep_asset
from .skies import Skies
from .tables import Tables
from .whites import Whites

#: Every kind of shelf.
KINDS: tuple[type[Shelf], ...] = (
    Skies,
    Backdrops,
    References,
    Photometry,
    Tables,
    Finishes,
    Whites,
)
#: How a building is marked in the store; it lies on no shelf.
BUILDING = "model/gltf-binary"


class Shelves:
    """Each shelf by name, over one store of files."""

    def __init__(self, store: Store, folder: Path) -> None:
        self.store, self.assets = store, AssetStore(folder / "assets")
        look_in(self.assets.folder)
        self.skies = Skies(store, self.assets, folder / "skies")
        self.backdrops = Backdrops(store, self.assets, folder / "backdrops")
        self.references = References(store, self.assets, folder / "references")
        self.photometry = Photometry(store, self.assets, folder / "walls")
        self.tables = Tables(store, self.assets, folder / "tables")
        self.finishes = Finishes(store, self.assets, folder / "finishes")
        self.whites = Whites(store, self.assets, folder / "whites")

    def bring(self, kind: str, file: Path, name: str) -> dict[str, Any]:
        """Put a file from outside on the shelf of a reader (`engine.readers`), which reads it in a child with limits."""
        with tempfile.TemporaryDirectory() as folder:
            return self.keep_read(kind, read_in_child(kind, file, name, Path(folder)), Path(folder))

    def keep_read(self, kind: str, report: dict[str, Any], folder: Path) -> dict[str, Any]:
        """Put what a reader made of a file on its shelf; returns its card."""
        shelves: tuple[ReadShelf, ...] = (
            self.skies, self.backdrops, self.references, self.photometry, self.tables
        )  # fmt: skip
        return next(s for s in shelves if kind in s.readers).keep(report, folder)

    def keep_building(
        self, folder: Path, report: dict[str, Any], suffix: str
    ) -> tuple[str, dict[str, Any]]:
        """Keep a building that was read; returns its file's id, and settings that changed if it was converted."""
        kept = folder / report["file"]
        with self.store.session() as session:
            asset = keep_asset(session, self.assets, kept, f"building{kept.suffix}", BUILDING)
        return asset, {} if kept.suffix == suffix else {"suffix": kept.suffix, "up": report["up"]}

    def any_file(self, asset_id: str) -> tuple[Path, str, str]:
        """Path, name and media type of a stored file, on a shelf or not."""
        with self.store.session() as session:
            asset = session.get(Asset, asset_id)
            if asset is None:
                raise NotFound("This file is no longer there.")
            return self.assets.path(asset_id, Path(asset.name).suffix), asset.name, asset.media_type
