"""The live picture: decides what to trace next, and always has something to show.

Three scales of the picture exist: 4 (a quarter of the size, direct light, while a hand moves),
2 and 1. Each source is denoised by itself whenever its samples have multiplied, and the picture is the
weighted sum of these: so levels, colours and exposure never wait for light to be traced, nor for
the denoiser, which works on a thread of its own.
"""

from __future__ import annotations

import io
import time
from collections import deque
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor, wait
from dataclasses import asdict, dataclass, field
from typing import Any

import numpy as np
from PIL import Image

from westlight import core
from westlight.core.analysis import find_openings, read_spot, remedy
from westlight.core.colour import AP1_LUMINANCE, swatch
from westlight.core.errors import WestlightError
from westlight.core.finish import Mixture, Shown, metered_ev, show
from westlight.core.photometry import shutter_for_ev
from westlight.core.sources import Source
from westlight.core.transport.assemble import Assembled, assemble
from westlight.core.transport.build import GeometryBuild
from westlight.core.transport.denoise import Denoiser
from westlight.core.transport.film import F4
from westlight.core.transport.portals import Portal
from westlight.core.transport.render import (
    PassRun,
    first_surfaces,
    irradiance_at,
    surface_under,
)
from westlight.core.transport.smooth import smooth

from .films import Film, Films, Guide
from .spec import PictureSpec, SkySettings, SourceSpec, SunSettings
from .translate import (
    CALM,
    ev_of,
    film_keys,
    gain_of,
    scene_key,
    source_of,
    traced_settings,
    view_of,
)

Send = Callable[[dict[str, Any], bytes], None]
#: Samples at scale 2 before the full size is begun.
HALF_SIZE_SAMPLES = 4
#: A film is denoised again when it has this many times the samples of the last time: often enough
#: to see progress, seldom enough that denoising stays a small share of the work.
CLEAN_AGAIN = 3
#: Passes that albedo and normals are averaged over.
GUIDE_PASSES = 8
#: Samples every source gets at full size before their noise decides who gets more.
FIRST_FULL = 4
#: Bounces of the very first picture after a change: enough to look right, quick to trace.
FIRST_BOUNCES = 2
THUMB_WIDTH = 208
#: Seconds between two rounds of all little pictures while levels or exposure are dragged.
THUMBS_EVERY_S = 0.3
#: Paths the meter sends from a surface to read its illuminance.
METER_SAMPLES = 256
#: Seconds of tracing between two looks at the pipe: a fraction of a blink.
SLICE_S = 0.04


@dataclass
class _Scene:
    """The geometry of one key, kept while the sources around it change."""

    key: str
    build: GeometryBuild
    openings: list[Portal] = field(default_factory=list)
    remarks: list[str] = field(default_factory=list)


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


