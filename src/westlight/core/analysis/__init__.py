"""Reading a scene without rendering it: plan cuts and the like."""

from .openings import find_openings
from .plan import Plan, cut_plan

__all__ = ["Plan", "cut_plan", "find_openings"]
