"""Reading aids: false colour says the right stop, stripes mark what is burnt, lines show reach."""

from __future__ import annotations

import numpy as np
import pytest

from westlight.core.colour import SRGB_TO_AP1, kelvin_to_rgb, white_balance_matrix, white_of
from westlight.core.finish import (
    Finish,
    beyond_srgb,
    develop,
    legend,
    luminance_colours,
    marked,
    noise_colours,
    noise_legend,
    outlined,
    striped,
)
from westlight.core.photometry import saturation_luminance


def test_each_stop_has_the_colour_of_its_legend() -> None:
    ev = 9.0
    bands = legend(ev)
    assert [b.stops for b in bands] == list(range(-7, 6))
    assert bands[7].luminance == pytest.approx(0.18 * saturation_luminance(ev))
    picture = np.array([[[b.luminance] * 3 for b in bands]], np.float32)
    shown = luminance_colours(picture, ev)[0]
    assert ["rgb({} {} {})".format(*c) for c in shown] == [b.colour for b in bands]
    # Nearly half a stop off is still the same band; beyond the ends the last ones hold.
    assert np.array_equal(luminance_colours(picture * 1.4, ev)[0], shown)
    assert np.array_equal(luminance_colours(picture[:, -1:] * 100, ev)[0], shown[-1:])
    assert np.array_equal(luminance_colours(picture[:, :1] * 0, ev)[0], shown[:1])


def test_stripes_are_on_burnt_and_black_and_nowhere_else() -> None:
    pixels = np.full((40, 60, 3), 120, np.uint8)
    pixels[:, :20] = 255
    pixels[:, 40:] = 0
    out = striped(pixels)
    assert np.array_equal(out[:, 20:40], pixels[:, 20:40])
    for part in (out[:, :20], out[:, 40:]):
        kinds = np.unique(part.reshape(-1, 3), axis=0)
        assert len(kinds) == 2
    assert 0.3 < (out[:, :20] != 255).any(axis=2).mean() < 0.7
    assert pixels[0, 0, 0] == 255


def test_the_line_runs_where_the_share_crosses() -> None:
    pixels = np.zeros((30, 30, 3), np.uint8)
    share = np.zeros((30, 30), np.float32)
    share[10:20, 10:20] = 0.6
    drawn = outlined(pixels, share).any(axis=2)
    assert drawn[10, 10:20].all()
    assert not drawn[12:18, 12:18].any()
    assert not drawn[:9].any()


@pytest.mark.parametrize("kelvin", [2700.0, 4100.0, 6500.0, 9000.0])
@pytest.mark.parametrize("tint", [-8.0, 0.0, 6.0])
def test_a_picked_neutral_becomes_neutral(kelvin: float, tint: float) -> None:
    """The white point found for a colour makes that colour grey, whatever its cast."""
    inverse = np.linalg.inv(white_balance_matrix(kelvin, tint))
    seen = inverse @ np.ones(3)
    found = white_of(seen)
    neutral = white_balance_matrix(*found) @ seen
    assert np.ptp(neutral) / neutral.mean() < 0.02
    assert white_of(kelvin_to_rgb(kelvin))[0] == pytest.approx(kelvin, rel=0.02)


def test_what_an_srgb_screen_cannot_show_is_marked() -> None:
    """Pure green of a wide screen lies beyond, sRGB's own primaries and greys do not."""
    wide = np.zeros((1, 5, 3), np.uint8)
    wide[0] = [(0, 255, 0), (255, 0, 0), (128, 128, 128), (255, 255, 255), (0, 0, 0)]
    assert beyond_srgb(wide)[0].tolist() == [True, True, False, False, False]
    # Linear light in sRGB, shown on a wide screen, is not beyond it.
    rng = np.random.default_rng(4)
    light = (rng.uniform(0.02, 0.9, (30, 40, 3)) @ SRGB_TO_AP1.T).astype(np.float32)
    picture = light * np.float32(saturation_luminance(5.0))
    shown = develop(picture, 5.0, 6000, 0.0, Finish(tone="linear"), screen="Display P3").pixels
    assert beyond_srgb(shown).mean() < 0.12
    vivid = light * np.array([0.1, 1.0, 0.05], np.float32) * np.float32(saturation_luminance(5.0))
    shown = develop(vivid, 5.0, 6000, 0.0, Finish(tone="linear"), screen="Display P3").pixels
    assert beyond_srgb(shown).mean() > 0.8
    striped_ = marked(np.zeros((20, 20, 3), np.uint8), np.ones((20, 20), bool))
    assert 0.3 < (striped_.max(axis=2) > 0).mean() < 0.7


def test_noise_is_coloured_where_it_is() -> None:
    """A noisy corner passes its step, a calm one stays grey."""
    steps = np.full((90, 160), 0.4, np.float32)
    steps[:, 80:] = 2.5
    shown = noise_colours(np.full((90, 160, 3), 120, np.uint8), steps)
    assert np.ptp(shown[20, 20]) == 0
    assert np.ptp(shown[20, 140]) > 25
    assert [b.steps for b in noise_legend()] == sorted(b.steps for b in noise_legend())
