"""A project as one file: a zip with its settings as JSON and every file they name.

    project.json          rows and what each file is
    assets/HASH.suffix    files by the SHA-256 of their content
    pictures/….jpg        last pictures of its views

Reading one believes nothing: only these names, only files whose content has the hash they are called by, and limits
before anything is unpacked. What the files hold is then read by the reader of their kind.
"""

from __future__ import annotations

import hashlib
import json
import re
import zipfile
import zlib
from pathlib import Path
from typing import Any

import numpy as np
from PIL import Image

from westlight.core.errors import WestlightError

#: Grows when an earlier version could not read what is written; earlier ones are read for ever.
FORMAT = 1
SUFFIX = ".westlight.zip"
_DATA = "project.json"
_ALLOWED = re.compile(r"assets/[0-9a-f]{64}\.[a-z0-9]{2,5}|pictures/[0-9a-f]{32}_[0-9a-f]{32}\.jpg")
_MOST_DATA, _MOST_BYTES, _MOST_ENTRIES = 64_000_000, 8_000_000_000, 5_000
_BLOCK = 1 << 20


class ProjectFileError(WestlightError):
    """A project file that cannot be opened, in the artist's words."""


def pack(data: dict[str, Any], files: dict[str, Path], target: Path) -> None:
    """Write a project: its data, and files by the name they have in it."""
    with zipfile.ZipFile(target, "w", zipfile.ZIP_DEFLATED, compresslevel=1) as made:
        made.writestr(_DATA, json.dumps({"westlight_project": FORMAT, **data}, allow_nan=False))
        for name, path in files.items():
            made.write(path, name)


def read(file: Path, name: str, out: Path) -> dict[str, Any]:
    """Unpack a project into a folder; returns where its data lies. Raises `ProjectFileError`."""
    broken = ProjectFileError(f"“{name}” is not a project file or is damaged; export it again.")
    try:
        with zipfile.ZipFile(file) as opened:
            entries = opened.infolist()
            if len(entries) > _MOST_ENTRIES or sum(e.file_size for e in entries) > _MOST_BYTES:
                raise ProjectFileError(f"“{name}” unpacks to more than 8 GB or 5000 files.")
            if len({e.filename for e in entries}) < len(entries):
                raise broken
            for entry in entries:
                if entry.filename == _DATA:
                    _data(opened, entry, name, out, broken)
                elif _ALLOWED.fullmatch(entry.filename):
                    _unpack(opened, entry, out / entry.filename, broken)
                else:
                    raise broken
    except (zipfile.BadZipFile, zlib.error, EOFError, OSError, RuntimeError, ValueError,
            KeyError) as error:  # fmt: skip
        raise broken from error
    if not (out / _DATA).is_file():
        raise broken
    return {"file": _DATA}


def _data(
    opened: zipfile.ZipFile, entry: zipfile.ZipInfo, name: str, out: Path, broken: ProjectFileError
) -> None:
    if entry.file_size > _MOST_DATA:
        raise broken
    data = json.loads(opened.read(entry), parse_constant=_no_constant)
    told = data.get("westlight_project") if isinstance(data, dict) else None
    if not isinstance(told, int):
        raise broken
    if told > FORMAT:
        raise ProjectFileError(
            f"“{name}” was made by a newer version of Westlight. Update this one, then open it again."
        )
    (out / _DATA).write_text(json.dumps(data))


def _unpack(
    opened: zipfile.ZipFile, entry: zipfile.ZipInfo, target: Path, broken: ProjectFileError
) -> None:
    target.parent.mkdir(exist_ok=True)
    digest = hashlib.sha256()
    with opened.open(entry) as source, target.open("wb") as made:
        while block := source.read(_BLOCK):
            digest.update(block)
            made.write(block)
    if target.parent.name == "assets" and digest.hexdigest() != target.name.split(".")[0]:
        raise broken
    if target.suffix == ".jpg":
        with Image.open(target) as picture:
            if picture.format != "JPEG" or max(picture.size) > 16_384:
                raise broken
            picture.load()
    elif target.suffix == ".npy":
        linear = np.load(target, mmap_mode="r", allow_pickle=False)
        if linear.ndim != 3 or linear.shape[2] != 3 or linear.dtype.kind != "f":
            raise broken


def _no_constant(told: str) -> float:
    raise ValueError(f"{told} is no number")
