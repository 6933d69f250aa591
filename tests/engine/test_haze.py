"""Haze whose machine code is not there yet: the picture goes on without it, says so, and shows it once it can."""

from __future__ import annotations

import os
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from westlight.core import compiled
from westlight.engine import apart as apart_module
from westlight.engine import sessions
from westlight.engine.haze import HazyKernel
from westlight.engine.live import Shared
from westlight.engine.sessions import Engine
from westlight.engine.spec import HazeSettings, PictureSpec

from .stage import spec


class Slow(HazyKernel):
    """Machine code that is there when a test says so."""

    def __init__(self) -> None:
        self.done = self.failed = False
        self.asked: list[bool] = []

    @property
    def ready(self) -> bool:
        return self.done

    @property
    def seconds(self) -> float:
        return 42.0 if self.asked else 0.0

    def begin(self, gently: bool = False) -> None:
        if not self.done:
            self.asked.append(gently)


def seen(engine: Engine, sent: list[tuple[dict[str, Any], bytes]]) -> dict[str, Any]:
    """The last frame once the engine comes to rest."""
    for _ in range(40_000):
        if not engine.work():
            break
    return next(head for head, _ in reversed(sent) if head["kind"] == "frame")


def hazy(room: Path) -> PictureSpec:
    return spec(room, most=1).model_copy(update={"air": [HazeSettings(visibility_m=8.0)]})


def test_the_picture_goes_on_without_haze_until_it_can_be_traced(
    room: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    slow = Slow()
    sent: list[tuple[dict[str, Any], bytes]] = []
    engine = Engine(lambda _, head, body: sent.append((head, body)), shared=Shared(haze=slow))
    engine.show("tab", hazy(room))
    head = seen(engine, sent)
    assert "without it" in head["doubt"]
    assert "40 s" in head["doubt"]
    assert slow.asked[0] is False
    live = engine.session("tab")
    assert live is not None
    assert not live.prepared.hazy
    clear = live.drawing().picture.copy()
    # From time to time it says how far it is, without tracing anything.
    passes, frames = head["passes"], len(sent)
    monkeypatch.setattr(sessions, "TELL_S", 0.0)
    assert engine.work()
    monkeypatch.undo()
    assert seen(engine, sent)["passes"] == passes
    assert len(sent) > frames

    slow.done = True
    head = seen(engine, sent)
    assert head["doubt"] is None
    assert live.prepared.hazy
    assert np.abs(live.drawing().picture - clear).mean() > 0.02 * clear.mean()


def test_haze_that_cannot_be_compiled_is_said_to_be_so(room: Path) -> None:
    slow = Slow()
    slow.failed = True
    sent: list[tuple[dict[str, Any], bytes]] = []
    engine = Engine(lambda _, head, body: sent.append((head, body)), shared=Shared(haze=slow))
    engine.show("tab", hazy(room))
    assert "could not be prepared" in seen(engine, sent)["doubt"]


def test_it_is_made_ahead_while_nobody_works(room: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """Gently, after a minute without a word from any page, and not before."""
    slow = Slow()
    engine = Engine(lambda *_: None, shared=Shared(haze=slow))
    now = sessions.time.monotonic()
    engine.work()
    assert slow.asked == []
    monkeypatch.setattr(sessions.time, "monotonic", lambda: now + sessions.IDLE_S + 1)
    engine.show("tab", spec(room, most=1))
    engine.work()
    assert slow.asked == []
    monkeypatch.setattr(sessions.time, "monotonic", lambda: now + 3 * sessions.IDLE_S)
    engine.work()
    assert slow.asked == [True]


@pytest.fixture
def kernels(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[Path]:
    """A folder of kernels for these sources, without those for haze."""
    monkeypatch.setenv("WESTLIGHT_KERNELS", str(tmp_path / "kept"))
    before = compiled.numba.config.CACHE_DIR
    yield compiled.keep_kernels()
    compiled.numba.config.CACHE_DIR = before


def test_a_process_makes_it_in_a_folder_of_its_own(kernels: Path) -> None:
    (kernels / "known.txt").write_text("there before")
    made = HazyKernel(
        "import os, pathlib; f = pathlib.Path(os.environ['WESTLIGHT_KERNELS']); "
        "assert next(f.glob('*/known.txt')).read_text() == 'there before'"
    )
    assert not made.ready
    made.begin(gently=True)
    apart = made._apart
    assert apart is not None
    assert apart.folder != kernels
    made.begin()
    assert made._apart == apart
    assert made.wait()
    assert (kernels / "hazy").exists()
    assert not apart.folder.exists()
    assert HazyKernel().ready


def test_a_process_that_fails_is_logged_and_not_begun_again(kernels: Path) -> None:
    made = HazyKernel("raise SystemExit('no room')")
    made.begin()
    assert not made.wait()
    assert made.failed
    made.begin()
    assert made.seconds == 0
    assert not (kernels / "hazy").exists()


@pytest.mark.parametrize("step", ["copytree", "merge_kernels"])
def test_a_full_disk_costs_the_haze_and_nothing_else(
    tmp_path: Path, kernels: Path, monkeypatch: pytest.MonkeyPatch, step: str
) -> None:
    monkeypatch.setattr(apart_module.tempfile, "tempdir", str(tmp_path))

    def full(*_: object) -> None:
        raise OSError(28, "No space left on device")

    where = apart_module.shutil if step == "copytree" else apart_module
    monkeypatch.setattr(where, step, full)
    made = HazyKernel("pass")
    made.begin()
    assert not made.wait()
    assert made.failed
    assert made._apart is None
    assert not list(tmp_path.glob("wl-kernels-*"))
    assert not (kernels / "hazy").exists()


def test_folders_of_the_killed_are_swept(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, kernels: Path
) -> None:
    monkeypatch.setattr(apart_module.tempfile, "tempdir", str(tmp_path))
    old, new = tmp_path / "wl-kernels-old", tmp_path / "wl-kernels-new"
    for folder in (old, new):
        folder.mkdir()
    os.utime(old, (0, 0))
    made = HazyKernel("pass")
    made.begin()
    made.close()
    assert not old.exists()
    assert new.exists()
