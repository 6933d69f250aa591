"""Lights in and out: a look's lamps, sun and cameras as open files, and lamps of a model as sources."""

from __future__ import annotations

import io
import json
import math
import re
import tempfile
import zipfile
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np

from westlight import core
from westlight.core.colour import AP1_TO_SRGB, srgb_encode
from westlight.core.luminaires.lm63 import write_lm63
from westlight.core.model import ModelCamera, ModelLight, write_lights
from westlight.core.model.usd import write_usd
from westlight.core.sources import SHAPES, Emitter, axes_towards
from westlight.core.view import FILM_WIDTH_MM
from westlight.engine.spec import (
    FixtureSettings,
    MoonSettings,
    PictureSpec,
    SourceSpec,
    SunSettings,
    ViewSettings,
)
from westlight.engine.translate import emitters_of, source_of, view_of


def camera_of(name: str, view: ViewSettings, shifted: bool) -> ModelCamera:
    """A view as an open camera; where lens shift has no place it looks at the middle of the picture."""
    height = FILM_WIDTH_MM / view.aspect
    fov = 2 * math.degrees(math.atan(height / 2 / view.focal_length_mm))
    right, down, forward, shift = view_of(view, 160, round(160 / view.aspect)).axes()
    if not shifted:
        forward, shift = forward + right * shift[0] + down * shift[1], np.zeros(2)
    far = float(np.linalg.norm(np.subtract(view.target, view.position)))
    x, y, z = (float(v) for v in view.position + far * forward / np.linalg.norm(forward))
    return ModelCamera(name, view.position, (x, y, z), fov, view.aspect,
                       (float(shift[0]), float(-shift[1])))  # fmt: skip


def view_through(camera: dict[str, Any]) -> ViewSettings:
    """A view through a camera of a file, which tells its angle across the height."""
    aspect = min(max(camera.get("aspect") or ViewSettings().aspect, 0.2), 5.0)
    half = math.tan(math.radians(camera["vertical_fov_deg"]) / 2)
    focal = min(max(FILM_WIDTH_MM / aspect / 2 / half if half > 0 else 28.0, 8.0), 400.0)
    wide = FILM_WIDTH_MM / focal
    across, up = (min(max(s / wide, -1.0), 1.0) for s in camera.get("shift", (0.0, 0.0)))
    return ViewSettings(position=camera["position"], target=camera["target"], upright=False,
                        aspect=aspect, focal_length_mm=focal, shift=(across, up))  # fmt: skip


def _roll(direction: Sequence[float], along: Sequence[float]) -> float:
    """Roll in degrees that brings the width of a fixture to lie along a way."""
    right, up, _ = axes_towards(tuple(direction), 0.0, "fixture")
    way = np.asarray(along, float)
    return round(math.degrees(math.atan2(float(way @ up), float(way @ right))), 3)


def _rgb(gain: np.ndarray) -> tuple[float, float, float]:
    """Linear sRGB of a light, its brightest channel 1."""
    rgb = np.clip(AP1_TO_SRGB @ np.asarray(gain, float), 0, None)
    r, g, b = (round(float(v), 5) for v in rgb / max(float(rgb.max()), 1e-12))
    return r, g, b


def lights_of(spec: PictureSpec) -> list[ModelLight]:
    """Sun and lamps of a picture as punctual lights at their levels; sky and materials have no place.

    A face becomes a spot of 180° or a point with the intensity straight ahead.
    """
    north = 0.0 if spec.model is None else spec.model.north_deg
    out: list[ModelLight] = []
    for s in spec.sources:
        if not s.counts:
            continue
        level = 2.0**s.level
        if isinstance(s.settings, SunSettings | MoonSettings):
            sun = source_of(s, north, [])
            assert isinstance(sun, core.sources.Sun)
            lux = float(core.colour.luminance(sun.gain)) * level
            if lux > 0:
                x, y, z = (-float(v) for v in sun.direction)
                out.append(
                    ModelLight(s.name, "directional", (0, 0, 0), (x, y, z), lux, _rgb(sun.gain))
                )
        elif isinstance(s.settings, FixtureSettings):
            out += _lamps(s, s.settings, level)
    return out


def _lamps(spec: SourceSpec, f: FixtureSettings, level: float) -> list[ModelLight]:
    made: list[ModelLight] = []
    emitters: list[Emitter] = emitters_of(f, spec.name)
    for n, (emitter, place) in enumerate(zip(emitters, f.places, strict=True)):
        candela = emitter.per_lumen().candela * f.lumen * level
        name = spec.name if len(emitters) == 1 else f"{spec.name} {n + 1}"
        inner, outer = (f.beam_deg, f.field_deg) if f.shape == "spot" else (0.0, 179.0)
        made.append(ModelLight(
            name, "point" if SHAPES[f.shape].even else "spot", place.position, place.direction, candela,
            _rgb(emitter.chromatic()), inner, outer,
        ))  # fmt: skip
    return made


