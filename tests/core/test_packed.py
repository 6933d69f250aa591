"""Pictures of a building that was read before: unpacked when they are asked for, and once in memory."""

from __future__ import annotations

import io
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from westlight import core
from westlight.core.model.packed import PackedTexture
from westlight.core.model.parts import Mesh, Missing, Model, Part
from westlight.core.model.write import write_glb
from westlight.core.transport import layout as L
from westlight.core.transport.build import GeometryBuild

WRAP = ("repeat", "clamp")


@pytest.fixture(autouse=True)
def _folder(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("WESTLIGHT_REMEMBERED", str(tmp_path / "kept"))


def picture(seed: int, height: int = 300, width: int = 200) -> np.ndarray:
    """Pixels unlike those of another seed."""
    return np.random.default_rng(seed).integers(0, 255, (height, width, 4), np.uint8)


def encoded(pixels: np.ndarray) -> bytes:
    """A PNG file of some pixels."""
    out = io.BytesIO()
    Image.fromarray(pixels).save(out, "PNG")
    return out.getvalue()


def sheet(paint: core.Material) -> Mesh:
    """A square metre with a picture on all of it."""
    at = np.array([[0, 0], [1, 0], [1, 1], [0, 1]], np.float32)
    points = np.column_stack([at, np.zeros(4, np.float32)])
    return Mesh.single("sheet", points, np.array([[0, 1, 2], [0, 2, 3]]), paint, uvs=at)


def building(folder: Path) -> Path:
    """A GLB with two textures."""
    paint = core.Material(1.0, base_texture=core.Texture("oak", picture(1), True, WRAP),
                          normal_texture=core.Texture("dents", picture(2, 64, 64), False))  # fmt: skip
    mesh = sheet(paint)
    file = folder / "b.glb"
    write_glb(Model([Part("floor", mesh)], []), file)
    return file


def test_both_ways_of_reading_agree(tmp_path: Path) -> None:
    """Pixels, sizes, ways on and the arrays that are traced: the same, the first time and from disk."""
    file = building(tmp_path)
    at_once = core.read_model(file)
    wanted = GeometryBuild(at_once.parts)
    for _ in range(2):
        later = core.read_model(file, lazily=True)
        for a, b in zip(at_once.materials, later.materials, strict=True):
            for name in ("base_texture", "normal_texture"):
                x, y = getattr(a, name), getattr(b, name)
                assert isinstance(y, PackedTexture)
                assert (x.size, x.srgb, x.wrap) == (y.size, y.srgb, y.wrap)
                np.testing.assert_array_equal(x.pixels, y.pixels)
        build = GeometryBuild(later.parts)
        np.testing.assert_array_equal(build.texels, wanted.texels)
        np.testing.assert_array_equal(build.texture_ints, wanted.texture_ints)


def test_once_in_memory(tmp_path: Path) -> None:
    """What was built lends its pixels to the textures, whatever they were before."""
    for lazily in (True, False):
        model = core.read_model(building(tmp_path), lazily=lazily)
        build = GeometryBuild(model.parts)
        for texture in (model.materials[0].base_texture, model.materials[0].normal_texture):
            assert texture is not None
            assert np.shares_memory(texture.pixels, build.texels)


def test_an_opened_building_is_not_unpacked_again(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """The second opening reads what the first one made."""
    file = building(tmp_path)
    GeometryBuild(core.read_model(file, lazily=True).parts)

    def never(packed: bytes) -> None:
        raise AssertionError("a picture was unpacked")

    monkeypatch.setattr("westlight.core.model.packed.unpacked", never)
    GeometryBuild(core.read_model(file, lazily=True).parts)


def test_small_copies_have_the_mean(tmp_path: Path) -> None:
    """Of light for colours, of numbers for the rest, whatever the size."""
    textures = [core.Texture("a", picture(1), False), core.Texture("b", picture(2, 300, 3), False)]
    paints = [core.Material(1.0, base_texture=t) for t in textures]
    mesh = [Part(t.name, sheet(m)) for t, m in zip(textures, paints, strict=True)]  # fmt: skip
    build = GeometryBuild(mesh)
    for row, texture in enumerate(textures):
        first, w, h = build.texture_ints[row, L.T_SMALL : L.T_SMALL + 3]
        small = build.texels[first : first + w * h].reshape(h, w, 4)
        step = texture.size[0] // h
        whole = texture.pixels[: h * step, : w * step]
        assert np.abs(small.mean(axis=(0, 1)) - whole.mean(axis=(0, 1))).max() < 0.2


def test_a_damaged_picture_is_missing_both_ways(tmp_path: Path) -> None:
    """It costs a remark, not the building, and is not taken for sound later."""
    file = building(tmp_path)
    png = encoded(picture(1))
    raw = file.read_bytes()
    at = raw.index(png[:200])
    file.write_bytes(raw[: at + 60] + b"\x00" * (len(png) - 60) + raw[at + len(png) :])
    for lazily in (False, True, True):
        model = core.read_model(file, lazily=lazily)
        assert model.materials[0].base_texture is None
        assert model.materials[0].normal_texture is not None
        assert any(isinstance(r, Missing) for r in model.remarks)
