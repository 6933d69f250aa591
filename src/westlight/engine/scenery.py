"""The scene of a spec: geometry built once, then sources, openings and air put around it.

The live picture, stills and contact pictures all see the building through this.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from westlight import core
from westlight.core.analysis import find_doorways, find_openings, same_hole
from westlight.core.colour import AP1_LUMINANCE
from westlight.core.errors import WestlightError
from westlight.core.finish import coverage_of
from westlight.core.model import Material, MaterialChange, Part, additions, dressing, edited
from westlight.core.model.cloths import CLOTHS
from westlight.core.remembered import key_of, remembered
from westlight.core.sources import Source
from westlight.core.transport.assemble import Assembled, assemble
from westlight.core.transport.build import GeometryBuild
from westlight.core.transport.embree import EmbreeScene
from westlight.core.transport.film import F4
from westlight.core.transport.portals import Portal
from westlight.core.transport.survey import survey

from .garden import garden, planted_key
from .spec import (
    Addition,
    Dress,
    HazeSettings,
    ModelSpec,
    OpeningEdit,
    PartGradeSettings,
    PictureSpec,
    SourceSpec,
)
from .translate import (
    change_of,
    colour_of,
    gain_of,
    matte_of,
    model_of,
    placed_parts,
    shining_picture,
    source_of,
)

#: What geometry does not depend on.
_AROUND = {"not_clay", "openings", "added_openings", "names", "tags"}


def geometry_key(model: ModelSpec) -> str:
    """Key of everything the geometry of a model depends on."""
    dress = "".join(d.model_dump_json() for d in model.dress)
    edits = model.edits.model_dump_json(exclude=_AROUND)
    return f"{model.asset}|{model.up}|{model.scale}|{edits}{dress}"


def part_of(a: Addition) -> Part:
    """The part an addition stands for."""
    width, depth, height = a.size_m
    paint = Material(colour_of(a.colour), roughness=0.9, name=a.name)
    if a.kind == "ground":
        mesh = additions.ground(a.name, width, depth, paint)
    elif a.kind == "tree":
        bark = Material((0.12, 0.09, 0.07), name=f"{a.name} bark")
        seed = sum(ord(c) for c in a.id)
        mesh = additions.tree(a.name, width, height, paint, bark, seed)
    elif a.kind == "blind":
        mesh = additions.blind(a.name, width, depth, height, a.tilt_deg, paint)
    elif a.kind == "light card":
        r, g, b = np.asarray(paint.rgb) / max(float(np.asarray(paint.rgb) @ AP1_LUMINANCE), 1e-6)
        light = Material(
            0.0,
            emission_cd_m2=(r * a.emission_cd_m2, g * a.emission_cd_m2, b * a.emission_cd_m2),
            name=a.name,
            emission_texture=shining_picture(a.picture),
        )
        mesh = additions.card(a.name, width, height, light)
    else:
        mesh = additions.box(a.name, width, depth, height, paint)
    return additions.placed(a.name, mesh, a.position, a.turn_deg, a.kind == "blocker")


def parts_of(spec: ModelSpec) -> list[Part]:
    """Parts of the model of a spec with the artist's edits, and what was added around it."""
    e = spec.edits
    changes, own = (
        {name: change_of(change) for name, change in of.items()}
        for of in (e.materials, e.own_materials)
    )
    parts = placed_parts(edited(model_of(spec), (), changes, own), e, set(e.hidden))
    parts += [part_of(a) for a in spec.edits.additions if a.on]
    return dressed(parts, spec.dress)


def dressed(parts: Sequence[Part], dress: Sequence[Dress]) -> list[Part]:
    """Parts with what hangs before openings, and with the glass of a look."""
    glass = {
        name: change for d in dress if (change := _glass_of(d)) is not None for name in d.panes
    }
    made = [dressing.with_glass(p, glass[p.name]) if p.name in glass else p for p in parts]
    for d in dress:
        if d.hangs != "nothing":
            made += dressing.hung(f"{d.hangs.capitalize()} of {d.opening}", d.hangs, frame_of(d), _cloth_of(d),
                                  d.drawn, d.off_m, d.below_m, d.tilt_deg)  # fmt: skip
    return made


def frame_of(d: Dress) -> dressing.Frame:
    """An opening as what hangs before it sees it."""
    u, v, n = Portal(d.position, d.inward, d.width, d.height, roll_deg=d.roll_deg).axes()
    return dressing.Frame(d.position, np.stack([-u, n, v]), d.width, d.height)


def _glass_of(d: Dress) -> MaterialChange | None:
    if d.glass == "as it is":
        return None
    return (dressing.tinted if d.glass == "tinted" else dressing.frosted)(
        colour_of(d.tint), d.through
    )


