"""What is seen on ten made-up rooms: `./westlight bench picture [ROOM …] [--only live|still|reference] [--passes N]`.

References are traced path by path, in parts that are kept by what they depend on, outside the repository: what was
interrupted goes on, and a reference may grow over days. For each room it prints how far the live picture after 5, 15 and
60 seconds, at two sizes, and a still at its defaults are from the reference: FLIP (mean and 99th percentile), visible steps
(Oklab) by tile, uneven plain surfaces; and how far the reference itself may be from the truth, by its two halves.
Pictures lie beside the references.
"""

from __future__ import annotations

import argparse
import hashlib
import io
import os
import sys
import tempfile
import time
from pathlib import Path
from typing import Any, NamedTuple

import flip_evaluator
import numpy as np
from PIL import Image
from scipy.ndimage import gaussian_filter

sys.path.insert(0, str(Path(__file__).parents[2]))
from tests.bench.rooms import ROOMS, Room, room, spec_of

from westlight.core.analysis.visible import by_tile, steps_apart
from westlight.core.finish import develop, metered_ev
from westlight.core.photometry import shutter_for_ev
from westlight.core.transport.denoise import Denoiser
from westlight.core.transport.film import Accumulator, Film, GuideFilm
from westlight.core.transport.render import PassRun
from westlight.engine.live import Session, Shared
from westlight.engine.scenery import scenery_of
from westlight.engine.spec import PictureSpec
from westlight.engine.still import StillOrder, StillRun
from westlight.engine.translate import ev_of, finish_of, view_of

KEPT = Path(os.environ.get("WESTLIGHT_REFERENCES") or Path.home() / ".cache/westlight/references")
#: Widths of the live picture, and the seconds after which it is looked at.
WIDTHS, SECONDS = (672, 1008), (5.0, 15.0, 60.0)
#: Most FLIP in the mean that is wanted after each time, and for a still.
GOALS = {"5 s": 0.06, "15 s": 0.035, "60 s": 0.035, "still": 0.02}
PASSES = 4096
#: Passes of a part of a reference.
PART = 32
#: FLIP grows with about this power of an error, so this share of what halves differ by is that of their mean.
_POWER = 0.7
_OF_HALVES = 0.5**_POWER


class Reference(NamedTuple):
    """A picture as it should be: pixels (h, w, 3), the exposure it was shown at, and its own FLIP as its halves tell.

    ``finished`` are its pixels with the steps of 8 bits broken up, as stills are and pictures that have come to rest.
    """

    pixels: np.ndarray
    finished: np.ndarray
    spec: PictureSpec
    own: float


