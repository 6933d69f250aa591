"""Emitters of every shape, and light from them, against answers known from theory."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
import pytest

from westlight import core
from westlight.core.sources import (
    Disc,
    Group,
    MeshEmitter,
    Photometric,
    Rectangle,
    Sphere,
    Spot,
    Tube,
)
from westlight.core.transport.render import irradiance_at

from .shapes import box, lux, quad, uniform_sky

UP = [[0.0, 0.0, 1.0]]
DOWN = (0.0, 0.0, -1.0)


def _lux_on_floor(source: object, points: object = None, **kw: object) -> np.ndarray:
    scene = core.Scene()
    scene.add_source(source)  # type: ignore[arg-type]
    at = np.asarray([[0, 0, 0]] if points is None else points, float)
    settings = {"samples": 4096, "bounces": 0, **kw}
    return lux(core.irradiance(scene, at, np.tile(UP, (len(at), 1)), **settings))


def test_spot_keeps_its_flux_and_its_angles() -> None:
    """Candela on the axis, half at the beam angle, a tenth at the field angle; E = I·cos³γ/h²."""
    spot = Spot("s", (0, 0, 3), DOWN, beam_deg=24, field_deg=48, luminous_intensity_cd=900)
    points = [[3 * math.tan(math.radians(g)), 0, 0] for g in (0, 12, 24)]
    found = _lux_on_floor(spot, points)
    wanted = [900 / 9 * share * math.cos(math.radians(g)) ** 3
              for g, share in ((0, 1.0), (12, 0.5), (24, 0.1))]  # fmt: skip
    assert found == pytest.approx(wanted, rel=0.01)


@pytest.mark.parametrize("radius", [0.0, 0.05])
def test_flux_of_a_spot_arrives(radius: float) -> None:
    """All of its lumen fall on a floor that catches the whole beam."""
    spot = Spot("s", (0, 0, 2), DOWN, 30, 60, radius, luminous_flux_lm=1000)
    x = np.linspace(-2.95, 2.95, 60)
    points = np.array([[a, b, 0] for a in x for b in x])
    found = _lux_on_floor(spot, points, samples=16)
    assert float(found.sum()) * (x[1] - x[0]) ** 2 == pytest.approx(1000, rel=0.01)


def test_narrowing_keeps_the_flux() -> None:
    """A narrowed rectangle is brighter ahead and sends the same lumen."""
    x = np.linspace(-7.9, 7.9, 80)
    points = np.array([[a, b, 0] for a in x for b in x])
    totals, peaks = [], []
    for narrowing in (0.0, 0.5):
        lamp = Rectangle("r", (0, 0, 1.5), DOWN, 0.3, 0.3, narrowing=narrowing,
                         luminous_flux_lm=500)  # fmt: skip
        found = _lux_on_floor(lamp, points, samples=16)
        totals.append(float(found.sum()) * (x[1] - x[0]) ** 2)
        peaks.append(float(found.max()))
    assert totals[1] == pytest.approx(500, rel=0.01)
    assert totals[0] == pytest.approx(500, rel=0.04)  # some of it passes over the floor's edge
    assert peaks[1] > 3 * peaks[0]


def test_tube_against_integration() -> None:
    """E under a level tube: ∫ L·(projected strip) by numerical integration of its surface."""
    length, radius, height = 1.2, 0.02, 0.8
    tube = Tube("t", (0, 0, height), (1, 0, 0), length, radius, luminance_cd_m2=1000)
    points = np.array([[0.0, 0, 0], [0.9, 0.3, 0]])
    t, phi = np.meshgrid(
        (np.arange(600) + 0.5) / 600 * length - length / 2,
        (np.arange(720) + 0.5) / 720 * 2 * math.pi,
    )
    normal = np.stack([0 * t, np.cos(phi), np.sin(phi)], -1)
    place = np.stack([t, 0 * t, 0 * t + height], -1) + radius * normal
    area = length / 600 * 2 * math.pi * radius / 720
    wanted = []
    for p in points:
        d = place - p
        d2 = (d**2).sum(-1)
        w = d / np.sqrt(d2)[..., None]
        cos_lamp = np.clip(-(w * normal).sum(-1), 0, None)
        total = float((1000 * cos_lamp * np.clip(w[..., 2], 0, None) / d2).sum() * area)
        if p[0] > length / 2:  # the end is seen too, small enough to be one piece
            d = np.array([length / 2, 0, height]) - p
            r = float(np.linalg.norm(d))
            total += 1000 * math.pi * radius**2 * (p[0] - length / 2) / r * height / r / r**2
        wanted.append(total)
    assert _lux_on_floor(tube, points) == pytest.approx(wanted, rel=0.01)


@pytest.mark.parametrize("shape", ["point", "disc", "rectangle", "sphere", "tube"])
def test_photometric_lamp_gives_its_candela(shape: str) -> None:
    """E = I(γ, C)·cosθ/d² far away, whatever small face the lamp has."""
    text = (
        "IESNA:LM-63-2002\nTILT=NONE\n1 -1 1 4 3 1 2 0 0 0\n1 1 40\n"
        "0 30 60 90\n0 45 90\n1000 800 300 0\n1000 600 200 0\n1000 500 100 0\n"
    )
    distribution = core.luminaires.read_photometric(text.encode())
    lamp = Photometric("p", (0, 0, 4), DOWN, distribution, shape=shape, radius=0.01, width=0.02,
                       height=0.02)  # fmt: skip
    u, v, n = lamp.axes
    points, wanted = [], []
    for gamma, c in ((0.0, 0.0), (30, 0), (30, 90), (45, 22.5), (20, 200)):
        g, h = math.radians(gamma), math.radians(c)
        way = n * math.cos(g) + (u * math.cos(h) + v * math.sin(h)) * math.sin(g)
        points.append(np.array([0, 0, 4.0]) + way * (4.0 / -way[2]))
        wanted.append(float(distribution.candela(gamma, c)) * math.cos(g) ** 3 / 16)
    assert _lux_on_floor(lamp, points) == pytest.approx(wanted, rel=0.012)


def test_roll_turns_a_photometric_lamp() -> None:
    """Rolled by 90°, the light of plane C 0 falls where that of C 90 fell."""
    text = (
        "IESNA:LM-63-2002\nTILT=NONE\n1 -1 1 3 3 1 2 0 0 0\n1 1 40\n"
        "0 45 90\n0 90 180\n1000 800 0\n1000 100 0\n1000 800 0\n"
    )
    distribution = core.luminaires.read_photometric(text.encode())
    points = [[3, 0, 0], [0, 3, 0]]
    plain = _lux_on_floor(Photometric("p", (0, 0, 3), DOWN, distribution), points)
    rolled = _lux_on_floor(Photometric("p", (0, 0, 3), DOWN, distribution, 90.0), points)
    assert plain[0] == pytest.approx(8 * plain[1], rel=0.01)
    assert rolled == pytest.approx(plain[::-1], rel=0.01)


def test_mesh_emitter_equals_a_rectangle() -> None:
    """A square of 200 triangles gives what a rectangle of its luminance gives."""
    n = 11
    grid = np.linspace(-0.5, 0.5, n)
    vertices = [[x, y, 2.0] for x in grid for y in grid]
    faces = []
    for i in range(n - 1):
        for j in range(n - 1):
            a = i * n + j
            faces += [[a, a + 1, a + n + 1], [a, a + n + 1, a + n]]
    points = [[0, 0, 0], [1.5, 0.4, 0]]
    mesh = _lux_on_floor(MeshEmitter("m", vertices, faces, luminance_cd_m2=200), points)
    plain = _lux_on_floor(Rectangle("r", (0, 0, 2), DOWN, 1, 1, luminance_cd_m2=200), points)
    assert mesh == pytest.approx(plain, rel=0.01)


def test_picture_on_an_emitter_shines_where_it_is_bright() -> None:
    """A screen lit on its left half: total and lopsidedness follow the picture."""
    pixels = np.zeros((8, 8, 4), np.uint8)
    pixels[:, :4] = 255
    screen = core.Texture("screen", pixels, srgb=True)
    vertices = [[-1, -1, 1], [1, -1, 1], [1, 1, 1], [-1, 1, 1]]
    mesh = MeshEmitter("m", vertices, [[0, 2, 1], [0, 3, 2]], luminance_cd_m2=100, picture=screen,
                       uvs=[[0, 1], [1, 1], [1, 0], [0, 0]])  # fmt: skip
    points = [[-0.5, 0, 0], [0.5, 0, 0]]
    found = _lux_on_floor(mesh, points)
    left = Rectangle("r", (-0.5, 0, 1), DOWN, 1, 2, luminance_cd_m2=100)
    assert found == pytest.approx(_lux_on_floor(left, points), rel=0.12)  # bilinear at the seam
    assert found[0] > 1.5 * found[1]


def test_a_picture_on_an_emitter_ends_at_its_edge() -> None:
    """A bright middle on a field three wide: drawn out, its dark edge leaves the outer fields dark."""
    pixels = np.zeros((8, 8, 4), np.uint8)
    pixels[1:7, 1:7] = 255
    vertices = [[-1.5, -0.5, 1], [1.5, -0.5, 1], [1.5, 0.5, 1], [-1.5, 0.5, 1]]
    total = {}
    for wrap in ("clamp", "repeat"):
        screen = core.Texture("screen", pixels, srgb=True, wrap=(wrap, "clamp"))  # type: ignore[arg-type]
        mesh = MeshEmitter("m", vertices, [[0, 2, 1], [0, 3, 2]], luminance_cd_m2=100, picture=screen,
                           uvs=[[-1, 1], [2, 1], [2, 0], [-1, 0]])  # fmt: skip
        total[wrap] = _lux_on_floor(mesh, [[-1, 0, 0], [0, 0, 0], [1, 0, 0]])
    one = Rectangle("r", (0, 0, 1), DOWN, 0.75, 0.75, luminance_cd_m2=100)
    assert total["clamp"] == pytest.approx(
        _lux_on_floor(one, [[-1, 0, 0], [0, 0, 0], [1, 0, 0]]), rel=0.1
    )
    assert total["repeat"].sum() > 2 * total["clamp"].sum()


def test_range_limit_ends_the_light() -> None:
    """Full close to the lamp, nothing beyond its range."""
    points = [[0, 0, 1.8], [0, 0, -3]]
    free = _lux_on_floor(Disc("d", (0, 0, 2), DOWN, 0.05, luminous_flux_lm=100), points)
    kept = _lux_on_floor(Disc("d", (0, 0, 2), DOWN, 0.05, luminous_flux_lm=100, range_m=3), points)
    assert kept[0] == pytest.approx(free[0], rel=1e-3)
    assert kept[1] == 0.0 < free[1]


def _many_lamps(count: int, seed: int = 5) -> list[Disc | Sphere]:
    rng = np.random.default_rng(seed)
    lamps: list[Disc | Sphere] = []
    for i in range(count):
        place = rng.uniform([-6, -6, 0.6], [6, 6, 3])
        lumen = float(rng.uniform(10, 200))
        if i % 3:
            way = rng.normal(size=3) - np.array([0, 0, 1])
            lamps.append(Disc(f"{i}", place, way, 0.03, luminous_flux_lm=lumen))
        else:
            lamps.append(Sphere(f"{i}", place, 0.03, luminous_flux_lm=lumen))
    return lamps


def test_light_tree_does_not_change_the_mean() -> None:
    """Sixty lamps as one group against the sum of each alone."""
    lamps = _many_lamps(60)
    points = np.array([[0, 0, 0], [4, -3, 0], [-5, 5, 0.2]], float)
    group = _lux_on_floor(Group("all", lamps), points, samples=16384)
    scene = core.Scene()
    for lamp in lamps:
        scene.add_source(lamp)
    alone = lux(core.irradiance(scene, points, np.tile(UP, (3, 1)), samples=1024, bounces=0))
    assert group == pytest.approx(alone, rel=0.02)


def test_light_tree_beats_uniform_choice() -> None:
    """With 300 lamps the variance of the tree's choice is far below that of drawing any lamp."""
    lamps = _many_lamps(300)
    together, apart = core.Scene(), core.Scene()
    together.add_source(Group("all", lamps))
    for lamp in lamps:
        apart.add_source(lamp)
    gains = np.array([s.gain for s in apart.sources])
    tree, uniform = 0.0, 0.0
    for place in ([1.0, 2.0, 0.0], [-3.0, 4.0, 0.0], [5.0, -5.0, 0.0]):
        each = irradiance_at(apart.assembled(), [place], UP, samples=64, seed=0, bounces=0)[0]
        alone = lux(each * gains) * 300
        points = np.tile([place], (800, 1))
        drawn = lux(core.irradiance(together, points, np.tile(UP, (800, 1)), samples=1, bounces=0))
        assert drawn.mean() == pytest.approx(alone.mean(), rel=0.15)
        tree += float(drawn.var() / alone.mean() ** 2)
        uniform += float(alone.var() / alone.mean() ** 2)
    assert uniform > 10 * tree


