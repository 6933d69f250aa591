"""The live picture: decides what to trace next, and always has something to show.

Three scales of the picture exist: 4 (a quarter of the size, direct light, while a hand moves),
2 and 1. Each source is denoised by itself whenever its samples have doubled, and the picture is the
weighted sum of these: so levels, colours and exposure never wait for light to be traced.
"""

from __future__ import annotations

import io
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from PIL import Image

from westlight import core
from westlight.core.colour import AP1_LUMINANCE
from westlight.core.errors import Cancelled, WestlightError
from westlight.core.finish import Shown, block_mean, mix, show
from westlight.core.sources import Source
from westlight.core.transport.build import Assembled, GeometryBuild, assemble
from westlight.core.transport.denoise import Denoiser
from westlight.core.transport.film import F4, guide_pass
from westlight.core.transport.render import add_passes, surface_under

from .films import Film, Films
from .spec import PictureSpec, SourceSpec, SunSettings
from .translate import CALM, ev_of, film_key, gain_of, scene_key, source_of, view_of

Send = Callable[[dict[str, Any], bytes], None]
#: Samples at scale 2 before the full size is begun.
HALF_SIZE_SAMPLES = 4
#: Bounces of the very first picture after a change: enough to look right, quick to trace.
FIRST_BOUNCES = 2
THUMB_WIDTH = 208


@dataclass
class _Scene:
    """The geometry of one key, kept while the sources around it change."""

    key: str
    build: GeometryBuild
    remarks: list[str] = field(default_factory=list)


