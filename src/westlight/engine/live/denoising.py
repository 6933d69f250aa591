"""Denoising on a thread of its own: sources wait their turn, pictures come back when they are done."""

from __future__ import annotations

from collections import deque
from collections.abc import Iterable
from concurrent.futures import Future, ThreadPoolExecutor, wait
from typing import NamedTuple

from westlight.core.transport.denoise import Denoiser
from westlight.core.transport.film import F4
from westlight.core.transport.smooth import smooth

from ..translate import seen_softly
from .films import Film, Guide
from .pictures import Pictures
from .prepared import Prepared

#: Share of the picture's light below which a source is denoised in less time.
FAINT = 0.01
#: A film is denoised again when it has this many times the samples of the last time: often enough
#: to see progress, seldom enough that denoising stays a small share of the work.
CLEAN_AGAIN = 3
#: Seconds that are waited for the denoiser before looking round again.
_PATIENCE_S = 0.01


class Workshop:
    """What all sessions share for work beside the tracing: one thread, one denoiser."""

    def __init__(self) -> None:
        self.denoise = Denoiser()
        self.pool = ThreadPoolExecutor(1, thread_name_prefix="beside")

    def close(self) -> None:
        """End the thread; what waits is not begun any more."""
        self.pool.shutdown(wait=False, cancel_futures=True)


class _Waiting(NamedTuple):
    source: str
    film: Film
    guide: Guide
    quality: str
    on: bool
    soft: bool


class Cleaning:
    """Films of one session that wait to be denoised, and the one that is being denoised."""

    def __init__(self, workshop: Workshop) -> None:
        self._workshop = workshop
        self._waiting: deque[_Waiting] = deque()
        self._working: tuple[Future[F4], _Waiting] | None = None
        self._done: set[str] = set()

    @property
    def busy(self) -> bool:
        """Whether anything waits or is being denoised."""
        return bool(self._working or self._waiting)

    @property
    def working(self) -> bool:
        """Whether a film is being denoised at this moment."""
        return self._working is not None

    def add(
        self, p: Prepared, pictures: Pictures, films: Iterable[tuple[str, Film]], guide: Guide,
        first_light: bool = False,
    ) -> None:  # fmt: skip
        """Let films that have grown wait for the denoiser; ``first_light``: what is soon replaced by a larger picture."""
        grown = [(source, film) for source, film in films if film.has_grown(CLEAN_AGAIN)]
        self._add(p, pictures, grown, guide, first_light)

    def _add(
        self, p: Prepared, pictures: Pictures, grown: list[tuple[str, Film]], guide: Guide,
        first_light: bool = False,
    ) -> None:  # fmt: skip
        light = {s: _light(p, s, f) for s, f in grown} if len(grown) > 1 else {}
        whole = max(sum(light.values()), pictures.mean_luminance(p))
        for source, film in grown:
            # A first picture is known by what was gathered for it.
            faint = source in light and light[source] < FAINT * whole
            quality = "fast" if faint or first_light else quality_of(p, pictures, source)
            on, soft = p.spec.denoise, seen_softly(p.spec)
            self._waiting.append(_Waiting(source, film, guide, quality, on, soft))

    def add_rest(self, p: Prepared, pictures: Pictures) -> None:
        """Let the films of what counts wait a last time, if there are passes they were not denoised with.

        A picture that stops shows all the light that was gathered, also where a hand or another session let a film wait in
        vain.
        """
        for scale in (1, 2):
            guide = pictures.guide(p, scale)
            films = [
                (s.id, f) for s in p.counting if (f := pictures.film(p, s, p.spec.bounces, scale))
            ]
            rest = [(name, f) for name, f in films if f.most_passes > f.clean_most]
            if rest and guide is not None:
                self._add(p, pictures, rest, guide)

    def drop_waiting(self) -> None:
        """Forget what has not been begun: the hand has moved on."""
        self._waiting.clear()

    def take(self, pictures: Pictures) -> frozenset[str] | None:
        """Go on; returns the sources with new pictures once nothing waits any more, None before."""
        if self._working is None:
            if not self._waiting:
                return None
            next_one = self._waiting.popleft()
            job = self._workshop.pool.submit(_denoised, self._workshop.denoise, next_one)
            self._working = (job, next_one)
        job, one = self._working
        wait([job], timeout=_PATIENCE_S)
        if not job.done():
            return None
        self._working = None
        one.film.keep(job.result())
        pictures.keep_last(one.source, one.film)
        self._done.add(one.source)
        if self._waiting:
            return None
        done, self._done = frozenset(self._done), set()
        return done


def _light(p: Prepared, source_id: str, film: Film) -> float:
    """Mean luminance that a source adds as far as it is traced, in cd/m²; 0 for one that does not count."""
    source = p.source_named(source_id)
    if source is None or not source.counts:
        return 0.0
    return float(film.accumulator.mean().mean(axis=(0, 1)) @ p.luminous_gain(source))


def quality_of(p: Prepared, pictures: Pictures, source_id: str) -> str:
    """How well a source is denoised: what hardly shows is not worth the time."""
    source = p.source_named(source_id)
    best = None if source is None else pictures.best(p, source, frozenset())
    if source is None or best is None:
        return "high"
    return "fast" if pictures.share(p, source, best.film) < FAINT else "high"


def _denoised(denoise: Denoiser, one: _Waiting) -> F4:
    mean = one.film.accumulator.mean()
    if not one.on or one.guide.albedo is None or one.guide.normal is None:
        return mean
    return denoise(mean, one.guide.albedo, one.guide.normal, one.quality,
                   one.film.accumulator.seen_mean(), one.soft)  # fmt: skip


def smoothed(p: Prepared, film: Film, guide: Guide) -> F4:
    """A picture under the hand, smoothed at once: a network is too slow."""
    mean = film.accumulator.mean()
    if not p.spec.denoise or guide.albedo is None or guide.normal is None:
        return mean
    return smooth(mean, guide.albedo, guide.normal)
