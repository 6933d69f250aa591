"""Workers that trace the units of a still: Dask distributed, in this process or on other machines.

Without an address there is one worker inside this process, which uses all its cores. With the address
of a scheduler every worker that joins it helps. Workers may come, go, be slow or run out of memory at any
time: a unit that is lost is sent again, one that takes too long is sent to a second worker as well, and
workers of another version are left alone, because their bits could differ.
"""

from __future__ import annotations

import statistics
import time
from collections import Counter, deque
from collections.abc import Callable, Sequence
from concurrent.futures import CancelledError
from dataclasses import dataclass, field
from typing import Any

import dask
import structlog
from distributed import Client, LocalCluster, wait
from distributed import Future as Promise

from westlight.core.errors import WestlightError

from .package import Package
from .secrecy import security_for
from .units import Traced, Tracing, Unit, engine_version, introduce, keep_package, trace_unit

log = structlog.get_logger()
#: Seconds a scheduler has to answer, and between two looks for new workers.
ANSWER_S, GREET_EVERY_S = 10.0, 2.0
#: Tries of one unit before the still is given up; only failures by the unit's own fault count fully.
TRIES = 6
#: A unit is sent to a second worker after this many times the usual time.
SLOW = 3.0
#: Units on their way to each worker: one at work, one waiting.
AHEAD = 2


def _settings() -> None:
    dask.config.set({
        "distributed.comm.timeouts.connect": f"{ANSWER_S}s",
        "distributed.scheduler.allowed-failures": 1_000,
        "distributed.worker.memory.terminate": 0.95,
        "distributed.admin.tick.limit": "60s",
        "distributed.comm.retry.count": 2,
    })  # fmt: skip


@dataclass
class _Sent:
    """A unit on its way."""

    number: int
    worker: str
    at: float


