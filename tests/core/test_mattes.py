"""Mattes with names: hashes of the open specification, what stands in the file, and what can be read back."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import OpenImageIO as oiio
import pytest

from westlight.core.files import IdMatte, name_hash, name_id, read_layers, write_exr
from westlight.core.files.mattes import channels_of, header_of


@pytest.mark.parametrize(
    ("text", "value"),
    [("", 0), ("hello", 0x248BFA47), ("hello, world", 0x149BBB7F), ("a", 0x3C2569B2),
     ("The quick brown fox jumps over the lazy dog", 0x2E4FF723)],
)  # fmt: skip
def test_hash_is_the_published_one(text: str, value: int) -> None:
    """Known values of MurmurHash3, 32 bits, seed 0."""
    assert name_hash(text) == value


def test_ids_are_floats_that_can_be_compared() -> None:
    """No name becomes zero, infinite or no number, whatever its hash."""
    ids = np.array([name_id(f"part {i}") for i in range(20_000)], np.uint32)
    exponents = (ids >> 23) & 255
    assert exponents.min() > 0
    assert exponents.max() < 255
    assert np.isfinite(ids.view(np.float32)).all()


def matte() -> IdMatte:
    """Two things: one fills the left half, they share a column in the middle."""
    ranks = np.zeros((4, 6, 4, 2), np.float32)
    ranks[:, :3, 0] = (1, 1.0)
    ranks[:, 3, 0], ranks[:, 3, 1] = (2, 0.75), (1, 0.25)
    return IdMatte("CryptoObject", ["Wall", "Pot é"], ranks)


@pytest.mark.parametrize("half", [True, False])
def test_written_ids_and_coverage_are_read_back(tmp_path: Path, half: bool) -> None:
    """Coverage of a name is found by its id from the manifest, in 32 bits even beside half floats."""
    file = tmp_path / "a.exr"
    write_exr(
        file, np.ones((4, 6, 3), np.float32), {}, half=half, mattes=[matte()], compression="piz"
    )
    opened = oiio.ImageInput.open(str(file))
    spec = opened.spec()
    pixels = np.asarray(opened.read_image(oiio.FLOAT))
    opened.close()
    assert spec.getattribute("compression") == "piz"
    header = header_of(matte())
    for key, value in header.items():
        assert spec.getattribute(key) == value
    names = list(spec.channelnames)
    manifest = json.loads(next(v for k, v in header.items() if k.endswith("manifest")))
    wanted = np.array(int(manifest["Pot é"], 16), np.uint32).view(np.float32)
    cover = np.zeros((4, 6))
    for layer in ("CryptoObject00", "CryptoObject01"):
        for i, c in ("RG", "BA"):
            ids, part = (pixels[..., names.index(f"{layer}.{x}")] for x in (i, c))
            cover += np.where(ids == wanted, part, 0)
    expected = np.zeros((4, 6))
    expected[:, 3] = 0.75
    np.testing.assert_allclose(cover, expected)
    formats = dict(zip(names, spec.channelformats or [], strict=False))
    if half:
        assert formats["CryptoObject00.R"].basetype == oiio.FLOAT
        assert formats["R"].basetype == oiio.HALF
    np.testing.assert_array_equal(read_layers(file)[""], 1.0)


def test_an_odd_number_of_ranks_is_filled_up() -> None:
    """Three things in a pixel need two layers; the fourth place is empty."""
    odd = IdMatte("CryptoMaterial", ["a"], np.ones((2, 2, 3, 2), np.float32))
    names, planes = channels_of(odd)
    assert names[-2:] == ["CryptoMaterial01.B", "CryptoMaterial01.A"]
    assert not np.any(planes[-1])
    assert np.all(planes[-3] == 1)
