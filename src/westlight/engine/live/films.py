"""The engine's memory: accumulators and their denoised pictures, by what their pixels depend on and their size.

All sessions share it: two that show the same view find the same films. What no session shows goes first, the least
recently seen before the rest.
"""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Iterable
from dataclasses import dataclass, field
from typing import NamedTuple

import numpy as np
from scipy.ndimage import maximum_filter

from westlight.core.finish import block_mean
from westlight.core.transport.film import F4, Accumulator, GuideFilm


class Size(NamedTuple):
    """Height and width of a picture in pixels."""

    height: int
    width: int


#: Added to the reflectance that light is divided by: black surfaces send back something, too.
_NO_PAINT = np.float32(0.02)


class FilmKey(NamedTuple):
    """What the pixels of a film depend on, and how many there are."""

    of: str
    size: Size


@dataclass(eq=False)
class Film:
    """One source at one size: what was gathered, and the last denoised picture of it."""

    size: Size
    accumulator: Accumulator
    clean: F4 | None = None
    clean_samples: int = 0
    #: Passes of the tile that had most when it was denoised.
    clean_most: int = 0
    noise: float = 1.0
    #: Noise of direct and of bounced light, as shares of the same mean.
    noise_parts: tuple[float, float] = (0.0, 0.0)
    #: Mean unit luminance that the clamp took.
    taken: float = 0.0
    #: Mean unit colour of the denoised picture.
    mean: F4 | None = None
    _reduced: dict[int, F4] = field(default_factory=dict)

    @property
    def passes(self) -> int:
        """Passes that the whole picture has."""
        return self.accumulator.samples

    @property
    def most_passes(self) -> int:
        """Passes of the part of the picture that has most."""
        return int(self.accumulator.counts.sum(axis=-1).max())

    @property
    def nbytes(self) -> int:
        """Memory it takes."""
        sizes = 0 if self.clean is None else self.clean.nbytes
        return self.accumulator.nbytes + sizes + sum(p.nbytes for p in self._reduced.values())

    def has_grown(self, times: float) -> bool:
        """Whether all of the picture, or a part of it, has so many times the passes last denoised."""
        return self.passes >= times * self.clean_samples or (
            self.most_passes >= times * self.clean_most
        )

    def at(self, factor: int) -> F4:
        """The denoised picture reduced by a whole factor, kept until the next one."""
        assert self.clean is not None
        if factor == 1:
            return self.clean
        if factor not in self._reduced:
            self._reduced[factor] = block_mean(self.clean, factor)
        return self._reduced[factor]

    def enlarged(self, factor: int, small: Guide | None, large: Guide | None, size: Size) -> F4:
        """The denoised picture enlarged by a power of two to a size, kept until the next one.

        What falls on surfaces is spread smoothly and takes the paint of the larger guide, so that textures and edges are as
        sharp as there; without guides it is the light itself that is spread.
        """
        assert self.clean is not None
        known = large is not None and large.albedo is not None and large.albedo.shape[:2] == size
        key = -factor if known else -factor - 1000
        if key not in self._reduced:
            picture = self.clean
            if known and small is not None and small.albedo is not None:
                picture = picture / (small.albedo + _NO_PAINT)
            spread = picture
            for _ in range(factor.bit_length() - 1):
                spread = _doubled(_doubled(spread, 0), 1)
            height, width = (min(a, b) for a, b in zip(size, spread.shape[:2], strict=True))
            out = np.empty((*size, 3), np.float32)
            out[:height, :width] = spread[:height, :width]
            out[height:], out[:, width:] = out[height - 1], out[:, width - 1 : width]
            if known and small is not None and small.albedo is not None:
                assert large is not None
                assert large.albedo is not None
                out *= large.albedo + _NO_PAINT
                # Beside what has no paint (the sky in a window) no light may come out that was not near it.
                most = maximum_filter(self.clean, (3, 3, 1)).repeat(factor, 0).repeat(factor, 1)
                out[:height, :width] = np.minimum(out[:height, :width], most[:height, :width])
            self._reduced[key] = out
        return self._reduced[key]

    def raw(self, factor: int) -> F4:
        """The picture before denoising, reduced by a whole factor."""
        mean = self.accumulator.mean()
        return mean if factor == 1 else block_mean(mean, factor)

    def keep(self, clean: F4) -> None:
        """Take a new denoised picture; ``ValueError`` if it is of another size."""
        if clean.shape[:2] != self.size:
            raise ValueError(f"A picture of {clean.shape[:2]} is no film of {tuple(self.size)}.")
        self.clean, self.clean_samples, self._reduced = clean, self.passes, {}
        self.clean_most = self.most_passes
        self.mean = block_mean(clean, 4).mean(axis=(0, 1))
        self.noise, *parts = self.accumulator.noise_split()
        self.noise_parts = (parts[0], parts[1])
        if self.accumulator.removed.any():
            self.taken = float(self.accumulator.removed_mean().mean())


