"""What is told with a frame: the head of it, and the prints of the strip."""

from __future__ import annotations

import io
from collections.abc import Iterator
from dataclasses import asdict, dataclass
from typing import Any, Literal

import numpy as np
from PIL import Image

from westlight.core.analysis import remedy, view_doubt
from westlight.core.analysis.visible import Grain
from westlight.core.channels import largest
from westlight.core.colour import swatch, white_balance_matrix
from westlight.core.finish import (
    Shown,
    baked,
    burning_light,
    legend,
    metered_ev,
    noise_legend,
    response,
    stops_histogram,
)
from westlight.core.finish.response import BRIGHTEST, DARKEST
from westlight.core.photometry import saturation_luminance, shutter_for_ev
from westlight.core.transport.denoise import USUAL_FALL
from westlight.core.transport.film import F4
from westlight.core.view import sharp_zone

from ..described import described, described_source
from ..spec import MoonSettings, PictureSpec, SkySettings, SourceSpec, SunSettings
from ..translate import finish_of
from .frames import Drawing

Head = dict[str, Any]
THUMB_WIDTH = 208
#: Stops under burning that a source is brought to, and the share of the picture from which its
#: burning is more than the lamp itself.
JUST_BELOW, BURNS_SHARE = 0.1, 0.01
#: Sources whose noise is told, the worst first.
_NOISIEST = 6
#: A print none of whose brighter pixels reaches this shown value is exposed for itself.
_TOO_DARK_TO_SEE = 40
#: Stops by which a print is raised at most: what is fainter is the chance of a few paths, and no picture of a light.
_MOST_LIFTED_EV = 12.0
#: A source whose brightest light is this part of the burnt point is dark here: no level would bring it up.
_DARK = 2e-4


@dataclass(frozen=True)
class Clock:
    """Seconds of work on the present state, and milliseconds that this frame took to draw."""

    spent_s: float
    drawing_ms: float


def encoded(shown: Shown, exact: bool) -> bytes:
    """A frame as a file: PNG where every step of a colour counts, JPEG under a hand."""
    file = io.BytesIO()
    if exact:
        Image.fromarray(shown.pixels).save(file, "PNG", compress_level=1)
    else:
        Image.fromarray(shown.pixels).save(file, "JPEG", quality=90)
    return file.getvalue()


def head_of(d: Drawing, shown: Shown, clock: Clock, doubt: str | None, exact: bool) -> Head:
    """Everything that is told with a frame; ``exact``: it is sent as a PNG."""
    p, spec = d.p, d.p.spec
    films = [d.pictures.film(p, s, spec.bounces, d.made_of) for s in p.counting]
    fresh = [d.pictures.best_fresh(p, s, direct=False) for s in p.counting]
    ev = d.ev
    return {
        "kind": "frame",
        "of": spec.of,
        "described": described(spec, d.exposure),
        "format": "png" if exact else "jpeg",
        "width": shown.pixels.shape[1],
        "height": shown.pixels.shape[0],
        "scale": d.made_of,
        # A picture of a quarter of the size is first light, also where prints of the strip had some passes there.
        "passes": 0
        if d.scale > 2
        else max((0 if f is None else f.clean_samples for f in films), default=0),
        "waiting": sum(f is None for f in fresh),
        "noise": None if d.grain is None else round(d.grain.excess, 2),
        "grain": "" if d.grain is None else d.grain.words,
        "clamped": clamped_share(d),
        "seconds": round(clock.spent_s, 1),
        "milliseconds": round(clock.drawing_ms, 1),
        "settled": d.settled,
        "moving": spec.moving,
        "ev": round(ev, 2),
        "metered_s": _metered(d),
        "shutter_s": d.exposure.shutter_s,
        "sharp": _sharp_zone(spec),
        "burnt": round(shown.burnt, 4),
        "black": round(shown.black, 4),
        "histogram": shown.histogram.reshape(64, 4).sum(axis=1).tolist(),
        "histogram_rgb": rgb_histogram(shown.pixels),
        "left_s": seconds_left(d, clock.spent_s),
        "empty": p.assembled is None,
        "doubt": doubt,
        "openings": 0 if p.assembled is None else len(p.assembled.arrays.portal_floats),
        "tone": _tone(d),
        "noisy": noise_by_source(d),
        "beyond": round(float(d.beyond.mean()), 4) if spec.reading == "gamut" else None,
        "legend": [asdict(b) for b in legend(ev)] if spec.reading == "luminance" else [],
        "noise_legend": [asdict(b) for b in noise_legend()] if spec.reading == "noise" else [],
    }


