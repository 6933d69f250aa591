"""The queue of stills: who comes first, what is put aside and freed, and mixing again."""

from __future__ import annotations

import os
import time
from pathlib import Path
from typing import Any

import pytest

from westlight.engine.still import MixOrder
from westlight.store import Still, Store
from westlight.studio.errors import BadEdit
from westlight.studio.studio import Studio

from ..core.test_models import glb


@pytest.fixture
def studio(store: Store, tmp_path: Path) -> Studio:
    """A studio with a folder of its own; its stills wait until they are started."""
    return Studio(store, tmp_path)


@pytest.fixture
def project(studio: Studio, tmp_path: Path) -> str:
    """A project with a small building."""
    made = studio.projects.create("Stills")
    studio.buildings.bring(made, glb(tmp_path / "scene.glb"), "scene.glb")
    return made


def order(studio: Studio, project: str, **wanted: Any) -> str:
    """A small still."""
    rows = studio.projects.overview(project)
    given = {
        "width_px": 32,
        "samples": 2,
        "files": ["png"],
        "noise": 1e-6,
        "seconds": 60.0,
    } | wanted
    return studio.handover.order_still(
        project, rows["looks"][0]["id"], rows["views"][0]["id"], **given
    )


def row(studio: Studio, project: str, still: str) -> dict[str, Any]:
    """What the browser is told of a still."""
    return next(s for s in studio.projects.overview(project)["stills"] if s["id"] == still)


def done(studio: Studio, project: str, *stills: str) -> list[dict[str, Any]]:
    """Rows of stills once all are done."""
    end = time.monotonic() + 120
    while time.monotonic() < end:
        found = [row(studio, project, s) for s in stills]
        if all(f["status"] in ("done", "failed") for f in found):
            return found
        time.sleep(0.1)
    raise AssertionError("The stills were not done in time.")


def test_sooner_comes_before_what_was_ordered_earlier(studio: Studio, project: str) -> None:
    """Three wait; the last is put first: it is done before the others."""
    stills = [order(studio, project) for _ in range(3)]
    studio.handover.queue.sooner(stills[2])
    ended: list[str] = []
    keep = studio.handover.queue._finish

    def noted(still_id: str, status: str, **settings: Any) -> None:
        ended.append(still_id)
        keep(still_id, status, **settings)

    studio.handover.queue._finish = noted  # type: ignore[method-assign]
    studio.handover.queue.start()
    try:
        assert [r["status"] for r in done(studio, project, *stills)] == ["done"] * 3
    finally:
        studio.handover.queue.close()
    assert ended == [stills[2], stills[0], stills[1]]


def test_mix_again_remove_and_free(studio: Studio, project: str, tmp_path: Path) -> None:
    """A finished still is mixed with a darker camera; removed ones come back until the space is freed."""
    first = order(studio, project)
    with pytest.raises(BadEdit, match="was not kept"):
        studio.handover.mix_still(
            project, first, studio.projects.overview(project)["looks"][0]["id"]
        )
    studio.handover.queue.start()
    try:
        (one,) = done(studio, project, first)
        assert {f["kind"] for f in one["files"]} == {"png", "light"}
        look = studio.projects.overview(project)["looks"][0]["id"]
        studio.history.change(
            project, "look", look, {"settings": {"exposure": {"iso": 25.0, "automatic": "off"}}}
        )
        second = studio.handover.mix_still(project, first, look)
        (two,) = done(studio, project, second)
    finally:
        studio.handover.queue.close()
    assert (two["status"], two["remark"]) == ("done", None)
    with studio.store.session() as session:
        kept = session.get(Still, second)
        assert kept is not None
        assert MixOrder.model_validate(kept.settings["order"]).spec.exposure.iso == 25.0
    size = [os.path.getsize(studio.shelves.any_file(r["files"][0]["asset"])[0]) for r in (one, two)]
    assert size[0] > 0
    assert size[1] > 0
    assert one["files"][0]["asset"] != two["files"][0]["asset"]

    light = next(f["asset"] for f in one["files"] if f["kind"] == "light")
    file = studio.shelves.assets.path(light, ".exr")
    assert file.exists()
    studio.handover.queue.remove(first)
    assert row(studio, project, first)["status"] == "removed"
    studio.handover.queue.restore(first)
    assert row(studio, project, first)["status"] == "done"
    assert file.exists()
    studio.handover.queue.drop_light(first)
    assert not file.exists()
    assert [f["kind"] for f in row(studio, project, first)["files"]] == ["png"]
    studio.handover.queue.remove(second)
    picture = studio.shelves.any_file(two["files"][0]["asset"])[0]
    other = studio.projects.create("Another")
    studio.buildings.bring(other, glb(tmp_path / "other.glb"), "other.glb")
    theirs = order(studio, other)
    studio.handover.queue.cancel(theirs)
    studio.handover.queue.remove(theirs)
    studio.handover.queue.sweep(second)
    # What was put aside in another project is not this one's to free.
    studio.handover.queue.restore(theirs)
    assert row(studio, other, theirs)["status"] == "cancelled"
    assert not Path(picture).exists()
    assert [s["id"] for s in studio.projects.overview(project)["stills"]] == [first]


def test_resumed_before_the_paused_process_has_ended(
    studio: Studio, project: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    """A process that dies of its pause without a word does not fail a still that is wanted again."""
    import subprocess

    from westlight.studio import stills

    begun: list[subprocess.Popen[str]] = []
    real = subprocess.Popen

    def slow_to_die(command: list[str], **more: Any) -> subprocess.Popen[str]:
        if begun:
            begun.append(real(command, **more))
        else:
            code = "import signal, time; signal.signal(15, lambda *_: (time.sleep(1), exit(1))); time.sleep(60)"
            begun.append(real([command[0], "-c", code], **more))
        return begun[-1]

    monkeypatch.setattr(stills.subprocess, "Popen", slow_to_die)
    still = order(studio, project)
    studio.handover.queue.start()
    end = time.monotonic() + 30
    while not begun and time.monotonic() < end:
        time.sleep(0.05)
    # Its handler must stand before it is asked to stop.
    time.sleep(0.7)
    studio.handover.queue.pause(still)
    studio.handover.queue.resume(still)
    assert row(studio, project, still)["status"] == "waiting"
    (found,) = done(studio, project, still)
    studio.handover.queue.close()
    assert (found["status"], found["problem"]) == ("done", None)
