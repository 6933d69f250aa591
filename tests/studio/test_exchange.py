"""Lights out in open files, and in again."""

from __future__ import annotations

import io
import json
import math
import zipfile
from dataclasses import asdict
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from pxr import Gf, Usd, UsdGeom, UsdLux

from westlight.core.luminaires import read_photometric
from westlight.core.model import ModelCamera, ModelLight, write_lights
from westlight.core.model.gltf import read_gltf
from westlight.core.model.usd import read_usd, write_usd
from westlight.core.sources import SkySource
from westlight.engine.spec import (
    FixtureSettings,
    PictureSpec,
    SkySettings,
    SourceSpec,
    SunSettings,
    ViewSettings,
)
from westlight.engine.translate import emitters_of, source_of, view_of
from westlight.studio import file_suns
from westlight.studio.exchange import (
    camera_of,
    lights_of,
    package,
    photometric_file,
    view_through,
)
from westlight.studio.exchange import sources_of_lights as sources_of
from westlight.studio.settings import LookState
from westlight.studio.studio import Studio

from ..core.test_models import glb
from ..core.test_sound import validated

LIGHTS = [
    ModelLight("sun", "directional", (0, 0, 0), (0.6, 0.0, -0.8), 50_000.0),
    ModelLight("bulb", "point", (1.0, 2.0, 3.0), (0, 0, -1), 80.0, (1.0, 0.5, 0.25)),
    ModelLight("spot", "spot", (4.0, -2.0, 2.5), (0.0, 0.6, -0.8), 900.0, (1, 1, 1), 24.0, 48.0),
    ModelLight("up", "spot", (0.0, 0.0, 0.0), (0.0, 0.0, 1.0), 5.0, (1, 1, 1), 10.0, 60.0),
]


def test_lights_and_cameras_survive_the_open_format(tmp_path: Path) -> None:
    camera = ModelCamera("west", (5.0, -2.0, 1.5), (-4.0, 1.0, 1.4), 40.0)
    write_lights(tmp_path / "lights.gltf", LIGHTS, [camera])
    back = read_gltf(tmp_path / "lights.gltf")
    assert [x.name for x in back.lights] == ["sun", "bulb", "spot", "up"]
    for old, new in zip(LIGHTS, back.lights, strict=True):
        assert new.kind == old.kind
        if old.kind != "point":
            assert new.direction == pytest.approx(old.direction, abs=1e-6)
        if old.kind != "directional":
            assert new.position == pytest.approx(old.position, abs=1e-6)
        assert new.intensity == pytest.approx(old.intensity)
        assert new.rgb == pytest.approx(old.rgb)
    assert back.lights[2].inner_deg == pytest.approx(24.0)
    assert back.lights[2].outer_deg == pytest.approx(48.0)
    seen = back.cameras[0]
    assert seen.vertical_fov_deg == pytest.approx(40.0)
    way = np.subtract(seen.target, seen.position)
    old_way = np.subtract(camera.target, camera.position)
    assert way / np.linalg.norm(way) == pytest.approx(old_way / np.linalg.norm(old_way), abs=1e-6)


def spec() -> PictureSpec:
    place = [{"position": (1, 2, 3)}, {"position": (2, 2, 3)}]
    ball = FixtureSettings(shape="sphere", lumen=1000, places=place)  # type: ignore[arg-type]
    panel = FixtureSettings(shape="disc", lumen=500, places=place[:1])  # type: ignore[arg-type]
    sources = [
        SourceSpec(id="sun", name="Sun", settings=SunSettings(azimuth_deg=90, elevation_deg=30)),
        SourceSpec(id="a", name="Ball", settings=ball, level=1.0),
        SourceSpec(id="b", name="Panel", settings=panel),
        SourceSpec(id="c", name="Off", settings=panel, counts=False),
    ]
    return PictureSpec(sources=sources)


def test_amounts_as_punctual_lights() -> None:
    found = {x.name: x for x in lights_of(spec())}
    assert set(found) == {"Sun", "Ball 1", "Ball 2", "Panel"}
    # A ball of 1000 lm shines with 1000/4π cd; one stop more is twice that.
    assert found["Ball 1"].intensity == pytest.approx(2 * 1000 / (4 * math.pi), rel=1e-3)
    # A Lambert face of 500 lm: 500/π cd straight ahead.
    assert found["Panel"].intensity == pytest.approx(500 / math.pi, rel=1e-3)
    assert found["Sun"].kind == "directional"
    assert found["Sun"].direction == pytest.approx(
        (-math.cos(math.radians(30)), 0, -math.sin(math.radians(30))), abs=1e-6
    )
    assert 40_000 < found["Sun"].intensity < 110_000


