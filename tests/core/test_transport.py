"""Light transport against answers known from theory."""

from __future__ import annotations

import math

import numpy as np
import pytest
import trimesh

from westlight import core
from westlight.core.errors import Cancelled
from westlight.core.sources import Disc, Group, Rectangle, Sphere, Sun
from westlight.core.transport.film import Accumulator, of_tiles, over_pixels, tiles_of
from westlight.core.transport.kernels.passes import trace_rows
from westlight.core.transport.render import PassRun, irradiance_at

from .shapes import box, lux, quad, uniform_sky

UP = [[0.0, 0.0, 1.0]]


@pytest.mark.parametrize(
    ("roughness", "metallic"),
    [
        (1.0, 0.0),
        (0.9, 0.0),
        (0.5, 0.0),
        (0.1, 0.0),
        (1.0, 1.0),
        (0.5, 1.0),
        (0.05, 1.0),
        (0.3, 0.5),
    ],
)
def test_white_furnace(roughness: float, metallic: float) -> None:
    """A body that absorbs nothing cannot be seen against an even sky."""
    scene = core.Scene()
    ball = trimesh.creation.icosphere(subdivisions=4)
    material = core.Material(1.0, roughness=roughness, metallic=metallic)
    scene.add_mesh(ball.vertices, ball.faces, material, normals=ball.vertex_normals)
    scene.add_source(uniform_sky())
    view = core.View((0, -4, 0), (0, 0, 0), focal_length_mm=80, width_px=48, height_px=32)
    film = core.render(scene, view, samples=192, bounces=40)
    assert float(lux(film.beauty).mean()) == pytest.approx(1.0, abs=0.006)


@pytest.mark.parametrize("reflectance", [0.0, 0.3, 0.7, 0.9])
def test_closed_cavity(reflectance: float) -> None:
    """L = Le/(1 − ρ) everywhere in an emitting cavity."""
    scene = core.Scene()
    box(scene, (0, 0, 0), (3, 4, 2.5), core.Material(reflectance, emission_cd_m2=10.0))
    rng = np.random.default_rng(1)
    points = rng.uniform([0.3, 0.3, 0.3], [2.7, 3.7, 2.2], (40, 3))
    normals = rng.normal(size=(40, 3))
    found = lux(core.irradiance(scene, points, normals, samples=1024, bounces=200)) / math.pi
    assert float(found.mean()) == pytest.approx(10.0 / (1.0 - reflectance), rel=0.01)


def test_point_and_disc_and_rectangle() -> None:
    """E = I·cosθ/d², E = πL·r²/(r²+h²), and a rectangle's configuration factor."""
    scene = core.Scene()
    scene.add_source(Sphere("point", (3, 0, 3), 0.001, luminous_intensity_cd=100))
    scene.add_source(Disc("disc", (0, 0, 2), (0, 0, -1), 0.5, luminance_cd_m2=1000, visible=False))
    scene.add_source(Rectangle("pane", (0, 0, 2), (0, 0, -1), 1, 1, luminance_cd_m2=1000))
    assembled = scene.assembled()
    unit = irradiance_at(assembled, [[0, 0, 0]], UP, samples=4096, seed=0, bounces=0)[0]
    gains = np.array([s.gain for s in assembled.sources])
    point, disc, pane = lux(unit * gains)
    assert point == pytest.approx(100 * math.cos(math.pi / 4) / 18.0, rel=1e-3)
    assert disc == pytest.approx(math.pi * 1000 * 0.25 / 4.25, rel=2e-3)
    # Four quarters a × b at height c over their corner (Howell, C-11).
    x = 0.5 / 2.0
    quarter = x / math.sqrt(1 + x * x) * math.atan(x / math.sqrt(1 + x * x)) / math.pi
    assert pane == pytest.approx(1000 * math.pi * 4 * quarter, rel=2e-3)


def test_rectangle_to_a_perpendicular_face() -> None:
    """Configuration factor to a face at a right angle (Howell, C-12)."""
    scene = core.Scene()
    scene.add_source(Rectangle("wall", (1.0, 2.0, 0.75), (0, -1, 0), 2.0, 1.5, luminance_cd_m2=500))
    found = lux(core.irradiance(scene, [[0, 0, 0]], UP, samples=8192, bounces=0))[0]
    a, b, c = 2.0, 1.5, 2.0  # along the edge, above it, distance
    factor = (math.atan(a / c) - c / math.hypot(b, c) * math.atan(a / math.hypot(b, c))) / (
        2 * math.pi
    )
    assert found == pytest.approx(500 * math.pi * factor, rel=4e-3)


