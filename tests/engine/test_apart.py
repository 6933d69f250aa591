"""Compiling in a process beside: its folder, its failures, a full disk, and what the killed leave."""

from __future__ import annotations

import os
from collections.abc import Iterator
from pathlib import Path

import pytest

from westlight.core import compiled
from westlight.engine import apart as apart_module
from westlight.engine.apart import CompiledApart


@pytest.fixture
def kernels(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[Path]:
    """A folder of kernels for these sources, with none in it."""
    monkeypatch.setenv("WESTLIGHT_KERNELS", str(tmp_path / "kept"))
    before = compiled.numba.config.CACHE_DIR
    yield compiled.keep_kernels()
    compiled.numba.config.CACHE_DIR = before


def test_a_process_works_in_a_folder_of_its_own(kernels: Path) -> None:
    (kernels / "known.txt").write_text("there before")
    made = CompiledApart(
        "import os, pathlib; f = pathlib.Path(os.environ['WESTLIGHT_KERNELS']); "
        "assert next(f.glob('*/known.txt')).read_text() == 'there before'"
    )
    assert made.folder not in (kernels, kernels.parent)
    made.wait()
    assert made.take() is None
    assert not made.folder.exists()


def test_what_a_process_that_fails_said_is_told(kernels: Path) -> None:
    made = CompiledApart("raise SystemExit('no such kernel')")
    made.wait()
    assert made.take() == "no such kernel\n"
    assert not made.folder.exists()


def full(*_: object) -> None:
    raise OSError(28, "No space left on device")


def test_a_full_disk_leaves_nothing_behind(
    tmp_path: Path, kernels: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Before it begins and once it is done: the caller is told, and no folder stays."""
    monkeypatch.setattr(apart_module.tempfile, "tempdir", str(tmp_path))
    with monkeypatch.context() as patched:
        patched.setattr(apart_module.shutil, "copytree", full)
        with pytest.raises(OSError, match="No space"):
            CompiledApart("pass")
    assert not list(tmp_path.glob("wl-kernels-*"))
    made = CompiledApart("pass")
    made.wait()
    monkeypatch.setattr(apart_module, "merge_kernels", full)
    with pytest.raises(OSError, match="No space"):
        made.take()
    assert not list(tmp_path.glob("wl-kernels-*"))


def test_folders_of_the_killed_are_swept(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, kernels: Path
) -> None:
    monkeypatch.setattr(apart_module.tempfile, "tempdir", str(tmp_path))
    old, new = tmp_path / "wl-kernels-old", tmp_path / "wl-kernels-new"
    for folder in (old, new):
        folder.mkdir()
    os.utime(old, (0, 0))
    made = CompiledApart("pass")
    made.close()
    assert not old.exists()
    assert new.exists()
