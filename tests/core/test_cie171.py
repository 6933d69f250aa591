"""Cases of CIE 171:2006 with analytic answers: transmission, reflection, and daylight through openings.

What is wanted is integrated here over the opening or the lit patch, point by point, with NumPy alone.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import pytest

from westlight import core
from westlight.core.sources import SkySource, Sphere, Sun

from .shapes import box, lux

Array = np.ndarray
BLACK = core.Material(0.0)
#: The room of the cases: 4 × 4 m, 3 m high.
SIDE, HEIGHT = 4.0, 3.0
UP, SOUTH_IN = (0.0, 0.0, 1.0), (0.0, 1.0, 0.0)
SKIES = [(1, 60.0), (5, 60.0), (8, 40.0), (12, 60.0)]
#: Points lie a millimetre over the floor, or it would shade them.
LIFT = np.array([0.0, 0.0, 1e-3])
PANE = core.Material(1.0, transmission=1.0, ior=1.52)


def sheet(scene: core.Scene, corners: Array, material: core.Material = BLACK) -> None:
    scene.add_mesh(corners, [[0, 1, 2], [0, 2, 3]], material, "sheet")


def framed(scene: core.Scene, origin: Array, u: Array, v: Array, hole: tuple[float, ...]) -> None:
    """A black wall spanned by u and v, but for a hole (u0, u1, v0, v1) in shares of them."""
    u0, u1, v0, v1 = hole
    for a, b, c, d in ((0, 1, 0, v0), (0, 1, v1, 1), (0, u0, v0, v1), (u1, 1, v0, v1)):
        if b > a and d > c:
            sheet(
                scene,
                np.array([origin + u * s + v * t for s, t in ((a, c), (b, c), (b, d), (a, d))]),
            )


def room(roof: tuple[float, ...] | None, south: tuple[float, ...] | None) -> core.Scene:
    """The black room with a hole in its roof or south wall (y = 0), in shares."""
    scene = core.Scene()
    x, y, z = np.diag([SIDE, SIDE, HEIGHT])
    zero = np.zeros(3)
    none = (1.0, 1.0, 1.0, 1.0)
    framed(scene, z, x, y, roof or none)
    framed(scene, zero, x, z, south or none)
    for origin, a, b in ((zero, x, y), (y, x, z), (zero, y, z), (x, y, z)):
        sheet(scene, np.array([origin, origin + a, origin + a + b, origin + b]))
    return scene


def through(
    point: Array, normal: Array, corner: Array, u: Array, v: Array,
    radiance: Callable[[Array], Array],
) -> float:  # fmt: skip
    """Lux at a point by light that comes through (or from) a rectangle: ∫ L cosθ cosθ' / r² dA."""
    n = 240
    s = (np.arange(n) + 0.5) / n
    a, b = np.meshgrid(s, s, indexing="ij")
    at = corner + a[..., None] * u + b[..., None] * v
    way = (at - point).reshape(-1, 3)
    r2 = (way**2).sum(axis=1)
    way /= np.sqrt(r2)[:, None]
    face = np.cross(u, v)
    area = float(np.linalg.norm(face))
    cosines = np.maximum(way @ normal, 0) * np.abs(way @ (face / area))
    return float((radiance(way) * cosines / r2).sum() * area / n**2)


def pane_share(cosine: Array) -> Array:
    """Share of light an uncoated sheet of n = 1.52 lets through, all echoes counted (Fresnel)."""
    t = np.sqrt(1 - (1 - cosine**2) / 1.52**2)
    rs = ((cosine - 1.52 * t) / (cosine + 1.52 * t)) ** 2
    rp = ((t - 1.52 * cosine) / (t + 1.52 * cosine)) ** 2
    r = (rs + rp) / 2
    return np.asarray((1 - r) / (1 + r))


def got(
    scene: core.Scene, points: Array, normals: Array, samples: int = 8192, bounces: int = 0
) -> Array:
    return np.asarray(
        lux(core.irradiance(scene, points, normals, samples=samples, bounces=bounces))
    )


@pytest.mark.parametrize("degrees", [0, 30, 50, 60, 70, 80])
def test_directional_transmittance_of_clear_glass(degrees: float) -> None:
    """5.4: a level pane under a sun at several angles."""
    scene = core.Scene()
    sheet(scene, np.array([[-9, -9, 1.0], [9, -9, 1], [9, 9, 1], [-9, 9, 1]]), PANE)
    scene.add_source(Sun("sun", 180, 90 - degrees, normal_illuminance_lx=1000))
    cosine = np.cos(np.radians(degrees))
    wanted = 1000 * cosine * float(pane_share(np.array([cosine]))[0])
    assert got(scene, np.zeros((1, 3)), np.array([UP]), 256)[0] == pytest.approx(wanted, rel=0.005)


