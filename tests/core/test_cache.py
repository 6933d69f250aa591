"""The light cache: the same light as traced paths, sooner, and the same bits every time."""

from __future__ import annotations

import numpy as np
import pytest

from westlight import core
from westlight.core.transport import layout as L
from westlight.core.transport.cache import LightCache
from westlight.core.transport.kernels.cells import take_readings

from .shapes import box, lux

NAMES = ["sun", "lamp"]


def lit_room(sun_lx: float = 80_000.0, floor: float = 1.0) -> core.Scene:
    """A room of 6 × 5 × 3 m with a hole in its roof for the sun, and a lamp; a table in it.

    ``floor`` is the roughness of its floor.
    """
    scene = core.Scene()
    paint = core.Material(0.6)
    box(scene, (0, 0, -0.2), (6, 5, 0), core.Material(0.6, roughness=floor))
    for low, high in (
        ((-0.2, 0, 0), (0, 5, 3)), ((6, 0, 0), (6.2, 5, 3)), ((0, -0.2, 0), (6, 0, 3)),
        ((0, 5, 0), (6, 5.2, 3)), ((0, 0, 3), (2.2, 5, 3.2)), ((3.4, 0, 3), (6, 5, 3.2)),
        ((2.2, 0, 3), (3.4, 1.5, 3.2)), ((2.2, 2.7, 3), (3.4, 5, 3.2)),
    ):  # fmt: skip
        box(scene, low, high, paint)
    box(scene, (3.4, 3, 0.7), (4.8, 4.2, 0.75), core.Material((0.4, 0.25, 0.1)))
    scene.add_source(core.sources.Sun("sun", 200.0, 60.0, sun_lx))
    scene.add_source(core.sources.Sphere("lamp", (1, 4, 2.2), 0.08, luminous_flux_lm=1200))
    return scene


