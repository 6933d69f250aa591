"""The engine's process watched over: it comes back with all its sessions when it dies or gives no sign of life."""

from __future__ import annotations

import os
import signal
import threading
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest

from westlight.core.errors import WestlightError
from westlight.engine import host as host_module
from westlight.engine.host import EngineHost, EngineSession
from westlight.engine.questions import At
from westlight.engine.questions.building import Picked

from ..conftest import wait_for
from .stage import spec


@pytest.fixture
def host() -> Iterator[EngineHost]:
    """A running engine."""
    made = EngineHost()
    made.start()
    yield made
    made.close()


class Tab:
    """A session whose frames are counted."""

    def __init__(self, host: EngineHost) -> None:
        self.heads: list[dict[str, Any]] = []
        self.drawn = threading.Event()
        self.session: EngineSession = host.open(self._take)

    def _take(self, head: dict[str, Any], _: bytes) -> None:
        self.heads.append(head)
        if head["kind"] == "frame":
            self.drawn.set()

    def sees_a_picture(self) -> bool:
        """Whether a frame has come since it was last forgotten."""
        return self.drawn.is_set()

    def forget(self) -> None:
        """Wait for a new frame from here on."""
        self.drawn.clear()


def test_all_sessions_come_back_after_a_crash(host: EngineHost, room: Path) -> None:
    """The process is another one; both tabs get pictures without doing anything; what was asked is refused."""
    tabs = [Tab(host), Tab(host)]
    for n, tab in enumerate(tabs):
        tab.session.show(spec(room, most=1, azimuth=100.0 + 50 * n))
    wait_for(lambda: all(t.sees_a_picture() for t in tabs), 60)
    before = host.pid
    assert before is not None
    for tab in tabs:
        tab.forget()
    os.kill(before, signal.SIGSTOP)
    asked = tabs[0].session.ask("pick", At(x=0.5, y=0.9))
    os.kill(before, signal.SIGKILL)
    with pytest.raises(WestlightError, match="ask again"):
        asked.result(60)
    wait_for(lambda: all(t.sees_a_picture() for t in tabs), 60)
    assert host.pid != before
    answer = tabs[0].session.ask("pick", At(x=0.5, y=0.9)).result(60)
    assert isinstance(answer, Picked)
    assert answer.hit


def test_a_process_without_a_sign_of_life_is_replaced(
    host: EngineHost, room: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Stopped, not dead: the watch ends it, and the picture goes on."""
    tab = Tab(host)
    tab.session.show(spec(room, most=1))
    wait_for(tab.sees_a_picture, 60)
    before = host.pid
    assert before is not None
    monkeypatch.setattr(host_module, "SILENT_S", 4.0)
    tab.forget()
    os.kill(before, signal.SIGSTOP)
    wait_for(lambda: host.pid != before, 20)
    monkeypatch.setattr(host_module, "SILENT_S", 60.0)
    wait_for(tab.sees_a_picture, 60)


def test_a_closed_session_hears_nothing_more(host: EngineHost, room: Path) -> None:
    """And its name is not known any longer."""
    tab = Tab(host)
    tab.session.show(spec(room, most=1))
    wait_for(tab.sees_a_picture, 60)
    tab.session.close()
    with pytest.raises(WestlightError, match="reload"):
        host.session(tab.session.name)
