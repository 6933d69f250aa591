"""Plants of a spec as parts: where they stand is found on the building without them."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from westlight.core.analysis.planting import Bed, Planted, Stroke, planted
from westlight.core.model import Part
from westlight.core.model.plants import PLANTS, VARIANTS, plant
from westlight.core.remembered import key_of, remembered
from westlight.core.transport.assemble import Assembled, assemble
from westlight.core.transport.build import GeometryBuild

from .spec import ModelEdits, ModelSpec, Planting
from .spec import Stroke as StrokeSpec

#: The branch of the tree of parts that plants are in.
STANDS_FOR = "Plants"
#: What of a building plants stand on; paint and what is around it change nothing there.
_STANDING = {"hidden", "moved", "copies", "additions"}


def planted_key(e: ModelEdits) -> str:
    """Key of the plants of a building and of what they stand on there."""
    if not any(p.on and p.strokes for p in e.plantings.values()):
        return ""
    return e.model_dump_json(include={"plantings", *_STANDING})


def garden(model: ModelSpec, parts: Sequence[Part], build: GeometryBuild) -> list[Part]:
    """Plants of a model: a part for each planting and variant, scattered to where they stand; its path ends with the planting's id."""
    on = {i: p for i, p in model.edits.plantings.items() if p.on and p.strokes}
    if not on:
        return []
    ground = assemble(build, [])
    numbers = {name: n for n, name in enumerate(dict.fromkeys(p.name for p in parts))}
    rows = np.array([numbers[p.name] for p in parts] or [0])
    made = []
    for row, planting in on.items():
        stand = _found(planting, ground, rows, numbers, build.digest)
        for n in range(VARIANTS):
            copies = stand.matrices[stand.variants == n]
            if len(copies):
                mesh = plant(planting.plant, planting.detail, n)
                made.append(Part(planting.name, mesh, path=(STANDS_FOR, planting.name, row), scattered=copies))  # fmt: skip
    return made


def bed_of(p: Planting) -> Bed:
    """The core's bed of a planting."""
    return Bed(p.seed, p.per_m2, p.apart_m, p.size, p.size_spread, p.turn_spread, p.slope, p.keep_off_m,
               PLANTS[p.plant].on_walls)  # fmt: skip


def strokes_of(p: Planting, numbers: dict[str, int]) -> list[Stroke]:
    """The core's strokes, in their order. What began on a part that is gone grows on nothing."""
    return [_stroke(s, numbers) for _, s in sorted(p.strokes.items())]


def _stroke(s: StrokeSpec, numbers: dict[str, int]) -> Stroke:
    on = numbers.get(s.on, len(numbers)) if s.on else -1
    return Stroke(s.kind, tuple(s.points), s.radius_m, on, s.normal)


def _found(p: Planting, ground: Assembled, rows: np.ndarray, numbers: dict[str, int],
           digest: str) -> Planted:  # fmt: skip
    def surfaces(hits: np.ndarray) -> np.ndarray:
        """Numbers of the names of what was met."""
        build = ground.build
        instance, triangle = hits[:, 7].astype(np.int64), hits[:, 8].astype(np.int64)
        copy = build.instance_part[np.minimum(instance, len(build.instance_part) - 1)]
        part = np.where(copy >= 0, copy, build.triangle_part[triangle])
        return np.asarray(np.where(np.isfinite(hits[:, 6]) & (hits[:, 6] < 1e29), rows[part], -2))

    def find() -> dict[str, np.ndarray]:
        found = planted(ground, surfaces, strokes_of(p, numbers), bed_of(p), VARIANTS)
        return {"matrices": found.matrices[:, :3].astype(np.float32), "variants": found.variants.astype(np.int8)}  # fmt: skip

    told = p.model_dump_json(exclude={"name", "on", "detail"})
    kept = remembered("plants", key_of(digest, sorted(numbers), told), find)
    matrices = np.tile(np.eye(4), (len(kept["variants"]), 1, 1))
    matrices[:, :3] = kept["matrices"]
    return Planted(matrices, np.asarray(kept["variants"], np.int64))
