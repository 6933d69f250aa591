"""What a still has gathered, on disk: its film, and units that are not in the film yet."""

from __future__ import annotations

import zipfile
import zlib
from collections.abc import Sequence
from pathlib import Path
from typing import Any

import numpy as np

from westlight.core.transport.film import FILM_ARRAYS, Accumulator, Film, GuideFilm

from .units import Traced


def _written(file: Path, arrays: dict[str, Any]) -> None:
    """Write arrays whole or not at all."""
    part = file.with_suffix(".part.npz")
    np.savez(part, **arrays)
    part.replace(file)


def write_unit(file: Path, traced: Traced) -> None:
    """Keep the sums of a unit."""
    arrays: dict[str, Any] = {}
    for i, film in enumerate(traced.films):
        arrays |= {f"{i}.{name}": getattr(film, name) for name in FILM_ARRAYS}
    if traced.guide is not None:
        arrays |= {"guide.sums": traced.guide.sums, "guide.counts": traced.guide.counts}
    _written(file, arrays)


def read_unit(file: Path) -> Traced | None:
    """The sums of a unit that was kept; None if it was not, or is damaged."""
    try:
        with np.load(file) as kept:
            count = sum(name.endswith(".light") for name in kept.files)
            films = [
                Accumulator(**{n: kept[f"{i}.{n}"] for n in FILM_ARRAYS}) for i in range(count)
            ]
            guide = None
            if "guide.sums" in kept:
                guide = GuideFilm(kept["guide.sums"], kept["guide.counts"])
            return Traced(films, guide)
    except (OSError, KeyError, ValueError, zipfile.BadZipFile):
        return None


def keep(file: Path, film: Film, seconds: float, plan: Sequence[int], of: str) -> None:
    """Write what has been gathered and what is being worked on, whole or not at all."""
    arrays: dict[str, Any] = {"seconds": np.array(seconds), "plan": np.array(plan, np.int64),
                              "of": np.array(of)}  # fmt: skip
    for i, acc in enumerate(film.accumulators.values()):
        for name in FILM_ARRAYS:
            arrays[f"{i}.{name}"] = getattr(acc, name)
    arrays |= {"guide.sums": film.guide.sums, "guide.counts": film.guide.counts}
    _written(file, arrays)


def restore(file: Path, film: Film, plan: list[int], of: str) -> float:
    """Take up what an earlier run gathered for the same film; returns its seconds, 0 without.

    ``plan`` becomes what it was working on: to go on to the same bits that must be ended first.
    What another picture (``of``) left behind is not taken, nor is a file that is damaged: it starts afresh.
    """
    if not file.is_file():
        return 0.0
    try:
        with np.load(file) as opened:
            kept = dict(opened)
    except (OSError, ValueError, EOFError, KeyError, zipfile.BadZipFile, zlib.error):
        file.unlink(missing_ok=True)
        return 0.0
    if "of" not in kept or str(kept["of"]) != of:
        return 0.0
    for i, acc in enumerate(film.accumulators.values()):
        for name in FILM_ARRAYS:
            getattr(acc, name)[...] = kept[f"{i}.{name}"]
    film.guide.sums[...], film.guide.counts[...] = kept["guide.sums"], kept["guide.counts"]
    plan[:] = kept["plan"].tolist()
    return float(kept["seconds"])
