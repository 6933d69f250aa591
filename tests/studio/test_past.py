"""The list of steps, and kept versions of a look."""

from __future__ import annotations

import pytest

from westlight.studio.errors import BadEdit, NotFound
from westlight.studio.studio import Studio


@pytest.fixture
def project(studio: Studio) -> str:
    """A new project with three edits of its look's hour."""
    pid = studio.projects.create("House")
    look = studio.projects.overview(pid)["looks"][0]["id"]
    for minutes in (600, 700, 800):
        studio.history.change(
            pid, "look", look, {"settings": {"minutes": minutes}}, f"At {minutes}"
        )
    return pid


def minutes(studio: Studio, project: str) -> int:
    return int(studio.projects.overview(project)["looks"][0]["settings"]["minutes"])


def test_any_step_can_be_gone_to(studio: Studio, project: str) -> None:
    """Back to the first edit, before it, and forward again; the list says where one is."""
    begun = minutes(studio, studio.projects.create("Another"))
    steps = studio.history.steps(project)
    assert [s["label"] for s in steps] == ["At 800", "At 700", "At 600"]
    assert studio.history.go_to(project, steps[2]["id"]) == "At 600"
    assert minutes(studio, project) == 600
    assert [s["undone"] for s in studio.history.steps(project)] == [True, True, False]
    studio.history.go_to(project, 0)
    assert minutes(studio, project) == begun
    studio.history.go_to(project, steps[0]["id"])
    assert minutes(studio, project) == 800
    assert studio.history.redo(project) is None
    with pytest.raises(NotFound):
        studio.history.go_to(studio.projects.create("Third"), steps[0]["id"])


def test_a_new_edit_ends_what_was_undone(studio: Studio, project: str) -> None:
    """After going back, an edit replaces the steps that followed."""
    look = studio.projects.overview(project)["looks"][0]["id"]
    studio.history.go_to(project, studio.history.steps(project)[1]["id"])
    studio.history.change(project, "look", look, {"settings": {"minutes": 900}}, "At 900")
    assert [s["label"] for s in studio.history.steps(project)] == ["At 900", "At 700", "At 600"]


def test_a_gesture_is_one_step(studio: Studio, project: str) -> None:
    """Three saves of one walk are taken back together."""
    view = studio.projects.overview(project)["views"][0]
    for x in (1.0, 2.0, 3.0):
        patch = {"settings": {"position": [x, 0.0, 1.6]}}
        studio.history.change(project, "view", view["id"], patch, "Move", "a walk")
    assert studio.history.steps(project)[0]["label"] == "Move"
    studio.history.undo(project)
    assert studio.projects.overview(project)["views"][0]["settings"] == view["settings"]


def test_versions_of_a_look(studio: Studio, project: str) -> None:
    """Kept, gone back to as one edit that can be undone, and let go."""
    look = studio.projects.overview(project)["looks"][0]["id"]
    with pytest.raises(BadEdit, match="needs a name"):
        studio.looks.keep_version(project, look, "  ")
    studio.looks.keep_version(project, look, "Before lunch")
    studio.history.change(
        project, "look", look, {"settings": {"minutes": 1000, "clay": {"on": True}}}
    )
    (kept,) = studio.projects.overview(project)["looks"][0]["versions"]
    assert kept["name"] == "Before lunch"
    studio.looks.restore_version(project, kept["id"])
    settings = studio.projects.overview(project)["looks"][0]["settings"]
    assert (settings["minutes"], settings["clay"]["on"]) == (800, False)
    studio.history.undo(project)
    assert minutes(studio, project) == 1000
    studio.looks.drop_version(project, kept["id"])
    assert studio.projects.overview(project)["looks"][0]["versions"] == []
    with pytest.raises(NotFound):
        studio.looks.restore_version(project, kept["id"])


def test_a_locked_look_stays_as_it_is(studio: Studio) -> None:
    project = studio.projects.create("Locked")
    look = studio.projects.overview(project)["looks"][0]["id"]
    studio.history.change(project, "look", look, {"settings": {"locked": True}}, "Lock")
    for act in (
        lambda: studio.history.change(project, "look", look, {"settings": {"minutes": 700}}),
        lambda: studio.history.change(project, "look", look, {"name": "Other"}),
        lambda: studio.history.remove(project, "look", look),
    ):
        with pytest.raises(BadEdit, match=r"locked|at least one"):
            act()
    assert studio.projects.overview(project)["looks"][0]["settings"]["minutes"] != 700
    studio.history.change(project, "look", look, {"settings": {"locked": False}}, "Unlock")
    studio.history.change(project, "look", look, {"settings": {"minutes": 700}})
    assert studio.projects.overview(project)["looks"][0]["settings"]["minutes"] == 700


def test_a_look_takes_everything_of_another_but_its_note(studio: Studio) -> None:
    project = studio.projects.create("Looks")
    first = studio.projects.overview(project)["looks"][0]
    settings = {
        **first["settings"],
        "minutes": 1300,
        "note": "night",
        "mix": {"sun": {"level": -2}},
    }
    other = studio.history.add(project, "look", "Night", settings)
    studio.history.change(
        project, "look", first["id"], {"settings": {"note": "mine", "mix": {"sky": {"level": 1}}}}
    )
    studio.looks.take(project, first["id"], other)
    taken = studio.projects.overview(project)["looks"][0]["settings"]
    assert (taken["minutes"], taken["note"]) == (1300, "mine")
    assert set(taken["mix"]) == {"sun"}
    studio.history.undo(project)
    assert set(studio.projects.overview(project)["looks"][0]["settings"]["mix"]) == {"sky"}
    strange = studio.projects.create("Strange")
    with pytest.raises(NotFound):
        studio.looks.take(strange, first["id"], other)
