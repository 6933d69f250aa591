"""The picture's socket: the browser says what it shows and holds, frames come back.

Messages to the browser are binary: a 4-byte little-endian length, a JSON head, then the file. The
newest frame replaces one that has not been sent yet, so that a slow browser is never behind.
"""

from __future__ import annotations

import asyncio
import json
import struct
from collections import OrderedDict
from typing import Any, ClassVar

import structlog
from fastapi import WebSocket, WebSocketDisconnect

from westlight.core.errors import WestlightError
from westlight.engine.host import EngineHost
from westlight.engine.spec import FinishSettings
from westlight.studio.studio import Studio

from .answers import Answer
from .heads import (
    AimHead,
    BalanceHead,
    CoveredHead,
    CurveHead,
    EstimateHead,
    FixtureDoubtsHead,
    GradeHead,
    LandHead,
    LeaksHead,
    NeutralHead,
    OpeningHead,
    OpeningsHead,
    PatternHead,
    Picked,
    PortalGainHead,
    SpreadHead,
    Unanswered,
)

log = structlog.get_logger()
Message = dict[str, Any]
#: Frames on their way to the browser before it must say that it has drawn one.
IN_FLIGHT = 2
FACTS_EVERY_S = 0.5


def region_of(told: object) -> tuple[float, ...] | None:
    """A region as the browser tells it: four shares of the picture; None for none or a bad one."""
    if not isinstance(told, list) or len(told) != 4:
        return None
    left, top, right, bottom = (min(max(float(v), 0.0), 1.0) for v in told)
    return (left, top, right, bottom) if right > left and bottom > top else None


