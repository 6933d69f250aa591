"""Letters of papers and sheets: fonts that ship with the application, and which of them has a letter."""

from __future__ import annotations

from functools import cache
from itertools import groupby
from pathlib import Path

from PIL import ImageDraw, ImageFont
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont

FOLDER = Path(__file__).parent / "fonts"
PLAIN, BOLD, OTHERS = "Westlight", "Westlight bold", "Westlight others"
_FILES = {
    PLAIN: "LiberationSans-Regular.ttf", BOLD: "LiberationSans-Bold.ttf", OTHERS: "DroidSansFallback.ttf",
}  # fmt: skip
#: What stands for a letter that no font has.
_MISSING = "?"


@cache
def register() -> dict[str, frozenset[int]]:
    """Make the fonts known for papers; returns the letters of each, by code point."""
    letters = {}
    for name, file in _FILES.items():
        made = TTFont(name, str(FOLDER / file))
        pdfmetrics.registerFont(made)
        letters[name] = frozenset(made.face.charToGlyph)
    return letters


def runs(text: str, font: str = PLAIN) -> list[tuple[str, str]]:
    """A line in pieces of one font each: the font's name and its letters.

    >>> runs("Tor 東京")
    [('Westlight', 'Tor '), ('Westlight others', '東京')]
    """
    letters = register()

    def of(letter: str) -> str:
        return next((n for n in (font, OTHERS) if ord(letter) in letters[n]), "")

    pieces: list[tuple[str, str]] = []
    for name, group in groupby(text, of):
        found = "".join(group)
        piece = (name, found) if name else (font, _MISSING * len(found))
        if pieces and pieces[-1][0] == piece[0]:
            piece = (piece[0], pieces.pop()[1] + piece[1])
        pieces.append(piece)
    return pieces


def marked_up(text: str, font: str = PLAIN) -> str:
    """A line for a paragraph of a paper: marks that would be taken for markup kept apart, fonts told where they change."""
    out = []
    for name, piece in runs(text, font):
        plain = piece.replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;")
        out.append(plain if name == font else f'<font name="{name}">{plain}</font>')
    return "".join(out)


@cache
def _drawn_font(name: str, size: int) -> ImageFont.FreeTypeFont:
    return ImageFont.truetype(str(FOLDER / _FILES[name]), size)


def write(
    draw: ImageDraw.ImageDraw, at: tuple[float, float], text: str, colour: str, size: int
) -> None:
    """Write a line on a picture, its upper left corner at a place in pixels."""
    x, y = at
    # Fonts stand on one line, though they reach differently high.
    line = y + _drawn_font(PLAIN, size).getmetrics()[0]
    for name, piece in runs(text):
        font = _drawn_font(name, size)
        draw.text((x, line), piece, colour, font, anchor="ls")
        x += draw.textlength(piece, font)
