"""What the live picture knows: scene and sources of a spec, their films, the best picture of each."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np

from westlight.core.colour import AP1_LUMINANCE
from westlight.core.finish import Mixture
from westlight.core.sources import Source
from westlight.core.transport.assemble import Assembled
from westlight.core.transport.cache import LightCache
from westlight.core.transport.film import F4
from westlight.core.warm import hazy_kernel_is_cached

from .films import Film, Films
from .scenery import Scenery, geometry_key
from .spec import PictureSpec, SkySettings, SourceSpec
from .translate import (
    gain_of,
    scene_key,
    source_of,
    traced_settings,
)

Send = Callable[[dict[str, Any], bytes], None]
#: Bounces of the very first picture after a change where no light is kept: enough to look right,
#: quick to trace.
FIRST_BOUNCES = 2
#: Sources traced under a moving camera, and the reflectance its even light is reckoned with.
DRAFT_SOURCES = 2
MEAN_ALBEDO = 0.35


@dataclass
class Draft:
    """The picture under a moving camera: direct light of its strongest sources, the rest evenly.

    ``ambient`` is what an even white surface sends back of all other light, ``outside`` what is seen
    through openings, RGB in cd/m²; both from the last picture before the camera moved.
    """

    sources: list[str]
    ambient: F4
    outside: F4


class LiveState:
    """A spec turned into the core's scene, with films kept by what their pixels depend on."""

    def __init__(self, send: Send) -> None:
        self.send = send
        self.spec = PictureSpec()
        self.films = Films()
        self.scene: Scenery | None = None
        self.assembled: Assembled | None = None
        self.gains: dict[str, np.ndarray] = {}
        self._assembled_key = ""
        self._last: dict[tuple[str, int], Film] = {}
        self._dirty = True
        self._thumbs_dirty = True
        self._thumbs_at = 0.0
        self._started = time.monotonic()
        self._keys: dict[tuple[str, int], str] = {}
        self._moved: set[str] = set()
        self._draft: Draft | None = None
        self._sources: dict[str, tuple[str, Source]] = {}
        self._mix = Mixture()
        #: Where the picture lies beyond an sRGB screen, while that is marked.
        self._beyond: np.ndarray = np.zeros((1, 1), bool)
        #: Noise that denoising leaves, with the key of the mix it was measured for.
        self._left: tuple[str, float] | None = None
        #: Light kept on the surfaces of the room, with the key of the scene it is for.
        self._kept_light: tuple[str, LightCache] | None = None
        self._light_keys: dict[str, str] = {}
        #: Occlusion and mattes of the view, with the key they were made for.
        self._surveyed: tuple[str, dict[str, F4]] | None = None
        self._shutter_s: float | None = None
        #: What is wrong with a view, with the key of its guide.
        self._doubt: tuple[str, str | None] = ("", None)

    def _key(self, source: SourceSpec, bounces: int) -> str:
        return self._keys[(source.id, bounces)]

    def _note_moved(self, before: PictureSpec) -> None:
        """Remember which sources the hand has moved since it took hold."""
        otherwise = before.view != self.spec.view or self._built_otherwise(before)
        if not self.spec.moving:
            self._moved = set()
            if otherwise:
                self._draft = None
            return
        if otherwise:
            if self._draft is None:
                self._draft = self._draft_of(before)
            self._moved |= set(self._draft.sources)
        old = {s.id: traced_settings(s) for s in before.sources}
        self._moved |= {
            s.id for s in self.spec.sources
            if not isinstance(s.settings, SkySettings) and old.get(s.id) != traced_settings(s)
        }  # fmt: skip

    def _built_otherwise(self, before: PictureSpec) -> bool:
        """Whether something of the building stands or looks otherwise than before."""
        old, new = before.model, self.spec.model
        if old is None or new is None or old is new:
            return old is not new
        return geometry_key(old) != geometry_key(new)

    @property
    def _draft_waits(self) -> bool:
        """Whether a draft has no surfaces yet to lay its even light on: without it, it is black."""
        if self._draft is None:
            return False
        guide = self.films.guides.get((self._guide_key(), self._moving_scale))
        return guide is None or guide.film.passes == 0

    def _draft_of(self, before: PictureSpec) -> Draft:
        """What a moving camera shows, from the films of the view it starts from."""
        light: list[tuple[float, str, F4]] = []
        rest = np.zeros(3, np.float32)
        outside = np.zeros(3, np.float32)
        for s in before.sources:
            found = self._best(s)
            if not s.counts or found is None or found[0].mean is None or s.id not in self.gains:
                continue
            film, scale = found
            gain = self.gains[s.id].astype(np.float32)
            guide = self.films.guides.get((self._guide_key(before), scale))
            seen = None if guide is None else guide.film.output_pass("outside")[..., None]
            picture = film.at(1) * gain
            if seen is None or seen.shape[:2] != picture.shape[:2]:
                seen = np.zeros((*picture.shape[:2], 1), np.float32)
            outside += (picture * seen).sum(axis=(0, 1)) / max(float(seen.sum()), 1.0)
            inside = (picture * (1 - seen)).mean(axis=(0, 1))
            if isinstance(s.settings, SkySettings):
                rest += inside
            else:
                light.append((float(inside @ AP1_LUMINANCE), s.id, inside))
        light.sort(key=lambda entry: entry[0], reverse=True)
        whole = sum(y for y, _, _ in light) + float(rest @ AP1_LUMINANCE)
        chosen = [i for y, i, _ in light[:DRAFT_SOURCES] if y > 0.02 * whole]
        for y, i, inside in light:
            # Of a source that is traced about half comes by bounces, which the draft leaves out.
            rest += inside * np.float32(0.4 if i in chosen else 1.0) if y > 0 else 0
        return Draft(chosen, rest / np.float32(MEAN_ALBEDO), outside)

    def _load(self) -> None:
        model = self.spec.model
        if model is None:
            self.scene = None
            return
        if self.scene is None or self.scene.key != geometry_key(model):
            adapted = self.scene and self.scene.adapted(model)
            if adapted is None:
                self.send({"kind": "note", "text": "Reading the model…"}, b"")
            # Edits of the same building: its last picture stands in, and undo finds the films again.
            if self.scene is None or not self.scene.is_of(model):
                self.films, self._last = Films(), {}
            self.scene = adapted or Scenery.of(model, self.scene)
            # Skies keep their tables; what shines of its own belongs to the materials that were.
            skies = {s.id for s in self.spec.sources if isinstance(s.settings, SkySettings)}
            self._sources = {i: known for i, known in self._sources.items() if i in skies}
            self._assembled_key = ""

    def _assemble(self) -> None:
        if self.scene is None or self.spec.model is None:
            self.assembled = None
            return
        north = self.spec.model.north_deg
        # A moved camera looks at the same scene.
        key = "|".join([scene_key(self.spec), *(s.id for s in self.spec.sources),
                        *(self._light_keys[s.id] for s in self.spec.sources)])  # fmt: skip
        sources = [self._source(s, north) for s in self.spec.sources]
        self.gains = {
            s.id: gain_of(s, source) for s, source in zip(self.spec.sources, sources, strict=True)
        }
        if key != self._assembled_key:
            if any(h.on for h in self.spec.air) and not hazy_kernel_is_cached():
                text = "Preparing for haze, once: this takes a minute or two …"
                self.send({"kind": "note", "text": text}, b"")
            self.assembled = self.scene.assemble(self.spec, sources, self.assembled)
            self._assembled_key = key

    def _source(self, spec: SourceSpec, north: float) -> Source:
        """The core's source of a spec; a sky stays as it was while the hand moves the sun."""
        assert self.scene is not None
        # A sky by hand or picture stays when the sun moves: its settings without the sun's place.
        sky = isinstance(spec.settings, SkySettings)
        own = traced_settings(spec) if sky else spec.settings.model_dump_json()
        behind = self.spec.finish.backdrop.path is not None
        key = f"{own}{north}{sky and behind}"
        known = self._sources.get(spec.id)
        if known is not None and (
            known[0] == key or (self.spec.moving and isinstance(spec.settings, SkySettings))
        ):
            return known[1]
        made = source_of(spec, north, self.scene.build.materials, behind)
        self._sources[spec.id] = (key, made)
        return made

    def size(self, scale: int) -> tuple[int, int]:
        """Height and width at a scale."""
        return self.spec.height_px // scale, self.spec.width_px // scale // 4 * 4

    def _cache(self) -> LightCache | None:
        """The light cache of the scene as it stands; None where every path is traced to its end."""
        # In haze light comes from the air as well, which no surface keeps.
        if self.spec.bounced != "kept" or any(h.on for h in self.spec.air):
            return None
        room = max(32, 2 * len(self.spec.sources))
        key = f"{scene_key(self.spec)}{room}"
        if self._kept_light is None or self._kept_light[0] != key:
            self._kept_light = (key, LightCache(room))
        return self._kept_light[1]

    def _can_shine(self, source: SourceSpec) -> bool:
        return float(self.gains[source.id].max()) > 0.0

    def _guide_key(self, spec: PictureSpec | None = None) -> str:
        spec = spec or self.spec
        return f"{scene_key(spec)}{spec.view.model_dump_json()}"

    def _visible_noise(self, source: SourceSpec, film: Film) -> float:
        """Noise of a source relative to the mean of the whole mix."""
        return 1.0 if film.mean is None else film.noise * self._share(source, film)

    def _share(self, source: SourceSpec, film: Film) -> float:
        """Share of the mix's light that is a source's, as far as it is known; 1 before that."""
        whole = self._mean_luminance()
        if film.mean is None or whole <= 0:
            return 1.0
        return float(film.mean @ (self.gains[source.id] * AP1_LUMINANCE)) / whole

    def _full(self, source: SourceSpec) -> Film | None:
        """The film of a source at full size with all bounces."""
        return self.films.get(self._key(source, self.spec.bounces), 1)

    @property
    def _counting(self) -> list[SourceSpec]:
        """Sources the picture is mixed of."""
        return [s for s in self.spec.sources if s.counts and self._can_shine(s)]

    def _halves(self) -> tuple[tuple[F4, F4], F4] | None:
        """Luminance of the mix from even and from odd passes at full size, and of what is seen in it; None before there are both."""
        even, odd, seen = np.zeros((3, *self.size(1)), np.float32)
        for s in self._counting:
            film = self._full(s)
            if film is None or film.passes < 2:
                return None
            gain = np.float32(self.gains[s.id] @ AP1_LUMINANCE)
            a, b = film.accumulator.halves()
            even, odd = even + a * gain, odd + b * gain
            seen += film.accumulator.seen_mean() @ (self.gains[s.id] * AP1_LUMINANCE).astype(
                np.float32
            )
        return (even, odd), seen

    def _mix_key(self) -> str:
        """Key of the films the picture is mixed of."""
        return "|".join(self._key(s, self.spec.bounces) for s in self._counting)

    def _noise_seen(self, scale: int) -> float:
        """Noise of the picture as it is shown: what denoising left when it was last measured for it,
        before that the noise of its films."""
        if scale == 1 and self._left is not None and self._left[0] == self._mix_key():
            return self._left[1]
        films = [
            (s, self.films.get(self._key(s, self.spec.bounces), scale)) for s in self._counting
        ]
        return sum(self._visible_noise(s, f) ** 2 for s, f in films if f is not None) ** 0.5

    def _mean_luminance(self) -> float:
        total = 0.0
        for s in self.spec.sources:
            found = self._best(s)
            if s.counts and found is not None and found[0].mean is not None:
                total += float(found[0].mean @ (self.gains[s.id] * AP1_LUMINANCE))
        return total

    def _best_fresh(self, source: SourceSpec, direct: bool = True) -> tuple[Film, int] | None:
        """The best film of a source as it is set now, and its scale; a direct picture if allowed."""
        n = self.spec.bounces
        kinds = [(1, n), (2, n), (2, FIRST_BOUNCES), (4, n)] + [(self._moving_scale, 0)] * direct
        for scale, bounces in kinds:
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