@pytest.mark.parametrize("half", [0.25, 2.0])
def test_reflection_over_a_diffuse_surface(half: float) -> None:
    """5.6: sunlight a level patch of 80 % throws onto a wall that faces away from the sun."""
    scene = core.Scene()
    patch = np.array(
        [[-half, 0.2, 0], [half, 0.2, 0], [half, 0.2 + 2 * half, 0], [-half, 0.2 + 2 * half, 0]]
    )
    sheet(scene, patch, core.Material(0.8))
    scene.add_source(Sun("sun", 180, 35, normal_illuminance_lx=50_000))
    points = np.array([[0.0, 0.0, z] for z in (0.5, 1.5, 3.0)])
    normals = np.tile(SOUTH_IN, (3, 1))
    exitance = 0.8 * 50_000 * np.sin(np.radians(35))
    wanted = [
        through(p, np.array(SOUTH_IN), patch[0], patch[1] - patch[0], patch[3] - patch[0],
                lambda w: np.full(len(w), exitance / np.pi))
        for p in points
    ]  # fmt: skip
    assert got(scene, points, normals, 262_144, 1) == pytest.approx(wanted, rel=0.02)


def test_reflection_past_an_obstruction() -> None:
    """5.7: a black panel between the patch and the points hides part of it."""
    scene = core.Scene()
    patch = np.array([[-2.0, 0.5, 0], [2, 0.5, 0], [2, 4.5, 0], [-2, 4.5, 0]])
    sheet(scene, patch, core.Material(0.8))
    # The panel stands at y = 0.3, from 0.6 m up; it shades nothing of the patch: the sun is behind.
    sheet(scene, np.array([[-4.0, 0.3, 0.6], [4, 0.3, 0.6], [4, 0.3, 2.0], [-4, 0.3, 2.0]]))
    scene.add_source(Sun("sun", 0, 35, normal_illuminance_lx=50_000))
    exitance = 0.8 * 50_000 * np.sin(np.radians(35))
    ceiling = np.array([[0.0, y, 3.0] for y in (-1.0, -0.4)])

    def seen(point: Array) -> Callable[[Array], Array]:
        def radiance(way: Array) -> Array:
            t = (0.3 - point[1]) / np.where(np.abs(way[:, 1]) < 1e-9, 1e-9, way[:, 1])
            z = point[2] + t * way[:, 2]
            return np.where((t > 0) & (z > 0.6) & (z < 2.0), 0.0, exitance / np.pi)

        return radiance

    down = np.array([0.0, 0.0, -1.0])
    wanted = [
        through(p, down, patch[0], patch[1] - patch[0], patch[3] - patch[0], seen(p))
        for p in ceiling
    ]
    found = got(scene, ceiling, np.tile(down, (2, 1)), 32768, 1)
    assert found == pytest.approx(wanted, rel=0.025)


@pytest.mark.parametrize("reflectance", [0.2, 0.5, 0.8])
def test_internal_reflected_component(reflectance: float) -> None:
    """5.8: a lamp amid a closed room of one reflectance; indirect light is Φ/S · ρ/(1 − ρ) on average."""
    scene = core.Scene()
    box(scene, (0, 0, 0), (4, 4, 4), core.Material(reflectance))
    scene.add_source(Sphere("lamp", (2, 2, 2), 0.02, luminous_flux_lm=10_000))
    s = (np.arange(5) + 0.5) / 5 * 4
    a, b = (g.ravel() for g in np.meshgrid(s, s))
    points, normals = [], []
    for axis in range(3):
        for side in (0, 1):
            p = np.empty((25, 3))
            p[:, axis], p[:, (axis + 1) % 3], p[:, (axis + 2) % 3] = side * 4, a, b
            n = np.zeros((25, 3))
            n[:, axis] = 1 - 2 * side
            points.append(p + n * 1e-3)
            normals.append(n)
    p, n = np.concatenate(points), np.concatenate(normals)
    whole, direct = (got(scene, p, n, 256, bounces).mean() for bounces in (64, 0))
    wanted = 10_000 / (6 * 16) * reflectance / (1 - reflectance)
    assert whole - direct == pytest.approx(wanted, rel=0.02)


def sky_seen(sky: core.sky.Sky) -> Callable[[Array], Array]:
    return lambda way: np.where(way[:, 2] > 0, sky.luminance(way), 0.0)


def floor_points() -> Array:
    return np.array([[x, x, 0.0] for x in (0.5, 1.0, 2.0, 3.0, 3.75)])


def under_a_roof(
    kind: int, elevation: float, glazed: bool
) -> tuple[core.Scene, Array, list[float]]:
    """An opening of 1 m² amid the roof: the scene, points on the floor, and the lux wanted there."""
    sky = core.sky.cie_sky(kind, elevation, 180.0, 10_000.0, ground_albedo=0.0)
    scene = room((0.375, 0.625, 0.375, 0.625), None)
    corner, u, v = np.array([1.5, 1.5, HEIGHT]), np.array([1.0, 0, 0]), np.array([0, 1.0, 0])
    if glazed:
        sheet(scene, np.array([corner, corner + u, corner + u + v, corner + v]), PANE)
    scene.add_source(SkySource("sky", sky))
    scene.add_portal((2.0, 2.0, HEIGHT), (0, 0, -1), 1.0, 1.0)
    plain = sky_seen(sky)

    def radiance(way: Array) -> Array:
        return plain(way) * (pane_share(np.abs(way[:, 2])) if glazed else 1.0)

    points = floor_points()
    return scene, points + LIFT, [through(p, np.array(UP), corner, u, v, radiance) for p in points]