def parts_of(passes: int) -> int:
    """How many parts make so many passes; two at least, so that their halves can be compared."""
    return max(2, -(-passes // PART))


def traced_for(name: str, made: Room, width: int) -> tuple[PictureSpec, str]:
    """What a reference is traced for, and the beginning of the names of its files."""
    KEPT.mkdir(parents=True, exist_ok=True)
    spec = spec_of(made, KEPT, name, width_px=width, bounced="traced", bounces=32)
    depends = hashlib.sha256((KEPT / f"{name}.glb").read_bytes())
    depends.update(f"{spec.model_dump_json()}{PART}".encode())
    return spec, f"{name}-{width}-{depends.hexdigest()[:16]}"


def part(name: str, made: Room, width: int, number: int) -> dict[str, np.ndarray]:
    """Part ``number`` of a reference; from disk if it was made before."""
    spec, stem = traced_for(name, made, width)
    file = KEPT / f"{stem}-{number:03d}.npz"
    if not file.exists():
        unfinished = file.with_suffix(".unfinished.npz")
        np.savez(unfinished, **_traced(spec, number))
        unfinished.replace(file)
    with np.load(file) as found:
        return dict(found)


def reference(name: str, made: Room, width: int, passes: int) -> Reference:
    """The picture of a room at a width, traced path by path."""
    spec, _ = traced_for(name, made, width)
    parts = [part(name, made, width, n) for n in range(parts_of(passes))]
    light = _cleaned(parts)
    e = spec.exposure
    ev = (metered_ev(light) or ev_of(e)) - e.compensation
    shutter = shutter_for_ev(ev, e.f_number, e.iso)
    fixed = e.model_copy(update={"automatic": "off", "shutter_s": shutter, "compensation": 0.0})
    spec = spec.model_copy(update={"exposure": fixed, "bounced": "kept"})
    finish = finish_of(spec.finish, e.tone)

    def shown(light: np.ndarray, dither: bool) -> np.ndarray:
        return develop(light, ev_of(fixed), e.kelvin, e.tint, finish, dither=dither).pixels

    odd, even = (shown(_cleaned(half), True) for half in (parts[::2], parts[1::2]))
    whole, finished = shown(light, False), shown(light, True)
    Image.fromarray(whole).save(KEPT / f"{name}-{width}-reference.png")
    return Reference(whole, finished, spec, flip(odd, even)[1] * _OF_HALVES)


def _cleaned(parts: list[dict[str, np.ndarray]]) -> np.ndarray:
    """Light of some parts, what noise is left taken out with the best guides."""
    light, seen, albedo, normal = (
        np.mean([p[name] for p in parts], axis=0) for name in ("light", "seen", "albedo", "normal")
    )
    return Denoiser()(light, albedo, normal, "best", seen)


def _traced(spec: PictureSpec, number: int) -> dict[str, np.ndarray]:
    """A part of a reference: light, what is seen in it, and guides."""
    lit = scenery_of(spec).lit(spec)
    view = view_of(spec.view, spec.width_px, spec.height_px)
    films = {
        str(i): Accumulator.empty(spec.height_px, spec.width_px, split=False) for i in lit.shining
    }
    guide = GuideFilm.empty(spec.height_px, spec.width_px)
    run = PassRun(lit.assembled, view, lit.shining, list(films.values()), guide, upto=PART,
                  seed=1000 + number, bounces=spec.bounces)  # fmt: skip
    while not run.advance(20.0):
        print(
            f"\r  part {number} of a reference: {run.share * 100:5.1f} %", end="", file=sys.stderr
        )
    print(file=sys.stderr)
    film = Film(films, {n: lit.gains[int(n)] for n in films}, guide)
    return {"light": film.beauty, "seen": film.seen, "albedo": film.output_pass("albedo"),
            "normal": film.output_pass("normal")}  # fmt: skip


def flip(wanted: np.ndarray, got: np.ndarray) -> tuple[np.ndarray, float]:
    """FLIP of two shown pictures, by pixel and in the mean."""
    a, b = (p.astype(np.float32) / 255 for p in (wanted, got))
    error, mean, _ = flip_evaluator.evaluate(a, b, "LDR", applyMagma=False)
    return error, float(mean)


def live(spec: PictureSpec) -> dict[str, tuple[np.ndarray, dict[str, Any]]]:
    """The picture that is on screen after some times of undisturbed work, and its head."""
    newest: list[tuple[dict[str, Any], bytes]] = []

    def take(head: dict[str, Any], body: bytes) -> None:
        if head["kind"] == "frame":
            newest.append((head, body))

    picture = Session("bench", Shared(), take)
    begun = time.perf_counter()
    picture.apply(spec)
    found: dict[str, tuple[np.ndarray, dict[str, Any]]] = {}
    for seconds in SECONDS:
        while time.perf_counter() - begun < seconds and picture.work():
            pass
        head, body = newest[-1]
        with Image.open(io.BytesIO(body)) as image:
            whole = image.convert("RGB").resize(
                (spec.width_px, spec.height_px), Image.Resampling.BICUBIC
            )
        found[f"{seconds:.0f} s"] = (np.asarray(whole), head)
    return found


def still(spec: PictureSpec) -> tuple[np.ndarray, dict[str, Any]]:
    """A still at its defaults, and how long it took."""
    begun = time.perf_counter()
    with tempfile.TemporaryDirectory() as folder:
        order = StillOrder(spec=spec, folder=folder, files=["png"], keep=False)
        run = StillRun(order, lambda _: None)
        files = run.render() or {}
        with Image.open(files["png"]) as image:
            pixels = np.asarray(image.convert("RGB"))
    return pixels, {"passes": run.passes, "seconds": time.perf_counter() - begun}


def unevenness(pixels: np.ndarray, made: Room) -> float:
    """Worst standard deviation of log luminance between 2 and 20 pixels on the plain places of a room."""
    y = np.log2(np.maximum(pixels.astype(np.float64).mean(axis=2), 1.0))
    band = gaussian_filter(y, 1.0) - gaussian_filter(y, 10.0)
    height, width = y.shape
    return max(
        float(band[int(t * height) : int(b * height), int(a * width) : int(c * width)].std())
        for a, t, c, b in made.plain
    )


def compare(
    name: str, what: str, made: Room, wanted: np.ndarray, got: np.ndarray, note: str
) -> float:
    """Print a row of figures and keep the picture; returns FLIP in the mean."""
    Image.fromarray(got).save(KEPT / f"{name}-{wanted.shape[1]}-{what.replace(' ', '')}.png")
    error, mean = flip(wanted, got)
    tiles = by_tile(steps_apart(wanted, got))
    uneven = unevenness(got, made) - unevenness(wanted, made)
    goal = GOALS.get(what, 1.0)
    print(
        f"  {wanted.shape[1]:5d} {what:>6} {mean:7.4f} {np.quantile(error, 0.99):7.3f} {np.quantile(tiles, 0.95):7.2f}"
        f" {tiles.max():7.2f} {uneven:8.4f}   {'' if mean <= goal else f'FLIP above {goal}'}  {note}",
        flush=True,
    )
    return mean


def main() -> int:
    """Print the figures of the rooms asked for; the exit code counts goals missed."""
    told = argparse.ArgumentParser()
    told.add_argument("rooms", nargs="*")
    told.add_argument("--only", choices=("live", "still", "reference"))
    told.add_argument("--passes", type=int, default=PASSES)
    told.add_argument("--widths", type=int, nargs="+", default=list(WIDTHS))
    told.add_argument("--traced", action="store_true")
    told.add_argument("--seconds", type=float, nargs="+", default=list(SECONDS))
    asked = told.parse_args()
    globals()["SECONDS"] = asked.seconds
    missed = 0
    # Part by part: what is stopped early has made all of them as well as its time allowed.
    for number in range(parts_of(asked.passes) if asked.only == "reference" else 0):
        for name in asked.rooms or ROOMS:
            for width in asked.widths:
                part(name, room(name), width, number)
    for name in asked.rooms or ROOMS:
        made = room(name)
        print(f"{made.title}\n  width   when    FLIP    99 %  steps95     max   uneven")
        for width in asked.widths:
            ref = reference(name, made, width, asked.passes)
            print(f"  {width:5d} {'itself':>6} {ref.own:7.4f}", flush=True)
            spec = ref.spec.model_copy(update={"bounced": "traced"}) if asked.traced else ref.spec
            if asked.only in (None, "live"):
                for what, (pixels, head) in live(spec).items():
                    note = f"scale {head['scale']}, pass {head['passes']}, told {head['noise']}"
                    wanted = ref.finished if head["settled"] else ref.pixels
                    missed += compare(name, what, made, wanted, pixels, note) > GOALS.get(what, 1)
            if asked.only in (None, "still") and width == asked.widths[0]:
                # A still traces all of every path unless it is told otherwise.
                pixels, head = still(ref.spec.model_copy(update={"bounced": "traced"}))
                note = f"{head['passes']} passes, {head['seconds']:.0f} s"
                missed += compare(name, "still", made, ref.finished, pixels, note) > GOALS["still"]
    return missed


if __name__ == "__main__":
    sys.exit(min(main(), 99))
