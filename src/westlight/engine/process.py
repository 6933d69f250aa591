"""The engine's own process: reads messages from a pipe, works in between, writes frames back."""

from __future__ import annotations

import contextlib
import os
import signal
from multiprocessing.connection import Connection
from typing import Any

from .live import LivePicture, describe_failure
from .spec import PictureSpec

#: What can be asked of the present picture, and the method that knows.
ANSWERS = frozenset({
    "pick", "meter", "starting_grade", "starting_curve", "pattern", "aim", "neutral", "proof",
    "openings", "opening_between", "portal_gain", "fixture_doubts", "leaks", "covered", "balance",
    "estimate", "spread", "land", "under",
})  # fmt: skip


def run(connection: Connection) -> None:
    """Serve until the pipe closes. Every message is a dict with a ``kind``."""
    # Ctrl-C goes to the whole foreground group; the server decides when the engine ends.
    signal.signal(signal.SIGINT, signal.SIG_IGN)

    def send(head: dict[str, Any], body: bytes) -> None:
        connection.send((head, body))

    live = LivePicture(send, lambda: connection.poll(0))
    send({"kind": "ready", "pid": os.getpid()}, b"")
    busy = True
    with contextlib.suppress(EOFError, BrokenPipeError, ConnectionResetError):
        while True:
            latest: PictureSpec | None = None
            while connection.poll(0 if busy else None):
                message = connection.recv()
                busy = True
                if message["kind"] == "stop":
                    return
                if message["kind"] == "spec":
                    latest = message["spec"]
                elif message["kind"] == "ask":
                    told = {"kind": "answer", "id": message["id"]}
                    try:
                        # What was told before the question belongs to it.
                        if latest is not None:
                            live.apply(latest)
                            latest = None
                        told["answer"] = getattr(live, message["what"])(**message["of"])
                    except Exception as error:
                        told["problem"] = describe_failure(error)
                    send(told, b"")
            try:
                if latest is not None:
                    live.apply(latest)
                busy = live.work()
            except (BrokenPipeError, EOFError):
                raise
            except Exception as error:
                busy = False
                live.spec = live.spec.model_copy(update={"model": None})
                live.assembled = None
                send({"kind": "problem", "text": describe_failure(error)}, b"")
