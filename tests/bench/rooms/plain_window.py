"""A plain white room with one window, lit by an even grey sky's light alone: nothing hides an uneven wall."""

from __future__ import annotations

from westlight.core.model import Model

from . import METERED, Room, sky
from .shapes import PLASTER, shell, wall, window


def room() -> Room:
    """4 × 5 × 2.7 m, the window in the left wall."""
    parts = [
        *shell(4.0, 5.0, 2.7),
        *wall("left", (-0.3, 0.0, 0.0), (0.0, 5.0, 2.7), [(1.6, 3.2, 0.9, 2.3)], PLASTER),
        *window("window", (-0.2, 1.6, 0.9), (-0.14, 3.2, 2.3)),
        *wall("right", (4.0, 0.0, 0.0), (4.3, 5.0, 2.7), [], PLASTER),
        *wall("back", (-0.3, 5.0, 0.0), (4.3, 5.3, 2.7), [], PLASTER),
        *wall("front", (-0.3, -0.3, 0.0), (4.3, 0.0, 2.7), [], PLASTER),
    ]
    look = {
        "view": {"position": [3.4, 0.4, 1.5], "target": [1.2, 4.6, 1.3], "focal_length_mm": 22},
        "exposure": {**METERED, "compensation": 0.8},
        "sources": [sky(35.0, 120.0)],
    }
    return Room("Plain white room, one window", Model(parts), look, ((0.5, 0.25, 0.7, 0.6),))
