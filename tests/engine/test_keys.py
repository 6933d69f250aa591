"""Keys of what light depends on: taken over from the spec before they are those that are told anew."""

from __future__ import annotations

import itertools
from pathlib import Path
from typing import Any

from westlight.engine import keys
from westlight.engine.keys import keys_of
from westlight.engine.spec import PictureSpec

from .stage import spec


def _states(room: Path) -> dict[str, PictureSpec]:
    base = spec(room)
    sun, sky, lamp = base.sources
    assert base.model is not None

    def other(**fields: Any) -> PictureSpec:
        return base.model_copy(update=fields)

    hidden = lamp.model_copy(
        update={"settings": lamp.settings.model_copy(update={"visible": False})}
    )
    backed = base.finish.model_dump() | {"backdrop": {"asset": "a" * 64}}
    return {
        "as it was": base,
        "level": spec(room, level=2.0),
        "lumen": spec(room, lumen=10.0),
        "sun": spec(room, azimuth=100.0),
        "lamp moved": spec(room, lamp_y=1.0),
        "lamp unseen": other(sources=[sun, sky, hidden]),
        "lamp gone": other(sources=[sun, sky]),
        "sources turned about": other(sources=[lamp, sky, sun]),
        "another id": other(sources=[sun, sky, lamp.model_copy(update={"id": "other"})]),
        "clay": other(clay=0.5),
        "building": other(model=base.model.model_copy(update={"scale": 2.0})),
        "view": other(view=base.view.model_copy(update={"focal_length_mm": 50.0})),
        "traced": other(bounced="traced"),
        "speckles cut": other(speckles="cut"),
        "backdrop": PictureSpec.model_validate(base.model_dump() | {"finish": backed}),
        "nothing": PictureSpec(),
    }


def test_keys_taken_over_are_those_told_anew(room: Path) -> None:
    """Whatever was before, whatever comes; what differs in light differs in keys."""
    states = _states(room)
    anew = {name: keys_of(s) for name, s in states.items()}
    for a, b in itertools.product(states, states):
        assert keys_of(states[b], (states[a], anew[a])) == anew[b], f"{b} after {a}"
    assert anew["level"] == anew["lumen"] == anew["as it was"]
    base = anew["as it was"]
    assert anew["sun"].light["lamp"] == base.light["lamp"]
    assert anew["sun"].light["sun"] != base.light["sun"]
    # A lamp has a body that shades.
    assert anew["lamp moved"].picture["sun"] != base.picture["sun"]
    assert anew["view"].light == base.light
    assert anew["view"].picture["sun"] != base.picture["sun"]
    for name in ("clay", "building"):
        assert anew[name].scene != base.scene
    for name in ("traced", "speckles cut", "backdrop"):
        assert anew[name].picture["sky"] != base.picture["sky"]


def test_a_level_on_the_move_costs_no_key(room: Path, monkeypatch: Any) -> None:
    """Nothing but the view is put into letters again."""
    before, now = spec(room), spec(room, level=1.0)
    known = keys_of(before)
    told: list[object] = []
    digest = keys._digest
    monkeypatch.setattr(keys, "_digest", lambda *parts: told.append(parts) or digest(*parts))
    assert keys_of(now, (before, known)) == known
    assert len(told) == 1
