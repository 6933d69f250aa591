"""What would calm a noisy source, in the artist's words."""

from __future__ import annotations


def remedy(name: str, is_sky: bool, direct: float, bounced: float, through_openings: bool) -> str:
    """Cure for a source by its direct and bounced noise (relative to one mean).

    >>> remedy("Clear sky", True, 0.3, 0.1, False)
    'Clear sky is noisy where it falls in directly: draw it through the openings (Daylight).'
    """
    if bounced > direct:
        return f"{name} is noisy where it has bounced: that clears with time, or lower its level."
    if is_sky and through_openings:
        return f"{name} is noisiest where it falls in through gaps without glass: time clears that."
    if is_sky:
        return (
            f"{name} is noisy where it falls in directly: draw it through the openings (Daylight)."
        )
    return f"{name} is noisy close to its lamps: a larger or more distant emitter is calmer."
