"""Which films a picture is made of: the best of each source as it is set now, or the last one in its stead."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from westlight.core.colour import AP1_LUMINANCE
from westlight.core.transport.film import F4, SIGMA_OF_MEAN

from ..grain import Halves
from ..spec import SourceSpec
from .films import Film, FilmStore, Guide, Size
from .prepared import FIRST_BOUNCES, Prepared

#: Share of the picture's light from which on a source makes the picture: it is sharp before the others are.
STRONG = 0.03


class Found(NamedTuple):
    """A film with a denoised picture, and the scale it has."""

    film: Film
    scale: int


class Pictures:
    """The films of one session. The last picture of each source at each size stands in for one to come."""

    def __init__(self, store: FilmStore) -> None:
        self.store = store
        self._last: dict[tuple[str, Size], Film] = {}

    def film(self, p: Prepared, source: SourceSpec, bounces: int, scale: int) -> Film | None:
        """The film of a source, if there is one."""
        return self.store.find(p.film_key(source, bounces, scale))

    def full(self, p: Prepared, source: SourceSpec) -> Film | None:
        """The film of a source at full size with all bounces."""
        return self.film(p, source, p.spec.bounces, 1)

    def guide(self, p: Prepared, scale: int) -> Guide | None:
        """The guide of the view at a scale, if any of it is there."""
        found = self.store.find_guide(p.guide_key(scale))
        return None if found is None or found.film.passes == 0 else found

    def keep_last(self, source_id: str, film: Film) -> None:
        """Note the newest denoised picture of a source."""
        self._last[(source_id, film.size)] = film

    def forget_last(self) -> None:
        """Nothing stands in any more: another building is shown."""
        self._last = {}

    def last(self, source_id: str, size: Size) -> Film | None:
        """The last denoised picture of a source at a size, of whatever state it was."""
        return self._last.get((source_id, size))

    def best_fresh(self, p: Prepared, source: SourceSpec, direct: bool = True) -> Found | None:
        """The best film of a source as it is set now; a direct picture if allowed."""
        n = p.spec.bounces
        kinds = [(1, n), (2, n), (4, n), (4, FIRST_BOUNCES)] + [(p.moving_scale, 0)] * direct
        for scale, bounces in kinds:
            film = self.film(p, source, bounces, scale)
            if film is not None and film.clean is not None:
                return Found(film, scale)
        return None

    def best(self, p: Prepared, source: SourceSpec, moved: frozenset[str]) -> Found | None:
        """As `best_fresh`; until there is one, the last picture stands in: no black flash."""
        found = self.best_fresh(p, source)
        if found is not None:
            return found
        # What the hand moves shows its latest direct picture, everything else its best.
        for scale in (p.moving_scale, 2, 1) if source.id in moved else (2, 1, 4):
            stale = self._last.get((source.id, p.size(scale)))
            if stale is not None and stale.clean is not None:
                return Found(stale, scale)
        return None

    def has_bounced(self, p: Prepared, source: SourceSpec) -> bool:
        """Whether a picture with bounced light is there or being denoised."""
        kinds = ((1, p.spec.bounces), (2, p.spec.bounces), (4, p.spec.bounces), (4, FIRST_BOUNCES))
        films = (self.film(p, source, bounces, scale) for scale, bounces in kinds)
        return any(f is not None and f.passes > 0 for f in films)

    def mean_luminance(self, p: Prepared, moved: frozenset[str] = frozenset()) -> float:
        """Mean luminance of the mix in cd/m², as far as it is known."""
        total = 0.0
        for s in p.counting:
            found = self.best(p, s, moved)
            if found is not None and found.film.mean is not None:
                total += float(found.film.mean @ p.luminous_gain(s))
        return total

    def share(self, p: Prepared, source: SourceSpec, film: Film) -> float:
        """Share of the mix's light that is a source's, as far as it is known; 1 before that."""
        whole = self.mean_luminance(p)
        if film.mean is None or whole <= 0:
            return 1.0
        return float(film.mean @ p.luminous_gain(source)) / whole

    def visible_noise(self, p: Prepared, source: SourceSpec, film: Film) -> float:
        """Noise of a source before denoising, relative to the mean of the whole mix."""
        return 1.0 if film.mean is None else film.noise * self.share(p, source, film)

    def halves(self, p: Prepared) -> Halves | None:
        """Halves of the mix; None before every source has two passes at full size."""
        even, odd, seen = np.zeros((3, *p.size(1)), np.float32)
        for s in p.counting:
            film = self.full(p, s)
            if film is None or film.passes < 2:
                return None
            gain = np.float32(p.gains[s.id] @ AP1_LUMINANCE)
            a, b = film.accumulator.halves()
            even, odd = even + a * gain, odd + b * gain
            seen += film.accumulator.seen_mean() @ p.luminous_gain(s).astype(np.float32)
        return Halves(even, odd, seen)

    def error(self, p: Prepared, scale: int) -> F4:
        """Standard error of the mix before denoising, in cd/m², (h, w)."""
        total = np.zeros(p.size(scale), np.float32)
        for s in p.counting:
            film = self.film(p, s, p.spec.bounces, scale)
            if film is not None and film.passes > 1:
                gain = np.float32(p.gains[s.id] @ AP1_LUMINANCE)
                total += (film.accumulator.error()[..., 0] * gain) ** 2
        return np.asarray(SIGMA_OF_MEAN * np.sqrt(total), np.float32)
