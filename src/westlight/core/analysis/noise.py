"""What would calm a noisy source, in the artist's words, and what can be done at once."""

from __future__ import annotations

from typing import Literal

#: A change that calms it: draw the sky through its openings, or keep bounced light on surfaces.
Cure = Literal["openings", "kept", "none"]


def remedy(
    name: str,
    kind: Literal["sky", "sun", "lamp"],
    direct: float,
    bounced: float,
    through_openings: bool,
    kept: bool,
) -> tuple[str, Cure]:
    """Cure for a source by its direct and bounced noise (relative to one mean), and what does it.

    ``through_openings`` and ``kept`` tell what is done already.

    >>> remedy("Clear sky", "sky", 0.3, 0.1, False, True)[1]
    'openings'
    """
    if bounced > direct and not kept:
        return (f"{name} is noisy where it has bounced: kept on surfaces, that clears several times "
                "sooner.", "kept")  # fmt: skip
    if bounced > direct:
        return (
            f"{name} is noisy where it has bounced: that clears with time, or lower its level.",
            "none",
        )
    if kind == "sky" and through_openings:
        return (f"{name} is noisiest where it falls in through gaps without glass: time clears that.",
                "none")  # fmt: skip
    if kind == "sky":
        return (
            f"{name} is noisy where it falls in directly: draw it through the openings.",
            "openings",
        )
    if kind == "sun":
        return f"{name} is noisy along the edges of its patches: that clears with time.", "none"
    return (f"{name} is noisy close to its lamps: a larger or more distant emitter is calmer.",
            "none")  # fmt: skip
