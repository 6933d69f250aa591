"""Answers about the present picture: readings, surfaces, the sun's patterns, openings, what is doubtful."""

from __future__ import annotations

import io
import time
from dataclasses import asdict
from typing import Any

import numpy as np
from PIL import Image

from westlight.core.analysis import (
    PLANE_M,
    USUAL_UTILISATION,
    Room,
    aim,
    close_surface,
    columns_and_rows,
    count_for,
    find_leaks,
    opening_under,
    pattern_map,
    portal_between,
    portal_gain,
    read_spot,
    room_around,
    suggested_balance,
    sun_grid,
    way_out,
)
from westlight.core.colour import AP1_LUMINANCE, white_of
from westlight.core.errors import WestlightError
from westlight.core.finish import block_mean, develop, starting_curve, starting_grade
from westlight.core.finish.grade import MIDDLE_GREY
from westlight.core.finish.start import Mood
from westlight.core.photometry import saturation_luminance
from westlight.core.transport.denoise import Denoiser, noise_left
from westlight.core.transport.film import Accumulator
from westlight.core.transport.portals import Portal
from westlight.core.transport.render import PassRun, irradiance_at, surface_under

from .showing import Showing
from .spec import FixtureSettings, SkySettings, SourceSpec, SunSettings
from .still import USUAL_FALL
from .translate import ev_of, finish_of, gain_of, source_of, view_of

#: Size of the picture in which the gain of openings is measured.
GAIN_GRID = 96, 54
#: Largest number a half float can hold.
HALF_TOP = 65504.0
#: Widest scene-linear picture that is kept of a proof.
PROOF_WIDTH = 640
#: Width of the picture that patterns are scored on.
PATTERN_WIDTH = 112
#: Paths the meter sends from a surface to read its illuminance.
METER_SAMPLES = 256
#: Faces of panes that are looked at to tell where panes lie.
MOST_PANES = 1500
#: Copies of a fixture that are spread at most.
MOST_SPREAD = 400
#: An emitter nearer to a surface than this speckles.
TOO_NEAR_M = 0.06
#: Passes of every source from which on its noise can be trusted.
SURE_PASSES = 8


def described(portal: Portal) -> dict[str, Any]:
    """An opening in numbers."""
    return {
        "name": portal.name, "position": [round(float(v), 4) for v in portal.position],
        "inward": [round(float(v), 5) for v in portal.inward],
        "width": round(float(portal.width), 3), "height": round(float(portal.height), 3),
    }  # fmt: skip


#: Rays across and down the picture that tell how much of it something covers.
COVER_GRID = (80, 45)


