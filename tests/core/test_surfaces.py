"""Glass, cut-outs, painted and textured surfaces, blockers, and the passes of first surfaces."""

from __future__ import annotations

import math

import numpy as np
import pytest
import trimesh

from westlight import core
from westlight.core.colour import srgb_encode
from westlight.core.sources import Disc, Rectangle, Sphere, Sun
from westlight.core.transport.film import Accumulator
from westlight.core.transport.render import PassRun

from .shapes import box, lux, quad, uniform_sky

UP = [[0.0, 0.0, 1.0]]


@pytest.mark.parametrize(("subdivisions", "rounded"), [(4, False), (2, True)])
def test_refracting_ball_loses_nothing(subdivisions: int, rounded: bool) -> None:
    """Clear glass in an even sky cannot be seen, however its faces bend the light."""
    scene = core.Scene()
    ball = trimesh.creation.icosphere(subdivisions=subdivisions)
    glass = core.Material(1.0, transmission=1.0, ior=1.52, sheet=False, clear_path=False)
    scene.add_mesh(ball.vertices, ball.faces, glass, normals=ball.vertices if rounded else None)
    scene.add_source(uniform_sky())
    view = core.View((0, -4, 0), (0, 0, 0), focal_length_mm=80, width_px=32, height_px=24)
    film = core.render(scene, view, samples=64)
    # What is lost has been mirrored inside more often than a path follows it.
    assert float(lux(film.beauty).mean()) == pytest.approx(1.0, abs=0.01)


def _ball_before_stripes(subdivisions: int, rounded: bool) -> np.ndarray:
    """Luminance of a glass ball of so many facets before glowing stripes, with or without rounded normals."""
    scene = core.Scene()
    mesh = trimesh.creation.icosphere(subdivisions=subdivisions)
    glass = core.Material(1.0, transmission=1.0, ior=1.5, sheet=False, clear_path=False)
    scene.add_mesh(
        mesh.vertices, mesh.faces, glass, normals=mesh.vertices * 1.0 if rounded else None
    )
    for i in range(-4, 5):
        scene.add_source(
            Rectangle(f"stripe {i}", (0.8 * i, 3, 0), (0, -1, 0), 0.4, 8, luminance_cd_m2=100)
        )
    view = core.View((0, -6, 0), (0, 0, 0), 70, 48, 48)
    return lux(core.render(scene, view, samples=64, bounces=1).beauty)


def test_a_round_body_of_glass_is_round_whatever_its_facets() -> None:
    """With rounded normals a coarse ball shows what a fine one shows; by its flat faces it shows facets."""
    fine = _ball_before_stripes(5, True)
    smooth, flat = (
        np.abs(_ball_before_stripes(2, rounded) - fine).mean() for rounded in (True, False)
    )
    assert fine.std() > 20
    assert smooth < 0.5 * flat


def test_refraction_bends_by_snell() -> None:
    """Seen through a slab at 45°, a spot shifts by t·sin(θ−θ')/cosθ'."""
    n, thick = 1.5, 1.0
    scene = core.Scene()
    glass = core.Material(1.0, transmission=1.0, ior=n, sheet=False, clear_path=False)
    box(scene, (-9, -9, 0), (9, 9, thick), glass)
    # Straight through, the ray would meet the floor at x = 1 + 2; the slab shifts it back.
    inner = math.asin(math.sin(math.pi / 4) / n)
    x = 1.0 + thick * math.tan(inner) + 1.0
    scene.add_source(Disc("d", (x, 0, -1), (0, 0, 1), 0.05, luminance_cd_m2=1000))
    view = core.View((0, 0, 2), (1, 0, 1), focal_length_mm=2000, width_px=8, height_px=6)
    assert float(lux(core.render(scene, view, samples=16).beauty)[3, 4]) > 700


def test_solid_glass_absorbs_by_thickness() -> None:
    """Beer–Lambert: twice the colour after twice the way, faces apart."""
    through = {}
    for thick in (0.5, 1.0):
        scene = core.Scene()
        glass = core.Material(1.0, transmission=1.0, ior=1.0001, sheet=False, clear_path=False,
                              attenuation=(0.5, 0.5, 0.5), attenuation_m=0.5)  # fmt: skip
        box(scene, (-9, -9, 0), (9, 9, thick), glass)
        scene.add_source(uniform_sky())
        view = core.View((0, 0, 3), (0, 0.001, 0), focal_length_mm=500, width_px=8, height_px=6)
        through[thick] = float(lux(core.render(scene, view, samples=16).beauty).mean())
    assert through[0.5] == pytest.approx(0.5, rel=0.01)
    assert through[1.0] == pytest.approx(0.25, rel=0.01)


