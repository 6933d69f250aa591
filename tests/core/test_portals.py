"""Window portals: the same light with less noise, closure and gain, and skies seen through them."""

from __future__ import annotations

import numpy as np
import pytest

from westlight import core
from westlight.core.analysis import doubt_of, find_openings, side_of
from westlight.core.transport.portals import Portal
from westlight.core.transport.render import irradiance_at

from .shapes import lux, uniform_sky

Array = np.ndarray


def room(
    portal: bool, sky: object = None, reflectance: float = 0.4, **portal_kw: float
) -> core.Scene:
    """A room 4 × 5 × 3 m with one window of 1.2 × 1 m in its wall towards y = 0, 0.2 m thick."""
    scene = core.Scene()
    m = core.Material(reflectance)
    for low, high in (
        ((0, 0, -0.2), (4, 5, 0)), ((0, 0, 3), (4, 5, 3.2)),
        ((-0.2, 0, 0), (0, 5, 3)), ((4, 0, 0), (4.2, 5, 3)), ((0, 5, 0), (4, 5.2, 3)),
        ((-0.2, -0.2, -0.2), (1.4, 0, 3.2)), ((2.6, -0.2, -0.2), (4.2, 0, 3.2)),
        ((1.4, -0.2, -0.2), (2.6, 0, 1.0)), ((1.4, -0.2, 2.0), (2.6, 0, 3.2)),
    ):  # fmt: skip
        _block(scene, low, high, m)
    scene.add_source(uniform_sky() if sky is None else sky)  # type: ignore[arg-type]
    if portal:
        scene.add_portal((2.0, -0.1, 1.5), (0, 1, 0), 1.2, 1.0, **portal_kw)
    return scene


def _block(
    scene: core.Scene, low: tuple[float, ...], high: tuple[float, ...], m: core.Material
) -> None:
    from .shapes import box

    box(scene, low, high, m)


POINTS = np.array([[2, 1, 0.01], [1, 3, 0.01], [3, 4.5, 0.8]], float)
UPS = np.tile([[0.0, 0.0, 1.0]], (3, 1))


