"""Model files that are damaged, hostile or merely odd: a sentence for the artist, or a sane model."""

from __future__ import annotations

import io
import json
import struct
import zipfile
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from PIL import Image

from westlight import core
from westlight.core.errors import ModelError
from westlight.core.model import Material, Mesh, Model, Part, up_towards
from westlight.core.model.packed import MAX_TEXTURE_PX
from westlight.core.model.parts import UPRIGHT
from westlight.core.model.write import write_glb
from westlight.engine.readers import unpacked

from .test_models import OBJ, glb

FUZZED = settings(max_examples=150, deadline=None, derandomize=True,
                  suppress_health_check=[HealthCheck.function_scoped_fixture])  # fmt: skip


def read_or_refuse(file: Path) -> Model | None:
    """A model, or None if it was refused with words; anything else fails the test."""
    words = ""
    try:
        model = core.read_model(file)
    except ModelError as error:
        words = str(error)
    if words:
        assert len(words) > 20
        assert "Traceback" not in words
        return None
    assert all(np.isfinite(p.mesh.vertices).all() for p in model.parts)
    return model


@FUZZED
@given(st.lists(st.tuples(st.integers(0, 100_000), st.integers(0, 255)), min_size=1, max_size=12))
def test_flipped_bytes(tmp_path: Path, flips: list[tuple[int, int]]) -> None:
    """Whatever a bad disk does to a file, it opens or is refused."""
    raw = bytearray(glb(tmp_path / "whole.glb").read_bytes())
    for at, value in flips:
        raw[at % len(raw)] = value
    file = tmp_path / "flipped.glb"
    file.write_bytes(raw)
    read_or_refuse(file)


@FUZZED
@given(st.integers(0, 2000))
def test_cut_short_anywhere(tmp_path: Path, length: int) -> None:
    raw = glb(tmp_path / "whole.glb").read_bytes()
    file = tmp_path / "cut.glb"
    file.write_bytes(raw[:length])
    model = read_or_refuse(file)
    assert (model is not None) == (length >= len(raw))


#: What another exporter, or a hand, may write where a number or a name belongs.
ODD: st.SearchStrategy[Any] = st.one_of(
    st.none(), st.booleans(), st.integers(-5, 2**40), st.floats(allow_nan=False),
    st.text(max_size=4), st.just([]), st.just({}), st.lists(st.integers(-3, 9), max_size=3),
)  # fmt: skip


@FUZZED
@given(st.data())
def test_odd_values_in_the_description(tmp_path: Path, data: st.DataObject) -> None:
    """Any one value of the description replaced by something that does not belong there."""
    raw = glb(tmp_path / "whole.glb").read_bytes()
    length = struct.unpack("<I", raw[12:16])[0]
    document = json.loads(raw[20 : 20 + length])
    places: list[tuple[Any, Any]] = []

    def walk(node: Any) -> None:
        for key in list(node) if isinstance(node, dict) else range(len(node)):
            places.append((node, key))
            if isinstance(node[key], dict | list):
                walk(node[key])

    walk(document)
    holder, key = data.draw(st.sampled_from(places))
    holder[key] = data.draw(ODD)
    # Rebuilding keeps the binary part as it was.
    text = json.dumps(document).encode()
    text += b" " * (-len(text) % 4)
    body = struct.pack("<II", len(text), 0x4E4F534A) + text + raw[20 + length :]
    file = tmp_path / "odd.glb"
    file.write_bytes(struct.pack("<4sII", b"glTF", 2, 12 + len(body)) + body)
    read_or_refuse(file)


@pytest.mark.parametrize("count", [2**31 - 1, 2**32 - 1, 2**40])
def test_a_header_that_claims_gigabytes(tmp_path: Path, count: int) -> None:
    """Numbers in a header are not believed before the file has that much."""
    accessors = [{"bufferView": 0, "componentType": 5126, "count": count, "type": "VEC3"},
                 {"componentType": 5125, "count": count, "type": "SCALAR"}]  # fmt: skip
    file = glb(tmp_path / "claims.glb", accessors=accessors)
    with pytest.raises(ModelError):
        core.read_model(file)
    with pytest.raises(ModelError):
        core.read_model(glb(tmp_path / "empty.glb", accessors=[
            {"componentType": 5126, "count": count, "type": "VEC3"}, accessors[1]]))  # fmt: skip


