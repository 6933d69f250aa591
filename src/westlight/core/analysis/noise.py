"""What would calm a noisy source, in the artist's words."""

from __future__ import annotations

from typing import Literal


def remedy(
    name: str,
    kind: Literal["sky", "sun", "lamp"],
    direct: float,
    bounced: float,
    through_openings: bool,
) -> str:
    """Cure for a source by its direct and bounced noise (relative to one mean).

    >>> remedy("Clear sky", "sky", 0.3, 0.1, False)
    'Clear sky is noisy where it falls in directly: draw it through the openings (Daylight).'
    """
    if bounced > direct:
        return f"{name} is noisy where it has bounced: that clears with time, or lower its level."
    if kind == "sky" and through_openings:
        return f"{name} is noisiest where it falls in through gaps without glass: time clears that."
    if kind == "sky":
        return (
            f"{name} is noisy where it falls in directly: draw it through the openings (Daylight)."
        )
    if kind == "sun":
        return f"{name} is noisy along the edges of its patches: that clears with time."
    return f"{name} is noisy close to its lamps: a larger or more distant emitter is calmer."
