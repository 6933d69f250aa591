"""The shelf of backdrops: pictures that hang behind the view, kept as EXR where 1 is the burnt point."""

from __future__ import annotations

from .shelf import ReadShelf


class Backdrops(ReadShelf):
    """Backdrops of this server."""

    media_type, suffix, what = "image/x-exr-backdrop", ".exr", "backdrop"
    readers = ("backdrop", "kept backdrop")
