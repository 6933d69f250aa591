"""Rendering one still: a process of its own that reports its progress line by line.

`python -m westlight.engine.still ORDER.json` reads the order, prints a JSON object per line
(progress, noise, seconds, then done with the files). Asked to end (SIGTERM) it keeps what it has
gathered beside the order; killed, it has what was kept last. Started again it goes on from there,
to the same picture bit for bit: a pass is the same whoever traces it.
"""

from __future__ import annotations

import errno
import hashlib
import json
import os
import shutil
import signal
import sys
import time
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path, PurePath
from typing import TYPE_CHECKING, Annotated, Any

import numpy as np
from pydantic import BeforeValidator, Field

from westlight.core.colour import AP1_LUMINANCE
from westlight.core.errors import WestlightError
from westlight.core.files import IdMatte, write_jpeg
from westlight.core.finish import Backdrop, block_mean, develop
from westlight.core.transport import layout as L
from westlight.core.transport.assemble import Assembled
from westlight.core.transport.denoise import USUAL_FALL, Denoiser, noise_left
from westlight.core.transport.film import BAND_ROWS, F4, Accumulator, Film, GuideFilm
from westlight.core.transport.render import Window
from westlight.core.transport.survey import APART, SURVEYED, survey

from .files import file_of
from .gathered import keep, read_unit, restore, write_unit
from .grain import Guides, Halves, grain_of, shower
from .kept_light import add_passes, keep_again, keep_light, mix_again, read_light
from .orphans import die_with_parent
from .package import Package
from .scenery import Scenery, gains_of, scenery_of
from .spec import FileId
from .spec.base import dial
from .still_files import MATTES, Recipe, sums_differ, write_files
from .translate import ev_of, exposed, finish_of, matte_of, seen_softly, view_of
from .units import Stage, Traced, Tracing, add, keep_stage, units_of

if TYPE_CHECKING:
    from .cluster import Workers

#: Rays from each pixel for passes that are no light.
SURVEY_SAMPLES = 32
#: Seconds between two writings of what has been gathered.
KEEP_EVERY_S = 20.0
#: Passes every source gets before its noise decides whether it gets more, and how much of the
#: most useful one's effect a source must promise to get another.
FIRST_PASSES, WORTH = 4, 0.15
#: Passes of a still that stops by the eye. With fewer, what the denoiser makes of the odd and of the even ones may be as
#: good as alike and wrong in the same way: their difference does not tell.
SEEN_PASSES = 16
#: File and width of the picture that is shown while a still is rendered.
PREVIEW, PREVIEW_WIDTH = "preview.jpg", 320
#: Layers of mattes with names.
_MATTE_LAYERS = {"objects": "CryptoObject", "materials": "CryptoMaterial"}
FULL = "The disk is full. Free some space (Handover › Storage), then resume: what was gathered is kept."


Share = Annotated[float, Field(ge=0, le=1)]


#: A file of kept light; orders of earlier versions named it by its path, which ended in its id.
KeptFile = Annotated[FileId, BeforeValidator(lambda told: PurePath(told).stem if told else None)]


class StillOrder(Recipe):
    """What to render and when to stop: at the noise, the time or the samples, whichever first."""

    #: Share of the mean light, for those who want it in per cent; without one, when no noise is seen.
    noise: float | None = dial(
        0.04, 0, 1, "Noise", 0.001, "%", (0.002, 0.5), logarithmic=True, above=True, optional=True
    )
    seconds: float = Field(default=600.0, gt=0)
    samples: int = Field(default=256, ge=1)
    seed: int = 1
    #: Whether the light of each source is kept, to be mixed and finished again.
    keep: bool = True
    #: Kept light of an earlier still that this adds to: in a region (left, top, right, bottom, 0…1), and
    #: of some sources, by id; all of it without them.
    onto: KeptFile | None = None
    region: tuple[Share, Share, Share, Share] | None = None
    only: list[str] = Field(default_factory=list)