def test_uniform_sky_on_open_ground() -> None:
    """An even sky of 1000 cd/m² gives π·1000 lx on level ground."""
    scene = core.Scene()
    scene.add_source(uniform_sky(1000.0))
    found = lux(core.irradiance(scene, [[0, 0, 0]], UP, samples=2048, bounces=0))[0]
    assert found == pytest.approx(math.pi * 1000, rel=3e-3)


def test_overcast_sky_through_a_roof_opening() -> None:
    """A square hole above a point, against numerical integration of the same sky."""
    sky = core.sky.cie_sky(1, 40.0, horizontal_illuminance_lx=10_000)
    scene = core.Scene()
    half, height = 0.5, 2.0
    for low, high in (((-900, -900), (900, -half)), ((-900, half), (900, 900)),
                      ((-900, -half), (-half, half)), ((half, -half), (900, half))):  # fmt: skip
        points = [[low[0], low[1], height], [high[0], low[1], height],
                  [high[0], high[1], height], [low[0], high[1], height]]  # fmt: skip
        scene.add_mesh(points, [[0, 1, 2], [0, 2, 3]], core.Material(0.0))
    scene.add_source(core.sources.SkySource("sky", sky))
    found = lux(core.irradiance(scene, [[0, 0, 0]], UP, samples=1_000_000, bounces=0))[0]
    n = 400
    g = (np.arange(n) + 0.5) / n * 2 * half - half
    x, y = np.meshgrid(g, g)
    d2 = x**2 + y**2 + height**2
    towards = np.stack([x, y, np.full_like(x, height)], -1) / np.sqrt(d2)[..., None]
    cosine = height / np.sqrt(d2)
    lum = sky.luminance(towards.reshape(-1, 3)).reshape(n, n)
    expected = (lum * cosine * cosine / d2).sum() * (2 * half / n) ** 2
    assert found == pytest.approx(expected, rel=0.01)


def test_pane_lets_through_what_fresnel_says() -> None:
    """One pane, n = 1.52, straight on: (1 − R)/(1 + R) = 0.918."""
    lit = {}
    for panes in (False, True):
        scene = core.Scene()
        if panes:
            quad(scene, 5.0, core.Material(1.0, transmission=1.0, ior=1.52), z=1.0)
        scene.add_source(Sun("sun", 180.0, 90.0, normal_illuminance_lx=10_000))
        lit[panes] = lux(core.irradiance(scene, [[0, 0, 0]], UP, samples=256, bounces=0))[0]
    assert lit[False] == pytest.approx(10_000, rel=1e-3)
    assert lit[True] / lit[False] == pytest.approx(0.918, abs=0.001)


def test_camera_sees_the_sky_through_a_pane() -> None:
    """What a camera path sees through a pane plus its mirror image is the whole even sky."""
    scene = core.Scene()
    pane = core.Material(1.0, transmission=1.0)
    points = [[-5, 1, -5], [5, 1, -5], [5, 1, 5], [-5, 1, 5]]
    scene.add_mesh(points, [[0, 1, 2], [0, 2, 3]], pane)
    scene.add_source(uniform_sky())
    view = core.View((0, 0, 0), (0, 1, 0), width_px=16, height_px=12)
    film = core.render(scene, view, samples=64, bounces=2)
    assert float(lux(film.beauty).mean()) == pytest.approx(1.0, rel=1e-4)