def test_the_package_holds_what_it_says(tmp_path: Path) -> None:
    view = ViewSettings(focal_length_mm=36, aspect=2.0)
    assert camera_of("v", view, False).vertical_fov_deg == pytest.approx(
        2 * math.degrees(math.atan(0.25))
    )
    made = package(spec(), [("v", view)], "fixture\r\n", "A place")
    with zipfile.ZipFile(io.BytesIO(made)) as folder:
        names = set(folder.namelist())
        assert {"lights.gltf", "light-schedule.csv", "recipe.json", "read-me.txt",
                "photometry/Ball.ies", "photometry/Panel.ies"} <= names  # fmt: skip
        PictureSpec.model_validate(json.loads(folder.read("recipe.json")))
        assert len(json.loads(folder.read("lights.gltf"))["cameras"]) == 1
        folder.extract("lights.gltf", tmp_path)
    validated(tmp_path / "lights.gltf")


@pytest.mark.parametrize("aspect", [16 / 9, 0.8])
@pytest.mark.parametrize("shift", [(0.0, 0.0), (0.1, -0.2)])
def test_a_view_leaves_as_it_is_seen(
    tmp_path: Path, aspect: float, shift: tuple[float, float]
) -> None:
    """Points in space lie at the same place of the picture by OpenUSD's own camera; back again the view is the same."""
    view = ViewSettings(position=(1, 2, 1.6), target=(6, 4, 3.1), focal_length_mm=28, aspect=aspect,
                        upright=True, shift=shift)  # fmt: skip
    write_usd(tmp_path / "v.usda", [], [camera_of("v", view, True)])
    stage = Usd.Stage.Open(str(tmp_path / "v.usda"))
    prim = next(p for p in stage.Traverse() if p.IsA(UsdGeom.Camera))
    frustum = UsdGeom.Camera(prim).GetCamera(Usd.TimeCode.Default()).frustum
    seen = frustum.ComputeViewMatrix() * frustum.ComputeProjectionMatrix()
    right, down, forward, lens = view_of(view, 640, round(640 / aspect)).axes()
    wide = 36 / 28
    rng = np.random.default_rng(2)
    for at in rng.uniform([3, 2, 0], [9, 6, 4], (12, 3)):
        d = at - np.asarray(view.position)
        x, y = ((d @ axis) / (d @ forward) - s for axis, s in zip((right, down), lens, strict=True))
        ndc = seen.Transform(Gf.Vec3d(*at.tolist()))
        assert ndc[0] == pytest.approx(2 * x / wide, abs=1e-4)
        assert ndc[1] == pytest.approx(-2 * y * aspect / wide, abs=1e-4)
    (camera,) = read_usd(tmp_path / "v.usda")[1]
    again = view_through(asdict(camera))
    assert again.aspect == pytest.approx(aspect, rel=1e-5)
    assert again.focal_length_mm == pytest.approx(28, rel=1e-5)
    for a, b in zip(view_of(again, 640, 360).axes(), (right, down, forward, lens), strict=True):
        assert a == pytest.approx(b, abs=1e-5)


def test_faces_come_in_as_faces(tmp_path: Path) -> None:
    """A rectangle of a stage is a rectangle with its size, its turn and its light."""
    light = ModelLight("panel", "spot", (1, 2, 3), (0, 0, -1), 400.0, (1, 1, 1), 180, 180,
                       "rectangle", (1.2, 0.6), (0, 1, 0))  # fmt: skip
    ((name, settings),) = sources_of([asdict(light)])
    made = FixtureSettings.model_validate(settings)
    assert (name, made.shape, made.width, made.height) == ("panel", "rectangle", 1.2, 0.6)
    one = emitters_of(made, "panel")[0]
    u, _, n = one.axes
    assert n == pytest.approx((0, 0, -1), abs=1e-9)
    assert abs(float(np.dot(u, (0, 1, 0)))) == pytest.approx(1.0)
    # A Lambert face of 400 cd straight ahead gives π times as many lumen.
    assert made.lumen == pytest.approx(400 * math.pi, rel=1e-3)


@pytest.mark.parametrize(
    "settings",
    [
        {"shape": "disc"},
        {"shape": "sphere"},
        {"shape": "spot"},
        {"shape": "disc", "narrowing": 0.6},
    ],
)
def test_a_photometric_file_holds_the_flux_of_its_fixture(settings: dict[str, Any]) -> None:
    f = FixtureSettings(lumen=1234.0, places=[{"position": (0, 0, 2)}], **settings)  # type: ignore[list-item]
    back = read_photometric(photometric_file(f, "lamp").encode())
    assert back.flux_lm == pytest.approx(1234.0, rel=0.01)


def test_lamps_of_a_model_become_fixtures_with_their_intensity() -> None:
    lights = [vars(x) for x in LIGHTS]
    made = dict(sources_of(lights))
    assert set(made) == {"bulb", "spot", "up"}
    bulb, spot = (FixtureSettings.model_validate(made[n]) for n in ("bulb", "spot"))
    assert bulb.lumen == pytest.approx(80 * 4 * math.pi, rel=1e-3)
    assert bulb.colour is not None
    assert spot.colour is None
    again = lights_of(PictureSpec(sources=[SourceSpec(id="s", name="spot", settings=spot)]))
    assert again[0].intensity == pytest.approx(900.0, rel=1e-3)
    assert again[0].direction == pytest.approx((0.0, 0.6, -0.8))