@pytest.mark.parametrize("ways", ["down", "any"])
@pytest.mark.parametrize("place", [(1.0, 2.0, 0.0, UP), (-6.5, 0.0, 1.2, (1.0, 0.0, 0.0))])
def test_light_tree_minds_where_lamps_point(
    ways: str, place: tuple[float, float, float, tuple[float, float, float]]
) -> None:
    """Of 200 discs, all turned down or each another way, the tree draws those that light a floor or a
    wall far better than an even draw would, and keeps their mean."""
    rng = np.random.default_rng(11)
    at = rng.uniform([-6, -6, 2], [6, 6, 3.5], (200, 3))
    axes = rng.normal(size=(200, 3)) if ways == "any" else np.tile([0.0, 0.0, -1.0], (200, 1))
    axes /= np.linalg.norm(axes, axis=1)[:, None]
    discs = [
        Disc(f"{i}", p, a, 0.05, luminous_flux_lm=100.0)
        for i, (p, a) in enumerate(zip(at, axes, strict=True))
    ]
    *point, normal = place
    together, apart = core.Scene(), core.Scene()
    together.add_source(Group("all", discs))
    for disc in discs:
        apart.add_source(disc)
    gains = np.array([s.gain for s in apart.sources])
    each = irradiance_at(apart.assembled(), [point], normal, samples=64, seed=0, bounces=0)[0]
    alone = lux(each * gains) * 200
    points, normals = np.tile([point], (4000, 1)), np.tile(normal, (4000, 1))
    drawn = lux(core.irradiance(together, points, normals, samples=1, bounces=0))
    assert drawn.mean() == pytest.approx(alone.mean(), rel=0.06)
    assert alone.var() > 8 * drawn.var()


