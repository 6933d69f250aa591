"""Lantern Row as a project: a top-floor flat over a river town, its views, lamps and four looks."""

from __future__ import annotations

from datetime import date
from typing import Any

from westlight.engine.spec import (
    ExposureSettings,
    FinishSettings,
    GlareSettings,
    GradeSettings,
    HazeSettings,
    OcclusionSettings,
    Planting,
    Stroke,
    ViewSettings,
)

from .settings import LookState, Mix, SkyState, SunState

NAME, FILE = "Lantern Row", "lantern_row"
#: The row looks south-east, its end south-west over the river.
PLACE = {"latitude_deg": 48.2, "longitude_deg": 4.4, "time_zone": "Etc/GMT-1", "north_deg": -38.0}
#: Views and looks of the gallery.
GALLERY = [("Living room", "White noon"), ("Kitchen", "White noon"), ("Living room", "Dinner"),
           ("From the balcony", "Morning haze"), ("Street front", "Rain at night")]  # fmt: skip
GLOWS = {"Neighbours' windows": "lit pane"}
GROUPS = {
    "Coves": ("Coves along the room", "Coves across the room", "Niche strips"),
    "Shades": ("Table pendant", "Floor lamp", "Side lamp"),
    "Kitchen": ("Island lamps", "Shelf strip"),
}
_LAMPS = ("Coves along the room", "Coves across the room", "Niche strips", "Table pendant", "Floor lamp", "Side lamp",
          "Island lamps", "Shelf strip", "Mirror strip", "Paper lanterns", "Street lamps", "Neighbours' windows", "Candles")  # fmt: skip


def views() -> list[tuple[str, ViewSettings]]:
    """The living room to its corner window, kitchen, bathroom, the table with a shallow focus, the street, the view from the balcony."""
    return [
        ("Living room", ViewSettings(position=(6.0, 4.55, 11.0), target=(0.9, 0.5, 10.85), focal_length_mm=21, upright=True)),
        ("Kitchen", ViewSettings(position=(3.9, 3.0, 11.05), target=(1.75, 7.2, 10.55), focal_length_mm=24, upright=True)),
        ("Bathroom", ViewSettings(position=(7.2, 4.95, 11.0), target=(9.3, 7.1, 10.6), focal_length_mm=20, upright=True)),
        ("Table", ViewSettings(position=(2.9, 3.5, 10.75), target=(4.8, 1.9, 10.35), focal_length_mm=60,
                               depth_of_field=True, focus_m=2.4, blades=8)),
        ("Street front", ViewSettings(position=(-4.6, -11.8, 1.6), target=(5.2, 0.5, 6.0), focal_length_mm=22, upright=True)),
        ("From the balcony", ViewSettings(position=(5.5, -0.85, 11.2), target=(-40.0, -28.0, 6.5), focal_length_mm=24, upright=True)),
    ]  # fmt: skip


def plantings() -> dict[str, Planting]:
    """Three trees in the street, two plants in pots in the room."""

    def set_out(
        name: str, plant: str, size: float, *points: tuple[float, float, float]
    ) -> Planting:
        stroke = Stroke(kind="one", points=list(points))
        return Planting(name=name, plant=plant, size=size, detail="near", strokes={"0001": stroke})

    return {
        "0trees": set_out("Street trees", "light tree", 1.0, (-4.2, -3.4, 0.0), (10.6, -3.2, 0.1), (19.5, -3.2, 0.1)),
        "1pots": set_out("Plants in pots", "potted", 1.15, (0.55, 0.55, 9.6), (5.95, 0.35, 9.6)),
    }  # fmt: skip


def looks(ids: dict[str, str]) -> list[tuple[str, LookState]]:
    """White noon, morning haze, dinner, rain at night; ``ids`` names the sources."""

    def mix(**lit: float) -> dict[str, Mix]:
        """Levels of the lamps that are lit, by the first word of their name; the others are off."""
        made = {}
        for name in _LAMPS:
            key = name.split()[0].lower().replace("'", "")
            made[ids.get(name, name)] = Mix(level=lit[key]) if key in lit else Mix(muted=True)
        return made

    def finish(glow: float, **grade: Any) -> FinishSettings:
        return FinishSettings(grade=GradeSettings(**grade), glare=GlareSettings(glow=glow, blades=8),
                              occlusion=OcclusionSettings(amount=0.2))  # fmt: skip

    def exposure(kelvin: float, stops: float, shutter_s: float) -> ExposureSettings:
        return ExposureSettings(f_number=5.6, shutter_s=shutter_s, iso=200, kelvin=kelvin, automatic="whole",
                                compensation=stops)  # fmt: skip

    return [
        ("White noon", LookState(
            day=date(2026, 4, 2), minutes=16 * 60 + 20, sky=SkyState(haze=2.4), sun=SunState(),
            exposure=exposure(5700, 1.6, 1 / 60), finish=finish(0.015, contrast=1.03), mix=mix(mirror=0.0),
            note="Afternoon sun on pale boards by the corner; white walls that keep their shape.")),
        ("Morning haze", LookState(
            day=date(2026, 9, 18), minutes=8 * 60 + 5, sky=SkyState(haze=4.5), sun=SunState(),
            exposure=exposure(5600, 0.9, 1 / 30), finish=finish(0.03, contrast=0.95, shadows=0.2),
            air=[HazeSettings(visibility_m=2500, thins_over_m=40)], mix=mix(),
            note="Low sun along the street through haze; the room pale and quiet.")),
        ("Dinner", LookState(
            day=date(2026, 9, 18), minutes=19 * 60 + 12, sky=SkyState(haze=2.6), sun=SunState(),
            exposure=exposure(3900, 0.4, 1 / 4), finish=finish(0.05, warm_lights=0.1, warm_shadows=-0.15),
            mix=mix(coves=-1.2, niche=-0.5, table=0.0, floor=-0.5, side=0.0, shelf=-1.0, candles=0.0, paper=0.0, street=0.0, neighbours=0.0),
            note="Blue outside, shades of cloth inside; the table is the brightest place.")),
        ("Rain at night", LookState(
            day=date(2026, 11, 20), minutes=22 * 60, sky=SkyState(haze=6.0, town_cd_m2=0.02), sun=SunState(),
            exposure=exposure(3300, -0.2, 0.5), finish=finish(0.08, shadows=0.1, warm_shadows=-0.2),
            air=[HazeSettings(visibility_m=350, thins_over_m=60)],
            mix=mix(coves=-2.0, niche=-1.0, floor=0.0, side=0.3, island=-1.5, paper=0.5, street=0.6, neighbours=0.4),
            note="Street lamps in wet air; the flat a lantern above them.")),
    ]  # fmt: skip
