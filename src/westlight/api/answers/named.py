"""What rows have in common."""

from __future__ import annotations

from westlight.engine.questions import Answer

Point = tuple[float, float, float]
Track = list[tuple[float, float]]


class Named(Answer):
    """A row by id and name."""

    id: str
    name: str
