"""The camera: roll, upright verticals."""

from __future__ import annotations

import numpy as np
import pytest

from westlight import core
from westlight.core import View


def seen_at(view: View, point: tuple[float, float, float]) -> tuple[float, float]:
    """Where a point of the world appears, in shares of the picture from its top left."""
    c = view.camera_array().astype(np.float64)
    way = np.asarray(point, float) - np.asarray(view.position, float)
    # way = k (c3 + c6 x + c9 y): three equations for k, k x, k y.
    k, kx, ky = np.linalg.solve(np.stack([c[3:6], c[6:9], c[9:12]], axis=1), way)
    return kx / k / view.width_px, ky / k / view.height_px


@pytest.mark.parametrize("upright", [False, True])
def test_roll_turns_about_the_middle(upright: bool) -> None:
    """The target stays in the middle; what is right of it sinks, so that the picture turns left."""
    level = View((0, -10, 2), (0, 0, 2.0), width_px=800, height_px=800, upright=upright)
    rolled = View((0, -10, 2), (0, 0, 2.0), width_px=800, height_px=800, upright=upright,
                  roll_deg=30.0)  # fmt: skip
    assert seen_at(rolled, (0, 0, 2)) == pytest.approx((0.5, 0.5), abs=1e-5)
    x, y = np.array(seen_at(level, (1, 0, 2))) - 0.5
    u, v = np.array(seen_at(rolled, (1, 0, 2))) - 0.5
    assert np.hypot(u, v) == pytest.approx(np.hypot(x, y), rel=1e-4)
    assert np.degrees(np.arctan2(v, u) - np.arctan2(y, x)) == pytest.approx(-30.0, abs=1e-3)


def test_upright_and_rolled_still_meets_its_target() -> None:
    """A shifted lens that is rolled as well keeps the target in the middle."""
    view = View(
        (0, -10, 1.6), (0, 0, 4.0), width_px=640, height_px=360, upright=True, roll_deg=12.0
    )
    assert seen_at(view, (0, 0, 4.0)) == pytest.approx((0.5, 0.5), abs=1e-5)
    foot, head = seen_at(view, (0, 0, 0.5)), seen_at(view, (0, 0, 6.0))
    lean = np.degrees(np.arctan2((head[0] - foot[0]) * 640, (foot[1] - head[1]) * 360))
    assert abs(lean) == pytest.approx(12.0, abs=0.01)


@pytest.mark.parametrize("f_number", [None, 2.0])
def test_a_wall_before_the_camera_is_cut_away(f_number: float | None) -> None:
    """Nearer than the cut it is not seen, by the film and by a click; it still casts its shadow."""
    scene = core.Scene()
    wall = [[-9, -4, -9], [9, -4, -9], [9, -4, 9], [-9, -4, 9]]
    back = [[-9, 2, -9], [9, 2, -9], [9, 2, 9], [-9, 2, 9]]
    scene.add_mesh(wall, [[0, 1, 2], [0, 2, 3]], core.Material(0.1), name="wall")
    scene.add_mesh(back, [[0, 1, 2], [0, 2, 3]], core.Material(0.9), name="back")
    scene.add_source(core.sources.Sphere("lamp", (0, -3, 0), 0.1, luminous_flux_lm=1000))
    blur = {} if f_number is None else {"f_number": f_number, "focus_m": 7.0}
    seen = {}
    for near in (0.0, 2.0):
        view = View((0, -5, 0), (0, 0, 0), width_px=32, height_px=32, near_m=near, **blur)
        film = core.render(scene, view, samples=4, bounces=0)
        seen[near] = film.output_pass("albedo")[16, 4].mean(), film.beauty[16, 4].mean()
        aside = np.hypot(1, 11.5 / 32 * 36 / 28)
        depth = aside * (5.0 if near else 1.0)
        assert film.output_pass("depth")[16, 4] == pytest.approx(depth, rel=0.03)
    assert seen[0.0] == pytest.approx((0.1, 0.0), abs=0.02)
    assert seen[2.0][0] == pytest.approx(0.9, abs=0.02)
    assert seen[2.0][1] > 0.3
