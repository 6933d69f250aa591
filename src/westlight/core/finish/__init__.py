"""Finish: from contributions to the picture on the screen. Nothing here traces light."""

from .mix import block_mean, mix
from .show import Shown, show

__all__ = ["Shown", "block_mean", "mix", "show"]
