"""Finish: from contributions to the picture on the screen. Nothing here traces light."""

from .meter import metered_ev, stops_from_middle_grey
from .mix import Mixture, block_mean, mix
from .show import Shown, show

__all__ = ["Mixture", "Shown", "block_mean", "metered_ev", "mix", "show", "stops_from_middle_grey"]
