"""The engine's host: starts the process, watches over it, brings it back with all its sessions, passes messages."""

from __future__ import annotations

import contextlib
import itertools
import multiprocessing
import os
import secrets
import signal
import threading
import time
from collections.abc import Callable
from concurrent.futures import Future
from dataclasses import dataclass
from multiprocessing import forkserver
from multiprocessing.connection import Connection
from typing import Any

import structlog

from westlight.core.errors import WestlightError

from .process import run
from .questions import QUESTIONS, Answer
from .spec import PictureSpec, Settings

log = structlog.get_logger()
Listener = Callable[[dict[str, Any], bytes], None]
#: Seconds before a dead engine is started again, growing with repeated failures.
RESTART_AFTER_S = 0.2
#: Seconds without a sign of life after which a process is given up; seconds that a piece of work may take, and one
#: that was announced (reading a large building).
SILENT_S, STUCK_S, LONG_S = 20.0, 60.0, 600.0
#: Seconds that a new process may take until its first word: on a busy machine it loads for long.
START_S = 180.0
_WATCH_EVERY_S = 1.0
GONE = "The engine stopped and is starting again; ask again in a moment."
#: What sessions are told when their engine has died.
STOPPED = "The engine stopped and is starting again…"


@dataclass
class _Session:
    listener: Listener
    spec: PictureSpec | None = None
    visible: bool = True


class EngineSession:
    """One live picture of the engine, as its tab holds it."""

    def __init__(self, host: EngineHost, name: str) -> None:
        self._host, self.name = host, name

    def show(self, spec: PictureSpec, visible: bool = True, blank: bool = False) -> None:
        """Make the engine compute this picture, and send what there is of it to a page that is blank."""
        self._host._show(self.name, spec, visible, blank)

    def again(self) -> None:
        """Try again at once after a failure."""
        self._host._tell({"kind": "again", "session": self.name})

    def ask(self, what: str, of: Settings | None = None) -> Future[Answer]:
        """Ask one of the `QUESTIONS`; the future fails with a `WestlightError` if there is no answer."""
        return self._host.ask(self.name, what, of)

    def close(self) -> None:
        """Nobody looks any more."""
        self._host._close(self.name)


