"""Papers and sheets in any script: read back by an independent reader, every font inside the file."""

from __future__ import annotations

import io
from datetime import date

import numpy as np
import pytest
from PIL import Image, ImageDraw
from pypdf import PdfReader

from westlight.studio import documents
from westlight.studio.lettering import runs, write

NAME = "Łódź – Дом 東京 Ελλάδα 서울 <b>&"


def _fonts(pdf: bytes) -> list[dict[str, object]]:
    """Descriptors of the fonts of every page."""
    out = []
    for page in PdfReader(io.BytesIO(pdf)).pages:
        for font in page["/Resources"]["/Font"].values():  # type: ignore[index]
            made = font.get_object()
            out.append(made.get("/FontDescriptor") and made["/FontDescriptor"].get_object())
    return out


@pytest.mark.parametrize("paper", ["client", "sun", "schedule"])
def test_a_name_is_printed_as_it_is_written(paper: str) -> None:
    row = {"fixture": NAME, "shape": "disc", "count": 1, "colour (K)": 3000, "flux each (lm)": 1.0, "flux in all (lm)": 1.0,
           "power each (W)": 1.0, "level (EV)": 0.0, "in this look": "on", "fill": "", "circuit": "", "photometric file": "",
           "positions (m)": "0 0 0"}  # fmt: skip
    pdf = {
        "client": lambda: documents.client_pdf(NAME, [], NAME, "2026-10-11"),
        "sun": lambda: documents.sun_pdf(NAME, date(2026, 10, 11), 51.8, 19.5, "Europe/Warsaw"),
        "schedule": lambda: documents.schedule_pdf(NAME, "Tag", [row]),
    }[paper]()
    text = "".join(page.extract_text() for page in PdfReader(io.BytesIO(pdf)).pages)
    for word in NAME.split():
        assert word in text, word
    # Text of a reader's own fonts would look another way on every machine.
    fonts = _fonts(pdf)
    assert all(f and "/FontFile2" in f for f in fonts)
    assert len(fonts) >= 2


def test_letters_no_font_has_become_one_mark_each() -> None:
    assert runs("a\U00012000\U00012001b") == [("Westlight", "a??b")]
    assert runs("") == []


def test_a_sheet_is_lettered_in_any_script() -> None:
    """Every word leaves ink, and words of one line stand beside one another."""
    widths = []
    for text in ("Łódź", "Łódź 東京", "Łódź 東京 Дом"):
        page = Image.new("L", (600, 60), 255)
        write(ImageDraw.Draw(page), (10, 10), text, "#000000", 22)
        inked = np.nonzero((np.asarray(page) < 128).any(axis=0))[0]
        widths.append(int(inked.max()))
    assert widths == sorted(widths)
    assert widths[0] + 30 < widths[1] < widths[2] - 20
