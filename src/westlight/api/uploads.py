"""Files on their way in, kept on disk while they are read."""

from __future__ import annotations

import tempfile
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from pathlib import Path

from fastapi import UploadFile


@asynccontextmanager
async def on_disk(file: UploadFile) -> AsyncIterator[Path]:
    """An upload as a file of its kind, gone afterwards."""
    suffix = Path(file.filename or "").suffix.lower()
    with tempfile.NamedTemporaryFile(suffix=suffix) as kept:
        while block := await file.read(1 << 20):
            kept.write(block)
        kept.flush()
        yield Path(kept.name)