def test_flux_balance_of_a_closed_room() -> None:
    """What a lamp sends out is what the walls take in."""
    scene = core.Scene()
    size = (4.0, 5.0, 3.0)
    reflectance = 0.6
    box(scene, (0, 0, 0), size, core.Material(reflectance))
    scene.add_source(Sphere("lamp", (1.7, 2.2, 1.6), 0.05, luminous_flux_lm=1000, visible=False))
    rng = np.random.default_rng(4)
    points, normals, areas = [], [], []
    count = 150
    for axis in range(3):
        others = [i for i in range(3) if i != axis]
        for side in (0, 1):
            p = rng.uniform(0.0, 1.0, (count, 3)) * size
            p[:, axis] = size[axis] * side
            n = np.zeros((count, 3))
            n[:, axis] = 1 - 2 * side
            points.append(p + n * 1e-3)
            normals.append(n)
            areas += [size[others[0]] * size[others[1]]] * count
    e = lux(core.irradiance(scene, np.concatenate(points), np.concatenate(normals), samples=512,
                            bounces=60))  # fmt: skip
    absorbed = float((e * np.array(areas)).sum()) / count * (1 - reflectance)
    assert absorbed == pytest.approx(1000.0, rel=0.02)


def test_penumbra_is_as_wide_as_the_sun() -> None:
    """Behind an edge at distance d the half shadow is 2·d·tan(0.2665°·size) wide."""
    scene = core.Scene()
    distance = 10.0
    points = [[0, -50, distance], [50, -50, distance], [50, 50, distance], [0, 50, distance]]
    scene.add_mesh(points, [[0, 1, 2], [0, 2, 3]], core.Material(0.0))
    scene.add_source(Sun("sun", 180.0, 90.0, normal_illuminance_lx=1000, size=4.0))
    x = np.linspace(-0.5, 0.5, 201)
    at = np.stack([x, 0 * x, 0 * x], -1)
    share = lux(core.irradiance(scene, at, np.tile(UP, (201, 1)), samples=1024, bounces=0)) / 1000
    lit, dark = x[share > 0.999].max(), x[share < 0.001].min()
    width = 2 * distance * math.tan(math.radians(0.2665 * 4))
    assert dark - lit == pytest.approx(width, rel=0.06)
    assert float(np.interp(0.0, x, share)) == pytest.approx(0.5, abs=0.02)


def _lamp_room() -> core.Scene:
    scene = core.Scene()
    box(scene, (0, 0, 0), (4, 4, 3), core.Material(0.5, roughness=0.4))
    box(scene, (1, 1, 0), (1.5, 1.7, 1.1), core.Material(0.8, roughness=0.3, metallic=1.0))
    scene.add_source(Disc("disc", (2, 2, 2.9), (0, 0, -1), 0.3, luminous_flux_lm=900, kelvin=2700))
    scene.add_source(Sphere("ball", (3, 1, 1.5), 0.1, luminous_flux_lm=500, kelvin=5000))
    return scene


ROOM_VIEW = core.View((0.4, 0.4, 1.6), (2.2, 2.2, 1.0), width_px=40, height_px=30)


def test_contributions_add_up_to_all_sources_together() -> None:
    """Sources traced alone give what they give when traced side by side."""
    together = core.render(_lamp_room(), ROOM_VIEW, samples=256, seed=3, bounces=4)
    alone = 0.0
    for keep in (0, 1):
        scene = _lamp_room()
        # Both lamps stay as bodies in the way; only one of them shines.
        for i, source in enumerate(scene.sources):
            assert isinstance(source, Group)
            source.level = 0.0 if i == keep else -60.0
        alone += float(
            lux(core.render(scene, ROOM_VIEW, samples=256, seed=9, bounces=4).beauty).mean()
        )
    parts = sum(float(lux(together.contribution(n)).mean()) for n in together.names)
    assert parts == pytest.approx(float(lux(together.beauty).mean()), rel=1e-5)
    assert alone == pytest.approx(parts, rel=0.02)


def _bytes(*films: Accumulator) -> bytes:
    return b"".join(
        a.tobytes() for f in films for a in (f.light, f.bounced, f.odd, f.removed, f.counts)
    )


def test_same_seed_same_picture_on_any_number_of_threads() -> None:
    """Bit for bit, on one thread, on two, in one go, in slices, and pass by pass."""
    assembled = _lamp_room().assembled()
    pictures = []
    ways = ((1, None, [3]), (2, None, [3]), (2, 0.001, [1, 3]), (1, None, [1, 2, 3]))
    for threads, seconds, steps in ways:
        films = [Accumulator.empty(30, 40), Accumulator.empty(30, 40)]
        for upto in steps:
            run = PassRun(assembled, ROOM_VIEW, [0, 1], films, upto=upto, seed=5, threads=threads)
            while not run.advance(seconds):
                pass
        pictures.append(_bytes(*films))
    assert pictures[0] == pictures[1] == pictures[2] == pictures[3]
    different = Accumulator.empty(30, 40)
    PassRun(assembled, ROOM_VIEW, [0], [different], upto=3, seed=6).advance()
    assert _bytes(different) != pictures[0][: len(_bytes(different))]


