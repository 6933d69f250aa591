"""Colours of lamps the house works with: whites by kelvin and hues, kept under a name."""

from __future__ import annotations

from typing import Any

from westlight.engine.spec import Hex, Kelvin

from .errors import BadEdit
from .shelf import Kept, NamedShelf


class White(Kept):
    """A white in kelvin, or a hue instead of it."""

    kelvin: Kelvin
    colour: Hex | None = None


class Whites(NamedShelf[White]):
    """The shelf of the house's whites; one of a name."""

    media_type, what = "application/x-westlight-white", "white"
    kind = White

    def keep(self, name: str, kelvin: float, colour: str | None) -> None:
        """Keep a white or hue under a name; an equal name is replaced."""
        if not name.strip():
            raise BadEdit("Give the white a name, like “Gallery 3500”.")
        self.put(White(name=name.strip()[:60], kelvin=kelvin, colour=colour))

    def cards(self) -> list[dict[str, Any]]:
        """All kept whites, by name: what a fixture takes over of each."""
        return [{"id": asset, "name": w.name, "settings": {"kelvin": w.kelvin, "colour": w.colour}}
                for asset, w in self.all()]  # fmt: skip
