"""What glances share: kept apart in films and denoised apart; and where a picture gets its glances."""

from __future__ import annotations

import time

import numpy as np
import pytest

from westlight import core
from westlight.core.sources import Sphere, Sun
from westlight.core.transport.denoise import Denoiser, noise_left
from westlight.core.transport.film import Accumulator, GuideFilm
from westlight.core.transport.glances import MOST, Edges, edges_of, shared_out
from westlight.core.transport.render import PassRun, Window

from .shapes import box, lux, quad, uniform_sky

VIEW = core.View((0, -3, 0.8), (0, 0, 0.5), 35, 96, 64)


def _scene() -> core.Scene:
    """A floor, a box on it, a pane, a lamp, sun and sky."""
    scene = core.Scene()
    quad(scene, 3, core.Material(0.6))
    box(scene, (-1.2, 0.2, 0), (-0.6, 0.6, 0.5), core.Material(0.3))
    pane = core.Material(1.0, transmission=0.9)
    scene.add_mesh(
        [[-0.5, -1, 0], [0.3, -1, 0], [0.3, -1, 1.5], [-0.5, -1, 1.5]], [[0, 1, 2], [0, 2, 3]], pane
    )
    scene.add_source(Sun("sun", 200, 35))
    scene.add_source(uniform_sky(3000.0))
    scene.add_source(Sphere("lamp", (0.1, 0.5, 0.9), 0.15, luminance_cd_m2=20_000))
    return scene


def test_what_is_seen_is_the_source_itself_and_the_sun() -> None:
    """Of the sky what is open to the camera, of a lamp its body, of the sun all its direct light; nothing else."""
    film = core.render(_scene(), VIEW, samples=64, bounces=2, seed=3)
    open_to_sky = film.output_pass("outside") * 3000.0
    np.testing.assert_allclose(lux(film.seen_of("sky")), open_to_sky, rtol=1e-3, atol=0.5)
    sun = film.contribution("sun") - film.bounced("sun")
    through = core.render(_scene(), VIEW, samples=64, bounces=2, seed=3, passes=["reflection"])
    # What the pane mirrors of the sunlit floor is not seen itself.
    rest = np.abs(sun - film.seen_of("sun")) - through.output_pass("reflection") - 1e-2
    assert rest.max() < 1.0
    lamp = lux(film.seen_of("lamp"))
    body = lamp > 0
    assert 0 < body.mean() < 0.05
    assert lamp.max() == pytest.approx(20_000 * 0.9 * 0.918, rel=0.01)  # through the pane
    assert (lux(film.contribution("lamp"))[~body] > 0).mean() > 0.3


@pytest.mark.parametrize(
    ("material", "behind"),
    [
        (core.Material(0.5), False),
        (core.Material(0.5, coat=1.0, coat_roughness=0.1), False),
        (core.Material(0.5, coat=0.5, coat_roughness=0.4), False),
        (core.Material(0.5, translucency=0.5, through=0.5), False),
        (core.Material(0.5, translucency=0.5, through=0.5), True),
        (core.Material(0.5, coat=0.7, translucency=0.5, through=0.5), True),
    ],
)
def test_the_sun_on_what_is_made_of_layers_is_seen_without_noise(
    material: core.Material, behind: bool
) -> None:
    """Varnish and cloth are asked as a whole: what is seen is not denoised. As much light comes so as by other ways."""

    def picture(seed: int, samples: int) -> tuple[np.ndarray, np.ndarray]:
        scene = core.Scene()
        quad(scene, 40, material)
        scene.add_source(Sun("sun", 130, 40))
        view = core.View((0, -3, -2 if behind else 2), (0, 0, 0), 60, 32, 24)
        film = core.render(scene, view, samples=samples, bounces=0, seed=seed)
        return lux(film.seen), lux(film.beauty)

    (one, _), (other, _) = picture(1, 1), picture(2, 1)
    assert one.mean() > 100
    assert np.abs(one - other).mean() / one.mean() < 0.01
    seen, whole = picture(3, 64)
    # The rest is what a ray drawn by a gloss finds of the sun's disc.
    assert np.all(whole >= seen * 0.999)
    assert seen.mean() == pytest.approx(whole.mean(), rel=0.02)
    assert one.mean() == pytest.approx(seen.mean(), rel=0.01)


def test_open_sky_is_scattered_by_nothing() -> None:
    """Evenly scattered light has at most the share of a pixel that surfaces cover, also where a pane mirrors some."""
    film = core.render(_scene(), VIEW, samples=32, bounces=2, seed=3)
    diffuse, alpha = film.output_pass("diffuse"), film.output_pass("alpha")
    assert (diffuse <= alpha + 1e-5).all()
    assert diffuse[alpha == 0].max() == 0
    matte = alpha > 0.999
    assert diffuse[matte].mean() > 0.9


