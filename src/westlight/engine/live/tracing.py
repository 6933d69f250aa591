"""Tracing one job: a pass in progress with the films it is for, and the light cache read beside it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from westlight.core.transport.cache import LightCache
from westlight.core.transport.clamp import clamp_gathered
from westlight.core.transport.film import F4
from westlight.core.transport.glances import GLANCES
from westlight.core.transport.layout import F4_MAX
from westlight.core.transport.render import PassRun, first_surfaces

from ..spec import SunSettings
from ..translate import CALM
from .films import Film, FilmStore, Guide
from .prepared import Prepared
from .schedule import Job

#: Glances of a first picture, which is soon replaced: at half size they show less, and it is waited for.
FIRST_GLANCES = (3,)
#: Up to this reduction of the picture more glances go to its edges than to the rest.
SHARP_EDGES = 2
#: The clamp of a film that has none yet.
UNCLAMPED = float(F4_MAX)
#: Passes that albedo and normals are averaged over.
GUIDE_PASSES = 8
#: Rounds of reading light into the cache before the first pass of a source in a view, and in all;
#: those after the first come one for every slice of tracing.
FIRST_ROUNDS, ROUNDS = 3, 72
#: Seconds of tracing in one go if nobody calls. At its end one thread waits for the other: in slices of a blink a third of
#: the time was lost.
SLICE_S = 0.3
#: Light caches that are kept for buildings in turn, and the least number of sources one has room for.
_CACHES_KEPT, _LEAST_ROOM = 2, 32


class LightCaches:
    """Light kept on the surfaces of the buildings that were shown last, shared by all sessions."""

    def __init__(self) -> None:
        self._known: dict[str, LightCache] = {}

    def of(self, p: Prepared) -> LightCache | None:
        """The light cache of a scene as it stands; None where every path is traced to its end."""
        if not p.keeps_light:
            return None
        room = max(_LEAST_ROOM, 2 * len(p.spec.sources))
        key = f"{p.keys.scene}{room}"
        found = self._known.pop(key, None) or LightCache(room)
        self._known[key] = found
        while len(self._known) > _CACHES_KEPT:
            self._known.pop(next(iter(self._known)))
        return found


@dataclass(eq=False)
class Run:
    """A pass in progress."""

    job: Job
    prepared: Prepared
    passes: PassRun
    keys: tuple[str, ...]
    sources: tuple[str, ...]
    films: tuple[Film, ...]
    guide: Guide

    @property
    def direct(self) -> bool:
        """Whether it is a picture of direct light under the hand, or a draft."""
        return self.job.bounces == 0

    def still_wanted(self, p: Prepared) -> bool:
        """Whether all its films belong to a new state as well, which no hand is moving."""
        n = self.job.bounces
        wanted = {p.films.get((s.id, n)) for s in p.spec.sources}
        same = p.size(1) == self.prepared.size(1) and p.guide_of == self.prepared.guide_of
        return same and not p.spec.moving and wanted.issuperset(self.keys)


class Tracer:
    """Begins jobs and goes on with them in slices of time."""

    def __init__(self, store: FilmStore, caches: LightCaches) -> None:
        self._store, self._caches = store, caches
        #: First surfaces, kept while only the sun moves.
        self._first: tuple[tuple[object, ...], F4] | None = None
        self._sliced = False

    def begin(self, p: Prepared, job: Job) -> Run:
        """Begin a job."""
        assert p.assembled is not None
        chosen = [p.spec.sources[i] for i in job.rows]
        films = tuple(self._store.film(p.film_key(s, job.bounces, job.scale)) for s in chosen)
        guide = self._store.guide(p.guide_key(job.scale))
        names = tuple(s.id for s in chosen)
        cache = self._caches.of(p) if job.bounces > 0 else None
        done = [f.passes if job.tiles is None else
                int(f.accumulator.counts[job.tiles].sum(axis=-1).min()) for f in films]  # fmt: skip
        # Under the hand every picture counts: three glances make a draft twice as slow.
        glances = (0,) if job.bounces == 0 else GLANCES if job.scale == 1 else FIRST_GLANCES
        passes = PassRun(
            p.assembled, p.view(job.scale), job.rows, [f.accumulator for f in films], guide.film,
            upto=min(done, default=guide.film.passes) + 1, bounces=job.bounces, calm=CALM,
            glances=glances, at_edges=job.bounces > 0 and job.scale <= SHARP_EDGES,
            guide_passes=GUIDE_PASSES, tiles=job.tiles,
            kept=self._kept(p, job, films, guide), cache=cache,
            cache_keys=[p.keys.light[i] for i in names],
        )  # fmt: skip
        keys = tuple(p.films[(i, job.bounces)] for i in names)
        return Run(job, p, passes, keys, names, films, guide)

    def _kept(self, p: Prepared, job: Job, films: tuple[Film, ...], guide: Guide) -> F4 | None:
        """First surfaces, kept while only the sun moves: its light is all that changes."""
        only_sun = all(isinstance(p.spec.sources[i].settings, SunSettings) for i in job.rows)
        fresh = all(f.passes == 0 for f in films) and guide.film.passes > 0
        # Haze hangs before the first surface too.
        if p.hazy or not (only_sun and fresh and job.bounces == 0 and p.spec.moving):
            return None
        assert p.assembled is not None
        key = (p.guide_key(job.scale), p.assembled.top)
        if self._first is None or self._first[0] != key:
            self._first = (key, first_surfaces(p.assembled, p.view(job.scale)))
        return self._first[1]

    def go_on(self, run: Run, called: Callable[[], bool] | None) -> bool:
        """Go on with a run for a moment; returns whether it is done."""
        if self._read_light(run):
            return False
        self._sliced = True
        # A small picture under the hand is traced in one go.
        if run.direct and run.prepared.spec.moving:
            return run.passes.advance()
        done = run.passes.advance(SLICE_S, called=called)
        if done and run.prepared.spec.speckles == "cut" and not run.direct:
            for film in run.films:
                if film.accumulator.clamp >= UNCLAMPED:
                    clamp_gathered(film.accumulator)
        return done

    def _read_light(self, run: Run) -> bool:
        """Read a round of light into the cache if it is due: some before the first pass of a source,
        the others beside the passes."""
        cache, p = run.passes.cache, run.prepared
        if cache is None or p.assembled is None:
            return False
        keys = [p.keys.light[i] for i in run.sources]
        done = [cache.rounds(k, p.guide_of) for k in keys]
        least = min(done, default=ROUNDS)
        # Small pictures are waited for: more light is read beside the sharp one.
        first = 1 if run.job.scale == 4 else FIRST_ROUNDS
        waited_for = run.job.scale > 1 or not self._sliced
        if least >= first and (least >= ROUNDS or waited_for):
            return False
        self._sliced = False
        behind = [i for i, n in enumerate(done) if n == least]
        cache.read(
            p.assembled, run.passes.view, [run.passes.active[i] for i in behind],
            [keys[i] for i in behind], bounces=p.spec.bounces, seen_from=p.guide_of,
        )  # fmt: skip
        return True
