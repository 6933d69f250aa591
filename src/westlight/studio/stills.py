"""Stills: each is rendered by a process of its own, one after another.

A still can be paused, resumed, put first and cancelled. What a stopped one has gathered lies in its
folder, so it goes on from there, whether the artist, the server or the machine ended it. The light of a
finished one is kept: mixed and finished again it is a new still in seconds.
"""

from __future__ import annotations

import errno
import json
import re
import shutil
import subprocess
import sys
import threading
from collections.abc import Container, Mapping
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import structlog
from pydantic import ValidationError
from sqlalchemy import func, select, update
from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session

from westlight.engine.described import described
from westlight.engine.spec import PictureSpec
from westlight.engine.still import FULL, PREVIEW, MixOrder, StillOrder
from westlight.store import Asset, AssetStore, Still, Store

from .errors import BadEdit, NotFound
from .shelf import keep_asset

log = structlog.get_logger()
#: Seconds a render process gets to keep what it has gathered.
STOP_S = 20.0
#: Seconds until the queue looks again when something holds it up; bytes that must be free to begin a still.
HELD_UP_S, LEAST_FREE = 5.0, 200_000_000
NO_SPACE = "Waiting for space on the disk: free some (Storage), and the queue goes on."
#: How files of stills are called unless the artist says otherwise.
NAMES = "{project}-{view}-{look}-{date}-v{version}"
_MEDIA = {"exr": "image/x-exr", "light": "image/x-exr", "tiff": "image/tiff", "jpeg": "image/jpeg"}


def file_name(template: str, **words: str) -> str:
    """Name of a file by a template with words in braces; raises `BadEdit` for an unknown one.

    >>> file_name("{view}_{look}-v{version}", view="Wheel room", look="Late sun", version="2")
    'wheel-room_late-sun-v2'
    """
    words = {"date": datetime.now(UTC).strftime("%Y-%m-%d"), **words}
    asked = set(re.findall(r"{([^{}]*)}", template))
    if not asked <= set(words) or re.sub(r"{[^{}]*}", "", template).count("{"):
        known = ", ".join(
            f"{{{w}}}" for w in ("project", "view", "look", "date", "version", "width")
        )
        raise BadEdit(f"Names of files may use {known}.")
    plain = {w: re.sub(r"[^\w-]+", "-", v).strip("-").lower() for w, v in words.items()}
    made = re.sub(r"{([^{}]*)}", lambda m: plain[m[1]], template)
    made = re.sub(r"[^\w.-]+", "-", made).strip("-._")
    if not made:
        raise BadEdit("A name for files needs at least one letter.")
    return made[:120]