def test_what_is_seen_is_part_of_the_light() -> None:
    """Never more than all of it, and films that are added up have the sum."""
    halves = [core.render(_scene(), VIEW, samples=2, seed=4, first_sample=n) for n in (0, 2)]
    whole = core.render(_scene(), VIEW, samples=4, seed=4)
    for name in whole.names:
        film = whole.accumulators[name]
        assert (film.seen <= film.light * (1 + 1e-5) + 1e-6).all(), name
        halves[0].accumulators[name].add(halves[1].accumulators[name])
        np.testing.assert_allclose(halves[0].accumulators[name].seen, film.seen, rtol=1e-5)


def test_glances_go_to_edges() -> None:
    """Most to the lamp and the edges of the sun's light, none to what is even; so many in the mean as asked for."""
    assembled = _scene().assembled()
    edges = edges_of(assembled, VIEW)
    assert not edges.done
    assert edges.advance(assembled, 2)
    assert edges_of(assembled, VIEW) is edges
    many = edges.glances((3, 1))
    assert many.shape == (2, 64, 96)
    assert many[0].mean() == pytest.approx(3, abs=0.3)
    assert many[1].mean() == pytest.approx(1, abs=0.3)
    assert (many[0] == 0).mean() > 0.5
    film = core.render(_scene(), VIEW, samples=16, seed=1)
    edge = np.abs(np.diff(lux(film.seen), axis=1)) > 0.5 * lux(film.seen).mean()
    assert many[0][:, 1:][edge].mean() > 4 * many[0].mean()


def test_no_edges_no_glances() -> None:
    """A dark scene, and a sky that is even all over, have none."""
    for luminance in (0.0, 500.0):
        scene = core.Scene()
        scene.add_source(uniform_sky(luminance))
        edges = Edges(VIEW)
        assert edges.advance(scene.assembled(), 1)
        assert not edges.glances((3,)).any()
    assert not shared_out(np.zeros((4, 4), np.float32), 3).any()


def test_glances_are_shared_out_in_proportion() -> None:
    """Twice the spread, twice the glances, up to the most there are; none for next to no spread."""
    spread = np.array([[0.0, 1.0, 2.0, 4.0]], np.float32)
    assert shared_out(spread, 7).tolist() == [[0, 4, 8, 16]]
    assert shared_out(spread, 1000).tolist() == [[0, 100, MOST, MOST]]
    assert not shared_out(spread / 1000, 7).any()


def test_edges_depend_on_the_scene_and_the_view_alone() -> None:
    """Whoever looks, in one go or in slices: so a pass has the same bits, whole or in windows."""
    assembled = _scene().assembled()
    whole, sliced = Edges(VIEW), Edges(VIEW)
    whole.advance(assembled, 1)
    assert not sliced.advance(assembled, 2, end=0.0)
    assert not sliced.advance(assembled, 2, stop=lambda: True)
    while not sliced.advance(assembled, 2, end=time.perf_counter() + 1e-3):
        pass
    assert np.array_equal(whole.spread(), sliced.spread())
    pictures = []
    for windows in ([None], [Window(0, 64, 0, 64), Window(0, 64, 64, 96)]):
        total = np.zeros((64, 96, 3), np.float32)
        for w in windows:
            at = w or Window(0, 64, 0, 96)
            film = Accumulator.empty(at.row1 - at.row0, at.column1 - at.column0)
            PassRun(assembled, VIEW, [0], [film], upto=2, seed=7, window=w).advance()
            total[at.row0 : at.row1, at.column0 : at.column1] = film.light
        pictures.append(total)
    assert np.array_equal(*pictures)


def test_edges_stay_sharp_beside_noise() -> None:
    """A window's bars before a sky and a noisy wall: denoised apart the edge of the sky keeps its light."""
    rng = np.random.default_rng(5)
    y, x = np.mgrid[0:512, 0:768] / 4
    open_ = ((x % 24.3 < 20) & (y < 64)).astype(float)
    sky = open_.reshape(128, 4, 192, 4).mean(axis=(1, 3))
    seen, wall = 20 * sky, 0.5 * (1 - sky)
    # A path meets either the sky or the wall; its glances have settled what is seen of the sky.
    noisy = wall * rng.exponential(1.0, wall.shape)
    rgb = [np.repeat(a[..., None], 3, axis=2).astype(np.float32) for a in (seen + noisy, seen)]
    albedo = (0.5 * (1 - sky))[..., None] * np.ones(3)
    guides = albedo.astype(np.float32), np.zeros((128, 192, 3), np.float32)
    truth = seen + wall
    denoise = Denoiser()
    one = denoise(rgb[0], *guides, "best")[..., 0]
    apart = denoise(rgb[0], *guides, "best", rgb[1])[..., 0]
    error = [float(np.sqrt(((a - truth) ** 2).mean())) for a in (one, apart)]
    assert error[1] < 0.5 * error[0]
    assert apart.mean() == pytest.approx(truth.mean(), rel=0.05)
    dark = np.zeros_like(rgb[0])
    assert np.array_equal(denoise(rgb[0], *guides, seen=dark), denoise(rgb[0], *guides))


