"""A series of stills: one view and look over hours, or over dimmed lamps; numbered files and a moving preview."""

from __future__ import annotations

import io
from collections.abc import Sequence
from pathlib import Path
from typing import Annotated, Any, Literal

from PIL import Image
from pydantic import Field

from westlight.engine.spec import MOST_STOPS, Settings
from westlight.engine.spec.base import dial

from .daylight import clock
from .errors import BadEdit
from .settings import LookState

#: Pictures of a series, at most; words of a template that number its files, and figures of a number.
MOST, NUMBER, FIGURES = 240, "{number}", 3
#: Width of the moving preview, how long it runs in ms, and how long one picture of it is seen.
PREVIEW_PX, RUNS_MS, SHORTEST_MS, LONGEST_MS = 960, 6000, 40, 400


class Series(Settings):
    """What is varied: clock minutes of the day of a look, or stops that all lamps are dimmed by."""

    over: Literal["hours", "dimming"]
    first: Annotated[float, Field(ge=-1440, le=1440)]
    last: Annotated[float, Field(ge=-1440, le=1440)]
    count: int = dial(12, 2, MOST, "Pictures", 1, logarithmic=True, whole=True)


def varied(
    series: Series, look: LookState, lamps: Sequence[str]
) -> list[tuple[str, dict[str, Any]]]:
    """What each picture is called, and what it holds over the look; raises `BadEdit` for a series that cannot be."""
    if series.first == series.last:
        raise BadEdit("A series needs two different ends.")
    values = [
        series.first + (series.last - series.first) * n / (series.count - 1) for n in range(series.count)
    ]  # fmt: skip
    if series.over == "hours":
        if min(series.first, series.last) < 0:
            raise BadEdit("The hours of a series lie between 0:00 and 24:00.")
        return [(clock(v), {"minutes": round(v, 2), "sun": {"mode": "time"}}) for v in values]
    if not lamps:
        raise BadEdit("There are no lamps to dim; add one on the Fixtures stage.")
    return [(f"{v:+.2f} EV".replace("-", "−"), {"mix": _dimmed(look, lamps, v)}) for v in values]


def template(names: str) -> str:
    """A template of file names that numbers them."""
    return names if NUMBER in names else f"{names}-{NUMBER}"


def moving(pictures: Sequence[Path]) -> bytes:
    """The pictures of a series in their order as one animated WebP; raises `BadEdit` for none."""
    if not pictures:
        raise BadEdit("No picture of this series is finished yet.")
    frames = []
    for file in pictures:
        with Image.open(file) as opened:
            frame = opened.convert("RGB")
        frame.thumbnail((PREVIEW_PX, 4 * PREVIEW_PX), Image.Resampling.LANCZOS)
        frames.append(frame)
    each = min(max(RUNS_MS // len(frames), SHORTEST_MS), LONGEST_MS)
    out = io.BytesIO()
    frames[0].save(out, "WEBP", save_all=True, append_images=frames[1:], duration=each, loop=0,
                   quality=82, method=3)  # fmt: skip
    return out.getvalue()


def _dimmed(look: LookState, lamps: Sequence[str], stops: float) -> dict[str, dict[str, float]]:
    levels = {i: look.mix[i].level if i in look.mix else 0.0 for i in lamps}
    return {
        i: {"level": min(max(v + stops, -MOST_STOPS), MOST_STOPS)} for i, v in levels.items()
    }  # fmt: skip
