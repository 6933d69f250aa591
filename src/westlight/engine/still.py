"""Rendering one still: a process of its own that reports its progress line by line.

`python -m westlight.engine.still ORDER.json` reads the order, prints a JSON object per line
(progress, noise, seconds, then done with the files). Asked to end (SIGTERM) it keeps what it has
gathered beside the order; killed, it has what was kept last. Started again it goes on from there,
to the same picture bit for bit: a pass is the same whoever traces it.
"""

from __future__ import annotations

import hashlib
import json
import os
import signal
import sys
import time
from collections.abc import Sequence
from pathlib import Path
from typing import Any

import numpy as np
from pydantic import Field

from westlight.core.colour import AP1_LUMINANCE
from westlight.core.errors import WestlightError
from westlight.core.transport.assemble import Assembled
from westlight.core.transport.denoise import Denoiser, noise_left
from westlight.core.transport.film import F4, Accumulator, Film, GuideFilm
from westlight.core.transport.render import PassRun
from westlight.core.transport.survey import APART, SURVEYED, survey

from .kept_light import keep_light, mix_again, read_light
from .scenery import Scenery, gains_of, scenery_of
from .still_files import Recipe, write_files
from .translate import CALM, matte_of, view_of

#: What a film is made of, as it is kept on disk.
FILM_ARRAYS = ("light", "bounced", "odd", "removed", "counts", "apart")
#: Rays from each pixel for passes that are no light.
SURVEY_SAMPLES = 32
#: Seconds between two writings of what has been gathered.
KEEP_EVERY_S = 20.0
#: Passes every source gets before its noise decides whether it gets more, and how much of the
#: most useful one's effect a source must promise to get another.
FIRST_PASSES, WORTH = 4, 0.15
#: Power of time by which the noise of a denoised interior was seen to fall.
USUAL_FALL = 0.28


class StillOrder(Recipe):
    """What to render and when to stop: at the noise, the time or the samples, whichever first."""

    noise: float = Field(default=0.02, gt=0, le=1)
    seconds: float = Field(default=600.0, gt=0)
    samples: int = Field(default=256, ge=1)
    seed: int = 1
    #: Whether the light of each source is kept, to be mixed and finished again.
    keep: bool = True


class MixOrder(Recipe):
    """A finished still mixed and finished again; ``light`` is the file it kept."""

    light: str


