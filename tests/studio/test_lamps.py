"""Fixtures put in place and into every body of a kind."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from westlight import core
from westlight.core.model import Model, Part
from westlight.core.model.write import write_glb
from westlight.store import Store
from westlight.studio.errors import BadEdit
from westlight.studio.studio import Studio

from ..core.shapes import box

LAMPS = [(1.0, 1.0, 2.0), (3.0, 1.0, 2.0), (5.0, 1.0, 2.5)]


@pytest.fixture
def project(store: Store, tmp_path: Path) -> tuple[Studio, str]:
    """A floor with three pendants of one kind."""
    scene = core.Scene()
    box(scene, (-0.1, -0.15, -0.2), (0.1, 0.15, 0.0), core.Material(0.4))
    mesh = scene.parts.pop().mesh
    box(scene, (0, 0, -0.1), (6, 4, 0), core.Material(0.5))
    parts = [Part("Floor", scene.parts[0].mesh, np.eye(4))]
    for n, at in enumerate(LAMPS):
        matrix = np.eye(4)
        matrix[:3, 3] = at
        if n == 2:
            # The last one hangs across the others.
            matrix[:2, :2] = [[0, -1], [1, 0]]
        parts.append(Part(f"Pendant {n + 1}", mesh, matrix))
    file = tmp_path / "lamps.glb"
    write_glb(Model(parts, [core.Material(0.5)]), file)
    studio = Studio(store, tmp_path / "data")
    made = studio.projects.create("Lamps")
    studio.buildings.bring(made, file, "lamps.glb", "y")
    return studio, made


def _places(studio: Studio, project: str) -> list[dict[str, object]]:
    found = studio.projects.overview(project)["sources"][-1]["settings"]["places"]
    assert isinstance(found, list)
    return found


def test_a_fixture_goes_into_every_body_like_its_own(project: tuple[Studio, str]) -> None:
    studio, made = project
    row = studio.fixtures.place(made, "rectangle", (1.0, 1.1, 1.85), (0.0, 0.0, -1.0), free=True,
                               roll_deg=90.0, sizes={"width": 0.2, "height": 0.1})  # fmt: skip
    assert studio.fixtures.fill_alike(made, row) == 3
    places = _places(studio, made)
    assert [p["position"] for p in places] == [
        pytest.approx([1.0, 1.1, 1.85]),
        pytest.approx([3.0, 1.1, 1.85]),
        pytest.approx([4.9, 1.0, 2.35]),
    ]
    turn = np.array([float(str(p["roll_deg"])) for p in places])
    assert (turn[1] - turn[0]) % 180 == pytest.approx(0, abs=0.1)
    assert (turn[2] - turn[0]) % 180 == pytest.approx(90, abs=0.1)
    studio.history.undo(made)
    assert len(_places(studio, made)) == 1


def test_a_fixture_in_no_body_or_in_one_of_its_kind_says_so(project: tuple[Studio, str]) -> None:
    studio, made = project
    row = studio.fixtures.place(made, "disc", (3.0, 3.0, 1.0), (0.0, 0.0, -1.0), free=True)
    with pytest.raises(BadEdit, match="no lamp body"):
        studio.fixtures.fill_alike(made, row)
    inside = studio.fixtures.place(made, "disc", (1.0, 1.0, 1.9), (0.0, 0.0, -1.0), free=True)
    model = studio.projects.overview(made)["models"][0]["id"]
    hidden = {"settings": {"edits": {"hidden": ["Pendant 2", "Pendant 3"]}}}
    studio.history.change(made, "model", model, hidden)
    with pytest.raises(BadEdit, match="only body"):
        studio.fixtures.fill_alike(made, inside)


def test_a_free_fixture_stays_where_it_was_told(project: tuple[Studio, str]) -> None:
    studio, made = project
    studio.fixtures.place(made, "sphere", (2.0, 2.0, 2.2), (0.0, 0.0, -1.0), free=True)
    assert _places(studio, made)[0]["position"] == [2.0, 2.0, 2.2]
    studio.fixtures.place(made, "sphere", (2.0, 2.0, 0.0), (0.0, 0.0, 1.0))
    assert _places(studio, made)[0]["position"] == [2.0, 2.0, 0.13]
