"""Reading a scene without rendering it: plan cuts and the like."""

from .aim import Aim, Spell, aim, nearest, opening_under, spells
from .meter import Reading, read_spot
from .noise import remedy
from .openings import find_openings, portal_between
from .pattern import PatternMap, pattern_map, sun_grid, sun_on
from .plan import Cutter, Plan, cut_plan

__all__ = [
    "Aim", "Cutter", "PatternMap", "Plan", "Reading", "Spell", "aim", "cut_plan", "find_openings", "nearest",
    "opening_under", "pattern_map", "portal_between", "read_spot", "remedy", "spells", "sun_grid", "sun_on",
]  # fmt: skip