class StillRun:
    """One still being rendered; what it has gathered is kept on disk, so that it can go on."""

    def __init__(self, order: StillOrder, report: Any) -> None:
        spec = order.spec
        self.order, self.report = order, report
        report({"kind": "progress", "share": 0.0, "text": "Reading the model"})
        self.scenery = scenery_of(spec)
        lit = self.scenery.lit(spec)
        self.shining, self.assembled = lit.shining, lit.assembled
        self.view = view_of(spec.view, spec.width_px, spec.height_px)
        size = (spec.height_px, spec.width_px)
        names = _distinct([lit.chosen[i].name for i in self.shining])
        self.ids = {n: lit.chosen[i].id for n, i in zip(names, self.shining, strict=True)}
        apart = not APART.isdisjoint(order.passes)
        self.film = Film(
            {name: Accumulator.empty(*size, apart=apart) for name in names},
            {name: lit.gains[i] for name, i in zip(names, self.shining, strict=True)},
            GuideFilm.empty(*size),
        )  # fmt: skip
        self.denoiser = Denoiser()
        self.kept = Path(order.folder) / "gathered.npz"
        self.plan = list(range(len(names)))
        self.of = hashlib.blake2b(f"{spec.model_dump_json()}{order.seed}".encode()).hexdigest()
        self.seconds = restore(self.kept, self.film, self.plan, self.of)
        self._stopped = False

    def stop(self, *_: Any) -> None:
        """Ask the run to keep what it has and end."""
        self._stopped = True

    def render(self) -> dict[str, str] | None:
        """Trace until a limit is met and write the files; None when it was stopped before."""
        order = self.order
        begun = time.monotonic() - self.seconds
        kept_at = time.monotonic()
        noise = self._noise() if self._leading >= 2 else 1.0
        measured = self._leading
        self.curve: list[tuple[float, float]] = []
        while self.film.accumulators and self._leading < order.samples:
            films = [list(self.film.accumulators.values())[i] for i in self.plan]
            n = min(f.samples for f in films)
            run = PassRun(self.assembled, self.view, [self.shining[i] for i in self.plan], films,
                          self.film.guide, upto=min(n + 2 - n % 2, order.samples), seed=order.seed,
                          bounces=order.spec.bounces, calm=CALM)  # fmt: skip
            while not run.advance(0.5):
                seconds = time.monotonic() - begun
                share = _share(order, self._leading, noise, seconds, self.curve)
                self.report(_progress(share, self._leading, noise, seconds, self.curve))
                if self._stopped:
                    self._keep(seconds)
                    return None
                if time.monotonic() - kept_at > KEEP_EVERY_S:
                    self._keep(seconds)
                    kept_at = time.monotonic()
            if self._leading >= 1.2 * measured:
                noise, measured = self._noise(), self._leading
                self.curve.append((round(time.monotonic() - begun, 1), round(noise, 4)))
            self.plan = self._worth_more()
            seconds = time.monotonic() - begun
            share = _share(order, self._leading, noise, seconds, self.curve)
            self.report(_progress(share, self._leading, noise, seconds, self.curve))
            if seconds > order.seconds or (self._leading >= FIRST_PASSES and noise <= order.noise):
                break
            if self._stopped:
                self._keep(seconds)
                return None
        self.report({"kind": "progress", "share": 0.99, "text": "Writing the files"})
        extra = self._extra()
        files = write_files(order, self.film, extra)
        if order.keep:
            light = Path(order.folder) / f"{order.stem}.light.exr"
            keep_light(light, order.spec, self.ids, self.film, extra)
            files["light"] = str(light)
        self.kept.unlink(missing_ok=True)
        return files

    @property
    def _leading(self) -> int:
        """Passes of the source that has most."""
        return max((f.samples for f in self.film.accumulators.values()), default=0)

    def _worth_more(self) -> list[int]:
        """Sources whose next pass takes most noise from the mix; after some passes, no longer all.

        A pass over a source with noise v (of the mix) after n of them takes v²/n off the variance.
        """
        films = list(self.film.accumulators.values())
        every = list(range(len(films)))
        if any(f.samples < FIRST_PASSES for f in films):
            return every
        worth = []
        for name, f in self.film.accumulators.items():
            light = float(f.mean().mean(axis=(0, 1)) @ (self.film.gains[name] * AP1_LUMINANCE))
            worth.append((f.noise() * light) ** 2 / f.samples)
        least = WORTH * max(worth)
        return [i for i in every if worth[i] >= least] if least > 0 else every

    def _noise(self) -> float:
        """Noise of the picture as it will be handed over: after denoising, if it is denoised."""
        if not self.order.spec.denoise:
            return self.film.noise()
        albedo, normal = self.film.output_pass("albedo"), self.film.output_pass("normal")
        return noise_left(self.denoiser, self.film.halves(), albedo, normal)

    def _extra(self) -> dict[str, F4]:
        return surveyed(self.order, self.scenery, self.assembled, self.order.seed)

    def _keep(self, seconds: float) -> None:
        keep(self.kept, self.film, seconds, self.plan, self.of)


def surveyed(order: Recipe, scenery: Scenery, assembled: Assembled, seed: int = 1) -> dict[str, F4]:
    """Passes that are surveyed once, after the light: those asked for, and for the finish."""
    spec = order.spec
    view = view_of(spec.view, spec.width_px, spec.height_px)
    wanted = set(order.passes) & SURVEYED
    if spec.finish.occlusion.amount:
        wanted.add("occlusion")
    made = survey(assembled, view, wanted, SURVEY_SAMPLES, seed, spec.finish.occlusion.radius_m)
    return made | scenery.coverage(assembled, view, spec.finish.parts, SURVEY_SAMPLES, seed)


def mix(order: MixOrder, report: Any) -> tuple[dict[str, str], list[str]]:
    """Mix and finish the light a still kept, as a spec says now; returns files and remarks."""
    report({"kind": "progress", "share": 0.1, "text": "Reading the light"})
    light = read_light(Path(order.light))
    remarks = mix_again(light, order.spec, gains_of(order.spec))
    finish, before = order.spec.finish, light.recipe.spec.finish
    needed = {matte_of(p) for p in finish.parts} | set(order.passes) & SURVEYED
    if finish.occlusion.amount:
        needed.add("occlusion")
        if before.occlusion.radius_m != finish.occlusion.radius_m:
            light.layers.pop("occlusion", None)
    extra = {name: light.layers[name] for name in needed & set(light.layers)}
    if needed - set(extra):
        report({"kind": "progress", "share": 0.3, "text": "Surveying the building"})
        scenery = scenery_of(order.spec)
        extra |= surveyed(order, scenery, scenery.lit(order.spec).assembled)
    report({"kind": "progress", "share": 0.8, "text": "Writing the files"})
    return write_files(order, light, extra), remarks


