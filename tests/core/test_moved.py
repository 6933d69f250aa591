"""Parts that were moved, turned, made larger or copied stand where that says, and nothing else changes."""

from __future__ import annotations

import numpy as np
import pytest

from westlight.core.model import Material, Mesh, Part
from westlight.core.model.moved import Copy, Placement, foot_of, stood, with_moved
from westlight.core.model.parts import part_bounds
from westlight.core.transport.build import GeometryBuild

from .shapes import BOX_FACES


def chair(name: str = "Chair", at: tuple[float, float, float] = (2.0, 1.0, 0.5)) -> Part:
    """A box of 0.4 × 0.6 × 1 m whose foot's middle is at a place."""
    points = [[x, y, z] for x in (-0.2, 0.2) for y in (-0.3, 0.3) for z in (0.0, 1.0)]
    m = np.eye(4)
    m[:3, 3] = at
    return Part(name, Mesh.single("chair", points, BOX_FACES, Material(0.5)), m, ("House", name))


def test_it_goes_by_metres_about_its_own_foot() -> None:
    """Moved, turned by a quarter and doubled: the box is as long the other way, and stands where it was moved to."""
    low, high = part_bounds(stood(chair(), Placement((1.0, -2.0, 0.25), 90.0, 2.0)))
    assert low == pytest.approx([3.0 - 0.6, -1.0 - 0.4, 0.75], abs=1e-6)
    assert high == pytest.approx([3.0 + 0.6, -1.0 + 0.4, 2.75], abs=1e-6)
    assert foot_of(stood(chair(), Placement(turn_deg=33.0, size=0.5))) == pytest.approx([2, 1, 0.5])


def test_a_turn_is_counter_clockwise_from_above() -> None:
    """What lay to the east of its middle lies to the north."""
    part = stood(chair(), Placement(turn_deg=90.0))
    assert (part.matrix @ [0.2, 0, 0, 1])[:3] == pytest.approx([2.0, 1.2, 0.5])


def test_a_part_that_leans_is_turned_about_what_is_seen_of_it() -> None:
    """Its own axes do not matter: it is turned about the upright through the foot of its box in the building."""
    part = chair()
    lean = np.eye(4)
    lean[1:3, 1:3] = [[0.8, -0.6], [0.6, 0.8]]
    part.matrix = part.matrix @ lean
    before = foot_of(part)
    after = stood(part, Placement(turn_deg=180.0))
    assert foot_of(after) == pytest.approx(before, abs=1e-6)
    low, high = part_bounds(part)
    assert np.array(part_bounds(after)) == pytest.approx(np.array([low, high]), abs=1e-6)


def test_names_decide_and_copies_come_after() -> None:
    """Every part of a name is moved, others are the same objects; a copy shares the mesh and outlives a hidden original."""
    a, b, c = chair(), chair(at=(5, 5, 0)), chair("Table")
    made = with_moved([a, b, c], {"Chair": Placement((0, 0, 1.0))},
                      [Copy("Chair copy", "Chair", Placement((0, 3.0, 0)))], {"Chair"})  # fmt: skip
    assert [p.name for p in made] == ["Table", "Chair copy", "Chair copy"]
    assert made[0] is c
    assert all(p.movable and p.mesh is a.mesh for p in made[1:2])
    assert foot_of(made[1]) == pytest.approx([2, 4, 0.5])
    assert foot_of(made[2]) == pytest.approx([5, 8, 0])
    assert made[1].path == ("House", "Chair copy")
    moved = with_moved([a, b, c], {"Chair": Placement((0, 0, 1.0))})
    assert [foot_of(p)[2] for p in moved] == pytest.approx([1.5, 1.0, 0.5])
    assert with_moved([a, c], {}, [Copy("Lost", "Nothing", Placement())]) == [a, c]


def test_what_was_moved_once_moves_without_building_anything() -> None:
    """The build of a moved part is adapted, and is what would have been built there."""
    parts = [chair(), chair("Table", (0, 0, 0))]
    first = GeometryBuild(with_moved(parts, {"Chair": Placement()}))
    there = with_moved(parts, {"Chair": Placement((3.0, 0, 0), 45.0)})
    adapted = first.adapted(there)
    assert adapted is not None
    built = GeometryBuild(there)
    assert np.array(adapted.bounds) == pytest.approx(np.array(built.bounds))
    assert np.allclose(adapted.instance_matrix, built.instance_matrix)
