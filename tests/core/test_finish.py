"""Finish: each operator against an invariant or what it must do by definition."""

from __future__ import annotations

import itertools
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image

from westlight.core.colour import AP1_LUMINANCE
from westlight.core.finish import (
    CubeError,
    Curve,
    DepthHaze,
    Finish,
    Glare,
    Grade,
    Lens,
    Occlusion,
    baked,
    develop,
    develop_colour,
    developed,
    parse_cube,
    show,
    with_glare,
)
from westlight.core.finish.enlarge import enlarged, laid_over
from westlight.core.finish.glow import glow_kernel, star_kernel
from westlight.core.finish.grade import compress, contrast, decide, film, lift_shadows, saturate
from westlight.core.finish.start import starting_curve, starting_grade

GREYS = np.repeat(np.geomspace(1e-3, 25.0, 60)[:, None], 3, axis=1)
COLOURS = np.random.default_rng(3).random((200, 3)) * 2


def identity_cube(size: int = 5) -> str:
    """A .cube file that changes nothing."""
    axis = np.linspace(0, 1, size)
    rows = [f"{r} {g} {b}" for b in axis for g in axis for r in axis]
    return f"TITLE nothing\nLUT_3D_SIZE {size}\n" + "\n".join(rows)


@pytest.mark.parametrize("tone", ["natural", "linear", "film"])
def test_default_grade_changes_nothing(tone: str) -> None:
    plain = develop_colour(COLOURS, tone, Grade())
    again = develop_colour(COLOURS, tone, replace(Grade(), slope=(1.0, 1.0, 1.0)))
    assert np.array_equal(plain, again)
    if tone != "film":
        shown = show(np.ones((4, 4, 3), np.float32), 10.0, tone=tone)
        same = develop(np.ones((4, 4, 3), np.float32), 10.0, 6500.0, 0.0, Finish(tone=tone))
        assert np.array_equal(shown.pixels, same.pixels)


@given(st.floats(0, 1), st.floats(0.1, 4), st.floats(0.5, 1.8), st.floats(-2, 2), st.floats(0, 1),
       st.floats(0, 1))  # fmt: skip
def test_tone_rises_everywhere(
    strength: float, start: float, slope: float, shadows: float, toe: float, shoulder: float
) -> None:
    """No operator may turn a brighter grey into a darker one, and greys stay neutral."""
    x = GREYS[:, 0]
    assert (np.diff(compress(x, strength, start)) > 0).all()
    assert (np.diff(film(x, toe, shoulder)) > 0).all()
    for out in (contrast(GREYS, slope), lift_shadows(GREYS, shadows)):
        assert (np.diff(out[:, 0]) > 0).all()
        assert np.allclose(out, out[:, :1], rtol=1e-6)


def test_compression_from_none_to_full() -> None:
    """None is a straight line; full strength keeps any light below burning; the start is smooth."""
    x = np.geomspace(1e-3, 1e4, 200)
    assert np.allclose(compress(x, 0.0, 2.0), x)
    assert compress(x, 1.0, 2.0).max() < 1.0
    below = x[x < 0.25]
    assert np.array_equal(compress(below, 1.0, 2.0), below)
    s = 0.25
    slope = (compress(np.array([s + 1e-6]), 1.0, 2.0) - s) / 1e-6
    assert slope[0] == pytest.approx(1.0, abs=1e-4)


def test_film_keeps_middle_grey_and_white_is_reached() -> None:
    assert film(np.array([0.18]), 0.4, 0.5)[0] == pytest.approx(0.18, rel=1e-3)
    assert film(np.array([0.18 * 2]), 0.4, 0.5, mid_stops=-1.0)[0] == pytest.approx(0.18, rel=1e-3)
    deep = np.array([0.18 / 32])
    assert film(deep, 0.8, 0.5)[0] < film(deep, 0.0, 0.5)[0] < 0.18 / 30
    assert 0.97 < film(np.array([50.0]), 0.4, 0.5)[0] < 1.0


def test_contrast_and_saturation_keep_what_they_promise() -> None:
    """Contrast keeps ratios of channels; saturation keeps luminance; none gives grey."""
    harder = contrast(COLOURS, 1.4)
    assert np.allclose(harder / harder.sum(axis=1, keepdims=True),
                       COLOURS / COLOURS.sum(axis=1, keepdims=True))  # fmt: skip
    pale = saturate(COLOURS, 0.5)
    assert np.allclose(pale @ AP1_LUMINANCE, COLOURS @ AP1_LUMINANCE)
    assert np.ptp(saturate(COLOURS, 0.0), axis=1).max() < 1e-12


