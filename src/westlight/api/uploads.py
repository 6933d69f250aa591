"""Files on their way in, kept on disk while they are read."""

from __future__ import annotations

import tempfile
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from pathlib import Path

from fastapi import UploadFile


def name_of(file: UploadFile, otherwise: str) -> str:
    """What a browser calls an upload: one line without folders, of a length that a file can have."""
    told = Path((file.filename or "").replace("\\", "/")).name
    plain = "".join(c for c in told if c.isprintable())[-120:].strip()
    return plain if plain.strip(".") else otherwise


@asynccontextmanager
async def on_disk(file: UploadFile) -> AsyncIterator[Path]:
    """An upload as a file of its kind, gone afterwards."""
    suffix = Path(file.filename or "").suffix.lower()
    with tempfile.NamedTemporaryFile(suffix=suffix) as kept:
        while block := await file.read(1 << 20):
            kept.write(block)
        kept.flush()
        yield Path(kept.name)
