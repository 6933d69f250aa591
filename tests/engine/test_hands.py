"""A hand in the picture: marks lie where things are, things slide along surfaces, and the sun follows its patch."""

from __future__ import annotations

from pathlib import Path
from typing import Any, get_args

import numpy as np
import pytest

from westlight.core.analysis import hinge_of, sun_by
from westlight.core.model.additions import KINDS
from westlight.core.sun import direction
from westlight.core.transport.portals import Portal
from westlight.engine.questions import Asked
from westlight.engine.spec import AdditionKind, PictureSpec

from .stage import Bench, spec


def changed(
    room: Path, shape: str = "disc", position: Any = (2.0, 3.0, 2.5), **place: Any
) -> PictureSpec:
    """The room with its lamp somewhere."""
    made = spec(room).model_dump(mode="json")
    lamp = made["sources"][2]["settings"]
    lamp |= {"shape": shape, "places": [{"position": list(position), **place}]}
    return PictureSpec.model_validate(made)


@pytest.fixture
def bench(room: Path) -> Bench:
    """A session with the room in it."""
    made = Bench()
    made.live.apply(spec(room))
    return made


def of_kind(bench: Bench, kind: str) -> list[dict[str, Any]]:
    """Marks of a kind."""
    return [m for m in bench.ask("marks")["marks"] if m["kind"] == kind]


def test_a_mark_lies_where_its_lamp_is_seen(bench: Bench, room: Path) -> None:
    """The ray through a mark passes the lamp; one behind the wall is hidden, one behind the camera is no mark."""
    bench.live.apply(changed(room))
    (mark,) = of_kind(bench, "lamp")
    assert mark["of"] == "lamp"
    assert not mark["hidden"]
    origin, ray = Asked.of(bench.live).view.ray(mark["x"], mark["y"])
    off = np.array([2.0, 3.0, 2.5]) - origin
    assert np.linalg.norm(off - (off @ ray) * ray) < 1e-3
    bench.live.apply(changed(room, position=(4.6, 4.4, 1.0)))
    assert [m["hidden"] for m in of_kind(bench, "lamp")] == [True]
    bench.live.apply(changed(room, position=(0.1, 0.1, 1.6)))
    assert of_kind(bench, "lamp") == []


def test_a_spot_has_a_mark_where_it_aims(bench: Bench, room: Path) -> None:
    bench.live.apply(changed(room, "spot", (2.0, 3.0, 2.5), direction=[0.0, 0.0, -1.0]))
    (aim,) = of_kind(bench, "aim")
    assert aim["position"] == pytest.approx([2.0, 3.0, 0.0], abs=1e-3)
    bench.live.apply(changed(room))
    assert of_kind(bench, "aim") == []


def test_what_is_mounted_slides_along_surfaces(bench: Bench, room: Path) -> None:
    """A disc 2 cm under the beam, drawn to the floor and to a wall, keeps its gap and faces away from each."""
    bench.live.apply(changed(room, position=(2.0, 3.0, 2.78)))
    floor = bench.ask("slide", kind="lamp", of="lamp", x=0.5, y=0.95)
    assert floor["position"][2] == pytest.approx(0.02, abs=2e-3)
    assert floor["direction"] == pytest.approx([0, 0, 1], abs=1e-3)
    wall = bench.ask("slide", kind="lamp", of="lamp", x=0.2, y=0.45)
    assert abs(wall["direction"][2]) < 1e-3
    assert min(abs(4 - v) for v in wall["position"][:2]) == pytest.approx(0.02, abs=2e-3)


def test_what_hangs_free_stays_level_and_can_be_lifted(bench: Bench, room: Path) -> None:
    bench.live.apply(changed(room, position=(2.0, 3.0, 2.2)))
    (mark,) = of_kind(bench, "lamp")
    level = bench.ask("slide", kind="lamp", of="lamp", x=mark["x"] + 0.05, y=mark["y"])
    assert level["position"][2] == pytest.approx(2.2, abs=1e-3)
    assert np.linalg.norm(np.subtract(level["position"], [2.0, 3.0, 2.2])) > 0.05
    lifted = bench.ask("slide", kind="lamp", of="lamp", x=mark["x"], y=mark["y"] - 0.1, lift=True)
    assert lifted["position"][:2] == pytest.approx([2.0, 3.0], abs=1e-3)
    assert lifted["position"][2] > 2.25
    here = bench.ask("slide", kind="lamp", of="lamp", x=mark["x"], y=mark["y"], lift=True)
    assert here["position"] == pytest.approx([2.0, 3.0, 2.2], abs=2e-3)


