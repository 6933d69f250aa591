"""A glass front at dusk: lit rooms behind panes that mirror the sky, a wet forecourt before them."""

from __future__ import annotations

from westlight.core.model import Material, Model

from . import METERED, Room, lamp, sky
from .shapes import CONCRETE, FLOOR, PLASTER, box, wall, window

WET = Material(0.12, roughness=0.16, name="wet paving")


def room() -> Room:
    """Two storeys of 9 × 5 × 6 m, glazed from floor to ceiling on one side."""
    holes = [(0.2, 8.8, 0.1, 2.7), (0.2, 8.8, 3.2, 5.8)]
    parts = [
        box("forecourt", (-20.0, -25.0, -0.3), (30.0, 0.0, 0.0), WET),
        box("land", (-60.0, 0.0, -0.3), (70.0, 60.0, -0.01), CONCRETE),
        *wall("front", (0.0, 0.0, 0.0), (9.0, 0.2, 6.0), holes, CONCRETE),
        *(p for i, (a, b, c, d) in enumerate(holes)
          for p in window(f"glazing {i}", (a, 0.06, c), (b, 0.12, d), 6)),
        box("floor", (0.2, 0.2, 0.0), (8.8, 5.0, 0.05), FLOOR),
        box("storey", (0.2, 0.2, 2.75), (8.8, 5.0, 3.1), PLASTER),
        box("roof", (-0.2, -0.2, 5.85), (9.2, 5.4, 6.2), PLASTER),
        *wall("back", (0.0, 5.0, 0.0), (9.0, 5.2, 6.0), [], PLASTER),
        *wall("left", (0.0, 0.2, 0.0), (0.2, 5.0, 6.0), [], PLASTER),
        *wall("right", (8.8, 0.2, 0.0), (9.0, 5.0, 6.0), [], PLASTER),
        *(box(f"table {i}", (x, 2.0, 0.7), (x + 1.6, 2.8, 0.75), FLOOR) for i, x in enumerate((1.5, 5.2))),
    ]  # fmt: skip
    discs = [{"position": [1.2 + 1.65 * i, 2.4, z]} for i in range(5) for z in (2.7, 5.8)]
    balls = [{"position": [2.3 + 3.7 * i, 2.4, 1.7]} for i in range(2)]
    look = {
        "view": {"position": [12.5, -9.5, 1.6], "target": [4.6, 0.0, 2.7], "focal_length_mm": 26},
        "exposure": METERED,
        "sources": [
            sky(-3.0, 250.0),
            lamp("ceiling", "disc", discs, radius=0.12, lumen=900, kelvin=3000),
            lamp("pendants", "sphere", balls, radius=0.18, lumen=800, kelvin=2700),
        ],
    }
    return Room("Glass front at dusk", Model(parts), look, ((0.02, 0.05, 0.2, 0.2),))
