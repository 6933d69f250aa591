"""Light on a plane of a room, asked of the live picture."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
import pytest

from westlight.core.errors import WestlightError
from westlight.core.sources import SkySource
from westlight.engine.spec import PictureSpec
from westlight.engine.translate import source_of

from .stage import Bench, spec

INSIDE = [2.0, 2.0, 1.5]


def asked(bench: Bench, of: str, **more: Any) -> dict[str, Any]:
    return bench.ask("light on plan", of=of, at=INSIDE, **more)


def test_lamps_and_daylight_add_up_to_all(room: Path) -> None:
    """On the same places; muted sources give nothing, levels count."""
    bench = Bench()
    bench.live.apply(spec(room))
    lamps, day, whole = (
        np.array(asked(bench, of)["values"]) for of in ("lamps", "daylight", "all")
    )
    assert lamps + day == pytest.approx(whole, rel=1e-3)
    assert lamps.min() > 0
    bench.live.apply(spec(room, level=1.0))
    assert np.array(asked(bench, "lamps")["values"]) == pytest.approx(2 * lamps, rel=1e-3)
    bench.live.apply(spec(room, counts=False))
    assert asked(bench, "lamps")["average"] == 0.0


def test_it_is_what_the_meter_reads(room: Path) -> None:
    """On the floor under the lamp the plan has the lux that the meter traces there."""
    bench = Bench()
    bench.show(spec(room, most=1, lamp_y=2.0))
    made = asked(bench, "all", height_m=0.0)
    assert (made["low"], made["high"]) == (
        pytest.approx((0, 0), abs=0.1),
        pytest.approx((4, 4), abs=0.1),
    )
    view = bench.live.prepared.view(1)
    at = view.place_of((2.75, 2.75, 0.0))
    assert at is not None
    read = bench.ask("meter", x=at[0], y=at[1])["lux"]
    values = np.array(made["values"]).reshape(made["rows"], made["columns"])
    x, y = (int((2.75 - low) / (high - low) * n) for low, high, n in
            ((made["low"][0], made["high"][0], made["columns"]), (made["low"][1], made["high"][1], made["rows"])))  # fmt: skip
    assert values[y, x] == pytest.approx(read, rel=0.15)


def test_the_daylight_factor_is_that_of_the_overcast_sky(room: Path) -> None:
    """As lux under such a sky over those outside, whatever sky and sun the look has."""
    bench = Bench()
    bench.live.apply(spec(room))
    factor = asked(bench, "daylight factor")
    assert factor["unit"] == "%"
    made = spec(room).model_dump(mode="json")
    made["sources"] = [s for s in made["sources"] if s["id"] == "sky"]
    made["sources"][0]["settings"] |= {"model": "cie", "cie_type": 1, "elevation_deg": 40.0}
    overcast = PictureSpec.model_validate(made)
    sky = source_of(overcast.sources[0], 0.0, [])
    assert isinstance(sky, SkySource)
    bench.live.apply(overcast)
    lux = np.array(asked(bench, "daylight")["values"])
    outside = sky.sky.horizontal_illuminance()
    assert np.array(factor["values"]) == pytest.approx(100 * lux / outside, rel=0.05)
    assert 0 < factor["least"] < factor["average"] < 100


def test_outdoors_there_is_no_room(room: Path) -> None:
    bench = Bench()
    with pytest.raises(WestlightError, match="no building"):
        asked(bench, "all")
    bench.live.apply(spec(room))
    with pytest.raises(WestlightError, match="Click inside"):
        bench.ask("light on plan", of="all", at=[60.0, 60.0, 1.0])