class Stills:
    """The queue of stills. Progress lives in memory while rendering and in the row at the end."""

    def __init__(self, store: Store, assets: AssetStore, folder: Path) -> None:
        self.store, self.assets, self.folder = store, assets, folder
        folder.mkdir(parents=True, exist_ok=True)
        self.progress: dict[str, dict[str, Any]] = {}
        self._words: dict[str, str] = {}
        self._wake = threading.Event()
        self._running: tuple[str, subprocess.Popen[str]] | None = None
        self._asked_to_stop: subprocess.Popen[str] | None = None
        self._closing = False
        self._thread = threading.Thread(target=self._work, name="stills", daemon=True)

    def start(self) -> None:
        """Take up the queue; stills that a stopped server left half done wait again."""
        with self.store.session() as session:
            session.execute(
                update(Still).where(Still.status == "rendering").values(status="waiting")
            )
        self._wake.set()
        self._thread.start()

    def close(self) -> None:
        """Stop the work; the still in progress goes on at the next start."""
        self._closing = True
        self._wake.set()
        if self._running is not None:
            self._running[1].terminate()
            try:
                self._running[1].wait(STOP_S)
            except subprocess.TimeoutExpired:
                self._running[1].kill()

    def order(
        self,
        project_id: str,
        name: str,
        order: StillOrder | MixOrder,
        names: str = NAMES,
        of: Mapping[str, str] | None = None,
        series: dict[str, Any] | None = None,
    ) -> str:
        """Queue a still and return its id.

        Its files are called by the template ``names``, of whose words ``of`` gives project, view and look, and the number
        in a ``series`` if it belongs to one; raises `BadEdit` for a word there is not.
        """
        with self.store.session() as session:
            before = session.scalar(
                select(func.count()).select_from(Still)
                .where(Still.project_id == project_id, Still.name == name)
            )  # fmt: skip
            stem = file_name(names, version=str((before or 0) + 1),
                             width=str(order.spec.width_px),
                             **{"project": "", "view": name, "look": "", "number": "", **(of or {})})  # fmt: skip
            order = order.model_copy(update={"stem": stem})
            still = Still(project_id=project_id, name=name, settings={
                "order": order.model_dump(mode="json"), "files": [], "series": series})  # fmt: skip
            # What was ordered first comes first, and a mixture, being done at once, before it.
            last = session.scalar(select(func.max(Still.position)))
            still.position = (
                (last or 0) + 1 if isinstance(order, StillOrder) else self._first(session)
            )
            session.add(still)
            session.flush()
            still_id = still.id
        self._wake.set()
        return still_id

    @staticmethod
    def _first(session: Session) -> int:
        """A place before all others in the queue."""
        return (session.scalar(select(func.min(Still.position))) or 0) - 1

    def sooner(self, still_id: str) -> None:
        """Put a waiting still first in the queue."""
        with self.store.session() as session:
            still = session.get(Still, still_id)
            if still is not None and still.status == "waiting":
                still.position = self._first(session)

    def remove(self, still_id: str) -> None:
        """Put a finished still aside; `restore` brings it back until the next `sweep`."""
        with self.store.session() as session:
            still = session.get(Still, still_id)
            if still is not None and still.status in ("done", "failed", "cancelled"):
                still.settings = {**still.settings, "was": still.status}
                still.status = "removed"

    def restore(self, still_id: str) -> None:
        """Bring back a still that was put aside, as it was."""
        with self.store.session() as session:
            still = session.get(Still, still_id)
            if still is not None and still.status == "removed":
                still.status = still.settings["was"]

    def drop_light(self, still_id: str) -> None:
        """Let go of the kept light of a still; its files stay."""
        with self.store.session() as session:
            still = session.get(Still, still_id)
            if still is None:
                return
            files = still.settings.get("files", [])
            still.settings = {**still.settings, "files": [f for f in files if f["kind"] != "light"]}
        self._free({f["asset"] for f in files if f["kind"] == "light"})

    def sweep(self, still_id: str) -> None:
        """Delete all stills that were put aside in the project of a still, with their files."""
        with self.store.session() as session:
            still = session.get(Still, still_id)
            if still is None:
                return
            aside = select(Still).where(Still.status == "removed",
                                        Still.project_id == still.project_id)  # fmt: skip
            let_go: set[str] = set()
            for removed in session.scalars(aside).all():
                let_go |= {f["asset"] for f in removed.settings["files"]}
                session.delete(removed)
        self._free(let_go)

    def _free(self, let_go: set[str]) -> None:
        """Delete files that were let go and that no still has any more."""
        with self.store.session() as session:
            used = {f["asset"] for s in session.scalars(select(Still)) for f in s.settings["files"]}
            rows = session.scalars(select(Asset).where(Asset.id.in_(let_go - used))).all()
            files = [self.assets.path(a.id, Path(a.name).suffix) for a in rows]
            for row in rows:
                session.delete(row)
        # Only once the rows are gone for good: a row without its file could not be opened.
        for file in files:
            file.unlink(missing_ok=True)

    def preview(self, still_id: str) -> Path:
        """File of the picture of a still in the making; raises `NotFound` while there is none."""
        file = self.folder / Path(still_id).name / PREVIEW
        if not file.is_file():
            raise NotFound("There is no picture of this still yet.")
        return file

    def recipe(self, still_id: str) -> str:
        """The order of a still as JSON, to render it again: as many passes as it had, whatever their noise.

        Raises `BadEdit` for one that was mixed, which has no passes of its own.
        """
        with self.store.session() as session:
            still = session.get(Still, still_id)
            if still is None or "light" in still.settings["order"]:
                raise BadEdit("Only a still that was rendered has a recipe to render it again.")
            order = StillOrder.model_validate(still.settings["order"])
            passes = still.settings.get("passes")
        if passes:
            order = order.model_copy(update={"samples": passes, "noise": 1e-6, "seconds": 86_400.0})
        return order.model_dump_json(indent=1)

    def name_of(self, still_id: str) -> str:
        """Name of a still without what was done to it since; raises `BadEdit` if it is gone."""
        with self.store.session() as session:
            still = session.get(Still, still_id)
            if still is None:
                raise BadEdit("This still is no longer there.")
            return still.name.removesuffix(", refined")

    def light_of(self, still_id: str) -> tuple[StillOrder, str]:
        """The order of a still and the asset of its kept light; raises `BadEdit` without one."""
        with self.store.session() as session:
            still = session.get(Still, still_id)
            files = still.settings.get("files", []) if still is not None else []
            kept = next((f for f in files if f["kind"] == "light"), None)
            if still is None or kept is None:
                raise BadEdit("The light of this still was not kept. Save a new still instead.")
            order = StillOrder.model_validate(still.settings["order"])
            return order, kept["asset"]

    def cancel(self, still_id: str) -> None:
        """Take a still out of the queue or stop it; what it has gathered is thrown away."""
        self._finish(still_id, "cancelled", of=("waiting", "rendering", "paused"))
        if self._running is not None and self._running[0] == still_id:
            self._running[1].kill()
            self._running[1].wait(STOP_S)
        shutil.rmtree(self.folder / still_id, ignore_errors=True)

    def pause(self, still_id: str) -> None:
        """Let a still wait until it is resumed; what it has gathered is kept."""
        self._finish(still_id, "paused")
        if self._running is not None and self._running[0] == still_id:
            self._asked_to_stop = self._running[1]
            self._running[1].terminate()

    def resume(self, still_id: str) -> None:
        """Queue a paused or failed still again."""
        with self.store.session() as session:
            still = session.get(Still, still_id)
            if still is None or still.status not in ("paused", "failed"):
                return
            still.status = "waiting"
        self._wake.set()

    def _finish(
        self, still_id: str, status: str, of: Container[str] = ("waiting", "rendering"),
        **settings: Any,
    ) -> None:  # fmt: skip
        with self.store.session() as session:
            still = session.get(Still, still_id)
            if still is not None and still.status in of:
                still.status = status
                still.settings = {**still.settings, **settings}

    def of_project(self, session: Session, project_id: str) -> list[dict[str, Any]]:
        """Stills of a project with their present progress, the newest first."""
        of = select(Still).where(Still.project_id == project_id)
        return [self._still(s) for s in session.scalars(of.order_by(Still.created_at.desc()))]

    def _still(self, still: Still) -> dict[str, Any]:
        order = still.settings["order"]
        return {
            "id": still.id, "name": still.name, "status": still.status,
            "described": self._described(still), "series": still.settings.get("series"),
            "created_at": still.created_at.isoformat(), "width_px": order["spec"]["width_px"],
            "files": still.settings.get("files", []), "problem": still.settings.get("problem"),
            "progress": self.progress.get(still.id),
            "sums_differ": still.settings.get("sums_differ"),
            "sources": {s["id"]: s["name"] for s in order["spec"]["sources"] if s["counts"]},
            "remark": still.settings.get("remark"), "curve": still.settings.get("curve") or [],
            "seen": still.settings["order"].get("noise", 1.0) is None,
        }  # fmt: skip

    def _described(self, still: Still) -> str:
        """Light of a still in words; nothing for one whose order is no longer understood."""
        if still.id not in self._words:
            try:
                spec = PictureSpec.model_validate(still.settings["order"]["spec"])
                self._words[still.id] = described(spec)
            except ValidationError:
                self._words[still.id] = ""
        return self._words[still.id]

    def _work(self) -> None:
        while not self._closing:
            try:
                self._next()
            except Exception:
                # The database is gone for a while, or the disk is full: the queue goes on when it is back.
                log.exception("queue of stills held up")
                self._wake.wait(HELD_UP_S)

    def _next(self) -> None:
        """Render the next still, or wait until there is one."""
        with self.store.session() as session:
            # A database that went away in the middle left one that nobody renders.
            session.execute(
                update(Still).where(Still.status == "rendering").values(status="waiting")
            )
            query = select(Still).where(Still.status == "waiting")
            still = session.scalar(query.order_by(Still.position, Still.created_at).limit(1))
        if still is None:
            self._wake.wait()
            self._wake.clear()
            return
        still_id = still.id
        if shutil.disk_usage(self.folder).free < LEAST_FREE:
            self.progress[still_id] = {"kind": "progress", "share": 0.0, "text": NO_SPACE}
            self.store.tell(Still, still.project_id)
            self._wake.wait(HELD_UP_S)
            return
        try:
            self._render(still_id)
        except (SQLAlchemyError, OSError) as error:
            if isinstance(error, OSError) and error.errno not in (errno.ENOSPC, errno.EDQUOT):
                self._fail(still_id)
            else:
                raise
        except Exception:
            self._fail(still_id)
        finally:
            self._running = None
            self.progress.pop(still_id, None)
            self.store.tell(Still, still.project_id)

    def _wait_again(self, still_id: str) -> None:
        """Put a still that was being rendered back into the queue."""
        with self.store.session() as session:
            still = session.get(Still, still_id)
            if still is not None and still.status == "rendering":
                still.status = "waiting"

    def _fail(self, still_id: str) -> None:
        """Note that a still failed by a fault of ours, which is logged under its number."""
        log.exception("still failed", still=still_id)
        number = still_id[:6]
        self._finish(
            still_id,
            "failed",
            problem=f"The still stopped by a fault ({number}). Resume it to try again.",
        )

    def _render(self, still_id: str) -> None:
        with self.store.session() as session:
            still = session.get(Still, still_id)
            if still is None or still.status != "waiting":
                return
            still.status = "rendering"
            project, settings = still.project_id, still.settings["order"]
            kind = MixOrder if "light" in settings else StillOrder
            order: StillOrder | MixOrder = kind.model_validate(settings)
        folder = self.folder / still_id
        folder.mkdir(parents=True, exist_ok=True)
        file = folder / "order.json"
        file.write_text(order.model_copy(update={"folder": str(folder)}).model_dump_json())
        command = [sys.executable, "-m", "westlight.engine.still", str(file)]
        process = subprocess.Popen(command, stdout=subprocess.PIPE, text=True)
        self._running = (still_id, process)
        last: dict[str, Any] = {}
        curve: list[Any] = []
        assert process.stdout is not None
        for line in process.stdout:
            last = json.loads(line)
            if last["kind"] == "progress":
                self.progress[still_id] = last
                self.store.tell(Still, project)
                curve = last.get("curve") or curve
        process.wait()
        self._running = None
        self.progress.pop(still_id, None)
        if last.get("kind") == "done":
            remark = " ".join(last.get("remarks", [])) or None
            self._finish(still_id, "done", files=self._keep(last["files"]), curve=curve,
                         remark=remark, sums_differ=last.get("sums_differ"),
                         passes=last.get("passes"))  # fmt: skip
            shutil.rmtree(folder, ignore_errors=True)
        elif process is self._asked_to_stop:
            # Paused before it could say so; it may be wanted again by now and has not failed.
            self._asked_to_stop = None
        elif last.get("kind") != "stopped" and not self._closing:
            problem = last.get("text") if last.get("kind") == "failed" else None
            if problem == FULL and shutil.disk_usage(self.folder).free < LEAST_FREE:
                # What was gathered is kept; it goes on when there is space.
                self._wait_again(still_id)
                return
            if problem is None:
                log.error("render process ended", still=still_id, code=process.returncode)
            self._finish(
                still_id, "failed", problem=problem or "The render was ended. Resume it to go on."
            )

    def _keep(self, files: dict[str, str]) -> list[dict[str, Any]]:
        kept = []
        for kind, name in files.items():
            path = Path(name)
            media = _MEDIA.get(kind, "image/png")
            with self.store.session() as session:
                asset = keep_asset(session, self.assets, path, path.name, media)
            size = path.stat().st_size
            kept.append({"kind": kind, "asset": asset, "name": path.name, "bytes": size})
            path.unlink()
        return kept
