"""Errors of the studio, in the artist's words."""

from __future__ import annotations

from westlight.core.errors import WestlightError


class NotFound(WestlightError):
    """Something that was asked for is no longer there."""


class BadEdit(WestlightError):
    """An edit gives a value that cannot be."""
