"""Builds the second building: `python -m demo.lantern_row.build FOLDER` writes lantern_row.glb and lantern_row.json there."""

from __future__ import annotations

import json
import sys
from pathlib import Path
from typing import Any

from ..writer import GlbWriter, Piece
from . import living, shell, town, wet_rooms
from .surfaces import SURFACES, texture_files

NAME = "Lantern Row"


def fixtures() -> list[dict[str, Any]]:
    """Where the lamps sit: emitter shape, size and places, per fixture."""
    f, down, up = shell.FLOOR, [0.0, 0.0, -1.0], [0.0, 0.0, 1.0]
    a, b, c, d = 0.55, shell.ACROSS - 0.55, 0.55, shell.NICHE_WALL[2] - 0.55
    z = f + shell.LOWERED + 0.06
    px, py, pz = living.PENDANT
    fx, fy = living.FLOOR_LAMP
    sx, sy, sz = living.SIDE_LAMP
    kx0, kx1, ky, kz = wet_rooms.SHELF_STRIP
    mx0, mx1, _, mz1 = wet_rooms.MIRROR
    return [
        {"name": "Coves along the room", "shape": "rectangle", "width": b - a, "height": 0.014, "kelvin": 2700, "lumen": 1500,
         "places": [{"position": [(a + b) / 2, y, z], "direction": up} for y in (c - 0.05, d + 0.05)]},
        {"name": "Coves across the room", "shape": "rectangle", "width": 0.014, "height": d - c, "kelvin": 2700, "lumen": 1100,
         "places": [{"position": [x, (c + d) / 2, z], "direction": up} for x in (a - 0.05, b + 0.05)]},
        {"name": "Niche strips", "shape": "rectangle", "width": 0.5, "height": 0.01, "kelvin": 2700, "lumen": 140,
         "places": [{"position": [(x0 + x1) / 2, shell.NICHE_WALL[2] + 0.03, f + high - 0.006], "direction": [0.0, 0.35, -1.0]}
                    for x0, x1, _, high in shell.NICHES]},
        {"name": "Table pendant", "shape": "sphere", "radius": 0.045, "kelvin": 2500, "lumen": 900,
         "places": [{"position": [px, py, pz + 0.12], "direction": down}]},
        {"name": "Floor lamp", "shape": "sphere", "radius": 0.04, "kelvin": 2500, "lumen": 700,
         "places": [{"position": [fx, fy, f + 1.47], "direction": down}]},
        {"name": "Side lamp", "shape": "sphere", "radius": 0.03, "kelvin": 2400, "lumen": 350,
         "places": [{"position": [sx, sy, sz + 0.36], "direction": down}]},
        {"name": "Island lamps", "shape": "disc", "radius": 0.09, "kelvin": 2700, "lumen": 650,
         "places": [{"position": [x, y, w + 0.03], "direction": down} for x, y, w in wet_rooms.ISLAND_LAMPS]},
        {"name": "Shelf strip", "shape": "rectangle", "width": kx1 - kx0, "height": 0.012, "kelvin": 3000, "lumen": 900,
         "places": [{"position": [(kx0 + kx1) / 2, ky, kz], "direction": down}]},
        {"name": "Mirror strip", "shape": "rectangle", "width": mx1 - mx0, "height": 0.02, "kelvin": 3000, "lumen": 900,
         "places": [{"position": [(mx0 + mx1) / 2, shell.NORTH - 0.09, mz1 + 0.06], "direction": [0.0, -0.5, -1.0]}]},
        {"name": "Paper lanterns", "shape": "sphere", "radius": 0.05, "kelvin": 2100, "lumen": 320,
         "places": [{"position": [x, y, z - 0.32], "direction": down} for x, y, z in town.PAPER_LANTERNS]},
        {"name": "Candles", "shape": "sphere", "radius": 0.006, "kelvin": 1900, "lumen": 28,
         "places": [{"position": [px + dx, py + dy, f + 0.742 + size * living.FLAME], "direction": down} for dx, dy, size in living.STICKS]},
        {"name": "Street lamps", "shape": "sphere", "radius": 0.10, "kelvin": 2200, "lumen": 2600,
         "places": [{"position": [x, y, town.LAMP_HEAD + 0.1], "direction": down} for x, y in town.STREET_LAMPS]},
    ]  # fmt: skip


def pieces() -> list[Piece]:
    """Every part of the place."""
    return [piece for m in (shell, living, wet_rooms, town) for piece in m.pieces()]


def build(folder: Path) -> Path:
    """Write the model and the list of its fixtures; returns the model's path."""
    folder.mkdir(parents=True, exist_ok=True)
    writer = GlbWriter(NAME, SURFACES, texture_files)
    for piece in pieces():
        writer.add(piece)
    target = folder / "lantern_row.glb"
    writer.save(target)
    (folder / "lantern_row.json").write_text(json.dumps({"fixtures": fixtures()}, indent=1))
    return target


if __name__ == "__main__":
    print(build(Path(sys.argv[1])))
