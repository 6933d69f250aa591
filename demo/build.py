"""Builds the demo: `python -m demo.build FOLDER` writes saltmarsh.glb and saltmarsh.json there."""

from __future__ import annotations

import json
import sys
from pathlib import Path
from typing import Any

from . import (
    backdrops,
    furniture,
    gallery,
    houses,
    luminaires,
    props,
    quay,
    skies,
    tables,
    trees,
    workshop,
    yard,
)
from .writer import GlbWriter, Piece, write_obj


def fixtures() -> list[dict[str, Any]]:
    """Where the lamps of the building sit: emitter shape, size and places, per fixture."""
    length, depth = furniture.PENDANT_SIZE
    down = [0.0, 0.0, -1.0]
    return [
        {"name": "Bench pendants", "shape": "rectangle", "width": length, "height": depth,
         "kelvin": 3000, "lumen": 2400,
         "places": [{"position": [x, y, z + 0.03], "direction": down}
                    for x, y, z in furniture.PENDANTS]},
        {"name": "Shelf lights", "shape": "rectangle", "width": 1.2, "height": 0.03,
         "kelvin": 2700, "lumen": 650,
         "places": [{"position": [x, y, z], "direction": [0.0, 0.35, -1.0]}
                    for x, y, z in furniture.SHELF_LIGHTS]},
        {"name": "Quay lanterns", "shape": "sphere", "radius": 0.075, "kelvin": 2400, "lumen": 900,
         "places": [{"position": list(p), "direction": down} for p in quay.LANTERNS]},
        {"name": "South bulkheads", "shape": "disc", "radius": 0.07, "kelvin": 2700, "lumen": 700,
         "places": [{"position": [x, y + 0.02, z - 0.06], "direction": down}
                    for x, y, z in quay.BULKHEADS]},
        {"name": "Gallery spots", "shape": "photometric", "file": "Wide spot 42°",
         "kelvin": 3000, "lumen": 620,
         "places": [{"position": [x, y, z - 0.065],
                     "direction": [a - x, b - y, c - z + 0.065]}
                    for (x, y, z), (a, b, c) in gallery.SPOTS]},
        {"name": "Wall washers outside", "shape": "photometric", "file": "Wide spot 42°",
         "kelvin": 2700, "lumen": 700,
         "places": [{"position": [p[0], p[1], p[2] - 0.11], "direction": d} for p, d in yard.WASHERS]},
        {"name": "Kiln yard floodlight", "shape": "photometric", "file": "Yard floodlight",
         "kelvin": 3000, "lumen": 2600,
         "places": [{"position": list(yard.FLOOD), "direction": down}]},
        {"name": "Desk lamp", "shape": "photometric", "file": "Desk lamp shade", "kelvin": 2700, "lumen": 430,
         "places": [{"position": [props.DESK_LAMP[0], props.DESK_LAMP[1], props.DESK_LAMP[2] + 0.03],
                     "direction": down}]},
        {"name": "Kiln roof lamps", "shape": "sphere", "radius": 0.035, "kelvin": 2200, "lumen": 800,
         "places": [{"position": [x, y, z + 0.015], "direction": down} for x, y, z in yard.ROOF_LAMPS]},
        {"name": "Lamp posts", "shape": "sphere", "radius": 0.12, "kelvin": 2200, "lumen": 2200,
         "places": [{"position": list(p), "direction": down} for p in quay.POST_LAMPS]},
    ]  # fmt: skip


def pieces() -> list[Piece]:
    """Every part of the place."""
    modules = (workshop, furniture, props, gallery, quay, yard, houses, trees)
    return [piece for m in modules for piece in m.pieces()]


def build(folder: Path) -> Path:
    """Write the model and the list of its fixtures; returns the model's path."""
    folder.mkdir(parents=True, exist_ok=True)
    writer = GlbWriter()
    for piece in pieces():
        writer.add(piece)
    target = folder / "saltmarsh.glb"
    writer.save(target)
    write_obj(yard.boat_shed(), folder / "boat_shed.obj")
    luminaires.write_shelf(folder / "photometry")
    tables.write_tables(folder / "tables")
    backdrops.write_backdrops(folder / "backdrops")
    skies.write_skies(folder / "skies")
    (folder / "saltmarsh.json").write_text(json.dumps({"fixtures": fixtures()}, indent=1))
    return target


if __name__ == "__main__":
    print(build(Path(sys.argv[1])))
