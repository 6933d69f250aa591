"""Several live pictures in one engine: each its own, sharing what can be shared; and what happens when one fails."""

from __future__ import annotations

import io
import json
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from PIL import Image

from westlight.core.model import Material, Mesh, Model, Part
from westlight.core.model.write import write_glb
from westlight.engine.live import session as session_module
from westlight.engine.questions import At
from westlight.engine.sessions import Engine
from westlight.engine.spec import PictureSpec

from ..core.shapes import BOX_FACES
from .stage import Bench, spec


class Table:
    """An engine whose messages are kept by session."""

    def __init__(self) -> None:
        self.said: dict[str, list[tuple[dict[str, Any], bytes]]] = {}
        self.engine = Engine(
            lambda name, head, body: self.said.setdefault(name, []).append((head, body))
        )

    def finish(self) -> None:
        """Work until nobody wants anything."""
        for _ in range(40_000):
            if not self.engine.work():
                return
        raise AssertionError("the engine never comes to rest")

    def heads(self, name: str, kind: str = "frame") -> list[dict[str, Any]]:
        """Heads of one kind that a session was sent."""
        return [h for h, _ in self.said.get(name, []) if h["kind"] == kind]

    def pixels(self, name: str) -> np.ndarray:
        """The newest frame of a session."""
        body = next(b for h, b in reversed(self.said[name]) if h["kind"] == "frame")
        with Image.open(io.BytesIO(body)) as picture:
            return np.asarray(picture, np.float64)

    def passes(self, name: str) -> dict[str, int]:
        """Passes of the full-size films of a session."""
        live = self.engine.session(name)
        assert live is not None
        films = {s.id: live.pictures.full(live.prepared, s) for s in live.prepared.spec.sources}
        return {i: 0 if f is None else f.passes for i, f in films.items()}


@pytest.fixture
def other_room(tmp_path: Path) -> Path:
    """Another building, with a red floor."""
    points = [[x, y, z] for x in (0, 5) for y in (0, 5) for z in (-0.1, 0)]
    red = Material((0.6, 0.05, 0.05))
    write_glb(
        Model([Part("floor", Mesh.single("floor", points, BOX_FACES, red))]), tmp_path / "red.glb"
    )
    return tmp_path / "red.glb"


def test_what_is_told_again_is_not_drawn_again(room: Path) -> None:
    """A page may say the same many times a minute: frames and prints are made of what has changed."""
    table = Table()
    table.engine.show("a", spec(room, most=2))
    table.finish()
    table.engine.show("a", spec(room, most=2, paused=True))
    table.finish()
    before = len(table.said["a"])
    for _ in range(3):
        table.engine.show("a", spec(room, most=2, paused=True))
        table.finish()
    assert len(table.said["a"]) == before
    table.engine.show("a", spec(room, most=2, paused=True, shutter=1 / 15))
    table.finish()
    assert len(table.said["a"]) > before


@pytest.mark.parametrize("moved", ["sun", "level"])
def test_a_hand_quicker_than_the_engine_sees_its_pictures(room: Path, moved: str) -> None:
    """Also where the next state is there before the last one is taken in, each is followed by a picture."""
    table = Table()
    table.engine.show("a", spec(room, most=1))
    table.finish()
    before = len(table.heads("a"))
    for turn in range(1, 9):
        told = (
            {"azimuth": 150.0 + turn, "moving": True} if moved == "sun" else {"level": -0.2 * turn}
        )
        table.engine.show("a", spec(room, most=1, **told))
        table.engine.work()
    assert len(table.heads("a")) - before >= 7


def test_a_hand_that_goes_back_sees_the_light_of_before(room: Path) -> None:
    """What was traced a moment ago need not be traced again, but it is shown."""
    table = Table()
    table.engine.show("a", spec(room, most=1))
    table.finish()
    seen = []
    for azimuth in (150.0, 151.0, 150.0):
        before = len(table.heads("a"))
        table.engine.show("a", spec(room, most=1, azimuth=azimuth, moving=True))
        table.finish()
        assert len(table.heads("a")) == before + 1
        seen.append(table.pixels("a"))
    np.testing.assert_array_equal(seen[2], seen[0])
    assert np.abs(seen[1] - seen[0]).max() > 0


