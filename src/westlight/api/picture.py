"""The picture's socket: the browser says what it shows and holds, frames come back.

Messages to the browser are binary: a 4-byte little-endian length, a JSON head, then the file. The
newest frame replaces one that has not been sent yet, so that a slow browser is never behind.
"""

from __future__ import annotations

import asyncio
import json
import struct
from collections import OrderedDict
from typing import Any

import structlog
from fastapi import WebSocket, WebSocketDisconnect

from westlight.core.errors import WestlightError
from westlight.engine.host import EngineHost
from westlight.engine.spec import FinishSettings
from westlight.studio.studio import Studio

from .answers import AimHead, Picked

log = structlog.get_logger()
#: Frames on their way to the browser before it must say that it has drawn one.
IN_FLIGHT = 2
FACTS_EVERY_S = 0.5


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
            for task in tasks:
                task.cancel()

    def _from_engine(self, head: dict[str, Any], body: bytes) -> None:
        """Called on the engine's thread."""
        self._loop.call_soon_threadsafe(self._put, head, body)

    def _put(self, head: dict[str, Any], body: bytes) -> None:
        name = f"{head['kind']}{head.get('source', '')}"
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
        elif kind == "start":
            grade = await asyncio.to_thread(self.engine.ask, "starting_grade", mood=message["mood"])
            self._put({"kind": "grade", "grade": grade}, b"")
        elif kind == "pattern":
            made = await asyncio.to_thread(
                self.engine.ask, "pattern", 60.0, step_deg=message["step_deg"],
                picked=message["picked"],
            )  # fmt: skip
            if made:
                made = await asyncio.to_thread(
                    self.studio.with_real_suns, self._showing["project"], made
                )
                self._put({"kind": "pattern", "id": message["id"], "map": made}, b"")
        elif kind == "neutral":
            found = await asyncio.to_thread(
                self.engine.ask, "neutral", x=message["x"], y=message["y"]
            )
            self._put({"kind": "neutral", "kelvin": None, "tint": None, **found}, b"")
        elif kind == "aim":
            await self._aim(message)
        elif kind in ("pick", "meter"):
            ask = self.engine.meter if kind == "meter" else self.engine.pick
            answer = await asyncio.to_thread(ask, message["x"], message["y"])
            picked = Picked(kind="picked", id=message["id"], **answer)
            self._put(picked.model_dump(), b"")

    async def _aim(self, message: dict[str, Any]) -> None:
        found = await asyncio.to_thread(
            self.engine.ask, "aim", 30.0, x=message["x"], y=message["y"],
            through=message.get("through"),
        )  # fmt: skip
        if "problem" not in found:
            m = self._showing
            found = await asyncio.to_thread(self.studio.sun_times, m["project"], m["look"], found)
        self._put(AimHead(kind="aim", id=message["id"], **found).model_dump(), b"")

    async def _follow(self) -> None:
        """Tell the engine the newest state; states that came in between are skipped."""
        while True:
            await self._changed.wait()
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
