"""What is written as GLB passes the validator of the open format, whatever was read, and looks as before."""

from __future__ import annotations

import json
import subprocess
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from westlight import core
from westlight.core.model import Material, Mesh, Model, Part, Texture
from westlight.core.model.sound import is_sound, sound
from westlight.core.model.write import write_glb
from westlight.engine.readers import READERS

from .test_meshopt import meshopt_glb
from .test_models import glb
from .test_other_models import WRITERS

VALIDATE = """
const validator = require("gltf-validator"), fs = require("fs");
(async () => {
  for (const file of process.argv.slice(1)) {
    const { issues } = await validator.validateBytes(new Uint8Array(fs.readFileSync(file)), {maxIssues: 20});
    console.log(JSON.stringify([issues.numErrors, issues.messages.filter((m) => m.severity === 0)]));
  }
})();
"""
SQUARE = [[0, 0, 0], [2, 0, 0], [2, 1, 0], [0, 1, 0]]
HALVES = [[0, 1, 2], [0, 2, 3]]


def validated(*files: Path) -> None:
    """No errors in any of them."""
    web = Path(__file__).parents[2] / "web"
    done = subprocess.run(["node", "-e", VALIDATE, *map(str, files)], cwd=web, text=True,
                          capture_output=True, check=True)  # fmt: skip
    for file, line in zip(files, done.stdout.splitlines(), strict=True):
        errors, said = json.loads(line)
        assert not errors, (file.name, [m["code"] for m in said][:5])


def mesh(**arrays: Any) -> Mesh:
    material = arrays.pop("material", Material(0.5, name="paint"))
    made = Mesh.single("square", SQUARE, HALVES, material)
    for name, values in arrays.items():
        setattr(made, name, None if values is None else np.asarray(values, np.float32))
    return made


def shapes(model: Model) -> np.ndarray:
    """Corners of all triangles where they stand, in an order of their own."""
    found = [core.model.parts.place(p.matrix, p.mesh.vertices)[p.mesh.faces] for p in model.parts
             if len(p.mesh.faces)]  # fmt: skip
    flat = np.round(np.concatenate(found).reshape(-1, 9), 4)
    return np.asarray(flat[np.lexsort(flat.T)])


def test_files_of_every_kind_come_out_valid(tmp_path: Path) -> None:
    """Those of independent writers, with normals and coordinates or without, through the reader that keeps them."""
    (tmp_path / "o.obj").write_text(
        "o empty\no quad\nv 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0.3\nvn 0 0 0\nvn 0 0.1 1\n"
        "f 1//1 2//1 3//2\nf 1 3 4\n"
    )
    for name, write in WRITERS.items():
        write(tmp_path / name)
    files = [*(tmp_path / name for name in WRITERS), tmp_path / "o.obj", glb(tmp_path / "a.glb"),
             meshopt_glb(tmp_path / "m.glb")]  # fmt: skip
    kept = []
    for n, file in enumerate(files):
        out = tmp_path / f"{n}"
        out.mkdir()
        report = READERS["model"].read(file, file.name, out)
        kept.append(out / report["file"])
        up = report["up"]
        assert shapes(core.read_model(kept[-1], up)) == pytest.approx(
            shapes(core.read_model(file)), abs=2e-3
        )
    validated(*kept)