def _lattice(share: float = 0.5) -> core.Texture:
    """Alpha in stripes: opaque over a share of the width."""
    pixels = np.full((4, 64, 4), 255, np.uint8)
    pixels[:, int(64 * share) :, 3] = 0
    return core.Texture("lattice", pixels, srgb=True)


def _screen(scene: core.Scene, z: float, **kw: object) -> None:
    material = core.Material(0.0, base_texture=_lattice(), **kw)  # type: ignore[arg-type]
    points = [[-40, -40, z], [40, -40, z], [40, 40, z], [-40, 40, z]]
    uvs = [[0, 0], [3000, 0], [3000, 3000], [0, 3000]]
    scene.add_mesh(points, [[0, 1, 2], [0, 2, 3]], material, "screen", uvs=uvs)


def test_cutout_lets_half_of_the_light_through() -> None:
    """A lattice half holes: half the sky, half the wide sun; without holes none."""
    for source in (uniform_sky(), Sun("sun", 180, 60, normal_illuminance_lx=1000, size=20)):
        lit = {}
        for kind in ("none", "holes", "solid"):
            scene = core.Scene()
            if kind != "none":
                _screen(scene, 1.0, cutout=0.5 if kind == "holes" else None)
            scene.add_source(source)
            lit[kind] = float(lux(core.irradiance(scene, [[0.02, 0, 0]], UP, samples=4096,
                                                  bounces=0))[0])  # fmt: skip
        assert lit["holes"] == pytest.approx(lit["none"] / 2, rel=0.06)
        assert lit["solid"] < 0.05 * lit["none"]


def test_camera_sees_through_holes() -> None:
    """The alpha pass and the light behind a lattice are those of its holes."""
    scene = core.Scene()
    _screen(scene, 0.0, cutout=0.5)
    scene.add_source(uniform_sky())
    view = core.View((0, 0, 5), (0, 0.001, 0), focal_length_mm=30, width_px=32, height_px=24)
    film = core.render(scene, view, samples=32)
    assert float(film.output_pass("alpha").mean()) == pytest.approx(0.5, abs=0.02)
    assert float(lux(film.beauty).mean()) == pytest.approx(0.5, abs=0.02)


def test_copies_of_cutouts_and_solids_keep_their_materials() -> None:
    """A mesh of solid and holed faces, placed twice: each face still knows what it is."""
    from westlight.core.model.parts import Mesh, Part

    vertices = np.array([[-1, -1, 0], [1, -1, 0], [1, 1, 0], [-1, 1, 0]] * 2, np.float32)
    vertices[4:, 0] += 2.5
    holed = core.Material(0.2, base_texture=_lattice(0.999), cutout=0.5)
    mesh = Mesh("pair", vertices, np.array([[0, 1, 2], [0, 2, 3], [4, 5, 6], [4, 6, 7]]),
                [holed, core.Material(0.8)], np.array([0, 0, 1, 1], np.int32),
                uvs=np.tile(np.array([[0, 0], [1, 0], [1, 1], [0, 1]], np.float32), (2, 1)))  # fmt: skip
    scene = core.Scene()
    for y in (0.0, 5.0):
        matrix = np.eye(4)
        matrix[1, 3] = y
        scene.add_part(Part(f"copy {y}", mesh, matrix))
    scene.add_source(uniform_sky())
    view = core.View(
        (1.25, 2.5, 20), (1.25, 2.501, 0), focal_length_mm=60, width_px=48, height_px=36
    )
    film = core.render(scene, view, samples=8, bounces=0, passes=["objects", "materials"])
    objects, materials = film.output_pass("objects"), film.output_pass("materials")
    assert set(np.unique(objects[..., 0, 0])) == {0.0, 1.0, 2.0}
    picture = lux(film.beauty)
    dark = picture[(materials[..., 0, 0] == 1) & (materials[..., 0, 1] > 0.99)]
    light = picture[(materials[..., 0, 0] == 2) & (materials[..., 0, 1] > 0.99)]
    assert float(light.mean()) == pytest.approx(0.8, abs=0.03)
    assert float(dark.mean()) == pytest.approx(0.2, abs=0.03)


