"""How noisy the picture looks: measured on the denoiser's thread whenever its films were denoised anew."""

from __future__ import annotations

from collections.abc import Callable
from concurrent.futures import Future

import numpy as np
import numpy.typing as npt

from westlight.core.analysis.visible import Grain, by_tile, grain_between, invented, steps_apart
from westlight.core.colour import AP1_LUMINANCE
from westlight.core.transport.film import F4

from ..translate import seen_softly
from .denoising import Workshop
from .films import Guide, cropped
from .pictures import Halves, Pictures
from .prepared import Prepared

U1 = npt.NDArray[np.uint8]
_Y = AP1_LUMINANCE.astype(np.float32)
#: How a scene-linear picture (h, w, 3) is shown.
Show = Callable[[F4], U1]


def grain_of(workshop: Workshop, clean: F4, halves: Halves, guide: Guide, denoised: bool, soft: bool,
             show: Show) -> Grain:  # fmt: skip
    """Noise of a shown picture ``clean`` (h, w, 3) from the halves it is the mean of.

    The colour of each half is that of the picture: what differs is their luminance.
    """
    light = np.maximum(clean @ _Y, 1e-9)[..., None]
    hue = clean / light
    parts = []
    for half in (halves.even, halves.odd):
        picture, seen = hue * half[..., None], hue * halves.seen[..., None]
        if denoised and guide.albedo is not None and guide.normal is not None:
            picture = workshop.denoise(
                np.maximum(picture, seen), guide.albedo, guide.normal, "high", seen, soft
            )
        parts.append(show(np.ascontiguousarray(picture, np.float32)))
    grain = grain_between(parts[0], parts[1])
    if not denoised:
        return grain
    made_up = invented(light[..., 0], halves.even, halves.odd)[..., None]
    other = steps_apart(show(clean), show(np.ascontiguousarray(clean * (1 + made_up), np.float32)))
    return Grain(np.maximum(grain.tiles, by_tile(other)))


class SeenNoise:
    """The last measurement of a session, for the mix and the exposure it was made of."""

    def __init__(self, workshop: Workshop) -> None:
        self._workshop = workshop
        self._measuring: tuple[Future[Grain], str] | None = None
        self._last: tuple[str, Grain] | None = None
        self._begun = ("", 0)

    @property
    def busy(self) -> Future[Grain] | None:
        """The measurement under way."""
        return None if self._measuring is None else self._measuring[0]

    def of(self, p: Prepared) -> Grain | None:
        """Noise as it was last measured of this mix as it is shown; None while that is not known."""
        return self._last[1] if self._last is not None and self._last[0] == p.shown_as else None

    def take(self) -> bool:
        """Take in what has been measured; whether there was anything."""
        if self._measuring is None or not self._measuring[0].done():
            return False
        job, key = self._measuring
        self._measuring, self._last = None, (key, job.result())
        return True

    def begin(self, p: Prepared, pictures: Pictures, mixed: Callable[[], F4], show: Show) -> None:
        """Measure if the films were denoised since the last time, or are shown in another way."""
        if self._measuring is not None or p.spec.moving or p.assembled is None:
            return
        films = [pictures.full(p, s) for s in p.counting]
        # As often as the films are denoised, and only when all of them are.
        if not films or any(f is None or f.passes < 2 or f.clean is None for f in films):
            return
        age = max(f.clean_samples for f in films if f is not None)
        guide = pictures.guide(p, 1)
        if age < 2 or (p.shown_as, age) == self._begun or guide is None:
            return
        halves = pictures.halves(p)
        if halves is None:
            return
        self._begun = (p.shown_as, age)
        # A copy: the mix goes on changing while this is measured.
        clean = np.array(cropped(mixed(), p.size(1)), order="C")
        job = self._workshop.pool.submit(
            grain_of,
            self._workshop,
            clean,
            halves,
            guide,
            p.spec.denoise,
            seen_softly(p.spec),
            show,
        )
        self._measuring = (job, p.shown_as)
