"""Tables that drive fields, settings and engine alike: each entry works everywhere it is offered."""

from __future__ import annotations

import json
import math

import numpy as np
import pytest
from pydantic import ValidationError

from westlight.core.colour.display import TONES, display_transform
from westlight.core.sources import SHAPES
from westlight.core.transport import assemble
from westlight.engine.spec import ExposureSettings, FixtureSettings, Place
from westlight.engine.still_files import MATTES, PASSES
from westlight.engine.translate import EMITTERS, emitters_of
from westlight.studio.exchange import photometric_file
from westlight.studio.vocabulary import vocabulary

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


def test_what_the_page_is_told() -> None:
    told = vocabulary()
    assert json.loads(json.dumps(told)) == told
    assert [s["id"] for s in told["shapes"]] == list(SHAPES)
    assert {p["id"] for p in told["passes"]} >= set(MATTES)
    assert len({p["label"] for p in told["passes"]}) == len(PASSES)
    assert all(ending.startswith(".") for ending in told["buildings"] + told["luts"])
    assert {".glb", ".ifc", ".zip"} <= set(told["buildings"])
