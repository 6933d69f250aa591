"""What dimming does to the colour of a lamp."""

from __future__ import annotations

#: Exponents of the flux and of the colour temperature of an incandescent lamp over its voltage
#: (IES, The Lighting Handbook, 10th edition, 7.2: flux ∝ V^3.4, colour temperature ∝ V^0.42).
_FLUX, _COLOUR = 3.4, 0.42
#: Kelvin below which no filament is seen to glow.
COLDEST_K = 1200.0


def dimmed_kelvin(kelvin: float, stops: float) -> float:
    """Colour temperature in kelvin of a lamp that is dimmed by stops (below 0) like a filament; raised it keeps its own.

    >>> round(dimmed_kelvin(2700, -3)), dimmed_kelvin(2700, 1)
    (2088, 2700)
    """
    if stops >= 0:
        return kelvin
    return max(kelvin * 2.0 ** (stops * _COLOUR / _FLUX), min(kelvin, COLDEST_K))
