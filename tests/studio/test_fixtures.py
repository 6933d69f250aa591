"""Fixtures in the studio: units against hand calculation, grids, copies, the schedule."""

from __future__ import annotations

import csv
import io
import math
from pathlib import Path
from typing import Any

import pytest

from westlight import core
from westlight.core.analysis import columns_and_rows, count_for
from westlight.core.errors import WestlightError
from westlight.engine.keys import traced_settings
from westlight.engine.spec import FixtureSettings, SourceSpec
from westlight.store import Store
from westlight.studio.errors import BadEdit, NotFound
from westlight.studio.fixtures import as_csv, circuits, per_lumen, repeated, schedule
from westlight.studio.rows import rows_of
from westlight.studio.settings import LookState
from westlight.studio.studio import Studio


@pytest.fixture
def studio(store: Store, tmp_path: Path) -> Studio:
    """A studio with a folder of its own."""
    return Studio(store, tmp_path)


def settings(shape: str, **more: Any) -> dict[str, Any]:
    """A fixture's settings."""
    return {"kind": "fixture", "shape": shape, "places": [{"position": (0, 0, 0)}], **more}


@pytest.mark.parametrize(
    ("shape", "more", "candela", "luminance"),
    [
        # A Lambert face: I = Φ/π, L = Φ/(π·A). A sphere: I = Φ/4π, L = I/(π·r²).
        ("rectangle", {"width": 0.6, "height": 0.5}, 1 / math.pi, 1 / math.pi / 0.3),
        ("disc", {"radius": 0.2}, 1 / math.pi, 1 / math.pi / (math.pi * 0.04)),
        ("sphere", {"radius": 0.1}, 1 / (4 * math.pi), 1 / (4 * math.pi) / (math.pi * 0.01)),
    ],
)
def test_units_by_hand(
    studio: Studio, shape: str, more: dict[str, float], candela: float, luminance: float
) -> None:
    found = per_lumen(settings(shape, **more))
    assert found["cd"] == pytest.approx(candela, rel=1e-6)
    assert found["cd/m²"] == pytest.approx(luminance, rel=1e-6)
    assert found["lx at 1 m"] == found["cd"]
    assert found["W"] == pytest.approx(1 / 90)


def test_a_narrow_spot_has_more_candela_than_a_wide_one(studio: Studio) -> None:
    narrow, wide = (
        per_lumen(settings("spot", beam_deg=b, field_deg=2 * b, radius=0.03)) for b in (12.0, 40.0)
    )
    assert narrow["cd"] > 5 * wide["cd"]
    point = core.sources.Spot("s", (0, 0, 0), (0, 0, -1), 24, 48, luminous_flux_lm=1.0)
    assert point.per_lumen().luminance_cd_m2 is None


def test_lumen_in_is_lumen_out() -> None:
    """A lamp given in candela or cd/m² gives the light that one lumen's worth of them says."""
    lamp = core.sources.Rectangle("r", (0, 0, 2), (0, 0, -1), 0.4, 0.3, luminous_flux_lm=800.0)
    one = lamp.per_lumen()
    same = core.sources.Rectangle("r", (0, 0, 2), (0, 0, -1), 0.4, 0.3,
                                  luminous_intensity_cd=800.0 * one.candela)  # fmt: skip
    face = core.sources.Rectangle("r", (0, 0, 2), (0, 0, -1), 0.4, 0.3,
                                  luminance_cd_m2=800.0 * (one.luminance_cd_m2 or 0))  # fmt: skip
    assert same.amount == pytest.approx(lamp.amount)
    assert face.amount == pytest.approx(lamp.amount)