def test_two_projects_and_two_sizes_at_once(room: Path, other_room: Path) -> None:
    """Work goes to and fro between two tabs; each is sent its own picture and no other."""
    table = Table()
    here, there = spec(room, most=2), spec(other_room, most=2, width_px=96)
    for turn in range(40):
        table.engine.show("a" if turn % 2 else "b", here if turn % 2 else there)
        table.engine.work()
    table.finish()
    for name, wanted in (("a", here), ("b", there)):
        head = table.heads(name)[-1]
        assert head["settled"]
        assert (head["height"], head["width"]) == (wanted.height_px, wanted.width_px)
        alone = Bench()
        alone.show(wanted)
        assert np.abs(table.pixels(name) - alone.pixels()).mean() < 1.0
        assert not table.heads(name, "failure") + table.heads(name, "problem")
    red = table.pixels("b").mean(axis=(0, 1))
    assert red[0] > red[2]


def test_two_looks_of_one_building_share_what_is_alike(room: Path) -> None:
    """Another sun in the second tab: its sky and lamp are there already, and the building was read once."""
    table = Table()
    table.engine.show("a", spec(room, most=3))
    table.finish()
    table.engine.show("b", spec(room, most=3, azimuth=120.0, paused=True))
    table.finish()
    assert table.passes("b") == {"sun": 0, "sky": 3, "lamp": 3}
    first, second = (table.engine.session(n) for n in "ab")
    assert first is not None
    assert second is not None
    assert first.prepared.scene is second.prepared.scene


def test_what_one_moves_does_not_move_for_the_other(room: Path) -> None:
    """A block is dragged in one tab; the other tab's building stands as it stood."""

    def standing(x: float, **changes: Any) -> PictureSpec:
        block = {"id": "b", "name": "Block", "kind": "block", "position": [x, 2.0, 0.0],
                 "size_m": [0.5, 0.5, 1.0]}  # fmt: skip
        made = spec(room, **changes)
        assert made.model is not None
        edits = made.model.edits.model_validate({"additions": [block]})
        return made.model_copy(update={"model": made.model.model_copy(update={"edits": edits})})

    table = Table()
    table.engine.show("a", standing(1.5, most=2))
    table.finish()
    before = table.pixels("a")
    table.engine.show("b", standing(1.5, most=2))
    table.finish()
    for x in (1.8, 2.4, 2.9):
        table.engine.show("b", standing(x, most=2, moving=True))
        table.finish()
    table.engine.show("b", standing(2.9, most=2))
    table.finish()
    assert np.abs(table.pixels("b") - before).mean() > 1
    # Everything of the first anew: it must find the block where it stands for it.
    live = table.engine.session("a")
    assert live is not None
    table.engine.shared.store.drop(live.prepared.shown_keys)
    table.engine.show("a", standing(1.5, most=2))
    table.finish()
    assert np.abs(table.pixels("a") - before).mean() < 1.5


def test_time_goes_to_the_tab_touched_last_and_none_to_a_hidden_one(room: Path) -> None:
    """The other gets its first picture before the first one refines, and goes on when that has nothing to do."""
    table = Table()
    table.engine.show("a", spec(room, most=4))
    table.engine.show("hidden", spec(room, most=4, azimuth=10.0), visible=False)
    table.engine.show("b", spec(room, most=4, azimuth=100.0))
    while not table.heads("b"):
        assert not table.heads("a")
        table.engine.work()
    while not any(h["settled"] for h in table.heads("b")):
        assert all(h["scale"] > 1 for h in table.heads("a"))
        table.engine.work()
    assert table.heads("a")
    table.finish()
    assert table.heads("a")[-1]["settled"]
    assert "hidden" not in table.said
    table.engine.show("hidden", spec(room, most=4, azimuth=10.0))
    table.finish()
    assert table.heads("hidden")[-1]["settled"]


