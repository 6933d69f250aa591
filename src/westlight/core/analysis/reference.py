"""Lighting towards a picture: what a reference holds, how far away one's own picture is, and steps that come nearer.

Both are compared as they are shown, by how much of the picture has which lightness and colour, not place by place: a
reference is another room. What a camera did to its light is not known; sRGB is assumed, so its stops are those of the screen.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal, NamedTuple

import numpy as np
import numpy.typing as npt
from scipy.optimize import minimize

from ..colour import AP1_LUMINANCE, srgb_decode
from ..colour.temperature import white_balance_matrix
from ..finish.grade import MIDDLE_GREY, Curve, Grade, develop_colour
from ..finish.response import response
from ..photometry import saturation_luminance
from .balance import suggested_balance
from .visible import JUST_NOTICED, oklab

Array = npt.NDArray[np.float64]
F4 = npt.NDArray[np.float32]
U1 = npt.NDArray[np.uint8]
Kind = Literal["exposure", "white", "levels", "curve", "split", "saturation"]
#: Stops from middle grey that the histogram of a shown picture spans, and its bins: half a stop each.
DARKEST, BRIGHTEST, BINS = -8.0, 2.5, 21
#: Parts of equally many pixels, from the darkest to the brightest, that two pictures are compared by.
BANDS = 24
#: Side in pixels that pictures are searched at.
SEARCHED = 128
#: Stops an exposure is moved by at most, and degrees of white point.
FARTHEST_EV, COLDEST_K, WARMEST_K = 4.0, 15_000.0, 2_000.0
#: Shares of the pixels whose lightness is matched by a curve, how far it goes, and its flattest and steepest slope.
KNOTS, FOLLOWS, SLOPES = (0.03, 0.15, 0.35, 0.6, 0.82, 0.96), 0.9, (0.45, 2.2)
#: Share of the light from which on a source is moved, and by how many stops at most.
FAINT, MOST_STOPS = 0.01, 3.0
#: Saturations that are tried, from and below.
SATURATIONS = (0.4, 1.52)
#: Blocks across and down whose brightness the levels are fitted to.
BLOCKS = (6, 4)
#: A step is offered if it takes off this share of the distance, and so many just-noticed steps.
WORTH, WORTH_STEPS = 0.04, 0.1
#: Luminance of a shown sRGB pixel, linear.
_Y = np.array([0.2126, 0.7152, 0.0722])


@dataclass(frozen=True)
class Reading:
    """What a shown picture (sRGB) holds.

    ``stops``: share of its pixels in each of `BINS` bins from `DARKEST` to `BRIGHTEST` stops about middle grey;
    ``middle``: stops of the pixel in the middle; ``contrast``: stops from the 5th to the 95th per cent;
    ``saturation``: mean chroma in Oklab; ``lights`` and ``shadows``: how warm (above 0) or cold the brightest and the darkest
    third are, along the axis from blue to yellow of Oklab.
    """

    stops: tuple[float, ...]
    middle: float
    contrast: float
    saturation: float
    lights: float
    shadows: float


def _stops(pixels: U1) -> Array:
    y = srgb_decode(pixels.reshape(-1, 3) / 255.0) @ _Y
    return np.asarray(np.log2(np.maximum(y / MIDDLE_GREY, 2.0**DARKEST)))


def reading(pixels: U1) -> Reading:
    """Read a shown picture (h, w, 3).

    >>> r = reading(np.full((4, 4, 3), 118, np.uint8))
    >>> abs(r.middle) < 0.02, r.contrast, round(r.saturation, 3)
    (True, 0.0, 0.0)
    """
    stops, lab = _stops(pixels), oklab(pixels).reshape(-1, 3)
    low, middle, high = (float(v) for v in np.percentile(stops, [5, 50, 95]))
    count = np.histogram(np.clip(stops, DARKEST, BRIGHTEST), BINS, (DARKEST, BRIGHTEST))[0]
    third = bands(pixels)
    n = BANDS // 3
    return Reading(
        tuple(float(v) for v in count / max(len(stops), 1)), middle, high - low,
        float(np.hypot(lab[:, 1], lab[:, 2]).mean()), float(third[-n:, 2].mean()), float(third[:n, 2].mean()),
    )  # fmt: skip


def bands(pixels: U1) -> Array:
    """Mean Oklab (`BANDS`, 3) of equally many pixels each, the darkest first; a picture has at least as many pixels."""
    lab = oklab(pixels).reshape(-1, 3).astype(np.float64)
    order = np.argsort(lab[:, 0], kind="stable")
    edges = np.linspace(0, len(order), BANDS + 1).astype(int)[:-1]
    sums = np.add.reduceat(lab[order], edges, axis=0)
    return np.asarray(sums / np.diff([*edges, len(order)])[:, None])


def apart(mine: Array, its: Array) -> float:
    """How far two pictures' `bands` are from each other, in just-noticed steps: 0 for the same share of every lightness and colour."""
    return float(np.linalg.norm(mine - its, axis=1).mean() / JUST_NOTICED)


