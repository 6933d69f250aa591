"""Parts of the building in the hand: marks of what was moved, what it is drawn along, and its light that follows."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
import pytest

from westlight.core.model import Material, Mesh, Model, Part
from westlight.core.model.write import write_glb
from westlight.engine.questions import Asked
from westlight.engine.scenery import Scenery
from westlight.engine.spec import PictureSpec

from .. import stored
from ..core.shapes import BOX_FACES
from .stage import Bench, spec


def box(name: str, low: tuple[float, float, float], high: tuple[float, float, float]) -> Part:
    points = [
        [x, y, z] for x in (low[0], high[0]) for y in (low[1], high[1]) for z in (low[2], high[2])
    ]
    return Part(name, Mesh.single(name, points, BOX_FACES, Material(0.5)))


@pytest.fixture
def furnished(tmp_path: Path) -> Path:
    """A room of 4 × 4 × 3 m with a stool on its floor and a shelf on its far wall (y = 4)."""
    walls = [box("floor", (0, 0, -0.1), (4, 4, 0)), box("far wall", (0, 4, 0), (4, 4.1, 3)),
             box("side wall", (4, 0, 0), (4.1, 4, 3))]  # fmt: skip
    things = [
        box("stool", (1.8, 2.3, 0), (2.2, 2.7, 0.45)),
        box("shelf", (1.5, 3.8, 1.4), (2.5, 4, 1.5)),
    ]
    write_glb(Model([*walls, *things]), tmp_path / "furnished.glb")
    return tmp_path / "furnished.glb"


def with_edits(file: Path, **edits: Any) -> PictureSpec:
    made = spec(file).model_dump(mode="json")
    made["model"] = {**stored.model(file).model_dump(mode="json"), "edits": edits}
    return PictureSpec.model_validate(made)


def mark(bench: Bench, of: str) -> dict[str, Any]:
    return next(m for m in bench.ask("marks")["marks"] if m["of"] == of)


def test_what_was_moved_has_a_mark(furnished: Path) -> None:
    """Where its middle is; a part that nobody moved has none, a copy has one of its own."""
    bench = Bench()
    copy = {"id": "c1", "of": "stool", "name": "stool copy", "by": [-0.8, 0.5, 0.0]}
    bench.live.apply(with_edits(furnished, moved={"stool": {"by": [0.5, 0.0, 0.0]}}, copies=[copy],
                                names={"stool": "Milking stool"}))  # fmt: skip
    kinds = {
        (m["kind"], m["of"], m["name"])
        for m in bench.ask("marks")["marks"]
        if m["kind"] in ("part", "copy")
    }
    assert kinds == {("part", "stool", "Milking stool"), ("copy", "c1", "stool copy")}
    assert mark(bench, "stool")["position"] == pytest.approx([2.5, 2.5, 0.225])
    assert mark(bench, "c1")["position"] == pytest.approx([1.2, 3.0, 0.225])


def test_a_mark_inside_its_own_body_is_seen(furnished: Path) -> None:
    """A part a metre thick hides its own middle; only what stands before it hides its mark."""
    bench = Bench()
    bench.live.apply(with_edits(furnished, moved={"stool": {"size": 3.0}}))
    assert not mark(bench, "stool")["hidden"]
    bench.live.apply(with_edits(furnished, moved={"stool": {"by": [0, 2.2, 0]}}))
    assert mark(bench, "stool")["hidden"]


def test_what_stands_goes_along_the_floor(furnished: Path) -> None:
    """Its foot stays on it, and its middle comes to lie over the point; lifted it goes straight up."""
    bench = Bench()
    bench.live.apply(with_edits(furnished, moved={"stool": {}}))
    at = mark(bench, "stool")
    view = Asked.of(bench.live).view
    x, y = view.place_of((2.9, 1.6, 0.0))
    by = bench.ask("slide", kind="part", of="stool", x=x, y=y)["by"]
    assert by == pytest.approx([2.9 - 2.0, 1.6 - 2.5, 0.0], abs=0.01)
    up = bench.ask("slide", kind="part", of="stool", x=at["x"], y=at["y"] - 0.1, lift=True)["by"]
    assert up[:2] == pytest.approx([0, 0], abs=1e-6)
    assert up[2] > 0.1
    # On the way again it goes on from there, level: it stands on nothing now.
    bench.live.apply(with_edits(furnished, moved={"stool": {"by": up}}))
    again = bench.ask("slide", kind="part", of="stool", x=x, y=y)["by"]
    assert again[2] == pytest.approx(up[2], abs=1e-4)
    assert bench.ask("slide", kind="part", of="nothing", x=x, y=y)["by"] is None


def test_what_hangs_goes_along_walls(furnished: Path) -> None:
    """On its own wall by the way of the hand, and round the corner onto the next, touching each."""
    bench = Bench()
    bench.live.apply(with_edits(furnished, moved={"shelf": {}}))
    view = Asked.of(bench.live).view
    x, y = view.place_of((1.2, 4.0, 1.2))
    by = bench.ask("slide", kind="part", of="shelf", x=x, y=y)["by"]
    assert by == pytest.approx([1.2 - 2.0, 0.0, 1.2 - 1.45], abs=0.01)
    x, y = view.place_of((4.0, 2.0, 1.5))
    by = bench.ask("slide", kind="part", of="shelf", x=x, y=y)["by"]
    # Half as wide as it is: it is not turned by itself.
    assert by == pytest.approx([4.0 - 0.5 - 2.0, 2.0 - 3.9, 0.05], abs=0.01)


def test_its_light_follows_it_and_openings_keep_their_names(furnished: Path) -> None:
    """Moved once, it moves with the geometry that is there; the picture is that of a building that was built so."""
    bench = Bench()
    bench.show(with_edits(furnished, moved={"stool": {}}))
    before, scene = bench.pixels(), bench.live.prepared.scene
    there = with_edits(furnished, moved={"stool": {"by": [1.0, -0.6, 0.0], "turn_deg": 30.0}})
    bench.show(there)
    after, adapted = bench.pixels(), bench.live.prepared.scene
    assert scene is not None
    assert adapted is not None
    assert adapted.build.positions is scene.build.positions
    assert np.abs(after - before).max() > 20
    fresh = Bench()
    fresh.show(there)
    assert np.abs(fresh.pixels() - after).mean() < 4
    assert there.model is not None
    whole = Scenery.of(there.model.model_copy(update={"edits": type(there.model.edits)()}))
    assert [p.name for p in adapted.found] == [p.name for p in whole.found]
