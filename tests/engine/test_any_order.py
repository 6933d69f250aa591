"""The engine driven by a machine: whatever is told, asked and broken, in whatever order.

Never a problem nor a failure that was not injected; no frame of another session, state or size; after quiet the picture of a fresh
engine; memory comes back. A longer run: ``WESTLIGHT_SEQUENCES=5000 ./westlight test tests/engine/test_any_order.py``.
"""

from __future__ import annotations

import os
import tempfile
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import HealthCheck, Phase, settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, initialize, invariant, rule

from westlight.core.model import Material, Mesh, Model, Part
from westlight.core.model.write import write_glb
from westlight.engine.live import Session, Shared, session, tracing
from westlight.engine.live.prepared import Skies
from westlight.engine.live.tracing import Tracer
from westlight.engine.questions import QUESTIONS
from westlight.engine.sessions import Engine
from westlight.engine.spec import ModelEdits, PictureSpec

from .. import stored
from ..core.shapes import BOX_FACES
from .stage import write_room

SEQUENCES = int(os.environ.get("WESTLIGHT_SEQUENCES", "60"))
STEPS = 40
#: Passes of every source in a settled picture.
PASSES = 2


class Unlucky(Exception):
    """What is injected."""


class _Plain:
    """In place of the denoiser: as quick as can be, on the same thread."""

    def __call__(self, picture: np.ndarray, *_: Any, **__: Any) -> np.ndarray:
        return np.array(picture)

    def rest(self) -> None:
        """There is nothing to let go of."""


def _buildings(folder: Path) -> list[Path]:
    """A room with a hole in its roof, a floor under the sky, and a box with a pane."""
    points = [[x, y, z] for x in (0, 5) for y in (0, 5) for z in (-0.1, 0)]
    red = Part("floor", Mesh.single("floor", points, BOX_FACES, Material((0.6, 0.05, 0.05))))
    write_glb(Model([red]), folder / "floor.glb")
    room = [[x, y, z] for x in (0, 4) for y in (0, 4) for z in (0, 3)]
    faces = [f for f in BOX_FACES if f not in ([4, 6, 7], [4, 7, 5])]
    pane = [[4, 0, 0], [4, 4, 0], [4, 4, 3], [4, 0, 3]]
    glass = Material(0.9, transmission=1.0)
    write_glb(Model([Part("box", Mesh.single("box", room, faces, Material(0.7))),
                     Part("pane", Mesh.single("pane", pane, [[0, 1, 2], [0, 2, 3]], glass))]),
              folder / "pane.glb")  # fmt: skip
    return [write_room(folder), folder / "floor.glb", folder / "pane.glb"]


FOLDER = Path(tempfile.mkdtemp(prefix="wl-any-"))
BUILDINGS = [stored.model(file) for file in _buildings(FOLDER)]
NAMES = st.sampled_from(["a", "b"])
#: What can be changed of a state, with the values it may have.
CHANGES: dict[str, list[Any]] = {
    "building": [0, 1, 2], "azimuth": [200.0, 120.0], "width": [16, 32, 52],
    "lamps": [(), ("lamp",), ("lamp", "other"), ("other", "lamp")], "muted": [(), ("sun",), ("sky", "lamp")],
    "position": [(0.4, 0.4, 1.6), (3.4, 0.6, 1.2)], "moving": [False, True], "paused": [False, True],
    "reading": ["plain", "raw", "burnt", "luminance", "noise", "gamut"], "find": [None, "sun", "nobody"],
    "region": [None, (0.0, 0.0, 0.5, 0.5)], "clay": [None, 0.5], "closed": [False, True],
    "bounced": ["kept", "traced"], "denoise": [True, False], "block": [None, 1.5, 2.5], "level": [0.0, -3.0],
    "shutter": [1 / 60, 1 / 15],
}  # fmt: skip
ASKED: list[tuple[str, dict[str, Any]]] = [
    ("pick", {"x": 0.5, "y": 0.8}), ("meter", {"x": 0.4, "y": 0.6}), ("openings", {}), ("covered", {}),
    ("balance", {"wishes": [(0.5, 0.5, 0.0)]}), ("estimate", {"width_px": 64}), ("curve", {}),
    ("land", {"x": 0.5, "y": 0.9, "shape": "disc", "off_m": 0.0, "snap": True}), ("proof", {}),
    ("doubts", {}), ("pattern", {"step_deg": 40.0}), ("marks", {}),
    ("slide", {"kind": "lamp", "of": "lamp", "x": 0.5, "y": 0.9}), ("patch", {"x": 0.5, "y": 0.9}),
]  # fmt: skip