def test_some_tiles_get_more_passes_and_the_rest_catches_up() -> None:
    """A tile's passes are the same whenever they are traced; each pixel is divided by its own."""
    assembled = _lamp_room().assembled()
    view = core.View((0.3, 0.4, 1.4), (3.2, 2.5, 1.0), 20, 136, 20)
    whole, some = Accumulator.empty(20, 136), Accumulator.empty(20, 136)
    PassRun(assembled, view, [0], [whole], upto=4, seed=5).advance()
    tiles = np.array([[0, 1, 0], [0, 1, 1], [0, 0, 0]], bool)
    PassRun(assembled, view, [0], [some], upto=1, seed=5).advance()
    PassRun(assembled, view, [0], [some], upto=4, seed=5, tiles=tiles).advance()
    assert np.array_equal(some.counts.sum(axis=-1), np.where(tiles, 4, 1))
    assert (some.samples, some.mean_samples) == (1, 2.0)
    inside = over_pixels(tiles, 20, 136)
    assert np.array_equal(some.mean()[inside], whole.mean()[inside])
    PassRun(assembled, view, [0], [some], upto=4, seed=5).advance()
    assert _bytes(some) == _bytes(whole)


def test_means_of_tiles() -> None:
    picture = np.arange(20 * 136, dtype=np.float64).reshape(20, 136)
    means = of_tiles(picture)
    assert means.shape == tiles_of(20, 136) == (3, 3)
    assert means[0, 0] == picture[:8, :64].mean()
    assert means[2, 2] == picture[16:, 128:].mean()


def test_a_run_given_up_loses_nothing() -> None:
    """Bands already traced stay, and going on gives the undisturbed film, bit for bit."""
    assembled = _lamp_room().assembled()
    whole, broken = Accumulator.empty(30, 40), Accumulator.empty(30, 40)
    PassRun(assembled, ROOM_VIEW, [0], [whole], upto=2, seed=5).advance()
    run = PassRun(assembled, ROOM_VIEW, [0], [broken], upto=2, seed=5, threads=1)
    run.advance(1e-9)
    assert not run.done
    taken = iter([False, False, True, True, True])
    with pytest.raises(Cancelled):
        run.advance(stop=lambda: next(taken, True))
    assert 0 < broken.counts.sum() < 2 * broken.counts[..., 0].size
    PassRun(assembled, ROOM_VIEW, [0], [broken], upto=2, seed=5).advance()
    assert _bytes(broken) == _bytes(whole)


def test_films_of_unequal_age_share_a_run() -> None:
    """A young film catches up within a run of several, and the tracer is not compiled again."""
    assembled = _lamp_room().assembled()
    young, old, alone = (Accumulator.empty(30, 40) for _ in range(3))
    PassRun(assembled, ROOM_VIEW, [1], [old], upto=2, seed=5).advance()
    known = len(trace_rows.signatures)
    PassRun(assembled, ROOM_VIEW, [0, 1], [young, old], upto=3, seed=5).advance()
    PassRun(assembled, ROOM_VIEW, [0], [alone], upto=3, seed=5).advance()
    assert (young.samples, old.samples) == (3, 3)
    assert young.light == pytest.approx(alone.light, rel=1e-5, abs=1e-7)
    assert len(trace_rows.signatures) == known


def test_films_of_different_passes_merge() -> None:
    """Passes 0–3 and 4–7 rendered apart add up to passes 0–7 of one film."""
    scene = _lamp_room()
    parts = [
        core.render(scene, ROOM_VIEW, samples=4, seed=3, bounces=2, first_sample=k) for k in (0, 4)
    ]
    whole = core.render(scene, ROOM_VIEW, samples=8, seed=3, bounces=2)
    for name in whole.names:
        merged = parts[0].accumulators[name]
        merged.add(parts[1].accumulators[name])
        assert np.array_equal(merged.counts, whole.accumulators[name].counts)
        assert merged.light == pytest.approx(whole.accumulators[name].light, rel=1e-5, abs=1e-7)


