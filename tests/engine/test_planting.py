"""Plants of a spec: where they stand in a scene, what the hand finds, and what stays while something moves."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
import pytest

from westlight.core.model import Material, Mesh, Model, Part
from westlight.core.model.write import write_glb
from westlight.engine.questions import Asked
from westlight.engine.scenery import Scenery
from westlight.engine.spec import ModelEdits, ModelSpec, PictureSpec

from .stage import Bench
from .test_moved_parts import box, with_edits


@pytest.fixture
def yard(tmp_path: Path) -> Path:
    """A lawn with a stool on it, a paved strip beside it (x > 3), and a wall with a pane behind (y = 4)."""
    pane = Mesh.single("pane", [[1, 3.99, 0.5], [3, 3.99, 0.5], [3, 3.99, 2.2], [1, 3.99, 2.2]],
                       [[0, 1, 2], [0, 2, 3]], Material(1.0, transmission=0.9, name="glass"))  # fmt: skip
    parts = [box("lawn", (-8, -30, -0.1), (3, 4, 0)), box("paving", (3, -30, -0.1), (8, 4, 0)),
             box("wall", (-8, 4, 0), (8, 4.2, 3)), box("stool", (1.8, 2.3, 0), (2.2, 2.7, 0.45)),
             Part("window", pane)]  # fmt: skip
    write_glb(Model(parts), tmp_path / "yard.glb")
    return tmp_path / "yard.glb"


def grass(*strokes: dict[str, Any], **more: Any) -> dict[str, Any]:
    made = {str(n).zfill(4): s for n, s in enumerate(strokes)}
    return {"name": "Meadow", "plant": "grass", "per_m2": 40.0, "keep_off_m": 0.0, "strokes": made, **more}  # fmt: skip


PATCH = {"points": [[1.0, 1.5, 0.0], [2.8, 1.5, 0.0]], "radius_m": 0.8, "on": "lawn"}


def scene_of(file: Path, **edits: Any) -> Scenery:
    model = with_edits(file, **edits).model
    assert model is not None
    return Scenery.of(model)


def stood(scene: Scenery) -> np.ndarray:
    return np.concatenate([p.places()[:, :3, 3] for p in scene.plants] or [np.zeros((0, 3))])


def test_what_is_painted_grows_on_what_the_hand_began_on(yard: Path) -> None:
    """On the lawn, not on the paving beside it nor on the stool; off, nothing stands and the openings are the same."""
    scene = scene_of(yard, plantings={"a": grass(PATCH)})
    at = stood(scene)
    assert len(at) > 60
    assert np.abs(at[:, 2]).max() < 1e-3
    assert at[:, 0].max() <= 3.0
    bare = scene_of(yard)
    assert [p.name for p in scene.found] == [p.name for p in bare.found]
    assert not scene_of(yard, plantings={"a": grass(PATCH, on=False)}).plants
    # Memory of one tuft of each variant, however many stand.
    more = scene_of(yard, plantings={"a": grass({**PATCH, "points": [[-3, -8, 0], [-3, 0, 0]], "radius_m": 3.0})})  # fmt: skip
    assert len(stood(more)) > 10 * len(at)
    assert len(more.build.triangles) == len(scene.build.triangles)


def test_paint_alone_leaves_them_and_a_moved_thing_sets_them_anew_when_it_is_let_go(yard: Path) -> None:  # fmt: skip
    """While the stool is in the hand plants stand still; then none stands in it and some where it was."""
    plantings = {"a": grass(PATCH)}
    first = scene_of(yard, plantings=plantings, moved={"stool": {"by": [0, -0.9, 0]}})
    painted = with_edits(yard, plantings=plantings, moved={"stool": {"by": [0, -0.9, 0]}}, materials={"Material": {"reflectance": 0.2}}).model  # fmt: skip
    moved = with_edits(yard, plantings=plantings, moved={"stool": {"by": [-0.9, -0.9, 0]}}).model
    assert painted is not None
    assert moved is not None
    same = first.adapted(painted)
    assert same is not None
    assert same.plants is first.plants
    held = first.adapted(moved, moving=True)
    assert held is not None
    assert held.plants is first.plants
    assert first.adapted(moved) is None
    assert held.adapted(moved) is None
    let_go = Scenery.of(moved, held)
    here = np.array([[2.0, 1.6], [1.1, 1.6]])
    for scene, stool in ((first, 0), (let_go, 1)):
        apart = np.abs(stood(scene)[:, None, :2] - here).max(axis=2)
        assert (apart[:, stool] < 0.2).sum() == 0
        assert (apart[:, 1 - stool] < 0.2).sum() > 0


def test_the_hand_finds_the_ground_under_plants_and_the_ring_of_its_brush(yard: Path) -> None:
    bench = Bench()
    bench.live.apply(with_edits(yard, plantings={"a": grass(PATCH, per_m2=150.0, size=2.0)}))
    assert bench.live.prepared.scene is not None
    assert bench.ask("planted")["counts"] == {"a": len(stood(bench.live.prepared.scene))}
    view = Asked.of(bench.live).view
    x, y = view.place_of((1.6, 1.6, 0.0))
    found = bench.ask("soil", x=x, y=y, radius_m=0.25)
    assert found["part"] == "lawn"
    assert found["position"] == pytest.approx([1.6, 1.6, 0.0], abs=0.01)
    ring = np.array(found["ring"])
    assert len(ring) > 20
    assert ring[:, 0].min() < x < ring[:, 0].max()
    for u, v in ring[::7]:
        other = bench.ask("soil", x=float(u), y=float(v))["position"]
        assert np.hypot(other[0] - 1.6, other[1] - 1.6) == pytest.approx(0.25, abs=0.03)
    on_plan = bench.ask("soil", place=[-2.0, 0.0, 1.2], radius_m=1.0)
    assert on_plan["position"] == pytest.approx([-2.0, 0.0, 0.0], abs=1e-3)


def test_plants_that_panes_mirror_stand_behind_the_camera(yard: Path) -> None:
    """Each lies on the ray that a place of the pane mirrors, over open ground, out of the picture."""
    bench = Bench()
    made = with_edits(yard).model_dump(mode="json")
    made["view"] |= {"position": [2.0, -2.0, 1.5], "target": [2.0, 4.0, 1.4]}
    bench.live.apply(PictureSpec.model_validate(made))
    answer = bench.ask("mirrored", plant="light tree", apart_m=2.0)
    assert answer["problem"] is None
    assert len(answer["positions"]) >= 2
    for x, y, z in answer["positions"]:
        assert y < -2.0
        assert z == pytest.approx(0.0, abs=1e-3)
        # The image of the tree behind the pane is seen through it.
        image = np.array([x, 8 - y - 0.02])
        share = (3.99 + 2.0) / (image[1] + 2.0)
        assert 1.0 - 0.05 <= 2.0 + share * (image[0] - 2.0) <= 3.0 + 0.05
    made["view"]["target"] = [2.0, -9.0, 1.4]
    bench.live.apply(PictureSpec.model_validate(made))
    assert "No glass" in bench.ask("mirrored", plant="bush")["problem"]
    assert "wall" in bench.ask("mirrored", plant="climber")["problem"]


def test_a_picture_shows_them(yard: Path) -> None:
    bench = Bench()
    bench.show(with_edits(yard))
    before = bench.pixels()
    bench.show(with_edits(yard, plantings={"a": grass(PATCH, size=2.5)}))
    assert np.abs(bench.pixels() - before).max() > 20


def test_strokes_come_and_go_one_by_one() -> None:
    """Null takes a planting, or a stroke of one, away; too many strokes are refused in words."""
    edits = ModelEdits.model_validate({"plantings": {"a": grass(PATCH, PATCH), "b": None}})
    assert list(edits.plantings) == ["a"]
    edits = ModelEdits.model_validate({"plantings": {"a": grass(PATCH) | {"strokes": {"1": PATCH, "2": None}}}})  # fmt: skip
    assert list(edits.plantings["a"].strokes) == ["1"]
    with pytest.raises(ValueError, match="begin another one"):
        ModelEdits.model_validate({"plantings": {"a": grass(*[PATCH] * 501)}})


def test_every_plant_can_be_chosen() -> None:
    from westlight.core.model.plants import PLANTS

    for name in PLANTS:
        ModelSpec.model_validate({"asset": "0" * 64, "edits": {"plantings": {"a": {"name": "x", "plant": name}}}})  # fmt: skip
    with pytest.raises(ValueError, match="one of grass"):
        ModelEdits.model_validate({"plantings": {"a": {"name": "x", "plant": "cactus"}}})
