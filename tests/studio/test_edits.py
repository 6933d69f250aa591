"""Projects, edits, undo and redo, and what is refused."""

from __future__ import annotations

import math
import zipfile
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

import pytest

from westlight.core.errors import Cancelled, ModelError
from westlight.engine.keys import keys_of
from westlight.engine.spec import FixtureSettings, PictureSpec
from westlight.engine.translate import gain_of, sky_of, source_of
from westlight.store import AUTHOR, Store
from westlight.studio import edits
from westlight.studio.errors import BadEdit, NotFound
from westlight.studio.gazetteer import zone_at
from westlight.studio.recipe import sky_settings
from westlight.studio.rows import rows_of
from westlight.studio.settings import LookState
from westlight.studio.studio import Studio

from ..core.test_models import OBJ, glb


def test_every_edit_can_be_undone_and_redone(studio: Studio) -> None:
    """Change, add and remove, taken back one by one and done again."""
    pid = studio.projects.create("House")
    start = studio.projects.overview(pid)
    look = start["looks"][0]["id"]
    studio.history.change(
        pid, "look", look, {"settings": {"sun": {"size": 4.0}}}, "Size of the sun"
    )
    lamp = studio.history.add(pid, "source", "Lamp", {"kind": "fixture", "shape": "disc"})
    studio.history.change(pid, "source", lamp, {"name": "Reading lamp"})
    studio.history.remove(pid, "source", lamp)
    states = [studio.projects.overview(pid)]
    while studio.history.undo(pid):
        states.append(studio.projects.overview(pid))
    assert len(states) == 5
    strip = ("undo", "redo", "undo_by", "redo_by")
    assert {k: v for k, v in states[-1].items() if k not in strip} == {
        k: v for k, v in start.items() if k not in strip
    }
    for before in reversed(states[:-1]):
        assert studio.history.redo(pid)
        now = studio.projects.overview(pid)
        assert now["looks"] == before["looks"]
        assert now["sources"] == before["sources"]
    assert studio.history.redo(pid) is None


def test_a_new_project_has_the_time_zone_of_its_place(studio: Studio) -> None:
    """Where it stands if nobody says, and where it is put without one."""
    for place in ({}, {"latitude_deg": 48.1, "longitude_deg": 11.6}):
        made = studio.projects.overview(studio.projects.create("House", **place))
        assert made["time_zone"] == zone_at(made["latitude_deg"], made["longitude_deg"])
    told = studio.projects.create("House", time_zone="Asia/Tokyo")
    assert studio.projects.overview(told)["time_zone"] == "Asia/Tokyo"


def test_a_new_edit_ends_redo(studio: Studio) -> None:
    """After undo and another edit there is nothing to do again."""
    pid = studio.projects.create("House")
    studio.history.change(pid, "project", pid, {"name": "Barn"})
    studio.history.undo(pid)
    studio.history.change(pid, "project", pid, {"name": "Shed"})
    assert studio.history.redo(pid) is None
    assert studio.projects.overview(pid)["name"] == "Shed"


def test_a_gesture_is_one_step(studio: Studio) -> None:
    """A drag saved in many pieces is undone at once."""
    pid = studio.projects.create("House")
    look = studio.projects.overview(pid)["looks"][0]
    for minutes in (600, 610, 640):
        studio.history.change(
            pid, "look", look["id"], {"settings": {"minutes": minutes}}, gesture="g1"
        )
    assert studio.projects.overview(pid)["looks"][0]["settings"]["minutes"] == 640
    studio.history.undo(pid)
    assert (
        studio.projects.overview(pid)["looks"][0]["settings"]["minutes"]
        == look["settings"]["minutes"]
    )


@pytest.mark.parametrize(
    ("kind", "patch"),
    [
        ("look", {"settings": {"sky": {"haze": 50}}}),
        ("look", {"settings": {"exposure": {"f_number": -1}}}),
        ("look", {"settings": {"velvet": True}}),
        ("look", {"wattage": 3}),
        ("project", {"latitude_deg": 95.0}),
        ("project", {"time_zone": "Saltmarsh/Quay"}),
    ],
)
def test_impossible_values_are_refused_and_nothing_changes(
    studio: Studio, kind: str, patch: dict[str, object]
) -> None:
    """A refused edit leaves no trace in the project or its history."""
    pid = studio.projects.create("House")
    before = studio.projects.overview(pid)
    row = pid if kind == "project" else before["looks"][0]["id"]
    with pytest.raises(BadEdit):
        studio.history.change(pid, kind, row, patch)
    assert studio.projects.overview(pid) == before


