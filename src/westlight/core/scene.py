"""Scenes: what is lit and what lights it, and the two questions one asks of them."""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence
from pathlib import Path

import numpy as np
import numpy.typing as npt

from .model import Material, Mesh, Model, Part, read_model
from .model.parts import clean
from .sources import Emitter, Glow, MeshEmitter, Source, as_source
from .transport.air import Air
from .transport.assemble import Assembled, assemble, glow_sources
from .transport.build import GeometryBuild
from .transport.cache import LightCache
from .transport.clamp import choose_clamps
from .transport.film import Accumulator, Film, GuideFilm
from .transport.glances import GLANCES
from .transport.portals import Portal
from .transport.render import PassRun, irradiance_at
from .transport.survey import APART, EXTRA_PASSES, survey
from .view import View


class Scene:
    """Surfaces and sources in metres, z up, x east, y north.

    Emissive materials become sources of their own name by themselves.
    """

    def __init__(self) -> None:
        self.parts: list[Part] = []
        self.sources: list[Source] = []
        self.portals: list[Portal] = []
        self.closed = False
        self.air: list[Air] = []
        self._build: GeometryBuild | None = None

    def add_mesh(
        self,
        vertices: npt.ArrayLike,
        faces: npt.ArrayLike,
        material: Material,
        name: str = "mesh",
        normals: npt.ArrayLike | None = None,
        uvs: npt.ArrayLike | None = None,
        colours: npt.ArrayLike | None = None,
        blocker: bool = False,
    ) -> Part:
        """Add triangles: vertices (n, 3) in metres, faces (m, 3) of indices.

        ``normals`` (n, 3), ``uvs`` (n, 2) and linear ``colours`` (n, 3) belong to the vertices. A
        ``blocker`` stops and tints light unseen. Faces with bad points or no area are left out.
        Raises ``ModelError`` for indices without a vertex.
        """
        mesh = Mesh.single(name, vertices, faces, material, normals, uvs)
        if colours is not None:
            mesh.colours = np.asarray(colours, np.float32).reshape(-1, 3)
        clean([mesh])
        return self.add_part(Part(name, mesh, path=(name,), blocker=blocker))

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

    def add_source(self, source: Source | Emitter | MeshEmitter) -> Source:
        """Add a source of light; names must differ, else ``ValueError``."""
        if isinstance(source, MeshEmitter):
            self.add_mesh(
                source.vertices, source.faces, source.material, source.name, uvs=source.uvs
            )
            made: Source = source.glow()
        else:
            made = as_source(source)
        if any(s.name == made.name for s in self.sources):
            raise ValueError(f"There is already a source called “{made.name}”.")
        self.sources.append(made)
        return made

    def add_portal(
        self,
        position: Sequence[float],
        inward: Sequence[float],
        width: float,
        height: float,
        *,
        gain: float = 1.0,
        roll_deg: float = 0.0,
        name: str = "portal",
    ) -> Portal:
        """Add a window portal: centre, direction into the room, width and height in metres.

        Outside light is then drawn through it; the picture stays the same, with less noise. With
        ``scene.closed = True`` outside light enters only by portals. ``gain`` multiplies what comes
        through (a cheat). Raises ``SourceError`` for an opening without size or direction.
        """
        portal = Portal(tuple(position), tuple(inward), width, height, gain, roll_deg, name)
        self.portals.append(portal)
        return portal

    def add_air(self, air: Air) -> Air:
        """Add haze, everywhere or in a box; boxes may overlap."""
        self.air.append(air)
        return air

    def geometry(self) -> GeometryBuild:
        """Arrays and hierarchies of the parts, built once until a part is added."""
        if self._build is None:
            self._build = GeometryBuild(self.parts)
        return self._build

    def assembled(self, clay_reflectance: float | None = None) -> Assembled:
        """Everything a kernel needs for the present parts and sources."""
        build = self.geometry()
        known = {s.material for s in self.sources if isinstance(s, Glow)}
        glows = [g for g in glow_sources(build.materials) if g.material not in known]
        return assemble(
            build, [*self.sources, *glows], clay_reflectance, portals=self.portals,
            closed=self.closed, air=self.air,
        )  # fmt: skip


