"""Who runs Westlight on a data folder: one process at a time, and how it ends."""

from __future__ import annotations

import fcntl
import json
import os
import signal
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import IO

import structlog

from .postgres import Cluster, GroundError

#: Seconds between two looks at the database.
_LOOK_S = 1.0
#: Seconds until it is tried again when it does not start.
_PAUSE_S = 3.0
log = structlog.get_logger()


@contextmanager
def owning(folder: Path, address: str) -> Iterator[None]:
    """Own a data folder for as long as this process lives; raises `GroundError` if another one does.

    The lock is the kernel's: it ends with its owner, however that ends.
    """
    with (folder / "owner.lock").open("a+") as lock:
        if not _locked(lock):
            raise GroundError(
                f"Westlight already runs on {folder}, at {_address_of(lock)}. Open that address, or start "
                "this one on a folder of its own: WESTLIGHT_DATA=/some/folder ./westlight start"
            )
        lock.seek(0)
        lock.truncate()
        lock.write(json.dumps({"address": address, "pid": os.getpid()}))
        lock.flush()
        yield
        lock.seek(0)
        lock.truncate()


def is_owned(folder: Path) -> bool:
    """Whether some process owns a data folder."""
    file = folder / "owner.lock"
    if not file.exists():
        return False
    with file.open("a+") as lock:
        return not _locked(lock)


def _locked(lock: IO[str]) -> bool:
    try:
        fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        return False
    return True


def _address_of(lock: IO[str]) -> str:
    lock.seek(0)
    try:
        return str(json.loads(lock.read())["address"])
    except (ValueError, KeyError):
        return "an address that it has not printed yet"


def end_cleanly() -> None:
    """End at SIGTERM and SIGHUP as at Ctrl-C: with everything that was started ended, too."""

    def end(number: int, _: object) -> None:
        # A second one does not cut the first one's tidying short.
        for known in (signal.SIGTERM, signal.SIGHUP):
            signal.signal(known, signal.SIG_IGN)
        raise SystemExit(128 + number)

    signal.signal(signal.SIGTERM, end)
    # While the server serves SIGTERM is its own, and lets it finish what it is doing.
    signal.signal(signal.SIGHUP, lambda *_: signal.raise_signal(signal.SIGTERM))


@contextmanager
def kept_up(cluster: Cluster) -> Iterator[None]:
    """Start a cluster again whenever it is gone, for as long as this lasts."""
    done = threading.Event()

    def watch() -> None:
        while not done.wait(_LOOK_S):
            if not cluster.answers() and not done.is_set():
                # What it lacks, such as space on the disk, may come; until then pages say so and wait.
                try:
                    cluster.start()
                    log.warning("database started again")
                except Exception:
                    log.exception("database not started")
                    done.wait(_PAUSE_S)

    thread = threading.Thread(target=watch, name="database", daemon=True)
    thread.start()
    try:
        yield
    finally:
        done.set()
        thread.join(30)
