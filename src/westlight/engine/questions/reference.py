"""Questions about a reference: what it holds beside the present picture, and steps that bring the picture nearer to it."""

from __future__ import annotations

import base64
import io
import math
from collections.abc import Callable
from dataclasses import asdict
from functools import lru_cache
from typing import Annotated, Any

import numpy as np
from PIL import Image, UnidentifiedImageError
from pydantic import Field

from westlight.core.analysis import reference as towards
from westlight.core.analysis.reference import Setup, Step
from westlight.core.errors import WestlightError
from westlight.core.finish import developed
from westlight.core.finish.enlarge import enlarged

from ..files import file_of
from ..live.frames import Drawing
from ..spec import FileId, Settings, Share
from .asked import Answer, Asked

#: Width of the prints of steps in pixels.
PRINT_PX = 224
DARK = "There is no picture yet; wait for its light."
Area = tuple[Share, Share, Share, Share]


class Towards(Settings):
    """A reference, and areas (x0, y0, x1, y1) of it and of the picture: key and fill."""

    asset: FileId
    its_areas: Annotated[list[Area], Field(max_length=2)] = []
    my_areas: Annotated[list[Area], Field(max_length=2)] = []


class PictureReading(Answer):
    """What a shown picture holds; see `core.analysis.reference.Reading`."""

    stops: list[float]
    middle: float
    contrast: float
    saturation: float
    lights: float
    shadows: float
    #: Stops from the key to the fill, where areas were told.
    ratio: float | None = None


class Beside(Answer):
    """The reference and the picture read, and how far they are apart in steps of what is just noticed."""

    reference: PictureReading
    picture: PictureReading
    apart: float


class Proposal(Answer):
    """One step towards the reference: what it does in words, settings of the look that do it, and the distance then."""

    kind: str
    title: str
    look: dict[str, Any]
    apart: float
    #: A print of it, as the address of a picture.
    print: str


class Proposals(Answer):
    """The distance to the reference, and what would lessen it, the best first."""

    apart: float
    found: list[Proposal]


class Edge(Settings):
    """An upright edge in a reference and its shadow: foot, top, end of the shadow, in shares of the picture."""

    asset: FileId
    points: Annotated[list[tuple[Share, Share]], Field(min_length=3, max_length=3)]


class SunHeight(Answer):
    """Elevation of a sun in degrees; minutes of the look's day at which it rises and sinks through there (told by the
    studio), if it does."""

    elevation_deg: float
    morning: float | None = None
    evening: float | None = None


@lru_cache(maxsize=3)
def _pixels(asset: str) -> np.ndarray:
    try:
        with Image.open(file_of(asset, ".png")) as opened:
            return np.asarray(opened.convert("RGB"), np.uint8).copy()
    except (OSError, UnidentifiedImageError) as error:
        raise WestlightError("This reference is no longer on the shelf; choose another.") from error


def _reading(pixels: np.ndarray, areas: list[Area]) -> PictureReading:
    ratio = towards.key_to_fill(pixels, *areas) if len(areas) == 2 else None
    return PictureReading(**asdict(towards.reading(pixels)), ratio=ratio)


def beside(a: Asked, of: Towards) -> Beside:
    """The reference read beside the picture as it is shown now."""
    its, d = _pixels(of.asset), a.drawing(False)
    if not d.picture.any():
        raise WestlightError(DARK)
    mine = d.developed().pixels
    off = towards.apart(towards.bands(towards.small_shown(mine)),
                        towards.bands(towards.small_shown(its)))  # fmt: skip
    return Beside(
        reference=_reading(its, of.its_areas), picture=_reading(mine, of.my_areas), apart=off
    )


def nearer(a: Asked, of: Towards) -> Proposals:
    """Steps that bring the present picture nearer to a reference, each with a print of what it does."""
    d, ids = a.drawing(False), []
    films = []
    for s in a.p.counting:
        best = a.best(s)
        if best is not None:
            light = _of_size(best.film.at(1), d.picture.shape[:2])
            films.append(light * a.p.gains[s.id].astype(np.float32))
            ids.append(s.id)
    if not films or not d.picture.any():
        raise WestlightError(DARK)
    finish = d.finish()
    setup = Setup(d.ev, d.exposure.kelvin, d.exposure.tint, d.exposure.tone, finish.grade)
    # The lens acts on the mix; what it adds goes with no source.
    through = developed(d.picture, d.ev, finish, d.passes(finish))
    beyond = through - sum(films)
    before, steps = towards.nearer(films, setup, _pixels(of.asset), beyond)
    prints = [towards.small(f, PRINT_PX) for f in [*films, beyond]]
    told = [_TOLD[s.kind](d, s, ids) for s in steps]
    found = [
        Proposal(kind=s.kind, title=title, look=look, apart=s.apart, print=_print(prints, s))
        for s, (title, look) in zip(steps, told, strict=True)
    ]
    return Proposals(apart=before, found=sorted(found, key=lambda f: f.apart))


