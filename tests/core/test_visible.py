"""Noise as it is seen: steps of the eye by tile, and what denoising invents."""

from __future__ import annotations

import numpy as np
import pytest

from westlight.core.analysis.visible import (
    JUST_NOTICED,
    MOTTLE_NOTICED,
    TILE,
    Grain,
    by_tile,
    grain_between,
    invented,
    oklab,
    steps_apart,
)


def _flat(value: int, height: int = 128, width: int = 160) -> np.ndarray:
    return np.full((height, width, 3), value, np.uint8)


@pytest.mark.parametrize(
    ("code", "lab"),
    [
        # Ottosson's own values of the sRGB primaries.
        ((255, 0, 0), (0.6280, 0.2249, 0.1258)),
        ((0, 255, 0), (0.8664, -0.2339, 0.1795)),
        ((0, 0, 255), (0.4520, -0.0324, -0.3115)),
        ((0, 0, 0), (0.0, 0.0, 0.0)),
    ],
)
def test_oklab_of_known_colours(code: tuple[int, ...], lab: tuple[float, ...]) -> None:
    """Primaries come out where the publication has them."""
    assert oklab(np.array([[code]], np.uint8))[0, 0] == pytest.approx(lab, abs=2e-3)


def test_one_step_is_one_step() -> None:
    """Two greys whose lightness differs by the just-noticed step are one step apart, everywhere."""
    lightness = oklab(np.arange(256, dtype=np.uint8)[:, None, None].repeat(3, 2))[:, 0, 0]
    other = int(np.argmin(np.abs(lightness - lightness[150] - JUST_NOTICED)))
    found = steps_apart(_flat(150), _flat(other))
    assert found.min() == pytest.approx(found.max(), rel=1e-3)
    assert found.mean() == pytest.approx(1.0, abs=0.2)


def _waves(contrast: float, pixels: float) -> np.ndarray:
    """A grey wall with waves of a length in pixels and a height in Oklab lightness."""
    lightness = oklab(np.arange(256, dtype=np.uint8)[:, None, None].repeat(3, 2))[:, 0, 0]
    x = np.arange(160) / pixels * 2 * np.pi
    wanted = lightness[150] + contrast * np.sin(x)
    # Between two codes the mean of many pixels decides.
    rng = np.random.default_rng(6)
    codes = np.interp(wanted, lightness, np.arange(256))
    dithered = np.floor(codes + rng.random((128, 160))).astype(np.uint8)
    return dithered[..., None].repeat(3, 2)


def test_mottle_is_seen_sooner_than_grain() -> None:
    """Waves of 16 pixels count fully at an amount at which grain of single pixels, or a slow shading, is not seen."""
    height = 3 * MOTTLE_NOTICED
    steps = {p: steps_apart(_flat(150), _waves(height, p)).mean() for p in (2.5, 16.0, 400.0)}
    assert height < JUST_NOTICED
    assert steps[16.0] > 1
    assert steps[2.5] < 0.8
    assert steps[400.0] < 0.8


def test_equal_halves_are_clean() -> None:
    """Nothing differs, nothing is seen."""
    grain = grain_between(_flat(90), _flat(90))
    assert (grain.worst, grain.most, grain.calm, grain.words) == (0.0, 0.0, True, "clean")


def test_a_bright_window_does_not_hide_a_grainy_wall() -> None:
    """Grain on a tenth of the picture counts in full, however bright and calm the rest is."""
    rng = np.random.default_rng(4)
    even, odd = _flat(250), _flat(250)
    for half in (even, odd):
        half[:, -16:] = np.clip(rng.normal(70, 30, (128, 16, 1)), 0, 255).astype(np.uint8)
    grain = grain_between(even, odd)
    assert not grain.calm
    assert grain.worst > 2
    assert np.median(grain.tiles) == 0


def test_one_bad_tile_is_enough() -> None:
    """A blotch above three steps keeps a picture from being calm, though 95 % of it is clean."""
    even, odd = _flat(120, 256, 256), _flat(120, 256, 256)
    odd[64:80, 64:80] = 165
    grain = grain_between(even, odd)
    assert grain.worst < 0.5
    assert grain.most > 3
    assert not grain.calm
    assert grain.excess > 1


def test_tiles_at_the_edge_count_what_they_have() -> None:
    """A picture that is no whole number of tiles loses nothing and gains nothing."""
    tiles = by_tile(np.full((TILE + 3, 2 * TILE + 1), 2.0, np.float32))
    assert tiles.shape == (2, 3)
    assert tiles == pytest.approx(np.full((2, 3), 2.0))


def test_words_follow_the_worst_twentieth() -> None:
    """From clean to coarse."""
    words = [Grain(np.full((3, 3), n, np.float32)).words for n in (0.5, 1.5, 3.0, 6.0, 20.0)]
    assert len(set(words)) == 5
    assert words[0] == "clean"


def _noisy_halves(rng: np.random.Generator, truth: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    return tuple((truth * rng.gamma(4, 0.25, truth.shape)).astype(np.float32) for _ in "ab")  # type: ignore[return-value]


def test_what_noise_explains_is_not_invented() -> None:
    """The true picture beside noisy halves of it: nothing is made up, at one place in some thousand."""
    truth = np.linspace(1, 3, 128 * 192, dtype=np.float32).reshape(128, 192)
    found = invented(truth, *_noisy_halves(np.random.default_rng(1), truth))
    assert (found > 0).mean() < 0.01
    assert found.max() < 0.05


def test_a_made_up_pattern_is_found() -> None:
    """Blocks of 8 pixels, 25 % up and down, that the noise of many passes does not explain."""
    truth = np.ones((128, 192), np.float32)
    rows, columns = np.indices(truth.shape) // 8
    crackle = np.where((rows + columns) % 2, 1.25, 0.75).astype(np.float32)
    rng = np.random.default_rng(2)
    halves = [1 + rng.normal(0, 0.1, truth.shape).astype(np.float32) for _ in "ab"]
    assert np.median(invented(crackle, halves[0], halves[1])) > 0.1


def test_light_that_was_moved_is_found() -> None:
    """A spot that denoising smeared away leaves its block too dark."""
    truth = np.ones((64, 64), np.float32)
    truth[24:32, 24:32] = 3.0
    rng = np.random.default_rng(3)
    halves = [truth * (1 + rng.normal(0, 0.1, truth.shape)).astype(np.float32) for _ in "ab"]
    found = invented(np.ones_like(truth), halves[0], halves[1])
    assert found[24:32, 24:32].min() > 0.4
    assert found[:16].max() < 0.05
