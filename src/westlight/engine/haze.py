"""The tracer's second machine code, for haze: made once on a machine, by a process beside, when it is asked for or nobody works."""

from __future__ import annotations

import sys

import structlog

from westlight.core.compiled import keep_kernels
from westlight.core.warm import hazy_kernel_is_cached

from .apart import CompiledApart

log = structlog.get_logger()
#: How much less the processor it gets than who works at the page.
_GENTLY = 15
_WORK = "from westlight.core.warm import compile_hazy_kernel; compile_hazy_kernel()"


class HazyKernel:
    """Machine code for haze, and the process that makes it."""

    def __init__(self, work: str = _WORK) -> None:
        self._work = work
        self._whole = keep_kernels()
        self._ready = hazy_kernel_is_cached()
        self._apart: CompiledApart | None = None
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
        return self._apart.seconds if self._apart is not None else 0.0

    def begin(self, gently: bool = False) -> None:
        """Have it made, unless it is there or in work; ``gently``: by what others leave of the processor."""
        if self.ready or self.failed or self._apart is not None:
            return
        try:
            self._apart = CompiledApart(self._work, _GENTLY if gently else 0)
        except OSError:
            # A full disk costs the haze, not the engine.
            self._fail("no room to compile in")

    def wait(self) -> bool:
        """Wait until it is made; whether it was."""
        if self._apart is not None:
            self._apart.wait()
        return self.ready

    def close(self) -> None:
        """Give up what is in work."""
        if self._apart is not None:
            self._apart.close()
        self._apart = None

    def _look(self) -> None:
        if self._apart is None or not self._apart.ended:
            # Another one, as a still, may have made it.
            self._ready = hazy_kernel_is_cached()
            return
        made, self._apart = self._apart, None
        try:
            said = made.take()
            if said is not None:
                self._fail(said)
                return
            (self._whole / "hazy").touch()
            self._ready = True
        except OSError:
            self._fail("no room for what was compiled")

    def _fail(self, said: str) -> None:
        """Give up: pictures stay without haze."""
        self.failed = True
        log.error("haze could not be compiled", said=said, exc_info=sys.exc_info()[0] is not None)
