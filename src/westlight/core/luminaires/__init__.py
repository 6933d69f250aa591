"""Luminaires: how lamps spread their light, and the files that say so."""

from .distribution import IntensityDistribution, narrowed, spot
from .eulumdat import parse_eulumdat
from .lm63 import parse_lm63, write_lm63
from .read import read_photometric

__all__ = [
    "IntensityDistribution",
    "narrowed",
    "parse_eulumdat",
    "parse_lm63",
    "read_photometric",
    "spot",
    "write_lm63",
]