def test_level_and_colour_are_gains_not_light() -> None:
    """Changing lumen, kelvin or level leaves what is traced untouched."""
    films = []
    for lumen, kelvin in ((900, 2700), (90, 6500)):
        scene = core.Scene()
        box(scene, (0, 0, 0), (4, 4, 3), core.Material(0.5))
        disc = Disc("d", (2, 2, 2.9), (0, 0, -1), 0.3, luminous_flux_lm=lumen, kelvin=kelvin)
        scene.add_source(disc)
        films.append(core.render(scene, ROOM_VIEW, samples=2, seed=1))
    a, b = (f.accumulators["d"].light for f in films)
    assert np.array_equal(a, b)
    ratio = lux(films[0].contribution("d")).mean() / lux(films[1].contribution("d")).mean()
    assert ratio == pytest.approx(10.0, rel=0.2)


def test_noise_estimate_tells_the_truth() -> None:
    """The noise read from the half buffers against a far better picture.

    Each half is less evenly filled than the whole, so the estimate errs on the careful side.
    """
    scene = _lamp_room()
    view = ROOM_VIEW.resized(64, 48)
    reference = lux(core.render(scene, view, samples=1024, seed=11, bounces=3).beauty)
    film = core.render(scene, view, samples=16, seed=2, bounces=3)
    true = np.abs(lux(film.beauty) - reference).mean() * math.sqrt(math.pi / 2) / reference.mean()
    assert 0.9 * true < film.noise() < 2.2 * true


def test_copies_share_memory_and_light() -> None:
    """Instanced copies give the picture of flattened ones."""
    from westlight.core.model import Mesh, Part

    ball = trimesh.creation.icosphere(subdivisions=2, radius=0.4)
    pictures = []
    for shared in (True, False):
        scene = core.Scene()
        quad(scene, 6, core.Material(0.4))
        mesh = Mesh.single("ball", ball.vertices, ball.faces, core.Material(0.6))
        for x in (-1.0, 0.2, 1.3):
            matrix = np.diag([1.0, 1.5, 0.7, 1.0])
            matrix[:3, 3] = x, 0.3 * x, 0.5
            one = mesh if shared else Mesh.single("b", ball.vertices, ball.faces, mesh.materials[0])
            scene.add_part(Part("ball", one, matrix))
        scene.add_source(Sun("sun", 220, 35, normal_illuminance_lx=10_000))
        scene.add_source(uniform_sky(500))
        view = core.View((0, -5, 2), (0, 0, 0.4), width_px=48, height_px=32)
        film = core.render(scene, view, samples=32, seed=1, bounces=2)
        pictures.append(lux(film.beauty))
        assert len(scene.geometry().triangles) == (2 + 320 if shared else 2 + 3 * 320)
    assert float(np.abs(pictures[0] - pictures[1]).mean()) < 0.004 * float(pictures[0].mean())


def test_clay_takes_colour_but_not_glass() -> None:
    """Clay makes every surface one grey and leaves panes clear."""
    scene = core.Scene()
    quad(scene, 3, core.Material((0.8, 0.1, 0.1), roughness=0.2))
    quad(scene, 3, core.Material(1.0, transmission=1.0), z=1.0)
    scene.add_source(Sun("sun", 180, 90, normal_illuminance_lx=10_000))
    view = core.View((0, -3, 3), (0, 0, 0), width_px=32, height_px=24, focal_length_mm=60)
    film = core.render(scene, view, samples=32, bounces=0, clay_reflectance=0.5)
    rgb = film.contribution("sun").mean(axis=(0, 1))
    assert rgb[0] == pytest.approx(rgb[2] * core.sources.Sun("s", 0, 90).gain[0]
                                   / core.sources.Sun("s", 0, 90).gain[2], rel=1e-3)  # fmt: skip


def test_stopping_a_render() -> None:
    """A render that is told to stop raises instead of giving half a picture."""
    with pytest.raises(core.errors.Cancelled):
        core.render(_lamp_room(), ROOM_VIEW, samples=4, stop=lambda: True)
