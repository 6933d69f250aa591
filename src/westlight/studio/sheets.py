"""Contact sheets: a view over a day, a year, all looks or all views, made in the background.

One sheet is made at a time; a new one ends the one before. Sheets are kept until the server ends.
"""

from __future__ import annotations

import contextlib
import io
import shutil
import threading
from dataclasses import dataclass, field
from multiprocessing.connection import Connection
from multiprocessing.process import BaseProcess
from pathlib import Path
from typing import Any

from PIL import Image, ImageDraw

from westlight.engine.contact import ROUNDS, ContactOrder, begun

from .errors import NotFound
from .lettering import write

#: Width of one picture and of the margins of a saved sheet, in pixels.
WIDTH, MARGIN, CAPTION = 320, 24, 30
_KEPT = 6
#: Dots per inch of a sheet on paper: four pictures fill the width of an A3 page.
PRINT_DPI = 90.0


@dataclass
class Sheet:
    """Pictures with what each is of: a caption, and the settings that taking it means."""

    id: str
    project: str
    title: str
    folder: Path
    captions: list[str]
    takes: list[dict[str, Any]]
    #: Rounds each picture has had; 0 for one that is not there yet.
    rounds: list[int] = field(default_factory=list)
    problem: str | None = None
    process: BaseProcess | None = None

    def describe(self) -> dict[str, Any]:
        """What the browser shows of it."""
        return {
            "id": self.id, "title": self.title, "problem": self.problem,
            "running": self.process is not None, "rounds": len(ROUNDS),
            "pictures": [
                {"caption": c, "take": t, "round": r}
                for c, t, r in zip(self.captions, self.takes, self.rounds, strict=True)
            ],
        }  # fmt: skip


class Sheets:
    """The sheets of this server."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self._sheets: dict[str, Sheet] = {}
        self._lock = threading.Lock()
        self._number = 0

    def begin(
        self, project: str, title: str, order: ContactOrder, captions: list[str],
        takes: list[dict[str, Any]],
    ) -> Sheet:  # fmt: skip
        """Start to make a sheet; the one in the making is ended."""
        with self._lock:
            self._number += 1
            for sheet in self._sheets.values():
                self._stop(sheet)
            while len(self._sheets) >= _KEPT:
                old = self._sheets.pop(next(iter(self._sheets)))
                shutil.rmtree(old.folder, ignore_errors=True)
            name = f"{self._number:04d}"
            folder = self.folder / name
            shutil.rmtree(folder, ignore_errors=True)
            folder.mkdir(parents=True)
            made = Sheet(name, project, title, folder, captions, takes, [0] * len(captions))
            self._sheets[name] = made
            made.process, told = begun(order.model_copy(update={"folder": str(folder)}))
        threading.Thread(target=self._follow, args=(made, told), daemon=True).start()
        return made

    @staticmethod
    def _follow(sheet: Sheet, told: Connection) -> None:
        # The pipe closes when the process has ended, however it did.
        with contextlib.suppress(EOFError, OSError):
            while True:
                said = told.recv()
                if said["kind"] == "picture":
                    sheet.rounds[said["n"]] = said["round"]
                else:
                    sheet.problem = said["text"]
        told.close()
        process, sheet.process = sheet.process, None
        if process is not None:
            process.join()

    def _stop(self, sheet: Sheet) -> None:
        if sheet.process is not None:
            sheet.process.kill()

    def get(self, sheet_id: str) -> Sheet:
        """A sheet by id; raises `NotFound`."""
        if sheet_id not in self._sheets:
            raise NotFound("This sheet is no longer there; make it again.")
        return self._sheets[sheet_id]

    def stop(self, sheet_id: str) -> None:
        """End the making of a sheet; what is ready stays."""
        self._stop(self.get(sheet_id))

    def picture(self, sheet_id: str, n: int) -> Path:
        """File of one picture; raises `NotFound` before it is ready."""
        sheet = self.get(sheet_id)
        if not 0 <= n < len(sheet.rounds) or not sheet.rounds[n]:
            raise NotFound("This picture is not ready yet.")
        return sheet.folder / f"{n:03d}.jpg"

    def as_file(self, sheet_id: str, kind: str = "PNG") -> bytes:
        """The whole sheet as one PNG or PDF, captions below the pictures.

        Raises `NotFound` when no picture is ready.
        """
        sheet = self.get(sheet_id)
        ready = [i for i, r in enumerate(sheet.rounds) if r]
        if not ready:
            raise NotFound("No picture of this sheet is ready yet.")
        prints = [Image.open(self.picture(sheet_id, i)) for i in ready]
        # What has had one round only is smaller.
        width, height = max(p.size for p in prints)
        columns = min(4, len(prints))
        rows = -(-len(prints) // columns)
        page = Image.new("RGB", (
            MARGIN + columns * (width + MARGIN), 2 * MARGIN + 26 + rows * (height + CAPTION + MARGIN)
        ), "#f0f0f0")  # fmt: skip
        draw = ImageDraw.Draw(page)
        write(draw, (MARGIN, MARGIN - 4), sheet.title, "#1c1c1c", 22)
        for k, (i, image) in enumerate(zip(ready, prints, strict=True)):
            x = MARGIN + (k % columns) * (width + MARGIN)
            y = 2 * MARGIN + 18 + (k // columns) * (height + CAPTION + MARGIN)
            page.paste(image.resize((width, height)), (x, y))
            write(draw, (x, y + height + 7), sheet.captions[i], "#404040", 16)
        out = io.BytesIO()
        page.save(out, kind, resolution=PRINT_DPI)
        return out.getvalue()

    def close(self) -> None:
        """End whatever is being made."""
        for sheet in self._sheets.values():
            self._stop(sheet)
