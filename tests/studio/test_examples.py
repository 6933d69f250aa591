"""Lantern Row: what its scripts build, and the project it becomes."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import pytest
from demo.lantern_row import build, living, shell, town, wet_rooms
from demo.lantern_row.shapes import cushion
from demo.lantern_row.surfaces import SURFACES, TEXTURES, texture_files
from demo.shapes import Solid, swept
from demo.writer import GlbWriter, Piece

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


def _heights(pieces: list[Piece], name: str) -> list[float]:
    """The lowest point of each copy of a piece."""
    piece = next(p for p in pieces if p.name == name)
    points = np.concatenate([s.points for s, _ in piece.solids])
    where = piece.places or [np.eye(4)]
    return [float((points @ m[:3, :3].T + m[:3, 3])[:, 2].min()) for m in where]


@pytest.mark.parametrize(
    ("of", "name", "on"),
    [
        *(("table", n, 0.742) for n in ("Plate", "Cup", "Cutlery", "Napkin", "Bowl", "Bread", "Candlestick")),
        *(("kitchen", n, 0.89) for n in ("Hob", "Board", "Chopping board", "Oil", "Crock")),
        ("kitchen", "Pan", 0.895), ("kitchen", "Kitchen bread", 0.91), ("table", "Chair", 0.0), ("kitchen", "Stool", 0.0),
    ],
)  # fmt: skip
def test_things_stand_on_what_carries_them(of: str, name: str, on: float) -> None:
    """Neither in the air nor below: within three millimetres, what leans within five."""
    pieces = living.laid_table() if of == "table" else [*wet_rooms.in_use(), *wet_rooms.kitchen()]
    for low in _heights(pieces, name):
        assert low - shell.FLOOR == pytest.approx(on, abs=0.005 if name == "Board" else 0.003)


def _open_edges(solid: Solid) -> int:
    """Edges that do not join exactly two triangles, corners at one place taken as one."""
    corners = np.unique(solid.points.round(6), axis=0, return_inverse=True)[1].reshape(-1, 3)
    corners = corners[(corners != np.roll(corners, 1, axis=1)).all(axis=1)]
    edges = np.sort(np.stack([corners, np.roll(corners, -1, axis=1)], axis=-1).reshape(-1, 2), axis=1)  # fmt: skip
    return int((np.unique(edges, axis=0, return_counts=True)[1] != 2).sum())


@pytest.mark.parametrize("soft", [0.12, 0.3, 1.0])
def test_a_cushion_is_closed_and_looks_outwards(soft: float) -> None:
    middle, size = (0.3, -1.0, 0.5), (0.7, 0.3, 0.2)
    made = cushion(middle, size, soft, 13)
    assert _open_edges(made) == 0
    # Of a superellipsoid, normals and what they stand on are one formula: together they give a number above zero.
    assert ((made.points - middle) * made.normals).sum(axis=1).min() > 0
    faces = made.points.reshape(-1, 3, 3)
    winding = np.cross(faces[:, 1] - faces[:, 0], faces[:, 2] - faces[:, 0])
    assert ((winding * made.normals.reshape(-1, 3, 3).mean(axis=1)).sum(axis=1) > -1e-12).all()
    assert np.allclose(np.ptp(made.points, axis=0), size, rtol=1e-6)


def test_a_rod_along_a_path_is_round_everywhere() -> None:
    """A bend in space: every point is a radius away from the path, and looks away from it."""
    t = np.linspace(0, 2, 60)
    path = np.stack([np.cos(t), np.sin(t), 0.4 * t], axis=1)
    rod = swept(path, 0.03)
    off = rod.points[:, None] - path[None]
    nearest = np.linalg.norm(off, axis=2)
    assert nearest.min(axis=1) == pytest.approx(0.03, abs=1e-6)
    away = off[np.arange(len(off)), nearest.argmin(axis=1)] / 0.03
    assert (away * rod.normals).sum(axis=1).min() > 0.99
    # Its grain runs along it: u grows with the way.
    assert np.ptp(rod.uvs[:, 0]) == pytest.approx(np.linalg.norm(np.diff(path, axis=0), axis=1).sum(), rel=0.05)  # fmt: skip


def test_wood_is_cut_from_a_block() -> None:
    """A turned top has its grain straight across, not in rings: texture places are those of the plane."""
    top = next(s for s, m in living._table() if m == "oiled timber")
    level = np.abs(top.normals.reshape(-1, 3, 3).mean(axis=1)[:, 2]) > 0.9
    assert level.sum() > 100
    of_corners = np.repeat(level, 3)
    assert np.allclose(top.uvs[of_corners], top.points[of_corners][:, :2] * [1, -1])
