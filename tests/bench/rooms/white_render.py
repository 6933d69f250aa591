"""A white rendered house under a low sun, with trees that throw their shade on it."""

from __future__ import annotations

from westlight.core.model import Material, Model

from . import METERED, Room, sky, sun
from .shapes import PLASTER, box, wall, window

GRASS = Material((0.10, 0.16, 0.05), name="grass")
PAVING = Material(0.3, roughness=0.85, name="paving")


def _tree(number: int, x: float, y: float) -> dict[str, object]:
    return {"id": f"tree{number}", "name": f"Tree {number}", "kind": "tree", "position": [x, y, 0.0],
            "size_m": [4.0, 4.0, 6.5], "colour": "#4d6b2f"}  # fmt: skip


def room() -> Room:
    """A house of 10 × 6 × 5.5 m with four windows and a door."""
    holes = [(1.0, 2.4, 0.9, 2.2), (7.4, 8.8, 0.9, 2.2), (1.0, 2.4, 3.4, 4.7), (7.4, 8.8, 3.4, 4.7),
             (4.4, 5.6, 0.0, 2.3)]  # fmt: skip
    parts = [
        box("grass", (-40.0, -40.0, -0.3), (50.0, 50.0, -0.02), GRASS),
        box("terrace", (-1.0, -4.0, -0.2), (11.0, 0.0, 0.0), PAVING),
        *wall("front", (0.0, 0.0, 0.0), (10.0, 0.35, 5.5), holes, PLASTER),
        *(p for i, (a, b, c, d) in enumerate(holes)
          for p in window(f"window {i}", (a, 0.2, c), (b, 0.26, d), 2)),
        *wall("back", (0.0, 5.65, 0.0), (10.0, 6.0, 5.5), [], PLASTER),
        *wall("left", (0.0, 0.35, 0.0), (0.35, 5.65, 5.5), [], PLASTER),
        *wall("right", (9.65, 0.35, 0.0), (10.0, 5.65, 5.5), [], PLASTER),
        box("storey", (0.35, 0.35, 2.7), (9.65, 5.65, 2.95), PLASTER),
        box("roof", (-0.4, -0.4, 5.5), (10.4, 6.4, 5.8), Material(0.2, name="roof")),
    ]  # fmt: skip
    look = {
        "model": {"edits": {"additions": [_tree(1, -2.5, -5.0), _tree(2, 12.5, -3.0), _tree(3, -5.0, 4.0)]}},
        "view": {"position": [9.5, -11.0, 1.6], "target": [4.4, 0.0, 2.6], "focal_length_mm": 26},
        "exposure": METERED,
        "sources": [sun(14.0, 215.0), sky(14.0, 215.0)],
    }  # fmt: skip
    return Room("White render, low sun, trees", Model(parts), look, ((0.42, 0.42, 0.5, 0.5),))
