"""Proofs: what differs is said, going back is one edit that can be undone, files are kept."""

from __future__ import annotations

import io
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from PIL import Image

from westlight.store import Store
from westlight.studio.errors import BadEdit, NotFound
from westlight.studio.proofs import difference_picture
from westlight.studio.studio import Studio


@pytest.fixture
def studio(store: Store, tmp_path: Path) -> Studio:
    """A studio with a folder of its own."""
    return Studio(store, tmp_path)


def picture(value: float = 1.0) -> dict[str, Any]:
    """What the engine gives of a present picture."""
    file = io.BytesIO()
    Image.new("RGB", (64, 36), (90, 80, 70)).save(file, "JPEG")
    return {"jpeg": file.getvalue(), "linear": np.full((36, 64, 3), value, np.float16)}


def test_keep_compare_and_go_back(studio: Studio) -> None:
    pid = studio.projects.create("Proofs")
    rows = studio.projects.overview(pid)
    look, view = rows["looks"][0]["id"], rows["views"][0]["id"]
    lamp = studio.fixtures.place(pid, "disc", (0, 0, 2), (0, 0, -1))
    kept = studio.proofs.keep(pid, look, view, picture())
    assert len(kept) == 1
    assert studio.proofs.differences(pid, kept[0]["id"], look, view) == []
    assert Image.open(studio.shelves.any_file(kept[0]["shown"])[0]).size == (64, 36)

    studio.history.change(pid, "look", look, {"settings": {"minutes": 600.0, "clay": {"on": True}}})
    studio.history.change(pid, "source", lamp, {"settings": {"lumen": 2500.0}})
    newer = studio.fixtures.place(pid, "sphere", (1, 0, 2), (0, 0, -1))
    said = studio.proofs.differences(pid, kept[0]["id"], look, view)
    assert any(s.startswith("time: 972 → 600") for s in said)
    assert any("clay, on: off → on" in s for s in said)
    assert any("lumen: 1000 → 2500" in s for s in said)
    assert any(s.endswith(": added") for s in said)

    back = studio.proofs.restore(pid, kept[0]["id"])
    assert back == {"look": look, "view": view}
    now = studio.projects.overview(pid)
    assert now["looks"][0]["settings"]["minutes"] == 972.0
    assert next(s for s in now["sources"] if s["id"] == lamp)["settings"]["lumen"] == 1000.0
    # What is newer than the proof stays, but is silent in it.
    assert now["looks"][0]["settings"]["mix"][newer]["muted"]
    assert now["undo"].startswith("Back to proof")
    studio.history.undo(pid)
    assert studio.projects.overview(pid)["looks"][0]["settings"]["minutes"] == 600.0


def test_what_was_removed_comes_back(studio: Studio) -> None:
    pid = studio.projects.create("Proofs")
    rows = studio.projects.overview(pid)
    look, view = rows["looks"][0]["id"], rows["views"][0]["id"]
    lamp = studio.fixtures.place(pid, "disc", (0, 0, 2), (0, 0, -1))
    proof = studio.proofs.keep(pid, look, view, picture())[0]["id"]
    studio.history.remove(pid, "source", lamp)
    assert studio.projects.overview(pid)["sources"] == []
    studio.proofs.restore(pid, proof)
    assert studio.projects.overview(pid)["sources"][0]["id"] == lamp


def test_notes_and_removal(studio: Studio) -> None:
    pid = studio.projects.create("Proofs")
    rows = studio.projects.overview(pid)
    look, view = rows["looks"][0]["id"], rows["views"][0]["id"]
    proof = studio.proofs.keep(pid, look, view, picture())[0]["id"]
    studio.proofs.note(pid, proof, "warmer than the first")
    assert studio.proofs.all(pid)[0]["note"] == "warmer than the first"
    with pytest.raises(NotFound):
        studio.proofs.note(studio.projects.create("Other"), proof, "not mine")
    studio.proofs.remove(pid, proof)
    assert studio.proofs.all(pid) == []
    with pytest.raises(NotFound):
        studio.proofs.restore(pid, proof)
    with pytest.raises(BadEdit, match="no picture"):
        studio.proofs.keep(pid, look, view, {})


def test_difference_in_stops() -> None:
    """Equal is grey, brighter is warm, darker is cold; other shapes are refused."""
    old = np.ones((9, 16, 3), np.float16)
    new = old.copy()
    new[:, :5], new[:, 10:] = 8.0, 0.125
    with Image.open(io.BytesIO(difference_picture(old, new))) as made:
        shown = np.asarray(made).astype(int)
    assert shown[0, 7].tolist() == [128, 128, 128]
    assert shown[0, 0, 0] > shown[0, 0, 2] + 100
    assert shown[0, 15, 2] > shown[0, 15, 0] + 100
    with pytest.raises(BadEdit, match="shapes"):
        difference_picture(old, new[:5])


def test_a_locked_look_does_not_go_back_to_a_proof(studio: Studio) -> None:
    pid = studio.projects.create("Locked proofs")
    rows = studio.projects.overview(pid)
    look, view = rows["looks"][0]["id"], rows["views"][0]["id"]
    proof = studio.proofs.keep(pid, look, view, picture())[0]["id"]
    studio.history.change(pid, "look", look, {"settings": {"minutes": 600.0, "locked": True}})
    with pytest.raises(BadEdit, match="is locked"):
        studio.proofs.restore(pid, proof)
    assert studio.projects.overview(pid)["looks"][0]["settings"]["minutes"] == 600.0