def test_emitters_can_hide() -> None:
    """Hidden from the camera, in reflections, or behind glass: each by itself."""

    def seen(**kw: bool) -> float:
        scene = core.Scene()
        lamp = Rectangle("r", (0, 3, 1), (0, -1, 0), 1, 1, luminance_cd_m2=50, **kw)
        scene.add_source(lamp)
        view = core.View((0, 0, 1), (0, 3, 1), 60, 16, 12)
        return float(lux(core.render(scene, view, samples=4).beauty)[6, 8])

    assert seen() == pytest.approx(50, rel=1e-3)
    assert seen(visible=False) == 0.0
    assert seen(in_reflections=False) == pytest.approx(50, rel=1e-3)
    mirrored = {}
    for shown in (True, False):
        scene = core.Scene()
        quad(scene, 4, core.Material(0.9, roughness=0.02, metallic=1.0))
        scene.add_source(Rectangle("r", (0, 3, 1), (0, -1, 0), 1, 1, luminance_cd_m2=50,
                                   in_reflections=shown))  # fmt: skip
        view = core.View((0, 0, 1), (0, 1.5, 0.0), 60, 16, 12)
        mirrored[shown] = float(lux(core.render(scene, view, samples=16).beauty)[6, 8])
    assert mirrored[True] == pytest.approx(45, rel=0.1)
    assert mirrored[False] < 1.0


