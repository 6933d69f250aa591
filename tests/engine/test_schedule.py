"""What is traced next, decided from films alone: no scene, no engine, no process."""

from __future__ import annotations

from types import SimpleNamespace
from typing import Any

import numpy as np
import pytest

from westlight.engine.live.draft import Draft
from westlight.engine.live.schedule import (
    FIRST_FULL,
    LEAST_TO_STOP,
    SILENT_PASSES,
    Job,
    Policy,
    next_job,
)

BOUNCES = 4


class Told:
    """A picture by numbers: passes of each source by scale and bounces, and its share of the light."""

    def __init__(self, shares: dict[str, float], off: tuple[str, ...] = (), **spec: Any) -> None:
        sources = [SimpleNamespace(id=i, counts=i not in off) for i in shares]
        usual = {
            "moving": False,
            "bounces": BOUNCES,
            "max_samples": 64,
            "max_seconds": 600.0,
            "region": None,
        }
        self.shares = shares
        self.passes: dict[tuple[str, int, int], int] = {}
        self.noise: dict[str, float] = {}
        self.p: Any = SimpleNamespace(
            assembled=object(), spec=SimpleNamespace(sources=sources, **(usual | spec)), keeps_light=True,
            moving_scale=4, can_shine=lambda s: True, size=lambda scale: (64 // scale, 64 // scale),
        )  # fmt: skip

    def film(self, _: Any, source: Any, bounces: int, scale: int) -> Any:
        """A film, if it has passes."""
        found = self.passes.get((source.id, bounces, scale))
        return (
            None if found is None else SimpleNamespace(passes=found, of=source.id, clean=object())
        )

    def full(self, p: Any, source: Any) -> Any:
        """The film at full size."""
        return self.film(p, source, BOUNCES, 1)

    def has_bounced(self, p: Any, source: Any) -> bool:
        """Whether there is bounced light of it."""
        return any(self.film(p, source, BOUNCES, scale) for scale in (1, 2, 4))

    def best_fresh(self, p: Any, source: Any, direct: bool = True) -> Any:
        """The best film there is."""
        found = [self.film(p, source, BOUNCES, scale) for scale in (1, 2, 4)]
        if direct:
            found.append(self.film(p, source, 0, 4))
        best = next((f for f in found if f is not None), None)
        return None if best is None else SimpleNamespace(film=best)

    def share(self, _: Any, source: Any, film: Any) -> float:
        """Its share of the light."""
        return self.shares[source.id]

    def visible_noise(self, _: Any, source: Any, film: Any) -> float:
        """How much of its noise is seen."""
        return self.noise.get(source.id, 1.0)

    def guide(self, _: Any, scale: int) -> None:
        """No surfaces are known yet."""

    def next(self, **policy: Any) -> Job | None:
        """What is traced next."""
        return next_job(self.p, self, Policy(**policy))  # type: ignore[arg-type]

    def trace(self, job: Job) -> None:
        """Have a job done."""
        for i in job.rows:
            key = (self.p.spec.sources[i].id, job.bounces, job.scale)
            self.passes[key] = self.passes.get(key, 0) + 1


def told_in_turn(told: Told, most: int = 200, **policy: Any) -> list[tuple[tuple[str, ...], int]]:
    """Names and scales of all jobs until there is none."""
    out = []
    for _ in range(most):
        job = told.next(**policy)
        if job is None:
            return out
        out.append((tuple(told.p.spec.sources[i].id for i in job.rows), job.scale))
        told.trace(job)
    raise AssertionError("there is always something to do")


def test_small_comes_before_large_and_what_makes_the_picture_before_the_rest() -> None:
    told = Told({"sun": 0.6, "sky": 0.39, "faint": 0.01, "off": 0.0}, off=("off",))
    done = told_in_turn(told, calm=True)
    everyone = ("sun", "sky", "faint")
    assert done[:3] == [(everyone, 4), (everyone, 2), (("sun", "sky"), 1)]
    # Then the little picture of what is off, the strong ones to their first passes, and the faint one.
    assert done[3 : 3 + SILENT_PASSES] == [(("off",), 4)] * SILENT_PASSES
    assert done[3 + SILENT_PASSES : 2 + SILENT_PASSES + FIRST_FULL] == [(("sun", "sky"), 1)] * (
        FIRST_FULL - 1
    )
    assert (("faint",), 1) in done
    # A calm picture stops, but not before what makes it is crisp.
    assert told.passes[("sun", BOUNCES, 1)] == LEAST_TO_STOP
    assert told.passes[("faint", BOUNCES, 1)] == FIRST_FULL


def test_the_noisiest_goes_on_until_it_is_calm_or_has_enough() -> None:
    told = Told({"sun": 0.5, "sky": 0.5}, max_samples=20)
    told.noise = {"sun": 1.0, "sky": 0.01}
    told_in_turn(told)
    assert told.passes[("sun", BOUNCES, 1)] == 20
    assert told.next() is None


def test_time_is_up() -> None:
    told = Told({"sun": 1.0})
    told_in_turn(told, calm=True)
    assert told.next(elapsed_s=601.0) is None
    assert told.next(elapsed_s=1.0) is not None


def test_a_hand_gets_direct_light_of_what_it_moves_and_no_more() -> None:
    told = Told({"sun": 0.6, "sky": 0.4}, moving=True)
    job = told.next(moved=frozenset({"sun"}))
    assert job is not None
    assert (job.rows, job.scale, job.bounces) == ((0,), 4, 0)
    told.trace(job)
    assert told.next(moved=frozenset({"sun"})) is None
    nothing = np.zeros(3, np.float32)
    camera = told.next(draft=Draft(("sky",), nothing, nothing))
    assert camera is not None
    assert (camera.rows, camera.scale, camera.bounces) == ((1,), 4, 0)


@pytest.mark.parametrize("missing", ["sky", "lamp"])
def test_what_has_no_light_yet_comes_first(missing: str) -> None:
    """One that is new, or was changed, is traced small before anything is refined."""
    told = Told({"sun": 0.4, "sky": 0.3, "lamp": 0.3})
    told_in_turn(told, calm=True)
    told.passes = {k: v for k, v in told.passes.items() if k[0] != missing}
    job = told.next()
    assert job is not None
    assert [told.p.spec.sources[i].id for i in job.rows] == [missing]
    assert job.scale == 4


def test_nothing_is_traced_without_a_building() -> None:
    told = Told({"sun": 1.0})
    told.p.assembled = None
    assert told.next() is None