def test_colour_decision_list_in_acescct() -> None:
    """A slope of 1 and an offset in ACEScct is a factor in light: 1/17.52 is one stop."""
    x = np.array([[0.18, 0.5, 1.0]])
    brighter = decide(x, (1, 1, 1), (1 / 17.52,) * 3, (1, 1, 1))
    assert np.allclose(brighter, 2 * x, rtol=1e-6)
    assert np.allclose(decide(x, (1, 1, 1), (0, 0, 0), (1, 1, 1.0000001)), x, rtol=1e-5)


@given(st.lists(st.tuples(st.floats(0, 1), st.floats(0, 1)), max_size=6, unique_by=lambda p: p[0]))
def test_curves_never_fall(points: list[tuple[float, float]]) -> None:
    v = Curve(tuple(points))(np.linspace(0, 1, 101))
    assert (np.diff(v) > -1e-9).all()
    assert v.min() >= -1e-9
    assert v.max() <= 1 + 1e-9


def test_cube_tables() -> None:
    """The identity changes nothing, red runs fastest, opacity blends, bad files are refused."""
    v = np.random.default_rng(0).random((50, 3))
    assert np.allclose(parse_cube(identity_cube())(v), v)
    swapped = "LUT_3D_SIZE 2\n" + "\n".join(
        f"{b} {g} {r}" for b in (0, 1) for g in (0, 1) for r in (0, 1)
    )
    assert np.allclose(parse_cube(swapped)(v), v[:, ::-1])
    for text, words in (
        ("LUT_3D_SIZE 3\n0 0 0", "cut short"), ("LUT_3D_SIZE 300", "2 to 129"),
        ("LUT_1D_SIZE 16", "one-dimensional"), ("what is this", "not a .cube table"),
        ("LUT_3D_SIZE 2\n" + "nan 0 0\n" * 8, "no numbers"), ("", "cut short"),
    ):  # fmt: skip
        with pytest.raises(CubeError, match=words):
            parse_cube(text)


def test_baked_table_stands_for_the_exact_transform() -> None:
    """At grid points exactly; between them within what an eye can tell on a calm gradient."""
    grade = Grade(contrast=1.15, saturation=0.9, shadows=0.4, compression=0.5)
    table = baked("natural", grade).table
    assert table[0, 0, 0].max() < 1 / 512
    ramp = np.geomspace(0.01, 4.0, 64)
    picture = np.repeat(ramp[None, :, None], 3, axis=2).astype(np.float32)
    exact = develop_colour(picture, "natural", grade)
    one_to_one = np.log2(1 / 1.2)
    got = develop(picture, one_to_one, 6000.0, 0.0, Finish(grade=grade)).pixels / 255
    same_white = develop_colour(picture, "natural", grade).mean(axis=2)
    assert np.abs(got.mean(axis=2) - same_white).max() < 0.012
    assert exact.shape == picture.shape


def test_screens_show_the_same_grey_and_wider_colours() -> None:
    grey = np.full((1, 3), 0.18)
    red = np.array([[0.5, 0.09, 0.06]])
    for tone in ("natural", "linear"):
        a, b = (develop_colour(grey, tone, Grade(), s) for s in ("sRGB", "Display P3"))
        assert np.abs(a - b).max() < 0.01
        assert (
            develop_colour(red, tone, Grade(), "Display P3")[0, 1]
            > (develop_colour(red, tone, Grade())[0, 1])
        )
    with pytest.raises(ValueError, match="No screen"):
        develop_colour(grey, "natural", Grade(), "cinema")


def test_glare_keeps_light_and_is_even_handed() -> None:
    """A lamp far from the edges loses nothing; the kernel has no preferred side; stars have
    twice as many rays as an odd number of blades."""
    picture = np.zeros((180, 320, 3), np.float32)
    picture[90, 160] = 1000.0
    for g in (Glare(glow=0.2), Glare(star=0.1, blades=6), Glare(glow=0.1, star=0.1)):
        out = with_glare(picture, g)
        assert out.sum() == pytest.approx(picture.sum(), rel=0.02)
        assert out[90, 160, 1] < 1000
        assert out.min() >= 0
    k = glow_kernel(64, 64, 0.05)
    assert k[0, 5] == pytest.approx(k[5, 0], rel=1e-5)
    assert k[0, 3] > k[0, 6] > k[0, 12]
    for blades, rays in ((6, 6), (5, 10)):
        star = np.fft.fftshift(star_kernel(256, 256, blades, 0.0)[..., 1])
        around = np.radians(np.arange(0, 360, 0.5))
        at = np.array([star[int(128 + 45 * np.sin(a)), int(128 + 45 * np.cos(a))] for a in around])
        strongest = np.abs(np.fft.rfft(at))[1:25].argmax() + 1
        assert strongest == rays


