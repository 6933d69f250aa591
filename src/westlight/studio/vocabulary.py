"""What there is to choose from and to set, for the page's fields: shapes, tones, passes, kinds of files, cloths, numbers on sliders."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict
from typing import Any

from pydantic import BaseModel

from westlight.core.colour.display import TONES
from westlight.core.files.photograph import PHOTOGRAPHS
from westlight.core.finish.baked_lut import KINDS as LUTS
from westlight.core.model.cloths import CLOTHS
from westlight.core.model.plants import PLANTS
from westlight.core.model.read import SUFFIXES
from westlight.core.sources import SHAPES, UNITS
from westlight.engine.questions.landing import Landing
from westlight.engine.questions.light import Painted, Spreading
from westlight.engine.questions.light_plan import LightWanted
from westlight.engine.spec import (
    AddedOpening,
    Addition,
    Dress,
    ExposureSettings,
    FinishSettings,
    FixtureSettings,
    HazeSettings,
    Moved,
    PartGradeSettings,
    Planting,
    SkyKind,
    Stroke,
    ViewSettings,
)
from westlight.engine.spec.base import Settings, dials
from westlight.engine.spec.kinds import GLASSES, HANGINGS, READINGS, SKIES
from westlight.engine.spec.sources import GradedSky, PictureSky
from westlight.engine.still import StillOrder
from westlight.engine.still_files import PASSES

from .series import Series
from .settings import ClayState, Mix, SunState

#: Settings whose numbers are set on sliders, beside those of the finish.
NUMBERS: dict[str, type[Settings]] = {
    "sun": SunState, "sky": SkyKind, "graded": GradedSky, "hdri": PictureSky, "exposure": ExposureSettings,
    "clay": ClayState, "haze": HazeSettings, "view": ViewSettings, "dress": Dress,
    "planting": Planting, "stroke": Stroke, "addition": Addition, "moved": Moved, "landing": Landing, "spread": Spreading,
    "brush": Painted, "light_plan": LightWanted, "opening": AddedOpening, "mix": Mix, "fixture": FixtureSettings, "still": StillOrder, "series": Series,
}  # fmt: skip
#: A building may come with its files in one.
PACKED = ".zip"


def vocabulary(orders: Mapping[str, type[BaseModel]] = {}) -> dict[str, Any]:
    """The tables of the core as plain values, in the order in which they are offered; ``orders`` are further
    groups of numbers: of what is asked for and not kept."""
    return {
        "shapes": [
            {"id": name, "label": s.label, "from_file": s.from_file,
             "quantities": [asdict(q) for q in s.quantities]}
            for name, s in SHAPES.items()
        ],
        "units": [{"id": name, "label": u.label, "short": u.short} for name, u in UNITS.items()],
        "tones": [{"id": name, "label": t.label, "does": t.does} for name, t in TONES.items()],
        "passes": [{"id": name, "label": label} for name, label in PASSES.items()],
        "buildings": [*SUFFIXES, PACKED],
        "references": [*PHOTOGRAPHS, ".exr", ".hdr"],
        "luts": list(LUTS),
        "cloths": [
            {"id": name, "label": c.label, "translucency": round(c.translucency, 3), "openness": c.openness, "hangs": c.hangs}
            for name, c in CLOTHS.items()
        ],
        "hangings": [{"id": name, "label": label} for name, label in HANGINGS.items()],
        "glasses": [{"id": name, "label": label} for name, label in GLASSES.items()],
        "plants": [{"id": name, **p._asdict()} for name, p in PLANTS.items()],
        "skies": [{"id": name, **asdict(s)} for name, s in SKIES.items()],
        "readings": [{"id": name, **asdict(r)} for name, r in READINGS.items() if r.label],
        "numbers": {name: dials(of) for name, of in (NUMBERS | dict(orders)).items()},
        "finish": {
            group: dials(f.annotation)
            for group, f in FinishSettings.model_fields.items()
            if isinstance(f.annotation, type) and issubclass(f.annotation, Settings)
        } | {"parts": dials(PartGradeSettings)},
    }  # fmt: skip
