"""Drawing the present picture: mixed, exposed, finished, and read in the way that is asked for."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import cached_property
from typing import NamedTuple

import numpy as np

from westlight.core.analysis.visible import TILE, Grain
from westlight.core.colour import AP1_LUMINANCE
from westlight.core.finish import (
    Finish,
    Mixture,
    Shown,
    baked,
    beyond_srgb,
    develop,
    luminance_colours,
    marked,
    metered_ev,
    noise_colours,
    outlined,
    show,
    striped,
)
from westlight.core.finish.enlarge import enlarged
from westlight.core.transport.film import F4

from ..spec import ExposureSettings
from ..translate import ev_of, exposed, finish_of
from .draft import Hand, drawn
from .films import cropped
from .pictures import STRONG, Found, Pictures
from .prepared import Prepared

_Y = AP1_LUMINANCE.astype(np.float32)


@dataclass(frozen=True, eq=False)
class Drawing:
    """Everything a frame is drawn from."""

    p: Prepared
    pictures: Pictures
    hand: Hand
    #: The mix, scene-linear (h, w, 3) in cd/m², its scale, and the exposure it is shown with.
    picture: F4
    scale: int
    exposure: ExposureSettings
    #: Output passes of the view that are no light, and what is known of its noise.
    surveyed: dict[str, F4]
    grain: Grain | None
    settled: bool = False
    #: It was made at half the size of the films it is mixed of, for the sake of a quick hand.
    halved: bool = False

    @property
    def made_of(self) -> int:
        """Scale of the films it is mixed of."""
        return self.scale // 2 if self.halved else self.scale

    @property
    def ev(self) -> float:
        """EV100 it is shown with."""
        return ev_of(self.exposure)

    def finish(self) -> Finish:
        """The finish of the look for this view."""
        return finish_of(self.p.spec.finish, self.exposure.tone, self.p.view(self.scale).horizon())

    def passes(self, finish: Finish) -> dict[str, F4]:
        """Output passes a finish asks for, as far as they are there."""
        found: dict[str, F4] = {}
        if finish.haze.per_metre or finish.backdrop.path is not None or finish.occlusion.amount:
            guides = (self.pictures.guide(self.p, s) for s in (self.scale, 1, 2, 4))
            guide = next((g for g in guides if g is not None), None)
            if guide is not None:
                names = ("depth", "alpha", "outside", "diffuse")
                found = {n: guide.output_pass(n) for n in names}
        return found | self.surveyed

    def developed(self, finish: Finish | None = None, screen: str = "sRGB") -> Shown:
        """The picture as a finish, by default the look's, develops it."""
        chosen, e = finish or self.finish(), self.exposure
        return develop(self.picture, self.ev, e.kelvin, e.tint, chosen, self.passes(chosen), screen,
                       self.settled, "quick" if self.halved else "usual")  # fmt: skip

    @cached_property
    def beyond(self) -> np.ndarray:
        """Where the picture has colours that no sRGB screen has, (h, w)."""
        return beyond_srgb(self.developed(screen="Display P3").pixels)

    def plainly(self, light: F4, ev: float | None = None) -> Shown:
        """Some light under this exposure (or another) and tone, without the lens."""
        e = self.exposure
        table = baked(e.tone, finish_of(self.p.spec.finish, e.tone).grade)
        return show(light, self.ev if ev is None else ev, e.kelvin, e.tint, table)


def _gamut(d: Drawing) -> Shown:
    shown = d.developed()
    return replace(shown, pixels=marked(shown.pixels, d.beyond))


def _noise(d: Drawing) -> Shown:
    shown = d.developed()
    height, width = shown.pixels.shape[:2]
    steps = np.zeros((height, width), np.float32)
    if d.grain is not None and d.scale == 1:
        tiles = np.repeat(np.repeat(d.grain.tiles, TILE, axis=0), TILE, axis=1)
        steps = tiles[:height, :width]
    return replace(shown, pixels=noise_colours(shown.pixels, steps))


def _burnt(d: Drawing) -> Shown:
    shown = d.developed()
    return replace(shown, pixels=striped(shown.pixels))


def _luminance(d: Drawing) -> Shown:
    return replace(d.developed(), pixels=luminance_colours(d.picture, d.ev))


