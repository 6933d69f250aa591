"""Speeds as ratios within one run: `./westlight bench`.

Absolute times are information only; machines differ and drift. Usage: bench.py DEMO_FOLDER.
"""

from __future__ import annotations

import io
import json
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np

sys.path.insert(0, str(Path(__file__).parents[2]))
from tests import stored
from tests.bench.figures import Figures

#: Time of using every kernel once in a new process, less that of doing the same again.
LOADING = """
import time
from westlight.core.sky import clear
from westlight.core.warm import compile_kernels
taken = []
for _ in range(2):
    clear.clear_sky.cache_clear(), clear._air.cache_clear(), clear.sun_irradiance.cache_clear()
    begun = time.perf_counter()
    compile_kernels()
    taken.append(time.perf_counter() - begun)
print(taken[0] - taken[1])
"""


def scene_of(folder: Path, lamps: bool = False, portals: bool = False) -> Any:
    """The demo under a late sun, assembled; with its openings as portals if asked for."""
    from westlight import core
    from westlight.core.analysis import find_doorways, find_openings
    from westlight.core.transport.assemble import assemble

    scene = core.Scene()
    scene.add_model(folder / "saltmarsh.glb")
    scene.add_source(core.sources.Sun("sun", 229, 17.7))
    scene.add_source(core.sources.SkySource("sky", core.sky.clear_sky(17.7, 229)))
    if lamps:
        for entry in json.loads((folder / "saltmarsh.json").read_text())["fixtures"][:2]:
            made = [core.sources.Rectangle("r", p["position"], p["direction"], entry["width"],
                                           entry["height"], luminous_flux_lm=entry["lumen"])
                    for p in entry["places"]]  # fmt: skip
            scene.add_source(core.sources.Group(entry["name"], made))
    if not portals:
        return scene.assembled()
    plain = scene.assembled()
    found = find_openings(scene.parts, plain.top)
    found += find_doorways(scene.parts, plain.top, found)
    return assemble(plain.build, plain.sources, portals=found)


