"""Rendering one still: a process of its own that reports its progress line by line.

`python -m westlight.engine.still ORDER.json` reads the order, prints a JSON object per line
(progress, noise, seconds, then done with the files), and can simply be killed to cancel it.
"""

from __future__ import annotations

import json
import os
import sys
import time
from pathlib import Path
from typing import Any

from pydantic import Field

from westlight import core
from westlight.core.errors import WestlightError
from westlight.core.files import write_exr, write_png
from westlight.core.finish import show
from westlight.core.transport.assemble import assemble
from westlight.core.transport.build import GeometryBuild
from westlight.core.transport.denoise import Denoiser
from westlight.core.transport.film import Accumulator, Film, GuideFilm
from westlight.core.transport.render import PassRun

from .spec import PictureSpec, Settings
from .translate import CALM, ev_of, gain_of, source_of, view_of


class StillOrder(Settings):
    """What to render and when to stop: at the noise, the time or the samples, whichever first."""

    spec: PictureSpec
    folder: str
    stem: str = "still"
    noise: float = Field(default=0.02, gt=0, le=1)
    seconds: float = Field(default=600.0, gt=0)
    samples: int = Field(default=256, ge=1)
    seed: int = 1


def render_still(order: StillOrder, report: Any) -> dict[str, str]:
    """Render an order and write its files; ``report`` gets a dict from time to time."""
    spec = order.spec
    if spec.model is None:
        raise WestlightError("There is no building to render; import one on the Site stage.")
    begun = time.monotonic()
    report({"kind": "progress", "share": 0.0, "text": "Reading the model"})
    build = GeometryBuild(core.read_model(spec.model.path, spec.model.up).parts)
    chosen = [s for s in spec.sources if s.counts]
    sources = [source_of(s, spec.model.north_deg, build.materials) for s in chosen]
    gains = {s.name: gain_of(s, c) for s, c in zip(chosen, sources, strict=True)}
    shining = [i for i, s in enumerate(chosen) if gains[s.name].max() > 0]
    assembled = assemble(build, sources, spec.clay)
    view = view_of(spec.view, spec.width_px, spec.height_px)
    films = [Accumulator.empty(spec.height_px, spec.width_px) for _ in shining]
    guide = GuideFilm.empty(spec.height_px, spec.width_px)
    film = Film(
        {chosen[i].name: f for i, f in zip(shining, films, strict=True)},
        {chosen[i].name: gains[chosen[i].name] for i in shining}, guide,
    )  # fmt: skip
    noise = 1.0
    for n in range(order.samples):
        run = PassRun(assembled, view, shining, films, guide, upto=n + 1, seed=order.seed,
                      bounces=spec.bounces, calm=CALM)  # fmt: skip
        while not run.advance(0.5):
            share = _share(order, n + run.share, noise, time.monotonic() - begun)
            report(_progress(share, n, noise, begun))
        if n % 2 and (n < 8 or n % 8 == 7):
            noise = film.noise()
        seconds = time.monotonic() - begun
        report(_progress(_share(order, n + 1, noise, seconds), n + 1, noise, begun))
        if seconds > order.seconds or (n >= 3 and noise <= order.noise):
            break
    report({"kind": "progress", "share": 0.99, "text": "Writing the files"})
    return _write(order, film)


def _share(order: StillOrder, passes: float, noise: float, seconds: float) -> float:
    """How far along the render is, by the limit that will be met first; noise falls as 1/√n."""
    by_noise = (order.noise / noise) ** 2 if 0 < noise < 1 else 0.0
    return min(0.98, max(passes / order.samples, seconds / order.seconds, by_noise))


def _progress(share: float, passes: int, noise: float, begun: float) -> dict[str, Any]:
    seconds = time.monotonic() - begun
    left = seconds * (1 - share) / share if share > 0.01 else None
    return {
        "kind": "progress", "share": round(share, 4), "passes": passes, "noise": round(noise, 4),
        "seconds": round(seconds, 1), "left": None if left is None else round(left, 1),
    }  # fmt: skip


def _write(order: StillOrder, film: Film) -> dict[str, str]:
    folder = Path(order.folder)
    folder.mkdir(parents=True, exist_ok=True)
    spec, e = order.spec, order.spec.exposure
    beauty = film.beauty
    picture = beauty
    if spec.denoise:
        albedo, normal = film.output_pass("albedo"), film.output_pass("normal")
        picture = Denoiser()(beauty, albedo, normal, "high")
    exr, png = folder / f"{order.stem}.exr", folder / f"{order.stem}.png"
    layers = {name: film.contribution(name) for name in film.names}
    write_exr(exr, beauty, layers, recipe=spec.model_dump_json())
    write_png(png, show(picture, ev_of(e), e.kelvin, e.tint, e.tone).pixels)
    return {"exr": str(exr), "png": str(png)}


def main(path: str) -> int:
    """Render the order in a JSON file; returns the exit code."""
    # The live picture goes first when both want the processor.
    os.nice(5)

    def report(message: dict[str, Any]) -> None:
        print(json.dumps(message), flush=True)

    try:
        order = StillOrder.model_validate_json(Path(path).read_text())
        report({"kind": "done", "files": render_still(order, report)})
    except WestlightError as error:
        report({"kind": "failed", "text": str(error)})
        return 1
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1]))
