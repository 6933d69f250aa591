"""Lights and cameras in OpenUSD: out and in again, other units and axes, strength by size."""

from __future__ import annotations

import math
from pathlib import Path

import numpy as np
import pytest
from pxr import Gf, Usd, UsdGeom, UsdLux

from westlight.core.errors import ModelError
from westlight.core.model import ModelCamera, ModelLight
from westlight.core.model.usd import read_usd, write_usd

LIGHTS = [
    ModelLight("sun", "directional", (0, 0, 0), (0.6, 0.0, -0.8), 50_000.0),
    ModelLight("bulb é", "point", (1.0, 2.0, 3.0), (0, 0, -1), 80.0, (1.0, 0.5, 0.25)),
    ModelLight("spot", "spot", (4.0, -2.0, 2.5), (0.0, 0.6, -0.8), 900.0, (1, 1, 1), 24.0, 48.0),
    ModelLight("spot", "spot", (0.0, 0.0, 0.0), (0.0, 0.0, 1.0), 5.0, (1, 1, 1), 10.0, 60.0),
]
CAMERA = ModelCamera("west", (5.0, -2.0, 1.5), (-4.0, 1.0, 1.4), 40.0)


@pytest.mark.parametrize("suffix", [".usda", ".usdc", ".usd"])
def test_round_trip(tmp_path: Path, suffix: str) -> None:
    """Names, places, directions, strengths, colours and cones come back from text and binary files."""
    write_usd(tmp_path / f"l{suffix}", LIGHTS, [CAMERA])
    lights, cameras = read_usd(tmp_path / f"l{suffix}")
    assert [x.name for x in lights] == [x.name for x in LIGHTS]
    for old, new in zip(LIGHTS, lights, strict=True):
        assert new.kind == old.kind
        assert new.position == pytest.approx(old.position, abs=1e-6)
        assert new.intensity == pytest.approx(old.intensity, rel=1e-5)
        assert new.rgb == pytest.approx(old.rgb, abs=1e-6)
        if old.kind != "point":
            assert new.direction == pytest.approx(old.direction, abs=1e-6)
    assert lights[2].inner_deg == pytest.approx(24.0, abs=1e-4)
    assert lights[2].outer_deg == pytest.approx(48.0, abs=1e-4)
    assert cameras[0].position == pytest.approx(CAMERA.position)
    assert cameras[0].target == pytest.approx(CAMERA.target)
    assert cameras[0].vertical_fov_deg == pytest.approx(40.0, abs=1e-4)


def test_centimetres_and_y_up_are_turned(tmp_path: Path) -> None:
    """A disc of a stage in centimetres, y up, nested in a moved group, taken by its own size."""
    stage = Usd.Stage.CreateNew(str(tmp_path / "cm.usda"))
    UsdGeom.SetStageUpAxis(stage, UsdGeom.Tokens.y)
    UsdGeom.SetStageMetersPerUnit(stage, 0.01)
    group = UsdGeom.Xform.Define(stage, "/group")
    group.AddTranslateOp().Set(Gf.Vec3d(100, 250, -300))
    disc = UsdLux.DiskLight.Define(stage, "/group/disc")
    disc.CreateRadiusAttr(20.0)
    disc.CreateIntensityAttr(1000.0)
    disc.CreateExposureAttr(1.0)
    disc.AddRotateXOp().Set(-90.0)
    UsdLux.DomeLight.Define(stage, "/dome")
    stage.Save()
    lights, cameras = read_usd(tmp_path / "cm.usda")
    assert cameras == []
    light, dome = lights
    assert (dome.kind, dome.intensity, dome.picture) == ("dome", 1.0, "")
    assert light.position == pytest.approx((1.0, 3.0, 2.5))
    assert light.direction == pytest.approx((0, 0, -1), abs=1e-6)
    # 2000 cd/m² from a disc of 0.2 m, straight ahead.
    assert light.intensity == pytest.approx(2000 * math.pi * 0.04)
    assert light.kind == "spot"


