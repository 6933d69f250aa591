"""The live picture: decides what to trace next, and always has something to show.

Three scales of the picture exist: 4 (a quarter of the size, direct light, while a hand moves),
2 and 1. Each source is denoised by itself whenever its samples have multiplied, and the picture is the
weighted sum of these: so levels, colours and exposure never wait for light to be traced, nor for
the denoiser, which works on a thread of its own.
"""

from __future__ import annotations

import time
from collections import deque
from collections.abc import Callable
from concurrent.futures import FIRST_COMPLETED, Future, ThreadPoolExecutor, wait
from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt

from westlight.core.colour import AP1_LUMINANCE
from westlight.core.errors import WestlightError
from westlight.core.transport.assemble import Assembled
from westlight.core.transport.denoise import Denoiser, noise_left
from westlight.core.transport.film import BAND_ROWS, F4, TILE_COLUMNS, of_tiles, tiles_of
from westlight.core.transport.glances import GLANCES
from westlight.core.transport.render import PassRun, first_surfaces
from westlight.core.transport.smooth import smooth
from westlight.core.transport.survey import survey

from .answering import Answering
from .films import Film, Guide
from .spec import PictureSpec, SunSettings
from .state import FIRST_BOUNCES, Send
from .translate import (
    CALM,
    film_keys,
    light_keys,
    matte_of,
    seen_softly,
    view_of,
)

#: Share of the picture's light below which a source is denoised in less time.
FAINT = 0.01
#: Samples at scale 2 before the full size is begun.
HALF_SIZE_SAMPLES = 1
#: A film is denoised again when it has this many times the samples of the last time: often enough
#: to see progress, seldom enough that denoising stays a small share of the work.
CLEAN_AGAIN = 3
#: Rays from each pixel of the occlusion pass; the denoiser does the rest.
OPENNESS_SAMPLES = 6
#: Rays from each pixel for mattes: nothing smooths their edges.
MATTE_SAMPLES = 8
#: Glances of a first picture, which is soon replaced: at half size they show less, and it is waited for.
FIRST_GLANCES = (3,)
#: Passes that albedo and normals are averaged over.
GUIDE_PASSES = 8
#: Passes of the full size before the little pictures of what is switched off.
FIRST_SHARP = 1
#: Samples every source gets at full size before their noise decides who gets more.
FIRST_FULL = 3
#: Passes a region gets before the rest of the picture goes on.
REGION_PASSES = 64
#: Seconds between two rounds of all little pictures while levels or exposure are dragged.
THUMBS_EVERY_S = 0.3
#: Rounds of reading light into the cache before the first pass of a source in a view, and in all;
#: those after the first come one for every slice of tracing.
FIRST_ROUNDS, ROUNDS = 3, 72
#: Seconds of tracing in one go if nobody calls. At its end one thread waits for the other: in slices of a blink a third of
#: the time was lost.
SLICE_S = 0.3


Tiles = npt.NDArray[np.bool_]


@dataclass
class _Run:
    """A pass in progress and the films it is for."""

    passes: PassRun
    keys: list[str]
    sources: list[str]
    scale: int
    bounces: int
    films: list[Film]
    guide: Guide


