"""A question about the light on a plane of a room: lux of lamps and daylight on a grid, or the daylight factor."""

from __future__ import annotations

from collections.abc import Callable
from typing import Literal

import numpy as np

from westlight.core.analysis.lux_plan import LUX, PER_CENT, grid_of, light_plan
from westlight.core.analysis.spread import Room, room_around
from westlight.core.colour import AP1_LUMINANCE
from westlight.core.errors import WestlightError
from westlight.core.sources import SkySource
from westlight.core.transport.render import irradiance_at

from ..spec import FixtureSettings, GlowSettings, Settings, SkySettings, SourceSpec
from ..spec.base import dial
from ..translate import gain_of, source_of
from .asked import Answer, Asked, Point

Kind = Literal["lamps", "daylight", "all", "daylight factor"]
#: Paths from each place, and bounces: what is left beyond them is a few per cent of a white room.
SAMPLES, BOUNCES = 192, 5
#: Lamps, against sun, sky and moon.
LAMPS = (FixtureSettings, GlowSettings)
COUNTED: dict[str, Callable[[SourceSpec], bool]] = {
    "lamps": lambda s: s.counts and isinstance(s.settings, LAMPS),
    "daylight": lambda s: s.counts and not isinstance(s.settings, LAMPS),
    "all": lambda s: s.counts,
}


class LightWanted(Settings):
    """Which light, how high over the floor, and a place in the room."""

    of: Kind
    at: Point
    height_m: float = dial(0.75, 0, 10, "Over the floor", 0.05, "m", shown=(0, 2))


class Isoline(Answer):
    """A line of equal light, in metres on the plan."""

    value: float
    points: list[tuple[float, float]]


class LightOnPlan(Answer):
    """See `core.analysis.lux_plan.LightPlan`; ``low`` and ``high`` are corners of the room, ``values`` go row by row from the
    south, null where no light can come."""

    unit: Literal["lx", "%"]
    low: tuple[float, float]
    high: tuple[float, float]
    columns: int
    rows: int
    values: list[float | None]
    average: float
    least: float
    most: float
    uniformity: float
    lines: list[Isoline]


def light_on_plan(a: Asked, of: LightWanted) -> LightOnPlan:
    """Light on a level plane of the room around a place, as the look has it now; raises `WestlightError` where no room is."""
    p = a.p
    if p.scene is None or p.assembled is None:
        raise WestlightError("There is no building yet.")
    try:
        room = room_around(p.scene.bare(), of.at)
    except WestlightError as error:
        raise WestlightError(
            "No room is found here: a floor and walls on four sides. Click inside one."
        ) from error
    found = _factor(a, room, of.height_m) if of.of == "daylight factor" else _lux(a, room, of)
    part = of.of == "daylight factor"
    plan = light_plan(room, found, PER_CENT if part else LUX)
    rows, columns = plan.values.shape
    return LightOnPlan(
        unit="%" if part else "lx", low=room.low, high=room.high, columns=columns, rows=rows,
        values=[None if np.isnan(v) else float(f"{v:.4g}") for v in plan.values.ravel()],
        average=plan.average, least=plan.least, most=plan.most, uniformity=plan.uniformity,
        lines=[Isoline(value=v, points=[(round(float(x), 3), round(float(y), 3)) for x, y in line])
               for v, line in plan.lines],
    )  # fmt: skip


def _places(room: Room, height: float) -> tuple[list[Point], np.ndarray]:
    columns, rows = grid_of(room)
    # On the floor itself a ray would begin in it.
    places = room.grid(columns, rows, room.floor + max(height, 0.01))
    return places, np.tile([0.0, 0.0, 1.0], (len(places), 1))


def _lux(a: Asked, room: Room, of: LightWanted) -> np.ndarray:
    p = a.p
    assert p.assembled is not None
    places, up = _places(room, of.height_m)
    light = irradiance_at(p.assembled, places, up, samples=SAMPLES, seed=1, bounces=BOUNCES)
    gains = np.array([p.gains[s.id] for s in p.spec.sources])
    wanted = [COUNTED[of.of](s) for s in p.spec.sources]
    return np.asarray(((light * gains) @ AP1_LUMINANCE)[:, wanted].sum(axis=1))


def _factor(a: Asked, room: Room, height: float) -> np.ndarray:
    """Per cent of the light on open ground under the overcast sky of the CIE (type 1) that arrives."""
    p = a.p
    assert p.scene is not None
    spec = SourceSpec(id="overcast", name="Overcast sky",
                      settings=SkySettings(model="cie", cie_type=1, elevation_deg=40.0))  # fmt: skip
    sky = source_of(spec, 0.0, p.scene.build.materials)
    assert isinstance(sky, SkySource)
    scene = p.scene.assemble(p.spec, [sky])
    places, up = _places(room, height)
    light = irradiance_at(scene, places, up, samples=SAMPLES, seed=1, bounces=BOUNCES)[:, 0]
    outside = sky.sky.horizontal_illuminance()
    return np.asarray((light * gain_of(spec, sky)) @ AP1_LUMINANCE / max(outside, 1e-9) * 100)