def _as_read(*lights: ModelLight) -> list[dict[str, Any]]:
    return [asdict(light) for light in lights]


def test_the_sun_of_a_file_becomes_a_look() -> None:
    """Where it stands and its lux come over; the building's north turns it; a colour becomes kelvin."""
    sun = ModelLight("Low", "directional", (0, 0, 0), (-1.0, 0.0, -1.0), 43_210.4, (1.0, 0.6, 0.3))
    ((name, settings),), remarks = file_suns.looks_of(_as_read(sun, LIGHTS[1]), LookState(), 30.0)
    assert (name, remarks) == ("Low", [])
    # It shines to the west and down at 45°: it stands in the east, and the building is turned.
    assert settings["sun"] == {"mode": "free", "azimuth_deg": 120.0, "elevation_deg": 45.0, "size": 1.0,
                               "kelvin": pytest.approx(3000, abs=1200), "lux": 43_210.0}  # fmt: skip
    assert not settings["mix"]["sun"]["muted"]
    shining = SunSettings(azimuth_deg=90.0, elevation_deg=45.0, lux=settings["sun"]["lux"])
    lit = PictureSpec(sources=[SourceSpec(id="sun", name="Sun", settings=shining)])
    (back,) = (x for x in lights_of(lit) if x.kind == "directional")
    assert back.intensity == pytest.approx(43_210.0, rel=1e-3)
    assert back.direction == pytest.approx((-(0.5**0.5), 0, -(0.5**0.5)), abs=1e-6)


def test_a_sun_without_a_unit_has_the_strength_of_daylight() -> None:
    sun = ModelLight("Key", "directional", (0, 0, 0), (0.0, 0.0, -1.0), 3.0)
    ((_, settings),), remarks = file_suns.looks_of(_as_read(sun), LookState(), 0.0)
    assert settings["sun"]["lux"] is None
    assert settings["sun"]["kelvin"] is None
    assert "“Key” tells a strength of 3" in remarks[0]


def test_a_dome_of_a_file_is_an_even_sky(tmp_path: Path) -> None:
    """π times its luminance on open ground, under the same sky everywhere; a picture is asked for by name."""
    stage = Usd.Stage.CreateNew(str(tmp_path / "dome.usda"))
    dome = UsdLux.DomeLight.Define(stage, "/Sky")
    dome.CreateIntensityAttr(500.0)
    dome.CreateExposureAttr(1.0)
    dome.CreateColorAttr(Gf.Vec3f(0.5, 0.5, 1.0))
    stage.Save()
    found = _as_read(*read_usd(tmp_path / "dome.usda")[0])
    ((name, settings),), remarks = file_suns.looks_of(found, LookState(), 0.0)
    assert (name, remarks) == ("Sky", [])
    assert settings["mix"]["sun"]["muted"]
    sky = SkySettings.model_validate({"kind": "sky", **{
        k: settings["sky"][k] for k in ("model", "graded", "horizon_deg")
    }})  # fmt: skip
    made = source_of(SourceSpec(id="sky", name="Sky", settings=sky), 0.0, [])
    assert isinstance(made, SkySource)
    up = made.sky.luminance(np.array([[0.0, 0, 1], [0.8, 0, 0.6], [0, 0.96, 0.28]]))
    assert up == pytest.approx(1000.0, rel=0.02)
    dome.CreateTextureFileAttr("skies\\noon.exr")
    stage.Save()
    made_looks, remarks = file_suns.looks_of(
        _as_read(*read_usd(tmp_path / "dome.usda")[0]), LookState(), 0.0
    )
    assert not made_looks
    assert "“noon.exr”: add it" in remarks[0]


def test_suns_come_into_a_project_as_looks(studio: Studio, tmp_path: Path) -> None:
    """Beside the lamps, in one step that can be taken back; a file of nothing but domes is taken, too."""
    pid = studio.projects.create("House")
    write_usd(tmp_path / "l.usda", LIGHTS, [])
    count, remarks = studio.fixtures.bring(pid, tmp_path / "l.usda", "l.usda")
    made = studio.projects.overview(pid)
    assert (count, remarks) == (4, [])
    assert [x["name"] for x in made["looks"][1:]] == ["sun"]
    assert made["looks"][1]["settings"]["sun"]["lux"] == 50_000.0
    studio.history.undo(pid)
    assert len(studio.projects.overview(pid)["looks"]) == 1
    sun = {"lights": [{"type": "directional", "intensity": 80_000.0}]}
    mark = {"name": "Noon", "extensions": {"KHR_lights_punctual": {"light": 0}}}
    building = glb(tmp_path / "h.glb", nodes=[{"mesh": 0}, mark], scenes=[{"nodes": [0, 1]}],
                   extensions={"KHR_lights_punctual": sun})  # fmt: skip
    report = studio.buildings.bring(pid, building, "h.glb")
    looks = studio.projects.overview(pid)["looks"]
    assert [x["name"] for x in looks[1:]] == ["Noon"]
    assert looks[1]["settings"]["sun"]["lux"] == 80_000.0
    assert report["remarks"] == []