def test_vertex_colours_tint() -> None:
    """A painted floor reflects its corner colours, mixed between them."""
    scene = core.Scene()
    points = [[-2, -2, 0], [2, -2, 0], [2, 2, 0], [-2, 2, 0]]
    colours = [[0, 0, 0], [1, 1, 1], [1, 1, 1], [0, 0, 0]]
    scene.add_mesh(points, [[0, 1, 2], [0, 2, 3]], core.Material(0.8, vertex_colours=True),
                   colours=colours)  # fmt: skip
    scene.add_source(uniform_sky())
    view = core.View((0, 0, 5), (0, 0.001, 0), focal_length_mm=60, width_px=40, height_px=24)
    picture = lux(core.render(scene, view, samples=32, bounces=0).beauty)
    x = (np.arange(40) + 0.5) / 40 * 3.0 - 1.5  # 36 mm at 60 mm from 5 m away
    assert picture[12] == pytest.approx(0.8 * (x + 2) / 4, abs=0.03)


def test_light_that_bounces_off_a_fine_pattern_is_that_of_its_mean() -> None:
    """A chequered floor of black and white squares lights a ceiling as an even one of half the reflectance."""
    squares = np.indices((512, 512)).sum(axis=0) % 2 * 255
    pixels = np.full((512, 512, 4), 255, np.uint8)
    pixels[..., :3] = squares[..., None]
    found = []
    for material in (
        core.Material(1.0, base_texture=core.Texture("squares", pixels, srgb=True)),
        core.Material(0.5),
    ):
        scene = core.Scene()
        points = [[-8, -8, 0], [8, -8, 0], [8, 8, 0], [-8, 8, 0]]
        uvs = [[0, 0], [8, 0], [8, 8], [0, 8]]
        scene.add_mesh(points, [[0, 1, 2], [0, 2, 3]], material, uvs=uvs)
        scene.add_source(Sun("sun", 180, 60, normal_illuminance_lx=1000))
        down = [[0.0, 0.0, -1.0]]
        found.append(float(lux(core.irradiance(scene, [[0.03, 0, 1]], down, samples=2048))[0]))
    # Form factor of the floor: nearly all a place facing down sees.
    assert found[1] == pytest.approx(0.5 * 1000 * math.sin(math.radians(60)), rel=0.03)
    assert found[0] == pytest.approx(found[1], rel=0.01)


#: Brightness of a picture of four columns, dark on the left, over u from −2 to 3: what each way on shows.
ONWARD = {
    "repeat": lambda u: u % 1.0,
    "clamp": lambda u: np.clip(u, 0.0, 1.0),
    "mirror": lambda u: 1.0 - np.abs(1.0 - u % 2.0),
}


@pytest.mark.parametrize("down", [False, True])
@pytest.mark.parametrize("wrap", list(ONWARD))
def test_a_picture_goes_on_beyond_its_edges_as_told(wrap: str, down: bool) -> None:
    """A floor with u (or v) from −2 to 3 shows the picture again and again, its edge drawn out, or mirrored in turn."""
    steps = np.array([0.1, 0.3, 0.5, 0.7])
    pixels = np.full((4, 4, 4), 255, np.uint8)
    encoded = np.round(255 * srgb_encode(steps))[:, None]
    pixels[..., :3] = encoded[:, None] if down else encoded
    both = ("repeat", wrap) if down else (wrap, "repeat")
    paint = core.Texture("steps", pixels, srgb=True, wrap=both)  # type: ignore[arg-type]
    scene = core.Scene()
    uvs = np.array([[-2, 0.1], [3, 0.1], [3, 0.1], [-2, 0.1]])
    points = [[-2, -2, 0], [2, -2, 0], [2, 2, 0], [-2, 2, 0]]
    scene.add_mesh(points, [[0, 1, 2], [0, 2, 3]], core.Material(1.0, base_texture=paint),
                   uvs=uvs[:, ::-1] if down else uvs)  # fmt: skip
    scene.add_source(uniform_sky())
    view = core.View((0, 0, 5), (0, 0.001, 0), focal_length_mm=60, width_px=200, height_px=4)
    seen = lux(core.render(scene, view, samples=64, bounces=0).beauty)[2]
    x = (np.arange(200) + 0.5) / 200 * 3.0 - 1.5
    at = ONWARD[wrap]((x + 2) / 4 * 5 - 2)
    # Between middles of pixels the values blend; across the seam of a repeated picture its two ends do.
    middles = (np.arange(-1, 5) + 0.5) / 4
    ends = [steps[3], steps[0]] if wrap == "repeat" else [steps[0], steps[3]]
    shown = np.interp(at, middles, [ends[0], *steps, ends[1]])
    assert seen == pytest.approx(shown, abs=0.02)