def seen(width: int = 64) -> core.View:
    """The room from its corner."""
    return core.View((0.4, 0.4, 1.6), (4.5, 4, 0.9), 20, width, width // 2)


def blocks(picture: np.ndarray) -> np.ndarray:
    """Means of blocks of 8 × 8 pixels of luminance."""
    y = lux(picture)
    return np.asarray(y.reshape(y.shape[0] // 8, 8, -1, 8).mean(axis=(1, 3)))


def test_same_light_as_traced_paths() -> None:
    """Bounced light of each source agrees by 8 × 8 pixels, and overall within 1.5 %."""
    scene = lit_room()
    traced = core.render(scene, seen(), samples=900, bounces=12)
    kept = core.render(scene, seen(), samples=250, bounces=12, cache_rounds=60)
    for name in NAMES:
        a, b = blocks(kept.bounced(name)), blocks(traced.bounced(name))
        assert float(a.mean()) == pytest.approx(float(b.mean()), rel=0.015)
        assert float(np.abs(a / b - 1).mean()) < 0.04
    # What is seen directly does not touch the cache.
    direct = lux(kept.output_pass("direct")).mean() / lux(traced.output_pass("direct")).mean()
    assert direct == pytest.approx(1.0, rel=0.005)


def test_boards_and_the_ceiling_above_them_are_kept_apart() -> None:
    """Both face down, 22 cm apart, one lit and one dark: no cell of any width holds a mean of the two."""
    rng = np.random.default_rng(5)
    count = 4000
    points = np.zeros((1, count, L.FIRST_COLUMNS), np.float32)
    ceiling = np.arange(count) % 2 == 0
    points[0, :, L.F_POSITION : L.F_POSITION + 2] = rng.uniform(0.5, 4.5, (count, 2))
    points[0, :, L.F_POSITION + 2] = np.where(ceiling, 2.8, 2.58)
    points[0, :, L.F_FACE + 2] = -1.0
    points[0, :, L.F_THERE] = 1.0
    out = np.zeros((1, count, 1, L.OUT_CHANNELS), np.float32)
    out[0, :, 0, :3] = ceiling[:, None]
    cache = LightCache(1)
    arrays = cache.arrays(cache.columns(["strip"]), seen())
    used = np.zeros(1, np.int64)
    take_readings(
        arrays.keys, arrays.rows, used, arrays.light, arrays.columns, arrays.eye, points, out, np.float32(1024)
    )  # fmt: skip
    cells = arrays.light[0, : used[0]]
    assert cells[:, 3].sum() == pytest.approx(3 * count)
    assert cells[:, 3].max() > 20
    assert set(np.unique(cells[:, 0] / cells[:, 3])) == {0.0, 1.0}


def test_a_floor_that_shines_a_little_loses_no_light() -> None:
    """What it mirrors of a low lamp goes one way; an average over all ways would not do."""
    view = core.View((0.4, 0.4, 1.6), (4.5, 4, 2.6), 20, 64, 32)
    scene = lit_room(floor=0.42)
    traced = core.render(scene, view, samples=700, bounces=8)
    # Kept light gains 1.4 % here by its averages over cells; the rest of the margin is the spread of seeds.
    kept = core.render(scene, view, samples=250, bounces=8, cache_rounds=160)
    for name in NAMES:
        a, b = blocks(kept.bounced(name)), blocks(traced.bounced(name))
        assert float(a.mean()) == pytest.approx(float(b.mean()), rel=0.035)
        assert float(np.abs(a / b - 1).mean()) < 0.05


def test_less_noise_with_fewer_rays() -> None:
    """Two thirds of the rays or less, and a smaller error of bounced light than as many traced passes."""
    scene = lit_room()
    truth = lux(core.render(scene, seen(), samples=600, seed=7, bounces=12).bounced("sun"))
    # Glances cost either of them the same.
    traced = core.render(scene, seen(), samples=8, bounces=12, glances=(0,))
    kept = core.render(scene, seen(), samples=8, bounces=12, cache_rounds=40, glances=(0,))
    assert kept.rays < 0.65 * traced.rays
    errors = [float(((lux(f.bounced("sun")) - truth) ** 2).mean()) for f in (kept, traced)]
    assert errors[0] < 0.8 * errors[1]


def test_same_bits_on_any_number_of_threads() -> None:
    """The cache grows alike on one thread and on three."""
    scene = lit_room()
    made = scene.assembled()
    light = []
    for threads in (1, 3):
        cache = LightCache(2)
        for _ in range(3):
            cache.read(made, seen(), [0, 1], NAMES, bounces=4, threads=threads)
        arrays = cache.arrays(cache.columns(NAMES), seen())
        light.append((cache.cells, arrays.light.copy(), arrays.keys.copy()))
    assert light[0][0] == light[1][0] > 500
    np.testing.assert_array_equal(light[0][1], light[1][1])
    np.testing.assert_array_equal(light[0][2], light[1][2])
    films = [
        core.render(scene, seen(32), samples=3, cache_rounds=3, threads=t).beauty for t in (1, 2)
    ]
    np.testing.assert_array_equal(films[0], films[1])


def test_a_changed_source_clears_only_its_own_light() -> None:
    """Another key starts dark; the others keep light and rounds, and the oldest makes room."""
    made = lit_room().assembled()
    cache = LightCache(2)
    cache.read(made, seen(), [0, 1], NAMES, bounces=2, seen_from="corner")
    sun, lamp = cache.columns(NAMES)
    before = cache.arrays(cache.columns(NAMES), seen()).light.copy()
    assert before[sun].any()
    assert before[lamp].any()
    moved = cache.columns(["lamp", "sun moved"])[1]
    assert moved == sun
    after = cache.arrays(cache.columns(["lamp"]), seen()).light
    assert not after[moved].any()
    np.testing.assert_array_equal(after[lamp], before[lamp])
    assert [cache.rounds(n, "corner") for n in ("sun", "lamp")] == [0, 1]
    with pytest.raises(ValueError, match="at most"):
        cache.columns(["a", "b", "c"])


def test_nothing_is_known_until_it_was_read() -> None:
    """A cache without readings changes no picture: paths go on by themselves."""
    scene = lit_room()
    made = scene.assembled()
    from westlight.core.transport.film import Accumulator
    from westlight.core.transport.render import PassRun

    pictures = []
    for cache in (None, LightCache(2)):
        films = [Accumulator.empty(32, 64) for _ in NAMES]
        PassRun(made, seen(), [0, 1], films, upto=2, bounces=5, cache=cache,
                cache_keys=NAMES if cache else ()).advance()  # fmt: skip
        pictures.append(films[0].light)
    np.testing.assert_array_equal(pictures[0], pictures[1])