def test_the_last_look_stays(studio: Studio) -> None:
    """A project never loses its last look or view; rows of others are not found."""
    pid, other = studio.projects.create("A"), studio.projects.create("B")
    rows = studio.projects.overview(pid)
    with pytest.raises(BadEdit, match="at least one"):
        studio.history.remove(pid, "look", rows["looks"][0]["id"])
    with pytest.raises(NotFound):
        studio.history.change(other, "look", rows["looks"][0]["id"], {"name": "x"})
    with pytest.raises(NotFound):
        studio.projects.overview("0" * 32)


def test_solo_and_mute(studio: Studio) -> None:
    """Solo silences all others; mute only itself."""
    pid = studio.projects.create("House")
    lamp = studio.history.add(
        pid, "source", "Lamp", {"kind": "fixture", "places": [{"position": [0, 0, 1]}]}
    )
    rows = studio.projects.overview(pid)
    look, view = rows["looks"][0]["id"], rows["views"][0]["id"]

    def counting(mix: dict[str, object]) -> set[str]:
        studio.history.change(pid, "look", look, {"settings": {"mix": mix}})
        project = studio.scenes.picture(pid, look, view)
        assert project.model is None
        from westlight.store import Look, Project, Source
        from westlight.studio import recipe

        with studio.store.session() as session:
            sources = rows_of(session, Source, pid)
            state = recipe.look_state(session.get(Look, look))
            found = recipe.sources_of(session.get(Project, pid), state, sources)
        return {s.id for s in found if s.counts}

    assert counting({}) == {"sun", "sky", lamp}
    assert counting({"sky": {"muted": True}}) == {"sun", lamp}
    assert counting({lamp: {"solo": True}}) == {lamp}


def test_importing_a_building(studio: Studio, tmp_path: Path) -> None:
    """A GLB becomes the project's model with its glowing material as a source; undo takes it out."""
    pid = studio.projects.create("House")
    report = studio.buildings.bring(pid, glb(tmp_path / "h.glb"), "h.glb")
    assert report["triangles"] == 2
    rows = studio.projects.overview(pid)
    assert rows["models"][0]["settings"]["triangles"] == 2
    assert [s["name"] for s in rows["sources"]] == ["lamp"]
    plan = studio.buildings.plan(pid, 0.5)
    assert plan is not None
    studio.history.undo(pid)
    assert studio.projects.overview(pid)["models"] == []
    assert studio.buildings.plan(pid) is None


def test_cameras_of_a_building_become_views(studio: Studio, tmp_path: Path) -> None:
    """A new building brings its cameras with their lens; one that replaces it does not."""
    pid = studio.projects.create("House")
    nodes = [{"mesh": 0}, {"name": "eye", "camera": 0, "translation": [1, 2, 3]},
             {"name": "door", "camera": 0}]  # fmt: skip
    file = glb(tmp_path / "h.glb", nodes=nodes, scenes=[{"nodes": [0, 1, 2]}])
    studio.buildings.bring(pid, file, "h.glb")
    state = studio.projects.overview(pid)
    assert [v["name"] for v in state["views"]] == ["eye", "door"]
    assert state["models"][0]["settings"]["cameras"] == 2
    eye = state["views"][0]["settings"]
    assert eye["position"] == pytest.approx([1, -3, 2])
    # 0.8 rad across a height of 36 mm · 9/16.
    assert eye["focal_length_mm"] == pytest.approx(10.125 / math.tan(0.4), rel=1e-6)
    studio.buildings.bring(pid, file, "h.glb")
    assert len(studio.projects.overview(pid)["views"]) == 2


