"""Light transport as ratios within one run: `./westlight bench transport`. Usage: transport.py DEMO_FOLDER.

Variance is the squared error of a pixel's luminance against a converged picture, relative to that
picture, the worst 2 % of pixels left out; equal time multiplies it by the time of a pass. The spread
among a few passes would not do: where light is hardly ever found, none of them finds it.
"""

from __future__ import annotations

import sys
import time
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np

from bench import best, scene_of, view_of

PASSES = 12
#: Pixels along the side of a block whose mean is compared.
BLOCK = 8


def variance(assembled: Any, view: Any, row: int, bounces: int, fresh: bool = True) -> float:
    """Mean variance of one pass of a source relative to its mean squared, ``PASSES`` independent ones."""
    from westlight.core.colour import AP1_LUMINANCE
    from westlight.core.transport.film import Accumulator
    from westlight.core.transport.render import PassRun

    seen = []
    for k in range(PASSES):
        film = Accumulator.empty(view.height_px, view.width_px)
        PassRun(assembled, view, [row], [film], upto=1, seed=k if fresh else 0,
                bounces=bounces).advance()  # fmt: skip
        seen.append(film.mean() @ AP1_LUMINANCE.astype(np.float32))
    stack = np.array(seen)
    spread = stack.var(axis=0, ddof=1)
    return float(spread[spread <= np.quantile(spread, 0.98)].mean() / stack.mean() ** 2)


def luminance(
    assembled: Any, view: Any, row: int, bounces: int, passes: int, seed: int, cache: Any = None
) -> Any:
    """Luminance (h, w) of one source after some passes, with kept light if a cache of it is given."""
    from westlight.core.colour import AP1_LUMINANCE
    from westlight.core.transport.film import Accumulator
    from westlight.core.transport.render import PassRun

    film = Accumulator.empty(view.height_px, view.width_px)
    PassRun(assembled, view, [row], [film], upto=passes, seed=seed, bounces=bounces, cache=cache,
            cache_keys=["0"] if cache is not None else ()).advance()  # fmt: skip
    return film.mean() @ AP1_LUMINANCE.astype(np.float32)


def squared_error(
    assembled: Any, view: Any, bounces: int, truth: Any, block: int = BLOCK, cache: Any = None
) -> float:
    """Relative squared error of 16 passes of the first source against a converged picture.

    Of blocks of pixels by default, so that each has a thousand paths: a single pixel seldom finds a small window,
    and the few that do would be the worst 2 %.
    """
    from westlight.core.finish import block_mean

    def blocks(picture: Any) -> Any:
        return block_mean(np.repeat(picture[..., None], 3, axis=2).astype(np.float32), block)[
            ..., 0
        ]

    wanted = blocks(truth)
    floor = np.maximum(wanted, 0.02 * wanted.mean()) ** 2
    found = [blocks(luminance(assembled, view, 0, bounces, 16, seed, cache)) for seed in (5, 6, 7)]
    error = np.mean([(f - wanted) ** 2 / floor for f in found], axis=0)
    return float(error[error <= np.quantile(error, 0.98)].mean())


def seconds(
    assembled: Any, view: Any, rows: list[int], bounces: int, threads: int = 2, cache: Any = None
) -> float:
    """Shortest time of a pass over some sources."""
    from westlight.core.transport.film import Accumulator
    from westlight.core.transport.render import PassRun

    def work() -> None:
        films = [Accumulator.empty(view.height_px, view.width_px) for _ in rows]
        PassRun(assembled, view, rows, films, upto=1, bounces=bounces, threads=threads, cache=cache,
                cache_keys=["0"] if cache is not None else ()).advance()  # fmt: skip

    work()
    return best(work, 3)


def gathered(assembled: Any, view: Any) -> Any:
    """Kept light of the first source."""
    from westlight.core.transport.cache import LightCache

    cache = LightCache()
    for _ in range(24):
        cache.read(assembled, view, [0], ["0"], bounces=6)
    return cache