def test_grid_on_a_ceiling_and_on_a_wall() -> None:
    ceiling = settings("disc") | {"places": [{"position": (1, 2, 3), "direction": (0, 0, -1)}]}
    places = repeated(ceiling, 3, 2, 1.5, 2.0)
    assert len(places) == 6
    assert {p["position"][2] for p in places} == {3.0}
    assert sorted({p["position"][0] for p in places}) == [-0.5, 1.0, 2.5]
    assert sorted({p["position"][1] for p in places}) == [1.0, 3.0]
    turned = repeated(ceiling, 3, 1, 1.5, 2.0, turn_deg=90.0)
    assert {round(p["position"][0], 6) for p in turned} == {1.0}
    wall = settings("disc") | {"places": [{"position": (0, 5, 2), "direction": (0, -1, 0)}]}
    row = repeated(wall, 4, 1, 1.0, 1.0)
    assert {p["position"][1] for p in row} == {5.0}
    assert {p["position"][2] for p in row} == {2.0}
    assert len({p["position"][0] for p in row}) == 4
    for columns, rows in ((0, 1), (100, 100)):
        with pytest.raises(BadEdit, match="grid"):
            repeated(ceiling, columns, rows, 1, 1)


def test_lumen_method_and_even_spread() -> None:
    """n = E·A/(Φ·UF): 500 lx on 60 m² with 3000 lm at 0.55 need 18.2, so 19."""
    assert count_for(500, 60, 3000, 0.55) == 19
    assert count_for(100, 10, 2000, 0.5) == 1
    columns, rows = columns_and_rows(10, 6, 15)
    assert columns * rows >= 15
    assert (columns, rows) == (5, 3)
    for bad in ((0, 10, 10), (300, -1, 10), (300, 10, 0)):
        with pytest.raises(WestlightError):
            count_for(*bad, 0.5)
    with pytest.raises(WestlightError):
        columns_and_rows(0, 5, 3)


def test_repeat_and_make_independent(studio: Studio) -> None:
    pid = studio.projects.create("Copies")
    look = studio.projects.overview(pid)["looks"][0]["id"]
    lamp = studio.fixtures.place(pid, "disc", (0, 0, 3), (0, 0, -1))
    studio.history.change(pid, "look", look, {"settings": {"mix": {lamp: {"level": -1.0}}}})
    studio.fixtures.repeat(pid, lamp, columns=2, rows=2, across_m=1.0, along_m=1.0)
    assert len(studio.projects.overview(pid)["sources"][0]["settings"]["places"]) == 4
    studio.fixtures.separate(pid, lamp)
    now = studio.projects.overview(pid)
    assert len(now["sources"]) == 4
    assert all(len(s["settings"]["places"]) == 1 for s in now["sources"])
    mix = now["looks"][0]["settings"]["mix"]
    assert all(mix[s["id"]]["level"] == -1.0 for s in now["sources"])
    with pytest.raises(BadEdit, match="no copies"):
        studio.fixtures.separate(pid, lamp)
    studio.history.undo(pid)
    assert len(studio.projects.overview(pid)["sources"]) == 1
    studio.history.undo(pid)
    assert len(studio.projects.overview(pid)["sources"][0]["settings"]["places"]) == 1
    with pytest.raises(NotFound):
        studio.fixtures.repeat(pid, "nobody", columns=2, rows=1, across_m=1, along_m=1)


def test_schedule_counts_what_the_look_does() -> None:
    two = settings("disc", lumen=600.0, kelvin=2700, efficacy=100.0)
    two["places"] = [{"position": (0, 0, 3)}, {"position": (1, 0, 3)}]
    look = LookState.model_validate(
        {"mix": {"a": {"level": 1.0}, "b": {"level": 0.0, "muted": True}}}
    )
    glow = {"kind": "glow", "material": "kiln"}
    rows = schedule([("a", "Pair", two), ("b", "Fill", settings("sphere", fill=True)),
                     ("c", "Kiln", glow)], look)  # fmt: skip
    assert len(rows) == 2
    assert rows[0]["count"] == 2
    assert rows[0]["flux in all (lm)"] == 2400.0
    assert rows[0]["power each (W)"] == 12.0
    assert rows[1]["in this look"] == "off"
    read = list(csv.DictReader(io.StringIO(as_csv(rows).lstrip("\ufeff"))))
    assert read[0]["positions (m)"] == "0.00 0.00 3.00; 1.00 0.00 3.00"
    assert "no fixtures" in as_csv([])