def test_nodes_in_a_ring_of_many(tmp_path: Path) -> None:
    """Each node calls the next twice: without a limit that is 2¹⁰⁰ parts."""
    nodes = [{"children": [n + 1, n + 1]} for n in range(100)] + [{"mesh": 0}]
    with pytest.raises(ModelError, match="ring"):
        core.read_model(glb(tmp_path / "ring.glb", nodes=nodes))


def test_a_mirrored_part_keeps_its_outside(tmp_path: Path) -> None:
    nodes = [{"mesh": 0, "scale": [-1, 1, 1]}]
    model = core.read_model(glb(tmp_path / "m.glb", nodes=nodes))
    low, high = model.bounds()
    assert low[0] == pytest.approx(-1)
    assert high[0] == pytest.approx(0)
    scene = core.Scene()
    scene.add_model(tmp_path / "m.glb")
    scene.add_source(
        core.sources.SkySource("sky", core.sky.cie_sky(5, 40, horizontal_illuminance_lx=1000.0))
    )
    film = core.render(scene, core.View((-0.3, -3, 0.3), (-0.3, 0, 0.3), 50, 32, 32), samples=4)
    assert np.isfinite(film.beauty).all()
    assert film.beauty[16, 16].max() > 0


def test_names_that_are_not_text(tmp_path: Path) -> None:
    """Names in another encoding: the file is refused or opens with what could be read."""
    raw = glb(tmp_path / "n.glb").read_bytes().replace(b'"left"', b'"\xff\xfe\xe4"')
    (tmp_path / "n.glb").write_bytes(raw)
    read_or_refuse(tmp_path / "n.glb")
    (tmp_path / "w.obj").write_bytes(OBJ.encode().replace(b"red", b"r\xe4t"))
    model = core.read_model(tmp_path / "w.obj")
    assert model.triangle_count == 2


@pytest.mark.parametrize("size", [(1, 1), (3, 7), (16_384, 16_384)])
def test_textures_of_any_size(tmp_path: Path, size: tuple[int, int]) -> None:
    """One of 16k is made smaller with a remark instead of being taken for an attack."""
    made = io.BytesIO()
    Image.new("L", size, 128).save(made, "png")
    (tmp_path / "brick.png").write_bytes(made.getvalue())
    file = glb(
        tmp_path / "t.glb",
        materials=[{"name": "wall", "pbrMetallicRoughness": {"baseColorTexture": {"index": 0}}}],
        textures=[{"source": 0}], images=[{"uri": "brick.png"}],
    )  # fmt: skip
    model = core.read_model(file)
    texture = model.materials[0].base_texture
    assert texture is not None
    assert max(texture.pixels.shape) <= MAX_TEXTURE_PX
    assert any("reduced" in r for r in model.remarks) == (size[0] > MAX_TEXTURE_PX)


def test_a_zip_cannot_leave_its_folder(tmp_path: Path) -> None:
    """Paths that climb out land inside, or the zip is refused."""
    file = tmp_path / "trick.zip"
    with zipfile.ZipFile(file, "w") as packed:
        packed.writestr("../../outside.obj", OBJ)
        packed.writestr("/tmp/absolute.obj", OBJ)
    folder = tmp_path / "in" / "here"
    folder.mkdir(parents=True)
    for found in unpacked(file, folder):
        assert folder in found.parents
    assert not (tmp_path / "outside.obj").exists()
    assert sorted(p.name for p in folder.rglob("*.obj")) == ["absolute.obj", "outside.obj"]


