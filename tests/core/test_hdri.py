"""HDRI skies: what they give, how they are turned and graded, and the sun that is in them."""

from __future__ import annotations

import math
from pathlib import Path

import numpy as np
import pytest

from westlight import core
from westlight.core.errors import PictureFileError
from westlight.core.files import write_exr
from westlight.core.sky import Hdri
from westlight.core.sky.hdri import directions

from .shapes import lux

UP = [[0.0, 0.0, 1.0]]


def with_sun(azimuth: float, elevation: float, radius_deg: float = 3.0) -> Hdri:
    """An even sky of 100 cd/m² with a disc of 10⁵ cd/m² in it."""
    h, w = 256, 512
    d = directions(h, w)
    sun = core.sun.direction(azimuth, elevation)
    picture = np.full((h, w, 3), 100.0, np.float32)
    picture[(d @ sun) > math.cos(math.radians(radius_deg))] = 1e5
    return Hdri(picture)


def test_sun_of_a_picture_is_found_and_taken_out() -> None:
    """Direction, extent and energy; without it the even sky is left."""
    for azimuth in (3.0, 140.0, 358.5):
        sky = with_sun(azimuth, 35.0)
        lobe = sky.brightest()
        assert lobe is not None
        assert (lobe.azimuth_deg - azimuth + 180) % 360 - 180 == pytest.approx(0, abs=0.4)
        assert lobe.elevation_deg == pytest.approx(35.0, abs=0.4)
        omega = 2 * math.pi * (1 - math.cos(math.radians(3.0)))
        assert lobe.solid_angle_sr == pytest.approx(omega, rel=0.05)
        assert lobe.normal_illuminance_lx == pytest.approx(1e5 * omega, rel=0.05)
        left = sky.without(lobe)
        assert left.brightest() is None
        assert left.horizontal_illuminance() == pytest.approx(100 * math.pi, rel=0.01)
    assert Hdri(np.full((16, 32, 3), 7.0, np.float32)).brightest() is None


@pytest.mark.parametrize(("turn", "tilt", "mirror"), [(0, 0, True), (70, 0, False), (-35, 12, False),
                                                      (110, -20, True)])  # fmt: skip
def test_a_lobe_stands_where_the_laid_picture_shows_it(
    turn: float, tilt: float, mirror: bool
) -> None:
    sky = with_sun(40.0, 35.0)
    lobe = sky.brightest()
    laid = Hdri(sky.adjusted(rotation_deg=turn, tilt_deg=tilt, mirror=mirror)).brightest()
    assert lobe is not None
    assert laid is not None
    azimuth, elevation = lobe.placed(turn, tilt, mirror)
    assert (laid.azimuth_deg - azimuth + 180) % 360 - 180 == pytest.approx(0, abs=0.6)
    assert laid.elevation_deg == pytest.approx(elevation, abs=0.5)


def test_turning_and_calibrating() -> None:
    """Rotation is clockwise, mirroring swaps east and west, calibration sets the lux."""
    sky = with_sun(90.0, 20.0)
    turned = Hdri(sky.adjusted(rotation_deg=45)).brightest()
    mirrored = Hdri(sky.adjusted(mirror=True)).brightest()
    assert turned is not None
    assert mirrored is not None
    assert turned.azimuth_deg == pytest.approx(135, abs=0.8)
    assert mirrored.azimuth_deg == pytest.approx(270, abs=0.8)
    calm = Hdri(sky.adjusted(horizontal_illuminance_lx=5000))
    assert calm.horizontal_illuminance() == pytest.approx(5000, rel=1e-3)
    tilted = Hdri(with_sun(180.0, 20.0).adjusted(tilt_deg=30)).brightest()
    assert tilted is not None
    assert tilted.elevation_deg == pytest.approx(50, abs=1.0) or tilted.elevation_deg < 0


def test_light_of_a_picture_arrives(tmp_path: Path) -> None:
    """Written as EXR, read, and rendered: the illuminance is the integral of its pixels."""
    rng = np.random.default_rng(2)
    picture = rng.uniform(0, 50, (64, 128, 3)).astype(np.float32)
    file = tmp_path / "sky.exr"
    write_exr(file, picture, {}, half=False)
    scene = core.Scene()
    source = core.sources.HdriSource("sky", file, rotation_deg=30)
    scene.add_source(source)
    wanted = Hdri(source.pixels()).horizontal_illuminance()
    found = lux(core.irradiance(scene, [[0, 0, 0]], UP, samples=8192, bounces=0))[0]
    assert found == pytest.approx(wanted, rel=0.01)
    # The middle column of the file faces north, then turned 30° to the east.
    assert source.pixels()[20, round(128 * 30 / 360)] == pytest.approx(picture[20, 64], rel=1e-5)


def test_backdrop_brightness_is_for_the_camera_only() -> None:
    """Seen twice as bright, it lights the same."""
    lit, seen = [], []
    for factor in (1.0, 2.0):
        scene = core.Scene()
        scene.add_source(core.sources.HdriSource("sky", np.full((8, 16, 3), 5.0), seen=factor))
        lit.append(lux(core.irradiance(scene, [[0, 0, 0]], UP, samples=256, bounces=0))[0])
        view = core.View((0, 0, 0), (0, 1, 0.5), 35, 16, 12)
        seen.append(float(lux(core.render(scene, view, samples=1).beauty).mean()))
    assert lit[0] == pytest.approx(lit[1])
    assert seen[1] == pytest.approx(2 * seen[0], rel=1e-4)


@pytest.mark.parametrize("shape", [(1, 1), (1, 2), (3, 5), (7, 2)])
def test_odd_pictures_still_light(shape: tuple[int, int]) -> None:
    """Any size, and pixels that are no light, give a finite sky and a remark."""
    raw = np.ones((*shape, 3), np.float32)
    raw[0, 0] = [np.nan, -4, 1]
    sky = Hdri.of(raw)
    assert any("no light" in r for r in sky.remarks)
    scene = core.Scene()
    scene.add_source(core.sources.HdriSource("sky", raw))
    assert np.isfinite(core.irradiance(scene, [[0, 0, 0]], UP, samples=64, bounces=0)).all()


def test_files_that_are_no_pictures(tmp_path: Path) -> None:
    """A text file and a cut EXR are refused in words."""
    text = tmp_path / "note.hdr"
    text.write_text("not a picture")
    with pytest.raises(PictureFileError, match=r"cannot be read|damaged"):
        Hdri.of(text)
    whole, cut = tmp_path / "a.exr", tmp_path / "b.exr"
    noise = np.random.default_rng(1).uniform(size=(64, 128, 3)).astype(np.float32)
    write_exr(whole, noise, {})
    cut.write_bytes(whole.read_bytes()[:9000])
    with pytest.raises(PictureFileError):
        Hdri.of(cut)
    with pytest.raises(PictureFileError, match="red, green and blue"):
        Hdri.of(np.zeros((4, 8)))
