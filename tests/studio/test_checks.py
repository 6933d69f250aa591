"""Looking a building over, replacing it, backdrops on their shelf."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
import pytest
from PIL import Image

from westlight.core.errors import PictureFileError
from westlight.core.files import write_exr
from westlight.core.model import Material, Mesh, Model, Part
from westlight.core.model.parts import Missing
from westlight.core.model.write import write_glb
from westlight.engine.spec import MaterialEdit, ModelEdits
from westlight.studio.checks import findings, fitting_scale
from westlight.studio.errors import NotFound
from westlight.studio.importing import carried_over
from westlight.studio.settings import ModelState
from westlight.studio.studio import Studio

from ..core.shapes import BOX_FACES


def block(name: str, size: float, material: Material, at: float = 0.0) -> Part:
    points = [[at + x * size, y * size, z * size] for x in (0, 1) for y in (0, 1) for z in (0, 1)]
    return Part(name, Mesh.single(name, points, BOX_FACES, material))


STATE = ModelState(asset="0" * 64, suffix=".glb")


def test_units_are_guessed_from_the_height() -> None:
    assert fitting_scale([12, 8, 5]) is None
    assert fitting_scale([12_000, 8_000, 5_000]) == "mm"
    assert fitting_scale([1200, 800, 500]) == "cm"
    assert fitting_scale([0.01, 0.01, 0.005]) is None  # nothing fits


def test_what_is_doubtful_is_found_with_a_remedy() -> None:
    plaster, white = Material(0.6, name="plaster"), Material(0.97, name="snow")
    model = Model([block("house", 4, plaster), block("house copy", 4, plaster),
                   block("Pendant 1", 0.3, white, 2.0), block("Pendant 2", 0.3, plaster, 3.0)])  # fmt: skip
    found = findings(model, STATE, [(2.1, 0.1, 0.1)])
    texts = " ".join(f["text"] for f in found)
    assert "“house copy” stands exactly where “house” does" in texts
    assert "snow: It reflects 97%" in texts
    assert "“Pendant 2” looks like a lamp" in texts
    assert "Pendant 1" not in texts
    assert all(f["remedy"] for f in found)
    lost = Missing("The texture “brick” cannot be found.")
    bare = Model([block("house", 4, plaster)], remarks=[lost, "A missing word decides nothing."])
    (said,) = findings(bare, STATE, [])
    assert said["text"] == lost
    assert "zip" in said["remedy"]
    giant = findings(Model([block("house", 4000, plaster)]), STATE, [])
    assert giant[0]["unit"] == "mm"
    assert findings(Model([block("house", 4, plaster)]), STATE, []) == []


def test_a_building_that_replaces_another_keeps_edits_by_name() -> None:
    edits = ModelEdits(hidden=["roof", "gone"], not_clay=["oak"],
                       materials={"oak": MaterialEdit(reflectance=0.4), "tin": MaterialEdit()})  # fmt: skip
    old = STATE.model_copy(update={"edits": edits, "scale": 0.01})
    new = carried_over(old, STATE, Model([block("roof", 1, Material(0.5, name="oak"))]))
    assert new.edits.hidden == ["roof"]
    assert list(new.edits.materials) == ["oak"]
    assert new.scale == 0.01
    assert any("gone" in r for r in new.remarks)
    assert any("tin" in r for r in new.remarks)


def test_what_was_moved_stays_moved_by_name(studio: Studio, tmp_path: Path) -> None:
    """On the plan, in the list with the box it has in the file, and when the building is replaced; a null puts it back."""
    project = studio.projects.create("Moved")
    parts = [block("walls", 4, Material(0.5, name="plaster")),
             block("chest", 2, Material(0.5, name="oak"), 9)]  # fmt: skip
    write_glb(Model(parts), tmp_path / "0.glb")
    write_glb(Model(parts[:1]), tmp_path / "1.glb")
    studio.buildings.bring(project, tmp_path / "0.glb", "0.glb")
    row = studio.projects.overview(project)["models"][0]["id"]

    def east() -> float:
        cut = studio.buildings.plan(project, 1.0)
        assert cut is not None
        return max(x for loop in cut["filled"] for x, _ in loop)

    def edit(**edits: Any) -> None:
        studio.history.change(project, "model", row, {"settings": {"edits": edits}})

    assert east() == pytest.approx(11)
    copy = {"id": "c", "of": "chest", "name": "Second chest", "by": [20, 0, 0]}
    edit(moved={"chest": {"by": [3, 0, 0]}}, copies=[copy])
    assert east() == pytest.approx(31)
    listed = {p["name"]: p for p in studio.buildings.parts(project)["parts"]}
    assert listed["chest"]["box"] == ([9, 0, 0], [11, 2, 2])
    assert listed["walls"]["box"] is None
    edit(copies=[])
    assert east() == pytest.approx(14)
    edit(moved={"chest": {"turn_deg": 45}})
    kept = studio.projects.overview(project)["models"][0]["settings"]["edits"]["moved"]["chest"]
    assert kept == {"by": [3, 0, 0], "turn_deg": 45, "size": 1}
    edit(moved={"chest": None})
    assert east() == pytest.approx(11)
    edit(moved={"chest": {"by": [3, 0, 0]}, "walls": {"by": [0, 0, 1]}})
    report = studio.buildings.bring(project, tmp_path / "1.glb", "1.glb")
    after = studio.projects.overview(project)["models"][0]["settings"]["edits"]
    assert list(after["moved"]) == ["walls"]
    assert "“chest” was moved or copied; the new building has no such part." in report["remarks"]


def test_replacing_keeps_views_and_says_what_is_lost(studio: Studio, tmp_path: Path) -> None:
    project = studio.projects.create("Twice")
    for n, part in enumerate(("door", "gate")):
        parts = [block("walls", 4, Material(0.5, name="plaster")),
                 block(part, 1, Material(0.5, name="oak"), 9)]  # fmt: skip
        write_glb(Model(parts), tmp_path / f"{n}.glb")
    studio.buildings.bring(project, tmp_path / "0.glb", "0.glb")
    row = studio.projects.overview(project)["models"][0]
    patch = {"settings": {"edits": {"hidden": ["door", "walls"]}}}
    studio.history.change(project, "model", row["id"], patch, "Hide")
    view = studio.projects.overview(project)["views"][0]["settings"]
    report = studio.buildings.bring(project, tmp_path / "1.glb", "1.glb")
    after = studio.projects.overview(project)
    assert after["views"][0]["settings"] == view
    assert after["models"][0]["settings"]["edits"]["hidden"] == ["walls"]
    assert any("door" in r for r in report["remarks"])
    assert studio.buildings.check(project) == []
    cut = studio.buildings.section(project, (2.0, 2.0), 90.0)
    assert cut is not None
    assert len(cut["filled"]) == 1
    studio.history.undo(project)
    assert studio.projects.overview(project)["models"][0]["settings"]["edits"]["hidden"] == [
        "door",
        "walls",
    ]


def test_backdrops_are_kept_and_bad_ones_refused(studio: Studio, tmp_path: Path) -> None:
    shelf = studio.shelves.backdrops
    Image.fromarray(np.full((20, 40, 3), 188, np.uint8)).save(tmp_path / "Grey day.png")
    made = shelf.add(tmp_path / "Grey day.png", "Grey day.png")
    assert made["name"] == "Grey day"
    assert made["id"] in [b["id"] for b in shelf.cards()]
    with Image.open(shelf.thumbnail(made["id"])) as small:
        assert abs(int(np.asarray(small)[5, 5, 0]) - 188) < 4
    (tmp_path / "bad.png").write_bytes(b"no picture")
    with pytest.raises(PictureFileError, match="cannot be read"):
        shelf.add(tmp_path / "bad.png", "bad.png")
    with pytest.raises(NotFound):
        shelf.thumbnail("nothing")


def test_references_are_kept_as_they_are_shown(studio: Studio, tmp_path: Path) -> None:
    """A photograph as it is; light without a white as the meter would expose it. One taken off the shelf is gone."""
    shelf = studio.shelves.references
    grey = np.random.default_rng(3).integers(0, 255, (20, 40, 3)).astype(np.uint8)
    Image.fromarray(grey).save(tmp_path / "Evening.png")
    made = studio.shelves.bring("reference", tmp_path / "Evening.png", "Evening.png")
    with Image.open(shelf.file(made["id"])) as kept:
        assert (np.asarray(kept) == grey).all()
    write_exr(tmp_path / "r.exr", np.full((20, 40, 3), 7000.0, np.float32), {})
    light = studio.shelves.bring("reference", tmp_path / "r.exr", "Light.exr")
    with Image.open(shelf.file(light["id"])) as kept:
        assert 70 < np.asarray(kept).mean() < 150
    shelf.remove(made["id"])
    assert made["id"] not in [r["id"] for r in shelf.cards()]
    with pytest.raises(NotFound, match="no longer on the shelf"):
        shelf.file(made["id"])
    (tmp_path / "bad.heic").write_bytes(b"no picture")
    with pytest.raises(PictureFileError, match="is no picture"):
        studio.shelves.bring("reference", tmp_path / "bad.heic", "bad.heic")


def test_faces_that_look_inwards_are_found() -> None:
    """A closed part turned inside out is told; an open one and a mirrored copy are not."""
    paint = Material(0.6, name="plaster")
    right = block("right", 2, paint)
    wrong = block("wrong", 2, paint, 5.0)
    wrong.mesh.faces = np.ascontiguousarray(wrong.mesh.faces[:, ::-1])
    sheet = Part("sheet", Mesh.single("sheet", [[0, 0, 9], [1, 0, 9], [1, 1, 9], [0, 1, 9]],
                                      [[0, 2, 1], [0, 3, 2]], paint))  # fmt: skip
    mirror = Part("mirrored", block("mirrored", 1, paint).mesh, np.diag([-1.0, 1, 1, 1]))
    texts = [f["text"] for f in findings(Model([right, wrong, sheet, mirror]), STATE, [])]
    assert [t for t in texts if "look inwards" in t] == ["The faces of “wrong” look inwards."]


def test_parts_are_named_and_taken_for_something(studio: Studio, tmp_path: Path) -> None:
    """Guessed from words and glass, changed by the artist, cleared with null; undone like an edit."""
    pane = Material(0.9, transmission=0.95, name="clear")
    parts = [block("Oak table", 1, Material(0.4, name="oak")), block("Pane 3", 1, pane, 3.0),
             block("Pendant", 1, Material(0.1, name="steel"), 6.0)]  # fmt: skip
    write_glb(Model(parts), tmp_path / "m.glb")
    project = studio.projects.create("Named")
    studio.buildings.bring(project, tmp_path / "m.glb", "m.glb")
    model = studio.projects.overview(project)["models"][0]["id"]

    def rows() -> dict[str, dict[str, object]]:
        return {p["name"]: p for p in studio.buildings.parts(project)["parts"]}

    assert [rows()[n]["tag"] for n in ("Oak table", "Pane 3", "Pendant")] == [
        "furniture", "glass", "lamp body",
    ]  # fmt: skip
    edits = {"names": {"Oak table": "Bench by the door"}, "tags": {"Pane 3": "surroundings"},
             "own_materials": {"Oak table": {"reflectance": 0.25}}}  # fmt: skip
    studio.history.change(project, "model", model, {"settings": {"edits": edits}}, "All at once")
    table = rows()["Oak table"]
    assert table["called"] == "Bench by the door"
    assert table["own"]["reflectance"] == pytest.approx(0.25, abs=1e-3)  # type: ignore[index]
    assert rows()["Pane 3"]["tag"] == "surroundings"
    cleared = {"names": {"Oak table": None}, "own_materials": {"Oak table": None}}
    studio.history.change(project, "model", model, {"settings": {"edits": cleared}}, "Cleared")
    assert (rows()["Oak table"]["called"], rows()["Oak table"]["own"]) == ("Oak table", None)
    studio.history.undo(project)
    assert rows()["Oak table"]["called"] == "Bench by the door"
