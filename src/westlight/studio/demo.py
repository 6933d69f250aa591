"""Saltmarsh Pottery as a project: views, fixtures and three looks."""

from __future__ import annotations

import json
from datetime import date
from pathlib import Path
from typing import Any

from westlight.engine.spec import (
    ExposureSettings,
    FixtureSettings,
    GlowSettings,
    Place,
    ViewSettings,
)

from .settings import LookState, Mix, SkyState, SunState

NAME = "Saltmarsh Pottery"
PLACE = {"latitude_deg": 43.6, "longitude_deg": -9.1, "time_zone": "Etc/GMT-1", "north_deg": 12.0}
NIGHT_ONLY = ("Quay lanterns", "South bulkheads", "Lamp posts")


def views() -> list[tuple[str, ViewSettings]]:
    """Interior and exterior."""
    return [
        ("Wheel room", ViewSettings(position=(5.55, -2.45, 1.55), target=(-4.6, 1.3, 1.42),
                                    focal_length_mm=21, upright=True)),
        ("From the quay", ViewSettings(position=(-14.0, -9.5, 1.6), target=(-2.2, 0.0, 2.0),
                                       focal_length_mm=26, upright=True)),
    ]  # fmt: skip


def fixtures(file: Path) -> list[tuple[str, FixtureSettings | GlowSettings]]:
    """The lamps of the building, as the generator placed them, and the fire in the kiln."""
    out: list[tuple[str, FixtureSettings | GlowSettings]] = []
    for entry in json.loads(file.read_text())["fixtures"]:
        sizes = {k: entry[k] for k in ("width", "height", "radius") if k in entry}
        out.append((entry["name"], FixtureSettings(
            shape=entry["shape"], lumen=entry["lumen"], kelvin=entry["kelvin"],
            places=[Place(**p) for p in entry["places"]], **sizes)))  # fmt: skip
    out.append(("Kiln fire", GlowSettings(material="kiln fire")))
    return out


def looks(ids: dict[str, str]) -> list[tuple[str, LookState]]:
    """Late sun, blue hour and kiln night; ``ids`` names the sources."""

    def mix(levels: dict[str, float | None]) -> dict[str, Mix]:
        """Level per source; None mutes it."""
        return {
            ids.get(name, name): Mix(muted=True) if level is None else Mix(level=level)
            for name, level in levels.items()
        }

    def exposure(**values: Any) -> ExposureSettings:
        return ExposureSettings(**values)

    day = date(2026, 10, 11)
    return [
        ("Late sun", LookState(
            day=day, minutes=17 * 60 + 12, sky=SkyState(haze=2.6, ground=0.2), sun=SunState(),
            exposure=exposure(f_number=5.6, shutter_s=1 / 20, iso=200, kelvin=5900),
            mix=mix({"Bench pendants": None, "Shelf lights": -1.0,
                     **dict.fromkeys(NIGHT_ONLY)}))),
        ("Blue hour", LookState(
            day=day, minutes=19 * 60 + 22, sky=SkyState(haze=2.2), sun=SunState(),
            exposure=exposure(f_number=4.0, shutter_s=0.4, iso=200, kelvin=4400),
            mix=mix({"Bench pendants": 0.0}))),
        ("Kiln night", LookState(
            day=day, minutes=21 * 60 + 40, sky=SkyState(haze=2.0), sun=SunState(),
            exposure=exposure(f_number=4.0, shutter_s=0.8, iso=200, kelvin=3500),
            mix=mix({"Bench pendants": -1.2, "Shelf lights": -0.3, "Kiln fire": 0.6,
                     "Quay lanterns": 0.5, "Lamp posts": 1.3}))),
    ]  # fmt: skip