def test_an_aim_is_drawn_to_what_is_seen(bench: Bench, room: Path) -> None:
    bench.live.apply(changed(room, "spot", (2.0, 3.0, 2.2)))
    hit = bench.ask("pick", x=0.5, y=0.9)["position"]
    way = bench.ask("slide", kind="aim", of="lamp", x=0.5, y=0.9)["direction"]
    wanted = np.subtract(hit, [2.0, 3.0, 2.2])
    assert way == pytest.approx(wanted / np.linalg.norm(wanted), abs=1e-3)
    assert bench.ask("slide", kind="lamp", of="nobody", x=0.5, y=0.5)["position"] is None


def test_an_addition_slides_under_itself(bench: Bench, room: Path) -> None:
    """The ray passes the thing that is moved; on a wall it turns to face away from it."""
    made = spec(room).model_dump(mode="json")
    block = {"id": "b", "name": "Block 1", "kind": "block", "position": [2.5, 2.5, 0], "size_m": [0.5, 0.5, 0.8],
             "turn_deg": 10.0, "tilt_deg": 0.0, "on": True, "colour": "#808080"}  # fmt: skip
    made["model"]["edits"]["additions"] = [block]
    bench.live.apply(PictureSpec.model_validate(made))
    (mark,) = of_kind(bench, "addition")
    slid = bench.ask("slide", kind="addition", of="b", x=mark["x"], y=mark["y"])
    x, y, z = slid["position"]
    # The floor or the wall behind the block, not its own side.
    assert z == pytest.approx(0, abs=1e-2) or min(4 - x, 4 - y) < 0.01
    on_wall = bench.ask("slide", kind="addition", of="b", x=0.2, y=0.45)
    assert on_wall["turn_deg"] % 90 == pytest.approx(0, abs=1)


def test_an_opening_slides_in_its_plane(bench: Bench, room: Path) -> None:
    """One placed by hand stays in its wall, and comes out of it where it is lifted; its mark tells what it is."""
    made = spec(room).model_dump(mode="json")
    window = {
        "name": "Hatch",
        "position": [2.0, 3.95, 1.5],
        "inward": [0.0, -1.0, 0.0],
        "width": 1.2,
        "height": 0.8,
    }
    made["model"]["edits"]["added_openings"] = [window]
    bench.live.apply(PictureSpec.model_validate(made))
    (mark,) = [m for m in of_kind(bench, "opening") if m["of"] == "Hatch"]
    told = mark["opening"]
    assert (*told["position"], *told["inward"]) == pytest.approx((2, 3.95, 1.5, 0, -1, 0))
    assert (told["width"], told["height"]) == pytest.approx((1.2, 0.8))
    here = bench.ask("slide", kind="opening", of="Hatch", x=mark["x"], y=mark["y"])
    assert here["position"] == pytest.approx([2, 3.95, 1.5], abs=2e-3)
    aside = bench.ask("slide", kind="opening", of="Hatch", x=mark["x"] + 0.1, y=mark["y"] - 0.05)
    assert aside["position"][1] == pytest.approx(3.95, abs=1e-3)
    assert np.linalg.norm(np.subtract(aside["position"], [2, 3.95, 1.5])) > 0.1
    # Its outline goes along: each corner lies on the ray to where it stands now.
    assert len(mark["corners"]) == 4
    view = Asked.of(bench.live).view
    off = np.subtract(aside["position"], [2, 3.95, 1.5])
    for seen, (x, z) in zip(
        mark["corners"], ((-0.6, -0.4), (0.6, -0.4), (0.6, 0.4), (-0.6, 0.4)), strict=True
    ):
        places = [view.place_of(np.array([2 + s * x, 3.95, 1.5 + z])) for s in (1, -1)]
        assert any(p == pytest.approx(seen, abs=1e-4) for p in places)
        there = [view.place_of(np.add(off, (2 + s * x, 3.95, 1.5 + z))) for s in (1, -1)]
        assert any(p == pytest.approx(c, abs=1e-3) for p in there for c in aside["corners"])
    out = bench.ask("slide", kind="opening", of="Hatch", x=mark["x"] + 0.1, y=mark["y"], lift=True)
    assert out["position"][::2] == pytest.approx([2, 1.5], abs=1e-3)
    assert out["position"][1] != pytest.approx(3.95, abs=1e-2)