def test_circuits_are_told_and_summed_and_change_no_light() -> None:
    """Watts of what is on in this look, fills left out; a circuit is a word, nothing is traced for it."""
    lamp = settings("disc", lumen=600.0, efficacy=100.0)
    lamp["places"] = [{"position": (0, 0, 3)}, {"position": (1, 0, 3)}]
    look = LookState.model_validate({"mix": {"a": {"level": 1.0}, "b": {"muted": True}}})
    rows = schedule([("a", "On", {**lamp, "circuit": "L1"}), ("b", "Off", {**lamp, "circuit": "L1"}),
                     ("c", "Fill", {**lamp, "circuit": "L1", "fill": True}), ("d", "None", lamp),
                     ("e", "Other", {**lamp, "circuit": "Emergency"})], look)  # fmt: skip
    assert [r["circuit"] for r in rows] == ["L1", "L1", "L1", "", "Emergency"]
    assert circuits(rows) == [("Emergency", 2, 12.0), ("L1", 2, 24.0)]
    wired, plain = (
        SourceSpec(id="a", name="a", settings=FixtureSettings.model_validate({**lamp, **more}))
        for more in ({"circuit": "L1"}, {})
    )
    assert traced_settings(wired) == traced_settings(plain)


def test_groups_are_balanced_together(studio: Studio) -> None:
    """A group's level adds to its members', its mute and solo reach them, and levels stay theirs."""
    project = studio.projects.create("Grouped")
    ids = {}
    for name, group in (("Lamp", "Workshop"), ("Strip", "Workshop"), ("Lantern", "")):
        settings = {"kind": "fixture", "group": group, "lumen": 100,
                    "places": [{"position": [0, 0, 2]}]}  # fmt: skip
        ids[name] = studio.history.add(project, "source", name, settings)
    look = studio.projects.overview(project)["looks"][0]["id"]

    def heard() -> dict[str, tuple[float, bool]]:
        from westlight.store import Look, Project, Source
        from westlight.studio.recipe import look_state, sources_of

        with studio.store.session() as session:
            rows = rows_of(session, Source, project)
            state = look_state(session.get(Look, look))
            found = sources_of(session.get(Project, project), state, rows)
        return {s.name: (s.level, s.counts) for s in found}

    def mix(**of: dict[str, object]) -> None:
        studio.history.change(project, "look", look, {"settings": {"mix": of}}, "Mix")

    mix(**{ids["Lamp"]: {"level": 0.5}, "group: Workshop": {"level": -1.0}})
    assert heard()["Lamp"] == (-0.5, True)
    assert heard()["Strip"] == (-1.0, True)
    assert heard()["Lantern"] == (0.0, True)
    mix(**{"group: Workshop": {"muted": True}})
    assert [heard()[n][1] for n in ("Lamp", "Strip", "Lantern")] == [False, False, True]
    mix(**{"group: Workshop": {"muted": False, "solo": True}})
    assert [heard()[n][1] for n in ("Lamp", "Strip", "Lantern", "Sun")] == [
        True,
        True,
        False,
        False,
    ]
    rows = {r["fixture"]: r for r in studio.handover.schedule(project, look)}
    assert rows["Strip"]["flux each (lm)"] == pytest.approx(50)
    assert studio.projects.overview(project)["sources"][0]["settings"]["lumen"] == 100


@pytest.mark.parametrize("name", ["=HYPERLINK(1)", "+1", "-1+2", "@SUM(A1)", "\t=1", "\r=1"])
def test_no_cell_is_a_formula(name: str) -> None:
    """A lamp's name is a name in a table program, too; numbers stay numbers."""
    row = next(
        csv.DictReader(io.StringIO(as_csv([{"name": name, "level": -2.5}]).lstrip("\ufeff")))
    )
    assert row["name"] == f"'{name}"
    assert float(row["level"]) == -2.5
