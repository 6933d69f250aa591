"""Pictures from anywhere as light: files written by hand or by other writers, held against closed forms."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import OpenImageIO as oiio
import pytest

from westlight.core.colour.spaces import (
    AP1_TO_XYZ,
    SRGB_TO_AP1,
    XYZ_TO_AP1,
    adaptation_matrix,
    rgb_to_xyz_matrix,
)
from westlight.core.errors import PictureFileError
from westlight.core.files import read_linear
from westlight.core.sky import Hdri
from westlight.core.sky.hdri import row_solid_angles

#: Primaries and white of other spaces, from their own publications.
AP0 = [0.7347, 0.2653, 0.0, 1.0, 0.0001, -0.077, 0.32168, 0.33767]
REC2020 = [0.708, 0.292, 0.170, 0.797, 0.131, 0.046, 0.3127, 0.3290]
P3 = [0.680, 0.320, 0.265, 0.690, 0.150, 0.060, 0.3127, 0.3290]


def exr(
    path: Path, pixels: np.ndarray, names: tuple[str, ...] = ("R", "G", "B"), **more: object
) -> Path:
    """An EXR of some channels, written by the library alone."""
    height, width, count = pixels.shape
    spec = oiio.ImageSpec(width, height, count, oiio.FLOAT)
    spec.channelnames = names
    for key, value in more.items():
        if key == "chromaticities":
            spec.attribute(key, oiio.TypeDesc("float[8]"), value)
        elif key == "window":
            spec.x, spec.y, spec.full_x, spec.full_y, spec.full_width, spec.full_height = value  # type: ignore[misc]
    out = oiio.ImageOutput.create(str(path))
    out.open(str(path), spec)
    out.write_image(np.ascontiguousarray(pixels, np.float32))
    out.close()
    return path


@pytest.mark.parametrize("space", [AP0, REC2020, P3])
def test_primaries_of_the_file_count(tmp_path: Path, space: list[float]) -> None:
    """A colour given in XYZ is the same light whatever space it was written in."""
    xy = np.array(space).reshape(4, 2)
    to_xyz = rgb_to_xyz_matrix(xy[:3], xy[3])
    wanted = np.array([[[0.4, 0.3, 0.2], [5.0, 6.0, 7.0]]])
    stored = wanted @ np.linalg.inv(to_xyz).T
    got = read_linear(exr(tmp_path / "a.exr", stored, chromaticities=space))
    adapted = wanted @ adaptation_matrix(xy[3], [0.32168, 0.33767]).T
    assert got @ AP1_TO_XYZ.T == pytest.approx(adapted, rel=1e-4)


@pytest.mark.parametrize("space", [
    [0.64, 0.33, 0.3, 0.6, 0.15, 0.06, 1e30, 0.329], [1e20, 0.33, 0.3, 1e20, 0.15, 1e20, 0.3127, 0.329],
    [np.nan] * 8, [0.3] * 8, [0.64, 0.33, 0.3, 0.6, 0.15, 0.06, 0.3127, 0.0], [0.5, 0.25] * 4,
    [0.64, 0.33, 0.3, 0.6, 0.15, 0.06, 0.3127, 1e-30],
])  # fmt: skip
def test_primaries_that_cannot_be_are_those_of_screens(tmp_path: Path, space: list[float]) -> None:
    """Damaged headers cost no light."""
    pixels = np.full((2, 3, 3), 0.5, np.float32)
    file = exr(tmp_path / "a.exr", pixels, chromaticities=space)
    assert read_linear(file) == pytest.approx(pixels @ SRGB_TO_AP1.T, rel=1e-4)


def test_a_frame_that_cannot_be_is_refused(tmp_path: Path) -> None:
    """Reduced to the width that is wanted, nothing would be left of the picture in it."""
    pixels = np.full((2, 3, 3), 0.5, np.float32)
    file = exr(tmp_path / "a.exr", pixels, window=(0, 0, 0, 0, 200_000, 2))
    with pytest.raises(PictureFileError, match="damaged"):
        read_linear(file, 8192)


def test_channels_are_found_by_name(tmp_path: Path) -> None:
    """Depth before colour, a layer before the main one, colour in a layer alone."""
    rng = np.random.default_rng(1)
    pixels = rng.random((4, 6, 5)).astype(np.float32)
    main = read_linear(exr(tmp_path / "a.exr", pixels, ("Z", "mask.Y", "R", "G", "B")))
    assert main == pytest.approx(pixels[..., 2:] @ SRGB_TO_AP1.T, rel=1e-4)
    layer = read_linear(exr(tmp_path / "b.exr", pixels, ("Z", "U.Y", "sky.R", "sky.G", "sky.B")))
    assert layer == pytest.approx(pixels[..., 2:] @ SRGB_TO_AP1.T, rel=1e-4)


def test_the_first_part_need_not_be_the_picture(tmp_path: Path) -> None:
    """A file of two parts, depth first."""
    path = tmp_path / "parts.exr"
    depth, colour = oiio.ImageSpec(6, 4, 1, oiio.FLOAT), oiio.ImageSpec(6, 4, 3, oiio.FLOAT)
    depth.channelnames = ("Z",)
    depth.attribute("oiio:subimagename", "depth")
    colour.attribute("oiio:subimagename", "rgb")
    pixels = np.random.default_rng(2).random((4, 6, 3)).astype(np.float32)
    out = oiio.ImageOutput.create(str(path))
    out.open(str(path), (depth, colour))
    out.write_image(np.full((4, 6, 1), 9.0, np.float32))
    out.open(str(path), colour, "AppendSubimage")
    out.write_image(pixels)
    out.close()
    assert read_linear(path) == pytest.approx(pixels @ SRGB_TO_AP1.T, rel=1e-4)


def test_luminance_and_chroma_are_refused_in_words(tmp_path: Path) -> None:
    pixels = np.ones((4, 8, 3), np.float32)
    with pytest.raises(PictureFileError, match="chroma"):
        read_linear(exr(tmp_path / "yc.exr", pixels, ("Y", "RY", "BY")))


def test_a_part_of_the_frame_stays_in_its_place(tmp_path: Path) -> None:
    """What is stored is a window of the picture: the rest is black, what lies outside is cut."""
    pixels = np.ones((2, 3, 3), np.float32)
    got = read_linear(exr(tmp_path / "w.exr", pixels, window=(4, 1, 0, 0, 8, 4)))
    assert got.shape == (4, 8, 3)
    assert got[1:3, 4:7] == pytest.approx(1.0, rel=1e-4)
    assert got.sum() == pytest.approx(18.0, rel=1e-4)
    over = read_linear(
        exr(tmp_path / "o.exr", np.ones((6, 10, 3), np.float32), window=(-1, -1, 0, 0, 8, 4))
    )
    assert over.shape == (4, 8, 3)
    assert over == pytest.approx(1.0, rel=1e-4)


def picture() -> np.ndarray:
    """Bytes (4, 8, 3) of which no two rows or columns are alike, all with one exponent."""
    y, x = np.indices((4, 8))
    return np.stack([100 + 10 * y, 120 + 5 * x, 90 + 7 * y + x], axis=2).astype(np.uint8)


def radiance(
    path: Path, words: bytes, size: str = "-Y 4 +X 8", head: str = "FORMAT=32-bit_rle_rgbe"
) -> Path:
    path.write_bytes(b"#?RADIANCE\n" + head.encode() + b"\n\n" + size.encode() + b"\n" + words)
    return path


def flat(values: np.ndarray) -> bytes:
    """Pixels without run lengths, exponent 129: bytes / 128."""
    four = np.concatenate([values, np.full((*values.shape[:2], 1), 129, np.uint8)], axis=2)
    return four.astype(np.uint8).tobytes()


WANTED = (picture() / 128.0) @ SRGB_TO_AP1.T


@pytest.mark.parametrize(
    ("size", "turned"),
    [
        ("-Y 4 +X 8", lambda p: p),
        ("+Y 4 +X 8", lambda p: p[::-1]),
        ("-Y 4 -X 8", lambda p: p[:, ::-1]),
        ("+Y 4 -X 8", lambda p: p[::-1, ::-1]),
        ("+X 8 -Y 4", lambda p: p.swapaxes(0, 1)),
        ("-X 8 +Y 4", lambda p: p[::-1, ::-1].swapaxes(0, 1)),
    ],
)  # fmt: skip
def test_radiance_pictures_stand_upright(tmp_path: Path, size: str, turned: object) -> None:
    """The same picture stored in six ways."""
    stored = turned(picture())  # type: ignore[operator]
    assert read_linear(radiance(tmp_path / "a.hdr", flat(stored), size)) == pytest.approx(
        WANTED, rel=1e-4
    )


def test_radiance_headers_are_heard(tmp_path: Path) -> None:
    """Exposures multiply, colour correction is taken out, primaries count."""
    head = "FORMAT=32-bit_rle_rgbe\nEXPOSURE=2\nEXPOSURE=1.5\nCOLORCORR=1 2 4"
    got = read_linear(radiance(tmp_path / "a.hdr", flat(picture()), head=head))
    plain = picture() / 128.0 / 3.0 / np.array([1, 2, 4])
    assert got == pytest.approx(plain @ SRGB_TO_AP1.T, rel=1e-4)
    named = "FORMAT=32-bit_rle_rgbe\nPRIMARIES=" + " ".join(map(str, REC2020))
    xy = np.array(REC2020).reshape(4, 2)
    matrix = (
        XYZ_TO_AP1 @ adaptation_matrix(xy[3], [0.32168, 0.33767]) @ rgb_to_xyz_matrix(xy[:3], xy[3])
    )
    got = read_linear(radiance(tmp_path / "b.hdr", flat(picture()), head=named))
    assert got == pytest.approx((picture() / 128.0) @ matrix.T, rel=1e-4)


def test_radiance_xyz_and_old_run_lengths(tmp_path: Path) -> None:
    """Pixels as XYZ; runs of the first years, one longer than a byte."""
    xyz = read_linear(radiance(tmp_path / "x.hdr", flat(picture()), head="FORMAT=32-bit_rle_xyze"))
    assert xyz == pytest.approx((picture() / 128.0) @ XYZ_TO_AP1.T, rel=1e-4)
    pixel = bytes([64, 32, 16, 129])
    # 1 pixel, then 2 + 256 · 1 more of it, then 41 others: 300 in all.
    rest = bytes([8, 8, 8, 129]) + bytes([1, 1, 1, 40])
    words = pixel + bytes([1, 1, 1, 2]) + bytes([1, 1, 1, 1]) + rest
    got = read_linear(radiance(tmp_path / "o.hdr", 2 * words, "-Y 2 +X 300"))
    plain = np.empty((2, 300, 3))
    plain[:, :259], plain[:, 259:] = np.array([64, 32, 16]) / 128, 8 / 128
    assert got == pytest.approx(plain @ SRGB_TO_AP1.T, rel=1e-4)
    with pytest.raises(PictureFileError, match=r"o\.hdr.*cut short"):
        read_linear(radiance(tmp_path / "o.hdr", words, "-Y 2 +X 300"))


def test_rows_of_a_pfm_run_upwards(tmp_path: Path) -> None:
    pixels = np.arange(96, dtype="<f4").reshape(4, 8, 3)
    path = tmp_path / "a.pfm"
    path.write_bytes(b"PF\n8 4\n-1.0\n" + pixels[::-1].tobytes())
    assert read_linear(path) == pytest.approx(pixels @ SRGB_TO_AP1.T, rel=1e-4, abs=1e-5)


def test_ringing_neither_adds_nor_takes_light() -> None:
    """Negative pixels beside a bright sun: none is left, and the sky gives the light it was meant to."""
    rng = np.random.default_rng(3)
    pixels = rng.random((64, 128, 3)).astype(np.float32)
    pixels[20:24, 60:64] += 400
    pixels[19, 59:65] = pixels[24, 59:65] = -200
    weights = row_solid_angles(64, 128)[:, None, None]
    wanted = (pixels * weights).sum(axis=(0, 1))
    cut = (np.maximum(pixels, 0) * weights).sum(axis=(0, 1))
    sky = Hdri.of(pixels)
    got = (sky.pixels * weights).sum(axis=(0, 1))
    assert (cut > 1.1 * wanted).all()
    assert got == pytest.approx(wanted, rel=1e-3)
    assert sky.pixels.min() >= 0
    # The sun itself keeps most of its height; far away nothing changes much.
    assert sky.pixels.max() > 100
    assert any("no light" in r for r in sky.remarks)


@pytest.mark.parametrize("word", [b"chlist", b"float", b"box2i"])
def test_a_header_that_is_no_text_is_refused_in_words(tmp_path: Path, word: bytes) -> None:
    """The library quotes the header in what it says, where Python expects text."""
    file = exr(tmp_path / "a.exr", np.ones((4, 8, 3)))
    file.write_bytes(file.read_bytes().replace(word, b"\xff" + word[1:], 1))
    with pytest.raises(PictureFileError, match=r"a\.exr"):
        read_linear(file)