def _of_size(light: np.ndarray, size: tuple[int, int]) -> np.ndarray:
    height, width = size
    if light.shape[:2] == size:
        return light
    light = light[: max(height, 1), : max(width, 1)] if light.shape[0] >= height else light
    return light if light.shape[:2] == size else enlarged(light, height, width)


def _print(films: list[np.ndarray], step: Step) -> str:
    factors = [*step.factors, 1.0]
    light = np.sum([f * np.float32(k) for f, k in zip(films, factors, strict=True)], axis=0)
    file = io.BytesIO()
    Image.fromarray(towards.developed_small(light, step.setup)).save(file, "JPEG", quality=85)
    return "data:image/jpeg;base64," + base64.b64encode(file.getvalue()).decode()


def _signed(value: float, digits: int = 1) -> str:
    return f"{value:+.{digits}f}".replace("-", "−")


Told = tuple[str, dict[str, Any]]


def _exposure(d: Drawing, s: Step, _: list[str]) -> Told:
    stops = d.ev - s.setup.ev
    e = d.exposure
    if e.automatic != "off":
        more = min(max(round(e.compensation + stops, 3), -5.0), 5.0)
        return f"Exposure {_signed(stops)} EV", {"exposure": {"compensation": more}}
    shutter = min(max(e.shutter_s * 2.0**stops, 1e-6), 3600.0)
    return f"Exposure {_signed(stops)} EV", {"exposure": {"shutter_s": shutter}}


def _white(d: Drawing, s: Step, _: list[str]) -> Told:
    kelvin, tint = s.setup.kelvin, s.setup.tint
    title = f"White {kelvin:.0f} K" + (f", tint {_signed(tint, 0)}" if abs(tint) >= 1 else "")
    return title, {"exposure": {"kelvin": kelvin, "tint": tint}}


def _levels(d: Drawing, s: Step, ids: list[str]) -> Told:
    mix = {}
    moved = []
    for source, factor in zip(ids, s.factors, strict=False):
        stops = math.log2(factor)
        row = d.p.source_named(source)
        if row is not None and abs(stops) >= 0.05:
            level = min(max(round(row.level + stops, 1), -8.0), 8.0)
            mix[source] = {"level": level}
            moved.append((abs(stops), f"{row.name} {_signed(stops)}"))
    words = ", ".join(m for _, m in sorted(moved, reverse=True)[:3])
    return f"Levels: {words}" + (" …" if len(moved) > 3 else ""), {"mix": mix}


def _curve(d: Drawing, s: Step, _: list[str]) -> Told:
    points = [list(p) for p in s.setup.grade.curve.points]
    return "Tone curve", {
        "finish": {"grade": {"curve": points, "red": [], "green": [], "blue": []}}
    }


def _split(d: Drawing, s: Step, _: list[str]) -> Told:
    g = s.setup.grade
    lights, shadows = ("warm" if v > 0 else "cold" for v in (g.warm_lights, g.warm_shadows))
    return (
        f"Split tone: {lights} lights, {shadows} shadows",
        {"finish": {"grade": {"warm_lights": g.warm_lights, "warm_shadows": g.warm_shadows}}},
    )


def _saturation(d: Drawing, s: Step, _: list[str]) -> Told:
    value = s.setup.grade.saturation
    return f"Saturation {value:.0%}", {"finish": {"grade": {"saturation": value}}}


_TOLD: dict[str, Callable[[Drawing, Step, list[str]], Told]] = {
    "exposure": _exposure, "white": _white, "levels": _levels, "curve": _curve, "split": _split,
    "saturation": _saturation,
}  # fmt: skip


def shadow(a: Asked, of: Edge) -> SunHeight:
    """How high the sun of a reference stands, by an upright edge and its shadow."""
    height, width = _pixels(of.asset).shape[:2]
    foot, top, end = ((x * width, y * height) for x, y in of.points)
    try:
        return SunHeight(elevation_deg=round(towards.sun_height(foot, top, end), 1))
    except ValueError as error:
        raise WestlightError(
            "Click the foot of an upright edge, its top, and the end of its shadow."
        ) from error
