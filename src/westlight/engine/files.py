"""Where the files lie that settings name.

Settings name a file by the SHA-256 of its content, never by a path: whoever can write settings can then read nothing
but files that were given to Westlight. A process looks for them in the folders it was told, and those it
starts look in the same.
"""

from __future__ import annotations

import os
from pathlib import Path

_VARIABLE = "WESTLIGHT_FILES"
#: Folders that are looked in.
_MOST = 32


def look_in(folder: Path) -> None:
    """Look for files in a folder from now on, and then in those told before."""
    told = [folder.absolute(), *(f for f in _folders() if f != folder.absolute())]
    os.environ[_VARIABLE] = os.pathsep.join(map(str, told[:_MOST]))


def file_of(asset: str, suffix: str) -> Path:
    """Where a file lies; what is nowhere to be found is named where it should lie."""
    places = [place(f, asset, suffix) for f in _folders() or [Path()]]
    return next((p for p in places if p.is_file()), places[0])


def place(folder: Path, asset: str, suffix: str) -> Path:
    """Where a file lies in a folder of files."""
    return folder / asset[:2] / f"{asset}{suffix}"


def _folders() -> list[Path]:
    return [Path(p) for p in os.environ.get(_VARIABLE, "").split(os.pathsep) if p]
