"""A white hall at night under forty spots, half of them washing a wall."""

from __future__ import annotations

from westlight.core.model import Material, Model

from . import METERED, Room, lamp
from .shapes import CONCRETE, PLASTER, box, shell, wall

RED = Material((0.5, 0.12, 0.1), roughness=0.7, name="red panel")


def room() -> Room:
    """8 × 10 × 3.2 m with two plinths and a red panel."""
    parts = [
        *shell(8.0, 10.0, 3.2, CONCRETE),
        *wall("left", (-0.3, 0.0, 0.0), (0.0, 10.0, 3.2), [], PLASTER),
        *wall("right", (8.0, 0.0, 0.0), (8.3, 10.0, 3.2), [], PLASTER),
        *wall("far", (-0.3, 10.0, 0.0), (8.3, 10.3, 3.2), [], PLASTER),
        *wall("near", (-0.3, -0.3, 0.0), (8.3, 0.0, 3.2), [], PLASTER),
        box("plinth 1", (2.0, 5.0, 0.0), (2.5, 5.5, 1.1), PLASTER),
        box("plinth 2", (4.6, 6.4, 0.0), (5.1, 6.9, 0.8), PLASTER),
        box("panel", (3.0, 9.94, 0.8), (4.6, 10.0, 2.2), RED),
    ]
    wash = [{"position": [1.0, 0.5 + i * 0.48, 3.15], "direction": [-0.55, 0.0, -1.0]}
            for i in range(20)]  # fmt: skip
    grid = [{"position": [2.4 + 1.1 * i, 1.2 + 2.1 * j, 3.15]} for i in range(5) for j in range(4)]
    look = {
        "view": {"position": [6.8, 0.6, 1.55], "target": [2.6, 10.0, 1.4], "focal_length_mm": 22},
        "exposure": {**METERED, "compensation": -0.3},
        "sources": [
            lamp("wash", "spot", wash, beam_deg=28, field_deg=50, radius=0.03, lumen=700),
            lamp("grid", "spot", grid, beam_deg=22, field_deg=40, radius=0.03, lumen=600),
        ],
    }
    return Room("Night under forty spots", Model(parts), look, ((0.52, 0.36, 0.62, 0.55),))
