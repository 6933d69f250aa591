"""The light of a finished still, kept so that it can be mixed and finished again without rendering.

One EXR in half floats: a contribution per source as it was rendered, the passes a finish needs, and
in its recipe what each contribution depends on. Levels, colours, exposure, white point and finish can
change later; what would need new rays cannot, and is named.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from pydantic import Field

from westlight.core.errors import PictureFileError, WestlightError
from westlight.core.files import read_layers, read_recipe, write_exr
from westlight.core.transport.film import F4, Film

from .spec import PictureSpec, Settings
from .translate import own_keys, scene_key

#: Passes of the guide that denoising and the finish use.
GUIDES = ("albedo", "normal", "depth", "alpha", "outside")
#: Half floats end here; a sun's disc is held below it.
_MOST = 65504.0


class KeptSource(Settings):
    """One source of a kept light: the key of its pixels, and the gain (r, g, b) they have."""

    id: str
    name: str
    layer: str
    key: str
    gain: tuple[float, float, float]


class KeptRecipe(Settings):
    """What a kept light was made from."""

    spec: PictureSpec
    scene: str
    sources: list[KeptSource] = Field(default_factory=list)


@dataclass
class KeptLight:
    """Contributions and passes read back; stands for the `Film` they came from."""

    recipe: KeptRecipe
    layers: dict[str, F4]
    gains: dict[str, F4]

    @property
    def names(self) -> list[str]:
        """Names of the sources."""
        return [s.name for s in self.recipe.sources]

    def contribution(self, name: str) -> F4:
        """Picture of one source at its present gain, (h, w, 3) in cd/m²."""
        source = next(s for s in self.recipe.sources if s.name == name)
        return np.asarray(self.layers[source.layer] * self.gains[name])

    @property
    def beauty(self) -> F4:
        """All sources together."""
        total = np.zeros_like(self.layers["albedo"])
        for name in self.names:
            total += self.contribution(name)
        return total

    def output_pass(self, name: str) -> F4:
        """A pass that was kept; raises `WestlightError` for one that was not."""
        if name not in self.layers:
            raise WestlightError(
                f"The pass “{name}” was not kept with this still. Render it again to have it."
            )
        return self.layers[name]


def keep_light(
    file: Path, spec: PictureSpec, ids: Mapping[str, str], film: Film, extra: Mapping[str, F4]
) -> None:
    """Write the light of a film; ``ids`` are the ids of its sources by name."""
    keys = own_keys(spec)
    sources, layers = [], {}
    for i, name in enumerate(film.names):
        layer = f"light {i + 1}"
        gain = tuple(float(g) for g in film.gains[name])
        sources.append(KeptSource(id=ids[name], name=name, layer=layer, gain=gain,
                                  key=keys[ids[name]]))  # fmt: skip
        layers[layer] = film.contribution(name)
    layers |= {name: film.output_pass(name) for name in GUIDES} | dict(extra)
    recipe = KeptRecipe(spec=spec, scene=scene_key(spec), sources=sources)
    write_exr(file, film.beauty, {n: np.clip(a, -_MOST, _MOST) for n, a in layers.items()},
              recipe.model_dump_json())  # fmt: skip


def read_light(file: Path) -> KeptLight:
    """Read what `keep_light` wrote; raises `PictureFileError`."""
    recipe = read_recipe(file)
    if not recipe:
        raise PictureFileError(f"“{file.name}” is not the light of a still.")
    kept = KeptRecipe.model_validate_json(recipe)
    gains = {s.name: np.ones(3, np.float32) for s in kept.sources}
    return KeptLight(kept, read_layers(file), gains)


def mix_again(light: KeptLight, spec: PictureSpec, gains: Mapping[str, np.ndarray]) -> list[str]:
    """Set the gains of a kept light to those of a spec (by source id); returns remarks.

    Raises `WestlightError` when the building is another.
    """
    if scene_key(spec) != light.recipe.scene:
        raise WestlightError(
            "The building, its materials or openings, clay or haze have changed since this still was "
            "rendered. Save a new still instead."
        )
    keys = own_keys(spec)
    by_id = {s.id: s for s in spec.sources if s.counts}
    stale, gone = [], []
    for s in light.recipe.sources:
        if s.id not in by_id:
            gone.append(s.name)
            light.gains[s.name] = np.zeros(3, np.float32)
            continue
        if keys[s.id] != s.key:
            stale.append(s.name)
        old = np.asarray(s.gain)
        ratio = np.divide(gains[s.id], old, out=np.ones(3), where=old > 0)
        light.gains[s.name] = ratio.astype(np.float32)
    kept = {s.id for s in light.recipe.sources}
    new = [s.name for i, s in by_id.items() if i not in kept and gains[i].max() > 0]
    remarks = []
    if stale:
        remarks.append(f"{_and(stale)}: changed since, shown as rendered then.")
    if new:
        remarks.append(f"{_and(new)}: not in this still, so left out.")
    return remarks


def _and(names: list[str]) -> str:
    return names[0] if len(names) == 1 else ", ".join(names[:-1]) + " and " + names[-1]