class LivePicture:
    """State of the live engine. `apply` takes a new spec, `work` spends a little time on it."""

    def __init__(self, send: Send, interrupted: Callable[[], bool]) -> None:
        self.send = send
        self.interrupted = interrupted
        self.spec = PictureSpec()
        self.films = Films()
        self.denoise = Denoiser()
        self.scene: _Scene | None = None
        self.assembled: Assembled | None = None
        self.gains: dict[str, np.ndarray] = {}
        self._assembled_key = ""
        self._shown_for = ""
        self._last_clean: dict[tuple[str, int], F4] = {}
        self._dirty = True
        self._thumbs_dirty = True
        self._settled = False
        self._started = time.monotonic()
        self._direct_drawn = ""

    # -- taking in changes ---------------------------------------------------------------------

    def apply(self, spec: PictureSpec) -> None:
        """Take a new state; only what its keys say has changed is traced again."""
        traced_before = self._all_keys()
        self.spec = spec
        self._load()
        self._assemble()
        if self._all_keys() != traced_before:
            self._started = time.monotonic()
        self._settled = False
        self._dirty = self._thumbs_dirty = True

    def _all_keys(self) -> list[str]:
        return [film_key(self.spec, s, self.spec.bounces) for s in self.spec.sources]

    def _load(self) -> None:
        model = self.spec.model
        if model is None:
            self.scene = None
            return
        key = f"{model.path}|{model.up}"
        if self.scene is None or self.scene.key != key:
            self.send({"kind": "note", "text": "Reading the model…"}, b"")
            loaded = core.read_model(model.path, model.up)
            self.scene = _Scene(key, GeometryBuild(loaded.parts), loaded.remarks)
            self.films = Films()
            self._assembled_key = ""

    def _assemble(self) -> None:
        if self.scene is None or self.spec.model is None:
            self.assembled = None
            return
        north = self.spec.model.north_deg
        key = "|".join([scene_key(self.spec), *self._all_keys()])
        materials = self.scene.build.materials
        sources: list[Source] = [source_of(s, north, materials) for s in self.spec.sources]
        self.gains = {
            s.id: gain_of(s, source) for s, source in zip(self.spec.sources, sources, strict=True)
        }
        if key != self._assembled_key:
            self.assembled = assemble(self.scene.build, sources, self.spec.clay)
            self._assembled_key = key

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
        try:
            return self._trace_next() or self._finish_quietly()
        except Cancelled:
            return True

    def _finish_quietly(self) -> bool:
        if self._thumbs_dirty:
            self._thumbs_dirty = False
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

    def _trace_next(self) -> bool:
        shining = [i for i, s in enumerate(self.spec.sources) if self._can_shine(s)]
        if self.spec.moving:
            return self._trace_direct(shining)
        first = self._at(shining, 2, FIRST_BOUNCES, limit=1)
        missing = [
            i for i in first if self._film_at(i, 2, self.spec.bounces) is None
            and self._best_clean(self.spec.sources[i])[0] is None
        ]  # fmt: skip
        if missing:
            self._trace(missing, 2, FIRST_BOUNCES, 1)
            return True
        half = self._at(shining, 2, self.spec.bounces, HALF_SIZE_SAMPLES)
        if half:
            self._trace(half, 2, self.spec.bounces, 1)
            return True
        # Sources switched off need no full size: their little picture on the strip is fine.
        counting = [i for i in shining if self.spec.sources[i].counts]
        full = self._at(counting, 1, self.spec.bounces, self.spec.max_samples)
        full = self._noisiest(full)
        if not full:
            return False
        self._trace(full, 1, self.spec.bounces, 1)
        return True

    def _can_shine(self, source: SourceSpec) -> bool:
        return float(self.gains[source.id].max()) > 0.0

    def _film_at(self, i: int, scale: int, bounces: int) -> Film | None:
        return self.films.get(film_key(self.spec, self.spec.sources[i], bounces), scale)

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
        """Of some sources at full size, those whose noise is still seen in the mix."""
        films = [self._film_at(i, 1, self.spec.bounces) for i in rows]
        if any(f is None or f.passes < 4 for f in films):
            return rows
        visible = {
            i: self._visible_noise(self.spec.sources[i], f)
            for i, f in zip(rows, films, strict=True) if f is not None
        }  # fmt: skip
        if sum(v**2 for v in visible.values()) ** 0.5 <= self.spec.target_noise:
            return []
        worst = max(visible.values())
        return [i for i in rows if visible[i] > 0.25 * worst]

    def _visible_noise(self, source: SourceSpec, film: Film) -> float:
        """Noise of a source relative to the mean of the whole mix."""
        if film.clean is None:
            return 1.0
        part = float(film.clean.mean(axis=(0, 1)) @ (self.gains[source.id] * AP1_LUMINANCE))
        return film.noise * part / max(self._mean_luminance(), 1e-9)

    def _mean_luminance(self) -> float:
        total = 0.0
        for s in self.spec.sources:
            picture, _ = self._best_clean(s)
            if s.counts and picture is not None:
                total += float(picture.mean(axis=(0, 1)) @ (self.gains[s.id] * AP1_LUMINANCE))
        return total

    def _trace_direct(self, shining: list[int]) -> bool:
        """While a hand moves: direct light of moving suns, one pass at a quarter of the size."""
        rows = [
            i for i in shining
            if self._film_at(i, 2, self.spec.bounces) is None
            and isinstance(self.spec.sources[i].settings, SunSettings)
        ]  # fmt: skip
        rows = self._at(rows, 4, 0, limit=1)
        if not rows:
            return False
        self._trace(rows, 4, 0, 1)
        return True

    def _trace(self, rows: list[int], scale: int, bounces: int, samples: int) -> None:
        assert self.assembled is not None
        height, width = self.size(scale)
        view = view_of(self.spec.view, width, height)
        films = []
        for i in rows:
            key = film_key(self.spec, self.spec.sources[i], bounces)
            films.append(self.films.film(key, scale, height, width))
        guide = self.films.guide(self._guide_key(), scale, height, width)
        wants_guide = guide.passes < 8
        # A picture under the hand is never abandoned: a stream of new positions would starve it.
        stop = None if self.spec.moving else self.interrupted
        add_passes(
            self.assembled, view, rows, [f.accumulator for f in films],
            guide.sums if wants_guide else None,
            first_sample=films[0].passes, samples=samples, bounces=bounces, calm=CALM, stop=stop,
        )  # fmt: skip
        if wants_guide:
            guide.passes += samples
            if guide.passes in (1, 2, 4, 8):
                guide.albedo, guide.normal = (guide_pass(guide.sums, n) for n in ("albedo", "normal"))
        fresh = False
        for film, i in zip(films, rows, strict=True):
            film.passes += samples
            if film.passes >= 2 * film.clean_samples:
                self._clean(film, guide.albedo, guide.normal)
                self._last_clean[(self.spec.sources[i].id, scale)] = film.clean  # type: ignore[assignment]
                fresh = True
        if fresh:
            self.show_picture()
            self._thumbs_dirty = self._thumbs_dirty or not self.spec.moving
            if scale < 4 and not self.interrupted():
                self._thumbs_dirty = False
                self.show_thumbs()

    def _guide_key(self) -> str:
        view = self.spec.view.model_dump_json()
        return f"{scene_key(self.spec)}{view}"

    def _clean(self, film: Film, albedo: F4 | None, normal: F4 | None) -> None:
        mean = film.accumulator.mean()
        if self.spec.denoise and albedo is not None and normal is not None:
            # Sources have any amount of light; a common scale keeps the filter in its range.
            scale = float(mean.mean()) or 1.0
            film.clean = self.denoise(mean / scale, albedo, normal) * np.float32(scale)
        else:
            film.clean = mean
        film.clean_samples = film.passes
        film.noise = film.accumulator.noise()

    # -- showing -------------------------------------------------------------------------------

    def _best_clean(self, source: SourceSpec) -> tuple[F4 | None, int]:
        """The best picture there is of a source, and its scale (0: none)."""
        for scale, bounces in ((1, self.spec.bounces), (2, self.spec.bounces), (2, FIRST_BOUNCES),
                               (4, 0)):  # fmt: skip
            film = self.films.get(film_key(self.spec, source, bounces), scale)
            if film is not None and film.clean is not None:
                return film.clean, scale
        # Until the new picture is there the last one stands in: better than a black flash.
        for scale in (2, 1, 4):
            stale = self._last_clean.get((source.id, scale))
            if stale is not None and stale.shape[:2] == self.size(scale):
                return stale, scale
        return None, 0

    def _mixture(self) -> tuple[F4, int]:
        """Scene-linear picture of all sources that count, and its scale."""
        pictures: list[F4] = []
        gains: list[np.ndarray] = []
        scales: list[int] = []
        for s in self.spec.sources:
            if s.counts and self._can_shine(s):
                picture, scale = self._best_clean(s)
                if picture is not None:
                    pictures.append(picture)
                    gains.append(self.gains[s.id])
                    scales.append(scale)
        coarse = max(scales, default=4)
        height, width = self.size(coarse)
        same = [
            p if scale == coarse else block_mean(p, coarse // scale)[:height, :width]
            for p, scale in zip(pictures, scales, strict=True)
        ]
        return mix(same, gains, np.empty((height, width, 3), np.float32)), coarse

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
            self._film_at(i, scale, self.spec.bounces)
            for i, s in enumerate(self.spec.sources) if s.counts and self._can_shine(s)
        ]  # fmt: skip
        present = [f for f in counted if f is not None]
        noise = sum(
            self._visible_noise(s, f) ** 2
            for s in self.spec.sources if s.counts and self._can_shine(s)
            and (f := self.films.get(film_key(self.spec, s, self.spec.bounces), scale)) is not None
        ) ** 0.5  # fmt: skip
        self.send(
            {
                "kind": "frame",
                "format": "png" if settled else "jpeg",
                "width": shown.pixels.shape[1],
                "height": shown.pixels.shape[0],
                "scale": scale,
                "passes": min((f.passes for f in present), default=0),
                "noise": round(noise, 4),
                "seconds": round(time.monotonic() - self._started, 1),
                "milliseconds": round((time.perf_counter() - begun) * 1e3, 1),
                "settled": settled,
                "moving": self.spec.moving,
                "burnt": round(shown.burnt, 4),
                "black": round(shown.black, 4),
                "histogram": shown.histogram.reshape(64, 4).sum(axis=1).tolist(),
                "empty": self.assembled is None,
            },
            file.getvalue(),
        )

    def show_thumbs(self) -> None:
        """Send the little picture of every source: what it alone adds at this exposure."""
        if self.assembled is None:
            return
        for s in self.spec.sources:
            picture, _ = self._best_clean(s)
            if picture is None:
                picture = np.zeros((*self.size(4), 3), np.float32)
            factor = max(1, picture.shape[1] // THUMB_WIDTH)
            small = block_mean(picture, factor) * self.gains[s.id].astype(np.float32)
            shown = self.shown(small)
            file = io.BytesIO()
            Image.fromarray(shown.pixels).save(file, "JPEG", quality=85)
            head = {"kind": "contribution", "source": s.id, "burnt": round(shown.burnt, 4)}
            self.send(head, file.getvalue())

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


def describe_failure(error: BaseException) -> str:
    """Words for the artist about an error in the engine."""
    if isinstance(error, WestlightError):
        return str(error)
    return f"The picture could not be computed ({type(error).__name__}: {error})."
