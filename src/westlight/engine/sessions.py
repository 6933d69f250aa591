"""All live pictures of one engine: who gets time, and what happens when one of them fails.

Time goes to the session that was touched last and is visible; others refine when it has nothing to do, hidden ones
wait. A failure costs the session that failed, never the others: it is logged with its traceback and a number, the
session is set up anew from its last spec, and the page keeps its last good picture meanwhile.
"""

from __future__ import annotations

import itertools
import time
import traceback
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import structlog

from westlight.core.errors import WestlightError

from .live import Session, Shared
from .questions import QUESTIONS, Asked
from .spec import PictureSpec, Settings

log = structlog.get_logger()
Head = dict[str, Any]
#: Where messages of a session go: its name, the head, the file.
Post = Callable[[str, Head, bytes], None]
#: Seconds before a session that failed again is set up once more, doubled each time, and the most of them.
FIRST_PAUSE_S, MOST_PAUSE_S = 1.0, 30.0
#: Seconds of work without a failure after which earlier ones are forgotten.
FORGIVEN_AFTER_S = 20.0


@dataclass
class _Seat:
    """A session with its last spec, and what has happened to it."""

    name: str
    spec: PictureSpec
    visible: bool = True
    #: Its page has no picture yet.
    blank: bool = False
    touched: int = 0
    live: Session | None = None
    pending: bool = True
    failures: int = 0
    #: What the last failure was, and when the session is set up again.
    last_failure: str = ""
    failed_at: float = 0.0
    again_at: float = 0.0

    @property
    def dark(self) -> bool:
        """Whether it has no picture yet of what it shall show."""
        return self.pending or self.live is None or self.live.dark


