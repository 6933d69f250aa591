"""The tracer's second machine code, for haze: made once on a machine, by a process beside, when it is asked for or nobody works."""

from __future__ import annotations

import contextlib
import os
import shutil
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import structlog

from westlight.core.compiled import keep_kernels, merge_kernels
from westlight.core.warm import hazy_kernel_is_cached

log = structlog.get_logger()
#: How much less the processor it gets than who works at the page.
_GENTLY = 15
#: Folders that are compiled in, the file of what was said there, and after how many seconds one is nobody's any more.
_FOLDERS, _SAID, _OLD_S = "wl-kernels-", "said.txt", 3600.0
_WORK = """
from westlight.engine.orphans import die_with_parent
die_with_parent()
from westlight.core.warm import compile_hazy_kernel
compile_hazy_kernel()
"""


class HazyKernel:
    """Machine code for haze, and the process that makes it.

    The process has a folder of its own that begins as a copy of what there is: in one folder two that compile would write
    over each other's entries.
    """

    def __init__(self, work: str = _WORK) -> None:
        self._work = work
        self._whole = keep_kernels()
        self._ready = hazy_kernel_is_cached()
        self._apart: Path | None = None
        self._process: subprocess.Popen[bytes] | None = None
        self._begun_at = 0.0
        self.failed = False

    @property
    def ready(self) -> bool:
        """Whether haze can be traced without waiting. Takes in what the process has made."""
        if not self._ready:
            self._look()
        return self._ready

    @property
    def seconds(self) -> float:
        """How long it has been worked on, in seconds; 0 where nobody does."""
        return time.monotonic() - self._begun_at if self._process is not None else 0.0

    def begin(self, gently: bool = False) -> None:
        """Have it made, unless it is there or in work; ``gently``: by what others leave of the processor."""
        if self.ready or self.failed or self._process is not None:
            return
        try:
            self._begin(gently)
        except OSError:
            # A full disk costs the haze, not the engine.
            self._fail("no room to compile in")

    def _begin(self, gently: bool) -> None:
        _sweep()
        self._apart = Path(tempfile.mkdtemp(prefix=_FOLDERS))
        shutil.copytree(self._whole, self._apart / self._whole.name)
        self._begun_at = time.monotonic()
        with (self._apart / _SAID).open("wb") as said:
            self._process = subprocess.Popen(
                ["nice", "-n", str(_GENTLY if gently else 0), sys.executable, "-c", self._work],
                env={**os.environ, "WESTLIGHT_KERNELS": str(self._apart)},
                stdin=subprocess.DEVNULL, stdout=subprocess.DEVNULL, stderr=said,
            )  # fmt: skip

    def wait(self) -> bool:
        """Wait until it is made; whether it was."""
        if self._process is not None:
            self._process.wait()
        return self.ready

    def close(self) -> None:
        """Give up what is in work."""
        if self._process is not None:
            self._process.kill()
            self._process.wait()
        self._clear()

    def _look(self) -> None:
        if self._process is None or self._process.poll() is None:
            # Another one, as a still, may have made it.
            self._ready = hazy_kernel_is_cached()
            return
        assert self._apart is not None
        try:
            if self._process.returncode == 0:
                merge_kernels(self._apart / self._whole.name, self._whole)
                (self._whole / "hazy").touch()
                self._ready = True
                self._clear()
            else:
                self._fail((self._apart / _SAID).read_text(errors="replace")[-4000:])
        except OSError:
            self._fail("no room for what was compiled")

    def _fail(self, said: str) -> None:
        """Give up: pictures stay without haze."""
        self.failed = True
        log.error("haze could not be compiled", said=said, exc_info=sys.exc_info()[0] is not None)
        self._clear()

    def _clear(self) -> None:
        if self._apart is not None:
            shutil.rmtree(self._apart, ignore_errors=True)
        self._process = self._apart = None


def _sweep() -> None:
    """Remove folders that somebody who was killed has left."""
    for folder in Path(tempfile.gettempdir()).glob(f"{_FOLDERS}*"):
        with contextlib.suppress(OSError):
            if time.time() - folder.stat().st_mtime > _OLD_S:
                shutil.rmtree(folder, ignore_errors=True)