def spec_of(state: dict[str, Any]) -> PictureSpec:
    """The spec of a state."""
    sources: list[dict[str, Any]] = [
        {"id": "sun", "settings": {"kind": "sun", "azimuth_deg": state["azimuth"], "elevation_deg": 60.0}},
        {"id": "sky", "settings": {"kind": "sky", "azimuth_deg": 200.0, "elevation_deg": 60.0}},
    ]  # fmt: skip
    for i, name in enumerate(state["lamps"]):
        at = [{"position": [1.5, 1.0 + len(name) / 3, 2.2]}]
        sources.append({"id": name, "level": state["level"] * i,
                        "settings": {"kind": "fixture", "shape": "disc", "radius": 0.2, "lumen": 9000.0,
                                     "places": at}})  # fmt: skip
    for s in sources:
        s |= {"name": s["id"], "counts": s["id"] not in state["muted"]}
    additions = []
    if state["block"] is not None:
        additions = [{"id": "b", "name": "Block", "kind": "block", "position": [state["block"], 2.0, 0.0],
                      "size_m": [0.5, 0.5, 1.0]}]  # fmt: skip
    return PictureSpec.model_validate({
        "model": BUILDINGS[state["building"]].model_copy(update={"edits": ModelEdits.model_validate({"additions": additions})}),
        "view": {"position": state["position"], "target": [2.0, 3.0, 1.0], "focal_length_mm": 20},
        "exposure": {"f_number": 8, "shutter_s": state["shutter"], "iso": 100},
        "sources": sources, "width_px": state["width"], "bounces": 2, "max_samples": PASSES, "calm_at": 1e-3,
        **{n: state[n] for n in ("moving", "paused", "reading", "find", "region", "clay", "closed", "bounced",
                                 "denoise")},
    })  # fmt: skip


SKIES = Skies()


def shared() -> Shared:
    """What sessions share, with a quick stand-in for the denoiser; skies are always the same."""
    made = Shared(skies=SKIES)
    made.workshop.denoise = _Plain()  # type: ignore[assignment]
    return made


