"""What was worked out of a building is kept on disk by its content, so that the next start finds it.

Nothing depends on it being there: a folder that cannot be written, or a file that is damaged, costs time only.
`WESTLIGHT_REMEMBERED` chooses the folder; empty means none.
"""

from __future__ import annotations

import contextlib
import hashlib
import os
import tempfile
import zipfile
from collections.abc import Callable, Iterator, Mapping
from pathlib import Path
from typing import IO

import numpy as np
import numpy.typing as npt

_VARIABLE = "WESTLIGHT_REMEMBERED"
Arrays = Mapping[str, npt.NDArray[np.generic]]
#: Bytes that are kept; what was used least recently goes first.
MOST_BYTES = 1_500_000_000


def folder() -> Path | None:
    """Where it is kept; None for nowhere."""
    told = os.environ.get(_VARIABLE)
    if told == "":
        return None
    return Path(told) if told else Path.home() / ".cache/westlight/remembered"


@contextlib.contextmanager
def nothing_remembered() -> Iterator[None]:
    """Have everything worked out anew for a while, and nothing of it kept."""
    told = os.environ.get(_VARIABLE)
    os.environ[_VARIABLE] = ""
    try:
        yield
    finally:
        if told is None:
            del os.environ[_VARIABLE]
        else:
            os.environ[_VARIABLE] = told


def key_of(*parts: object) -> str:
    """A key for some arrays and settings: their content, types and shapes."""
    digest = hashlib.blake2b(digest_size=16)
    for part in parts:
        if isinstance(part, np.ndarray):
            digest.update(f"{part.dtype}{part.shape}".encode())
            digest.update(np.ascontiguousarray(part).view(np.uint8).data)
        else:
            digest.update(repr(part).encode())
        digest.update(b"|")
    return digest.hexdigest()


def remembered(what: str, key: str, make: Callable[[], Arrays]) -> Arrays:
    """Arrays of a key: read from disk, or made and written there."""
    place = folder()
    if place is None:
        return make()
    file = place / f"{what}-{key}.npz"
    with contextlib.suppress(OSError, ValueError, KeyError, zipfile.BadZipFile, EOFError):
        with np.load(file, allow_pickle=False) as found:
            made = {name: found[name] for name in found.files}
        os.utime(file)
        return made
    arrays = make()
    with contextlib.suppress(OSError):
        _write(file, lambda out: np.savez(out, **arrays))  # type: ignore[arg-type]
    return arrays


def mapped(
    what: str, key: str, make: Callable[[], npt.NDArray[np.generic]]
) -> npt.NDArray[np.generic]:
    """One large array of a key, read from disk as far as it is looked at, or made and written there.

    Processes that read the same file share its memory; what one of them writes into the array stays with it.
    """
    place = folder()
    if place is None:
        return make()
    file = place / f"{what}-{key}.npy"
    with contextlib.suppress(OSError, ValueError, EOFError):
        return _opened(file)
    made = make()
    with contextlib.suppress(OSError, ValueError):
        _write(file, lambda out: np.save(out, made))
        return _opened(file)
    return made


def _write(file: Path, write: Callable[[IO[bytes]], None]) -> None:
    """Write a file under its name once it is whole; on a full disk nothing of it stays."""
    file.parent.mkdir(parents=True, exist_ok=True)
    with tempfile.NamedTemporaryFile(dir=file.parent, suffix=".part", delete=False) as out:
        part = Path(out.name)
        try:
            write(out)
            out.flush()
            part.replace(file)
        finally:
            part.unlink(missing_ok=True)
    _prune(file.parent)


def _opened(file: Path) -> npt.NDArray[np.generic]:
    # Copy on write: compiled kernels take no array that cannot be written.
    found = np.asarray(np.load(file, mmap_mode="c", allow_pickle=False))
    os.utime(file)
    return found


def _prune(place: Path) -> None:
    """Let go of what was used least recently."""
    found = [f for f in place.iterdir() if f.suffix in (".npz", ".npy")]
    files = sorted(found, key=lambda f: f.stat().st_mtime, reverse=True)
    total = 0
    for file in files:
        total += file.stat().st_size
        if total > MOST_BYTES:
            file.unlink(missing_ok=True)
