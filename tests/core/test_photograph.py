"""Photographs are read as they are shown: upright, in sRGB, on white."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pillow_heif
import pytest
from PIL import Image, ImageCms

from westlight.core.colour.profile import screen_profile
from westlight.core.errors import PictureFileError
from westlight.core.files import photograph
from westlight.core.files.photograph import read_photograph


def halves(width: int = 40, height: int = 20) -> np.ndarray:
    """Orange at the left, blue at the right."""
    pixels = np.zeros((height, width, 3), np.uint8)
    pixels[:, : width // 2], pixels[:, width // 2 :] = (230, 120, 40), (40, 80, 200)
    return pixels


@pytest.mark.parametrize("name", ["a.jpg", "a.png", "a.tif", "a.webp", "a.avif", "a.heic"])
def test_every_kind_is_read(name: str, tmp_path: Path) -> None:
    file = tmp_path / name
    if name == "a.heic":
        pillow_heif.register_heif_opener()
        Image.fromarray(halves(64, 64)).save(file, quality=95)
    else:
        Image.fromarray(halves(64, 64)).save(file, quality=95)
    read = read_photograph(file)
    assert read.shape == (64, 64, 3)
    assert np.abs(read[8:-8, 8:24].reshape(-1, 3).mean(axis=0) - (230, 120, 40)).max() < 6
    assert np.abs(read[8:-8, -24:-8].reshape(-1, 3).mean(axis=0) - (40, 80, 200)).max() < 6


def test_it_is_turned_as_the_camera_was_held(tmp_path: Path) -> None:
    """Orientation 6: to be turned a quarter clockwise; what was left is up then."""
    exif = Image.Exif()
    exif[0x0112] = 6
    Image.fromarray(halves()).save(tmp_path / "a.jpg", exif=exif, quality=95)
    read = read_photograph(tmp_path / "a.jpg")
    assert read.shape == (40, 20, 3)
    assert read[4, 10, 0] > 200 > 100 > read[-4, 10, 0]


def test_its_profile_is_applied(tmp_path: Path) -> None:
    """The same numbers in Display P3 are a stronger red; what both hold is left as it is, and a broken profile is none."""
    inner = np.full((8, 8, 3), (180, 120, 110), np.uint8)
    Image.fromarray(inner).save(tmp_path / "p3.png", icc_profile=screen_profile("Display P3"))
    shown = read_photograph(tmp_path / "p3.png")[0, 0].astype(int)
    assert shown[0] > 183
    assert shown[1] < 120
    Image.fromarray(inner).save(tmp_path / "s.png", icc_profile=screen_profile("sRGB"))
    assert np.abs(read_photograph(tmp_path / "s.png")[0, 0].astype(int) - inner[0, 0]).max() <= 1
    Image.fromarray(inner).save(tmp_path / "b.png", icc_profile=b"not a profile")
    assert read_photograph(tmp_path / "b.png")[0, 0].tolist() == [180, 120, 110]
    grey = ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()
    Image.fromarray(inner).convert("L").save(tmp_path / "g.png", icc_profile=grey)
    assert read_photograph(tmp_path / "g.png").shape == (8, 8, 3)


def test_large_clear_and_deep_ones(tmp_path: Path) -> None:
    """Reduced, laid on white, brought from sixteen bits to eight."""
    Image.fromarray(halves(4000, 1000)).save(tmp_path / "wide.jpg")
    assert read_photograph(tmp_path / "wide.jpg").shape == (400, 1600, 3)
    Image.new("RGBA", (4, 4), (0, 0, 0, 0)).save(tmp_path / "clear.png")
    assert read_photograph(tmp_path / "clear.png").min() == 255
    Image.fromarray(np.full((4, 4), 32768, np.uint16)).save(tmp_path / "deep.png")
    assert read_photograph(tmp_path / "deep.png")[0, 0].tolist() == [128, 128, 128]


def test_what_cannot_be_read_is_said_by_name(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    (tmp_path / "a.jpg").write_bytes(b"no picture")
    with pytest.raises(PictureFileError, match=r"“My photo\.jpg” is no picture"):
        read_photograph(tmp_path / "a.jpg", "My photo.jpg")
    Image.fromarray(halves(400, 200)).save(tmp_path / "b.png")
    whole = (tmp_path / "b.png").read_bytes()
    (tmp_path / "b.png").write_bytes(whole[: len(whole) // 2])
    with pytest.raises(PictureFileError, match="damaged"):
        read_photograph(tmp_path / "b.png")
    (tmp_path / "b.png").write_bytes(whole)
    monkeypatch.setattr(photograph, "MOST_PIXELS", 50_000)
    with pytest.raises(PictureFileError, match="too many pixels"):
        read_photograph(tmp_path / "b.png")
