"""Skies: the clear sky of a sun position, and the CIE standard skies, and pictures of skies."""

from .altered import altered
from .cie import cie_sky
from .clear import clear_sky, clear_sky_above_sun, sun_irradiance
from .dome import Sky
from .graded import graded_sky
from .hdri import Hdri, Lobe
from .portrait import portrait

__all__ = [
    "Hdri",
    "Lobe",
    "Sky",
    "altered",
    "cie_sky",
    "clear_sky",
    "clear_sky_above_sun",
    "graded_sky",
    "portrait",
    "sun_irradiance",
]