def test_a_label_with_holes_ends_at_its_edge() -> None:
    """A cut-out whose edge is clear and is drawn out covers its one field; repeated, it covers each."""
    pixels = np.zeros((8, 8, 4), np.uint8)
    pixels[2:6, 2:6, 3] = 255
    found = {}
    for wrap in ("clamp", "mirror", "repeat"):
        label = core.Texture("label", pixels, srgb=True, wrap=(wrap, wrap))  # type: ignore[arg-type]
        scene = core.Scene()
        points = [[-4, -4, 0], [4, -4, 0], [4, 4, 0], [-4, 4, 0]]
        uvs = [[-1, -1], [3, -1], [3, 3], [-1, 3]]
        scene.add_mesh(points, [[0, 1, 2], [0, 2, 3]],
                       core.Material(0.0, base_texture=label, cutout=0.5), uvs=uvs)  # fmt: skip
        view = core.View((0, 0, 5), (0, 0.001, 0), focal_length_mm=18, width_px=96, height_px=64)
        scene.add_source(uniform_sky())
        film = core.render(scene, view, samples=16)
        found[wrap] = float(film.output_pass("alpha").sum())
    assert found["clamp"] > 0
    assert found["mirror"] == pytest.approx(found["repeat"], rel=0.03)
    # The camera sees fields −1 to 2 across whole and parts of those below and above.
    assert found["repeat"] > 6 * found["clamp"]


def test_blocker_shades_unseen() -> None:
    """A card over a floor: its shadow is there, the card is not; a coloured one tints by bounce."""
    scene = core.Scene()
    quad(scene, 4, core.Material(0.5))
    points = [[-1, -1, 0.5], [1, -1, 0.5], [1, 1, 0.5], [-1, 1, 0.5]]
    scene.add_mesh(points, [[0, 1, 2], [0, 2, 3]], core.Material(0.0), "card", blocker=True)
    scene.add_source(Sun("sun", 180, 90, normal_illuminance_lx=1000))
    view = core.View((0, 0, 6), (0, 0.001, 0), focal_length_mm=24, width_px=40, height_px=30)
    picture = lux(core.render(scene, view, samples=16, bounces=0).beauty)
    assert picture[15, 20] == 0.0
    assert picture[15, 8] == pytest.approx(500 / math.pi, rel=0.01)
    film = core.render(scene, view, samples=16, bounces=0)
    assert film.output_pass("depth")[15, 20] == pytest.approx(6.0, abs=0.02)


def test_smooth_ball_has_no_dark_bands() -> None:
    """On a coarse ball with smooth normals the light falls off towards the edge of shadow without
    the steps its flat faces would make."""
    ball = trimesh.creation.icosphere(subdivisions=2)
    scene = core.Scene()
    scene.add_mesh(ball.vertices, ball.faces, core.Material(0.5), normals=ball.vertices)
    scene.add_source(Sun("sun", 90, 0, normal_illuminance_lx=1000))
    view = core.View((0, -6, 0), (0, 0, 0), focal_length_mm=100, width_px=64, height_px=48)
    picture = lux(core.render(scene, view, samples=16, bounces=0).beauty)
    row = picture[24]
    half = int(np.ceil(64 * 1.0 / (36 / 100 * 6 / 2)) / 2)
    x = (np.arange(64) - 31.5) / half
    inside = (x > 0.12) & (x < 0.9)
    wanted = 0.5 / math.pi * 1000 * x[inside]
    assert row[inside] == pytest.approx(wanted, abs=0.1 * wanted.max())


def test_direct_and_bounced_add_up() -> None:
    """Direct light alone is the picture with no bounces; the rest is bounced."""
    scene = core.Scene()
    box(scene, (0, 0, 0), (4, 4, 3), core.Material(0.6))
    scene.add_source(Disc("d", (2, 2, 2.9), (0, 0, -1), 0.3, luminous_flux_lm=900))
    view = core.View((0.5, 0.5, 1.5), (3, 3, 1), 24, 40, 30)
    film = core.render(scene, view, samples=64, bounces=3, seed=2)
    direct = core.render(scene, view, samples=64, bounces=0, seed=2)
    total = film.output_pass("direct") + film.output_pass("bounced")
    assert total == pytest.approx(film.beauty, rel=1e-5, abs=1e-5)
    assert float(lux(film.output_pass("direct")).mean()) == pytest.approx(
        float(lux(direct.beauty).mean()), rel=0.01
    )
    assert float(lux(film.output_pass("bounced")).mean()) > 0.2 * float(lux(direct.beauty).mean())


