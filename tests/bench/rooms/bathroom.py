"""A white bathroom: mirror, glossy tiles with joints, a basin, a small window and a strip over the mirror."""

from __future__ import annotations

from westlight.core.model import Material, Model, Part

from . import METERED, Room, lamp, sky
from .shapes import PLASTER, box, sheet, shell, wall, window

TILE = Material(0.85, roughness=0.12, name="tile")
JOINT = Material(0.55, roughness=0.9, name="joint")
MIRROR = Material(0.93, roughness=0.02, metallic=1.0, name="mirror")
CHROME = Material(0.6, roughness=0.08, metallic=1.0, name="chrome")
DARK = Material(0.1, roughness=0.15, name="floor tile")


def _tiles() -> list[Part]:
    """Tiles of 30 × 20 cm up to 2 m on the far wall, proud of their joints by 3 mm."""
    return [
        box(f"tile {i}.{j}", (i * 0.3 + 0.002, 3.0 - 0.013, j * 0.2 + 0.002),
            (i * 0.3 + 0.298, 3.0 - 0.01, j * 0.2 + 0.198), TILE)
        for i in range(8) for j in range(10)
    ]  # fmt: skip


def room() -> Room:
    """2.4 × 3 × 2.5 m."""
    parts = [
        *shell(2.4, 3.0, 2.5, DARK),
        *wall("far", (-0.3, 3.0, 0.0), (2.7, 3.3, 2.5), [], PLASTER),
        box("joints", (0.0, 2.99, 0.0), (2.4, 3.0, 2.0), JOINT),
        *_tiles(),
        *wall("left", (-0.3, 0.0, 0.0), (0.0, 3.0, 2.5), [], PLASTER),
        *wall("right", (2.4, 0.0, 0.0), (2.7, 3.0, 2.5), [(1.2, 1.9, 1.2, 2.1)], PLASTER),
        *window("window", (2.5, 1.2, 1.2), (2.56, 1.9, 2.1)),
        *wall("near", (-0.3, -0.3, 0.0), (2.7, 0.0, 2.5), [], PLASTER),
        sheet("mirror", [(0.012, 2.5, 1.05), (0.012, 1.1, 1.05), (0.012, 1.1, 2.0), (0.012, 2.5, 2.0)],
              MIRROR),
        box("basin", (0.0, 1.4, 0.75), (0.48, 2.2, 0.9), TILE),
        box("tap", (0.06, 1.78, 0.9), (0.2, 1.82, 1.05), CHROME),
        box("bath", (1.6, 0.4, 0.0), (2.4, 2.9, 0.55), TILE),
    ]  # fmt: skip
    strip = {"position": [0.07, 1.8, 2.08], "direction": [0.4, 0.0, -1.0]}
    look = {
        "view": {"position": [2.1, 0.25, 1.55], "target": [0.6, 3.0, 1.2], "focal_length_mm": 20},
        "exposure": {**METERED, "compensation": 0.8},
        "sources": [
            sky(40.0, 90.0),
            lamp("strip", "rectangle", [strip], width=1.3, height=0.03, lumen=1400, kelvin=3000),
        ],
    }
    return Room(
        "White bathroom with mirror and tiles", Model(parts), look, ((0.4, 0.02, 0.6, 0.14),)
    )
