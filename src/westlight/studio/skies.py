"""The shelf of sky pictures: kept as EXR, each with a card of what it gives and a thumbnail."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from .shelf import ReadShelf


class Skies(ReadShelf):
    """Sky pictures of this server."""

    media_type, suffix, what = "image/x-exr-sky", ".exr", "sky"
    readers = ("sky",)

    def keep(self, report: dict[str, Any], folder: Path) -> dict[str, Any]:
        """Keep what the reader of skies made; returns its card."""
        asset = self.keep_file(report, folder)
        made: dict[str, Any] = report["card"] | {"asset": asset, "name": report["title"]}
        (self.folder / f"{asset}.json").write_text(json.dumps(made))
        return made

    def cards(self) -> list[dict[str, Any]]:
        """Cards of all skies, by name."""
        files = (self.folder / f"{i}.json" for i, _ in self.names())
        found = [json.loads(f.read_text()) for f in files if f.is_file()]
        return sorted(found, key=lambda c: str(c["name"]).lower())

    def card(self, asset: str) -> dict[str, Any]:
        """Card of one sky; raises `NotFound`."""
        found: dict[str, Any] = json.loads(self.beside(asset, ".json").read_text())
        return found
