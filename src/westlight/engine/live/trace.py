"""What the engine does, as it does it: a line of JSON for each step, in the file that `WESTLIGHT_TRACE` names."""

from __future__ import annotations

import json
import os
import time
from pathlib import Path
from typing import Any

VARIABLE = "WESTLIGHT_TRACE"


class Trace:
    """The lines of one session; without a file to write to it does nothing.

    Steps: ``told`` a spec, ``begun`` and ``done`` a pass, ``sent`` a picture or a print.
    """

    def __init__(self, session: str) -> None:
        told = os.environ.get(VARIABLE, "")
        self._file = Path(told) if told else None
        self._session, self._begun = session, 0.0

    def told(self, moving: bool, changed: bool) -> None:
        """A spec has come; ``changed`` if light must be traced for it."""
        self._write("told", moving=moving, changed=changed)

    def begun(self, sources: tuple[str, ...], scale: int, bounces: int, passes: int) -> None:
        """A pass of some sources begins, at a scale of the picture, after so many passes."""
        self._begun = time.perf_counter()
        self._write("begun", sources=list(sources), scale=scale, bounces=bounces, passes=passes)

    def done(self, sources: tuple[str, ...]) -> None:
        """A pass is complete."""
        self._write(
            "done", sources=list(sources), seconds=round(time.perf_counter() - self._begun, 3)
        )

    def sent(self, head: dict[str, Any]) -> None:
        """Something went to the page."""
        kept = ("kind", "source", "scale", "passes", "noise", "settled")
        self._write("sent", **{k: head[k] for k in kept if k in head})

    def _write(self, what: str, **of: Any) -> None:
        if self._file is None:
            return
        line = {"at": round(time.time(), 3), "session": self._session, "what": what, **of}
        with self._file.open("a") as out:
            out.write(json.dumps(line) + "\n")