@dataclass(eq=False)
class Guide:
    """Albedo, normals and coverage of a view at one size."""

    film: GuideFilm
    albedo: F4 | None = None
    normal: F4 | None = None
    passes_used: int = 0
    #: Output passes made of it, with the samples that were in it then.
    _made: dict[str, tuple[int, F4]] = field(default_factory=dict)

    @property
    def nbytes(self) -> int:
        """Memory it takes."""
        made = sum(p.nbytes for _, p in self._made.values())
        return self.film.sums.nbytes + (0 if self.albedo is None else 2 * self.albedo.nbytes) + made

    def output_pass(self, name: str) -> F4:
        """An output pass of the film as it is, made once for as long as it stays so; see `GuideFilm.output_pass`."""
        samples = int(self.film.counts.sum())
        if self._made.get(name, (-1,))[0] != samples:
            self._made[name] = samples, self.film.output_pass(name)
        return self._made[name][1]

    def refresh(self, most: int) -> None:
        """Make albedo and normal anew whenever their samples have doubled, up to ``most``."""
        passes = self.film.passes
        if passes >= max(1, 2 * self.passes_used) and self.passes_used < most:
            self.albedo, self.normal = (self.film.output_pass(n) for n in ("albedo", "normal"))
            self.passes_used = passes


class FilmStore:
    """Films and guides of all sessions, bounded in bytes so that undo finds old ones but memory stays small."""

    def __init__(self, limit_bytes: int = 640_000_000) -> None:
        self.limit_bytes = limit_bytes
        self._films: OrderedDict[FilmKey, Film] = OrderedDict()
        self._guides: OrderedDict[FilmKey, Guide] = OrderedDict()
        self._shown: dict[str, frozenset[FilmKey]] = {}

    def film(self, key: FilmKey) -> Film:
        """The film of a key, made empty if there is none."""
        found = self.find(key)
        if found is None:
            empty = Accumulator.empty(*key.size, split=False)
            found = self._films[key] = Film(key.size, empty)
            self.forget()
        return found

    def find(self, key: FilmKey) -> Film | None:
        """The film of a key, if there is one."""
        found = self._films.get(key)
        if found is not None:
            self._films.move_to_end(key)
        return found

    def guide(self, key: FilmKey) -> Guide:
        """The guide of a view at a size, made empty if there is none."""
        found = self.find_guide(key)
        if found is None:
            found = self._guides[key] = Guide(GuideFilm.empty(*key.size))
            self.forget()
        return found

    def find_guide(self, key: FilmKey) -> Guide | None:
        """The guide of a view at a size, if there is one."""
        found = self._guides.get(key)
        if found is not None:
            self._guides.move_to_end(key)
        return found

    def show(self, session: str, keys: Iterable[FilmKey]) -> None:
        """Tell which films and guides a session shows now: they are not dropped."""
        self._shown[session] = frozenset(keys)

    def close(self, session: str) -> None:
        """A session shows nothing any more."""
        self._shown.pop(session, None)

    def drop(self, keys: Iterable[FilmKey]) -> None:
        """Forget films and guides at once, as after a failure."""
        for key in keys:
            self._films.pop(key, None)
            self._guides.pop(key, None)

    def bytes(self) -> int:
        """Memory that films and guides hold."""
        return sum(f.nbytes for f in self._films.values()) + sum(
            g.nbytes for g in self._guides.values()
        )

    def forget(self) -> None:
        """Drop the least recently seen of what no session shows until the limit is kept."""
        shown = frozenset().union(*self._shown.values())
        held = self.bytes()
        for kept in (self._films, self._guides):
            for key in [k for k in kept if k not in shown]:
                if held <= self.limit_bytes:
                    return
                # The newest was just asked for, and is shown in a moment.
                if key == next(reversed(kept)):
                    continue
                held -= kept.pop(key).nbytes


def _doubled(picture: F4, axis: int) -> F4:
    """A picture with twice as many pixels along an axis, those between others their mean by distance."""
    at = np.moveaxis(picture, axis, 0)
    out = np.empty((2 * at.shape[0], *at.shape[1:]), np.float32)
    near = np.float32(0.75) * at
    far = np.float32(0.25) * at
    out[0::2], out[1::2] = near, near
    out[2::2] += far[:-1]
    out[1:-1:2] += far[1:]
    out[0] += far[0]
    out[-1] += far[-1]
    return np.moveaxis(out, 0, axis)


def cropped(picture: F4, size: Size) -> F4:
    """A picture cut to a size that is at most some pixels smaller; ``ValueError`` for another."""
    if picture.shape[:2] == size:
        return picture
    rows, columns = picture.shape[0] - size.height, picture.shape[1] - size.width
    if not (0 <= rows < 8 and 0 <= columns < 8):
        raise ValueError(f"A picture of {picture.shape[:2]} does not fit {tuple(size)}.")
    return np.asarray(picture[: size.height, : size.width])
