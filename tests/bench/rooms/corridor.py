"""A deep corridor lit from its far end: all that is seen near by has bounced several times."""

from __future__ import annotations

from westlight.core.model import Model

from . import METERED, Room, sky, sun
from .shapes import CONCRETE, PLASTER, box, shell, wall, window


def room() -> Room:
    """2 × 14 × 2.6 m with a door's recess on one side."""
    parts = [
        *shell(2.0, 14.0, 2.6, CONCRETE),
        *wall("left", (-0.3, 0.0, 0.0), (0.0, 14.0, 2.6), [], PLASTER),
        *wall("right", (2.0, 0.0, 0.0), (2.3, 14.0, 2.6), [(6.0, 7.0, 0.0, 2.1)], PLASTER),
        box("recess", (2.3, 5.8, -0.1), (2.4, 7.2, 2.3), PLASTER),
        *wall("end", (-0.3, 14.0, 0.0), (2.3, 14.3, 2.6), [(0.3, 1.7, 0.1, 2.3)], PLASTER),
        *window("door", (0.3, 14.1, 0.1), (1.7, 14.16, 2.3), 2),
        *wall("start", (-0.3, -0.3, 0.0), (2.3, 0.0, 2.6), [], PLASTER),
    ]
    look = {
        "view": {"position": [1.2, 0.4, 1.5], "target": [0.9, 14.0, 1.25], "focal_length_mm": 24},
        "exposure": {**METERED, "compensation": 0.7},
        "sources": [sun(30.0, 15.0), sky(30.0, 15.0)],
    }
    return Room("Deep corridor lit from its end", Model(parts), look, ((0.05, 0.3, 0.2, 0.6),))
