"""Scenes: what is lit and what lights it, and the two questions one asks of them."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import numpy as np
import numpy.typing as npt

from .model import Material, Mesh, Model, Part, read_model
from .sources import Emitter, Source, as_source
from .transport.build import Assembled, GeometryBuild, assemble, glow_sources
from .transport.film import Accumulator, Film
from .transport.layout import GUIDE_CHANNELS
from .transport.render import add_passes, irradiance_at
from .view import View


class Scene:
    """Surfaces and sources in metres, z up, x east, y north.

    Emissive materials become sources of their own name by themselves.
    """

    def __init__(self) -> None:
        self.parts: list[Part] = []
        self.sources: list[Source] = []
        self._build: GeometryBuild | None = None

    def add_mesh(
        self,
        vertices: npt.ArrayLike,
        faces: npt.ArrayLike,
        material: Material,
        name: str = "mesh",
        normals: npt.ArrayLike | None = None,
        uvs: npt.ArrayLike | None = None,
    ) -> Part:
        """Add triangles: vertices (n, 3) in metres, faces (m, 3) of indices.

        Raises ``ModelError`` for indices without a vertex.
        """
        part = Part(name, Mesh.single(name, vertices, faces, material, normals, uvs), path=(name,))
        return self.add_part(part)

    def add_part(self, part: Part) -> Part:
        """Add a placed mesh; parts that share a mesh cost its memory once."""
        self.parts.append(part)
        self._build = None
        return part

    def add_model(self, path: str | Path) -> Model:
        """Read a model file (GLB, glTF, OBJ) and add all its parts; raises ``ModelError``."""
        model = read_model(path)
        self.parts += model.parts
        self._build = None
        return model

    def add_source(self, source: Source | Emitter) -> Source:
        """Add a source of light; names must differ, else ``ValueError``."""
        made = as_source(source)
        if any(s.name == made.name for s in self.sources):
            raise ValueError(f"There is already a source called “{made.name}”.")
        self.sources.append(made)
        return made

    def geometry(self) -> GeometryBuild:
        """Arrays and hierarchies of the parts, built once until a part is added."""
        if self._build is None:
            self._build = GeometryBuild(self.parts)
        return self._build

    def assembled(self, clay_reflectance: float | None = None) -> Assembled:
        """Everything a kernel needs for the present parts and sources."""
        build = self.geometry()
        sources = [*self.sources, *glow_sources(build.materials)]
        return assemble(build, sources, clay_reflectance)


def render(
    scene: Scene,
    view: View,
    samples: int = 64,
    seed: int = 0,
    bounces: int = 8,
    *,
    clay_reflectance: float | None = None,
    calm: float = 0.0,
    progress: Callable[[float], None] | None = None,
    stop: Callable[[], bool] | None = None,
) -> Film:
    """Picture of a scene from a view, split by source.

    ``samples`` per pixel; ``bounces`` counts reflections after the first surface (0 = direct
    light only). The same arguments give the same film, bit for bit, on any number of threads.
    ``calm`` raises roughness after the first bounce to that value (biased; 0 for none).
    ``progress`` gets 0…1; when ``stop`` returns True, `Cancelled` is raised.
    """
    if samples < 1 or bounces < 0:
        raise ValueError("A picture needs at least one sample and no negative bounces.")
    assembled = scene.assembled(clay_reflectance)
    height, width = view.height_px, view.width_px
    films = [Accumulator.empty(height, width) for _ in assembled.sources]
    guide = np.zeros((height, width, GUIDE_CHANNELS), np.float32)
    rays = 0
    for n in range(samples):
        rays += add_passes(
            assembled, view, range(len(films)), films, guide,
            first_sample=n, seed=seed, bounces=bounces, calm=calm, stop=stop,
        )  # fmt: skip
        if progress is not None:
            progress((n + 1) / samples)
    names = [s.name for s in assembled.sources]
    gains = {s.name: s.gain for s in assembled.sources}
    return Film(dict(zip(names, films, strict=True)), gains, guide, rays)


def irradiance(
    scene: Scene,
    points: npt.ArrayLike,
    normals: npt.ArrayLike,
    samples: int = 1024,
    seed: int = 0,
    bounces: int = 8,
) -> npt.NDArray[np.float64]:
    """Irradiance at points (n, 3) in metres on surfaces with normals (n, 3).

    Working-space RGB (n, 3) whose luminance is lux, all sources together. ``bounces`` counts
    reflections before the light arrives (0 = direct light only).
    """
    assembled = scene.assembled()
    unit = irradiance_at(
        assembled, points, normals, samples=samples, seed=seed, bounces=bounces
    ).astype(np.float64)
    gains = np.array([s.gain for s in assembled.sources]).reshape(1, -1, 3)
    if not len(assembled.sources):
        return np.zeros((unit.shape[0], 3))
    return np.asarray((unit * gains).sum(axis=1))