def key_to_fill(pixels: U1, key: Sequence[float], fill: Sequence[float]) -> float:
    """Stops between the means of two areas (x0, y0, x1, y1 in shares of the picture) of a shown picture."""
    means = []
    for x0, y0, x1, y1 in (key, fill):
        height, width = pixels.shape[:2]
        rows = slice(int(min(y0, y1) * height), max(math.ceil(max(y0, y1) * height), 1))
        columns = slice(int(min(x0, x1) * width), max(math.ceil(max(x0, x1) * width), 1))
        means.append(float((srgb_decode(pixels[rows, columns] / 255.0) @ _Y).mean()))
    return math.log2(max(means[0], 1e-5) / max(means[1], 1e-5))


def sun_height(foot: Sequence[float], top: Sequence[float], end: Sequence[float]) -> float:
    """Elevation of the sun in degrees from an upright edge (foot to top) and its shadow (foot to end), seen across the sun.

    Points are pixels, y down. Raises ``ValueError`` when the edge or its shadow has no length.

    >>> round(sun_height((0, 100), (0, 0), (100, 100)), 1)
    45.0
    """
    upright = math.dist(foot, top)
    shadow = math.dist(foot, end)
    if upright < 1e-6 or shadow < 1e-6:
        raise ValueError("An edge and its shadow have a length each.")
    return math.degrees(math.atan2(upright, shadow))


def small(picture: npt.NDArray[np.generic], side: int = SEARCHED) -> F4:
    """A picture (h, w, 3) as means of blocks, about so many pixels on its longer side."""
    height, width = picture.shape[:2]
    step = max(math.ceil(max(height, width) / side), 1)
    rows, columns = np.arange(0, height, step), np.arange(0, width, step)
    sums = np.add.reduceat(np.add.reduceat(picture.astype(np.float64), rows, 0), columns, 1)
    counts = np.outer(np.diff([*rows, height]), np.diff([*columns, width]))
    return np.asarray(sums / counts[..., None], np.float32)


class Setup(NamedTuple):
    """How light is shown: EV100, white point, tone and grade."""

    ev: float
    kelvin: float
    tint: float
    tone: str
    grade: Grade


def developed_small(light: F4, setup: Setup) -> U1:
    """Scene-linear light (h, w, 3) in cd/m² as it is shown, exactly."""
    matrix = white_balance_matrix(setup.kelvin, setup.tint) / saturation_luminance(setup.ev)
    exposed = np.maximum(light.astype(np.float64) @ matrix.T, 0)
    shown = develop_colour(exposed, setup.tone, setup.grade)
    return np.asarray(np.clip(shown * 255.0, 0, 255).round(), np.uint8)


@dataclass(frozen=True)
class Step:
    """One thing that brings a picture nearer: how it is shown then, factors of its sources (m,), and the distance left."""

    kind: Kind
    setup: Setup
    factors: tuple[float, ...]
    apart: float


