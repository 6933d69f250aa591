"""A shelf of small settings that artists keep under a name, for any building."""

from __future__ import annotations

import tempfile
from pathlib import Path
from typing import Annotated, Generic, TypeVar

from pydantic import Field
from sqlalchemy import select

from westlight.engine.spec import Settings
from westlight.store import Asset, AssetStore, Store

from .errors import NotFound


class Kept(Settings):
    """Base of what is kept under a name."""

    name: Annotated[str, Field(min_length=1, max_length=60)]


K = TypeVar("K", bound=Kept)


class NamedShelf(Generic[K]):
    """Kept settings of one kind; one of a name. ``what`` is what they are called in words."""

    def __init__(
        self, store: Store, assets: AssetStore, kind: type[K], media_type: str, what: str
    ) -> None:
        self.store, self.assets = store, assets
        self.kind, self.media_type, self.what = kind, media_type, what

    def put(self, kept: K) -> None:
        """Keep settings; those of an equal name are replaced."""
        with tempfile.TemporaryDirectory() as folder:
            file = Path(folder) / "kept.json"
            file.write_text(kept.model_dump_json(), encoding="utf-8")
            asset, size = self.assets.put(file), file.stat().st_size
        with self.store.session() as session:
            same = select(Asset).where(Asset.media_type == self.media_type, Asset.name == kept.name)
            for old in session.scalars(same).all():
                session.delete(old)
            session.flush()
            session.add(
                Asset(id=asset, name=kept.name, media_type=self.media_type, size_bytes=size)
            )

    def all(self) -> list[tuple[str, K]]:
        """Ids and settings, by name."""
        with self.store.session() as session:
            wanted = select(Asset.id).where(Asset.media_type == self.media_type)
            ids = session.scalars(wanted).all()
        found = []
        for asset in ids:
            file = self.assets.path(asset, ".json")
            # Lost with its folder: one card less, not no shelf at all.
            if file.is_file():
                text = file.read_text(encoding="utf-8")
                found.append((asset, self.kind.model_validate_json(text)))
        return sorted(found, key=lambda k: k[1].name.lower())

    def remove(self, asset: str) -> None:
        """Take one off the shelf; what uses it stays as it is."""
        with self.store.session() as session:
            row = session.get(Asset, asset)
            if row is None or row.media_type != self.media_type:
                raise NotFound(f"This {self.what} is no longer on the shelf.")
            session.delete(row)
