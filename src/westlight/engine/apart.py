"""Compiling in a process beside: with a folder of kernels of its own, taken into the common one when it is done."""

from __future__ import annotations

import contextlib
import os
import shutil
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from westlight.core.compiled import keep_kernels, merge_kernels

#: Folders that are compiled in, the file of what was said there, and after how many seconds one is nobody's any more.
_FOLDERS, _SAID, _OLD_S = "wl-kernels-", "said.txt", 3600.0
_BOUND = "from westlight.engine.orphans import die_with_parent; die_with_parent()\n"


class CompiledApart:
    """A process that compiles. It ends with the one that began it.

    Its folder begins as a copy of what there is: in one folder two that compile would write over each other's entries.
    Raises `OSError` where there is no room for that.
    """

    def __init__(self, work: str) -> None:
        _sweep()
        self._whole = keep_kernels()
        self.folder = Path(tempfile.mkdtemp(prefix=_FOLDERS))
        try:
            shutil.copytree(self._whole, self.folder / self._whole.name)
            with (self.folder / _SAID).open("wb") as said:
                self._process = subprocess.Popen(
                    [sys.executable, "-c", _BOUND + work],
                    env={**os.environ, "WESTLIGHT_KERNELS": str(self.folder)},
                    stdin=subprocess.DEVNULL, stdout=subprocess.DEVNULL, stderr=said,
                )  # fmt: skip
        except OSError:
            shutil.rmtree(self.folder, ignore_errors=True)
            raise

    @property
    def ended(self) -> bool:
        """Whether the process has ended."""
        return self._process.poll() is not None

    def wait(self) -> None:
        """Wait until it has ended."""
        self._process.wait()

    def take(self) -> str | None:
        """Take in what an ended process has made, and forget its folder; None, or what was said where it failed.

        Raises `OSError` where there is no room for it.
        """
        try:
            if self._process.returncode != 0:
                return (self.folder / _SAID).read_text(errors="replace")[-4000:]
            merge_kernels(self.folder / self._whole.name, self._whole)
            return None
        finally:
            self.close()

    def close(self) -> None:
        """Give up what is in work."""
        if not self.ended:
            self._process.kill()
            self._process.wait()
        shutil.rmtree(self.folder, ignore_errors=True)


def _sweep() -> None:
    """Remove folders that somebody who was killed has left."""
    for folder in Path(tempfile.gettempdir()).glob(f"{_FOLDERS}*"):
        with contextlib.suppress(OSError):
            if time.time() - folder.stat().st_mtime > _OLD_S:
                shutil.rmtree(folder, ignore_errors=True)