def test_a_picture_denoised_once_more_after_it_settled_settles_again(room: Path) -> None:
    """Two tabs share films: a pass of the other may arrive in them after this one has told that it is done."""
    bench = Bench()
    bench.show(spec(room, most=2))
    assert bench.frames()[-1]["settled"]
    frames = len(bench.frames())
    film = bench.film("lamp")
    assert film is not None
    film.clean_most -= 1
    bench.finish()
    assert len(bench.frames()) > frames
    assert bench.frames()[-1]["settled"]


def test_a_closed_tab_lets_its_films_go(room: Path) -> None:
    """They may be dropped, those of the other stay."""
    table = Table()
    table.engine.show("a", spec(room, most=1))
    table.engine.show("b", spec(room, most=1, azimuth=100.0))
    table.finish()
    table.engine.close("b")
    assert table.engine.names == ["a"]
    table.engine.shared.store.limit_bytes = 1
    table.engine.shared.store.forget()
    assert table.passes("a") == {"sun": 1, "sky": 1, "lamp": 1}
    left = table.engine.shared.store.bytes()
    table.engine.close("a")
    table.engine.shared.store.forget()
    assert table.engine.shared.store.bytes() < left / 2


@pytest.mark.parametrize("width", [96, 224])
def test_another_size_while_a_picture_is_denoised(room: Path, width: int) -> None:
    """What comes back from the denoiser belongs to the size it was made for."""
    bench = Bench()
    bench.live.apply(spec(room, most=2))
    while not bench.live.cleaning.working:
        bench.live.work()
    bench.show(spec(room, most=2, width_px=width))
    head = bench.frames()[-1]
    assert head["settled"]
    assert head["width"] == width
    alone = Bench()
    alone.show(spec(room, most=2, width_px=width))
    assert np.abs(bench.pixels() - alone.pixels()).mean() < 1.0


def test_a_camera_in_its_own_target_is_refused_in_words_and_forgotten(room: Path) -> None:
    """The picture before it stays, and a good camera is seen at once."""
    table = Table()
    good = spec(room, most=1)
    table.engine.show("a", good)
    table.finish()
    frames = len(table.heads("a"))
    view = good.view.model_copy(update={"target": good.view.position})
    table.engine.show("a", good.model_copy(update={"view": view}))
    table.finish()
    assert "the same place" in table.heads("a", "problem")[-1]["text"]
    assert len(table.heads("a")) == frames
    other = good.view.model_copy(update={"position": (0.6, 3.4, 1.5)})
    table.engine.show("a", good.model_copy(update={"view": other}))
    table.finish()
    assert table.heads("a")[-1]["settled"]
    assert not table.heads("a", "failure")


