"""What the live picture knows: scene and sources of a spec, their films, the best picture of each."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from westlight.core.analysis import find_openings
from westlight.core.colour import AP1_LUMINANCE
from westlight.core.finish import Mixture
from westlight.core.model import Part
from westlight.core.sources import Source
from westlight.core.transport.assemble import Assembled, assemble
from westlight.core.transport.build import GeometryBuild
from westlight.core.transport.film import F4
from westlight.core.transport.portals import Portal

from .films import Film, Films
from .spec import PictureSpec, SkySettings, SourceSpec
from .translate import (
    gain_of,
    model_of,
    parts_of,
    scene_key,
    source_of,
    traced_settings,
)

Send = Callable[[dict[str, Any], bytes], None]
#: Bounces of the very first picture after a change: enough to look right, quick to trace.
FIRST_BOUNCES = 2


@dataclass
class _Scene:
    """The geometry of one key, kept while the sources around it change."""

    key: str
    build: GeometryBuild
    parts: list[Part]
    openings: list[Portal] = field(default_factory=list)
    remarks: list[str] = field(default_factory=list)


class LiveState:
    """A spec turned into the core's scene, with films kept by what their pixels depend on."""

    def __init__(self, send: Send) -> None:
        self.send = send
        self.spec = PictureSpec()
        self.films = Films()
        self.scene: _Scene | None = None
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
        self._sources: dict[str, tuple[str, Source]] = {}
        self._mix = Mixture()
        #: Ambient occlusion of the view, with the key it was made for.
        self._openness: tuple[str, F4] | None = None

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
        key = f"{model.path}|{model.up}|{model.edits.model_dump_json(exclude={'not_clay'})}"
        if self.scene is None or self.scene.key != key:
            self.send({"kind": "note", "text": "Reading the model…"}, b"")
            parts = parts_of(model)
            build = GeometryBuild(parts)
            openings = find_openings(parts, assemble(build, []).top)
            self.scene = _Scene(key, build, parts, openings, model_of(model).remarks)
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
                closed=self.spec.closed, not_clay=self.spec.model.edits.not_clay,
            )  # fmt: skip
            self._assembled_key = key

    def _source(self, spec: SourceSpec, north: float) -> Source:
        """The core's source of a spec; a sky stays as it was while the hand moves the sun."""
        assert self.scene is not None
        # A sky by hand or picture stays when the sun moves: its settings without the sun's place.
        sky = isinstance(spec.settings, SkySettings)
        own = traced_settings(spec) if sky else spec.settings.model_dump_json()
        key = f"{own}{north}"
        known = self._sources.get(spec.id)
        if known is not None and (
            known[0] == key or (self.spec.moving and isinstance(spec.settings, SkySettings))
        ):
            return known[1]
        made = source_of(spec, north, self.scene.build.materials)
        self._sources[spec.id] = (key, made)
        return made

    def size(self, scale: int) -> tuple[int, int]:
        """Height and width at a scale."""
        return self.spec.height_px // scale, self.spec.width_px // scale // 4 * 4

    def _can_shine(self, source: SourceSpec) -> bool:
        return float(self.gains[source.id].max()) > 0.0

    def _guide_key(self) -> str:
        view = self.spec.view.model_dump_json()
        return f"{scene_key(self.spec)}{view}"

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
