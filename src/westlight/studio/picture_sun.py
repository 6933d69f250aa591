"""The sun that stands in a sky picture: swapped for the sun of the look, or brought into line with it."""

from __future__ import annotations

from typing import Any, Literal

import numpy as np

from westlight.core.colour import nearest_kelvin
from westlight.core.sky import Hdri
from westlight.core.sky.hdri import Lobe

from .errors import BadEdit
from .settings import LookState, Mix

Act = Literal["swap", "turn picture", "move sun"]
State = dict[str, Any]


def patch_of(act: Act, look: LookState, whole: Hdri, sun: tuple[float, float]) -> tuple[State, str]:
    """Settings that do it, and what the step is called; raises `BadEdit` without a sun in the picture.

    ``sun`` is azimuth and elevation of the look's own.
    """
    lobe = whole.brightest()
    if lobe is None:
        raise BadEdit("No sun stands in this picture; choose one with a bright sun in it.")
    if act == "turn picture":
        turn = _turn_towards(lobe, look, sun[0])
        return {"sky": {"hdri": {"rotation_deg": turn}}}, "Turn the picture to the sun"
    if act == "move sun":
        return {"sun": _free_at(lobe, look)}, "Move the sun to the picture’s"
    return _swapped(look, whole, lobe)


def _free_at(lobe: Lobe, look: LookState) -> State:
    p = look.sky.hdri
    azimuth, elevation = lobe.placed(p.rotation_deg, p.tilt_deg, p.mirror)
    return {"mode": "free", "azimuth_deg": azimuth, "elevation_deg": elevation}


def _swapped(look: LookState, whole: Hdri, lobe: Lobe) -> tuple[State, str]:
    """Its light taken from the picture and given to the sun of the look, or back again.

    A calibrated picture keeps its scale: what is left of it is calibrated to what is left of the lux.
    """
    p = look.sky.hdri
    rest = whole.without(lobe).horizontal_illuminance()
    all_lux = whole.horizontal_illuminance()
    mix = look.mix.get("sun", Mix())
    if p.without_sun:
        lux = None if p.lux is None else p.lux * all_lux / max(rest, 1e-9)
        hdri = {"without_sun": False, "lux": lux}
        back = {"lux": None, "kelvin": None}
        muted = mix.model_copy(update={"muted": True}).model_dump()
        return {"sky": {"hdri": hdri}, "sun": back, "mix": {"sun": muted}}, (
            "Sun back into the picture"
        )
    scale = 1.0 if p.lux is None else p.lux / max(all_lux, 1e-9)
    hdri = {"without_sun": True, "lux": None if p.lux is None else rest * scale}
    rgb = np.asarray(lobe.irradiance_rgb, float)
    # Four digits that mean something, however dim the picture is.
    lux = float(f"{lobe.normal_illuminance_lx * scale:.4g}")
    taken = {"lux": lux, "size": 1.0,
             "kelvin": float(np.clip(round(nearest_kelvin(rgb), -1), 1000, 25000))}  # fmt: skip
    # The light comes over as it is: no stops of an earlier sun on top of it.
    sun = Mix(level=0.0, muted=False, solo=mix.solo).model_dump()
    return {"sky": {"hdri": hdri}, "sun": _free_at(lobe, look) | taken, "mix": {"sun": sun}}, (
        "Swap the sun"
    )


def _turn_towards(lobe: Lobe, look: LookState, azimuth_deg: float) -> float:
    """Rotation of the picture that brings its sun to an azimuth, −180…180, however it is tilted."""
    p = look.sky.hdri

    def off(turn: float) -> float:
        found = lobe.placed(turn, p.tilt_deg, p.mirror)[0]
        return abs((found - azimuth_deg + 180) % 360 - 180)

    best = min(np.arange(-180.0, 180.0, 1.0), key=off)
    best = min(np.arange(best - 1, best + 1, 0.01), key=off)
    return round((float(best) + 180) % 360 - 180, 2)
