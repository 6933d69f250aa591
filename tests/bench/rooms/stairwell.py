"""A stairwell under a skylight: light falls past edges, and grows dim from storey to storey."""

from __future__ import annotations

from westlight.core.model import Model, Part

from . import METERED, Room, sky, sun
from .shapes import CONCRETE, FLOOR, GLASS, PLASTER, STEEL, box, sheet, wall


def _flight(x: float, y0: float, z0: float, way: int) -> list[Part]:
    """Nine steps of 18 × 27 cm along y, up or down by ``way``."""
    made = []
    for i in range(9):
        y, z = y0 + way * 0.27 * i, z0 + 0.18 * (i + 1)
        a, b = sorted((y, y + way * 0.27))
        made.append(box(f"step {x}.{z0}.{i}", (x, a, z - 0.22), (x + 1.1, b, z), FLOOR))
    return made


def room() -> Room:
    """2.6 × 4.6 × 7 m, open to the sky through a skylight of 1.6 × 3 m."""
    parts = [
        box("floor", (-0.3, -0.3, -0.25), (2.9, 4.9, 0.0), CONCRETE),
        *wall("left", (-0.3, -0.3, 0.0), (0.0, 4.9, 7.0), [], PLASTER),
        *wall("right", (2.6, -0.3, 0.0), (2.9, 4.9, 7.0), [], PLASTER),
        *wall("far", (0.0, 4.6, 0.0), (2.6, 4.9, 7.0), [], PLASTER),
        *wall("near", (0.0, -0.3, 0.0), (2.6, 0.0, 7.0), [], PLASTER),
        *(box(f"roof {i}", p, q, PLASTER) for i, (p, q) in enumerate((
            ((-0.3, -0.3, 7.0), (2.9, 0.8, 7.25)), ((-0.3, 3.8, 7.0), (2.9, 4.9, 7.25)),
            ((-0.3, 0.8, 7.0), (0.5, 3.8, 7.25)), ((2.1, 0.8, 7.0), (2.9, 3.8, 7.25))))),
        sheet("skylight", [(0.5, 0.8, 7.2), (2.1, 0.8, 7.2), (2.1, 3.8, 7.2), (0.5, 3.8, 7.2)], GLASS),
        *_flight(0.0, 1.0, 0.0, 1), *_flight(1.5, 3.43, 1.62, -1), *_flight(0.0, 1.0, 3.24, 1),
        box("landing 1", (0.0, 3.43, 1.5), (2.6, 4.6, 1.62), CONCRETE),
        box("landing 2", (0.0, 0.0, 3.12), (2.6, 1.0, 3.24), CONCRETE),
        box("landing 3", (0.0, 3.43, 4.74), (2.6, 4.6, 4.86), CONCRETE),
        *(box(f"rail {z}", (1.18, 1.0, z), (1.22, 3.43, z + 0.05), STEEL) for z in (2.6, 4.2, 5.8)),
    ]  # fmt: skip
    look = {
        "view": {"position": [2.2, 0.35, 1.6], "target": [0.6, 4.6, 2.4], "focal_length_mm": 18, "upright": False},
        "exposure": METERED,
        "sources": [sun(58.0, 200.0), sky(58.0, 200.0)],
    }  # fmt: skip
    return Room("Stairwell under a skylight", Model(parts), look, ((0.05, 0.5, 0.12, 0.75),))
