"""The engine's memory: accumulators and their denoised pictures, by key, oldest dropped first."""

from __future__ import annotations

from collections import OrderedDict
from dataclasses import dataclass, field

from westlight.core.finish import block_mean
from westlight.core.transport.film import F4, Accumulator, GuideFilm


@dataclass
class Film:
    """One source at one scale: what was gathered, and the last denoised picture of it."""

    accumulator: Accumulator
    clean: F4 | None = None
    clean_samples: int = 0
    #: Passes of the tile that had most when it was denoised.
    clean_most: int = 0
    noise: float = 1.0
    #: Noise of direct and of bounced light, as shares of the same mean.
    noise_parts: tuple[float, float] = (0.0, 0.0)
    #: Mean unit colour of the denoised picture.
    mean: F4 | None = None
    reduced: dict[int, F4] = field(default_factory=dict)

    @property
    def passes(self) -> int:
        """Passes that the whole picture has."""
        return self.accumulator.samples

    @property
    def most_passes(self) -> int:
        """Passes of the part of the picture that has most."""
        return int(self.accumulator.counts.sum(axis=-1).max())

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
        if factor not in self.reduced:
            self.reduced[factor] = block_mean(self.clean, factor)
        return self.reduced[factor]

    def raw(self, factor: int) -> F4:
        """The picture before denoising, reduced by a whole factor."""
        mean = self.accumulator.mean()
        return mean if factor == 1 else block_mean(mean, factor)

    def keep(self, clean: F4) -> None:
        """Take a new denoised picture."""
        self.clean, self.clean_samples, self.reduced = clean, self.passes, {}
        self.clean_most = self.most_passes
        self.mean = block_mean(clean, 4).mean(axis=(0, 1))
        self.noise, *parts = self.accumulator.noise_split()
        self.noise_parts = (parts[0], parts[1])


@dataclass
class Guide:
    """Albedo, normals and coverage of a view at one scale."""

    film: GuideFilm
    albedo: F4 | None = None
    normal: F4 | None = None
    passes_used: int = 0

    def refresh(self, most: int) -> None:
        """Make albedo and normal anew whenever their samples have doubled, up to ``most``."""
        passes = self.film.passes
        if passes >= max(1, 2 * self.passes_used) and self.passes_used < most:
            self.albedo, self.normal = (self.film.output_pass(n) for n in ("albedo", "normal"))
            self.passes_used = passes


@dataclass
class Films:
    """Films and guides, bounded in bytes so that undo finds old ones but memory stays small."""

    limit_bytes: int = 640_000_000
    films: OrderedDict[tuple[str, int], Film] = field(default_factory=OrderedDict)
    guides: OrderedDict[tuple[str, int], Guide] = field(default_factory=OrderedDict)

    def film(self, key: str, scale: int, height: int, width: int) -> Film:
        """The film of a key at a scale, made empty if there is none."""
        found = self.films.get((key, scale))
        if found is None:
            found = self.films[(key, scale)] = Film(Accumulator.empty(height, width, split=False))
            self._forget()
        self.films.move_to_end((key, scale))
        return found

    def get(self, key: str, scale: int) -> Film | None:
        """The film of a key at a scale, if there is one."""
        return self.films.get((key, scale))

    def guide(self, key: str, scale: int, height: int, width: int) -> Guide:
        """The guide of a view at a scale."""
        found = self.guides.get((key, scale))
        if found is None:
            found = Guide(GuideFilm.empty(height, width))
            self.guides[(key, scale)] = found
            while len(self.guides) > 9:
                self.guides.popitem(last=False)
        self.guides.move_to_end((key, scale))
        return found

    def bytes(self) -> int:
        """Memory the films hold."""
        total = 0
        for f in self.films.values():
            total += f.accumulator.nbytes + (0 if f.clean is None else f.clean.nbytes)
        return total

    def _forget(self) -> None:
        while self.bytes() > self.limit_bytes and len(self.films) > 4:
            self.films.popitem(last=False)
