"""Where compiled kernels are kept: one folder per version of the kernel sources.

Numba's cache looks only at the file of the outermost function, so a change in an inlined piece
would go unnoticed; naming the folder after all sources makes every variant its own.
"""

from __future__ import annotations

import hashlib
import os
import pickle
import shutil
import tempfile
import time
from collections.abc import Callable
from itertools import count
from pathlib import Path
from typing import Any

import numba
from numba.core.event import Event, Listener, register, unregister


def keep_kernels() -> Path:
    """Point Numba at the folder for these sources and return it."""
    here = Path(__file__).parent
    digest = hashlib.sha256()
    kernels = [
        *here.glob("transport/kernels/*.py"),
        here / "finish/mix.py",
        here / "finish/show.py",
    ]
    kernels += [
        here / "transport/layout.py",
        here / "transport/embree.py",
        here / "sky/atmosphere.py",
    ]
    for file in sorted(kernels):
        # Numba finds its entries by place and date of a file: another checkout has a folder of its own.
        digest.update(f"{file}{file.stat().st_mtime_ns}".encode())
        digest.update(file.read_bytes())
    base = os.environ.get("WESTLIGHT_KERNELS") or str(Path.home() / ".cache/westlight/kernels")
    folder = Path(base) / digest.hexdigest()[:16]
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError:
        folder = Path(tempfile.gettempdir()) / f"westlight-kernels-{os.getuid()}"
        folder.mkdir(parents=True, exist_ok=True)
    numba.config.CACHE_DIR = str(folder)
    return folder


def merge_kernels(part: Path, whole: Path) -> int:
    """Take the machine code kept in one folder into another, both of the same sources; returns how much was new.

    So independent kernels can be compiled by two processes at once, each with a folder of its own: in one folder each would
    write over the other's entries in Numba's index.
    """
    taken = 0
    for index in sorted(part.rglob("*.nbi")):
        target = whole / index.relative_to(part)
        target.parent.mkdir(parents=True, exist_ok=True)
        version, stamp, entries = _index_of(index)
        known: dict[Any, str] = {}
        if target.exists():
            other, its_stamp, its_entries = _index_of(target)
            if (other, its_stamp) == (version, stamp):
                known = its_entries
        for key, name in entries.items():
            if key in known:
                continue
            stem = index.name.removesuffix(".nbi")
            free = next(n for i in count(1) if (n := f"{stem}.{i}.nbc") not in known.values())
            shutil.copyfile(index.parent / name, target.parent / free)
            known[key] = free
            taken += 1
        # Written beside, then renamed: whoever reads meanwhile finds the old one or the new one.
        fresh = target.with_suffix(".new")
        fresh.write_bytes(pickle.dumps(version, protocol=-1) + pickle.dumps((stamp, known)))
        fresh.replace(target)
    return taken


def _index_of(file: Path) -> tuple[str, Any, dict[Any, str]]:
    """Version, stamp and entries of one of Numba's index files."""
    with file.open("rb") as opened:
        version = pickle.load(opened)
        stamp, entries = pickle.loads(opened.read())
    return version, stamp, entries


class _Compiling(Listener):  # type: ignore[misc]
    """Times what Numba compiles: what it reads from its cache makes no event."""

    def __init__(self, tell: Callable[[str, float], None]) -> None:
        self._tell = tell
        self._began: dict[int, float] = {}

    def on_start(self, event: Event) -> None:
        self._began[id(event.data["dispatcher"])] = time.perf_counter()

    def on_end(self, event: Event) -> None:
        kernel = event.data["dispatcher"]
        began = self._began.pop(id(kernel), None)
        if began is not None:
            self._tell(kernel.py_func.__qualname__, time.perf_counter() - began)


def tell_of_compiling(tell: Callable[[str, float], None]) -> Callable[[], None]:
    """Call ``tell`` with a kernel's name and seconds whenever one had to be compiled in this process; returns what ends that.

    All machine code is made before anybody works; a kernel that is compiled later holds the picture up for as long, and its
    cause is an argument of another type or layout than the first run had.
    """
    listener = _Compiling(tell)
    register("numba:compile", listener)
    return lambda: unregister("numba:compile", listener)