class AnyOrder(RuleBasedStateMachine):
    """Two tabs on one engine."""

    def __init__(self) -> None:
        super().__init__()
        self.engine = Engine(self._take, shared=shared())
        self.state = {n: {k: v[0] for k, v in CHANGES.items()} for n in ("a", "b")}
        self.told: dict[str, list[dict[str, Any]]] = {"a": [], "b": []}
        self.frames: dict[str, bytes] = {}
        self.injected = 0
        self.failures = 0
        self.numbers = 0
        self.patch = pytest.MonkeyPatch()
        # How calm the light cache gets is not what is looked at; reading it 72 times was most of the time.
        self.patch.setattr(tracing, "ROUNDS", 6)
        self.patch.setattr(session, "HAND_RESTS_S", 0.0)

    def _take(self, name: str, head: dict[str, Any], body: bytes) -> None:
        self.told[name].append(head)
        if head["kind"] == "frame":
            live = self.engine.session(name)
            assert live is not None
            # The frame is that of what this session shows, at one of its sizes.
            size = live.prepared.size(head["scale"])
            assert (head["height"], head["width"]) == tuple(size)
            self.frames[name] = body
        if head["kind"] == "failure":
            self.failures += 1
            # Nobody waits here for a pause to end.
            self.engine.again(name)

    @initialize()
    def begin(self) -> None:
        """Both tabs show something."""
        for name in self.state:
            self.engine.show(name, spec_of(self.state[name]))

    @rule(name=NAMES, field=st.sampled_from(sorted(CHANGES)), data=st.data())
    def change(self, name: str, field: str, data: st.DataObject) -> None:
        """One thing is changed in a tab."""
        self.state[name][field] = data.draw(st.sampled_from(CHANGES[field]), field)
        self.engine.show(name, spec_of(self.state[name]))

    @rule(name=NAMES, visible=st.booleans())
    def look_away(self, name: str, visible: bool) -> None:
        """A tab is hidden or seen again."""
        self.engine.show(name, spec_of(self.state[name]), visible)

    @rule(turns=st.integers(1, 12))
    def work(self, turns: int) -> None:
        """Some time goes by."""
        for _ in range(turns):
            self.engine.work()

    @rule(name=NAMES, asked=st.sampled_from(ASKED))
    def ask(self, name: str, asked: tuple[str, dict[str, Any]]) -> None:
        """Any question at any moment is answered, or refused in words."""
        what, of = asked
        self.numbers += 1
        self.engine.ask(name, self.numbers, what, QUESTIONS[what].request.model_validate(of))
        answer = self.told[name][-1]
        if self.injected == self.failures:
            assert answer.get("id") == self.numbers
            assert "fault" not in answer.get("text", "")

    @rule(name=NAMES)
    def close(self, name: str) -> None:
        """A tab is closed, and another opened in its place."""
        self.engine.close(name)
        self.frames.pop(name, None)
        self.engine.show(name, spec_of(self.state[name]))

    @rule(where=st.sampled_from(["schedule", "trace", "draw", "apply"]))
    def break_something(self, where: str) -> None:
        """The next step of some kind fails once."""
        if self.injected > self.failures:
            return
        of, name = {"schedule": (session, "next_job"), "trace": (Tracer, "go_on"), "draw": (session, "read"),
                    "apply": (Session, "apply")}[where]  # fmt: skip
        really = getattr(of, name)
        self.injected += 1

        def broken(*_: Any, **__: Any) -> Any:
            self.patch.setattr(of, name, really)
            raise Unlucky(where)

        self.patch.setattr(of, name, broken)

    @invariant()
    def nothing_went_wrong_by_itself(self) -> None:
        """No words of a problem, no failure beyond those injected."""
        assert self.failures <= self.injected
        assert not [h for heads in self.told.values() for h in heads if h["kind"] == "problem"]

    def teardown(self) -> None:
        """After quiet each tab shows what a fresh engine shows; closed, they give their memory back."""
        self.patch.undo()
        self.patch.setattr(tracing, "ROUNDS", 6)
        self.patch.setattr(session, "HAND_RESTS_S", 0.0)
        for name, state in self.state.items():
            state |= {"moving": False, "paused": False, "find": None}
            self.engine.show(name, spec_of(state))
        for _ in range(3000):
            if not self.engine.work():
                break
        else:
            raise AssertionError("the engine never comes to rest")
        for name, state in self.state.items():
            self._as_fresh(name, state)
        store = self.engine.shared.store
        for name in self.state:
            self.engine.close(name)
        store.limit_bytes = 0
        store.forget()
        # The newest film and guide are always spared.
        assert store.bytes() < 600_000
        self.engine.shared.workshop.close()
        self.patch.undo()

    def _as_fresh(self, name: str, state: dict[str, Any]) -> None:
        heads = [h for h in self.told[name] if h["kind"] == "frame"]
        assert heads, "no frame at all"
        assert heads[-1]["settled"]
        exact = state["bounced"] == "traced" and state["building"] != 2
        # Kept light was gathered from other places, openings were looked around from others.
        if not exact and state["reading"] not in ("plain", "raw"):
            return
        said: list[bytes] = []
        alone = Engine(
            lambda _, head, body: said.append(body) if head["kind"] == "frame" else None,
            shared=shared(),
        )
        alone.show("fresh", spec_of(state))
        while alone.work():
            pass
        alone.shared.workshop.close()
        if exact:
            assert self.frames[name] == said[-1]
            return
        a, b = (_pixels(body) for body in (self.frames[name], said[-1]))
        assert abs(a.mean() - b.mean()) < 0.1 * b.mean() + 3


def _pixels(body: bytes) -> np.ndarray:
    import io

    from PIL import Image

    with Image.open(io.BytesIO(body)) as picture:
        return np.asarray(picture, float)


AnyOrder.TestCase.settings = settings(
    max_examples=SEQUENCES, stateful_step_count=STEPS, deadline=None, derandomize=True,
    phases=(Phase.generate,), suppress_health_check=list(HealthCheck), print_blob=True,
)  # fmt: skip
TestAnyOrder = AnyOrder.TestCase
