"""Skies: the clear sky of a sun position, and the CIE standard skies."""

from .cie import cie_sky
from .clear import clear_sky, sun_irradiance
from .dome import Sky

__all__ = ["Sky", "cie_sky", "clear_sky", "sun_irradiance"]
