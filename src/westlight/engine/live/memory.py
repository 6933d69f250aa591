"""Memory that is not needed at the moment, given back to the system."""

from __future__ import annotations

import ctypes
from collections.abc import Callable
from functools import cache


@cache
def _trim() -> Callable[[int], int] | None:
    """`malloc_trim` of the C library; None where it has none."""
    found: Callable[[int], int] | None = getattr(ctypes.CDLL(None), "malloc_trim", None)
    return found


def give_back() -> None:
    """Give back what was let go of: the allocator keeps pages that lie between others that are in use."""
    trim = _trim()
    if trim is not None:
        trim(0)