def test_a_failure_costs_one_session_and_mends_itself(
    room: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """It is told with a number, set up anew at once, and shows what a fresh engine shows; the other goes on."""
    table = Table()
    table.engine.show("b", spec(room, most=2, azimuth=100.0))
    table.engine.show("a", spec(room, most=2))
    really, failing = session_module.next_job, [True]

    def next_job(p: Any, *more: Any) -> Any:
        if failing[0] and p.films[("sun", 3)] == table_keys["a"]:
            failing[0] = False
            raise ValueError("setting an array element with a sequence")
        return really(p, *more)

    table.engine.work()
    live = table.engine.session("a")
    assert live is not None
    table_keys = {"a": live.prepared.films[("sun", 3)]}
    monkeypatch.setattr(session_module, "next_job", next_job)
    table.finish()
    told = table.heads("a", "failure")
    assert len(told) == 1
    assert told[0]["fault"] == 1
    assert f"fault {told[0]['fault']}" in told[0]["text"]
    assert "array element" not in told[0]["text"]
    assert not table.heads("b", "failure")
    for name in "ab":
        assert table.heads(name)[-1]["settled"]
    alone = Bench()
    alone.show(spec(room, most=2))
    assert np.abs(table.pixels("a") - alone.pixels()).mean() < 1.0


def test_a_failure_that_returns_is_tried_with_growing_pauses(
    room: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """At once, then after a second, then two; asked for, at once again. No other session waits."""
    clock = [100.0]
    monkeypatch.setattr("westlight.engine.sessions.time.monotonic", lambda: clock[0])
    table = Table()

    def broken(*_: Any) -> None:
        raise RuntimeError("broken")

    table.engine.show("a", spec(room, most=1))
    with monkeypatch.context() as patched:
        patched.setattr(session_module, "next_job", broken)
        table.finish()
        pauses = [h["again_s"] for h in table.heads("a", "failure")]
        assert pauses == [0.0, 1.0]
        assert table.engine.rests_for() == pytest.approx(1.0)
        clock[0] += 1.1
        table.finish()
        assert [h["again_s"] for h in table.heads("a", "failure")] == [0.0, 1.0, 2.0]
        table.engine.again("a")
        table.finish()
        assert len(table.heads("a", "failure")) == 4
    table.engine.show("b", spec(room, most=1))
    table.finish()
    assert table.heads("b")[-1]["settled"]
    table.engine.again("a")
    table.finish()
    assert table.heads("a")[-1]["settled"]


def test_questions_are_answered_for_the_session_that_asks(room: Path, other_room: Path) -> None:
    """And one that cannot be answered says so, whatever went wrong."""
    table = Table()
    table.engine.show("a", spec(room, most=1))
    table.engine.show("b", spec(other_room, most=1))
    for number, name in enumerate("ab"):
        table.engine.ask(name, number, "pick", At(x=0.5, y=0.9))
    parts = {name: table.heads(name, "answer")[0]["answer"].part for name in "ab"}
    assert parts == {"a": "room", "b": "floor"}
    table.engine.ask("nobody", 7, "pick", At(x=0.5, y=0.9))
    assert "no picture" in table.heads("nobody", "unanswered")[0]["text"]
    table.engine.ask("a", 8, "pick", None)  # type: ignore[arg-type]
    text = table.heads("a", "unanswered")[0]["text"]
    assert "fault" in text
    assert "NoneType" not in text
    table.finish()
    assert table.heads("a")[-1]["settled"]


def test_nothing_is_shown_before_there_is_light(room: Path) -> None:
    """No frame of a fresh session is black, and none lacks a source that counts."""
    bench = Bench()
    bench.show(spec(room, most=1))
    full = bench.pixels().mean()
    for head, body in bench.messages:
        if head["kind"] == "frame":
            assert head["waiting"] == 0
            with Image.open(io.BytesIO(body)) as picture:
                assert np.asarray(picture, float).mean() > 0.8 * full


def test_each_step_is_traced_where_that_is_asked_for(
    room: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Specs, passes and pictures in the order they came, a line each; without the variable no file."""
    file = tmp_path / "steps.jsonl"
    monkeypatch.setenv("WESTLIGHT_TRACE", str(file))
    bench = Bench()
    bench.show(spec(room, most=2))
    lines = [json.loads(line) for line in file.read_text().splitlines()]
    (told,) = (line for line in lines if line["what"] == "told")
    assert (told["moving"], told["changed"], told["session"]) == (False, True, "bench")
    assert [line["at"] for line in lines] == sorted(line["at"] for line in lines)
    begun = [line for line in lines if line["what"] == "begun"]
    done = [line for line in lines if line["what"] == "done"]
    assert [line["sources"] for line in begun] == [line["sources"] for line in done]
    assert all(line["seconds"] > 0 for line in done)
    assert {line["scale"] for line in begun} == {4, 2, 1}
    sent = [line for line in lines if line["what"] == "sent" and line["kind"] == "frame"]
    assert len(sent) == len(bench.frames())
    assert sent[-1]["settled"]
    monkeypatch.delenv("WESTLIGHT_TRACE")
    file.unlink()
    Bench().show(spec(room, most=1))
    assert not file.exists()
