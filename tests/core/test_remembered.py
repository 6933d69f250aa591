"""What is kept of a building on disk: found again, never trusted blindly, bounded."""

from __future__ import annotations

from pathlib import Path
from typing import IO

import numpy as np
import pytest

from westlight import core
from westlight.core import remembered as module
from westlight.core.remembered import key_of, mapped, nothing_remembered, remembered

from .shapes import box


@pytest.fixture
def folder(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    """A folder of its own."""
    monkeypatch.setenv("WESTLIGHT_REMEMBERED", str(tmp_path / "kept"))
    return tmp_path / "kept"


class Maker:
    """Makes arrays, and counts how often."""

    def __init__(self) -> None:
        self.times = 0

    def __call__(self) -> dict[str, np.ndarray]:
        self.times += 1
        return {"a": np.arange(5, dtype=np.int16), "names": np.array(["window", "dör"])}


def test_made_once_and_found_again(folder: Path) -> None:
    """The same bits, types and names."""
    make = Maker()
    for _ in range(3):
        found = remembered("x", "k", make)
        assert found["a"].dtype == np.int16
        assert found["a"].tolist() == [0, 1, 2, 3, 4]
        assert found["names"].tolist() == ["window", "dör"]
    assert make.times == 1
    remembered("x", "another", make)
    assert make.times == 2


@pytest.mark.parametrize("damage", [b"", b"PK\x03\x04 not a zip", b"\x00" * 400])
def test_a_damaged_file_costs_time_only(folder: Path, damage: bytes) -> None:
    """It is made anew and written over."""
    make = Maker()
    remembered("x", "k", make)
    file = next(folder.glob("*.npz"))
    file.write_bytes(damage)
    assert remembered("x", "k", make)["a"].tolist() == [0, 1, 2, 3, 4]
    assert make.times == 2
    remembered("x", "k", make)
    assert make.times == 2


def test_without_a_folder_everything_is_made(monkeypatch: pytest.MonkeyPatch) -> None:
    """Switched off, or nowhere to write."""
    for nowhere in ("", "/proc/nothing/here"):
        monkeypatch.setenv("WESTLIGHT_REMEMBERED", nowhere)
        make = Maker()
        remembered("x", "k", make)
        remembered("x", "k", make)
        assert make.times == 2


def test_what_was_used_least_recently_goes(folder: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """The folder stays below its limit."""
    monkeypatch.setattr(module, "MOST_BYTES", 40_000)
    for n in range(8):
        remembered("x", f"{n}", lambda: {"a": np.zeros(2000)})
    assert sum(f.stat().st_size for f in folder.glob("*.npz")) <= 40_000
    assert (folder / "x-7.npz").exists()
    assert not (folder / "x-0.npz").exists()


def test_keys_tell_content_type_and_shape_apart() -> None:
    """And are the same for the same."""
    a = np.arange(6, dtype=np.float32)
    assert key_of(a, 1) == key_of(a.copy(), 1)
    others = [a + 1, a.astype(np.float64), a.reshape(2, 3), a[::-1]]
    assert len({key_of(x, 1) for x in [a, *others]} | {key_of(a, 2)}) == 6


def test_a_building_looks_the_same_from_what_was_remembered(folder: Path) -> None:
    """Portals looked around anew or found on disk: the same picture, bit for bit; another wall is looked around."""

    def picture(width: float) -> np.ndarray:
        scene = core.Scene()
        box(scene, (0, 0, 0), (4, 4, 0.1), core.Material(0.5))
        box(scene, (0, 0, 2.5), (4, 4, 2.6), core.Material(0.5))
        box(scene, (0, 0, 0), (0.1, width, 2.5), core.Material(0.5))
        scene.add_source(core.sources.SkySource("sky", core.sky.clear_sky(40.0)))
        scene.add_portal((0, 3.0, 1.2), (1, 0, 0), 1.5, 1.5)
        view = core.View((3, 1, 1.5), (0.5, 2, 1), width_px=32, height_px=24)
        return core.render(scene, view, samples=2, bounces=2).beauty

    first = picture(2.0)
    files = set(folder.glob("portals-*"))
    assert len(files) == 1
    assert np.array_equal(picture(2.0), first)
    assert set(folder.glob("portals-*")) == files
    assert not np.array_equal(picture(1.0), first)
    assert len(set(folder.glob("portals-*"))) == 2


def test_nothing_is_remembered_for_a_while(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """What was kept is worked out anew, and kept no better; afterwards it is found again."""
    monkeypatch.setenv("WESTLIGHT_REMEMBERED", str(tmp_path / "kept"))
    made = []

    def make() -> dict[str, np.ndarray]:
        made.append(1)
        return {"a": np.array([len(made)])}

    assert remembered("x", "key", make)["a"] == 1
    with nothing_remembered():
        assert remembered("x", "key", make)["a"] == 2
    assert remembered("x", "key", make)["a"] == 1


def test_a_large_array_is_read_where_it_lies(folder: Path) -> None:
    """Found again without being made; what one reader writes into it nobody else sees; damage costs time only."""
    made = []

    def make() -> np.ndarray:
        made.append(1)
        return np.arange(1000, dtype=np.uint8).reshape(250, 4)

    first = mapped("x", "k", make)
    first[0] = 7
    again = mapped("x", "k", make)
    assert len(made) == 1
    assert again.flags.writeable
    np.testing.assert_array_equal(again, np.arange(1000).astype(np.uint8).reshape(250, 4))
    file = next(folder.glob("*.npy"))
    file.write_bytes(file.read_bytes()[:-9])
    assert mapped("x", "k", make).shape == (250, 4)
    assert len(made) == 2
    with nothing_remembered():
        mapped("x", "k", make)
    assert len(made) == 3


@pytest.mark.parametrize("large", [True, False])
def test_nothing_stays_of_what_could_not_be_written(
    folder: Path, large: bool, monkeypatch: pytest.MonkeyPatch
) -> None:
    """On a full disk it is worked out each time, and half a file takes no room."""

    def full(out: IO[bytes], *_: object, **__: object) -> None:
        out.write(b"half of it")
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(np, "save" if large else "savez", full)
    for _ in range(2):
        if large:
            assert mapped("x", "k", lambda: np.arange(4)).tolist() == [0, 1, 2, 3]
        else:
            assert remembered("x", "k", Maker())["a"].tolist() == [0, 1, 2, 3, 4]
    assert list(folder.iterdir()) == []
