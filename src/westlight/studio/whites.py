"""Colours of lamps the house works with: whites by kelvin and hues, kept under a name."""

from __future__ import annotations

from typing import Any

from westlight.engine.spec import Hex, Kelvin
from westlight.store import AssetStore, Store

from .errors import BadEdit
from .named_shelf import Kept, NamedShelf

MEDIA_TYPE = "application/x-westlight-white"


class White(Kept):
    """A white in kelvin, or a hue instead of it."""

    kelvin: Kelvin
    colour: Hex | None = None


class Whites(NamedShelf[White]):
    """The shelf of the house's whites; one of a name."""

    def __init__(self, store: Store, assets: AssetStore) -> None:
        super().__init__(store, assets, White, MEDIA_TYPE, "white")

    def keep(self, name: str, kelvin: float, colour: str | None) -> None:
        """Keep a white or hue under a name; an equal name is replaced."""
        if not name.strip():
            raise BadEdit("Give the white a name, like “Gallery 3500”.")
        self.put(White(name=name.strip()[:60], kelvin=kelvin, colour=colour))

    def shelf(self) -> list[dict[str, Any]]:
        """All kept whites, by name: what a fixture takes over of each."""
        return [{"id": asset, "name": w.name, "settings": {"kelvin": w.kelvin, "colour": w.colour}}
                for asset, w in self.all()]  # fmt: skip
