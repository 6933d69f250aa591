"""A room as modellers send it: two windows, the back and the right wall left out, light only through openings."""

from __future__ import annotations

from westlight.core.model import Model

from . import METERED, Room, sky
from .shapes import PLASTER, shell, wall, window


def room() -> Room:
    """6 × 5 × 2.8 m; the camera stands where the back wall would be."""
    holes = [(1.0, 2.5, 0.9, 2.2), (3.5, 5.0, 0.9, 2.2)]
    parts = [
        *shell(6.0, 5.0, 2.8),
        *wall("far", (-0.3, 5.0, 0.0), (6.3, 5.3, 2.8), holes, PLASTER),
        *window("first", (1.0, 5.1, 0.9), (2.5, 5.16, 2.2)),
        *window("second", (3.5, 5.1, 0.9), (5.0, 5.16, 2.2)),
        *wall("left", (-0.3, 0.0, 0.0), (0.0, 5.0, 2.8), [], PLASTER),
    ]
    look = {
        "view": {"position": [4.6, 0.3, 1.55], "target": [2.6, 5.0, 1.35], "focal_length_mm": 22},
        "exposure": {**METERED, "compensation": 0.8},
        "closed": True,
        "sources": [sky(35.0, 200.0)],
    }
    return Room("Two windows, two walls missing", Model(parts), look, ((0.44, 0.32, 0.52, 0.6),))
