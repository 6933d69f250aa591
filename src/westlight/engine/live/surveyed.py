"""Occlusion and mattes of the view, made on the denoiser's thread when the finish asks for them."""

from __future__ import annotations

from concurrent.futures import Future

import numpy as np

from westlight.core.transport.film import F4
from westlight.core.transport.survey import survey

from ..translate import matte_of, view_of
from .denoising import Workshop
from .prepared import Prepared

#: Rays from each pixel of the occlusion pass; the denoiser does the rest.
OPENNESS_SAMPLES = 6
#: Rays from each pixel for mattes: nothing smooths their edges.
MATTE_SAMPLES = 8


class Surveyed:
    """The output passes of one session that are no light."""

    def __init__(self, workshop: Workshop) -> None:
        self._workshop = workshop
        self._making: tuple[Future[dict[str, F4]], str] | None = None
        self._made: tuple[str, dict[str, F4]] | None = None

    @property
    def busy(self) -> Future[dict[str, F4]] | None:
        """The survey under way."""
        return None if self._making is None else self._making[0]

    def of(self, p: Prepared) -> dict[str, F4]:
        """What there is for a view; those of another view would lie over this one as a ghost."""
        made = self._made
        return made[1] if made is not None and made[0].startswith(_view(p)) else {}

    def take(self) -> bool:
        """Take in what has been made; whether there was anything."""
        if self._making is None or not self._making[0].done():
            return False
        job, key = self._making
        self._making, self._made = None, (key, job.result())
        return True

    def begin(self, p: Prepared) -> None:
        """Make what the finish asks for, unless it is there or being made."""
        finish = p.spec.finish
        wanted = finish.occlusion.amount or finish.parts
        if not wanted or p.spec.moving or self._making is not None or p.assembled is None:
            return
        radius = finish.occlusion.radius_m if finish.occlusion.amount else 0.0
        mattes = sorted(matte_of(part) for part in finish.parts)
        key = f"{_view(p)}{radius}{mattes}"
        if self._made is None or self._made[0] != key:
            job = self._workshop.pool.submit(_surveyed, self._workshop, p, radius)
            self._making = (job, key)


def _view(p: Prepared) -> str:
    return f"{p.guide_of}{tuple(p.size(1))}"


def _surveyed(workshop: Workshop, p: Prepared, radius_m: float) -> dict[str, F4]:
    assert p.scene is not None
    assert p.assembled is not None
    spec = p.spec
    view = view_of(spec.view, spec.width_px, spec.height_px)
    made = p.scene.coverage(p.assembled, view, spec.finish.parts, MATTE_SAMPLES)
    if radius_m > 0:
        half = view_of(spec.view, spec.width_px // 2 // 4 * 4, spec.height_px // 2)
        open_ = survey(p.assembled, half, {"occlusion"}, OPENNESS_SAMPLES, 0,
                       radius_m)["occlusion"]  # fmt: skip
        grey = np.repeat(open_[..., None], 3, axis=2)
        none = np.zeros_like(grey)
        clean = workshop.denoise(grey, none + 0.5, none)[..., 0]
        made["occlusion"] = np.clip(clean, 0, 1)
    return made
