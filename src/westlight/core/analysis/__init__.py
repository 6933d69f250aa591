"""Reading a scene without rendering it: plan cuts and the like."""

from .meter import Reading, read_spot
from .noise import remedy
from .openings import find_openings
from .plan import Plan, cut_plan

__all__ = ["Plan", "Reading", "cut_plan", "find_openings", "read_spot", "remedy"]