def test_what_is_made_to_shine_becomes_a_source(studio: Studio, tmp_path: Path) -> None:
    """A material, a part's own copy and a light card, each in the step that lit it."""
    pid = studio.projects.create("House")
    studio.buildings.bring(pid, glb(tmp_path / "h.glb"), "h.glb")
    row = studio.projects.overview(pid)["models"][0]["id"]

    def lit(edits: dict[str, Any]) -> list[str]:
        studio.history.change(pid, "model", row, {"settings": {"edits": edits}})
        return [s["name"] for s in studio.projects.overview(pid)["sources"]]

    assert lit({"materials": {"lamp": {"emission_cd_m2": 50}}}) == ["lamp"]
    assert lit({"own_materials": {"left": {"emission_cd_m2": 90}}}) == ["lamp", "lamp (left)"]
    card = {"id": "c", "name": "Light card 1", "kind": "light card", "position": [0, 0, 0],
            "size_m": [1, 0.02, 1], "emission_cd_m2": 500}  # fmt: skip
    assert lit({"additions": [card]}) == ["lamp", "lamp (left)", "Light card 1"]
    studio.history.undo(pid)
    assert [s["name"] for s in studio.projects.overview(pid)["sources"]] == ["lamp", "lamp (left)"]


def test_an_addition_in_the_hand_stands_there_in_the_picture_alone(
    studio: Studio, tmp_path: Path
) -> None:
    pid = studio.projects.create("House")
    studio.buildings.bring(pid, glb(tmp_path / "h.glb"), "h.glb")
    rows = studio.projects.overview(pid)
    row, look, view = (rows[k][0]["id"] for k in ("models", "looks", "views"))
    block = {"id": "b", "name": "Block 1", "kind": "block", "position": [0, 0, 0],
             "size_m": [1, 1, 1]}  # fmt: skip
    studio.history.change(pid, "model", row, {"settings": {"edits": {"additions": [block]}}})

    def stands(held: dict[str, Any] | None = None) -> tuple[float, ...]:
        model = studio.scenes.picture(pid, look, view, held).model
        assert model is not None
        return tuple(model.edits.additions[0].position)

    moved = {"model": {"edits": {"additions": [{**block, "position": [2, 0, 0]}]}}}
    assert stands(moved) == (2, 0, 0)
    assert stands() == (0, 0, 0)
    with pytest.raises(BadEdit):
        stands({"model": {"edits": {"additions": [{**block, "position": "there"}]}}})


def test_a_stopped_import_changes_nothing(studio: Studio, tmp_path: Path) -> None:
    """Stopped while the child reads, or just before it is in: the project is as it was."""
    pid = studio.projects.create("House")
    file = glb(tmp_path / "h.glb")
    with pytest.raises(Cancelled, match="as it was"):
        studio.buildings.bring(pid, file, "h.glb", stopped=lambda: True)
    looks = iter([False] * 3)
    with pytest.raises(Cancelled):
        studio.buildings.bring(pid, file, "h.glb", stopped=lambda: next(looks, True))
    row = studio.projects.overview(pid)
    assert row["models"] == []
    assert row["undo"] is None


def test_a_building_is_stood_up(studio: Studio, tmp_path: Path) -> None:
    """The side that shows to the east is up afterwards; the plan is cut anew."""
    pid = studio.projects.create("House")
    with pytest.raises(NotFound, match="import"):
        studio.buildings.turn_up(pid, (1, 0, 0))
    studio.buildings.bring(pid, glb(tmp_path / "h.glb"), "h.glb")
    before = studio.buildings.section(pid, (10, 0), 90)
    studio.buildings.turn_up(pid, (1, 0, 0))
    assert studio.projects.overview(pid)["models"][0]["settings"]["up"] == "x"
    after = studio.buildings.section(pid, (10, 0), 90)
    assert before is not None
    assert after is not None
    # What ran east runs up; the section counts from its place at x = 10.
    assert after["low"][1] == pytest.approx(before["low"][0] + 10, abs=0.02)
    assert after["low"][0] != pytest.approx(before["low"][0], abs=0.02)
    studio.history.undo(pid)
    assert studio.projects.overview(pid)["models"][0]["settings"]["up"] == "y"


def test_importing_a_zip_with_an_obj(studio: Studio, tmp_path: Path) -> None:
    """An OBJ with its library inside a zip is kept as one file."""
    file = tmp_path / "wall.zip"
    with zipfile.ZipFile(file, "w") as packed:
        packed.writestr("wall/w.obj", OBJ)
        packed.writestr("wall/m.mtl", "newmtl red\nKd 0.8 0.1 0.1\n")
    pid = studio.projects.create("House")
    studio.buildings.bring(pid, file, "wall.zip")
    state = studio.projects.overview(pid)["models"][0]["settings"]
    assert state["suffix"] == ".glb"
    assert studio.shelves.assets.path(state["asset"], ".glb").is_file()


