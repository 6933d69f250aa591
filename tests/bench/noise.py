"""Noise for the time of traced paths, on the made-up rooms: `./westlight bench noise [ROOM …]`.

Squared error of blocks of pixels against many passes, relative to the mean of each source, and the processor's seconds for it: what
an idea for the tracer brings is their product before and after. The many passes are kept, by room, where references lie.
"""

from __future__ import annotations

import argparse
import os
import sys
import tempfile
import time
from pathlib import Path
from typing import Any

import numpy as np

sys.path.insert(0, str(Path(__file__).parents[2]))
KEPT_IN = Path(
    os.environ.get("WESTLIGHT_REFERENCES") or Path.home() / ".cache/westlight/references"
)
WIDTH, HEIGHT, BLOCK = 160, 96, 8
#: Passes of what is compared, how many times, and of what it is compared with.
PASSES, TIMES, MANY = 8, 6, 300
#: Blocks that are not left out.
KEPT = 0.98
USUAL = ("plain_window", "corridor", "bathroom", "forty_spots", "stairwell")


class Room:
    """One made-up room, traced to the end of every path."""

    def __init__(self, name: str, folder: Path) -> None:
        from tests.bench.rooms import room, spec_of

        from westlight.core.remembered import key_of
        from westlight.engine.scenery import Scenery
        from westlight.engine.translate import source_of, view_of

        spec = spec_of(room(name), folder, name)
        assert spec.model is not None
        scene = Scenery.of(spec.model, None)
        self._sources = [
            source_of(s, spec.model.north_deg, scene.build.materials, False) for s in spec.sources
        ]
        self._assembled = scene.assemble(spec, self._sources, None)
        self._view, self._bounces = view_of(spec.view, WIDTH, HEIGHT), spec.bounces
        #: Key of what its light depends on.
        self.key = key_of(spec.model_dump_json(), WIDTH, HEIGHT, BLOCK, MANY)

    def traced(self, passes: int, seed: int) -> tuple[Any, int]:
        """Luminance of the blocks of every source (n, rows, columns) after some passes, and the rays it took."""
        from westlight.core.colour import AP1_LUMINANCE
        from westlight.core.transport.film import Accumulator, GuideFilm
        from westlight.core.transport.render import PassRun

        films = [Accumulator.empty(HEIGHT, WIDTH) for _ in self._sources]
        run = PassRun(self._assembled, self._view, range(len(films)), films, GuideFilm.empty(HEIGHT, WIDTH),
                      upto=passes, seed=seed, bounces=self._bounces)  # fmt: skip
        run.advance()
        blocks = [f.mean().reshape(HEIGHT // BLOCK, BLOCK, WIDTH // BLOCK, BLOCK, 3) for f in films]
        return np.array([b.mean(axis=(1, 3)) @ AP1_LUMINANCE for b in blocks]), run.rays


def squared(found: Any, wanted: Any) -> float:
    """Squared error relative to the mean of each source that gives light here, the worst blocks left out."""
    errors = []
    for a, b in zip(found, wanted, strict=True):
        if b.mean() > 0:
            error = np.sort((a - b).ravel() ** 2)[: int(KEPT * a.size)]
            errors.append(error.mean() / b.mean() ** 2)
    return float(np.mean(errors))


def main() -> None:
    """Print a line for each room."""
    asked = argparse.ArgumentParser()
    asked.add_argument("rooms", nargs="*", default=USUAL)
    print(f"{'room':<16}{'squared error':>14}{'s':>8}{'M rays':>8}{'error × s':>12}")
    KEPT_IN.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as folder:
        for name in asked.parse_args().rooms:
            room = Room(name, Path(folder))
            file = KEPT_IN / f"{name}-blocks-{room.key}.npy"
            if not file.exists():
                np.save(file, room.traced(MANY, 99)[0])
            wanted = np.load(file)
            room.traced(1, 5)
            errors, seconds, rays = [], [], 0
            for k in range(TIMES):
                begun = time.process_time()
                found, sent = room.traced(PASSES, 1000 + k)
                seconds.append(time.process_time() - begun)
                errors.append(squared(found, wanted))
                rays += sent
            error, took = float(np.mean(errors)), min(seconds)
            print(f"{name:<16}{error:>14.3e}{took:>8.2f}{rays / TIMES / 1e6:>8.2f}{error * took:>12.3e}",
                  flush=True)  # fmt: skip


if __name__ == "__main__":
    main()