def _pane_before(behind_camera: float) -> core.Scene:
    """A clear sheet before an even sky of 1000 cd/m²; behind the camera a wall that shines."""
    scene = core.Scene()
    pane = core.Material(1.0, transmission=1.0, ior=1.52, sheet=True)
    scene.add_mesh([[-9, 2, -9], [9, 2, -9], [9, 2, 9], [-9, 2, 9]], [[0, 1, 2], [0, 2, 3]], pane)
    scene.add_source(uniform_sky(1000.0))
    scene.add_source(
        core.sources.Rectangle("wall", (0, -2, 0), (0, 1, 0), 60, 60, luminance_cd_m2=behind_camera)
    )
    return scene


def test_sky_behind_a_pane_does_not_speckle() -> None:
    """What goes through is the same in every sample: 1000 cd/m² less what the pane mirrors of it."""
    view = core.View((0, 0, 0), (0, 2, 0), 60, 32, 24)
    film = core.render(_pane_before(1e-6), view, samples=2, bounces=2)
    seen = lux(film.contribution("sky"))
    once = (0.52 / 2.52) ** 2
    # What the pane mirrors is no view of the outside.
    assert film.output_pass("outside").mean() == pytest.approx(1 - 2 * once / (1 + once), rel=0.005)
    assert seen.mean() == pytest.approx(1000 * (1 - 2 * once / (1 + once)), rel=0.005)
    assert seen.std() < 0.01 * seen.mean()


def test_a_pane_mirrors_what_stands_behind_the_camera() -> None:
    """Two faces and their echoes, of a wall of 1000 cd/m², told apart as reflection."""
    view = core.View((0, 0, 0), (0, 2, 0), 60, 32, 24)
    film = core.render(_pane_before(1000.0), view, samples=64, bounces=2, passes=["reflection"])
    once = (0.52 / 2.52) ** 2
    wanted = 1000 * 2 * once / (1 + once)
    assert lux(film.contribution("wall")).mean() == pytest.approx(wanted, rel=0.03)
    assert lux(film.output_pass("reflection")).mean() == pytest.approx(wanted, rel=0.03)


def test_clamp_says_what_it_took() -> None:
    """Picture plus removed light is the picture without a clamp; "auto" takes under 0.5 %."""
    scene = core.Scene()
    box(scene, (0, 0, 0), (4, 4, 3), core.Material(0.7, roughness=0.25))
    scene.add_source(Sphere("s", (2, 2, 2.5), 0.03, luminous_flux_lm=900))
    view = core.View((0.5, 0.5, 1.5), (3, 3, 1), 24, 48, 32)
    free = core.render(scene, view, samples=32, seed=1)
    hard = core.render(scene, view, samples=32, seed=1, clamp=20.0)
    auto = core.render(scene, view, samples=32, seed=1, clamp="auto")
    whole = float(lux(free.beauty).mean())
    taken = float(hard.output_pass("speckle").mean())
    assert taken > 0
    assert float(lux(hard.beauty).mean()) + taken == pytest.approx(whole, rel=1e-3)
    assert 0 < float(auto.output_pass("speckle").mean()) < 0.005 * whole * 1.5
    assert float(lux(auto.beauty).max()) <= float(lux(free.beauty).max())


def test_occlusion_of_a_corner() -> None:
    """In the angle of floor and wall half the cosine-weighted directions are blocked near it."""
    scene = core.Scene()
    quad(scene, 6, core.Material(0.5))
    wall = [[-6, 1, 0], [6, 1, 0], [6, 1, 6], [-6, 1, 6]]
    scene.add_mesh(wall, [[0, 1, 2], [0, 2, 3]], core.Material(0.5), "wall")
    scene.add_source(uniform_sky())
    view = core.View((0, 0, 4), (0, 0.001, 0), focal_length_mm=60, width_px=32, height_px=32)
    film = core.render(scene, view, samples=64, passes=["occlusion", "position"],
                       occlusion_radius_m=100.0)  # fmt: skip
    openness, place = film.output_pass("occlusion"), film.output_pass("position")
    # A point at distance d from a tall wide wall sees (1 + cos(90° − 0°))/2 … of it: E/E0 = ½(1 + d/√(d²+h²)).
    for row in (4, 16, 28):
        d = 1.0 - float(place[row, 16, 1])
        wanted = 0.5 * (1 + d / math.hypot(d, 6.0))
        assert float(openness[row].mean()) == pytest.approx(wanted, abs=0.03)


