"""Small pictures of the plants of the shelf, for the page: `python -m demo.plant_prints`."""

from __future__ import annotations

import sys
from pathlib import Path

import numpy as np
from PIL import Image

from westlight import core
from westlight.core.finish.show import show
from westlight.core.model import Part
from westlight.core.model.plants import PLANTS, Detail, plant

FOLDER = Path(__file__).parents[1] / "web/public/plants"
#: Side in pixels as they are kept, and how much larger they are rendered.
SIDE, FINER, SAMPLES = 168, 2, 40
#: A tuft alone is next to nothing: this many stand together, in metres apart.
TOGETHER = {"grass": (40, 0.07), "reeds": (7, 0.3), "climber": (24, 0.34)}
GROUND, WALL = core.Material((0.34, 0.32, 0.28)), core.Material((0.55, 0.52, 0.46))


def print_of(kind: str, detail: Detail = "near", number: int = 0) -> Image.Image:
    """One plant in the sun of a clear afternoon."""
    scene = core.Scene()
    scene.add_mesh([[-90, -90, 0], [90, -90, 0], [90, 90, 0], [-90, 90, 0]], [[0, 1, 2], [0, 2, 3]], GROUND)  # fmt: skip
    on_wall = PLANTS[kind].on_walls
    if on_wall:
        scene.add_mesh([[-9, 0, 0], [9, 0, 0], [9, 0, 9], [-9, 0, 9]], [[0, 1, 2], [0, 2, 3]], WALL)
    mesh = plant(kind, detail, number)
    low, high = mesh.vertices.min(axis=0), mesh.vertices.max(axis=0)
    places = _places(kind, on_wall)
    scene.add_part(Part(kind, mesh, scattered=places))
    spread = places[:, :3, 3]
    low, high = low + spread.min(axis=0), high + spread.max(axis=0)
    middle = (low + high) / 2
    size = float(max(high[2] - low[2], 0.9 * (high[0] - low[0])))
    scene.add_source(core.sources.Sun("sun", 150.0 if not on_wall else 30.0, 40.0))
    scene.add_source(core.sources.SkySource("sky", core.sky.clear_sky(40.0, 150.0)))
    eye = middle + np.array([0.55, 1.6 if on_wall else -1.6, 0.3]) * size
    px = SIDE * FINER
    view = core.View(tuple(eye), tuple(middle), 50.0, px, px)
    film = core.render(scene, view, samples=SAMPLES, bounces=4, clamp="auto")
    light = sum(film.contribution(s.name) for s in scene.sources)
    shown = show(np.asarray(light, np.float32), 13.3, 5600.0)
    return Image.fromarray(shown.pixels).resize((SIDE, SIDE), Image.Resampling.LANCZOS)


def _places(kind: str, on_wall: bool) -> np.ndarray:
    count, apart = TOGETHER.get(kind, (1, 0.0))
    rng = np.random.default_rng(4)
    places = np.tile(np.eye(4), (count, 1, 1))
    for n in range(count):
        a, r = n * 2.4, apart * np.sqrt(n) * 0.6
        spot = np.array([r * np.cos(a), r * np.sin(a)]) if not on_wall else rng.uniform(-1, 1, 2) * [0.9, 0.9]  # fmt: skip
        turn = rng.uniform(0, 2 * np.pi) if not on_wall else 0.0
        places[n, :2, :2] = [[np.cos(turn), -np.sin(turn)], [np.sin(turn), np.cos(turn)]]
        places[n, [0, 2] if on_wall else [0, 1], 3] = spot
        places[n, 2, 3] += 2.0 if on_wall else 0.0
    return places


def main(kinds: list[str]) -> None:
    """Write the prints of some kinds, or of all."""
    FOLDER.mkdir(parents=True, exist_ok=True)
    for kind in kinds or PLANTS:
        print_of(kind).save(FOLDER / f"{kind.replace(' ', '-')}.webp", quality=82)
        print(kind)


if __name__ == "__main__":
    main(sys.argv[1:])
