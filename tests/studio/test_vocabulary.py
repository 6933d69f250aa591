"""Tables that drive fields, settings and engine alike: each entry works everywhere it is offered."""

from __future__ import annotations

import json
import math
from typing import Any

import numpy as np
import pytest
from pydantic import ValidationError

from westlight.api.bodies import ORDERS
from westlight.core.colour.display import TONES, display_transform
from westlight.core.sources import SHAPES, UNITS, PerLumen, unit_factors
from westlight.core.transport import assemble
from westlight.engine.live.frames import READ
from westlight.engine.spec import (
    ExposureSettings,
    FinishSettings,
    FixtureSettings,
    PartGradeSettings,
    PictureSpec,
    Place,
    SkySettings,
    ViewSettings,
)
from westlight.engine.spec.kinds import READINGS, SKIES
from westlight.engine.still_files import MATTES, PASSES
from westlight.engine.translate import EMITTERS, emitters_of, sky_of
from westlight.studio.exchange import photometric_file
from westlight.studio.recipe import sky_name
from westlight.studio.settings import LookState, SunState
from westlight.studio.vocabulary import NUMBERS, vocabulary

#: Shapes that need no file.
PLAIN = [name for name, s in SHAPES.items() if not s.from_file]


def lamp(shape: str, **more: float) -> FixtureSettings:
    place = Place(position=(0, 0, 2.5), direction=(0, 0, -1))
    return FixtureSettings.model_validate(
        {"shape": shape, **SHAPES[shape].usual, **more, "places": [place.model_dump()]}
    )


def test_every_shape_has_an_emitter_and_a_way_of_being_sampled() -> None:
    assert set(EMITTERS) == set(SHAPES)
    for shape in PLAIN:
        (made,) = emitters_of(lamp(shape), "Lamp")
        assert assemble.shape_of(made) is not None


@pytest.mark.parametrize("shape", list(SHAPES))
def test_sliders_stay_within_what_settings_take(shape: str) -> None:
    """Both ends of every slider, and its usual value."""
    for q in SHAPES[shape].quantities:
        assert q.low <= q.normal <= q.high
        assert 0 < q.step < q.high - q.low
        for value in (q.low, q.normal, q.high):
            assert getattr(lamp(shape, **{q.key: value}), q.key) == value


@pytest.mark.parametrize("shape", PLAIN)
def test_flags_say_how_it_shines(shape: str) -> None:
    """Read off the photometric file that goes out: alike to all sides, nothing behind a face, and the flux that was set."""
    text = photometric_file(lamp(shape, lumen=1000.0), "Lamp")
    numbers = [float(v) for v in text.split("TILT=NONE")[1].split()]
    heights = int(numbers[3])
    vertical = np.array(numbers[13 : 13 + heights])
    candela = np.array(numbers[13 + heights + 1 :])[:heights]
    if SHAPES[shape].even:
        assert candela == pytest.approx(np.full(heights, 1000 / 4 / math.pi), rel=0.01)
    if SHAPES[shape].one_sided:
        assert candela[vertical > 91].max() < 1e-6 * candela.max()
        assert vertical[candela.argmax()] == 0


def test_words_that_are_in_no_table_are_refused() -> None:
    with pytest.raises(ValidationError, match="one of rectangle, disc"):
        FixtureSettings.model_validate({"shape": "ring"})
    with pytest.raises(ValidationError, match="one of natural"):
        ExposureSettings.model_validate({"tone": "sepia"})


def test_every_tone_makes_a_table_from_black_to_white() -> None:
    for name in TONES:
        table = display_transform(name).table
        assert table[0, 0, 0] == pytest.approx((0, 0, 0), abs=0.01)
        assert table[-1, -1, -1].min() > 0.9


@pytest.mark.parametrize("model", list(SKIES))
def test_every_kind_of_sky_has_a_name_and_a_light(model: str) -> None:
    look = LookState.model_validate({"sky": {"model": model}})
    assert sky_name(look) == SKIES[model].name
    if model != "hdri":
        lit = sky_of(SkySettings(model=model, azimuth_deg=180.0, elevation_deg=30.0), 0.0)
        assert 1_000 < lit.horizontal_illuminance() < 100_000


def test_every_reading_can_be_asked_for() -> None:
    assert set(READ) == set(READINGS)
    keys = [r.key for r in READINGS.values() if r.key]
    assert len(set(keys)) == len(keys)
    for name in READINGS:
        assert PictureSpec(reading=name).reading == name
    with pytest.raises(ValidationError, match="one of plain, burnt"):
        PictureSpec(reading="upside down")


