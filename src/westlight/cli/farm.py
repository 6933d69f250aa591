"""Scheduler and worker processes for stills on several machines."""

from __future__ import annotations

import asyncio
import contextlib

from distributed import Nanny, Scheduler

from westlight.engine.secrecy import scheme, security_for

from .postgres import GroundError


def run_scheduler(host: str, port: int) -> None:
    """Serve as a scheduler until interrupted; raises `GroundError` if the port is taken, and `WestlightError`
    beyond loopback without a certificate."""
    security = security_for(f"tcp://{host}:{port}")

    async def serve() -> None:
        async with Scheduler(host=host, port=port, dashboard=False, security=security,
                             protocol=f"{scheme(security)}://",
                             dashboard_address="127.0.0.1:0") as scheduler:  # fmt: skip
            await scheduler.finished()

    try:
        with contextlib.suppress(KeyboardInterrupt):
            asyncio.run(serve())
    except (OSError, RuntimeError) as error:
        raise GroundError(f"Nothing can listen at {host}:{port}: {error}") from error


def run_worker(scheduler: str, memory: str) -> None:
    """Trace units for a scheduler until interrupted; raises `GroundError` if none answers.

    A nanny watches over the worker: one that dies or takes too much memory is started again. It traces
    one unit at a time, with all cores.
    """
    security = security_for(scheduler)

    # On one machine nothing needs to be reached from outside.
    host = "127.0.0.1" if "//127.0.0.1:" in scheduler else None

    async def serve() -> None:
        async with Nanny(
            scheduler,
            nthreads=1,
            memory_limit=memory,
            host=host,
            death_timeout=20,
            security=security,
            protocol=f"{scheme(security)}://",
        ) as nanny:
            await nanny.finished()

    try:
        with contextlib.suppress(KeyboardInterrupt):
            asyncio.run(serve())
    except (OSError, RuntimeError, TimeoutError, ValueError) as error:
        raise GroundError(f"The scheduler at {scheduler} does not answer: {error}") from error
