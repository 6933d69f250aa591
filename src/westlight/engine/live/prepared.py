"""A spec made ready to be traced: building, sources, gains, and the keys of everything it shows, computed once."""

from __future__ import annotations

from collections import OrderedDict, deque
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from functools import cached_property
from weakref import WeakValueDictionary

import numpy as np

from westlight import core
from westlight.core.colour import AP1_LUMINANCE
from westlight.core.errors import WestlightError
from westlight.core.sources import Source
from westlight.core.transport.assemble import Assembled

from ..keys import Keys, keys_of, traced_settings
from ..scenery import Scenery, geometry_key
from ..spec import ModelSpec, PictureSpec, SkySettings, SourceSpec
from ..translate import gain_of, source_of, view_of
from .films import FilmKey, Size
from .memory import give_back

#: Bounces of the very first picture after a change where no light is kept: enough to look right,
#: quick to trace.
FIRST_BOUNCES = 2
#: Scales of the picture that exist: full, half, and a quarter.
SCALES = (1, 2, 4)


@dataclass(frozen=True)
class Prepared:
    """A spec with all that follows from it. Nothing of it ever changes; another spec makes another."""

    spec: PictureSpec = field(default_factory=PictureSpec)
    scene: Scenery | None = None
    assembled: Assembled | None = None
    assembled_key: str = ""
    sources: tuple[Source, ...] = ()
    gains: Mapping[str, np.ndarray] = field(default_factory=dict)
    keys: Keys = field(default_factory=Keys)
    #: Key of each film, by source and bounces.
    films: Mapping[tuple[str, int], str] = field(default_factory=dict)
    #: What the first surfaces depend on: geometry and view.
    guide_of: str = "nothing"

    def size(self, scale: int) -> Size:
        """Height and width at a scale."""
        return Size(self.spec.height_px // scale, self.spec.width_px // scale // 4 * 4)

    def view(self, scale: int) -> core.View:
        """The core's view at a scale."""
        height, width = self.size(scale)
        return view_of(self.spec.view, width, height)

    def film_key(self, source: SourceSpec, bounces: int, scale: int) -> FilmKey:
        """Key of the film of a source."""
        return FilmKey(self.films[(source.id, bounces)], self.size(scale))

    def guide_key(self, scale: int) -> FilmKey:
        """Key of the guide of the view."""
        return FilmKey(self.guide_of, self.size(scale))

    @cached_property
    def shown_keys(self) -> frozenset[FilmKey]:
        """Every film and guide that this spec can be shown with."""
        sizes = [self.size(scale) for scale in SCALES]
        return frozenset(
            FilmKey(k, size) for k in {*self.films.values(), self.guide_of} for size in sizes
        )

    @property
    def moving_scale(self) -> int:
        """Scale of the direct picture under a moving hand: about 320 pixels wide."""
        return 4 if self.spec.width_px > 720 else 2

    @property
    def keeps_light(self) -> bool:
        """Whether bounced light is read from the light cache."""
        # In haze light comes from the air as well, which no surface keeps.
        return self.spec.bounced == "kept" and not self.hazy

    @property
    def hazy(self) -> bool:
        """Whether there is haze in the air."""
        return any(h.on for h in self.spec.air)

    def can_shine(self, source: SourceSpec) -> bool:
        """Whether a source gives light at all."""
        return float(self.gains[source.id].max()) > 0.0

    def luminous_gain(self, source: SourceSpec) -> np.ndarray:
        """Factors (3,) from the traced colour of a source to its luminance in cd/m²."""
        return np.asarray(self.gains[source.id] * AP1_LUMINANCE)

    @cached_property
    def counting(self) -> tuple[SourceSpec, ...]:
        """Sources the picture is mixed of."""
        if self.assembled is None:
            return ()
        return tuple(s for s in self.spec.sources if s.counts and self.can_shine(s))

    @cached_property
    def mix_of(self) -> str:
        """Key of the films the picture is mixed of."""
        return "|".join(self.films[(s.id, self.spec.bounces)] for s in self.counting)

    @cached_property
    def shown_as(self) -> str:
        """Key of the films a picture is mixed of, and of how it is exposed and toned."""
        levels = [f"{s.id}{s.level}{self.gains[s.id].tolist()}" for s in self.counting]
        exposure, grade = self.spec.exposure, self.spec.finish.grade
        return (f"{self.guide_of}{self.size(1)}{self.mix_of}{levels}{exposure.model_dump_json()}"
                f"{grade.model_dump_json()}{self.spec.denoise}")  # fmt: skip

    def source_named(self, source_id: str) -> SourceSpec | None:
        """A source by its id."""
        return next((s for s in self.spec.sources if s.id == source_id), None)


def built_otherwise(a: PictureSpec, b: PictureSpec) -> bool:
    """Whether something of the building stands or looks otherwise in one spec than in the other."""
    if a.model == b.model or a.model is None or b.model is None:
        return a.model != b.model
    return geometry_key(a.model) != geometry_key(b.model)


class Buildings:
    """Built geometry by what it depends on, shared by all sessions; a few that nobody shows are kept."""

    def __init__(self, kept: int = 2) -> None:
        self._known: WeakValueDictionary[str, Scenery] = WeakValueDictionary()
        self._latest: deque[Scenery] = deque(maxlen=kept)

    def of(self, spec: PictureSpec, before: Scenery | None, say: Callable[[str], None]) -> Scenery:
        """The building of a spec: known, adapted from the one before, or read and built."""
        model = spec.model
        assert model is not None
        key = geometry_key(model)
        found = self._known.get(key)
        if found is None and before is not None:
            found = before.adapted(model, spec.moving)
        if found is None:
            say("Reading the building …")
            found = Scenery.of(model, before)
            give_back()
        self._known[found.key] = found
        if not any(s is found for s in self._latest):
            self._latest.append(found)
        return found


class Skies:
    """The core's skies by their settings, shared by all sessions: they carry their pictures and tables."""

    def __init__(self, kept: int = 6) -> None:
        self._known: OrderedDict[str, Source] = OrderedDict()
        self._kept = kept

    def of(self, key: str, make: Callable[[], Source]) -> Source:
        """The sky of a key, made if it is not known."""
        found = self._known.pop(key, None) or make()
        self._known[key] = found
        while len(self._known) > self._kept:
            self._known.popitem(last=False)
        return found


class Preparer:
    """Makes specs ready one after another; what they have in common is taken over."""

    def __init__(self, buildings: Buildings, skies: Skies, say: Callable[[str], None]) -> None:
        self._buildings, self._skies, self._say = buildings, skies, say
        #: The core's sources by id, with the settings they were made from.
        self._known: dict[str, tuple[str, Source]] = {}
        #: The last building, and the key of its geometry.
        self._model: tuple[ModelSpec | None, str] = (None, "")

    def prepare(self, spec: PictureSpec, before: Prepared) -> Prepared:
        """What follows from a spec; raises `WestlightError` for what cannot be, and then changes nothing."""
        if spec.model is None:
            return Prepared(spec)
        _check(spec)
        scene = before.scene
        if self._model[0] != spec.model:
            self._model = spec.model, geometry_key(spec.model)
        if scene is None or scene.key != self._model[1]:
            scene = self._buildings.of(spec, scene, self._say)
        known = self._known
        if scene is not before.scene:
            # Skies keep their tables; what shines of its own belongs to the materials that were.
            skies = {s.id for s in spec.sources if isinstance(s.settings, SkySettings)}
            known = {i: made for i, made in known.items() if i in skies}
        sources, made = self._sources(spec, scene, known)
        keys = keys_of(spec, (before.spec, before.keys))
        # A moved camera looks at the same scene.
        key = "|".join([keys.scene, *keys.light, *keys.light.values()])
        assembled = before.assembled
        if assembled is None or key != before.assembled_key or scene is not before.scene:
            assembled = scene.assemble(spec, sources, assembled)
        self._known = made
        return Prepared(
            spec, scene, assembled, key, tuple(sources),
            {s.id: gain_of(s, source) for s, source in zip(spec.sources, sources, strict=True)},
            keys, keys.films({spec.bounces, FIRST_BOUNCES, 0}),
            f"{keys.scene}{spec.view.model_dump_json()}",
        )  # fmt: skip

    def _sources(
        self, spec: PictureSpec, scene: Scenery, known: dict[str, tuple[str, Source]]
    ) -> tuple[list[Source], dict[str, tuple[str, Source]]]:
        """The core's sources of a spec, and what is known of them for the next one."""
        assert spec.model is not None
        sources, made = [], {}
        behind = spec.finish.backdrop.asset is not None
        for s in spec.sources:
            # A sky by hand or picture stays when the sun moves: its settings without the sun's place.
            sky = isinstance(s.settings, SkySettings)
            own = traced_settings(s) if sky else s.settings.model_dump_json()
            key = f"{own}{spec.model.north_deg}{sky and behind}"
            old = known.get(s.id)
            if old is None or (old[0] != key and not (sky and spec.moving)):

                def make(s: SourceSpec = s) -> Source:
                    assert spec.model is not None
                    return source_of(s, spec.model.north_deg, scene.build.materials, behind)

                old = (key, self._skies.of(f"{s.id}{key}", make) if sky else make())
            made[s.id] = old
            sources.append(old[1])
        return sources, made


def _check(spec: PictureSpec) -> None:
    """Raise `WestlightError` for a camera that looks nowhere."""
    looking = np.subtract(spec.view.target, spec.view.position)
    if not np.isfinite(looking).all() or float(np.abs(looking).max()) < 1e-6:
        raise WestlightError("The camera and its target are in the same place: move one of them.")
