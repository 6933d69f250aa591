"""What is traced next: a pure function of a spec made ready, its films, and what the hand and the eye want."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from westlight.core.transport.film import BAND_ROWS, TILE_COLUMNS, of_tiles, tiles_of

from ..spec import SourceSpec
from .draft import Draft
from .films import Film, cropped
from .pictures import STRONG, Pictures
from .prepared import FIRST_BOUNCES, Prepared

Tiles = npt.NDArray[np.bool_]
#: Samples at scale 2 before the full size is begun.
HALF_SIZE_SAMPLES = 1
#: Passes of the full size before the little pictures of what is switched off, and passes of those.
FIRST_SHARP, SILENT_PASSES = 1, 4
#: Samples every source gets at full size before their noise decides who gets more.
FIRST_FULL = 3
#: Passes that what makes the picture gets though the eye is content before: edges of frames are crisp from then on.
LEAST_TO_STOP = 8
#: Passes a region gets before the rest of the picture goes on, and noise before denoising at which it has enough.
REGION_PASSES, REGION_NOISE = 64, 0.015
#: Share of the worst source's noise from which on a source is traced beside it.
WORTH_TRACING = 0.25


@dataclass(frozen=True)
class Policy:
    """What decides beside the films: what the hand moves, how long it has been, whether the eye is content."""

    moved: frozenset[str] = frozenset()
    draft: Draft | None = None
    elapsed_s: float = 0.0
    calm: bool = False


@dataclass(frozen=True, eq=False)
class Job:
    """One pass: rows of the sources to trace, at a scale, with so many bounces; of some tiles, or of all."""

    rows: tuple[int, ...]
    scale: int
    bounces: int
    tiles: Tiles | None = None


def next_job(p: Prepared, pictures: Pictures, policy: Policy) -> Job | None:
    """The next pass: what counts before what is switched off, small before large; None for nothing."""
    if p.assembled is None:
        return None
    sources = p.spec.sources
    shining = [i for i, s in enumerate(sources) if p.can_shine(s)]
    if p.spec.moving:
        if policy.draft is not None:
            return _draft_job(p, pictures, policy.draft)
        return _direct_job(p, pictures, shining, policy.moved)
    counting = [i for i in shining if sources[i].counts]
    silent = [i for i in shining if i not in counting]
    bounces, most = p.spec.bounces, p.spec.max_samples
    missing = tuple(i for i in counting if not pictures.has_bounced(p, sources[i]))
    if missing:
        return Job(missing, 4, bounces if p.keeps_light else FIRST_BOUNCES)
    # The picture is sharp once what makes it is: ten faint lamps would take most of the time to it, above all in denoising.
    # Sources switched off need no full size: their little picture on the strip is fine.
    strong = _strong(p, pictures, counting)
    first = (
        (counting, 2, HALF_SIZE_SAMPLES), (strong, 1, FIRST_SHARP), (silent, 4, SILENT_PASSES),
        (strong, 1, FIRST_FULL), (counting, 1, FIRST_SHARP),
    )  # fmt: skip
    for rows, scale, limit in first:
        behind = _behind(p, pictures, rows, scale, min(limit, most))
        if behind:
            return Job(behind, scale, bounces)
    if policy.elapsed_s > p.spec.max_seconds:
        return None
    region = region_tiles(p)
    if region is not None:
        behind = _behind_in(region, p, pictures, counting)
        if behind:
            return Job(behind, 1, bounces, region)
    full = _behind(p, pictures, counting, 1, min(FIRST_FULL, most))
    if not full and policy.calm:
        full = _behind(p, pictures, strong, 1, min(LEAST_TO_STOP, most))
    elif not full:
        full = _noisiest(p, pictures, counting)
    return Job(full, 1, bounces) if full else None


def _strong(p: Prepared, pictures: Pictures, rows: Sequence[int]) -> list[int]:
    """Of some sources, those that make the picture, as far as is known; all of them if none stands out."""
    out = []
    for i in rows:
        found = pictures.best_fresh(p, p.spec.sources[i], direct=False)
        if found is not None and pictures.share(p, p.spec.sources[i], found.film) >= STRONG:
            out.append(i)
    return out or list(rows)


def _direct_job(
    p: Prepared, pictures: Pictures, shining: Sequence[int], moved: frozenset[str]
) -> Job | None:
    """While a hand moves: direct light of what it moves, one pass at a quarter of the size."""
    rows = tuple(
        i for i in shining
        if p.spec.sources[i].id in moved and pictures.best_fresh(p, p.spec.sources[i]) is None
    )  # fmt: skip
    return Job(rows, p.moving_scale, 0) if rows else None


def _draft_job(p: Prepared, pictures: Pictures, draft: Draft) -> Job | None:
    """While the camera moves: direct light of its strongest sources, and the guide."""
    if pictures.guide(p, p.moving_scale) is not None:
        return None
    rows = tuple(i for i, s in enumerate(p.spec.sources) if s.id in draft.sources)
    return Job(rows, p.moving_scale, 0)


def region_tiles(p: Prepared) -> Tiles | None:
    """Tiles of the full size that are refined first; None for no region."""
    if p.spec.region is None:
        return None
    height, width = p.size(1)
    left, top, right, bottom = p.spec.region
    tiles = np.zeros(tiles_of(height, width), bool)
    rows = slice(int(top * height) // BAND_ROWS, -(-int(bottom * height) // BAND_ROWS))
    columns = slice(int(left * width) // TILE_COLUMNS, -(-int(right * width) // TILE_COLUMNS))
    tiles[rows, columns] = True
    return tiles if tiles.any() else None


def _full(p: Prepared, pictures: Pictures, rows: Sequence[int]) -> dict[int, Film | None]:
    return {i: pictures.full(p, p.spec.sources[i]) for i in rows}


def _behind_in(
    region: Tiles, p: Prepared, pictures: Pictures, rows: Sequence[int]
) -> tuple[int, ...]:
    """Of some sources, those with fewest passes in a region, until it is calm or has its passes."""
    films = _full(p, pictures, rows)
    if any(f is None or f.clean is None for f in films.values()):
        return ()
    done = {
        i: int(f.accumulator.counts[region].sum(axis=-1).min())
        for i, f in films.items() if f is not None
    }  # fmt: skip
    least = min(done.values(), default=REGION_PASSES)
    enough = least >= min(REGION_PASSES, p.spec.max_samples)
    if enough or _noise_in(region, p, pictures) <= REGION_NOISE:
        return ()
    return tuple(i for i in rows if done[i] == least)


def _noise_in(region: Tiles, p: Prepared, pictures: Pictures) -> float:
    """Noise of the mix in some tiles before denoising, as a share of their light."""
    size = p.size(1)
    picture = np.zeros(size, np.float32)
    for s in p.counting:
        film = pictures.full(p, s)
        if film is not None and film.clean is not None:
            picture += cropped(film.clean, size) @ p.luminous_gain(s).astype(np.float32)
    error, light = (of_tiles(a)[region].mean() for a in (pictures.error(p, 1), picture))
    # Before there are two passes nothing is known of it.
    return float(error / max(light, 1e-9)) if error > 0 else 1.0


def _behind(
    p: Prepared, pictures: Pictures, rows: Sequence[int], scale: int, limit: int
) -> tuple[int, ...]:
    """Of some sources, those with fewest passes at a scale, if below a limit."""
    done = {}
    for i in rows:
        film = pictures.film(p, p.spec.sources[i], p.spec.bounces, scale)
        done[i] = 0 if film is None else film.passes
    behind = [i for i in rows if done[i] < limit]
    least = min((done[i] for i in behind), default=0)
    return tuple(i for i in behind if done[i] == least)


def _noisiest(p: Prepared, pictures: Pictures, rows: Sequence[int]) -> tuple[int, ...]:
    """Of some sources at full size, those whose noise is most seen in the mix.

    Only films of equal age are traced together, because a pass has one place in the sequence.
    """
    sources: list[SourceSpec] = p.spec.sources
    films = {i: f for i, f in _full(p, pictures, rows).items() if f is not None}
    visible = {
        i: pictures.visible_noise(p, sources[i], f)
        for i, f in films.items() if f.passes < p.spec.max_samples
    }  # fmt: skip
    if not visible:
        return ()
    worst = max(visible, key=lambda i: visible[i])
    age = films[worst].passes
    return tuple(
        i for i in visible
        if visible[i] >= WORTH_TRACING * visible[worst] and films[i].passes == age
    )  # fmt: skip