def clamped_share(d: Drawing) -> float | None:
    """Share of all light that the clamp on speckles took, in the picture at full size; None where none is laid on."""
    if d.p.spec.speckles == "left":
        return None
    taken = left = 0.0
    for s in d.p.counting:
        film = d.pictures.film(d.p, s, d.p.spec.bounces, 1)
        if film is not None and film.mean is not None:
            gain = d.p.luminous_gain(s)
            taken += film.taken * float(gain.sum())
            left += float(film.mean @ gain)
    return round(taken / (taken + left), 5) if taken + left > 0 else 0.0


def rgb_histogram(pixels: np.ndarray) -> list[list[int]]:
    """How many pixels shown (h, w, 3) have each of 64 steps of red, green and blue; every other row."""
    every = pixels[::2, ::2]
    return [np.bincount(every[..., c].ravel() >> 2, minlength=64).tolist() for c in range(3)]


def seconds_left(d: Drawing, spent_s: float) -> float | None:
    """Seconds until the picture is calm or the most time is reached; None while it cannot be told."""
    spec, grain = d.p.spec, d.grain
    if d.scale > 1 or spec.moving or spec.paused or spent_s < 1 or grain is None:
        return None
    too_much = grain.excess / spec.calm_at
    if too_much <= 1:
        return None
    # What denoising leaves falls as a power of the passes, and passes take equal time.
    needed = spent_s * (too_much ** (1 / USUAL_FALL) - 1)
    return round(max(min(needed, spec.max_seconds - spent_s), 0.0), 1)


def _tone(d: Drawing) -> Head:
    """The tone curve of the look, and where the light of the picture lies under it."""
    tone = d.exposure.tone
    curve = response(tone, finish_of(d.p.spec.finish, tone).grade)
    return {
        "darkest": DARKEST, "brightest": BRIGHTEST, "shown": np.round(curve.shown, 4).tolist(),
        "burnt": curve.burnt_stops, "black": curve.black_stops,
        "histogram": stops_histogram(d.picture, d.ev).tolist(),
    }  # fmt: skip


def noise_by_source(d: Drawing) -> list[Head]:
    """Who makes the noise of the mix: noise of each source, direct and bounced, worst first."""
    p, spec = d.p, d.p.spec
    whole = max(d.pictures.mean_luminance(p, d.hand.moved), 1e-9)
    out: list[Head] = []
    for s in p.counting:
        film = d.pictures.full(p, s)
        if film is None or film.mean is None:
            continue
        share = float(film.mean @ p.luminous_gain(s)) / whole
        direct, bounced = film.noise_parts
        words, cure = remedy(s.name, _kind(s), direct, bounced, spec.portals or spec.closed,
                             spec.bounced == "kept")  # fmt: skip
        out.append({
            "source": s.id, "noise": round(film.noise * share, 4), "direct": round(direct * share, 4),
            "bounced": round(bounced * share, 4), "remedy": words, "cure": cure,
        })  # fmt: skip
    return sorted(out, key=lambda n: float(n["noise"]), reverse=True)[:_NOISIEST]


def _kind(source: SourceSpec) -> Literal["sky", "sun", "lamp"]:
    if isinstance(source.settings, SkySettings):
        return "sky"
    return "sun" if isinstance(source.settings, SunSettings | MoonSettings) else "lamp"