def test_of_a_zip_with_several_models_one_is_chosen(studio: Studio, tmp_path: Path) -> None:
    """Nothing is read before one is wanted; then that one, with the pictures beside it, whatever its case."""
    file = tmp_path / "site.zip"
    with zipfile.ZipFile(file, "w") as packed:
        packed.writestr("House/House.obj", OBJ)
        packed.writestr("House/m.mtl", "newmtl red\nKd 0.8 0.1 0.1\n")
        packed.writestr("annex.obj", OBJ + "# larger\n" * 9)
    pid = studio.projects.create("House")
    before = studio.projects.overview(pid)
    found = studio.buildings.bring(pid, file, "site.zip")
    assert [m["name"] for m in found["choose"]] == ["annex.obj", "House/House.obj"]
    assert studio.projects.overview(pid) == before
    for wrong in ("gone.obj", "../annex.obj", "/etc/passwd", "House"):
        with pytest.raises(ModelError, match="holds no"):
            studio.buildings.bring(pid, file, "site.zip", wanted=wrong)
    assert studio.projects.overview(pid) == before
    studio.buildings.bring(pid, file, "site.zip", wanted="House/House.obj")
    (model,) = studio.projects.overview(pid)["models"]
    assert model["name"] == "site.zip · House.obj"
    assert not model["settings"]["remarks"]


def test_bad_imports_change_nothing(studio: Studio, tmp_path: Path) -> None:
    """A broken file is refused in words and the project keeps what it had."""
    pid = studio.projects.create("House")
    studio.buildings.bring(pid, glb(tmp_path / "h.glb"), "h.glb")
    before = studio.projects.overview(pid)
    (tmp_path / "bad.glb").write_bytes(b"glTF nonsense")
    (tmp_path / "bad.zip").write_bytes(b"PK nonsense")
    for name in ("bad.glb", "bad.zip"):
        with pytest.raises(ModelError):
            studio.buildings.bring(pid, tmp_path / name, name)
    assert studio.projects.overview(pid) == before


def test_demo_project(studio: Studio, demo_folder: Path) -> None:
    """Four looks, five views, fixtures; made once only."""
    pid = studio.create_demo(demo_folder)
    assert studio.create_demo(demo_folder) == pid
    rows = studio.projects.overview(pid)
    assert [r["name"] for r in rows["looks"]] == [
        "Late sun", "Blue hour", "Kiln night", "Overcast noon",
    ]  # fmt: skip
    assert [r["name"] for r in rows["views"]] == [
        "Wheel room", "Gallery", "Bench", "From the quay", "Kiln yard",
    ]  # fmt: skip
    heights = [studio.scenes.facts(pid, r["id"])["elevation_deg"] for r in rows["looks"]]
    assert heights[0] > 10
    assert -7 < heights[1] < -2
    assert heights[2] < min(heights[1], -6)


def _spec(
    lumen: float = 800, kelvin: float = 3000, x: float = 0.0, level: float = 0.0,
    warm_dim: bool = False,
) -> PictureSpec:  # fmt: skip
    settings = FixtureSettings(
        lumen=lumen, kelvin=kelvin, warm_dim=warm_dim, places=[{"position": (x, 0, 2)}]
    )  # type: ignore[list-item]
    return PictureSpec.model_validate(
        {"sources": [{"id": "a", "name": "a", "settings": settings, "level": level},
                     {"id": "sun", "name": "Sun", "settings": {"kind": "sun"}}]}
    )  # fmt: skip


def test_keys_change_with_light_paths_only() -> None:
    """Amount, colour and level keep an accumulator; place clears the ones it can shade."""
    ids = ("a", "sun")
    key = keys_of(_spec()).films({6, 2})
    for same in (_spec(lumen=80), _spec(kelvin=6000), _spec(level=-3.0), _spec(warm_dim=True)):
        assert keys_of(same).films({6, 2}) == key
    new = keys_of(_spec(x=1.0)).films({6})
    assert all(new[(i, 6)] != key[(i, 6)] for i in ids)
    assert all(key[(i, 2)] != key[(i, 6)] for i in ids)


def test_gain_carries_amount_and_level() -> None:
    """Ten times the lumen and one stop more: twenty times the gain."""
    low, high = _spec(lumen=100), _spec(lumen=1000, level=1.0)
    gains = [gain_of(s.sources[0], source_of(s.sources[0], 0.0, [])) for s in (low, high)]
    assert gains[1] / gains[0] == pytest.approx([20.0] * 3)


