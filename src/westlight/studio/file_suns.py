"""Suns and domes of a file of lights, or of a building, as looks."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

import numpy as np

from westlight.core.colour import SRGB_TO_AP1, nearest_kelvin, srgb_encode
from westlight.core.sun import azimuth_elevation

from .recipe import SKY_ID, SUN_ID
from .settings import LookState, Mix

#: Looks a file can make; lux of a sun and cd/m² of a dome below which their strength is taken to have no unit.
MOST_LOOKS, SUNLESS_LX, SKYLESS_CD_M2 = 4, 500.0, 10.0


def looks_of(
    lights: Sequence[dict[str, Any]], base: LookState, north_deg: float
) -> tuple[list[tuple[str, dict[str, Any]]], list[str]]:
    """Names and settings of looks: one for each directional light with the file's dome, or one for the dome alone.

    ``base`` gives what the file does not tell. Also returns what could not be taken over.
    """
    remarks: list[str] = []
    dome = next((x for x in lights if x["kind"] == "dome" and x["intensity"] > 0), None)
    suns = sorted((x for x in lights if x["kind"] == "directional" and x["intensity"] > 0),
                  key=lambda x: -float(x["intensity"]))  # fmt: skip
    if len(suns) > MOST_LOOKS:
        remarks.append(f"{len(suns) - MOST_LOOKS} weaker suns of the file were left out.")
    sky: dict[str, Any] = {}
    if dome is not None and dome["picture"]:
        remarks.append(f"The sky “{dome['name']}” of the file is the picture “{dome['picture']}”: add it under Sky › "
                       "Sky picture and choose it.")  # fmt: skip
    elif dome is not None:
        sky = _even_sky(dome)
        if "lux" not in sky["graded"]:
            remarks.append(_weak(dome, "sky") + "it has that of a sky by hand.")
    out = []
    for light in suns[:MOST_LOOKS]:
        settings = _look(base, _sun(light, north_deg), sky, lit=True)
        if settings["sun"]["lux"] is None:
            remarks.append(_weak(light, "sun") + "it has that of its height in a clear sky.")
        out.append((light["name"], settings))
    if sky and not out and dome is not None:
        out.append((dome["name"], _look(base, {}, sky, lit=False)))
    return out, remarks


def _weak(light: dict[str, Any], kind: str) -> str:
    strength = float(light["intensity"])
    return f"“{light['name']}” tells a strength of {strength:.3g}, which is no {kind}’s: "


def _look(
    base: LookState, sun: dict[str, Any], sky: dict[str, Any], lit: bool
) -> dict[str, Any]:  # fmt: skip
    made = base.model_dump(mode="json")
    made["sun"] |= sun
    made["sky"] |= sky
    made["mix"][SUN_ID] = Mix(muted=not lit).model_dump()
    if sky:
        made["mix"][SKY_ID] = Mix().model_dump()
    return LookState.model_validate(made | {"note": "", "locked": False}).model_dump(mode="json")


def _sun(light: dict[str, Any], north_deg: float) -> dict[str, Any]:
    """Where it stands and what it gives; white ones keep the colour of the air."""
    azimuth, elevation = azimuth_elevation(-np.asarray(light["direction"], float))
    rgb = np.asarray(light["rgb"], float)
    even = float(rgb.min()) > 0.995 * float(rgb.max())
    kelvin = None if even else round(nearest_kelvin(SRGB_TO_AP1 @ rgb), -1)
    lux = float(f"{float(light['intensity']):.4g}")
    return {
        "mode": "free",
        "azimuth_deg": round((azimuth + north_deg) % 360, 2),
        "elevation_deg": round(elevation, 2),
        "lux": min(lux, 1e6) if lux >= SUNLESS_LX else None,
        "kelvin": kelvin if kelvin is None else float(np.clip(kelvin, 1000, 25_000)),
    }


def _even_sky(light: dict[str, Any]) -> dict[str, Any]:
    """A sky of one luminance L: π·L lux on open ground; those of `SkyState` for a luminance without a unit."""
    hexed = "#" + "".join(f"{int(round(255 * float(v))):02x}"
                          for v in np.clip(srgb_encode(np.asarray(light["rgb"], float)), 0, 1))  # fmt: skip
    nits = float(light["intensity"])
    lux = {"lux": min(math.pi * nits, 200_000.0)} if nits >= SKYLESS_CD_M2 else {}
    return {"model": "graded", "graded": {**lux, "zenith_colour": hexed, "horizon_colour": hexed,
                                          "horizon_brightness": 1.0}}  # fmt: skip
