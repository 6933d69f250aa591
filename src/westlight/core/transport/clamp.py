"""The clamp on speckles: how bright one sample of bounced light may be, chosen by what it costs."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import numpy.typing as npt

from ..colour import AP1_LUMINANCE
from ..view import View
from . import layout as L
from .assemble import Assembled
from .film import Accumulator, over_pixels
from .render import PassRun

#: Share of a source's light an automatic clamp is meant to take: it may be several times as much, for what
#: a pilot tells of the brightest samples is uncertain.
MOST_TAKEN = 0.001
#: Pilot picture the automatic clamp is chosen from.
_PILOT_WIDTH, _PILOT_PASSES = 160, 32
#: Samples that tell how the brightest are spread, at most and as a share of all; the flattest spread that is believed.
_TAIL, _TAIL_SHARE, _LEAST_STEEP = 300, 1 / 8, 1.05
#: Standard errors by which the spread is taken to be flatter than it looks: the steeper one would take too much.
_SURE = 1.64


def choose_clamps(
    assembled: Assembled,
    view: View,
    films: Sequence[Accumulator],
    gains: Sequence[npt.NDArray[np.float64]],
    clamp: float | str | None,
    seed: int,
    bounces: int,
    calm: float,
) -> None:
    """Set the clamp of each film: none, a luminance in cd/m², or "auto".

    Raises ``ValueError`` for a clamp that is none of these.
    """
    if clamp is None:
        return
    if isinstance(clamp, str):
        if clamp != "auto":
            raise ValueError(f"A clamp is a luminance or “auto”, not {clamp!r}.")
        for film, limit in zip(
            films, automatic_clamps(assembled, view, range(len(films)), seed, bounces, calm),
            strict=True,
        ):  # fmt: skip
            film.clamp = limit
        return
    if not clamp > 0:
        raise ValueError("A clamp must be greater than zero.")
    for film, gain in zip(films, gains, strict=True):
        film.clamp = clamp / max(float(gain @ AP1_LUMINANCE), 1e-30)


def automatic_clamps(
    assembled: Assembled, view: View, active: Sequence[int], seed: int, bounces: int, calm: float
) -> list[float]:
    """Clamp of each active source, in unit luminance, that takes at most `MOST_TAKEN` of its light.

    From single samples of a small pilot picture: the limit above which they hold that share.
    """
    width = min(_PILOT_WIDTH, view.width_px)
    small = view.resized(width, max(1, width * view.height_px // view.width_px))
    samples: list[list[npt.NDArray[np.float64]]] = [[] for _ in active]
    total = np.zeros(len(active))
    for n in range(_PILOT_PASSES):
        films = [Accumulator.empty(small.height_px, small.width_px) for _ in active]
        for f in films:
            f.counts[..., 0] = n
        PassRun(assembled, small, active, films, upto=n + 1, seed=seed ^ 0x51ED, bounces=bounces,
                calm=calm, glances=(0,)).advance()  # fmt: skip
        for i, f in enumerate(films):
            samples[i].append((f.bounced.astype(np.float64) @ AP1_LUMINANCE).ravel())
            total[i] += float((f.light.astype(np.float64) @ AP1_LUMINANCE).sum())
    return [_limit(np.concatenate(s), t * MOST_TAKEN) for s, t in zip(samples, total, strict=True)]


def _limit(samples: npt.NDArray[np.float64], may_take: float) -> float:
    """Value c for which Σ max(s − c, 0) is as large as it may be.

    A few bright samples that the pilot did not meet can hold more than all that it met. So the brightest
    are taken for a power law (Hill 1975), N(s) = k·(s / sₖ)^−a, whose sum above c is
    k·c·(c / sₖ)^−a / (a − 1), and the higher limit of both counts. The estimate of a has a standard error of
    a / √k.
    """
    values = np.sort(samples)[::-1]
    if not values.size or values[0] <= 0 or may_take <= 0:
        return float(L.F4_MAX)
    above = np.cumsum(values) - values * np.arange(1, len(values) + 1)
    met = float(values[min(int(np.searchsorted(above, may_take)), len(values) - 1)])
    k = min(_TAIL, int((values > 0).sum() * _TAIL_SHARE))
    if k < 1:
        return float(L.F4_MAX)
    least = float(values[k])
    steepness = 1 / max(float(np.log(values[:k] / least).mean()), 1e-6)
    steepness = max(steepness * (1 - _SURE / np.sqrt(k)), _LEAST_STEEP)
    exponent = 1 / (steepness - 1)
    foretold = least * min(k * least * exponent / may_take, 1e6) ** min(exponent, 20.0)
    return float(max(met, min(foretold, L.F4_MAX)))


def clamp_gathered(film: Accumulator) -> None:
    """Choose the clamp of a film from the light it has gathered, and take from that what the clamp would have taken.

    Meant for a film after its first pass, whose pixels are single samples; of later ones their means are limited. What is left
    sums up with later passes that are clamped as they are traced. A film without a whole pass is left as it is.
    """
    if film.samples < 1:
        return
    weights = AP1_LUMINANCE.astype(np.float32)
    counts = over_pixels(film.counts.sum(axis=-1).astype(np.float32), *film.light.shape[:2])
    split = film.bounced.shape[2] == 3
    bounced = film.bounced @ weights if split else film.bounced[..., 0]
    whole = film.light @ weights
    mean = bounced / counts
    may_take = float((whole / counts).sum(dtype=np.float64)) * MOST_TAKEN
    film.clamp = _limit(mean.ravel().astype(np.float64), may_take)
    over = mean > film.clamp
    if not over.any():
        return
    taken = (mean[over] - np.float32(film.clamp)) * counts[over]
    left = (1 - taken / np.maximum(bounced[over], 1e-30))[:, None]
    of_all = (1 - taken / np.maximum(whole[over], 1e-30))[:, None]
    if split:
        film.light[over] -= film.bounced[over] * (1 - left)
    else:
        # The colour of bounced light alone is not kept: all of the pixel gives in the same colour.
        film.light[over] *= of_all
    film.bounced[over] *= left
    film.removed[over] += taken
    film.odd[over, 0] *= of_all[:, 0]
    film.odd[over, 1] *= left[:, 0]
    if len(film.apart):
        film.apart[over] *= of_all