def test_odd_meshes_come_out_valid(tmp_path: Path) -> None:
    pixels = np.random.default_rng(0).integers(0, 255, (4, 4, 4), np.uint8)
    paper = Texture("paper", pixels, True, ("clamp", "mirror"))
    papered = Material(0.5, name="wall", base_texture=paper, normal_texture=paper)
    flat, skew, mirrored = np.eye(4), np.eye(4), np.diag([-1.0, 1, 1, 1])
    flat[2, 2] = 0.0
    skew[0, 1] = 0.7
    odd = {
        "no coordinates": mesh(material=papered),
        "no numbers": mesh(material=papered, uvs=[[np.nan, 0], [np.inf, 0], [1, 1], [0, 1]]),
        "one normal is none": mesh(normals=[[0, 0, 1], [0, 0, 0], [0, 0, 2], [np.nan, 0, 1]]),
        "all normals are none": mesh(normals=np.zeros((4, 3))),
        "long normals": mesh(normals=np.tile([0, 0.3, 0.4], (4, 1))),
        "no faces": mesh(faces=np.zeros((0, 3)), face_material=np.zeros(0)),
    }
    odd["no faces"].faces = np.zeros((0, 3), np.int32)
    parts = [Part(name, m) for name, m in odd.items()]
    plain = mesh(normals=np.tile([0, 0, 1], (4, 1)))
    parts += [
        Part(n, plain, m) for n, m in (("flat", flat), ("skew", skew), ("mirrored", mirrored))
    ]
    model = Model(parts)
    assert not is_sound(model)
    write_glb(model, tmp_path / "odd.glb")
    validated(tmp_path / "odd.glb")
    again = core.read_model(tmp_path / "odd.glb")
    assert [p.name for p in again.parts] == [p.name for p in parts if p.name != "no faces"]
    assert shapes(again) == pytest.approx(shapes(model), abs=1e-4)
    assert is_sound(sound(again))


@pytest.mark.parametrize("seed", range(6))
def test_places_of_any_kind_are_ones_that_the_format_has(tmp_path: Path, seed: int) -> None:
    """Turned, scaled and slightly or much skewed: what stays a place decomposes, the rest is in the points."""
    rng = np.random.default_rng(seed)
    turn, _ = np.linalg.qr(rng.normal(size=(3, 3)))
    parts = []
    for n, skewed in enumerate((0.0, 1e-6, 3e-5, 1e-4, 1e-3, 0.2)):
        place = np.eye(4)
        place[:3, :3] = turn @ (
            np.diag(rng.uniform(0.01, 50, 3)) @ (np.eye(3) + skewed * rng.normal(size=(3, 3)))
        )
        place[:3, 3] = rng.uniform(-40, 40, 3)
        parts.append(Part(f"{n}", mesh(normals=np.tile([0, 0, 1], (4, 1))), place))
    write_glb(Model(parts), tmp_path / "placed.glb")
    validated(tmp_path / "placed.glb")
    again = core.read_model(tmp_path / "placed.glb")
    assert shapes(again) == pytest.approx(shapes(Model(parts)), rel=1e-4, abs=2e-3)
    # Faces and normals look to one side, also where a place mirrors.
    for part in again.parts:
        turned = np.linalg.inv(part.matrix[:3, :3]).T
        corners = core.model.parts.place(part.matrix, part.mesh.vertices)[part.mesh.faces[0]]
        across = np.cross(corners[1] - corners[0], corners[2] - corners[0])
        across *= np.sign(np.linalg.det(part.matrix[:3, :3]))
        assert part.mesh.normals is not None
        assert across @ (turned @ part.mesh.normals[0]) > 0


def test_a_corner_without_a_normal_takes_that_of_its_face() -> None:
    """Two faces at an angle share a corner without one: each has its own there; corners with one keep it."""
    points = [[0, 0, 0], [1, 0, 0], [0, 1, 0], [0, 0, 1]]
    normals = [[0, 0, 0], [0, 0, 1], [0, 0, 1], [1, 0, 0]]
    roof = Mesh.single("roof", points, [[0, 1, 2], [0, 2, 3]], Material(0.5), normals)
    made = sound(Model([Part("roof", roof)])).parts[0].mesh
    assert made.normals is not None
    assert made.normals[made.faces[0, 0]] == pytest.approx((0, 0, 1))
    assert made.normals[made.faces[1, 0]] == pytest.approx((1, 0, 0))
    assert made.normals[made.faces[1, 2]] == pytest.approx((1, 0, 0))
    assert made.vertices[made.faces] == pytest.approx(roof.vertices[roof.faces])