@pytest.mark.parametrize(("kind", "elevation"), SKIES)
@pytest.mark.parametrize("glazed", [False, True])
def test_sky_component_under_a_roof_opening(kind: int, elevation: float, glazed: bool) -> None:
    """5.9 and 5.10: open and glazed."""
    scene, points, wanted = under_a_roof(kind, elevation, glazed)
    found = got(scene, points, np.tile(UP, (len(points), 1)), 32768)
    assert found == pytest.approx(wanted, rel=0.015)


def test_no_sample_stands_for_light_it_did_not_find() -> None:
    """A draw on the very edge of an opening counted thousandfold, one in some millions: no seed shows any."""
    scene, points, wanted = under_a_roof(5, 60.0, False)
    up = np.tile(UP, (len(points), 1))
    for seed in range(6):
        found = lux(core.irradiance(scene, points, up, samples=32768, bounces=0, seed=seed))
        assert found == pytest.approx(wanted, rel=0.003)


def before_a_window(
    kind: int, elevation: float, mask: str
) -> tuple[core.Scene, Array, list[float]]:
    """A window of 2 × 1 m, free, under an overhang or before a wall: scene, points, lux wanted."""
    sky = core.sky.cie_sky(kind, elevation, 180.0, 10_000.0, ground_albedo=0.0)
    scene = room(None, (0.25, 0.75, 1 / 3, 2 / 3))
    if mask == "overhang":
        sheet(scene, np.array([[-1.0, -1.3, 2.0], [5, -1.3, 2], [5, 0, 2], [-1, 0, 2]]))
    elif mask != "none":
        sheet(scene, np.array([[-20.0, -3, 0], [24, -3, 0], [24, -3, 4], [-20, -3, 4]]))
    scene.add_source(SkySource("sky", sky))
    scene.add_portal((2.0, 0.0, 1.5), SOUTH_IN, 2.0, 1.0)
    corner, u, v = np.array([1.0, 0, 1.0]), np.array([2.0, 0, 0]), np.array([0, 0, 1.0])
    plain = sky_seen(sky)

    def seen(point: Array) -> Callable[[Array], Array]:
        def radiance(way: Array) -> Array:
            light = plain(way)
            if mask == "overhang":
                t = (2.0 - point[2]) / np.maximum(way[:, 2], 1e-9)
                x, y = point[0] + t * way[:, 0], point[1] + t * way[:, 1]
                light = np.where((y < 0) & (y > -1.3) & (x > -1) & (x < 5), 0.0, light)
            elif mask != "none":
                t = (-3 - point[1]) / np.minimum(way[:, 1], -1e-9)
                x, z = point[0] + t * way[:, 0], point[2] + t * way[:, 2]
                light = np.where((z > 0) & (z < 4) & (x > -20) & (x < 24), 0.0, light)
            return light

        return radiance

    points = np.array([[2.0, y, 0.0] for y in (1.0, 2.0, 3.5)])
    return scene, points + LIFT, [through(p, np.array(UP), corner, u, v, seen(p)) for p in points]


@pytest.mark.parametrize(("kind", "elevation"), SKIES)
@pytest.mark.parametrize("mask", ["none", "overhang", "wall before it"])
def test_sky_component_through_a_facade_opening(kind: int, elevation: float, mask: str) -> None:
    """5.11, 5.13 and 5.14: a window, free, under an overhang, and before a wall of 4 m."""
    scene, points, wanted = before_a_window(kind, elevation, mask)
    found = got(scene, points, np.tile(UP, (3, 1)), 32768)
    assert found == pytest.approx(wanted, rel=0.015, abs=0.3)


def test_flux_through_an_opening_arrives() -> None:
    """5.3: what enters by a roof opening is what floor and walls receive directly."""
    sky = core.sky.cie_sky(1, 60.0, 180.0, 10_000.0, ground_albedo=0.0)
    scene = room((0.25, 0.75, 0.25, 0.75), None)
    scene.add_source(SkySource("sky", sky))
    n = 16
    s = (np.arange(n) + 0.5) / n
    a, b = (g.ravel() for g in np.meshgrid(s, s))
    flux = 0.0
    floor = np.stack([a * SIDE, b * SIDE, np.full(n * n, 1e-3)], axis=1)
    flux += float(got(scene, floor, np.tile(UP, (n * n, 1)), 512).mean()) * SIDE**2
    # All four walls are alike.
    wall = np.stack([np.full(n * n, 1e-3), a * SIDE, b * HEIGHT], axis=1)
    flux += (
        4 * float(got(scene, wall, np.tile((1.0, 0, 0), (n * n, 1)), 512).mean()) * SIDE * HEIGHT
    )
    assert flux == pytest.approx(10_000 * 4.0, rel=0.01)
