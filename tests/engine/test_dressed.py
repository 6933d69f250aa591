"""Openings dressed for one look: less light comes in, and the openings stay what they were."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
import pytest

from westlight.core.model import Material, Mesh, Model, Part
from westlight.core.model.write import write_glb
from westlight.engine.scenery import Scenery, parts_of
from westlight.engine.spec import Dress, ModelSpec, PictureSpec

from .. import stored
from .stage import Bench, spec

WALL = Material(0.6, name="plaster")
GLASS = Material((0.95, 0.95, 0.95), transmission=0.92, clear_path=True, name="glass")


def sheet(name: str, corners: list[list[float]], paint: Material = WALL) -> Part:
    return Part(name, Mesh.single(name, corners, [[0, 1, 2], [0, 2, 3]], paint))


@pytest.fixture
def room(tmp_path: Path) -> Path:
    """A closed room of 4 × 4 × 3 m with a glazed window of 1.6 × 1.4 m in its wall at y = 4."""
    walls = [
        sheet("floor", [[0, 0, 0], [4, 0, 0], [4, 4, 0], [0, 4, 0]]),
        sheet("roof", [[0, 0, 3], [4, 0, 3], [4, 4, 3], [0, 4, 3]]),
        sheet("west", [[0, 0, 0], [0, 4, 0], [0, 4, 3], [0, 0, 3]]),
        sheet("east", [[4, 0, 0], [4, 4, 0], [4, 4, 3], [4, 0, 3]]),
        sheet("south", [[0, 0, 0], [4, 0, 0], [4, 0, 3], [0, 0, 3]]),
        sheet("left", [[0, 4, 0], [1.2, 4, 0], [1.2, 4, 3], [0, 4, 3]]),
        sheet("right", [[2.8, 4, 0], [4, 4, 0], [4, 4, 3], [2.8, 4, 3]]),
        sheet("below", [[1.2, 4, 0], [2.8, 4, 0], [2.8, 4, 0.9], [1.2, 4, 0.9]]),
        sheet("above", [[1.2, 4, 2.3], [2.8, 4, 2.3], [2.8, 4, 3], [1.2, 4, 3]]),
        sheet("window", [[1.2, 4, 0.9], [2.8, 4, 0.9], [2.8, 4, 2.3], [1.2, 4, 2.3]], GLASS),
    ]
    write_glb(Model(walls), tmp_path / "room.glb")
    return tmp_path / "room.glb"


def looked_at(file: Path, dress: list[Dress]) -> PictureSpec:
    """The wall opposite the window, by the sky alone."""
    made = spec(file, most=3).model_dump(mode="json")
    made["model"] = {
        **stored.model(file).model_dump(mode="json"),
        "dress": [d.model_dump() for d in dress],
    }
    made["view"] |= {"position": [2, 3.6, 1.5], "target": [2, 0, 1.2]}
    made["sources"] = [s for s in made["sources"] if s["id"] == "sky"]
    return PictureSpec.model_validate(made)


def light(file: Path, *dress: Dress) -> float:
    bench = Bench()
    bench.show(looked_at(file, list(dress)))
    return float(np.mean(bench.ask("proof")["linear"].astype(np.float64)))


def asked(file: Path) -> Dress:
    """The window as it is found."""
    bench = Bench()
    bench.show(looked_at(file, []))
    (opening,) = bench.ask("openings")["found"]
    made: dict[str, Any] = bench.ask("dress", opening=opening["name"])["dress"]
    assert bench.ask("dress", opening="nothing of that name")["dress"] is None
    return Dress.model_validate(made)


def test_an_opening_tells_where_it_is_and_which_glass_it_has(room: Path) -> None:
    dress = asked(room)
    assert dress.position == pytest.approx((2.0, 4.0, 1.6), abs=0.02)
    assert dress.inward == pytest.approx((0, -1, 0), abs=1e-3)
    assert (dress.width, dress.height) == pytest.approx((1.6, 1.4), abs=0.02)
    assert dress.panes == ["window"]
    assert dress.hangs == "nothing"


def test_what_hangs_there_takes_the_light_it_should(room: Path) -> None:
    """A blackout blind all but what goes past its edge, drawn half up about half; a sheer lets much through, tint its share."""
    dress = asked(room)
    bare = light(room)
    blind = dress.model_copy(update={"hangs": "roller", "cloth": "blackout", "off_m": 0.02})
    assert light(room, blind) < 0.15 * bare
    half = light(room, blind.model_copy(update={"drawn": 0.5}))
    assert 0.3 * bare < half < 0.8 * bare
    sheer = light(room, dress.model_copy(update={"hangs": "curtain", "cloth": "sheer"}))
    assert 0.3 * bare < sheer < 0.95 * bare
    tint = dress.model_copy(update={"glass": "tinted", "through": 0.3, "tint": "#ffffff"})
    clear = 0.95
    assert light(room, tint) == pytest.approx(bare * 0.3 / clear, rel=0.12)


def test_openings_are_those_of_the_bare_building(room: Path) -> None:
    """A curtain before a window neither hides it nor is one; frosted glass leaves it an opening."""
    dress = asked(room)
    model = stored.model(room)
    frosted = dress.model_copy(update={"glass": "frosted", "hangs": "curtain"})
    bare, dressed = Scenery.of(model), Scenery.of(model.model_copy(update={"dress": [frosted]}))
    assert [(p.name, p.width) for p in dressed.found] == [(p.name, p.width) for p in bare.found]
    assert len(dressed.parts) == len(bare.parts) + 2
    assert not any(m.is_pane for m in dressed.build.materials)


def test_a_curtain_follows_the_hand(room: Path) -> None:
    """Drawn, nothing is built anew; slats are."""
    dress = asked(room).model_copy(update={"hangs": "curtain"})

    def at(**changed: Any) -> ModelSpec:
        return stored.model(room).model_copy(update={"dress": [dress.model_copy(update=changed)]})

    scene = Scenery.of(at(drawn=1.0))
    assert scene.adapted(at(drawn=0.3)) is not None
    assert scene.adapted(at(hangs="slats")) is None
    assert len(parts_of(at(hangs="nothing"))) == len(parts_of(stored.model(room)))
