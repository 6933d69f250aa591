"""Calling pieces of kernels from tests: by themselves only other compiled functions can."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from numba import njit


def callable_piece(piece: Any) -> Callable[..., Any]:
    """The piece, for Python."""

    @njit
    def call(*arguments):  # type: ignore[no-untyped-def]
        return piece(*arguments)

    return call  # type: ignore[no-any-return]
