"""Papers that go with the pictures: light schedule, sun table and client sheet as PDF."""

from __future__ import annotations

import io
from collections.abc import Sequence
from datetime import date
from pathlib import Path
from typing import Any

from PIL import Image as Picture
from reportlab.lib import colors
from reportlab.lib.pagesizes import A4, landscape
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.pdfbase.pdfdoc import PDFInfo
from reportlab.platypus import (
    Flowable,
    Image,
    KeepTogether,
    Paragraph,
    SimpleDocTemplate,
    Spacer,
    Table,
    TableStyle,
)

from westlight.core.sun import sun_day, sun_position

from .daylight import moment, zone
from .fixtures import circuits
from .lettering import BOLD, PLAIN, marked_up, register, runs

_INK, _PALE, _RULE = (colors.HexColor(c) for c in ("#1c1c1c", "#6a6a68", "#c9c9c5"))
TITLE = ParagraphStyle("title", fontName=BOLD, fontSize=15, leading=19, textColor=_INK)
TEXT = ParagraphStyle("text", fontName=PLAIN, fontSize=8.5, leading=11, textColor=_INK)
SMALL = ParagraphStyle("small", parent=TEXT, fontSize=7.5, leading=9.5, textColor=_PALE)
HEAD = ParagraphStyle("head", parent=TEXT, fontName=BOLD, fontSize=8)
#: Size of the letters at the foot of a page.
_FOOT_PT = 7.5
#: Margin of a page less what the layout adds to it.
MARGIN = 15 * mm - 6
#: Width pictures are reduced to on paper.
_PICTURE_PX = 1400
#: Day of each month a sun table tells.
_DAY = 21
#: Positions told in a row of the light schedule.
_POSITIONS = 12
#: Column widths of the light schedule in mm.
_SCHEDULE = {
    "fixture": 42, "shape": 22, "count": 13, "colour (K)": 16, "flux each (lm)": 19, "flux in all (lm)": 20,
    "power each (W)": 17, "level (EV)": 16, "in this look": 16, "circuit": 16,
    "photometric file": 30, "positions (m)": 40,
}  # fmt: skip


def _line(text: str, style: ParagraphStyle) -> Paragraph:
    """Words as they were written, in whatever script."""
    return Paragraph(marked_up(text, style.fontName), style)


def document(title: str, subject: str, story: list[Flowable], wide: bool = True) -> bytes:
    """A PDF of a title and what follows, with page numbers."""
    register()
    out = io.BytesIO()
    size = landscape(A4) if wide else A4
    paper = SimpleDocTemplate(
        out, pagesize=size, leftMargin=MARGIN, rightMargin=MARGIN, topMargin=14 * mm,
        bottomMargin=14 * mm, title=title, subject=subject, creator="Westlight", initialFontName=PLAIN,
    )  # fmt: skip

    def foot(canvas: Any, doc: Any) -> None:
        info: PDFInfo = canvas._doc.info
        info.producer = "Westlight"
        canvas.setFillColor(_PALE)
        x = 15 * mm
        for font, piece in runs(subject):
            canvas.setFont(font, _FOOT_PT)
            canvas.drawString(x, 8 * mm, piece)
            x += canvas.stringWidth(piece, font, _FOOT_PT)
        canvas.setFont(PLAIN, _FOOT_PT)
        canvas.drawRightString(size[0] - 15 * mm, 8 * mm, str(doc.page))

    head: list[Flowable] = [_line(title, TITLE), _line(subject, SMALL), Spacer(1, 5 * mm)]  # fmt: skip
    paper.build(head + story, onFirstPage=foot, onLaterPages=foot)
    return out.getvalue()


def _table(rows: Sequence[Sequence[str]], widths: Sequence[float]) -> Table:
    """Rows under a heading, thin rules between them, headings again on every page."""
    head = [_line(c[:1].upper() + c[1:], HEAD) for c in rows[0]]
    cells = [head, *([_line(c, TEXT) for c in r] for r in rows[1:])]
    made = Table(cells, [w * mm for w in widths], repeatRows=1, hAlign="LEFT")
    made.setStyle(TableStyle([
        ("FONTNAME", (0, 0), (-1, -1), PLAIN),
        ("LINEBELOW", (0, 0), (-1, 0), 0.8, _INK), ("LINEBELOW", (0, 1), (-1, -1), 0.3, _RULE),
        ("VALIGN", (0, 0), (-1, -1), "TOP"), ("LEFTPADDING", (0, 0), (-1, -1), 0),
        ("RIGHTPADDING", (0, 0), (-1, -1), 6), ("TOPPADDING", (0, 0), (-1, -1), 3),
        ("BOTTOMPADDING", (0, 0), (-1, -1), 3),
    ]))  # fmt: skip
    return made


def _some(positions: str) -> str:
    """Positions as far as a row of a page has room."""
    all_ = positions.split("; ")
    rest = len(all_) - _POSITIONS
    return "; ".join(all_[:_POSITIONS]) + (f"; and {rest} more, in the CSV" if rest > 0 else "")


