"""Finish: from contributions to the picture on the screen. Nothing here traces light."""

from .backdrop import Backdrop, backdrop_of
from .develop import DepthHaze, Finish, Lens, Occlusion, develop, developed, developed_exactly
from .glow import Glare, with_glare
from .grade import Curve, Grade, baked, burning_light, develop_colour
from .lut import CubeError, parse_cube, read_cube
from .meter import around, metered_ev, stops_from_middle_grey
from .mix import Mixture, block_mean, mix
from .overlay import (
    Band,
    NoiseBand,
    beyond_srgb,
    legend,
    luminance_colours,
    marked,
    noise_colours,
    noise_legend,
    outlined,
    striped,
)
from .parts import PartGrade, coverage_of
from .response import Response, response, stops_histogram
from .show import Shown, show
from .start import starting_curve, starting_grade

__all__ = [
    "Backdrop",
    "Band",
    "CubeError",
    "Curve",
    "DepthHaze",
    "Finish",
    "Glare",
    "Grade",
    "Lens",
    "Mixture",
    "NoiseBand",
    "Occlusion",
    "PartGrade",
    "Response",
    "Shown",
    "around",
    "backdrop_of",
    "baked",
    "beyond_srgb",
    "block_mean",
    "burning_light",
    "coverage_of",
    "develop",
    "develop_colour",
    "developed",
    "developed_exactly",
    "legend",
    "luminance_colours",
    "marked",
    "metered_ev",
    "mix",
    "noise_colours",
    "noise_legend",
    "outlined",
    "parse_cube",
    "read_cube",
    "response",
    "show",
    "starting_curve",
    "starting_grade",
    "stops_from_middle_grey",
    "stops_histogram",
    "striped",
    "with_glare",
]  # fmt: skip
