"""The scene of a spec: openings as they were edited, additions, haze, and the draft under a moving camera."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from westlight.core.colour import AP1_LUMINANCE
from westlight.core.errors import WestlightError
from westlight.core.model import Material, Mesh, Model, Part
from westlight.core.model.write import write_glb
from westlight.core.transport.film import Accumulator
from westlight.core.transport.portals import Portal
from westlight.core.transport.render import PassRun, irradiance_at
from westlight.core.view import View
from westlight.engine.scenery import Scenery, air_of, part_of
from westlight.engine.spec import (
    AddedOpening,
    Addition,
    BackdropSettings,
    HazeSettings,
    ModelEdits,
    ModelSpec,
    OpeningEdit,
    PartGradeSettings,
)
from westlight.engine.translate import colour_of

from .. import stored
from ..core.shapes import BOX_FACES
from .stage import Bench, spec


def test_a_colour_is_linear_light() -> None:
    assert colour_of("#ffffff") == pytest.approx((1, 1, 1), abs=1e-3)
    assert colour_of("#808080") == pytest.approx((0.2158,) * 3, abs=2e-3)


def test_openings_as_the_artist_left_them(room: Path) -> None:
    edits = ModelEdits(
        openings={"a": OpeningEdit(on=False), "b": OpeningEdit(turned=True, gain=1.0)},
        added_openings=[AddedOpening(name="door", position=(0, 0, 1), inward=(0, 1, 0),
                                     width=1, height=2, gain=-1)],
    )  # fmt: skip
    model = stored.model(room, edits=edits)
    scenery = Scenery.of(model)
    scenery.found = [Portal((0, 0, 1), (1, 0, 0), 1, 1, name=n) for n in ("a", "b", "c")]
    made = scenery.openings(model)
    assert [p.name for p in made] == ["b", "c", "door"]
    assert made[0].inward == (-1, 0, 0)
    assert [p.gain for p in made] == [2.0, 1.0, 0.5]


def test_additions_join_the_parts_unless_switched_off(room: Path) -> None:
    card = Addition(id="x", name="Card", kind="blocker", position=(1, 1, 0), size_m=(2, 0.1, 1),
                    colour="#000000")  # fmt: skip
    tree = Addition(
        id="y", name="Tree", kind="tree", position=(9, 9, 0), size_m=(3, 3, 5), on=False
    )
    scenery = Scenery.of(stored.model(room, edits=ModelEdits(additions=[card, tree])))
    names = {p.name: p for p in scenery.parts}
    assert names["Card"].blocker
    assert "Tree" not in names
    assert len(part_of(tree).mesh.faces) > 400


def test_a_light_card_shines_with_its_luminance_and_colour(room: Path) -> None:
    card = Addition(id="c", name="Card", kind="light card", position=(0, 1, 0.5),
                    size_m=(1, 0.02, 0.6), colour="#ff8000", emission_cd_m2=700)  # fmt: skip
    (material,) = part_of(card).mesh.materials
    assert np.asarray(material.emission_rgb) @ AP1_LUMINANCE == pytest.approx(700)
    assert material.emission_rgb[0] > 4 * material.emission_rgb[2]
    assert material.emission_texture is None


def test_what_is_covered_is_told_with_its_place(room: Path) -> None:
    """Boxes hold what is seen of a part; together the shares cover the picture of a closed room."""
    bench = Bench()
    bench.show(spec(room, calm_at=100))
    told = bench.ask("covered")
    assert sum(told["parts"].values()) > 0.5
    assert set(told["boxes"]["parts"]) == set(told["parts"])
    for name, (left, top, right, bottom) in told["boxes"]["parts"].items():
        assert 0 <= left < right <= 1
        assert 0 <= top < bottom <= 1
        assert (right - left) * (bottom - top) >= told["parts"][name] - 1e-3


def test_panes_are_told_where_they_lie(tmp_path: Path) -> None:
    """Rays that look for parts pass a pane; it is framed all the same, and keeps no share."""
    glass, paint = Material(0.95, transmission=1.0, name="glass"), Material(0.5, name="paint")
    pane = [[x, 3, z] for x in (-1, 1) for z in (0, 2)]
    wall = [[x, 5, z] for x in (-9, 9) for z in (-9, 9)]
    faces = [[0, 1, 3], [0, 3, 2]]
    parts = [Part("pane", Mesh.single("pane", pane, faces, glass)),
             Part("wall", Mesh.single("wall", wall, faces, paint))]  # fmt: skip
    write_glb(Model(parts), tmp_path / "pane.glb")
    bench = Bench()
    made = spec(tmp_path / "pane.glb", calm_at=100)
    view = made.view.model_copy(
        update={"position": (0, 0, 1), "target": (0, 3, 1), "focal_length_mm": 24}
    )
    bench.show(made.model_copy(update={"view": view}))
    told = bench.ask("covered")
    assert "pane" not in told["parts"]
    left, top, right, bottom = told["boxes"]["parts"]["pane"]
    # 2 m at 3 m before a lens of 24 mm on 36 mm: 24 · 2 / 3 / 36 of the width.
    assert right - left == pytest.approx(24 * 2 / 3 / 36, abs=0.01)
    assert (left + right) / 2 == pytest.approx(0.5, abs=0.01)
    assert top < 0.5 < bottom
    assert told["boxes"]["materials"]["glass"] == told["boxes"]["parts"]["pane"]


def test_lamps_are_spread_until_the_room_has_its_lux(room: Path) -> None:
    """Counted by the lumen method, checked by tracing: the whole room, at least what was wanted."""
    bench = Bench()
    bench.show(spec(room, lumen=900.0, calm_at=100))
    made = bench.ask("spread", source="lamp", lux=300.0)
    assert (made["width_m"], made["depth_m"]) == pytest.approx((4, 4), abs=0.01)
    assert len(made["places"]) == made["columns"] * made["rows"]
    assert {p["position"][2] for p in made["places"]} == {2.5}
    assert 0.9 * 300 < made["average_lx"] < 1.7 * 300
    assert made["least_lx"] < made["average_lx"]
    # Twice the light needs about half the lamps.
    fewer = bench.ask("spread", source="lamp", lux=150.0)
    assert len(fewer["places"]) < 0.8 * len(made["places"])
    with pytest.raises(WestlightError, match="fixture"):
        bench.ask("spread", source="sun", lux=300.0)


def test_haze_of_settings() -> None:
    made = air_of([HazeSettings(on=False), HazeSettings(visibility_m=50, colour="#ff0000")])
    assert len(made) == 1
    scattered, absorbed = made[0].shares
    assert scattered[0] == pytest.approx(0.95)
    assert scattered[2] < 0.2
    assert absorbed == pytest.approx([0.05] * 3)


def test_a_moving_camera_shows_a_draft_and_settles_into_the_view(room: Path) -> None:
    bench = Bench()
    still = spec(room, calm_at=100)
    bench.show(still)
    moved = still.model_copy(update={
        "moving": True, "view": still.view.model_copy(update={"position": (1.0, 0.4, 1.6)})
    })  # fmt: skip
    bench.show(moved, lambda f: f["scale"] == 4 or f["width"] < 120)
    draft = bench.pixels()
    assert draft.mean() > 15  # not black where no direct light falls
    bench.show(moved.model_copy(update={"moving": False}))
    settled = bench.pixels()
    assert bench.frames()[-1]["settled"]
    small = settled[: draft.shape[0] * 2 : 2, : draft.shape[1] * 2 : 2]
    assert abs(np.median(small) - np.median(draft)) < 60


def test_a_backdrop_and_a_graded_part_change_the_picture_without_new_light(
    room: Path, tmp_path: Path
) -> None:
    from westlight.core.files import write_exr

    write_exr(tmp_path / "red.exr", np.tile(np.float32([0.8, 0.02, 0.02]), (8, 16, 1)), {})
    bench = Bench()
    plain = spec(room, calm_at=100)
    up = plain.model_copy(
        update={"view": plain.view.model_copy(update={"target": (2.0, 2.0, 9.0)})}
    )
    bench.show(up)
    before = bench.pixels()
    hung = up.finish.model_copy(
        update={"backdrop": BackdropSettings(asset=stored.asset(tmp_path / "red.exr"))}
    )
    bench.show(up.model_copy(update={"finish": hung}))
    after = bench.pixels()
    red = (after[..., 0] > after[..., 2] + 60).mean()
    assert red > 0.05
    assert (before[..., 0] > before[..., 2] + 60).mean() < 0.01
    bench.show(plain)
    before, films = bench.pixels(), bench.shared.store.bytes()
    graded = up.finish.model_copy(
        update={"parts": [PartGradeSettings(of="part", what="room", stops=-4)]}
    )
    bench.show(plain.model_copy(update={"finish": graded}))
    dark = bench.pixels()
    assert np.median(dark) < 0.5 * np.median(before)
    assert bench.shared.store.bytes() == films


def test_answers_about_openings_leaks_and_lamps(room: Path) -> None:
    bench = Bench()
    bench.show(spec(room, calm_at=100, lamp_y=3.98))
    assert bench.ask("openings") == {"found": []}
    leaks = bench.ask("leaks")
    assert leaks["inside"] == bool(leaks["found"])
    found = bench.ask("doubts")["found"]
    assert found == [] or found[0]["source"] == "lamp"
    wrong = bench.ask("opening", corners=[(0.5, 0.5), (0.5, 0.5)])
    assert wrong["problem"]


def test_a_moved_addition_needs_no_new_geometry_but_another_size_does(room: Path) -> None:
    """A blocker and a tree are moved and turned; the hierarchies stay. A tree that grows is built anew."""

    def model(x: float, height: float = 5.0, turn: float = 0.0) -> ModelSpec:
        card = Addition(id="x", name="Card", kind="blocker", position=(x, 1, 0),
                        size_m=(2, 0.1, 1), turn_deg=turn)  # fmt: skip
        tree = Addition(id="y", name="Tree", kind="tree", position=(9, x, 0), size_m=(3, 3, height))
        return stored.model(room, edits=ModelEdits(additions=[card, tree]))

    scenery = Scenery.of(model(1.0))
    moved = scenery.adapted(model(2.0, turn=30.0))
    assert moved is not None
    assert moved.build.scenes is scenery.build.scenes
    assert moved.key != scenery.key
    card = next(i for i, p in enumerate(moved.parts) if p.name == "Card")
    (row,) = np.flatnonzero(moved.build.instance_part == card)
    assert moved.build.instance_matrix[row, :, 3] == pytest.approx([2, 1, 0])
    assert scenery.build.instance_matrix[row, :, 3] == pytest.approx([1, 1, 0])
    assert scenery.adapted(model(1.0, height=6.0)) is None


def test_an_addition_that_grows_is_built_alone_and_the_picture_is_that_of_a_fresh_building(
    room: Path,
) -> None:
    """What stands as it did keeps its hierarchy, and what its portals know; a hidden part lends nothing."""

    def model(height: float, hidden: tuple[str, ...] = ()) -> ModelSpec:
        card = Addition(
            id="x", name="Card", kind="block", position=(1, 1, 0), size_m=(2, 0.4, height)
        )
        return stored.model(room, edits=ModelEdits(additions=[card], hidden=list(hidden)))

    small = Scenery.of(model(0.5))
    tall, fresh = Scenery.of(model(2.0), small), Scenery.of(model(2.0))
    lent = [s for s in tall.build.scenes if s is not None and s in small.build.scenes]
    assert lent
    assert len(lent) < sum(s is not None for s in tall.build.scenes)
    assert tall.build.room is small.build.room
    assert fresh.build.room is not small.build.room
    lit = spec(room, calm_at=100).model_copy(update={"model": model(2.0)})
    pictures = []
    for scenery in (tall, fresh):
        assembled = scenery.lit(lit).assembled
        films = [Accumulator.empty(24, 32) for _ in assembled.sources]
        view = View((0.5, 0.5, 1.5), (3, 3, 1), width_px=32, height_px=24)
        PassRun(assembled, view, range(len(films)), films, upto=1).advance()
        pictures.append(sum(f.mean() for f in films))
    assert np.array_equal(*pictures)
    assert pictures[0].max() > 0
    name = next(p.name for p in small.parts if not p.movable)
    assert Scenery.of(model(0.5, (name,)), small).build.room is not small.build.room


@pytest.fixture
def cell(tmp_path: Path) -> Path:
    """A cell of 4 × 4 × 3 m with a door in its south wall, and a shutter in its north wall, as a file."""
    parts = []

    def slab(name: str, low: tuple[float, ...], high: tuple[float, ...]) -> None:
        points = [[x, y, z] for x in (low[0], high[0]) for y in (low[1], high[1]) for z in (low[2], high[2])]  # fmt: skip
        parts.append(Part(name, Mesh.single(name, points, BOX_FACES, Material(0.6))))

    slab("floor", (0, 0, -0.2), (4, 4, 0))
    slab("roof", (0, 0, 3), (4, 4, 3.2))
    for name, x in (("west", -0.2), ("east", 4.0)):
        slab(name, (x, -0.2, -0.2), (x + 0.2, 4.2, 3.2))
    # The south wall with a door of 1.2 × 2.2 m.
    slab("south left", (0, -0.2, -0.2), (1.4, 0, 3.2))
    slab("south right", (2.6, -0.2, -0.2), (4, 0, 3.2))
    slab("lintel", (1.4, -0.2, 2.2), (2.6, 0, 3.2))
    # A shutter in the north wall, as if a window had been closed.
    slab("north left", (0, 4, -0.2), (1.4, 4.2, 3.2))
    slab("north right", (2.6, 4, -0.2), (4, 4.2, 3.2))
    slab("north foot", (1.4, 4, -0.2), (2.6, 4.2, 0.9))
    slab("north head", (1.4, 4, 2.1), (2.6, 4.2, 3.2))
    slab("shutter", (1.4, 4.05, 0.9), (2.6, 4.1, 2.1))
    write_glb(Model(parts), tmp_path / "cell.glb")
    return tmp_path / "cell.glb"


def test_openings_stay_when_the_roof_is_hidden_or_something_stands_before_them(
    cell: Path,
) -> None:
    """A door in a wall of 4 × 4 × 3 m keeps its name and size without the roof; a hole that hiding makes comes after it."""

    def found(hidden: tuple[str, ...] = (), block: bool = False) -> list[Portal]:
        stands = Addition(
            id="x", name="B", kind="block", position=(2, -0.4, 0), size_m=(2, 0.2, 2.5)
        )
        edits = ModelEdits(hidden=list(hidden), additions=[stands] if block else [])
        return Scenery.of(stored.model(cell, edits=edits)).found

    (door,) = whole = found()
    assert door.name == "Doorway 1"
    assert (door.width, door.height) == pytest.approx((1.2, 2.2), abs=0.1)
    assert found(("roof",)) == whole
    assert found(block=True) == whole
    first, more = found(("shutter",))
    assert first == door
    assert more.name == "Doorway 2"
    assert (more.width, more.height) == pytest.approx((1.2, 1.2), abs=0.1)


def test_a_closed_room_without_its_roof_is_as_dark_as_if_it_were_whole(cell: Path) -> None:
    """Direct light of the sky on the floor comes by the door alone, whether the roof is there, hidden, or the sky let in."""

    def on_the_floor(hidden: list[str], closed: bool) -> np.ndarray:
        lit = spec(cell, calm_at=100)
        sky = [s for s in lit.sources if s.id == "sky"]
        model = stored.model(cell, edits=ModelEdits(hidden=hidden))
        of = lit.model_copy(update={"sources": sky, "model": model, "closed": closed})
        places = [[x, y, 0.0] for x in (1.0, 2.0, 3.0) for y in (0.7, 1.6, 2.8)]
        found = irradiance_at(Scenery.of(model).lit(of).assembled, places, [[0, 0, 1]] * 9,
                              samples=4096, seed=5, bounces=0)  # fmt: skip
        return found[:, 0] @ AP1_LUMINANCE

    whole = on_the_floor([], True)
    assert on_the_floor([], False) == pytest.approx(whole, rel=0.03, abs=0.002 * whole.max())
    assert on_the_floor(["roof"], True) == pytest.approx(whole, rel=0.03, abs=0.002 * whole.max())
    assert (on_the_floor(["roof"], False) > 1.4 * whole).all()
