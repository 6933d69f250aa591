"""Photometric quantities of cameras and lamps: exposure value, stops, lumen, luminance.

Follows ISO 12232 (saturation-based speed) and the definitions of CIE S 017 (vocabulary).
"""

from __future__ import annotations

import math

#: ISO 12232 lens and geometry factor: share of scene light that reaches the sensor plane.
LENS_FACTOR = 0.65


def ev100(f_number: float, shutter_s: float, iso: float) -> float:
    """Exposure value of camera settings, referred to ISO 100, in stops.

    ``f_number`` without unit, ``shutter_s`` in seconds, ``iso`` arithmetic film speed.
    EV100 = log2(N²/t) − log2(S/100). Raises ``ValueError`` unless all are positive.

    >>> round(ev100(16, 1 / 125, 100), 2)
    14.97
    """
    if min(f_number, shutter_s, iso) <= 0:
        raise ValueError("f-number, shutter and ISO must be greater than zero.")
    return math.log2(f_number**2 / shutter_s) - math.log2(iso / 100.0)


def shutter_for_ev(ev: float, f_number: float, iso: float) -> float:
    """Shutter time in seconds that gives the exposure value ``ev`` (ISO 100, stops).

    >>> round(1 / shutter_for_ev(14.97, 16, 100))
    125
    """
    return f_number**2 / 2.0 ** (ev + math.log2(iso / 100.0))


def saturation_luminance(ev: float) -> float:
    """Luminance in cd/m² that just saturates the sensor at the exposure value ``ev`` (ISO 100).

    Lmax = 78·N²/(q·S·t) with q = 0.65, so 1.2·2^EV (ISO 12232).

    >>> round(saturation_luminance(0.0), 3)
    1.2
    """
    return 78.0 / (100.0 * LENS_FACTOR) * 2.0**ev


def stops_to_factor(stops: float) -> float:
    """Linear factor of a level in stops: +1 doubles.

    >>> stops_to_factor(-1)
    0.5
    """
    return 2.0**stops


def factor_to_stops(factor: float) -> float:
    """Level in stops of a positive linear factor. Raises ``ValueError`` at or below zero."""
    if factor <= 0:
        raise ValueError("Only a positive amount can be given in stops.")
    return math.log2(factor)


def lambertian_luminance(flux_lm: float, area_m2: float) -> float:
    """Luminance in cd/m² of a one-sided diffuse emitter of ``flux_lm`` lumen on ``area_m2``.

    L = Φ/(π·A), because a Lambertian surface sends π·L lumen from each square metre.

    >>> round(lambertian_luminance(math.pi, 1.0), 6)
    1.0
    """
    if area_m2 <= 0:
        raise ValueError("An emitter needs an area greater than zero.")
    return flux_lm / (math.pi * area_m2)


def watts_to_lumen(watts: float, efficacy_lm_per_w: float) -> float:
    """Luminous flux in lumen of a lamp of ``watts`` at an efficacy in lm/W."""
    return watts * efficacy_lm_per_w
