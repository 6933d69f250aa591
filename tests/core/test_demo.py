"""The demo building: valid in its format, sensible in its physics, the same at every build."""

from __future__ import annotations

import json
import subprocess
from pathlib import Path

import numpy as np
import pytest
from demo import build as demo
from demo.luminaires import SHELF, SHELF_LDT
from demo.surfaces import SURFACES, TEXTURES, texture_files

from westlight import core
from westlight.core.files import read_linear

ROOT = Path(__file__).parents[2]
VALIDATE = """
const validator = require("gltf-validator");
const file = require("fs").readFileSync(process.argv[1]);
validator.validateBytes(new Uint8Array(file), {maxIssues: 50})
  .then(report => console.log(JSON.stringify(report.issues)));
"""


def test_the_file_is_valid(demo_model: Path) -> None:
    """The validator of the open format finds neither errors nor warnings."""
    command = ["node", "-e", VALIDATE, str(demo_model)]
    done = subprocess.run(command, cwd=ROOT / "web", capture_output=True, text=True, check=True)
    issues = json.loads(done.stdout)
    assert (issues["numErrors"], issues["numWarnings"]) == (0, 0), issues["messages"][:5]


def test_two_builds_are_the_same() -> None:
    """Seeds are fixed: every vertex and every texture come out again."""
    for a, b in zip(demo.pieces(), demo.pieces(), strict=True):
        assert a.name == b.name
        assert all(np.array_equal(p, q) for p, q in zip(a.places, b.places, strict=True))
        for (s, m), (t, n) in zip(a.solids, b.solids, strict=True):
            assert m == n
            assert np.array_equal(s.points, t.points)
    assert texture_files("oak") == texture_files("oak")


def test_parts_have_names_and_share_materials(demo_model: Path) -> None:
    """No two parts are called the same; no surface is described twice."""
    model = core.read_model(demo_model)
    names = [p.name for p in model.parts]
    assert len(set(names)) == len(names)
    materials = [m.name for m in model.materials]
    assert len(set(materials)) == len(materials)
    assert demo_model.stat().st_size < 60e6


@pytest.mark.parametrize("name", sorted(set(TEXTURES) - {"leaves"}))
def test_no_texture_reflects_more_than_lime(name: str) -> None:
    """Mean reflectance of every texture stays below 0.85 and is not black."""
    colour, _ = TEXTURES[name][0](np.random.default_rng(TEXTURES[name][1]))
    assert 0.005 < colour.mean() < 0.85
    plain = [s for s in SURFACES.values() if not s.texture and not s.transmission]
    assert all(max(s.colour) < 0.86 for s in plain)


def test_skies_are_calibrated(demo_folder: Path) -> None:
    """4096 × 2048, in cd/m², none of them dark or broken; the moon's is a moonlit night."""
    lux = {}
    for file in sorted((demo_folder / "skies").glob("*.exr")):
        picture = read_linear(file)
        assert picture.shape[:2] == (2048, 4096)
        assert np.isfinite(picture).all()
        assert picture.min() >= 0
        small = picture[::8, ::8, :3] @ core.colour.AP1_LUMINANCE
        up = np.cos((np.arange(256) + 0.5) / 256 * np.pi)[:, None]
        weight = np.maximum(up, 0) * np.sqrt(1 - up**2) * (np.pi / 256) * (2 * np.pi / 512)
        lux[file.stem] = float((np.minimum(small, 1e5) * weight).sum())
    assert len(lux) == 5
    assert 4_000 < lux["Overcast quay"] < 40_000
    assert 4_000 < lux["Broken cumulus noon"] < 60_000
    assert 1 < lux["Red dusk"] < 800
    assert lux["Moonlit"] < 0.3


def test_photometric_files_say_what_they_give(demo_folder: Path) -> None:
    """Twelve LM-63 and two EULUMDAT files, each with the flux it states."""
    files = sorted((demo_folder / "photometry").iterdir())
    assert [sum(f.suffix == kind for f in files) for kind in (".ies", ".ldt")] == [12, 2]
    lumens = {name: lumen for name, lumen, _, _ in [*SHELF, *SHELF_LDT]}
    for file in files:
        lamp = core.luminaires.read_photometric(file.read_bytes())
        assert lamp.flux_lm == pytest.approx(lumens[lamp.name], rel=0.02), file.name
        if file.suffix == ".ldt":
            assert lamp.stated_flux_lm == pytest.approx(lamp.flux_lm, rel=0.02), file.name


def test_the_second_model_is_read(demo_folder: Path) -> None:
    """The boat shed as OBJ: 7 by 11 metres, three materials."""
    shed = core.read_model(demo_folder / "boat_shed.obj")
    low, high = (np.asarray(v) for v in shed.bounds())
    assert (high - low)[:2] == pytest.approx([7.6, 11.5], abs=0.2)
    assert {m.name for m in shed.materials} == {"shed_boards", "slate", "painted_door"}
