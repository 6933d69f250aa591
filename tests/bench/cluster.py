"""Stills on several workers: `./westlight bench cluster`. Usage: cluster.py DEMO_FOLDER.

Measured: rounds of units on one worker of one core against two. Simulated: a thousand workers, with the
length of a unit that uses them best.
"""

from __future__ import annotations

import os
import sys
import time
from pathlib import Path
from typing import Any

from distributed import Client, LocalCluster

sys.path.insert(0, str(Path(__file__).parents[2]))
from tests import stored


def spec_of(folder: Path) -> Any:
    """The demo's interior under sun and sky."""
    from westlight.engine.spec import (
        PictureSpec,
        SkySettings,
        SourceSpec,
        SunSettings,
        ViewSettings,
    )

    return PictureSpec(
        model=stored.model(folder / "saltmarsh.glb"), width_px=640,
        view=ViewSettings(position=(5.55, -2.45, 1.55), target=(-4.6, 1.3, 1.42),
                          focal_length_mm=21, upright=True),
        sources=[
            SourceSpec(id="sun", name="Sun", settings=SunSettings(azimuth_deg=229, elevation_deg=17.7)),
            SourceSpec(id="sky", name="Sky", settings=SkySettings(azimuth_deg=229, elevation_deg=17.7)),
        ],
    )  # fmt: skip


def measured(folder: Path) -> None:
    """Time of a round on one worker over that on two, and the length of a unit."""
    from westlight.core.transport.render import Window
    from westlight.engine import units
    from westlight.engine.cluster import Workers
    from westlight.engine.package import Package

    package = Package.of(spec_of(folder))
    tracing = units.Tracing(1, 6, False)
    window = Window(0, 360, 0, 640)
    took = {}
    for count in (1, 2):
        with LocalCluster(
            n_workers=count, threads_per_worker=1, processes=True, host="127.0.0.1",
            dashboard_address="127.0.0.1:0", worker_dashboard_address="127.0.0.1:0",
            scheduler_kwargs={"dashboard": False},
        ) as made, Client(made) as client:  # fmt: skip
            for n, worker in enumerate(client.scheduler_info(n_workers=-1)["workers"]):
                client.run(os.sched_setaffinity, 0, {n}, workers=[worker])
            with Workers(lambda: package, package.key, made.scheduler_address) as workers:
                for first in (0, 12):
                    # The first round sets the scene up.
                    todo = units.units_of(window, [0, 1], first, 12, False)
                    begun = time.perf_counter()
                    workers.run(todo, tracing, lambda *_: None, lambda: False)
                    took[count] = time.perf_counter() - begun
                each = count * took[count] / len(todo)
        print(f"{count} worker(s) of one core: {len(todo)} units, {each:4.2f} s of work each")
    print(f"two workers against one  {took[1] / took[2]:5.2f} ×")


def simulated() -> None:
    """A thousand workers: which share of their time goes into the picture."""
    from westlight.engine.many_workers import Farm, best_unit, efficiency

    farm = Farm(1000)
    sizes = [0.3, 1.0, 2.0, 4.0, 8.0, 16.0, 32.0]
    print("1000 workers, simulated; share of their time used, by the length of a unit")
    print(f"{'work in a round':>16}  " + " ".join(f"{s:5.1f}s" for s in sizes) + "   best")
    for work, words in ((4e3, "4 s each"), (4e4, "40 s each"), (4e5, "7 min each")):
        shares = [efficiency(farm, work, round(work / s)) for s in sizes]
        size, _ = best_unit(farm, work, sizes)
        print(f"{words:>16}  " + " ".join(f"{s:5.0%} " for s in shares) + f"  {size:.0f} s")


def main(folder: Path) -> None:
    """Print all figures."""
    measured(folder)
    simulated()


if __name__ == "__main__":
    main(Path(sys.argv[1]))
