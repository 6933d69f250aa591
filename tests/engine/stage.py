"""What tests of the live picture stand on: a small room as a file, specs of it, a session driven step by step."""

from __future__ import annotations

import io
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
from PIL import Image

from westlight.core.model import Material, Mesh, Model, Part
from westlight.core.model.write import write_glb
from westlight.engine.live import Film, Session, Shared
from westlight.engine.questions import QUESTIONS, Asked
from westlight.engine.spec import PictureSpec, SourceSpec

from .. import stored
from ..core.shapes import BOX_FACES


def write_room(folder: Path) -> Path:
    """A room of 4 × 4 × 3 m without its roof's middle, as a file."""
    points = [[x, y, z] for x in (0, 4) for y in (0, 4) for z in (0, 3)]
    faces = [f for f in BOX_FACES if f not in ([1, 5, 7], [1, 7, 3])]
    parts = [Part("room", Mesh.single("room", points, faces, Material(0.6)))]
    beam = [[x, y, z] for x in (1.5, 2.5) for y in (0, 4) for z in (2.8, 2.9)]
    parts.append(Part("beam", Mesh.single("beam", beam, BOX_FACES, Material(0.3))))
    write_glb(Model(parts), folder / "room.glb")
    return folder / "room.glb"


def spec(room: Path, **changes: Any) -> PictureSpec:
    """Sun, sky and a lamp in the room; changes by name. Without ``calm_at`` it never calms."""
    sun = {"kind": "sun", "azimuth_deg": changes.get("azimuth", 200.0), "elevation_deg": 60.0}
    lamp = {
        "kind": "fixture", "shape": "disc", "lumen": changes.get("lumen", 20_000.0), "radius": 0.2,
        "places": [{"position": [2.0, changes.get("lamp_y", 3.0), 2.5]}],
    }  # fmt: skip
    return PictureSpec.model_validate({
        "model": stored.model(room),
        "view": {"position": [0.4, 0.4, 1.6], "target": [3.0, 3.0, 1.0], "focal_length_mm": 20},
        "width_px": changes.get("width_px", 160),
        "exposure": {"f_number": 8, "shutter_s": changes.get("shutter", 1 / 60), "iso": 100},
        "sources": [
            {"id": "sun", "name": "Sun", "settings": sun},
            {"id": "sky", "name": "Sky", "settings": {"kind": "sky", "elevation_deg": 60.0}},
            {"id": "lamp", "name": "Lamp", "settings": lamp, "level": changes.get("level", 0.0),
             "counts": changes.get("counts", True)},
        ],
        "bounces": 3, "moving": changes.get("moving", False), "paused": changes.get("paused", False),
        "denoise": changes.get("denoise", True), "reading": changes.get("reading", "plain"),
        "bounced": changes.get("bounced", "kept"),
        "max_samples": changes.get("most", 6), "calm_at": changes.get("calm_at", 1e-3),
    })  # fmt: skip


class Bench:
    """A session whose messages are kept."""

    def __init__(self, shared: Shared | None = None, name: str = "bench") -> None:
        self.messages: list[tuple[dict[str, Any], bytes]] = []
        self.shared = shared or Shared()
        self.live = Session(
            name, self.shared, lambda head, body: self.messages.append((head, body))
        )

    @property
    def spec(self) -> PictureSpec:
        """The spec that is shown."""
        return self.live.prepared.spec

    def source(self, source_id: str) -> SourceSpec:
        """A source of that spec."""
        found = self.live.prepared.source_named(source_id)
        assert found is not None
        return found

    def film(self, source_id: str) -> Film | None:
        """The film of a source at full size with all bounces."""
        return self.live.pictures.full(self.live.prepared, self.source(source_id))

    def frames(self) -> list[dict[str, Any]]:
        """Heads of the frames so far."""
        return [h for h, _ in self.messages if h["kind"] == "frame"]

    def pixels(self) -> np.ndarray:
        """The newest frame."""
        body = next(b for h, b in reversed(self.messages) if h["kind"] == "frame")
        with Image.open(io.BytesIO(body)) as picture:
            return np.asarray(picture, np.float64)

    def finish(self) -> None:
        """Work until there is nothing to do."""
        for _ in range(20_000):
            if not self.live.work():
                return
        raise AssertionError("the engine never comes to rest")

    def show(
        self, wanted: PictureSpec, until: Callable[[dict[str, Any]], bool] | None = None
    ) -> None:
        """Apply a spec and work until a frame satisfies, or until there is nothing to do."""
        self.messages.clear()
        self.live.apply(wanted)
        for _ in range(20_000):
            going_on = self.live.work()
            if until is not None and any(until(f) for f in self.frames()):
                return
            if not going_on:
                return
        raise AssertionError("the engine never comes to rest")

    def passes(self) -> dict[str, int]:
        """Passes of every film at full size by source."""
        films = {s.id: self.film(s.id) for s in self.spec.sources}
        return {i: 0 if f is None else f.passes for i, f in films.items()}

    def ask(self, what: str, **of: Any) -> dict[str, Any]:
        """Ask a question about the picture, checked as the socket checks it; the answer as it is sent."""
        question = QUESTIONS[what]
        told = question.request.model_validate(of)
        return question.function(Asked.of(self.live), told).model_dump()