BODIES = [
    Rectangle("r", (0, 0, 0), (0, -1, 0), 0.8, 0.8, luminance_cd_m2=3),
    Disc("d", (0, 0, 0), (0, 1, 0), 0.5, luminance_cd_m2=3),
    Sphere("s", (0, 0, 0), 0.5, luminance_cd_m2=3),
    Tube("t", (0, 0, 0), (1, 0, 0), 1.0, 0.4, luminance_cd_m2=3),
]


@pytest.mark.parametrize("lamp", BODIES, ids=lambda lamp: type(lamp).__name__)
def test_a_white_body_vanishes_in_an_even_sky(lamp: Sphere) -> None:
    """White furnace: it sends on what falls on it, from front and back, beside its own light."""
    lamp = replace(lamp, reflectance=1.0)
    scene = core.Scene()
    scene.add_source(uniform_sky())
    scene.add_source(lamp)
    view = core.View((0, -3, 0), (0, 0, 0), 135, 16, 16)
    film = core.render(scene, view, samples=64, bounces=2)
    sky, own = (lux(film.contribution(name)) for name in ("sky", lamp.name))
    assert sky.mean() == pytest.approx(1.0, abs=0.01)
    middle = own[6:10, 6:10]
    assert middle == pytest.approx(0.0 if isinstance(lamp, Disc) else 3.0, rel=1e-4, abs=1e-6)


