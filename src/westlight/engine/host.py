"""The engine's host: starts the process, brings it back when it dies, passes messages both ways."""

from __future__ import annotations

import itertools
import multiprocessing
import threading
import time
from collections.abc import Callable
from concurrent.futures import Future
from multiprocessing.connection import Connection
from typing import Any

import structlog

from westlight.core.errors import WestlightError

from .process import run
from .spec import PictureSpec

log = structlog.get_logger()
Listener = Callable[[dict[str, Any], bytes], None]
#: Seconds before a dead engine is started again, growing with repeated failures.
RESTART_AFTER_S = 0.3


class EngineHost:
    """One live engine process. The last spec is kept here, so a new process can go on from it."""

    def __init__(self) -> None:
        self._context = multiprocessing.get_context("spawn")
        self._listeners: list[Listener] = []
        self._lock = threading.RLock()
        self._answers: dict[int, Future[dict[str, Any]]] = {}
        self._numbers = itertools.count(1)
        self._spec: PictureSpec | None = None
        self._closing = False
        self._failures = 0
        self._process: Any = None
        self._pipe: Connection | None = None
        self._thread: threading.Thread | None = None

    @property
    def pid(self) -> int | None:
        """Process id of the running engine."""
        return None if self._process is None else self._process.pid

    def start(self) -> None:
        """Start the process and the thread that listens to it."""
        with self._lock:
            if self._thread is not None:
                return
            self._spawn()
            self._thread = threading.Thread(target=self._listen, name="engine", daemon=True)
            self._thread.start()

    def _spawn(self) -> None:
        ours, theirs = self._context.Pipe()
        self._process = self._context.Process(target=run, args=(theirs,), daemon=True)
        self._process.start()
        theirs.close()
        self._pipe = ours

    def close(self) -> None:
        """End the process; it has two seconds to do so by itself."""
        self._closing = True
        self._send({"kind": "stop"})
        if self._process is not None:
            self._process.join(2)
            if self._process.is_alive():
                self._process.kill()
                self._process.join(1)

    def listen(self, listener: Listener) -> Callable[[], None]:
        """Call ``listener`` with every message from now on; returns how to stop that.

        When nobody listens any more the engine rests until a picture is asked for again.
        """
        with self._lock:
            self._listeners.append(listener)

        def stop() -> None:
            with self._lock:
                self._listeners.remove(listener)
                if not self._listeners and self._spec is not None:
                    self._send(
                        {"kind": "spec", "spec": self._spec.model_copy(update={"paused": True})}
                    )

        return stop

    def show(self, spec: PictureSpec) -> None:
        """Make the engine compute this picture."""
        self._spec = spec
        self._send({"kind": "spec", "spec": spec})

    def meter(self, x: float, y: float) -> dict[str, Any]:
        """Ask for a reading at a point of the picture, 0…1 from top left."""
        return self.ask("meter", x=x, y=y)

    def pick(self, x: float, y: float) -> dict[str, Any]:
        """Ask for the surface under a point of the picture, 0…1 from top left."""
        return self.ask("pick", x=x, y=y)

    def ask(self, what: str, timeout_s: float = 10.0, **of: Any) -> dict[str, Any]:
        """Ask the engine one of its `ANSWERS` about the present picture."""
        number = next(self._numbers)
        answer: Future[dict[str, Any]] = Future()
        self._answers[number] = answer
        self._send({"kind": "ask", "id": number, "what": what, "of": of})
        try:
            return answer.result(timeout_s)
        finally:
            self._answers.pop(number, None)

    def _send(self, message: dict[str, Any]) -> None:
        with self._lock:
            try:
                if self._pipe is not None:
                    self._pipe.send(message)
            except (BrokenPipeError, OSError):
                log.info("engine pipe closed")

    def _listen(self) -> None:
        while not self._closing:
            assert self._pipe is not None
            try:
                head, body = self._pipe.recv()
            except (EOFError, OSError):
                if self._closing:
                    return
                self._bring_back()
                continue
            if head["kind"] == "frame":
                self._failures = 0
            if head["kind"] == "answer":
                waiting = self._answers.get(head["id"])
                if waiting is not None and "problem" in head:
                    waiting.set_exception(WestlightError(head["problem"]))
                elif waiting is not None:
                    waiting.set_result(head["answer"])
                continue
            self._tell(head, body)

    def _bring_back(self) -> None:
        self._failures += 1
        log.warning("engine ended, starting it again", failures=self._failures)
        self._tell({"kind": "note", "text": "The engine stopped and is starting again…"}, b"")
        time.sleep(min(RESTART_AFTER_S * self._failures, 5.0))
        with self._lock:
            if self._closing:
                return
            self._spawn()
            if self._spec is not None:
                self._send({"kind": "spec", "spec": self._spec})

    def _tell(self, head: dict[str, Any], body: bytes) -> None:
        for listener in list(self._listeners):
            listener(head, body)
