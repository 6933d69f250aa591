"""The picture's socket: the browser says what it shows and holds, frames come back.

Messages to the browser are binary: a 4-byte little-endian length, a JSON head, then the file. The
newest frame replaces one that has not been sent yet, so that a slow browser is never behind.
Whatever goes wrong is logged with a number, said in words, and never ends the talk.
"""

from __future__ import annotations

import asyncio
import json
import struct
from collections import OrderedDict
from typing import Any

import structlog
from fastapi import WebSocket, WebSocketDisconnect
from pydantic import ValidationError

from westlight.core.errors import WestlightError
from westlight.engine.host import EngineHost
from westlight.engine.questions import QUESTIONS, Answer
from westlight.engine.questions.light import Aim, PatternMap
from westlight.engine.questions.reference import SunHeight
from westlight.engine.spec import FinishSettings, PictureSpec
from westlight.store import Still
from westlight.studio.daylight import OF_FACTS
from westlight.studio.errors import NotFound
from westlight.studio.studio import Studio

from .answers import Facts
from .faults import fault, said
from .heads import StillsHead
from .messages import MESSAGES, Again, Ask, Drawn, Show

log = structlog.get_logger()
#: Frames on their way to the browser before it must say that it has drawn one.
IN_FLIGHT = 2
FACTS_EVERY_S = 0.5
#: How often the picture that a page shows is kept as the last one of its view, in seconds.
KEEP_EVERY_S = 10.0
#: Least time between two words on how far the stills are, in seconds.
STILLS_EVERY_S = 0.5
BUSY = "The picture is busy; ask again in a moment."


