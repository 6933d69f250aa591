"""What the denoiser is told of a mirror: what it shows, not its own flat colour."""

from __future__ import annotations

import numpy as np

from westlight.core import Material, Scene, View, render, sky, sources
from westlight.core.model import Texture

TINT = (0.9, 0.8, 0.6)
FACES = [[0, 1, 2], [0, 2, 3]]


def _seen(roughness: float) -> tuple[np.ndarray, np.ndarray]:
    """Albedo and normals of a picture that a mirror fills, with a wall of two greys behind the camera."""
    scene = Scene()
    mirror = Material(TINT, roughness=roughness, metallic=1.0)
    scene.add_mesh([[-9, 3, -9], [9, 3, -9], [9, 3, 9], [-9, 3, 9]], FACES, mirror)
    for x, grey in ((-9, 0.2), (0, 0.6)):
        corners = [[x, -3, -9], [x, -3, 9], [x + 9, -3, 9], [x + 9, -3, -9]]
        scene.add_mesh(corners, FACES, Material(grey), f"wall {x}")
    return _traced(scene, 4)


def _traced(scene: Scene, samples: int) -> tuple[np.ndarray, np.ndarray]:
    scene.add_source(sources.SkySource("sky", sky.cie_sky(5, 40.0)))
    view = View((0, 0, 0), (0, 3, 0), focal_length_mm=50, width_px=64, height_px=36)
    film = render(scene, view, samples=samples, bounces=4)
    return film.output_pass("albedo"), film.output_pass("normal")


def test_a_mirror_is_told_of_by_what_it_shows() -> None:
    """In the mirror's colour, with a sharp edge; its normal and place stay its own."""
    albedo, normal = _seen(0.0)
    for half, grey in ((np.s_[:, 2:30], 0.2), (np.s_[:, 34:62], 0.6)):
        np.testing.assert_allclose(albedo[half].mean(axis=(0, 1)), grey * np.array(TINT), rtol=0.02)
    assert albedo[:, 2:30].std(axis=(0, 1)).max() < 0.02
    np.testing.assert_allclose(normal.mean(axis=(0, 1)), [0, -1, 0], atol=0.01)


def test_brushed_metal_keeps_its_own_colour() -> None:
    """What it mirrors is blurred: an edge in the guide would be drawn where the picture has none."""
    albedo, _ = _seen(0.3)
    np.testing.assert_allclose(albedo.mean(axis=(0, 1)), TINT, rtol=0.02)


def test_a_mirror_in_a_mirror() -> None:
    """Two mirrors at half a right angle, as in a periscope: the colours of both on what the second shows."""
    scene = Scene()
    mirror = Material(TINT, roughness=0.0, metallic=1.0)
    scene.add_mesh([[-2, 1, -2], [2, 5, -2], [2, 5, 2], [-2, 1, 2]], FACES, mirror, "first")
    scene.add_mesh([[4, -1, -5], [14, 9, -5], [14, 9, 5], [4, -1, 5]], FACES, mirror, "second")
    scene.add_mesh(
        [[-40, 20, -40], [40, 20, -40], [40, 20, 40], [-40, 20, 40]], FACES, Material(0.5)
    )
    albedo, normal = _traced(scene, 64)
    np.testing.assert_allclose(
        albedo[10:26, 24:40].mean(axis=(0, 1)), 0.5 * np.array(TINT) ** 2, rtol=0.03
    )
    np.testing.assert_allclose(normal[18, 32], [0.5**0.5, -(0.5**0.5), 0], atol=0.02)


def test_a_mirror_shows_fine_patterns() -> None:
    """Stripes that the reduced pictures of bounced light no longer hold are seen in a mirror."""
    stripes = np.zeros((1024, 1024, 4), np.uint8)
    stripes[:, :, 3] = 255
    stripes[:, np.arange(1024) % 8 < 4, :3] = 255
    wall = Material(1.0, base_texture=Texture("stripes", stripes, srgb=False))
    scene = Scene()
    mirror = Material(TINT, roughness=0.0, metallic=1.0)
    scene.add_mesh([[-9, 0.25, -9], [9, 0.25, -9], [9, 0.25, 9], [-9, 0.25, 9]], FACES, mirror)
    corners = [[-4, -0.25, -4], [-4, -0.25, 4], [4, -0.25, 4], [4, -0.25, -4]]
    scene.add_mesh(corners, FACES, wall, "wall", uvs=[[0, 0], [0, 1], [1, 1], [1, 0]])
    scene.add_source(sources.SkySource("sky", sky.cie_sky(5, 40.0)))
    view = View((0, 0, 0), (0, 3, 0), focal_length_mm=100, width_px=128, height_px=8)
    film = render(scene, view, samples=16, bounces=2)
    row = film.output_pass("albedo")[4, :, 1]
    assert row.max() > 0.9 * TINT[1]
    assert row.min() < 0.1
