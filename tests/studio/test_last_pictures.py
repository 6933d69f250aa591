"""The last picture of a view: kept as a small file, found again, never by anything but ids."""

from __future__ import annotations

import io
import os
from pathlib import Path

import pytest
from PIL import Image

from westlight.studio.errors import NotFound
from westlight.studio.last_pictures import LastPictures

PROJECT, DAY, NIGHT, DOOR = (c * 32 for c in "abcd")


def picture(colour: str, kind: str) -> bytes:
    file = io.BytesIO()
    Image.new("RGB", (64, 36), colour).save(file, kind)
    return file.getvalue()


def test_the_newest_takes_the_place_of_the_one_before(tmp_path: Path) -> None:
    kept = LastPictures(tmp_path)
    assert kept.newest(PROJECT) is None
    kept.keep(PROJECT, DAY, DOOR, picture("white", "PNG"))
    kept.keep(PROJECT, DAY, DOOR, picture("red", "JPEG"))
    with Image.open(kept.find(PROJECT, DAY, DOOR)) as found:
        assert found.format == "JPEG"
        assert found.getpixel((3, 3)) == pytest.approx((254, 0, 0), abs=3)
    kept.keep(PROJECT, NIGHT, DOOR, picture("navy", "PNG"))
    os.utime(kept.find(PROJECT, DAY, DOOR), (1, 1))
    assert kept.newest(PROJECT) == (NIGHT, DOOR)
    # Nothing is left half written.
    assert sorted(f.suffix for f in (tmp_path / PROJECT).iterdir()) == [".jpg", ".jpg"]
    kept.forget(PROJECT)
    with pytest.raises(NotFound):
        kept.find(PROJECT, DAY, DOOR)


@pytest.mark.parametrize("name", ["..", "../../etc", "A" * 32, "a" * 31, "a" * 32 + "\n", ""])
def test_only_ids_are_names(tmp_path: Path, name: str) -> None:
    kept = LastPictures(tmp_path / "here")
    for ids in ((name, DAY, DOOR), (PROJECT, name, DOOR), (PROJECT, DAY, name)):
        with pytest.raises(NotFound):
            kept.keep(*ids, picture("red", "JPEG"))
        with pytest.raises(NotFound):
            kept.find(*ids)
    assert not (tmp_path / "here").exists()