def _distinct(names: list[str]) -> list[str]:
    """Names with a number where one comes twice."""
    out: list[str] = []
    for name in names:
        n = sum(o == name or o.startswith(f"{name} (") for o in out)
        out.append(f"{name} ({n + 1})" if n else name)
    return out


def keep(file: Path, film: Film, seconds: float, plan: Sequence[int], of: str) -> None:
    """Write what has been gathered and what is being worked on, whole or not at all."""
    arrays: dict[str, Any] = {"seconds": np.array(seconds), "plan": np.array(plan, np.int64),
                              "of": np.array(of)}  # fmt: skip
    for i, acc in enumerate(film.accumulators.values()):
        for name in FILM_ARRAYS:
            arrays[f"{i}.{name}"] = getattr(acc, name)
    arrays |= {"guide.sums": film.guide.sums, "guide.counts": film.guide.counts}
    part = file.with_suffix(".part.npz")
    np.savez(part, **arrays)
    part.replace(file)


def restore(file: Path, film: Film, plan: list[int], of: str) -> float:
    """Take up what an earlier run gathered for the same film; returns its seconds, 0 without.

    ``plan`` becomes what it was working on: to go on to the same bits that must be ended first.
    What another picture (``of``) left behind is not taken.
    """
    if not file.is_file():
        return 0.0
    with np.load(file) as kept:
        if "of" not in kept or str(kept["of"]) != of:
            return 0.0
        for i, acc in enumerate(film.accumulators.values()):
            for name in FILM_ARRAYS:
                getattr(acc, name)[...] = kept[f"{i}.{name}"]
        film.guide.sums[...], film.guide.counts[...] = kept["guide.sums"], kept["guide.counts"]
        plan[:] = kept["plan"].tolist()
        return float(kept["seconds"])


def _share(
    order: StillOrder,
    passes: float,
    noise: float,
    seconds: float,
    curve: Sequence[tuple[float, float]],
) -> float:
    """How far along the render is, by the limit that will be met first."""
    by_noise = 0.0
    if noise > 0 and curve:
        by_noise = min(1.0, order.noise / noise) ** (1 / falling(curve))
    return min(0.98, max(passes / order.samples, seconds / order.seconds, by_noise))


def falling(curve: Sequence[tuple[float, float]]) -> float:
    """Power of time by which noise (seconds, noise) falls of late: ½ at best, less after denoising."""
    (t0, n0), (t1, n1) = curve[len(curve) // 2], curve[-1]
    if len(curve) < 4 or not (t1 > t0 > 0 and n0 > n1 > 0):
        return USUAL_FALL
    return float(np.clip(np.log(n0 / n1) / np.log(t1 / t0), 0.15, 0.5))


def _progress(
    share: float, passes: int, noise: float, seconds: float, curve: list[tuple[float, float]]
) -> dict[str, Any]:
    left = seconds * (1 - share) / share if share > 0.01 else None
    return {
        "kind": "progress", "share": round(share, 4), "passes": passes, "noise": round(noise, 4),
        "seconds": round(seconds, 1), "left": None if left is None else round(left, 1),
        "curve": curve,
    }  # fmt: skip


def main(path: str) -> int:
    """Render the order in a JSON file; returns the exit code."""
    # The live picture goes first when both want the processor.
    os.nice(5)

    def report(message: dict[str, Any]) -> None:
        print(json.dumps(message), flush=True)

    try:
        text = Path(path).read_text()
        if "light" in json.loads(text):
            made, remarks = mix(MixOrder.model_validate_json(text), report)
            report({"kind": "done", "files": made, "remarks": remarks})
            return 0
        order = StillOrder.model_validate_json(text)
        run = StillRun(order, report)
        signal.signal(signal.SIGTERM, run.stop)
        files = run.render()
        report({"kind": "stopped"} if files is None else {"kind": "done", "files": files})
    except WestlightError as error:
        report({"kind": "failed", "text": str(error)})
        return 1
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1]))
