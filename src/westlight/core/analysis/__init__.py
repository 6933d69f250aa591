"""Reading a scene without rendering it: plan cuts and the like."""

from .aim import Aim, Spell, aim, hinge_of, nearest, opening_under, spells, sun_by
from .as_shown import Brushed, Screen
from .balance import USUAL_RATIOS, Balance, suggested_balance
from .doorways import find_doorways, places_in_rooms, same_hole
from .doubts import Leaks, close_surface, find_leaks, view_doubt, way_out
from .landing import NEAR_BODY_M, Fit, Snap, carried, closed, fitted, snapped
from .lit_wall import lit_wall
from .meter import Reading, read_spot
from .noise import Cure, remedy
from .openings import doubt_of, find_openings, portal_between, side_of
from .pattern import PatternMap, pattern_map, sun_grid, sun_on
from .plan import Cutter, Plan, cut_plan
from .portal_gain import PortalGain, portal_gain
from .spread import PLANE_M, USUAL_UTILISATION, Room, columns_and_rows, count_for, room_around
from .standpoint import Standpoint, standpoints
from .starts import starting_suns

__all__ = [
    "NEAR_BODY_M",
    "PLANE_M",
    "USUAL_RATIOS",
    "USUAL_UTILISATION",
    "Aim",
    "Balance",
    "Brushed",
    "Cure",
    "Cutter",
    "Fit",
    "Leaks",
    "PatternMap",
    "Plan",
    "PortalGain",
    "Reading",
    "Room",
    "Screen",
    "Snap",
    "Spell",
    "Standpoint",
    "aim",
    "carried",
    "close_surface",
    "closed",
    "columns_and_rows",
    "count_for",
    "cut_plan",
    "doubt_of",
    "find_doorways",
    "find_leaks",
    "find_openings",
    "fitted",
    "hinge_of",
    "lit_wall",
    "nearest",
    "opening_under",
    "pattern_map",
    "places_in_rooms",
    "portal_between",
    "portal_gain",
    "read_spot",
    "remedy",
    "room_around",
    "same_hole",
    "side_of",
    "snapped",
    "spells",
    "standpoints",
    "starting_suns",
    "suggested_balance",
    "sun_by",
    "sun_grid",
    "sun_on",
    "view_doubt",
    "way_out",
]  # fmt: skip