def skies() -> dict[str, Any]:
    """An even sky, a clear one, and a picture with clouds and a bright side."""
    from westlight import core

    rng = np.random.default_rng(2)
    rows = np.linspace(1, 0, 128)[:, None]
    picture = 2000 * rng.lognormal(0, 0.6, (16, 32)).repeat(8, 0).repeat(8, 1)
    picture = np.where(rows > 0.5, picture, 300.0)[..., None] * np.ones(3)
    picture[30:40, 60:75] *= 30
    return {
        "even": core.sky.cie_sky(5, 40.0),
        "clear": core.sky.clear_sky(17.7, 229),
        "picture": core.sources.HdriSource("sky", picture.astype(np.float32)),
    }


def sky_source(made: Any) -> Any:
    """A source of any of `skies`."""
    from westlight import core

    return core.sources.SkySource("sky", made) if isinstance(made, core.sky.Sky) else made


def wheel_room(folder: Path, sky: Any, portals: bool) -> Any:
    """The demo interior under a sky or a sun and a lamp, with or without its openings."""
    from westlight import core
    from westlight.core.analysis import find_doorways, find_openings
    from westlight.core.transport.assemble import assemble

    scene = core.Scene()
    scene.add_model(folder / "saltmarsh.glb")
    scene.add_source(sky_source(sky))
    scene.add_source(core.sources.Sphere("lamp", (0, 0, 2.4), 0.1, luminous_flux_lm=2000))
    build = scene.geometry()
    top = assemble(build, []).top
    found = find_openings(scene.parts, top)
    found += find_doorways(scene.parts, top, found)
    return assemble(build, scene.sources, portals=found if portals else [])


def small_room(sky: Any, portals: bool) -> Any:
    """A room of 5 × 4 × 2.7 m with one window of 1 m², under a sky or a sun and with a lamp."""
    from westlight import core

    scene = core.Scene()
    paint = core.Material(0.6)

    def wall(points: list[list[float]]) -> None:
        scene.add_mesh(points, [[0, 1, 2], [0, 2, 3]], paint)

    wall([[0, 0, 0], [5, 0, 0], [5, 4, 0], [0, 4, 0]])
    wall([[0, 0, 2.7], [5, 0, 2.7], [5, 4, 2.7], [0, 4, 2.7]])
    wall([[0, 0, 0], [0, 4, 0], [0, 4, 2.7], [0, 0, 2.7]])
    wall([[0, 4, 0], [5, 4, 0], [5, 4, 2.7], [0, 4, 2.7]])
    wall([[0, 0, 0], [5, 0, 0], [5, 0, 2.7], [0, 0, 2.7]])
    for y0, y1, z0, z1 in (
        (0, 1.5, 0, 2.7),
        (2.5, 4, 0, 2.7),
        (1.5, 2.5, 0, 0.9),
        (1.5, 2.5, 1.9, 2.7),
    ):
        wall([[5, y0, z0], [5, y1, z0], [5, y1, z1], [5, y0, z1]])
    scene.add_source(sky_source(sky))
    scene.add_source(core.sources.Sphere("lamp", (2, 2, 2.2), 0.1, luminous_flux_lm=2000))
    if portals:
        scene.add_portal((5, 2, 1.4), (-1, 0, 0), 1.0, 1.0)
    return scene.assembled()


def portals(name: str, room: Callable[[Any, bool], Any], view: Any) -> None:
    """Equal-time variance of the sky without portals over that with them."""
    for kind, sky in skies().items():
        open_, guided = room(sky, False), room(sky, True)
        for words, bounces in (("direct", 0), ("all bounces", 6)):
            truth = luminance(guided, view, 0, bounces, 384, seed=99)
            a = squared_error(open_, view, bounces, truth) * seconds(open_, view, [0], bounces)
            b = squared_error(guided, view, bounces, truth) * seconds(guided, view, [0], bounces)
            print(f"{name}, {kind} sky, {words:12}  {a / b:7.1f} × less variance through portals")
        cost = []
        for made in (open_, guided):
            kept = gathered(made, view)
            cost.append(squared_error(made, view, 6, truth, cache=kept)
                        * seconds(made, view, [0], 6, cache=kept))  # fmt: skip
        print(
            f"{name}, {kind} sky, kept light    {cost[0] / cost[1]:7.1f} × less variance through portals"
        )
        slower = seconds(guided, view, [1], 6) / seconds(open_, view, [1], 6)
        print(f"{name}, {kind} sky, a lamp beside it  {slower:4.2f} × the time")