def schedule_pdf(
    project: str, look: str, rows: Sequence[dict[str, Any]], described: str = ""
) -> bytes:
    """The light schedule of a look, with sums of what is on, and its light in words."""
    subject = f"{project}, {look}{': ' if described else ''}{described}"
    if not rows:
        return document("Light schedule", subject, [_line("No fixtures.", TEXT)])
    told = [{**r, "positions (m)": _some(str(r["positions (m)"]))} for r in rows]
    cells = [
        list(_SCHEDULE),
        *(["" if r[c] is None else str(r[c]) for c in _SCHEDULE] for r in told),
    ]
    on = [r for r in rows if r["in this look"] == "on" and not r["fill"]]
    watts = sum(r["power each (W)"] * r["count"] for r in on)
    lumen = sum(r["flux in all (lm)"] for r in on)
    count = sum(r["count"] for r in on)
    total = f"On in this look, fills left out: {count} fixtures, {lumen:,.0f} lm, {watts:,.0f} W."
    story: list[Flowable] = [_table(cells, list(_SCHEDULE.values())), Spacer(1, 4 * mm), _line(total, TEXT)]  # fmt: skip
    story += [
        _line(f"Circuit {name}: {n} on, {watts:,.0f} W.", TEXT) for name, n, watts in circuits(rows)
    ]
    return document("Light schedule", subject, story)


def sun_rows(
    day: date, latitude_deg: float, longitude_deg: float, time_zone: str
) -> list[dict[str, str]]:
    """The sun of a year at a place: on a day of each month when it rises, stands highest and sets.

    Times are local clock times; where the sun does not rise or set it says so.
    """
    rows = []
    for month in range(1, 13):
        found = sun_day(
            moment(date(day.year, month, _DAY), 720, time_zone), latitude_deg, longitude_deg
        )
        high = sun_position(found.noon, latitude_deg, longitude_deg).apparent_elevation_deg
        row = {"date": f"{day.year}-{month:02d}-{_DAY}"}
        for word, when in (("sunrise", found.sunrise), ("sunset", found.sunset)):
            row[word] = "all day up" if high > 0 else "all day down"
            row[f"{word} azimuth (°)"] = ""
            if when is not None:
                row[word] = when.astimezone(zone(time_zone)).strftime("%H:%M")
                azimuth = sun_position(when, latitude_deg, longitude_deg).azimuth_deg
                row[f"{word} azimuth (°)"] = f"{azimuth:.0f}"
        row["highest"] = found.noon.astimezone(zone(time_zone)).strftime("%H:%M")
        row["elevation (°)"] = f"{high:.1f}"
        rows.append(row)
    return rows


def hour_rows(
    day: date, latitude_deg: float, longitude_deg: float, time_zone: str
) -> list[dict[str, str]]:
    """Azimuth and apparent elevation of the sun at every full hour of a day while it is up."""
    rows = []
    for hour in range(24):
        p = sun_position(moment(day, hour * 60, time_zone), latitude_deg, longitude_deg)
        if p.apparent_elevation_deg > 0:
            rows.append({"time": f"{hour:02d}:00", "azimuth (°)": f"{p.azimuth_deg:.1f}",
                         "elevation (°)": f"{p.apparent_elevation_deg:.1f}"})  # fmt: skip
    return rows


def clock_of(day: date, time_zone: str) -> str:
    """The clock of a zone in words; zones named after their offset are told by it.

    >>> clock_of(date(2026, 10, 11), "Etc/GMT-1"), clock_of(date(2026, 7, 1), "Europe/Oslo")
    ('UTC+1', 'clock of Europe/Oslo')
    """
    if not time_zone.startswith("Etc/"):
        return f"clock of {time_zone}"
    hours = moment(day, 720, time_zone).utcoffset()
    assert hours is not None
    return f"UTC{hours.total_seconds() / 3600:+g}"


def sun_pdf(
    project: str, day: date, latitude_deg: float, longitude_deg: float, time_zone: str
) -> bytes:
    """The sun table of a year and of one day as PDF."""
    place = f"{abs(latitude_deg):.2f}\u00b0 {'N' if latitude_deg >= 0 else 'S'}, {abs(longitude_deg):.2f}\u00b0 "
    place += f"{'E' if longitude_deg >= 0 else 'W'}, {clock_of(day, time_zone)}"
    year = sun_rows(day, latitude_deg, longitude_deg, time_zone)
    hours = hour_rows(day, latitude_deg, longitude_deg, time_zone)
    story: list[Flowable] = [_table([list(year[0]), *(list(r.values()) for r in year)], [26] * 7)]
    story += [
        Spacer(1, 6 * mm),
        _line(f"Hour by hour on {day.isoformat()}", HEAD),
        Spacer(1, 2 * mm),
    ]
    if hours:
        story.append(_table([list(hours[0]), *(list(r.values()) for r in hours)], [26] * 3))
    else:
        story.append(_line("The sun does not rise on this day.", TEXT))
    return document("Sun table", f"{project}, {place}", story, wide=False)


def client_pdf(project: str, stills: Sequence[tuple[str, str, Path]], note: str, day: str) -> bytes:
    """A sheet for the client: finished stills, large, each with its name and what it shows.

    ``stills`` are name, caption and picture file. Raises nothing for none: the sheet says so.
    """
    story: list[Flowable] = []
    if note:
        story += [_line(note, TEXT), Spacer(1, 4 * mm)]
    for name, caption, file in stills:
        with Picture.open(file) as opened:
            opened.thumbnail((_PICTURE_PX, _PICTURE_PX))
            small = io.BytesIO()
            opened.convert("RGB").save(small, "JPEG", quality=90)
            width, height = opened.size
        small.seek(0)
        k = min(180 * mm / width, 108 * mm / height)
        story.append(KeepTogether([
            Image(small, width * k, height * k, hAlign="LEFT"), Spacer(1, 1.5 * mm),
            _line(name, HEAD), _line(caption, SMALL), Spacer(1, 6 * mm),
        ]))  # fmt: skip
    if not stills:
        story.append(_line("No still is finished yet.", TEXT))
    return document(project, f"Stills, {day}", story, wide=False)
