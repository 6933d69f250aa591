"""Finish: from contributions to the picture on the screen. Nothing here traces light."""

from .develop import DepthHaze, Finish, Lens, Occlusion, develop, developed, developed_exactly
from .glow import Glare, with_glare
from .grade import Curve, Grade, baked, burning_light, develop_colour
from .lut import CubeError, parse_cube, read_cube
from .meter import metered_ev, stops_from_middle_grey
from .mix import Mixture, block_mean, mix
from .overlay import Band, legend, luminance_colours, outlined, striped
from .show import Shown, show
from .start import starting_grade

__all__ = [
    "Band",
    "CubeError",
    "Curve",
    "DepthHaze",
    "Finish",
    "Glare",
    "Grade",
    "Lens",
    "Mixture",
    "Occlusion",
    "Shown",
    "baked",
    "block_mean",
    "burning_light",
    "develop",
    "develop_colour",
    "developed",
    "developed_exactly",
    "legend",
    "luminance_colours",
    "metered_ev",
    "mix",
    "outlined",
    "parse_cube",
    "read_cube",
    "show",
    "starting_grade",
    "stops_from_middle_grey",
    "striped",
    "with_glare",
]  # fmt: skip
