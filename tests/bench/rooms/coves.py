"""Coves and strips only: no lamp is seen, everything is lit by what a ceiling sends back."""

from __future__ import annotations

from typing import Any

from westlight.core.model import Model, Part

from . import METERED, Room, lamp
from .shapes import PLASTER, STEEL, box, shell, wall


def _shelf() -> list[Part]:
    """A niche in the far wall with two boards."""
    return [box(f"board {i}", (1.0, 4.72, z), (3.0, 5.0, z + 0.03), STEEL)
            for i, z in enumerate((0.9, 1.5))]  # fmt: skip


def _ring() -> list[Part]:
    """A lowered ceiling 60 cm wide all around, with a lip that hides the strips."""
    inner, outer = (0.6, 0.6, 4.4, 4.4), (0.0, 0.0, 5.0, 5.0)
    pieces = [
        ((outer[0], outer[1]), (outer[2], inner[1])), ((outer[0], inner[3]), (outer[2], outer[3])),
        ((outer[0], inner[1]), (inner[0], inner[3])), ((inner[2], inner[1]), (outer[2], inner[3])),
    ]  # fmt: skip
    return [box(f"cove {i}", (*p, 2.5), (*q, 2.56), PLASTER) for i, (p, q) in enumerate(pieces)]


def room() -> Room:
    """5 × 5 × 2.8 m without a window."""
    parts = [
        *shell(5.0, 5.0, 2.8),
        *(p for w, a, b in (("left", (-0.3, 0.0, 0.0), (0.0, 5.0, 2.8)),
                            ("right", (5.0, 0.0, 0.0), (5.3, 5.0, 2.8)),
                            ("near", (-0.3, -0.3, 0.0), (5.3, 0.0, 2.8)))
          for p in wall(w, a, b, [], PLASTER)),
        *wall("far", (-0.3, 5.0, 0.0), (5.3, 5.3, 2.8), [(1.0, 3.0, 0.6, 2.0)], PLASTER),
        box("niche", (0.9, 5.2, 0.5), (3.1, 5.3, 2.1), PLASTER),
        *_ring(), *_shelf(),
    ]  # fmt: skip
    strips: list[dict[str, Any]] = [
        {"position": [0.35, 2.5, 2.575], "direction": [0.5, 0.0, 1.0]},
        {"position": [4.65, 2.5, 2.575], "direction": [-0.5, 0.0, 1.0]},
        {"position": [2.5, 4.65, 2.575], "direction": [0.0, -0.5, 1.0]},
    ]
    boards = [{"position": [2.0, 4.9, z], "direction": [0.0, -0.3, -1.0]} for z in (1.49, 1.98)]
    look = {
        "view": {"position": [4.3, 0.4, 1.5], "target": [2.0, 5.0, 1.45], "focal_length_mm": 20},
        "exposure": METERED,
        "sources": [
            lamp("coves", "rectangle", strips, width=3.6, height=0.02, lumen=3600, kelvin=2700),
            lamp("shelf", "rectangle", boards, width=1.9, height=0.012, lumen=500, kelvin=3000),
        ],
    }
    return Room("Coves and strips only", Model(parts), look, ((0.62, 0.35, 0.78, 0.6),))