class EngineHost:
    """One engine process. The last spec of every session is kept here, so a new process goes on from it."""

    def __init__(self) -> None:
        # Engines are forked from a process that has everything loaded and nothing running: one that has died
        # is back at once.
        self._context = multiprocessing.get_context("forkserver")
        self._context.set_forkserver_preload([run.__module__])
        self._lock = threading.RLock()
        self._sessions: dict[str, _Session] = {}
        self._answers: dict[int, Future[Answer]] = {}
        self._numbers = itertools.count(1)
        self._names = itertools.count(1)
        #: Pages of an earlier run have other names: history keeps them.
        self._run = secrets.token_hex(3)
        self._closing = threading.Event()
        self._failures = 0
        self._process: Any = None
        self._pipe: Connection | None = None
        self._heard_at = time.monotonic()
        self._started = False

    @property
    def pid(self) -> int | None:
        """Process id of the running engine."""
        return None if self._process is None else self._process.pid

    def start(self) -> None:
        """Start the process, and the threads that listen to it and watch over it."""
        with self._lock:
            if self._started:
                return
            self._started = True
            self._spawn()
        for name, work in (("engine", self._listen), ("watch", self._watch)):
            threading.Thread(target=work, name=name, daemon=True).start()

    def _spawn(self) -> None:
        ours, theirs = self._context.Pipe()
        told = (theirs, dict(os.environ))
        self._process = self._context.Process(target=run, args=told, daemon=True)
        self._process.start()
        theirs.close()
        self._pipe = ours
        self._heard_at = time.monotonic() + START_S - SILENT_S

    def close(self) -> None:
        """End the process; it has two seconds to do so by itself."""
        self._closing.set()
        self._tell({"kind": "stop"})
        if self._process is not None:
            self._process.join(2)
            if self._process.is_alive():
                self._process.kill()
                self._process.join(1)

    def open(self, listener: Listener) -> EngineSession:
        """A new session; ``listener`` is called with its messages, on the engine's thread."""
        with self._lock:
            name = f"tab-{self._run}-{next(self._names)}"
            self._sessions[name] = _Session(listener)
        return EngineSession(self, name)

    def session(self, name: str) -> EngineSession:
        """An open session by name; raises `WestlightError` for one that is gone."""
        if name not in self._sessions:
            raise WestlightError("This page has lost its picture; reload it.")
        return EngineSession(self, name)

    def ask(self, session: str, what: str, of: Settings | None = None) -> Future[Answer]:
        """Ask about the picture of a session."""
        question = QUESTIONS[what]
        answer: Future[Answer] = Future()
        number = next(self._numbers)
        self._answers[number] = answer
        answer.add_done_callback(lambda _: self._answers.pop(number, None))
        told = {"kind": "ask", "session": session, "id": number, "what": what,
                "of": question.request() if of is None else of}  # fmt: skip
        if not self._tell(told):
            _refuse(answer, GONE)
        return answer

    def _show(self, name: str, spec: PictureSpec, visible: bool, blank: bool) -> None:
        with self._lock:
            session = self._sessions.get(name)
            if session is None:
                return
            session.spec, session.visible = spec, visible
        self._tell(_told(name, spec, visible, blank))

    def _close(self, name: str) -> None:
        with self._lock:
            self._sessions.pop(name, None)
        self._tell({"kind": "close", "session": name})

    def _tell(self, message: dict[str, Any]) -> bool:
        """Send a message; whether there is a process to take it."""
        with self._lock:
            return self._put(message)

    def _put(self, message: dict[str, Any]) -> bool:
        """As `_tell`, by who holds the lock."""
        try:
            if self._pipe is not None:
                self._pipe.send(message)
                return True
        except OSError:
            log.info("engine pipe closed")
        return False

    def _listen(self) -> None:
        while not self._closing.is_set():
            pipe = self._pipe
            assert pipe is not None
            try:
                name, head, body = pipe.recv()
            except (EOFError, OSError):
                if not self._closing.is_set():
                    self._bring_back()
                continue
            self._take(name, head, body)

    def _take(self, name: str, head: dict[str, Any], body: bytes) -> None:
        if head["kind"] != "beat" or head["stuck_s"] < (LONG_S if head["long"] else STUCK_S):
            self._heard_at = time.monotonic()
        if head["kind"] in ("answer", "unanswered"):
            waiting = self._answers.get(head["id"])
            if waiting is not None and head["kind"] == "answer":
                if waiting.set_running_or_notify_cancel():
                    waiting.set_result(head["answer"])
            elif waiting is not None:
                _refuse(waiting, head["text"])
            return
        if head["kind"] == "frame":
            self._failures = 0
        session = self._sessions.get(name)
        if session is not None:
            session.listener(head, body)

    def _watch(self) -> None:
        """End a process that gives no sign of life: the listener then brings another."""
        while not self._closing.wait(_WATCH_EVERY_S):
            if time.monotonic() - self._heard_at > SILENT_S and self._process is not None:
                log.error("the engine gives no sign of life and is ended", pid=self.pid)
                self._heard_at = time.monotonic()
                self._process.kill()

    def _bring_back(self) -> None:
        self._failures += 1
        log.warning("engine ended, starting it again", failures=self._failures)
        note = {"kind": "note", "text": STOPPED}
        for session in list(self._sessions.values()):
            session.listener(note, b"")
        for waiting in list(self._answers.values()):
            _refuse(waiting, GONE)
        self._closing.wait(min(RESTART_AFTER_S * (self._failures - 1), 5.0))
        with self._lock:
            if self._closing.is_set():
                return
            self._spawn()
            # Under the lock: what a page tells meanwhile comes after it, and one that has gone is not told of.
            for name, session in self._sessions.items():
                if session.spec is not None:
                    self._put(_told(name, session.spec, session.visible, blank=True))


def _told(name: str, spec: PictureSpec, visible: bool, blank: bool) -> dict[str, Any]:
    """The message that tells the engine what a session shows."""
    return {"kind": "show", "session": name, "spec": spec, "visible": visible, "blank": blank}


def end_waiting_process() -> None:
    """End the process that engines are forked from, which would otherwise outlive the server by a moment; another
    one comes when it is needed."""
    # The library has no public way to end it before its own process has ended.
    waiting: Any = forkserver._forkserver
    if waiting._forkserver_pid is not None:
        with contextlib.suppress(OSError):
            os.kill(waiting._forkserver_pid, signal.SIGKILL)
        waiting._stop()


def _refuse(answer: Future[Answer], text: str) -> None:
    if answer.set_running_or_notify_cancel():
        answer.set_exception(WestlightError(text))
