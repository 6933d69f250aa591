"""Lantern Row: what its scripts build, and the project it becomes."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import pytest
from demo.lantern_row import build, living, shell, town, wet_rooms
from demo.lantern_row.surfaces import SURFACES, TEXTURES, texture_files
from demo.writer import GlbWriter

from westlight.core import read_model
from westlight.core.analysis.planting import Bed, planted
from westlight.core.transport.assemble import assemble
from westlight.core.transport.build import GeometryBuild
from westlight.engine.garden import strokes_of
from westlight.engine.spec import FixtureSettings
from westlight.studio import examples, lantern_row
from westlight.studio.demo import fixtures
from westlight.studio.errors import BadEdit
from westlight.studio.studio import Studio


@pytest.fixture(scope="module")
def flat(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The flat alone, without the town, as the whole is written."""
    folder = tmp_path_factory.mktemp("flat")
    writer = GlbWriter(build.NAME, SURFACES, texture_files)
    for piece in (*shell.pieces(), *living.pieces(), *wet_rooms.pieces()):
        writer.add(piece)
    writer.save(folder / "lantern_row.glb")
    (folder / "lantern_row.json").write_text(json.dumps({"fixtures": build.fixtures()}))
    return folder


def test_every_piece_has_a_name_of_its_own_and_paint_that_is_there() -> None:
    pieces = build.pieces()
    names = [p.name for p in pieces]
    assert len(set(names)) == len(names)
    used = {material for p in pieces for _, material in p.solids}
    assert used <= set(SURFACES)
    assert set(SURFACES) - used <= {"book cream"} | {s for s in SURFACES if s.startswith("book")}
    assert {s.texture for s in SURFACES.values() if s.texture} == set(TEXTURES)
    triangles = sum(s.triangle_count * len(p.places) for p in pieces for s, _ in p.solids)
    assert 700_000 < triangles < 1_200_000


def test_the_flat_is_read_whole_and_its_rooms_are_closed(flat: Path) -> None:
    """No remarks; from the middle of a room most ways end within it, and some go out by its windows."""
    model = read_model(flat / "lantern_row.glb")
    assert model.remarks == []
    scene = assemble(GeometryBuild(model.parts), []).top
    rng = np.random.default_rng(1)
    ways = rng.normal(size=(400, 3))
    ways /= np.linalg.norm(ways, axis=1, keepdims=True)
    for at, least, most in (((3.0, 2.4, 11.0), 0.70, 0.97), ((8.0, 6.2, 11.0), 0.93, 1.0)):
        far = scene.distances(np.tile(at, (400, 1)), ways)
        assert least < (far < 11.0).mean() <= most
        down = scene.distances(np.array([at]), np.array([[0.0, 0.0, -1.0]]))
        assert 0.5 < down[0] < 1.45


def test_lamps_and_looks_name_one_another() -> None:
    """Every lamp has a level or is off in every look; groups name lamps; no lamp stands in another's place."""
    told = [f["name"] for f in build.fixtures()]
    sources = {*told, *lantern_row.GLOWS}
    for _, look in lantern_row.looks({name: name for name in sources}):
        assert set(look.mix) == sources
        assert look.note
        assert all(m.muted or -4 <= m.level <= 2 for m in look.mix.values())
    assert {name for group in lantern_row.GROUPS.values() for name in group} <= set(told)
    assert [name for name, _ in lantern_row.looks({})] == ["White noon", "Morning haze", "Dinner", "Rain at night"]  # fmt: skip
    places = [tuple(p["position"]) for f in build.fixtures() for p in f["places"]]
    assert len(set(places)) == len(places)


def test_plants_of_the_project_stand_on_the_floor() -> None:
    writer_parts = [p for p in shell.floors() if p.name in ("Floor boards", "Floor slab")]
    from westlight.core.model import Material, Mesh, Part

    parts = []
    for piece in writer_parts:
        for solid, _ in piece.solids:
            faces = np.arange(len(solid.points)).reshape(-1, 3)
            parts.append(Part(piece.name, Mesh.single(piece.name, solid.points, faces, Material(0.5))))  # fmt: skip
    ground = assemble(GeometryBuild(parts), [])
    pots = lantern_row.plantings()["1pots"]
    found = planted(ground, lambda hits: hits[:, 7].astype(np.int64), strokes_of(pots, {}), Bed(), 3)  # fmt: skip
    assert len(found.matrices) == 2
    assert np.allclose(found.matrices[:, 2, 3], shell.FLOOR, atol=0.002)


def test_it_becomes_a_project_with_its_views_looks_lamps_and_plants(
    studio: Studio, flat: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(examples, "built", lambda folder: flat)
    pid = studio.add_example()
    made = studio.projects.overview(pid)
    assert made["name"] == "Lantern Row"
    assert [v["name"] for v in made["views"]] == [name for name, _ in lantern_row.views()]
    assert len(made["looks"]) == 4
    assert {s["name"] for s in made["sources"]} == {f["name"] for f in build.fixtures()} | set(lantern_row.GLOWS)  # fmt: skip
    (model,) = made["models"]
    assert {p["name"] for p in model["settings"]["edits"]["plantings"].values()} == {"Street trees", "Plants in pots"}  # fmt: skip
    # Once more is another project.
    assert studio.add_example() != pid
    made_of = fixtures(flat / "lantern_row.json", {}, lantern_row.GROUPS, lantern_row.GLOWS)
    lamps = {name: s for name, s in made_of if isinstance(s, FixtureSettings)}
    assert lamps["Floor lamp"].group == "Shades"


def test_an_installation_without_scripts_says_so(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(examples, "ROOT", tmp_path)
    with pytest.raises(BadEdit, match="without its example"):
        examples.built(tmp_path)
    scripts = tmp_path / examples.SCRIPTS
    scripts.mkdir(parents=True)
    (scripts / "build.py").write_text("raise SystemExit('no')")
    with pytest.raises(BadEdit, match="could not be built"):
        examples.built(tmp_path)
    assert not list((tmp_path / "demo").glob("lantern-*"))


def test_lanterns_hang_on_their_wires() -> None:
    wires = next(p for p in town.lanterns() if p.name == "Lantern wires")
    points = np.concatenate([s.points for s, _ in wires.solids])
    for at in town.PAPER_LANTERNS:
        assert np.linalg.norm(points - at, axis=1).min() < 0.7
