"""Units of a still: a few passes of some sources over a block of rows.

Each is a pure function of a scene package and the numbers of its passes, so whoever traces it, in whatever
order, gets the same sums; and they are added to the film in the order of their numbers.
"""

from __future__ import annotations

import tempfile
import threading
from collections import OrderedDict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache
from importlib.metadata import version
from pathlib import Path
from typing import NamedTuple

from westlight.core import LightCache, View
from westlight.core.compiled import keep_kernels
from westlight.core.transport.assemble import Assembled
from westlight.core.transport.clamp import automatic_clamps
from westlight.core.transport.film import BAND_ROWS, PICTURES, Accumulator, GuideFilm, bands_of
from westlight.core.transport.render import PassRun, Window

from .package import Package
from .scenery import scenery_of
from .spec import PictureSpec
from .translate import CALM, view_of

#: Passes of a unit, and pixels × sources in it: a few seconds of work on two cores.
UNIT_PASSES, UNIT_SIZE = 2, 800_000
#: Rounds of light read before the first unit, for pictures with kept light.
CACHE_ROUNDS = 48
#: Scenes a worker keeps set up.
_STAGES_KEPT = 2


class Unit(NamedTuple):
    """Passes ``first`` … ``first + passes − 1`` of some sources (rows of the shining ones) in a window."""

    sources: tuple[int, ...]
    first: int
    passes: int
    window: Window
    guide: bool

    @property
    def name(self) -> str:
        """A name that no other unit of a still has."""
        w = self.window
        rows = ".".join(str(s) for s in self.sources)
        return f"{self.first:06d}-{self.passes}-{w.row0:05d}-{w.column0:05d}-{rows}"


class Tracing(NamedTuple):
    """What all units of a still have in common."""

    seed: int
    bounces: int
    apart: bool


class Traced(NamedTuple):
    """Sums of a unit: a film of its window for each of its sources, and the guide or None."""

    films: list[Accumulator]
    guide: GuideFilm | None


def units_of(
    window: Window, sources: Sequence[int], first: int, count: int, guide: bool
) -> list[Unit]:
    """The units of some passes over a window; cut by its size alone, never by who will trace them."""
    across = max(window.column1 - window.column0, 1) * max(len(sources), 1) * BAND_ROWS
    rows = max(1, round(UNIT_SIZE / across)) * BAND_ROWS
    return [
        Unit(tuple(sources), n, min(UNIT_PASSES, first + count - n),
             window._replace(row0=r, row1=min(r + rows, window.row1)), guide)
        for n in range(first, first + count, UNIT_PASSES)
        for r in range(window.row0, window.row1, rows)
    ]  # fmt: skip


@dataclass
class Stage:
    """A package set up for tracing."""

    assembled: Assembled
    view: View
    shining: list[int]
    spec: PictureSpec
    cache: LightCache | None = None
    #: Limits to single samples of bounced light, by source; none if speckles are left.
    clamps: tuple[float, ...] = ()
    ready: bool = False

    def names(self, sources: Sequence[int]) -> list[str]:
        """Keys of sources in the light cache."""
        return [str(self.shining[i]) for i in sources]

    def prepare(self, tracing: Tracing) -> None:
        """Choose the limits of speckles, and gather the light of a still with kept light; the same on every
        worker."""
        if self.ready:
            return
        self.ready = True
        if self.spec.speckles == "cut" and self.shining:
            self.clamps = tuple(automatic_clamps(
                self.assembled, self.view, self.shining, tracing.seed, tracing.bounces, CALM
            ))  # fmt: skip
        if self.spec.bounced != "kept" or len(self.assembled.air) or not self.shining:
            return
        self.cache = LightCache(len(self.shining))
        for _ in range(CACHE_ROUNDS):
            self.cache.read(
                self.assembled, self.view, self.shining, self.names(range(len(self.shining))),
                bounces=tracing.bounces, seed=tracing.seed,
            )  # fmt: skip


