"""Contact sheets: a view over a day, a year, all looks or all views, made in the background.

One sheet is made at a time; a new one ends the one before. Sheets are kept until the server ends.
"""

from __future__ import annotations

import io
import json
import shutil
import subprocess
import sys
import threading
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from PIL import Image, ImageDraw

from westlight.engine.contact import ContactOrder

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
    ready: list[bool] = field(default_factory=list)
    problem: str | None = None
    process: subprocess.Popen[str] | None = None

    def describe(self) -> dict[str, Any]:
        """What the browser shows of it."""
        return {
            "id": self.id, "title": self.title, "problem": self.problem,
            "running": self.process is not None,
            "pictures": [
                {"caption": c, "take": t, "ready": r}
                for c, t, r in zip(self.captions, self.takes, self.ready, strict=True)
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
            made = Sheet(name, project, title, folder, captions, takes, [False] * len(captions))
            self._sheets[name] = made
            file = folder / "order.json"
            file.write_text(order.model_copy(update={"folder": str(folder)}).model_dump_json())
            command = [sys.executable, "-m", "westlight.engine.contact", str(file)]
            made.process = subprocess.Popen(command, stdout=subprocess.PIPE, text=True)
        threading.Thread(target=self._follow, args=(made,), daemon=True).start()
        return made

    def _follow(self, sheet: Sheet) -> None:
        process = sheet.process
        assert process is not None
        assert process.stdout is not None
        for line in process.stdout:
            said = json.loads(line)
            if said["kind"] == "picture":
                sheet.ready[said["n"]] = True
            else:
                sheet.problem = said["text"]
        process.wait()
        sheet.process = None

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
        if not 0 <= n < len(sheet.ready) or not sheet.ready[n]:
            raise NotFound("This picture is not ready yet.")
        return sheet.folder / f"{n:03d}.jpg"

    def as_file(self, sheet_id: str, kind: str = "PNG") -> bytes:
        """The whole sheet as one PNG or PDF, captions below the pictures.

        Raises `NotFound` when no picture is ready.
        """
        sheet = self.get(sheet_id)
        ready = [i for i, r in enumerate(sheet.ready) if r]
        if not ready:
            raise NotFound("No picture of this sheet is ready yet.")
        prints = [Image.open(self.picture(sheet_id, i)) for i in ready]
        width, height = prints[0].size
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
            page.paste(image, (x, y))
            write(draw, (x, y + height + 7), sheet.captions[i], "#404040", 16)
        out = io.BytesIO()
        page.save(out, kind, resolution=PRINT_DPI)
        return out.getvalue()

    def close(self) -> None:
        """End whatever is being made."""
        for sheet in self._sheets.values():
            self._stop(sheet)