def _cloth_of(d: Dress) -> Material:
    """Cloth in a colour: what it does not lose is parted as the cloth says, hue by hue."""
    name = f"{d.hangs.capitalize()} of {d.opening}"
    rgb = np.asarray(colour_of(d.colour))
    if d.hangs == "slats":
        return Material((float(rgb[0]), float(rgb[1]), float(rgb[2])), roughness=0.5, name=name)
    cloth = CLOTHS[d.cloth]
    r, g, b = (float(v) for v in np.clip(rgb * cloth.reflectance, 0, 1))
    return Material((r, g, b), roughness=0.9, name=name, translucency=cloth.translucency, through=(r, g, b),
                    openness=cloth.openness)  # fmt: skip


def _building(parts: Sequence[Part], others: Sequence[Part]) -> bool:
    """Whether the building of both is the same, whatever was added to it."""
    a, b = ([p for p in of if not p.movable] for of in (parts, others))
    return len(a) == len(b) and all(
        x.mesh.faces is y.mesh.faces and np.array_equal(x.matrix, y.matrix)
        for x, y in zip(a, b, strict=True)
    )


def air_of(haze: Sequence[HazeSettings]) -> list[core.Air]:
    """The core's air of settings."""
    made = []
    for h in haze:
        if h.on:
            hue = np.asarray(colour_of(h.colour))
            shares = hue / max(float(hue.max()), 1e-6) * h.scattering
            made.append(core.Air(h.visibility_m, (shares[0], shares[1], shares[2]), 1 - h.scattering,
                                 h.low, h.high, h.thins_over_m, h.forward))  # fmt: skip
    return made


def _edited(portal: Portal, edit: OpeningEdit) -> Portal:
    inward = tuple(-float(x) for x in portal.inward) if edit.turned else portal.inward
    return replace(portal, inward=inward, gain=portal.gain * 2.0**edit.gain)


def _added(model: ModelSpec) -> list[Portal]:
    """Openings placed by hand."""
    return [
        Portal(a.position, a.inward, a.width, a.height, 2.0**a.gain, name=a.name)
        for a in model.edits.added_openings
    ]


def _openings_of(model: ModelSpec, parts: Sequence[Part], build: GeometryBuild) -> list[Portal]:
    """Openings of the building with nothing hidden or added, and doorways that hiding parts makes besides.

    So an opening keeps its name and size whatever is hidden or moved, and a room without its roof still has its door.
    """
    e = model.edits
    untouched: dict[str, object] = {
        "hidden": [],
        "additions": [],
        "moved": {},
        "copies": [],
        "plantings": {},
    }
    whole = model.model_copy(update={"edits": e.model_copy(update=untouched), "dress": []})
    key = geometry_key(whole)
    if key not in _found:
        its, bare = parts, build
        if e.hidden or e.additions or e.moved or e.copies or model.dress:
            its = parts_of(whole)
            bare = GeometryBuild(its, build)
        _found[key] = _looked_for(its, bare)
        while len(_found) > _BUILDINGS:
            _found.pop(next(iter(_found)))
    known = _found[key]
    if not e.hidden:
        return list(known)
    more = find_doorways(parts, assemble(build, []).top, known)
    doors = sum(p.name.startswith("Doorway") for p in known)
    return known + [replace(p, name=f"Doorway {doors + 1 + i}") for i, p in enumerate(more)]


def _looked_for(parts: Sequence[Part], build: GeometryBuild) -> list[Portal]:
    """Windows and doorways of a building, found before or now."""

    def found() -> dict[str, np.ndarray]:
        top = assemble(build, []).top
        windows = find_openings(parts, top)
        every = windows + find_doorways(parts, top, windows)
        numbers = [[*p.position, *p.inward, p.width, p.height, p.gain, p.roll_deg] for p in every]
        return {"numbers": np.array(numbers, float).reshape(-1, 10),
                "names": np.array([p.name for p in every], np.str_)}  # fmt: skip

    names = [(p.name, p.path, p.blocker) for p in parts]
    made = remembered("openings", key_of(build.digest, names), found)
    return [
        Portal(n[:3], n[3:6], n[6], n[7], n[8], n[9], str(name))
        for n, name in zip(made["numbers"].tolist(), made["names"].tolist(), strict=True)
    ]


#: Openings found in the last few buildings.
_BUILDINGS = 4
_found: dict[str, list[Portal]] = {}


@dataclass
class Lit:
    """A scene with the sources of a spec: those that were chosen, the core's own, their gains."""

    assembled: Assembled
    chosen: list[SourceSpec]
    sources: list[Source]
    gains: list[np.ndarray]

    @property
    def shining(self) -> list[int]:
        """Rows of the sources that give light at all."""
        return [i for i, gain in enumerate(self.gains) if gain.max() > 0]


