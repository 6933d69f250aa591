"""The light of a finished still, kept so that it can be mixed and finished again without rendering.

One EXR, in half floats where they reach: a contribution per source as it was rendered, the passes a finish needs, and
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
from westlight.core.transport.render import Window

from .keys import keys_of
from .spec import PictureSpec, Settings

#: Passes of the guide that denoising and the finish use.
GUIDES = ("albedo", "normal", "depth", "alpha", "outside", "diffuse")
#: Half floats end here.
_MOST = 65504.0


class KeptSource(Settings):
    """One source of a kept light: the key of its pixels, and the gain (r, g, b) they have."""

    id: str
    name: str
    layer: str
    #: Layer of what is seen of it, which is denoised apart; lights kept by earlier versions have none.
    seen: str = ""
    key: str
    gain: tuple[float, float, float]
    #: Passes it was made of, to weigh further ones by.
    passes: float = 8.0


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
    def seen(self) -> F4 | None:
        """What is seen of all sources themselves, (h, w, 3) in cd/m²; None if none of it was kept apart."""
        if not any(s.seen for s in self.recipe.sources):
            return None
        total = np.zeros_like(self.layers["albedo"])
        for s in self.recipe.sources:
            if s.seen:
                total += self.layers[s.seen] * self.gains[s.name]
        return total

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
    keys = keys_of(spec)
    sources, layers = [], {}
    for i, name in enumerate(film.names):
        layer, seen = f"light {i + 1}", film.seen_of(name)
        seen_layer = f"seen {i + 1}" if seen.any() else ""
        gain = tuple(float(g) for g in film.gains[name])
        sources.append(KeptSource(id=ids[name], name=name, layer=layer, seen=seen_layer, gain=gain,
                                  key=keys.own[ids[name]],
                                  passes=film.accumulators[name].samples))  # fmt: skip
        layers[layer] = film.contribution(name)
        if seen_layer:
            layers[seen_layer] = seen
    layers |= {name: film.output_pass(name) for name in GUIDES} | dict(extra)
    recipe = KeptRecipe(spec=spec, scene=keys.scene, sources=sources)
    _write(file, recipe, film.beauty, layers)


def _write(file: Path, recipe: KeptRecipe, beauty: F4, layers: Mapping[str, F4]) -> None:
    # A sun's disc that is seen lies far beyond half floats; such a picture is kept in whole ones.
    half = max(float(np.abs(a).max(initial=0)) for a in layers.values()) <= _MOST
    write_exr(file, beauty, layers, recipe.model_dump_json(), half)


def keep_again(file: Path, light: KeptLight) -> None:
    """Write a kept light that has been added to."""
    layers = {n: a for n, a in light.layers.items() if n}
    _write(file, light.recipe, light.beauty, layers)


def add_passes(light: KeptLight, film: Film, window: Window) -> None:
    """Add what was rendered of a window to a kept light, each by its passes; gains are the same."""
    rows, columns = slice(window.row0, window.row1), slice(window.column0, window.column1)
    whole = window.row1 - window.row0, window.column1 - window.column0
    for name, acc in film.accumulators.items():
        source = next(s for s in light.recipe.sources if s.name == name)
        before, now = np.float32(source.passes), np.float32(acc.samples)
        added = [(source.layer, film.contribution(name))]
        if source.seen:
            added.append((source.seen, film.seen_of(name)))
        for layer, light_of in added:
            part = light.layers[layer][rows, columns]
            part += (light_of - part) * (now / (before + now))
        if whole == light.layers[source.layer].shape[:2]:
            source.passes += acc.samples


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
    keys = keys_of(spec)
    if keys.scene != light.recipe.scene:
        raise WestlightError(
            "The building, its materials or openings, clay or haze have changed since this still was "
            "rendered. Save a new still instead."
        )
    by_id = {s.id: s for s in spec.sources if s.counts}
    stale, gone = [], []
    for s in light.recipe.sources:
        if s.id not in by_id:
            gone.append(s.name)
            light.gains[s.name] = np.zeros(3, np.float32)
            continue
        if keys.own[s.id] != s.key:
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