def test_the_body_of_a_lamp_that_is_off_is_denoised() -> None:
    """What falls on it is as noisy as elsewhere; only its own light is kept as it is."""
    rng = np.random.default_rng(8)
    body = np.zeros((96, 128), bool)
    body[40:60, 40:90] = True
    albedo = np.where(body, 1.0, 0.5)[..., None] * np.ones(3, np.float32)
    guides = albedo.astype(np.float32), np.zeros((96, 128, 3), np.float32)
    noisy = rng.exponential(1.0, (96, 128, 1)).astype(np.float32) * np.ones(3, np.float32)
    own = np.where(body, 50.0, 0.0)[..., None].astype(np.float32) * np.ones(3, np.float32)
    denoise = Denoiser()
    off, on = denoise(noisy, *guides, seen=own * 0), denoise(noisy + own, *guides, seen=own)
    assert off[body].std() < 0.3 * noisy[body].std()
    np.testing.assert_allclose(on[body], off[body] + 50, rtol=1e-5)


def test_noise_is_that_of_the_rest() -> None:
    """What both halves see alike makes no noise, and counts to the light that noise is measured against."""
    rng = np.random.default_rng(6)
    guide, denoise = np.full((96, 128, 3), 0.5, np.float32), Denoiser()
    seen = np.full((96, 128), 3.0, np.float32)
    a, b = ((1 + rng.normal(0, 0.2, seen.shape)).astype(np.float32) for _ in range(2))
    alone = noise_left(denoise, (a, b), seen * 0, guide, guide)
    beside = noise_left(denoise, (a + seen, b + seen), seen, guide, guide)
    assert beside == pytest.approx(alone / 4, rel=0.1)


def test_guides_have_glances_too() -> None:
    """Albedo and coverage at an edge settle with them."""
    assembled = _scene().assembled()
    spread = {}
    for many in ((0,), (7,)):
        alphas = []
        for seed in range(12):
            guide = GuideFilm.empty(64, 96)
            PassRun(assembled, VIEW, [], [], guide, upto=1, seed=seed, glances=many).advance()
            alphas.append(guide.output_pass("alpha"))
        spread[many] = float(np.var(alphas, axis=0).mean())
    assert spread[(0,)] > 4 * spread[(7,)]


def test_a_run_that_is_called_away_goes_on_where_it_was() -> None:
    """Nothing is traced while somebody calls; what comes after has the same bits as one run in one go."""
    assembled, films = _scene().assembled(), []
    for calls in (0, 3):
        film = Accumulator.empty(64, 96)
        run = PassRun(assembled, VIEW, [0], [film], upto=2, seed=7, at_edges=False)
        for _ in range(calls):
            assert not run.advance(10.0, called=lambda: True)
        assert run.share == 0.0
        left = iter([False] * 5 + [True] * 50)
        if calls:
            assert not run.advance(10.0, called=lambda left=left: next(left))
            assert 0 < run.share < 1
        assert run.advance()
        films.append(film)
    assert np.array_equal(films[0].light, films[1].light)


def test_soft_edges_are_denoised_and_hard_ones_kept() -> None:
    """What is seen keeps out of the filter; out of focus it is as noisy as the rest and goes through it."""
    rng = np.random.default_rng(9)
    guides = np.full((96, 128, 3), 0.5, np.float32), np.zeros((96, 128, 3), np.float32)
    grey = np.ones(3, np.float32)
    rest = rng.exponential(1.0, (96, 128, 1)).astype(np.float32) * grey
    seen = rng.exponential(5.0, (96, 128, 1)).astype(np.float32) * grey
    denoise = Denoiser()
    calm = denoise(rest, *guides)
    hard = denoise(rest + seen, *guides, seen=seen)
    soft = denoise(rest + seen, *guides, seen=seen, soft=True)
    np.testing.assert_allclose(hard - seen, calm, atol=1e-3)
    assert soft.std() < 0.2 * hard.std()
    assert soft.mean() == pytest.approx(6.0, rel=0.05)
