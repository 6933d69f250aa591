"""A still on many workers, simulated: how well they are used, and how large its units should be.

Units of one round are handed out as `cluster.Workers` does it (each worker has one at work and one
waiting, slow ones are traced twice), the scheduler takes its time for each, results travel, workers differ
in speed, lag now and then and die. Times are in seconds of one worker's work.
"""

from __future__ import annotations

import heapq
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from .cluster import AHEAD, SLOW


@dataclass(frozen=True)
class Farm:
    """Workers as they are: measured or supposed."""

    workers: int
    #: Spread of the speed of workers, and of the work in units of one size (of the logarithm).
    speed_spread: float = 0.15
    unit_spread: float = 0.25
    #: Chance that a unit takes ``lag`` times as long, and that its worker dies with it.
    lag_chance: float = 0.004
    lag: float = 8.0
    death_chance: float = 0.0005
    #: Seconds until a dead worker is noticed, and until another has the scene set up.
    noticed_after: float = 10.0
    back_after: float = 30.0
    #: Seconds the scheduler is busy with a unit, and its result is on its way per megabyte.
    handing_out: float = 0.002
    travel_per_mb: float = 0.004


def round_time(farm: Farm, unit_times: Sequence[float], unit_mb: float, seed: int = 0) -> float:
    """Seconds from the first unit sent to the last sum added.

    >>> even = Farm(4, 0, 0, 0, 1, 0, 0, 0, 0, 0)
    >>> round_time(even, [1.0] * 8, 0.0)
    2.0
    """
    rng = np.random.default_rng(seed)
    speed = np.exp(rng.normal(0.0, farm.speed_spread, farm.workers))
    free_at = np.zeros(farm.workers)
    # The scheduler is one: it hands out and takes in one unit after the other.
    clerk = 0.0
    usual = float(np.median(unit_times))
    events: list[tuple[float, int, int]] = []  # back at, unit, worker
    waiting = list(range(len(unit_times)))[::-1]
    done: dict[int, float] = {}
    sent_again: set[int] = set()

    def send(unit: int, worker: int, now: float) -> None:
        nonlocal clerk
        clerk = max(clerk, now) + farm.handing_out
        begun = max(free_at[worker], clerk)
        took = unit_times[unit] / speed[worker]
        if rng.random() < farm.lag_chance:
            took *= farm.lag
        if rng.random() < farm.death_chance:
            lost = begun + took * rng.random()
            free_at[worker] = lost + farm.back_after
            heapq.heappush(events, (lost + farm.noticed_after, -unit - 1, worker))
            return
        free_at[worker] = begun + took
        heapq.heappush(events, (begun + took + farm.travel_per_mb * unit_mb, unit, worker))

    for _ in range(AHEAD):
        for worker in range(farm.workers):
            if waiting:
                send(waiting.pop(), worker, 0.0)
    while events:
        now, unit, worker = heapq.heappop(events)
        if unit < 0:
            waiting.append(-unit - 1)
        else:
            clerk = max(clerk, now) + farm.handing_out / 2
            done.setdefault(unit, clerk)
        if len(done) == len(unit_times):
            break
        if waiting:
            send(waiting.pop(), worker, now)
            continue
        late = []
        if len(events) < farm.workers:
            late = [e for e in events if e[1] >= 0 and e[1] not in done and e[1] not in sent_again]
        if late:
            # Nobody knows when it will be back; what counts is how long it has been away.
            back, slow, _ = max(late)
            if back - now > SLOW * AHEAD * usual - unit_times[slow]:
                sent_again.add(slow)
                send(slow, worker, now)
    return max(done.values())


def efficiency(
    farm: Farm, work_s: float, units: int, mb_a_second: float = 7.0, seed: int = 0
) -> float:
    """Share of the workers' time that goes into a round of ``work_s`` seconds of work in equal units.

    ``mb_a_second`` is how much result a second of work makes.
    """
    rng = np.random.default_rng(seed + 1)
    even = work_s / units
    times = even * np.exp(
        rng.normal(-(farm.unit_spread**2) / 2, farm.unit_spread, units)
    )  # keeps the mean
    took = round_time(farm, times.tolist(), even * mb_a_second, seed)
    return float(times.sum() / (took * farm.workers))


def best_unit(farm: Farm, work_s: float, sizes: Sequence[float]) -> tuple[float, float]:
    """Of some lengths of a unit in seconds the one that uses the workers best, and how well."""
    found = [
        (np.mean([efficiency(farm, work_s, max(1, round(work_s / s)), seed=k) for k in range(3)]), s)
        for s in sizes
    ]  # fmt: skip
    share, size = max(found)
    return size, float(share)
