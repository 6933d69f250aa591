"""Showing the live picture: frames, little pictures of sources, readings, surfaces under a point."""

from __future__ import annotations

import io
import time
from dataclasses import asdict, replace
from typing import Any, Literal

import numpy as np
from PIL import Image

from westlight.core.analysis import remedy, view_doubt
from westlight.core.colour import AP1_LUMINANCE, swatch, white_balance_matrix
from westlight.core.finish import (
    Finish,
    Shown,
    baked,
    beyond_srgb,
    burning_light,
    develop,
    legend,
    luminance_colours,
    marked,
    metered_ev,
    noise_colours,
    noise_legend,
    noise_shares,
    outlined,
    response,
    show,
    stops_histogram,
    striped,
)
from westlight.core.finish.glow import enlarged
from westlight.core.finish.response import BRIGHTEST, DARKEST
from westlight.core.photometry import saturation_luminance, shutter_for_ev
from westlight.core.transport.denoise import USUAL_FALL
from westlight.core.transport.film import F4, SIGMA_OF_MEAN
from westlight.core.view import sharp_zone

from .spec import ExposureSettings, MoonSettings, SkySettings, SunSettings
from .state import Draft, LiveState
from .translate import (
    ev_of,
    exposed,
    finish_of,
    view_of,
)

THUMB_WIDTH = 208
#: Stops under burning that a source is brought to, and the share of the picture from which its
#: burning is more than the lamp itself.
JUST_BELOW, BURNS_SHARE = 0.1, 0.01
_Y = AP1_LUMINANCE.astype(np.float32)


def rgb_histogram(pixels: np.ndarray) -> list[list[int]]:
    """How many pixels shown (h, w, 3) have each of 64 steps of red, green and blue; every other row."""
    every = pixels[::2, ::2]
    return [np.bincount(every[..., c].ravel() >> 2, minlength=64).tolist() for c in range(3)]


