"""What is set up before anybody opens a page."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest

from westlight.api.ahead import WIDTH, look_ahead
from westlight.engine.host import STOPPED
from westlight.studio.studio import Studio

from ..core.test_models import glb


class Host:
    """Stands for the engine: remembers what it is to show, and whether the session is still open."""

    def __init__(self) -> None:
        self.shown: list[Any] = []
        self.open_now = False
        self.listener: Any = None

    def open(self, listener: Any) -> Host:
        """A session."""
        self.listener, self.open_now = listener, True
        return self

    def show(self, spec: Any) -> None:
        """What it is to show."""
        self.shown.append(spec)

    def close(self) -> None:
        """The session ends."""
        self.open_now = False


def test_the_building_that_was_worked_on_last_is_set_up(
    studio: Studio, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Its session ends with its first picture, or with an engine that breaks; a word on the way does not end it."""
    asked: list[str] = []
    picture = studio.scenes.picture

    def noted(project: str, *rest: Any) -> Any:
        asked.append(project)
        return picture(project, *rest)

    monkeypatch.setattr(studio.scenes, "picture", noted)
    made = [studio.projects.create(name) for name in ("One", "Two")]
    # The one that was made first is worked on last.
    for project in reversed(made):
        studio.buildings.bring(project, glb(tmp_path / "h.glb"), "h.glb")
    for last_word in ({"kind": "frame"}, {"kind": "note", "text": STOPPED}):
        host: Any = Host()
        look_ahead(studio, host)
        assert asked.pop() == made[0]
        assert host.shown[0].width_px == WIDTH
        host.listener({"kind": "note", "text": "Reading the building …"}, b"")
        assert host.open_now
        host.listener(last_word, b"")
        assert not host.open_now


def test_what_cannot_be_set_up_is_left_to_whoever_opens_it(
    studio: Studio, monkeypatch: pytest.MonkeyPatch
) -> None:
    """A project without a building, and one whose picture cannot be told."""
    host: Any = Host()
    studio.projects.create("Empty")
    look_ahead(studio, host)
    monkeypatch.setattr(studio.projects, "all", lambda: [])
    look_ahead(studio, host)

    def broken() -> list[dict[str, Any]]:
        raise OSError("the disk is gone")

    monkeypatch.setattr(studio.projects, "all", broken)
    look_ahead(studio, host)
    assert not host.shown