def nearer(
    films: Sequence[F4], setup: Setup, reference: U1, beyond: F4 | None = None
) -> tuple[float, list[Step]]:
    """The distance to a reference, and the steps that lessen it, each from the picture as it is.

    ``films`` are the scene-linear pictures (h, w, 3) of each source at its level, in cd/m². Steps that bring next to
    nothing are left out. ``beyond`` is light of no source, such as that of the lens. All are of one size.
    """
    rest = None if beyond is None else small(beyond)
    search = _Search([small(f) for f in films], setup, small_shown(reference), rest)
    tried = [
        search.exposure(),
        search.white(),
        search.levels(),
        search.curve(),
        search.split(),
        search.saturation(),
    ]
    most = search.before * (1 - WORTH)
    good = [s for s in tried if s is not None and s.apart < min(most, search.before - WORTH_STEPS)]
    return search.before, good


def small_shown(pixels: U1, side: int = SEARCHED) -> U1:
    """A shown picture, smaller."""
    return np.asarray(small(pixels, side).round(), np.uint8)


def _together(films: Sequence[F4]) -> F4:
    return np.asarray(sum(films[1:], start=films[0]), np.float32)


class _Search:
    def __init__(
        self, films: list[F4], setup: Setup, reference: U1, beyond: F4 | None = None
    ) -> None:
        self.films, self.setup, self.reference = films, setup, reference
        self.beyond = np.zeros_like(films[0]) if beyond is None else beyond
        self.light = _together([*films, self.beyond])
        self.its = bands(reference)
        self.even = (1.0,) * len(films)
        self.before = self.off(setup)

    def off(self, setup: Setup, axes: slice = slice(None), light: F4 | None = None) -> float:
        """Distance with a setup, of lightness or of colour alone if asked for."""
        mine = bands(developed_small(self.light if light is None else light, setup))
        return apart(mine[:, axes], self.its[:, axes])

    def made(self, kind: Kind, setup: Setup) -> Step:
        return Step(kind, setup, self.even, self.off(setup))

    def exposure(self) -> Step:
        """Stops that bring lightness nearest, in eighths; tried coarsely first."""

        def off(stops: float) -> float:
            return self.off(self.setup._replace(ev=self.setup.ev - stops), slice(0, 1))

        coarse = np.arange(-FARTHEST_EV, FARTHEST_EV + 0.1, 0.5)
        near = float(min(coarse, key=off))
        best = float(min(np.arange(near - 0.375, near + 0.4, 0.125), key=off))
        return self.made("exposure", self.setup._replace(ev=self.setup.ev - best))

    def white(self) -> Step:
        """White point that brings colour nearest; searched in mireds, as it is seen."""

        def at(x: Array) -> Setup:
            mired = float(np.clip(x[0] * 100, 1e6 / COLDEST_K, 1e6 / WARMEST_K))
            return self.setup._replace(kelvin=1e6 / mired, tint=float(np.clip(x[1] * 30, -50, 50)))

        begin = np.array([1e4 / self.setup.kelvin, self.setup.tint / 30])
        found = minimize(lambda x: self.off(at(x), slice(1, 3)), begin, method="Nelder-Mead",
                         options={"maxfev": 60, "xatol": 0.02, "fatol": 0.02,
                                  "initial_simplex": begin + np.array([[0, 0], [0.25, 0], [0, 0.3]])})  # fmt: skip
        best = at(found.x)
        return self.made(
            "white", best._replace(kelvin=round(best.kelvin, -1), tint=round(best.tint, 1))
        )

    def levels(self) -> Step | None:
        """Levels by least squares: blocks of the picture towards those of the reference at the same place."""
        if len(self.films) < 2:
            return None
        across, down = BLOCKS
        r = response(self.setup.tone, self.setup.grade)
        shown = np.maximum.accumulate(r.shown) + np.arange(len(r.shown)) * 1e-9
        stops = np.linspace(-8.0, 8.0, len(shown))
        grey = MIDDLE_GREY * saturation_luminance(self.setup.ev)
        target = _blocks(self.reference.astype(np.float64) / 255.0 @ _Y, across, down)
        # What is shown burnt or black tells no luminance: it is taken as the last that does.
        wanted = grey * np.exp2(np.clip(np.interp(target, shown, stops), -6.0, 3.0))
        each = np.stack(
            [_blocks(f @ AP1_LUMINANCE.astype(np.float32), across, down) for f in self.films],
            axis=1,
        )
        # What is hardly seen here is no means to anything.
        seen = each.mean(axis=0) >= FAINT * max(float(each.sum(axis=1).mean()), 1e-9)
        if seen.sum() < 2:
            return None
        rest = each[:, ~seen].sum(axis=1)
        factors = np.ones(len(self.films))
        near = suggested_balance(each[:, seen], np.maximum(wanted - rest, 0.02 * wanted)).factors
        factors[seen] = np.clip(near, 2.0**-MOST_STOPS, 2.0**MOST_STOPS)
        light = _together(
            [*(f * np.float32(k) for f, k in zip(self.films, factors, strict=True)), self.beyond]
        )
        return Step(
            "levels",
            self.setup,
            tuple(float(k) for k in factors),
            self.off(self.setup, light=light),
        )

    def curve(self) -> Step:
        """A smooth, rising curve that brings the lightness of each share of the pixels nearer: histograms matched, held."""
        plain = replace(self.setup.grade, curve=Curve(), red=Curve(), green=Curve(), blue=Curve())
        mine = _values(developed_small(self.light, self.setup._replace(grade=plain)))
        points = matched(mine, _values(self.reference))
        return self.made("curve", self.setup._replace(grade=replace(plain, curve=Curve(points))))

    def split(self) -> Step:
        """Warmth of lights and of shadows."""

        def at(x: Array) -> Setup:
            lights, shadows = (round(float(v), 2) for v in np.clip(x, -1, 1))
            return self.setup._replace(
                grade=replace(self.setup.grade, warm_lights=lights, warm_shadows=shadows)
            )

        g = self.setup.grade
        begin = np.array([g.warm_lights, g.warm_shadows])
        found = minimize(lambda x: self.off(at(x), slice(1, 3)), begin, method="Nelder-Mead",
                         options={"maxfev": 50, "xatol": 0.02, "fatol": 0.02,
                                  "initial_simplex": begin + np.array([[0, 0], [0.3, 0], [0, 0.3]])})  # fmt: skip
        return self.made("split", at(found.x))

    def saturation(self) -> Step:
        """Saturation that brings the chroma nearest, in twentieths."""

        def at(value: float) -> Setup:
            return self.setup._replace(grade=replace(self.setup.grade, saturation=value))

        best = min(np.arange(*SATURATIONS, 0.05), key=lambda v: self.off(at(float(v)), slice(1, 3)))
        return self.made("saturation", at(round(float(best), 2)))