def package(
    spec: PictureSpec, views: Sequence[tuple[str, ViewSettings]], schedule: str, place: str,
    offset: Sequence[float] = (0.0, 0.0, 0.0),
) -> bytes:  # fmt: skip
    """A zip of a look's lights: glTF with lights and cameras, a photometric file for each kind of
    fixture, the schedule, and the recipe of the picture. ``offset`` in metres is where a building lay that was moved to the
    origin: lights and cameras go back there."""

    def there(point: Sequence[float]) -> tuple[float, float, float]:
        x, y, z = (float(a) + b for a, b in zip(point, offset, strict=True))
        return x, y, z

    lights = [light if light.kind == "directional" else replace(light, position=there(light.position))
              for light in lights_of(spec)]  # fmt: skip

    def cameras(shifted: bool) -> list[ModelCamera]:
        made = [camera_of(n, v, shifted) for n, v in views]
        return [replace(c, position=there(c.position), target=there(c.target)) for c in made]

    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as folder:
        with tempfile.TemporaryDirectory() as scratch:
            file = Path(scratch) / "lights.gltf"
            write_lights(file, lights, cameras(shifted=False))
            folder.write(file, "lights.gltf")
            stage = Path(scratch) / "lights.usda"
            write_usd(stage, lights, cameras(shifted=True))
            folder.write(stage, "lights.usda")
        for s in spec.sources:
            if isinstance(s.settings, FixtureSettings):
                name = re.sub(r"[^\w -]+", "_", s.name).strip() or "fixture"
                folder.writestr(f"photometry/{name}.ies", photometric_file(s.settings, s.name))
        folder.writestr("light-schedule.csv", schedule)
        recipe = json.loads(spec.model_dump_json())
        folder.writestr("recipe.json", json.dumps(recipe, indent=1))
        folder.writestr("read-me.txt", _READ_ME.format(place=place))
    return out.getvalue()


_READ_ME = """{place}

lights.gltf            sun, lamps and cameras; glTF 2.0 with KHR_lights_punctual, metres, y up
lights.usda            the same as OpenUSD, metres, z up
photometry/            one IES file (LM-63) for each kind of fixture, at its set amount
light-schedule.csv     counts, kelvin, lumen, watts, positions
recipe.json            everything the picture is computed from
"""


def photometric_file(f: FixtureSettings, name: str) -> str:
    """An LM-63 file of one copy of a fixture at its set amount."""
    emitter = emitters_of(f.model_copy(update={"places": f.places[:1]}), name)[0]
    d = emitter.profile
    vertical = np.linspace(0, 180, 73)
    if d is None:
        # An even face shines by the cosine of Lambert, a ball the same to all sides.
        shape = (
            np.ones(73) if SHAPES[f.shape].even else np.maximum(np.cos(np.radians(vertical)), 0.0)
        )
        d = core.luminaires.IntensityDistribution(vertical, np.zeros(1), shape[None, :])
    lit = d.scaled(f.lumen / max(d.flux_lm, 1e-12))
    return write_lm63(core.luminaires.IntensityDistribution(
        lit.vertical_deg, lit.horizontal_deg, lit.table_cd, name, f.lumen, f.lumen / f.efficacy,
    ))  # fmt: skip


def views_of(cameras: Sequence[dict[str, Any]]) -> list[tuple[str, dict[str, Any]]]:
    """Names and settings of views for cameras a file brings along."""
    return [(c["name"], view_through(c).model_dump(mode="json")) for c in cameras]


def sources_of_lights(lights: Sequence[dict[str, Any]]) -> list[tuple[str, dict[str, Any]]]:
    """Names and settings of fixtures for the point and spot lights a model brings along."""
    out = []
    for light in lights:
        if light["kind"] in ("directional", "dome") or not light["intensity"] > 0:
            continue
        spot = light["kind"] == "spot"
        rgb = np.asarray(light["rgb"], float)
        r, g, b = (int(round(255 * float(v))) for v in np.clip(srgb_encode(rgb), 0, 1))
        settings: dict[str, Any] = {
            "kind": "fixture", "shape": "spot" if spot else "sphere", "radius": 0.03, "visible": False,
            "kelvin": 6500.0, "colour": None if (r, g, b) == (255, 255, 255) else f"#{r:02x}{g:02x}{b:02x}",
            "places": [{"position": light["position"], "direction": light["direction"]}],
        }  # fmt: skip
        shape, sizes = light.get("shape") or "", light.get("sizes") or ()
        if shape:
            # A face that is known is taken as it is.
            held = dict(zip(SHAPES[shape].sizes, sizes, strict=True))
            settings |= {"shape": shape, **{n: min(max(v, 0.001), 100.0) for n, v in held.items()}}
            settings["places"][0]["roll_deg"] = _roll(light["direction"], light["along"])
        elif spot:
            field = min(max(light["outer_deg"], 4.0), 178.0)
            settings |= {
                "field_deg": field,
                "beam_deg": min(max(light["inner_deg"], 3.0), field / 1.05, 169),
            }
        one = emitters_of(FixtureSettings.model_validate({**settings, "lumen": 1.0}), "one")[0]
        candela = max(one.per_lumen().candela, 1e-9)
        settings["lumen"] = float(np.clip(light["intensity"] / candela, 0.01, 9e6))
        out.append((light["name"], settings))
    return out
