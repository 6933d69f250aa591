"""Cases with known answers as a page: `./westlight validate` writes docs/validation.md."""

from __future__ import annotations

import math
import sys
from collections.abc import Callable, Sequence
from pathlib import Path

import numpy as np

from westlight import core
from westlight.core.colour import luminance as lux

UP = [[0.0, 0.0, 1.0]]
RUNS = 8


def _irradiance(build: Callable[[core.Scene], None], samples: int, bounces: int = 0,
                point: tuple[float, float, float] = (0, 0, 0),
                facing: Sequence[Sequence[float]] = UP) -> np.ndarray:  # fmt: skip
    """Illuminance at a point in several runs with seeds of their own."""
    scene = core.Scene()
    build(scene)
    return np.array([
        float(lux(core.irradiance(scene, [point], facing, samples=samples, bounces=bounces, seed=s))[0])
        for s in range(RUNS)
    ])  # fmt: skip


def _box(scene: core.Scene, material: core.Material) -> None:
    points = [[x, y, z] for x in (-2, 2) for y in (-2, 2) for z in (0, 3)]
    faces = [[0, 1, 3], [0, 3, 2], [4, 6, 7], [4, 7, 5], [0, 4, 5], [0, 5, 1],
             [2, 3, 7], [2, 7, 6], [0, 2, 6], [0, 6, 4], [1, 5, 7], [1, 7, 3]]  # fmt: skip
    scene.add_mesh(points, faces, material)


def cases() -> list[tuple[str, float, np.ndarray]]:
    """Name, wanted, and what several runs gave."""
    s = core.sources
    out = []
    out.append((
        "Lambert disc, r 0.5 m at 2 m: E = πL·r²/(r²+h²)", math.pi * 1000 * 0.25 / 4.25,
        _irradiance(lambda c: c.add_source(
            s.Disc("d", (0, 0, 2), (0, 0, -1), 0.5, luminance_cd_m2=1000)), 4096),
    ))  # fmt: skip
    a = b = 0.5
    h = 1.0
    x, y = a / h, b / h
    factor = 4 / (2 * math.pi) * (
        x / math.sqrt(1 + x * x) * math.atan(y / math.sqrt(1 + x * x))
        + y / math.sqrt(1 + y * y) * math.atan(x / math.sqrt(1 + y * y)))  # fmt: skip
    out.append((
        "Rectangle 1 × 1 m, parallel at 1 m (configuration factor)", math.pi * 1000 * factor,
        _irradiance(lambda c: c.add_source(
            s.Rectangle("r", (0, 0, h), (0, 0, -1), 1, 1, luminance_cd_m2=1000)), 4096),
    ))  # fmt: skip
    out.append((
        "Sphere of 100 cd at 3 m: E = I/d²", 100 / 9,
        _irradiance(lambda c: c.add_source(
            s.Sphere("p", (0, 0, 3), 0.01, luminous_intensity_cd=100)), 1024),
    ))  # fmt: skip
    out.append((
        "Spot of 900 cd straight below at 3 m", 100.0,
        _irradiance(lambda c: c.add_source(
            s.Spot("s", (0, 0, 3), (0, 0, -1), 24, 48, luminous_intensity_cd=900)), 64),
    ))  # fmt: skip
    flat = core.sky.Sky(np.full((4, 4, 3), 1000.0), 0.0, 0.0, np.full(3, 1000.0))
    out.append((
        "Even sky of 1000 cd/m² on open ground: E = πL", math.pi * 1000,
        _irradiance(lambda c: c.add_source(s.SkySource("sky", flat)), 4096),
    ))  # fmt: skip
    overcast = core.sky.cie_sky(1, 40.0, horizontal_illuminance_lx=10_000)
    out.append((
        "CIE overcast sky of 10 000 lx on open ground", 10_000.0,
        _irradiance(lambda c: c.add_source(s.SkySource("sky", overcast)), 8192),
    ))  # fmt: skip
    for rho in (0.5, 0.9):
        out.append((
            f"Closed cavity, ρ = {rho}: L = Le/(1 − ρ)", 10.0 / (1 - rho),
            _irradiance(lambda c, rho=rho: _box(c, core.Material(rho, emission_cd_m2=10.0)), 1024,  # type: ignore[misc]
                        200, (0.3, 0.2, 1.5)) / math.pi,
        ))  # fmt: skip
    pane = 2 * ((0.52 / 2.52) ** 2) / (1 + (0.52 / 2.52) ** 2)

    def glazed(c: core.Scene) -> None:
        c.add_mesh([[-5, -5, 1], [5, -5, 1], [5, 5, 1], [-5, 5, 1]], [[0, 1, 2], [0, 2, 3]],
                   core.Material(1.0, transmission=1.0, ior=1.52))  # fmt: skip
        c.add_source(s.Sun("sun", 180, 90, normal_illuminance_lx=1000))

    out.append(("Pane n = 1.52 under a zenith sun: T = (1−R)/(1+R)", 1000 * (1 - pane),
                _irradiance(glazed, 64)))  # fmt: skip
    return out


#: Twilight on open ground by clear sky, almanac values, in lux by elevation of the sun.
ALMANAC = [(-0.8, 450.0), (-6.0, 3.4), (-12.0, 0.008), (-18.0, 0.0007)]