class LivePicture(Answering):
    """The live engine. `apply` takes a new spec, `work` spends a little time on it.

    ``called`` tells whether somebody waits for an answer: work then ends soon.
    """

    def __init__(self, send: Send, called: Callable[[], bool] | None = None) -> None:
        super().__init__(send)
        self._called = called
        self.denoise = Denoiser()
        self._settled = False
        self._run: _Run | None = None
        self._pool = ThreadPoolExecutor(1)
        self._to_clean: deque[tuple[Film, Guide, str, int]] = deque()
        self._cleaning: tuple[Future[F4], Film, str, int] | None = None
        self._cleaned: set[str] = set()
        self._first: tuple[tuple[str, int, int], F4] | None = None
        self._sliced = False
        self._surveying: tuple[Future[dict[str, F4]], str] | None = None
        self._measuring: tuple[Future[float], str] | None = None
        self._measured = ("", 0)

    def apply(self, spec: PictureSpec) -> None:
        """Take a new state; only what its keys say has changed is traced again."""
        before, self.spec = self.spec, spec
        keys_before = self._keys
        self._keys = film_keys(spec, {spec.bounces, FIRST_BOUNCES, 0})
        self._light_keys = light_keys(spec)
        self._note_moved(before)
        self._load()
        self._assemble()
        changed = self._keys != keys_before
        if changed:
            self._started = time.monotonic()
        self._drop_stale_run()
        self._settled = False
        # Under a moving hand the next direct picture is what to show, not the last one again.
        self._dirty = self._dirty or not (spec.moving and changed)
        self._thumbs_dirty = True

    def work(self) -> bool:
        """Do the most useful next thing; returns False when there is nothing left to do."""
        if self._dirty and not (self.spec.moving and self._draft_waits):
            self._dirty = False
            self.show_picture()
            if self.assembled is None:
                return False
        if self.assembled is not None:
            # Paused or not: what is done on the other thread is taken in.
            self._survey_finish()
            self._measure_noise()
        if self.assembled is None or self.spec.paused:
            return self._finish_quietly()
        if self._thumbs_dirty and not self.spec.moving and (
            time.monotonic() - self._thumbs_at > THUMBS_EVERY_S
        ):  # fmt: skip
            self.show_thumbs()
        # Under the hand the next picture does not wait for what was being denoised before.
        cleaning = self._cleaning or self._to_clean
        if cleaning and not (self.spec.moving and self._begins()):
            return self._clean_next()
        if not self._begins():
            return self._finish_quietly()
        if not self._read_light():
            self._advance()
        return True

    def _begins(self) -> bool:
        """Whether a pass is in progress or there is one to begin."""
        return self._run is not None or self._begin_next()

    def _read_light(self) -> bool:
        """Read a round of light into the cache if it is due: some before the first pass of a source,
        the others beside the passes."""
        run = self._run
        assert run is not None
        assert self.assembled is not None
        cache = run.passes.cache
        if cache is None:
            return False
        view, keys = self._guide_key(), [self._light_keys[i] for i in run.sources]
        done = [cache.rounds(k, view) for k in keys]
        least = min(done, default=ROUNDS)
        if least >= FIRST_ROUNDS and (least >= ROUNDS or not self._sliced):
            return False
        self._sliced = False
        behind = [i for i, n in enumerate(done) if n == least]
        cache.read(
            self.assembled, run.passes.view, [run.passes.active[i] for i in behind],
            [keys[i] for i in behind], bounces=self.spec.bounces, seen_from=view,
        )  # fmt: skip
        return True

    def _survey_finish(self) -> None:
        """Make occlusion and mattes when the finish asks for them, on the denoiser's thread."""
        finish = self.spec.finish
        if self._surveying is not None and self._surveying[0].done():
            job, key = self._surveying
            self._surveyed, self._surveying = (key, job.result()), None
            self._dirty = True
        if not (finish.occlusion.amount or finish.parts) or self.spec.moving or self._surveying:
            return
        assert self.assembled is not None
        radius = finish.occlusion.radius_m if finish.occlusion.amount else 0.0
        mattes = sorted(matte_of(p) for p in finish.parts)
        key = f"{self._guide_key()}{radius}{mattes}"
        if self._surveyed is None or self._surveyed[0] != key:
            job = self._pool.submit(self._surveyed_for, self.assembled, self.spec, radius)
            self._surveying = (job, key)

    def _surveyed_for(
        self, assembled: Assembled, spec: PictureSpec, radius_m: float
    ) -> dict[str, F4]:
        assert self.scene is not None
        made = self.scene.coverage(assembled, view_of(spec.view, spec.width_px, spec.height_px),
                                   spec.finish.parts, MATTE_SAMPLES)  # fmt: skip
        if radius_m > 0:
            view = view_of(spec.view, spec.width_px // 2 // 4 * 4, spec.height_px // 2)
            open_ = survey(assembled, view, {"occlusion"}, OPENNESS_SAMPLES, 0,
                           radius_m)["occlusion"]  # fmt: skip
            grey = np.repeat(open_[..., None], 3, axis=2)
            none = np.zeros_like(grey)
            made["occlusion"] = np.clip(self.denoise(grey, none + 0.5, none)[..., 0], 0, 1)
        return made

    def _finish_quietly(self) -> bool:
        jobs: list[Future[Any]] = [
            j[0] for j in (self._surveying, self._measuring) if j is not None
        ]
        if jobs:
            wait(jobs, timeout=0.02, return_when=FIRST_COMPLETED)
            return True
        if self._thumbs_dirty and not self.spec.moving:
            self.show_thumbs()
            return True
        if not self._settled and not self.spec.moving:
            self._settled = True
            self.show_picture(settled=True)
            return True
        return False

    def _drop_stale_run(self) -> None:
        """Abandon the pass in progress if nobody wants its films any more."""
        run = self._run
        if run is None:
            return
        wanted = {self._key(s, run.bounces) for s in self.spec.sources}
        # A direct picture under the hand is finished even if the hand has moved on: a stream of
        # new positions would otherwise starve the eye.
        self._to_clean = deque(c for c in self._to_clean if not self.spec.moving)
        following = run.bounces == 0 and self.spec.moving
        if not following and (not wanted.issuperset(run.keys) or self.spec.moving):
            self._run = None

    def _begin_next(self) -> bool:
        """Choose the next pass: what counts before what is switched off, small before large."""
        shining = [i for i, s in enumerate(self.spec.sources) if self._can_shine(s)]
        if self.spec.moving:
            return self._begin_draft() if self._draft is not None else self._begin_direct(shining)
        counting = [i for i in shining if self.spec.sources[i].counts]
        silent = [i for i in shining if i not in counting]
        bounces, most = self.spec.bounces, self.spec.max_samples
        missing = [i for i in counting if not self._has_bounced(self.spec.sources[i])]
        if missing:
            return self._begin(missing, 2, FIRST_BOUNCES if self._cache() is None else bounces)
        # Sources switched off need no full size: their little picture on the strip is fine.
        first = (counting, 2, HALF_SIZE_SAMPLES), (counting, 1, FIRST_SHARP), (silent, 4, 4)
        for rows, scale, limit in first:
            behind = self._at(rows, scale, bounces, min(limit, most))
            if behind:
                return self._begin(behind, scale, bounces)
        if time.monotonic() - self._started > self.spec.max_seconds:
            return False
        region = self._region()
        if region is not None:
            behind = self._behind_in(region, counting)
            if behind:
                return self._begin(behind, 1, bounces, region)
        full = self._at(counting, 1, bounces, min(FIRST_FULL, most)) or self._noisiest(counting)
        return bool(full) and self._begin(full, 1, bounces)

    def _region(self) -> Tiles | None:
        """Tiles of the full size that are refined first; None for no region."""
        if self.spec.region is None:
            return None
        height, width = self.size(1)
        left, top, right, bottom = self.spec.region
        tiles = np.zeros(tiles_of(height, width), bool)
        rows = slice(int(top * height) // BAND_ROWS, -(-int(bottom * height) // BAND_ROWS))
        columns = slice(int(left * width) // TILE_COLUMNS, -(-int(right * width) // TILE_COLUMNS))
        tiles[rows, columns] = True
        return tiles if tiles.any() else None

    def _behind_in(self, region: Tiles, rows: list[int]) -> list[int]:
        """Of some sources, those with fewest passes in a region, until it is calm or has its passes."""
        films = {i: self._film_at(i, 1, self.spec.bounces) for i in rows}
        if any(f is None or f.clean is None for f in films.values()):
            return []
        done = {
            i: int(f.accumulator.counts[region].sum(axis=-1).min())
            for i, f in films.items() if f is not None
        }  # fmt: skip
        least = min(done.values(), default=REGION_PASSES)
        if least >= min(REGION_PASSES, self.spec.max_samples) or self._noise_in(region) <= (
            self.spec.target_noise
        ):  # fmt: skip
            return []
        return [i for i in rows if done[i] == least]

    def _noise_in(self, region: Tiles) -> float:
        """Noise of the mix in some tiles before denoising, as a share of their light."""
        size = self.size(1)
        picture = np.zeros(size, np.float32)
        for s in self._counting:
            film = self._full(s)
            if film is not None and film.clean is not None:
                gain = (self.gains[s.id] * AP1_LUMINANCE).astype(np.float32)
                picture += film.clean @ gain
        error, light = (of_tiles(p)[region].mean() for p in (self._error(1, size), picture))
        # Before there are two passes nothing is known of it.
        return float(error / max(light, 1e-9)) if error > 0 else 1.0

    def _film_at(self, i: int, scale: int, bounces: int) -> Film | None:
        return self.films.get(self._key(self.spec.sources[i], bounces), scale)

    def _at(self, rows: list[int], scale: int, bounces: int, limit: int) -> list[int]:
        """Of some sources, those with fewest passes at a scale, if below a limit."""
        done = {}
        for i in rows:
            film = self._film_at(i, scale, bounces)
            done[i] = 0 if film is None else film.passes
        behind = [i for i in rows if done[i] < limit]
        if not behind:
            return []
        least = min(done[i] for i in behind)
        return [i for i in behind if done[i] == least]

    def _noisiest(self, rows: list[int]) -> list[int]:
        """Of some sources at full size, those whose noise is most seen in the mix; none if calm.

        Only films of equal age are traced together, because a pass has one place in the sequence.
        """
        films = {i: self._film_at(i, 1, self.spec.bounces) for i in rows}
        visible = {
            i: self._visible_noise(self.spec.sources[i], f)
            for i, f in films.items() if f is not None and f.passes < self.spec.max_samples
        }  # fmt: skip
        if not visible or self._noise_seen(1) <= self.spec.target_noise:
            return []
        worst = max(visible, key=lambda i: visible[i])
        age = {i: f.passes for i, f in films.items() if f is not None}
        return [i for i in visible if visible[i] > 0.25 * visible[worst] and age[i] == age[worst]]

    def _begin_direct(self, shining: list[int]) -> bool:
        """While a hand moves: direct light of what it moves, one pass at a quarter of the size."""
        rows = [
            i for i in shining
            if self.spec.sources[i].id in self._moved
            and self._best_fresh(self.spec.sources[i]) is None
        ]  # fmt: skip
        return bool(rows) and self._begin(rows, self._moving_scale, 0)

    def _begin_draft(self) -> bool:
        """While the camera moves: direct light of its strongest sources, and the guide."""
        assert self._draft is not None
        rows = [i for i, s in enumerate(self.spec.sources) if s.id in self._draft.sources]
        fresh = self.films.guides.get((self._guide_key(), self._moving_scale))
        if fresh is not None and fresh.film.passes > 0:
            return False
        return self._begin(rows, self._moving_scale, 0)

    def _begin(self, rows: list[int], scale: int, bounces: int, tiles: Tiles | None = None) -> bool:
        assert self.assembled is not None
        height, width = self.size(scale)
        keys = [self._key(self.spec.sources[i], bounces) for i in rows]
        films = [self.films.film(key, scale, height, width) for key in keys]
        guide = self.films.guide(self._guide_key(), scale, height, width)
        names = [self.spec.sources[i].id for i in rows]
        cache = self._cache() if bounces > 0 else None
        done = [f.passes if tiles is None else
                int(f.accumulator.counts[tiles].sum(axis=-1).min()) for f in films]  # fmt: skip
        # Under the hand every picture counts: three glances make a draft twice as slow.
        glances = (0,) if bounces == 0 else GLANCES if scale == 1 else FIRST_GLANCES
        passes = PassRun(
            self.assembled, view_of(self.spec.view, width, height), rows,
            [f.accumulator for f in films], guide.film, upto=min(done, default=guide.film.passes) + 1,
            bounces=bounces, calm=CALM, glances=glances, at_edges=scale == 1, guide_passes=GUIDE_PASSES, tiles=tiles,
            kept=self._kept(rows, scale, bounces, films, guide), cache=cache,
            cache_keys=[self._light_keys[i] for i in names],
        )  # fmt: skip
        self._run = _Run(passes, keys, names, scale, bounces, films, guide)
        return True

    def _kept(
        self, rows: list[int], scale: int, bounces: int, films: list[Film], guide: Guide
    ) -> F4 | None:
        """First surfaces, kept while only the sun moves: its light is all that changes."""
        assert self.assembled is not None
        only_sun = all(isinstance(self.spec.sources[i].settings, SunSettings) for i in rows)
        fresh = all(f.passes == 0 for f in films) and guide.film.passes > 0
        # Haze hangs before the first surface too.
        hazy = any(h.on for h in self.spec.air)
        if hazy or not (only_sun and fresh and bounces == 0 and self.spec.moving):
            return None
        key = (self._guide_key(), scale, id(self.assembled.top))
        if self._first is None or self._first[0] != key:
            height, width = self.size(scale)
            view = view_of(self.spec.view, width, height)
            self._first = (key, first_surfaces(self.assembled, view))
        return self._first[1]

    def _advance(self) -> None:
        """Go on with the pass in progress for a moment; when it is done, take it in."""
        run = self._run
        assert run is not None
        # A small picture under the hand is traced in one go.
        self._sliced = True
        in_one_go = run.bounces == 0 and self.spec.moving
        if not run.passes.advance(
            None if in_one_go else SLICE_S, called=None if in_one_go else self._called
        ):
            return
        self._run = None
        guide = run.guide
        guide.refresh(GUIDE_PASSES)
        for film, name in zip(run.films, run.sources, strict=True):
            if film.has_grown(CLEAN_AGAIN):
                self._to_clean.append((film, guide, name, run.scale))
        if run.bounces == 0 and self._draft is not None and not run.films:
            self.show_picture()
        if (run.bounces == 0 or run.scale == 4) and self._to_clean:
            # Small pictures are done at once: the hand is waiting.
            while self._to_clean:
                film, guide, name, scale = self._to_clean.popleft()
                self._take_clean(film, self._smoothed(film, guide), name, scale)
            self._after_cleaning({*run.sources})

    def _clean_next(self) -> bool:
        """Denoise in the background, so that level and exposure stay quick meanwhile."""
        if self._cleaning is None:
            film, guide, name, scale = self._to_clean.popleft()
            job = self._pool.submit(self._denoised, film, guide, self._quality(name))
            self._cleaning = (job, film, name, scale)
            self._cleaned.add(name)
        job, film, name, scale = self._cleaning
        wait([job], timeout=0.01)
        if job.done():
            self._cleaning = None
            self._take_clean(film, job.result(), name, scale)
            if not self._to_clean:
                self._after_cleaning(self._cleaned)
                self._cleaned = set()
        return True

    def _quality(self, name: str) -> str:
        """How well a source is denoised: what hardly shows is not worth the time."""
        spec = next((s for s in self.spec.sources if s.id == name), None)
        best = None if spec is None else self._best(spec)
        faint = best is not None and spec is not None and self._share(spec, best[0]) < FAINT
        return "fast" if faint else "high"

    def _take_clean(self, film: Film, picture: F4, name: str, scale: int) -> None:
        film.keep(picture)
        self._last[(name, scale)] = film

    def _measure_noise(self) -> None:
        """Find out what denoising leaves of the noise, on the denoiser's thread."""
        if self._measuring is not None and self._measuring[0].done():
            job, key = self._measuring
            self._left, self._measuring, self._dirty = (key, job.result()), None, True
        films = [self._full(s) for s in self._counting]
        if self._measuring is not None or self.spec.moving or not self.spec.denoise:
            return
        # As often as the films are denoised, and only when all of them are.
        if any(f is None or f.passes < 2 for f in films):
            return
        age = max((f.clean_samples for f in films if f is not None), default=0)
        guide = self.films.guides.get((self._guide_key(), 1))
        if age < 2 or (self._mix_key(), age) == self._measured or guide is None:
            return
        halves = self._halves()
        if halves is None or guide.albedo is None or guide.normal is None:
            return
        self._measured = (self._mix_key(), age)
        job = self._pool.submit(noise_left, self.denoise, *halves, guide.albedo, guide.normal)
        self._measuring = (job, self._mix_key())

    def _after_cleaning(self, names: set[str]) -> None:
        if self.spec.moving and self._draft_waits:
            return
        self.show_picture()
        if not self.spec.moving:
            self.show_thumbs(names)

    def _denoised(self, film: Film, guide: Guide, quality: str) -> F4:
        mean = film.accumulator.mean()
        if not self.spec.denoise or guide.albedo is None or guide.normal is None:
            return mean
        return self.denoise(mean, guide.albedo, guide.normal, quality,
                            film.accumulator.seen_mean(), seen_softly(self.spec))  # fmt: skip

    def _smoothed(self, film: Film, guide: Guide) -> F4:
        mean = film.accumulator.mean()
        if not self.spec.denoise or guide.albedo is None or guide.normal is None:
            return mean
        return smooth(mean, guide.albedo, guide.normal)


def describe_failure(error: BaseException) -> str:
    """Words for the artist about an error in the engine."""
    if isinstance(error, WestlightError):
        return str(error)
    return f"The picture could not be computed ({type(error).__name__}: {error})."
