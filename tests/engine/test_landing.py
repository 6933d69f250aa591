"""Where a lamp lands that is clicked into the picture."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest

from westlight.core.colour import AP1_LUMINANCE
from westlight.engine.spec import Place
from westlight.engine.translate import view_of

from .stage import Bench, spec


def _shown(room: Path, tags: dict[str, str] | None = None) -> Bench:
    bench = Bench()
    wanted = spec(room, most=1)
    if tags:
        assert wanted.model is not None
        edits = wanted.model.edits.model_copy(update={"tags": tags})
        model = wanted.model.model_copy(update={"edits": edits})
        wanted = wanted.model_copy(update={"model": model})
    bench.show(wanted)
    return bench


def _land(
    bench: Bench, at: tuple[float, float], shape: str, off_m: float, snap: bool,
    on_plan: tuple[float, float, float] | None = None,
) -> dict[str, Any]:  # fmt: skip
    x, y = at
    return bench.ask("land", x=x, y=y, shape=shape, off_m=off_m, snap=snap, on_plan=on_plan)


def _click(bench: Bench, point: tuple[float, float, float]) -> tuple[float, float]:
    s = bench.spec
    place = view_of(s.view, s.width_px, s.height_px).place_of(point)
    assert place is not None
    return place


def test_a_click_near_the_middle_lands_in_it(room: Path) -> None:
    bench = _shown(room)
    x, y = _click(bench, (2.1, 1.95, 0.0))
    made = _land(bench, (x, y), "disc", 0.0, True)
    assert made["to"] == "the middle of the room"
    assert made["position"] == pytest.approx([2, 2, 0], abs=0.03)
    free = _land(bench, (x, y), "disc", 0.0, False)
    assert free["to"] == ""
    assert free["position"] == pytest.approx([2.1, 1.95, 0], abs=0.01)


def test_off_a_floor_it_hangs_in_the_air_and_shines_down(room: Path) -> None:
    bench = _shown(room)
    made = _land(bench, (_click(bench, (3.3, 1.2, 0.0))), "sphere", 1.8, False)
    assert made["position"] == pytest.approx([3.3, 1.2, 1.8], abs=0.01)
    assert made["direction"] == (0, 0, -1)
    wall = _land(bench, (_click(bench, (4.0, 2.0, 1.0))), "sphere", 0.5, False)
    assert wall["position"][0] == pytest.approx(3.5, abs=0.01)
    assert wall["direction"] == pytest.approx([-1, 0, 0])


def test_a_closed_lamp_body_gets_its_lamp_underneath(room: Path) -> None:
    bench = _shown(room, {"beam": "lamp body"})
    spot = _click(bench, (1.9, 2.6, 2.8))
    made = _land(bench, (spot), "rectangle", 0.0, True)
    assert made["to"] == "the underside of “beam”"
    assert made["position"][:2] == pytest.approx([2, 2], abs=0.05)
    assert 2.75 < made["position"][2] < 2.8
    assert made["sizes"]["width"] == pytest.approx(3.2, rel=0.05)
    plain = _shown(room)
    assert _land(plain, (spot), "rectangle", 0.0, True)["sizes"] is None


def test_the_open_sky_holds_no_lamp(room: Path) -> None:
    bench = _shown(room)
    assert not _land(bench, (_click(bench, (1.3, 2.2, 3.1))), "disc", 0.0, True)["hit"]


def test_ten_thousand_copies_of_a_lamp_are_one_source(room: Path) -> None:
    """As much light from ten thousand small ones as from one of all their lumen, about."""
    bench = Bench()
    base = spec(room, most=2, bounced="traced")
    lamp = base.sources[-1]
    n = 100
    grid = [
        ((i + 0.5) / n * 3.6 + 0.2, (j + 0.5) / n * 3.6 + 0.2, 2.6)
        for i in range(n)
        for j in range(n)
    ]
    many = lamp.settings.model_copy(update={
        "lumen": 2.0, "radius": 0.005, "places": [Place(position=p) for p in grid],
    })  # fmt: skip
    bench.show(base.model_copy(update={"sources": [lamp.model_copy(update={"settings": many})]}))
    film = bench.film("lamp")
    assert film is not None
    spread = float(
        (film.accumulator.mean() @ AP1_LUMINANCE).mean()
        * bench.live.prepared.gains["lamp"]
        @ AP1_LUMINANCE
    )
    bench.show(base.model_copy(update={"sources": [lamp]}))
    one = bench.film("lamp")
    assert one is not None
    single = float(
        (one.accumulator.mean() @ AP1_LUMINANCE).mean()
        * bench.live.prepared.gains["lamp"]
        @ AP1_LUMINANCE
    )
    assert 0.4 < spread / single < 2.5


def test_on_the_plan_a_lamp_hangs_from_what_is_above_or_over_the_floor(room: Path) -> None:
    bench = _shown(room)
    under = _land(bench, (0, 0), "disc", 0.0, False, (2.0, 1.0, 1.2))
    assert under["position"] == pytest.approx([2.0, 1.0, 2.8], abs=0.01)
    assert under["direction"] == pytest.approx([0, 0, -1])
    over = _land(bench, (0, 0), "sphere", 2.0, False, (3.5, 1.0, 1.2))
    assert over["position"] == pytest.approx([3.5, 1.0, 2.0], abs=0.01)
    assert not _land(bench, (0, 0), "disc", 0.0, False, (3.5, 1.0, 1.2))["hit"]


def test_the_histogram_of_colours_counts_every_pixel_once(room: Path) -> None:
    bench = _shown(room)
    head = bench.frames()[-1]
    counts = {sum(channel) for channel in head["histogram_rgb"]}
    assert counts == {-(-head["width"] // 2) * -(-head["height"] // 2)}
    assert head["left_s"] is None or head["left_s"] >= 0