def render(
    scene: Scene,
    view: View,
    samples: int = 64,
    seed: int = 0,
    bounces: int = 8,
    *,
    clay_reflectance: float | None = None,
    calm: float = 0.0,
    clamp: float | str | None = None,
    passes: Collection[str] = (),
    occlusion_radius_m: float = 1.0,
    first_sample: int = 0,
    rows: tuple[int, int] | None = None,
    threads: int | None = None,
    cache_rounds: int = 0,
    glances: Sequence[int] = GLANCES,
    progress: Callable[[float], None] | None = None,
    stop: Callable[[], bool] | None = None,
) -> Film:
    """Render a view: one contribution per source, in cd/m², with ``samples`` passes.

    ``bounces`` counts reflections after the first surface (0 = direct light only). The same
    arguments give the same film, bit for bit, on any number of threads. ``calm`` raises roughness
    after the first bounce to that value; ``clamp`` limits the bounced light of one sample, to a
    luminance in cd/m² or "auto" (takes less than 0.5 % of the light): both are biased, and what
    the clamp took is the output pass "speckle". ``passes`` names extra output passes: "position",
    "occlusion" (with its radius), "objects", "materials", "reflection", "transmission". ``rows`` renders a band of rows only;
    ``first_sample`` starts later in the sequence, so that films can be merged. With ``cache_rounds`` bounced
    light is first gathered in a light cache (`core.LightCache`; about 40 rounds for a room) and paths end
    there: several times quicker, with the bias that its module names. Each path comes with ``glances``, so many by
    pass: further looks through its pixel that gather only what is seen and the sun on it, for calm edges; they
    never change the mean. ``progress`` gets
    0…1; when ``stop`` returns True, `Cancelled` is raised.
    """
    if samples < 1 or bounces < 0:
        raise ValueError("A picture needs at least one sample and no negative bounces.")
    unknown = set(passes) - EXTRA_PASSES
    if unknown:
        raise ValueError(f"No output pass called {min(unknown)!r}.")
    assembled = scene.assembled(clay_reflectance)
    height, width = view.height_px, view.width_px
    apart = not APART.isdisjoint(passes)
    films = [Accumulator.empty(height, width, apart=apart) for _ in assembled.sources]
    gains = [s.gain for s in assembled.sources]
    choose_clamps(assembled, view, films, gains, clamp, seed, bounces, calm)
    guide = GuideFilm.empty(height, width)
    for f in films:
        f.counts[..., 0], f.counts[..., 1] = (first_sample + 1) // 2, first_sample // 2
    names = [s.name for s in assembled.sources]
    cache = None
    if cache_rounds and films and not len(assembled.air):
        cache = LightCache(len(films))
        for _ in range(cache_rounds):
            cache.read(assembled, view, range(len(films)), names, bounces=bounces, seed=seed,
                       threads=threads)  # fmt: skip
    run = PassRun(
        assembled, view, range(len(films)), films, guide, upto=first_sample + samples, seed=seed,
        bounces=bounces, calm=calm, glances=glances, threads=threads, rows=rows, cache=cache,
        cache_keys=names if cache else (),
    )  # fmt: skip
    while not run.advance(0.25 if progress else None, stop):
        if progress is not None:
            progress(run.share)
    for f in films:
        f.counts[..., 0] -= (first_sample + 1) // 2
        f.counts[..., 1] -= first_sample // 2
    return Film(
        dict(zip(names, films, strict=True)), dict(zip(names, gains, strict=True)), guide,
        run.rays, survey(assembled, view, passes, samples, seed, occlusion_radius_m),
    )  # fmt: skip


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