def test_glare_looks_alike_at_every_size() -> None:
    """A final is the preview, larger: the share scattered to a place does not depend on size."""
    shares = []
    for width in (320, 1280):
        picture = np.zeros((width * 9 // 16, width, 3), np.float32)
        n = width // 64
        picture[width // 4 : width // 4 + n, width // 2 : width // 2 + n] = 100.0
        out = with_glare(picture, Glare(glow=0.2))
        shares.append(out[width // 8, width // 4].mean())
    assert shares[0] == pytest.approx(shares[1], rel=0.05)


def test_stars_of_files_are_as_sharp_as_the_picture() -> None:
    """The same star as the preview's when looked at from afar, as much light, and finer lobes."""
    width, height = 1600, 900
    picture = np.zeros((height, width, 3), np.float32)
    picture[448:452, 798:802] = 1e4
    g = Glare(star=0.2, blades=6)
    coarse, fine = with_glare(picture, g), with_glare(picture, g, "fine")
    assert fine.sum() == pytest.approx(coarse.sum(), rel=0.02)
    far = [p[..., 1].reshape(45, 20, 80, 20).mean(axis=(1, 3)) for p in (coarse, fine)]
    away = np.hypot(*np.mgrid[-22.5:22.5, -40:40]) > 3
    assert np.corrcoef(far[0][away], far[1][away])[0, 1] > 0.9
    # Fine lobes of the rays are there, which a small picture blurs.
    uneven = [
        float(np.abs(np.diff(p[300:440, 700:900, 1], n=2, axis=0)).sum()) for p in (coarse, fine)
    ]
    assert uneven[1] > 1.15 * uneven[0]


def test_occlusion_leaves_mirrored_light_alone() -> None:
    """Full occlusion darkens what is scattered evenly; a mirror keeps its light, half and half loses half."""
    picture = np.full((1, 3, 3), 50.0, np.float32)
    passes = {
        "occlusion": np.zeros((1, 3), np.float32),
        "diffuse": np.array([[1, 0.5, 0]], np.float32),
    }
    out = developed(picture, 9.0, Finish(occlusion=Occlusion(amount=1.0)), passes)
    assert out[0, :, 0] == pytest.approx([0, 25, 50], abs=1e-4)


def test_occlusion_and_haze() -> None:
    picture = np.full((8, 8, 3), 50.0, np.float32)
    open_half = np.full((8, 8), 0.5, np.float32)
    far, all_of_it = np.full((8, 8), 100.0, np.float32), np.ones((8, 8), np.float32)
    passes = {"occlusion": open_half, "depth": far, "alpha": all_of_it}
    dark = developed(picture, 9.0, Finish(occlusion=Occlusion(amount=1.0)), passes)
    assert np.allclose(dark, 25.0)
    calm = developed(picture, 9.0, Finish(occlusion=Occlusion(amount=1.0, white=0.5)), passes)
    assert np.allclose(calm, 50.0)
    veiled = developed(picture, 9.0, Finish(haze=DepthHaze(per_metre=1.0, stops=0.0)), passes)
    assert (veiled @ AP1_LUMINANCE).mean() == pytest.approx(0.18 * 1.2 * 2**9, rel=1e-3)
    sky = {**passes, "alpha": np.zeros((8, 8), np.float32)}
    assert np.allclose(developed(picture, 9.0, Finish(haze=DepthHaze(per_metre=1.0)), sky), picture)


def test_lens() -> None:
    """A stop is lost in the corner and none in the middle; grain keeps the mean; a flat picture
    has nothing to sharpen; bad light does not come through."""
    flat = np.full((90, 160, 3), 20.0, np.float32)
    dark = developed(flat, 8.0, Finish(lens=Lens(vignette=1.0)), {})
    assert dark[0, 0, 0] == pytest.approx(10.0, rel=0.02)
    assert dark[45, 80, 0] == pytest.approx(20.0, rel=0.01)
    grainy = developed(flat, 8.0, Finish(lens=Lens(grain=0.1)), {})
    assert np.log2(grainy[..., 0] / 20).std() == pytest.approx(0.1, rel=0.05)
    assert np.allclose(developed(flat, 8.0, Finish(lens=Lens(sharpen=1.0)), {}), flat, rtol=1e-4)


def test_dither_breaks_steps_without_changing_the_mean() -> None:
    slow = np.linspace(0.1, 0.11, 400)[None, :, None] * np.ones((64, 1, 3))
    picture = (slow * 1.2).astype(np.float32)
    plain, soft = (
        develop(picture, 0.0, 6000.0, 0.0, Finish(), dither=d).pixels[..., 1].astype(float)
        for d in (False, True)
    )
    assert abs(plain.mean() - soft.mean()) < 0.6
    steps = np.abs(np.diff(soft.mean(axis=0))).max()
    assert steps < np.abs(np.diff(plain.mean(axis=0))).max() / 2


def test_starting_point_follows_the_picture() -> None:
    """A hard picture is calmed and a flat one livened; strong is harder than flat; what does not
    burn is not compressed."""
    ev = 9.0
    grey = 0.18 * 1.2 * 2**ev
    stops = np.random.default_rng(1).normal(0, 1, (60, 80, 1))
    calm = (grey * np.exp2(0.4 * stops) * np.ones(3)).astype(np.float32)
    hard = (grey * np.exp2(2.0 * stops) * np.ones(3)).astype(np.float32)
    assert starting_grade(calm, ev, "natural").contrast > 1.1
    assert starting_grade(hard, ev, "natural").contrast < 0.95
    assert starting_grade(calm, ev, "natural").compression == 0
    assert starting_grade(hard, ev, "natural").compression > 0.3
    moods = [starting_grade(hard, ev, m) for m in ("flat", "natural", "strong")]
    assert moods[0].contrast < moods[1].contrast < moods[2].contrast
    dark = hard / 16
    opened = [starting_grade(dark, ev, m).shadows for m in ("flat", "strong")]
    assert opened[0] > opened[1] > 0


def test_a_curve_from_the_picture() -> None:
    """A dull picture gets a curve that spreads it, one that is well spread is left nearly alone, an even
    one gets none; points always rise."""
    rng = np.random.default_rng(3)

    def shown(low: float, high: float) -> np.ndarray:
        grey = rng.uniform(low, high, (60, 80, 1)) * 255
        return np.repeat(grey, 3, axis=2).astype(np.uint8)

    dull = Curve(starting_curve(shown(0.3, 0.55)))
    assert dull(np.array([0.32]))[0] < 0.25
    assert dull(np.array([0.54]))[0] > 0.64
    good = Curve(starting_curve(shown(0.05, 0.93)))
    x = np.linspace(0, 1, 50)
    assert np.abs(good(x) - x).max() < 0.06
    assert starting_curve(np.full((8, 8, 3), 90, np.uint8)) == ()
    for low, high in ((0, 0.1), (0.9, 1.0), (0.48, 0.52), (0, 1)):
        points = starting_curve(shown(low, high))
        assert all(b[0] > a[0] and b[1] >= a[1] for a, b in itertools.pairwise(points))


@pytest.mark.parametrize("size", [(7, 11), (13, 22), (40, 33), (1, 5), (3, 90)])
def test_enlarging_is_bilinear_between_the_middles_of_pixels(size: tuple[int, int]) -> None:
    """As a library enlarges, for every colour; what is made smaller keeps its mean."""
    small = np.random.default_rng(3).random((1 if size[0] == 1 else 3, 5, 3), np.float32)
    made = enlarged(small, *size)
    assert made.shape == (*size, 3)
    for c in range(3):
        image = Image.fromarray(np.ascontiguousarray(small[..., c]))
        wanted = np.asarray(image.resize(size[::-1], Image.Resampling.BILINEAR))
        np.testing.assert_allclose(made[..., c], wanted, atol=2e-6)
    squares = (np.indices((24, 36)).sum(axis=0) % 2).astype(np.float32)
    assert np.abs(enlarged(squares, 4, 6) - 0.5).max() < 0.1


def test_a_picture_is_laid_over_an_enlarged_one() -> None:
    """What is kept of the picture and the smaller one add up, place by place."""
    rng = np.random.default_rng(4)
    picture, small = rng.random((20, 30, 3), np.float32), rng.random((10, 15, 3), np.float32)
    wanted = picture * np.float32(0.7) + enlarged(small, 20, 30)
    np.testing.assert_allclose(laid_over(picture, 0.7, small), wanted, rtol=1e-5)