@dataclass
class Scenery:
    """Geometry of one key, its openings as they were found, and remarks on the model.

    ``parts`` are all that is built, plants last; ``grown`` is the key of those.
    """

    key: str
    build: GeometryBuild
    parts: list[Part]
    plants: list[Part] = field(default_factory=list)
    grown: str = ""
    found: list[Portal] = field(default_factory=list)
    remarks: list[str] = field(default_factory=list)
    _bare: EmbreeScene | None = None

    @staticmethod
    def of(model: ModelSpec, before: Scenery | None = None) -> Scenery:
        """Read and build a model; raises `ModelError`. What ``before`` has in common is taken from it."""
        parts = parts_of(model)
        build = GeometryBuild(
            parts,
            None if before is None else before.build,
            before is not None and _building(before.parts, parts),
        )
        # Neither openings nor the ground of plants are looked for among plants.
        found = _openings_of(model, parts, build)
        plants = garden(model, parts, build)
        if plants:
            build = GeometryBuild([*parts, *plants], build, same_room=True)
        return Scenery(geometry_key(model), build, [*parts, *plants], plants, planted_key(model.edits), found,
                       model_of(model).remarks)  # fmt: skip

    def is_of(self, model: ModelSpec) -> bool:
        """Whether this is the same building file, whatever was edited in it."""
        return self.key.startswith(f"{model.asset}|")

    def adapted(self, model: ModelSpec, moving: bool = False) -> Scenery | None:
        """The scenery of a model that differs in paint, or in where additions stand, made at once; None if
        it must be built. While something is ``moving``, plants stay where they stand."""
        key, grown = geometry_key(model), planted_key(model.edits)
        if grown != self.grown:
            if not moving or not grown:
                return None
            # Not the scenery of that key: when the hand lets go, plants are set anew.
            key += "moving"
        parts = [*parts_of(model), *self.plants]
        build = self.build.adapted(parts)
        if build is None:
            return None
        bare = self._bare if build.placed is self.build.placed else None
        return replace(self, key=key, build=build, parts=parts, _bare=bare)

    def bare(self) -> EmbreeScene:
        """The building as rays meet it, without bodies of lamps."""
        if self._bare is None:
            self._bare = assemble(self.build, []).top
        return self._bare

    def openings(self, model: ModelSpec) -> list[Portal]:
        """Openings as the artist left them: those found, edited, then those added."""
        edits = model.edits.openings
        own = [_edited(p, edits.get(p.name, OpeningEdit())) for p in self.found_for(model)
               if edits.get(p.name, OpeningEdit()).on]  # fmt: skip
        return own + _added(model)

    def found_for(self, model: ModelSpec) -> list[Portal]:
        """Openings that were found, without those the artist placed by hand as well."""
        by_hand = _added(model)
        return [p for p in self.found if not any(same_hole(a, p) for a in by_hand)]

    def assemble(
        self, spec: PictureSpec, sources: Sequence[Source], before: Assembled | None = None
    ) -> Assembled:
        """Sources, openings and air of a spec around the geometry."""
        assert spec.model is not None
        portals = self.openings(spec.model) if spec.portals or spec.closed else []
        return assemble(
            self.build, sources, spec.clay, before, portals, closed=spec.closed,
            not_clay=spec.model.edits.not_clay, air=air_of(spec.air),
        )  # fmt: skip

    def lit(self, spec: PictureSpec) -> Lit:
        """The scene with all sources of a spec that count."""
        chosen, sources, gains = _sources_of(spec, self.build.materials)
        return Lit(self.assemble(spec, sources), chosen, sources, gains)

    def coverage(self, assembled: Assembled, view: core.View, parts: Sequence[PartGradeSettings],
                 samples: int, seed: int = 0) -> dict[str, F4]:  # fmt: skip
        """Mattes (h, w) of graded parts and materials, by `matte_of`."""
        kinds = {"part": "objects", "material": "materials"}
        made = survey(assembled, view, {kinds[p.of] for p in parts}, samples, seed)
        out = {}
        for p in parts:
            names = self.names_of(kinds[p.of])
            rows = {i + 1 for i, name in enumerate(names) if name == p.what}
            out[matte_of(p)] = coverage_of(made[kinds[p.of]], rows)
        return out

    def names_of(self, kind: str) -> list[str]:
        """Names of the rows that mattes of "objects" or "materials" number."""
        things = self.build.materials if kind == "materials" else self.parts
        return [t.name or kind[:-1] for t in things]


def _sources_of(
    spec: PictureSpec, materials: list[Material]
) -> tuple[list[SourceSpec], list[Source], list[np.ndarray]]:
    """Sources of a spec that count, the core's own, and their gains."""
    assert spec.model is not None
    chosen = [s for s in spec.sources if s.counts]
    behind = spec.finish.backdrop.asset is not None
    sources = [source_of(s, spec.model.north_deg, materials, behind) for s in chosen]
    return chosen, sources, [gain_of(s, c) for s, c in zip(chosen, sources, strict=True)]


def gains_of(spec: PictureSpec) -> dict[str, np.ndarray]:
    """Gain of each source of a spec by id, without building its geometry."""
    assert spec.model is not None
    parts = parts_of(spec.model)
    chosen, _, gains = _sources_of(spec, list({m: None for p in parts for m in p.mesh.materials}))
    return {s.id: gain for s, gain in zip(chosen, gains, strict=True)}


def scenery_of(spec: PictureSpec) -> Scenery:
    """The scenery of a spec; raises `WestlightError` without a building."""
    if spec.model is None:
        raise WestlightError("There is no building to render; import one on the Site stage.")
    return Scenery.of(spec.model)