def test_a_lamp_that_dims_warmly_has_the_colour_of_its_level_in_each_look(
    studio: Studio, tmp_path: Path
) -> None:
    """By its own level and that of its group; raised, or made of another kind, it keeps its kelvin."""
    pid = studio.projects.create("Dimmed")
    studio.buildings.bring(pid, glb(tmp_path / "scene.glb"), "scene.glb")
    lamps = {
        name: studio.history.add(pid, "source", name, FixtureSettings(
            kelvin=2700, warm_dim=warm, group=group).model_dump(mode="json"))
        for name, warm, group in (("warm", True, ""), ("plain", False, ""), ("grouped", True, "Hall"))
    }  # fmt: skip
    rows = studio.projects.overview(pid)
    look, view = rows["looks"][0]["id"], rows["views"][0]["id"]

    def kelvin(**levels: float) -> dict[str, float]:
        mix = {lamps.get(n, f"group: {n}"): {"level": v} for n, v in levels.items()}
        spec = studio.scenes.picture(pid, look, view, {"look": {"mix": mix}})
        return {
            s.name: s.settings.kelvin
            for s in spec.sources
            if isinstance(s.settings, FixtureSettings)
        }

    assert set(kelvin().values()) == {2700}
    low = kelvin(warm=-3, plain=-3, grouped=-1, Hall=-2)
    assert low["plain"] == 2700
    # Three stops are an eighth of the flux: V = 8^(−1/3.4), K ∝ V^0.42.
    assert low["warm"] == pytest.approx(2700 * 8 ** (-0.42 / 3.4))
    assert low["grouped"] == pytest.approx(low["warm"])
    assert set(kelvin(warm=2, plain=2, grouped=2).values()) == {2700}


def test_a_fixture_lands_on_its_surface(studio: Studio) -> None:
    """A flat lamp just off the surface, a globe clear of it, both shining along the normal."""
    pid = studio.projects.create("House")
    for shape, gap in (("rectangle", 0.03), ("disc", 0.03), ("sphere", 0.13)):
        row = studio.fixtures.place(pid, shape, (1.0, 2.0, 3.0), (0.0, 0.0, -1.0))
        found = next(s for s in studio.projects.overview(pid)["sources"] if s["id"] == row)[
            "settings"
        ]
        assert found["places"][0]["position"] == pytest.approx([1.0, 2.0, 3.0 - gap])
        assert found["places"][0]["direction"] == [0.0, 0.0, -1.0]
    with pytest.raises(BadEdit, match="rectangle"):
        studio.fixtures.place(pid, "cone", (0, 0, 0), (0, 0, 1))
    studio.history.undo(pid)
    assert len(studio.projects.overview(pid)["sources"]) == 2


@pytest.mark.parametrize("model", ["clear", "cie", "graded"])
def test_the_sheet_tells_the_light_of_the_sky_that_is_traced(studio: Studio, model: str) -> None:
    """With its horizon raised, the glow of towns and the light of the moon in its air."""
    pid = studio.projects.create("House", latitude_deg=43.6, longitude_deg=-9.1)
    look = studio.projects.overview(pid)["looks"][0]["id"]

    def told(**sky: Any) -> float:
        studio.history.change(pid, "look", look, {"settings": {"sky": {"model": model, **sky}}})
        made = studio.projects.overview(pid)
        state = LookState.model_validate(made["looks"][0]["settings"])
        traced = sky_of(sky_settings(state, 43.6, -9.1, made["time_zone"]), 0.0)
        found = float(studio.scenes.facts(pid, look)["sky_lx"])
        assert found == pytest.approx(traced.horizontal_illuminance(), rel=1e-3)
        return found

    plain = told()
    assert told(horizon_deg=12.0) != pytest.approx(plain, rel=0.005)
    told(horizon_deg=0.0)
    night = {"settings": {"minutes": 60, "sun": {"mode": "time"}}}
    studio.history.change(pid, "look", look, night)
    dark = told(town_cd_m2=0.0)
    if model == "clear":
        assert told(town_cd_m2=0.5) > 1.5 * dark


