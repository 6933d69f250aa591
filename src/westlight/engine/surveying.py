"""Answers about the building in the picture: what lies under a point, where things are, what is doubtful."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np
import numpy.typing as npt

from westlight.core.analysis import (
    Snap,
    close_surface,
    closed,
    doubt_of,
    find_leaks,
    fitted,
    places_in_rooms,
    portal_between,
    portal_gain,
    room_around,
    side_of,
    snapped,
    way_out,
)
from westlight.core.errors import WestlightError
from westlight.core.model import Part
from westlight.core.model.parts import part_bounds
from westlight.core.model.tags import guessed_tag
from westlight.core.transport.portals import Portal
from westlight.core.transport.render import surface_under

from .showing import Showing
from .spec import FixtureSettings, SkySettings
from .translate import view_of

Array = npt.NDArray[np.float64]
#: Size of the picture in which the gain of openings is measured.
GAIN_GRID = 96, 54
#: Faces of panes that are looked at to tell where panes lie.
MOST_PANES = 1500
#: How near a click must be to what draws it: a share of the distance, and metres at least.
SNAP_SHARE, NEAREST_SNAP_M = 0.04, 0.15
#: How far under a closed body a flat lamp lies, in metres.
UNDER_M = 0.01
#: Shapes that shine to one side.
ONE_SIDED = ("rectangle", "disc", "spot")
#: Farther off its surface than this a lamp hangs free.
HANGS_M = 0.3
#: An emitter nearer to a surface than this speckles.
TOO_NEAR_M = 0.06
#: Rays across and down the picture that tell how much of it something covers.
COVER_GRID = (80, 45)


def turned_round(portal: Portal) -> Portal:
    """An opening that lets light in the other way."""
    x, y, z = portal.inward
    return replace(portal, inward=(-x, -y, -z))


def corners_of(portal: Portal) -> list[Array]:
    """Corners of an opening in metres, one after another around it."""
    u, v, _ = portal.axes()
    middle = np.asarray(portal.position, float)
    return [middle + u * portal.width * a / 2 + v * portal.height * b / 2
            for a, b in ((-1, -1), (1, -1), (1, 1), (-1, 1))]  # fmt: skip


def described(portal: Portal, north_deg: float) -> dict[str, Any]:
    """An opening in numbers, and the side of the building it is on."""
    group, azimuth = side_of(portal, north_deg)
    return {
        "name": portal.name, "group": group, "inward_azimuth_deg": azimuth,
        "position": [round(float(v), 4) for v in portal.position],
        "inward": [round(float(v), 5) for v in portal.inward],
        "width": round(float(portal.width), 3), "height": round(float(portal.height), 3),
    }  # fmt: skip


class Surveying(Showing):
    """What can be asked about the building; nothing here changes the picture."""

    def pick(self, x: float, y: float) -> dict[str, Any]:
        """The solid surface under a point of the picture (0…1 from top left)."""
        if self.assembled is None:
            return {"hit": False}
        view = view_of(self.spec.view, self.spec.width_px, self.spec.height_px)
        hit = surface_under(self.assembled, *view.ray(x, y))
        if hit is None:
            return {"hit": False}
        return {
            "hit": True,
            "position": [round(float(v), 4) for v in hit[:3]],
            "normal": [round(float(v), 4) for v in hit[3:6]],
            "distance": round(float(hit[6]), 3),
            **self._what_was_hit(int(hit[7]), int(hit[8])),
            # Along the camera's axis, which is how focus is set.
            "depth": round(float((hit[:3] - view.position) @ view.axes()[2]), 3),
        }

    def under(self, place: tuple[float, float, float]) -> dict[str, Any]:
        """The solid surface under a place in metres: where, its normal, its part and material."""
        hit = None
        if self.assembled is not None:
            hit = surface_under(self.assembled, np.asarray(place, float), np.array([0.0, 0, -1]))
        if hit is None:
            return {"hit": False}
        return {"hit": True, "position": hit[:3].round(4).tolist(),
                "normal": hit[3:6].round(4).tolist(),
                **self._what_was_hit(int(hit[7]), int(hit[8]))}  # fmt: skip

    def _what_was_hit(self, instance: int, triangle: int) -> dict[str, Any]:
        """Names of the part and the material under a ray; nothing for the body of a fixture."""
        part = self._part_hit(instance, triangle)
        if part is None or self.scene is None:
            return {}
        build = self.scene.build
        row = int(build.triangle_material[triangle])
        return {"part": part.name, "material": build.materials[row].name}

    def _part_hit(self, instance: int, triangle: int) -> Part | None:
        assert self.scene is not None
        build = self.scene.build
        if not 0 <= instance < len(build.instance_part):
            return None
        if build.instance_part[instance] >= 0:
            return self.scene.parts[int(build.instance_part[instance])]
        return self.scene.parts[int(build.triangle_part[triangle])]

    def land(
        self, x: float, y: float, shape: str, off_m: float, snap: bool,
        on_plan: tuple[float, float, float] | None = None,
    ) -> dict[str, Any]:  # fmt: skip
        """Where a lamp of a shape lands that is put at a point of the picture, and how it is turned.

        ``on_plan`` it is put at a place of the plan, at the height of its cut: on the ceiling above,
        or so far off the floor below.

        ``off_m`` from the surface, shining down if it hangs high over a floor. With ``snap`` it goes
        into a lamp body that is clicked, sized to it, or is drawn to the middle of the room, its
        axes and the lamps there.
        """
        if self.assembled is None or self.scene is None:
            return {"hit": False}
        view = view_of(self.spec.view, self.spec.width_px, self.spec.height_px)
        ray = view.ray(x, y)
        if on_plan is not None:
            ray = np.asarray(on_plan, float), np.array([0.0, 0.0, -1.0 if off_m > 0 else 1.0])
        hit = surface_under(self.assembled, *ray)
        if hit is None:
            return {"hit": False}
        part = self._part_hit(int(hit[7]), int(hit[8]))
        if snap and off_m == 0 and part is not None and self._is_lamp(part):
            return {"hit": True, **self._in_body(part, shape)}
        normal = np.asarray(hit[3:6], float)
        at = np.asarray(hit[:3], float) + normal * off_m
        hangs = off_m > HANGS_M and normal[2] > 0.7
        to = Snap(at)
        if snap:
            to = self._drawn(at, normal, off_m, max(NEAREST_SNAP_M, SNAP_SHARE * float(hit[6])))
        return {
            "hit": True, "position": to.position.round(4).tolist(),
            "direction": [0.0, 0.0, -1.0] if hangs else normal.round(4).tolist(),
            "roll_deg": 0.0, "to": to.to, "sizes": None,
        }  # fmt: skip

    def _in_body(self, part: Part, shape: str) -> dict[str, Any]:
        """Landing inside a lamp body; right under it, if it is closed."""
        assert self.scene is not None
        fit = fitted(part, shape)
        position, to = fit.position, f"the inside of “{part.name}”"
        if closed(part, self.scene.bare(), position):
            clear = UNDER_M if shape in ONE_SIDED else TOO_NEAR_M + fit.radius
            position = np.array([*position[:2], part_bounds(part)[0][2] - clear])
            to = f"the underside of “{part.name}”"
        sizes = {n: round(getattr(fit, n), 3) for n in ("width", "height", "radius", "length")}
        return {"position": position.round(4).tolist(), "direction": fit.direction.tolist(),
                "roll_deg": fit.roll_deg, "to": to, "sizes": sizes}  # fmt: skip

    def _is_lamp(self, part: Part) -> bool:
        tags = {} if self.spec.model is None else self.spec.model.edits.tags
        return (tags.get(part.name) or guessed_tag(part.name, part.mesh.materials)) == "lamp body"

    def _drawn(self, at: Array, normal: Array, off_m: float, within_m: float) -> Snap:
        """A place drawn to what is near, unless its surface ends before that."""
        assert self.scene is not None
        bare = self.scene.bare()
        try:
            room = room_around(bare, at + normal * 0.3)
        except WestlightError:
            room = None
        lamps = [p.position for s in self.spec.sources if isinstance(s.settings, FixtureSettings)
                 for p in s.settings.places]  # fmt: skip
        to = snapped(at, normal, room, lamps, within_m)
        step = 0.05
        gap = float(bare.distances((to.position + normal * step)[None], -normal[None])[0])
        there = off_m > HANGS_M or abs(gap - step - off_m) < 0.03
        return to if there else Snap(at)

    def covered(self) -> dict[str, Any]:
        """Share of the picture that each part and each material covers, seen through glass.

        ``boxes`` holds where in the picture: left, top, right, bottom of each by name, 0…1.
        """
        seen: dict[str, dict[str, list[tuple[float, float]]]] = {"part": {}, "material": {}}
        if self.assembled is not None:
            view = view_of(self.spec.view, self.spec.width_px, self.spec.height_px)
            columns, rows = COVER_GRID
            for k in range(columns * rows):
                x, y = (k % columns + 0.5) / columns, (k // columns + 0.5) / rows
                hit = surface_under(self.assembled, *view.ray(x, y))
                named = {} if hit is None else self._what_was_hit(int(hit[7]), int(hit[8]))
                for kind, name in named.items():
                    seen[kind].setdefault(name, []).append((x, y))
        whole = COVER_GRID[0] * COVER_GRID[1]
        half = np.array([0.5 / COVER_GRID[0], 0.5 / COVER_GRID[1]])
        made: dict[str, Any] = {
            f"{kind}s": {n: round(len(at) / whole, 4) for n, at in names.items()}
            for kind, names in seen.items()
        }
        made["boxes"] = {
            f"{kind}s": {n: [*np.round(np.min(at, axis=0) - half, 4).tolist(),
                             *np.round(np.max(at, axis=0) + half, 4).tolist()]
                         for n, at in names.items()}
            for kind, names in seen.items()
        }  # fmt: skip
        for kind, boxes in self._pane_boxes().items():
            made["boxes"][kind] = boxes | made["boxes"][kind]
        return made

    def _pane_boxes(self) -> dict[str, dict[str, list[float]]]:
        """Where panes lie in the picture, by part and material; rays that look for parts pass them."""
        out: dict[str, dict[str, list[float]]] = {"parts": {}, "materials": {}}
        if self.scene is None:
            return out
        build, parts = self.scene.build, self.scene.parts
        view = view_of(self.spec.view, self.spec.width_px, self.spec.height_px)
        panes = [i for i, m in enumerate(build.materials) if m.is_pane]
        # Copies lie in a space of their own; those who stand once are told.
        rows = np.nonzero(np.isin(build.triangle_material, panes) & (build.triangle_part >= 0))[0]
        found: dict[tuple[str, str], list[tuple[float, float]]] = {}
        for row in rows[:: max(len(rows) // MOST_PANES, 1)]:
            names = {"parts": parts[int(build.triangle_part[row])].name,
                     "materials": build.materials[int(build.triangle_material[row])].name}  # fmt: skip
            for point in build.positions[build.triangles[row]]:
                place = view.place_of(point)
                if place is not None:
                    for kind, name in names.items():
                        found.setdefault((kind, name), []).append(place)
        for (kind, name), places in found.items():
            low, high = np.clip([np.min(places, axis=0), np.max(places, axis=0)], 0, 1)
            if (high - low > 0.005).all():
                out[kind][name] = [*low.round(4).tolist(), *high.round(4).tolist()]
        return out

    def openings(self) -> dict[str, Any]:
        """Openings of the building as they were found, and the share of the light each lets in."""
        if self.scene is None or self.spec.model is None:
            return {"found": []}
        model, bare = self.spec.model, self.scene.bare()
        view = view_of(self.spec.view, self.spec.width_px, self.spec.height_px)
        found = []
        for portal in self.scene.found_for(model):
            edit = model.edits.openings.get(portal.name)
            stands = turned_round(portal) if edit is not None and edit.turned else portal
            corners = [view.place_of(c) for c in corners_of(portal)]
            found.append(described(portal, model.north_deg) | {
                "doubt": doubt_of(stands, bare),
                "corners": None if any(c is None for c in corners) else corners,
            })  # fmt: skip
        return {"found": found}

    def portal_gain(self) -> dict[str, Any]:
        """By how much openings lessen the noise of the sky in this view, in equal time.

        Nulls where no opening is in use or no sky shines.
        """
        nothing: dict[str, Any] = {"direct": None, "whole": None}
        row = next((i for i, s in enumerate(self.spec.sources)
                    if isinstance(s.settings, SkySettings) and s.counts), None)  # fmt: skip
        if self.scene is None or self.spec.model is None or row is None:
            return nothing
        if not self.scene.openings(self.spec.model):
            return nothing
        source = self._source(self.spec.sources[row], self.spec.model.north_deg)
        bare, guided = (
            self.scene.assemble(
                self.spec.model_copy(update={"closed": False, "portals": on}), [source]
            )
            for on in (False, True)
        )
        view = view_of(self.spec.view, GAIN_GRID[0], GAIN_GRID[1])
        made = portal_gain(bare, guided, 0, view, self.spec.bounces)
        return {"direct": round(made.direct, 2), "whole": round(made.whole, 2)}

    def opening_between(self, corners: list[tuple[float, float]]) -> dict[str, Any]:
        """An opening between two opposite corners clicked in the picture, facing the room."""
        if self.scene is None or self.assembled is None or self.spec.model is None:
            return {"problem": "There is no building yet."}
        hits = [self.pick(x, y) for x, y in corners]
        if not all(h["hit"] for h in hits):
            return {"problem": "Click on the wall or frame at two opposite corners of the opening; "
                               "there is no surface at one of these points."}  # fmt: skip
        made = portal_between(hits[0]["position"], hits[1]["position"], self.assembled.top)
        if made is None:
            return {"problem": "These points make no opening; choose two opposite corners at least "
                               "15 cm apart, of a hole between a room and the open air."}  # fmt: skip
        return {"opening": described(made, self.spec.model.north_deg)}

    def fixture_doubts(self) -> dict[str, Any]:
        """Emitters shut in by a body or so close to a surface that they speckle, and a move that helps."""
        found: list[dict[str, Any]] = []
        if self.assembled is None or self.scene is None:
            return {"found": found}
        for s in self.spec.sources:
            if not isinstance(s.settings, FixtureSettings) or not s.counts:
                continue
            f = s.settings
            one_sided = f.shape in ONE_SIDED
            for n, place in enumerate(f.places):
                shines = place.direction if one_sided else None
                out = way_out(self.scene.bare(), place.position, shines)
                if out is not None:
                    move = [round(float(v), 4) for v in out]
                    found.append(
                        {"source": s.id, "place": n, "shut_in": True, "gap_m": 0, "move": move}
                    )
                    continue
                near = close_surface(
                    self.scene.bare(), place.position, shines, TOO_NEAR_M + f.radius
                )
                if near is None:
                    continue
                gap = max(near.distance_m - (0 if one_sided else f.radius), 0.0)
                if gap < TOO_NEAR_M:
                    move = [round(float(v) * (TOO_NEAR_M - gap), 4) for v in near.away]
                    found.append({"source": s.id, "place": n, "shut_in": False,
                                  "gap_m": round(gap, 3), "move": move})  # fmt: skip
        return {"found": found}

    def leaks(self) -> dict[str, Any]:
        """Where the open sky is seen from the camera or a room, though no opening is there."""
        if self.scene is None or self.spec.model is None:
            return {"inside": False, "found": []}
        openings = self.scene.openings(self.spec.model)
        bare = self.scene.bare()
        rooms = places_in_rooms(self.scene.parts, bare, openings)
        made = find_leaks(bare, [np.asarray(self.spec.view.position), *rooms], openings)
        view = view_of(self.spec.view, self.spec.width_px, self.spec.height_px)
        return {"inside": made.inside, "found": [
            {"share": round(x.share, 4), "position": [round(float(v), 2) for v in x.position],
             "seen": view.place_of(x.position)}
            for x in made.leaks
        ]}  # fmt: skip