def mirrored() -> tuple[str, float, np.ndarray]:
    """Name, wanted, and what several runs gave, of the sun thrown at a wall by a floor of bright metal."""

    def build(scene: core.Scene) -> None:
        points = [[-80, -80, 0], [80, -80, 0], [80, 0, 0], [-80, 0, 0]]
        steel = core.Material(1.0, roughness=0.08, metallic=1.0)
        scene.add_mesh(points, [[0, 1, 2], [0, 2, 3]], steel)
        scene.add_source(core.sources.Sun("sun", 180, 25, normal_illuminance_lx=1000.0))

    wanted = 2 * 1000 * math.cos(math.radians(25))
    got = _irradiance(build, 4096, 1, (0, 0, 1.5), [[0.0, -1.0, 0.0]])
    return "Wall over a metal floor, sun at 25°: E = 2·E₀·cos 25°", wanted, got


def of_the_standard() -> list[tuple[str, float, np.ndarray]]:
    """Daylight cases of CIE 171:2006: name, lux wanted, lux of several runs."""
    sys.path.insert(0, str(Path(__file__).parents[2]))
    from tests.core.test_cie171 import before_a_window, under_a_roof

    out = []
    for kind, elevation, words in ((1, 60.0, "overcast"), (12, 60.0, "clear")):
        made = {f"CIE 171 roof opening, {w}, CIE {words} sky": under_a_roof(kind, elevation, g)
                for g, w in ((False, "open"), (True, "glazed"))}  # fmt: skip
        made |= {f"CIE 171 façade opening, {w}, CIE {words} sky": before_a_window(kind, elevation, m)
                 for m, w in (("none", "free"), ("overhang", "under an overhang"),
                              ("wall before it", "before a wall"))}  # fmt: skip
        for name, (scene, points, wanted) in made.items():
            runs = [float(lux(core.irradiance(scene, points[1:2], UP, samples=16384, bounces=0,
                                              seed=s))[0]) for s in range(RUNS)]  # fmt: skip
            out.append((name, wanted[1], np.array(runs)))
    return out


def plots(folder: Path) -> list[str]:
    """Drawings of the clear sky beside the page; returns lines that show them."""
    from plots import draw

    from westlight.core.colour import white_of

    folder.mkdir(exist_ok=True)
    heights = np.concatenate([np.arange(-18, 2, 0.5), np.arange(2, 90, 2)])
    skies = {float(e): core.sky.clear_sky(float(e)) for e in heights}
    ies = [
        (float(e), 800 + 15_500 * math.sqrt(math.sin(math.radians(e)))) for e in range(10, 90, 5)
    ]
    draw(folder / "illuminance.svg", "elevation of the sun, degrees", "lux on open ground", [
        ("clear sky", [(e, s.horizontal_illuminance()) for e, s in skies.items()], "line"),
        ("IES daylight equation", ies, "dots"), ("almanac, twilight", ALMANAC, "dots"),
    ], logarithmic=True)  # fmt: skip
    up = [[0.0, 0.0, 1.0]]
    zenith = [(e, white_of(s.rgb(up)[0])[0]) for e, s in skies.items() if e > -9]
    draw(folder / "zenith.svg", "elevation of the sun, degrees", "kelvin of the zenith",
         [("clear sky, haze 2", zenith, "line")])  # fmt: skip
    curves = []
    for e in (0.0, -2.0, -4.0, -6.0, -9.0):
        sky = core.sky.clear_sky(e, 180.0)
        at = np.arange(0.0, 60.0, 1.0)
        seen = sky.luminance([core.sun.direction(180.0, float(a)) for a in at])
        curves.append(
            (f"sun at {e:g}°", list(zip(at.tolist(), seen.tolist(), strict=True)), "line")
        )
    draw(folder / "horizon.svg", "degrees above the horizon, under the sun's azimuth", "cd/m²",
         curves, logarithmic=True)  # fmt: skip
    return [
        "![Lux on open ground by the sun's elevation](validation/illuminance.svg)",
        "![Colour temperature of the zenith](validation/zenith.svg)",
        "![Luminance above the horizon at dusk](validation/horizon.svg)",
    ]


def main(target: Path) -> int:
    """Write the page; returns how many cases are off by more than 1 %."""
    rows, off = [], 0
    for name, wanted, runs in [*cases(), mirrored(), *of_the_standard()]:
        got, error = float(runs.mean()), float(runs.std(ddof=1)) / math.sqrt(len(runs))
        gap = got / wanted - 1
        off += abs(gap) > 0.01
        rows.append(f"| {name} | {wanted:.5g} | {got:.5g} | {error:.1g} | {gap * 100:+.2f} % |")
    sky = []
    for e in (80, 60, 40, 20, 10, -0.83, -6, -12):
        clear = core.sky.clear_sky(float(e))
        sky.append(f"| {e}° | {clear.horizontal_illuminance():.4g} | "
                   f"{clear.sun_normal_illuminance():.4g} |")  # fmt: skip
    target.write_text(
        "# Validation\n\nMade by `./westlight validate`. Each case is rendered "
        f"{RUNS} times with other seeds; the error is that of their mean.\n\n"
        "| case | wanted | got | standard error | off by |\n|---|---|---|---|---|\n"
        + "\n".join(rows)
        + "\n\n## The clear sky\n\nHaze 2.0, ground 0.2; lux on open ground without the sun's disc, and "
        "on a plane facing the sun.\n\n| sun | sky lx | sun lx |\n|---|---|---|\n"
        + "\n".join(sky) + "\n\n" + "\n\n".join(plots(target.parent / "validation")) + "\n"
    )  # fmt: skip
    return off


if __name__ == "__main__":
    sys.exit(main(Path(sys.argv[1])))
