"""Files kept by content hash: written beside, then renamed, never overwritten."""

from __future__ import annotations

import hashlib
import os
import shutil
import tempfile
from pathlib import Path


class AssetStore:
    """A folder of files named by the SHA-256 of their content."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        folder.mkdir(parents=True, exist_ok=True)

    def path(self, asset_id: str, suffix: str) -> Path:
        """Where a file lies; it need not exist."""
        return self.folder / asset_id[:2] / f"{asset_id}{suffix}"

    def put(self, source: Path) -> str:
        """Take a copy of a file and return its hash."""
        digest = hashlib.sha256()
        with source.open("rb") as opened:
            while block := opened.read(1 << 20):
                digest.update(block)
        asset_id = digest.hexdigest()
        target = self.path(asset_id, source.suffix.lower())
        if not target.exists():
            target.parent.mkdir(parents=True, exist_ok=True)
            handle, name = tempfile.mkstemp(dir=target.parent)
            os.close(handle)
            shutil.copyfile(source, name)
            Path(name).chmod(0o644)
            _durable(Path(name))
            Path(name).replace(target)
            _durable(target.parent)
        return asset_id


def _durable(path: Path) -> None:
    """Have a file, or the names in a folder, on the disk: a row must never name what a power cut takes away."""
    handle = os.open(path, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)