@pytest.mark.parametrize("group", [*FinishSettings.model_fields])
def test_sliders_of_the_finish_stay_within_what_settings_take(group: str) -> None:
    """Both ends of every slider and its normal value are taken; the normal value changes nothing."""
    told = vocabulary()["finish"][group]
    kind = PartGradeSettings if group == "parts" else type(getattr(FinishSettings(), group))
    needed = {"of": "part", "what": "pot"} if group == "parts" else {}
    plain = kind.model_validate(needed)
    numbers = {n for n, f in kind.model_fields.items() if f.annotation in (int, float)}
    # Slope, offset and power have a number for each channel.
    triples = {"slope", "offset", "power"} if group == "grade" else set()
    assert set(told) == numbers | triples
    for name, drawn in told.items():

        def as_kept(value: float, name: str = name) -> object:
            return (value,) * 3 if name in triples else value

        assert drawn["min"] <= drawn["normal"] <= drawn["max"]
        assert 0 < drawn["step"] < drawn["max"] - drawn["min"]
        assert getattr(plain, name) == as_kept(drawn["normal"])
        if name in numbers:
            assert type(getattr(plain, name)) is kind.model_fields[name].annotation
        for value in (as_kept(drawn["min"]), as_kept(drawn["max"])):
            assert getattr(kind.model_validate({**needed, name: value}), name) == value
    assert len({d["label"] for d in told.values()}) == len(told)


#: What settings need besides their numbers.
NEEDED: dict[str, dict[str, Any]] = {
    "planting": {"name": "a", "plant": "bush"},
    "still": {"spec": {"sources": []}, "folder": "a"},
    "copy": {"name": "a"},
    "order": {"look": "a", "view": "b"},
    "series": {"over": "hours", "first": 480, "last": 1200},
    "stroke": {"points": [(0, 0, 0)]},
    "addition": {
        "id": "a", "name": "a", "kind": "block", "position": (0, 0, 0), "size_m": (1, 1, 1),
    },
    "landing": {"x": 0.5, "y": 0.5, "shape": "disc", "snap": True},
    "spread": {"source": "a"},
    "brush": {"points": [(0.5, 0.5)], "wanted": True},
    "light_plan": {"of": "daylight factor", "at": (0, 0, 0)},
    "opening": {"name": "a", "position": (0, 0, 1), "inward": (1, 0, 0), "width": 1, "height": 1},
    "dress": {
        "opening": "a", "position": (0, 0, 1), "inward": (1, 0, 0), "width": 1, "height": 1,
    },
}  # fmt: skip


GROUPS = {**NUMBERS, **ORDERS}


@pytest.mark.parametrize("group", list(GROUPS))
def test_sliders_of_a_look_stay_within_what_settings_take(group: str) -> None:
    """Both ends of every slider are taken; without being set a number is its normal one, or none."""
    kind, needed = GROUPS[group], NEEDED.get(group, {})
    told = vocabulary(ORDERS)["numbers"][group]
    assert told
    for name, drawn in told.items():
        # A logarithmic slider has no nought of its own: its lowest end stands for it.
        assert drawn["min"] <= drawn["normal"] <= drawn["max"] or drawn["normal"] == 0
        assert 0 < drawn["step"] < drawn["max"] - drawn["min"]
        assert not drawn["logarithmic"] or drawn["min"] > 0
        unset = getattr(kind.model_validate(needed), name)

        def as_kept(value: float, like: object = unset) -> object:
            return (value,) * len(like) if isinstance(like, tuple) else value

        assert unset in (as_kept(drawn["normal"]), None)
        for value in (drawn["min"], drawn["max"]):
            kept = as_kept(value)
            assert getattr(kind.model_validate({**needed, name: kept}), name) == kept
    assert len({d["label"] for d in told.values()}) == len(told)


def test_a_sun_without_a_size_and_a_lens_focused_on_itself_are_refused() -> None:
    with pytest.raises(ValidationError, match="greater than 0"):
        SunState(size=0)
    with pytest.raises(ValidationError, match=r"greater than 0\.01"):
        ViewSettings(focus_m=0.01)
    assert SunState(kelvin=None).kelvin is None


def test_every_unit_of_an_amount_has_a_factor() -> None:
    """For a face all of them, for a point all but the luminance of a face; the settings take each."""
    face = unit_factors(PerLumen(0.5, 20.0), 80.0)
    assert face == {"lm": 1.0, "cd": 0.5, "cd/m²": 20.0, "lx at 1 m": 0.5, "W": 1 / 80}
    assert [u for u, f in unit_factors(PerLumen(0.5, None), 80.0).items() if f is None] == ["cd/m²"]
    assert [lamp("disc").model_copy(update={"unit": u}).unit for u in UNITS] == list(face)
    with pytest.raises(ValidationError, match="one of lm, cd"):
        FixtureSettings.model_validate({"unit": "candle"})


def test_what_the_page_is_told() -> None:
    told = vocabulary()
    assert json.loads(json.dumps(told)) == told
    assert [s["id"] for s in told["shapes"]] == list(SHAPES)
    assert {p["id"] for p in told["passes"]} >= set(MATTES)
    assert len({p["label"] for p in told["passes"]}) == len(PASSES)
    assert all(ending.startswith(".") for ending in told["buildings"] + told["luts"])
    assert {".glb", ".ifc", ".zip"} <= set(told["buildings"])