def test_bodies_stay_black_unless_told() -> None:
    """Without a reflectance a lamp shows its own light only; with one its walls get some back."""
    seen = []
    for reflectance in (0.0, 0.5):
        scene = core.Scene()
        scene.add_source(uniform_sky())
        scene.add_source(Sphere("s", (0, 0, 0), 0.5, luminance_cd_m2=0, reflectance=reflectance))
        view = core.View((0, -3, 0), (0, 0, 0), 135, 16, 16)
        seen.append(lux(core.render(scene, view, samples=64, bounces=1).beauty)[6:10, 6:10].mean())
    assert seen[0] == 0.0
    assert seen[1] == pytest.approx(0.5, abs=0.05)


def test_flux_balance_with_every_shape() -> None:
    """In a closed grey room all flux is absorbed, whatever shape sends it: F = ∫ E(1 − ρ) dA."""
    ies = core.luminaires.spot(60, 100)
    lamps = [
        Spot("spot", (1, 1, 2), (0.2, 0.1, -1), 40, 70, 0.02, luminous_flux_lm=300),
        Tube("tube", (2.5, 2, 2.4), (0, 1, 0), 0.8, 0.03, luminous_flux_lm=200),
        Photometric("ies", (2, 3, 1.5), (0, 0, 1), ies, luminous_flux_lm=250),
        Rectangle("narrow", (1.5, 2, 2.9), DOWN, 0.4, 0.4, narrowing=0.4, luminous_flux_lm=250),
    ]
    scene = core.Scene()
    box(scene, (0, 0, 0), (3, 4, 3), core.Material(0.5))
    # White bodies absorb nothing of it.
    scene.add_source(Group("lamps", [replace(lamp, reflectance=1.0) for lamp in lamps]))
    n = 9
    s = (np.arange(n) + 0.5) / n
    a, b = (g.ravel() for g in np.meshgrid(s, s))
    size = np.array([3.0, 4.0, 3.0])
    total = 0.0
    for axis in range(3):
        for side, sign in ((0.0, 1.0), (1.0, -1.0)):
            points = np.insert(np.stack([a, b], 1), axis, side, axis=1) * size
            normal = np.zeros(3)
            normal[axis] = sign
            points += normal * 1e-4
            e = lux(core.irradiance(scene, points, np.tile(normal, (n * n, 1)), samples=256,
                                    bounces=20))  # fmt: skip
            total += float(e.mean()) * float(np.delete(size, axis).prod()) * 0.5
    assert total == pytest.approx(1000, rel=0.01)


@pytest.mark.parametrize(
    "lamp",
    [
        lambda: Rectangle("r", (0, 0, 0), DOWN, 0, 1, luminous_flux_lm=1),
        lambda: Disc("d", (0, 0, 0), (0, 0, 0), 0.1, luminous_flux_lm=1),
        lambda: Disc("d", (0, 0, 0), DOWN, 0.1),
        lambda: Disc("d", (0, 0, 0), DOWN, 0.1, luminous_flux_lm=1, reflectance=1.5),
        lambda: Disc("d", (0, 0, 0), DOWN, 0.1, luminous_flux_lm=1, reflectance=math.nan),
        lambda: Disc("d", (0, 0, 0), DOWN, 0.1, luminous_flux_lm=math.nan),
        lambda: Disc("d", (0, 0, 0), DOWN, 0.1, luminous_flux_lm=-5),
        lambda: Spot("s", (0, 0, 0), DOWN, 60, 30, luminous_flux_lm=1),
        lambda: Tube("t", (0, 0, 0), DOWN, 0, 0.1, luminous_flux_lm=1),
        lambda: Sphere("b", (0, 0, 0), 0.1, luminous_flux_lm=1, colour=(0, 0, 0)),
        lambda: MeshEmitter("m", [[0, 0, 0]] * 3, [[0, 1, 2]], luminance_cd_m2=5),
    ],
)
def test_impossible_lamps_are_refused_in_words(lamp: object) -> None:
    """Each raises a named error whose text the artist can act on."""

    def use() -> None:
        scene = core.Scene()
        assert scene.add_source(lamp()).gain is not None  # type: ignore[operator]
        scene.assembled()

    with pytest.raises(
        core.errors.SourceError, match=r"needs|Give|amount|wider|area|black|between"
    ):
        use()