#: How a picture is read, by the name of the reading.
READ: dict[str, Callable[[Drawing], Shown]] = {
    "plain": Drawing.developed,
    "raw": Drawing.developed,
    "gamut": _gamut,
    "noise": _noise,
    "burnt": _burnt,
    "luminance": _luminance,
}


def read(d: Drawing) -> Shown:
    """The picture in the reading that is asked for, or one source alone."""
    find = d.p.spec.find
    return READ[d.p.spec.reading](d) if find is None else found(d, find)


def found(d: Drawing, source_id: str) -> Shown:
    """One source alone, exposed for itself, with a line around where it is a quarter of all."""
    source = d.p.source_named(source_id)
    best = None if source is None else d.pictures.best(d.p, source, d.hand.moved)
    if source is None or best is None or not d.p.can_shine(source):
        return d.plainly(np.zeros_like(d.picture))
    alone = best.film.at(max(d.scale // best.scale, 1))
    height, width = d.picture.shape[:2]
    alone = alone[:height, :width]
    alone = enlarged(alone, height, width) if alone.shape != d.picture.shape else alone
    light = alone * d.p.gains[source_id].astype(np.float32)
    e = d.exposure
    shown = show(light, metered_ev(light) or d.ev, e.kelvin, e.tint)
    share = (light @ _Y) / np.maximum(d.picture @ _Y, 1e-9)
    return replace(shown, pixels=outlined(shown.pixels, share))


class Mixed(NamedTuple):
    """A scene-linear picture (h, w, 3) in cd/m², its scale, and whether it is half as large as its films are."""

    picture: F4
    scale: int
    halved: bool = False


class Mixer:
    """Mixes the films of a session; sources whose gain did not change are not added again."""

    def __init__(self) -> None:
        self._mix = Mixture()
        self._shutter_s: float | None = None

    def exposure(self, p: Prepared) -> ExposureSettings:
        """Exposure of the look; the shutter as last metered when it is automatic."""
        e = p.spec.exposure
        automatic = e.automatic != "off" and self._shutter_s is not None
        return e.model_copy(update={"shutter_s": self._shutter_s}) if automatic else e

    def mixed(self, p: Prepared, pictures: Pictures, hand: Hand, halved: bool = False) -> Mixed:
        """Scene-linear picture of all sources that count; meters it.

        ``halved``: at half the size, if it could be made at full size.
        """
        made = self._mixed(p, pictures, hand, halved)
        self._shutter_s = exposed(p.spec.exposure, made.picture).shutter_s
        return made

    def _mixed(self, p: Prepared, pictures: Pictures, hand: Hand, halved: bool) -> Mixed:
        hand.settle(p, pictures)
        if hand.draft is not None and not hand.waits(p, pictures):
            return Mixed(drawn(hand.draft, p, pictures), p.moving_scale)
        best = [(f, p.gains[s.id]) for s in p.counting
                if (f := pictures.best(p, s, hand.moved)) is not None]  # fmt: skip
        coarse = self._scale(best) if not hand.moved else max((f.scale for f, _ in best), default=4)
        halved = halved and coarse == 1
        coarse = 2 if halved else coarse
        size = p.size(coarse)
        if not best:
            return Mixed(np.zeros((*size, 3), np.float32), coarse)
        # Columns from the left that are shown before denoising.
        raw = round(size.width * p.spec.raw_share)

        def layer(f: Found) -> F4:
            if f.scale > coarse:
                small, large = pictures.guide(p, f.scale), pictures.guide(p, coarse)
                return f.film.enlarged(f.scale // coarse, small, large, size)
            clean = cropped(f.film.at(coarse // f.scale), size)
            if not raw:
                return clean
            traced = cropped(f.film.raw(coarse // f.scale), size)
            return np.concatenate([traced[:, :raw], clean[:, raw:]], axis=1)

        layers = [layer(f) for f, _ in best]
        return Mixed(self._mix.of(layers, [gain for _, gain in best]), coarse, halved)

    @staticmethod
    def _scale(best: list[tuple[Found, np.ndarray]]) -> int:
        """Scale of a mix: what makes the picture decides; what is faint is enlarged to it."""
        light = [0.0 if f.film.mean is None else float(f.film.mean @ (gain * AP1_LUMINANCE))
                 for f, gain in best]  # fmt: skip
        least = STRONG * sum(light)
        strong = [f.scale for (f, _), y in zip(best, light, strict=True) if y >= least]
        return max(strong or [f.scale for f, _ in best], default=4)