def kept_light(folder: Path) -> None:
    """A pass with kept light against a traced one: time, squared error in equal time, and its bias."""
    from westlight.core.colour import AP1_LUMINANCE
    from westlight.core.transport.cache import LightCache
    from westlight.core.transport.film import Accumulator
    from westlight.core.transport.render import PassRun

    assembled, view, rows = scene_of(folder), view_of(160), [0, 1]
    names = [str(r) for r in rows]
    cache = LightCache()
    for _ in range(48):
        cache.read(assembled, view, rows, names, bounces=6)

    def traced(passes: int, seed: int, kept: bool) -> tuple[Any, float]:
        films = [Accumulator.empty(view.height_px, view.width_px) for _ in rows]
        begun = time.perf_counter()
        PassRun(assembled, view, rows, films, upto=passes, seed=seed, bounces=6,
                cache=cache if kept else None, cache_keys=names if kept else ()).advance()  # fmt: skip
        took = time.perf_counter() - begun
        return [f.mean() @ AP1_LUMINANCE.astype(np.float32) for f in films], took

    truth, _ = traced(512, 99, False)
    long, _ = traced(256, 98, True)
    found = {kept: [traced(16, seed, kept) for seed in (5, 6, 7)] for kept in (False, True)}
    for i, name in enumerate(("sun", "sky")):
        floor = np.maximum(truth[i], 0.02 * truth[i].mean()) ** 2
        cost = {}
        for kept, runs in found.items():
            e = np.mean([(light[i] - truth[i]) ** 2 / floor for light, _ in runs], axis=0)
            cost[kept] = float(e[e <= np.quantile(e, 0.98)].mean()) * min(t for _, t in runs)
        print(
            f"kept light, {name}: {cost[False] / cost[True]:4.2f} × less variance in equal time, "
            f"mean {long[i].mean() / truth[i].mean():5.3f} of the traced one"
        )
    times = {kept: min(t for _, t in runs) for kept, runs in found.items()}
    print(f"kept light: a traced pass takes {times[False] / times[True]:4.2f} × the time")


def compensation(folder: Path) -> None:
    """Equal-time variance of sky light outdoors with the plain table over that with the compensated one."""
    from westlight import core

    view = core.View((-16, -9, 1.6), (-6, 0, 2.5), 24, 160, 90)
    for kind, sky in skies().items():
        made = wheel_room(folder, sky, False)
        table, half = made.arrays.sky_table.copy(), len(made.sources[0].tables.rows) // 2
        table[1 + half : 1 + 2 * half] = table[1 : 1 + half]
        plain = replace(made, arrays=made.arrays._replace(sky_table=table))
        truth = luminance(made, view, 0, 4, 384, seed=99)
        a = squared_error(plain, view, 4, truth, 1) * seconds(plain, view, [0], 4)
        b = squared_error(made, view, 4, truth, 1) * seconds(made, view, [0], 4)
        print(f"outdoors, {kind} sky  {a / b:5.2f} × less variance by compensation")


def sun_patches(folder: Path) -> None:
    """Equal-time variance of the sun indoors found by chance over that with patches of it joined."""
    from westlight import core

    rooms = {
        "wheel room": (wheel_room(folder, core.sources.Sun("sun", 229, 17.7), True), view_of(160)),
        "one window": (small_room(core.sources.Sun("sun", 80, 30), True), inside()),
    }
    for name, (made, view) in rooms.items():
        nowhere = np.full_like(made.arrays.cell_rows, -1)
        chance = replace(made, arrays=made.arrays._replace(cell_rows=nowhere))
        truth = (luminance(made, view, 0, 6, 384, 99) + luminance(chance, view, 0, 6, 384, 98)) / 2
        a = squared_error(chance, view, 6, truth, 1) * seconds(chance, view, [0], 6)
        b = squared_error(made, view, 6, truth, 1) * seconds(made, view, [0], 6)
        print(f"{name}, sun, all bounces  {a / b:5.2f} × less variance by joined patches")