class LivePicture:
    """State of the live engine. `apply` takes a new spec, `work` spends a little time on it."""

    def __init__(self, send: Send) -> None:
        self.send = send
        self.spec = PictureSpec()
        self.films = Films()
        self.denoise = Denoiser()
        self.scene: _Scene | None = None
        self.assembled: Assembled | None = None
        self.gains: dict[str, np.ndarray] = {}
        self._assembled_key = ""
        self._shown_for = ""
        self._last: dict[tuple[str, int], Film] = {}
        self._dirty = True
        self._thumbs_dirty = True
        self._thumbs_at = 0.0
        self._settled = False
        self._started = time.monotonic()
        self._run: _Run | None = None
        self._keys: dict[tuple[str, int], str] = {}
        self._moved: set[str] = set()
        self._pool = ThreadPoolExecutor(1)
        self._to_clean: deque[tuple[Film, Guide, str, int]] = deque()
        self._cleaning: tuple[Future[F4], Film, str, int] | None = None
        self._cleaned: set[str] = set()
        self._sources: dict[str, tuple[str, Source]] = {}
        self._mix = Mixture()
        self._first: tuple[tuple[str, int, int], F4] | None = None

    # -- taking in changes ---------------------------------------------------------------------

    def apply(self, spec: PictureSpec) -> None:
        """Take a new state; only what its keys say has changed is traced again."""
        before, self.spec = self.spec, spec
        keys_before = self._keys
        self._keys = film_keys(spec, {spec.bounces, FIRST_BOUNCES, 0})
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

    def _key(self, source: SourceSpec, bounces: int) -> str:
        return self._keys[(source.id, bounces)]

    def _note_moved(self, before: PictureSpec) -> None:
        """Remember which sources the hand has moved since it took hold."""
        if not self.spec.moving:
            self._moved = set()
            return
        old = {s.id: traced_settings(s) for s in before.sources}
        self._moved |= {
            s.id for s in self.spec.sources
            if not isinstance(s.settings, SkySettings) and old.get(s.id) != traced_settings(s)
        }  # fmt: skip

    def _load(self) -> None:
        model = self.spec.model
        if model is None:
            self.scene = None
            return
        key = f"{model.path}|{model.up}"
        if self.scene is None or self.scene.key != key:
            self.send({"kind": "note", "text": "Reading the model…"}, b"")
            loaded = core.read_model(model.path, model.up)
            build = GeometryBuild(loaded.parts)
            openings = find_openings(loaded.parts, assemble(build, []).top)
            self.scene = _Scene(key, build, openings, loaded.remarks)
            self.films, self._last, self._sources = Films(), {}, {}
            self._assembled_key = ""

    def _assemble(self) -> None:
        if self.scene is None or self.spec.model is None:
            self.assembled = None
            return
        north = self.spec.model.north_deg
        key = "|".join([scene_key(self.spec), *(s.id for s in self.spec.sources),
                        *(self._key(s, 0) for s in self.spec.sources)])  # fmt: skip
        sources = [self._source(s, north) for s in self.spec.sources]
        self.gains = {
            s.id: gain_of(s, source) for s, source in zip(self.spec.sources, sources, strict=True)
        }
        if key != self._assembled_key:
            portals = self.scene.openings if self.spec.portals or self.spec.closed else []
            self.assembled = assemble(
                self.scene.build, sources, self.spec.clay, self.assembled, portals,
                closed=self.spec.closed,
            )  # fmt: skip
            self._assembled_key = key

    def _source(self, spec: SourceSpec, north: float) -> Source:
        """The core's source of a spec; a sky stays as it was while the hand moves the sun."""
        assert self.scene is not None
        key = f"{spec.settings.model_dump_json()}{north}"
        known = self._sources.get(spec.id)
        if known is not None and (
            known[0] == key or (self.spec.moving and isinstance(spec.settings, SkySettings))
        ):
            return known[1]
        made = source_of(spec, north, self.scene.build.materials)
        self._sources[spec.id] = (key, made)
        return made

    # -- spending time -------------------------------------------------------------------------

    def work(self) -> bool:
        """Do the most useful next thing; returns False when there is nothing left to do."""
        if self._dirty:
            self._dirty = False
            self.show_picture()
            if self.assembled is None:
                return False
        if self.assembled is None or self.spec.paused:
            return self._finish_quietly()
        if self._thumbs_dirty and not self.spec.moving and (
            time.monotonic() - self._thumbs_at > THUMBS_EVERY_S
        ):  # fmt: skip
            self.show_thumbs()
        if self._cleaning or self._to_clean:
            return self._clean_next()
        if self._run is None and not self._begin_next():
            return self._finish_quietly()
        self._advance()
        return True

    def _finish_quietly(self) -> bool:
        if self._thumbs_dirty and not self.spec.moving:
            self.show_thumbs()
            return True
        if not self._settled and not self.spec.moving:
            self._settled = True
            self.show_picture(settled=True)
            return True
        return False

    def size(self, scale: int) -> tuple[int, int]:
        """Height and width at a scale."""
        return self.spec.height_px // scale, self.spec.width_px // scale // 4 * 4

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
            return self._begin_direct(shining)
        counting = [i for i in shining if self.spec.sources[i].counts]
        silent = [i for i in shining if i not in counting]
        bounces, most = self.spec.bounces, self.spec.max_samples
        missing = [i for i in counting if not self._has_bounced(self.spec.sources[i])]
        if missing:
            return self._begin(missing, 2, FIRST_BOUNCES)
        # Sources switched off need no full size: their little picture on the strip is fine.
        for rows, scale, limit in ((counting, 2, HALF_SIZE_SAMPLES), (silent, 4, 4)):
            behind = self._at(rows, scale, bounces, limit)
            if behind:
                return self._begin(behind, scale, bounces)
        if time.monotonic() - self._started > self.spec.max_seconds:
            return False
        full = self._at(counting, 1, bounces, min(FIRST_FULL, most)) or self._noisiest(counting)
        return bool(full) and self._begin(full, 1, bounces)

    def _can_shine(self, source: SourceSpec) -> bool:
        return float(self.gains[source.id].max()) > 0.0

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
        if sum(v**2 for v in visible.values()) ** 0.5 <= self.spec.target_noise:
            return []
        worst = max(visible, key=lambda i: visible[i])
        age = {i: f.passes for i, f in films.items() if f is not None}
        return [i for i in visible if visible[i] > 0.25 * visible[worst] and age[i] == age[worst]]

    def _visible_noise(self, source: SourceSpec, film: Film) -> float:
        """Noise of a source relative to the mean of the whole mix."""
        if film.mean is None:
            return 1.0
        part = float(film.mean @ (self.gains[source.id] * AP1_LUMINANCE))
        return film.noise * part / max(self._mean_luminance(), 1e-9)

    def _mean_luminance(self) -> float:
        total = 0.0
        for s in self.spec.sources:
            found = self._best(s)
            if s.counts and found is not None and found[0].mean is not None:
                total += float(found[0].mean @ (self.gains[s.id] * AP1_LUMINANCE))
        return total

    def _begin_direct(self, shining: list[int]) -> bool:
        """While a hand moves: direct light of what it moves, one pass at a quarter of the size."""
        rows = [
            i for i in shining
            if self.spec.sources[i].id in self._moved
            and self._best_fresh(self.spec.sources[i]) is None
        ]  # fmt: skip
        return bool(rows) and self._begin(rows, self._moving_scale, 0)

    def _begin(self, rows: list[int], scale: int, bounces: int) -> bool:
        assert self.assembled is not None
        height, width = self.size(scale)
        keys = [self._key(self.spec.sources[i], bounces) for i in rows]
        films = [self.films.film(key, scale, height, width) for key in keys]
        guide = self.films.guide(self._guide_key(), scale, height, width)
        passes = PassRun(
            self.assembled, view_of(self.spec.view, width, height), rows,
            [f.accumulator for f in films], guide.film, upto=min(f.passes for f in films) + 1,
            bounces=bounces, calm=CALM, guide_passes=GUIDE_PASSES,
            kept=self._kept(rows, scale, bounces, films, guide),
        )  # fmt: skip
        names = [self.spec.sources[i].id for i in rows]
        self._run = _Run(passes, keys, names, scale, bounces, films, guide)
        return True

    def _kept(
        self, rows: list[int], scale: int, bounces: int, films: list[Film], guide: Guide
    ) -> F4 | None:
        """First surfaces, kept while only the sun moves: its light is all that changes."""
        assert self.assembled is not None
        only_sun = all(isinstance(self.spec.sources[i].settings, SunSettings) for i in rows)
        fresh = all(f.passes == 0 for f in films) and guide.film.passes > 0
        if not (only_sun and fresh and bounces == 0 and self.spec.moving):
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
        if not run.passes.advance(None if run.bounces == 0 and self.spec.moving else SLICE_S):
            return
        self._run = None
        guide = run.guide
        guide.refresh(GUIDE_PASSES)
        for film, name in zip(run.films, run.sources, strict=True):
            if film.passes >= CLEAN_AGAIN * film.clean_samples:
                self._to_clean.append((film, guide, name, run.scale))
        if (run.bounces == 0 or run.scale == 4) and self._to_clean:
            # Small pictures are done at once: the hand is waiting.
            while self._to_clean:
                film, guide, name, scale = self._to_clean.popleft()
                self._take_clean(film, self._smoothed(film, guide), name, scale)
            self._after_cleaning({*run.sources})

    def _guide_key(self) -> str:
        view = self.spec.view.model_dump_json()
        return f"{scene_key(self.spec)}{view}"

    def _clean_next(self) -> bool:
        """Denoise in the background, so that level and exposure stay quick meanwhile."""
        if self._cleaning is None:
            film, guide, name, scale = self._to_clean.popleft()
            job = self._pool.submit(self._denoised, film, guide)
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

    def _take_clean(self, film: Film, picture: F4, name: str, scale: int) -> None:
        film.keep(picture)
        self._last[(name, scale)] = film

    def _after_cleaning(self, names: set[str]) -> None:
        self.show_picture()
        if not self.spec.moving:
            self.show_thumbs(names)

    def _denoised(self, film: Film, guide: Guide) -> F4:
        mean = film.accumulator.mean()
        if not self.spec.denoise or guide.albedo is None or guide.normal is None:
            return mean
        # Sources have any amount of light; a common scale keeps the filter in its range.
        scale = float(mean.mean()) or 1.0
        return self.denoise(mean / scale, guide.albedo, guide.normal) * np.float32(scale)

    def _smoothed(self, film: Film, guide: Guide) -> F4:
        mean = film.accumulator.mean()
        if not self.spec.denoise or guide.albedo is None or guide.normal is None:
            return mean
        return smooth(mean, guide.albedo, guide.normal)

    # -- showing -------------------------------------------------------------------------------

    def _best_fresh(self, source: SourceSpec) -> tuple[Film, int] | None:
        """The best film of a source as it is set now, and its scale."""
        for scale, bounces in ((1, self.spec.bounces), (2, self.spec.bounces), (2, FIRST_BOUNCES),
                               (4, self.spec.bounces), (self._moving_scale, 0)):  # fmt: skip
            film = self.films.get(self._key(source, bounces), scale)
            if film is not None and film.clean is not None:
                return film, scale
        return None

    def _has_bounced(self, source: SourceSpec) -> bool:
        """Whether a picture with bounced light is there or being denoised."""
        films = (
            self.films.get(self._key(source, bounces), scale)
            for scale, bounces in ((1, self.spec.bounces), (2, self.spec.bounces),
                                   (2, FIRST_BOUNCES))
        )  # fmt: skip
        return any(f is not None and f.passes > 0 for f in films)

    @property
    def _moving_scale(self) -> int:
        """Scale of the direct picture under a moving hand: about 320 pixels wide."""
        return 4 if self.spec.width_px > 720 else 2

    def _best(self, source: SourceSpec) -> tuple[Film, int] | None:
        """As `_best_fresh`; until there is one, the last picture stands in: no black flash."""
        found = self._best_fresh(source)
        if found is not None:
            return found
        # What the hand moves shows its latest direct picture, everything else its best.
        under_hand = (self._moving_scale, 2, 1)
        for scale in under_hand if source.id in self._moved else (2, 1, 4):
            stale = self._last.get((source.id, scale))
            if stale is not None and stale.clean is not None and (
                stale.clean.shape[:2] == self.size(scale)
            ):  # fmt: skip
                return stale, scale
        return None

    def _mixture(self) -> tuple[F4, int]:
        """Scene-linear picture of all sources that count, and its scale."""
        found = [
            (best, self.gains[s.id]) for s in self.spec.sources
            if s.counts and self._can_shine(s) and (best := self._best(s)) is not None
        ]  # fmt: skip
        coarse = max((scale for (_, scale), _ in found), default=4)
        height, width = self.size(coarse)
        pictures = [film.at(coarse // scale) for (film, scale), _ in found]
        if any(p.shape[:2] != (height, width) for p in pictures):
            pictures = [p[:height, :width] for p in pictures]
        if not found:
            return np.zeros((height, width, 3), np.float32), coarse
        return self._mix.of(pictures, [gain for _, gain in found]), coarse

    def shown(self, picture: F4) -> Shown:
        """A scene-linear picture under the present exposure and tone."""
        e = self.spec.exposure
        return show(picture, ev_of(e), e.kelvin, e.tint, e.tone)

    def show_picture(self, settled: bool = False) -> None:
        """Send the present picture; PNG once it has settled, JPEG on the way."""
        begun = time.perf_counter()
        picture, scale = self._mixture()
        shown = self.shown(picture)
        file = io.BytesIO()
        if settled:
            Image.fromarray(shown.pixels).save(file, "PNG", compress_level=1)
        else:
            Image.fromarray(shown.pixels).save(file, "JPEG", quality=90)
        counted = [
            (s, self.films.get(self._key(s, self.spec.bounces), scale))
            for s in self.spec.sources if s.counts and self._can_shine(s)
        ]  # fmt: skip
        noise = sum(self._visible_noise(s, f) ** 2 for s, f in counted if f is not None) ** 0.5
        self.send(
            {
                "kind": "frame",
                "format": "png" if settled else "jpeg",
                "width": shown.pixels.shape[1],
                "height": shown.pixels.shape[0],
                "scale": scale,
                "passes": min((0 if f is None else f.clean_samples for _, f in counted), default=0),
                "noise": round(noise, 4),
                "seconds": round(time.monotonic() - self._started, 1),
                "milliseconds": round((time.perf_counter() - begun) * 1e3, 1),
                "settled": settled,
                "moving": self.spec.moving,
                "ev": round(ev_of(self.spec.exposure), 2),
                "metered_s": self._metered(picture),
                "burnt": round(shown.burnt, 4),
                "black": round(shown.black, 4),
                "histogram": shown.histogram.reshape(64, 4).sum(axis=1).tolist(),
                "empty": self.assembled is None,
                "openings": 0 if self.scene is None else len(self.scene.openings),
                "noisy": self._noise_by_source(),
            },
            file.getvalue(),
        )

    def _noise_by_source(self) -> list[dict[str, Any]]:
        """Who makes the noise of the mix: noise of each source, direct and bounced, worst first."""
        whole = max(self._mean_luminance(), 1e-9)
        out: list[dict[str, Any]] = []
        for s in self.spec.sources:
            film = self.films.get(self._key(s, self.spec.bounces), 1)
            if not s.counts or film is None or film.mean is None:
                continue
            share = float(film.mean @ (self.gains[s.id] * AP1_LUMINANCE)) / whole
            direct, bounced = film.noise_parts
            words = remedy(s.name, isinstance(s.settings, SkySettings), direct, bounced,
                           self.spec.portals or self.spec.closed)  # fmt: skip
            out.append({"source": s.id, "noise": round(film.noise * share, 4),
                        "direct": round(direct * share, 4), "bounced": round(bounced * share, 4), "remedy": words})  # fmt: skip
        return sorted(out, key=lambda n: float(n["noise"]), reverse=True)[:6]

    def show_thumbs(self, only: set[str] | None = None) -> None:
        """Send the little picture of sources: what each alone adds at this exposure."""
        if only is None:
            self._thumbs_dirty, self._thumbs_at = False, time.monotonic()
        if self.assembled is None:
            return
        for s in self.spec.sources:
            if only is not None and s.id not in only:
                continue
            found = self._best(s)
            if found is None:
                small = np.zeros((self.size(4)[0] // 2, self.size(4)[1] // 2, 3), np.float32)
            else:
                film, scale = found
                factor = max(1, self.size(scale)[1] // THUMB_WIDTH)
                small = film.at(factor) * self.gains[s.id].astype(np.float32)
            shown = self.shown(small)
            file = io.BytesIO()
            Image.fromarray(shown.pixels).save(file, "JPEG", quality=85)
            head = {
                "kind": "contribution",
                "source": s.id,
                "burnt": round(shown.burnt, 4),
                "colour": swatch(self.gains[s.id]),
            }
            self.send(head, file.getvalue())

    def _metered(self, picture: F4) -> float | None:
        e, ev = self.spec.exposure, metered_ev(picture)
        return None if ev is None else shutter_for_ev(ev, e.f_number, e.iso)

    # -- answering -----------------------------------------------------------------------------

    def pick(self, x: float, y: float) -> dict[str, Any]:
        """The solid surface under a point of the picture (0…1 from top left)."""
        if self.assembled is None:
            return {"hit": False}
        view = view_of(self.spec.view, self.spec.width_px, self.spec.height_px)
        hit = surface_under(self.assembled, *view.ray(x, y))
        if hit is None:
            return {"hit": False}
        return {
            "hit": True,
            "position": [round(float(v), 4) for v in hit[:3]],
            "normal": [round(float(v), 4) for v in hit[3:6]],
            "distance": round(float(hit[6]), 3),
        }

    def meter(self, x: float, y: float) -> dict[str, Any]:
        """Reading at a point of the picture (0…1 from top left), a spot of about 1 % of its width.

        Luminance in cd/m², stops from middle grey, working-space RGB, share of each source; and on
        a surface its illuminance in lux, traced there.
        """
        found = {
            s.id: (best[0].at(1), self.gains[s.id]) for s in self.spec.sources
            if s.counts and self._can_shine(s) and (best := self._best(s)) is not None
        }  # fmt: skip
        spot = read_spot(found, x, y, ev_of(self.spec.exposure))
        reading: dict[str, Any] = {**self.pick(x, y), **asdict(spot), "lux": None}
        if reading["hit"] and self.assembled is not None:
            normal = np.array(reading["normal"])
            at = np.array(reading["position"]) + 1e-3 * normal
            light = irradiance_at(self.assembled, [at], [normal], samples=METER_SAMPLES, seed=1,
                                  bounces=2)[0]  # fmt: skip
            counted = [s.counts for s in self.spec.sources]
            gains = np.array([self.gains[s.id] for s in self.spec.sources])
            reading["lux"] = float(((light * gains) @ AP1_LUMINANCE)[counted].sum())
        return reading


def describe_failure(error: BaseException) -> str:
    """Words for the artist about an error in the engine."""
    if isinstance(error, WestlightError):
        return str(error)
    return f"The picture could not be computed ({type(error).__name__}: {error})."
