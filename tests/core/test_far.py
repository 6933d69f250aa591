"""Buildings at map coordinates: moved near the origin without a smear, and lamps go back to where it lay."""

from __future__ import annotations

import json
import zipfile
from pathlib import Path

import numpy as np
import pytest

from westlight import core
from westlight.core.model import near_origin
from westlight.core.model.write import write_glb
from westlight.engine import readers

from .shapes import BOX_FACES

AT = np.array([456_789.25, 5_400_123.5, 312.0])


def obj(path: Path, at: np.ndarray) -> Path:
    """A box 4 × 5 × 3 m with its corner at a place, z up."""
    corners = [at + np.array([x, y, z]) for x in (0, 4) for y in (0, 5) for z in (0, 3)]
    lines = [f"v {p[0]:.4f} {p[1]:.4f} {p[2]:.4f}" for p in corners]
    lines += ["f " + " ".join(str(i + 1) for i in face) for face in BOX_FACES]
    path.write_text("o box\n" + "\n".join(lines))
    return path


def test_it_keeps_its_millimetres(tmp_path: Path) -> None:
    """Through the reader that imports use: sides are right to a tenth of a millimetre, and the remark tells of it."""
    report = readers.model(obj(tmp_path / "b.obj", AT), "b.obj", tmp_path, "z")
    assert report["offset_m"] == (456_800.0, 5_400_100.0, 0.0)
    made = core.read_model(tmp_path / "model.glb", "y")
    low, high = made.bounds()
    assert high - low == pytest.approx([4, 5, 3], abs=1e-4)
    assert low == pytest.approx(AT - report["offset_m"], abs=1e-4)
    assert any("map coordinates" in r for r in report["remarks"])


@pytest.mark.parametrize("at", [(0.0, 0.0, 0.0), (900.0, -1500.0, 20.0)])
def test_what_is_near_stays(tmp_path: Path, at: tuple[float, ...]) -> None:
    model = core.read_model(obj(tmp_path / "b.obj", np.array(at)), "z")
    same, offset = near_origin(model)
    assert same is model
    assert offset == (0, 0, 0)


def test_a_file_in_millimetres_is_not_far_away(tmp_path: Path) -> None:
    """A house of 10,000 of its units that begins at 0 is large, not far."""
    points = [[x, y, z] for x in (0, 10_000) for y in (0, 8_000) for z in (0, 6_000)]
    from westlight.core.model import Material, Mesh, Model, Part

    model = Model([Part("house", Mesh.single("house", points, BOX_FACES, Material(0.5)))])
    assert near_origin(model)[1] == (0, 0, 0)


def test_cameras_and_lights_go_with_it(tmp_path: Path) -> None:
    """A glTF far away: what it brings along is moved as the building is."""
    box = core.read_model(obj(tmp_path / "b.obj", np.zeros(3)), "z")
    write_glb(box, tmp_path / "b.glb")
    content = (tmp_path / "b.glb").read_bytes()
    length = int.from_bytes(content[12:16], "little")
    document = json.loads(content[20 : 20 + length])
    lamp = {"name": "lamp", "translation": [1, 2, -1],
            "extensions": {"KHR_lights_punctual": {"light": 0}}}  # fmt: skip
    eye = {"name": "eye", "camera": 0, "translation": [2, 1.6, -1]}
    document["nodes"] += [lamp, eye]
    first = len(document["nodes"])
    roots = [*document["scenes"][0]["nodes"], first - 2, first - 1]
    # East, up, south.
    document["nodes"].append({"name": "site", "children": roots,
                              "translation": [AT[0], AT[2], -AT[1]]})  # fmt: skip
    document["scenes"][0]["nodes"] = [first]
    document["cameras"] = [{"type": "perspective", "perspective": {"yfov": 0.8, "znear": 0.1}}]
    document["extensions"] = {
        "KHR_lights_punctual": {"lights": [{"type": "point", "intensity": 9}]}
    }
    document["extensionsUsed"] = ["KHR_lights_punctual"]
    text = json.dumps(document).encode()
    text += b" " * (-len(text) % 4)
    rest = content[20 + length :]
    head = content[:8] + (20 + len(text) + len(rest)).to_bytes(4, "little")
    (tmp_path / "far.glb").write_bytes(
        head + len(text).to_bytes(4, "little") + content[16:20] + text + rest
    )
    out = tmp_path / "out"
    out.mkdir()
    report = readers.model(tmp_path / "far.glb", "far.glb", out)
    rest_of = AT - report["offset_m"]
    assert report["lights"][0]["position"] == pytest.approx(np.add(rest_of, [1, 1, 2]), abs=1e-3)
    assert report["cameras"][0]["position"] == pytest.approx(np.add(rest_of, [2, 1, 1.6]), abs=1e-3)


def test_lamps_go_out_where_it_lay(tmp_path: Path) -> None:
    from westlight.core.model.usd import read_usd
    from westlight.engine.spec import ViewSettings
    from westlight.studio.exchange import lights_of, package

    from ..studio.test_exchange import spec

    made = tmp_path / "lights.zip"
    made.write_bytes(package(spec(), [("v", ViewSettings())], "x", "A place", (AT[0], AT[1], 0.0)))
    with zipfile.ZipFile(made) as opened:
        opened.extract("lights.usda", tmp_path)
    lights, cameras = read_usd(tmp_path / "lights.usda")
    before = {x.name: x for x in lights_of(spec())}["Ball 1"].position
    there = next(x for x in lights if x.name == "Ball 1").position
    assert there == pytest.approx(np.add(before, (AT[0], AT[1], 0)), abs=1e-3)
    assert cameras[0].position[1] > 5_000_000
