"""Stills: each is rendered by a process of its own, one after another.

A still can be paused, resumed and cancelled. What a stopped one has gathered lies in its folder, so it
goes on from there, whether the artist, the server or the machine ended it.
"""

from __future__ import annotations

import json
import queue
import re
import shutil
import subprocess
import sys
import threading
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import structlog
from sqlalchemy import select, update

from westlight.engine.still import StillOrder
from westlight.store import Asset, AssetStore, Still, Store

log = structlog.get_logger()
#: Seconds a render process gets to keep what it has gathered.
STOP_S = 20.0
_MEDIA = {"exr": "image/x-exr", "tiff": "image/tiff", "jpeg": "image/jpeg"}


class Stills:
    """The queue of stills. Progress lives in memory while rendering and in the row at the end."""

    def __init__(self, store: Store, assets: AssetStore, folder: Path) -> None:
        self.store, self.assets, self.folder = store, assets, folder
        folder.mkdir(parents=True, exist_ok=True)
        self.progress: dict[str, dict[str, Any]] = {}
        self._queue: queue.Queue[str | None] = queue.Queue()
        self._running: tuple[str, subprocess.Popen[str]] | None = None
        self._closing = False
        self._thread = threading.Thread(target=self._work, name="stills", daemon=True)

    def start(self) -> None:
        """Take up the queue; stills that a stopped server left half done wait again."""
        with self.store.session() as session:
            session.execute(
                update(Still).where(Still.status == "rendering").values(status="waiting")
            )
            waiting = session.scalars(
                select(Still.id).where(Still.status == "waiting").order_by(Still.created_at)
            ).all()
        for still_id in waiting:
            self._queue.put(still_id)
        self._thread.start()

    def close(self) -> None:
        """Stop the work; the still in progress goes on at the next start."""
        self._closing = True
        self._queue.put(None)
        if self._running is not None:
            self._running[1].terminate()
            try:
                self._running[1].wait(STOP_S)
            except subprocess.TimeoutExpired:
                self._running[1].kill()

    def order(self, project_id: str, name: str, order: StillOrder) -> str:
        """Queue a still and return its id."""
        stem = re.sub(r"[^\w-]+", "-", name).strip("-").lower()
        stamp = datetime.now(UTC).strftime("%Y%m%d-%H%M%S")
        order = order.model_copy(update={"stem": f"{stem}-{stamp}"})
        with self.store.session() as session:
            still = Still(project_id=project_id, name=name, settings={
                "order": order.model_dump(mode="json"), "files": []})  # fmt: skip
            session.add(still)
            session.flush()
            still_id = still.id
        self._queue.put(still_id)
        return still_id

    def cancel(self, still_id: str) -> None:
        """Take a still out of the queue or stop it; what it has gathered is thrown away."""
        self._finish(still_id, "cancelled")
        if self._running is not None and self._running[0] == still_id:
            self._running[1].kill()
            self._running[1].wait(STOP_S)
        shutil.rmtree(self.folder / still_id, ignore_errors=True)

    def pause(self, still_id: str) -> None:
        """Let a still wait until it is resumed; what it has gathered is kept."""
        self._finish(still_id, "paused")
        if self._running is not None and self._running[0] == still_id:
            self._running[1].terminate()

    def resume(self, still_id: str) -> None:
        """Queue a paused or failed still again."""
        with self.store.session() as session:
            still = session.get(Still, still_id)
            if still is None or still.status not in ("paused", "failed"):
                return
            still.status = "waiting"
        self._queue.put(still_id)

    def _finish(self, still_id: str, status: str, **settings: Any) -> None:
        with self.store.session() as session:
            still = session.get(Still, still_id)
            if still is not None and still.status in ("waiting", "rendering"):
                still.status = status
                still.settings = {**still.settings, **settings}

    def _work(self) -> None:
        while (still_id := self._queue.get()) is not None:
            try:
                self._render(still_id)
            except Exception as error:
                log.error("still failed", still=still_id, error=repr(error))
                self._finish(still_id, "failed", problem=f"The still stopped: {error}")

    def _render(self, still_id: str) -> None:
        with self.store.session() as session:
            still = session.get(Still, still_id)
            if still is None or still.status != "waiting":
                return
            still.status = "rendering"
            order = StillOrder.model_validate(still.settings["order"])
        folder = self.folder / still_id
        folder.mkdir(parents=True, exist_ok=True)
        file = folder / "order.json"
        file.write_text(order.model_copy(update={"folder": str(folder)}).model_dump_json())
        command = [sys.executable, "-m", "westlight.engine.still", str(file)]
        process = subprocess.Popen(command, stdout=subprocess.PIPE, text=True)
        self._running = (still_id, process)
        last: dict[str, Any] = {}
        assert process.stdout is not None
        for line in process.stdout:
            last = json.loads(line)
            if last["kind"] == "progress":
                self.progress[still_id] = last
        process.wait()
        self._running = None
        self.progress.pop(still_id, None)
        if last.get("kind") == "done":
            self._finish(still_id, "done", files=self._keep(last["files"]))
            shutil.rmtree(folder, ignore_errors=True)
        elif last.get("kind") != "stopped" and not self._closing:
            problem = last.get("text") if last.get("kind") == "failed" else None
            self._finish(still_id, "failed", problem=problem or "The render process was ended.")

    def _keep(self, files: dict[str, str]) -> list[dict[str, Any]]:
        kept = []
        for kind, name in files.items():
            path = Path(name)
            asset_id = self.assets.put(path)
            size = path.stat().st_size
            media = _MEDIA.get(kind, "image/png")
            with self.store.session() as session:
                if session.get(Asset, asset_id) is None:
                    session.add(
                        Asset(id=asset_id, name=path.name, media_type=media, size_bytes=size)
                    )
            kept.append({"kind": kind, "asset": asset_id, "name": path.name, "bytes": size})
            path.unlink()
        return kept
