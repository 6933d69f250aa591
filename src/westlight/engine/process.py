"""The engine's own process: reads messages from a pipe, works in between, writes frames back."""

from __future__ import annotations

import contextlib
import os
import signal
import threading
import time
from collections.abc import Mapping
from multiprocessing.connection import Connection
from typing import Any

import structlog

from westlight.core.compiled import tell_of_compiling

from .orphans import die_with_parent
from .sessions import Engine

log = structlog.get_logger()
#: Seconds between two signs of life.
BEAT_S = 1.0


class Line:
    """The pipe to the host; frames and signs of life share it."""

    def __init__(self, connection: Connection) -> None:
        self._connection = connection
        self._lock = threading.Lock()
        self._turned_at = time.monotonic()
        self._long = False

    def post(self, session: str, head: dict[str, Any], body: bytes) -> None:
        """Send a message of a session. A note tells of work that takes its time."""
        self._long |= head["kind"] == "note"
        with self._lock:
            self._connection.send((session, head, body))

    def turn(self) -> None:
        """The main loop has come round."""
        self._turned_at, self._long = time.monotonic(), False

    def beat(self) -> None:
        """Tell for ever that the process lives, and for how long its main loop has not come round."""
        with contextlib.suppress(OSError):
            while True:
                stuck_s = time.monotonic() - self._turned_at
                self.post("", {"kind": "beat", "stuck_s": stuck_s, "long": self._long}, b"")
                time.sleep(BEAT_S)


def run(connection: Connection, environment: Mapping[str, str]) -> None:
    """Serve until the pipe closes. Every message is a dict with a ``kind``.

    The environment is the host's of now: this process comes from one that was started long before.
    """
    os.environ.clear()
    os.environ.update(environment)
    # Ctrl-C goes to the whole foreground group; the server decides when the engine ends.
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    die_with_parent()
    tell_of_compiling(lambda kernel, s: log.warning("compiled in use", kernel=kernel, seconds=round(s, 1)))  # fmt: skip
    line = Line(connection)
    engine = Engine(line.post, lambda: connection.poll(0))
    line.post("", {"kind": "ready", "pid": os.getpid()}, b"")
    threading.Thread(target=line.beat, name="beat", daemon=True).start()
    busy = True
    with contextlib.suppress(EOFError, OSError):
        while True:
            line.turn()
            while connection.poll(0 if busy else _nap(engine)):
                message = connection.recv()
                line.turn()
                if message["kind"] == "stop":
                    return
                take(engine, message)
                busy = True
            busy = engine.work()


def _nap(engine: Engine) -> float:
    """Seconds to wait for a message: so long that the loop is seen to come round."""
    due = engine.rests_for()
    return BEAT_S if due is None else min(due, BEAT_S)


def take(engine: Engine, message: dict[str, Any]) -> None:
    """Do what a message says."""
    session = message["session"]
    if message["kind"] == "show":
        engine.show(session, message["spec"], message["visible"], message["blank"])
    elif message["kind"] == "ask":
        engine.ask(session, message["id"], message["what"], message["of"])
    elif message["kind"] == "again":
        engine.again(session)
    elif message["kind"] == "close":
        engine.close(session)