def test_a_zip_may_write_names_as_it_likes(tmp_path: Path) -> None:
    """Capital letters and the other slash, as some packers write them."""
    file = tmp_path / "pack.zip"
    with zipfile.ZipFile(file, "w") as packed:
        for name, text in (
            ("House\\HOUSE.OBJ", OBJ),
            ("House\\TEX\\", ""),
            ("House\\house.mtl", ""),
        ):
            packed.writestr(name, text)
    (found,) = unpacked(file, tmp_path / "out")
    assert found == tmp_path / "out" / "House" / "HOUSE.OBJ"
    assert core.read_model(found).triangle_count


def test_of_several_models_in_a_zip_the_largest_comes_first(tmp_path: Path) -> None:
    file = tmp_path / "pack.zip"
    with zipfile.ZipFile(file, "w") as packed:
        packed.writestr("annex.obj", OBJ)
        packed.writestr("house.obj", OBJ + "# and much more\n" * 20)
        packed.writestr("__MACOSX/._house.obj", "junk" * 900)
    assert [p.name for p in unpacked(file, tmp_path / "out")] == ["house.obj", "annex.obj"]


def test_a_zip_that_unpacks_without_end(tmp_path: Path) -> None:
    file = tmp_path / "bomb.zip"
    with zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED) as packed:
        packed.writestr("a.obj", b"0" * 50_000_000)
    raw = bytearray(file.read_bytes())
    # The directory claims ten bytes; what comes out is far more.
    at = raw.rindex(b"PK\x01\x02")
    raw[at + 24 : at + 28] = struct.pack("<I", 10)
    file.write_bytes(raw)
    folder = tmp_path / "out"
    folder.mkdir()
    with pytest.raises(ModelError):
        unpacked(file, folder)
    assert sum(p.stat().st_size for p in folder.rglob("*") if p.is_file()) < 1_000_000


def test_a_building_far_from_the_origin_is_drawn(tmp_path: Path) -> None:
    """On survey coordinates floats are coarse; nothing may turn into no number."""
    write_glb(Model([Part("slab", Mesh.single(
        "slab", [[0, 0, 0], [4, 0, 0], [4, 4, 0], [0, 4, 0]], [[0, 1, 2], [0, 2, 3]],
        Material(0.5, name="stone")))]), tmp_path / "far.glb")  # fmt: skip
    model = core.read_model(tmp_path / "far.glb")
    away = np.eye(4)
    away[:3, 3] = [3_400_000, 5_600_000, 0]
    scene = core.Scene()
    for part in model.parts:
        placed = part.mesh.vertices + away[:3, 3]
        scene.add_mesh(placed, part.mesh.faces, part.mesh.materials[0], name=part.name)
    scene.add_source(
        core.sources.SkySource("sky", core.sky.cie_sky(5, 40, horizontal_illuminance_lx=10_000.0))
    )
    view = core.View((3_400_002, 5_600_002, 10), (3_400_002, 5_600_002.01, 0), 35, 16, 16)
    assert np.isfinite(core.render(scene, view, samples=2).beauty).all()


@pytest.mark.parametrize("up", list(UPRIGHT))
def test_any_axis_can_be_up(tmp_path: Path, up: str) -> None:
    """The axis named points up, the building is not mirrored, and dragging up finds it again."""
    file = glb(tmp_path / "a.glb")
    plain, stood = core.read_model(file, "z"), core.read_model(file, up)
    axis = "xyz".index(up[-1])
    sign = -1 if up.startswith("-") else 1
    for before, after in zip(plain.parts, stood.parts, strict=True):
        assert after.matrix[2, 3] == pytest.approx(sign * before.matrix[axis, 3], abs=1e-9)
        assert np.linalg.det(after.matrix) == pytest.approx(np.linalg.det(before.matrix))
    assert np.linalg.det(UPRIGHT[up]) == pytest.approx(1)
    for other, turn in UPRIGHT.items():
        # Where the axis shows in another stand; dragging up there brings it up.
        shows = turn @ (sign * np.eye(3)[axis])
        assert up_towards(other, shows) == up
