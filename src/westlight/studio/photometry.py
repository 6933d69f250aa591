"""The shelf of photometric files: kept as assets, described for the browser."""

from __future__ import annotations

import math
import tempfile
from functools import lru_cache
from pathlib import Path
from typing import Any

import numpy as np
from sqlalchemy import select

from westlight.core.luminaires import IntensityDistribution, read_photometric, write_lm63
from westlight.store import Asset, AssetStore, Store

MEDIA_TYPE = "text/x-photometry"
#: Steps of the polar curve that is drawn, in degrees.
_STEP_DEG = 2.5


def put_on_shelf(store: Store, assets: AssetStore, content: bytes, name: str) -> dict[str, Any]:
    """Check a photometric file and keep it, as LM-63 whatever it was; returns its card.

    Raises `PhotometricError` in the artist's words.
    """
    d = read_photometric(content)
    title = d.name or Path(name).stem
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder) / f"{Path(name).stem}.ies"
        file.write_text(write_lm63(d))
        asset = assets.put(file)
        with store.session() as session:
            if session.get(Asset, asset) is None:
                session.add(Asset(id=asset, name=f"{title}.ies", media_type=MEDIA_TYPE,
                                  size_bytes=file.stat().st_size))  # fmt: skip
    return card(asset, title, d)


def shelf(store: Store, assets: AssetStore) -> list[dict[str, Any]]:
    """Cards of all files on the shelf, by name."""
    with store.session() as session:
        rows = session.scalars(select(Asset).where(Asset.media_type == MEDIA_TYPE)).all()
        found = [(r.id, r.name.removesuffix(".ies")) for r in rows]
    return [
        _kept_card(i, name, assets.path(i, ".ies"))
        for i, name in sorted(found, key=lambda f: f[1].lower())
        if assets.path(i, ".ies").is_file()
    ]


@lru_cache(maxsize=512)
def _kept_card(asset: str, name: str, file: Path) -> dict[str, Any]:
    """A card by content hash: files on the shelf never change, and their integrals take time."""
    return card(asset, name, read_photometric(file))


def card(asset: str, name: str, d: IntensityDistribution) -> dict[str, Any]:
    """What the shelf shows of a file: flux, angles, lux below it, its curve in two planes."""
    gamma = np.arange(0, 180 + _STEP_DEG, _STEP_DEG)
    planes = {c: d.candela(gamma, c) for c in (0, 90, 180, 270)}
    peak = max(d.maximum_cd, 1e-9)
    return {
        "asset": asset, "name": name, "flux_lm": round(d.flux_lm, 1), "watts": d.watts,
        "peak_cd": round(d.maximum_cd, 1),
        "beam_deg": round(d.beam_angle_deg, 1), "field_deg": round(d.field_angle_deg, 1),
        "efficacy": round(d.flux_lm / d.watts, 1) if d.watts else None,
        "remarks": list(d.remarks),
        "cone": [
            {"distance_m": h, "lux": round(float(d.candela(0.0)) / h**2, 1),
             "diameter_m": round(2 * h * math.tan(math.radians(min(d.beam_angle_deg / 2, 80))), 2)}
            for h in (1.0, 2.0, 3.0)
        ],
        "step_deg": _STEP_DEG,
        "curve": {str(c): [round(float(v) / peak, 4) for v in values] for c, values in planes.items()},
    }  # fmt: skip