class Engine:
    """Live pictures by session. ``called`` tells whether somebody waits for an answer."""

    def __init__(
        self, post: Post, called: Callable[[], bool] | None = None, shared: Shared | None = None
    ) -> None:
        self.shared = shared or Shared()
        self._post, self._called = post, called
        self._seats: dict[str, _Seat] = {}
        self._touches = itertools.count(1)
        self._faults = itertools.count(1)

    @property
    def names(self) -> list[str]:
        """Sessions that are open."""
        return list(self._seats)

    def session(self, name: str) -> Session | None:
        """A session by name; None if it is not set up at this moment."""
        seat = self._seats.get(name)
        return None if seat is None else seat.live

    def show(self, name: str, spec: PictureSpec, visible: bool = True, blank: bool = False) -> None:
        """Tell what a session shows from now on; it is taken in before the next work.

        ``blank``: its page has no picture of it and gets what there is, though nothing may have changed.
        """
        seat = self._seats.get(name)
        if seat is None:
            seat = self._seats[name] = _Seat(name, spec)
        seat.spec, seat.visible, seat.pending = spec, visible, True
        seat.blank |= blank
        seat.touched = next(self._touches)

    def again(self, name: str) -> None:
        """Set a session that failed up at once: somebody asked for it."""
        seat = self._seats.get(name)
        if seat is not None:
            seat.again_at, seat.pending = 0.0, True

    def close(self, name: str) -> None:
        """A session ends; what only it showed may go."""
        seat = self._seats.pop(name, None)
        if seat is not None and seat.live is not None:
            seat.live.close()
        self.shared.store.close(name)

    def ask(self, name: str, number: int, what: str, of: Settings) -> None:
        """Answer a question about the picture of a session, as it was told last."""
        seat = self._seats.get(name)
        told: Head = {"kind": "answer", "id": number, "what": what}
        try:
            if seat is None:
                raise WestlightError("There is no picture to ask about yet.")
            self._set_up(seat)
            if seat.live is None:
                raise WestlightError("The picture is being set up anew; ask again in a moment.")
            told["answer"] = QUESTIONS[what].function(Asked.of(seat.live), of)
        except WestlightError as error:
            told |= {"kind": "unanswered", "text": str(error)}
        except Exception as error:
            fault = self._log(seat.name if seat else name, error, question=what)
            told |= {"kind": "unanswered",
                     "text": f"This could not be worked out (fault {fault}). Try again."}  # fmt: skip
        self._post(name, told, b"")

    def work(self) -> bool:
        """Spend a little time where it is wanted most; False when nobody wants any."""
        return any(self._work_on(seat) for seat in self._in_turn())

    def _in_turn(self) -> list[_Seat]:
        """Sessions that may work, who comes first: the one touched last, then those without a picture, then the rest.

        One that has a picture, and no hand on it, lets those without one go first.
        """
        now = time.monotonic()
        seats = [s for s in self._seats.values() if s.visible and s.again_at <= now]
        seats.sort(key=lambda s: -s.touched)
        if not seats or seats[0].dark or (seats[0].live and seats[0].live.moving):
            return seats
        return sorted(seats, key=lambda s: not s.dark)

    def rests_for(self) -> float | None:
        """Seconds until a session that failed is due again; None if none is."""
        due = [s.again_at for s in self._seats.values() if s.visible and s.pending and s.again_at]
        return max(min(due) - time.monotonic(), 0.0) if due else None

    def _work_on(self, seat: _Seat) -> bool:
        try:
            taken = self._set_up(seat)
            if seat.live is None:
                return taken
            # At once: on a slow machine the next state of a hand is there by now, and none would ever be shown.
            busy = seat.live.work() or taken
        except Exception as error:
            self._failed(seat, error)
            return True
        if seat.failures and time.monotonic() - seat.failed_at > FORGIVEN_AFTER_S:
            seat.failures, seat.last_failure = 0, ""
        return busy

    def _set_up(self, seat: _Seat) -> bool:
        """Take in the last spec of a session, if that is due; whether anything was done."""
        if not seat.pending or seat.again_at > time.monotonic():
            return False
        seat.pending = False
        try:
            if seat.live is None:
                seat.live = Session(seat.name, self.shared, self._send_of(seat.name), self._called)
            seat.live.apply(seat.spec)
            if seat.blank:
                seat.live.show_again()
                seat.blank = False
        except WestlightError as error:
            # A state that cannot be: the picture before it stays.
            self._post(seat.name, {"kind": "problem", "text": str(error)}, b"")
        except Exception as error:
            self._failed(seat, error)
        return True

    def _send_of(self, name: str) -> Callable[[Head, bytes], None]:
        return lambda head, body: self._post(name, head, body)

    def _failed(self, seat: _Seat, error: Exception) -> None:
        """Log a failure, tell of it, and see to it that the session is set up anew."""
        fault = self._log(seat.name, error, failures=seat.failures + 1)
        what = _signature(error)
        if seat.live is not None:
            if what == seat.last_failure:
                # The same once more: perhaps it lies in what was gathered.
                self.shared.store.drop(seat.live.prepared.shown_keys)
            seat.live.close()
        pause = 0.0
        if seat.failures:
            pause = min(FIRST_PAUSE_S * 2.0 ** min(seat.failures - 1, 30), MOST_PAUSE_S)
        seat.live, seat.pending = None, True
        seat.failures, seat.last_failure = seat.failures + 1, what
        seat.failed_at = time.monotonic()
        seat.again_at = seat.failed_at + pause if pause else 0.0
        when = f"the next try is in {pause:.0f} s" if pause else "it is being set up anew"
        text = f"The picture could not be computed (fault {fault}); {when}."
        self._post(
            seat.name, {"kind": "failure", "fault": fault, "text": text, "again_s": pause}, b""
        )

    def _log(self, session: str, error: Exception, **more: object) -> int:
        fault = next(self._faults)
        trace = "".join(traceback.format_exception(error))
        log.error("fault in a live picture", fault=fault, session=session, trace=trace, **more)
        return fault


def _signature(error: Exception) -> str:
    """What tells whether a failure is the same as another: its kind and the place it came from."""
    frames = traceback.extract_tb(error.__traceback__)
    return (
        f"{type(error).__name__}{frames[-1].filename}{frames[-1].lineno}" if frames else repr(error)
    )
