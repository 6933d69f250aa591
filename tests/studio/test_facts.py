"""The numbers below the chart of the sun: what they depend on."""

from __future__ import annotations

from typing import Any

import pytest

from westlight.studio import daylight, recipe
from westlight.studio.settings import LookState


class Read:
    """A look that remembers which of its fields were asked for."""

    def __init__(self, look: LookState) -> None:
        self.look, self.fields = look, set[str]()

    def __getattr__(self, name: str) -> Any:
        if name in LookState.model_fields:
            self.fields.add(name)
        return getattr(self.look, name)


@pytest.mark.parametrize("mode", ["time", "free"])
def test_the_facts_follow_the_fields_that_are_said_to_change_them(mode: str) -> None:
    """Numbers of the sheet are told anew under a hand only for what they depend on: that must be all of it."""
    look = LookState.model_validate({"sun": {"mode": mode}, "sky": {"moon": True}})
    read: Any = Read(look)
    place = 43.6, -9.1, "Europe/London"
    daylight.facts(read, *place, 0.0)
    recipe.sky_settings(read, *place)
    assert {"sun", "sky"} <= read.fields <= daylight.OF_FACTS