def test_a_free_sun_tells_its_dates(studio: Studio) -> None:
    """Placed where the sun was, it names that day; placed in the north, it says never."""
    pid = studio.projects.create("House", latitude_deg=43.6, longitude_deg=-9.1)
    look = studio.projects.overview(pid)["looks"][0]["id"]
    assert studio.scenes.stands(pid, look) is None
    facts = studio.scenes.facts(pid, look)
    sun = {k: facts[k] for k in ("azimuth_deg", "elevation_deg")}
    studio.history.change(pid, "look", look, {"settings": {"sun": {"mode": "free", **sun}}})
    found = studio.scenes.stands(pid, look)
    assert found is not None
    assert found["ever"]
    day = studio.projects.overview(pid)["looks"][0]["settings"]["day"]
    assert any(abs(int(m["day"][8:]) - int(day[8:])) <= 1 for m in found["matches"])
    north = {"azimuth_deg": 0.0, "elevation_deg": 60.0}
    studio.history.change(pid, "look", look, {"settings": {"sun": north}})
    never = studio.scenes.stands(pid, look)
    assert never is not None
    assert not never["ever"]


def test_lamps_move_together_and_levels_come_from_another_look(
    store: Store, tmp_path: Path
) -> None:
    """A step for every lamp and not for the sun, held at the end; one source or all from a look."""
    studio = Studio(store, tmp_path)
    pid = studio.projects.create("Levels")
    a = studio.fixtures.place(pid, "disc", (0, 0, 2), (0, 0, -1))
    b = studio.fixtures.place(pid, "sphere", (1, 0, 2), (0, 0, -1))
    day = studio.projects.overview(pid)["looks"][0]["id"]
    dusk = studio.history.add(pid, "look", "Dusk", {})

    def mix(look: str) -> dict[str, Any]:
        rows = studio.projects.overview(pid)["looks"]
        found: dict[str, Any] = next(r for r in rows if r["id"] == look)["settings"]["mix"]
        return found

    studio.history.change(
        pid, "look", day, {"settings": {"mix": {a: {"level": 7.5}, "sun": {"level": 1}}}}
    )
    studio.looks.shift_levels(pid, day, 1.0)
    assert mix(day)[a]["level"] == 8.0
    assert mix(day)[b]["level"] == 1.0
    assert mix(day)["sun"]["level"] == 1.0
    studio.looks.copy_levels(pid, dusk, day, b)
    assert mix(dusk)[b]["level"] == 1.0
    assert mix(dusk).get(a, {}).get("level", 0.0) == 0.0
    studio.looks.copy_levels(pid, dusk, day)
    assert [mix(dusk)[i]["level"] for i in (a, b, "sun")] == [8.0, 1.0, 1.0]
    studio.history.undo(pid)
    assert mix(dusk).get("sun", {}).get("level", 0.0) == 0.0
    with pytest.raises(NotFound):
        studio.looks.copy_levels(pid, dusk, "gone")


def test_a_look_shows_the_sky_of_its_hour(studio: Studio) -> None:
    """Noon is bright and blue above, dusk darker with a warm horizon, night nearly black."""
    from westlight.studio import daylight
    from westlight.studio.settings import LookState

    def channels(minutes: float) -> list[list[int]]:
        colours = daylight.chip(LookState(minutes=minutes), 43.6, -9.1, "Etc/GMT-1")
        return [[int(v) for v in c[4:-1].split()] for c in colours]

    noon, dusk, night = channels(780), channels(1145), channels(1380)
    assert noon[0][2] > noon[0][0] > 60
    assert dusk[1][0] > dusk[1][2]
    assert sum(dusk[0]) < sum(noon[0])
    assert max(max(c) for c in night) < 60
    project = studio.projects.create("Chips")
    assert studio.projects.overview(project)["looks"][0]["sky"][0].startswith("rgb(")


