"""Putting what a reader made on a shelf."""

from __future__ import annotations

from pathlib import Path

from westlight.store import Asset, AssetStore, Store


def keep_asset(store: Store, assets: AssetStore, file: Path, title: str, media_type: str) -> str:
    """Keep a file under a title, once; returns its id."""
    size, asset = file.stat().st_size, assets.put(file)
    with store.session() as session:
        if session.get(Asset, asset) is None:
            session.add(Asset(id=asset, name=f"{title}{file.suffix}", media_type=media_type,
                              size_bytes=size))  # fmt: skip
    return asset
