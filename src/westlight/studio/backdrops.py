"""The shelf of backdrops: pictures that hang behind the view, kept as EXR where 1 is the burnt point."""

from __future__ import annotations

import tempfile
from pathlib import Path
from typing import Any

import numpy as np
from PIL import Image
from sqlalchemy import select

from westlight.core.colour import AP1_TO_SRGB, srgb_encode
from westlight.core.files import write_exr
from westlight.core.finish import backdrop_of
from westlight.store import Asset, AssetStore, Store

from .errors import NotFound

MEDIA_TYPE = "image/x-exr-backdrop"
THUMB_PX = 256


class Backdrops:
    """Backdrops of this server; thumbnails lie beside the assets, by content."""

    def __init__(self, store: Store, assets: AssetStore, folder: Path) -> None:
        self.store, self.assets, self.folder = store, assets, folder
        folder.mkdir(parents=True, exist_ok=True)

    def add(self, file: Path, name: str) -> dict[str, Any]:
        """Check a picture and keep it; returns its asset and name. Raises `PictureFileError`."""
        picture = backdrop_of(file)
        title = Path(name).stem
        with tempfile.TemporaryDirectory() as scratch:
            kept = Path(scratch) / f"{title}.exr"
            write_exr(kept, picture, {}, half=True, dated=False)
            size, asset = kept.stat().st_size, self.assets.put(kept)
        with self.store.session() as session:
            if session.get(Asset, asset) is None:
                session.add(Asset(id=asset, name=f"{title}.exr", media_type=MEDIA_TYPE,
                                  size_bytes=size))  # fmt: skip
        step = max(1, picture.shape[1] // THUMB_PX)
        shown = srgb_encode(np.clip(picture[::step, ::step] @ AP1_TO_SRGB.T, 0, 1))
        pixels = (np.asarray(shown) * 255).round().astype(np.uint8)
        Image.fromarray(pixels).save(self.folder / f"{asset}.jpg", quality=88)
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
