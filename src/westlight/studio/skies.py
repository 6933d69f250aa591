"""The shelf of sky pictures: kept as EXR assets, each with a card of what it gives and a thumbnail."""

from __future__ import annotations

import json
import math
import tempfile
from pathlib import Path
from typing import Any

import numpy as np
from PIL import Image
from sqlalchemy import select

from westlight.core.colour import AP1_LUMINANCE, nearest_kelvin
from westlight.core.files import write_exr
from westlight.core.finish import metered_ev, show
from westlight.core.sky import Hdri
from westlight.core.sky.hdri import reduced, row_solid_angles
from westlight.store import Asset, AssetStore, Store

from .errors import NotFound

MEDIA_TYPE = "image/x-exr-sky"
THUMB_PX = 256


class Skies:
    """Sky pictures of this server. Cards and thumbnails lie beside the assets, by content."""

    def __init__(self, store: Store, assets: AssetStore, folder: Path) -> None:
        self.store, self.assets, self.folder = store, assets, folder
        folder.mkdir(parents=True, exist_ok=True)

    def add(self, file: Path, name: str) -> dict[str, Any]:
        """Check a picture (EXR or Radiance HDR) and keep it; returns its card.

        Raises `PictureFileError` in the artist's words.
        """
        sky = Hdri.of(file)
        title = Path(name).stem
        with tempfile.TemporaryDirectory() as scratch:
            # Kept as read: calibrated pixels, mended, middle column north again.
            kept = Path(scratch) / f"{title}.exr"
            turned = np.roll(sky.pixels, sky.pixels.shape[1] // 2, axis=1)
            write_exr(kept, turned, {}, half=float(turned.max()) < 65_000, dated=False)
            size, asset = kept.stat().st_size, self.assets.put(kept)
        with self.store.session() as session:
            if session.get(Asset, asset) is None:
                session.add(Asset(id=asset, name=f"{title}.exr", media_type=MEDIA_TYPE,
                                  size_bytes=size))  # fmt: skip
        made = card(sky) | {"asset": asset, "name": title}
        small = reduced(sky.pixels, THUMB_PX, THUMB_PX // 2)
        small = np.roll(small, small.shape[1] // 2, axis=1)
        shown = show(small, metered_ev(small) or 10.0)
        Image.fromarray(shown.pixels).save(self.folder / f"{asset}.jpg", quality=88)
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


def card(sky: Hdri) -> dict[str, Any]:
    """What a picture gives: lux on the ground, its sun if it has one, contrast and colour."""
    lobe = sky.brightest()
    luminance = sky.pixels @ AP1_LUMINANCE.astype(np.float32)
    upper = luminance[: max(len(luminance) // 2, 1)]
    weight = row_solid_angles(*luminance.shape)[: len(upper), None] * np.ones_like(upper)
    order = np.argsort(upper, axis=None)
    filled = np.cumsum(weight.ravel()[order])
    dark, bright = (
        float(upper.ravel()[order][np.searchsorted(filled, q * filled[-1])]) for q in (0.1, 0.99)
    )
    return {
        "width_px": int(sky.pixels.shape[1]), "remarks": list(sky.remarks),
        "lux": round(sky.horizontal_illuminance(), 2),
        "kelvin": round(nearest_kelvin(sky.horizontal_rgb()), -2),
        "stops": round(math.log2(max(bright, 1e-9) / max(dark, 1e-9)), 1),
        "sun": None if lobe is None else {
            "azimuth_deg": round(lobe.azimuth_deg, 2), "elevation_deg": round(lobe.elevation_deg, 2),
            "lux": round(lobe.normal_illuminance_lx, 1)},
    }  # fmt: skip