def _sharp_zone(spec: PictureSpec) -> tuple[float, float | None] | None:
    """Nearest and farthest sharp distance in metres; None when everything is sharp."""
    view = spec.view
    if not view.depth_of_field or not view.focus_m or not view.f_number:
        return None
    near, far = sharp_zone(view.focal_length_mm, view.f_number, view.focus_m)
    return round(near, 3), None if far is None else round(far, 3)


def _metered(d: Drawing) -> float | None:
    ev = metered_ev(d.picture)
    return None if ev is None else shutter_for_ev(ev, d.exposure.f_number, d.exposure.iso)


def doubt_of_view(d: Drawing) -> str | None:
    """What is wrong with the view itself, in words; None while its surfaces are not known."""
    guide, view = d.pictures.guide(d.p, d.scale), d.p.spec.view
    # What is cut away cannot hide anything.
    if guide is None or d.p.assembled is None or view.near_m > 0:
        return None
    depth, alpha = guide.film.output_pass("depth"), guide.film.output_pass("alpha")
    return view_doubt(d.p.assembled.top, view.position, depth, alpha)


def prints(d: Drawing, only: frozenset[str] | None) -> Iterator[tuple[Head, bytes]]:
    """The little picture of each source, or of some: what it alone adds at this exposure."""
    p = d.p
    whole = max(d.pictures.mean_luminance(p, d.hand.moved), 1e-9)
    for s in p.spec.sources:
        if only is not None and s.id not in only:
            continue
        best = d.pictures.best(p, s, d.hand.moved)
        if best is None:
            height, width = p.size(4)
            small = np.zeros((max(height // 2, 1), max(width // 2, 1), 3), np.float32)
        else:
            factor = max(1, p.size(best.scale).width // THUMB_WIDTH)
            small = best.film.at(factor) * p.gains[s.id].astype(np.float32)
        shown = d.plainly(small)
        unseen = np.percentile(largest(shown.pixels), 98) < _TOO_DARK_TO_SEE
        headroom = headroom_of(d, small)
        lifted = p.spec.prints_by_themselves or (unseen and headroom is not None)
        own = metered_ev(small) if lifted else None
        own = None if own is None else max(own, d.ev - _MOST_LIFTED_EV)
        mean = None if best is None else best.film.mean
        adds = None if mean is None else float(mean @ p.luminous_gain(s)) / whole * s.counts
        head = {
            "kind": "contribution",
            "source": s.id,
            "described": described_source(s),
            "burnt": round(shown.burnt, 4),
            "colour": swatch(p.gains[s.id]),
            "share": None if adds is None else round(min(adds, 1.0), 4),
            "lifted_ev": None if own is None else round(d.ev - own, 1),
            "headroom": headroom,
            "just_below": None if headroom is None else round(headroom - JUST_BELOW, 1),
            "burns": headroom is not None and headroom < 0 and shown.burnt >= BURNS_SHARE,
        }
        pixels = shown.pixels if own is None else d.plainly(small, own).pixels
        file = io.BytesIO()
        Image.fromarray(pixels).save(file, "JPEG", quality=85)
        yield head, file.getvalue()


def headroom_of(d: Drawing, light: F4) -> float | None:
    """Stops a source may still rise before a thousandth of the picture burns; None if dark."""
    e = d.exposure
    balanced = light.reshape(-1, 3) @ white_balance_matrix(e.kelvin, e.tint).T
    top = float(np.percentile(largest(balanced), 99.9)) / saturation_luminance(d.ev)
    table = baked(e.tone, finish_of(d.p.spec.finish, e.tone).grade)
    return None if top < _DARK else round(float(np.log2(burning_light(table) / top)), 2)


def calm_enough(grain: Grain | None, spec: PictureSpec) -> bool:
    """Whether the noise that was measured is little enough to stop."""
    return grain is not None and grain.excess <= spec.calm_at