class PictureSocket:
    """One browser looking at one picture."""

    def __init__(self, socket: WebSocket, studio: Studio, engine: EngineHost) -> None:
        self.socket, self.studio, self.engine = socket, studio, engine
        self._loop = asyncio.get_running_loop()
        self._waiting: OrderedDict[str, tuple[dict[str, Any], bytes]] = OrderedDict()
        self._wake = asyncio.Event()
        self._in_flight = 0
        self._showing: dict[str, Any] = {}
        self._changed = asyncio.Event()
        self._telling = asyncio.Lock()
        self._answering: set[asyncio.Task[None]] = set()
        self._facts_at = 0.0

    async def serve(self) -> None:
        """Talk until the browser goes away."""
        await self.socket.accept()
        stop = self.engine.listen(self._from_engine)
        tasks = [asyncio.create_task(self._send_all()), asyncio.create_task(self._follow())]
        try:
            while True:
                await self._take(json.loads(await self.socket.receive_text()))
        except WebSocketDisconnect:
            pass
        finally:
            stop()
            for task in [*tasks, *self._answering]:
                task.cancel()

    def _from_engine(self, head: dict[str, Any], body: bytes) -> None:
        """Called on the engine's thread."""
        self._loop.call_soon_threadsafe(self._put, head, body)

    def _put(self, head: dict[str, Any], body: bytes) -> None:
        # What is newer takes the place of what waits; answers belong to their questions.
        name = f"{head['kind']}{head.get('source', '')}{head.get('id', '')}"
        self._waiting.pop(name, None)
        self._waiting[name] = (head, body)
        self._wake.set()

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

    async def _take(self, message: dict[str, Any]) -> None:
        kind = message.get("kind")
        if kind == "drawn":
            self._in_flight = max(0, self._in_flight - 1)
            self._wake.set()
        elif kind == "show":
            # Which picture, at which width, paused or not, and what the hand is moving.
            self._showing = message
            self._changed.set()
        elif kind in self._ASKED:
            # Answers take their time; meanwhile frames go on being drawn and states being told.
            task = asyncio.create_task(self._answer(kind, message))
            self._answering.add(task)
            task.add_done_callback(self._answering.discard)

    async def _answer(self, kind: str, message: Message) -> None:
        """Answer a question about the picture as it was told last."""
        try:
            await self._catch_up()
            answer: Answer = await self._ASKED[kind](self, message)
        except (TimeoutError, WestlightError) as error:
            text = str(error) or "The picture is busy; ask again in a moment."
            answer = Unanswered(kind="unanswered", id=message["id"], text=text)
        self._put(answer.model_dump(), b"")

    async def _ask(self, what: str, timeout_s: float = 60.0, **of: Any) -> dict[str, Any]:
        return await asyncio.to_thread(self.engine.ask, what, timeout_s, **of)

    async def _start(self, m: Message) -> GradeHead:
        grade = await self._ask("starting_grade", mood=m["mood"])
        return GradeHead.model_validate({"kind": "grade", "id": m["id"], "grade": grade})

    async def _curve(self, m: Message) -> CurveHead:
        return CurveHead(kind="curve", id=m["id"], **await self._ask("starting_curve"))

    async def _pattern(self, m: Message) -> PatternHead:
        made = await self._ask("pattern", step_deg=m["step_deg"], picked=m["picked"])
        if made:
            project = self._showing["project"]
            made = await asyncio.to_thread(self.studio.with_real_suns, project, made)
        return PatternHead.model_validate({"kind": "pattern", "id": m["id"], "map": made or None})

    async def _neutral(self, m: Message) -> NeutralHead:
        found = await self._ask("neutral", x=m["x"], y=m["y"])
        return NeutralHead.model_validate({"kind": "neutral", "id": m["id"], **found})

    async def _picked(self, m: Message) -> Picked:
        return Picked(kind="picked", id=m["id"], **await self._ask(m["kind"], x=m["x"], y=m["y"]))

    async def _under(self, m: Message) -> Picked:
        return Picked(kind="picked", id=m["id"], **await self._ask("under", place=m["place"]))

    async def _aim(self, m: Message) -> AimHead:
        found = await self._ask(
            "aim", x=m["x"], y=m["y"], through=m.get("through"), below=m.get("below")
        )
        if "problem" not in found:
            shown = self._showing
            found = await asyncio.to_thread(
                self.studio.sun_times, shown["project"], shown["look"], found
            )
        return AimHead(kind="aim", id=m["id"], **found)

    async def _openings(self, m: Message) -> OpeningsHead:
        return OpeningsHead(kind="openings", id=m["id"], **await self._ask("openings"))

    async def _opening(self, m: Message) -> OpeningHead:
        made = await self._ask("opening_between", corners=m["corners"])
        return OpeningHead(kind="opening", id=m["id"], **made)

    async def _gain(self, m: Message) -> PortalGainHead:
        return PortalGainHead(kind="gain", id=m["id"], **await self._ask("portal_gain"))

    async def _land(self, m: Message) -> LandHead:
        of = {name: m[name] for name in ("x", "y", "shape", "off_m", "snap")}
        found = await self._ask("land", **of, on_plan=m.get("on_plan"))
        return LandHead(kind="land", id=m["id"], **found)

    async def _spread(self, m: Message) -> SpreadHead:
        made = await self._ask("spread", source=m["source"], lux=m["lux"])
        return SpreadHead(kind="spread", id=m["id"], **made)

    async def _doubts(self, m: Message) -> FixtureDoubtsHead:
        made = await self._ask("fixture_doubts")
        return FixtureDoubtsHead(kind="doubts", id=m["id"], **made)

    async def _covered(self, m: Message) -> CoveredHead:
        return CoveredHead(kind="covered", id=m["id"], **await self._ask("covered"))

    async def _leaks(self, m: Message) -> LeaksHead:
        return LeaksHead(kind="leaks", id=m["id"], **await self._ask("leaks"))

    async def _estimate(self, m: Message) -> EstimateHead:
        made = await self._ask("estimate", width_px=m["width_px"], noise=m["noise"])
        return EstimateHead(kind="estimate", id=m["id"], **made)

    async def _balance(self, m: Message) -> BalanceHead:
        made = await self._ask("balance", wishes=m["wishes"])
        return BalanceHead(kind="balance", id=m["id"], **made)

    #: Questions about the picture; each carries a number that its answer gives back.
    _ASKED: ClassVar = {
        "start": _start, "curve": _curve, "pattern": _pattern, "neutral": _neutral, "pick": _picked,
        "meter": _picked, "aim": _aim, "openings": _openings, "opening": _opening, "gain": _gain, "spread": _spread,
        "land": _land, "under": _under,
        "doubts": _doubts, "leaks": _leaks, "covered": _covered,
        "balance": _balance, "estimate": _estimate,
    }  # fmt: skip

    async def _follow(self) -> None:
        """Tell the engine the newest state; states that came in between are skipped."""
        while True:
            await self._changed.wait()
            await self._catch_up()

    async def _catch_up(self) -> None:
        """The engine knows the newest state after this."""
        async with self._telling:
            if self._changed.is_set():
                self._changed.clear()
                await self._refresh()

    async def _refresh(self) -> None:
        m = self._showing
        try:
            spec = await asyncio.to_thread(
                self.studio.picture, m["project"], m["look"], m["view"], m.get("held"),
                int(m.get("width", 1280)),
            )  # fmt: skip
        except WestlightError as error:
            self._put({"kind": "problem", "text": str(error)}, b"")
            return
        moving, paused = bool(m.get("moving")), bool(m.get("paused"))
        changes: dict[str, Any] = {"moving": moving, "paused": paused}
        changes["reading"] = m.get("reading") or "plain"
        changes["find"] = m.get("find")
        changes["prints_by_themselves"] = bool(m.get("prints_by_themselves"))
        changes["region"] = region_of(m.get("region"))
        if m.get("plain"):
            # The light as it was traced, for as long as a key is held.
            changes["finish"] = FinishSettings()
        self.engine.show(spec.model_copy(update=changes))
        # The numbers on the sheet follow twice a second; the picture comes first.
        if (m.get("held") or {}).get("look"):
            if self._loop.time() - self._facts_at < FACTS_EVERY_S:
                return
            self._facts_at = self._loop.time()
            facts = await asyncio.to_thread(
                self.studio.facts, m["project"], m["look"], m.get("held")
            )
            self._put({"kind": "facts", **facts}, b"")