def test_a_distant_light_by_its_angle(tmp_path: Path) -> None:
    """Without normalize its luminance over its disc gives the lux."""
    stage = Usd.Stage.CreateNew(str(tmp_path / "sun.usda"))
    sun = UsdLux.DistantLight.Define(stage, "/sun")
    sun.CreateAngleAttr(0.53)
    sun.CreateIntensityAttr(1.6e9)
    stage.Save()
    light = read_usd(tmp_path / "sun.usda")[0][0]
    assert light.intensity == pytest.approx(1.6e9 * math.pi * np.sin(np.radians(0.265)) ** 2)


def test_faces_colour_temperature_and_scale(tmp_path: Path) -> None:
    """Rectangle and tube by their own sizes as the scale of a group makes them; kelvin colours; what is hidden stays out."""
    stage = Usd.Stage.CreateNew(str(tmp_path / "faces.usda"))
    UsdGeom.SetStageUpAxis(stage, UsdGeom.Tokens.z)
    UsdGeom.SetStageMetersPerUnit(stage, 1.0)
    group = UsdGeom.Xform.Define(stage, "/group")
    group.AddScaleOp().Set(Gf.Vec3f(2, 2, 2))
    rect = UsdLux.RectLight.Define(stage, "/group/panel")
    rect.CreateWidthAttr(0.6)
    rect.CreateHeightAttr(0.3)
    rect.CreateIntensityAttr(500.0)
    rect.CreateEnableColorTemperatureAttr(True)
    rect.CreateColorTemperatureAttr(2700.0)
    rect.AddRotateZOp().Set(90.0)
    tube = UsdLux.CylinderLight.Define(stage, "/group/tube")
    tube.CreateLengthAttr(1.0)
    tube.CreateRadiusAttr(0.02)
    tube.CreateIntensityAttr(3000.0)
    hidden = UsdLux.SphereLight.Define(stage, "/group/hidden")
    UsdGeom.Imageable(hidden).MakeInvisible()
    stage.Save()
    panel, made_tube = read_usd(tmp_path / "faces.usda")[0]
    assert (panel.shape, made_tube.shape) == ("rectangle", "tube")
    assert panel.sizes == pytest.approx((1.2, 0.6))
    assert made_tube.sizes == pytest.approx((2.0, 0.04))
    assert panel.direction == pytest.approx((0, 0, -1), abs=1e-6)
    assert panel.along == pytest.approx((0, 1, 0), abs=1e-6)
    # Luminance times what is seen of it straight ahead; kelvin only shifts its colour.
    warm = np.array(UsdLux.BlackbodyTemperatureAsRgb(2700.0))
    assert panel.rgb == pytest.approx(tuple(warm / warm.max()), abs=1e-6)
    assert panel.intensity == pytest.approx(500 * warm.max() * 1.2 * 0.6, rel=1e-5)
    assert made_tube.intensity == pytest.approx(3000 * 2 * 0.04 * 2.0)


def test_what_is_no_stage_is_refused(tmp_path: Path) -> None:
    """Words instead of an error of the library."""
    (tmp_path / "bad.usda").write_text("not a stage at all")
    with pytest.raises(ModelError, match="OpenUSD"):
        read_usd(tmp_path / "bad.usda")


@pytest.mark.parametrize(
    ("whole", "damaged"),
    [('"xformOp:transform"]', '"xformOp:tranrm"]'), ("color3f inputs:color", "colour inputs:color"),
     ("float inputs:intensity", "string[] inputs:intensity")],
)  # fmt: skip
def test_a_damaged_stage_is_refused(tmp_path: Path, whole: str, damaged: str) -> None:
    """It opens as a stage, and what is in it is none that could be."""
    file = tmp_path / "a.usda"
    write_usd(file, [ModelLight("Lamp", "point", (0, 0, 2), (0, 0, -1), 100.0, (1, 1, 1))], [])
    text = file.read_text()
    assert whole in text
    lines = [line.replace(whole, damaged) for line in text.splitlines()]
    if damaged.startswith("string"):
        lines = [line.split("=")[0] + '= ["much"]' if damaged in line else line for line in lines]
    file.write_text("\n".join(lines))
    with pytest.raises(ModelError, match=r"damaged|OpenUSD"):
        read_usd(file)