def test_an_opening_too_large_to_be_placed_by_hand_leaves_the_other_marks(
    bench: Bench, monkeypatch: pytest.MonkeyPatch
) -> None:
    """In a model of the wrong unit a window is kilometres wide: it is marked, and stays where it is."""
    huge = Portal((2.0, 3.9, 1.5), (0.0, -1.0, 0.0), 5200.0, 2100.0, name="Huge")
    monkeypatch.setattr(type(bench.live.prepared.scene), "openings", lambda *_: [huge])
    (mark,) = of_kind(bench, "opening")
    assert mark["opening"] is None
    assert of_kind(bench, "lamp")
    assert bench.ask("slide", kind="opening", of="Huge", x=0.5, y=0.5)["position"] is None


def test_what_is_added_stands_as_it_is_usual(bench: Bench, room: Path) -> None:
    """A block upon the floor, a card before the wall and along it, the second of a kind with its number; none in the sky."""
    bench.live.apply(spec(room))
    floor = bench.ask("pick", x=0.5, y=0.9)["position"]
    block = bench.ask("stand", kind="block", x=0.5, y=0.9)["addition"]
    assert block["position"] == pytest.approx(floor, abs=1e-3)
    assert (block["name"], block["turn_deg"]) == ("Block 1", 0)
    assert block["size_m"] == pytest.approx((6, 6, 5))
    wall = bench.ask("pick", x=0.2, y=0.45)
    card = bench.ask("stand", kind="light card", x=0.2, y=0.45)["addition"]
    off = np.subtract(card["position"], wall["position"])
    assert off == pytest.approx(0.03 * np.array(wall["normal"]), abs=1e-3)
    assert card["turn_deg"] % 90 == pytest.approx(0, abs=1)
    assert card["emission_cd_m2"] > 0
    made = spec(room).model_dump(mode="json")
    made["model"]["edits"]["additions"] = [block]
    bench.live.apply(PictureSpec.model_validate(made))
    assert bench.ask("stand", kind="block", x=0.5, y=0.9)["addition"]["name"] == "Block 2"
    assert set(get_args(AdditionKind)) == set(KINDS)


def test_the_sun_follows_a_patch_about_its_opening() -> None:
    """The hinge lies in the opening on the ray; a sun seen from another point through it stands there."""
    window = Portal((0.0, 0.0, 2.0), (0.0, 1.0, 0.0), 2.0, 1.5)
    way = direction(180.0, 35.0)
    point = np.array([0.3, 1.8, 0.9])
    hinge = hinge_of([window], point, way)
    assert hinge[1] == pytest.approx(0, abs=1e-9)
    assert sun_by(hinge, point) == pytest.approx((180.0, 35.0), abs=1e-6)
    moved = np.array([0.8, 2.5, 0.0])
    azimuth, elevation = sun_by(hinge, moved) or (0, 0)
    back = moved + direction(azimuth, elevation) * np.linalg.norm(hinge - moved)
    assert back == pytest.approx(hinge, abs=1e-6)
    # The sheet is turned by the building's north.
    assert sun_by(hinge, point, 30.0) == pytest.approx((210.0, 35.0), abs=1e-6)
    assert sun_by(hinge, [0.0, 1.0, 2.9]) is None


def test_sunlight_is_taken_hold_of_only_where_it_falls(bench: Bench, room: Path) -> None:
    """Held in its place the sun stays; carried, it lights the new place through the same point."""
    bench.live.apply(spec(room))
    lit = dark = None
    for x in np.linspace(0.05, 0.95, 19):
        for y in np.linspace(0.3, 0.95, 14):
            told = bench.ask("patch", x=float(x), y=float(y))
            if told["hinge"] and lit is None:
                lit = (float(x), float(y), told)
            elif told["problem"]:
                dark = told
    assert lit is not None
    assert dark is not None
    assert "no sunlight" in dark["problem"]
    x, y, told = lit
    here = bench.ask("patch", x=x, y=y, hinge=told["hinge"])
    assert here["azimuth_deg"] == pytest.approx(200.0, abs=0.1)
    assert here["elevation_deg"] == pytest.approx(60.0, abs=0.1)
    there = bench.ask("patch", x=x + 0.06, y=y, hinge=told["hinge"])
    assert there["azimuth_deg"] != pytest.approx(here["azimuth_deg"], abs=0.5)