class PictureSocket:
    """One browser looking at one picture of its own."""

    def __init__(
        self,
        socket: WebSocket,
        studio: Studio,
        engine: EngineHost,
        most_passes: int,
        most_wide: int,
    ) -> None:
        self.socket, self.studio = socket, studio
        self._most_passes, self._most_wide = most_passes, most_wide
        self._loop = asyncio.get_running_loop()
        self._session = engine.open(self._from_engine)
        self._waiting: OrderedDict[str, tuple[dict[str, Any], bytes]] = OrderedDict()
        self._wake = asyncio.Event()
        self._in_flight = 0
        self._showing: Show | None = None
        self._changed, self._stills = asyncio.Event(), asyncio.Event()
        self._telling = asyncio.Lock()
        self._answering: set[asyncio.Task[None]] = set()
        self._facts_at = 0.0
        self._kept_at = -KEEP_EVERY_S

    async def serve(self) -> None:
        """Talk until the browser goes away."""
        await self.socket.accept()
        self._put({"kind": "ready", "session": self._session.name}, b"")
        listening = [
            self.studio.store.listen(self._from_store),
            self.studio.store.listen(self._stills_from_store, of=(Still,)),
        ]
        tasks = [
            asyncio.create_task(self._send_all()), asyncio.create_task(self._follow()),
            asyncio.create_task(self._tell_stills()),
        ]  # fmt: skip
        try:
            while True:
                self._take(await self.socket.receive_text())
        except (WebSocketDisconnect, RuntimeError):
            # A browser that went away while something was being sent to it.
            pass
        finally:
            for stop in listening:
                stop()
            self._session.close()
            for task in [*tasks, *self._answering]:
                task.cancel()

    def _from_engine(self, head: dict[str, Any], body: bytes) -> None:
        """Called on the engine's thread."""
        self._loop.call_soon_threadsafe(self._put, head, body)

    def _from_store(self, project: str, by: str) -> None:
        """Called on the thread of whoever changed a project."""
        if by != self._session.name:
            head = {"kind": "changed", "project": project}
            self._loop.call_soon_threadsafe(self._put, head, b"")

    def _stills_from_store(self, project: str, _: str) -> None:
        """Called on the thread of whoever changed stills, or knows how far one is."""
        shown = self._showing
        if shown is not None and shown.project == project:
            self._loop.call_soon_threadsafe(self._stills.set)

    async def _tell_stills(self) -> None:
        """Tell the page its stills whenever one is further, not more often than it can be followed."""
        while True:
            await self._stills.wait()
            self._stills.clear()
            shown = self._showing
            if shown is None:
                continue
            try:
                rows = await asyncio.to_thread(self.studio.handover.stills, shown.project)
                head = StillsHead(kind="stills", project=shown.project, stills=rows)
                self._put(head.model_dump(mode="json"), b"")
            except NotFound:
                # Nobody has stills any more.
                pass
            except Exception as error:
                if said(error) is None:
                    self._fault("fault in telling the stills")
                else:
                    # The last word must not be lost with a database that is away for a moment.
                    self._stills.set()
            await asyncio.sleep(STILLS_EVERY_S)

    def _put(self, head: dict[str, Any], body: bytes) -> None:
        if head["kind"] == "frame":
            self._keep(head, body)
        # What is newer takes the place of what waits; answers belong to their questions.
        name = (
            f"{head['kind']}{head.get('source', '')}{head.get('id', '')}{head.get('project', '')}"
        )
        self._waiting.pop(name, None)
        self._waiting[name] = (head, body)
        self._wake.set()

    def _keep(self, head: dict[str, Any], body: bytes) -> None:
        """Keep a good picture as the last one of its view, now and then and when it has settled."""
        m = self._showing
        aside = m and (m.held or m.plain or m.find or m.moving or m.split is not None)
        plainly = m and m.reading == "plain" and not aside
        if m is None or not plainly or head["of"] != _of(m) or head["empty"]:
            return
        good = head["scale"] == 1 and head["waiting"] == 0 and head["passes"] > 0
        now = self._loop.time()
        if good and (head["settled"] or now - self._kept_at > KEEP_EVERY_S):
            self._kept_at = now
            kept = asyncio.to_thread(self._keep_quietly, m, body)
            task = asyncio.create_task(kept)
            self._answering.add(task)
            task.add_done_callback(self._answering.discard)

    def _keep_quietly(self, m: Show, body: bytes) -> None:
        try:
            self.studio.last_pictures.keep(m.project, m.look, m.view, body)
        except OSError:
            # A full disk costs the head start of the next visit, not the picture.
            log.info("last picture not kept", project=m.project)

    async def _send_all(self) -> None:
        while True:
            await self._wake.wait()
            name = next(
                (n for n in self._waiting if n != "frame" or self._in_flight < IN_FLIGHT), None
            )
            if name is None:
                self._wake.clear()
                continue
            head, body = self._waiting.pop(name)
            if head["kind"] == "frame":
                self._in_flight += 1
            text = json.dumps(head).encode()
            await self.socket.send_bytes(struct.pack("<I", len(text)) + text + body)

    def _take(self, text: str) -> None:
        """Take a message; one that nobody can read is said to be so, and the talk goes on."""
        try:
            message = MESSAGES.validate_json(text)
        except ValidationError as error:
            log.info(
                "message not understood", errors=error.error_count(), first=error.errors()[0]["loc"]
            )
            told = "The page sent something that is not understood; reload it."
            self._put({"kind": "problem", "text": told}, b"")
            return
        if isinstance(message, Drawn):
            self._in_flight = max(0, self._in_flight - 1)
            self._wake.set()
        elif isinstance(message, Show):
            if self._showing is None or self._showing.project != message.project:
                # What happened to them before this page listened.
                self._stills.set()
            self._showing = message
            self._changed.set()
        elif isinstance(message, Again):
            self._session.again()
            self._changed.set()
        else:
            # Answers take their time; meanwhile frames go on being drawn and states being told.
            task = asyncio.create_task(self._answer(message))
            self._answering.add(task)
            task.add_done_callback(self._answering.discard)

    async def _answer(self, ask: Ask) -> None:
        """Answer a question about the picture as it was told last."""
        told: dict[str, Any] = {"id": ask.id}
        try:
            question = QUESTIONS[ask.what]
            if question.inside:
                raise KeyError(ask.what)
            of = question.request.model_validate(ask.of)
            await self._catch_up()
            asked = asyncio.wrap_future(self._session.ask(ask.what, of))
            answer = await asyncio.wait_for(asked, question.timeout_s)
            answer = await asyncio.to_thread(self._with_site, answer)
            told |= {"kind": "answer", "what": ask.what, "answer": answer.model_dump(mode="json")}
        except TimeoutError:
            told |= {"kind": "unanswered", "text": BUSY}
        except WestlightError as error:
            told |= {"kind": "unanswered", "text": str(error) or BUSY}
        except (KeyError, ValidationError):
            log.info("question not understood", what=ask.what)
            text = "The page asked something that is not understood; reload it."
            told |= {"kind": "unanswered", "text": text}
        except Exception as error:
            known = said(error)
            number = None if known else self._fault("fault in a question", what=ask.what)
            text = known[1] if known else f"This could not be worked out ({number}). Try again."
            told |= {"kind": "unanswered", "text": text}
        self._put(told, b"")

    def _with_site(self, answer: Answer) -> Answer:
        """What only the studio knows: when the real sun stands where the engine found it."""
        shown = self._showing
        if shown is None:
            return answer
        if isinstance(answer, PatternMap) and answer.map is not None:
            made = self.studio.scenes.with_real_suns(shown.project, answer.map.model_dump())
            return PatternMap.model_validate({"map": made})
        if isinstance(answer, Aim) and answer.problem is None:
            made = self.studio.scenes.sun_times(shown.project, shown.look, answer.model_dump())
            return Aim.model_validate({**answer.model_dump(), **made})
        if isinstance(answer, SunHeight):
            times = self.studio.scenes.at_height(shown.project, shown.look, answer.elevation_deg)
            return answer.model_copy(update=times)
        return answer

    async def _follow(self) -> None:
        """Tell the engine the newest state; states that came in between are skipped."""
        while True:
            await self._changed.wait()
            await self._catch_up()

    async def _catch_up(self) -> None:
        """The engine knows the newest state after this."""
        async with self._telling:
            if not self._changed.is_set() or self._showing is None:
                return
            self._changed.clear()
            try:
                await self._refresh(self._showing)
            except Exception as error:
                known = said(error)
                number = None if known else self._fault("fault in telling the picture")
                text = (
                    known[1] if known else f"The picture could not be told what to show ({number})."
                )
                self._put({"kind": "problem", "text": text}, b"")

    async def _refresh(self, m: Show) -> None:
        held = m.held.model_dump(exclude_unset=True) if m.held else {}
        width = min(m.width, self._most_wide)
        spec = await asyncio.to_thread(
            self.studio.scenes.picture, m.project, m.look, m.view, held, width
        )
        told = _told(spec, m).model_copy(update={"max_samples": self._most_passes})
        # The pipe to an engine that is busy may be full: others are served meanwhile.
        await asyncio.to_thread(self._session.show, told, m.visible, m.blank)
        # The numbers on the sheet follow twice a second; the picture's next state does not wait for them.
        other = OF_FACTS.isdisjoint(held.get("look", {}))
        if other or self._loop.time() - self._facts_at < FACTS_EVERY_S:
            return
        self._facts_at = self._loop.time()
        task = asyncio.create_task(self._tell_facts(m, held))
        self._answering.add(task)
        task.add_done_callback(self._answering.discard)

    async def _tell_facts(self, m: Show, held: dict[str, Any]) -> None:
        """Tell the numbers of a light the hand holds, unless it has let go or something else is shown by now."""
        try:
            facts = await asyncio.to_thread(self.studio.scenes.facts, m.project, m.look, held)
        except Exception as error:
            # What cannot be told is said with the picture.
            if said(error) is None:
                self._fault("fault in telling the facts")
            return
        now = self._showing
        if now is not None and now.held and (now.project, now.look) == (m.project, m.look):
            self._put({"kind": "facts", **Facts.model_validate(facts).model_dump()}, b"")

    def _fault(self, event: str, **more: object) -> str:
        """Log the exception at hand; returns how it is called to the artist."""
        return fault(event, session=self._session.name, **more)


def _told(spec: PictureSpec, m: Show) -> PictureSpec:
    """The picture of a project as a page wants to see it."""
    changes: dict[str, Any] = {
        "moving": m.moving, "held": m.held is not None and not m.moving, "paused": m.paused, "reading": m.reading, "find": m.find,
        "split": m.split, "speckles": m.speckles,
        "prints_by_themselves": m.prints_by_themselves, "region": _region(m.region),
        "of": _of(m),
    }  # fmt: skip
    if m.plain:
        changes["finish"] = FinishSettings()
    return spec.model_copy(update=changes)


def _of(m: Show) -> str:
    """What a page shows, as its frames say it."""
    return f"{m.project} {m.look} {m.view}"


def _region(told: tuple[float, float, float, float] | None) -> tuple[float, ...] | None:
    """A region with an extent; None for none."""
    if told is None:
        return None
    left, top, right, bottom = told
    return told if right > left and bottom > top else None
