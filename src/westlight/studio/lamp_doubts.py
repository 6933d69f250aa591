"""What is doubtful about a fixture's amount and colour, each with a change that would cure it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from statistics import median
from typing import Any

from westlight.core.sources import SHAPES
from westlight.engine.spec import FixtureSettings

#: Luminance no lamp one can buy has, in cd/m²: a halogen's filament has about 30 million.
BRIGHTEST_CD_M2 = 3e7
#: Flux of one lamp beyond which it lights a sports ground, and below which it is less than a candle.
MOST_LM, LEAST_LM = 40_000.0, 8.0
#: Kelvin that lamps of one group can differ by and still look like one family.
ONE_FAMILY_K = 1200.0


def doubts(
    fixture: FixtureSettings, factors: Mapping[str, float | None], family: Sequence[float]
) -> list[dict[str, Any]]:
    """Doubts as text, remedy and the settings it would set.

    ``factors`` are what one lumen is in each unit (see `fixtures.per_lumen`), ``family`` the kelvin
    of the other fixtures of its group.
    """
    out: list[dict[str, Any]] = []

    def say(text: str, remedy: str, **settings: Any) -> None:
        out.append({"text": text, "remedy": remedy, "settings": settings})

    luminance = fixture.lumen * (factors.get("cd/m²") or 0.0)
    if fixture.lumen > MOST_LM:
        say(f"{fixture.lumen:,.0f} lm is what lights a sports ground.".replace(",", " "),
            "Set it to 2000 lm", lumen=2000.0)  # fmt: skip
    elif luminance > BRIGHTEST_CD_M2 and not SHAPES[fixture.shape].from_file:
        down = float(f"{fixture.lumen * BRIGHTEST_CD_M2 / luminance:.2g}")
        say(f"It shines with {luminance / 1e6:.0f} million cd/m²; no lamp of this size does.",
            f"Bring it to {down:g} lm", lumen=down)  # fmt: skip
    elif fixture.lumen < LEAST_LM:
        say(f"{fixture.lumen:g} lm is less than a candle gives.", "Set it to 12 lm", lumen=12.0)
    # A family that does not agree by itself has no say.
    agreed = len(family) > 1 and max(family) - min(family) <= ONE_FAMILY_K
    if agreed and fixture.colour is None:
        usual = float(median(family))
        if abs(fixture.kelvin - usual) > ONE_FAMILY_K:
            colder = "colder" if fixture.kelvin > usual else "warmer"
            say(f"{fixture.kelvin:.0f} K is much {colder} than the rest of {fixture.group}.",
                f"Take its {usual:.0f} K", kelvin=usual)  # fmt: skip
    return out
