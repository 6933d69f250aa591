"""Films: what has been gathered for each source, and the pictures made of it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np
import numpy.typing as npt

from ..colour import AP1_LUMINANCE
from . import layout as L

F4 = npt.NDArray[np.float32]
#: Standard deviation of a normal error over its mean size: √(π/2).
_SIGMA_OF_MEAN = 1.2533141


@dataclass
class Accumulator:
    """Light of one source in one view: two half sums (h, w, 3) of unit radiance, and counts.

    Even passes go to half 0, odd passes to half 1; their difference measures the noise.
    """

    halves: F4
    counts: list[int] = field(default_factory=lambda: [0, 0])

    @staticmethod
    def empty(height: int, width: int) -> Accumulator:
        """A film without light."""
        return Accumulator(np.zeros((2, height, width, 3), np.float32))

    @property
    def samples(self) -> int:
        """Samples per pixel gathered so far."""
        return sum(self.counts)

    def mean(self) -> F4:
        """Mean unit radiance, (h, w, 3); zeros before the first sample."""
        return (self.halves[0] + self.halves[1]) / np.float32(max(self.samples, 1))

    def half_difference(self) -> F4:
        """Standard error estimate of the mean per pixel and channel, from the two halves."""
        if min(self.counts) == 0:
            return np.zeros_like(self.halves[0])
        a, b = self.halves[0] / self.counts[0], self.halves[1] / self.counts[1]
        return np.asarray(np.abs(a - b) * np.float32(0.5))

    def noise(self) -> float:
        """Relative noise of the picture: error over mean, 0 for a dark or fresh film."""
        mean = float(self.halves.sum(dtype=np.float64)) / max(self.samples, 1)
        if mean <= 0 or min(self.counts) == 0:
            return 0.0
        a, b = self.halves[0].ravel() / self.counts[0], self.halves[1].ravel() / self.counts[1]
        a -= b
        # Half the difference of the halves is the error of their mean. Its mean size is used, not
        # its square: one speckle would outweigh the whole picture.
        return _SIGMA_OF_MEAN * 0.5 * float(np.abs(a, out=a).sum(dtype=np.float64)) / mean


@dataclass
class Film:
    """A finished computation: contributions by source name, and output passes."""

    accumulators: dict[str, Accumulator]
    gains: dict[str, npt.NDArray[np.float64]]
    guide: F4
    rays: int = 0

    @property
    def names(self) -> Sequence[str]:
        """Names of the sources, in the order of the scene."""
        return list(self.accumulators)

    def contribution(self, name: str) -> F4:
        """Picture of one source alone, working-space RGB, luminance in cd/m², (h, w, 3)."""
        return np.asarray(self.accumulators[name].mean() * self.gains[name].astype(np.float32))

    @property
    def beauty(self) -> F4:
        """All sources together, working-space RGB, luminance in cd/m², (h, w, 3)."""
        h, w = self.guide.shape[:2]
        total = np.zeros((h, w, 3), np.float32)
        for name in self.accumulators:
            total += self.contribution(name)
        return total

    def noise(self) -> float:
        """Relative noise of the mixed picture, from the half buffers of all sources."""
        error = np.zeros(self.guide.shape[:2])
        for name, acc in self.accumulators.items():
            weight = self.gains[name] * AP1_LUMINANCE
            error += (acc.half_difference().astype(np.float64) @ weight) ** 2
        mean = float((self.beauty @ AP1_LUMINANCE).mean())
        return _SIGMA_OF_MEAN * float(np.sqrt(error).mean()) / mean if mean > 0 else 0.0

    def output_pass(self, name: str) -> F4:
        """An output pass: "albedo" or "normal" (h, w, 3), "depth" in m or "alpha" (h, w)."""
        return guide_pass(self.guide, name)


def guide_pass(guide: F4, name: str) -> F4:
    """A named pass of a guide picture (h, w, GUIDE_CHANNELS) whose last channel counts samples.

    Raises ``ValueError`` for an unknown name.
    """
    hits = np.maximum(guide[..., L.GUIDE_CHANNELS - 1], 1e-6)
    total = float(guide[..., L.GUIDE_CHANNELS - 1].max()) or 1.0
    if name == "albedo":
        return np.clip(guide[..., 0:3] / total, 0, 1)
    if name == "normal":
        return np.asarray(guide[..., 3:6] / total)
    if name == "depth":
        return np.asarray(guide[..., 6] / hits)
    if name == "alpha":
        return np.asarray(guide[..., 7] / total)
    raise ValueError(f"No output pass called {name!r}.")