class Showing(LiveState):
    """Everything that is sent; nothing here traces a picture."""

    @property
    def exposure(self) -> ExposureSettings:
        """Exposure of the look; the shutter as last metered when it is automatic."""
        e = self.spec.exposure
        automatic = e.automatic != "off" and self._shutter_s is not None
        return e.model_copy(update={"shutter_s": self._shutter_s}) if automatic else e

    def _mixture(self) -> tuple[F4, int]:
        """Scene-linear picture of all sources that count, and its scale; meters it."""
        picture, scale = self._mixed()
        self._shutter_s = exposed(self.spec.exposure, picture).shutter_s
        return picture, scale

    def _mixed(self) -> tuple[F4, int]:
        if self._draft is not None and not self._draft_waits:
            # It stays when the hand lets go, until every source has light in the new view.
            if self.spec.moving or any(self._best_fresh(s) is None for s in self._counting):
                return self._drafted(self._draft)
            self._draft = None
        found = [
            (best, self.gains[s.id]) for s in self._counting if (best := self._best(s)) is not None
        ]  # fmt: skip
        coarse = max((scale for (_, scale), _ in found), default=4)
        height, width = self.size(coarse)
        raw = self.spec.reading == "raw"
        pictures = [
            film.raw(coarse // scale) if raw else film.at(coarse // scale)
            for (film, scale), _ in found
        ]
        if any(p.shape[:2] != (height, width) for p in pictures):
            pictures = [p[:height, :width] for p in pictures]
        if not found:
            return np.zeros((height, width, 3), np.float32), coarse
        return self._mix.of(pictures, [gain for _, gain in found]), coarse

    def _drafted(self, draft: Draft) -> tuple[F4, int]:
        """Picture under a moving camera, and its scale."""
        scale = self._moving_scale
        height, width = self.size(scale)
        picture = np.zeros((height, width, 3), np.float32)
        for s in self.spec.sources:
            if s.id not in draft.sources:
                continue
            film = self.films.get(self._key(s, 0), scale) or self._last.get((s.id, scale))
            if s.counts and film is not None and film.clean is not None:
                picture += film.clean[:height, :width] * self.gains[s.id].astype(np.float32)
        guide = self.films.guides.get((self._guide_key(), scale))
        if guide is not None and guide.film.passes > 0:
            albedo, normal = guide.film.output_pass("albedo"), guide.film.output_pass("normal")
            # A little of the ceiling's shade, so that edges between like surfaces stay.
            up = (0.8 + 0.2 * normal[..., 2:3]) * albedo * draft.ambient
            picture += up + guide.film.output_pass("outside")[..., None] * draft.outside
        return picture, scale

    def shown(self, picture: F4, ev: float | None = None) -> Shown:
        """A scene-linear picture under the present exposure (or another) and tone, without the lens."""
        e = self.exposure
        table = baked(e.tone, finish_of(self.spec.finish, e.tone).grade)
        return show(picture, ev_of(e) if ev is None else ev, e.kelvin, e.tint, table)

    def finished(self, picture: F4, scale: int, settled: bool) -> Shown:
        """The picture as the look finishes it."""
        e = self.exposure
        view = view_of(self.spec.view, *reversed(self.size(scale)))
        finish = finish_of(self.spec.finish, e.tone, view.horizon())
        passes = self._finish_passes(finish, scale)
        ev = ev_of(e)
        if self.spec.find is not None:
            return self._found(self.spec.find, picture, scale)
        shown = develop(picture, ev, e.kelvin, e.tint, finish, passes, dither=settled)
        if self.spec.reading == "gamut":
            wide = develop(picture, ev, e.kelvin, e.tint, finish, passes, "Display P3").pixels
            self._beyond = beyond_srgb(wide)
            return replace(shown, pixels=marked(shown.pixels, self._beyond))
        if self.spec.reading == "noise":
            shares = noise_shares(self._error(scale, picture.shape[:2]), picture @ _Y)
            return replace(shown, pixels=noise_colours(shown.pixels, shares))
        if self.spec.reading == "burnt":
            return replace(shown, pixels=striped(shown.pixels))
        if self.spec.reading == "luminance":
            return replace(shown, pixels=luminance_colours(picture, ev))
        return shown

    def _error(self, scale: int, size: tuple[int, int]) -> F4:
        """Standard error of the mix before denoising, in cd/m², (h, w)."""
        total = np.zeros(size, np.float32)
        for s in self._counting:
            film = self.films.get(self._key(s, self.spec.bounces), scale)
            if film is not None and film.passes > 1:
                gain = np.float32(self.gains[s.id] @ AP1_LUMINANCE)
                total += (film.accumulator.error()[: size[0], : size[1], 0] * gain) ** 2
        return np.asarray(SIGMA_OF_MEAN * np.sqrt(total), np.float32)

    def _found(self, source: str, mixed: F4, scale: int) -> Shown:
        """One source alone, exposed for itself, with a line around where it is a quarter of all."""
        spec = next((s for s in self.spec.sources if s.id == source), None)
        best = None if spec is None else self._best(spec)
        if best is None or not self._can_shine(spec):  # type: ignore[arg-type]
            return self.shown(np.zeros_like(mixed))
        film, own_scale = best
        alone = film.at(max(scale // own_scale, 1))[: mixed.shape[0], : mixed.shape[1]]
        alone = enlarged(alone, *mixed.shape[:2]) if alone.shape != mixed.shape else alone
        light = alone * self.gains[source].astype(np.float32)
        e = self.exposure
        shown = show(light, metered_ev(light) or ev_of(e), e.kelvin, e.tint)
        weights = AP1_LUMINANCE.astype(np.float32)
        share = (light @ weights) / np.maximum(mixed @ weights, 1e-9)
        return replace(shown, pixels=outlined(shown.pixels, share))

    def _finish_passes(self, finish: Finish, scale: int) -> dict[str, F4]:
        """Output passes the finish asks for, as far as they are there."""
        passes: dict[str, F4] = {}
        if finish.haze.per_metre or finish.backdrop.path is not None or finish.occlusion.amount:
            guides = (self.films.guides.get((self._guide_key(), s)) for s in (scale, 1, 2, 4))
            film = next((g.film for g in guides if g is not None and g.film.passes > 0), None)
            if film is not None:
                passes |= {n: film.output_pass(n) for n in ("depth", "alpha", "outside", "diffuse")}
        # Those of another view would lie over this one as a ghost.
        if self._surveyed is not None and self._surveyed[0].startswith(self._guide_key()):
            passes |= self._surveyed[1]
        return passes

    def show_picture(self, settled: bool = False) -> None:
        """Send the present picture; PNG once it has settled, JPEG on the way."""
        begun = time.perf_counter()
        picture, scale = self._mixture()
        shown = self.finished(picture, scale, settled)
        file = io.BytesIO()
        if settled:
            Image.fromarray(shown.pixels).save(file, "PNG", compress_level=1)
        else:
            Image.fromarray(shown.pixels).save(file, "JPEG", quality=90)
        films = [self.films.get(self._key(s, self.spec.bounces), scale) for s in self._counting]
        self.send(
            {
                "kind": "frame",
                "format": "png" if settled else "jpeg",
                "width": shown.pixels.shape[1],
                "height": shown.pixels.shape[0],
                "scale": scale,
                "passes": max((0 if f is None else f.clean_samples for f in films), default=0),
                "waiting": sum(self._best_fresh(s, direct=False) is None for s in self._counting),
                "noise": round(self._noise_seen(scale), 4),
                "seconds": round(time.monotonic() - self._started, 1),
                "milliseconds": round((time.perf_counter() - begun) * 1e3, 1),
                "settled": settled,
                "moving": self.spec.moving,
                "ev": round(ev_of(self.exposure), 2),
                "metered_s": self._metered(picture),
                "shutter_s": self.exposure.shutter_s,
                "sharp": self._sharp_zone(),
                "burnt": round(shown.burnt, 4),
                "black": round(shown.black, 4),
                "histogram": shown.histogram.reshape(64, 4).sum(axis=1).tolist(),
                "histogram_rgb": rgb_histogram(shown.pixels),
                "left_s": self._seconds_left(scale),
                "empty": self.assembled is None,
                "doubt": self._view_doubt(scale),
                "openings": 0
                if self.assembled is None
                else len(self.assembled.arrays.portal_floats),
                "tone": self._tone(picture),
                "noisy": self._noise_by_source(),
                "beyond": round(float(self._beyond.mean()), 4)
                if self.spec.reading == "gamut"
                else None,
                "legend": [asdict(b) for b in legend(ev_of(self.exposure))]
                if self.spec.reading == "luminance"
                else [],
                "noise_legend": [asdict(b) for b in noise_legend()]
                if self.spec.reading == "noise"
                else [],
            },
            file.getvalue(),
        )

    def _view_doubt(self, scale: int) -> str | None:
        """What is wrong with the view itself, in words; None while its surfaces are not known."""
        guide = self.films.guides.get((self._guide_key(), scale))
        view = self.spec.view
        # What is cut away cannot hide anything.
        if guide is None or guide.film.passes == 0 or self.assembled is None or view.near_m > 0:
            return None
        key = self._guide_key()
        if self._doubt[0] != key:
            depth, alpha = guide.film.output_pass("depth"), guide.film.output_pass("alpha")
            self._doubt = (key, view_doubt(self.assembled.top, view.position, depth, alpha))
        return self._doubt[1]

    def _seconds_left(self, scale: int) -> float | None:
        """Seconds until the noise wanted or the most time is reached; None while it cannot be told."""
        spent = time.monotonic() - self._started
        noise, wanted = self._noise_seen(scale), self.spec.target_noise
        if scale > 1 or self.spec.moving or self.spec.paused or spent < 1 or noise <= wanted:
            return None
        # What denoising leaves falls as a power of the passes, and passes take equal time.
        needed = spent * ((noise / wanted) ** (1 / USUAL_FALL) - 1)
        return round(max(min(needed, self.spec.max_seconds - spent), 0.0), 1)

    def _tone(self, picture: F4) -> dict[str, Any]:
        """The tone curve of the look, and where the light of the picture lies under it."""
        e = self.exposure
        curve = response(e.tone, finish_of(self.spec.finish, e.tone).grade)
        return {
            "darkest": DARKEST, "brightest": BRIGHTEST, "shown": np.round(curve.shown, 4).tolist(),
            "burnt": curve.burnt_stops, "black": curve.black_stops,
            "histogram": stops_histogram(picture, ev_of(e)).tolist(),
        }  # fmt: skip

    def _noise_by_source(self) -> list[dict[str, Any]]:
        """Who makes the noise of the mix: noise of each source, direct and bounced, worst first."""
        whole = max(self._mean_luminance(), 1e-9)
        out: list[dict[str, Any]] = []
        for s in self.spec.sources:
            film = self.films.get(self._key(s, self.spec.bounces), 1)
            if not s.counts or film is None or film.mean is None:
                continue
            share = float(film.mean @ (self.gains[s.id] * AP1_LUMINANCE)) / whole
            direct, bounced = film.noise_parts
            kind: Literal["sky", "sun", "lamp"] = "lamp"
            if isinstance(s.settings, SkySettings):
                kind = "sky"
            elif isinstance(s.settings, SunSettings | MoonSettings):
                kind = "sun"
            words, cure = remedy(s.name, kind, direct, bounced,
                                 self.spec.portals or self.spec.closed,
                                 self.spec.bounced == "kept")  # fmt: skip
            out.append({"source": s.id, "noise": round(film.noise * share, 4),
                        "direct": round(direct * share, 4), "bounced": round(bounced * share, 4), "remedy": words, "cure": cure})  # fmt: skip
        return sorted(out, key=lambda n: float(n["noise"]), reverse=True)[:6]

    def show_thumbs(self, only: set[str] | None = None) -> None:
        """Send the little picture of sources: what each alone adds at this exposure."""
        if only is None:
            self._thumbs_dirty, self._thumbs_at = False, time.monotonic()
        if self.assembled is None:
            return
        for s in self.spec.sources:
            if only is not None and s.id not in only:
                continue
            found = self._best(s)
            if found is None:
                small = np.zeros((self.size(4)[0] // 2, self.size(4)[1] // 2, 3), np.float32)
            else:
                film, scale = found
                factor = max(1, self.size(scale)[1] // THUMB_WIDTH)
                small = film.at(factor) * self.gains[s.id].astype(np.float32)
            shown = self.shown(small)
            own = metered_ev(small) if self.spec.prints_by_themselves else None
            file = io.BytesIO()
            pixels = shown.pixels if own is None else self.shown(small, own).pixels
            Image.fromarray(pixels).save(file, "JPEG", quality=85)
            head = {
                "kind": "contribution",
                "source": s.id,
                "burnt": round(shown.burnt, 4),
                "colour": swatch(self.gains[s.id]),
                "headroom": (headroom := self._headroom(small)),
                "just_below": None if headroom is None else round(headroom - JUST_BELOW, 1),
                "burns": headroom is not None and headroom < 0 and shown.burnt >= BURNS_SHARE,
            }
            self.send(head, file.getvalue())

    def _headroom(self, light: F4) -> float | None:
        """Stops a source may still rise before a thousandth of the picture burns; None if dark."""
        e = self.exposure
        balanced = light.reshape(-1, 3) @ white_balance_matrix(e.kelvin, e.tint).T
        top = float(np.percentile(balanced.max(axis=1), 99.9)) / saturation_luminance(ev_of(e))
        table = baked(e.tone, finish_of(self.spec.finish, e.tone).grade)
        return None if top < 1e-6 else round(float(np.log2(burning_light(table) / top)), 2)

    def _sharp_zone(self) -> tuple[float, float | None] | None:
        """Nearest and farthest sharp distance in metres; None when everything is sharp."""
        view = self.spec.view
        if not view.depth_of_field or not view.focus_m or not view.f_number:
            return None
        near, far = sharp_zone(view.focal_length_mm, view.f_number, view.focus_m)
        return round(near, 3), None if far is None else round(far, 3)

    def _metered(self, picture: F4) -> float | None:
        e, ev = self.exposure, metered_ev(picture)
        return None if ev is None else shutter_for_ev(ev, e.f_number, e.iso)
