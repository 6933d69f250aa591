"""The light of a room on paper: its plan with cells, lines of equal light, and what sums them up."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

from reportlab.lib import colors
from reportlab.lib.units import mm
from reportlab.platypus import Flowable, Paragraph, Spacer

from . import documents
from .lettering import PLAIN, marked_up

#: What is drawn around the room, in metres, and the size on paper.
MARGIN_M, WIDE, HIGH = 0.8, 262 * mm, 128 * mm
#: Stops of light from white paper to full colour.
STOPS = 7.0
_SUN, _WALL, _LINE = (colors.HexColor(c) for c in ("#d9791a", "#3c3c3a", "#1c1c1c"))
TITLES = {"lamps": "Illuminance of the lamps", "daylight": "Illuminance of daylight",
          "all": "Illuminance of all light", "daylight factor": "Daylight factor, CIE overcast sky"}  # fmt: skip


class _Plan(Flowable):  # type: ignore[misc]
    """The room at the largest scale that fits, walls cut from the building."""

    def __init__(self, light: dict[str, Any], cut: dict[str, Any] | None) -> None:
        super().__init__()
        self.light, self.cut = light, cut
        (x0, y0), (x1, y1) = light["low"], light["high"]
        self.low = (x0 - MARGIN_M, y0 - MARGIN_M)
        size = x1 - x0 + 2 * MARGIN_M, y1 - y0 + 2 * MARGIN_M
        self.scale = min(WIDE / size[0], HIGH / size[1])
        self.width, self.height = size[0] * self.scale, size[1] * self.scale

    def _at(self, point: Sequence[float]) -> tuple[float, float]:
        return (point[0] - self.low[0]) * self.scale, (point[1] - self.low[1]) * self.scale

    def draw(self) -> None:
        """Cells, walls, lines."""
        c, light = self.canv, self.light
        clip = c.beginPath()
        clip.rect(0, 0, self.width, self.height)
        c.clipPath(clip, stroke=0)
        (x0, y0), (x1, y1) = light["low"], light["high"]
        wide, deep = (x1 - x0) / light["columns"], (y1 - y0) / light["rows"]
        top = max(light["most"], 1e-9)
        for n, value in enumerate(light["values"]):
            if value is None:
                continue
            share = min(max(1 + math.log2(max(value, 1e-9) / top) / STOPS, 0.0), 1.0)
            x, y = self._at((x0 + n % light["columns"] * wide, y0 + n // light["columns"] * deep))
            c.setFillColor(colors.linearlyInterpolatedColor(colors.white, _SUN, 0, 1, 0.8 * share))
            c.rect(x, y, wide * self.scale + 0.3, deep * self.scale + 0.3, stroke=0, fill=1)
        c.setFillColor(_WALL)
        for loop in [] if self.cut is None else self.cut["filled"]:
            c.drawPath(self._path(loop), stroke=0, fill=1)
        c.setStrokeColor(_LINE)
        c.setLineWidth(0.7)
        for line in light["lines"]:
            c.drawPath(self._path(line["points"], close=False), stroke=1, fill=0)
        c.setFont(PLAIN, 7)
        for line in light["lines"]:
            if len(line["points"]) > 5:
                x, y = self._at(line["points"][len(line["points"]) // 2])
                text = f"{line['value']:g}{' %' if light['unit'] == '%' else ''}"
                half = c.stringWidth(text, PLAIN, 7) / 2
                c.setFillColor(colors.white)
                c.rect(x - half - 1, y - 1.5, 2 * half + 2, 7.5, stroke=0, fill=1)
                c.setFillColor(_LINE)
                c.drawString(x - half, y, text)

    def _path(self, points: Sequence[Sequence[float]], close: bool = True) -> Any:
        path = self.canv.beginPath()
        for n, point in enumerate(points):
            (path.lineTo if n else path.moveTo)(*self._at(point))
        if close and points:
            path.close()
        return path


def light_plan_pdf(
    project: str, look: str, of: str, height_m: float, light: dict[str, Any],
    cut: dict[str, Any] | None, described: str,
) -> bytes:  # fmt: skip
    """A page of the light on a plane of a room (`engine.questions.light_plan.LightOnPlan`), over the plan cut of the building."""
    unit = " %" if light["unit"] == "%" else " lx"
    (x0, y0), (x1, y1) = light["low"], light["high"]

    def said(value: float) -> str:
        return f"{value:,.1f}{unit}" if unit == " %" or value < 10 else f"{value:,.0f}{unit}"

    told = (
        f"Average {said(light['average'])}, least {said(light['least'])}, most {said(light['most'])}, "
        f"uniformity (least over average) {light['uniformity']:.2f}. {height_m:.2f} m over the floor, "
        f"{x1 - x0:.2f} × {y1 - y0:.2f} m, {light['columns']} × {light['rows']} places. North of the model is up."
    )
    words = "" if of == "daylight factor" else described
    story = [
        _Plan(light, cut),
        Spacer(1, 4 * mm),
        Paragraph(marked_up(told, PLAIN), documents.TEXT),
    ]
    if words:
        story.append(Paragraph(marked_up(words, PLAIN), documents.SMALL))
    return documents.document(TITLES[of], f"{project}, {look}", story)