@dataclass
class Workers:
    """Everybody who traces units of one package."""

    package: Callable[[], Package]
    key: str
    address: str | None = None
    notify: Callable[[str], None] = lambda _: None
    #: Addresses of workers that can help, and of those with another version.
    good: set[str] = field(default_factory=set)
    strangers: set[str] = field(default_factory=set)
    _client: Client | None = None
    _cluster: LocalCluster | None = None
    _greeted_at: float = -1e9
    _times: list[float] = field(default_factory=list)

    def __enter__(self) -> Workers:
        _settings()
        if self.address is None:
            self._cluster = LocalCluster(
                n_workers=1, threads_per_worker=1, processes=False, protocol="inproc://",
                dashboard_address="127.0.0.1:0", worker_dashboard_address="127.0.0.1:0",
                scheduler_kwargs={"dashboard": False},
                memory_limit=0,
            )  # fmt: skip
            self._client = Client(self._cluster)
            return self
        try:
            security = security_for(self.address)
            self._client = Client(self.address, timeout=ANSWER_S, security=security)
        except (OSError, TimeoutError, ValueError) as error:
            raise WestlightError(
                f"No scheduler answers at {self.address}. Start one with “westlight scheduler”, or clear "
                "WESTLIGHT_SCHEDULER to render on this machine alone."
            ) from error
        return self

    def __exit__(self, *_: object) -> None:
        if self._client is not None:
            self._client.close(timeout=4)
        if self._cluster is not None:
            self._cluster.close(timeout=4)

    def run(
        self,
        units: Sequence[Unit],
        tracing: Tracing,
        take: Callable[[int, Traced], None],
        stop: Callable[[], bool],
    ) -> bool:
        """Trace units, giving each to ``take`` with its number as it comes; False when stopped."""
        client = self._client
        assert client is not None
        queue, done = deque(range(len(units))), set[int]()
        tries = [0] * len(units)
        sent: dict[Promise, _Sent] = {}
        while len(done) < len(units):
            if stop():
                client.cancel(list(sent))
                return False
            present = self._greet()
            for promise, one in list(sent.items()):
                if present is None or one.worker in present:
                    continue
                client.cancel([promise])
                del sent[promise]
                if one.number not in done and all(s.number != one.number for s in sent.values()):
                    queue.append(one.number)
            while queue and (worker := self._free(sent)) is not None:
                self._send(units, queue.popleft(), worker, tracing, sent)
            if not queue:
                self._send_slow_again(units, tracing, sent, done)
            for promise in self._finished(sent):
                one = sent.pop(promise)
                if one.number in done:
                    promise.release()
                    continue
                traced = self._result(promise, one, tries)
                if traced is None:
                    queue.append(one.number)
                    continue
                done.add(one.number)
                self._times.append(time.monotonic() - one.at)
                take(one.number, traced)
                promise.release()
        client.cancel(list(sent))
        return True

    def _free(self, sent: dict[Promise, _Sent], other_than: str = "") -> str | None:
        """The worker with the fewest units on their way that may get one more; None if all have enough.

        Chosen here, not by the scheduler: that one counts a suspended worker as free as soon as it has been told to
        forget what that worker holds, and may hand it the very unit that is to be taken from it.
        """
        held = Counter(s.worker for s in sent.values())
        free = sorted(w for w in self.good if held[w] < AHEAD and w != other_than)
        return min(free, key=held.__getitem__, default=None)

    def _send(
        self, units: Sequence[Unit], number: int, worker: str, tracing: Tracing,
        sent: dict[Promise, _Sent],
    ) -> None:  # fmt: skip
        assert self._client is not None
        promise = self._client.submit(
            trace_unit, self.key, units[number], tracing, pure=False, workers=[worker],
            allow_other_workers=False, key=f"unit-{units[number].name}-{time.monotonic_ns()}",
        )  # fmt: skip
        sent[promise] = _Sent(number, worker, time.monotonic())

    def _send_slow_again(
        self, units: Sequence[Unit], tracing: Tracing, sent: dict[Promise, _Sent], done: set[int]
    ) -> None:
        """When none is left to be begun, the others take over what a slow or silent worker has not brought back."""
        if len(self._times) < 4:
            return
        late = time.monotonic() - SLOW * AHEAD * statistics.median(self._times)
        times_sent = Counter(s.number for s in sent.values())
        for s in list(sent.values()):
            if s.number in done or s.at > late or times_sent[s.number] > 1:
                continue
            worker = self._free(sent, other_than=s.worker)
            if worker is not None:
                self._send(units, s.number, worker, tracing, sent)

    @staticmethod
    def _finished(sent: dict[Promise, _Sent]) -> list[Promise]:
        if not sent:
            time.sleep(0.2)
            return []
        try:
            found: Any = wait(list(sent), timeout=0.25, return_when="FIRST_COMPLETED")
            return list(found.done)
        except TimeoutError:
            return []
        except CancelledError:
            return [p for p in sent if p.status != "pending"]

    def _result(self, promise: Promise, one: _Sent, tries: list[int]) -> Traced | None:
        """What came back; None if the unit must be sent again. Raises `WestlightError` in the end."""
        try:
            traced: Traced | None = promise.result()
        except WestlightError:
            raise
        except (Exception, CancelledError) as error:
            tries[one.number] += 1
            log.warning("unit lost", unit=one.number, tries=tries[one.number], error=repr(error))
            self._greeted_at = -1e9
            if tries[one.number] >= TRIES:
                raise WestlightError(
                    f"A part of the still failed {TRIES} times ({type(error).__name__}: {error}). If workers run "
                    "out of memory, render smaller or give them more."
                ) from error
            return None
        if traced is None:
            # A worker that was started again has forgotten the scene.
            self.good.discard(one.worker)
            self._greeted_at = -1e9
        return traced

    def _greet(self) -> set[str] | None:
        """Meet workers that have joined: check their version, send them the scene once.

        Gives all that are there; None if nobody looked, or it cannot be told.
        """
        if time.monotonic() - self._greeted_at < GREET_EVERY_S:
            return None
        self._greeted_at = time.monotonic()
        client = self._client
        assert client is not None
        try:
            present = set(client.scheduler_info(n_workers=-1)["workers"])
        except (OSError, TimeoutError, KeyError):
            present = None
        self.good &= present or set()
        new = (present or set()) - self.good - self.strangers
        if new:
            self._introduce(client, sorted(new))
        if not self.good:
            words = f"{len(self.strangers)} of another version" if self.strangers else "none there"
            self.notify(f"Waiting for workers ({words})")
        return present

    def _introduce(self, client: Client, new: list[str]) -> None:
        try:
            met: dict[str, Any] = client.run(introduce, self.key, workers=new, on_error="return")
            lacking = []
            for worker, answer in met.items():
                if isinstance(answer, Exception) or answer[0] != engine_version():
                    self.strangers.add(worker)
                elif not answer[1]:
                    lacking.append(worker)
                else:
                    self.good.add(worker)
            if lacking:
                client.run(keep_package, self.package(), workers=lacking)
                self.good |= set(lacking)
        except (OSError, TimeoutError) as error:
            log.warning("workers left while being met", error=repr(error))