class Answering(Showing):
    """What can be asked; nothing here changes the picture."""

    denoise: Denoiser

    def neutral(self, x: float, y: float) -> dict[str, Any]:
        """White point that makes what is seen at a point neutral."""
        reading = self.meter(x, y)
        if not reading["luminance"] > 0:
            return {}
        kelvin, tint = white_of(reading["rgb"])
        return {"kelvin": round(kelvin), "tint": round(float(np.clip(tint, -50, 50)), 1)}

    def proof(self) -> dict[str, Any]:
        """The present picture as files: finished as JPEG, scene-linear as bytes of half floats."""
        if self.assembled is None:
            return {}
        picture, scale = self._mixture()
        file = io.BytesIO()
        Image.fromarray(self.finished(picture, scale, True).pixels).save(file, "JPEG", quality=93)
        factor = max(1, picture.shape[1] // PROOF_WIDTH)
        small = picture if factor == 1 else block_mean(picture, factor)
        return {"jpeg": file.getvalue(), "linear": np.clip(small, 0, HALF_TOP).astype(np.float16)}

    def starting_grade(self, mood: Mood) -> dict[str, Any]:
        """Settings of the grade for a mood, worked out from the present picture."""
        picture, _ = self._mixture()
        before = finish_of(self.spec.finish, self.exposure.tone).grade
        made = starting_grade(picture, ev_of(self.exposure), mood, before, self.exposure.tone)
        names = ("contrast", "shadows", "compression", "compression_start", "saturation")
        return {name: getattr(made, name) for name in names}

    def starting_curve(self) -> dict[str, Any]:
        """Points of a curve for the present picture as it is shown without curves."""
        picture, scale = self._mixture()
        e, finish = self.exposure, self.spec.finish
        straight = finish.model_copy(update={"grade": finish.grade.model_copy(
            update={"curve": [], "red": [], "green": [], "blue": []})})  # fmt: skip
        made = finish_of(
            straight, e.tone, view_of(self.spec.view, *reversed(self.size(scale))).horizon()
        )
        shown = develop(picture, ev_of(e), e.kelvin, e.tint, made, self._finish_passes(made, scale))
        return {"points": [list(p) for p in starting_curve(shown.pixels)]}

    def pattern(self, step_deg: float, picked: list[tuple[float, float]]) -> dict[str, Any]:
        """Every sun position about ``step_deg`` apart, scored for this view."""
        if self.assembled is None or self.spec.model is None:
            return {}
        width = PATTERN_WIDTH
        view = view_of(self.spec.view, width, max(round(width / self.spec.view.aspect), 16))
        made = pattern_map(self.assembled, view, sun_grid(step_deg), self.spec.model.north_deg,
                           picked)  # fmt: skip
        return {name: values.round(4).tolist() for name, values in asdict(made).items()}

    def aim(self, x: float, y: float, through: tuple[float, float] | None) -> dict[str, Any]:
        """Sun directions that light the surface at a point, through the opening at another."""
        patch = self.pick(x, y)
        if self.assembled is None or self.scene is None or self.spec.model is None:
            return {"problem": "There is no building yet."}
        if not patch["hit"]:
            return {"problem": "There is no surface at this point; click on a wall or floor."}
        opening = None
        if through is not None:
            view = view_of(self.spec.view, self.spec.width_px, self.spec.height_px)
            hit = self.pick(*through)
            beyond = hit["distance"] + 0.4 if hit["hit"] else 1e4
            openings = self.scene.openings(self.spec.model)
            opening = opening_under(openings, *view.ray(*through), beyond)
            if opening is None:
                return {"problem": "There is no glazed opening there; click on a window, or aim "
                                   "any way."}  # fmt: skip
        made = aim(self.assembled, patch["position"], patch["normal"], opening,
                   self.spec.model.north_deg)  # fmt: skip
        return {"open": made.open.round(2).tolist(), "blocked": made.blocked.round(2).tolist(),
                "spacing_deg": made.spacing_deg,
                "opening": "" if opening is None else opening.name}  # fmt: skip

    def openings(self) -> dict[str, Any]:
        """Openings of the building as they were found, and the share of the light each lets in."""
        if self.scene is None or self.spec.model is None:
            return {"found": []}
        return {"found": [described(p) for p in self.scene.found_for(self.spec.model)]}

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
        if self.scene is None or self.assembled is None:
            return {"problem": "There is no building yet."}
        hits = [self.pick(x, y) for x, y in corners]
        if not all(h["hit"] for h in hits):
            return {"problem": "Click on the wall or frame at two opposite corners of the opening; "
                               "there is no surface at one of these points."}  # fmt: skip
        made = portal_between(hits[0]["position"], hits[1]["position"], self.assembled.top)
        if made is None:
            return {"problem": "These points make no opening; choose two opposite corners at least "
                               "15 cm apart, of a hole between a room and the open air."}  # fmt: skip
        return {"opening": described(made)}

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

    def _what_was_hit(self, instance: int, triangle: int) -> dict[str, Any]:
        """Names of the part and the material under a ray; nothing for the body of a fixture."""
        assert self.scene is not None
        build = self.scene.build
        if not 0 <= instance < len(build.instance_part):
            return {}
        part = self.scene.parts[int(build.triangle_part[triangle])]
        if build.instance_part[instance] >= 0:
            part = self.scene.parts[int(build.instance_part[instance])]
        row = int(build.triangle_material[triangle])
        return {"part": part.name, "material": build.materials[row].name}

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

    def meter(self, x: float, y: float) -> dict[str, Any]:
        """Reading at a point of the picture (0…1 from top left), a spot of about 1 % of its width.

        Luminance in cd/m², stops from middle grey, working-space RGB, share of each source; and on
        a surface its illuminance in lux, traced there.
        """
        found = {
            s.id: (best[0].at(1), self.gains[s.id]) for s in self.spec.sources
            if s.counts and self._can_shine(s) and (best := self._best(s)) is not None
        }  # fmt: skip
        spot = read_spot(found, x, y, ev_of(self.exposure))
        reading: dict[str, Any] = {**self.pick(x, y), **asdict(spot), "lux": None}
        sun, sky = (
            sum(
                spot.shares.get(s.id, 0.0)
                for s in self.spec.sources
                if isinstance(s.settings, kind)
            )
            for kind in (SunSettings, SkySettings)
        )
        both = sun > 1e-4 and sky > 1e-4
        reading["sun_over_sky"] = round(float(np.log2(sun / sky)), 2) if both else None
        if reading["hit"] and self.assembled is not None:
            normal = np.array(reading["normal"])
            at = np.array(reading["position"]) + 1e-3 * normal
            light = irradiance_at(self.assembled, [at], [normal], samples=METER_SAMPLES, seed=1,
                                  bounces=2)[0]  # fmt: skip
            counted = [s.counts for s in self.spec.sources]
            gains = np.array([self.gains[s.id] for s in self.spec.sources])
            reading["lux"] = float(((light * gains) @ AP1_LUMINANCE)[counted].sum())
        return reading

    def spread(self, source: str, lux: float) -> dict[str, Any]:
        """Copies of a fixture that give its room an average of ``lux``, and what they really give.

        Counted by the lumen method, traced, and counted once more with the utilisation that was found.
        """
        spec = next((s for s in self.spec.sources if s.id == source), None)
        if self.scene is None or spec is None or not isinstance(spec.settings, FixtureSettings):
            raise WestlightError("Choose a fixture to spread first.")
        f = spec.settings
        first = f.places[0]
        room = room_around(self.scene.bare(), first.position)
        lumen = f.lumen * 2.0**spec.level
        utilisation, made = USUAL_UTILISATION, dict[str, Any]()
        for _ in range(2):
            count = min(count_for(lux, room.area_m2, lumen, utilisation), MOST_SPREAD)
            columns, rows = columns_and_rows(*room.size, count)
            places = [first.model_copy(update={"position": p})
                      for p in room.grid(columns, rows, first.position[2])]  # fmt: skip
            found = self._plane_lux(spec, f.model_copy(update={"places": places}), room)
            made = {
                "columns": columns, "rows": rows, "width_m": round(room.size[0], 2),
                "depth_m": round(room.size[1], 2), "average_lx": round(float(found.mean()), 1),
                "least_lx": round(float(found.min()), 1),
                "places": [p.model_dump(mode="json") for p in places],
            }  # fmt: skip
            reached = float(found.mean()) * room.area_m2 / (columns * rows * lumen)
            utilisation = min(max(reached, 0.02), 1.5)
        return made

    def _plane_lux(self, spec: SourceSpec, fixture: FixtureSettings, room: Room) -> np.ndarray:
        """Lux a fixture gives over a grid on the working plane of a room, by itself."""
        assert self.scene is not None
        lamp = spec.model_copy(update={"settings": fixture})
        source = source_of(lamp, 0.0, self.scene.build.materials)
        scene = self.scene.assemble(self.spec, [source])
        points = room.grid(6, 5, room.floor + PLANE_M)
        light = irradiance_at(scene, points, np.tile([0.0, 0.0, 1.0], (len(points), 1)),
                              samples=METER_SAMPLES, seed=1, bounces=4)[:, 0]  # fmt: skip
        return np.asarray((light * gain_of(lamp, source)) @ AP1_LUMINANCE)

    def balance(self, wishes: list[tuple[float, float, float]]) -> dict[str, Any]:
        """Levels that bring places (x, y, each with stops from middle grey) to what is wished for."""
        ev = ev_of(self.exposure)
        found = {
            s.id: (best[0].at(1), self.gains[s.id]) for s in self.spec.sources
            if s.counts and self._can_shine(s) and (best := self._best(s)) is not None
        }  # fmt: skip
        if not found or not wishes:
            return {"levels": {}, "reached": []}
        spots = [read_spot(found, x, y, ev) for x, y, _ in wishes]
        names = list(found)
        light = [[s.luminance * s.shares[n] for n in names] for s in spots]
        grey = MIDDLE_GREY * saturation_luminance(ev)
        made = suggested_balance(light, [grey * 2.0**stops for _, _, stops in wishes])
        before = {s.id: s.level for s in self.spec.sources}
        return {
            "levels": {n: round(before[n] + float(np.log2(k)), 1)
                       for n, k in zip(names, made.factors, strict=True)},
            "reached": [round(float(np.log2(max(y, 1e-9) / grey)), 2) for y in made.reached],
        }  # fmt: skip

    def fixture_doubts(self) -> dict[str, Any]:
        """Emitters shut in by a body or so close to a surface that they speckle, and a move that helps."""
        found: list[dict[str, Any]] = []
        if self.assembled is None or self.scene is None:
            return {"found": found}
        for s in self.spec.sources:
            if not isinstance(s.settings, FixtureSettings) or not s.counts:
                continue
            f = s.settings
            one_sided = f.shape in ("rectangle", "disc", "spot")
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

    def estimate(self, width_px: int, noise: float) -> dict[str, Any]:
        """Seconds and passes a still of this picture takes to a noise, from the noise seen so far.

        Nothing before every source has some passes at full size. A small pass is timed and scaled
        by its pixels; ``sure`` once there are several passes.
        """
        nothing = {"seconds": None, "passes": None, "sure": False}
        shining = [
            (i, s) for i, s in enumerate(self.spec.sources) if s.counts and self._can_shine(s)
        ]
        guide, halves = self.films.guides.get((self._guide_key(), 1)), self._halves()
        if self.assembled is None or guide is None or halves is None:
            return nothing
        if guide.albedo is None or guide.normal is None:
            return nothing
        weight = passes = 0.0
        for _, s in shining:
            film = self._full(s)
            seen = 0.0 if film is None else self._visible_noise(s, film) ** 2
            weight, passes = weight + seen, passes + seen * (film.passes if film else 0)
        passes /= max(weight, 1e-12)
        left = noise_left(self.denoise, halves, guide.albedo, guide.normal)
        wanted = max(4, int(np.ceil(passes * (left / noise) ** (1 / USUAL_FALL))))
        height, width = self.size(4)
        view = view_of(self.spec.view, width, height)
        small = [Accumulator.empty(height, width) for _ in shining]
        begun = time.perf_counter()
        PassRun(self.assembled, view, [i for i, _ in shining], small, upto=1,
                bounces=self.spec.bounces).advance()  # fmt: skip
        per_pixel = (time.perf_counter() - begun) / (height * width)
        still = self.spec.model_copy(update={"width_px": width_px})
        return {
            "seconds": round(per_pixel * width_px * still.height_px * wanted, 1),
            "passes": wanted, "sure": passes >= SURE_PASSES,
        }  # fmt: skip

    def leaks(self) -> dict[str, Any]:
        """Where the open sky is seen from inside the room of the view, though no opening is there."""
        if self.scene is None or self.spec.model is None:
            return {"inside": False, "found": []}
        made = find_leaks(self.scene.bare(), self.spec.view.position,
                          self.scene.openings(self.spec.model))  # fmt: skip
        view = view_of(self.spec.view, self.spec.width_px, self.spec.height_px)
        return {"inside": made.inside, "found": [
            {"share": round(x.share, 4), "position": [round(float(v), 2) for v in x.position],
             "seen": view.place_of(x.position)}
            for x in made.leaks
        ]}  # fmt: skip