_stages: OrderedDict[str, Stage] = OrderedDict()
_packages: OrderedDict[str, Package] = OrderedDict()
_lock = threading.Lock()


def keep_stage(key: str, stage: Stage) -> None:
    """Keep a scene that is set up already."""
    _stages[key] = stage
    while len(_stages) > _STAGES_KEPT:
        _stages.popitem(last=False)


def keep_package(package: Package) -> None:
    """Take a package on a worker, to be set up when its first unit comes."""
    _packages[package.key] = package
    while len(_packages) > _STAGES_KEPT:
        _packages.popitem(last=False)


def _stage(key: str) -> Stage | None:
    """The scene of a package, set up now if it must be; None if the package was never sent."""
    with _lock:
        if key not in _stages:
            if key not in _packages:
                return None
            folder = Path(tempfile.gettempdir()) / f"westlight-scene-{key}"
            spec = _packages[key].unpacked(folder)
            lit = scenery_of(spec).lit(spec)
            view = view_of(spec.view, spec.width_px, spec.height_px)
            keep_stage(key, Stage(lit.assembled, view, lit.shining, spec))
        _stages.move_to_end(key)
        return _stages[key]


@lru_cache(maxsize=1)
def engine_version() -> str:
    """What must be equal on all workers for equal bits: kernel sources and compiled libraries."""
    parts = [keep_kernels().name, *(version(n) for n in ("numba", "numpy", "embreex"))]
    return " ".join(parts)


def introduce(key: str) -> tuple[str, bool]:
    """A worker's version, and whether it has a package."""
    return engine_version(), key in _packages or key in _stages


def trace_unit(key: str, unit: Unit, tracing: Tracing) -> Traced | None:
    """Trace a unit of a package this worker has; None if it does not have it."""
    stage = _stage(key)
    if stage is None:
        return None
    with _lock:
        stage.prepare(tracing)
    w = unit.window
    height, width = w.row1 - w.row0, w.column1 - w.column0
    films = [Accumulator.empty(height, width, apart=tracing.apart) for _ in unit.sources]
    guide = GuideFilm.empty(height, width) if unit.guide else None
    before = (unit.first + 1) // 2, unit.first // 2
    for f, source in zip(films, unit.sources, strict=True):
        f.counts[:] = before
        if stage.clamps:
            f.clamp = stage.clamps[source]
    if guide is not None:
        guide.counts[:] = unit.first
    PassRun(
        stage.assembled, stage.view, [stage.shining[i] for i in unit.sources], films, guide,
        upto=unit.first + unit.passes, seed=tracing.seed, bounces=tracing.bounces, calm=CALM,
        window=w, cache=stage.cache, cache_keys=stage.names(unit.sources) if stage.cache else (),
    ).advance()  # fmt: skip
    for f in films:
        f.counts[:] -= before
    if guide is not None:
        guide.counts[:] -= unit.first
    return Traced(films, guide)


def add(
    traced: Traced,
    unit: Unit,
    films: Mapping[int, Accumulator],
    guide: GuideFilm,
    origin: tuple[int, int],
) -> None:
    """Add the sums of a unit to films, by row of their source, whose first pixel is ``origin`` (row, column)."""
    w = unit.window
    rows = slice(w.row0 - origin[0], w.row1 - origin[0])
    columns = slice(w.column0 - origin[1], w.column1 - origin[1])
    band = (w.row0 - origin[0]) // BAND_ROWS
    bands = slice(band, band + bands_of(w.row1 - w.row0))
    for i, part in zip(unit.sources, traced.films, strict=True):
        f = films[i]
        for name in PICTURES:
            whole = getattr(f, name)
            if len(whole):
                whole[rows, columns] += getattr(part, name)
        f.counts[bands] += part.counts
    if traced.guide is not None:
        guide.sums[rows, columns] += traced.guide.sums
        guide.counts[bands] += traced.guide.counts
