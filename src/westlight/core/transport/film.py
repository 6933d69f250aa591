"""Films: what has been gathered for each source, and the pictures made of it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np
import numpy.typing as npt

from ..colour import AP1_LUMINANCE
from . import layout as L

F4 = npt.NDArray[np.float32]
I4 = npt.NDArray[np.int32]
#: Standard deviation of a normal error over its mean size: √(π/2).
SIGMA_OF_MEAN = 1.2533141
#: Arrays a film is made of: pictures, and with them the passes of each tile.
PICTURES = ("light", "bounced", "odd", "removed", "apart", "seen")
FILM_ARRAYS = (*PICTURES, "counts")
#: Rows that are traced together: small enough to share evenly among threads, large enough to be
#: worth a call.
BAND_ROWS = 8
#: Columns of a tile: each tile of a band counts its own passes, so that some may get more than others.
TILE_COLUMNS = 64


def bands_of(height: int) -> int:
    """Number of bands a picture of this height is traced in."""
    return -(-height // BAND_ROWS)


def tiles_of(height: int, width: int) -> tuple[int, int]:
    """Bands and tiles of each that a picture of this size has."""
    return bands_of(height), -(-width // TILE_COLUMNS)


def over_pixels(values: npt.NDArray[np.generic], height: int, width: int) -> npt.NDArray:  # type: ignore[type-arg]
    """Values of tiles (bands, tiles) spread over the pixels (h, w) of a picture."""
    tall = np.repeat(values, BAND_ROWS, axis=0)[:height]
    return np.repeat(tall, TILE_COLUMNS, axis=1)[:, :width]


def of_tiles(picture: npt.NDArray[np.floating]) -> npt.NDArray[np.float64]:
    """Mean of a picture (h, w) over each of its tiles, (bands, tiles)."""
    height, width = picture.shape
    rows, columns = np.arange(0, height, BAND_ROWS), np.arange(0, width, TILE_COLUMNS)
    total = np.add.reduceat(np.add.reduceat(picture.astype(np.float64), rows, 0), columns, 1)
    ones = np.outer(np.diff([*rows, height]), np.diff([*columns, width]))
    return np.asarray(total / ones)


@dataclass
class Accumulator:
    """Light of one source in one view, as sums of unit radiance over passes.

    ``light`` (h, w, 3) is all of it and ``bounced`` (h, w, 3), or (h, w, 1) for its luminance only,
    the part that met a second surface on its way; ``odd`` (h, w, 2) is the luminance of both from odd passes alone, whose difference
    from the even ones measures the noise; ``removed`` (h, w) is the luminance taken by the clamp;
    ``apart`` (h, w, 6), or no rows, is light mirrored by the first surface and light seen through glass;
    ``seen`` (h, w, 3) is what glances share: the source seen itself, straight or through panes, and the sun on what is seen.
    ``counts`` (bands, tiles, 2) are the even and odd passes of each tile.
    """

    light: F4
    bounced: F4
    odd: F4
    removed: F4
    counts: I4
    apart: F4 = field(default_factory=lambda: np.zeros((0, 1, 6), np.float32))
    seen: F4 = field(default_factory=lambda: np.zeros((0, 1, 3), np.float32))
    #: Light of one sample that bounced light may not exceed, in unit luminance.
    clamp: float = float(L.F4_MAX)

    @staticmethod
    def empty(height: int, width: int, split: bool = True, apart: bool = False) -> Accumulator:
        """A film without light; with ``split`` bounced light is kept in colour; ``apart``: see above."""
        return Accumulator(
            np.zeros((height, width, 3), np.float32),
            np.zeros((height, width, 3 if split else 1), np.float32),
            np.zeros((height, width, 2), np.float32),
            np.zeros((height, width), np.float32),
            np.zeros((*tiles_of(height, width), 2), np.int32),
            np.zeros((height if apart else 0, width if apart else 1, 6), np.float32),
            np.zeros((height, width, 3), np.float32),
        )

    @property
    def samples(self) -> int:
        """Samples per pixel that every part of the picture has."""
        return int(self.counts.sum(axis=-1).min())

    @property
    def mean_samples(self) -> float:
        """Samples per pixel on average over the picture."""
        return float(self.counts.sum(axis=-1).mean())

    @property
    def nbytes(self) -> int:
        """Memory it takes."""
        arrays = (self.light, self.bounced, self.odd, self.removed, self.apart, self.seen)
        return sum(a.nbytes for a in arrays)

    def _spread(self, counts: npt.NDArray[np.integer]) -> F4:
        """Counts of tiles, at least 1, over the pixels (h, w, 1); one number if they are all alike."""
        known = np.maximum(counts, 1).astype(np.float32)
        if known.min() == known.max():
            return known[:1, :1, None]
        height, width = self.light.shape[:2]
        return np.asarray(over_pixels(known, height, width)[..., None])

    def mean(self) -> F4:
        """Mean unit radiance, (h, w, 3); zeros before the first sample."""
        return self.light / self._spread(self.counts.sum(axis=-1))

    def bounced_mean(self) -> F4:
        """Mean unit radiance of bounced light, (h, w, 3), or its luminance, (h, w, 1)."""
        return self.bounced / self._spread(self.counts.sum(axis=-1))

    def apart_mean(self) -> F4:
        """Mean unit radiance mirrored by the first surface, and through glass, (h, w, 6)."""
        return self.apart / self._spread(self.counts.sum(axis=-1))

    def seen_mean(self) -> F4:
        """Mean unit radiance that glances share, (h, w, 3); one black pixel, (1, 1, 3), where nothing is seen."""
        if not self.seen.any():
            # Most lamps are not in the picture: a whole one of zeros would take memory.
            return np.zeros((1, 1, 3), np.float32)
        return self.seen / self._spread(self.counts.sum(axis=-1))

    def removed_mean(self) -> F4:
        """Mean unit luminance that the clamp took away, (h, w)."""
        return np.asarray(self.removed / self._spread(self.counts.sum(axis=-1))[..., 0])

    def error(self) -> F4:
        """Standard error of the mean luminance, of all light and of bounced light, (h, w, 2).

        Half the difference of the two halves; zeros until each has a pass.
        """
        if int(self.counts.min()) == 0:
            return np.zeros_like(self.odd)
        y = AP1_LUMINANCE.astype(np.float32)
        bounced = self.bounced @ y if self.bounced.shape[2] == 3 else self.bounced[..., 0]
        total = np.stack([self.light @ y, bounced], axis=2)
        a = (total - self.odd) / self._spread(self.counts[..., 0])
        b = self.odd / self._spread(self.counts[..., 1])
        return np.asarray(np.abs(a - b) * np.float32(0.5))

    def halves(self) -> tuple[F4, F4]:
        """Mean unit luminance of the even and of the odd passes, (h, w) each."""
        total = self.light @ AP1_LUMINANCE.astype(np.float32)
        odd = self.odd[..., 0]
        return (
            np.asarray((total - odd) / self._spread(self.counts[..., 0])[..., 0]),
            np.asarray(odd / self._spread(self.counts[..., 1])[..., 0]),
        )

    def noise(self) -> float:
        """Relative noise of the picture: error over mean, 0 for a dark or fresh film."""
        return self.noise_split()[0]

    def noise_split(self) -> tuple[float, float, float]:
        """Noise of all light, of direct and of bounced light, each relative to the whole mean."""
        mean = float(self.mean().mean(axis=(0, 1)) @ AP1_LUMINANCE)
        if mean <= 0 or int(self.counts.min()) == 0:
            return 0.0, 0.0, 0.0
        # The mean size of the error is used, not its square: one speckle would outweigh all else.
        error = self.error().astype(np.float64)
        total, bounced = (SIGMA_OF_MEAN * float(error[..., i].mean()) / mean for i in (0, 1))
        return total, max(total**2 - bounced**2, 0.0) ** 0.5, bounced

    def add(self, other: Accumulator) -> None:
        """Add the sums of another film of the same size: passes of other numbers."""
        for name in FILM_ARRAYS:
            mine = getattr(self, name)
            mine += getattr(other, name)


@dataclass
class GuideFilm:
    """First surfaces seen: sums of `layout.GUIDE_CHANNELS`, and passes of each tile (bands, tiles)."""

    sums: F4
    counts: I4

    @staticmethod
    def empty(height: int, width: int) -> GuideFilm:
        """A guide without samples."""
        return GuideFilm(
            np.zeros((height, width, L.GUIDE_CHANNELS), np.float32),
            np.zeros(tiles_of(height, width), np.int32),
        )

    @property
    def passes(self) -> int:
        """Passes that every part of the picture has."""
        return int(self.counts.min())

    def output_pass(self, name: str) -> F4:
        """ "albedo" or "normal" (h, w, 3), "depth" in m, "alpha" or "diffuse" (h, w); ``ValueError`` else.

        The albedo of a mirror is that of what it shows.
        """
        hits = np.maximum(self.sums[..., 7], 1e-6)
        total = over_pixels(np.maximum(self.counts, 1), *self.sums.shape[:2]).astype(np.float32)
        if name == "albedo":
            return np.clip(self.sums[..., 0:3] / total[..., None], 0, 1)
        if name == "normal":
            return np.asarray(self.sums[..., 3:6] / total[..., None])
        if name == "depth":
            return np.asarray(self.sums[..., 6] / hits)
        if name == "diffuse":
            return np.asarray(self.sums[..., L.G_DIFFUSE] / total)
        if name == "outside":
            return np.asarray(self.sums[..., L.G_OPEN] / total)
        if name == "alpha":
            return np.asarray(self.sums[..., 7] / total)
        raise ValueError(f"No output pass called {name!r}.")


@dataclass
class Film:
    """A finished computation: contributions by source name, and output passes.

    ``extra`` holds passes that were asked for beyond those of the guide.
    """

    accumulators: dict[str, Accumulator]
    gains: dict[str, npt.NDArray[np.float64]]
    guide: GuideFilm
    rays: int = 0
    extra: dict[str, F4] = field(default_factory=dict)

    @property
    def names(self) -> Sequence[str]:
        """Names of the sources, in the order of the scene."""
        return list(self.accumulators)

    def contribution(self, name: str) -> F4:
        """Picture of one source alone, working-space RGB, luminance in cd/m², (h, w, 3)."""
        return np.asarray(self.accumulators[name].mean() * self.gains[name].astype(np.float32))

    def bounced(self, name: str) -> F4:
        """The part of a contribution that met a second surface on its way, (h, w, 3)."""
        unit = self.accumulators[name].bounced_mean()
        return np.asarray(unit * self.gains[name].astype(np.float32))

    def seen_of(self, name: str) -> F4:
        """The part of a contribution that glances share (see `Accumulator`), (h, w, 3) or one black pixel."""
        return np.asarray(self.accumulators[name].seen_mean() * self.gains[name].astype(np.float32))

    @property
    def seen(self) -> F4:
        """What glances share of all sources together, (h, w, 3) in cd/m²."""
        total = np.zeros((*self.guide.sums.shape[:2], 3), np.float32)
        for name in self.names:
            total += self.seen_of(name)
        return total

    @property
    def beauty(self) -> F4:
        """All sources together, working-space RGB, luminance in cd/m², (h, w, 3)."""
        h, w = self.guide.sums.shape[:2]
        total = np.zeros((h, w, 3), np.float32)
        for name in self.accumulators:
            total += self.contribution(name)
        return total

    def noise(self) -> float:
        """Relative noise of the mixed picture, from the half buffers of all sources."""
        error = np.zeros(self.guide.sums.shape[:2])
        for name, acc in self.accumulators.items():
            gain = float(self.gains[name] @ AP1_LUMINANCE)
            error += (acc.error()[..., 0].astype(np.float64) * gain) ** 2
        mean = float((self.beauty @ AP1_LUMINANCE).mean())
        return SIGMA_OF_MEAN * float(np.sqrt(error).mean()) / mean if mean > 0 else 0.0

    def halves(self) -> tuple[F4, F4]:
        """Luminance of the mix from the even and from the odd passes alone, (h, w) in cd/m² each."""
        a, b = np.zeros((2, *self.guide.sums.shape[:2]), np.float32)
        for name, acc in self.accumulators.items():
            even, odd = acc.halves()
            gain = np.float32(self.gains[name] @ AP1_LUMINANCE)
            a, b = a + even * gain, b + odd * gain
        return a, b

    def output_pass(self, name: str) -> F4:
        """An output pass by name.

        "albedo", "normal" (h, w, 3), "depth" in m, "alpha", "outside" (what looks straight out, less
        what panes keep), "diffuse" (share of a pixel that surfaces cover, and of its light that they scatter evenly) (h, w); "direct", "bounced" (h, w, 3) in cd/m² and "speckle" (h, w), the
        luminance taken by the clamp; and, if asked of `render`, "reflection" and "transmission"
        (h, w, 3) in cd/m², "position" (h, w, 3) in m, "occlusion" (h, w), "objects" and "materials"
        (h, w, ranks, 2).
        Raises ``ValueError`` for another name.
        """
        if name in self.extra:
            return self.extra[name]
        if name == "bounced":
            return np.asarray(sum(self.bounced(n) for n in self.names) + self.beauty * 0)
        if name == "direct":
            return np.asarray(self.beauty - self.output_pass("bounced"))
        if name in ("reflection", "transmission"):
            if any(not len(acc.apart) for acc in self.accumulators.values()):
                raise ValueError(f"The output pass {name!r} was not asked for when rendering.")
            at = 0 if name == "reflection" else 3
            parts = (acc.apart_mean()[..., at : at + 3] * self.gains[n].astype(np.float32)
                     for n, acc in self.accumulators.items())  # fmt: skip
            return np.asarray(sum(parts) + self.beauty * 0)
        if name == "speckle":
            parts = (
                acc.removed_mean() * np.float32(self.gains[n] @ AP1_LUMINANCE)
                for n, acc in self.accumulators.items()
            )
            return np.asarray(sum(parts) + self.guide.sums[..., 0] * 0)
        return self.guide.output_pass(name)
