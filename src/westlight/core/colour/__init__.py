"""Colour: the working space, kelvin, adaptation and display transforms."""

from .display import DisplayTransform, display_transform
from .spaces import (
    AP1_LUMINANCE,
    AP1_TO_SRGB,
    AP1_TO_XYZ,
    SRGB_TO_AP1,
    XYZ_TO_AP1,
    adaptation_matrix,
    luminance,
    srgb_decode,
    srgb_encode,
    srgb_to_working,
    swatch,
)
from .spectrum import colour_matching, planck_xy
from .temperature import kelvin_to_rgb, kelvin_to_xy, nearest_kelvin, white_balance_matrix, white_of

__all__ = [
    "AP1_LUMINANCE",
    "AP1_TO_SRGB",
    "AP1_TO_XYZ",
    "SRGB_TO_AP1",
    "XYZ_TO_AP1",
    "DisplayTransform",
    "adaptation_matrix",
    "colour_matching",
    "display_transform",
    "kelvin_to_rgb",
    "kelvin_to_xy",
    "luminance",
    "nearest_kelvin",
    "planck_xy",
    "srgb_decode",
    "srgb_encode",
    "srgb_to_working",
    "swatch",
    "white_balance_matrix",
    "white_of",
]