def test_edits_at_once_are_all_kept(studio: Studio) -> None:
    """Eight hands, a hundred edits of different fields each: all are there, and undo goes back to the start."""
    project = studio.projects.create("House")
    look = studio.projects.overview(project)["looks"][0]["id"]
    start = studio.projects.overview(project)["looks"][0]["settings"]
    hands, each = 8, 100

    def edit(hand: int) -> None:
        for n in range(each):
            patch = {"settings": {"mix": {f"lamp {hand}": {"level": n / 10}}}}
            studio.history.change(project, "look", look, patch, f"Lamp {hand}.{n}")

    with ThreadPoolExecutor(hands) as pool:
        for done in [pool.submit(edit, h) for h in range(hands)]:
            done.result()
    mix = studio.projects.overview(project)["looks"][0]["settings"]["mix"]
    # Nobody's last word was lost to another's.
    assert {h: mix[f"lamp {h}"]["level"] for h in range(hands)} == dict.fromkeys(range(hands), 9.9)
    with ThreadPoolExecutor(hands) as pool:
        undone = [pool.submit(studio.history.undo, project) for _ in range(hands * each)]
        labels = [u.result() for u in undone]
    # Each undo took a step of its own.
    assert sorted(map(str, labels)) == sorted(
        f"Lamp {h}.{n}" for h in range(hands) for n in range(each)
    )
    assert studio.projects.overview(project)["looks"][0]["settings"] == start


def test_nothing_is_edited_without_the_lock(studio: Studio) -> None:
    """A way to write that forgets it is noticed at once, not when two hands meet."""
    project = studio.projects.create("House")
    look = studio.projects.overview(project)["looks"][0]["id"]
    with studio.store.session() as session, pytest.raises(RuntimeError, match="lock"):
        edits.change(session, project, "look", look, {"name": "Noon"})


@pytest.mark.parametrize("name", ["", "   ", "x" * 200_000, "nul\x00", "half\ud800", 7, None])
def test_a_name_that_is_none_is_refused(studio: Studio, name: Any) -> None:
    """Of a row that is there, and of a new one; nothing is changed."""
    project = studio.projects.create("House")
    before = studio.projects.overview(project)
    look = before["looks"][0]["id"]
    with pytest.raises(BadEdit):
        studio.history.change(project, "look", look, {"name": name})
    with pytest.raises(BadEdit):
        studio.history.add(project, "view", name, {})
    assert studio.projects.overview(project) == before


@pytest.mark.parametrize("step", [2**31, 2**63, -1])
def test_a_step_that_never_was(studio: Studio, step: int) -> None:
    """Whatever number is asked for."""
    with pytest.raises(NotFound):
        studio.history.go_to(studio.projects.create("House"), step)


def test_a_step_knows_the_page_it_came_from(studio: Studio) -> None:
    """Edits of one drag by two pages are two steps, and each is told as whose it is."""
    pid = studio.projects.create("Shared")
    look = studio.projects.overview(pid)["looks"][0]["id"]
    for page, size in (("a", 2.0), ("a", 3.0), ("b", 4.0)):
        known = AUTHOR.set(page)
        studio.history.change(
            pid, "look", look, {"settings": {"sun": {"size": size}}}, "Size", gesture="drag"
        )
        AUTHOR.reset(known)
    assert studio.projects.overview(pid)["undo_by"] == "b"
    studio.history.undo(pid)
    told = studio.projects.overview(pid)
    assert (told["undo_by"], told["redo_by"]) == ("a", "b")
    assert told["looks"][0]["settings"]["sun"]["size"] == 3.0
    assert [step["by"] for step in studio.history.steps(pid)] == ["b", "a"]


def test_scenes_of_lamps_are_rows_of_the_project(studio: Studio) -> None:
    """Kept, used in a look, changed, removed and taken back like everything else; odd ones are refused."""
    pid = studio.projects.create("House")
    lamp = studio.history.add(pid, "source", "Lamp", {"kind": "fixture"})
    levels = {lamp: {"level": -1.5}, "group: Desk": {"muted": True}}
    scene = studio.history.add(pid, "scene", "Dinner", {"levels": levels})
    (kept,) = studio.projects.overview(pid)["scenes"]
    assert kept["name"] == "Dinner"
    assert kept["settings"]["levels"][lamp] == {"level": -1.5, "muted": False, "solo": False}
    look = studio.projects.overview(pid)["looks"][0]
    studio.history.change(
        pid, "look", look["id"], {"settings": {"mix": kept["settings"]["levels"]}}
    )
    assert studio.projects.overview(pid)["looks"][0]["settings"]["mix"][lamp]["level"] == -1.5
    studio.history.remove(pid, "scene", scene)
    assert studio.projects.overview(pid)["scenes"] == []
    studio.history.undo(pid)
    assert [s["name"] for s in studio.projects.overview(pid)["scenes"]] == ["Dinner"]
    with pytest.raises(BadEdit):
        studio.history.change(pid, "scene", scene, {"settings": {"levels": {lamp: {"level": 99}}}})
