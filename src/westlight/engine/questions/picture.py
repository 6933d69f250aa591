"""Questions about the picture as it is shown: a proof of it, starting points of its grade, what a still would take."""

from __future__ import annotations

import io
import time
from typing import Annotated, Any

import numpy as np
from PIL import Image
from pydantic import ConfigDict, Field

from westlight.core.finish import block_mean
from westlight.core.finish import starting_curve as curve_for
from westlight.core.finish import starting_grade as grade_for
from westlight.core.finish.start import Mood
from westlight.core.transport.denoise import USUAL_FALL, noise_left
from westlight.core.transport.film import Accumulator
from westlight.core.transport.render import PassRun

from ..described import described
from ..live.frames import read
from ..spec import Settings
from ..still import least_passes
from ..translate import finish_of
from .asked import Answer, Asked, Nothing

#: Largest number a half float can hold.
HALF_TOP = 65504.0
#: Widest scene-linear picture that is kept of a proof.
PROOF_WIDTH = 640
#: Passes of every source from which on its noise can be trusted.
SURE_PASSES = 8


class PictureFiles(Answer):
    """The present picture as files: finished as JPEG, scene-linear as half floats; nothing without a building."""

    model_config = ConfigDict(arbitrary_types_allowed=True)
    jpeg: bytes | None = None
    linear: Any = None
    #: Its light in words.
    described: str = ""


class Wanted(Settings):
    """A mood for the grade."""

    mood: Mood


class StartingGrade(Answer):
    """Settings of the grade that suit the present picture."""

    contrast: float
    shadows: float
    compression: float
    compression_start: float
    saturation: float


class StartingCurve(Answer):
    """Points of a curve to start from."""

    points: list[tuple[float, float]]


class StillWanted(Settings):
    """A still by its width and the noise it stops at: a share of its light, or none for what is not seen."""

    width_px: Annotated[int, Field(ge=16, le=32768)]
    noise: Annotated[float, Field(gt=0, le=1)] | None = None


class Estimate(Answer):
    """Seconds and passes a still would take, null while there is no picture; ``sure`` of them."""

    seconds: float | None = None
    passes: int | None = None
    sure: bool = False


def proof(a: Asked, _: Nothing) -> PictureFiles:
    """The present picture, to be kept."""
    if a.p.assembled is None:
        return PictureFiles()
    drawing = a.drawing(True)
    file = io.BytesIO()
    Image.fromarray(read(drawing).pixels).save(file, "JPEG", quality=93)
    picture = drawing.picture
    factor = max(1, picture.shape[1] // PROOF_WIDTH)
    small = picture if factor == 1 else block_mean(picture, factor)
    return PictureFiles(
        jpeg=file.getvalue(), linear=np.clip(small, 0, HALF_TOP).astype(np.float16),
        described=described(a.p.spec, drawing.exposure),
    )  # fmt: skip


def start(a: Asked, of: Wanted) -> StartingGrade:
    """Settings of the grade for a mood, worked out from the present picture."""
    d = a.drawing(False)
    before = finish_of(a.p.spec.finish, d.exposure.tone).grade
    made = grade_for(d.picture, d.ev, of.mood, before, d.exposure.tone)
    return StartingGrade(
        contrast=made.contrast, shadows=made.shadows, compression=made.compression,
        compression_start=made.compression_start, saturation=made.saturation,
    )  # fmt: skip


def curve(a: Asked, _: Nothing) -> StartingCurve:
    """Points of a curve for the present picture as it is shown without curves."""
    d = a.drawing(False)
    finish = a.p.spec.finish
    straight = finish.model_copy(update={"grade": finish.grade.model_copy(
        update={"curve": [], "red": [], "green": [], "blue": []})})  # fmt: skip
    made = finish_of(straight, d.exposure.tone, a.p.view(d.scale).horizon())
    return StartingCurve(
        points=[(float(x), float(y)) for x, y in curve_for(d.developed(made).pixels)]
    )


def estimate(a: Asked, of: StillWanted) -> Estimate:
    """Seconds and passes a still of this picture takes, from the noise seen so far.

    Nothing before every source has some passes at full size. A small pass is timed and scaled
    by its pixels; ``sure`` once there are several passes.
    """
    p, spec = a.p, a.p.spec
    guide, halves = a.pictures.guide(p, 1), a.pictures.halves(p)
    if p.assembled is None or guide is None or halves is None:
        return Estimate()
    if guide.albedo is None or guide.normal is None:
        return Estimate()
    weight = passes = 0.0
    for s in p.counting:
        film = a.pictures.full(p, s)
        seen = 0.0 if film is None else a.pictures.visible_noise(p, s, film) ** 2
        weight, passes = weight + seen, passes + seen * (film.passes if film else 0)
    passes /= max(weight, 1e-12)
    if of.noise is None:
        grain = a.drawing(False).grain
        if grain is None:
            return Estimate()
        too_much = grain.excess / spec.calm_at
    else:
        denoise = a.session.shared.workshop.denoise
        left = noise_left(
            denoise, (halves.even, halves.odd), halves.seen, guide.albedo, guide.normal
        )
        too_much = left / of.noise
    wanted = max(least_passes(of.noise), int(np.ceil(passes * too_much ** (1 / USUAL_FALL))))
    rows = [i for i, s in enumerate(spec.sources) if s in p.counting]
    height, width = p.size(4)
    small = [Accumulator.empty(height, width) for _ in rows]
    begun = time.perf_counter()
    PassRun(p.assembled, p.view(4), rows, small, upto=1, bounces=spec.bounces).advance()
    per_pixel = (time.perf_counter() - begun) / (height * width)
    still = spec.model_copy(update={"width_px": of.width_px})
    return Estimate(
        seconds=round(per_pixel * of.width_px * still.height_px * wanted, 1), passes=wanted,
        sure=passes >= SURE_PASSES,
    )  # fmt: skip