def glints(folder: Path) -> None:
    """Equal-time variance of sun and sky indoors with what floors and water mirror left to chance, over that
    with glints looked for."""
    from westlight import core

    for kind, source in (
        ("sun", core.sources.Sun("sun", 229, 17.7)),
        ("sky", core.sky.clear_sky(17.7, 229)),
    ):
        made, view = wheel_room(folder, source, True), view_of(160)
        none = np.array([-1, -1], np.int64)
        chance = replace(made, arrays=made.arrays._replace(glint_sources=none))
        truth = (luminance(made, view, 0, 6, 384, 99) + luminance(chance, view, 0, 6, 384, 98)) / 2
        a = squared_error(chance, view, 6, truth) * seconds(chance, view, [0], 6)
        b = squared_error(made, view, 6, truth) * seconds(made, view, [0], 6)
        print(f"wheel room, {kind}, all bounces  {a / b:5.2f} × less variance by glints looked for")


def accumulators(folder: Path) -> None:
    """Time of a pass over twelve lamps with an accumulator each over that with one for all."""
    from westlight import core
    from westlight.core.transport import layout as L
    from westlight.core.transport.cache import NO_CACHE
    from westlight.core.transport.kernels.passes import trace_rows
    from westlight.core.transport.render import _NONE_KEPT
    from westlight.core.transport.threads import Bench

    scene = core.Scene()
    scene.add_model(folder / "saltmarsh.glb")
    for i in range(12):
        at = (-5.0 + i * 0.9, 0.5, 2.5)
        scene.add_source(core.sources.Sphere(f"lamp {i}", at, 0.05, luminous_flux_lm=800))
    made, view = scene.assembled(), view_of(320)
    rows = np.arange(12, dtype=np.int32)

    def work(slot_of: Any, slots: int) -> None:
        bench = Bench(made, slots, view.width_px)
        clamp = np.full(slots, 3e38, np.float32)
        passes = L.Passes(6, np.float32(0), np.zeros((1, 1, 1), np.uint8), True, 1, 0, 1)
        for row in range(0, view.height_px, 8):
            end = min(row + 8, view.height_px)
            out = bench.band(end - row, view.width_px, slots)
            trace_rows(
                made.arrays, NO_CACHE, None, view.camera_array(), _NONE_KEPT, L.Sources(rows, slot_of), passes,
                L.Block(row, end, 0, view.width_px), L.Into(out, bench.guide, clamp), bench.tools(slots),
            )  # fmt: skip

    # Materials that shine are sources, too; they stay dark here.
    apart = np.full(len(made.sources), -1, np.int32)
    apart[:12] = rows
    merged = np.where(apart >= 0, 0, -1).astype(np.int32)
    work(apart, 12)
    cost = best(lambda: work(apart, 12), 3) / best(lambda: work(merged, 1), 3)
    print(f"twelve accumulators take {cost:5.3f} × the time of one   (≤ 1.15)")