def _values(pixels: U1) -> Array:
    """Shown lightness 0…1 (n,), as a curve over all channels moves it."""
    return np.asarray(pixels.reshape(-1, 3) / 255.0 @ _Y)


def matched(mine: Array, its: Array) -> tuple[tuple[float, float], ...]:
    """Points of a curve from shown values to those of another picture at the same shares of the pixels.

    It goes `FOLLOWS` of the way, and its slope stays within `SLOPES`: flat walls neither band nor break. No points when
    there is nothing to tell them by.
    """
    points = [(0.0, 0.0)]
    for x, y in zip(np.quantile(mine, KNOTS), np.quantile(its, KNOTS), strict=True):
        left, low = points[-1]
        if not (x - left > 0.03 and x < 0.97):
            continue
        y = x + FOLLOWS * (y - x)
        # The way to white is left open, too.
        least = max(low + SLOPES[0] * (x - left), 1 - SLOPES[1] * (1 - x))
        most = min(low + SLOPES[1] * (x - left), 1 - SLOPES[0] * (1 - x))
        points.append((round(float(x), 3), round(float(np.clip(y, min(least, most), most)), 3)))
    return (*points, (1.0, 1.0)) if len(points) > 1 else ()


def _blocks(values: npt.NDArray[np.generic], across: int, down: int) -> Array:
    """Means (across · down,) over equal blocks of a picture (h, w)."""
    height, width = values.shape
    rows = np.linspace(0, height, down + 1).astype(int)[:-1]
    columns = np.linspace(0, width, across + 1).astype(int)[:-1]
    sums = np.add.reduceat(np.add.reduceat(values.astype(np.float64), rows, 0), columns, 1)
    counts = np.outer(np.diff([*rows, height]), np.diff([*columns, width]))
    return np.asarray(sums / counts).ravel()
