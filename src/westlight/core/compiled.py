"""Where compiled kernels are kept: one folder per version of the kernel sources.

Numba's cache looks only at the file of the outermost function, so a change in an inlined piece
would go unnoticed; naming the folder after all sources makes every variant its own.
"""

from __future__ import annotations

import hashlib
import os
import tempfile
from pathlib import Path

import numba


def keep_kernels() -> Path:
    """Point Numba at the folder for these sources and return it."""
    here = Path(__file__).parent
    digest = hashlib.sha256()
    kernels = [
        *here.glob("transport/kernels/*.py"),
        here / "finish/mix.py",
        here / "finish/show.py",
    ]
    for file in sorted([*kernels, here / "transport/layout.py", here / "sky/atmosphere.py"]):
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
