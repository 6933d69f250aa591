"""Made-up rooms that the picture is judged by: each a small building of one kind of difficulty.

`ROOMS` lists them. A room has a model and everything a look of it needs, as a dictionary for `PictureSpec`.
"""

from __future__ import annotations

from importlib import import_module
from pathlib import Path
from typing import Any, NamedTuple

from tests import stored

from westlight.core.model import Model
from westlight.core.model.write import write_glb
from westlight.engine.spec import PictureSpec

#: Modules of this folder, one a room, in the order they are printed.
ROOMS = (
    "plain_window", "missing_walls", "corridor", "bathroom", "coves", "forty_spots", "curtains",
    "stairwell", "white_render", "glass_front",
)  # fmt: skip


class Room(NamedTuple):
    """A building and a look of it: ``look`` are fields of `PictureSpec`, the model left out.

    ``plain`` are regions (left, top, right, bottom, 0…1) of the picture where there is nothing but an even surface.
    """

    title: str
    model: Model
    look: dict[str, Any]
    plain: tuple[tuple[float, float, float, float], ...]


def room(name: str) -> Room:
    """A room by the name of its module."""
    made: Room = import_module(f"{__name__}.{name}").room()
    return made


def spec_of(made: Room, folder: Path, name: str, **changes: Any) -> PictureSpec:
    """What the engine needs to know of a room; its model is written into a folder."""
    file = folder / f"{name}.glb"
    if not file.exists():
        write_glb(made.model, file)
    model = stored.model(file, **made.look.get("model", {}))
    return PictureSpec.model_validate({**made.look, "model": model, **changes})


def sky(elevation: float, azimuth: float = 180.0, **more: Any) -> dict[str, Any]:
    """A clear sky as a source."""
    settings = {"kind": "sky", "elevation_deg": elevation, "azimuth_deg": azimuth, **more}
    return {"id": "sky", "name": "Sky", "settings": settings}


def sun(elevation: float, azimuth: float) -> dict[str, Any]:
    """The sun as a source."""
    settings = {"kind": "sun", "elevation_deg": elevation, "azimuth_deg": azimuth}
    return {"id": "sun", "name": "Sun", "settings": settings}


def lamp(name: str, shape: str, places: list[dict[str, Any]], **more: Any) -> dict[str, Any]:
    """A fixture as a source."""
    settings = {"kind": "fixture", "shape": shape, "places": places, **more}
    return {"id": name, "name": name, "settings": settings}


#: The shutter follows the picture, as an artist would set it.
METERED = {"automatic": "whole", "f_number": 5.6, "iso": 200, "shutter_s": 0.1}