def window_of(region: tuple[float, float, float, float] | None, height: int, width: int) -> Window:
    """Pixels of a region, its rows widened to whole bands; all of a picture without one."""
    if region is None:
        return Window(0, height, 0, width)
    left, top, right, bottom = region
    row0 = int(top * height) // BAND_ROWS * BAND_ROWS
    row1 = min(-(-int(np.ceil(bottom * height)) // BAND_ROWS) * BAND_ROWS, height)
    column0, column1 = int(left * width), int(np.ceil(right * width))
    if column1 - column0 < 8 or row1 - row0 < BAND_ROWS:
        raise WestlightError("This region is too small: draw it at least 8 pixels wide and high.")
    return Window(row0, row1, column0, column1)


class MixOrder(Recipe):
    """A finished still mixed and finished again; ``light`` is the file it kept."""

    light: KeptFile


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
        names = _distinct([lit.chosen[i].name for i in self.shining])
        self.ids = {n: lit.chosen[i].id for n, i in zip(names, self.shining, strict=True)}
        #: Rows of the shining sources that are traced, in the order of the film.
        self.traced = [
            k
            for k, i in enumerate(self.shining)
            if not order.only or lit.chosen[i].id in order.only
        ]
        names = [names[k] for k in self.traced]
        self.base = read_light(file_of(order.onto, ".exr")) if order.onto else None
        self.window = window_of(order.region, spec.height_px, spec.width_px)
        w = self.window
        size = (w.row1 - w.row0, w.column1 - w.column0)
        self.apart = not APART.isdisjoint(order.passes)
        self.film = Film(
            {name: Accumulator.empty(*size, apart=self.apart) for name in names},
            {n: lit.gains[self.shining[k]] for n, k in zip(names, self.traced, strict=True)},
            GuideFilm.empty(*size),
        )  # fmt: skip
        self.denoiser = Denoiser()
        self.kept = Path(order.folder) / "gathered.npz"
        self.units = Path(order.folder) / "units"
        #: Units whose sums are in the film but not yet in the file of what was gathered.
        self.done: list[str] = []
        self.kept_at = time.monotonic()
        self.plan = list(range(len(names)))
        self.of = hashlib.blake2b(
            f"{spec.model_dump_json()}{order.seed}{order.region}{order.only}{L.GUIDE_CHANNELS}.{L.OUT_CHANNELS}".encode()
        ).hexdigest()
        self.seconds = restore(self.kept, self.film, self.plan, self.of)
        stamp = self.units / "of"
        if not stamp.is_file() or stamp.read_text() != self.of:
            shutil.rmtree(self.units, ignore_errors=True)
            self.units.mkdir(parents=True)
            stamp.write_text(self.of)
        self._stopped = False

    def stop(self, *_: Any) -> None:
        """Ask the run to keep what it has and end."""
        self._stopped = True

    @property
    def _wanted(self) -> float:
        """Noise to stop at, in the measure of `_noise`."""
        return 1.0 if self.order.noise is None else self.order.noise

    def render(self) -> dict[str, str] | None:
        """Trace until a limit is met and write the files; None when it was stopped before."""
        order = self.order
        self.begun = time.monotonic() - self.seconds
        noise = self._noise() if self._leading >= 2 else 1.0
        measured = self._leading
        self.curve: list[tuple[float, float]] = []
        with self._workers() as workers:
            while self.film.accumulators and self._leading < order.samples:
                if not self._round(workers, noise):
                    return None
                if self._leading >= 1.2 * measured:
                    noise, measured = self._noise(), self._leading
                    self._show()
                    self.curve.append((round(self._elapsed, 1), round(noise, 4)))
                self.plan = self._worth_more()
                self._report(noise)
                enough = self._leading >= least_passes(order.noise) and noise <= self._wanted
                if self._elapsed > order.seconds or enough:
                    break
                if self._stopped:
                    self._keep(self._elapsed)
                    return None
        self.report({"kind": "progress", "share": 0.99, "text": "Writing the files"})
        return self._written()

    def _show(self) -> None:
        """Write a small picture of what has been gathered, to be looked at meanwhile."""
        spec = self.order.spec
        factor = max(1, self.film.guide.sums.shape[1] // PREVIEW_WIDTH)
        small = block_mean(np.ascontiguousarray(self.film.beauty), factor)
        e = exposed(spec.exposure, small)
        finish = finish_of(spec.finish, e.tone)
        # Backdrop, parts and occlusion wait for the end: they need passes that are made then.
        plain = replace(finish, backdrop=Backdrop(), parts=())
        shown = develop(small, ev_of(e), e.kelvin, e.tint, plain)
        write_jpeg(Path(self.order.folder) / PREVIEW, shown.pixels)

    def _workers(self) -> Workers:
        """Who traces: this process, or the workers of a scheduler."""
        # Its library is large, and of all that know of orders of stills only this process needs it.
        from .cluster import Workers

        spec, address = self.order.spec, os.environ.get("WESTLIGHT_SCHEDULER") or None
        stage = Stage(self.assembled, self.view, self.shining, spec)
        if address is None:
            keep_stage(self.of, stage)
            return Workers(lambda: Package.of(spec), self.of, None, self._tell)
        package = Package.of(spec)
        return Workers(lambda: package, package.key, address, self._tell)

    def _round(self, workers: Workers, noise: float) -> bool:
        """Some more passes of the sources in the plan; False when stopped before the end."""
        order = self.order
        films = list(self.film.accumulators.values())
        n = min(films[i].samples for i in self.plan)
        count = min(self._passes_of_round(n), order.samples - n)
        young = [i for i in self.plan if films[i].samples == n]
        rows = [self.traced[i] for i in young]
        units = units_of(self.window, rows, n, count, self.film.guide.passes == n)
        traced: dict[int, Traced] = {}
        for k, unit in enumerate(units):
            found = read_unit(self.units / f"{unit.name}.npz")
            if found is not None:
                traced[k] = found
        todo = [k for k in range(len(units)) if k not in traced]

        def take(number: int, result: Traced) -> None:
            write_unit(self.units / f"{units[todo[number]].name}.npz", result)
            traced[todo[number]] = result
            part = count * len(traced) / len(units)
            self._report(noise, n + part, len(workers.good))

        if not workers.run(
            [units[k] for k in todo], Tracing(order.seed, order.spec.bounces, self.apart), take,
            lambda: self._stopped,
        ):  # fmt: skip
            return False
        # In the order of their numbers, so that sums have the same bits whoever was first.
        by_row = dict(zip(self.traced, films, strict=True))
        for k, unit in enumerate(units):
            add(traced[k], unit, by_row, self.film.guide, (self.window.row0, self.window.column0))
        self.done += [unit.name for unit in units]
        if time.monotonic() - self.kept_at > KEEP_EVERY_S:
            self._keep(self._elapsed)
        return True

    def _passes_of_round(self, n: int) -> int:
        """Passes until the noise is looked at again: more as it falls more slowly, for more workers to share."""
        wanted = 2 if n < 8 else 4 if n < 32 else 8
        left = self.order.seconds - self._elapsed
        one = self._elapsed / max(self._leading, 1)
        return wanted if self._leading == 0 or wanted * one < left else 2

    @property
    def _elapsed(self) -> float:
        return time.monotonic() - self.begun

    def _tell(self, text: str) -> None:
        self.report({"kind": "progress", "share": 0.0, "text": text})

    def _report(self, noise: float, passes: float | None = None, workers: int = 1) -> None:
        passes = self._leading if passes is None else passes
        share = _share(self.order, passes, noise / self._wanted, self._elapsed, self.curve)
        self.report(_progress(share, int(passes), noise, self._elapsed, self.curve)
                    | {"workers": workers if os.environ.get("WESTLIGHT_SCHEDULER") else None})  # fmt: skip

    def _written(self) -> dict[str, str]:
        """Write the files and the kept light; what was gathered is not needed any more."""
        order = self.order
        light = Path(order.folder) / f"{order.stem}.light.exr"
        if self.base is not None:
            add_passes(self.base, self.film, self.window)
            kept = [p for p in order.passes if p in self.base.layers or p == "denoised"]
            order = order.model_copy(update={"passes": kept})
            files = write_files(order, self.base, self.base.layers)
            keep_again(light, self.base)
            files["light"] = str(light)
        else:
            extra = self._extra()
            files = write_files(order, self.film, extra, mattes_of(self.scenery, extra))
            if order.keep:
                keep_light(light, order.spec, self.ids, self.film, extra)
                files["light"] = str(light)
        self.kept.unlink(missing_ok=True)
        shutil.rmtree(self.units, ignore_errors=True)
        return files

    def remarks(self) -> list[str]:
        """What the limit of speckles took of all light, in words; nothing if they were left."""
        if self.order.spec.speckles == "left":
            return []
        film = self.film
        taken = float(film.output_pass("speckle").mean())
        whole = float((film.beauty @ AP1_LUMINANCE).mean()) + taken
        share = taken / whole if whole > 0 else 0.0
        return [f"Cutting speckles took {share * 100:.2f} % of the light (pass: speckle)."]

    def sums_differ(self, files: dict[str, str]) -> float | None:
        """How far the sources of the EXR are from adding up to its beauty; None if they are not in it."""
        if "exr" not in files or not self.order.sources:
            return None
        film = self.film if self.base is None else self.base
        return sums_differ(Path(files["exr"]), list(film.names))

    @property
    def passes(self) -> int:
        """Passes of the source that has most."""
        return self._leading

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
        """Noise of the picture as it will be handed over: how many times too much of it is seen, or a share of the light."""
        spec = self.order.spec
        if self.order.noise is not None and not spec.denoise:
            return self.film.noise()
        albedo, normal = self.film.output_pass("albedo"), self.film.output_pass("normal")
        seen = self.film.seen @ AP1_LUMINANCE.astype(np.float32)
        even, odd = self.film.halves()
        if self.order.noise is not None:
            return noise_left(self.denoiser, (even, odd), seen, albedo, normal)
        guides = Guides(albedo, normal, seen_softly(spec)) if spec.denoise else None
        picture = np.ascontiguousarray(self.film.beauty)
        if guides is not None:
            picture = self.denoiser(picture, albedo, normal, "high", self.film.seen, guides.soft)
        how = shower(exposed(spec.exposure, picture), spec.finish)
        return grain_of(self.denoiser, picture, Halves(even, odd, seen), guides, how).excess

    def _extra(self) -> dict[str, F4]:
        return surveyed(self.order, self.scenery, self.assembled, self.order.seed)

    def _keep(self, seconds: float) -> None:
        keep(self.kept, self.film, seconds, self.plan, self.of)
        for name in self.done:
            (self.units / f"{name}.npz").unlink(missing_ok=True)
        self.done, self.kept_at = [], time.monotonic()


def surveyed(order: Recipe, scenery: Scenery, assembled: Assembled, seed: int = 1) -> dict[str, F4]:
    """Passes that are surveyed once, after the light: those asked for, and for the finish."""
    spec = order.spec
    view = view_of(spec.view, spec.width_px, spec.height_px)
    wanted = set(order.passes) & SURVEYED
    if spec.finish.occlusion.amount:
        wanted.add("occlusion")
    made = survey(assembled, view, wanted, SURVEY_SAMPLES, seed, spec.finish.occlusion.radius_m)
    return made | scenery.coverage(assembled, view, spec.finish.parts, SURVEY_SAMPLES, seed)


def mattes_of(scenery: Scenery, extra: dict[str, F4]) -> list[IdMatte]:
    """Mattes with names among surveyed passes, taken out of them."""
    return [
        IdMatte(_MATTE_LAYERS[n], scenery.names_of(n), extra.pop(n)) for n in MATTES if n in extra
    ]


def mix(order: MixOrder, report: Any) -> tuple[dict[str, str], list[str]]:
    """Mix and finish the light a still kept, as a spec says now; returns files and remarks."""
    report({"kind": "progress", "share": 0.1, "text": "Reading the light"})
    light = read_light(file_of(order.light, ".exr"))
    remarks = mix_again(light, order.spec, gains_of(order.spec))
    finish, before = order.spec.finish, light.recipe.spec.finish
    needed = {matte_of(p) for p in finish.parts} | set(order.passes) & SURVEYED
    if finish.occlusion.amount:
        needed.add("occlusion")
        if before.occlusion.radius_m != finish.occlusion.radius_m:
            light.layers.pop("occlusion", None)
    extra = {name: light.layers[name] for name in needed & set(light.layers)}
    mattes: list[IdMatte] = []
    if needed - set(extra):
        report({"kind": "progress", "share": 0.3, "text": "Surveying the building"})
        scenery = scenery_of(order.spec)
        extra |= surveyed(order, scenery, scenery.lit(order.spec).assembled)
        mattes = mattes_of(scenery, extra)
    report({"kind": "progress", "share": 0.8, "text": "Writing the files"})
    return write_files(order, light, extra, mattes), remarks


def _distinct(names: list[str]) -> list[str]:
    """Names with a number where one comes twice."""
    out: list[str] = []
    for name in names:
        n = sum(o == name or o.startswith(f"{name} (") for o in out)
        out.append(f"{name} ({n + 1})" if n else name)
    return out


def least_passes(noise: float | None) -> int:
    """Passes before noise may end a still that stops at such a share of the light, or by the eye."""
    return SEEN_PASSES if noise is None else FIRST_PASSES


def _share(
    order: StillOrder,
    passes: float,
    too_much: float,
    seconds: float,
    curve: Sequence[tuple[float, float]],
) -> float:
    """How far along the render is, by the limit that will be met first; ``too_much`` times the noise wanted is left."""
    by_noise = 0.0
    if too_much > 0 and curve:
        by_noise = min(1.0, 1 / too_much) ** (1 / falling(curve))
        by_noise = min(by_noise, passes / least_passes(order.noise))
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
    die_with_parent()

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
        if files is None:
            report({"kind": "stopped"})
        else:
            report({"kind": "done", "files": files, "sums_differ": run.sums_differ(files),
                    "passes": run.passes, "remarks": run.remarks()})  # fmt: skip
    except WestlightError as error:
        report({"kind": "failed", "text": str(error)})
        return 1
    except OSError as error:
        if error.errno not in (errno.ENOSPC, errno.EDQUOT, errno.EFBIG):
            raise
        report({"kind": "failed", "text": FULL})
        return 1
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1]))
