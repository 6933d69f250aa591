"""Curtains drawn before a window but for a gap: daylight comes through it and around the cloth."""

from __future__ import annotations

import math

from westlight.core.model import Material, Mesh, Model, Part
from westlight.core.model.cloths import CLOTHS

from . import METERED, Room, sky, sun
from .shapes import PLASTER, box, shell, wall, window


def _curtain(name: str, x0: float, x1: float, y: float) -> Part:
    """Cloth from ceiling to floor in folds of 6 cm depth."""
    kind = CLOTHS["curtain"]
    share = kind.reflectance
    cloth = Material(
        share, translucency=kind.translucency, through=share, openness=kind.openness, name="cloth"
    )
    count = round((x1 - x0) / 0.02)
    points, faces = [], []
    for i in range(count + 1):
        x = x0 + (x1 - x0) * i / count
        at = y + 0.03 * math.sin(2 * math.pi * x / 0.17)
        points += [[x, at, 0.02], [x, at, 2.65]]
        if i < count:
            a = 2 * i
            faces += [[a, a + 2, a + 3], [a, a + 3, a + 1]]
    return Part(name, Mesh.single(name, points, faces, cloth))


def room() -> Room:
    """4.5 × 5 × 2.7 m, the window nearly as wide as its wall."""
    parts = [
        *shell(4.5, 5.0, 2.7),
        *wall("far", (-0.3, 5.0, 0.0), (4.8, 5.3, 2.7), [(0.6, 3.9, 0.3, 2.4)], PLASTER),
        *window("window", (0.6, 5.1, 0.3), (3.9, 5.16, 2.4), 3),
        *wall("left", (-0.3, 0.0, 0.0), (0.0, 5.0, 2.7), [], PLASTER),
        *wall("right", (4.5, 0.0, 0.0), (4.8, 5.0, 2.7), [], PLASTER),
        *wall("near", (-0.3, -0.3, 0.0), (4.8, 0.0, 2.7), [], PLASTER),
        _curtain("curtain left", 0.3, 2.0, 4.85),
        _curtain("curtain right", 2.6, 4.2, 4.85),
        box("bench", (0.4, 2.6, 0.0), (1.6, 3.3, 0.42), PLASTER),
    ]
    look = {
        "view": {"position": [3.6, 0.5, 1.45], "target": [1.7, 5.0, 1.3], "focal_length_mm": 22},
        "exposure": METERED,
        "sources": [sun(28.0, 20.0), sky(28.0, 20.0)],
    }
    return Room("Curtains before a window", Model(parts), look, ((0.03, 0.3, 0.14, 0.55),))
