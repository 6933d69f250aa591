"""How noisy the picture looks: measured on the denoiser's thread whenever its films were denoised anew."""

from __future__ import annotations

import threading
from collections.abc import Callable
from concurrent.futures import Future
from typing import Any

import numpy as np

from westlight.core.analysis.visible import Grain
from westlight.core.transport.film import F4

from ..grain import Guides, Show, grain_of
from ..translate import seen_softly
from .denoising import Workshop
from .films import cropped
from .pictures import Pictures
from .prepared import Prepared


class _Left(Exception):
    """Nobody wants to know any more."""


class SeenNoise:
    """The last measurement of a session, for the mix and the exposure it was made of."""

    def __init__(self, workshop: Workshop) -> None:
        self._workshop = workshop
        self._measuring: tuple[Future[Grain], str] | None = None
        self._last: tuple[str, Grain] | None = None
        self._begun = ("", 0)
        self._left = threading.Event()

    @property
    def busy(self) -> Future[Grain] | None:
        """The measurement under way."""
        return None if self._measuring is None else self._measuring[0]

    def of(self, p: Prepared) -> Grain | None:
        """Noise as it was last measured of this mix as it is shown; None while that is not known."""
        return self._last[1] if self._last is not None and self._last[0] == p.shown_as else None

    def take(self) -> bool:
        """Take in what has been measured; whether there was anything."""
        if self._measuring is None or not self._measuring[0].done():
            return False
        job, key = self._measuring
        self._measuring = None
        if isinstance(job.exception(), _Left):
            self._begun = ("", 0)
            return False
        self._last = (key, job.result())
        return True

    def leave(self) -> None:
        """What is being measured is not shown any more: the denoiser belongs to what is."""
        self._left.set()

    def begin(
        self, p: Prepared, pictures: Pictures, mixed: Callable[[], F4], shower: Callable[[], Show]
    ) -> None:
        """Measure if the films were denoised since the last time, or are shown in another way."""
        if self._measuring is not None or p.spec.moving or p.assembled is None:
            return
        films = [pictures.full(p, s) for s in p.counting]
        # As often as the films are denoised, and only when all of them are.
        if not films or any(f is None or f.passes < 2 or f.clean is None for f in films):
            return
        age = max(f.clean_samples for f in films if f is not None)
        guide = pictures.guide(p, 1)
        if age < 2 or (p.shown_as, age) == self._begun or guide is None:
            return
        halves = pictures.halves(p)
        if halves is None:
            return
        guides = None
        if p.spec.denoise and guide.albedo is not None and guide.normal is not None:
            guides = Guides(guide.albedo, guide.normal, seen_softly(p.spec))
        self._begun = (p.shown_as, age)
        # A copy: the mix goes on changing while this is measured.
        clean = np.array(cropped(mixed(), p.size(1)), order="C")
        left = self._left = threading.Event()

        def denoise(*pictures: Any) -> F4:
            if left.is_set():
                raise _Left
            return self._workshop.denoise(*pictures)

        job = self._workshop.pool.submit(grain_of, denoise, clean, halves, guides, shower())
        self._measuring = (job, p.shown_as)
