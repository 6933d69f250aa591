"""The shelf of reference pictures that looks are lit towards, kept as PNG as they are shown."""

from __future__ import annotations

from .shelf import ReadShelf


class References(ReadShelf):
    """Reference pictures of this server."""

    media_type, suffix, what = "image/png-reference", ".png", "reference"
    readers = ("reference",)