@pytest.mark.parametrize("kind", ["even", "clear", "overcast", "picture"])
@pytest.mark.parametrize("bounces", [0, 4])
def test_portal_does_not_change_the_mean(kind: str, bounces: int) -> None:
    """The same illuminance with and without, for every kind of sky."""
    picture = np.random.default_rng(3).uniform(0.2, 5, (32, 64, 3)) ** 3
    skies = {
        "even": lambda: uniform_sky(),
        "clear": lambda: core.sources.SkySource("sky", core.sky.clear_sky(25.0, 200.0)),
        "overcast": lambda: core.sources.SkySource("sky", core.sky.cie_sky(1, 30.0)),
        "picture": lambda: core.sources.HdriSource("sky", picture),
    }
    found = [
        lux(core.irradiance(room(p, skies[kind]()), POINTS, UPS, samples=n, bounces=bounces))
        for p, n in ((False, 600_000 // (1 + bounces)), (True, 20_000))
    ]
    assert found[1] == pytest.approx(found[0], rel=0.06)


def test_even_sky_through_a_portal_is_a_lit_rectangle() -> None:
    """L = 1 through a hole without thickness: the configuration factor of the opening."""
    scene = core.Scene()
    m = core.Material(0.0)
    for low, high in (
        ((-5, 0, -1), (1.4, 0.001, 4)), ((2.6, 0, -1), (9, 0.001, 4)),
        ((1.4, 0, -1), (2.6, 0.001, 1)), ((1.4, 0, 2), (2.6, 0.001, 4)),
        ((-5, 0, 4), (9, 9, 4.001)), ((-5, 9, -1), (9, 9.001, 4)),
        ((-5, 0, -1), (-4.999, 9, 4)), ((9, 0, -1), (9.001, 9, 4)), ((-5, 0, -1), (9, 9, -0.999)),
    ):  # fmt: skip
        _block(scene, low, high, m)
    scene.add_source(uniform_sky())
    scene.add_portal((2, 0, 1.5), (0, 1, 0), 1.2, 1.0)
    lamp = core.Scene()
    lamp.add_source(core.sources.Rectangle("r", (2, 0, 1.5), (0, 1, 0), 1.2, 1.0,
                                           luminance_cd_m2=1.0))  # fmt: skip
    a = lux(core.irradiance(scene, POINTS, UPS, samples=4096, bounces=0))
    b = lux(core.irradiance(lamp, POINTS, UPS, samples=4096, bounces=0))
    assert a == pytest.approx(b, rel=0.01)


def test_portal_cuts_the_noise() -> None:
    """Variance of direct sky light in a room with one window: at least twenty times less."""

    def variance(portal: bool) -> float:
        assembled = room(
            portal, core.sources.SkySource("sky", core.sky.cie_sky(1, 30.0))
        ).assembled()
        values = [
            lux(irradiance_at(assembled, POINTS[1:2], UPS[:1], samples=8, seed=s, bounces=0))[0, 0]
            for s in range(200)
        ]
        return float(np.var(values))

    assert variance(False) > 20 * variance(True)


def test_closure_keeps_the_light_of_a_missing_wall_out() -> None:
    """With the far wall gone, a closed room is lit as if it were whole; an open one is not."""

    def lit(closed: bool, wall: bool) -> Array:
        scene = core.Scene()
        whole = room(True)
        scene.sources, scene.portals = whole.sources, whole.portals
        for i, part in enumerate(whole.parts):
            if wall or i != 4:
                scene.add_part(part)
        scene.closed = closed
        return lux(core.irradiance(scene, POINTS, UPS, samples=8192, bounces=0))

    whole = lit(False, True)
    assert lit(True, True) == pytest.approx(whole, rel=0.03)
    assert lit(True, False) == pytest.approx(whole, rel=0.03)
    assert (lit(False, False) > 1.5 * whole).any()


def test_gain_multiplies_what_comes_through() -> None:
    """A portal gain of 3: three times the direct light, sun and sky alike."""
    for source in (uniform_sky(), core.sources.Sun("sun", 180, 35, normal_illuminance_lx=1000)):
        plain = lux(core.irradiance(room(True, source), POINTS, UPS, samples=4096, bounces=0))
        more = lux(
            core.irradiance(room(True, source, gain=3.0), POINTS, UPS, samples=4096, bounces=0)
        )
        assert more == pytest.approx(3 * plain, rel=0.03)


def test_portal_outside_and_backwards_is_harmless() -> None:
    """A portal that faces out changes noise at most, never the light."""
    right = lux(core.irradiance(room(True), POINTS, UPS, samples=32768, bounces=2))
    scene = room(False)
    scene.add_portal((2.0, -0.1, 1.5), (0, -1, 0), 1.2, 1.0)
    wrong = lux(core.irradiance(scene, POINTS, UPS, samples=60000, bounces=2))
    assert wrong == pytest.approx(right, rel=0.05)


@pytest.mark.parametrize(
    "bad", [{"width": 0.0}, {"height": -1.0}, {"inward": (0, 0, 0)}, {"gain": -1}]
)
def test_impossible_portals_are_refused(bad: dict[str, object]) -> None:
    """A named error says what the portal needs."""
    good: dict[str, object] = {
        "position": (0, 0, 0),
        "inward": (0, 1, 0),
        "width": 1.0,
        "height": 1.0,
    }
    with pytest.raises(core.errors.SourceError, match="portal"):
        core.Scene().add_portal(**{**good, **bad})  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("inward", "name", "north", "group", "azimuth"),
    [
        ((-1, 0, 0), "Opening 1", 0.0, "East windows", 270.0),
        ((0, 1, 0), "Opening 2", 0.0, "South windows", 0.0),
        ((0, 1, 0), "Opening 2", 90.0, "West windows", 90.0),
        ((1, 0, 0), "Doorway 1", 12.0, "West doorways", 102.0),
        ((0, -0.8, -0.6), "Opening 3", 0.0, "North roof lights", 180.0),
        ((0, 0, -1), "Opening 4", 40.0, "Roof lights", None),
    ],
)
def test_openings_are_named_after_the_side_they_are_on(
    inward: tuple[float, float, float], name: str, north: float, group: str, azimuth: float | None
) -> None:
    found = side_of(Portal((0, 0, 0), inward, 1.0, 1.0, name=name), north)
    assert found == (group, azimuth if azimuth is None else pytest.approx(azimuth))


def _walled(closed_by: core.Material | None) -> core.Scene:
    """A room of 4 × 4 × 3 m with a hole of 2 × 2 m in its east wall, closed by a sheet or not."""
    scene = core.Scene()
    for quad_ in (
        [[0, 0, 0], [4, 0, 0], [4, 4, 0], [0, 4, 0]], [[0, 0, 3], [4, 0, 3], [4, 4, 3], [0, 4, 3]],
        [[0, 0, 0], [0, 4, 0], [0, 4, 3], [0, 0, 3]], [[0, 0, 0], [4, 0, 0], [4, 0, 3], [0, 0, 3]],
        [[0, 4, 0], [4, 4, 0], [4, 4, 3], [0, 4, 3]], [[4, 0, 0], [4, 1, 0], [4, 1, 3], [4, 0, 3]],
        [[4, 3, 0], [4, 4, 0], [4, 4, 3], [4, 3, 3]], [[4, 1, 2.5], [4, 3, 2.5], [4, 3, 3], [4, 1, 3]],
        [[4, 1, 0], [4, 3, 0], [4, 3, 0.5], [4, 1, 0.5]],
    ):  # fmt: skip
        scene.add_mesh(quad_, [[0, 1, 2], [0, 2, 3]], core.Material(0.5), "wall")
    if closed_by is not None:
        pane = [[4, 1, 0.5], [4, 3, 0.5], [4, 3, 2.5], [4, 1, 2.5]]
        scene.add_mesh(pane, [[0, 1, 2], [0, 2, 3]], closed_by, "pane")
    return scene


@pytest.mark.parametrize(
    ("inward", "pane", "said"),
    [
        ((-1, 0, 0), None, None),
        ((1, 0, 0), None, "outdoors"),
        ((-1, 0, 0), core.Material(0.3), "closes it"),
        ((-1, 0, 0), core.Material(1.0, transmission=1.0, ior=1.52), None),
    ],
)
def test_an_opening_that_is_no_way_in_says_so(
    inward: tuple[float, float, float], pane: core.Material | None, said: str | None
) -> None:
    portal = Portal((4.0, 2.0, 1.5), inward, 2.0, 2.0, name="Opening 1")
    found = doubt_of(portal, _walled(pane).assembled().top)
    assert found is None if said is None else found is not None and said in found


@pytest.mark.parametrize("roughness", [1.0, 0.2])
def test_light_by_a_way_without_a_portal_is_not_lost_nor_gained(roughness: float) -> None:
    """Two like windows, one of them unknown: the unknown one gives as much as with a portal of its own."""
    floor = core.Material(0.5, roughness=roughness)

    def light(portals: int) -> np.ndarray:
        scene = _walled(None)
        # The west wall gets a hole like the east wall's, by leaving it out: the room is symmetric.
        scene.parts = [p for p in scene.parts if not (p.mesh.vertices[:, 0] == 0).all()]
        for corners in (
            [[0, 0, 0], [0, 1, 0], [0, 1, 3], [0, 0, 3]], [[0, 3, 0], [0, 4, 0], [0, 4, 3], [0, 3, 3]],
            [[0, 1, 2.5], [0, 3, 2.5], [0, 3, 3], [0, 1, 3]], [[0, 1, 0], [0, 3, 0], [0, 3, 0.5], [0, 1, 0.5]],
        ):  # fmt: skip
            scene.add_mesh(corners, [[0, 1, 2], [0, 2, 3]], core.Material(0.5), "wall")
        scene.parts = scene.parts[1:]
        scene.add_mesh(
            [[0, 0, 0], [4, 0, 0], [4, 4, 0], [0, 4, 0]], [[0, 1, 2], [0, 2, 3]], floor, "floor"
        )
        scene.add_source(uniform_sky(100.0))
        for n, (x, way) in enumerate(((4.0, -1.0), (0.0, 1.0))):
            if n < portals:
                scene.add_portal((x, 2.0, 1.5), (way, 0, 0), 2.0, 2.0)
        view = core.View((2, 0.4, 1.6), (2, 2.2, 0.4), 18, 24, 16)
        return lux(core.render(scene, view, samples=1024, bounces=1, seed=4).beauty)

    none, one, both = (light(n) for n in range(3))
    assert one.mean() == pytest.approx(both.mean(), rel=0.01)
    assert none.mean() == pytest.approx(both.mean(), rel=0.01)
    # Left and right alike: nothing of it came from the wrong side.
    left, right = one[:, :12].mean(), one[:, 12:].mean()
    assert left == pytest.approx(both[:, :12].mean(), rel=0.02)
    assert right == pytest.approx(both[:, 12:].mean(), rel=0.02)


CORNERS = [
    ([0.05, 2, 0.01], [0, 0, 1]), ([2, 0.3, 0.01], [0, 0, 1]), ([3.99, 2, 2.95], [-1, 0, 0]),
    ([2, 4.99, 2.9], [0, -1, 0]), ([3.9, 4.9, 1], [-1, 0, 0]), ([1.41, -0.05, 1.5], [1, 0, 0]),
]  # fmt: skip


def test_no_corner_of_a_room_is_noisy_because_a_wall_cuts_its_cell() -> None:
    """Places by the floor, the ceiling and in the reveal: single samples of direct sky light stay near
    their mean, whichever side of a wall the grid's cells also hold."""
    n = 1200
    places = np.array([c[0] for c in CORNERS], float)
    normals = np.array([c[1] for c in CORNERS], float)
    found = irradiance_at(
        room(True).assembled(), np.repeat(places, n, 0), np.repeat(normals, n, 0), samples=1,
        seed=3, bounces=0,
    )[:, 0, 1].reshape(len(places), n)  # fmt: skip
    seen = found.mean(axis=1) > 0
    spread = found[seen].var(axis=1) / found[seen].mean(axis=1) ** 2
    assert seen.sum() >= 4
    assert spread.max() < 6.0


def test_ways_out_that_are_built_up_are_seldom_drawn() -> None:
    """A wall stands before the lower half of a window: with it few samples are lost, and none of the
    light that comes over it."""
    scene = room(True)
    _block(scene, (-20, -3.2, -0.2), (24, -3.0, 1.5), core.Material(0.0))
    portals = scene.assembled().portals
    # Along the map's height level ways lie in the middle; a little below them stands the wall.
    ahead = portals.outside[0, 64]
    assert ahead[48:54].max() < 0.5 < ahead[80:120].min()
    without = room(False)
    _block(without, (-20, -3.2, -0.2), (24, -3.0, 1.5), core.Material(0.0))
    a, b = (
        lux(core.irradiance(s, POINTS, UPS, samples=n, bounces=0))
        for s, n in ((scene, 20_000), (without, 200_000))
    )
    assert a == pytest.approx(b, rel=0.06)


def test_large_openings_are_cut_into_panes_that_cover_them() -> None:
    scene = room(False)
    scene.add_portal((2.0, -0.1, 1.5), (0, 1, 0), 3.6, 2.4)
    scene.add_portal((0.0, 2.0, 1.5), (1, 0, 0), 0.4, 0.5)
    panes = scene.assembled().portals.panes
    of_first = panes[panes[:, 0] == 0]
    area = ((panes[:, 2] - panes[:, 1]) * (panes[:, 4] - panes[:, 3])).sum()
    assert len(of_first) == 6
    assert len(panes) == 7
    assert area == pytest.approx(3.6 * 2.4 + 0.4 * 0.5, rel=1e-5)


def test_a_house_of_many_windows_has_no_more_panes_than_the_grid_can_hold() -> None:
    scene = room(False)
    for i in range(40):
        scene.add_portal((i * 3.0, -0.1, 1.5), (0, 1, 0), 2.5, 2.5)
    panes = scene.assembled().portals.panes
    assert set(panes[:, 0].astype(int)) == set(range(40))
    assert len(panes) <= 64


def test_gaps_beside_a_pane_belong_to_its_opening() -> None:
    """A pane 10 cm smaller on each side than its hole: the portal is the hole, within the search's step."""
    scene = _walled(None)
    glass = core.Material(1.0, transmission=1.0, ior=1.52)
    corners = [[4, 1.1, 0.6], [4, 2.9, 0.6], [4, 2.9, 2.4], [4, 1.1, 2.4]]
    scene.add_mesh(corners, [[0, 1, 2], [0, 2, 3]], glass, "pane")
    found = find_openings(scene.parts, scene.assembled().top)
    assert [(round(p.width, 1), round(p.height, 1)) for p in found] == [(2.0, 2.0)]
    tight = _walled(glass)
    snug = find_openings(tight.parts, tight.assembled().top)
    assert [(p.width, p.height) for p in snug] == [(pytest.approx(2.0), pytest.approx(2.0))]
