"""Doubtful fixtures: too much, too little, too bright for their size, out of their family."""

from __future__ import annotations

import pytest

from westlight.engine.spec import FixtureSettings
from westlight.studio.lamp_doubts import doubts
from westlight.studio.studio import Studio

FACTORS = {"cd/m²": 100.0}


@pytest.mark.parametrize(
    ("lumen", "factor", "words", "cured"),
    [
        (200_000.0, 1.0, "sports ground", 2000.0),
        (2.0, 1.0, "candle", 12.0),
        (1000.0, 1e6, "no lamp of this size", 30.0),
    ],
)
def test_amounts_no_lamp_has(lumen: float, factor: float, words: str, cured: float) -> None:
    """Each is told once, and what is offered is doubtful no longer."""
    fixture = FixtureSettings(lumen=lumen)
    (found,) = doubts(fixture, {"cd/m²": factor}, [])
    assert words in found["text"]
    assert found["settings"] == {"lumen": pytest.approx(cured)}
    assert doubts(fixture.model_copy(update=found["settings"]), {"cd/m²": factor}, []) == []


def test_a_cold_lamp_in_a_warm_family() -> None:
    family = [2700.0, 2700.0, 3000.0]
    lamp = FixtureSettings(kelvin=6500, group="Quay")
    (found,) = doubts(lamp, FACTORS, family)
    assert "6500 K is much colder than the rest of Quay" in found["text"]
    assert found["settings"] == {"kelvin": 2700.0}
    assert doubts(FixtureSettings(kelvin=3500, group="Quay"), FACTORS, family) == []
    # Coloured light is meant to stand out.
    assert doubts(lamp.model_copy(update={"colour": "#ff0000"}), FACTORS, family) == []


def test_they_come_with_the_project_and_go_when_cured(studio: Studio) -> None:
    project = studio.projects.create("Lamps")
    for n, kelvin in enumerate((2700, 2700, 6000)):
        settings = {"kind": "fixture", "group": "Bar", "kelvin": kelvin,
                    "places": [{"position": [n, 0, 2]}]}  # fmt: skip
        studio.history.add(project, "source", f"Lamp {n}", settings)
    rows = studio.projects.overview(project)["sources"]
    assert [len(r["doubts"]) for r in rows] == [0, 0, 1]
    cure = {"settings": rows[2]["doubts"][0]["settings"]}
    studio.history.change(project, "source", rows[2]["id"], cure, "Cure")
    assert all(r["doubts"] == [] for r in studio.projects.overview(project)["sources"])