def view_of(width: int) -> Any:
    """The interior view of the demo."""
    from westlight import core

    return core.View((5.55, -2.45, 1.55), (-4.6, 1.3, 1.42), 21, width, width * 9 // 16, True)


def one_pass(assembled: Any, width: int, active: list[int], bounces: int, threads: int) -> int:
    """One pass; returns rays."""
    from westlight.core.transport.film import Accumulator, GuideFilm
    from westlight.core.transport.render import PassRun

    view = view_of(width)
    films = [Accumulator.empty(view.height_px, width) for _ in active]
    run = PassRun(assembled, view, active, films, GuideFilm.empty(view.height_px, width), upto=1,
                  bounces=bounces, threads=threads)  # fmt: skip
    run.advance()
    return run.rays


def best(work: Callable[[], Any], times: int = 5) -> float:
    """Shortest of several runs in seconds."""
    found = []
    for _ in range(times):
        begun = time.perf_counter()
        work()
        found.append(time.perf_counter() - begun)
    return min(found)


def record(folder: Path, out: Path) -> None:
    """Write every ray of one pass: Python callbacks are linked into the kernels in Embree's place."""
    import ctypes

    import llvmlite.binding as llvm

    from westlight.core.transport import embree

    rays: list[bytes] = []
    kinds: list[int] = []
    signature = ctypes.CFUNCTYPE(None, ctypes.c_void_p, ctypes.c_void_p, ctypes.c_void_p)
    kept = []
    for kind, name in enumerate(("rtcIntersect1", "rtcOccluded1")):
        itself = getattr(embree._lib, name)
        itself.argtypes, itself.restype = [ctypes.c_void_p] * 3, None

        def hook(
            scene: int, ray: int, arguments: int, kind: int = kind, itself: Any = itself
        ) -> None:
            rays.append(ctypes.string_at(ray, 40))
            kinds.append(kind)
            itself(scene, ray, arguments)

        kept.append(signature(hook))
        llvm.add_symbol(name, ctypes.cast(kept[-1], ctypes.c_void_p).value)
    made = scene_of(folder, portals=True)
    # Not what looked around the openings.
    rays.clear()
    kinds.clear()
    one_pass(made, 320, [0, 1], 6, 1)
    table = np.frombuffer(b"".join(rays), np.float32).reshape(-1, 10)
    np.savez(out, rays=table, kinds=np.array(kinds, np.int32))


def replay(assembled: Any, file: Path) -> tuple[int, float, float]:
    """Number of rays of a recording, and the shortest times raw Embree needs for them on one core and on two."""
    from concurrent.futures import ThreadPoolExecutor

    from numba import njit, uint32, uint64

    from westlight.core.transport.embree import MASK_PANE, intersect1, occluded1, ray_buffer

    @njit(nogil=True, _nrt=False)  # type: ignore[misc]
    def empty(scene, panes, rays, kinds, ray):  # type: ignore[no-untyped-def]
        words, source = ray.view(np.uint32), rays.view(np.uint32)
        address = uint64(ray.ctypes.data)
        for i in range(rays.shape[0]):
            for k in range(10):
                ray[k] = rays[i, k]
            words[17] = words[18] = words[19] = uint32(0xFFFFFFFF)
            if kinds[i] == 1:
                occluded1(scene, address, uint64(0))
            elif source[i, 9] == MASK_PANE:
                intersect1(panes, address, uint64(0))
            else:
                intersect1(scene, address, uint64(0))

    loaded = np.load(file)
    rays, kinds = np.ascontiguousarray(loaded["rays"]), loaded["kinds"]
    arrays = assembled.arrays
    buffers = ray_buffer(), ray_buffer()

    def part(n: int, of: int) -> None:
        # Runs of rays, as tiles are: neighbours read the same parts of the building.
        for at in range(n * 4096, len(rays), of * 4096):
            run = slice(at, at + 4096)
            empty(arrays.scene, arrays.panes, rays[run], kinds[run], buffers[n])

    part(0, 1)
    with ThreadPoolExecutor(2) as pool:
        double = best(lambda: list(pool.map(lambda n: part(n, 2), range(2))))
    return len(rays), best(lambda: part(0, 1)), double


def pictures(figures: Figures) -> None:
    """Mixing, showing and encoding twelve and two dozen sources at 1280×720."""
    from PIL import Image

    from westlight.core.finish import Mixture, show

    rng = np.random.default_rng(0)
    base = rng.uniform(0, 1, (90, 160, 3)).repeat(8, 0).repeat(8, 1).astype(np.float32)
    # Two dozen in a fifteenth of a second.
    for count, wanted in ((12, 40.0), (24, 66.0)):
        sources = [base * np.float32(i + 1) for i in range(count)]
        gains, mixture, turn = [np.ones(3)] * count, Mixture(), iter(range(10**6))

        def change(
            sources: Any = sources, gains: Any = gains, mixture: Any = mixture, turn: Any = turn
        ) -> None:
            gains[5] = np.full(3, 1.0 + 0.01 * next(turn))
            shown = show(mixture.of(sources, gains), 4.0, 5600)
            Image.fromarray(shown.pixels).save(io.BytesIO(), "JPEG", quality=90)

        change()
        name = f"changed level, {count} sources, 1280×720, encoded"
        figures.add(name, best(change) * 1e3, "ms", wanted)


def engine(folder: Path) -> None:
    """The live engine: a moved sun, the picture after letting go, memory."""
    import resource

    import psutil

    from westlight.engine.live import Session, Shared
    from westlight.engine.spec import (
        FixtureSettings,
        PictureSpec,
        SkySettings,
        SourceSpec,
        SunSettings,
    )

    frames: list[dict[str, Any]] = []
    live = Session(
        "bench", Shared(), lambda head, _: frames.append(head) if head["kind"] == "frame" else None
    )

    # Once: to store a file reads and hashes all of it, which is no part of a moved sun.
    model = stored.model(folder / "saltmarsh.glb")

    def spec(azimuth: float, moving: bool) -> PictureSpec:
        place = {"azimuth_deg": azimuth, "elevation_deg": 18.0}
        sources = [SourceSpec(id="sun", name="Sun", settings=SunSettings(**place)),
                   SourceSpec(id="sky", name="Sky", settings=SkySettings(**place))]  # fmt: skip
        for i in range(10):
            at = [{"position": (-5.0 + i, 0.0, 2.5)}]
            settings = FixtureSettings(shape="disc", places=at)  # type: ignore[arg-type]
            sources.append(SourceSpec(id=f"f{i}", name=f"f{i}", settings=settings))
        return PictureSpec(model=model, sources=sources, moving=moving)

    def until(condition: Callable[[dict[str, Any]], bool]) -> None:
        frames.clear()
        while not any(condition(f) for f in frames):
            if not live.work():
                break

    live.apply(spec(240.0, False))
    until(lambda f: f["scale"] == 1 and f["passes"] >= 1)
    times = []
    for i in range(12):
        begun = time.perf_counter()
        live.apply(spec(239.0 - i, True))
        until(lambda f: f["scale"] == 4)
        times.append(time.perf_counter() - begun)
    times.sort()
    rate = len(times) / sum(times)
    begun = time.perf_counter()
    live.apply(spec(226.5, False))
    until(lambda f: f["scale"] == 2)
    after = time.perf_counter() - begun
    until(lambda f: f["scale"] == 1 and f["passes"] >= 1)
    live.apply(live.prepared.spec.model_copy(update={"paused": True}))
    while live.work():
        pass
    told = {"moved": times[5] * 1e3, "rate": rate, "after": after * 1e3,
            "rest": psutil.Process().memory_info().rss / 2**30,
            "most": resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 2**20}  # fmt: skip
    print(json.dumps(told))


def main(folder: Path) -> int:
    """Print and log all figures; returns how many goals were missed."""
    figures = Figures()
    cached = subprocess.run([sys.executable, "-c", LOADING], capture_output=True, text=True,
                            check=True)  # fmt: skip
    with tempfile.TemporaryDirectory() as scratch:
        file = Path(scratch) / "rays.npz"
        subprocess.run([sys.executable, __file__, "--record", str(folder), str(file)], check=True)
        assembled = scene_of(folder, portals=True)
        one_pass(assembled, 320, [0, 1], 6, 1)
        # In turn, and shares of one turn only: a shared machine is quick for a minute and slow for another.
        found = []
        for _ in range(5):
            rays, raw, raw_double = replay(assembled, file)
            single = best(lambda: one_pass(assembled, 320, [0, 1], 6, 1), 3)
            alone = best(lambda: one_pass(assembled, 640, [0, 1], 3, 1), 1)
            double = best(lambda: one_pass(assembled, 640, [0, 1], 3, 2), 1)
            found.append((raw, raw_double, single, alone, double))
        turns = np.array(found).T
        raw, single = turns[0].min(), turns[2].min()
        traced = one_pass(assembled, 320, [0, 1], 6, 1)
    share = float(np.median(turns[0] / turns[2])) * traced / rays
    gain, raw_gain = np.median(turns[3] / turns[4]), np.median(turns[0] / turns[1])
    figures.add("raw Embree, the tracer's own rays, one core", rays / raw / 1e6, "M/s", digits=2)
    figures.add("path tracer, one core", traced / single / 1e6, "M/s", digits=2)
    figures.add("tracer / raw Embree", share * 100, "%", 41, "at least")
    figures.add("two threads / one", float(gain), "×", 1.85, "at least", 2)
    figures.add("… of raw Embree", float(raw_gain), "×", digits=2)
    figures.add("all kernels loaded from cache", float(cached.stdout), "s", 1, digits=2)
    pictures(figures)
    # A process of its own, as in the application: its memory is the engine's alone.
    told = subprocess.run(
        [sys.executable, __file__, "--engine", str(folder)], check=True, stdout=subprocess.PIPE
    )
    live = json.loads(told.stdout.splitlines()[-1])
    figures.add("moved sun, direct light at 320×180", live["moved"], "ms", 45)
    figures.add("pictures a second under a moving sun", live["rate"], "/s", 20, "at least", 1)
    figures.add("hand let go, 640×360 with bounces, denoised", live["after"], "ms", 400)
    figures.add("engine memory at rest, 1280×720, 12 sources", live["rest"], "GB", 1.2, digits=2)
    figures.add("… at most, while it is denoised", live["most"], "GB", 1.6, digits=2)
    figures.log()
    return figures.missed


if __name__ == "__main__":
    if sys.argv[1] == "--record":
        record(Path(sys.argv[2]), Path(sys.argv[3]))
    elif sys.argv[1] == "--engine":
        engine(Path(sys.argv[2]))
    else:
        sys.exit(min(main(Path(sys.argv[1])), 99))
