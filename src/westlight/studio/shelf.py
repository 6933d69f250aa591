"""Shelves: files and settings of one kind that every project of this server may use, kept once by content."""

from __future__ import annotations

import shutil
import tempfile
from pathlib import Path
from typing import Annotated, Any, ClassVar, Generic, TypeVar

from pydantic import Field
from sqlalchemy import select
from sqlalchemy.orm import Session

from westlight.engine.readers import READERS
from westlight.engine.spec import Settings
from westlight.store import Asset, AssetStore, Store

from .errors import NotFound


def keep_asset(session: Session, assets: AssetStore, file: Path, name: str, media_type: str) -> str:
    """Keep a file under a name, once; returns its id."""
    size, asset = file.stat().st_size, assets.put(file)
    if session.get(Asset, asset) is None:
        session.add(Asset(id=asset, name=name, media_type=media_type, size_bytes=size))
    return asset


class Shelf:
    """One kind of file. What is made of it for the page (cards, thumbnails) lies beside, by content."""

    #: How its files are marked in the store, their suffix, and what one is called in words.
    media_type: ClassVar[str]
    suffix: ClassVar[str]
    what: ClassVar[str]

    def __init__(self, store: Store, assets: AssetStore, folder: Path) -> None:
        self.store, self.assets, self.folder = store, assets, folder
        folder.mkdir(parents=True, exist_ok=True)

    def names(self) -> list[tuple[str, str]]:
        """Ids and names of what is there, by name; a file lost with its folder is one card less, not no shelf at all."""
        with self.store.session() as session:
            rows = session.scalars(select(Asset).where(Asset.media_type == self.media_type)).all()
            found = [(r.id, r.name.removesuffix(self.suffix)) for r in rows]
        there = [(i, name) for i, name in found if self.assets.path(i, self.suffix).is_file()]
        return sorted(there, key=lambda f: f[1].lower())

    def cards(self) -> list[dict[str, Any]]:
        """What the page shows of each, by name."""
        return [{"id": i, "name": name} for i, name in self.names()]

    def file(self, asset: str) -> Path:
        """A file of this shelf; raises `NotFound`."""
        with self.store.session() as session:
            row = session.get(Asset, asset)
            if row is None or row.media_type != self.media_type:
                raise self.gone()
        return self.assets.path(asset, self.suffix)

    def thumbnail(self, asset: str) -> Path:
        """Picture of a file; raises `NotFound`."""
        return self.beside(asset, ".jpg")

    def beside(self, asset: str, suffix: str) -> Path:
        """What was made of a file for the page; raises `NotFound`."""
        made = self.folder / f"{Path(asset).name}{suffix}"
        if not made.is_file():
            raise self.gone()
        return made

    def remove(self, asset: str) -> None:
        """Take one off the shelf; what uses it stays as it is."""
        with self.store.session() as session:
            row = session.get(Asset, asset)
            if row is None or row.media_type != self.media_type:
                raise self.gone()
            session.delete(row)

    def gone(self) -> NotFound:
        """What is said of a file that is not there."""
        return NotFound(f"This {self.what} is no longer on the shelf.")


class ReadShelf(Shelf):
    """A shelf of files from outside; each is read and written anew by a reader before it is kept."""

    #: Readers whose reports it keeps (`engine.readers`): of a file from outside, and of one that was kept before.
    readers: ClassVar[tuple[str, ...]]

    def add(self, file: Path, name: str) -> dict[str, Any]:
        """Read a file of our own making and keep it; returns its card. Raises what its reader raises."""
        with tempfile.TemporaryDirectory() as folder:
            report = READERS[self.readers[0]].read(file, name, Path(folder))
            return self.keep(report, Path(folder))

    def put(self, content: bytes, name: str) -> dict[str, Any]:
        """The same for the bytes of a file."""
        with tempfile.TemporaryDirectory() as folder:
            file = Path(folder) / "given"
            file.write_bytes(content)
            return self.add(file, name)

    def keep(self, report: dict[str, Any], folder: Path) -> dict[str, Any]:
        """Keep what the reader made in a folder; returns its card."""
        return {"id": self.keep_file(report, folder), "name": report["title"]}

    def keep_file(self, report: dict[str, Any], folder: Path) -> str:
        """Keep the file of a report and the thumbnail beside it; returns its id."""
        file = folder / report["file"]
        with self.store.session() as session:
            name = f"{report['title']}{file.suffix}"
            asset = keep_asset(session, self.assets, file, name, self.media_type)
        thumbnail = folder / "thumbnail.jpg"
        if thumbnail.is_file():
            shutil.copyfile(thumbnail, self.folder / f"{asset}.jpg")
        return asset


class Kept(Settings):
    """Base of settings that are kept under a name."""

    name: Annotated[str, Field(min_length=1, max_length=60)]


K = TypeVar("K", bound=Kept)


class NamedShelf(Shelf, Generic[K]):
    """A shelf of small settings that artists keep for any building; one of a name."""

    suffix = ".json"
    kind: type[K]

    def put(self, kept: K) -> None:
        """Keep settings; those of an equal name are replaced."""
        with tempfile.TemporaryDirectory() as folder, self.store.session() as session:
            file = Path(folder) / "kept.json"
            file.write_text(kept.model_dump_json(), encoding="utf-8")
            same = select(Asset).where(Asset.media_type == self.media_type, Asset.name == kept.name)
            for old in session.scalars(same).all():
                session.delete(old)
            session.flush()
            keep_asset(session, self.assets, file, kept.name, self.media_type)

    def all(self) -> list[tuple[str, K]]:
        """Ids and settings, by name."""
        return [
            (i, self.kind.model_validate_json(
                self.assets.path(i, self.suffix).read_text(encoding="utf-8")))
            for i, _ in self.names()
        ]  # fmt: skip
