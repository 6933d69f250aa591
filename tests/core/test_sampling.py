"""Sample points, alias tables and emitter sampling as distributions."""

from __future__ import annotations

import numpy as np
import pytest

from westlight.core.transport.energy import energy_tables
from westlight.core.transport.kernels import points
from westlight.core.transport.skytables import alias_table

from .pieces import callable_piece

pixel_seed, point2 = callable_piece(points.pixel_seed), callable_piece(points.point2)


def _points(count: int, dimension: int, seed: int = 7) -> np.ndarray:
    return np.array(
        [point2(np.uint32(seed), np.uint32(i), dimension) for i in range(count)], np.float64
    )


def test_points_fill_every_elementary_box() -> None:
    """256 points of a (0, 2)-sequence: one in each of the 256 boxes of every shape."""
    points = _points(256, 3)
    for a in range(9):
        boxes = [2**a, 2 ** (8 - a)]
        counts = np.histogram2d(*points.T, bins=boxes, range=[[0, 1], [0, 1]])[0]
        assert (counts == 1).all()


def _pixels(index: int, dimension: int) -> np.ndarray:
    """Point ``index`` of 8 × 8 pixels, (8, 8, 2)."""
    return np.array([[point2(np.uint64(pixel_seed(3, 40 + r, 16 + c)), np.uint32(index), dimension)
                      for c in range(8)] for r in range(8)])  # fmt: skip


def test_neighbouring_pixels_are_independent() -> None:
    """What a pixel draws says nothing of what a neighbour draws, in any pass: the denoiser relies on it."""
    seeds = [[np.uint64(pixel_seed(3, r, c)) for c in range(24)] for r in range(24)]
    drawn = np.array(
        [[[point2(s, np.uint32(i), 4000) for i in (0, 1, 5)] for s in row] for row in seeds]
    )
    for rows, columns in ((1, 0), (0, 1), (1, 1), (2, 0), (0, 2), (4, 4)):
        a = drawn[rows:, columns:].reshape(-1, 3, 2)
        b = drawn[: 24 - rows, : 24 - columns].reshape(-1, 3, 2)
        for index in range(3):
            for i in range(2):
                for j in range(2):
                    found = np.corrcoef(a[:, index, i], b[:, index, j])[0, 1]
                    assert abs(float(found)) < 4 / np.sqrt(len(a))


def test_blocks_of_pixels_are_no_more_even_than_chance() -> None:
    """The mean over 4 × 4 pixels varies as that of 16 independent draws does, not less."""
    drawn = np.array([[point2(np.uint64(pixel_seed(5, r, c)), np.uint32(2), 4000)[0]
                       for c in range(64)] for r in range(64)])  # fmt: skip
    means = drawn.reshape(16, 4, 16, 4).mean(axis=(1, 3))
    assert means.std() == pytest.approx((1 / 12 / 16) ** 0.5, rel=0.2)


def test_passes_of_a_pixel_are_spread_evenly_too() -> None:
    """Sixteen passes of any pixel: one point in each of 4 × 4 boxes."""
    for row, column in ((0, 0), (3, 5), (200, 77)):
        seed = np.uint64(pixel_seed(9, row, column))
        points = np.array([point2(seed, np.uint32(i), 4000) for i in range(16)])
        assert len({tuple(p) for p in (points * 4).astype(int)}) == 16


def test_pixels_and_dimensions_are_independent() -> None:
    """Which box a pixel draws from in one pair of dimensions says nothing of another pair."""
    a = np.concatenate([_pixels(i, 4000).reshape(-1, 2) for i in range(0, 64, 4)])
    b = np.concatenate([_pixels(i, 8096).reshape(-1, 2) for i in range(0, 64, 4)])
    for i in range(2):
        for j in range(2):
            assert abs(float(np.corrcoef(a[:, i], b[:, j])[0, 1])) < 0.12


def test_dimensions_are_independent() -> None:
    """Pairs of different dimensions show no correlation."""
    a, b = _points(4096, 5), _points(4096, 6)
    for i in range(2):
        for j in range(2):
            assert abs(float(np.corrcoef(a[:, i], b[:, j])[0, 1])) < 0.05
    joint = np.histogram2d(a[:, 0], b[:, 0], bins=8)[0]
    assert joint.std() / joint.mean() < 0.3


def test_alias_table_is_the_distribution() -> None:
    """Shares kept and handed over add up to each probability."""
    rng = np.random.default_rng(0)
    p = rng.exponential(size=500) ** 3
    p[17] = 0.0
    p /= p.sum()
    accept, alias = alias_table(p)
    found = accept.astype(np.float64).copy()
    np.add.at(found, alias, 1.0 - accept)
    assert found / 500 == pytest.approx(p, abs=1e-6)


def test_white_lobe_loses_little_when_smooth() -> None:
    """A mirror reflects everything; a rough lobe loses some of it between its facets."""
    energy, _ = energy_tables()
    assert energy[0, 1, 5:] == pytest.approx(np.ones(27), abs=0.02)
    assert energy[0, -1, 16] < 0.9
    assert (energy[1] < 1.0).all()