def test_cropped_rows_are_the_same_pixels() -> None:
    """A band rendered by itself holds the bits of the whole picture."""
    scene = core.Scene()
    quad(scene, 4, core.Material(0.5))
    scene.add_source(uniform_sky())
    view = core.View((0, -3, 2), (0, 0, 0), 24, 32, 24)
    whole = core.render(scene, view, samples=2).beauty
    part = core.render(scene, view, samples=2, rows=(8, 16)).beauty
    assert np.array_equal(part[8:16], whole[8:16])
    assert not part[:8].any()
    assert not part[16:].any()


@pytest.mark.parametrize("blades", [0, 6])
def test_blur_has_the_size_of_the_aperture(blades: int) -> None:
    """A point of light out of focus becomes a disc (or polygon) of the diameter f/N·|d−s|/s…"""
    scene = core.Scene()
    scene.add_source(Sphere("s", (0, 8, 0), 0.004, luminance_cd_m2=1e6))
    view = core.View((0, 0, 0), (0, 8, 0), focal_length_mm=50, width_px=200, height_px=120,
                     f_number=1.0, focus_m=4.0, blades=blades)  # fmt: skip
    picture = lux(core.render(scene, view, samples=64).beauty)
    lit = picture > 0.05 * picture.max()
    # Blur on the film: aperture · f · |d − s| / (d·s), in px of a 36 mm film.
    aperture_m = 0.05 / 1.0
    wide = aperture_m * (8 - 4) / (8 * 4) / (0.036 / 0.05 / 200)
    columns = np.nonzero(lit.any(axis=0))[0]
    assert np.ptp(columns) + 1 == pytest.approx(wide, abs=3.5)


def test_strange_scenes_give_sane_pictures() -> None:
    """Nothing at all, bad points, flat faces, a camera in a wall: never NaN, never a crash."""
    view = core.View((0, 0, 1), (1, 0, 1), 24, 16, 12)
    assert not core.render(core.Scene(), view, samples=1).beauty.any()
    scene = core.Scene()
    bad = [[0, 0, 0], [1, 0, 0], [math.nan, 1, 0], [1, 1, 0], [1, 1, 0], [1e30, 0, 0]]
    scene.add_mesh(bad, [[0, 1, 2], [0, 3, 4], [0, 1, 3], [0, 1, 5]], core.Material(0.5))
    box(scene, (-0.1, -0.1, 0.9), (0.1, 0.1, 1.1), core.Material(0.5))
    scene.add_source(uniform_sky())
    scene.add_source(Rectangle("r", (0, 0, 3), (0, 0, -1), 1, 1, luminous_flux_lm=0.0))
    assert np.isfinite(core.render(scene, view, samples=4).beauty).all()
    odd = np.random.default_rng(0).integers(0, 255, (7, 13, 4), dtype=np.uint8)
    textured = core.Scene()
    textured.add_mesh([[0, 0, 0], [1, 0, 0], [0, 1, 0]], [[0, 1, 2]],
                      core.Material(0.5, base_texture=core.Texture("odd", odd, True),
                                    normal_texture=core.Texture("odd", odd, False)),
                      uvs=[[0, 0], [-7.3, 1e6], [math.inf, 0]])  # fmt: skip
    textured.add_source(uniform_sky())
    over = core.View((0.2, 0.2, 2), (0.2, 0.21, 0), 24, 16, 12)
    assert np.isfinite(core.render(textured, over, samples=4).beauty).all()


def test_a_run_with_nothing_to_light_still_sees() -> None:
    """Without sources the guide is gathered all the same."""
    scene = core.Scene()
    quad(scene, 2, core.Material(0.25))
    view = core.View((0, 0, 3), (0, 0.001, 0), 60, 16, 12)
    film = core.render(scene, view, samples=2)
    assert film.output_pass("albedo")[6, 8] == pytest.approx([0.25] * 3, abs=1e-3)
    acc = Accumulator.empty(12, 16)
    scene.add_source(uniform_sky())
    PassRun(scene.assembled(), view, [0], [acc], upto=1).advance()
    assert acc.samples == 1
