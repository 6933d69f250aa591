"""The last picture of each view in each look: shown at once when a project is opened, until light is there again."""

from __future__ import annotations

import io
import os
import re
import shutil
import tempfile
from pathlib import Path

from PIL import Image

from .errors import NotFound

_ID = re.compile(r"[0-9a-f]{32}")
#: Quality of the JPEG files; pictures of a page are some 100 kB.
_QUALITY = 88


class LastPictures:
    """A folder of a project each, with one file for each view in each look. What is lost here is only a head start."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder

    def keep(self, project: str, look: str, view: str, picture: bytes) -> None:
        """Keep a picture (PNG or JPEG) in place of the one before."""
        path = self._path(project, look, view)
        path.parent.mkdir(parents=True, exist_ok=True)
        file = io.BytesIO(picture)
        with Image.open(file) as opened:
            if opened.format != "JPEG":
                file = io.BytesIO()
                opened.convert("RGB").save(file, "JPEG", quality=_QUALITY)
        handle, scratch = tempfile.mkstemp(dir=path.parent)
        with os.fdopen(handle, "wb") as out:
            out.write(file.getvalue())
        Path(scratch).replace(path)

    def find(self, project: str, look: str, view: str) -> Path:
        """File of the last picture; raises `NotFound` when there is none."""
        path = self.there(project, look, view)
        if path is None:
            raise NotFound("This view has no picture yet.")
        return path

    def there(self, project: str, look: str, view: str) -> Path | None:
        """As `find`, None when there is none."""
        path = self._path(project, look, view)
        return path if path.is_file() else None

    def newest(self, project: str) -> tuple[str, str] | None:
        """Look and view of the picture of a project that was kept last."""
        files = sorted(self._path(project, "0" * 32, "0" * 32).parent.glob("*_*.jpg"),
                       key=lambda f: f.stat().st_mtime)  # fmt: skip
        if not files:
            return None
        look, view = files[-1].stem.split("_")
        return look, view

    def forget(self, project: str) -> None:
        """Remove the pictures of a project that is gone."""
        shutil.rmtree(self._path(project, "0" * 32, "0" * 32).parent, ignore_errors=True)

    def _path(self, project: str, look: str, view: str) -> Path:
        if not all(_ID.fullmatch(i) for i in (project, look, view)):
            raise NotFound("This view has no picture yet.")
        return self._folder / project / f"{look}_{view}.jpg"
