"""The shelf of film tables (.cube)."""

from __future__ import annotations

from .shelf import ReadShelf


class Tables(ReadShelf):
    """Film tables, each as a file in one format whatever it came in."""

    media_type, suffix, what = "text/x-cube", ".cube", "film table"
    readers = ("table",)
