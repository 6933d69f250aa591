"""Answers about the light of the present picture: readings, balance, the sun's patterns, lamps spread."""

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
    columns_and_rows,
    count_for,
    opening_under,
    pattern_map,
    read_spot,
    room_around,
    suggested_balance,
    sun_grid,
)
from westlight.core.colour import AP1_LUMINANCE, white_of
from westlight.core.errors import WestlightError
from westlight.core.finish import block_mean, develop, starting_curve, starting_grade
from westlight.core.finish.grade import MIDDLE_GREY
from westlight.core.finish.start import Mood
from westlight.core.photometry import saturation_luminance
from westlight.core.transport.denoise import USUAL_FALL, Denoiser, noise_left
from westlight.core.transport.film import Accumulator
from westlight.core.transport.render import PassRun, irradiance_at

from .spec import FixtureSettings, SkySettings, SourceSpec, SunSettings
from .surveying import Surveying
from .translate import ev_of, finish_of, gain_of, source_of, view_of

#: Largest number a half float can hold.
HALF_TOP = 65504.0
#: Widest scene-linear picture that is kept of a proof.
PROOF_WIDTH = 640
#: Width of the picture that patterns are scored on.
PATTERN_WIDTH = 112
#: Paths the meter sends from a surface to read its illuminance.
METER_SAMPLES = 256
#: Copies of a fixture that are spread at most.
MOST_SPREAD = 400
#: Passes of every source from which on its noise can be trusted.
SURE_PASSES = 8


class Answering(Surveying):
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

    def aim(
        self, x: float, y: float, through: tuple[float, float] | None,
        below: tuple[float, float, float] | None = None,
    ) -> dict[str, Any]:  # fmt: skip
        """Sun directions that light the surface at a point, through the opening at another.

        With ``below`` that surface is the one under a place in metres, clicked on the plan.
        """
        patch = self.pick(x, y) if below is None else self.under(below)
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
        left = noise_left(self.denoise, *halves, guide.albedo, guide.normal)
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