def many_lamps() -> None:
    """Noise and time of 500 and 2000 small lamps against one lamp of their place and size, and the
    noise of choosing among them evenly."""
    from westlight import core
    from westlight.core.transport import layout as L

    view = core.View((0, -18, 4), (0, 0, 1), width_px=160, height_px=90)
    found = {}
    for count in (1, 500, 2000):
        rng = np.random.default_rng(1)
        scene = core.Scene()
        scene.add_mesh([[-20, -20, 0], [20, -20, 0], [20, 20, 0], [-20, 20, 0]],
                       [[0, 1, 2], [0, 2, 3]], core.Material(0.5))  # fmt: skip
        at = rng.uniform([-15, -15, 2], [15, 15, 4], (count, 3))
        # Not seen by the camera: a lamp met by some passes of a pixel would drown the rest.
        lamps = [
            core.sources.Sphere("l", tuple(p), 0.05, luminous_flux_lm=1e5 / count, visible=False)
            for p in at
        ]
        scene.add_source(core.sources.Group("lamps", lamps))
        made = scene.assembled()
        found[count] = (variance(made, view, 0, 0), seconds(made, view, [0], 0))
        if count == 500:
            # Nodes that all look alike but for how many lamps they hold: an even choice.
            tree = made.arrays.tree_floats.copy()
            tree[:, : L.B_POWER], tree[:, L.B_SPREAD], tree[:, L.B_RADIUS] = 0.0, 1e6, 1e9
            tree[:, L.B_EVERY] = 1.0
            even = replace(made, arrays=made.arrays._replace(tree_floats=tree))
            ratio = variance(even, view, 0, 0) / found[count][0]
            print(f"500 lamps: {ratio:5.1f} × less variance than an even choice  (≥ 10)")
    for count in (500, 2000):
        v, t = found[count]
        print(
            f"{count} lamps: relative variance {v:6.3f}, {t / found[1][1]:4.1f} × the time of one lamp"
        )


def points(folder: Path) -> None:
    """Variance of the mean of 16 passes with Sobol' points against independent ones."""
    from westlight.core.colour import AP1_LUMINANCE
    from westlight.core.transport.film import Accumulator
    from westlight.core.transport.render import PassRun

    assembled, view = wheel_room(folder, skies()["clear"], True), view_of(160)
    found = []
    for independent in (False, True):
        means = []
        for k in range(8):
            film = Accumulator.empty(view.height_px, view.width_px)
            for n in range(16):
                one = Accumulator.empty(view.height_px, view.width_px) if independent else film
                seed = 1000 + k * 16 + n if independent else k
                PassRun(assembled, view, [0], [one], upto=1 if independent else n + 1, seed=seed,
                        bounces=0).advance()  # fmt: skip
                if independent:
                    film.add(one)
            means.append(film.mean() @ AP1_LUMINANCE.astype(np.float32))
        spread = np.var(means, axis=0, ddof=1)
        found.append(float(spread[spread <= np.quantile(spread, 0.98)].mean()))
    print(
        f"Sobol' points, 16 passes of direct sky light  {found[1] / found[0]:5.2f} × less variance"
    )


def growth() -> None:
    """Time of a pass and of the build with the number of triangles."""
    from westlight import core

    view = core.View((0, -30, 20), (0, 0, 0), width_px=160, height_px=90)
    first = None
    for side in (71, 224, 708, 2237):
        x = np.linspace(-20, 20, side)
        gx, gy = np.meshgrid(x, x, indexing="ij")
        gz = np.random.default_rng(3).uniform(0, 0.5, gx.shape)
        points = np.stack([gx, gy, gz], axis=-1).reshape(-1, 3)
        i = np.arange(side * side).reshape(side, side)
        a, b, c, d = (i[:-1, :-1], i[1:, :-1], i[1:, 1:], i[:-1, 1:])
        faces = np.concatenate([np.stack([a, b, c], -1), np.stack([a, c, d], -1)]).reshape(-1, 3)
        scene = core.Scene()
        scene.add_mesh(points, faces, core.Material(0.5))
        scene.add_source(core.sources.SkySource("sky", core.sky.clear_sky(40)))
        begun = time.perf_counter()
        made = scene.assembled()
        built = time.perf_counter() - begun
        t = seconds(made, view, [0], 4)
        first = first or t
        print(f"{len(faces):9,d} triangles: pass {t / first:4.2f} ×, build {built:5.2f} s")


def goals(folder: Path) -> None:
    """Error of the denoised picture after a time, traced and with kept light, against converged ones.

    Two kinds, brightest hundredth of the pixels left out of both: root of the mean squared difference
    over the mean of the picture, and the same with each difference over what its own pixel holds. Two
    independent references a and b: (d − a)(d − b) has the expectation of the squared error of d,
    whatever noise they have themselves. Passes go to the sources that make noise, as in the application.
    """
    from westlight.core.colour import AP1_LUMINANCE
    from westlight.core.transport.cache import LightCache
    from westlight.core.transport.denoise import Denoiser
    from westlight.core.transport.film import Accumulator, GuideFilm
    from westlight.core.transport.glances import GLANCES
    from westlight.core.transport.render import PassRun

    made = scene_of(folder, lamps=True, portals=True)
    rows = list(range(len(made.sources)))
    denoise, y = Denoiser(), AP1_LUMINANCE.astype(np.float32)
    gains = [s.gain.astype(np.float32) for s in made.sources]

    def mixed(
        view: Any,
        passes: int,
        end: float,
        kept: bool,
        seed: int,
        glances: tuple[int, ...] = GLANCES,
    ) -> tuple[Any, Any, Any, float]:
        films = [Accumulator.empty(view.height_px, view.width_px) for _ in rows]
        guide = GuideFilm.empty(view.height_px, view.width_px)
        cache = LightCache() if kept else None
        names = [str(r) for r in rows]
        for _ in range(24 if cache is not None else 0):
            cache.read(made, view, rows, names, bounces=6)  # type: ignore[union-attr]
        worth = rows
        for upto in (2, passes):
            PassRun(made, view, worth, [films[i] for i in worth], guide, upto=upto, seed=seed, bounces=6,
                    cache=cache, cache_keys=[names[i] for i in worth] if kept else (), glances=glances,
                    ).advance(end - time.perf_counter())  # fmt: skip
            noise = [
                float(f.error()[..., 0].mean() * (g @ y)) for f, g in zip(films, gains, strict=True)
            ]
            worth = [i for i in rows if noise[i] > 0.05 * max(noise)] or rows
        mix = sum(f.mean() * g for f, g in zip(films, gains, strict=True))
        seen = sum(f.seen_mean() * g for f, g in zip(films, gains, strict=True))
        return mix, seen, guide, max(f.mean_samples for f in films)

    def clean(mix: Any, seen: Any, guide: Any) -> Any:
        albedo, normal = guide.output_pass("albedo"), guide.output_pass("normal")
        return denoise(mix, albedo, normal, "best", seen) @ y

    for width, limit, passes in ((640, 6.0, 40), (1280, 60.0, 12)):
        view = view_of(width)
        never = time.perf_counter() + 1e6
        (a, seen, guide, _), (b, _, _, _) = (mixed(view, passes, never, False, s) for s in (77, 78))
        whole = clean((a + b) / 2, seen, guide)
        usual = whole <= np.quantile(whole, 0.99)
        mean = whole[usual].mean()
        for kept, glances in ((False, (0,)), (False, GLANCES), (True, GLANCES)):
            end = time.perf_counter() + limit
            mix, seen, guide, samples = mixed(view, 10**5, end, kept, 5, glances)
            got = clean(mix, seen, guide)
            square = (got - a @ y) * (got - b @ y)
            own = square / np.maximum(whole, 0.02 * mean) ** 2
            errors = [max(e[usual].mean(), 0) ** 0.5 * 100 for e in (square / mean**2, own)]
            name = f"{'kept light' if kept else 'every path traced'}, {'glances' if glances[0] else 'no glances'}"
            print(f"{width} px, {limit:.0f} s, {name}: {samples:4.1f} passes, {errors[0]:4.1f} % of the mean, "
                  f"{errors[1]:4.1f} % of each pixel off the converged picture")  # fmt: skip


def inside() -> Any:
    """A view of the small room."""
    from westlight import core

    return core.View((0.4, 0.5, 1.5), (4, 3, 1.2), 22, 160, 90)


def main(folder: Path) -> None:
    """Print all figures."""
    portals("wheel room", lambda sky, on: wheel_room(folder, sky, on), view_of(160))
    portals("one window", small_room, inside())
    compensation(folder)
    sun_patches(folder)
    glints(folder)
    accumulators(folder)
    kept_light(folder)
    goals(folder)
    many_lamps()
    points(folder)
    growth()


if __name__ == "__main__":
    main(Path(sys.argv[1]))
